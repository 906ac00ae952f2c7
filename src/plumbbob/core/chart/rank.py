"""Worth a look: structure ranked for the day, with every reason and its weight in sight."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart import suits
from plumbbob.core.chart.terms import DEFAULT_WEIGHTS, Term
from plumbbob.core.sonar.evidence import chance_of_depth
from plumbbob.core.types import Floats
from plumbbob.core.water.habits import Spawn
from plumbbob.core.water.wind import LayerPlane

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature
    from plumbbob.core.sonar.evidence import Evidence


_LEAST = 0.1  # no single term rules a place out
_LAYER_NEAR_M = 1.5
_BAIT_NEAR_M, _BAIT_OFF_M = 150.0, (30.0, 130.0)
_RECORD_NEAR_M = 120.0
_SEEN_WORTH, _SEEN_OF_ANY = 0.25, 0.03  # of a fish that was seen, against one that was caught
_MOST_OF_ANY = 0.3
_GROUND_NEAR_M, _GROUND_M2 = 30.0, 200.0  # hard bottom within so far counts, so much of it halfway
_HOLDS = {"stony": 1.0, "weed": 0.8, "hard": 0.7, "rippled": 0.2}  # how much a kind of bottom gives fish to hold to


class WindSide(Enum):
    """Which bank of a wind."""

    WINDWARD = "windward"
    LEE = "lee"


class LowLight(Enum):
    """Where fish go when light fails."""

    SHALLOW = "shallow"
    DEEP = "deep"


class BaitRelation(Enum):
    """Where the takers are, seen from the bait."""

    ON = "on"
    AWAY = "away"
    INTERCEPT = "intercept"


class Part(Enum):
    """Which part of a structure."""

    TOP = "top"
    EDGE = "edge"
    OFF = "off"


@dataclass(frozen=True, slots=True, kw_only=True)
class Approaches:
    """Switches where practitioners disagree; each has its reason in a sentence on screen."""

    wind_side: WindSide = WindSide.WINDWARD
    low_light: LowLight = LowLight.SHALLOW
    bait: BaitRelation = BaitRelation.ON
    part: Part = Part.EDGE


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class DayFacts:
    """What is known of the day; None or empty where nothing is."""

    level_m: float = 0.0  # over datum
    window: tuple[float, float] | None = None  # depths under today's surface
    layer: LayerPlane | None = None  # the cold layer today
    frame: CellGrid | None = None
    fetch_m: Floats | None = None  # open water upwind, on the frame
    wind_mps: float = 0.0
    secchi_m: float | None = None
    sun_deg: float | None = None
    bait: Sequence[tuple[float, float, float]] = ()  # x, y, seconds of bait seen there
    record: Floats | Sequence[tuple[float, float, int, int]] = ()  # x, y, seen, caught at own marks, shape (n, 4)
    ground: Sequence[tuple[float, float, str, float, float]] = ()  # x, y, kind, chance, square metres of bottom seen
    evidence: Evidence | None = None  # fish by depth against the water looked at, all passes of the day
    who: suits.SpeciesDay | None = None  # the species that is fished for, in its season
    cover: Sequence[suits.Cover] = ()  # brush, timber, weed, docks as seen or drawn
    streams: Sequence[suits.Stream] = ()  # current, drawn by hand
    anglers: Sequence[tuple[float, float]] = ()  # x, y of people who fish from the bank


@dataclass(frozen=True, slots=True)
class Contribution:
    """One term of a place's score."""

    term: Term
    score: float  # 0 to 1
    value: float  # the number behind it, SI; NaN where there is none


@dataclass(frozen=True, slots=True, eq=False)
class RankedSpot:
    """A ranked place."""

    feature: Feature
    score: float
    reasons: tuple[Contribution, ...] = field(default_factory=tuple)  # strongest first


def rank(
    features: Sequence[Feature],
    facts: DayFacts,
    weights: Mapping[Term, float] | None = None,
    approaches: Approaches | None = None,
) -> tuple[RankedSpot, ...]:
    """
    Features by how much speaks for them today, best first.

    Parameters
    ----------
    features : sequence of Feature
    facts : DayFacts
    weights : mapping, optional
        Weight of each term, 0 leaves it out.
    approaches : Approaches, optional

    Notes
    -----
    The weighted geometric mean of the terms that can be told, each at least 0.1: terms that nothing is known about
    do not count, and none alone rules a place out. With a species the weights are those of its season, times what a
    person made of them, and its likely depths count (docs/handbook.md, 4.5).
    """
    weights, approaches = weights or DEFAULT_WEIGHTS, approaches or Approaches()
    who = facts.who
    covered: list[float] = []
    if who is not None:
        weights = suits.weights_for(who.habits, who.season, who.layer, weights)
        if who.prior is not None:
            covered = suits.depth_scores(features, who.prior, facts.level_m)
    out = []
    for k, feature in enumerate(features):
        terms = _terms(feature, facts, approaches, covered[k] if covered else None)
        reasons = [r for r in terms if weights.get(r.term, 0.0) > 0.0]
        total = sum(weights[r.term] for r in reasons)
        score = 0.0
        if total:
            score = math.exp(sum(weights[r.term] * math.log(max(r.score, _LEAST)) for r in reasons) / total)
        reasons.sort(key=lambda r: -weights[r.term] * (r.score - 0.3))
        out.append(RankedSpot(feature, score, tuple(reasons)))
    return tuple(sorted(out, key=lambda p: (-p.score, -p.feature.area_m2)))


def _terms(
    feature: Feature, facts: DayFacts, approaches: Approaches, covered: float | None = None
) -> list[Contribution]:
    top, base = feature.depth_top_m + facts.level_m, feature.depth_base_m + facts.level_m
    out = [Contribution(Term.LIP, min(feature.slope_max_deg / 15.0, 1.0), feature.slope_max_deg)]
    if math.isfinite(feature.deep_m):
        out.append(Contribution(Term.DEEP, math.exp(-feature.deep_m / 120.0), feature.deep_m))
    if covered is not None:
        out.append(Contribution(Term.DEPTH, covered, top))
    if facts.window is not None:
        out.append(_window(top, base, facts.window, approaches.part))
    if facts.layer is not None:
        layer = float(facts.layer.at(feature.x, feature.y))
        miss = max(top - layer, layer - base, 0.0)
        if facts.who is not None and facts.who.layer.startswith("<"):
            miss = max(layer - base, 0.0)  # those below it ask for a floor under it
        out.append(Contribution(Term.LAYER, math.exp(-((miss / _LAYER_NEAR_M) ** 2)), layer))
    out += _by_species(feature, facts)
    if facts.fetch_m is not None and facts.frame is not None and facts.wind_mps >= 2.0:
        fetch = facts.frame.nearest(facts.fetch_m, feature.x, feature.y)
        longest = float(facts.fetch_m.max())
        if math.isfinite(fetch) and longest > 0:
            share = fetch / longest
            score = share if approaches.wind_side is WindSide.WINDWARD else 1.0 - share
            out.append(Contribution(Term.WIND, score, fetch))
    if facts.secchi_m is not None and facts.sun_deg is not None:
        out.append(_light(top, base, facts.secchi_m, facts.sun_deg, approaches.low_light))
    if facts.bait:
        out.append(_bait(feature, facts, approaches.bait))
    if facts.evidence is not None:
        times, _ = chance_of_depth(facts.evidence, top, base)
        out.append(Contribution(Term.SEEN, times / (times + 1.0), times))
    if len(facts.record):
        out.append(_record(feature, facts))
    ground = _ground(feature, facts)
    if ground is not None:
        out.append(ground)
    return out


def _by_species(feature: Feature, facts: DayFacts) -> list[Contribution]:
    """What a species' habits, cover, current and other people say of a place; nothing where nothing is known."""
    out = []
    who = facts.who
    if who is not None:
        letters = who.habits.of(who.season)
        out.append(Contribution(Term.HABIT, suits.habit_score(feature, letters), math.nan))
        if who.spawn is not Spawn.NOT and who.spawn_ground is not None:
            out.append(Contribution(Term.SPAWN, *suits.spawn_score(feature, who.spawn_ground)))
    surface = who.surface_c if who is not None else math.nan
    for term, found in (
        (Term.COVER, suits.cover_score(feature, facts.cover, surface)),
        (Term.CURRENT, suits.current_score(feature, facts.streams)),
        (Term.SHADE, suits.shade_score(feature, facts.cover, facts.sun_deg)),
        (Term.BANK, suits.bank_score(feature, facts.anglers)),
    ):
        if found is not None:
            out.append(Contribution(term, *found))
    return out


def _window(top: float, base: float, window: tuple[float, float], part: Part) -> Contribution:
    """How well the wanted part of the structure lies in the window."""
    span = max(base - top, 0.5)
    low, high = {
        Part.TOP: (top, top + 0.35 * span),
        Part.EDGE: (top, base),
        Part.OFF: (base - 0.25 * span, base + 0.25 * span),
    }[part]
    overlap = max(min(high, window[1]) - max(low, window[0]), 0.0)
    shorter = max(min(high - low, window[1] - window[0]), 0.1)
    miss = max(low - window[1], window[0] - high, 0.0)
    score = min(overlap / shorter, 1.0) if overlap > 0 else 0.3 * math.exp(-miss / 1.5)
    return Contribution(Term.WINDOW, score, top)


def _light(top: float, base: float, secchi: float, sun: float, school: LowLight) -> Contribution:
    """By day the dim water counts; in the half light either the shallows or no change."""
    dim = 0.7 * secchi  # a third of the light is left
    wanted = dim
    if sun < 8.0 and school is LowLight.SHALLOW:
        wanted = 0.5 * dim
    miss = max(top - 2.5 * wanted, wanted - base, 0.0)
    return Contribution(Term.LIGHT, math.exp(-miss / 3.0), wanted)


def _bait(feature: Feature, facts: DayFacts, school: BaitRelation) -> Contribution:
    near, off = 0.0, math.inf
    for x, y, seconds in facts.bait:
        away = math.hypot(x - feature.x, y - feature.y)
        off = min(off, away)
        low, high = _BAIT_OFF_M
        if school is BaitRelation.ON:
            part = math.exp(-((away / 80.0) ** 2))
        elif school is BaitRelation.AWAY:
            part = 1.0 if low <= away <= high else math.exp(-abs(away - (low + high) / 2) / 60.0)
        else:  # between the bait and the nearest deep water
            part = math.exp(-away / 200.0) * (
                math.exp(-feature.deep_m / 120.0) if feature.deep_m == feature.deep_m else 0.3
            )
        near += seconds * part
    return Contribution(Term.BAIT, 1.0 - math.exp(-near / 8.0), off)


def _record(feature: Feature, facts: DayFacts) -> Contribution:
    x, y, seen, caught = np.asarray(facts.record, dtype=np.float64).reshape(-1, 4).T
    near = np.hypot(x - feature.x, y - feature.y) <= _RECORD_NEAR_M
    # with a species: nobody knows whose echoes the others were
    worth, most = (_SEEN_WORTH, math.inf) if facts.who is None else (_SEEN_OF_ANY, _MOST_OF_ANY)
    had, took = float(seen[near].sum()), float(caught[near].sum())
    return Contribution(Term.RECORD, 1.0 - math.exp(-(took + min(worth * had, most)) / 2.0), took)


def _ground(feature: Feature, facts: DayFacts) -> Contribution | None:
    """Stony, hard and grown bottom the fans saw close by; None where none of another kind was seen."""
    near = [
        (kind, chance * area)
        for x, y, kind, chance, area in facts.ground
        if math.hypot(x - feature.x, y - feature.y) <= _GROUND_NEAR_M
    ]
    if not near:
        return None
    holds = sum(_HOLDS.get(kind, 0.0) * area for kind, area in near)
    return Contribution(Term.GROUND, holds / (holds + _GROUND_M2), holds)
