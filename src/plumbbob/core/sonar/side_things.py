"""Things that stand to the sides, by their shadows, and edges of drops: longer and thicker than any fish."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.reading import SideThing
from plumbbob.core.sonar.shadow_height import ground_range, height_from_shadow
from plumbbob.core.sonar.side_look import SideLook, SideScene
from plumbbob.core.stats import closed, running_extreme, running_mean
from plumbbob.core.types import Levels

_ALTITUDE_SD_M = 0.1
_THING_TIMES, _THING_AREA_M2, _THING_HEIGHT_M = 3.0, 0.7, 0.4
_EDGE_LENGTH_M, _EDGE_LEAST_M, _EDGE_DB, _EDGE_TREND_M = 8.0, 0.6, 3.5, 9.0
# soft ground and rows of stones are dark too: a lip is a line, steep in level, and its shadow is evenly dark along it
_LIP_ROUGH_M, _LIP_FALL_DB, _SHADOW_UNEVEN_DB = 0.7, 3.0, 1.7
_TIMBER_HEIGHT_M, _TIMBER_LENGTH_M = 1.5, 3.0
_THING_LENGTH_M, _TRUNK_SHADOW_M = 0.6, 2.5
_DARK, _DARKISH = 0.4, 0.52  # times the usual level
_BROKEN_M, _GAP_M, _BODY_M, _BODY_TIMES = 0.5, 0.4, 4.0, 2.5
_ONE_THING_S, _ONE_THING_M = 4.0, 4.0
_FADES_M = 1.5  # so near to the end of the range a shadow's end is not its end


def find_things(scene: SideScene, display: SideLook) -> tuple[list[SideThing], NDArray[np.bool_]]:
    """Shadows too large for a fish's, with what throws them; and where no single fish is to be looked for."""
    side, step = scene.side, display.step_m
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
    dark = closed(dark, 3, max(int(_BROKEN_M / step), 1) | 1)
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
    scene: SideScene,
    display: SideLook,
    labels: NDArray[np.int32],
    k: int,
    window: tuple[slice, slice],
    per_ping: float,
) -> tuple[SideThing | None, tuple[slice, slice] | None]:
    step = display.step_m
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
    ping = display.first + middle
    ground = float(ground_range(shadow, height, scene.bed.rise_deg(ping, display.which))) * slant / shadow
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


def find_edges(scene: SideScene, display: SideLook) -> list[SideThing]:
    """
    Drops away from the boat: long dark bands along the track, bright ground before and behind them.

    Notes
    -----
    The lip hides the slope below it: the ray past the lip lands at Re on the lower floor, so the drop is
    H (Re - Rt) / Rt with H the altitude over the lip.
    """
    side, step = scene.side, display.step_m
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
        if not _is_shadow_of_a_lip(smooth * side.scale_db, pings, starts, ends, step):
            continue
        ping = display.first + middle
        height, landed = float(scene.altitude_m[ping]), float(display.range_m[end])
        drop = height * (landed - lip) / lip
        ground = float(ground_range(lip, height, scene.bed.rise_deg(ping, display.which)))
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


def _is_shadow_of_a_lip(
    level_db: Levels, pings: NDArray[np.intp], starts: NDArray[np.intp], ends: NDArray[np.intp], step: float
) -> bool:
    """Whether a dark band begins along one smooth line, with a fall in level, and is as dark from end to end."""
    line = np.polyval(np.polyfit(pings - pings[0], starts, 2), pings - pings[0])
    if float(np.std(starts - line)) * step > _LIP_ROUGH_M:
        return False
    lip, end, near = int(np.median(starts)), int(np.median(ends)), max(int(1.0 / step), 2)
    shadow = level_db[pings, lip:end].mean(axis=1)
    before = level_db[pings, max(lip - near, 0) : lip].mean(axis=1)
    return bool(np.median(before) - np.median(shadow) >= _LIP_FALL_DB and np.std(shadow) <= _SHADOW_UNEVEN_DB)


def one_each(things: list[SideThing]) -> list[SideThing]:
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
