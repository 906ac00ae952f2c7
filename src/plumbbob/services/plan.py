"""A day planned as asked: ways around the land, the order and stays with most fish, a reason for every place."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import zip_longest
from typing import Any

import numpy as np

from plumbbob.core.plan.day import CannotPlan, Day, Plan
from plumbbob.core.plan.route import plan_day
from plumbbob.core.plan.ways import Ways, find_ways
from plumbbob.formats.plan_json import PlanRequest, plan_json, plan_request

_SMALL = 1e-9


def answer_plan(asked: Any) -> dict[str, Any]:
    """
    The answer to a request.

    Raises
    ------
    ValueError
        In one line, where it makes no sense or cannot be met.
    """
    request = plan_request(asked)
    ways = find_ways(request.places, request.boat, request.land, request.keep_off_m)
    seconds = _without_fixed(request, ways)
    spots = tuple(replace(s, fish=0.0, must=False) if s.name in request.fixed else s for s in request.spots)
    day = Day(spots, seconds, request.start, request.end)
    _check(request, day)
    plan = plan_day(day)
    return plan_json(request, day, plan, ways, _reasons(request, day, plan))


def _without_fixed(request: PlanRequest, ways: Ways) -> np.ndarray:
    seconds = ways.seconds.copy()
    for k, spot in enumerate(request.spots):
        if spot.name in request.fixed:
            seconds[k, :] = seconds[:, k] = math.inf
    return seconds


def _check(request: PlanRequest, day: Day) -> None:
    if not math.isfinite(day.seconds[day.first, day.last]):
        raise CannotPlan("start and end are not joined by water")
    for k, spot in enumerate(day.spots):
        if spot.must and not (math.isfinite(day.seconds[day.first, k]) and math.isfinite(day.seconds[k, day.last])):
            raise CannotPlan(f"{spot.name} must be in and cannot be reached over water")


def _reasons(request: PlanRequest, day: Day, plan: Plan) -> dict[str, str]:
    out = {}
    order = [v.spot for v in plan.visits]
    for visit, following in zip_longest(plan.visits, plan.visits[1:]):
        spot = day.spots[visit.spot]
        minutes = (visit.leave - visit.arrive) / 60.0
        words = [f"{visit.fish:.1f} fish in {minutes:.0f} min"]
        left = math.exp(-spot.per_hour * minutes / 60.0)
        words.append(f"by then its rate has fallen to {left:.0%}")
        best = next((t for t in spot.times if t.factor > 1 and t.start < visit.leave and t.end > visit.arrive), None)
        if best is not None:
            words.append(f"in its good hours ({best.factor:g} times)")
        if spot.must:
            words.append("it must be in")
        onward = day.last if following is None else following.spot
        words.append(
            f"{day.seconds[visit.spot, onward] / 60.0:.0f} min on to {'the end' if following is None else 'the next'}"
        )
        out[spot.name] = "; ".join(words)
    for k, spot in enumerate(day.spots):
        if k not in order:
            out[spot.name] = _left_out(day, k)
    return out


def _left_out(day: Day, k: int) -> str:
    spot = day.spots[k]
    to, back = float(day.seconds[day.first, k]), float(day.seconds[k, day.last])
    if not math.isfinite(to + back):
        return "no way over water leads there"
    arrive = max(day.start + to, spot.not_before)
    if arrive + spot.least_s > min(spot.not_after, day.end - back) + 1e-6:
        return "it can't be reached and fished within its hours and the day"
    if spot.fish * spot.per_hour <= _SMALL:
        return "no fish are expected there"
    return f"the {(to + back) / 60.0:.0f} min of way there and back bring more fish elsewhere"
