"""
Stay or go: the chance of a fish here against elsewhere, and what the rest of the day says.

Rates are Gamma distributed; a place that is fished yields less by the hour. Every fish and every empty minute tells
what the place is worth, so leaving is a stopping problem: it is solved backwards over the time that is left, with all
that may still be learned (dynamic programming over steps of time and fish caught).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from plumbbob.core.types import Floats

_TEN_MIN_H = 1.0 / 6.0
_NOTHING = 1e-9  # of a rate gone in an hour
_STEPS, _LEAST_STEP_H = 64, 1.0 / 60.0
_FISH_A_STEP = 4  # told apart within one step: 0, 1, 2, more
_MOST_FISH = 24


@dataclass(frozen=True, slots=True)
class Prior:
    """Gamma prior of a rate: as if so many fish had been caught in so many hours."""

    fish: float
    hours: float


@dataclass(frozen=True, slots=True)
class StayOrGo:
    """Chances of a fish in the next ten minutes, here and by going on; what is better, and for how long."""

    here: float
    there: float
    stay: bool
    minutes_more: float  # if no fish comes
    gain: float  # fish more that are expected to the end by the better way


def exposure(hours: float, gone_per_hour: float) -> float:
    """
    Hours of fresh fishing that so many hours are worth, where the rate falls by a share every hour.

    Examples
    --------
    >>> round(exposure(2.0, 0.5), 4), exposure(2.0, 0.0)
    (1.082, 2.0)
    """
    if gone_per_hour < _NOTHING:
        return hours
    c = -math.log1p(-gone_per_hour)
    return -math.expm1(-c * hours) / c


def best_share(gone_per_hour: float, travel_h: float, left_h: float) -> float:
    """
    Greatest share of a fresh place's rate that going there brings by the hour, travel counted in.

    Notes
    -----
    Maximum of E(h) / (T + h) over 0 < h <= L - T; where it lies within, exp(c h) = 1 + c (T + h) (Charnov 1976).
    """
    most = left_h - travel_h
    if most <= 0.0:
        return 0.0
    if travel_h <= 0.0:
        return 1.0
    if gone_per_hour < _NOTHING:
        return most / left_h
    c = -math.log1p(-gone_per_hour)
    low, high = 0.0, most
    if c * most > math.log1p(c * (travel_h + most)):
        for _ in range(80):
            middle = (low + high) / 2
            low, high = (middle, high) if c * middle < math.log1p(c * (travel_h + middle)) else (low, middle)
    return exposure(high, gone_per_hour) / (travel_h + high)


def chance_here(prior: Prior, fish: float, hours: float, gone_per_hour: float) -> float:
    """Chance of a fish in the next ten minutes at a place that gave so many in so long (Gamma-Poisson)."""
    b = prior.hours + exposure(hours, gone_per_hour)
    soon = prior.hours + exposure(hours + _TEN_MIN_H, gone_per_hour)
    return 1.0 - (b / soon) ** (prior.fish + fish)


def chance_there(prior: Prior, gone_per_hour: float, travel_h: float, left_h: float) -> float:
    """The same of going on to a fresh place, its best pace with the way there counted in."""
    share = best_share(gone_per_hour, travel_h, left_h)
    return 1.0 - (prior.hours / (prior.hours + share / 6.0)) ** prior.fish


def stay_or_go(
    here: Prior,
    fish: float,
    hours: float,
    there: Prior,
    *,
    gone_per_hour: float = 0.0,
    travel_h: float,
    left_h: float,
) -> StayOrGo:
    """
    Whether to stay.

    Parameters
    ----------
    here, there : Prior
        Of this place's rate when fresh, and of each of those one could go to.
    fish, hours : float
        Caught here so far, in so long.
    gone_per_hour : float
        Share of the rate that an hour's fishing takes, 0 to below 1.
    travel_h, left_h : float
        To the next place; to the end of the day.

    Notes
    -----
    The chances are closed forms of the Gamma-Poisson model. The advice compares the fish expected to the end of the
    day by staying a little and then doing the best, with going now and doing the best, at every later place again.
    """
    a, b = here.fish + fish, here.hours + exposure(hours, gone_per_hour)
    soon, later = chance_here(here, fish, hours, gone_per_hour), chance_there(there, gone_per_hour, travel_h, left_h)
    if left_h <= 0.0:
        return StayOrGo(soon, later, True, 0.0, 0.0)
    if travel_h >= left_h:
        gain = a / b * (exposure(hours + left_h, gone_per_hour) - exposure(hours, gone_per_hour))
        return StayOrGo(soon, later, True, 60.0 * left_h, gain)
    step = max(left_h / _STEPS, _LEAST_STEP_H)
    steps = max(round(left_h / step), 1)
    step = left_h / steps
    fresh = _fresh(there, gone_per_hour, travel_h, step, steps)
    go, stay = _here(here, fish, hours, gone_per_hour, fresh, travel_h / step, step)
    more = _until(go, stay, step, left_h)
    return StayOrGo(soon, later, more > 0.0, 60.0 * more, max(float(go[0]), float(stay[0])))


def _until(go: Floats, stay: Floats, step: float, left_h: float) -> float:
    """Hours until going is better, along the way on which no fish comes."""
    better = np.flatnonzero(go > stay + 1e-12)
    if not better.size:
        return left_h
    k = int(better[0])
    if k == 0:
        return 0.0
    before, after = float(stay[k - 1] - go[k - 1]), float(go[k] - stay[k])
    return step * (k - 1 + before / max(before + after, 1e-12))


def _transitions(a: Floats, b: Floats, worth: Floats) -> list[Floats]:
    """Chances of 0, 1, 2 .. fish in a step worth so many fresh hours; the last is of that many and more."""
    q = worth / (b + worth)
    none = (b / (b + worth)) ** a
    out, left, term = [], np.ones_like(none), none
    for k in range(_FISH_A_STEP - 1):
        out.append(term)
        left = left - term
        term = term * (a + k) * q / (k + 1)
    out.append(np.maximum(left, 0.0))
    return out


def _kept_fish(prior: Prior, hours: float) -> int:
    mean = prior.fish / prior.hours * hours
    spread = math.sqrt(mean * (1.0 + hours / prior.hours))
    return int(min(max(mean + 3.5 * spread + 3.0, 6.0), _MOST_FISH))


@lru_cache(maxsize=64)
def _fresh(prior: Prior, gone: float, travel_h: float, step: float, steps: int) -> Floats:
    """
    Fish expected when one arrives at a fresh place with so many steps left, shape (steps + 1,).

    From every place one may go on to another like it.
    """
    kept = _kept_fish(prior, step * steps)
    fish = np.arange(kept + 1, dtype=np.float64)
    passed = np.array([exposure(step * k, gone) for k in range(steps + 1)])
    a = (prior.fish + fish)[None, :]
    b = prior.hours + passed[:-1, None]
    worth = np.diff(passed)[:, None]
    chances = _transitions(a, b, worth)
    gain = a / b * worth
    arrived = np.zeros(steps + 1)
    # value by steps at the place and fish there, with so many steps left; more fish than are kept count as the most
    wide = kept + 1
    value = np.zeros((steps + 1, wide + _FISH_A_STEP - 1))
    for left in range(1, steps + 1):
        most = steps - left + 1  # steps already spent at the place
        stay = gain[:most].copy()
        for k, chance in enumerate(chances):
            stay += chance[:most] * value[1 : most + 1, k : k + wide]
        np.maximum(stay, _after_travel(arrived, left, travel_h / step), out=value[:most, :wide])
        value[:most, wide:] = value[:most, wide - 1 : wide]
        arrived[left] = value[0, 0]
    arrived.setflags(write=False)
    return arrived


def _after_travel(arrived: Floats, left: int, travel: float) -> float:
    """Value of going now, so many steps before the end, travel taking a broken number of them."""
    there = left - travel
    if there <= 0.0:
        return 0.0
    low = int(there)
    share = there - low
    if low + 1 >= left and share > 0.0:  # travel of less than a step: what the step before was worth
        return float(arrived[low])
    return float(arrived[low] * (1 - share) + (arrived[low + 1] * share if share else 0.0))


def _here(
    prior: Prior, fish: float, hours: float, gone: float, fresh: Floats, travel: float, step: float
) -> tuple[Floats, Floats]:
    """
    Fish to the end of the day by going and by staying one step more, shape (steps,) each.

    At every step from now on of a stay in which no fish comes.
    """
    steps = fresh.size - 1
    kept = _kept_fish(Prior(prior.fish + fish, prior.hours + exposure(hours, gone)), step * steps)
    passed = np.array([exposure(hours + step * k, gone) for k in range(steps + 1)])
    a = np.asarray(prior.fish + fish + np.arange(kept + 1), np.float64)[None, :]
    b = np.asarray(prior.hours + passed[:-1, None], np.float64)
    worth = np.diff(passed)[:, None]
    chances = _transitions(a, b, worth)
    gain = a / b * worth
    go, stay = np.zeros(steps), np.zeros(steps)
    wide = kept + 1
    value = np.zeros(wide + _FISH_A_STEP - 1)
    for i in range(steps - 1, -1, -1):
        staying = gain[i].copy()
        for k, chance in enumerate(chances):
            staying += chance[i] * value[k : k + wide]
        go[i] = _after_travel(fresh, steps - i, travel)
        np.maximum(staying, go[i], out=value[:wide])
        value[wide:] = value[wide - 1]
        stay[i] = staying[0]
    return go, stay
