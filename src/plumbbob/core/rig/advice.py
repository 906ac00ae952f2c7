"""
Where to hang the lure, which ways reach it today, and what to tie on: advice with its reasons, never orders.

Where people who fish for a living disagree, both schools are given with why (docs/handbook.md, 5.6, 8 and 9).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from enum import Enum

from plumbbob.core.rig.knowledge import PRIOR, Knowledge
from plumbbob.core.rig.methods import solve, weight_for_angle
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
from plumbbob.core.units import Kind, System, quantity
from plumbbob.core.water.light import light_share, surface_lux

_LEEWAY = {"boat": 0.03, "kayak": 0.045}  # drift as a share of the wind
_DIM_LUX, _DARK_LUX = 10.0, 0.1
_COLD_C, _WARM_C = 10.0, 18.0
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


Say = Callable[[float, Kind], str]


def plainly(value: float, kind: Kind) -> str:
    """A quantity in metric words."""
    return quantity(value, kind, System.METRIC)


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


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFacts:
    """What is known of the day, the water and the fish; NaN and None where it is not."""

    secchi_m: float = 3.0
    sun_deg: float = 40.0  # elevation
    wind_mps: float = 0.0
    temperature_c: float = math.nan  # at the lure
    layer: tuple[float, float] | None = None  # cold layer, top and base
    comfort: tuple[float, float] | None = None  # depths the species can be at ease in
    species: str = ""
    bottom_m: float = math.nan
    soft_bottom: bool = False  # weedy or muddy
    bait: tuple[tuple[float, float], ...] = ()  # thick bait, top and base
    bait_length_m: float = math.nan
    looks: str = ""  # where the species looks when it feeds: U up, L level, D down, most often first
    surface_c: float = math.nan  # of the water: whether there can be ice
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
    reasons: tuple[str, ...]
    cautions: tuple[str, ...] = ()  # what speaks against a fish there; it was seen there all the same


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
        reasons = ["the fish is on the bottom: contact with it comes first, then lift a hand's breadth"]
    elif vertical is Vertical.AT:
        depth, reasons = fish_m, ["at the fish's own depth: deep, cold or sluggish fish rise little"]
    else:
        depth, reasons = _by_its_eyes(fish_m, facts, setting_m)
    for top, base in facts.bait:
        if top < depth < base:
            # one lure among thousands is not found
            under = base + 0.3
            depth = under if under < fish_m or depth - top > base - depth else max(top - 0.3, 0.3)
            reasons.append(f"not inside the bait: {'under' if depth >= base else 'over'} it")
    if depth > facts.bottom_m - keep:
        depth = facts.bottom_m - keep
        reasons.append("floated clear of weed and mud" if facts.soft_bottom else "just clear of the bottom")
    return Hung(depth_m=max(depth, 0.3), reasons=tuple(reasons), cautions=_against(fish_m, facts))


def _by_its_eyes(fish_m: float, facts: RigFacts, setting_m: float) -> tuple[float, list[str]]:
    """Over a fish that looks up, level with one that looks ahead, at the nose of one that looks down."""
    first = facts.looks[:1]
    who = facts.species or "the fish"
    if first == "L":
        return fish_m, [f"level with it: {who} looks ahead and up or down only a little"]
    if first == "D":
        return fish_m + _UNDER_M, [f"just under it: {who} looks down when it feeds"]
    over = above_fish_m(facts, fish_m, setting_m)
    clear = facts.secchi_m >= _CLEAR_M
    seen = "clear" if clear else "coloured" if facts.secchi_m <= _TURBID_M else "fairly clear"
    dim = facts.lux(fish_m) < _DIM_LUX
    looks = f"over it: {who} looks up" if first == "U" else "over the fish: most look up"
    return max(fish_m - over, 0.3), [f"{looks}; {seen} water" + (", little light left" if dim else "")]


def _against(fish_m: float, facts: RigFacts) -> tuple[str, ...]:
    """A fish that was seen counts for more than a layer or a table: they only add a caution."""
    out = []
    if facts.layer is not None and fish_m > facts.layer[1]:
        out.append("It hangs under the cold layer, where few feed.")
    elif facts.layer is not None and fish_m > facts.layer[0]:
        out.append("It hangs in the cold layer.")
    if facts.species and facts.comfort is not None and not facts.comfort[0] - 0.5 <= fish_m <= facts.comfort[1] + 0.5:
        where = "under" if fish_m > facts.comfort[1] else "over"
        out.append(f"That is {where} the depths that suit {facts.species} best today: it may be another fish.")
    return tuple(out)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """One way to the depth, today."""

    method: Method
    rod: RigSettings
    answer: RigAnswer | CannotReach
    reaches: bool
    words: str


def ways_to_reach(
    depth_m: float,
    facts: RigFacts,
    rod: RigSettings,
    knowledge: Knowledge = PRIOR,
    *,
    say: Say | None = None,
) -> Iterator[Reach]:
    """
    Which ways reach a depth in this wind, with the rod's own tackle or what is usual for the way: one after another.

    Trolled ways go at the rod's speed; what hangs below the boat drifts before the wind.
    """
    say = say or plainly
    trolled = rod.speed_mps if FAMILY[rod.method] is not Family.VERTICAL else RigSettings().speed_mps
    for method in Method:
        made = rod if method is rod.method else default_setup(rod, method)
        if FAMILY[method] is Family.VERTICAL:
            made = replace(made, speed_mps=min(facts.drift_mps, 3.0))
        elif FAMILY[method] is Family.TROLLED:
            made = replace(made, speed_mps=trolled)
        answer = solve(made, depth_m, knowledge)
        reaches, words = _judged(made, answer, depth_m, facts, say)
        yield Reach(method=method, rod=made, answer=answer, reaches=reaches, words=words)


def _judged(
    rod: RigSettings, answer: RigAnswer | CannotReach, depth_m: float, facts: RigFacts, say: Say
) -> tuple[bool, str]:
    if isinstance(answer, CannotReach):
        return False, answer.reason
    if FAMILY[rod.method] is Family.VERTICAL and answer.angle_deg > 45.0:
        try:
            kilos = weight_for_angle(rod, depth_m)
        except ValueError as exc:
            return False, str(exc)
        return (
            False,
            f"the drift carries it {answer.angle_deg:.0f}° off the vertical; about {1000 * kilos:.0f} g holds it",
        )
    if rod.method is Method.ICE:
        if facts.surface_c > _ICE_SURFACE_C:
            return False, "there is no ice today"
        return False, "only where the ice bears: no thickness is certain, ask locally"
    if answer.value > _MOST_OUT_M.get(rod.method, math.inf):
        return False, f"it would take {say(answer.value, Kind.LENGTH)} of line"
    if answer.amount is Amount.COUNT and answer.value > _LONGEST_COUNT_S:
        return False, f"it would take a count of {answer.value:.0f} s"
    if rod.method is Method.WALKER:
        return _walks(answer, facts, say)
    if answer.depth_sd_m > 0.35 * max(depth_m, 1.0):
        return True, "reaches it, but not surely"
    return True, "reaches it"


def _walks(answer: RigAnswer, facts: RigFacts, say: Say) -> tuple[bool, str]:
    """A walker is fished with its weight on the bottom, or not at all."""
    weight_m = answer.ball[1] if answer.ball is not None else math.nan
    if not math.isfinite(facts.bottom_m):
        return True, f"reaches it where the bottom lies at {say(weight_m, Kind.DEPTH)}"
    off = facts.bottom_m - weight_m
    if abs(off) <= max(_TICKS_M, answer.depth_sd_m):
        return True, "reaches it, its weight on the bottom"
    side = "over the bottom" if off > 0 else "under the bottom"
    return False, f"its weight would be {say(abs(off), Kind.DEPTH)} {side}: it walks on it"


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One piece of advice; where schools differ, each with its reason."""

    title: str
    text: str
    schools: tuple[tuple[str, str], ...] = ()


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
    depth_m: float,
    facts: RigFacts,
    rods: Sequence[RigSettings],
    *,
    pace: Pace | None = None,
    say: Say = plainly,
) -> tuple[Advice, ...]:
    """What to tie on and how to move it, at a depth, today."""
    out = [_light(depth_m, facts), _pace(facts, rods, pace, say)]
    if math.isfinite(facts.bait_length_m):
        low, high = 0.8 * facts.bait_length_m, 1.1 * facts.bait_length_m
        big = (1.3 * facts.bait_length_m, 2.0 * facts.bait_length_m)
        out.append(
            Advice(
                title="Size",
                text="Match what the bait is.",
                schools=(
                    ("match", f"{say(low, Kind.FISH)} to {say(high, Kind.FISH)}: what they look for and can swallow"),
                    (
                        "big",
                        f"{say(big[0], Kind.FISH)} to {say(big[1], Kind.FISH)}: fewer, larger fish",
                    ),
                ),
            )
        )
    out.append(
        Advice(
            title="Before you leave",
            text="Fish that are there and do not take: change speed, then depth a little, then the lure, and only "
            "then the place.",
        )
    )
    if any(is_natural(rod) for rod in rods):
        out.append(
            Advice(title="Bait", text=f"Fresh natural bait every {FRESH_BAIT_S / 60:.0f} minutes: scent washes out.")
        )
    if facts.secchi_m <= _TURBID_M or facts.secchi_m >= _CLEAR_M:
        turbid = facts.secchi_m <= _TURBID_M
        out.append(
            Advice(
                title="Noise",
                text="Coloured water: rattle and vibration are found first."
                if turbid
                else "Clear water: keep it quiet.",
                schools=(
                    ("loud", "hearing and the side line reach further than eyes in turbid water"),
                    ("quiet", "in clear calm water noise puts fish off"),
                ),
            )
        )
    return tuple(out)


def is_natural(rod: RigSettings) -> bool:
    """The rod carries natural bait."""
    return "bait" in rod.lure.name.lower()


def _light(depth_m: float, facts: RigFacts) -> Advice:
    lux, share = facts.lux(depth_m), float(light_share(depth_m, facts.secchi_m))
    left = f"{100 * share:.0f} %" if share >= 0.005 else f"{100 * share:.2g} %"
    if lux < _DARK_LUX:
        text = f"Next to no light there ({left} of the surface's): glow, or the strongest dark outline."
    elif lux < _DIM_LUX:
        text = f"Little light there ({left}): contrast, dark against pale; glow is worth a try."
    else:
        text = f"{left} of the surface's light: {_colour(facts.secchi_m, depth_m)}."
    return Advice(title="Light", text=text)


def _colour(secchi_m: float, depth_m: float) -> str:
    """Which colours are still colours there (docs/handbook.md 3.4; 40 % either way)."""
    if secchi_m >= 3.5:
        return "reds are grey there, blue and green last" if depth_m > 4 else "all colours still show"
    if secchi_m >= _TURBID_M:
        return "blue is gone, green and yellow last" if depth_m > 2 else "all colours still show"
    return "only yellow, orange and red last in coloured water" if depth_m > 1 else "bright colours show"


def _pace(facts: RigFacts, rods: Sequence[RigSettings], pace: Pace | None, say: Say) -> Advice:
    if rods and all(FAMILY[rod.method] in (Family.VERTICAL, Family.ICE) for rod in rods):
        return _cadence(facts, pace, say)
    natural = bool(rods) and all(is_natural(rod) for rod in rods)
    low, high = usual_speed(facts.species, natural=natural)
    cold = facts.temperature_c < _COLD_C
    warm = facts.temperature_c > _WARM_C
    if facts.fish_chase:
        text = "They chase: faster, and let it flee."
    elif cold:
        text = f"Cold water ({say(facts.temperature_c, Kind.TEMPERATURE)}): slow and small."
    elif warm:
        text = f"Warm water ({say(facts.temperature_c, Kind.TEMPERATURE)}): faster is worth a try."
    else:
        text = "Middling water: try both ends of the usual speeds."
    whom = f" for {facts.species}" if facts.species else ""
    third = (high - low) / 3
    schools: tuple[tuple[str, str], ...] = (
        ("slow", f"{say(low, Kind.SPEED)} to {say(low + third, Kind.SPEED)}{whom}: cold, pressed or resting fish"),
        (
            "fast",
            f"{say(high - third, Kind.SPEED)} to {say(high, Kind.SPEED)}{whom}: they strike before they look",
        ),
    )
    if pace is not None:
        schools = tuple(s for s in schools if s[0] == pace.value)
    return Advice(title="Pace", text=text, schools=schools)


# below the boat and through the ice pace is lifts, not way: up to a temperature, lifts a minute, their height in cm
# and the rest between them in seconds (docs/handbook.md, 5.9)
_CADENCES = (
    (4.0, (4, 10), (5, 20), (5, 20)),
    (8.0, (6, 15), (10, 30), (4, 12)),
    (13.0, (10, 20), (15, 50), (2, 6)),
    (18.0, (15, 30), (20, 70), (1, 4)),
    (24.0, (15, 35), (30, 100), (1, 3)),
    (math.inf, (10, 30), (20, 80), (1, 4)),
)


def _cadence(facts: RigFacts, pace: Pace | None, say: Say) -> Advice:
    known = math.isfinite(facts.temperature_c)
    warm = facts.temperature_c if known else 10.0
    _, lifts, high, rest = next(row for row in _CADENCES if warm < row[0])
    at = f"At {say(facts.temperature_c, Kind.TEMPERATURE)}" if known else "In water of middling warmth"
    low_lift, high_lift = (say(h / 100.0, Kind.FISH) for h in high)
    schools: tuple[tuple[str, str], ...] = (
        ("slow", f"{lifts[0]} lifts a minute of {low_lift}, rests of {rest[1]} s: cold, pressed or resting fish"),
        ("fast", f"{lifts[1]} lifts a minute of {high_lift}, rests of {rest[0]} s: to call them from afar"),
    )
    if pace is not None:
        schools = tuple(s for s in schools if s[0] == pace.value)
    text = f"{at}: {lifts[0]} to {lifts[1]} lifts a minute, {low_lift} to {high_lift} high."
    return Advice(title="Pace", text=text, schools=schools)
