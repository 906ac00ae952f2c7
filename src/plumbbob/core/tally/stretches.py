"""When a stretch of fishing ends and another begins: what rod, way, lure and depth say, and the boat's speed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

DEPTH_STEP_M = 0.5  # a lure that hangs otherwise by less is fished as before
MOVING_MPS = 2.6  # faster than that the boat goes elsewhere, and no line is in
STILL_MPS = 0.5  # under it a boat that trolls has stopped
_SETTLES_S = 20.0  # so long something else has to hold before it counts


@dataclass(frozen=True, slots=True)
class Fishing:
    """How one rod fishes, as far as it makes a stretch what it is."""

    method: str
    lure: str
    depth_step: int
    trolled: bool


def fishing(method: str, lure: str, depth_m: float, *, trolled: bool) -> Fishing:
    """The depth in steps, so that a bob that is nudged begins no stretch."""
    return Fishing(method, lure, round(depth_m / DEPTH_STEP_M), trolled)


def is_fishing(rod: Fishing, speed_mps: float) -> bool:
    """
    The boat goes as one does with this rod in the water.

    Examples
    --------
    >>> rod = fishing("downrigger", "spoon", 8.0, trolled=True)
    >>> is_fishing(rod, 1.0), is_fishing(rod, 6.0), is_fishing(rod, 0.1)
    (True, False, False)
    """
    return STILL_MPS <= speed_mps <= MOVING_MPS if rod.trolled else speed_mps <= MOVING_MPS / 2


class Watch:
    """What each rod is at, by the clock of the boat; says what ends and what begins."""

    def __init__(self) -> None:
        self.open: dict[int, Fishing] = {}
        self._waiting: dict[int, tuple[Fishing | None, float]] = {}

    def look(self, rods: Mapping[int, Fishing], speed_mps: float, time: float) -> tuple[list[int], list[int]]:
        """Numbers of the rods whose stretch has ended, and of those whose stretch has begun, by now."""
        ended, begun = [], []
        for number in sorted(set(rods) | set(self.open)):
            rod = rods.get(number)
            now = rod if rod is not None and is_fishing(rod, speed_mps) else None
            if now == self.open.get(number):
                self._waiting.pop(number, None)
                continue
            waited = self._waiting.get(number)
            if waited is None or waited[0] != now:
                self._waiting[number] = (now, time)
                continue
            if time - waited[1] < _SETTLES_S:
                continue
            del self._waiting[number]
            if number in self.open:
                ended.append(number)
                del self.open[number]
            if now is not None:
                self.open[number] = now
                begun.append(number)
        return ended, begun
