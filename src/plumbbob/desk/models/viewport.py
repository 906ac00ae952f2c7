"""The part of a pass that is on screen."""

from __future__ import annotations

from dataclasses import dataclass, replace

LEAST_SPAN_PINGS = 60.0
LEAST_SPAN_M = 2.0


@dataclass(frozen=True, slots=True)
class Viewport:
    """The part of the picture on screen: pings from left to right, depths from top to bottom."""

    first_ping: float
    last_ping: float
    top_m: float
    base_m: float

    @property
    def pings(self) -> float:
        """How many pings wide."""
        return self.last_ping - self.first_ping

    def zoomed_pings(self, factor: float, about: float) -> Viewport:
        """`factor` times as many pings, one of them in place."""
        first, last = about - (about - self.first_ping) * factor, about + (self.last_ping - about) * factor
        return replace(self, first_ping=first, last_ping=last)

    def zoomed_depth(self, factor: float, about: float) -> Viewport:
        """`factor` times as much depth, one depth in place."""
        return self.of_depths(about - (about - self.top_m) * factor, about + (self.base_m - about) * factor)

    def of_depths(self, top_m: float, base_m: float) -> Viewport:
        """The same pings, other depths."""
        return replace(self, top_m=top_m, base_m=base_m)

    def moved(self, pings: float, metres: float) -> Viewport:
        """As large, elsewhere."""
        first, last = self.first_ping + pings, self.last_ping + pings
        return Viewport(first, last, self.top_m + metres, self.base_m + metres)

    def within(self, count: int, deepest_m: float) -> Viewport:
        """
        The nearest part of a pass of so many pings, down to so deep, that is not too small to see.

        Examples
        --------
        >>> Viewport(-50.0, 50.0, 3.0, 4.0).within(200, 10.0)
        Viewport(first_ping=0.0, last_ping=100.0, top_m=3.0, base_m=5.0)
        """
        n = float(count)
        pings = min(max(self.pings, min(LEAST_SPAN_PINGS, n)), n)
        first = min(max(self.first_ping, 0.0), n - pings)
        span = min(max(self.base_m - self.top_m, LEAST_SPAN_M), deepest_m)
        top = min(max(self.top_m, 0.0), deepest_m - span)
        return Viewport(first, first + pings, top, top + span)
