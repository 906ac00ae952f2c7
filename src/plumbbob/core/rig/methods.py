"""Ways to bring a lure to a depth: each knows its inverse, its spread, and why it can't where it can't."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import Enum

from plumbbob.core.rig import tackle
from plumbbob.core.rig.fall import time_to_depth
from plumbbob.core.rig.line import Tow, Unreachable, line_for_depth, tow


class Method(Enum):
    """How the lure is brought down."""

    DOWNRIGGER = "downrigger"
    FLAT_LINE = "flat line"
    CAST = "cast and count"


class Amount(Enum):
    """What the answer's number is."""

    WIRE = "wire out"
    LINE = "line out"
    COUNT = "count"


@dataclass(frozen=True, slots=True, kw_only=True)
class RigSettings:
    """One rod as rigged, and how sure its numbers are."""

    method: Method = Method.DOWNRIGGER
    speed_mps: float = 0.9  # through the water
    above_fish_m: float = 0.7  # the lure hangs this much over the fish
    lead_m: float = 9.0  # from the release on the wire back to the lure
    tip_height_m: float = 1.2  # of rod tip or wire boom above the water
    line: tackle.LineKind = tackle.MONO
    ball: tackle.Ball = tackle.BALL
    wire: tackle.LineKind = tackle.WIRE
    lure: tackle.Lure = tackle.FLUTTER  # behind the ball
    plug: tackle.Lure = tackle.PLUG  # on the flat line
    spoon: tackle.Lure = tackle.SPOON  # cast and counted
    speed_sd_mps: float = 0.08
    drag_sd: float = 0.15  # of the line's drag across, as a share
    fall_sd: float = 0.12  # of the rate of fall, as a share

    def __post_init__(self) -> None:
        if not (0.0 <= self.speed_mps <= 6.0):
            raise ValueError(f"speed {self.speed_mps:g} m/s is outside 0 to 6")
        if not (0.0 <= self.above_fish_m <= 10.0):
            raise ValueError(f"{self.above_fish_m:g} m over the fish is outside 0 to 10")


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAnswer:
    """What to do to have the lure at a depth."""

    method: Method
    amount: Amount
    value: float  # metres of wire or line out from the tip, or seconds
    depth_m: float  # of the lure, as asked
    depth_sd_m: float
    layback_m: float  # of the lure behind the tip
    angle_deg: float  # of wire or line at the surface, off the vertical
    blow_back_m: float  # how far the wire's foot trails; 0 without a wire
    below_ball_m: float  # how much deeper than its ball the lure runs; 0 without a ball
    shape: tuple[tuple[float, float], ...]  # (aft, depth) from lure to tip
    ball: tuple[float, float] | None = None  # (aft, depth)


@dataclass(frozen=True, slots=True, kw_only=True)
class CannotReach:
    """Why the depth can't be had this way, and the nearest that can."""

    method: Method
    reason: str
    nearest_depth_m: float


def solve(settings: RigSettings, depth_m: float) -> RigAnswer | CannotReach:
    """
    What brings the lure to a depth.

    Parameters
    ----------
    settings : RigSettings
    depth_m : float
        Of the lure.

    Returns
    -------
    RigAnswer, or CannotReach with a sentence and the nearest depth that works.
    """
    if not (math.isfinite(depth_m) and depth_m >= 0.0):
        return CannotReach(method=settings.method, reason="a lure runs below the surface", nearest_depth_m=0.0)
    return _SOLVERS[settings.method](settings, depth_m)


def _spread(depths: Callable[[RigSettings], float], settings: RigSettings, at: float) -> float:
    """Depth's standard deviation from speed and drag, by one step each."""
    faster = replace(settings, speed_mps=min(settings.speed_mps + settings.speed_sd_mps, 6.0))
    draggier = replace(
        settings,
        line=replace(settings.line, cn=settings.line.cn * (1 + settings.drag_sd)),
        wire=replace(settings.wire, cn=settings.wire.cn * (1 + settings.drag_sd)),
    )
    return math.hypot(depths(faster) - at, depths(draggier) - at)


def _in_air(settings: RigSettings, solved: Tow) -> tuple[float, float]:
    """Straight from the water to the tip: its length and how far it reaches aft."""
    rise = max(math.sin(math.radians(solved.angle_deg)), 0.02)
    length = settings.tip_height_m / rise
    return length, length * math.cos(math.radians(solved.angle_deg))


def _shape(solved: Tow, aft: float, down: float = 0.0) -> tuple[tuple[float, float], ...]:
    return tuple((x + aft, z + down) for x, z in zip(solved.x_m, solved.z_m, strict=True))


def _lure_below_ball(settings: RigSettings) -> Tow:
    """The lure on its lead behind the release: how much deeper than the ball it runs (negative: above)."""
    return tow(settings.lure.body(), [settings.line.segment(settings.lead_m)], settings.speed_mps)


def _downrigger(settings: RigSettings, depth_m: float) -> RigAnswer | CannotReach:
    lead = _lure_below_ball(settings)
    ball_depth = depth_m - lead.depth_m
    if ball_depth < 0.3:
        return CannotReach(
            method=settings.method,
            reason="the lure sinks this far on its lead with the ball just under the surface",
            nearest_depth_m=lead.depth_m + 0.3,
        )
    body = settings.ball.body()
    try:
        solved = line_for_depth(body, [settings.wire.segment(0)], ball_depth, settings.speed_mps)
    except Unreachable as limit:
        return CannotReach(
            method=settings.method,
            reason="the wire is blown back too far at this speed",
            nearest_depth_m=limit.greatest_depth_m + lead.depth_m,
        )
    air, aft = _in_air(settings, solved)

    def depth_with(other: RigSettings) -> float:
        wire = tow(body, [other.wire.segment(solved.length_m)], other.speed_mps).depth_m
        return wire + _lure_below_ball(other).depth_m

    foot = aft + solved.layback_m
    return RigAnswer(
        method=settings.method,
        amount=Amount.WIRE,
        value=solved.length_m + air,
        depth_m=depth_m,
        depth_sd_m=_spread(depth_with, settings, depth_m),
        layback_m=foot + lead.layback_m,
        angle_deg=solved.angle_from_vertical_deg,
        blow_back_m=solved.layback_m,
        below_ball_m=lead.depth_m,
        shape=_shape(lead, foot, ball_depth) + _shape(solved, aft) + ((0.0, -settings.tip_height_m),),
        ball=(foot, ball_depth),
    )


def _flat_line(settings: RigSettings, depth_m: float) -> RigAnswer | CannotReach:
    if settings.speed_mps < 0.2:
        return CannotReach(
            method=settings.method,
            reason="a lip needs way on: the plug floats up below 0.2 m/s",
            nearest_depth_m=0.0,
        )
    body = settings.plug.body()
    try:
        solved = line_for_depth(body, [settings.line.segment(0)], depth_m, settings.speed_mps, longest_m=150.0)
    except Unreachable as limit:
        return CannotReach(
            method=settings.method,
            reason="more line only trails further back, the plug dives no deeper",
            nearest_depth_m=limit.greatest_depth_m,
        )
    air, aft = _in_air(settings, solved)

    def depth_with(other: RigSettings) -> float:
        return tow(body, [other.line.segment(solved.length_m)], other.speed_mps).depth_m

    return RigAnswer(
        method=settings.method,
        amount=Amount.LINE,
        value=solved.length_m + air,
        depth_m=depth_m,
        depth_sd_m=_spread(depth_with, settings, depth_m),
        layback_m=solved.layback_m + aft,
        angle_deg=solved.angle_from_vertical_deg,
        blow_back_m=0.0,
        below_ball_m=0.0,
        shape=(*_shape(solved, aft), (0.0, -settings.tip_height_m)),
    )


def _cast(settings: RigSettings, depth_m: float) -> RigAnswer | CannotReach:
    falling = settings.spoon.falling(settings.line)
    try:
        seconds, speed = time_to_depth(falling, depth_m)
    except ValueError as exc:
        return CannotReach(method=settings.method, reason=str(exc), nearest_depth_m=0.0)
    return RigAnswer(
        method=settings.method,
        amount=Amount.COUNT,
        value=seconds,
        depth_m=depth_m,
        depth_sd_m=math.hypot(settings.fall_sd * depth_m, 0.5 * speed),  # half a second of counting
        layback_m=0.0,
        angle_deg=0.0,
        blow_back_m=0.0,
        below_ball_m=0.0,
        shape=((0.0, depth_m), (0.0, 0.0)),
    )


_SOLVERS: dict[Method, Callable[[RigSettings, float], RigAnswer | CannotReach]] = {
    Method.DOWNRIGGER: _downrigger,
    Method.FLAT_LINE: _flat_line,
    Method.CAST: _cast,
}
