"""Rest: how a place that was fished comes back, and second visits that a day has room for."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from plumbbob.core.plan.day import CannotPlan, Day, Plan, Spot
from plumbbob.core.plan.route import plan_day
from plumbbob.core.types import Progress

REST_H = 1.5  # schooling fish 0.3 to 2 h, cover fish 2 to 12 (docs/handbook.md 7.5)
LEAST_REST_H = 0.5
_LEAST_FISH = 0.05
_ROUNDS = 2
AGAIN = " (again)"


def recovered(hours: float, left: float, rest_h: float) -> float:
    """
    Share of its fresh rate that a place has again after so long.

    Parameters
    ----------
    hours, rest_h : float
        Since it was left, and the time in which 63 % of what is gone comes back.
    left : float
        Share that was left then.

    Notes
    -----
    r(t) = 1 - (1 - r0) exp(-t / T), docs/handbook.md 7.5.

    Examples
    --------
    >>> round(recovered(1.5, 0.4, 1.5), 3), recovered(0.0, 0.4, 1.5)
    (0.779, 0.4)
    """
    return 1.0 - (1.0 - left) * math.exp(-max(hours, 0.0) / rest_h)


def plan_with_rest(
    day: Day,
    rest_h: Mapping[int, float],
    plan: Plan | None = None,
    *,
    quick: bool = False,
    progress: Progress = lambda fraction: None,
) -> tuple[Day, Plan]:
    """
    A plan that comes back to places which have rested, where that brings more than what it takes.

    Parameters
    ----------
    day : Day
        One visit a spot.
    rest_h : mapping
        Of spots that may be visited twice, by index.
    plan : Plan, optional
        Of the day as it is; by default it is made.
    quick : bool
        One guess, improved from the plan by single steps.
    progress : callable
        Told now and then; may raise to end it.

    Returns
    -------
    day, plan
        The day with a second spot for each place that is visited twice (its name ends in AGAIN), and its plan.

    Notes
    -----
    A second visit is worth what has come back by the time it begins, which is not known before it is planned: it is
    planned with a guess and planned again with what came of it, and kept only if the fish it is really worth are
    more. First visits keep within the time they had.
    """
    first = plan_day(day) if plan is None else plan
    best = day, first
    guess: dict[int, float] = {}
    near = [v.spot for v in first.visits] if quick else None
    for _ in range(1 if quick else _ROUNDS):
        wider, of = _with_second(day, first, rest_h, guess)
        if not of:
            break
        try:
            found = plan_day(wider, near, progress)
        except CannotPlan:
            break
        wider = replace(wider, spots=_worth(wider, found, of, rest_h))
        visits = tuple(replace(v, fish=wider.spots[v.spot].gain(v.arrive, v.leave)) for v in found.visits)
        fish = sum(v.fish for v in visits)
        if fish > best[1].fish + 1e-6:
            best = wider, Plan(visits, found.back, fish)
        guess = _rests(found, of)
    return best


def _with_second(
    day: Day, plan: Plan, rest_h: Mapping[int, float], guess: Mapping[int, float]
) -> tuple[Day, dict[int, int]]:
    """The day with a second spot for each place that may be visited twice; which spot each of these is again."""
    first = {v.spot: v for v in plan.visits}
    spots, of, rows = list(day.spots), {}, list(range(len(day.spots)))
    for k, hours in rest_h.items():
        visit, spot = first.get(k), day.spots[k]
        if visit is None or spot.fish * spot.per_hour <= 0:
            continue
        left = math.exp(-spot.per_hour * (visit.leave - visit.arrive) / 3600.0)
        rest = guess.get(k, max(0.7 * hours, LEAST_REST_H))
        fish = spot.fish * recovered(rest, left, hours)
        least = visit.leave + 3600.0 * max(min(rest, 0.7 * hours), LEAST_REST_H)
        if fish < _LEAST_FISH or least + spot.least_s > day.end:
            continue
        of[len(spots)] = k
        spots[k] = replace(spot, not_after=min(spot.not_after, visit.leave))
        spots.append(replace(spot, name=spot.name + AGAIN, fish=fish, must=False, not_before=least))
        rows.append(k)
    index = [*rows, day.first, day.last]
    seconds = day.seconds[np.ix_(index, index)].copy()
    for other, k in of.items():
        seconds[other, k] = seconds[k, other] = 0.0  # one is there already
    return replace(day, spots=tuple(spots), seconds=seconds), of


def _rests(plan: Plan, of: Mapping[int, int]) -> dict[int, float]:
    """Hours that each place had to rest."""
    when = {v.spot: v for v in plan.visits}
    return {
        k: (when[other].arrive - when[k].leave) / 3600.0 for other, k in of.items() if other in when and k in when
    }


def _worth(day: Day, plan: Plan, of: Mapping[int, int], rest_h: Mapping[int, float]) -> tuple[Spot, ...]:
    spots = list(day.spots)
    when = {v.spot: v for v in plan.visits}
    for other, k in of.items():
        before, again, spot = when.get(k), when.get(other), day.spots[k]
        if again is None or before is None:
            fish = spot.fish if before is None else spots[other].fish
        else:
            left = math.exp(-spot.per_hour * (before.leave - before.arrive) / 3600.0)
            fish = spot.fish * recovered((again.arrive - before.leave) / 3600.0, left, rest_h[k])
        spots[other] = replace(spots[other], fish=fish)
    return tuple(spots)
