"""
Reads the view to the side: how high the transducer is, fish with their shadows, things that stand.

One look at a run of pings (`side_look`) serves two readers: of fish (`side_fish`) and of what stands (`side_things`).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from plumbbob.core.sonar.reading import Bottom, GroundPatch, SideFish, SideReading, SideSchool, SideThing
from plumbbob.core.sonar.recording import SIDES, Recording, distance_along, transducer_at
from plumbbob.core.sonar.side_bed import follow_bed
from plumbbob.core.sonar.side_fish import find_fish, without_height
from plumbbob.core.sonar.side_ground import Looked, UsualGround, looked_at, patches
from plumbbob.core.sonar.side_groups import find_balls, one_ball_once, schools, strung
from plumbbob.core.sonar.side_look import SideScene, learn_clutter, look_at
from plumbbob.core.sonar.side_things import find_edges, find_things, one_each

_BLOCK_PINGS = 512
_SAME_S, _SAME_IN_WATER_S, _SAME_M = 1.5, 2.5, 0.7  # echoes so close together are of one fish
_BESIDE_M = 4.0
_BOTH_M = 0.3
_EDGE = 0.8  # of a tile of weed from its middle: what stands so near is of its bed


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
        nothing = np.full(len(side), np.nan)
        return SideReading(time=side.time, altitude_m=nothing, slope_deg=nothing, slope_sd_deg=nothing)
    bed = follow_bed(side, bottom)
    places = transducer_at(recording.track, side.mount, side.time)
    scene = SideScene(side, bed, places, distance_along(side.time, places.speed_mps))
    clutter = learn_clutter(scene)
    found: list[SideFish] = []
    things: list[SideThing] = []
    balls: list[SideSchool] = []
    ground: list[Looked] = []
    usual = UsualGround.learn(scene)
    blocks = list(range(0, len(side), _BLOCK_PINGS))
    for n, start in enumerate(blocks):
        for which in SIDES:
            look = look_at(scene, which, start, _BLOCK_PINGS)
            if look is None:
                continue
            found_things, covered = find_things(scene, look)
            things.extend(found_things + find_edges(scene, look))
            ground.extend(looked_at(scene, look, usual))
            found_balls, in_ball = find_balls(scene, look)
            balls += found_balls
            found.extend(find_fish(scene, look, clutter, covered | in_ball))
        progress((n + 1) / len(blocks))
    fish = _apart(found)
    kinds = sorted(patches(scene, ground), key=lambda p: p.time_start)
    things = [t for t in one_each(sorted(things, key=lambda t: t.time)) if not _in_weed(t, kinds)]
    fish = [_beside(without_height(scene, f) if _past_an_edge(f, things) else f, things, scene) for f in fish]
    return SideReading(
        time=side.time,
        altitude_m=bed.altitude_m,
        slope_deg=bed.slope_deg,
        slope_sd_deg=bed.slope_sd_deg,
        fish=tuple(fish),
        things=tuple(things),
        strung=tuple(strung(fish, scene)),
        ground=tuple(kinds),
        schools=tuple(sorted([*schools(fish, scene), *one_ball_once(balls)], key=lambda b: b.time_start)),
    )


def _apart(fish: list[SideFish]) -> list[SideFish]:
    """One report a fish: of those close together on one side, the likeliest; under the boat both fans hear it."""
    kept: list[SideFish] = []
    for one in sorted(fish, key=lambda f: (-f.chance, -f.level_db)):
        near = _SAME_IN_WATER_S if one.in_water else _SAME_S
        if not any(
            (f.side == one.side or (f.in_water and one.in_water and abs(f.slant_m - one.slant_m) < _BOTH_M))
            and abs(f.time - one.time) < near
            and abs(f.slant_m - one.slant_m) < _SAME_M
            for f in kept
        ):
            kept.append(one)
    return sorted(kept, key=lambda f: f.time)


def _in_weed(thing: SideThing, ground: list[GroundPatch]) -> bool:
    """A tangle in a bed of weed, or at its ragged edge, is weed."""
    return thing.kind == "brush" and any(
        p.kind == "weed"
        and p.side == thing.side
        and abs(thing.time - (p.time_start + p.time_end) / 2) <= _EDGE * (p.time_end - p.time_start)
        and abs(thing.ground_m - (p.near_m + p.far_m) / 2) <= _EDGE * (p.far_m - p.near_m)
        for p in ground
    )


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
