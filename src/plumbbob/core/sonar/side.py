"""
Reads the view to the side: how high the transducer is, fish with their shadows, things that stand.

Everything is judged against what surrounds it: levels are divided by the usual level at the same distance behind
the bottom's first return, so that neither the fan's pattern nor the kind of bottom matters. A fish is a short
bright spot of some pings; its shadow is a short dark one behind it, and tells how high it hangs.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core import geodesy as geo
from plumbbob.core.sonar import bottom as bottoms
from plumbbob.core.sonar.blocks import MEAN_OF_LOG_DB, read_block
from plumbbob.core.sonar.coarse import make_coarse
from plumbbob.core.sonar.reading import Bottom, SideFish, SideReading, SideThing, Strung
from plumbbob.core.sonar.recording import SIDES, Down, Recording, Side, TransducerTrack, distance_along, transducer_at
from plumbbob.core.sonar.shadow_height import ground_range, height_from_shadow, place_spread, without_shadow
from plumbbob.core.stats import running_extreme, running_mean
from plumbbob.core.types import Bytes, Floats, Levels

_BLOCK_PINGS, _OVERLAP_PINGS = 512, 64
_LEAST_PULSE_M = 0.06
_NEAR_M = 0.6  # nothing is told from the transducer's own ringing nearer than this
_FISH_M, _FISH_PINGS = 0.8, 4  # longest along the track, most pings of the kernel
_SEEN_M = 0.6  # of way in which a fish shows: its own length and the fan's
_BRIGHT = 6.5  # mean over kernel, times the usual level
_BRIGHT_WITH_SHADOW = 4.6
_AT_FIRST_RETURN = 3  # so many times brighter within...
_FIRST_RETURN_M = 0.7  # ...this distance behind it
_SHADOW_EVIDENCE, _SHADOW_WITH_LESS = 9.5, 12.0
_NEAR_SHADOW_M, _NEAR_SHADOW_EVIDENCE = 3.0, 8.0  # fewer places to look at, so fewer false ones
_SHADOW_LEVEL = 0.5
_SHADOW_SAMPLES = (5, 8, 12, 18)
_IN_WATER_MARGIN_M = 0.25
_ALTITUDE_SD_M = 0.1
_WITNESS_S = 2.0  # a down ping further away in time says nothing
_THING_TIMES, _THING_AREA_M2, _THING_HEIGHT_M = 3.0, 0.7, 0.4
_EDGE_LENGTH_M, _EDGE_LEAST_M, _EDGE_DB, _EDGE_TREND_M = 8.0, 0.6, 3.5, 9.0
_TIMBER_HEIGHT_M, _TIMBER_LENGTH_M = 1.5, 3.0
_THING_LENGTH_M, _TRUNK_SHADOW_M = 0.6, 2.5
_DARK, _DARKISH = 0.4, 0.52  # times the usual level
_BROKEN_M, _GAP_M, _BODY_M, _BODY_TIMES = 0.5, 0.4, 4.0, 2.5
_ONE_THING_S, _ONE_THING_M = 4.0, 4.0
_FADES_M = 1.5  # so near to the end of the range a shadow's end is not its end
_STRUNG_FISH, _STRUNG_GAP_M, _STRUNG_ASIDE_M, _STRUNG_HEIGHT_M = 4, 15.0, 4.0, 2.0
_BESIDE_M = 4.0


@dataclass(frozen=True, slots=True)
class _Both:
    """Both sides as one, their levels averaged: where the first return shows in either."""

    side: Side

    @property
    def shape(self) -> tuple[int, ...]:
        return self.side.port.shape

    def read(self, start: int, stop: int) -> Bytes:
        port, starboard = self.side.port.read(start, stop), self.side.starboard.read(start, stop)
        return (port >> 1) + (starboard >> 1)


def altitude(recording: Recording, bottom: Bottom | None = None) -> Floats:
    """
    Height of the side view's transducer over the bottom, shape (pings,); NaN where neither view tells.

    Parameters
    ----------
    recording : Recording
    bottom : Bottom, optional
        Of the down view, which is the better witness; the first return on either side fills in.

    Notes
    -----
    Where the bottom falls away across the track the first return comes from the higher side and is too short: that is
    why the down view is asked first.
    """
    side = recording.side
    if side is None or not len(side):
        return np.zeros(0)
    found = np.full(len(side), np.nan)
    known = np.isfinite(bottom.below_m) if bottom is not None and bottom.below_m.size == bottom.time.size else None
    if bottom is not None and known is not None and known.any():
        times = bottom.time[known]
        i = np.clip(np.searchsorted(times, side.time), 1, max(times.size - 1, 1))
        far = np.minimum(np.abs(side.time - times[i - 1]), np.abs(times[np.minimum(i, times.size - 1)] - side.time))
        found = np.interp(side.time, times, bottom.below_m[known]) - side.mount.depth_m
        found[far > _WITNESS_S] = np.nan
    if np.isfinite(found).all():
        return found
    as_down = Down(
        time=side.time,
        range_start_m=side.range_start_m,
        range_step_m=side.range_step_m,
        scale_db=side.scale_db,
        offset_db=side.offset_db,
        frequency_hz=side.frequency_hz,
        pulse_length_s=2 * pulse_m(side) / side.sound_speed_mps,
        tvg=side.tvg,
        mount=side.mount,
        sound_speed_mps=side.sound_speed_mps,
        echo=_Both(side),
        beam_width_deg=20.0,
    )
    coarse = make_coarse(as_down, lambda _pings: None)
    first = bottoms.follow(coarse, side.typical_interval_s, lambda _pings: None) - side.mount.depth_m
    return np.where(np.isfinite(found), found, first)


def pulse_m(view: Side) -> float:
    """Range resolution: half the pulse in water; where the recording does not tell it, some samples."""
    if math.isfinite(view.pulse_length_s):
        return view.pulse_m
    step = float(np.median(view.range_step_m)) if len(view) else _LEAST_PULSE_M
    return max(2.0 * step, _LEAST_PULSE_M)


def read_side(
    recording: Recording, bottom: Bottom | None = None, *, progress: Callable[[float], None] = lambda _: None
) -> SideReading | None:
    """
    Everything that can be told from a recording's view to the side; None where it has none.

    Parameters
    ----------
    recording : Recording
    bottom : Bottom, optional
        Of the down view of the same recording.
    progress : callable
        Hears the share done, 0 to 1; may raise to stop.
    """
    side = recording.side
    if side is None:
        return None
    if len(side) < 8 or side.samples < 32:
        return SideReading(time=side.time, altitude_m=np.full(len(side), np.nan))
    height = altitude(recording, bottom)
    places = transducer_at(recording.track, side.mount, side.time)
    scene = _Scene(side, height, places, distance_along(side.time, places.speed_mps))
    fish: list[SideFish] = []
    things: list[SideThing] = []
    usual = _usual_speckle(scene)
    blocks = list(range(0, len(side), _BLOCK_PINGS))
    for n, start in enumerate(blocks):
        for which in SIDES:
            display = _look(scene, which, start, usual)
            if display is None:
                continue
            found_things, covered = _things(scene, display)
            things.extend(found_things + _edges(scene, display))
            fish.extend(_fish(scene, display, covered))
        progress((n + 1) / len(blocks))
    fish = _apart(sorted(fish, key=lambda f: f.time))
    things = _one_each(sorted(things, key=lambda t: t.time))
    fish = [_beside(f, things, scene) for f in fish]
    return SideReading(
        time=side.time,
        altitude_m=height,
        fish=tuple(fish),
        things=tuple(things),
        strung=tuple(_strung(fish, scene)),
    )


@dataclass(frozen=True, slots=True, eq=False)
class _Scene:
    side: Side
    altitude_m: Floats
    places: TransducerTrack
    way_m: Floats

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
    def fish_pings(self) -> int:
        """How many pings a fish is seen in at the usual speed: what a spot is averaged over."""
        speed = self.places.speed_mps
        if not np.isfinite(speed).any():
            return _FISH_PINGS
        per_ping = float(np.nanmedian(speed)) * self.side.typical_interval_s
        return int(np.clip(round(_SEEN_M / max(per_ping, 0.01)), 2, _FISH_PINGS))

    def way_between(self, first: int, last: int) -> float:
        return float(self.way_m[last] - self.way_m[first])


@dataclass(frozen=True, slots=True, eq=False)
class _Look:
    """One side of a run of pings, levels over the usual one. `ours` are the pings that count; the rest is overlap."""

    which: str
    first: int
    ours: slice
    level: Levels  # (pings, samples) as stored
    times: Levels  # (pings, samples) power over the usual power
    spot: Levels  # the same, smoothed with the kernel of a fish
    range_m: Floats
    bed: NDArray[np.intp]  # (pings,) sample of the first return
    bright: float  # what a spot needs to be told from speckle


def _usual_speckle(scene: _Scene) -> float:
    """How much brighter than speckle this recording's bottom is patchy: 1 for a plain one."""
    side = scene.side
    shares = []
    for start in np.linspace(0, max(len(side) - 96, 0), 6).astype(int):
        display = _look(scene, "port", int(start), 1.0, pings=96)
        if display is not None:
            after = np.arange(display.range_m.size)[None, :] > display.bed[:, None] + 20
            if after.any():
                shares.append(float(np.quantile(display.spot[after], 0.998)))
    # a gamma of about eight looks stays under 2.5 so often
    return max(float(np.median(shares)) / 2.5, 1.0) if shares else 1.0


def _look(scene: _Scene, which: str, start: int, patchy: float, pings: int = _BLOCK_PINGS) -> _Look | None:
    side = scene.side
    first, last = max(start - _OVERLAP_PINGS, 0), min(start + pings + _OVERLAP_PINGS, len(side))
    block = read_block(side, first, last, side.echo_of(which))
    n, samples = block.raw.shape
    height = scene.altitude_m[first:last]
    if n < 8 or samples < 32:
        return None
    known = np.isfinite(height)
    bed_m = np.interp(np.arange(n), np.flatnonzero(known), height[known]) if known.any() else np.zeros(n)
    bed = np.clip(np.rint((bed_m - block.range_m[0]) / block.step_m).astype(np.intp), 0, samples - 1)
    raw = block.raw.astype(np.float32)
    shift = bed - int(np.median(bed))
    level = _shifted(raw, shift)
    # along the track at the same distance behind the first return, the middle left out
    wide, inner = min(41, 2 * (n // 2) - 1), 9
    around = (running_mean(level, wide, 0) * wide - running_mean(level, inner, 0) * inner) / max(wide - inner, 1)
    around = running_mean(around, 3, 1)
    # the first return trembles from ping to ping: there the louder of some samples counts
    edge = np.abs(np.arange(samples) - int(np.median(bed))) < int(_FIRST_RETURN_M / block.step_m)
    around[:, edge] = running_extreme(around, 5, 1, largest=True)[:, edge]
    # along the range, the quieter of both neighbours: a patch of hard bottom is no fish, and an edge no patch
    near = running_mean(running_mean(level, 20, 1), 5, 0)
    gap = 16
    ahead = np.concatenate([near[:, gap:], np.repeat(near[:, -1:], gap, axis=1)], axis=1)
    behind = np.concatenate([np.repeat(near[:, :1], gap, axis=1), near[:, :-gap]], axis=1)
    least = 9.0 / side.scale_db  # quiet water reads as the floor of the scale: stay above it
    usual = _shifted(np.maximum(np.maximum(around, np.minimum(ahead, behind)), least), -shift)
    scale = np.float32(side.scale_db * math.log(10) / 10)
    offset = np.float32(MEAN_OF_LOG_DB * math.log(10) / 10)
    spot_power = np.exp((raw - usual) * scale + offset)
    kernel = max(round(pulse_m(side) / block.step_m) + 1, 3)
    spot = running_mean(running_mean(spot_power, scene.fish_pings, 0), kernel, 1)
    # shadows are judged against the track's neighbours alone: the range's would hide those near an echo
    track = _shifted(np.maximum(running_mean(around, 9, 1), 0.3 * least), -shift)
    times = np.exp((raw - track) * scale + offset)
    return _Look(
        which=which,
        first=first,
        ours=slice(start - first, min(start + pings, len(side)) - first),
        level=raw,
        times=times,
        spot=spot,
        range_m=block.range_m,
        bed=bed,
        bright=_BRIGHT * patchy,
    )


def _shifted(values: Levels, by: NDArray[np.intp]) -> Levels:
    """Rows moved along the range; the ends repeat."""
    if not by.any():
        return values
    index = np.clip(np.arange(values.shape[1])[None, :] + by[:, None], 0, values.shape[1] - 1)
    return np.take_along_axis(values, index, axis=1)


def _fish(scene: _Scene, display: _Look, covered: NDArray[np.bool_]) -> Iterator[SideFish]:
    step = float(display.range_m[1] - display.range_m[0])
    least = display.bright * _BRIGHT_WITH_SHADOW / _BRIGHT
    window = (9, max(int(0.5 / step) | 1, 3))
    peaks = display.spot == ndimage.maximum_filter(display.spot, window)
    skip = int(np.searchsorted(display.range_m, _NEAR_M))
    peaks[:, :skip] = False
    peaks[: display.ours.start] = False
    peaks[display.ours.stop :] = False
    peaks &= (display.spot >= least) & ~covered
    for i, j in zip(*np.nonzero(peaks), strict=True):
        slant = float(display.range_m[j])
        ping = display.first + int(i)
        height = float(scene.altitude_m[ping])
        behind = slant - height
        need = display.bright * (_AT_FIRST_RETURN if abs(behind) < _FIRST_RETURN_M else 1.0)
        if abs(behind) < _IN_WATER_MARGIN_M and display.spot[i, j] < 4 * need:
            continue
        if not _compact(scene, display, int(i), int(j), slant):
            continue
        shadow, evidence = _shadow(display, int(i), int(j), height)
        enough = display.spot[i, j] >= need
        if not enough and not (
            evidence >= _SHADOW_WITH_LESS and display.spot[i, j] >= need * _BRIGHT_WITH_SHADOW / _BRIGHT
        ):
            continue
        near = shadow - slant < _NEAR_SHADOW_M
        if evidence < (_NEAR_SHADOW_EVIDENCE if near else _SHADOW_EVIDENCE):
            shadow = math.nan
        yield _one_fish(scene, display, ping, slant, height, shadow, float(display.spot[i, j]))


def _compact(scene: _Scene, display: _Look, i: int, j: int, slant: float) -> bool:
    """Whether a bright spot is no longer than a fish in this fan."""
    side = scene.side
    step = float(display.range_m[1] - display.range_m[0])
    loud = display.spot[:, j] > max(display.spot[i, j] / 4, 2.5)
    a = b = i
    while a > 0 and loud[a - 1]:
        a -= 1
    while b < loud.size - 1 and loud[b + 1]:
        b += 1
    way = scene.way_between(display.first + a, display.first + b)
    fan = slant * math.radians(side.beam_width_along_deg)
    if math.isfinite(way) and way > _FISH_M + 3.0 * fan + 0.6:
        return False
    row = display.spot[i] > max(display.spot[i, j] / 4, 2.5)
    a = b = j
    while a > 0 and row[a - 1]:
        a -= 1
    while b < row.size - 1 and row[b + 1]:
        b += 1
    return (b - a + 1) * step < 0.8 + 4 * pulse_m(side)


def _shadow(display: _Look, i: int, j: int, height: float) -> tuple[float, float]:
    """
    Where behind an echo its shadow lies, and the evidence for it.

    Notes
    -----
    Speckle has mean one; in a shadow there is little. The evidence of n independent looks with mean D against mean
    one is n (D - 1 - ln D), the logarithm of the ratio of likelihoods; the largest over windows of some pings and
    lengths wins.
    """
    if not math.isfinite(height):
        return math.nan, 0.0
    step = float(display.range_m[1] - display.range_m[0])
    start = max(j + max(int(0.15 / step), 3), int(np.searchsorted(display.range_m, height + 0.25)))
    stop = display.range_m.size - 2
    if stop - start < _SHADOW_SAMPLES[-1]:
        return math.nan, 0.0
    best, where = 0.0, math.nan
    independent = step / max(2.0 * step, _LEAST_PULSE_M)
    for a, b in ((i - 2, i), (i - 1, i + 1), (i, i + 2), (i - 1, i + 2), (i - 2, i + 1), (i, i + 3)):
        a, b = max(a, 0), min(b, display.times.shape[0])
        mean = np.minimum(display.times[a:b, start:stop], 6.0).mean(axis=0)
        total = np.concatenate(([0.0], np.cumsum(mean, dtype=np.float64)))
        for width in _SHADOW_SAMPLES:
            dark = np.clip((total[width:] - total[:-width]) / width, 0.04, 1.0)
            looks = (b - a) * width * independent
            evidence = np.where(dark < _SHADOW_LEVEL, looks * (dark - 1 - np.log(dark)), 0.0)
            k = int(np.argmax(evidence))
            if evidence[k] > best:
                best, where = float(evidence[k]), float(display.range_m[start + k] + (width - 1) * step / 2)
    return where, best


def _one_fish(
    scene: _Scene, display: _Look, ping: int, slant: float, height: float, shadow: float, spot: float
) -> SideFish:
    up = float(height_from_shadow(slant, shadow, height)) if math.isfinite(shadow) else math.nan
    low = math.nan
    if math.isfinite(up) and math.isfinite(height):
        low = slant**2 - (height - up) ** 2
        step = pulse_m(scene.side)
        up_sd = math.hypot(height * slant / shadow**2 * 2 * step, _ALTITUDE_SD_M * up / height)
        ground = math.sqrt(max(low, 0.0))
        ground_sd = math.hypot(0.1, (height - up) / max(ground, 0.5) * up_sd)
    else:
        up_sd = math.nan
        across = scene.side.beam_width_across_deg
        least, most = without_shadow(slant, height, across_deg=across) if math.isfinite(height) else (0.0, slant)
        ground, ground_sd = (least + most) / 2, max((most - least) / math.sqrt(12), 0.1)
    latitude, longitude = scene.place(ping, display.which, ground)
    return SideFish(
        time=float(scene.side.time[ping]),
        side=display.which,
        slant_m=slant,
        ground_m=ground,
        ground_sd_m=ground_sd,
        height_m=up,
        height_sd_m=up_sd,
        depth_m=scene.side.mount.depth_m + height - up,
        shadow_m=shadow,
        altitude_m=height,
        latitude=latitude,
        longitude=longitude,
        position_sd_m=scene.spread_m(ping, ground_sd, ground),
        level_db=10 * math.log10(max(spot, 1e-3)),
        in_water=bool(slant < height - _IN_WATER_MARGIN_M),
    )


def _apart(fish: list[SideFish]) -> list[SideFish]:
    """One report a fish: of those close together on one side, the brightest."""
    kept: list[SideFish] = []
    for one in sorted(fish, key=lambda f: -f.level_db):
        if not any(
            f.side == one.side and abs(f.time - one.time) < 1.5 and abs(f.slant_m - one.slant_m) < 0.7 for f in kept
        ):
            kept.append(one)
    return sorted(kept, key=lambda f: f.time)


def _things(scene: _Scene, display: _Look) -> tuple[list[SideThing], NDArray[np.bool_]]:
    """Shadows too large for a fish's, with what throws them; and where no single fish is to be looked for."""
    side, step = scene.side, float(display.range_m[1] - display.range_m[0])
    n = display.times.shape[0]
    speed = scene.places.speed_mps[display.first : display.first + n]
    per_ping = float(np.nanmedian(speed)) * side.typical_interval_s if np.isfinite(speed).any() else 0.15
    per_ping = max(per_ping, 0.02)
    quiet = running_mean(running_mean(np.minimum(display.times, 4.0), 5, 0), max(int(0.4 / step), 3), 1)
    # what is dark for certain, and what goes on from it a little less so
    dark = ndimage.binary_propagation(quiet < _DARK, mask=quiet < _DARKISH)
    samples = np.arange(display.range_m.size)
    dark &= samples[None, :] > (display.bed + int(0.4 / step))[:, None]
    # far out a shadow fades and breaks up: pieces close together are one
    dark = ndimage.binary_closing(dark, np.ones((3, max(int(_BROKEN_M / step), 1) | 1), bool))
    labels, count = ndimage.label(dark)
    covered = np.zeros(dark.shape, bool)
    found: list[SideThing] = []
    sizes = np.bincount(labels.ravel(), minlength=count + 1)
    for k, window in enumerate(ndimage.find_objects(labels), start=1):
        if sizes[k] * step * per_ping < _THING_AREA_M2:
            continue
        thing, cover = _thing(scene, display, labels, k, window, per_ping)
        if cover is not None:
            covered[cover] = True
        if thing is not None:
            found.append(thing)
    return found, covered


def _thing(
    scene: _Scene, display: _Look, labels: NDArray[np.int32], k: int, window: tuple[slice, slice], per_ping: float
) -> tuple[SideThing | None, tuple[slice, slice] | None]:
    step = float(display.range_m[1] - display.range_m[0])
    here = labels[window] == k
    rows = np.flatnonzero(here.any(axis=1))
    starts = here.argmax(axis=1)[rows] + window[1].start
    ends = here.shape[1] - 1 - here[:, ::-1].argmax(axis=1)[rows] + window[1].start
    pings = rows + window[0].start
    # what throws it is bright and lies right before it
    reach = max(int(1.5 / step), 4)
    bright = np.array([display.spot[p, max(s - reach, 0) : s].max() for p, s in zip(pings, starts, strict=True)])
    if np.median(bright) < _THING_TIMES:
        return None, None
    near = [_bright_from(display.spot[p], s, step) for p, s in zip(pings, starts, strict=True)]
    middle = int(np.median(pings))
    height = float(scene.altitude_m[min(display.first + middle, len(scene.side) - 1)])
    slant, shadow = (
        float(display.range_m[int(np.median(starts))]),
        float(display.range_m[int(np.percentile(ends, 75))]),
    )
    fan = slant * math.radians(scene.side.beam_width_along_deg)
    if rows.size * per_ping - fan < _THING_LENGTH_M and shadow - slant < _TRUNK_SHADOW_M:
        return None, None  # as short as a fish's
    up = float(height_from_shadow(slant, shadow, height))
    if not up > _THING_HEIGHT_M:
        return None, None
    cut_off = shadow > float(display.range_m[-1]) - _FADES_M
    cover = (
        slice(max(int(pings[0]) - 3, 0), int(pings[-1]) + 4),
        slice(max(min(near) - 2, 0), int(ends.max()) + 1),
    )
    if not display.ours.start <= middle < display.ours.stop:
        return None, cover
    length = scene.way_between(display.first + int(pings[0]), display.first + int(pings[-1]))
    spread = float(np.std(display.range_m[ends])) if ends.size > 1 else 0.0
    up_sd = math.hypot(height * slant / shadow**2 * max(spread, 0.1), _ALTITUDE_SD_M * up / max(height, 0.1))
    ground = float(ground_range(shadow, height)) * slant / shadow
    ping = display.first + middle
    latitude, longitude = scene.place(ping, display.which, ground)
    kind = "timber" if up >= _TIMBER_HEIGHT_M and not length >= _TIMBER_LENGTH_M else "brush"
    return SideThing(
        kind=kind,
        time_start=float(scene.side.time[display.first + int(pings[0])]),
        time_end=float(scene.side.time[display.first + int(pings[-1])]),
        side=display.which,
        slant_m=slant,
        shadow_m=shadow,
        ground_m=ground,
        ground_sd_m=max(spread, 0.2),
        height_m=up,
        height_sd_m=up_sd,
        length_m=length,
        latitude=latitude,
        longitude=longitude,
        at_least=cut_off,
    ), cover


def _bright_from(row: Levels, start: int, step: float) -> int:
    """First sample of the brightness right before a shadow; it may have short gaps."""
    gap, at, dull = max(int(_GAP_M / step), 2), int(start), 0
    for j in range(int(start) - 1, max(int(start) - int(_BODY_M / step), 0), -1):
        if row[j] > _BODY_TIMES:
            at, dull = j, 0
        else:
            dull += 1
            if dull > gap and at < start:
                break
    return at


def _edges(scene: _Scene, display: _Look) -> list[SideThing]:
    """
    Drops away from the boat: long dark bands along the track, bright ground before and behind them.

    Notes
    -----
    The lip hides the slope below it: the ray past the lip lands at Re on the lower floor, so the drop is
    H (Re - Rt) / Rt with H the altitude over the lip.
    """
    side, step = scene.side, float(display.range_m[1] - display.range_m[0])
    smooth = running_mean(
        running_mean(display.level, min(21, display.level.shape[0] | 1), 0), max(int(0.3 / step), 1), 1
    )
    wide = min(int(_EDGE_TREND_M / step), smooth.shape[1] // 3)
    # a closing fills valleys narrower than it is wide: what lies far under it is a dark band
    filled = running_extreme(running_extreme(smooth, wide | 1, 1, largest=True), wide | 1, 1, largest=False)
    dark = smooth < filled - _EDGE_DB / side.scale_db
    samples = np.arange(display.range_m.size)
    dark &= samples[None, :] > (display.bed + int(2.0 / step))[:, None]
    labels, _ = ndimage.label(dark)
    found = []
    for k, window in enumerate(ndimage.find_objects(labels), start=1):
        here = labels[window] == k
        rows = np.flatnonzero(here.any(axis=1))
        pings = rows + window[0].start
        length = scene.way_between(display.first + int(pings[0]), display.first + int(pings[-1]))
        middle = int(np.median(pings))
        if not length >= _EDGE_LENGTH_M or not display.ours.start <= middle < display.ours.stop:
            continue
        starts = here.argmax(axis=1)[rows] + window[1].start
        ends = here.shape[1] - here[:, ::-1].argmax(axis=1)[rows] + window[1].start
        lip, end = float(display.range_m[int(np.median(starts))]), int(np.median(ends))
        if end >= display.range_m.size - int(_FADES_M / step) or (end - np.median(starts)) * step < _EDGE_LEAST_M:
            continue
        ping = display.first + middle
        height, landed = float(scene.altitude_m[ping]), float(display.range_m[end])
        drop = height * (landed - lip) / lip
        ground = float(ground_range(lip, height))
        if not math.isfinite(ground):
            continue
        spread = float(np.std(display.range_m[starts]))
        latitude, longitude = scene.place(ping, display.which, ground)
        found.append(
            SideThing(
                kind="edge",
                time_start=float(side.time[display.first + int(pings[0])]),
                time_end=float(side.time[display.first + int(pings[-1])]),
                side=display.which,
                slant_m=lip,
                shadow_m=landed,
                ground_m=ground,
                ground_sd_m=max(spread, 0.3),
                height_m=drop,
                height_sd_m=max(height / lip * 2 * step, 0.2 * drop),
                length_m=length,
                latitude=latitude,
                longitude=longitude,
            )
        )
    return found


def _one_each(things: list[SideThing]) -> list[SideThing]:
    """One report a thing: of pieces close together, the tallest."""
    kept: list[SideThing] = []
    for one in sorted(things, key=lambda t: -t.height_m):
        if not any(
            k.side == one.side
            and (k.kind == "edge") == (one.kind == "edge")
            and one.time_start - k.time_end < _ONE_THING_S
            and k.time_start - one.time_end < _ONE_THING_S
            and abs(k.ground_m - one.ground_m) < _ONE_THING_M
            for k in kept
        ):
            kept.append(one)
    return sorted(kept, key=lambda t: t.time)


def _beside(fish: SideFish, things: list[SideThing], scene: _Scene) -> SideFish:
    ping = int(np.searchsorted(scene.side.time, fish.time))
    for thing in things:
        if thing.side != fish.side or thing.kind == "edge":
            continue
        a, b = (int(np.searchsorted(scene.side.time, t)) for t in (thing.time_start, thing.time_end))
        off = (
            0.0
            if a <= ping <= b
            else min(abs(scene.way_between(min(ping, k), max(ping, k))) for k in (a, min(b, len(scene.side) - 1)))
        )
        if math.hypot(off, max(abs(fish.ground_m - thing.ground_m) - fish.ground_sd_m, 0.0)) < _BESIDE_M:
            return replace(fish, beside=thing.kind)
    return fish


def _strung(fish: list[SideFish], scene: _Scene) -> Iterator[Strung]:
    """Lines of fish near the bottom: each within some metres along and aside of the one before."""
    for which in SIDES:
        line: list[int] = []
        for k, one in enumerate(fish):
            if one.side != which or one.in_water or (math.isfinite(one.height_m) and one.height_m > _STRUNG_HEIGHT_M):
                continue
            if line:
                last = fish[line[-1]]
                a, b = (min(int(np.searchsorted(scene.side.time, f.time)), len(scene.side) - 1) for f in (last, one))
                if scene.way_between(a, b) > _STRUNG_GAP_M or abs(one.ground_m - last.ground_m) > _STRUNG_ASIDE_M:
                    yield from _line(line, fish, which)
                    line = []
            line.append(k)
        yield from _line(line, fish, which)


def _line(line: list[int], fish: list[SideFish], which: str) -> Iterator[Strung]:
    if len(line) >= _STRUNG_FISH:
        yield Strung(side=which, fish=tuple(line), time_start=fish[line[0]].time, time_end=fish[line[-1]].time)
