"""A level band of weak echo in the coarse picture, and what speaks for a cold layer in it and against."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.coarse import Coarse
from plumbbob.core.sonar.reading import LayerReason
from plumbbob.core.stats import masked_percentile
from plumbbob.core.types import Floats, Mask

_LAYER_WINDOW_S = 12.0
_LAYER_STEP_COST_DB = 0.6  # per bin from window to window
_LAYER_LEAST_DB = 1.0
_LAYER_LEAST_SHARE = 0.5
_LAYER_THICKEST_M = 2.6
_LAYER_PATCHY_DB = 2.2
_REFUSED = -2.0  # odds taken away from which on it is no cold layer
_COLDEST_C, _PER_COLD_C, _COLD_MOST = 9.8, 0.7, 4.0
_WARM_C, _WARM = 15.0, 0.3
_THICK_M, _PER_THICK_M = 1.8, 1.5
_MISSING, _LEAST_END, _END_SHARE, _PER_END = 0.2, 4, 0.2, 8.0
_UNDER_M, _LEAST_UNDER, _GOES_ON, _NOISE_BELOW, _CLEAR_BELOW = 0.8, 3, 0.5, 3.0, 0.5
_RULED_M, _RULED_THICK_M, _RULED, _LEAST_RULED = 0.02, 0.45, 2.5, 8
_WAVY_M, _WAVES = 0.06, 0.3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Band:
    """A level band of weak echo."""

    depth_m: float
    thickness_m: float
    confidence: float
    depth_sd_m: float
    share: float  # of the windows deep enough for it in which it shows
    pings: NDArray[np.intp]  # middles of those windows
    path_m: Floats  # its depth in each
    why: tuple[tuple[LayerReason, float], ...] = ()  # what speaks for a cold layer and against it

    @property
    def is_cold_layer(self) -> bool:
        """Nothing speaks so strongly against it that plankton or noise is likelier."""
        return sum(odds for _, odds in self.why) > _REFUSED


def find_level_band(
    coarse: Coarse, bottom_m: Floats, clutter_m: Floats, interval_s: float, *, surface_c: float = math.nan
) -> Band | None:
    """
    A level band of weak echo that keeps its depth whatever the bottom does, and whether it is a cold layer.

    Parameters
    ----------
    coarse : Coarse
    bottom_m, clutter_m : array of shape (pings,)
    interval_s : float
    surface_c : float, optional
        Temperature of the water near the surface; NaN where the sounder tells none.

    Returns
    -------
    Band or None
        None where nothing stands out: an honest "none".

    Notes
    -----
    Medians over some seconds leave steady weak scatter and drop fish. In each window a band must be louder than the
    water above and below; the best smooth path of such bands through the recording is kept if it is there most of
    the time, is neither thick nor patchy, and does not copy the bottom. Bait fails the last two, surface clutter the
    first (it only ever falls off with depth).
    """
    profiles, bed = _layer_profiles(coarse, bottom_m, clutter_m, interval_s)
    if len(profiles) < 3:
        return None
    score = _band_scores(profiles, coarse.bin_m)
    path = _smooth_path(np.where(np.isfinite(score), score, 0.0))
    along = score[np.arange(len(path)), path]
    known = np.isfinite(along)
    # where the water is too shallow for the layer, nothing can be said
    if known.sum() < max(3, 0.25 * len(path)):
        return None
    there = along[known] > 0.6 * _LAYER_LEAST_DB
    share = float(there.mean())
    if share < _LAYER_LEAST_SHARE:
        return None
    depth = coarse.depth_m[path]
    rows = np.flatnonzero(known)[there]
    strength = float(np.median(along[rows]))
    if strength < _LAYER_LEAST_DB:
        return None
    mean, thickness = _aligned_band(profiles[rows], path[rows], coarse.bin_m)
    if thickness > _LAYER_THICKEST_M or _copies_bottom(depth[rows], bed[rows]):
        return None
    unevenness = float(np.std(along[rows]) / max(strength, 0.1))
    if unevenness > 0.9 or _patchiness_db(coarse, path, rows, _window_pings(interval_s)) > _LAYER_PATCHY_DB:
        return None
    confidence = float(np.clip(share * (1 - np.exp(-strength / 2.0)) * (1.2 - unevenness), 0.01, 0.99))
    why = _weighed(coarse, bottom_m, interval_s, _Seen(along, known, path, rows, strength, thickness), surface_c)
    odds = math.log(confidence / (1 - confidence)) + sum(weight for _, weight in why)
    middle = float(np.median(depth[rows])) + mean
    sd = float(np.hypot(np.std(depth[rows]) / max(np.sqrt(rows.size), 1.0), coarse.bin_m / 2))
    width = _window_pings(interval_s)
    return Band(
        depth_m=middle,
        thickness_m=thickness,
        confidence=1.0 / (1.0 + math.exp(-min(max(odds, -30.0), 30.0))),
        depth_sd_m=sd,
        share=share,
        pings=np.minimum(rows * width + width // 2, len(bottom_m) - 1),
        path_m=depth[rows] + mean,
        why=why,
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Seen:
    """A band window by window: scores and path of shape (windows,), the rows in which it shows."""

    along: Floats
    known: Mask
    path: NDArray[np.intp]
    rows: NDArray[np.intp]
    strength: float
    thickness_m: float


def _weighed(
    coarse: Coarse, bottom_m: Floats, interval_s: float, seen: _Seen, surface_c: float
) -> tuple[tuple[LayerReason, float], ...]:
    """What speaks for a cold layer (odds over 0) and against it, the strongest first."""
    wander = _wander_m(coarse, interval_s, seen)
    found = {
        LayerReason.TEMPERATURE: _by_temperature(surface_c),
        LayerReason.THICKNESS: -_PER_THICK_M * max(seen.thickness_m - _THICK_M, 0.0),
        LayerReason.ENDS: _by_its_end(seen),
        LayerReason.BELOW_BOTTOM: _below_bottom(coarse, bottom_m, interval_s, seen),
        LayerReason.RULED: -_RULED if wander < _RULED_M and seen.thickness_m <= _RULED_THICK_M else 0.0,
    }
    if wander > _WAVY_M:
        found[LayerReason.WAVES] = _WAVES
    return tuple(sorted(((r, w) for r, w in found.items() if abs(w) > 0.05), key=lambda item: -abs(item[1])))


def _by_temperature(surface_c: float) -> float:
    """
    Water that is nearly as dense at the top as it ever gets holds up no layer.

    Notes
    -----
    Fresh water of 9.8 degrees over water of 4 is a step of 0.25 kg/m³, the least that is called a cold layer.
    """
    if not math.isfinite(surface_c):
        return 0.0
    return -min(_PER_COLD_C * max(_COLDEST_C - surface_c, 0.0), _COLD_MOST) + (_WARM if surface_c > _WARM_C else 0.0)


def _by_its_end(seen: _Seen) -> float:
    """A layer of density goes on until a shore; plankton ends in open water. The longest stretch that misses it."""
    missing = np.r_[False, np.nan_to_num(seen.along[seen.known]) <= _MISSING * seen.strength, False]
    edges = np.flatnonzero(np.diff(missing.astype(np.int8)))
    longest = int((edges[1::2] - edges[::2]).max()) if edges.size else 0
    share = longest / max(int(seen.known.sum()), 1)
    return -_PER_END * share if longest >= _LEAST_END and share > _END_SHARE else 0.0


def _below_bottom(coarse: Coarse, bottom_m: Floats, interval_s: float, seen: _Seen) -> float:
    """Noise of the receiver keeps its range under the bottom too; where the bottom is nearer than the band."""
    width, middle = _window_pings(interval_s), int(np.median(seen.path[seen.rows]))
    depth, reach = float(coarse.depth_m[middle]), max(round(0.5 / coarse.bin_m), 2)
    bumps = []
    for start in range(0, len(bottom_m) - width // 2, width):
        bed = bottom_m[start : start + width]
        if not np.isfinite(bed).any() or float(np.nanmax(bed)) > depth - _UNDER_M:
            continue
        part = coarse.levels(start, start + width)[:, max(middle - 3 * reach, 0) : middle + 3 * reach + 1]
        line = ndimage.uniform_filter1d(np.median(part, axis=0), 3)
        at = min(middle, 3 * reach)
        above, under = line[: max(at - reach, 1)], line[min(at + reach, line.size - 1) :]
        flank = max(float(np.median(above)), float(np.median(under)))
        bumps.append(float(line[max(at - 2, 0) : at + 3].max()) - flank)
    if len(bumps) < _LEAST_UNDER:
        return 0.0
    share = float(np.median(bumps)) / max(seen.strength, 0.1)
    return -_NOISE_BELOW if share > _GOES_ON else (_CLEAR_BELOW if share < _GOES_ON / 3 else 0.0)


def _wander_m(coarse: Coarse, interval_s: float, seen: _Seen) -> float:
    """How far the band strays from a straight line, window by window; infinite where too few tell."""
    if seen.rows.size < _LEAST_RULED:
        return math.nan
    width, half = _window_pings(interval_s), max(round(seen.thickness_m / coarse.bin_m), 3)
    middles = []
    for row in seen.rows.tolist():
        low = max(int(seen.path[row]) - half, 0)
        line = np.median(coarse.levels(row * width, (row + 1) * width)[:, low : low + 2 * half + 1], axis=0)
        over = np.clip(line - np.percentile(line, 30), 0.0, None) ** 2
        middles.append(low + float(np.average(np.arange(line.size), weights=over + 1e-6)))
    straight = np.polyval(np.polyfit(seen.rows, middles, 1), seen.rows)
    return coarse.bin_m * float(np.median(np.abs(np.array(middles) - straight))) * 1.48


def _window_pings(interval_s: float) -> int:
    """Pings of one window of the layer's search."""
    return max(round(_LAYER_WINDOW_S / max(interval_s, 1e-3)), 20)


def _patchiness_db(coarse: Coarse, path: NDArray[np.intp], rows: NDArray[np.intp], width: int) -> float:
    """
    How much the band's level wanders from ping to ping, decibels: speckle alone gives 1 to 2, bait more.

    Notes
    -----
    Mean over half a metre and seven pings; half the span between the 15th and the 85th percentile of each window,
    median over windows. A fish now and then does not move percentiles; clouds of bait in a row do.
    """
    half = max(round(0.25 / coarse.bin_m), 1)
    spans = []
    for i in rows.tolist():
        low = max(int(path[i]) - half, 0)
        band = coarse.levels(i * width, (i + 1) * width)[:, low : int(path[i]) + half + 1].mean(axis=1)
        spans.append(np.ptp(np.percentile(ndimage.uniform_filter1d(band, 7), [15, 85])) / 2)
    return float(np.median(spans))


def _layer_profiles(coarse: Coarse, bottom_m: Floats, clutter_m: Floats, interval_s: float) -> tuple[Floats, Floats]:
    """Median level of each window and bin (NaN where it is not open water), and each window's least bottom depth."""
    n = len(coarse.packed)
    width = _window_pings(interval_s)
    depth = coarse.depth_m
    profiles, beds = [], []
    for start in range(0, n - width // 2, width):
        levels = coarse.levels(start, start + width)
        bed = bottom_m[start : start + width]
        ground = np.where(np.isfinite(bed), bed, coarse.depth_m[-1])[:, None] - 0.5
        water = (depth[None, :] > clutter_m[start : start + width, None]) & (depth[None, :] < ground)
        water &= levels > -15.0
        profiles.append(masked_percentile(levels, water, 50, int(0.4 * len(levels)) + 1))
        beds.append(float(np.nanmin(bed)) if np.isfinite(bed).any() else np.nan)
    return np.asarray(profiles).reshape(-1, depth.size), np.asarray(beds)


def _shifted(profile: Floats, low: int, high: int) -> Floats:
    """Mean over bins +low .. +high of each bin; NaN if any is unknown."""
    n = profile.shape[1]
    total = np.zeros(profile.shape)
    for k in range(low, high + 1):
        if k >= 0:
            total[:, : n - k] += profile[:, k:]
            total[:, n - k :] = np.nan
        else:
            total[:, -k:] += profile[:, : n + k]
            total[:, :-k] = np.nan
    return total / (high - low + 1)


def _band_scores(profiles: Floats, bin_m: float) -> Floats:
    """How much louder each bin's band is than the louder of its two flanks, best over three thicknesses."""
    best = np.full(profiles.shape, np.nan)
    for thickness in (0.4, 0.8, 1.5):
        half = max(round(thickness / 2 / bin_m), 0)
        gap = max(round(0.3 / bin_m), 1)
        wide = max(round(0.5 / bin_m), 2)
        centre = _shifted(profiles, -half, half)
        above = _shifted(profiles, -half - gap - wide, -half - gap)
        below = _shifted(profiles, half + gap, half + gap + wide)
        best = np.fmax(best, centre - np.maximum(above, below))
    return best


def _smooth_path(score: Floats) -> NDArray[np.intp]:
    n, bins = score.shape
    reach = min(4, bins - 1)
    moves = np.arange(-reach, reach + 1)
    total = score[0].copy()
    back = np.zeros((n, bins), np.intp)
    for i in range(1, n):
        padded = np.pad(total, reach, constant_values=-1e9)
        options = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
        options = options - _LAYER_STEP_COST_DB * np.abs(moves)
        back[i] = options.argmax(axis=1)
        total = options.max(axis=1) + score[i]
    path = np.zeros(n, np.intp)
    path[-1] = int(total.argmax())
    for i in range(n - 1, 0, -1):
        path[i - 1] = path[i] + moves[back[i, path[i]]]
    return path


def _aligned_band(profiles: Floats, path: NDArray[np.intp], bin_m: float) -> tuple[float, float]:
    """Offset of the band's centre from the path and its width at half its height, from profiles laid on the path."""
    reach = max(round(2.5 / bin_m), 4)
    index = path[:, None] + np.arange(-reach, reach + 1)[None, :]
    inside = (index >= 0) & (index < profiles.shape[1])
    values = np.where(inside, np.take_along_axis(profiles, np.clip(index, 0, profiles.shape[1] - 1), axis=1), np.nan)
    count = np.isfinite(values).sum(axis=0)
    mean = np.where(count > 0, np.nansum(values, axis=0) / np.maximum(count, 1), np.nan)
    base = np.nanpercentile(mean, 25)
    peak = np.nanmax(mean[reach - 2 : reach + 3])
    half = (base + peak) / 2
    low = high = reach
    # outwards from the middle until half way down, or until something else begins to rise there
    while low > 0 and half <= mean[low - 1] <= mean[low] + 0.3:
        low -= 1
    while high < 2 * reach and half <= mean[high + 1] <= mean[high] + 0.3:
        high += 1
    weights = np.clip(mean[low : high + 1] - base, 0.0, None)
    if not weights.sum() > 0:
        return 0.0, bin_m
    offset = float(np.average(np.arange(low, high + 1) - reach, weights=weights)) * bin_m
    return offset, (high - low + 1) * bin_m


def _copies_bottom(depth: Floats, bed: Floats) -> bool:
    good = np.isfinite(bed)
    if good.sum() < 4 or np.std(bed[good]) < 0.4:
        return False
    return bool(abs(np.polyfit(bed[good], depth[good], 1)[0]) > 0.4)
