"""
One side of a run of pings, evened out: what each sample has over the ground about it, and how surely that is much.

Levels are divided by the usual level at the same distance behind the first return, range by range along the way, and
then by that of the patch they lie in; both are medians, so that what stands or swims there does not raise them. What
is left is speckle of mean one. How heavy its tail is, and how much of it clumps, is learned from the recording
itself: a bottom of stones and ripples throws far brighter specks than mud.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core import geodesy as geo
from plumbbob.core.sonar.blocks import read_block
from plumbbob.core.sonar.recording import SIDES, Side, TransducerTrack
from plumbbob.core.sonar.shadow_height import place_spread
from plumbbob.core.sonar.side_bed import SideBed, pulse_m
from plumbbob.core.stats import running_mean
from plumbbob.core.types import Floats, Levels

_OVERLAP_PINGS = 64
_MEDIAN_OF_POWER = math.log(2.0)  # of speckle of mean one
_ALONG_PINGS, _ALONG_BLOCKS = 12, 5  # the usual level of a range: medians of so many pings, over so many of them
_PATCH_PINGS, _PATCH_M, _PATCH_TILES = 6, 0.45, 5
_LEAST_DB = 3.0  # over the floor of the scale: quiet water reads as the floor
_QUIET_DB = 9.0
_FIRST_RETURN_M, _TREMBLE_M = 0.7, 0.3  # about the first return the louder of near ranges is the usual level
_GLINT_M = (0.1, 0.5)  # a fish shines along so much of its side, beyond the fan's own width
_MOST_PINGS = 14
_LEARN_PINGS, _LEARN_STRETCHES, _BANDS, _TILE = 160, 7, 10, 16


@dataclass(frozen=True, slots=True, eq=False)
class SideScene:
    """A view to the sides with where its transducer was, shape (pings,) each."""

    side: Side
    bed: SideBed
    places: TransducerTrack
    way_m: Floats

    @property
    def altitude_m(self) -> Floats:
        """Of the transducer over the bottom straight below, shape (pings,)."""
        return self.bed.altitude_m

    def spread_m(self, ping: int, across_sd_m: float, ground_m: float) -> float:
        """Of a place on the chart: fix, distance, and heading, which counts for more while the boat turns."""
        a, b = max(ping - 4, 0), min(ping + 5, len(self.side))
        heading = np.unwrap(self.places.heading_deg[a:b], period=360.0)
        took = float(self.side.time[b - 1] - self.side.time[a])
        turn = abs(float(heading[-1] - heading[0])) / took if took > 0 and np.isfinite(heading).all() else 0.0
        return place_spread(ground_m, across_sd_m, turn)

    def place(self, ping: int, which: str, ground_m: float) -> tuple[float, float]:
        """Latitude and longitude of something abeam of the transducer."""
        across = ground_m if which == "starboard" else -ground_m
        east, north = geo.along_heading(self.places.heading_deg[ping], 0.0, across)
        latitude, longitude = geo.offset(self.places.latitude[ping], self.places.longitude[ping], east, north)
        return float(latitude), float(longitude)

    @property
    def per_ping_m(self) -> float:
        """Way between two pings at the usual speed."""
        speed = self.places.speed_mps
        usual = float(np.nanmedian(speed)) if np.isfinite(speed).any() else 1.4
        return max(usual * self.side.typical_interval_s, 0.02)

    def way_between(self, first: int, last: int) -> float:
        """Metres from one ping to another."""
        return float(self.way_m[last] - self.way_m[first])


@dataclass(frozen=True, slots=True, eq=False)
class Clutter:
    """What the ground of a recording does by itself, by sample of range; shape (samples,) each."""

    evidence: Floats  # (3, samples): of the logarithm of evidence the median, and what 5 and 1 in 100 exceed
    steady: Floats  # (2, samples): likewise of steady brightness, the median and what 5 in 100 exceed
    grain: float  # spread of speckle from sample to sample over its mean, squared: 1 where it is even

    def at(self, samples: int) -> Clutter:
        """The same on a grid of another length: its ends go on."""
        index = np.minimum(np.arange(samples), self.evidence.shape[1] - 1)
        return Clutter(self.evidence[:, index], self.steady[:, index], self.grain)


@dataclass(frozen=True, slots=True, eq=False)
class SideLook:
    """One side of a run of pings. `ours` are the pings that count; the rest is overlap. Arrays (pings, samples)."""

    which: str
    first: int
    ours: slice
    level: Levels  # as stored
    power: Levels  # as received, over the scale's floor
    times: Levels  # over the usual power of the range, along the way
    over: Levels  # over the usual power of the patch
    spot: Levels  # the same, averaged as a fish would be
    evidence: Levels  # that a spot is more than ground: logarithm of the ratio of likelihoods
    steady: Levels  # mean logarithm of the brightest of each ping, over the pings that a fish is seen in
    fish_pings: Floats  # (samples,) in which a fish is seen at a range
    kernel: int  # samples of a pulse
    range_m: Floats
    bed: NDArray[np.intp]  # (pings,) sample of the first return
    bed_m: Floats

    @property
    def step_m(self) -> float:
        """Between two samples."""
        return float(self.range_m[1] - self.range_m[0])


def look_at(
    scene: SideScene, which: str, start: int, pings: int, *, overlap: int = _OVERLAP_PINGS
) -> SideLook | None:
    """One side of some pings and what surrounds them; None where there is too little to judge by."""
    side = scene.side
    first, last = max(start - overlap, 0), min(start + pings + overlap, len(side))
    block = read_block(side, first, last, side.echo_of(which))
    n, samples = block.raw.shape
    if n < 8 or samples < 32:
        return None
    known = np.isfinite(scene.altitude_m[first:last])
    height = scene.altitude_m[first:last]
    bed_m = np.interp(np.arange(n), np.flatnonzero(known), height[known]) if known.any() else np.zeros(n)
    bed_m = ndimage.median_filter(bed_m, 9)
    bed = np.clip(np.rint((bed_m - block.range_m[0]) / block.step_m).astype(np.intp), 0, samples - 1)
    raw = block.raw.astype(np.float32)
    shift = bed - int(np.median(bed))
    level = _shifted(np.maximum(raw * np.float32(side.scale_db), np.float32(_LEAST_DB)), shift)
    usual = _along(level)
    edge, near = int(np.median(bed)), max(int(_FIRST_RETURN_M / block.step_m), 2)
    there = slice(max(edge - near, 0), min(edge + near, samples))
    usual[:, there] = ndimage.maximum_filter1d(usual, 2 * max(int(_TREMBLE_M / block.step_m), 1) + 1, axis=1)[
        :, there
    ]
    patch = _patches(level - usual, max(int(_PATCH_M / block.step_m), 4))
    to_power = np.float32(math.log(10) / 10)
    half = np.float32(_MEDIAN_OF_POWER)
    over = np.exp((level - np.maximum(usual + patch, np.float32(_QUIET_DB))) * to_power) * half
    times = np.exp((level - np.maximum(usual, np.float32(_QUIET_DB))) * to_power) * half
    return _with_spots(
        scene,
        which=which,
        first=first,
        ours=slice(start - first, min(start + pings, len(side)) - first),
        level=raw,
        power=_shifted(np.exp(level * to_power), -shift),
        times=_shifted(times, -shift),
        over=_shifted(over, -shift),
        range_m=block.range_m,
        bed=bed,
        bed_m=bed_m,
    )


def _with_spots(
    scene: SideScene,
    *,
    which: str,
    first: int,
    ours: slice,
    level: Levels,
    power: Levels,
    times: Levels,
    over: Levels,
    range_m: Floats,
    bed: NDArray[np.intp],
    bed_m: Floats,
) -> SideLook:
    """
    Average over as many pings and samples as a fish shows in, and weigh how much that is.

    Notes
    -----
    The evidence of n independent looks with mean S against speckle of mean one is n (S - 1 - ln S), the logarithm of
    the ratio of likelihoods. A fish is seen as long as the fan is wide there, and as long as its side shines.
    """
    step = float(range_m[1] - range_m[0])
    pulse = pulse_m(scene.side)
    kernel = max(round(pulse / step) + 1, 2)
    looks = max(kernel * step / max(pulse, 1.5 * step), 1.0)
    per_ping = scene.per_ping_m
    fan = range_m * math.radians(scene.side.beam_width_along_deg) / per_ping
    short = np.clip(np.rint(0.9 * fan + _GLINT_M[0] / per_ping), 2, 12).astype(int)
    long = np.clip(np.rint(fan + _GLINT_M[1] / per_ping), 3, _MOST_PINGS).astype(int)
    across = running_mean(over, kernel, 1)
    evidence, spot = np.zeros_like(across), np.ones_like(across)
    for widths in (short, long):
        for width, part in _runs(widths):
            mean = running_mean(np.ascontiguousarray(across[:, part]), width, 0)
            found = np.where(mean > 1, width * looks * (mean - 1 - np.log(np.maximum(mean, 1e-3))), 0)
            better = found > evidence[:, part]
            evidence[:, part] = np.where(better, found, evidence[:, part])
            spot[:, part] = np.where(better, mean, spot[:, part])
    top = ndimage.maximum_filter1d(np.log(np.maximum(over, np.float32(0.02))), kernel, axis=1)
    steady = np.zeros_like(across)
    for width, part in _runs(short):
        steady[:, part] = running_mean(np.ascontiguousarray(top[:, part]), max(width, 3), 0)
    return SideLook(
        which=which,
        first=first,
        ours=ours,
        level=level,
        power=power,
        times=times,
        over=over,
        spot=spot,
        evidence=evidence,
        steady=steady,
        fish_pings=np.clip(0.9 * fan + 0.35 / per_ping, 1.5, _MOST_PINGS),
        kernel=kernel,
        range_m=range_m,
        bed=bed,
        bed_m=bed_m,
    )


def _runs(widths: NDArray[np.intp]) -> list[tuple[int, slice]]:
    """Stretches of samples with one width: it only ever grows with the range."""
    ends = np.flatnonzero(np.diff(widths)) + 1
    edges = [0, *ends.tolist(), widths.size]
    return [(int(widths[a]), slice(a, b)) for a, b in pairwise(edges)]


def _medians(values: Levels, size: int, axis: int) -> tuple[Levels, Floats]:
    """Medians of runs of so many along an axis, the last one as long as what is left, and where their middles are."""
    n = values.shape[axis]
    runs = max(n // size, 1)
    size = min(size, n)
    even = values[: runs * size] if axis == 0 else values[:, : runs * size]
    shape = (runs, size, -1) if axis == 0 else (values.shape[0], runs, size)
    low, high = (size - 1) // 2, size // 2
    parted = np.partition(even.reshape(shape), (low, high), axis=axis + 1)
    middle = (parted.take(low, axis=axis + 1) + parted.take(high, axis=axis + 1)) / 2
    return middle, (np.arange(runs) + 0.5) * size - 0.5


def _between(small: Levels, middles: Floats, n: int) -> Levels:
    """Rows at `middles` as n rows, straight between them; the ends repeat."""
    x = np.arange(n)
    low = np.clip(np.searchsorted(middles, x) - 1, 0, max(middles.size - 2, 0))
    high = np.minimum(low + 1, middles.size - 1)
    gap = np.maximum(middles[high] - middles[low], 1e-9)
    share = np.clip((x - middles[low]) / gap, 0.0, 1.0).astype(np.float32)[:, None]
    return np.asarray(small[low] * (1 - share) + small[high] * share, np.float32)


def _along(level: Levels) -> Levels:
    """The usual level of each range, along the way."""
    small, middles = _medians(level, _ALONG_PINGS, 0)
    small = ndimage.median_filter(small, (_ALONG_BLOCKS, 1), mode="nearest")
    return _between(ndimage.uniform_filter1d(small, 3, axis=1).astype(np.float32), middles, level.shape[0])


def _patches(residual: Levels, columns: int) -> Levels:
    """How much louder than its range the patch of each sample is."""
    rows, at_rows = _medians(residual, _PATCH_PINGS, 0)
    tiles, at_columns = _medians(rows, columns, 1)
    tiles = ndimage.median_filter(tiles, (_PATCH_TILES, _PATCH_TILES), mode="nearest").astype(np.float32)
    wide = _between(tiles, at_rows, residual.shape[0])
    return np.ascontiguousarray(_between(np.ascontiguousarray(wide.T), at_columns, residual.shape[1]).T)


def _shifted(values: Levels, by: NDArray[np.intp]) -> Levels:
    """Rows moved along the range; the ends repeat."""
    if not by.any():
        return values
    index = np.clip(np.arange(values.shape[1])[None, :] + by[:, None], 0, values.shape[1] - 1)
    return np.take_along_axis(values, index, axis=1)


def stretches(pings: int, long: int, most: int) -> list[int]:
    """
    Where stretches of so many pings begin that are spread over a recording; a short one is not looked at twice.

    Examples
    --------
    >>> stretches(1000, 100, 4), stretches(250, 100, 4), stretches(50, 100, 4)
    ([0, 300, 600, 900], [0, 75, 150], [0])
    """
    return np.linspace(0, max(pings - long, 0), min(most, -(-pings // long))).astype(int).tolist()


def learn_clutter(scene: SideScene) -> Clutter:
    """What the ground does by itself, from stretches all along the recording and both sides."""
    side = scene.side
    evidence, steady, grains = [], [], []
    for start in stretches(len(side), _LEARN_PINGS, _LEARN_STRETCHES):
        for which in SIDES:
            look = look_at(scene, which, start, _LEARN_PINGS, overlap=0)
            if look is None:
                continue
            rows = slice(24, -24, 5) if look.over.shape[0] > 60 else slice(None)
            behind = np.arange(look.range_m.size)[None, :] > look.bed[rows, None] + int(_FIRST_RETURN_M / look.step_m)
            evidence.append(np.where(behind, np.log(np.maximum(look.evidence[rows], 1.0)), np.nan))
            steady.append(np.where(behind, look.steady[rows], np.nan))
            grains.append(_grains(look))
    width = max((e.shape[1] for e in evidence), default=side.samples)
    usual = Clutter(np.tile([[0.0], [0.7], [1.1]], (1, width)), np.tile([[0.5], [1.0]], (1, width)), 1.0)
    if not evidence:
        return usual
    found = np.concatenate(grains)
    grain = float(np.clip(np.median(found), 1.0, 6.0)) if found.size else 1.0
    high, even = _by_range(evidence, width, (50, 95, 99)), _by_range(steady, width, (50, 95))
    return Clutter(usual.evidence if high is None else high, usual.steady if even is None else even, grain)


def _grains(look: SideLook) -> Floats:
    """Of tiles of the bottom, how much speckle varies over its mean, squared."""
    rows, columns = (look.over.shape[0] - 8) // _TILE, look.over.shape[1] // _TILE
    if rows < 1:
        return np.zeros(0)
    part = np.minimum(look.over[4 : 4 + _TILE * rows, : _TILE * columns], 25.0)
    tiles = part.reshape(rows, _TILE, columns, _TILE)
    varied = tiles.var(axis=(1, 3)) / np.maximum(tiles.mean(axis=(1, 3)), 0.1) ** 2
    behind = np.arange(columns)[None, :] > look.bed[4 : 4 + _TILE * rows : _TILE, None] // _TILE + 2
    return np.asarray(varied[behind], np.float64)


def _by_range(parts: list[Levels], width: int, shares: tuple[int, ...]) -> Floats | None:
    """Percentiles in bands of range, straight between their middles; None where too little is known."""
    rows = np.vstack([np.pad(p, ((0, 0), (0, width - p.shape[1])), constant_values=np.nan) for p in parts])
    edges = np.linspace(0, width, _BANDS + 1).astype(int)
    middles, found = [], []
    for a, b in pairwise(edges):
        values = rows[:, a:b]
        values = values[np.isfinite(values)]
        if values.size > 300:
            middles.append((a + b) / 2)
            found.append(np.percentile(values, shares))
    if not found:
        return None
    return np.stack([np.interp(np.arange(width), middles, column) for column in np.array(found).T])
