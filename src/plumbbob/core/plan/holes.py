"""
Where to make holes: a coarse search first, from the rim or the deepest water, finer after a mark; and the ice itself.

A sounder through a hole looks at a cone straight down, tilted, or at a fan; holes are spaced so that what it covers
and what a lure reaches hang together (docs/handbook.md, 5.9 and 8). No thickness of ice is certain.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid

_LEAST_APART_M, _MOST_APART_M = 15.0, 30.0
_FINE_APART_M = 6.0
_STEP_DEPTH_M = 1.5
_FIRST_ICE_RIM_M = (1.5, 5.0)


class View(Enum):
    """How a sounder looks from a hole."""

    CONE = "straight down"
    TILTED = "tilted"
    FAN = "fan"


class IceSeason(Enum):
    """Fish move with the winter."""

    EARLY = "early"
    MIDDLE = "middle"
    LATE = "late"


@dataclass(frozen=True, slots=True, kw_only=True)
class Hole:
    """One hole to make."""

    x: float
    y: float
    depth_m: float
    why: str  # rim, deepest, steep, near a mark


def covered_radius(view: View, depth_m: float, *, beam_deg: float = 20.0, tilt_deg: float = 30.0) -> float:
    """
    How far from its hole a sounder tells fish near the bottom, metres.

    Notes
    -----
    A cone covers half its footprint; tilted, a circle is walked round out to the depth times the tangent of tilt plus
    half a beam; a fan that is turned sees as far as three times the depth before the bottom drowns fish.

    Examples
    --------
    >>> [round(covered_radius(v, 8.0), 1) for v in View]
    [1.4, 6.7, 24.0]
    """
    half = math.radians(beam_deg / 2)
    if view is View.CONE:
        return depth_m * math.tan(half)
    if view is View.TILTED:
        return depth_m * math.tan(math.radians(tilt_deg) + half)
    return 3.0 * depth_m


def spacing(view: View, depth_m: float) -> float:
    """
    Metres between the holes of a coarse search: 15 to 30, wider where a fan sees farther.

    Examples
    --------
    >>> [spacing(v, 8.0) for v in View]
    [15.0, 15.0, 30.0]
    """
    return min(max(2.0 * covered_radius(view, depth_m), _LEAST_APART_M), _MOST_APART_M)


def coarse_search(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    season: IceSeason,
    view: View = View.CONE,
    *,
    deepest_m: float = math.nan,
    most: int = 24,
    start: tuple[float, float] | None = None,
) -> tuple[Hole, ...]:
    """
    A first round of holes in walking order.

    Parameters
    ----------
    frame : CellGrid
    depth_m : ndarray (ny, nx)
        NaN on land and where unknown.
    season : IceSeason
        Early ice: the edge of what was green, shallow rims; later the rim of the basin and the deepest stable water.
    view : View
    deepest_m : float
        Of the water; the grid's own where not given.
    most : int
        Holes at most.
    start : (float, float), optional
        Where one comes onto the ice.

    Raises
    ------
    ValueError
        If the chart knows no water.
    """
    if not np.isfinite(depth_m).any():
        raise ValueError("no depth is known here")
    deepest = deepest_m if math.isfinite(deepest_m) else float(np.nanmax(depth_m))
    gy, gx = np.gradient(np.where(np.isfinite(depth_m), depth_m, np.nan), frame.cell_m)
    slope = np.hypot(gx, gy)
    if season is IceSeason.EARLY:
        low, high = _FIRST_ICE_RIM_M[0], min(_FIRST_ICE_RIM_M[1], 0.6 * deepest)
        score = np.where((depth_m >= low) & (depth_m <= high), 0.5 + np.nan_to_num(slope), np.nan)
        why = "rim"
    else:
        # the rim of the basin: two thirds of the deepest and more, where the wall meets the floor
        rim = np.exp(-(((depth_m - 0.75 * deepest) / (0.12 * deepest)) ** 2)) * (0.3 + 3.0 * np.nan_to_num(slope))
        floor = np.exp(-(((depth_m - deepest) / (0.10 * deepest)) ** 2))
        score = np.maximum(rim, floor if season is IceSeason.MIDDLE else 0.6 * floor)
        score = np.where(depth_m >= 0.5 * deepest, score, np.nan)
        why = "rim"
    return _in_walking_order(_spread_out(frame, depth_m, score, view, most, deepest, why), start)


def _spread_out(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    score: NDArray[np.float64],
    view: View,
    most: int,
    deepest: float,
    why: str,
) -> list[Hole]:
    """The best cells one after the other, far apart first; closer only where there is no more room."""
    rows, columns = np.nonzero(np.isfinite(score))
    order = np.argsort(-score[rows, columns], kind="stable")
    x = frame.x0_m + (columns + 0.5) * frame.cell_m
    y = frame.y0_m + (rows + 0.5) * frame.cell_m
    holes: list[Hole] = []
    for wider in (2.0, 1.4, 1.0):
        free = np.ones(rows.size, bool)
        for hole in holes:
            free &= np.hypot(x - hole.x, y - hole.y) >= wider * spacing(view, hole.depth_m)
        for i in order.tolist():
            if len(holes) == most:
                return holes
            if not free[i]:
                continue
            deep = float(depth_m[rows[i], columns[i]])
            says = "deepest" if deep > 0.92 * deepest else why
            holes.append(Hole(x=float(x[i]), y=float(y[i]), depth_m=deep, why=says))
            free &= np.hypot(x - x[i], y - y[i]) >= wider * spacing(view, deep)
    return holes


def refine(
    mark: Hole,
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    made: Sequence[Hole] = (),
    *,
    apart_m: float = _FINE_APART_M,
) -> tuple[Hole, ...]:
    """
    Holes around a mark: along its depth first, then a step of depth shallower and deeper.

    Parameters
    ----------
    mark : Hole
        Where a fish was seen or caught.
    frame, depth_m
        The chart, as in `coarse_search`.
    made : sequence of Hole
        Holes that are there; none is made within half the distance.
    apart_m : float
        Five to ten metres are usual.
    """
    found: list[Hole] = []
    for turn in range(12):
        a = 2 * math.pi * turn / 12
        x, y = mark.x + apart_m * math.sin(a), mark.y + apart_m * math.cos(a)
        deep = frame.nearest(depth_m, x, y)
        if math.isfinite(deep) and deep > 0.5:
            found.append(Hole(x=x, y=y, depth_m=float(deep), why="near a mark"))
    found.sort(key=lambda h: abs(h.depth_m - mark.depth_m))
    same = [h for h in found if abs(h.depth_m - mark.depth_m) <= _STEP_DEPTH_M / 2]
    other = [h for h in found if h not in same]
    out: list[Hole] = []
    for hole in (*same[:4], *other[:4]):
        others = (*made, *out)
        if all(math.hypot(h.x - hole.x, h.y - hole.y) >= 0.5 * apart_m for h in others):
            out.append(hole)
    return _in_walking_order(out, (mark.x, mark.y))


def _in_walking_order(holes: Sequence[Hole], start: tuple[float, float] | None) -> tuple[Hole, ...]:
    """Nearest next, then crossings undone two at a time."""
    if not holes:
        return ()
    left = list(holes)
    at = start or (left[0].x, left[0].y)
    way: list[Hole] = []
    while left:
        here = at
        nearest = min(left, key=lambda h: math.hypot(h.x - here[0], h.y - here[1]))
        left.remove(nearest)
        way.append(nearest)
        at = (nearest.x, nearest.y)
    first = replace(way[0], x=start[0], y=start[1]) if start is not None else way[0]
    better = True
    while better:
        better = False
        for i in range(len(way) - 2):
            for j in range(i + 2, len(way)):
                a, b = (first if i == 0 else way[i - 1]), way[i]
                c, d = way[j - 1], way[j]
                if _m(a, c) + _m(b, d) < _m(a, b) + _m(c, d) - 1e-9:
                    way[i:j] = way[i:j][::-1]
                    better = True
    return tuple(way)


def _m(a: Hole, b: Hole) -> float:
    return math.hypot(a.x - b.x, a.y - b.y)


def walk_m(holes: Sequence[Hole]) -> float:
    """Way from the first hole to the last."""
    return sum(_m(a, b) for a, b in pairwise(holes))


# -- the ice itself ---------------------------------------------------------------------------------------------

_LOADS_CM = ((10.0, "one person on foot"), (13.0, "a snow machine"), (20.0, "a car"), (30.0, "a truck"))


@dataclass(frozen=True, slots=True, kw_only=True)
class IceSays:
    """What practice says of new, clear ice of a thickness; never that it is safe."""

    counts_m: float  # as clear ice: white ice counts half, late ice half again
    stay_off: bool
    usual_load: str  # the heaviest that tables name; empty: none
    growth_m_a_day: float


def ice_says(
    clear_m: float, white_m: float = 0.0, *, late: bool = False, river: bool = False, frost_c: float = 0.0
) -> IceSays:
    """
    What tables of agencies say of an ice.

    Parameters
    ----------
    clear_m, white_m : float
        Clear ice, and white or snow ice on it.
    late, river : bool
        Late in the season, or over current, inlets and springs: there no table holds.
    frost_c : float
        Degrees under freezing on average, for its growth.

    Examples
    --------
    >>> ice_says(0.08).stay_off, ice_says(0.10).usual_load, ice_says(0.10, late=True).stay_off
    (True, 'one person on foot', True)
    """
    counts = (clear_m + 0.5 * white_m) * (0.5 if late else 1.0)
    off = counts < 0.10 - 1e-9 or river
    load = "" if off else next(name for cm, name in reversed(_LOADS_CM) if 100.0 * counts >= cm - 1e-6)
    days = (100.0 * counts / 2.0) ** 2 / frost_c if frost_c > 0 and counts > 0 else math.nan
    grown = ice_growth(frost_c * (days + 1.0)) - ice_growth(frost_c * days) if math.isfinite(days) else 0.0
    return IceSays(counts_m=counts, stay_off=off, usual_load=load, growth_m_a_day=grown)


def ice_growth(freezing_degree_days: float, factor: float = 2.0) -> float:
    """
    Thickness of ice, metres, by degree-days of frost; factor 1.7 with snow to 2.4 without.

    Notes
    -----
    Stefan (1891).

    Examples
    --------
    >>> round(ice_growth(100.0), 2)
    0.2
    """
    return factor * math.sqrt(max(freezing_degree_days, 0.0)) / 100.0


def load_kg(ice_m: float, strength: float = 3.5) -> float:
    """
    Load of new clear ice without any margin, kg: a figure to be warned by, not to be used.

    Notes
    -----
    Gold (1971): P = A h^2, A = 3.5 to 4 kg/cm2.

    Examples
    --------
    >>> round(load_kg(0.10)), round(load_kg(0.10, 4.0))
    (350, 400)
    """
    return strength * (100.0 * ice_m) ** 2
