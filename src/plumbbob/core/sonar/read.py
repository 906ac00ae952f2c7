"""Reads a down recording from end to end: bottom, clutter, fish, bait, standing things, the cold layer."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np
from scipy import ndimage

from plumbbob.core.sonar import bottom as bottoms
from plumbbob.core.sonar.blocks import over_noise, read_block
from plumbbob.core.sonar.coarse import BLOCK_PINGS, Coarse, make_coarse
from plumbbob.core.sonar.echoes import Arc, EchoSettings, find_arcs
from plumbbob.core.sonar.layers import Cloud, clouds, clutter_depth, find_cold_layer
from plumbbob.core.sonar.reading import EMPTY, Bait, Bottom, ColdLayer, Fish, Reading, Standing
from plumbbob.core.sonar.recording import Down, Floats, Recording, transducer_at
from plumbbob.core.sonar.stats import masked_percentile

_OVERLAP_PINGS = 96
_LEAST_SAMPLES = 8  # fewer are no picture of anything
_STANDING_GAP_S = 2.5
_STANDING_DB = 10.0  # mean over the usual level
_STANDING_BRIEF_S, _STANDING_BRIEF_TALL_M = 3.0, 1.3  # what passes so soon must be as tall as timber
_BAIT_DB = 13.0  # mean over the usual level
_FIX_SD_M = 1.5  # a good consumer receiver, open sky


def read_down(
    recording: Recording,
    settings: EchoSettings | None = None,
    *,
    progress: Callable[[float], None] = lambda fraction: None,
) -> Reading:
    """
    Everything that can be told from a recording's down view.

    Parameters
    ----------
    recording : Recording
    settings : EchoSettings, optional
    progress : callable
        Hears the share done, 0 to 1; may raise to stop.

    Returns
    -------
    Reading
        Empty where the recording has no down view.
    """
    down = recording.down
    if down is None:
        return EMPTY
    if len(down) < 2 or down.samples < _LEAST_SAMPLES:
        unknown = np.full(len(down), np.nan)
        return Reading(bottom=Bottom(time=down.time, depth_m=unknown, hardness=unknown))
    settings = settings or EchoSettings()
    tick = _Ticker(3 * len(down), progress)
    coarse = make_coarse(down, tick)
    rough = bottoms.follow(coarse, down.typical_interval_s, tick)
    clutter = clutter_depth(coarse, rough)
    bed, arcs = _second_look(recording, down, coarse, rough, clutter, settings, tick)
    interval = down.typical_interval_s
    dense = clouds(coarse, bed, clutter, interval)
    layer = find_cold_layer(coarse, bed, clutter, interval)
    hard = bottoms.hardness(coarse, bed, down.mount.depth_m)
    bottom = Bottom(time=down.time, depth_m=bed, hardness=hard)
    standing = _joined([c for c in dense if _is_standing(c, bed, down)], interval)
    bait = [
        c
        for c in dense
        if _is_bait(c, bed, interval)
        and not any(_overlap(c, s) for s in standing)
        and not _is_a_few_fish(c, arcs, down)
    ]
    return Reading(
        bottom=bottom,
        fish=tuple(_fish(recording, down, bottom, _outside(arcs, down, bait, standing))),
        bait=tuple(_bait(recording, down, bait)),
        standing=tuple(_standing(down, standing, interval)),
        cold_layer=None
        if layer is None
        else ColdLayer(depth_m=layer[0], thickness_m=layer[1], confidence=layer[2], depth_sd_m=layer[3]),
    )


class _Ticker:
    """Turns pings done into a share done."""

    def __init__(self, total: int, progress: Callable[[float], None]) -> None:
        self._total, self._done, self._progress = total, 0, progress

    def __call__(self, pings: int) -> None:
        self._done += pings
        self._progress(min(self._done / self._total, 1.0))


def _second_look(
    recording: Recording,
    down: Down,
    coarse: Coarse,
    rough: Floats,
    clutter: Floats,
    settings: EchoSettings,
    tick: _Ticker,
) -> tuple[Floats, list[Arc]]:
    """Go through the samples again with the bottom roughly known: its edge, and the arcs above it."""
    draft = down.mount.depth_m
    places = transducer_at(recording.track, down.mount, down.time)
    bed = np.full(len(down), np.nan)
    arcs: list[Arc] = []
    for start in range(0, len(down), BLOCK_PINGS):
        low, high = max(start - _OVERLAP_PINGS, 0), min(start + BLOCK_PINGS + _OVERLAP_PINGS, len(down))
        stop = min(start + BLOCK_PINGS, len(down))
        block = read_block(down, low, high)
        levels = over_noise(down, block, float(coarse.floor_db[start // BLOCK_PINGS]))
        edge = bottoms.measure_edge(block, levels, rough[low:high] - draft, coarse.bin_m, down.pulse_m)
        bed[start:stop] = edge[start - low : stop - low] + draft
        # a short loss keeps the last bed as the floor of the search, a long one ends the water at the range's end
        floor = np.where(np.isfinite(edge), edge, block.range_m[np.clip(block.seen - 1, 0, None)])
        floor = ndimage.minimum_filter1d(floor, 5, mode="nearest")
        water = (block.range_m[None, :] > (clutter[low:high] - draft)[:, None]) & (
            block.range_m[None, :] < floor[:, None]
        )
        ceiling = _ring_down_m(levels, block.range_m)
        levels -= _usual(levels, water)[None, :]
        speeds = places.speed_mps[low:high]
        speed = float(np.nanmedian(speeds)) if np.isfinite(speeds).any() else float("nan")
        found = find_arcs(
            levels,
            down.time[low:high],
            block.range_m,
            np.full(high - low, ceiling),
            floor,
            speed,
            down.pulse_m,
            down.beam_width_deg,
            settings,
        )
        # an arc belongs to the run its apex falls into; both runs see it whole
        first = down.time[start] if start else -math.inf
        end = down.time[stop] if stop < len(down) else math.inf
        arcs += [a for a in found if first - 0.5 <= a.time < end + 0.5]
        tick(stop - start)
    return bed, _once(arcs)


def _once(arcs: list[Arc]) -> list[Arc]:
    """Each arc once, though two runs of pings saw it near their border."""
    kept: list[Arc] = []
    for arc in sorted(arcs, key=lambda a: a.time):
        if not any(abs(arc.time - k.time) < 0.4 and abs(arc.range_m - k.range_m) < 0.1 for k in kept[-8:]):
            kept.append(arc)
    return kept


def _ring_down_m(levels: np.ndarray, range_m: Floats) -> float:
    """Range to which the transducer still rings and the surface always shouts: loud in most pings, from the top."""
    loud = np.median(levels[::8], axis=0) > 20.0
    if not loud.any():
        return float(range_m[0])
    first = int(loud.argmax())
    if range_m[first] > 1.5:
        return float(range_m[0])
    quiet = np.flatnonzero(~loud[first:])
    return float(range_m[first + quiet[0]]) if quiet.size else float(range_m[0])


def _usual(levels: np.ndarray, water: np.ndarray) -> np.ndarray:
    """The usual level at each range in open water, from every fourth ping."""
    middle = np.nan_to_num(masked_percentile(levels[::4], water[::4], 50, 12), nan=-2.5)
    return np.clip(ndimage.uniform_filter1d(middle, 5, mode="nearest"), -4.0, 30.0).astype(np.float32)


def _relief_m(cloud: Cloud, bed: Floats, interval_s: float) -> float:
    """How much the bottom itself moves about a cloud: its bumps, and its slope over some seconds."""
    wide = max(round(1.5 / max(interval_s, 1e-3)), 3)
    low = max(cloud.first - wide, 0)
    around = bed[low : cloud.last + wide + 1]
    x = np.arange(around.size, dtype=np.float64)
    good = np.isfinite(around)
    if good.sum() < 5:
        return float("inf")
    slope, height = np.polyfit(x[good], around[good], 1)
    bumps = float(np.ptp(np.percentile(around[good] - slope * x[good] - height, [3, 97])))
    return bumps + abs(float(slope)) * min(around.size, 2.0 * wide)


def _is_bait(cloud: Cloud, bed: Floats, interval_s: float) -> bool:
    """Tall and lasting enough not to be an arc, loud enough not to be a thick part of a layer, off a wall."""
    tall = cloud.base_m - cloud.top_m
    lasts = (cloud.last - cloud.first + 1) * interval_s
    if cloud.on_bottom or tall < 0.6 or lasts < 1.5 or cloud.level_db < _BAIT_DB:
        return False
    relief = _relief_m(cloud, bed, interval_s)
    return not np.isfinite(relief) or relief < 2.0 + 0.5 * lasts


def _inside(arc: Arc, cloud: Cloud, down: Down) -> bool:
    """An arc whose apex lies in a cloud, or just at its rim."""
    base = np.inf if cloud.on_bottom else cloud.base_m + 0.2
    return bool(
        down.time[cloud.first] - 0.3 <= arc.time <= down.time[cloud.last] + 0.3
        and cloud.top_m - 0.2 <= arc.range_m + down.mount.depth_m <= base
    )


def _is_a_few_fish(cloud: Cloud, arcs: list[Arc], down: Down) -> bool:
    """A cloud no longer than the arcs in it is those arcs: a loose school, each fish told for itself."""
    lasts = float(down.time[cloud.last] - down.time[cloud.first])
    return sum(a.time_out - a.time_in >= 0.8 * lasts for a in arcs if _inside(a, cloud, down)) >= 2


def _is_standing(cloud: Cloud, bed: Floats, down: Down) -> bool:
    """Taller than the bottom's own bumps and slope about it, loud, and not a fish that hangs low."""
    if not cloud.on_bottom or cloud.last - cloud.first < 4 or cloud.level_db < _STANDING_DB:
        return False
    interval = down.typical_interval_s
    brief = (cloud.last - cloud.first + 1) * interval < _STANDING_BRIEF_S
    least = _STANDING_BRIEF_TALL_M if brief else max(0.45, 3 * down.pulse_m)
    return cloud.height_m >= least + _relief_m(cloud, bed, interval)


def _joined(found: list[Cloud], interval_s: float) -> list[Cloud]:
    """Trunks and tufts close together are one thing."""
    joined: list[Cloud] = []
    for cloud in sorted(found, key=lambda c: c.first):
        last = joined[-1] if joined else None
        if last is not None and (cloud.first - last.last) * interval_s < _STANDING_GAP_S:
            joined[-1] = replace(
                last,
                last=max(last.last, cloud.last),
                top_m=min(last.top_m, cloud.top_m),
                base_m=max(last.base_m, cloud.base_m),
                height_m=max(last.height_m, cloud.height_m),
            )
        else:
            joined.append(cloud)
    return joined


def _overlap(a: Cloud, b: Cloud) -> bool:
    return a.first <= b.last and b.first <= a.last and a.base_m > b.top_m


def _outside(arcs: list[Arc], down: Down, bait: list[Cloud], standing: list[Cloud]) -> list[Arc]:
    """Arcs that are not part of a cloud."""
    return [a for a in arcs if not any(_inside(a, c, down) for c in (*bait, *standing))]


def _fish(recording: Recording, down: Down, bottom: Bottom, arcs: Iterable[Arc]) -> Iterable[Fish]:
    arcs = list(arcs)
    places = transducer_at(recording.track, down.mount, np.array([a.time for a in arcs]))
    half = math.tan(math.radians(down.beam_width_deg / 2))
    for i, arc in enumerate(arcs):
        depth = arc.range_m + down.mount.depth_m
        bed = bottom.depth_at(arc.time)
        aside = math.hypot(arc.off_axis_m, arc.off_axis_sd_m)
        if math.isnan(aside):
            # anywhere in the beam: the root mean square distance of a uniform disc
            aside = arc.range_m * half / math.sqrt(2)
        speed = float(places.speed_mps[i])
        along = arc.time_sd * (speed if math.isfinite(speed) else 0.0)
        yield Fish(
            time=arc.time,
            time_in=arc.time_in,
            time_out=arc.time_out,
            depth_m=depth,
            depth_sd_m=math.hypot(arc.range_sd_m, aside**2 / (2 * max(arc.range_m, 0.5))),
            height_above_bottom_m=bed - depth,
            off_axis_m=arc.off_axis_m,
            off_axis_sd_m=arc.off_axis_sd_m,
            latitude=float(places.latitude[i]),
            longitude=float(places.longitude[i]),
            position_sd_m=math.sqrt(_FIX_SD_M**2 + aside**2 + along**2),
            level_db=arc.level_db,
            pings=arc.pings,
        )


def _bait(recording: Recording, down: Down, found: list[Cloud]) -> Iterable[Bait]:
    middles = np.array([(down.time[c.first] + down.time[c.last]) / 2 for c in found])
    places = transducer_at(recording.track, down.mount, middles)
    for i, cloud in enumerate(found):
        yield Bait(
            time_start=float(down.time[cloud.first]),
            time_end=float(down.time[cloud.last]),
            depth_top_m=cloud.top_m,
            depth_bottom_m=cloud.base_m,
            latitude=float(places.latitude[i]),
            longitude=float(places.longitude[i]),
            level_db=cloud.level_db,
        )


def _standing(down: Down, found: list[Cloud], interval_s: float) -> Iterable[Standing]:
    for cloud in found:
        lasts = (cloud.last - cloud.first + 1) * interval_s
        yield Standing(
            time_start=float(down.time[cloud.first]),
            time_end=float(down.time[cloud.last]),
            height_m=cloud.height_m,
            kind=_kind(cloud, lasts),
        )


def _kind(cloud: Cloud, lasts_s: float) -> str:
    """Weed is long and even; timber is tall for its length."""
    if lasts_s >= 12.0:
        return "weed"
    if cloud.height_m >= 1.2 and lasts_s <= 8.0:
        return "timber"
    return "unknown"
