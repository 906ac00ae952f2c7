"""From cleaned soundings to a grid of depths with an uncertainty at each cell, and new soundings into an old grid."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.crossings import Crossings, find_crossings, no_crossings
from plumbbob.core.chart.surface import Surface, finer_guide, guide_of, halved_mean
from plumbbob.core.types import Floats, Progress, Singles

_STIFFNESS_M2 = 4800.0  # times the soundings' own variance: how much bend the bottom may have
_CORRELATED_SD_M = 0.05  # what many soundings in one cell have in common: fix, heave, level
_LEAST_SD_M = 0.02
_SHARED = 6.0  # soundings beside a cell that its surface leans on
_USUAL_FIX_M = 1.2  # where the survey is too small to tell
_FIX_M = (0.8, 1.3)  # what a fix can be wrong by: held out tiles are too far off to say more
_USUAL_SPACING_M = 40.0
_MANY_CELLS, _CORRECTED_CELLS = 150_000, 90_000
_HELD_OUT = 0.2  # share of the survey kept back to see how far the surface can be trusted


@dataclass(frozen=True, slots=True, kw_only=True)
class GridSettings:
    """How a grid is made; None lets the soundings say."""

    cell_m: float | None = None
    most_cells: int = 4_000_000
    reach_m: float | None = None  # no depth further than this from a sounding


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Grid:
    """Depths at datum, positive down, on a frame; NaN where the soundings say nothing. Shape (ny, nx) each."""

    frame: CellGrid
    depth_m: Singles
    sd_m: Singles  # one standard deviation
    count: Singles  # soundings in each cell
    total: Singles  # sum of their depths
    surface_m: Singles  # the surface beyond the edge of knowledge too: to go on from, never to show
    spacing_m: float  # of the survey's lines
    reach_m: float
    noise: tuple[float, float]  # of one sounding: sqrt(a^2 + (b depth)^2)
    doubt: tuple[float, float, float]  # of the surface: sqrt((a slope)^2 + (b slope distance)^2 + (c distance)^2)
    crossings: Crossings = field(default_factory=no_crossings)  # of what is too narrow for cells

    @property
    def known(self) -> NDArray[np.bool_]:
        """Cells with a depth."""
        return np.isfinite(self.depth_m)


def line_spacing_m(x: Floats, y: Floats) -> float:
    """
    Distance between the lines of a survey: twice the usual distance of the middle between two lines.

    Examples
    --------
    >>> along, line = np.meshgrid(np.arange(0.0, 400.0, 2.0), np.arange(0.0, 400.0, 30.0))
    >>> abs(line_spacing_m(along.ravel(), line.ravel()) - 30.0) < 5.0
    True
    """
    size = max(3.0, math.sqrt(max(float(np.ptp(x)) * float(np.ptp(y)), 1.0) / 1_000_000.0))
    frame = _frame_around(x, y, size, size)
    occupied = np.zeros(frame.shape, bool)
    occupied.flat[frame.cells(x, y)[0]] = True
    away = ndimage.distance_transform_edt(~occupied) * size
    ridge = (away >= ndimage.maximum_filter(away, 3)) & (away > 1.5 * size) & (away < 150.0)
    if ridge.sum() < 30:
        return _USUAL_SPACING_M
    return float(np.clip(2.0 * np.median(away[ridge]), 4.0 * size, 200.0))


def _frame_around(x: Floats, y: Floats, cell: float, margin: float) -> CellGrid:
    # corners on whole cells, so that grids of neighbouring surveys fall on each other
    west = math.floor((float(x.min()) - margin) / cell) * cell
    south = math.floor((float(y.min()) - margin) / cell) * cell
    nx = max(math.ceil((float(x.max()) + margin - west) / cell), 8)
    ny = max(math.ceil((float(y.max()) + margin - south) / cell), 8)
    return CellGrid(west, south, cell, nx, ny)


def sounding_noise(depth: Floats) -> tuple[float, float]:
    """
    Standard deviation of one sounding as (a, b) of sqrt(a^2 + (b depth)^2), from leaps between neighbours.

    Notes
    -----
    A sounding less the mean of its two neighbours has 1.5 times the variance; medians, so that ledges do not count.
    """
    from scipy.optimize import nnls  # slow to load, and only wanted here

    if depth.size < 50:
        return 0.1, 0.01
    leap = np.abs(depth[1:-1] - (depth[:-2] + depth[2:]) / 2)
    at = depth[1:-1]
    order = np.argsort(at)
    bins = np.array_split(order, 10)
    variance = np.array([(np.median(leap[b]) * 1.4826) ** 2 / 1.5 for b in bins])
    middle = np.array([np.median(at[b]) for b in bins])
    (a2, b2), _ = nnls(np.stack([np.ones(10), middle**2], axis=1), variance)
    return max(math.sqrt(a2), 0.02), math.sqrt(b2)


def make_grid(
    x: Floats,
    y: Floats,
    depth_m: Floats,
    settings: GridSettings | None = None,
    *,
    water: Callable[[CellGrid], NDArray[np.bool_]] | None = None,
    progress: Progress = lambda fraction: None,
) -> Grid:
    """
    Depths and their uncertainty on square cells.

    Parameters
    ----------
    x, y, depth_m : ndarray (n,)
        Cleaned soundings at datum on a plane, metres, in the order they were taken.
    settings : GridSettings, optional
    water : callable, optional
        Gives the cells inside the shoreline for a frame; the shore itself belongs among the soundings as depth 0.
    progress : callable
        Hears the share done; may raise to stop.

    Raises
    ------
    ValueError
        With fewer than three soundings, or a cell so small that the grid would not fit.

    Notes
    -----
    A thin plate finds the way structure runs, a guided plate follows it (`surface`). How wrong that can be is seen
    from parts of the survey that are held out: their error by distance to the nearest sounding and slope becomes the
    standard deviation of every cell.
    """
    settings = settings or GridSettings()
    if x.size < 3:
        raise ValueError("a grid needs at least three soundings")
    spacing = line_spacing_m(x, y)
    reach = settings.reach_m or 0.9 * spacing
    step = float(np.median(np.hypot(np.diff(x), np.diff(y))))
    cell = settings.cell_m or max(spacing / 10.0, min(1.2 * step, spacing / 4.0), 1.0)
    if settings.cell_m is None:
        cell = max(cell, math.sqrt(float(np.ptp(x) + 2 * reach) * float(np.ptp(y) + 2 * reach) / 600_000.0))
    frame = _frame_around(x, y, cell, reach + 2 * cell)
    if frame.nx * frame.ny > settings.most_cells:
        raise ValueError(
            f"a cell of {cell:g} m makes {frame.nx} x {frame.ny} cells; choose {cell * 2:g} m or more, "
            "or look for stray positions"
        )
    which, _ = frame.cells(x, y)
    count = np.bincount(which, minlength=frame.nx * frame.ny).reshape(frame.shape).astype(np.float32)
    total = np.bincount(which, depth_m, minlength=frame.nx * frame.ny).reshape(frame.shape).astype(np.float32)
    noise = sounding_noise(depth_m)
    progress(0.05)
    mean, weight = _means(count, total, noise)
    stiffness = _STIFFNESS_M2 / cell**2
    plain = _plain_surface(mean, weight, stiffness)
    progress(0.25)
    guide = finer_guide(guide_of(plain, 2 * cell, 0.8 * spacing), mean.shape)
    surface = Surface(weight, stiffness, guide).solve(
        mean, most=3, progress=lambda part: progress(0.25 + 0.55 * part)
    )
    progress(0.85)
    known, away = _knowledge(frame, count, spacing, reach)
    if water is not None:
        known &= water(frame)
    known &= ~((surface < min(float(depth_m.min()), 0.0)) & (away > 1.5 * cell))
    doubt = _doubt(frame, mean, weight, plain, stiffness, spacing)
    sd = _spread(frame, surface, (mean, count), away, noise, doubt, spacing)
    progress(1.0)
    return Grid(
        frame=frame,
        depth_m=np.where(known, surface, np.nan).astype(np.float32),
        sd_m=np.where(known, sd, np.nan).astype(np.float32),
        count=count,
        total=total,
        surface_m=surface.astype(np.float32),
        spacing_m=spacing,
        reach_m=reach,
        noise=noise,
        doubt=doubt,
        crossings=find_crossings(x, y, depth_m),
    )


def _means(count: Singles, total: Singles, noise: tuple[float, float]) -> tuple[Floats, Floats]:
    """Mean depth of each cell and the weight it deserves: one over its variance."""
    n = np.maximum(count, 1.0)
    mean = total / n
    variance = (noise[0] ** 2 + (noise[1] * mean) ** 2) / n + _CORRELATED_SD_M**2
    return mean.astype(np.float64), np.where(count > 0, 1.0 / variance, 0.0)


def _plain_surface(mean: Floats, weight: Floats, stiffness: float) -> Floats:
    """The unguided plate, on cells of twice the size: enough to see which way structure runs."""
    coarse_mean, coarse_weight = halved_mean(mean, weight)
    return Surface(coarse_weight, stiffness / 4.0).solve(coarse_mean)


def _knowledge(frame: CellGrid, count: Singles, spacing: float, reach: float) -> tuple[NDArray[np.bool_], Floats]:
    """Cells about which the soundings say something, and each cell's distance to the nearest sounded one."""
    away = ndimage.distance_transform_edt(count == 0) * frame.cell_m
    # between lines as far as reach; outwards only half as far
    near = away <= reach
    between = ndimage.distance_transform_edt(near) * frame.cell_m > reach
    return between | (away <= 0.6 * min(spacing, reach / 0.9)), away


def _slope(surface: Floats, cell: float, over_m: float) -> Floats:
    smooth = ndimage.gaussian_filter(surface, over_m / cell, truncate=2.0)
    return np.hypot(*np.gradient(smooth, cell))


def _doubt(
    frame: CellGrid, mean: Floats, weight: Floats, plain: Floats, stiffness: float, spacing: float
) -> tuple[float, float, float]:
    """How the surface's error grows with slope, both and distance, from tiles of the survey held out."""
    from scipy.optimize import nnls

    cell = frame.cell_m
    halvings = 0
    while halvings < 1 or (cell < spacing / 4 and mean.size > 20_000):
        mean, weight = halved_mean(mean, weight)
        cell, halvings = 2 * cell, halvings + 1
    tile = max(int(1.3 * spacing / cell), 2)
    rng = np.random.default_rng(2)
    ny, nx = mean.shape
    tiles = rng.random((ny // tile + 1, nx // tile + 1)) < _HELD_OUT
    out = tiles.repeat(tile, axis=0).repeat(tile, axis=1)[:ny, :nx] & (weight > 0)
    left = (weight > 0) & ~out
    if out.sum() < 60 or left.sum() < 60:
        return _USUAL_FIX_M, 0.4, 0.01
    guess = Surface(np.where(left, weight, 0.0), stiffness / 4.0**halvings).solve(mean)
    away = ndimage.distance_transform_edt(~left)[out] * cell
    error = (guess - mean)[out]
    step = 2 ** (halvings - 1)  # the plain surface is one halving coarser than the grid
    coarse = np.pad(
        plain, ((0, max(ny * step - plain.shape[0], 0)), (0, max(nx * step - plain.shape[1], 0))), mode="edge"
    )
    coarse = coarse[step // 2 :: step, step // 2 :: step][:ny, :nx]
    slope = _slope(coarse, cell, spacing / 4)[out]
    inside = away <= 1.2 * spacing
    error, away, slope = error[inside], away[inside], slope[inside]
    if error.size < 60:
        return _USUAL_FIX_M, 0.4, 0.01
    square = np.minimum(error**2, np.percentile(error**2, 99.0))
    bins = [
        b for half in np.array_split(np.argsort(away), 4) for b in np.array_split(half[np.argsort(slope[half])], 8)
    ]
    table = np.array(
        [[1.0, (slope[b] ** 2).mean(), ((slope[b] * away[b]) ** 2).mean(), (away[b] ** 2).mean()] for b in bins]
    )
    wanted = np.array([square[b].mean() for b in bins])
    size = 1.0 / np.maximum(wanted, 1e-6)
    found, _ = nnls(table * size[:, None], wanted * size)
    # what does not grow with anything is the held out soundings' own noise; and their fixes are as wrong as those
    # beside them, so that half of what grows with the slope is theirs
    return float(np.clip(np.sqrt(found[1] / 2), *_FIX_M)), float(np.sqrt(found[2])), float(np.sqrt(found[3]))


def _spread(
    frame: CellGrid,
    surface: Floats,
    sounded: tuple[Floats, Singles],
    away: Floats,
    noise: tuple[float, float],
    doubt: tuple[float, float, float],
    spacing: float,
) -> Floats:
    mean, count = sounded
    slope = _slope(surface, frame.cell_m, spacing / 8)
    own = (noise[0] ** 2 + (noise[1] * surface) ** 2) / (np.maximum(count, 1.0) + _SHARED) + _LEAST_SD_M**2
    own += _misfit(mean, count, surface, noise, 0.4 * spacing / frame.cell_m)
    return np.sqrt(own + (doubt[0] * slope) ** 2 + (doubt[1] * slope * away) ** 2 + (doubt[2] * away) ** 2)


def _misfit(mean: Floats, count: Singles, surface: Floats, noise: tuple[float, float], reach: float) -> Floats:
    """How far soundings nearby lie off the surface beyond their noise, squared: banks, stones, edges."""
    seen = (count > 0).astype(np.float64)
    expected = (noise[0] ** 2 + (noise[1] * surface) ** 2) / np.maximum(count, 1.0)
    off = seen * np.maximum((mean - surface) ** 2 - 4.0 * expected, 0.0)
    near = ndimage.gaussian_filter(seen, reach, truncate=2.5)
    return np.asarray(ndimage.gaussian_filter(off, reach, truncate=2.5) / np.maximum(near, 1e-3))


def merge(grid: Grid, x: Floats, y: Floats, depth_m: Floats) -> Grid:
    """
    A grid with new soundings in it, solved anew only around them.

    Parameters
    ----------
    grid : Grid
    x, y, depth_m : ndarray (n,)
        Cleaned soundings on the grid's plane, at datum.

    Returns
    -------
    Grid
        On a larger frame where the soundings need one.
    """
    if not x.size:
        return grid
    grid = _with_room(grid, x, y)
    frame = grid.frame
    which, _ = frame.cells(x, y)
    added = np.bincount(which, minlength=frame.nx * frame.ny).reshape(frame.shape).astype(np.float32)
    count = grid.count + added
    total = grid.total + np.bincount(which, depth_m, minlength=frame.nx * frame.ny).reshape(frame.shape).astype(
        np.float32
    )
    margin = max(int(1.5 * grid.spacing_m / frame.cell_m), 6)
    touched = _boxes(added > 0, margin)
    everywhere = sum((r.stop - r.start) * (c.stop - c.start) for r, c in touched) > 0.4 * count.size
    if everywhere:
        touched = [(slice(0, frame.ny), slice(0, frame.nx))]
    surface = grid.surface_m.copy()
    depth, sd = grid.depth_m.copy(), grid.sd_m.copy()
    for box in touched:
        if everywhere and count.size > _MANY_CELLS:
            _correct_all(grid, count, total, surface, depth, sd)
        else:
            _solve_box(grid, box, count, total, surface, depth, sd)
    crossings = grid.crossings.with_more(find_crossings(x, y, depth_m))
    return replace(grid, count=count, total=total, surface_m=surface, depth_m=depth, sd_m=sd, crossings=crossings)


def _with_room(grid: Grid, x: Floats, y: Floats) -> Grid:
    frame = grid.frame
    row, column = frame.row_column(x, y)
    margin = grid.reach_m / frame.cell_m + 2
    south = max(0, math.ceil(margin - float(row.min())))
    west = max(0, math.ceil(margin - float(column.min())))
    north = max(0, math.ceil(float(row.max()) + margin - (frame.ny - 1)))
    east = max(0, math.ceil(float(column.max()) + margin - (frame.nx - 1)))
    if not (south or west or north or east):
        return grid
    larger = CellGrid(
        frame.x0_m - west * frame.cell_m,
        frame.y0_m - south * frame.cell_m,
        frame.cell_m,
        frame.nx + west + east,
        frame.ny + south + north,
    )
    if larger.nx * larger.ny > 8_000_000:
        raise ValueError("the new soundings lie too far from the chart to be one with it")
    pad = ((south, north), (west, east))
    return replace(
        grid,
        frame=larger,
        depth_m=np.pad(grid.depth_m, pad, constant_values=np.nan),
        sd_m=np.pad(grid.sd_m, pad, constant_values=np.nan),
        count=np.pad(grid.count, pad),
        total=np.pad(grid.total, pad),
        surface_m=np.pad(grid.surface_m, pad, mode="edge"),
    )


def _boxes(new: NDArray[np.bool_], margin: int) -> list[tuple[slice, slice]]:
    """Boxes of cells around groups of new soundings, with room about them."""
    step = max(margin, 1)
    ny, nx = new.shape
    coarse = np.zeros((ny // step + 1, nx // step + 1), bool)
    rows, columns = np.nonzero(new)
    coarse[rows // step, columns // step] = True
    groups, _ = ndimage.label(coarse, structure=np.ones((3, 3)))
    out = []
    for found in ndimage.find_objects(groups):
        r, c = found
        out.append(
            (
                slice(max((r.start - 1) * step, 0), min((r.stop + 1) * step, ny)),
                slice(max((c.start - 1) * step, 0), min((c.stop + 1) * step, nx)),
            )
        )
    return out


def _correct_all(grid: Grid, count: Singles, total: Singles, surface: Singles, depth: Singles, sd: Singles) -> None:
    """
    Bend the whole surface, in place, by what new soundings all over it say.

    What they change is smooth at the scale of some cells: it is solved on coarser ones, where what was known before
    holds it at nothing.
    """
    frame = grid.frame
    mean, weight = _means(count, total, grid.noise)
    added = count - grid.count
    # of a cell with old soundings and new ones only the new ones' share is news
    news = np.where(
        added > 0, mean - np.where(grid.count > 0, grid.total / np.maximum(grid.count, 1.0), surface), 0.0
    )
    change, at, stiffness, halvings = news, weight, _STIFFNESS_M2 / frame.cell_m**2, 0
    while change.size > _CORRECTED_CELLS:
        change, at = halved_mean(change, at)
        stiffness, halvings = stiffness / 4.0, halvings + 1
    bend = Surface(at, stiffness).solve(change, most=4)
    for _ in range(halvings):
        bend = np.repeat(np.repeat(bend, 2, axis=0), 2, axis=1)
    bend = ndimage.uniform_filter(bend[: frame.ny, : frame.nx], 2**halvings, mode="nearest")
    surface += bend.astype(np.float32)
    known, away = _knowledge(frame, count, grid.spacing_m, grid.reach_m)
    known |= np.isfinite(depth)
    spread = _spread(frame, surface.astype(np.float64), (mean, count), away, grid.noise, grid.doubt, grid.spacing_m)
    depth[:] = np.where(known, surface, np.nan)
    sd[:] = np.where(known, spread, np.nan)


def _solve_box(
    grid: Grid,
    box: tuple[slice, slice],
    count: Singles,
    total: Singles,
    surface: Singles,
    depth: Singles,
    sd: Singles,
) -> None:
    """Solve one box in place; its rim is held where the old surface had it."""
    frame = grid.frame
    mean, weight = _means(count[box], total[box], grid.noise)
    old = surface[box].astype(np.float64)
    was_known = np.isfinite(depth[box])
    rim = np.ones(mean.shape, bool)
    rim[2:-2, 2:-2] = False
    held = rim & was_known & (weight == 0)
    mean[held], weight[held] = old[held], 1.0 / _CORRELATED_SD_M**2
    stiffness = _STIFFNESS_M2 / frame.cell_m**2
    if was_known.mean() > 0.6:
        guide = guide_of(old, frame.cell_m, 0.8 * grid.spacing_m)  # what is there already knows the way
    else:
        plain = _plain_surface(mean, weight, stiffness)
        guide = finer_guide(guide_of(plain, 2 * frame.cell_m, 0.8 * grid.spacing_m), mean.shape)
    fresh = Surface(weight, stiffness, guide).solve(mean, most=4)
    known, away = _knowledge(frame, count[box], grid.spacing_m, grid.reach_m)
    known |= was_known
    fresh[rim & was_known] = old[rim & was_known]
    spread = _spread(frame, fresh, (mean, count[box]), away, grid.noise, grid.doubt, grid.spacing_m)
    surface[box] = fresh
    depth[box] = np.where(known, fresh, np.nan)
    sd[box] = np.where(known, np.where(rim & was_known, sd[box], spread), np.nan)
