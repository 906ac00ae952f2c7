"""
Casting to one fish that is seen ahead: where to land the lure, how long to count, when to draw it over.

The boat's rod tip is the origin: x metres ahead towards the fish, z metres down. On free line the lure falls
straight down and stays with the water. On a closed reel the line is taken as straight: it gets shorter as fast as
the reel turns, and the lure swings down about the rod tip as fast as its weight drives it across the water.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import Enum
from functools import lru_cache

import numpy as np

from plumbbob.core.rig.fall import Falling, time_to_depth
from plumbbob.core.rig.line import RHO_FRESH
from plumbbob.core.types import Floats

_STEP_S, _LONGEST_S = 0.1, 180.0
_LINE_CN = 1.2
_LEAST_PAST_M = 2.0
_SINKS, _RISES = "sinks", "rises"
_LEAST_FISH_M = 1.0  # nearer than this to the boat nothing is cast to
_SURE = 1.3  # standard deviations of room above the fish: one cast in ten passes below
_FARTHEST_M = 60.0
_QUICK_MPS = 1.2  # a lure that passes faster than this relative to the fish is called too fast


class Approach(Enum):
    """The two schools of presenting a lure to one fish."""

    PAST_OVER = "past and over"  # no splash near the fish; it comes into view from behind and above
    SWING_DOWN = "swing down"  # quiet and slow, stays near the fish; the line leads to the boat


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """A fish as the view ahead shows it, one standard deviation each."""

    distance_m: float
    depth_m: float
    azimuth_deg: float = 0.0
    distance_sd_m: float = 0.4
    depth_sd_m: float = 0.2
    towards_mps: float = 0.0  # how fast it swims nearer
    aside_mps: float = 0.0  # and to starboard

    def __post_init__(self) -> None:
        if not (math.isfinite(self.distance_m) and self.distance_m > 0):
            raise ValueError("the fish needs a distance above zero")
        if not (math.isfinite(self.depth_m) and self.depth_m > 0):
            raise ValueError("the fish needs a depth above zero")


@dataclass(frozen=True, slots=True, kw_only=True)
class Throw:
    """Tackle and habits."""

    falling: Falling
    retrieve_mps: float = 0.6
    clearance_m: float = 0.5  # how far above the fish it should pass
    swing_beta: float = 0.4  # share of the line's broadside drag that a swing feels: real lines bend (0.2 to 0.6)
    tip_height_m: float = 1.5
    drift_ahead_mps: float = 0.0  # of the boat towards the fish
    drift_aside_mps: float = 0.0  # of the boat to starboard
    reach_m: float = 35.0  # longest cast
    rho: float = RHO_FRESH


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class CastPlan:
    """Where to land, what to count, what then happens."""

    approach: Approach
    land_m: float  # from the boat, at the moment of landing
    past_m: float  # beyond where the fish is now; negative is short of it
    aim_deg: float  # from the bow
    count_s: float  # on open line, from the splash to closing the reel
    close_depth_m: float
    draw_s: float  # from closing until it passes the fish
    pass_depth_m: float
    pass_depth_sd_m: float
    swing_m: float  # how far it comes nearer to the boat while on a tight line
    path: tuple[tuple[float, float, float], ...]  # (seconds, ahead, depth) from the splash on
    fish_at_pass_m: float
    deepest_m: float  # on the way to the fish
    chance_below: float = math.nan  # that it passes below the fish after all

    @property
    def total_s(self) -> float:
        """From the splash until it passes the fish."""
        return self.count_s + self.draw_s


_TABLE_DEPTHS = np.concatenate([np.arange(0.2, 6.0, 0.2), np.arange(6.0, 60.5, 0.5)])


@lru_cache(32)
def _fall_table(falling: Falling, rho: float) -> tuple[Floats, Floats]:
    """Depths, and seconds of fall from rest to each: worked out once, since planning asks for hundreds."""
    seconds = [0.0]
    for z in _TABLE_DEPTHS.tolist():
        try:
            seconds.append(time_to_depth(falling, z, rho=rho)[0])
        except ValueError:
            break  # the line holds it from here on
    return np.concatenate(([0.0], _TABLE_DEPTHS))[: len(seconds)], np.array(seconds)


def _fall_time(falling: Falling, depth_m: float, rho: float) -> float:
    return float(np.interp(depth_m, *_fall_table(falling, rho)))


def _fall_depth(falling: Falling, seconds: float, rho: float) -> float:
    depth, time = _fall_table(falling, rho)
    return float(np.interp(seconds, time, depth))


class CannotCast(ValueError):
    """No cast does it; the message says why."""


def swing_speed(
    falling: Falling, line_m: float, angle_rad: float, along_mps: float, beta: float, rho: float
) -> float:
    """
    Speed across a straight tight line at which weight and drag balance, m/s.

    Parameters
    ----------
    falling : Falling
    line_m : float
        Length of the line in the water.
    angle_rad : float
        Of the line below level.
    along_mps : float
        Speed of the lure through the water along the line.
    beta : float
        Share of a rigid line's broadside drag.

    Notes
    -----
    W cos q = rho/2 A v sqrt(v² + u²) with A = CdA + beta Cn d R / 4: a rigid line swinging about its upper end has a
    quarter of its broadside drag act at the lure (docs/handbook.md 5.4); u is the speed along.

    Examples
    --------
    >>> jig = Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3)
    >>> round(swing_speed(jig, 15.0, math.radians(5.0), 0.0, 1.0, 1000.0), 3)
    0.361
    """
    area = falling.drag_area_m2 + beta * _LINE_CN * falling.line_diameter_m * line_m / 4
    pull = 2 * falling.weight_n * math.cos(angle_rad) / (rho * area)
    if pull <= 0:
        return 0.0
    return math.sqrt((-(along_mps**2) + math.sqrt(along_mps**4 + 4 * pull**2)) / 2)


def tight_line(
    throw: Throw,
    ahead_m: float,
    depth_m: float,
    retrieve_mps: float,
    until: Callable[[float, float, float], bool],
) -> tuple[tuple[float, float, float], ...]:
    """
    Path of a lure on a closed reel from a place on, as (seconds, ahead, depth), until told to stop.

    Notes
    -----
    The rod tip stands `tip_height_m` over the water. Steps of 0.1 s, midpoint rule.
    """
    tip = throw.tip_height_m
    r, q = math.hypot(ahead_m, depth_m + tip), math.atan2(depth_m + tip, max(ahead_m, 1e-6))
    t, path = 0.0, [(0.0, ahead_m, depth_m)]

    def rates(r: float, q: float) -> tuple[float, float]:
        # the boat's own way towards the lure slackens the line and swings it
        along = max(retrieve_mps - throw.drift_ahead_mps * math.cos(q), 0.0)
        across = swing_speed(throw.falling, r, q, along, throw.swing_beta, throw.rho)
        return -retrieve_mps, (across + throw.drift_ahead_mps * math.sin(q)) / max(r, 0.3)

    while t < _LONGEST_S:
        dr, dq = rates(r, q)
        dr, dq = rates(r + dr * _STEP_S / 2, q + dq * _STEP_S / 2)
        r, q, t = r + dr * _STEP_S, min(q + dq * _STEP_S, math.pi / 2), t + _STEP_S
        x, z = r * math.cos(q), max(r * math.sin(q) - tip, 0.0)
        path.append((t, x, z))
        if until(t, x, z) or r <= 0.5 or q >= math.pi / 2 - 1e-6:
            break
    return tuple(path)


def plan_cast(target: Target, throw: Throw, approach: Approach = Approach.PAST_OVER) -> CastPlan:
    """
    Where to land a lure, and what to do then, so that it passes just above a fish.

    Parameters
    ----------
    target : Target
    throw : Throw
    approach : Approach

    Raises
    ------
    CannotCast
        In one line.

    Notes
    -----
    Past and over: it lands beyond the fish by more than the fish's own spread, falls on open line, and is drawn in;
    the depth at which the reel is closed is found by bisection so that it passes `clearance_m` above the fish. Swing
    down: the reel is closed at the splash; the landing is found so that the arc ends above the fish. Either way the
    path never goes below the fish. The spread comes from those of depth, distance, rate of fall and of the reel.
    """
    wanted = target.depth_m - throw.clearance_m
    if wanted <= 0.1:
        raise CannotCast("the fish is too near the surface to pass above it at that clearance")
    try:
        time_to_depth(throw.falling, wanted, rho=throw.rho)
    except ValueError as exc:
        raise CannotCast(f"this lure can't be cast and counted: {exc}") from exc
    solve = _past_over if approach is Approach.PAST_OVER else _swing_down
    plan = solve(target, throw, wanted)
    spread = _spread(target, throw, plan)
    # a lure is never sent below a fish: what can't be kept to is left as room above it
    room = _SURE * math.hypot(spread, target.depth_sd_m)
    if room > throw.clearance_m:
        plan = solve(target, throw, max(target.depth_m - room, 0.3 * target.depth_m))
        spread = _spread(target, throw, plan)
    return replace(plan, pass_depth_sd_m=spread, chance_below=_below(target, plan.pass_depth_m, spread))


def _below(target: Target, depth_m: float, sd_m: float) -> float:
    over = (target.depth_m - depth_m) / max(math.hypot(sd_m, target.depth_sd_m), 1e-6)
    return 0.5 * math.erfc(over / math.sqrt(2))


def _fish_at(target: Target, throw: Throw, seconds: float) -> float:
    return target.distance_m - (target.towards_mps + throw.drift_ahead_mps) * seconds


def _aim(target: Target, throw: Throw, past: float, seconds: float) -> float:
    """
    Bearing from the bow at which to land it.

    The line leads from where it lands over the fish to the boat, both as they will be; seen from the boat now.
    """
    fish = (target.aside_mps * seconds, target.distance_m - target.towards_mps * seconds)
    boat = (throw.drift_aside_mps * seconds, throw.drift_ahead_mps * seconds)
    along = (fish[0] - boat[0], fish[1] - boat[1])
    length = max(math.hypot(*along), 0.1)
    land = (fish[0] + past * along[0] / length, fish[1] + past * along[1] / length)
    return target.azimuth_deg + math.degrees(math.atan2(land[0], max(land[1], 0.1)))


def _past_over(target: Target, throw: Throw, wanted: float) -> CastPlan:
    past = max(_LEAST_PAST_M, 2 * target.distance_sd_m, 0.25 * target.depth_m)
    for _ in range(12):
        # the fish moves while the lure falls: land beyond where it will be, not where it is
        fall = _fall_time(throw.falling, wanted, throw.rho)
        land = max(target.distance_m, target.distance_m - target.towards_mps * fall) + past
        plan = _drawn(target, throw, wanted, land)
        if plan == _RISES:
            raise CannotCast("it comes up before it is over the fish: draw it slower or go heavier")
        if isinstance(plan, CastPlan):
            if land > throw.reach_m:
                raise CannotCast(f"it would have to land {land:.0f} m away, farther than a cast reaches: move closer")
            return plan
        past += 1.0
    raise CannotCast(
        "no count brings it over the fish: it sinks faster than it can be drawn in; reel faster or go lighter"
    )


def _drawn(target: Target, throw: Throw, wanted: float, land: float) -> CastPlan | str:
    """The plan for one landing; `_SINKS` or `_RISES` where no depth of closing passes at the depth wanted."""

    def passing(close: float) -> tuple[float, float, tuple[tuple[float, float, float], ...], float]:
        count = _fall_time(throw.falling, close, throw.rho)
        start = land - throw.drift_ahead_mps * count
        path = tight_line(
            throw, start, close, throw.retrieve_mps, lambda t, x, _z: x <= _fish_at(target, throw, count + t)
        )
        t, x, z = path[-1]
        there = _fish_at(target, throw, count + t)
        reached = there >= _LEAST_FISH_M and x <= there + 0.05
        return (z if reached else math.inf), count, path, start

    low, high = 0.05, target.depth_m
    shallow = passing(low)[0]
    if not shallow <= wanted:
        return _SINKS
    for _ in range(15):
        middle = (low + high) / 2
        low, high = (middle, high) if passing(middle)[0] < wanted else (low, middle)
    close = low
    depth, count, path, start = passing(close)
    deepest = max(z for _, _, z in path)
    if not math.isfinite(depth):
        return _SINKS
    if depth < wanted - 0.1:
        return _RISES
    if deepest > target.depth_m - 0.5 * throw.clearance_m:
        return _RISES if path[0][2] >= deepest - 1e-6 else _SINKS
    draw, ahead, _ = path[-1]
    fall = ((0.0, land, 0.0),)
    return CastPlan(
        approach=Approach.PAST_OVER,
        land_m=land,
        past_m=land - target.distance_m,
        aim_deg=_aim(target, throw, start - ahead, count + draw),
        count_s=count,
        close_depth_m=close,
        draw_s=draw,
        pass_depth_m=depth,
        pass_depth_sd_m=math.nan,
        swing_m=start - ahead,
        path=fall + tuple((count + t, x, z) for t, x, z in path),
        fish_at_pass_m=ahead,
        deepest_m=deepest,
    )


def _swing_down(target: Target, throw: Throw, wanted: float) -> CastPlan:
    def swung(land: float) -> tuple[float, tuple[tuple[float, float, float], ...]]:
        path = tight_line(throw, land, 0.0, 0.0, lambda _t, _x, z: z >= wanted)
        t, x, z = path[-1]
        return (x - _fish_at(target, throw, t) if z >= wanted - 1e-6 else -math.inf), path

    low, high = max(math.sqrt(max(wanted**2 - throw.tip_height_m**2, 0.0)), 1.0), _FARTHEST_M
    if not swung(high)[0] > 0:
        raise CannotCast("no tight line swings so far out at that depth: cast past it and draw it over")
    for _ in range(18):
        middle = (low + high) / 2
        low, high = (low, middle) if swung(middle)[0] > 0 else (middle, high)
    land = high
    _, path = swung(land)
    if _fish_at(target, throw, path[-1][0]) < _LEAST_FISH_M:
        raise CannotCast("by the time it has swung down the fish is at the boat: drop it straight down")
    if land > throw.reach_m:
        raise CannotCast(f"it would have to land {land:.0f} m away, farther than a cast reaches: move closer")
    t, x, z = path[-1]
    return CastPlan(
        approach=Approach.SWING_DOWN,
        land_m=land,
        past_m=land - target.distance_m,
        aim_deg=_aim(target, throw, land - throw.drift_ahead_mps * t - x, t),
        count_s=0.0,
        close_depth_m=0.0,
        draw_s=t,
        pass_depth_m=z,
        pass_depth_sd_m=math.nan,
        swing_m=land - x,
        path=path,
        fish_at_pass_m=x,
        deepest_m=z,
    )


def _spread(target: Target, throw: Throw, plan: CastPlan) -> float:
    """How far from the plan it passes the fish, one standard deviation: fall and reel 10 %, distance as seen."""

    def depth(fall: float = 1.0, reel: float = 1.0, off: float = 0.0) -> float:
        falling = replace(throw.falling, drag_area_m2=throw.falling.drag_area_m2 / fall**2)
        other = replace(throw, falling=falling)
        fish = max(target.distance_m + off, 0.5)
        moved = replace(target, distance_m=fish)
        if plan.approach is Approach.SWING_DOWN:
            path = tight_line(other, plan.land_m, 0.0, 0.0, lambda t, _x, _z: t >= plan.draw_s)
            return path[-1][2]
        close = _fall_depth(other.falling, plan.count_s, throw.rho)
        start = plan.land_m - throw.drift_ahead_mps * plan.count_s
        path = tight_line(
            other,
            start,
            close,
            throw.retrieve_mps * reel,
            lambda t, x, _z: x <= _fish_at(moved, throw, plan.count_s + t),
        )
        return path[-1][2]

    parts = [
        (depth(fall=1.1) - depth(fall=0.9)) / 2,
        (depth(reel=1.1) - depth(reel=0.9)) / 2,
        (depth(off=target.distance_sd_m) - depth(off=-target.distance_sd_m)) / 2,
    ]
    return math.sqrt(sum(p**2 for p in parts))


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a lure's own track says of a cast: one of short, long, below, high, fast, good; and by how much."""

    word: str
    amount: float  # metres, or m/s for fast
    closest_m: float
    time: float


def judge_cast(
    lure_time: Floats,
    lure_distance_m: Floats,
    lure_depth_m: Floats,
    fish_time: Floats,
    fish_distance_m: Floats,
    fish_depth_m: Floats,
    *,
    near_m: float = 0.8,
) -> Verdict | None:
    """
    What went wrong with a cast, from the tracks of lure and fish; None where they were never seen together.

    Parameters
    ----------
    lure_time, lure_distance_m, lure_depth_m : ndarrays of shape (n,)
    fish_time, fish_distance_m, fish_depth_m : ndarrays of shape (m,)
    near_m : float
        How close sideways it has to come to count as over the fish.

    Notes
    -----
    At the closest approach: below the fish comes first, since a fish looks up; then past or short of it, then too
    high, then too fast.

    Examples
    --------
    >>> t = np.arange(0.0, 10.0, 0.2)
    >>> v = judge_cast(t, 16.0 - 0.5 * t, 3.0 + 0.0 * t, t, 8.0 + 0.0 * t, 4.0 + 0.0 * t)
    >>> v.word, round(v.amount, 1)
    ('long', 3.1)
    """
    both = (
        (lure_time >= fish_time[0] - 1.0) & (lure_time <= fish_time[-1] + 1.0)
        if fish_time.size
        else np.zeros(0, bool)
    )
    if not lure_time.size or not both.any():
        return None
    t = lure_time[both]
    x, z = lure_distance_m[both], lure_depth_m[both]
    fx, fz = np.interp(t, fish_time, fish_distance_m), np.interp(t, fish_time, fish_depth_m)
    apart = np.hypot(x - fx, z - fz)
    k = int(np.argmin(apart))
    beyond, above = float(x[k] - fx[k]), float(fz[k] - z[k])
    a, b = max(k - 3, 0), min(k + 4, t.size)
    speed = 0.0
    if b - a > 2:
        speed = math.hypot(*(float(np.polyfit(t[a:b], v[a:b], 1)[0]) for v in (x - fx, z - fz)))
    over = np.abs(x - fx) < near_m
    if over.any() and float((fz - z)[over].min()) < 0:
        word, amount = "below", -float((fz - z)[over].min())
    elif not over.any():
        word, amount = ("long", beyond) if beyond > 0 else ("short", -beyond)
    elif above > 2.0:
        word, amount = "high", above
    elif speed > _QUICK_MPS:
        word, amount = "fast", speed
    else:
        word, amount = "good", above
    return Verdict(word=word, amount=amount, closest_m=float(apart[k]), time=float(t[k]))
