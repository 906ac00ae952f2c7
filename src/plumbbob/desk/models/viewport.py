"""The part of a pass that is on screen."""

from __future__ import annotations

from dataclasses import dataclass


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
