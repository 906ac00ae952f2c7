"""The times of an order of places, set to the second so that no shift of one of them brings more."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np

from plumbbob.core.plan.day import Day, Plan, Visit

SWEEPS = 60  # until nothing brings more, mostly far fewer
_TRIES, _FINE_S, _GOLDEN = 9, 0.5, (math.sqrt(5) - 1) / 2


class Timetable:
    """
    When one comes to each place of an order; all else follows: one stays until it is time to go on.

    Attributes
    ----------
    at : list of float
        Arrivals.
    """

    def __init__(self, day: Day, order: list[int], at: list[float]) -> None:
        self.day, self.order = day, order
        self.spots = [day.spots[k] for k in order]
        nodes = [day.first, *order, day.last]
        self.travel = [float(day.seconds[a, b]) for a, b in pairwise(nodes)]
        self.at = at

    def leave(self, i: int) -> float:
        """When one leaves the i-th place, at the latest that serves."""
        spot = self.spots[i]
        onward = self.at[i + 1] if i + 1 < len(self.at) else self.day.end
        return min(onward - self.travel[i + 1], self.at[i] + spot.most_s, spot.not_after)

    def fish(self, i: int) -> float:
        """Of the i-th stay."""
        return self.spots[i].gain(self.at[i], self.leave(i)) if 0 <= i < len(self.at) else 0.0

    def total(self) -> float:
        """Of all stays."""
        return sum(self.fish(i) for i in range(len(self.at)))

    def bounds(self, i: int) -> tuple[float, float]:
        """Between which times one may come to the i-th place, all others staying."""
        spot, before = self.spots[i], self.day.start
        if i:
            before = self.at[i - 1] + self.spots[i - 1].least_s
        onward = self.at[i + 1] if i + 1 < len(self.at) else self.day.end
        low = max(before + self.travel[i], spot.not_before)
        return low, min(onward - self.travel[i + 1], spot.not_after) - spot.least_s

    def made_possible(self) -> bool:
        """Move the arrivals as little as is needed for all that is asked of them; False where nothing will do."""
        n = len(self.at)
        latest = [0.0] * n
        onward = self.day.end
        for i in range(n - 1, -1, -1):
            latest[i] = min(onward - self.travel[i + 1], self.spots[i].not_after) - self.spots[i].least_s
            onward = latest[i]
        time = self.day.start
        for i in range(n):
            first = max(time + self.travel[i], self.spots[i].not_before)
            if first > latest[i] + 1e-6:
                return False
            self.at[i] = min(max(self.at[i], first), max(latest[i], first))
            time = self.at[i] + self.spots[i].least_s
        return True

    def settle(self, sweeps: int) -> None:
        """Shift one arrival after the other to where it brings most, until none does."""
        for _ in range(sweeps):
            before = self.total()
            for i in range(len(self.at)):
                self._shift(i)
            if self.total() - before < 1e-7:
                break

    def plan(self) -> Plan:
        """As visits."""
        visits = [Visit(k, self.at[i], self.leave(i), self.fish(i)) for i, k in enumerate(self.order)]
        back = (visits[-1].leave if visits else self.day.start) + self.travel[-1]
        return Plan(tuple(visits), back, sum(v.fish for v in visits))

    def _shift(self, i: int) -> None:
        low, high = self.bounds(i)
        if high <= low:
            return

        def fish(y: float) -> float:
            self.at[i] = y
            return self.fish(i - 1) + self.fish(i)

        now = min(max(self.at[i], low), high)
        tries = {now, low, high, *np.linspace(low, high, _TRIES).tolist()}
        for j in (i - 1, i):
            if j >= 0:
                later = self.travel[i] if j < i else 0.0
                cuts = (c + later for one in self.spots[j].times for c in (one.start, one.end))
                tries.update(c for c in cuts if low < c < high)
        ordered = sorted(tries)
        values = [fish(y) for y in ordered]
        k = max(range(len(ordered)), key=values.__getitem__)
        a, b = ordered[max(k - 1, 0)], ordered[min(k + 1, len(ordered) - 1)]
        best, most = ordered[k], values[k]
        # golden section between its neighbours
        c, d = b - _GOLDEN * (b - a), a + _GOLDEN * (b - a)
        fc, fd = fish(c), fish(d)
        while b - a > _FINE_S:
            if fc >= fd:
                b, d, fd = d, c, fc
                c = b - _GOLDEN * (b - a)
                fc = fish(c)
            else:
                a, c, fc = c, d, fd
                d = a + _GOLDEN * (b - a)
                fd = fish(d)
        for y, value in ((c, fc), (d, fd)):
            if value > most:
                best, most = y, value
        self.at[i] = best
