"""
Ways whose line is in the water only for a cast: fall by count, a lipped lure reeled in, a blade that is pumped.

On free line a lure falls straight down. On a closed reel the line is straight: the lure swings down about the rod tip
as its weight drives it across the water, and a retrieve lifts it (docs/handbook.md, 5.4).
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import replace

from plumbbob.core.reason import because
from plumbbob.core.rig.cast import swing_speed
from plumbbob.core.rig.fall import Falling, depth_after, fall_speed, holds_at_m, time_to_depth
from plumbbob.core.rig.line import tow
from plumbbob.core.rig.reasons import WhyNot
from plumbbob.core.rig.rod import CannotReach, Extra, Method, RigAnswer, RigSettings, amount_of
from plumbbob.core.units import Kind

SWING_BETA = 0.4  # share of a rigid line's broadside drag a swing feels: real lines bend (0.2 to 0.6)
_SETTLE_M = 4.0  # way made while a diving lure comes to the depth of its line (3 to 6)
_STEPS = 60
_FARTHEST_M = 60.0
_STANDS_MPS = 1e-4

DepthOf = Callable[[RigSettings], float]
Variance = Callable[[DepthOf], float]


def solve_cast(s: RigSettings, depth_m: float, variance: Variance) -> RigAnswer | CannotReach:
    """What brings a cast lure to a depth: a count, or for a lipped one how far to cast it."""
    if s.method is Method.RETRIEVE:
        return _solve_retrieve(s, depth_m, variance)
    falling = s.lure.falling(s.line, s.rho)
    try:
        seconds, _ = time_to_depth(falling, depth_m, rho=s.rho)
    except ValueError:
        sinks = falling.weight_n > 0
        return CannotReach(
            method=s.method,
            reason=because(WhyNot.LINE_HOLDS_UP) if sinks else because(WhyNot.FLOATS_NO_COUNT, lure=s.lure.name),
            nearest_depth_m=holds_at_m(falling) * 0.95 if sinks else 0.0,
        )
    return _counted(s, falling, seconds, depth_m, variance)


def run_cast(s: RigSettings, value: float, variance: Variance) -> RigAnswer | CannotReach:
    """Where a cast lure is after a count, or how deep a lipped one gets on a cast."""
    if s.method is Method.RETRIEVE:
        if not s.lure.dives:
            return CannotReach(method=s.method, reason=because(WhyNot.NO_LIP, lure=s.lure.name), nearest_depth_m=0.0)
        return _retrieved(s, min(max(value, 1.0), 100.0), variance)
    falling = s.lure.falling(s.line, s.rho)
    try:
        depth = depth_after(falling, value, rho=s.rho)
    except ValueError:
        reason = because(WhyNot.FLOATS_NO_COUNT, lure=s.lure.name)
        return CannotReach(method=s.method, reason=reason, nearest_depth_m=0.0)
    return _counted(s, falling, value, depth, variance)


def _counted(s: RigSettings, falling: Falling, seconds: float, depth: float, variance: Variance) -> RigAnswer:
    def after(other: RigSettings) -> float:
        try:
            return depth_after(other.lure.falling(other.line, other.rho), seconds, rho=other.rho)
        except ValueError:
            return math.nan

    speed = fall_speed(falling, depth, rho=s.rho)
    sd = math.sqrt(variance(after) + (s.count_sd_s * speed) ** 2)
    hold = holding_speed(falling, s.cast_m, depth, tip_height_m=s.tip_height_m, rho=s.rho)
    far = (s.cast_m, depth)
    shape, band = (far, (0.0, -s.tip_height_m)), None
    extras = [Extra(name="reel to hold", value=hold, kind=Kind.SPEED)]
    out = math.hypot(s.cast_m, depth + s.tip_height_m)
    tip_deg, there_deg = (
        math.degrees(math.asin(min(z / out, 1.0))) for z in (s.tip_height_m, depth + s.tip_height_m)
    )
    if s.method is Method.CAST and there_deg < 80.0:
        tight = time_to_angle(falling, out, tip_deg, there_deg, beta=SWING_BETA, rho=s.rho)
        if math.isfinite(tight):
            extras.append(Extra(name="on a tight line it would take", value=tight))
    if s.method is Method.PUMP:
        rise, pause = pump(falling, s.cast_m, depth, s.sweep_m, rho=s.rho)
        band = (max(depth - rise, 0.0), depth)
        extras = [Extra(name="pause after a pump", value=pause), Extra(name="rise", value=rise, kind=Kind.DEPTH)]
    return RigAnswer(
        method=s.method,
        amount=amount_of(s.method),
        value=seconds,
        depth_m=depth,
        depth_sd_m=sd,
        shape=shape,
        lure=far,
        band=band,
        extras=tuple(extras),
    )


def holding_speed(
    falling: Falling,
    ahead_m: float,
    depth_m: float,
    *,
    tip_height_m: float = 0.0,
    beta: float = SWING_BETA,
    rho: float,
) -> float:
    """
    Retrieve that keeps a sinking lure at its depth, m/s: what the reel lifts is what the swing lets down.

    Parameters
    ----------
    falling : Falling
    ahead_m, depth_m : float
        Where the lure is from the rod.
    tip_height_m, beta, rho : float

    Notes
    -----
    With R the straight line and q its angle below level, z = R sin q stands still where v sin q = c cos q, c the
    speed across at which weight and drag balance. c falls as v grows, so the balance is found by bisection.
    """
    drop, ahead = depth_m + tip_height_m, max(ahead_m, 0.1)
    r, q = math.hypot(ahead, drop), math.atan2(drop, ahead)
    low, high = 0.0, 10.0
    for _ in range(40):
        v = (low + high) / 2
        down = swing_speed(falling, r, q, v, beta, rho) * math.cos(q)
        low, high = (v, high) if v * math.sin(q) < down else (low, v)
    return low


def swing(
    falling: Falling,
    line_m: float,
    start_deg: float,
    times_s: Sequence[float],
    *,
    beta: float = 1.0,
    rho: float,
) -> list[tuple[float, float]]:
    """
    A lure on a tight line of fixed length from a point at the surface: (depth, distance) at each time.

    Parameters
    ----------
    falling : Falling
        Its `drag_area_m2` is across the line.
    line_m, start_deg : float
        Length, and angle below level at the start.
    times_s : sequence of float, rising
    beta, rho : float

    Notes
    -----
    Weight and drag balance at once: inertia dies away in hundredths of a second. Fourth-order Runge-Kutta.
    """

    def rate(q: float) -> float:
        return swing_speed(falling, line_m, min(q, math.pi / 2), 0.0, beta, rho) / line_m

    q, t, out = math.radians(start_deg), 0.0, []
    for end in times_s:
        n = max(math.ceil((end - t) / 0.25), 1)
        h = (end - t) / n
        for _ in range(n):
            a = rate(q)
            b = rate(q + h * a / 2)
            c = rate(q + h * b / 2)
            q = min(q + h * (a + 2 * b + 2 * c + rate(q + h * c)) / 6, math.pi / 2)
        t = end
        out.append((line_m * math.sin(q), line_m * math.cos(q)))
    return out


def time_to_angle(
    falling: Falling, line_m: float, start_deg: float, end_deg: float, *, beta: float = 1.0, rho: float
) -> float:
    """
    Seconds in which a tight line swings from one angle below level to another: Simpson's rule over the angle.

    Infinite where it never gets there: near the vertical nothing drives it on.
    """
    n = 60
    a, b = math.radians(start_deg), math.radians(end_deg)
    h = (b - a) / n
    speeds = [swing_speed(falling, line_m, a + i * h, 0.0, beta, rho) for i in range(n + 1)]
    if min(speeds) < _STANDS_MPS:
        return math.inf
    inverse = [line_m / speed for speed in speeds]
    return h / 3 * (inverse[0] + inverse[-1] + 4 * sum(inverse[1:-1:2]) + 2 * sum(inverse[2:-1:2]))


def pump(falling: Falling, ahead_m: float, depth_m: float, sweep_m: float, *, rho: float) -> tuple[float, float]:
    """
    How far one pump of the rod lifts a lure, and the pause in which it falls back to its depth: metres, seconds.

    Notes
    -----
    The sweep draws it along the straight line; on slack line it falls back at its rate of fall.
    """
    q = math.atan2(depth_m, max(ahead_m, 0.1))
    rise = min(sweep_m * math.sin(q), depth_m)
    speed = fall_speed(falling, depth_m, rho=rho)
    return rise, rise / speed if speed > 0 else math.inf


# -- a lipped lure, cast and reeled -----------------------------------------------------------------------------


def _balance(s: RigSettings, longest_m: float) -> tuple[list[float], list[float]]:
    """Depth at which a lipped lure settles on each length of line, as it is reeled: one run gives them all."""
    line = s.line.segment(longest_m, rho=s.rho)
    solved = tow(s.lure.body(), [line], s.retrieve_mps, rho=s.rho)
    deep = solved.z_m[0]
    return list(solved.s_m), [deep - z for z in solved.z_m]


def retrieve_path(
    s: RigSettings, cast_m: float, balance: tuple[list[float], list[float]] | None = None
) -> list[tuple[float, float]]:
    """
    A lipped lure reeled in from a cast: (line left, depth) from the splash on.

    Notes
    -----
    It dives along its own glide, pull down over drag, until it comes near the depth its line allows; that depth
    climbs as the line gets shorter (docs/handbook.md 5.4). Speed cancels: what counts is the way made.
    """
    length, depth = balance or _balance(s, cast_m)
    q2 = 0.5 * s.rho * s.retrieve_mps**2
    glide = max((s.lure.lift_area_m2 * q2 + s.lure.weight_n) / max(s.lure.drag_area_m2 * q2, 1e-12), 0.0)

    def settles(left: float) -> float:
        i = min(max(bisect_left(length, left), 1), len(length) - 1)
        share = (left - length[i - 1]) / max(length[i] - length[i - 1], 1e-9)
        return depth[i - 1] + share * (depth[i] - depth[i - 1])

    def rate(left: float, z: float) -> float:
        cos = math.sqrt(max(1.0 - (z / max(left, 0.1)) ** 2, 0.0))
        return min(glide * cos, (settles(left) - z) / _SETTLE_M)

    step = cast_m / _STEPS
    z, left, out = 0.0, cast_m, [(cast_m, 0.0)]
    for _ in range(_STEPS - 1):
        z += step * rate(left - step / 2, z + step / 2 * rate(left, z))
        left -= step
        z = min(max(z, 0.0), left)
        out.append((left, z))
    return out


def _retrieved(s: RigSettings, cast_m: float, variance: Variance) -> RigAnswer:
    path = retrieve_path(s, cast_m)
    left, depth = max(path, key=lambda p: p[1])
    band = [p for p in path if p[1] >= 0.9 * depth]

    def deepest(other: RigSettings) -> float:
        return max(z for _, z in retrieve_path(other, cast_m))

    shorter = max(z for _, z in retrieve_path(s, cast_m * (1 - s.line_sd)))
    sd = math.sqrt(variance(deepest) + (depth - shorter) ** 2)
    shape = tuple((math.sqrt(max(r * r - z * z, 0.0)), z) for r, z in path)
    return RigAnswer(
        method=s.method,
        amount=amount_of(s.method),
        value=cast_m,
        depth_m=depth,
        depth_sd_m=sd,
        shape=shape,
        lure=(math.sqrt(max(left * left - depth * depth, 0.0)), depth),
        extras=(
            Extra(name="deepest after reeling", value=cast_m - left, kind=Kind.LENGTH),
            Extra(name="within a tenth of it for", value=band[0][0] - band[-1][0], kind=Kind.LENGTH),
            Extra(name="reel at", value=s.retrieve_mps, kind=Kind.SPEED),
        ),
    )


def _solve_retrieve(s: RigSettings, depth_m: float, variance: Variance) -> RigAnswer | CannotReach:
    if not s.lure.dives:
        return CannotReach(method=s.method, reason=because(WhyNot.NO_LIP, lure=s.lure.name), nearest_depth_m=0.0)
    if s.retrieve_mps < 0.2:
        return CannotReach(method=s.method, reason=because(WhyNot.REEL_FASTER), nearest_depth_m=0.0)
    balance = _balance(s, _FARTHEST_M)

    def deepest(cast: float) -> float:
        return max(z for _, z in retrieve_path(s, cast, balance))

    if (most := deepest(_FARTHEST_M)) < depth_m:
        return CannotReach(
            method=s.method,
            reason=because(WhyNot.CAST_TOO_SHORT),
            nearest_depth_m=most,
        )
    low, high = 1.0, _FARTHEST_M
    if (least := deepest(low)) > depth_m:
        return CannotReach(method=s.method, reason=because(WhyNot.DIVES_DEEPER), nearest_depth_m=least)
    at_low, at_high = least, most
    for _ in range(12):
        # the deeper the longer the cast, and nearly in proportion: false position, with halves where one end sticks
        share = min(max((depth_m - at_low) / max(at_high - at_low, 1e-9), 0.02), 0.98)
        cast = low + share * (high - low)
        depth = deepest(cast)
        if abs(depth - depth_m) < 2e-3:
            break
        if depth < depth_m:
            low, at_low = cast, depth
        else:
            high, at_high = cast, depth
    return replace(_retrieved(s, cast, variance), depth_m=depth_m)
