"""What an item to practise on is: what is shown, asked and true."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.types import Floats
from plumbbob.sim.scene import Scene, Sounder

HARDEST = 2.5  # on the logistic scale, and as much below 0 for the easiest
_ORIGIN = Position(44.2031, -40.0518)
_START = 1_786_780_000.0
SPEED_MPS = 1.2
LONG_S = 26.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChartCard:
    """A small chart with lettered places."""

    depth_m: Floats  # (rows, columns), the first row in the north; land is under 0
    cell_m: float
    places: tuple[tuple[str, float, float], ...]  # letter, metres east and south of the corner
    step_m: float = 1.0  # from contour to contour
    wind_from_deg: float | None = None


@dataclass(frozen=True, slots=True)
class Bar:
    """A row of a card: what it is, how large of 1, and what else there is to say of it."""

    words: str
    share: float
    note: str = ""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Drawing:
    """What is laid beside the truth once an item is answered: lines over two axes, metres down where it is depth."""

    lines: tuple[tuple[str, Floats, Floats], ...]  # name, along and down
    along: str  # words of the axes
    down: str


def column_sketch(deep_m: float, words: str, *more: tuple[str, Floats, Floats]) -> Drawing:
    """Water from the side: its surface, a depth, and what else there is in it."""
    wide = 3.2 * deep_m
    surface = ("surface", np.array([0.0, wide]), np.zeros(2))
    level = (words, np.array([0.0, wide]), np.full(2, deep_m))
    return Drawing(lines=(surface, level, *more), along="", down="")


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
    bars: tuple[Bar, ...] = ()  # under the words of the card
    sketch: Drawing | None = None  # under the words of the card, seen from above
    drawing: Drawing | None = None  # shown with the truth
    is_drop: bool = False  # the shadow asked for lies beyond a lip, not behind what stands up
    chart: ChartCard | None = None
    choices: tuple[str, ...] = ()
    tolerance: tuple[float, ...] = ()  # an answer so far off counts half: of each number asked
    at_s: float | None = None  # after the first ping, what is meant
    shows: tuple[
        tuple[float, float], ...
    ] = ()  # the very echoes: seconds and depth; to the sides slant range and seconds


def hardness(difficulty: float) -> float:
    """0 easy to 1 cruel."""
    return min(max((difficulty + HARDEST) / (2 * HARDEST), 0.0), 1.0)


def quiet_scene(rng: np.random.Generator, hard: float, **changes: Any) -> Scene:
    """A quiet basin; noise comes up with difficulty."""
    depth = float(rng.uniform(9.0, 15.0))
    wave = float(rng.uniform(0.0, 6.0))
    usual: dict[str, Any] = {
        "title": "Practice",
        "origin": _ORIGIN,
        "start_time": _START,
        "speed_mps": lambda t: SPEED_MPS + 0.0 * t,
        "heading_deg": lambda t: 40.0 + 0.0 * t,
        "seconds": LONG_S,
        "bottom_m": lambda x: depth + 0.15 * np.sin(x / 7.0 + wave),
        "roughness_db": lambda x: -18.0 + 0.0 * x,
        "sounder": Sounder(range_m=20.0, samples=420, noise_db=-116.0 + 10.0 * hard),
        "clutter_m": 1.0 + 1.5 * hard,
    }
    return Scene(**{**usual, **changes})


def middle_s(scene: Scene) -> float:
    return 0.5 * scene.seconds
