"""
Where to hang the lure, which ways reach it today, and what to tie on: advice with its reasons, never orders.

Where people who fish for a living disagree, both schools are given with why (docs/handbook.md, 5.6, 8 and 9).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum

from plumbbob.core.reason import Measure, Reason, Value, because
from plumbbob.core.rig.knowledge import PRIOR, Knowledge
from plumbbob.core.rig.methods import HELD_DEG, solve, weight_for_angle
from plumbbob.core.rig.pace import cadence
from plumbbob.core.rig.reasons import HangReason, RigCaution, SchoolReason, Tip, Topic, WayReason
from plumbbob.core.rig.rod import (
    FAMILY,
    Amount,
    CannotReach,
    Family,
    Method,
    RigAnswer,
    RigSettings,
    default_setup,
)
from plumbbob.core.units import Kind
from plumbbob.core.water.light import light_share, surface_lux
from plumbbob.core.water.species import SLOW

_LEEWAY = {"boat": 0.03, "kayak": 0.045}  # drift as a share of the wind
_DIM_LUX, _DARK_LUX = 10.0, 0.1
_COLD_C, _WARM_C = 10.0, 18.0
_SLUGGISH_C = 8.0
_CLEAR_M, _TURBID_M = 4.0, 1.5  # Secchi depths
FRESH_BAIT_S = 20 * 60.0
_CONTACT_M = 0.6  # off the bottom: a fish so near it takes what touches the bottom
_HARD_KEEP_M, _SOFT_KEEP_M = 0.1, 0.4
_UNDER_M = 0.1
_ICE_SURFACE_C = 3.0
# as much line as a person would let out, m; beyond it a way reaches a depth on paper only
_MOST_OUT_M = {
    Method.DOWNRIGGER: 75.0,
    Method.FLAT_LINE: 75.0,
    Method.WEIGHTED_LINE: 140.0,
    Method.CLIP: 75.0,
    Method.DIVER: 90.0,
    Method.WALKER: 40.0,
    Method.BOARD: 60.0,
    Method.JIG: 100.0,
    Method.DROP_WEIGHT: 100.0,
    Method.DROPPERS: 100.0,
    Method.RETRIEVE: 50.0,
}
_LONGEST_COUNT_S = 60.0
_TICKS_M = 0.5


class Vertical(Enum):
    """The schools of how high to fish."""

    ABOVE = "above"
    AT = "at"


class Pace(Enum):
    """The schools of how fast."""

    SLOW = "slow"
    FAST = "fast"


class Size(Enum):
    """The schools of how big."""

    MATCH = "match"
    BIG = "big"


class Noise(Enum):
    """The schools of how loud."""

    LOUD = "loud"
    QUIET = "quiet"


School = Pace | Size | Noise


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFacts:
    """What is known of the day, the water and the fish; NaN and None where it is not."""

    secchi_m: float = 3.0
    sun_deg: float = 40.0  # elevation
    wind_mps: float = 0.0
    temperature_c: float = math.nan  # at the lure
    layer: tuple[float, float] | None = None  # cold layer, top and base
    comfort: tuple[float, float] | None = None  # depths the species can be at ease in
    species: str = ""  # by its name in the table
    called: str = ""  # what people call it; empty: as the table does
    bottom_m: float = math.nan
    soft_bottom: bool = False  # weedy or muddy
    bait: tuple[tuple[float, float], ...] = ()  # thick bait, top and base
    bait_length_m: float = math.nan
    looks: str = ""  # where the species looks when it feeds: U up, L level, D down, most often first
    surface_c: float = math.nan  # of the water: whether there can be ice
    activity: float = math.nan  # how well the best of this column suits the species, 0.1 to 1
    fish_chase: bool = False  # fish were seen to follow or strike
    kayak: bool = False

    @property
    def drift_mps(self) -> float:
        """Of the boat before the wind, with nothing in the water to hold it."""
        return self.wind_mps * _LEEWAY["kayak" if self.kayak else "boat"]

    def lux(self, depth_m: float) -> float:
        """Light at a depth."""
        return surface_lux(self.sun_deg) * float(light_share(depth_m, self.secchi_m))


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """Where to hang the lure for a fish, and why there."""

    depth_m: float
    reasons: tuple[Reason, ...]
    cautions: tuple[Reason, ...] = ()  # what speaks against a fish there; it was seen there all the same


def above_fish_m(facts: RigFacts, depth_m: float, setting_m: float) -> float:
    """
    How far over a fish to hang the lure: the setting, more in clear water, less where little light is left.

    Parameters
    ----------
    facts : RigFacts
    depth_m : float
        Of the fish.
    setting_m : float
        What a person likes in water of middling clarity, by day.

    Notes
    -----
    0.5 to 1.5 m is usual and up to 3 m in clear water; a fish sees a lure against the light from below, as far as
    clarity lets it. In proportion to the Secchi depth over 3 m, halved in the dark.
    """
    clear = min(max(facts.secchi_m / 3.0, 0.6), 2.5)
    lux = facts.lux(depth_m)
    light = 1.0 if lux >= _DIM_LUX else 0.75 if lux >= _DARK_LUX else 0.5
    return min(max(setting_m * clear * light, 0.0), 3.0)


def where_to_hang(
    fish_m: float, facts: RigFacts, *, setting_m: float = 0.7, vertical: Vertical = Vertical.ABOVE
) -> Hung:
    """
    The depth for the lure, given a fish.

    Parameters
    ----------
    fish_m : float
        Depth of the fish.
    facts : RigFacts
    setting_m : float
    vertical : Vertical
        Above, where it is seen against the light; or at its own depth, for fish that will not rise.

    Raises
    ------
    ValueError
        If the fish has no depth.
    """
    if not (math.isfinite(fish_m) and fish_m > 0):
        raise ValueError("the fish needs a depth above zero")
    keep = _SOFT_KEEP_M if facts.soft_bottom else _HARD_KEEP_M
    if facts.bottom_m - fish_m <= _CONTACT_M:
        depth = facts.bottom_m - keep
        reasons = [because(HangReason.ON_BOTTOM)]
    elif vertical is Vertical.AT:
        depth, reasons = fish_m, [because(HangReason.OWN_DEPTH)]
    else:
        depth, reasons = _by_its_eyes(fish_m, facts, setting_m)
    for top, base in facts.bait:
        if top < depth < base:
            # one lure among thousands is not found
            under = base + 0.3
            depth = under if under < fish_m or depth - top > base - depth else max(top - 0.3, 0.3)
            reasons.append(because(HangReason.UNDER_BAIT if depth >= base else HangReason.OVER_BAIT))
    if depth > facts.bottom_m - keep:
        depth = facts.bottom_m - keep
        reasons.append(because(HangReason.CLEAR_OF_WEED if facts.soft_bottom else HangReason.CLEAR_OF_BOTTOM))
    return Hung(depth_m=max(depth, 0.3), reasons=tuple(reasons), cautions=_against(fish_m, facts))


def _by_its_eyes(fish_m: float, facts: RigFacts, setting_m: float) -> tuple[float, list[Reason]]:
    """Over a fish that looks up, level with one that looks ahead, at the nose of one that looks down."""
    first = facts.looks[:1]
    who = facts.called or facts.species or "the fish"
    if first == "L":
        return fish_m, [because(HangReason.LEVEL, species=who)]
    if first == "D":
        return fish_m + _UNDER_M, [because(HangReason.JUST_UNDER, species=who)]
    over = above_fish_m(facts, fish_m, setting_m)
    reasons = [because(HangReason.OVER_KNOWN, species=who) if first == "U" else because(HangReason.OVER)]
    if facts.secchi_m >= _CLEAR_M:
        reasons.append(because(HangReason.CLEAR_WATER))
    elif facts.secchi_m <= _TURBID_M:
        reasons.append(because(HangReason.COLOURED_WATER))
    else:
        reasons.append(because(HangReason.FAIRLY_CLEAR_WATER))
    if facts.lux(fish_m) < _DIM_LUX:
        reasons.append(because(HangReason.LITTLE_LIGHT))
    return max(fish_m - over, 0.3), reasons


def _against(fish_m: float, facts: RigFacts) -> tuple[Reason, ...]:
    """A fish that was seen counts for more than a layer or a table: they only add a caution."""
    out: list[Reason] = []
    if facts.layer is not None and fish_m > facts.layer[1]:
        out.append(because(RigCaution.UNDER_LAYER))
    elif facts.layer is not None and fish_m > facts.layer[0]:
        out.append(because(RigCaution.IN_LAYER))
    if facts.species and facts.comfort is not None and not facts.comfort[0] - 0.5 <= fish_m <= facts.comfort[1] + 0.5:
        code = RigCaution.UNDER_COMFORT if fish_m > facts.comfort[1] else RigCaution.OVER_COMFORT
        out.append(because(code, species=facts.called or facts.species))
    return tuple(out)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """One way to the depth, today."""

    method: Method
    rod: RigSettings
    answer: RigAnswer | CannotReach
    reaches: bool
    reason: Reason


def ways_to_reach(
    depth_m: float,
    facts: RigFacts,
    rod: RigSettings,
    knowledge: Knowledge = PRIOR,
) -> Iterator[Reach]:
    """
    Which ways reach a depth in this wind, with the rod's own tackle or what is usual for the way: one after another.

    Trolled ways go at the rod's speed; what hangs below the boat drifts before the wind.
    """
    trolled = rod.speed_mps if FAMILY[rod.method] is not Family.VERTICAL else RigSettings().speed_mps
    for method in Method:
        made = rod if method is rod.method else default_setup(rod, method)
        if FAMILY[method] is Family.VERTICAL:
            made = replace(made, speed_mps=min(facts.drift_mps, 3.0))
        elif FAMILY[method] is Family.TROLLED:
            made = replace(made, speed_mps=trolled)
        answer = solve(made, depth_m, knowledge)
        reaches, reason = _judged(made, answer, depth_m, facts)
        yield Reach(method=method, rod=made, answer=answer, reaches=reaches, reason=reason)


def _judged(
    rod: RigSettings, answer: RigAnswer | CannotReach, depth_m: float, facts: RigFacts
) -> tuple[bool, Reason]:
    if isinstance(answer, CannotReach):
        return False, answer.reason
    if FAMILY[rod.method] is Family.VERTICAL and answer.angle_deg > 45.0:
        try:
            kilos = weight_for_angle(rod, depth_m)
        except ValueError:
            return False, because(WayReason.NO_WEIGHT_HOLDS, angle_deg=HELD_DEG)
        return False, because(WayReason.DRIFTS_AWAY, angle_deg=answer.angle_deg, grams=1000 * kilos)
    if rod.method is Method.ICE:
        if facts.surface_c > _ICE_SURFACE_C:
            return False, because(WayReason.NO_ICE)
        return False, because(WayReason.ICE_UNCERTAIN)
    if answer.value > _MOST_OUT_M.get(rod.method, math.inf):
        return False, because(WayReason.TOO_MUCH_LINE, line=Measure(answer.value, Kind.LENGTH))
    if answer.amount is Amount.COUNT and answer.value > _LONGEST_COUNT_S:
        return False, because(WayReason.TOO_LONG_A_COUNT, seconds=answer.value)
    if rod.method is Method.WALKER:
        return _walks(answer, facts)
    if answer.depth_sd_m > 0.35 * max(depth_m, 1.0):
        return True, because(WayReason.NOT_SURELY)
    return True, because(WayReason.REACHES)


def _walks(answer: RigAnswer, facts: RigFacts) -> tuple[bool, Reason]:
    """A walker is fished with its weight on the bottom, or not at all."""
    weight_m = answer.ball[1] if answer.ball is not None else math.nan
    if not math.isfinite(facts.bottom_m):
        return True, because(WayReason.WALKS_AT, bottom=Measure(weight_m, Kind.DEPTH))
    off = facts.bottom_m - weight_m
    if abs(off) <= max(_TICKS_M, answer.depth_sd_m):
        return True, because(WayReason.WALKS)
    code = WayReason.WALKS_OVER if off > 0 else WayReason.WALKS_UNDER
    return False, because(code, off=Measure(abs(off), Kind.DEPTH))


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One piece of advice; where schools differ, each with its reason."""

    topic: Topic
    tip: Reason
    schools: tuple[tuple[School, Reason], ...] = ()


# usual speeds through the water by who is fished for, m/s: bait and spinners, then plugs and spoons
_SPEEDS: dict[str, tuple[tuple[float, float], tuple[float, float]]] = {
    "walleye": ((0.25, 0.7), (0.6, 1.2)),
    "sauger": ((0.25, 0.7), (0.6, 1.2)),
    "zander": ((0.25, 0.7), (0.6, 1.2)),
    "perch": ((0.25, 0.7), (0.6, 1.2)),
    "lake trout": ((0.5, 0.9), (0.7, 1.2)),
    "char": ((0.5, 0.9), (0.7, 1.2)),
    "trout": ((0.6, 1.0), (0.9, 1.6)),
    "coho": ((0.6, 1.0), (0.9, 1.6)),
    "chinook": ((0.7, 1.1), (1.0, 1.5)),
    "kokanee": ((0.4, 0.7), (0.5, 0.9)),
    "pike": ((0.4, 1.0), (0.9, 1.8)),
    "muskellunge": ((0.5, 1.0), (1.3, 2.5)),
    "crappie": ((0.15, 0.6), (0.5, 1.0)),
    "pollack": ((0.4, 0.9), (1.0, 1.8)),
    "bass": ((0.4, 1.0), (0.9, 1.8)),
}


# usual lengths of what is eaten, m (docs/handbook.md, 4.3)
_BAIT_M = {
    "alewife": (0.08, 0.18),
    "herring": (0.15, 0.30),
    "smelt": (0.08, 0.18),
    "cisco": (0.15, 0.35),
    "vendace": (0.10, 0.20),
    "shad": (0.05, 0.15),
    "shiner": (0.05, 0.09),
    "bleak": (0.08, 0.15),
    "sprat": (0.07, 0.14),
    "sand eel": (0.10, 0.25),
}


def bait_length_m(name: str) -> float:
    """Middling length of a kind of bait; NaN for one that is not known."""
    found = next((v for key, v in _BAIT_M.items() if key in name.lower()), None)
    return math.nan if found is None else (found[0] + found[1]) / 2


def usual_speed(species: str, *, natural: bool) -> tuple[float, float]:
    """Speeds at which a species is usually trolled for, m/s."""
    found = next((v for name, v in _SPEEDS.items() if name in species.lower()), ((0.4, 0.9), (0.8, 1.4)))
    return found[0 if natural else 1]


def advise(
    depth_m: float, facts: RigFacts, rods: Sequence[RigSettings], *, pace: Pace | None = None
) -> tuple[Advice, ...]:
    """What to tie on and how to move it, at a depth, today."""
    out = [_light(depth_m, facts), _pace(facts, rods, pace)]
    if math.isfinite(facts.bait_length_m):
        long = facts.bait_length_m
        schools = (
            (Size.MATCH, _between(SchoolReason.MATCH, 0.8 * long, 1.1 * long, Kind.FISH)),
            (Size.BIG, _between(SchoolReason.BIG, 1.3 * long, 2.0 * long, Kind.FISH)),
        )
        out.append(Advice(topic=Topic.SIZE, tip=because(Tip.MATCH_BAIT), schools=schools))
    out.append(Advice(topic=Topic.BEFORE_LEAVING, tip=because(Tip.CHANGE_IN_ORDER)))
    if any(is_natural(rod) for rod in rods):
        out.append(Advice(topic=Topic.BAIT, tip=because(Tip.FRESH_BAIT, minutes=FRESH_BAIT_S / 60)))
    if facts.secchi_m <= _TURBID_M or facts.secchi_m >= _CLEAR_M:
        tip = because(Tip.RATTLE if facts.secchi_m <= _TURBID_M else Tip.QUIET)
        both = ((Noise.LOUD, because(SchoolReason.LOUD)), (Noise.QUIET, because(SchoolReason.QUIET)))
        out.append(Advice(topic=Topic.NOISE, tip=tip, schools=both))
    return tuple(out)


def _between(code: SchoolReason, low: float, high: float, kind: Kind, **values: Value) -> Reason:
    """What a school holds, from so much to so much."""
    return because(code, low=Measure(low, kind), high=Measure(high, kind), **values)


def is_natural(rod: RigSettings) -> bool:
    """The rod carries natural bait."""
    return "bait" in rod.lure.name.lower()


def _light(depth_m: float, facts: RigFacts) -> Advice:
    lux, share = facts.lux(depth_m), float(light_share(depth_m, facts.secchi_m))
    left = f"{100 * share:.0f} %" if share >= 0.005 else f"{100 * share:.2g} %"
    if lux < _DARK_LUX:
        tip = Tip.GLOW
    elif lux < _DIM_LUX:
        tip = Tip.CONTRAST
    else:
        tip = _colour(facts.secchi_m, depth_m)
    return Advice(topic=Topic.LIGHT, tip=because(tip, share=left))


def _colour(secchi_m: float, depth_m: float) -> Tip:
    """Which colours are still colours there (docs/handbook.md 3.4; 40 % either way)."""
    if secchi_m >= 3.5:
        return Tip.REDS_GREY if depth_m > 4 else Tip.ALL_COLOURS
    if secchi_m >= _TURBID_M:
        return Tip.BLUE_GONE if depth_m > 2 else Tip.ALL_COLOURS
    return Tip.ONLY_WARM_COLOURS if depth_m > 1 else Tip.BRIGHT_COLOURS


def _pace(facts: RigFacts, rods: Sequence[RigSettings], pace: Pace | None) -> Advice:
    if rods and all(FAMILY[rod.method] in (Family.VERTICAL, Family.ICE) for rod in rods):
        return _cadence(facts, pace)
    natural = bool(rods) and all(is_natural(rod) for rod in rods)
    low, high = usual_speed(facts.species, natural=natural)
    warmth = Measure(facts.temperature_c, Kind.TEMPERATURE)
    if facts.fish_chase:
        tip = because(Tip.CHASE)
    elif facts.temperature_c < _COLD_C:
        tip = because(Tip.COLD, temperature=warmth)
    elif facts.temperature_c > _WARM_C:
        tip = because(Tip.WARM, temperature=warmth)
    else:
        tip = because(Tip.MIDDLING)
    third = (high - low) / 3
    codes = SchoolReason.SLOW, SchoolReason.FAST
    whom: dict[str, Value] = {}
    if facts.species:
        codes, whom = (SchoolReason.SLOW_FOR, SchoolReason.FAST_FOR), {"species": facts.called or facts.species}
    schools = (
        (Pace.SLOW, _between(codes[0], low, low + third, Kind.SPEED, **whom)),
        (Pace.FAST, _between(codes[1], high - third, high, Kind.SPEED, **whom)),
    )
    return Advice(topic=Topic.PACE, tip=tip, schools=_chosen(schools, pace, facts))


def _chosen(
    schools: tuple[tuple[School, Reason], ...], pace: Pace | None, facts: RigFacts | None
) -> tuple[tuple[School, Reason], ...]:
    """Both schools or the one that is asked for; cold fish that do not chase have no fast one."""
    if pace is not None:
        return tuple(s for s in schools if s[0] is pace)
    if facts is None:  # lifts that call from afar are for cold fish too
        return schools
    cold = facts.activity < SLOW if math.isfinite(facts.activity) else facts.temperature_c < _SLUGGISH_C
    return tuple(s for s in schools if s[0] is not Pace.FAST) if cold and not facts.fish_chase else schools


def _cadence(facts: RigFacts, pace: Pace | None) -> Advice:
    known = math.isfinite(facts.temperature_c)
    warm = facts.temperature_c if known else 10.0
    # below the boat and through the ice pace is lifts, not way
    found = cadence(warm)
    lifts, rest = ((round(low), round(high)) for low, high in (found.lifts_min, found.rest_s))
    low_lift, high_lift = (Measure(h, Kind.FISH) for h in found.lift_m)
    schools = (
        (Pace.SLOW, because(SchoolReason.SLOW_LIFTS, lifts=lifts[0], height=low_lift, rest=rest[1])),
        (Pace.FAST, because(SchoolReason.FAST_LIFTS, lifts=lifts[1], height=high_lift, rest=rest[0])),
    )
    span: dict[str, Value] = {"few": lifts[0], "many": lifts[1], "low": low_lift, "high": high_lift}
    tip = because(Tip.LIFTS_MIDDLING, **span)
    if known:
        tip = because(Tip.LIFTS, temperature=Measure(facts.temperature_c, Kind.TEMPERATURE), **span)
    return Advice(topic=Topic.PACE, tip=tip, schools=_chosen(schools, pace, None))
