"""What an item to practise on is: what is shown, asked and true."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from plumbbob.core.types import Floats
from plumbbob.sim.scene import Scene

HARDEST = 2.5  # on the logistic scale, and as much below 0 for the easiest


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChartCard:
    """A small chart with lettered places."""

    depth_m: Floats  # (rows, columns), the first row in the north; land is under 0
    cell_m: float
    places: tuple[tuple[str, float, float], ...]  # letter, metres east and south of the corner


@dataclass(frozen=True, slots=True, kw_only=True)
class Lesson:
    """One item: what is shown, what is asked, what is true and how near an answer must be."""

    skill: str
    difficulty: float
    ask: str
    answer_is: str  # depth, time_depth, choice, height, count_s, distance
    truth: Any
    why: str  # the measurement that tells
    scene: Scene | None = None  # None: a card with words, no pass
    card: tuple[str, ...] = ()
    chart: ChartCard | None = None
    choices: tuple[str, ...] = ()
    tolerance: tuple[float, ...] = ()  # an answer so far off counts half: of each number asked
    at_s: float | None = None  # after the first ping, what is meant


def hardness(difficulty: float) -> float:
    """0 easy to 1 cruel."""
    return min(max((difficulty + HARDEST) / (2 * HARDEST), 0.0), 1.0)
