"""A day out as a whole: places, ways, hours and what a hand has fixed in; stays, what was left out and why out."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import BOAT, Craft, Hour, Phase, hardest, home_by, phases, wind_at
from plumbbob.core.plan.day import CannotPlan, Day, Plan, Spot
from plumbbob.core.plan.draft import Candidate, Usual, fish_range, prior_of, spot_of
from plumbbob.core.plan.rest import AGAIN, LEAST_REST_H, REST_H, plan_with_rest, recovered
from plumbbob.core.plan.route import plan_day
from plumbbob.core.plan.stay import Prior, exposure
from plumbbob.core.plan.ways import Boat, Ways, find_ways
from plumbbob.core.types import Progress

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

_FAIR = 4  # the usual rate is that of the middle of so many best places
_SAME_S = 60.0
LOOK_S = 900.0  # at water nobody has looked at


@dataclass(frozen=True, slots=True, kw_only=True)
class DayAsk:
    """What is asked of a day."""

    start: float
    end: float
    launch: Position
    hours: tuple[Hour, ...]  # of wind, at least one
    craft: Craft = BOAT
    usual: Usual = field(default_factory=Usual)
    rest_h: float = REST_H
    secchi_m: float = 3.5
    shallow_when_dim: bool = True
    explore: bool = True  # one short look at water nobody has looked at
    keep_off_m: float = 10.0

    def __post_init__(self) -> None:
        if not self.end > self.start:
            raise ValueError("the day ends before it begins")
        if not self.hours:
            raise ValueError("a day needs at least one hour of wind")


@dataclass(frozen=True, slots=True)
class Hold:
    """A place that a hand has put into the day: anywhere in it, or from when and to when."""

    arrive: float = math.nan
    leave: float = math.nan


@dataclass(frozen=True, slots=True)
class Fished:
    """A place that was fished today: when it was left, the share of its rate left then, and what the catch says."""

    until: float
    left: float
    rate: float = 1.0  # its rate by now against what was believed at first


class Why(Enum):
    """What speaks for a stay, or against a place."""

    LIGHT = "light"  # value: factor of its best stretch within the stay
    RECORD = "record"  # own fish caught there
    SEEN = "seen"
    SCORE = "score"  # rank among the places
    RESTED = "rested"  # hours
    HELD = "held"
    UNSEEN = "unseen"
    WIND = "wind"  # degrees to come in and hold into
    BANNED = "banned"
    WAVES = "waves"
    FAR = "far"
    LESS = "less"
    NO_WAY = "no way"


@dataclass(frozen=True, slots=True)
class Stay:
    """One stay of the plan."""

    candidate: Candidate
    arrive: float
    leave: float
    fish: float
    way: tuple[Position, ...]  # to it, both ends with it
    why: tuple[tuple[Why, float], ...]
    again: bool
    prior: Prior

    @property
    def minutes(self) -> float:
        """How long it lasts."""
        return (self.leave - self.arrive) / 60.0


@dataclass(frozen=True, slots=True)
class DayPlan:
    """What came out."""

    ask: DayAsk
    start: float
    stays: tuple[Stay, ...]
    way_home: tuple[Position, ...]
    back: float
    fish: float
    low: int  # eight days in ten end between these
    high: int
    home_by: float | None  # the wind says so
    left_out: tuple[tuple[Candidate, Why], ...]


@dataclass(frozen=True, slots=True, eq=False)
class Outing:
    """Places with the ways between them, and what the day makes of each: worked out once, solved many times."""

    ask: DayAsk
    candidates: tuple[Candidate, ...]
    ways: Ways  # between candidates, start, launch
    spots: tuple[Spot, ...]
    priors: tuple[Prior, ...]
    lights: tuple[tuple[float, float, Phase], ...]
    start: float
    until: float  # back by then: the end, or before the wind is too much
    home_by: float | None


def lay_out(
    ask: DayAsk,
    candidates: Sequence[Candidate],
    sun_deg: Callable[[float], float],
    land: BaseGeometry | None,
    *,
    at: Position | None = None,
    now: float | None = None,
) -> Outing:
    """
    Ways between all places, and what light and waves do to each.

    Parameters
    ----------
    sun_deg : callable
        Height of the sun at a time.
    land : shapely geometry, optional
        In longitude and latitude.
    at, now : optional
        Where and when one begins: by default at the launch, at the start.

    Raises
    ------
    CannotPlan
        In one line, where the wind leaves no time at all.
    """
    begin = max(ask.start, now) if now is not None else ask.start
    by = home_by(ask.hours, ask.craft, begin, ask.end)
    until = ask.end if by is None else min(by, ask.end)
    if until <= begin:
        raise CannotPlan("the wind is more than this craft should meet from the start on")
    wind = hardest(ask.hours, begin, until)
    boat = Boat(
        ask.craft.speed_mps,
        ask.craft.upwind_mps(wind.wind_mps),
        ask.craft.downwind_mps(wind.wind_mps),
        wind.from_deg if wind.wind_mps > 0 else math.nan,
    )
    places = [*(c.place for c in candidates), at or ask.launch, ask.launch]
    ways = find_ways(places, boat, land, ask.keep_off_m)
    lights = phases(sun_deg, ask.start, ask.end)
    fair = fair_score(candidates)
    spots = tuple(
        spot_of(
            c,
            fair,
            ask.usual,
            lights=lights,
            hours=ask.hours,
            craft=ask.craft,
            secchi_m=ask.secchi_m,
            end=ask.end,
            shallow_when_dim=ask.shallow_when_dim,
        )
        for c in candidates
    )
    priors = tuple(prior_of(c, fair, ask.usual) for c in candidates)
    return Outing(ask, tuple(candidates), ways, spots, priors, lights, begin, until, by)


def after_fishing(prior: Prior, fish: int, hours: float, gone_per_h: float, until: float) -> Fished:
    """
    What a stay leaves behind: less there, and another belief of the place's rate.

    Notes
    -----
    Gamma-Poisson: a rate believed to be a / b is (a + k) / (b + E) after k fish in E fresh hours.

    Examples
    --------
    >>> round(after_fishing(Prior(1.5, 1.5), 0, 1.0, 0.0, 0.0).rate, 2)
    0.6
    """
    worth = exposure(hours, gone_per_h)
    rate = (prior.fish + fish) / (prior.hours + worth) / (prior.fish / prior.hours)
    return Fished(until, (1.0 - gone_per_h) ** hours, rate)


def fair_score(candidates: Sequence[Candidate]) -> float:
    """Score of a fair place: the middle of the best few."""
    scores = sorted((c.score for c in candidates if c.kind != "unseen"), reverse=True)[:_FAIR]
    return float(np.median(scores)) if scores else 1.0


def solve(
    outing: Outing,
    *,
    holds: Mapping[str, Hold] | None = None,
    banned: Collection[str] = (),
    fished: Mapping[str, Fished] | None = None,
    near: Sequence[str] | None = None,
    progress: Progress = lambda fraction: None,
) -> DayPlan:
    """
    The plan.

    Parameters
    ----------
    holds, banned, fished : by name of the candidate
    near : sequence of str, optional
        Names in an order to begin with: a quick answer while a hand drags.
    progress : callable
        Told now and then; may raise to end it.

    Raises
    ------
    CannotPlan
        In one line, where what is held does not fit.
    """
    holds, fished = holds or {}, fished or {}
    looks = (
        {c.name for c in outing.candidates if c.kind == "unseen" and outing.ask.explore} - set(banned) - set(fished)
    )
    if looks:
        try:
            return _solved(outing, holds, banned, fished, near, looks, progress)
        except CannotPlan:
            pass  # no room for it: the day comes first
    return _solved(outing, holds, banned, fished, near, set(), progress)


def _solved(
    outing: Outing,
    holds: Mapping[str, Hold],
    banned: Collection[str],
    fished: Mapping[str, Fished],
    near: Sequence[str] | None,
    looks: Collection[str],
    progress: Progress,
) -> DayPlan:
    spots = []
    for spot in outing.spots:
        hold, before = holds.get(spot.name), fished.get(spot.name)
        if before is not None:
            rest = (outing.start - before.until) / 3600.0
            worth = before.rate * recovered(rest, before.left, outing.ask.rest_h)
            spot = replace(spot, fish=spot.fish * worth, not_before=before.until + 3600.0 * LEAST_REST_H)
        if hold is not None:
            spot = _held(spot, hold)
        elif spot.name in looks:
            spot = replace(spot, must=True, least_s=LOOK_S, most_s=LOOK_S)
        elif spot.name in banned:
            spot = replace(spot, fish=0.0)
        spots.append(spot)
    seconds = outing.ways.seconds.copy()
    seconds[:, : len(spots)] += 60.0 * outing.ask.usual.settle_min
    day = Day(tuple(spots), seconds, outing.start, outing.until)
    for k, spot in enumerate(spots):
        if spot.must and not math.isfinite(day.seconds[day.first, k]):
            raise CannotPlan(f"{spot.name} cannot be reached over water")
    index = {s.name: k for k, s in enumerate(spots)}
    order = None if near is None else [index[name] for name in near if name in index]
    rests = {k: outing.ask.rest_h for k, s in enumerate(spots) if not s.must and s.name not in banned}
    first = plan_day(day, order, progress)
    day, plan = plan_with_rest(day, rests, first, quick=near is not None, progress=progress)
    return _described(outing, day, plan, holds, banned)


def _held(spot: Spot, hold: Hold) -> Spot:
    least, most, low, high = spot.least_s, spot.most_s, -math.inf, math.inf
    if math.isfinite(hold.arrive):
        low = hold.arrive
        high = hold.leave if math.isfinite(hold.leave) else math.inf
        if math.isfinite(high):
            least = most = max(high - low - _SAME_S, 0.0)
            most += _SAME_S
    return replace(spot, must=True, least_s=least, most_s=most, not_before=low, not_after=high)


def _described(outing: Outing, day: Day, plan: Plan, holds: Mapping[str, Hold], banned: Collection[str]) -> DayPlan:
    count = len(outing.candidates)
    by_name = {c.name: k for k, c in enumerate(outing.candidates)}
    stays, at = [], count
    left: dict[int, float] = {}
    for visit in plan.visits:
        name = day.spots[visit.spot].name
        k = by_name[name.removesuffix(AGAIN)]
        candidate, again = outing.candidates[k], name.endswith(AGAIN)
        stay = Stay(
            candidate,
            visit.arrive,
            visit.leave,
            visit.fish,
            tuple(outing.ways.way(at, k)),
            _whys(outing, k, visit.arrive, visit.leave, candidate.name in holds, left.get(k)),
            again,
            outing.priors[k],
        )
        left[k] = visit.leave
        stays.append(stay)
        at = k
    taken = {s.candidate.name for s in stays}
    low, high = fish_range(plan, [s.prior.fish for s in stays])
    return DayPlan(
        ask=outing.ask,
        start=outing.start,
        stays=tuple(stays),
        way_home=tuple(outing.ways.way(at, count + 1)),
        back=plan.back,
        fish=plan.fish,
        low=low,
        high=high,
        home_by=outing.home_by,
        left_out=tuple(
            (c, _why_not(outing, k, banned)) for k, c in enumerate(outing.candidates) if c.name not in taken
        ),
    )


def _whys(
    outing: Outing, k: int, arrive: float, leave: float, held: bool, before: float | None
) -> tuple[tuple[Why, float], ...]:
    candidate = outing.candidates[k]
    out: list[tuple[Why, float]] = []
    if held:
        out.append((Why.HELD, 0.0))
    if before is not None:
        out.append((Why.RESTED, (arrive - before) / 3600.0))
    if candidate.kind == "unseen":
        out.append((Why.UNSEEN, 0.0))
    factors = [s.factor for s in outing.spots[k].times if s.factor > 1.0 and s.start < leave and s.end > arrive]
    if factors:
        out.append((Why.LIGHT, max(factors)))
    if candidate.caught:
        out.append((Why.RECORD, float(candidate.caught)))
    elif candidate.seen:
        out.append((Why.SEEN, float(candidate.seen)))
    rank = sorted(-c.score for c in outing.candidates).index(-candidate.score) + 1
    if candidate.kind != "unseen":
        out.append((Why.SCORE, float(rank)))
    wind = wind_at(outing.ask.hours, arrive)
    if wind.wind_mps > 1.0:
        out.append((Why.WIND, wind.from_deg % 360.0))
    return tuple(out)


def _why_not(outing: Outing, k: int, banned: Collection[str]) -> Why:
    spot, count = outing.spots[k], len(outing.candidates)
    if spot.name in banned:
        return Why.BANNED
    there, home = float(outing.ways.seconds[count, k]), float(outing.ways.seconds[k, count + 1])
    if not math.isfinite(there + home):
        return Why.NO_WAY
    if outing.start + there + spot.least_s + home > outing.until:
        return Why.FAR
    if spot.gain(outing.start + there, outing.until - home) <= 0.0:
        return Why.WAVES
    return Why.LESS


def along(way: tuple[Position, ...], share: float) -> Position:
    """A place on a way, by the share of its length that is behind."""
    if len(way) < 2:
        return way[0]
    points = np.array([(p.latitude, p.longitude) for p in way])
    flat = points * [1.0, np.cos(np.radians(points[0, 0]))]
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(flat, axis=0).T))])
    at = min(max(share, 0.0), 1.0) * run[-1]
    return Position(float(np.interp(at, run, points[:, 0])), float(np.interp(at, run, points[:, 1])))
