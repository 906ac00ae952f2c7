"""What a person says of fish seen to the sides and ahead; the same rules as for the view down."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from plumbbob.core import geodesy as geo
from plumbbob.core.sonar.corrections import Act, Correction, apply
from plumbbob.core.sonar.reading import (
    ForwardReading,
    ForwardTarget,
    Reading,
    SideFish,
    SideReading,
    SideThing,
)
from plumbbob.core.sonar.recording import SIDES, Recording, transducer_at
from plumbbob.core.sonar.shadow_height import without_shadow

AHEAD = "ahead"
SIDE_LABELS = ("fish", "brush", "timber", "unknown")  # what an echo to the side can be called by hand
_REACH_S, _REACH_M = 1.5, 0.8
_SAME_S, _SAME_M = 0.4, 0.3  # so near it is the same fish
_HALF_THING_S = 0.3
_BY_HAND_SD_M, _FIX_SD_M = 0.3, 1.5


def about_view(
    echo: SideFish | SideThing | ForwardTarget, act: Act, *, label: str = "", to: tuple[float, float] = (0.0, 0.0)
) -> Correction:
    """A correction of an echo to one side (by time and slant range) or ahead (by time and depth)."""
    if isinstance(echo, ForwardTarget):
        k = echo.best
        return Correction(act=act, what=AHEAD, time=float(echo.time[k]), depth_m=float(echo.depth_m[k]))
    return Correction(
        act=act,
        what=echo.side,
        time=echo.time,
        depth_m=echo.slant_m,
        level_db=echo.level_db if isinstance(echo, SideFish) else 0.0,
        label=label,
        to_time=to[0],
        to_depth_m=to[1],
    )


def side_label(echo: SideFish | SideThing) -> str:
    """What an echo to the side is called."""
    return "fish" if isinstance(echo, SideFish) else echo.kind


def corrected(reading: Reading, corrections: Sequence[Correction], recording: Recording) -> Reading:
    """A reading of all views with everything that was said of it, in the order it was said."""
    return apply_views(apply(reading, corrections, recording), corrections, recording)


def apply_views(reading: Reading, corrections: Sequence[Correction], recording: Recording) -> Reading:
    """
    The side's and the forward view's fish with everything that was said of them.

    What was accepted but is not in a new reading is not made up; what was drawn or moved to the sides is put in.
    """
    side, ahead = reading.side, reading.ahead
    for said in corrections:
        if said.what in SIDES and side is not None:
            side = _side(side, said, recording)
        elif said.what == AHEAD and ahead is not None:
            ahead = _ahead(ahead, said)
    return replace(reading, side=side, ahead=ahead)


def _side(side: SideReading, said: Correction, recording: Recording) -> SideReading:
    if said.act is Act.DRAW:
        return _where_lacking(side, recording, said.what, said.time, said.depth_m, "drawn")
    if said.act is Act.RELABEL:
        return _called(side, said, recording)
    near = [
        (abs(f.time - said.time) / _REACH_S + abs(f.slant_m - said.depth_m) / _REACH_M, k)
        for k, f in enumerate(side.fish)
        if f.side == said.what and abs(f.time - said.time) < _REACH_S and abs(f.slant_m - said.depth_m) < _REACH_M
    ]
    if not near:
        if said.act is Act.MOVE:  # a new reading lacks it: what a person put there stays
            return _where_lacking(side, recording, said.what, said.to_time, said.to_depth_m, "moved")
        return side
    k = min(near)[1]
    if said.act is Act.ACCEPT:
        kept = (*side.fish[:k], replace(side.fish[k], hand="accepted"), *side.fish[k + 1 :])
        return replace(side, fish=kept)
    if said.act is Act.MOVE:
        moved = _by_hand(side, recording, said.what, said.to_time, said.to_depth_m, "moved")
        return _with(_without(side, k), moved)
    return _without(side, k) if said.act is Act.REJECT else side


def _where_lacking(
    side: SideReading, recording: Recording, which: str, time: float, slant_m: float, hand: str
) -> SideReading:
    """A fish put in by hand, unless the reading has found that very one itself."""
    for k, fish in enumerate(side.fish):
        if fish.side == which and abs(fish.time - time) < _SAME_S and abs(fish.slant_m - slant_m) < _SAME_M:
            return replace(side, fish=(*side.fish[:k], replace(fish, hand=hand), *side.fish[k + 1 :]))
    return _with(side, _by_hand(side, recording, which, time, slant_m, hand))


def _with(side: SideReading, one: SideFish) -> SideReading:
    """A fish more, at its time: lines of fish still mean the same ones."""
    k = bisect_right([f.time for f in side.fish], one.time)
    strung = tuple(replace(s, fish=tuple(i + (i >= k) for i in s.fish)) for s in side.strung)
    return replace(side, fish=(*side.fish[:k], one, *side.fish[k:]), strung=strung)


def _called(side: SideReading, said: Correction, recording: Recording) -> SideReading:
    """A fish becomes something that stands there, that becomes something else, or a fish."""

    def away(echo: SideFish | SideThing) -> float:
        off = abs(echo.time - said.time) / _REACH_S + abs(echo.slant_m - said.depth_m) / _REACH_M
        return off if echo.side == said.what and off < 2.0 else math.inf

    echoes: list[SideFish | SideThing] = [*side.fish, *side.things]
    echo = min(echoes, key=away, default=None)
    if echo is None or not math.isfinite(away(echo)):
        return side
    if isinstance(echo, SideFish):
        side = _without(side, side.fish.index(echo))
    else:
        side = replace(side, things=tuple(t for t in side.things if t is not echo))
    if said.label == "fish":
        return _with(side, _by_hand(side, recording, said.what, echo.time, echo.slant_m, "relabelled"))
    thing = replace(echo, kind=said.label) if isinstance(echo, SideThing) else _thing(echo, said.label)
    return replace(side, things=tuple(sorted((*side.things, thing), key=lambda t: t.time)))


def _thing(fish: SideFish, kind: str) -> SideThing:
    return SideThing(
        kind=kind,
        time_start=fish.time - _HALF_THING_S,
        time_end=fish.time + _HALF_THING_S,
        side=fish.side,
        slant_m=fish.slant_m,
        shadow_m=fish.shadow_m,
        ground_m=fish.ground_m,
        ground_sd_m=fish.ground_sd_m,
        height_m=math.nan,
        height_sd_m=math.nan,
        length_m=math.nan,
        latitude=fish.latitude,
        longitude=fish.longitude,
    )


def _by_hand(side: SideReading, recording: Recording, which: str, time: float, slant_m: float, hand: str) -> SideFish:
    """A fish where a person saw it; how high it hangs nobody knows."""
    height = float(side.altitude_m[int(np.abs(side.time - time).argmin())]) if side.time.size else math.nan
    ground, latitude, longitude = slant_m, math.nan, math.nan
    ground_sd = _BY_HAND_SD_M
    if recording.side is not None:
        if math.isfinite(height):
            least, most = without_shadow(slant_m, height, across_deg=recording.side.beam_width_across_deg)
            ground, ground_sd = (least + most) / 2, math.hypot((most - least) / math.sqrt(12), _BY_HAND_SD_M)
        at = transducer_at(recording.track, recording.side.mount, np.array([time]))
        across = ground if which == "starboard" else -ground
        east, north = geo.along_heading(at.heading_deg[0], 0.0, across)
        latitude, longitude = (float(v) for v in geo.offset(at.latitude[0], at.longitude[0], east, north))
    return SideFish(
        time=time,
        side=which,
        slant_m=slant_m,
        ground_m=ground,
        ground_sd_m=ground_sd,
        height_m=math.nan,
        height_sd_m=math.nan,
        depth_m=math.nan,
        shadow_m=math.nan,
        altitude_m=height,
        latitude=latitude,
        longitude=longitude,
        position_sd_m=math.hypot(ground_sd, _FIX_SD_M),
        level_db=0.0,
        in_water=slant_m < height,
        hand=hand,
    )


def _without(side: SideReading, k: int) -> SideReading:
    strung = tuple(replace(s, fish=tuple(i - (i > k) for i in s.fish if i != k)) for s in side.strung)
    return replace(side, fish=side.fish[:k] + side.fish[k + 1 :], strung=tuple(s for s in strung if len(s.fish) > 2))


def _ahead(ahead: ForwardReading, said: Correction) -> ForwardReading:
    def away(track: ForwardTarget) -> float:
        k = int(abs(track.time - said.time).argmin())
        if abs(track.time[k] - said.time) > _REACH_S or abs(track.depth_m[k] - said.depth_m) > _REACH_M:
            return math.inf
        return float(abs(track.depth_m[k] - said.depth_m))

    found = min(ahead.tracks, key=away, default=None)
    if found is None or not math.isfinite(away(found)):
        return ahead
    if said.act is Act.REJECT:
        return replace(ahead, tracks=tuple(t for t in ahead.tracks if t is not found))
    if said.act is Act.ACCEPT:
        return replace(ahead, tracks=tuple(replace(t, hand="accepted") if t is found else t for t in ahead.tracks))
    return ahead
