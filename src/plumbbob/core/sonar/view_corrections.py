"""What a person says of fish seen to the sides and ahead; the same rules as for the view down."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from plumbbob.core.sonar.corrections import Act, Correction, apply
from plumbbob.core.sonar.reading import ForwardReading, ForwardTarget, Reading, SideFish, SideReading
from plumbbob.core.sonar.recording import SIDES, Recording

AHEAD = "ahead"
_REACH_S, _REACH_M = 1.5, 0.8


def about_view(echo: SideFish | ForwardTarget, act: Act) -> Correction:
    """A correction of a fish to one side (by time and slant range) or ahead (by time and depth)."""
    if isinstance(echo, SideFish):
        return Correction(act=act, what=echo.side, time=echo.time, depth_m=echo.slant_m, level_db=echo.level_db)
    k = echo.best
    return Correction(act=act, what=AHEAD, time=float(echo.time[k]), depth_m=float(echo.depth_m[k]))


def corrected(reading: Reading, corrections: Sequence[Correction], recording: Recording) -> Reading:
    """A reading of all views with everything that was said of it, in the order it was said."""
    return apply_views(apply(reading, corrections, recording), corrections)


def apply_views(reading: Reading, corrections: Sequence[Correction]) -> Reading:
    """
    The side's and the forward view's fish with everything that was said of them.

    What was accepted but is not in a new reading is not made up: without a track there is nothing to show.
    """
    side, ahead = reading.side, reading.ahead
    for said in corrections:
        if said.what in SIDES and side is not None:
            side = _side(side, said)
        elif said.what == AHEAD and ahead is not None:
            ahead = _ahead(ahead, said)
    return replace(reading, side=side, ahead=ahead)


def _side(side: SideReading, said: Correction) -> SideReading:
    near = [
        (abs(f.time - said.time) / _REACH_S + abs(f.slant_m - said.depth_m) / _REACH_M, k)
        for k, f in enumerate(side.fish)
        if f.side == said.what and abs(f.time - said.time) < _REACH_S and abs(f.slant_m - said.depth_m) < _REACH_M
    ]
    if not near:
        return side
    k = min(near)[1]
    if said.act is Act.ACCEPT:
        kept = (*side.fish[:k], replace(side.fish[k], hand="accepted"), *side.fish[k + 1 :])
        return replace(side, fish=kept)
    if said.act is not Act.REJECT:
        return side
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
