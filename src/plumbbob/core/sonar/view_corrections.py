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
AHEAD_LABELS = ("fish", "lure")
SIDE_LABELS = ("fish", "brush", "timber", "unknown")  # what an echo to the side can be called by hand
_REACH_S, _REACH_M = 1.5, 0.8
_SAME_S, _SAME_M = 0.4, 0.3  # so near it is the same fish
_HALF_THING_S = 0.3
_BY_HAND_SD_M, _FIX_SD_M, _FAN_SD_DEG = 0.3, 1.5, 6.0


def about_view(
    echo: SideFish | SideThing | ForwardTarget, act: Act, *, label: str = "", to: tuple[float, float] = (0.0, 0.0)
) -> Correction:
    """A correction of an echo to one side (by time and slant range) or ahead (by time and depth)."""
    if isinstance(echo, ForwardTarget):
        k = echo.best
        return Correction(
            act=act,
            what=AHEAD,
            time=float(echo.time[k]),
            depth_m=float(echo.depth_m[k]),
            distance_m=float(echo.distance_m[k]),
            label=label,
        )
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


def moved_ahead(track: ForwardTarget, k: int, distance_m: float, depth_m: float) -> Correction:
    """A track ahead, seen at its frame k, belongs so far away and so deep there."""
    return Correction(
        act=Act.MOVE,
        what=AHEAD,
        time=float(track.time[k]),
        depth_m=float(track.depth_m[k]),
        distance_m=float(track.distance_m[k]),
        to_time=float(track.time[k]),
        to_depth_m=depth_m,
        to_distance_m=distance_m,
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
            ahead = _ahead(ahead, said, recording)
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
    """A fish more, at its time: lines and schools still mean the same ones."""
    k = bisect_right([f.time for f in side.fish], one.time)
    strung = tuple(replace(s, fish=tuple(i + (i >= k) for i in s.fish)) for s in side.strung)
    schools = tuple(replace(s, fish=tuple(i + (i >= k) for i in s.fish)) for s in side.schools)
    return replace(side, fish=(*side.fish[:k], one, *side.fish[k:]), strung=strung, schools=schools)


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
    schools = []
    for school in side.schools:
        left = tuple(i - (i > k) for i in school.fish if i != k)
        # a ball of bait has no single fish to lose
        if not school.fish or len(left) > 2:
            schools.append(replace(school, fish=left, least=school.least - (len(school.fish) - len(left))))
    return replace(
        side,
        fish=side.fish[:k] + side.fish[k + 1 :],
        strung=tuple(s for s in strung if len(s.fish) > 2),
        schools=tuple(schools),
    )


def _ahead(ahead: ForwardReading, said: Correction, recording: Recording) -> ForwardReading:
    if said.act is Act.DRAW:
        one = _drawn_ahead(recording, said)
        return ahead if one is None else replace(ahead, tracks=_in_time(*ahead.tracks, one))

    def away(track: ForwardTarget) -> float:
        k = int(abs(track.time - said.time).argmin())
        if abs(track.time[k] - said.time) > _REACH_S or abs(track.depth_m[k] - said.depth_m) > _REACH_M:
            return math.inf
        aside = float(abs(track.distance_m[k] - said.distance_m)) if said.distance_m else 0.0
        return float(abs(track.depth_m[k] - said.depth_m)) + aside

    found = min(ahead.tracks, key=away, default=None)
    if found is None or not math.isfinite(away(found)):
        return ahead
    if said.act is Act.REJECT:
        return replace(ahead, tracks=tuple(t for t in ahead.tracks if t is not found))
    if said.act is Act.ACCEPT:
        return _instead(ahead, found, replace(found, hand="accepted"))
    if said.act is Act.RELABEL:
        return _instead(ahead, found, replace(found, kind=said.label, hand="relabelled"))
    if said.act is Act.MOVE:
        nearer, deeper = said.to_distance_m - said.distance_m, said.to_depth_m - said.depth_m
        return _instead(ahead, found, _shifted(found, nearer, deeper, recording))
    return ahead


def _instead(ahead: ForwardReading, old: ForwardTarget, new: ForwardTarget) -> ForwardReading:
    return replace(ahead, tracks=tuple(new if t is old else t for t in ahead.tracks))


def _in_time(*tracks: ForwardTarget) -> tuple[ForwardTarget, ...]:
    return tuple(sorted(tracks, key=lambda t: float(t.time[0])))


def _drawn_ahead(recording: Recording, said: Correction) -> ForwardTarget | None:
    """A fish where a person saw it ahead, in that one frame, straight where the fan points."""
    view = recording.forward
    if view is None or not len(view):
        return None
    k = int(np.abs(view.time - said.time).argmin())
    azimuth = np.array([float(view.azimuth_deg[k])])
    one = np.array([0.0])
    target = ForwardTarget(
        kind=said.label or "fish",
        time=np.array([float(view.time[k])]),
        slant_m=np.hypot(said.distance_m, said.depth_m - view.mount.depth_m) + one,
        distance_m=said.distance_m + one,
        depth_m=said.depth_m + one,
        level_db=one,
        azimuth_deg=azimuth,
        azimuth_sd_deg=_FAN_SD_DEG,
        latitude=one + math.nan,
        longitude=one + math.nan,
        depth_sd_m=_BY_HAND_SD_M,
        position_sd_m=math.hypot(_FIX_SD_M, said.distance_m * math.radians(_FAN_SD_DEG)),
        best=0,
        towards_mps=math.nan,
        sinks_mps=0.0,
        hand="drawn",
    )
    return _placed_ahead(target, recording)


def _shifted(track: ForwardTarget, farther_m: float, deeper_m: float, recording: Recording) -> ForwardTarget:
    """All of a track so much farther off and deeper; its way and its bearing stay."""
    draft = recording.forward.mount.depth_m if recording.forward is not None else 0.0
    distance = np.maximum(track.distance_m + farther_m, 0.0)
    depth = np.maximum(track.depth_m + deeper_m, 0.0)
    moved = replace(
        track, distance_m=distance, depth_m=depth, slant_m=np.hypot(distance, depth - draft), hand="moved"
    )
    return _placed_ahead(moved, recording)


def _placed_ahead(track: ForwardTarget, recording: Recording) -> ForwardTarget:
    if recording.forward is None:
        return track
    at = transducer_at(recording.track, recording.forward.mount, track.time)
    bearing = np.radians(at.heading_deg + track.azimuth_deg)
    latitude, longitude = geo.offset(
        at.latitude, at.longitude, track.distance_m * np.sin(bearing), track.distance_m * np.cos(bearing)
    )
    return replace(track, latitude=np.asarray(latitude), longitude=np.asarray(longitude))
