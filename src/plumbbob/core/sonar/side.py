"""
Reads the view to the side: how high the transducer is, fish with their shadows, things that stand.

One look at a run of pings (`side_look`) serves two readers: of fish (`side_fish`) and of what stands (`side_things`).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

import numpy as np

from plumbbob.core.sonar import bottom as bottoms
from plumbbob.core.sonar.coarse import make_coarse
from plumbbob.core.sonar.reading import Bottom, SideFish, SideReading, SideThing, Strung
from plumbbob.core.sonar.recording import SIDES, Down, Recording, Side, distance_along, transducer_at
from plumbbob.core.sonar.side_fish import FishFinder, without_height
from plumbbob.core.sonar.side_look import SideScene, learn_clutter, look_at, pulse_m
from plumbbob.core.sonar.side_things import find_edges, find_things, one_each
from plumbbob.core.types import Bytes, Floats

_BLOCK_PINGS = 512
_WITNESS_S = 2.0  # a down ping further away in time says nothing
_SAME_S, _SAME_IN_WATER_S, _SAME_M = 1.5, 2.5, 0.7  # echoes so close together are of one fish
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
    scene = SideScene(side, height, places, distance_along(side.time, places.speed_mps))
    finder = FishFinder(scene, learn_clutter(scene))
    things: list[SideThing] = []
    blocks = list(range(0, len(side), _BLOCK_PINGS))
    for n, start in enumerate(blocks):
        for which in SIDES:
            look = look_at(scene, which, start, _BLOCK_PINGS)
            if look is None:
                continue
            found_things, covered = find_things(scene, look)
            things.extend(found_things + find_edges(scene, look))
            finder.add(look, covered)
        progress((n + 1) / len(blocks))
    fish = _apart(finder.fish())
    things = one_each(sorted(things, key=lambda t: t.time))
    fish = [_beside(without_height(scene, f) if _past_an_edge(f, things) else f, things, scene) for f in fish]
    return SideReading(
        time=side.time,
        altitude_m=height,
        fish=tuple(fish),
        things=tuple(things),
        strung=tuple(_strung(fish, scene)),
    )


def _apart(fish: list[SideFish]) -> list[SideFish]:
    """One report a fish: of those close together on one side, the likeliest."""
    kept: list[SideFish] = []
    for one in sorted(fish, key=lambda f: -f.chance):
        near = _SAME_IN_WATER_S if one.in_water else _SAME_S
        if not any(
            f.side == one.side and abs(f.time - one.time) < near and abs(f.slant_m - one.slant_m) < _SAME_M
            for f in kept
        ):
            kept.append(one)
    return sorted(kept, key=lambda f: f.time)


def _past_an_edge(fish: SideFish, things: list[SideThing]) -> bool:
    """Its shadow lies beyond the lip of a drop, where the bottom is another."""
    return any(
        t.kind == "edge"
        and t.side == fish.side
        and t.time_start - _SAME_S <= fish.time <= t.time_end + _SAME_S
        and fish.shadow_m > t.slant_m
        for t in things
    )


def _beside(fish: SideFish, things: list[SideThing], scene: SideScene) -> SideFish:
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


def _strung(fish: list[SideFish], scene: SideScene) -> Iterator[Strung]:
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
