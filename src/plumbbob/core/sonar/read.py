"""Reads a down recording from end to end: bottom, clutter, fish, bait, standing things, the cold layer."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np
from scipy import ndimage

from plumbbob.core.sonar import bottom as bottoms
from plumbbob.core.sonar.beam import dead_zone, footprint_diameter
from plumbbob.core.sonar.blocks import over_noise, read_block
from plumbbob.core.sonar.coarse import BLOCK_PINGS, Coarse, make_coarse
from plumbbob.core.sonar.cold_layer import Band, find_level_band
from plumbbob.core.sonar.echoes import Arc, EchoSettings, find_arcs, one_fish_once
from plumbbob.core.sonar.fish_association import with_fish
from plumbbob.core.sonar.layers import Cloud, clouds, clutter_depth
from plumbbob.core.sonar.reading import EMPTY, Bait, Bottom, Fish, Reading, StandingObject, Thermocline, Trail
from plumbbob.core.sonar.recording import Down, Recording, TransducerTrack, distance_along, transducer_at
from plumbbob.core.sonar.sizes import target_strength
from plumbbob.core.sonar.trails import Piece, find_trails
from plumbbob.core.stats import masked_percentile, steady_slope
from plumbbob.core.types import Floats
from plumbbob.core.water.sound import absorption_db_per_m

_OVERLAP_PINGS = 96
_LEAST_SAMPLES = 8  # fewer are no picture of anything
_STANDING_GAP_S = 2.5
_STANDING_DB = 10.0  # mean over the usual level
_STANDING_BRIEF_S, _STANDING_BRIEF_TALL_M = 3.0, 1.3  # what passes so soon must be as tall as timber
_BAIT_DB = 13.0  # mean over the usual level
_AMONG_TWIGS_DB = 14.0
_LURE_M = 0.3
_STOOD_M = 2.0  # a way shorter than this is none
_WEED_LENGTH_M = 8.0
_TIMBER_M = 1.2
_BRUSH_M, _BRUSH_LENGTH_M = (0.5, 3.0), 8.0
_TILT_LEAST_M, _TILT_STEP_M = 100.0, 0.05
_BESIDE_PINGS = 3
_BED_DOUBT_M = 0.6
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
    bed, arcs, trails = _second_look(recording, down, coarse, rough, clutter, settings, tick)
    interval = down.typical_interval_s
    dense = clouds(coarse, bed, clutter, interval)
    band = find_level_band(coarse, bed, clutter, interval, surface_c=_surface_c(recording))
    hard = bottoms.hardness(coarse, bed)
    places = transducer_at(recording.track, down.mount, down.time)
    way = distance_along(down.time, places.speed_mps)
    draft = down.mount.depth_m
    vertical, slope = bottoms.lie_of_the_bottom(bed - draft, way, down.beam_width_deg)
    bottom = Bottom(
        time=down.time,
        depth_m=bed,
        hardness=hard,
        below_m=vertical + draft,
        slope_deg=slope,
        dead_zone_m=dead_zone(vertical, down.beam_width_deg, down.pulse_m, slope),
    )
    standing = _joined([c for c in dense if _is_standing(c, bed, down)], interval)
    bait = [
        c
        for c in dense
        if _is_bait(c, bed, interval)
        and not any(_overlap(c, s) for s in standing)
        and not _is_a_few_fish(c, arcs, down)
    ]
    scene = _Scene(recording, down, places, way, bottom)
    trails = tuple(t for t in trails if not any(_through(t, c, down) for c in (*bait, *standing)))
    arcs = [a for a in arcs if not _is_lost_bottom(a, down, bed)]
    arcs = one_fish_once(arcs, down.time, way, down.beam_width_deg)
    arcs = [a for a in _outside(arcs, down, bait, standing) if not any(_on_lure(a, t, draft) for t in trails)]
    fish = tuple(_fish(scene, arcs))
    return Reading(
        bottom=bottom,
        fish=fish,
        bait=tuple(_bait(scene, bait)),
        standing=tuple(_standing(scene, standing, fish)),
        cold_layer=_as_layer(scene, band) if band is not None and band.is_cold_layer else None,
        no_layer=_as_layer(scene, band) if band is not None and not band.is_cold_layer else None,
        trails=trails,
        ceiling_m=clutter,
    )


def _surface_c(recording: Recording) -> float:
    """Temperature that the sounder told; NaN where it told none."""
    told = recording.track.temperature_c if recording.track is not None else np.zeros(0)
    return float(np.nanmedian(told)) if np.isfinite(told).any() else math.nan


@dataclass(frozen=True, slots=True, kw_only=False, eq=False)
class _Scene:
    """What turns indices of pings into times, places and ways."""

    recording: Recording
    down: Down
    places: TransducerTrack
    way_m: Floats
    bottom: Bottom

    def length_m(self, first: int, last: int, depth_m: float) -> float:
        """Way between two pings less the beam's width there (Diner 2001); NaN where the boat stood."""
        way = float(self.way_m[last] - self.way_m[first])
        if not math.isfinite(way) or way < _STOOD_M:
            return float("nan")
        return max(way - float(footprint_diameter(depth_m - self.down.mount.depth_m, self.down.beam_width_deg)), 0.0)


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
) -> tuple[Floats, list[Arc], tuple[Trail, ...]]:
    """Go through the samples again with the bottom roughly known: its edge, and the arcs above it."""
    draft = down.mount.depth_m
    places = transducer_at(recording.track, down.mount, down.time)
    bed = np.full(len(down), np.nan)
    arcs: list[Arc] = []
    pieces: list[Piece] = []
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
        found, long = find_arcs(
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
        pieces += long
        tick(stop - start)
    return bed, _once(arcs), find_trails(pieces, down, places.speed_mps)


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
                fill=min(last.fill, cloud.fill),
                outline=tuple(sorted(last.outline + cloud.outline)),
            )
        else:
            joined.append(cloud)
    return joined


def _overlap(a: Cloud, b: Cloud) -> bool:
    return a.first <= b.last and b.first <= a.last and a.base_m > b.top_m


def _outside(arcs: list[Arc], down: Down, bait: list[Cloud], standing: list[Cloud]) -> list[Arc]:
    """Arcs that are not part of a cloud; among weed and twigs only what is far louder than they are is a fish."""
    return [
        a
        for a in arcs
        if not any(_inside(a, c, down) for c in bait)
        and all(a.level_db > c.level_db + _AMONG_TWIGS_DB for c in standing if _inside(a, c, down))
    ]


def _through(trail: Trail, cloud: Cloud, down: Down) -> bool:
    """A trail that runs inside a cloud for most of its time is a streak of the cloud."""
    time, depth = np.array(trail.time), np.array(trail.depth_m)
    base = np.inf if cloud.on_bottom else cloud.base_m
    inside = (time >= down.time[cloud.first]) & (time <= down.time[cloud.last])
    return float(np.mean(inside & (depth >= cloud.top_m) & (depth <= base))) > 0.5


def _is_lost_bottom(arc: Arc, down: Down, bed: Floats) -> bool:
    """Where the bottom was lost for a while: what shows on the way from its last depth to its next, or below it."""
    k = int(np.argmin(np.abs(down.time - arc.time)))
    if np.isfinite(bed[max(k - _BESIDE_PINGS, 0) : k + _BESIDE_PINGS + 1]).any():
        return False
    known = np.flatnonzero(np.isfinite(bed))
    if not known.size or not known[0] < k < known[-1]:
        return False
    return arc.range_m + down.mount.depth_m > float(np.interp(k, known, bed[known])) - _BED_DOUBT_M


def _on_lure(arc: Arc, trail: Trail, draft_m: float) -> bool:
    """An arc that is a piece of the lure's own trail."""
    if "lure" not in trail.kind or not trail.time[0] - 1.0 <= arc.time <= trail.time[-1] + 1.0:
        return False
    return abs(float(np.interp(arc.time, trail.time, trail.depth_m)) - draft_m - arc.range_m) < _LURE_M


def _fish(scene: _Scene, arcs: Iterable[Arc]) -> Iterable[Fish]:
    arcs, down = list(arcs), scene.down
    places = transducer_at(scene.recording.track, down.mount, np.array([a.time for a in arcs]))
    half = math.tan(math.radians(down.beam_width_deg / 2))
    loss = float(absorption_db_per_m(down.frequency_hz, _temperature(scene.recording)))
    for i, arc in enumerate(arcs):
        depth = arc.range_m + down.mount.depth_m
        bed = scene.bottom.depth_at(arc.time)
        aside = math.hypot(arc.off_axis_m, arc.off_axis_sd_m)
        if math.isnan(aside):
            # anywhere in the beam: the root mean square distance of a uniform disc
            aside = arc.range_m * half / math.sqrt(2)
        speed = float(places.speed_mps[i])
        along = arc.time_sd * (speed if math.isfinite(speed) else 0.0)
        strength, strength_sd = target_strength(
            arc.level_db, arc.range_m, arc.off_axis_m, arc.off_axis_sd_m, down.beam_width_deg, loss
        )
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
            strength_db=strength,
            strength_sd_db=strength_sd,
        )


def _temperature(recording: Recording) -> float:
    """Of the water at the surface; 15 degrees where nobody measured it."""
    known = recording.track.temperature_c if recording.track is not None else np.zeros(0)
    known = known[np.isfinite(known)]
    return float(np.clip(np.median(known), 0.0, 35.0)) if known.size else 15.0


def _bait(scene: _Scene, found: list[Cloud]) -> Iterable[Bait]:
    time = scene.down.time
    for cloud in found:
        middle = (cloud.first + cloud.last) // 2
        length = scene.length_m(cloud.first, cloud.last, (cloud.top_m + cloud.base_m) / 2)
        yield Bait(
            time_start=float(time[cloud.first]),
            time_end=float(time[cloud.last]),
            depth_top_m=cloud.top_m,
            depth_bottom_m=cloud.base_m,
            latitude=float(scene.places.latitude[middle]),
            longitude=float(scene.places.longitude[middle]),
            level_db=cloud.level_db,
            shape=bait_shape(length, cloud.base_m - cloud.top_m),
            length_m=length,
            fill=cloud.fill,
            outline=_in_time(cloud, time),
        )


def _in_time(cloud: Cloud, time: Floats) -> tuple[tuple[float, float, float], ...]:
    return tuple((float(time[p]), top, base) for p, top, base in cloud.outline)


def bait_shape(length_m: float, height_m: float) -> str:
    """
    Ball, carpet or cloud, from length over height (docs/handbook.md 2.2).

    Examples
    --------
    >>> bait_shape(4.0, 2.0), bait_shape(40.0, 1.5), bait_shape(12.0, 2.0)
    ('ball', 'carpet', 'cloud')
    """
    if not math.isfinite(length_m) or length_m <= 3.0 * height_m:
        return "ball"
    return "carpet" if length_m >= 10.0 * height_m else "cloud"


def _standing(scene: _Scene, found: list[Cloud], fish: tuple[Fish, ...]) -> Iterable[StandingObject]:
    time = scene.down.time
    for cloud in found:
        bed = float(np.nanmedian(scene.bottom.depth_m[cloud.first : cloud.last + 1]))
        length = scene.length_m(cloud.first, cloud.last, bed)
        kind, detail = standing_kind(length, cloud.height_m, cloud.fill)
        middle = (cloud.first + cloud.last) // 2
        thing = StandingObject(
            time_start=float(time[cloud.first]),
            time_end=float(time[cloud.last]),
            height_m=cloud.height_m,
            kind=kind,
            detail=detail,
            bottom_m=bed,
            latitude=float(scene.places.latitude[middle]),
            longitude=float(scene.places.longitude[middle]),
            length_m=length,
            outline=_in_time(cloud, time),
        )
        yield with_fish(thing, fish)


def standing_kind(length_m: float, height_m: float, fill: float) -> tuple[str, str]:
    """
    Kind by the contract, and a word more.

    Notes
    -----
    Weed is long and even; timber is tall for its length; a brush pile is a low short tangle, open inside. A length
    of NaN means that the boat stood over it: only height can tell then.

    Examples
    --------
    >>> standing_kind(25.0, 1.2, 0.8), standing_kind(1.0, 3.0, 0.7), standing_kind(4.0, 1.4, 0.5)
    (('weed', ''), ('timber', ''), ('unknown', 'brush pile'))
    """
    if length_m >= _WEED_LENGTH_M:
        return "weed", ""
    if height_m >= _TIMBER_M and not length_m > 2.5 * height_m:
        return "timber", ""
    if _BRUSH_M[0] <= height_m <= _BRUSH_M[1] and length_m <= _BRUSH_LENGTH_M:
        return "unknown", "brush pile"
    return "unknown", ""


def _as_layer(scene: _Scene, band: Band) -> Thermocline:
    """The band with its tilt: a robust line through its depths over the way made."""
    way, tilt, spread = scene.way_m[band.pings], float("nan"), float("nan")
    if band.pings.size >= 5 and np.isfinite(way).all() and np.ptp(way) > _TILT_LEAST_M:
        tilt, spread = steady_slope(way / 1000.0, band.path_m)
        # depths come in bins: a line through them is no better known than a step of one over all of the way
        spread = math.hypot(spread, _TILT_STEP_M / float(np.ptp(way / 1000)))
    time = scene.down.time[band.pings]
    return Thermocline(
        depth_m=band.depth_m,
        thickness_m=band.thickness_m,
        confidence=band.confidence,
        depth_sd_m=band.depth_sd_m,
        tilt=tilt,
        tilt_sd=spread,
        path=tuple(zip(time.tolist(), band.path_m.tolist(), strict=True)),
        share=band.share,
        why=band.why,
    )
