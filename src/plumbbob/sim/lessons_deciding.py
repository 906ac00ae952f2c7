"""
Items about places, depth and deciding: on a small chart, or a card with numbers; the program's own solvers know.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from plumbbob.core.plan.stay import Prior, stay_or_go
from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.floor import drop_on_school
from plumbbob.core.rig.line import Body, tow
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.types import Floats
from plumbbob.sim.lesson import ChartCard, Lesson, hardness

_ROWS, _COLUMNS, _CELL_M = 110, 160, 4.0
_LETTERS = ("A", "B", "C", "D")
_NEAR_TURN_M = 45.0
_Places = tuple[tuple[str, float, float], ...]


def _ground(rng: np.random.Generator) -> tuple[Floats, Floats, Floats]:
    """East and south of each cell, and gentle bumps."""
    x, y = np.meshgrid(_CELL_M * np.arange(_COLUMNS), _CELL_M * np.arange(_ROWS))
    bumps = np.zeros(x.shape)
    for _ in range(6):
        at, wide = rng.uniform(0, 1, 2) * (x.max(), y.max()), float(rng.uniform(60, 160))
        bumps += rng.normal(0, 0.15) * np.exp(-((x - at[0]) ** 2 + (y - at[1]) ** 2) / wide**2)
    return x, y, bumps


def _lettered(rng: np.random.Generator, places: list[tuple[float, float]]) -> tuple[_Places, str]:
    """Places in a random order of letters; the letter of the first."""
    order = [int(k) for k in rng.permutation(len(places))]
    named = tuple((_LETTERS[n], *places[k]) for n, k in enumerate(order))
    return named, _LETTERS[order.index(0)]


def _lip(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    x, y, bumps = _ground(rng)
    edge = 200.0 + 25.0 * np.sin(x / 90.0 + float(rng.uniform(0, 6)))  # the lip, so far south of the shore
    steep_at = float(rng.uniform(150.0, 480.0))
    # over the same fall the lip takes few metres where it is steep and many elsewhere
    wide = 85.0 - (70.0 - 45.0 * hard) * np.exp(-(((x - steep_at) / 70.0) ** 2))
    depth = 3.0 + 0.006 * y + 9.0 / (1.0 + np.exp(-(y - edge) / (wide / 4.0))) + bumps
    top = float(rng.choice([5.0, 6.0, 7.0]))
    middle = top + 1.0

    def on(column: float, deep: float) -> tuple[float, float]:
        k = min(max(int(column / _CELL_M), 0), _COLUMNS - 1)
        row = int(np.argmin(np.abs(depth[:, k] - deep)))
        return _CELL_M * k, _CELL_M * row

    other = steep_at + (230.0 if steep_at < 320.0 else -230.0)
    places = [
        on(steep_at, middle),
        on(other, middle),
        on(steep_at, 13.2),
        on(0.5 * (steep_at + other), max(top - 1.8, 3.3)),
    ]
    named, truth = _lettered(rng, places)
    return Lesson(
        skill="where a window meets a lip",
        difficulty=difficulty,
        ask=f"Fish keep to {top:.0f} m to {top + 2:.0f} m today and wait on an edge. Which place first?",
        answer_is="choice",
        choices=_LETTERS,
        truth=truth,
        why=f"at {truth} those depths lie where the contours stand closest: a short way from shallow to deep",
        chart=ChartCard(depth_m=depth, cell_m=_CELL_M, places=named),
    )


def _turn(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    x, y, bumps = _ground(rng)
    spots = rng.permutation([90.0, 240.0, 390.0, 540.0])
    bend = 75.0 - 50.0 * hard
    shore = 90.0 + 10.0 * np.sin(x / 130.0)
    shore = shore - bend * np.exp(-(((x - spots[0]) / _NEAR_TURN_M) ** 2))  # deep water pushes into the bank
    shore = shore + bend * np.exp(-(((x - spots[1]) / _NEAR_TURN_M) ** 2))  # a point
    depth = 0.055 * (y - shore) + bumps
    deep = 6.0
    places = []
    for spot in spots:
        k = int(spot / _CELL_M)
        places.append((_CELL_M * k, _CELL_M * int(np.argmin(np.abs(depth[:, k] - deep)))))
    named, truth = _lettered(rng, places)
    return Lesson(
        skill="inside turns",
        difficulty=difficulty,
        ask="On which place do the contours make an inside turn, where deep water pushes into the bank?",
        answer_is="choice",
        choices=_LETTERS,
        truth=truth,
        why=f"at {truth} every contour bends towards the shore; at a point they bend away from it",
        chart=ChartCard(depth_m=depth, cell_m=_CELL_M, places=named),
    )


def _line_out(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    grams = float(rng.choice([60.0, 85.0, 110.0, 170.0]))
    speed = float(rng.choice([0.6, 0.8, 1.0, 1.2]))
    body = Body(weight_n=9.81 * grams / 1000 * 0.91, drag_area_m2=4e-4 * (grams / 60.0) ** (2 / 3))
    deep = float(rng.choice([4.0, 5.0, 6.0, 8.0] if hard > 0.4 else [3.0, 4.0]))

    def depth_with(line_m: float) -> float:
        return float(tow(body, [BRAID.segment(line_m)], speed).depth_m)

    low, high = deep, deep
    while depth_with(high) < deep and high < 200.0:
        high *= 1.5
    for _ in range(40):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if depth_with(middle) < deep else (low, middle)
    return Lesson(
        skill="line for a depth",
        difficulty=difficulty,
        ask=f"How much braid must be out for a {grams:.0f} g weight to run at {deep:.0f} m, towed at {speed:g} m/s?",
        answer_is="distance",
        truth=high,
        tolerance=((0.32 - 0.17 * hard) * high,),
        why=f"{high:.1f} m: the line hangs in a bow, {high / deep:.1f} times the depth at this weight and speed",
        card=(f"{grams:.0f} g weight, thin braid", f"to run at {deep:.0f} m", f"towed at {speed:g} m/s"),
    )


_STAY = ("go now", "stay up to 20 min", "stay up to an hour", "stay longer")
_STAY_MIN = (0.0, 20.0, 60.0)


def _stay(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    usual = Prior(fish=2.0, hours=2.0 / float(rng.uniform(0.6, 1.6)))
    travel, left = float(rng.choice([0.25, 0.4, 0.6])), float(rng.choice([2.0, 3.0, 4.0]))
    wanted = int(rng.integers(len(_STAY)))
    best: tuple[float, int, int, str] | None = None
    for _ in range(120):
        minutes, fish = int(rng.integers(1, 10)) * 10, int(rng.poisson(3.0 if wanted else 0.7))
        answer = stay_or_go(usual, fish, minutes / 60, usual, gone_per_hour=0.5, travel_h=travel, left_h=left)
        more = answer.minutes_more if answer.stay else 0.0
        kind = next((k for k, most in enumerate(_STAY_MIN) if more <= most), len(_STAY) - 1)
        # a clear case lies in the middle of its span, a cruel one near where the next begins
        low, high = (*_STAY_MIN, 120.0)[max(kind - 1, 0)], (*_STAY_MIN, 120.0)[kind]
        clear = answer.gain if not answer.stay else min(more - low, max(high - more, 0.0)) / max(high - low, 1.0)
        score = abs(clear - 0.45 * (1.0 - hard)) + (0.0 if kind == wanted else 10.0)
        if best is None or score < best[0]:
            best = (score, minutes, fish, _STAY[kind])
    assert best is not None
    _, minutes, caught, truth = best
    mean = usual.fish / usual.hours
    return Lesson(
        skill="stay or go",
        difficulty=difficulty,
        ask=f"{caught} fish in {minutes} minutes here; such places give {mean:.1f} an hour fresh, half that an hour "
        f"later. The next is {60 * travel:.0f} minutes away, {left:.0f} hours are left. If no fish comes?",
        answer_is="choice",
        choices=_STAY,
        truth=truth,
        why="what was caught here, shrunk to what is usual, against a fresh place less the way there: " + truth,
        card=(
            f"{caught} fish in {minutes} min",
            f"usual {mean:.1f} an hour",
            f"{60 * travel:.0f} min to the next place",
        ),
    )


_DROP = ("too late", "just its tail", "its second half", "nearly all of it")


def _drop(rng: np.random.Generator, difficulty: float) -> Lesson:
    hard = hardness(difficulty)
    kind = int(rng.integers(len(_DROP)))
    grams = float(rng.choice([5.0, 7.0, 10.0, 14.0]))
    lure = lure_of(Packet(form=Form.BALL_JIG, mass_kg=grams / 1000))
    deep = float(rng.choice([5.0, 7.0, 9.0, 12.0]))
    fall = fall_speed(lure.falling(BRAID), deep)
    passes = float(rng.choice([0.15, 0.25, 0.4]))
    # a third of the school for each answer: in its middle when easy, near its edge when cruel
    share = (kind - 1) / 3 + 1 / 6 + float(rng.choice([-1.0, 1.0])) * hard * 0.14
    seconds = drop_on_school(deep, fall, passes, 10.0).seconds
    length = passes * seconds / (1.0 - share)
    found = drop_on_school(deep, fall, passes, length)
    truth = _DROP[0] if found.share <= 0 else _DROP[min(1 + int(found.share * 3), 3)]
    return Lesson(
        skill="drop on a passing school",
        difficulty=difficulty,
        ask=f"A school enters the beam at {deep:.0f} m: {length:.1f} m long, it passes at {passes:g} m/s. "
        f"Your {grams:g} g jig is at the surface. Dropped now, what of the school does it meet?",
        answer_is="choice",
        choices=_DROP,
        truth=truth,
        why=f"the jig is there in {found.seconds:.0f} s, the school is gone in {length / passes:.0f} s",
        card=(f"{grams:g} g jig to {deep:.0f} m", f"a school {length:.1f} m long", f"passes at {passes:g} m/s"),
    )


DECIDING: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "where a window meets a lip": _lip,
    "inside turns": _turn,
    "line for a depth": _line_out,
    "stay or go": _stay,
    "drop on a passing school": _drop,
}
