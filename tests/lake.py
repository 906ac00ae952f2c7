"""Small made-up bottoms with known truth: as functions of place, as grids, as soundings along lines."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.geodesy import Plane

Floats = NDArray[np.float64]
PLANE = Plane(32624)
EAST, NORTH = 416_000.0, 4_894_000.0  # a corner in the demo's mid-ocean waters


def bell(x: Floats, y: Floats, at: tuple[float, float], width: float) -> Floats:
    return np.exp(-((x - at[0]) ** 2 + (y - at[1]) ** 2) / (2 * width**2))


def bowl(x: Floats, y: Floats) -> Floats:
    """A round lake of 800 m, 12 m deep, with a hump of 5 m and a hole of 4 m."""
    r = np.hypot(x - 400.0, y - 400.0)
    depth = 12.0 * (1.0 - (r / 400.0) ** 2)
    return depth - 5.0 * bell(x, y, (330.0, 430.0), 28.0) + 4.0 * bell(x, y, (520.0, 330.0), 26.0)


def grid_of(
    depth: Callable[[Floats, Floats], Floats],
    *,
    size_m: float = 800.0,
    cell_m: float = 5.0,
    known: Callable[[Floats, Floats], NDArray[np.bool_]] | None = None,
) -> Grid:
    """A grid that knows a bottom exactly; unknown where the depth is not positive, or where `known` says so."""
    n = int(size_m / cell_m)
    frame = CellGrid(EAST, NORTH, cell_m, n, n)
    x, y = np.meshgrid(frame.x - EAST, frame.y - NORTH)
    d = depth(x, y)
    seen = d > 0.3 if known is None else known(x, y)
    exact = np.where(seen, d, np.nan).astype(np.float32)
    ones = np.ones(frame.shape, np.float32)
    return Grid(
        frame=frame,
        depth_m=exact,
        sd_m=np.where(seen, 0.1, np.nan).astype(np.float32),
        count=ones,
        total=exact,
        surface_m=d.astype(np.float32),
        spacing_m=30.0,
        reach_m=27.0,
        noise=(0.05, 0.005),
        doubt=(0.05, 0.3, 0.005),
    )


def lines_over(
    depth: Callable[[Floats, Floats], Floats],
    *,
    size_m: float = 800.0,
    spacing_m: float = 40.0,
    step_m: float = 1.5,
    noise_m: float = 0.05,
    seed: int = 1,
) -> tuple[Floats, Floats, Floats]:
    """Eastings, northings and depths along lines from west to east and back, where there is water."""
    rng = np.random.default_rng(seed)
    xs, ys = [], []
    for k, y in enumerate(np.arange(spacing_m / 2, size_m, spacing_m)):
        x = np.arange(2.0, size_m - 2.0, step_m)
        xs.append(x if k % 2 == 0 else x[::-1])
        ys.append(np.full(x.size, y) + 2.0 * np.sin(x / 60.0 + k))
    x, y = np.concatenate(xs), np.concatenate(ys)
    d = depth(x, y)
    wet = d > 0.7
    return EAST + x[wet], NORTH + y[wet], d[wet] + rng.normal(0, noise_m, int(wet.sum()))


def as_soundings(x: Floats, y: Floats, depth: Floats, level_m: float = 0.0) -> Soundings:
    """The same as a file would hold them: degrees, and depths under the surface of that day."""
    latitude, longitude = PLANE.to_latlon(x, y)
    return Soundings(
        latitude=latitude,
        longitude=longitude,
        depth_m=depth + level_m,
        water_level_m=np.full(depth.size, level_m),
        time=1.7867e9 + np.arange(depth.size) * 1.0,
    )
