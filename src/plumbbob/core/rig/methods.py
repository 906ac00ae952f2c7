"""Ways to bring a lure to a depth: each knows its inverse, its spread, and why it can't where it can't."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from plumbbob.core.reason import Reason, because
from plumbbob.core.rig import casting
from plumbbob.core.rig.chains import HANGING, Chain, chain, hang, in_air, speed_of, stream_of
from plumbbob.core.rig.knowledge import PRIOR, Key, Knowledge, keys_of, scaled
from plumbbob.core.rig.line import Body, Piece, Tow, Unreachable, line_for_depth, tow
from plumbbob.core.rig.reasons import RigCaution, WhyNot
from plumbbob.core.rig.rod import (
    DEEPEST_M,
    FAMILY,
    CannotReach,
    Extra,
    Family,
    Method,
    RigAnswer,
    RigSettings,
    Zero,
    amount_of,
)
from plumbbob.core.rig.tackle import Weight
from plumbbob.core.units import Kind

MOST_OUT = 5000.0  # metres of line, or seconds of a count
_STEP = 0.05  # of a coefficient's logarithm, to see how a depth follows it
_LEAST_OUT_M = 0.3  # below its ball, disc or sinker a line is at least so far out
_ABOVE_M = 0.02
_WALKS_DEG = (20.0, 70.0)  # off the vertical: steeper walks on the spot, flatter lifts and drags line
HELD_DEG, _FLAT_DEG = 30.0, 45.0  # off the vertical: a usual working range near the bottom


def solve(
    settings: RigSettings, depth_m: float, knowledge: Knowledge = PRIOR, *, depth_sd_m: float | None = None
) -> RigAnswer | CannotReach:
    """
    What brings the lure to a depth.

    Parameters
    ----------
    settings : RigSettings
    depth_m : float
        Of the lure; of the middle hook of droppers; the deepest a retrieved lure gets.
    knowledge : Knowledge
        What notes say of the tackle; it moves the answer and its spread.
    depth_sd_m : float, optional
        The spread of the depth where it is known already: working it out takes most of the time.

    Returns
    -------
    RigAnswer, or CannotReach with why and the nearest depth that works.
    """
    if not (math.isfinite(depth_m) and depth_m >= 0.0):
        return CannotReach(method=settings.method, reason=because(WhyNot.ABOVE_WATER), nearest_depth_m=0.0)
    if depth_m > DEEPEST_M:
        return CannotReach(method=settings.method, reason=because(WhyNot.BEYOND_ALL_LINE), nearest_depth_m=0.0)
    tuned = knowledge.tuned(settings)
    if settings.method not in HANGING:

        def variance(at: Callable[[RigSettings], float]) -> float:
            return _cast_variance(settings, at, knowledge) if depth_sd_m is None else depth_sd_m**2

        return casting.solve_cast(tuned, depth_m, variance)
    made = chain(tuned)
    refused = _refused(tuned)
    if refused is not None:
        return refused
    found = _let_out_for(tuned, made, depth_m)
    if isinstance(found, CannotReach):
        return found
    return _afloat(settings, made, found) or _answer(settings, tuned, made, found, knowledge, depth_sd_m)


def run(settings: RigSettings, value: float, knowledge: Knowledge = PRIOR) -> RigAnswer | CannotReach:
    """
    Where the lure runs with so much line out, cast, or so long a count: the other direction of `solve`.

    Parameters
    ----------
    settings : RigSettings
    value : float
        Metres out from the tip, metres behind the board, metres of cast, or seconds.
    knowledge : Knowledge
    """
    if not (math.isfinite(value) and value >= 0.0):
        return CannotReach(method=settings.method, reason=because(WhyNot.NEGATIVE_OUT), nearest_depth_m=0.0)
    if value > MOST_OUT:
        reason = because(WhyNot.TOO_MUCH_OUT)
        return CannotReach(method=settings.method, reason=reason, nearest_depth_m=0.0)
    tuned = knowledge.tuned(settings)
    if settings.method not in HANGING:
        return casting.run_cast(tuned, value, lambda at: _cast_variance(settings, at, knowledge))
    refused = _refused(tuned)
    if refused is not None:
        return refused
    made = chain(tuned)
    solved = _with_out(tuned, made, value)
    if solved is None and settings.method is Method.CLIP:
        return _before_the_clip(settings, value, knowledge)
    if solved is None:
        return CannotReach(
            method=settings.method,
            reason=because(WhyNot.NOTHING_IN_WATER),
            nearest_depth_m=0.0,
        )
    return _afloat(settings, made, solved) or _answer(settings, tuned, made, solved, knowledge)


def _before_the_clip(settings: RigSettings, value: float, knowledge: Knowledge) -> RigAnswer | CannotReach:
    """Less line out than the clip weight's lead: the lure runs on a plain line, its weight still in the hand."""
    plain = run(replace(settings, method=Method.FLAT_LINE), value, knowledge)
    if isinstance(plain, CannotReach):
        return replace(plain, method=settings.method)
    caution = because(RigCaution.WEIGHT_NOT_ON_LINE)
    return replace(plain, method=settings.method, cautions=(*plain.cautions, caution))


def _afloat(settings: RigSettings, made: Chain, solved: Tow) -> CannotReach | None:
    """A lure, or what should take it down, that would be above the water lies on it."""
    if _lure_depth(made, solved) < -_ABOVE_M:
        return CannotReach(
            method=settings.method,
            reason=because(WhyNot.FLOATS_AT_SURFACE, lure=settings.lure.name),
            nearest_depth_m=0.0,
        )
    return None


def hanging(settings: RigSettings, value: float) -> tuple[Chain, Tow, float, float] | None:
    """
    The chain with so much out: how it hangs, its length in the air, and how far aft of the tip it leaves the water.

    None where nothing is in the water, or the way is a cast.
    """
    if settings.method not in HANGING:
        return None
    made = chain(settings)
    solved = _with_out(settings, made, value)
    return None if solved is None else (made, solved, *in_air(settings, made, solved))


def depth_of(settings: RigSettings, value: float) -> float:
    """Depth of the lure with so much out; NaN where it is not in the water or does not go."""
    found = run(settings, value) if settings.method not in HANGING else None
    if found is not None:
        return found.depth_m if isinstance(found, RigAnswer) else math.nan
    if _refused(settings) is not None:
        return math.nan
    made = chain(settings)
    solved = _with_out(settings, made, value)
    if solved is None:
        return math.nan
    depth = _lure_depth(made, solved)
    return math.nan if depth < -_ABOVE_M else max(depth, 0.0)


# -- chains -----------------------------------------------------------------------------------------------------


def _refused(s: RigSettings) -> CannotReach | None:
    """Ways that cannot work as rigged, whatever the line."""
    lure = s.lure
    if s.method in (Method.FLAT_LINE, Method.BOARD) and lure.dives and s.speed_mps < 0.2:
        reason = because(WhyNot.LIP_TOO_SLOW)
    elif s.method in (Method.FLAT_LINE, Method.BOARD) and lure.weight_n <= 0 and not lure.dives:
        reason = because(WhyNot.FLOATS_WITHOUT_LIP, lure=lure.name)
    elif s.method is Method.DIVER and s.speed_mps < 0.2:
        reason = because(WhyNot.DISC_TOO_SLOW)
    elif s.method is Method.BOARD and s.speed_mps < 0.2:
        reason = because(WhyNot.BOARD_TOO_SLOW)
    elif s.method in (Method.JIG, Method.ICE) and lure.weight_n <= 0:
        reason = because(WhyNot.FLOATS_WITHOUT_WEIGHT, lure=lure.name)
    else:
        return None
    return CannotReach(method=s.method, reason=reason, nearest_depth_m=0.0)


def _let_out_for(s: RigSettings, made: Chain, depth_m: float) -> Tow | CannotReach:
    """The chain let out so far that its lure is at a depth."""
    cos = math.cos(math.radians(made.tilt_deg))
    below = _below_lure(s, made, depth_m)
    wanted = depth_m / cos + below
    if wanted < 0.0:
        # what hangs below the lure is lifted above it: there is no such depth
        return CannotReach(
            method=s.method, reason=because(WhyNot.LOWER_END_OUT), nearest_depth_m=max(-below * cos, 0.0)
        )
    try:
        solved = line_for_depth(
            made.end,
            [*made.fixed, *made.tops],
            wanted,
            speed_of(s),
            rho=s.rho,
            longest_m=made.tops[-1].length_m,
            stream=stream_of(s),
        )
    except Unreachable as limit:
        return CannotReach(
            method=s.method,
            reason=because(_WHY_NOT[s.method]),
            nearest_depth_m=max((limit.greatest_depth_m - below) * cos, 0.0),
        )
    if made.fixed and solved.length_m < made.fixed_m + _LEAST_OUT_M:
        near = hang(s, made, _LEAST_OUT_M)
        return CannotReach(
            method=s.method,
            reason=because(_WHY_SHALLOW.get(s.method, WhyNot.RIG_TOO_LONG)),
            nearest_depth_m=max(_lure_depth(made, near), 0.0),
        )
    return solved


def _below_lure(s: RigSettings, made: Chain, depth_m: float) -> float:
    """How far the lower end hangs under a lure at a depth; it does not depend on what is above."""
    if made.lure is None:
        return 0.0
    lower: list[Piece] = []
    loads = 0
    for piece in made.fixed:
        if isinstance(piece, Body):
            if loads == made.lure:
                break
            loads += 1
        lower.append(piece)
    stream = stream_of(s)
    there = None if stream is None else [(d - depth_m, v) for d, v in stream]
    return tow(made.end, lower, speed_of(s), rho=s.rho, stream=there).depth_m


def _with_out(s: RigSettings, made: Chain, value: float) -> Tow | None:
    """The chain with so much out from the tip, the part in the air taken off; None if none of it is in the water."""
    most = value + zero_m(s, made) + made.counted_from_m
    if most <= 0:
        return None
    if not made.air_npm or s.tip_height_m == 0.0:
        return _cut(made, hang(s, made, max(most - made.fixed_m, 0.0)), most)
    solved = hang(s, made, max(most - made.fixed_m, 0.0))

    def out(i: int) -> float:
        return solved.s_m[i] + in_air(s, made, solved, i)[0]

    # the last point with too little out, and on from there: a flat line lifted by its own pull may have two
    n = len(solved.s_m)
    first = solved.loads[-1] if made.ball is not None else 0
    first = max(first, next((k for k in range(n) if solved.s_m[k] >= made.fixed_m - 1e-9), 0))
    i = next((k + 1 for k in range(n - 2, first - 1, -1) if out(k) < most), 0)
    if i == 0:
        return None
    low, high = out(i - 1), out(i)
    share = (most - low) / max(high - low, 1e-9)
    length = solved.s_m[i - 1] + share * (solved.s_m[i] - solved.s_m[i - 1])
    solved = hang(s, made, max(length - made.fixed_m, 0.0))
    if stream_of(s) is None:
        return solved
    # in a shear a shorter line hangs elsewhere than the upper part of a longer one: a few steps bring it there
    for _ in range(6):
        short = most - solved.length_m - in_air(s, made, solved)[0]
        if abs(short) < 1e-3:
            break
        solved = hang(s, made, max(solved.length_m + short - made.fixed_m, 0.0))
    return solved


def zero_m(s: RigSettings, made: Chain) -> float:
    """What was out of the tip when the counter stood at zero."""
    return s.tip_height_m if s.zero is Zero.SURFACE and made.air_npm else 0.0


def _cut(made: Chain, solved: Tow, length: float) -> Tow | None:
    """Less than the fixed part out: nothing to speak of where that part carries a weight."""
    return None if made.fixed_m > length + 1e-9 else solved


def _lure_depth(made: Chain, solved: Tow) -> float:
    z = solved.z_m[0] if made.lure is None else solved.z_m[solved.loads[made.lure]]
    return z * math.cos(math.radians(made.tilt_deg))


def _point(made: Chain, solved: Tow, index: int, aft: float) -> tuple[float, float]:
    # what would be above the water lies on it
    return solved.x_m[index] + aft, max(solved.z_m[index] * math.cos(math.radians(made.tilt_deg)), 0.0)


def _answer(
    settings: RigSettings,
    tuned: RigSettings,
    made: Chain,
    solved: Tow,
    knowledge: Knowledge,
    depth_sd_m: float | None = None,
) -> RigAnswer:
    air, aft = in_air(tuned, made, solved)
    aside, ahead_of_line = 0.0, 0.0
    if settings.method is Method.BOARD:
        aside, ahead_of_line = board_place(tuned, solved)
        aft = ahead_of_line
    sine = math.sin(math.radians(made.tilt_deg))
    lure_at = 0 if made.lure is None else solved.loads[made.lure]
    lure = _point(made, solved, lure_at, aft)
    ball = None
    if made.ball is not None:
        ball = _point(made, solved, 0 if made.ball < 0 else solved.loads[made.ball], aft)
    points = tuple(_point(made, solved, i, aft) for i in range(len(solved.x_m)))
    tip = () if not made.air_npm else ((0.0, -tuned.tip_height_m),)
    top_m = solved.length_m - made.fixed_m
    hooks = tuple(_point(made, solved, solved.loads[i], aft) for i in made.hooks)
    blown = solved.x_m[solved.loads[0]] if settings.method is Method.DOWNRIGGER else 0.0
    return RigAnswer(
        method=settings.method,
        amount=amount_of(settings.method),
        value=max(solved.length_m - made.counted_from_m + air - zero_m(tuned, made), 0.0),
        depth_m=lure[1],
        depth_sd_m=_spread(settings, tuned, made, solved, top_m, knowledge) if depth_sd_m is None else depth_sd_m,
        layback_m=lure[0],
        angle_deg=solved.angle_from_vertical_deg,
        blow_back_m=blown,
        below_ball_m=0.0 if ball is None else lure[1] - ball[1],
        shape=points + tip,
        ball=ball,
        lure=lure,
        hooks=hooks,
        tension_n=solved.tension_n,
        aside_m=aside + solved.z_m[lure_at] * sine,
        band=(min(h[1] for h in hooks), max(h[1] for h in hooks)) if hooks else None,
        extras=_extras(tuned, solved, aside, top_m + air),
        cautions=_cautions(settings, solved),
    )


def board_place(s: RigSettings, lure_line: Tow) -> tuple[float, float]:
    """How far aside the board rides and how far aft of the tip; the line to it is held clear of the water."""
    q = 0.5 * s.rho * s.speed_mps**2
    back = q * s.board.drag_area_m2 + lure_line.tension_n * math.cos(math.radians(lure_line.angle_deg))
    pull = q * s.board.side_area_m2
    level = math.sqrt(max(s.board_m**2 - s.tip_height_m**2, 0.0)) / math.hypot(back, pull)
    return math.copysign(level * pull, s.aside_m), level * back


def _spread(
    settings: RigSettings,
    tuned: RigSettings,
    made: Chain,
    solved: Tow,
    top_m: float,
    knowledge: Knowledge,
) -> float:
    """Standard deviation of the depth: from speed, from what is measured out, from every coefficient."""

    def depth(other: RigSettings) -> float:
        other_chain = chain(other)
        return _lure_depth(other_chain, hang(other, other_chain, top_m, coarse=True))

    at, variance = depth(tuned), 0.0
    if speed_of(tuned) > 0:
        faster = replace(tuned, speed_mps=min(tuned.speed_mps + tuned.speed_sd_mps, 6.0))
        variance += (depth(faster) - at) ** 2
    # the last metre let out sinks the lure by the sine of the line's angle
    out = tuned.line_sd * (solved.length_m - made.counted_from_m)
    variance += (out * math.sin(solved.phi_rad[-1])) ** 2
    priors = keys_of(settings)
    slopes: dict[Key, float] = {}
    for key in priors:
        if key[2] == "fall":
            continue
        slopes[key] = (depth(scaled(tuned, {key: math.exp(_STEP)})) - at) / _STEP
    return math.sqrt(variance + knowledge.variance(slopes, priors))


def _extras(s: RigSettings, solved: Tow, aside: float, out_m: float) -> tuple[Extra, ...]:
    out: list[Extra] = []
    if s.method is Method.WEIGHTED_LINE and s.core.colour_m > 0:
        out.append(Extra(name="colours", value=min(out_m, s.core_m) / s.core.colour_m, kind=None))
    if s.method is Method.BOARD:
        out.append(Extra(name="board aside", value=abs(aside), kind=Kind.LENGTH))
    if s.method is Method.ICE:
        out.append(Extra(name="start over the fish", value=s.start_above_m, kind=Kind.DEPTH))
    return tuple(out)


def _cautions(s: RigSettings, solved: Tow) -> tuple[Reason, ...]:
    off = solved.angle_from_vertical_deg
    if FAMILY[s.method] is Family.VERTICAL and off > _FLAT_DEG:
        return (because(RigCaution.LINE_OFF_VERTICAL, angle_deg=off),)
    if s.method is Method.WALKER and not _WALKS_DEG[0] <= off <= _WALKS_DEG[1]:
        steepest, flattest = _WALKS_DEG
        code = RigCaution.WALKER_STEEP if off < steepest else RigCaution.WALKER_FLAT
        return (because(code, angle_deg=off, steepest_deg=steepest, flattest_deg=flattest),)
    return ()


_WHY_SHALLOW = {
    Method.DOWNRIGGER: WhyNot.SINKS_ON_LEAD,
    Method.WEIGHTED_LINE: WhyNot.RUNS_ON_LEADER,
    Method.CLIP: WhyNot.WEIGHT_NOT_IN,
    Method.DIVER: WhyNot.DISC_NOT_IN,
    Method.WALKER: WhyNot.WEIGHT_NOT_IN,
}
_WHY_NOT = {
    Method.DOWNRIGGER: WhyNot.WIRE_BLOWN_BACK,
    Method.FLAT_LINE: WhyNot.LURE_TRAILS,
    Method.WEIGHTED_LINE: WhyNot.LINE_LIES_FLAT,
    Method.CLIP: WhyNot.WEIGHT_TOO_LIGHT,
    Method.DIVER: WhyNot.DISC_TRAILS,
    Method.WALKER: WhyNot.WEIGHT_TOO_LIGHT,
    Method.BOARD: WhyNot.LURE_TRAILS,
    Method.JIG: WhyNot.DRIFT_LIFTS,
    Method.DROP_WEIGHT: WhyNot.DRIFT_LIFTS,
    Method.DROPPERS: WhyNot.DRIFT_LIFTS,
    Method.ICE: WhyNot.NO_MORE_LINE,
}


# -- casts ------------------------------------------------------------------------------------------------------


def _cast_variance(settings: RigSettings, depth: Callable[[RigSettings], float], knowledge: Knowledge) -> float:
    """Variance of a depth from the coefficients of what is cast."""
    tuned = knowledge.tuned(settings)
    priors = keys_of(settings)
    at = depth(tuned)
    slopes = {key: (depth(scaled(tuned, {key: math.exp(_STEP)})) - at) / _STEP for key in priors}
    return knowledge.variance({k: v for k, v in slopes.items() if math.isfinite(v)}, priors)


def weight_for_angle(settings: RigSettings, depth_m: float, off_vertical_deg: float = HELD_DEG) -> float:
    """
    Mass of a lead weight at the lower end that keeps the line within an angle off the vertical, kg.

    Parameters
    ----------
    settings : RigSettings
        A rod that fishes below the boat: its line, its speed, and the drag of its lure or hooks.
    depth_m : float
    off_vertical_deg : float

    Raises
    ------
    ValueError
        If depth or angle make no sense, or 20 kg would not do.

    Examples
    --------
    >>> still = RigSettings(method=Method.JIG, speed_mps=0.0)
    >>> weight_for_angle(still, 20.0) <= 0.002
    True
    """
    if not (math.isfinite(depth_m) and depth_m > 0 and 1.0 <= off_vertical_deg < 89.0):
        raise ValueError("a depth above zero and an angle between 1 and 89 degrees are needed")

    def angle(mass: float) -> float:
        made = chain(_weighted(settings, mass))
        try:
            return line_for_depth(
                made.end,
                [*made.fixed, replace(made.tops[-1], length_m=0.0)],
                depth_m + _below_lure(settings, made, depth_m),
                settings.speed_mps,
                rho=settings.rho,
                stream=settings.stream,
            ).angle_from_vertical_deg
        except Unreachable:
            return 90.0

    low, high = 0.001, 20.0
    if angle(high) > off_vertical_deg:
        raise ValueError(f"no weight up to 20 kg keeps the line within {off_vertical_deg:g} degrees at this speed")
    if angle(low) <= off_vertical_deg:
        return low
    while high / low > 1.01:
        middle = math.sqrt(low * high)
        low, high = (low, middle) if angle(middle) <= off_vertical_deg else (middle, high)
    return high


def _weighted(s: RigSettings, mass_kg: float) -> RigSettings:
    """The rod with another weight at its end: the head of a jig, or the weight below lure or hooks."""
    lead = Weight(name="lead", mass_kg=mass_kg)
    if s.method in (Method.DROP_WEIGHT, Method.DROPPERS):
        return replace(s, sinker=lead)
    body = lead.body(s.rho)
    drag = max(s.lure.drag_area_m2, body.drag_area_m2)  # the lure's, and of a heavy head its own
    return replace(s, lure=replace(s.lure, weight_n=body.weight_n, drag_area_m2=drag))


__all__ = ["board_place", "depth_of", "hanging", "run", "solve", "weight_for_angle", "zero_m"]
