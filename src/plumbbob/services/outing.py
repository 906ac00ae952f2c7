"""A day planned from a chart: places worth a look, own marks, land, wind, and where fish may be at all."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import Hour
from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.outing import DayAsk
from plumbbob.core.plan.veil import SearchGrid, chances, prior_weights, search_grid, thinned
from plumbbob.core.types import Floats, Levels
from plumbbob.core.water.wind import LayerPlane, fetch_field

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry

    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.rank import RankedSpot
    from plumbbob.core.plan.veil import Sight
    from plumbbob.store.values import Mark

MOST_PLACES, MOST_MARKS = 10, 4
_COARSE_CELLS = 40_000
_LEAST_DEPTH_M = 0.5  # water for the boat
_OFF_BOTTOM_M = 0.7
_SAME_PLACE_M, _RECORD_M = 70.0, 120.0
_NEAR_STRUCTURE_M = 120.0
_LAYER_BAND_M = 2.5
_UNSEEN_OFF_M = 250.0
PRESENT = 0.6  # chance that catchable fish are anywhere in the chart, before the first look


@dataclass(frozen=True, slots=True, eq=False)
class Facts:
    """What a plan is made from; all of it values, so that it can be worked on off the interface thread."""

    chart: Chart
    level_m: float
    ask: DayAsk
    places: tuple[RankedSpot, ...]
    marks: tuple[tuple[Mark, int], ...]  # with fish caught there
    added: tuple[Candidate, ...] = ()
    window: tuple[float, float] | None = None
    layer: LayerPlane | None = None
    warmth: tuple[Floats, Floats] | None = None  # depths, and how well the species likes them, 0 to 1


@dataclass(frozen=True, slots=True, eq=False)
class Search:
    """Cells and bands with their chances before any look, and each reason by itself."""

    grid: SearchGrid
    prior: Levels
    terms: dict[str, Floats]


def bottom_today(chart: Chart, level_m: float) -> Floats:
    """Depths under today's surface on the chart's frame; NaN where not known."""
    return np.asarray(chart.grid.depth_m + np.float32(level_m), np.float64)


def land_of(chart: Chart, level_m: float) -> BaseGeometry:
    """Where a boat should not go: land, and all that was not sounded; polygons of longitude and latitude."""
    import contourpy
    import shapely

    frame = chart.grid.frame
    k = max(round(math.sqrt(chart.grid.depth_m.size / _COARSE_CELLS / 4)), 1)
    water = np.nan_to_num(bottom_today(chart, level_m)[k // 2 :: k, k // 2 :: k], nan=-1.0) > _LEAST_DEPTH_M
    # a border of land all round, so that no way leaves the chart
    wide = np.pad(water.astype(np.float64), 2)
    lines = contourpy.contour_generator(z=wide, fill_type=contourpy.FillType.OuterOffset).filled(0.5, 2.0)
    wet = []
    for points, offsets in zip(*lines, strict=True):
        xy = np.stack(frame.xy((points[:, 1] - 2) * k + k // 2, (points[:, 0] - 2) * k + k // 2), axis=1)
        rings = [xy[a:b] for a, b in pairwise(offsets)]
        wet.append(shapely.Polygon(rings[0], rings[1:]))
    away = 2 * k * frame.cell_m
    box = shapely.box(
        frame.x0_m - away,
        frame.y0_m - away,
        frame.x0_m + frame.nx * frame.cell_m + away,
        frame.y0_m + frame.ny * frame.cell_m + away,
    )
    dry = box.difference(shapely.union_all(wet).buffer(0)).simplify(0.8 * k * frame.cell_m)

    def to_degrees(xy: Floats) -> Floats:
        latitude, longitude = chart.plane.to_latlon(xy[:, 0], xy[:, 1])
        return np.stack([longitude, latitude], axis=1)

    return shapely.transform(dry.buffer(0), to_degrees)


def _fetches(chart: Chart, level_m: float, hours: Sequence[Hour], xy: Floats) -> list[tuple[float, ...]]:
    """Open water upwind of each place in each hour."""
    frame = chart.grid.frame
    k = max(round(math.sqrt(chart.grid.depth_m.size / _COARSE_CELLS)), 1)
    water = np.nan_to_num(bottom_today(chart, level_m)[k // 2 :: k, k // 2 :: k], nan=-1.0) > 0
    coarse = CellGrid(frame.x0_m, frame.y0_m, k * frame.cell_m, water.shape[1], water.shape[0])
    known: dict[int, Floats] = {}
    out = np.zeros((len(xy), len(hours)))
    for j, hour in enumerate(hours):
        towards = round(hour.from_deg / 10.0) % 36
        if hour.wind_mps <= 0:
            continue
        if towards not in known:
            known[towards] = fetch_field(water, coarse.cell_m, 10.0 * towards)
        out[:, j] = [coarse.nearest(known[towards], x, y) for x, y in xy]
    return [tuple(row) for row in np.nan_to_num(out, nan=0.0).tolist()]


def _fish_depth(facts: Facts, x: float, y: float, bottom_m: float) -> float:
    """At which one would fish over such a bottom: in the window, else above the cold layer, else over the ground."""
    deepest = max(bottom_m - _OFF_BOTTOM_M, 0.6 * bottom_m)
    if facts.window is not None:
        return min(sum(facts.window) / 2, deepest)
    if facts.layer is not None:
        layer = float(facts.layer.at(x, y))
        if layer < bottom_m - _LAYER_BAND_M:
            return max(layer - 1.0, 0.3)
    return deepest


def candidates_of(facts: Facts) -> tuple[Candidate, ...]:
    """Ranked places, own marks that lie elsewhere, and what a hand has added."""
    chart = facts.chart
    bottom = bottom_today(chart, facts.level_m)
    frame = chart.grid.frame
    kinds: Counter[str] = Counter()
    made: list[Candidate] = []
    xy: list[tuple[float, float]] = []

    def take(name: str, kind: str, x: float, y: float, score: float, seen: int, caught: int) -> None:
        deep = float(frame.sample(bottom, x, y))
        deep = deep if math.isfinite(deep) else frame.nearest(bottom, x, y)
        if not deep > _LEAST_DEPTH_M:
            return
        made.append(
            Candidate(
                name=name,
                place=chart.plane.place(x, y),
                bottom_m=deep,
                fish_m=_fish_depth(facts, x, y, deep),
                score=score,
                kind=kind,
                seen=seen,
                caught=caught,
            )
        )
        xy.append((x, y))

    own: list[tuple[float, float, Mark, int]] = []
    for m, n in facts.marks:
        a, b = chart.plane.to_xy(m.latitude, m.longitude)
        own.append((float(a), float(b), m, n))
    for spot in facts.places:
        if len(made) >= MOST_PLACES:
            break
        x, y = spot.feature.x, spot.feature.y
        if any(math.hypot(x - a, y - b) < _SAME_PLACE_M for a, b in xy):
            continue
        near = [(m.seen, n) for a, b, m, n in own if math.hypot(x - a, y - b) < _RECORD_M]
        kinds[spot.feature.kind] += 1
        name = f"{spot.feature.kind.capitalize()} {kinds[spot.feature.kind]}"
        take(name, spot.feature.kind, x, y, spot.score, sum(s for s, _ in near), sum(n for _, n in near))
    fair = float(np.median([c.score for c in made[:4]])) if made else 0.5
    count = 0
    for x, y, mark, caught in sorted(own, key=lambda row: (-row[3], -row[2].seen)):
        if mark.kind.value in ("hazard", "bait") or count >= MOST_MARKS:
            continue
        if any(math.hypot(x - a, y - b) < _RECORD_M for a, b in xy):
            continue
        count += 1
        take(mark.note.strip()[:24] or f"Mark {mark.id}", "mark", x, y, fair, mark.seen, caught)
    names: set[str] = set()
    for k, one in enumerate(made):
        name = one.name
        while name in names:
            name = f"{one.name}, {len(names)}"
        names.add(name)
        made[k] = replace(one, name=name)
    made += [c for c in facts.added if c.name not in names]
    at = np.array([[float(v) for v in chart.plane.to_xy(c.place.latitude, c.place.longitude)] for c in made])
    fetches = _fetches(chart, facts.level_m, facts.ask.hours, at) if made else []
    return tuple(replace(c, fetch_m=f) for c, f in zip(made, fetches, strict=True))


def search_of(facts: Facts) -> Search:
    """Where fish may be, by what is known before the first look."""
    chart = facts.chart
    grid = search_grid(chart.grid.frame, bottom_today(chart, facts.level_m))
    middle = (grid.edges_m[:-1] + grid.edges_m[1:]) / 2
    terms: dict[str, Floats] = {}
    if facts.warmth is not None:
        terms["warmth"] = np.interp(middle, *facts.warmth)[:, None, None] + 0.05
    if facts.window is not None:
        top, base = facts.window
        overlap = np.minimum(grid.edges_m[1:], base) - np.maximum(grid.edges_m[:-1], top)
        terms["window"] = np.where(overlap > 0, 1.0, 0.25)[:, None, None]
    x, y = np.meshgrid(grid.frame.x, grid.frame.y)
    if facts.layer is not None:
        off = (middle[:, None, None] - facts.layer.at(x, y)[None]) / _LAYER_BAND_M
        terms["layer"] = 0.4 + np.exp(-0.5 * off**2)
    off_bottom = (np.nan_to_num(grid.bottom_m, nan=0.0)[None] - middle[:, None, None]) / 2.0
    terms["bottom"] = 0.4 + np.exp(-0.5 * off_bottom**2)
    if facts.places:
        near: NDArray[np.float64] = np.full(grid.bottom_m.shape, 0.15)
        for spot in facts.places:
            away = np.hypot(x - spot.feature.x, y - spot.feature.y)
            near = np.maximum(near, spot.score * np.exp(-0.5 * (away / _NEAR_STRUCTURE_M) ** 2))
        terms["structure"] = near[None]
    if facts.marks:
        record = np.ones(grid.bottom_m.shape)
        for mark, caught in facts.marks:
            a, b = (float(v) for v in chart.plane.to_xy(mark.latitude, mark.longitude))
            record += (0.3 + caught) * np.exp(-0.5 * (np.hypot(x - a, y - b) / _RECORD_M) ** 2)
        terms["record"] = record[None]
    return Search(grid, prior_weights(grid, terms, PRESENT), terms)


def unseen_of(
    facts: Facts, search: Search, sights: Sequence[Sight], now: float, taken: Sequence[Candidate]
) -> Candidate | None:
    """One place for a look where nobody has looked: most chance left, away from all other places."""
    chance, _ = chances(thinned(search.grid, search.prior, sights, now), search.prior)
    column = chance.sum(axis=0)
    x, y = np.meshgrid(search.grid.frame.x, search.grid.frame.y)
    for one in taken:
        a, b = (float(v) for v in facts.chart.plane.to_xy(one.place.latitude, one.place.longitude))
        column = np.where(np.hypot(x - a, y - b) < _UNSEEN_OFF_M, 0.0, column)
    at = int(column.argmax())
    if not column.flat[at] > 0:
        return None
    row, col = divmod(at, column.shape[1])
    east, north = float(search.grid.frame.x[col]), float(search.grid.frame.y[row])
    bottom = float(search.grid.bottom_m[row, col])
    band = int(chance[:, row, col].argmax())
    middle = float(search.grid.edges_m[band : band + 2].mean())
    return Candidate(
        name="Unseen water",
        place=facts.chart.plane.place(east, north),
        bottom_m=bottom,
        fish_m=max(min(middle, bottom - _OFF_BOTTOM_M), 0.3),
        score=0.0,
        kind="unseen",
    )


def sun_of(place: Position) -> Callable[[float], float]:
    """Height of the sun over a place, by time."""
    from plumbbob.core.water.sun import sun_elevation_deg

    return lambda time: sun_elevation_deg(place, time)
