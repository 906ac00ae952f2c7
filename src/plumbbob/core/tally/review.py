"""What a record of fishing says: rates by every condition, findings with what speaks against, what to try next."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from enum import Enum

import numpy as np

from plumbbob.core.tally.asides import Aside, asides
from plumbbob.core.tally.dimensions import Dimension, Pieces, in_pieces
from plumbbob.core.tally.findings import Finding, Findings, Search
from plumbbob.core.tally.luck import Bites, LuckFit, fit
from plumbbob.core.tally.questions import Part, Questions
from plumbbob.core.tally.rates import BinRate, bin_rates
from plumbbob.core.tally.record import FishingRecord
from plumbbob.core.tally.schools import Schools, schools
from plumbbob.core.types import Floats, Mask

_TREND_TRIPS = 8
_LATE = (0.25, 0.4, 0.5, 0.6, 0.75)
_LEAST_WATER = 0.02  # share of the hours that gives a water a rate of its own
_MOST_SPREAD = 3.0
_TELLS = (1.28 + 0.52) ** 2  # one-sided at one in ten, seven times in ten
_MOST_TEST_HOURS, _HINT = 60.0, 1.5  # of a test worth naming, and standard deviations of a hint worth one
_WIDE_TEST = 0.8
_EXPECTED_NONE = 3.0  # fish that should have come where none did: rule of three


class Silence(Enum):
    """Why there are no rates or no findings."""

    NO_EFFORT = "no effort"
    NO_FISH = "no fish"
    ONE_TRIP = "one trip"


@dataclass(frozen=True, slots=True)
class Evidence:
    """
    What stands behind a finding, and against it.

    Parameters
    ----------
    fish, hours, trips : int, float, int
        In the part.
    rate, rest : float
        Fish per rod hour in it and in the rest of that condition, as counted.
    on_best : int
        Fish in it that came on its best trips, `best_trips` of them.
    best_trips : int
    blank : int
        Trips on which the part was fished and gave nothing.
    """

    fish: int
    hours: float
    trips: int
    rate: float
    rest: float
    on_best: int
    best_trips: int
    blank: int


@dataclass(frozen=True, slots=True)
class Test:
    """
    A trial that would tell much at little cost: like rods in `part` and in `against` at the same time.

    `hours` with both together: then the better is seen seven times in ten, if it is `ratio` times as good.
    """

    part: Part
    against: Part | None
    ratio: float
    hours: float


@dataclass(frozen=True, slots=True)
class Blank:
    """A place that was fished long without a fish."""

    name: str
    hours: float
    trips: int
    expected: float


@dataclass(slots=True)
class Review:
    """All of it. `rates` by dimension's name; `evidence` in the order of the findings."""

    trips: int
    hours: float
    fish: int
    pieces: Pieces
    schools: Schools
    luck_shape: float
    fish_in: Floats  # of each piece
    rates: dict[str, list[BinRate]] = field(default_factory=dict)
    findings: Findings = field(default_factory=Findings)
    evidence: list[Evidence] = field(default_factory=list)
    tests: list[Test] = field(default_factory=list)
    asides: list[Aside] = field(default_factory=list)
    blanks: list[Blank] = field(default_factory=list)
    silence: Silence | None = None

    @property
    def rate(self) -> float:
        """Fish per rod hour of all effort."""
        return self.fish / self.hours if self.hours > 0.0 else 0.0

    def dimension(self, name: str) -> Dimension | None:
        """A dimension by its name."""
        return next((d for d in self.pieces.dimensions if d.name == name), None)


@dataclass(frozen=True, slots=True)
class Prepared:
    """A record in pieces with its bites, and the model in which nothing matters."""

    record: FishingRecord
    pieces: Pieces
    bites: Bites
    fish: Floats  # of each piece
    schools: Schools
    plain: LuckFit
    nuisance: Floats
    spread: float

    def search(self) -> Search:
        """Its questions."""
        hidden = _hidden(self.record, self.pieces)
        return Search(Questions(self.bites, self.pieces.dimensions, self.nuisance, hidden, self.spread))


def prepared(record: FishingRecord) -> Prepared:
    """Cut a record into pieces, join fish of one school, and fit what is always allowed for."""
    pieces = in_pieces(record)
    together = schools(record.catch_effort, record.catch_s, record.end_s, record.end_s - record.start_s)
    at = pieces.of_moment(record, record.catch_effort, record.catch_s)
    n = pieces.hours.size
    busy = np.bincount(at, together.busy_s / 3600.0 * record.rods[record.catch_effort], minlength=n)
    bites = Bites(
        np.bincount(at[together.first], minlength=n).astype(np.float64),
        np.maximum(pieces.hours - busy, 0.05 * pieces.hours),
        record.trip[pieces.effort],
        record.trips,
    )
    nuisance = _always(record, pieces)
    plain = fit(bites, nuisance, np.full(nuisance.shape[1], 1e-4))
    fish = np.bincount(at, minlength=n).astype(np.float64)
    return Prepared(record, pieces, bites, fish, together, plain, nuisance, _spread(bites, plain, pieces))


def review(record: FishingRecord, told: Callable[[Review, float], None] = lambda made, share: None) -> Review:
    """
    Review a record.

    Parameters
    ----------
    record : FishingRecord
    told : callable
        Takes what there is so far and the share done: first the rates, then the findings.
    """
    ready = prepared(record)
    made = Review(
        record.trips, float(record.hours.sum()), int(record.catch_effort.size), ready.pieces, ready.schools,
        ready.plain.shape, ready.fish,
    )  # fmt: skip
    if not record.start_s.size:
        made.silence = Silence.NO_EFFORT
        return made
    if not made.fish:
        made.silence = Silence.NO_FISH
    elif np.unique(record.trip).size < 2:
        made.silence = Silence.ONE_TRIP
    every = ready.pieces.dimensions
    for k, dimension in enumerate(every):
        made.rates[dimension.name] = bin_rates(
            ready.bites, ready.pieces.hours, ready.fish, dimension, ready.plain, ready.schools.mean_size, ready.spread
        )
        # a copy: whoever hears of it reads on while this goes on
        told(replace(made, rates=dict(made.rates)), 0.5 * (k + 1) / len(every))
    if made.silence is not None:
        return made
    search = ready.search()
    made.findings = search.run()
    made.evidence = [
        evidence_of(ready, search.questions.indicator(f.part), search.questions.unknown_of(f.part))
        for f in made.findings.found
    ]
    made.asides = asides(search.questions, search.plain(), made.findings, ready.pieces.hours, ready.fish)
    made.blanks = _blanks(made)
    made.tests = _tests(made, ready, search)
    return made


def evidence_of(ready: Prepared, inside: Floats, unknown: Floats) -> Evidence:
    """What stands behind a part of a condition, pieces as 0 and 1."""
    x, rest = inside > 0.0, (inside <= 0.0) & (unknown <= 0.0)
    hours, fish = ready.pieces.hours, ready.fish
    trips = ready.bites.trips
    by_trip = np.bincount(ready.bites.trip[x], fish[x], trips)
    fished = np.bincount(ready.bites.trip[x], hours[x], trips) > 0.0
    most = np.sort(by_trip)[::-1]
    best = 1 if most[0] * 2 >= most.sum() else 2
    return Evidence(
        int(fish[x].sum()), float(hours[x].sum()), int(fished.sum()), _rate(fish, hours, x), _rate(fish, hours, rest),
        int(most[:best].sum()), best, int((fished & (by_trip <= 0.0)).sum()),
    )  # fmt: skip


def _rate(fish: Floats, hours: Floats, where: Mask) -> float:
    return float(fish[where].sum() / max(float(hours[where].sum()), 1e-12))


def hours_to_tell(made: Review, rate: BinRate) -> float:
    """Rod hours until a bin could be told, at its own shrunk rate; 0 where it can be."""
    if rate.enough:
        return 0.0
    from_fish = (10 - rate.fish) / max(rate.rate, 1e-3) if rate.fish < 10 else 0.0
    from_trips = max(4 - rate.trips, 0) * rate.hours / max(rate.trips, 1)
    return max(from_fish, from_trips, 1.0)


def _blanks(made: Review) -> list[Blank]:
    """Places that should have given three fish and more by one's own mean, and gave none."""
    dimension = made.dimension("spot")
    if dimension is None:
        return []
    found = [
        Blank(dimension.names[r.bin], r.hours, r.trips, r.hours * made.rate)
        for r in made.rates["spot"]
        if r.fish == 0 and r.hours * made.rate >= _EXPECTED_NONE
    ]
    return sorted(found, key=lambda b: -b.expected)


def _tests(made: Review, ready: Prepared, search: Search) -> list[Test]:
    """The cheapest trials of what the record hints at and can't tell."""
    found = []
    explained = {a.part.dimension for a in made.asides}
    for part, other, log_ratio in search.hints(made.findings, explained, _HINT):
        rate = float(ready.bites.count.sum() / max(float(ready.bites.hours.sum()), 1e-9))
        size = min(max(abs(log_ratio), 0.3), 1.4)
        better = rate * np.exp(size / 2)
        worse = rate * np.exp(-size / 2)
        hours = 2 * _TELLS / size**2 * (1 / better + 1 / worse) * _WIDE_TEST
        if hours <= _MOST_TEST_HOURS:
            found.append(Test(part, other, float(np.exp(size)), float(hours)))
    return sorted(found, key=lambda t: t.hours)[:3]


def _always(record: FishingRecord, pieces: Pieces) -> Floats:
    """Ones, the waters, and a slow change over the years."""
    columns = [np.ones(pieces.hours.size)]
    water = record.water[pieces.effort]
    counts = np.bincount(water, pieces.hours) if water.size else np.zeros(0)
    others = [k for k in np.argsort(-counts, kind="stable")[1:] if counts[k] > _LEAST_WATER * counts.sum()]
    columns += [(water == k).astype(np.float64) for k in others]
    if record.trips >= _TREND_TRIPS:
        when = record.start_s[pieces.effort]
        spread = float(when.std()) if when.size else 0.0
        if spread > 0.0:
            columns.append((when - when.mean()) / spread)
    return np.stack(columns, axis=1)


def _hidden(record: FishingRecord, pieces: Pieces) -> Floats:
    """From some day on: what a thing that came late must hold against."""
    when = record.start_s[pieces.effort]
    return np.stack([(when > q).astype(np.float64) for q in np.quantile(when, _LATE)], axis=1)


def _spread(bites: Bites, plain: LuckFit, pieces: Pieces) -> float:
    """Variance of an effort's bites over what the luck of trips leaves, 1 and more (Pearson's)."""
    efforts = int(pieces.effort.max()) + 1 if pieces.effort.size else 0
    expected = np.bincount(pieces.effort, plain.expected * plain.luck[bites.trip], efforts)
    count = np.bincount(pieces.effort, bites.count, efforts)
    use = expected > 0.02
    if use.sum() < 20:
        return 1.0
    free = max(use.sum() - plain.luck.size * 0.7, 5.0)
    return float(np.clip((((count - expected) ** 2) / expected)[use].sum() / free, 1.0, _MOST_SPREAD))


def findings_and_same(findings: Findings) -> list[tuple[int, Finding, Part]]:
    """Every finding by every name that it has: its number, itself, and the part."""
    return [(k, f, p) for k, f in enumerate(findings.found) for p in (f.part, *f.same)]
