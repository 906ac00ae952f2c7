"""From places worth a look to spots of a plan: what each may give by the hour, and how sure that is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import Craft, Hour, Phase, light_stretches, wave_stretches
from plumbbob.core.plan.day import Plan, Spot, Stretch
from plumbbob.core.plan.stay import Prior

USUAL_PER_H, GONE_PER_H = 0.8, 0.6  # fish at a fair place when fresh; share of its rate an hour of fishing takes
LEAST_MIN, MOST_MIN, SETTLE_MIN = 15.0, 90.0, 4.0  # one full set of depths with two lures; handbook 7.4 and 7.9
_SHAPE = 1.5  # of the Gamma prior: as sure as one and a half fish make one
_CAUGHT, _SEEN = 0.5, 0.1  # what one own fish, caught or seen at a place, adds to its share
_MOST_CAUGHT, _MOST_SEEN = 3, 5
_LEAST_PLACES, _WEIGHT = 6, 10.0  # before a log says how clumped its water is; places that the usual value counts
_CLUMPED, _EVEN = 0.3, 6.0
_EXPLORE = 0.5  # times the usual rate, where nothing is known


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A place that may be in the plan. Depths are under today's surface."""

    name: str
    place: Position
    bottom_m: float
    fish_m: float  # at which one would fish
    score: float  # 0 to 1, by what speaks for it
    kind: str = ""  # of structure; "mark" for an own mark, "unseen" for a look at water nobody has looked at
    seen: int = 0  # at own marks about it
    caught: int = 0
    fetch_m: tuple[float, ...] = ()  # open water upwind, for each hour of the day's wind


@dataclass(frozen=True, slots=True, kw_only=True)
class Usual:
    """What the person usually gets, and how it goes on."""

    per_h: float = USUAL_PER_H
    gone_per_h: float = GONE_PER_H
    least_min: float = LEAST_MIN
    most_min: float = MOST_MIN
    settle_min: float = SETTLE_MIN  # from coming to a place until the first lure runs there


def share_of(candidate: Candidate, fair: float) -> float:
    """
    How much better than fair a place is: its score against that of a fair one, and the own record.

    Examples
    --------
    >>> one = Candidate(name="a", place=Position(0.0, 0.0), bottom_m=9.0, fish_m=7.0, score=0.6, caught=1)
    >>> share_of(one, 0.6)
    1.5
    """
    if candidate.kind == "unseen":
        return _EXPLORE
    own = _CAUGHT * min(candidate.caught, _MOST_CAUGHT) + _SEEN * min(candidate.seen, _MOST_SEEN)
    return candidate.score / max(fair, 1e-6) * (1.0 + own)


def prior_of(candidate: Candidate, fair: float, usual: Usual) -> Prior:
    """Gamma prior of a place's rate when fresh: the more was caught there, the surer."""
    rate = usual.per_h * share_of(candidate, fair)
    fish = _SHAPE + candidate.caught
    return Prior(fish, fish / max(rate, 1e-6))


def spot_of(
    candidate: Candidate,
    fair: float,
    usual: Usual,
    *,
    lights: Sequence[tuple[float, float, Phase]],
    hours: Sequence[Hour],
    craft: Craft,
    secchi_m: float,
    end: float,
    shallow_when_dim: bool = True,
) -> Spot:
    """A spot of the plan, with the hours that its depth and its waves make better or worse."""
    prior = prior_of(candidate, fair, usual)
    rate = -math.log1p(-usual.gone_per_h) if usual.gone_per_h < 1.0 else 5.0
    times: tuple[Stretch, ...] = light_stretches(
        lights, candidate.fish_m, secchi_m, shallow_when_dim=shallow_when_dim
    )
    if len(candidate.fetch_m) == len(hours):
        times += wave_stretches(hours, candidate.fetch_m, craft, end)
    return Spot(
        candidate.name,
        prior.fish / prior.hours / rate,
        rate,
        60.0 * usual.least_min,
        60.0 * usual.most_min,
        times,
    )


def world_shape(counts: Sequence[int]) -> float:
    """
    How clumped a water is, by the fish that its places gave: the shape of the Gamma of their rates.

    Notes
    -----
    Moments: k = m^2 / (v - m), drawn towards the usual value with the weight of ten places; under 1.5 a few places
    have most of the fish, and one caught makes it worth staying; over it each one caught leaves fewer.

    Examples
    --------
    >>> round(world_shape([0, 0, 0, 9, 0, 0, 0, 0, 8, 0, 0, 0]), 2), world_shape([1, 2])
    (0.62, 1.5)
    """
    n = len(counts)
    mean = sum(counts) / n if n else 0.0
    if n < _LEAST_PLACES or mean <= 0.0:
        return _SHAPE
    variance = sum((c - mean) ** 2 for c in counts) / (n - 1)
    found = min(max(mean**2 / max(variance - mean, 1e-6), _CLUMPED), _EVEN)
    return math.exp((n * math.log(found) + _WEIGHT * math.log(_SHAPE)) / (n + _WEIGHT))


def fish_range(plan: Plan, shapes: Sequence[float], share: float = 0.8) -> tuple[int, int]:
    """
    Between which numbers of fish the day ends so often.

    Parameters
    ----------
    shapes : sequence of float
        Of the Gamma prior of each visit's rate: the spread of what is not known comes on top of chance.

    Notes
    -----
    The sum of Gamma-Poisson counts by its mean and variance, as a negative binomial; fish that come in schools
    spread still wider (docs/handbook.md 7.3).

    Examples
    --------
    >>> fish_range(Plan((), 0.0, 0.0), ())
    (0, 0)
    """
    from scipy.stats import nbinom, poisson

    mean = sum(v.fish for v in plan.visits)
    if mean <= 0.0:
        return 0, 0
    over = sum(v.fish**2 / max(a, 1e-6) for v, a in zip(plan.visits, shapes, strict=True))
    low, high = (1.0 - share) / 2, (1.0 + share) / 2
    if over <= 1e-9:
        return int(poisson.ppf(low, mean)), int(poisson.ppf(high, mean))
    size = mean**2 / over
    spread = nbinom(size, size / (size + mean))
    return int(spread.ppf(low)), int(spread.ppf(high))
