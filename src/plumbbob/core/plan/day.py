"""A day to be planned: places with their fish, hours and stays, travel between them, and what becomes of it."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from itertools import pairwise

from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True)
class Stretch:
    """From when to when the rate at a place is another by a factor."""

    start: float
    end: float
    factor: float


@dataclass(frozen=True, slots=True)
class Spot:
    """A place that may be fished."""

    name: str
    fish: float  # to be had there when fresh
    per_hour: float  # share of what is left that comes in an hour: d gain/dt = per_hour fish exp(-per_hour hours)
    least_s: float = 0.0
    most_s: float = math.inf
    times: tuple[Stretch, ...] = ()
    must: bool = False
    not_before: float = -math.inf
    not_after: float = math.inf

    def gain(self, arrive: float, leave: float) -> float:
        """Fish expected from one time to another."""
        if leave <= arrive:
            return 0.0
        cuts = {arrive, leave}
        for one in self.times:
            cuts.update(t for t in (one.start, one.end) if arrive < t < leave)
        total = 0.0
        for a, b in pairwise(sorted(cuts)):
            total += self.factor((a + b) / 2) * (self._left(a - arrive) - self._left(b - arrive))
        return total

    def factor(self, time: float) -> float:
        """Of the rate at a time; factors that overlap multiply."""
        out = 1.0
        for one in self.times:
            if one.start <= time < one.end:
                out *= one.factor
        return out

    def _left(self, seconds: float) -> float:
        return self.fish * math.exp(-self.per_hour * seconds / 3600.0)


@dataclass(frozen=True, slots=True)
class Visit:
    """A stay at a place: index of the spot, from when to when, fish expected."""

    spot: int
    arrive: float
    leave: float
    fish: float


@dataclass(frozen=True, slots=True)
class Day:
    """What can be chosen from. Times in seconds; `seconds` of travel of shape (n + 2, n + 2): spots, start, end."""

    spots: tuple[Spot, ...]
    seconds: Floats
    start: float
    end: float

    @property
    def first(self) -> int:
        """Row of the start."""
        return len(self.spots)

    @property
    def last(self) -> int:
        """Row of the end."""
        return len(self.spots) + 1


@dataclass(frozen=True, slots=True)
class Plan:
    """Visits in order, when one is back, and fish in all."""

    visits: tuple[Visit, ...]
    back: float
    fish: float = field(default=0.0)


class CannotPlan(ValueError):
    """No day as asked for: one line."""
