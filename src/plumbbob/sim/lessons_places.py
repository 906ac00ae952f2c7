"""Items about places: a small chart with letters on it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np
from scipy import ndimage

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


_WINDS = (("north", 0.0), ("east", 90.0), ("south", 180.0), ("west", 270.0))


_RIM, _FALL_M = 0.25, 9.0  # where the rim is, of the fall from the top to the basin


def _stretch(rng: np.random.Generator, difficulty: float) -> Lesson:
    """A hump whose rim differs from side to side: one stretch has all that is asked for, the others lack a thing."""
    hard = hardness(difficulty)
    x, y, bumps = _ground(rng)
    wind, from_deg = _WINDS[int(rng.integers(len(_WINDS)))]
    window = float(rng.choice([6.0, 7.0, 8.0]))
    east, south = x - x.mean(), y - y.mean()
    bearing = np.degrees(np.arctan2(east, -south)) % 360.0
    away = np.hypot(east / 1.35, south) * (1.0 + 0.04 * np.sin(np.radians(3 * bearing + float(rng.uniform(0, 360)))))
    leans = float(rng.choice([-1.0, 1.0])) * 32.0
    # bearing, whether its rim lies in the window, whether it is steep
    stretches = [
        (from_deg + leans, True, True),
        (from_deg - leans, True, False),
        (from_deg + 180.0 + 0.5 * leans, True, True),
        (from_deg + 90.0 * np.sign(leans) + 0.5 * leans, False, True),
    ]
    outward = np.clip((away - 30.0) / 40.0, 0.0, 1.0)  # on the middle of the top no side is told from another
    raised, wide = np.zeros(x.shape), np.full(x.shape, 56.0 - 16.0 * hard)
    for at, inside, steep in stretches:
        near = outward * np.exp(-((((bearing - at + 180.0) % 360.0 - 180.0) / 26.0) ** 2))
        raised = raised + near * (0.0 if inside else 3.4 - 1.2 * hard)
        wide = wide + near * (-(32.0 - 12.0 * hard) if steep else 34.0 - 12.0 * hard)
    # a top, its rim a quarter of the way down, then the basin
    share = 1.0 / (1.0 + np.exp(-(away - 105.0) / (wide / 4.0)))
    depth = window - _RIM * _FALL_M - raised * (1.0 - share) + _FALL_M * share + 0.3 * bumps
    places = []
    for at, _, _ in stretches:
        way, turn = np.arange(20.0, 230.0, 1.0), np.radians(at)
        columns = np.clip(((x.mean() + 1.35 * way * np.sin(turn)) / _CELL_M).astype(int), 0, _COLUMNS - 1)
        rows = np.clip(((y.mean() - way * np.cos(turn)) / _CELL_M).astype(int), 0, _ROWS - 1)
        k = int(np.argmin(np.abs(share[rows, columns] - _RIM)))
        places.append((_CELL_M * float(columns[k]), _CELL_M * float(rows[k])))
    named, truth = _lettered(rng, places)
    gentle, lee, shallow = (next(n for n, *at in named if tuple(at) == places[k]) for k in (1, 2, 3))
    return Lesson(
        skill="best stretch of a ledge",
        difficulty=difficulty,
        ask=f"Fish are at {window - 0.5:.1f} m to {window + 1.0:.1f} m, on edges that the wind blows onto; it blows "
        f"from the {wind}. Which stretch of the rim first?",
        answer_is="choice",
        choices=_LETTERS,
        truth=truth,
        why=f"{truth} has the depth where it is steep, on the windward side; {gentle} is gentle, {lee} lies in the "
        f"lee, {shallow} has its edge too shallow",
        chart=ChartCard(depth_m=depth, cell_m=_CELL_M, places=named, wind_from_deg=from_deg),
    )


def _road(rng: np.random.Generator, difficulty: float) -> Lesson:
    """A drowned road on the floor of a reservoir: an even strip, proud by half a metre, that turns once."""
    hard = hardness(difficulty)
    x, y, bumps = _ground(rng)
    proud, half = 1.0 - 0.55 * hard, 5.0
    corner = np.array([float(rng.uniform(220.0, 420.0)), float(rng.uniform(150.0, 290.0))])
    first = float(rng.uniform(0.0, 2 * np.pi))
    turn = float(rng.choice([-1.0, 1.0])) * float(rng.uniform(0.9, 1.5))
    legs = [np.array([np.cos(a), np.sin(a)]) for a in (first + np.pi, first + turn)]
    strip = np.zeros(x.shape)
    for leg in legs:
        along = (x - corner[0]) * leg[0] + (y - corner[1]) * leg[1]
        across = np.abs(-(x - corner[0]) * leg[1] + (y - corner[1]) * leg[0])
        on = 1.0 / (1.0 + np.exp(np.clip((across - half) / 2.0, -40, 40)))
        strip = np.maximum(strip, on * (along > -half))
    rough = ndimage.gaussian_filter(rng.normal(0.0, 1.0, x.shape), 3.5, mode="nearest")
    waves = 0.16 * hard * rough / rough.std()
    depth = 9.0 + 0.0016 * x + 0.4 * bumps + waves - proud * strip
    straight = corner + legs[0] * min(105.0, _room(corner, legs[0]))
    # a round mound off the road, as high as it, and bare floor inside of the bend
    inside = corner + (legs[0] + legs[1]) / np.linalg.norm(legs[0] + legs[1]) * 75.0
    mound = corner - (legs[0] + legs[1]) / np.linalg.norm(legs[0] + legs[1]) * 80.0
    depth = depth - proud * np.exp(-((x - mound[0]) ** 2 + (y - mound[1]) ** 2) / 12.0**2)
    places = [(float(p[0]), float(p[1])) for p in (corner, straight, inside, mound)]
    named, truth = _lettered(rng, places)
    return Lesson(
        skill="roads and bends",
        difficulty=difficulty,
        ask="A road was drowned here, a strip of even width a little prouder than the floor. Where does it bend?",
        answer_is="choice",
        choices=_LETTERS,
        truth=truth,
        why=f"at {truth} two straight strips of one width meet; fish wait where a road turns or meets a thing",
        chart=ChartCard(depth_m=depth, cell_m=_CELL_M, places=named, step_m=0.25),
    )


def _room(start: Floats, way: Floats) -> float:
    """How far it is to within 30 m of the chart's edge."""
    far = []
    for at, step, end in zip(start, way, (_CELL_M * _COLUMNS, _CELL_M * _ROWS), strict=True):
        if abs(step) > 1e-6:
            far.append(((end - 30.0 if step > 0 else 30.0) - at) / step)
    return float(min(far))


PLACES: Mapping[str, Callable[[np.random.Generator, float], Lesson]] = {
    "where a window meets a lip": _lip,
    "inside turns": _turn,
    "best stretch of a ledge": _stretch,
    "roads and bends": _road,
}
