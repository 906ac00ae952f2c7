"""
On and near the bottom: cast and drag, walkers, floating lures, drop rigs, anchored baits, balls over a slope.

Everything is solved with the towed line of docs/handbook.md, 5.3; the rules are those of 5.8. What lifts a dragged
lure is line and speed, not the lure.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum

from plumbbob.core.rig.fall import Falling, time_to_depth
from plumbbob.core.rig.line import RHO_FRESH, Body, Tow, Unreachable, line_for_depth, tow
from plumbbob.core.rig.tackle import LineKind, Weight

_LEAST_KG, _MOST_KG = 1e-4, 5.0
_WALKS_DEG, _LIFTS_DEG = 60.0, 18.0  # of the line over level at the rod: steeper walks on the spot, flatter lifts
_STEPS = 40


def _bisect(works: Callable[[float], bool], low: float, high: float) -> float:
    """The least value that works, on a scale of ratios; `high` has to."""
    for _ in range(_STEPS):
        middle = math.sqrt(low * high)
        low, high = (low, middle) if works(middle) else (middle, high)
    return high


# -- cast and drag ----------------------------------------------------------------------------------------------


def lightest_lead(
    depth_m: float,
    line_m: float,
    speed_mps: float,
    line: LineKind,
    drag_area_m2: float,
    *,
    density: float = 11_340.0,
    rho: float = RHO_FRESH,
) -> float:
    """
    Least mass that stays on the bottom as it is drawn along, kg.

    Parameters
    ----------
    depth_m, line_m : float
        Of the bottom; line out to it.
    speed_mps : float
    line : LineKind
    drag_area_m2 : float
        Of the lure.
    density : float
        Of the weight.

    Raises
    ------
    ValueError
        If the line is no longer than the water is deep, or five kilos would not do.

    Notes
    -----
    For feel and wind two or three times as much is tied on (docs/handbook.md, 5.8).
    """
    if not line_m > depth_m > 0:
        raise ValueError("the line must be longer than the water is deep")

    def stays(mass: float) -> bool:
        weight = Weight(name="lead", mass_kg=mass, density=density).body(rho).weight_n
        end = Body(weight_n=weight, drag_area_m2=drag_area_m2)
        return tow(end, [line.segment(line_m, rho=rho)], speed_mps, rho=rho).depth_m >= depth_m

    if not stays(_MOST_KG):
        raise ValueError(f"no weight up to {_MOST_KG:g} kg stays down at this speed")
    return _bisect(stays, _LEAST_KG, _MOST_KG)


def hold_speed(end: Body, depth_m: float, line_m: float, line: LineKind, *, rho: float = RHO_FRESH) -> float:
    """
    Fastest wind that keeps a sinking lure at a depth with so much line out, m/s; slow the hand as it comes in.

    Raises
    ------
    ValueError
        If the line is no longer than the depth, or the lure floats.
    """
    if not line_m > depth_m > 0:
        raise ValueError("the line must be longer than the water is deep")
    if not end.weight_n > 0:
        raise ValueError("the lure floats: nothing holds it down")
    piece = [line.segment(line_m, rho=rho)]
    low, high = 0.01, 10.0
    for _ in range(_STEPS):
        middle = math.sqrt(low * high)
        deep = tow(end, piece, middle, rho=rho).depth_m >= depth_m
        low, high = (middle, high) if deep else (low, middle)
    return low


def contact_share(hop_m: float, lift_mps: float, fall_mps: float, rest_s: float, drag_s: float = 0.0) -> float:
    """
    Share of the time a hopped lure is on the bottom.

    Examples
    --------
    >>> round(contact_share(0.5, 1.0, 0.6, 3.0), 2)
    0.69
    """
    off = hop_m / lift_mps + hop_m / fall_mps
    return (rest_s + drag_s) / (rest_s + drag_s + off)


def touch_depth(depth_m: float, away_m: float, slope_deg: float, lean_deg: float = 15.0) -> tuple[float, float]:
    """
    Depth at which a cast lure touches a slope, and how far it lands nearer: metres.

    Parameters
    ----------
    depth_m : float
        Under the rod.
    away_m : float
        Where the lure hits the water.
    slope_deg : float
        Over 0 where it gets deeper outward.
    lean_deg : float
        Of the fall towards the boat: tight line 10 to 25, open spool 0 to 5.

    Examples
    --------
    >>> [round(v, 2) for v in touch_depth(4.0, 25.0, 10.0, 20.0)], round(touch_depth(4.0, 25.0, 10.0, 0.0)[0], 2)
    ([7.9, 2.88], 8.41)
    """
    steep, lean = math.tan(math.radians(slope_deg)), math.tan(math.radians(lean_deg))
    deep = (depth_m + away_m * steep) / (1.0 + lean * steep)
    return max(deep, 0.0), max(deep, 0.0) * lean


def gap_after_pull(pull_m: float, line_deg: float, slope_deg: float) -> float:
    """
    How far a pull downhill takes a lure off the ground, metres; 0 or less uphill: contact is sure.

    Examples
    --------
    >>> round(gap_after_pull(0.5, 20.0, 10.0), 3)
    0.254
    """
    q, b = math.radians(line_deg), math.radians(slope_deg)
    return pull_m * (math.sin(q) + math.cos(q) * math.tan(b))


def felt_mass_kg(depth_m: float, wind_mps: float, line_diameter_m: float, *, kayak: bool = False) -> float:
    """
    Weight whose touch is told from wind and hands, kg: three grams in a calm, ten in wind, more beyond ten metres.

    Notes
    -----
    The step of tension is about half the weight in water; line in the air pulls with 0.3 rho Cd d l U^2 over three
    metres, hands and boat make 0.02 to 0.05 N (docs/handbook.md, 5.8).
    """
    line_n = 0.6 * 1.2 * line_diameter_m * 3.0 * wind_mps**2
    noise = line_n + (0.012 if kayak else 0.014) + (0.002 if kayak else 0.0022) * min(wind_mps, 8.0)
    grams = min(max(2.0 * noise / (GRAMS_N * 0.912), 3.0), 10.0)
    return (grams + 0.5 * max(depth_m - 10.0, 0.0)) / 1000.0


GRAMS_N = 9.80665e-3  # weight of a gram


# -- solved to the floor ----------------------------------------------------------------------------------------


class Walk(Enum):
    """How a weight goes over the bottom."""

    WALKS = "walks"
    ON_THE_SPOT = "on the spot"  # the line is steep: it hops and stands
    LIFTS = "lifts"  # the line is flat: it flies


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """A weight on the bottom behind a moving boat."""

    line_m: float
    angle_deg: float  # of the line over level at the rod
    walk: Walk


def walker_body(mass_kg: float, *, rig_area_m2: float = 1.5e-4, rho: float = RHO_FRESH) -> Body:
    """A walker of lead with its wire, and what it draws behind it."""
    area = 1.5e-4 * (1000.0 * mass_kg / 14.0) ** 0.54
    return Body(weight_n=GRAMS_N * 1000.0 * mass_kg * (1 - rho / 11_340.0), drag_area_m2=area + rig_area_m2)


def walk_on(
    mass_kg: float, depth_m: float, speed_mps: float, line: LineKind, *, rho: float = RHO_FRESH
) -> Walked | None:
    """
    Line for a walker to reach the bottom, and how it goes there; None where it does not get down.

    Raises
    ------
    ValueError
        For a depth that is none.
    """
    if not depth_m > 0:
        raise ValueError("a depth above zero is needed")
    try:
        solved = line_for_depth(
            walker_body(mass_kg, rho=rho), [line.segment(0.0, rho=rho)], depth_m, speed_mps, rho=rho, longest_m=200.0
        )
    except Unreachable:
        return None
    angle = solved.angle_deg
    walk = Walk.LIFTS if angle < _LIFTS_DEG else Walk.ON_THE_SPOT if angle > _WALKS_DEG else Walk.WALKS
    return Walked(line_m=solved.length_m, angle_deg=angle, walk=walk)


def walker_mass(
    depth_m: float, speed_mps: float, line: LineKind, *, angle_deg: float = 42.0, rho: float = RHO_FRESH
) -> float:
    """
    Mass of a walker whose line has an angle over level at the rod, kg; 35 to 50 degrees are usual.

    Raises
    ------
    ValueError
        Where five kilos would not do.
    """

    def steep(mass: float) -> bool:
        found = walk_on(mass, depth_m, speed_mps, line, rho=rho)
        return found is not None and found.angle_deg >= angle_deg

    if not steep(_MOST_KG):
        raise ValueError(f"no weight up to {_MOST_KG:g} kg does at this speed")
    return _bisect(steep, _LEAST_KG, _MOST_KG)


# -- above the floor --------------------------------------------------------------------------------------------


def floater_height(
    buoyancy_n: float,
    drag_area_m2: float,
    leader_m: float,
    leader: LineKind,
    speed_mps: float,
    *,
    rho: float = RHO_FRESH,
) -> float:
    """
    Height of a floating lure over its sinker on the bottom, metres; 0 where the leader drags it down.

    Notes
    -----
    The towed line with the lure's weight below zero: the leader rises from the sinker to the lure.
    """
    end = Body(weight_n=-buoyancy_n, drag_area_m2=drag_area_m2)
    return max(-tow(end, [leader.segment(leader_m, rho=rho)], speed_mps, rho=rho).depth_m, 0.0)


def drop_height(over_weight_m: float, depth_m: float, away_m: float) -> float:
    """
    Height of a lure tied so far over its weight, on a tight line from so far away, metres.

    Examples
    --------
    >>> [round(drop_height(0.4, 4.0, x), 2) for x in (3.0, 8.0, 15.0, 25.0)]
    [0.32, 0.18, 0.1, 0.06]
    """
    return over_weight_m * depth_m / math.hypot(away_m, depth_m)


def tied_over(height_m: float, depth_m: float, away_m: float) -> float:
    """
    How far over the weight to tie for a height wanted, metres.

    Examples
    --------
    >>> round(tied_over(0.3, 8.0, 15.0), 2)
    0.64
    """
    return height_m * math.hypot(away_m, depth_m) / depth_m


def lift_of(sweep_m: float, slack_m: float, line_deg: float) -> float:
    """
    How far a sweep lifts a lure, metres: far and flat it comes nearer, not up.

    Examples
    --------
    >>> [round(lift_of(0.6, 0.0, q), 2) for q in (90.0, 60.0, 30.0, 15.0)]
    [0.6, 0.52, 0.3, 0.16]
    """
    return max(sweep_m - slack_m, 0.0) * math.sin(math.radians(line_deg))


# -- bait that stays --------------------------------------------------------------------------------------------


class Ground(Enum):
    """What a sinker holds to."""

    ROCK = "rock"
    SAND = "sand"
    GRAVEL = "gravel"
    MUD = "mud"


# side hold over weight in water, by shape and ground: low and high (docs/handbook.md, 5.8)
_HOLD: dict[tuple[str, Ground], tuple[float, float]] = {
    ("round", Ground.ROCK): (0.3, 0.5),
    ("round", Ground.SAND): (0.4, 0.7),
    ("round", Ground.GRAVEL): (0.4, 0.7),
    ("round", Ground.MUD): (0.5, 0.9),
    ("flat coin", Ground.SAND): (0.6, 0.9),
    ("flat coin", Ground.MUD): (0.8, 1.2),
    ("pyramid", Ground.SAND): (0.9, 1.5),
    ("pyramid", Ground.MUD): (1.0, 2.0),
    ("gripping wires", Ground.SAND): (3.0, 6.0),
    ("gripping wires", Ground.MUD): (3.0, 6.0),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """What holds a bait on the bottom in a current."""

    side_pull_n: float
    mass_kg: float  # of lead, by the middle of the hold
    mass_low_kg: float
    mass_high_kg: float


def hold_of(shape: str, ground: Ground) -> tuple[float, float]:
    """Side hold over weight in water, low and high; a shape with none of its own holds as a round one."""
    return _HOLD.get((shape, ground), _HOLD[("round", ground)])


def holding_mass(
    current_mps: float,
    depth_m: float,
    line: LineKind,
    bait_area_m2: float,
    hold: tuple[float, float],
    *,
    upward_n: float = 0.0,
    rho: float = RHO_FRESH,
) -> Held:
    """
    Lead that holds a bait in a current.

    Parameters
    ----------
    current_mps, depth_m : float
    line : LineKind
        Half of its drag pulls at the sinker, the rod takes the other half.
    bait_area_m2 : float
        Drag area of bait and sinker.
    hold : (float, float)
        Of `hold_of`.
    upward_n : float
        Pull of a taut line at the sinker: 0 with line to spare, 0.1 to 0.3 with a high rod.

    Examples
    --------
    >>> from plumbbob.core.rig.tackle import LineKind
    >>> nylon = LineKind(name="n", diameter_m=0.30e-3, density=1140.0)
    >>> held = holding_mass(0.5, 10.0, nylon, 6e-4, (0.7, 0.7), rho=1000.0)
    >>> round(held.side_pull_n, 2), round(held.mass_kg * 1000)
    (0.3, 48)
    """
    pull = 0.5 * rho * bait_area_m2 * current_mps**2
    pull += 0.25 * rho * line.diameter_m * line.cn * current_mps**2 * depth_m

    def mass(mu: float) -> float:
        return (pull / mu + upward_n) / (GRAMS_N * 1000.0 * (1 - rho / 11_340.0))

    low, high = hold
    return Held(side_pull_n=pull, mass_kg=mass(math.sqrt(low * high)), mass_low_kg=mass(high), mass_high_kg=mass(low))


# -- a ball over a bottom that rises ----------------------------------------------------------------------------


def seconds_to_touch(clearance_m: float, slope_deg: float, speed_mps: float) -> float:
    """
    Time until a ball that clears a rising bottom touches it; infinite over a level one.

    Examples
    --------
    >>> [round(seconds_to_touch(1.0, b, 1.1), 1) for b in (3.0, 8.0, 15.0, 25.0)]
    [17.3, 6.5, 3.4, 1.9]
    """
    rate = speed_mps * math.tan(math.radians(slope_deg))
    return clearance_m / rate if rate > 0 else math.inf


@dataclass(frozen=True, slots=True, kw_only=True)
class Cranking:
    """Raising a ball before a rise."""

    turns: float
    seconds: float
    begin_ahead_m: float  # the rise is so far ahead of the boat when the hand must begin


def raise_ball(
    by_m: float,
    trails_m: float,
    speed_mps: float,
    *,
    turn_m: float = 0.4,
    rate_mps: float = 0.4,
    notice_s: float = 3.0,
) -> Cranking:
    """
    Turns to raise a ball, the time it takes, and when to begin.

    Parameters
    ----------
    by_m : float
        How much higher.
    trails_m : float
        How far the ball is behind the boat.
    turn_m, rate_mps : float
        Wire a turn, and how fast it comes in.
    notice_s : float
        Until the hand is at the crank.

    Examples
    --------
    >>> up = raise_ball(3.0, 6.3, 1.1)
    >>> round(up.seconds, 1), round(up.turns, 1)
    (7.5, 7.5)
    """
    seconds = by_m / rate_mps
    return Cranking(
        turns=by_m / turn_m, seconds=seconds, begin_ahead_m=max(speed_mps * (seconds + notice_s) - trails_m, 0.0)
    )


# -- below the boat ---------------------------------------------------------------------------------------------


class Need(Enum):
    """What asks for the weight of a jig below the boat."""

    ANGLE = "angle"
    FALL = "fall"
    FEEL = "feel"


@dataclass(frozen=True, slots=True, kw_only=True)
class JigWeight:
    """A jig for a depth: the largest of three needs, and what each asks."""

    mass_kg: float
    need: Need
    angle_kg: float
    fall_kg: float
    feel_kg: float
    line_deg: float  # off the vertical with it
    fall_s: float


def jig_weight(
    depth_m: float,
    drift_mps: float,
    line: LineKind,
    tail_area_m2: float,
    *,
    wind_mps: float = 0.0,
    fall_s: float = 15.0,
    off_vertical_deg: float = 30.0,
    kayak: bool = False,
    rho: float = RHO_FRESH,
) -> JigWeight:
    """
    Weight of a jig below the boat: steep enough a line, quick enough a fall, enough to feel (docs/handbook.md, 5.8).

    Parameters
    ----------
    depth_m, drift_mps : float
        Speed of the line through the water.
    line : LineKind
    tail_area_m2 : float
        Drag area of what is threaded on the head.
    wind_mps : float
    fall_s : float
        Time the fall may take: 15 s, 8 for schools that move, 25 in cold water.
    off_vertical_deg : float

    Raises
    ------
    ValueError
        Where five kilos would not do.
    """

    def head(mass: float) -> tuple[float, float]:
        weight = mass * GRAMS_N * 1000.0 * (1 - rho / 10_500.0)
        return weight, tail_area_m2 + 0.6 * math.pi * (3 * mass / (4 * math.pi * 10_500.0)) ** (2 / 3)

    def hung(mass: float) -> Tow | None:
        weight, area = head(mass)
        try:
            return line_for_depth(
                Body(weight_n=weight, drag_area_m2=area),
                [line.segment(0.0, rho=rho)],
                depth_m,
                drift_mps,
                rho=rho,
                longest_m=5.0 * depth_m,
            )
        except Unreachable:
            return None

    def steep(mass: float) -> bool:
        found = hung(mass)
        return found is not None and found.angle_from_vertical_deg <= off_vertical_deg

    def time(mass: float) -> float:
        weight, area = head(mass)
        falling = Falling(weight_n=weight, drag_area_m2=area, line_diameter_m=line.diameter_m, line_ct=0.02 * math.pi)
        return time_to_depth(falling, depth_m, rho=rho)[0]

    if not (depth_m > 0 and fall_s > 0):
        raise ValueError("a depth and a time above zero are needed")
    if not steep(_MOST_KG) or time(_MOST_KG) > fall_s:
        raise ValueError(f"no jig up to {_MOST_KG:g} kg does")
    by_angle = _bisect(steep, _LEAST_KG, _MOST_KG)
    by_fall = _bisect(lambda mass: time(mass) <= fall_s, _LEAST_KG, _MOST_KG)
    by_feel = felt_mass_kg(depth_m, wind_mps, line.diameter_m, kayak=kayak)
    mass, need = max((by_angle, Need.ANGLE), (by_fall, Need.FALL), (by_feel, Need.FEEL), key=lambda pair: pair[0])
    found = hung(mass)
    return JigWeight(
        mass_kg=mass,
        need=need,
        angle_kg=by_angle,
        fall_kg=by_fall,
        feel_kg=by_feel,
        line_deg=found.angle_from_vertical_deg if found is not None else math.nan,
        fall_s=time(mass),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class SchoolDrop:
    """A drop on a school that passes."""

    seconds: float  # until the lure is there
    lead_m: float  # let go so far before it
    share: float  # of the school that is left when the lure is there; below 0 it has gone


def drop_on_school(
    depth_m: float, fall_mps: float, passes_mps: float, length_m: float, *, reaction_s: float = 1.5
) -> SchoolDrop:
    """
    Whether a lure gets down before a school has passed.

    Examples
    --------
    >>> drop = drop_on_school(12.0, 0.8, 0.3, 10.0)
    >>> round(drop.seconds, 1), round(drop.lead_m, 1), round(drop.share, 2)
    (16.5, 5.0, 0.51)
    """
    seconds = depth_m / fall_mps + reaction_s
    return SchoolDrop(
        seconds=seconds, lead_m=passes_mps * seconds, share=1.0 - passes_mps * seconds / max(length_m, 0.1)
    )
