"""A whole chart from soundings: cleaned, gridded, its structure found, its land and water told apart."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import Grid, GridSettings, make_grid, merge
from plumbbob.core.chart.soundings import CleanSettings, Fault, Soundings, clean
from plumbbob.core.chart.terrain import land_of
from plumbbob.core.chart.track_fit import fit_tracks
from plumbbob.core.geodesy import Plane
from plumbbob.core.sonar.reading import Reading
from plumbbob.core.sonar.recording import Recording, transducer_at
from plumbbob.core.types import Floats

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature

_PASS_STEP_M = 0.8


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Chart:
    """One water's bottom, and what lies on it."""

    plane: Plane
    grid: Grid
    land: NDArray[np.bool_]  # (ny, nx)
    features: tuple[Feature, ...]
    used: int
    left_out: Mapping[Fault, int]
    deepest_m: float  # at datum
    hazards: tuple[tuple[float, float], ...] = ()
    shore: tuple[Floats, ...] = field(default_factory=tuple)  # rings (n, 2) on the plane


def build_chart(
    parts: Sequence[Soundings],
    cleaning: CleanSettings | None = None,
    settings: GridSettings | None = None,
    *,
    shore: Sequence[Floats] = (),
    hazards: Sequence[tuple[float, float]] = (),
    structure: bool = True,
    progress: Callable[[float], None] = lambda fraction: None,
) -> Chart:
    """
    A chart from nothing but soundings.

    Parameters
    ----------
    parts : sequence of Soundings
        One for each file or pass: each is cleaned for itself, since the running medians follow its order.
    cleaning, settings
        How to clean and to grid.
    shore : sequence of ndarray (n, 2)
        Closed rings of latitude and longitude; the water is inside.
    hazards : sequence of (latitude, longitude)
    structure : bool
        Also look for structure; else that is left to `with_structure`.
    progress : callable

    Raises
    ------
    ValueError
        In one line, if there is too little to make a chart of.
    """
    plane: Plane | None = None
    xs, ys, ds, ts = [], [], [], []
    counts: dict[Fault, int] = {}
    parts = [p for p in parts if len(p)]
    if not parts:
        raise ValueError("there are no soundings yet")
    # the largest part says where the water is
    for i, part in enumerate(sorted(parts, key=lambda p: -len(p))):
        cleaned = clean(part, cleaning, plane)
        plane = cleaned.plane
        kept = cleaned.kept
        xs.append(cleaned.x[kept])
        ys.append(cleaned.y[kept])
        ds.append(cleaned.depth_m[kept])
        ts.append(part.time[kept])
        for fault, number in cleaned.counts().items():
            counts[fault] = counts.get(fault, 0) + number
        progress(0.25 * (i + 1) / len(parts))
    assert plane is not None
    d = np.concatenate(ds)
    x, y = fit_tracks(np.concatenate(xs), np.concatenate(ys), d, np.concatenate(ts))
    rings = [np.stack(plane.to_xy(r[:, 0], r[:, 1]), axis=1) for r in shore if len(r) >= 4]
    on_shore = [_densified(r) for r in rings]
    count = x.size
    if on_shore:
        edge = np.concatenate(on_shore)
        x, y = np.concatenate([x, edge[:, 0]]), np.concatenate([y, edge[:, 1]])
        d = np.concatenate([d, np.zeros(len(edge))])
    water = _inside(rings) if rings else None
    grid = make_grid(x, y, d, settings, water=water, progress=lambda f: progress(0.25 + 0.6 * f))
    chart = chart_of_grid(plane, grid, int(count), counts, shore=shore, hazards=hazards)
    return with_structure(chart, progress=lambda f: progress(0.85 + 0.15 * f)) if structure else chart


def chart_of_grid(
    plane: Plane,
    grid: Grid,
    used: int,
    left_out: Mapping[Fault, int],
    *,
    shore: Sequence[Floats] = (),
    hazards: Sequence[tuple[float, float]] = (),
    land: NDArray[np.bool_] | None = None,
) -> Chart:
    """A chart around a finished grid, its structure not looked for yet; land is worked out where it is not given."""
    rings = [np.stack(plane.to_xy(r[:, 0], r[:, 1]), axis=1) for r in shore if len(r) >= 4]
    if land is None:
        land = land_of(grid)
        if rings:
            land |= ~_inside(rings)(grid.frame)
    spots = [plane.to_xy(a, b) for a, b in hazards]
    return Chart(
        plane=plane,
        grid=grid,
        land=land,
        features=(),
        used=used,
        left_out=left_out,
        deepest_m=float(np.nanmax(grid.depth_m)),
        hazards=tuple((float(a), float(b)) for a, b in spots),
        shore=tuple(rings),
    )


def with_structure(chart: Chart, *, progress: Callable[[float], None] = lambda fraction: None) -> Chart:
    """The chart with its structure found."""
    from plumbbob.core.chart.structure import find_structure  # slow to load: a kept grid shows before it

    return replace(chart, features=find_structure(chart.grid, progress=progress))


def with_soundings(chart: Chart, part: Soundings, cleaning: CleanSettings | None = None) -> Chart:
    """The chart with some more soundings in it, without starting over; structure is looked for again."""
    cleaned = clean(part, cleaning, chart.plane)
    kept = cleaned.kept
    grid = merge(chart.grid, cleaned.x[kept], cleaned.y[kept], cleaned.depth_m[kept])
    counts = dict(chart.left_out)
    for fault, number in cleaned.counts().items():
        counts[fault] = counts.get(fault, 0) + number
    larger = replace(
        chart,
        grid=grid,
        land=land_of(grid),
        used=chart.used + int(kept.sum()),
        left_out=counts,
        deepest_m=float(np.nanmax(grid.depth_m)),
    )
    return with_structure(larger)


def _densified(ring: Floats, step_m: float = 6.0) -> Floats:
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    at = np.arange(0.0, along[-1], step_m)
    return np.stack([np.interp(at, along, ring[:, i]) for i in (0, 1)], axis=1)


def _inside(rings: Sequence[Floats]) -> Callable[[CellGrid], NDArray[np.bool_]]:
    def water(frame: CellGrid) -> NDArray[np.bool_]:
        import shapely

        x, y = np.meshgrid(frame.x, frame.y)
        # an isle is a ring inside a ring: every crossing changes sides
        inside = np.zeros(frame.shape, bool)
        for ring in rings:
            area = shapely.Polygon(ring)
            if not area.is_valid:
                area = shapely.make_valid(area)
            shapely.prepare(area)
            inside ^= shapely.contains_xy(area, x.ravel(), y.ravel()).reshape(frame.shape)
        return inside

    return water


def pass_soundings(recording: Recording, reading: Reading, level_m: float) -> Soundings:
    """
    The followed bottom of a recording as soundings: one every 0.8 m or so, none where it was lost.

    Parameters
    ----------
    recording : Recording
    reading : Reading
    level_m : float
        Level of the water over the chart's datum when it was recorded.
    """
    down = recording.down
    empty = np.zeros(0)
    nothing = Soundings(latitude=empty, longitude=empty, depth_m=empty, water_level_m=empty, time=empty)
    if down is None or not reading.bottom.time.size:
        return nothing
    places = transducer_at(recording.track, down.mount, reading.bottom.time)
    good = np.isfinite(reading.bottom.depth_m) & np.isfinite(places.latitude)
    if good.sum() < 3:
        return nothing
    speed = np.nan_to_num(places.speed_mps, nan=1.0)
    along = np.cumsum(np.maximum(speed, 0.05) * np.gradient(reading.bottom.time))
    step = np.floor(along / _PASS_STEP_M)
    first = np.concatenate([[True], np.diff(step) > 0]) & good
    return Soundings(
        latitude=places.latitude[first],
        longitude=places.longitude[first],
        depth_m=reading.bottom.depth_m[first],
        water_level_m=np.full(int(first.sum()), level_m),
        time=reading.bottom.time[first],
    )
