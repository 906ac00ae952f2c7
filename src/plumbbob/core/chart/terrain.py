"""The shape of a bottom: slope, curvature, what is narrow and deep or narrow and shallow, where water ends."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import Grid
from plumbbob.core.types import Floats, Mask


@dataclass(frozen=True, slots=True, eq=False)
class Terrain:
    """A bottom prepared for looking at its structure; shape (ny, nx) each, no NaN anywhere."""

    frame: CellGrid
    depth_m: Floats  # smoothed a little; beyond the edge of knowledge the nearest known depth
    known: Mask
    whole: Mask  # what is known and the unsounded patches inside it
    land: Mask  # outside what is known, on the shallow side
    slope_deg: Floats  # at a scale of some ten metres
    sd_m: Floats
    away_m: Floats  # to the nearest sounding


_MOST_CELLS = 320_000
_COARSEST_M = 20.0
_RIM_M = 45.0


def terrain_of(grid: Grid, *, finest_m: float = 6.0, smooth_m: float = 6.0) -> Terrain:
    """
    A grid's bottom on cells fine enough for structure and no finer.

    Parameters
    ----------
    grid : Grid
    finest_m : float
        Grids with smaller cells are halved, and such with more cells than structure needs.
    smooth_m : float
        Standard deviation of the smoothing, metres.
    """
    depth, sd, frame = grid.depth_m.astype(np.float64), grid.sd_m.astype(np.float64), grid.frame
    surface = grid.surface_m.astype(np.float64)
    away = ndimage.distance_transform_edt(grid.count == 0) * frame.cell_m
    while min(frame.shape) > 64 and (
        frame.cell_m * 2 <= finest_m * 1.5 or (depth.size > _MOST_CELLS and frame.cell_m * 2 <= _COARSEST_M)
    ):
        depth, sd, surface, away = (_halved(v) for v in (depth, sd, surface, away))
        frame = _half_frame(frame)
    known = np.isfinite(depth)
    if not known.any():
        raise ValueError("the grid knows no depth")
    rows, columns = ndimage.distance_transform_edt(~known, return_distances=False, return_indices=True)
    filled = depth[rows, columns]
    whole = ndimage.binary_fill_holes(known)
    inside = whole & ~known
    filled[inside] = np.clip(surface[inside], depth[known].min(), depth[known].max())
    smooth = ndimage.gaussian_filter(filled, smooth_m / frame.cell_m)
    shallow = _shallow(depth[known])
    land = _land(whole, surface, filled, shallow, frame.cell_m)
    slope, spread = slope_deg(smooth, frame.cell_m, 8.0), np.where(known, sd, 1.0)
    return Terrain(frame, smooth, known, whole, land, slope, spread, away)


def _land(whole: Mask, surface: Floats, filled: Floats, shallow: float, cell_m: float) -> Mask:
    """Outside what is known, the side on which the bottom climbs out of the water; the rest is only not sounded."""
    away = ndimage.distance_transform_edt(~whole) * cell_m
    climbs = ~whole & (away <= _RIM_M) & ((surface < 0.5) | (filled < shallow))
    rim = ~whole & (away <= _RIM_M) & (away > 0.6 * _RIM_M)
    if not rim.any():
        return climbs
    rows, columns = ndimage.distance_transform_edt(~rim, return_distances=False, return_indices=True)
    return np.where(away > 0.6 * _RIM_M, ~whole & climbs[rows, columns], climbs)


def land_of(grid: Grid) -> Mask:
    """Cells outside what is known on the side where the bottom climbs out of the water, on the grid's own frame."""
    depth = grid.depth_m.astype(np.float64)
    known = np.isfinite(depth)
    rows, columns = ndimage.distance_transform_edt(~known, return_distances=False, return_indices=True)
    shallow = _shallow(depth[known])
    whole = ndimage.binary_fill_holes(known)
    return _land(whole, grid.surface_m.astype(np.float64), depth[rows, columns], shallow, grid.frame.cell_m)


def _shallow(depth: Floats) -> float:
    """What counts as close to the shore where knowledge ends."""
    return max(1.5, 0.12 * float(np.percentile(depth, 90)))


def _halved(field: Floats) -> Floats:
    ny, nx = field.shape[0] // 2 * 2, field.shape[1] // 2 * 2
    four = field[:ny, :nx].reshape(ny // 2, 2, nx // 2, 2).transpose(0, 2, 1, 3).reshape(ny // 2, nx // 2, 4)
    count = np.isfinite(four).sum(axis=2)
    total = np.nansum(four, axis=2)
    return np.where(count >= 2, total / np.maximum(count, 1), np.nan)


def _half_frame(frame: CellGrid) -> CellGrid:
    return CellGrid(frame.x0_m, frame.y0_m, 2 * frame.cell_m, frame.nx // 2, frame.ny // 2)


def slope_deg(depth: Floats, cell_m: float, scale_m: float) -> Floats:
    """
    Slope at a scale, degrees.

    Parameters
    ----------
    depth : ndarray (ny, nx)
    cell_m, scale_m : float
        Cell, and standard deviation of the smoothing.

    Examples
    --------
    >>> plane = np.tile(np.arange(40.0) * 0.1, (40, 1))
    >>> round(float(slope_deg(plane, 1.0, 2.0)[20, 20]), 3)
    5.711
    """
    smooth = ndimage.gaussian_filter(depth, scale_m / cell_m, mode="nearest", truncate=3.0)
    return np.degrees(np.arctan(np.hypot(*np.gradient(smooth, cell_m))))


def plan_curvature(depth: Floats, cell_m: float, scale_m: float) -> Floats:
    """
    Curvature of the depth contours at a scale, 1/m: positive on ridges and points, negative in inside turns.

    Notes
    -----
    Evans (1980), Wood (1996) on elevation e = -depth: -2 (b d^2 + a f^2 - c d f) / (d^2 + f^2)^1.5.

    Examples
    --------
    >>> y, x = np.mgrid[-30:31, -30:31].astype(float)
    >>> dome = 10.0 + (x**2 + y**2) / 200.0
    >>> round(float(plan_curvature(dome, 1.0, 1.0)[30, 40]), 2)
    0.1
    """
    e = -ndimage.gaussian_filter(depth, scale_m / cell_m, mode="nearest", truncate=3.0)
    q, p = np.gradient(e, cell_m)
    (qq, qp), (_, pp) = np.gradient(q, cell_m), np.gradient(p, cell_m)
    steep = p * p + q * q
    top = pp * q * q - 2 * qp * p * q + qq * p * p
    return np.where(steep > 1e-6, -top / np.maximum(steep, 1e-6) ** 1.5, 0.0)


def _diagonal(field: Floats, n: int, down: int, pick: np.ufunc) -> Floats:
    """Least or largest of n cells in a row along a diagonal, centred; the rim repeats."""
    pad = n // 2
    wide = np.pad(field, pad, mode="edge")
    out, have = wide.copy(), 1
    while have < n:
        add = min(have, n - have)
        # cell (r, c) takes in (r + add, c + add * down); beyond the padding nothing is asked
        a = np.s_[:-add, :-add] if down > 0 else np.s_[:-add, add:]
        b = np.s_[add:, add:] if down > 0 else np.s_[add:, :-add]
        merged = out.copy()
        merged[a] = pick(out[a], out[b])
        out, have = merged, have + add
    ny, nx = field.shape
    return out[:ny, :nx] if down > 0 else out[:ny, 2 * pad : 2 * pad + nx]


def _octagon(field: Floats, radius_cells: float, pick: np.ufunc) -> Floats:
    """Erosion or dilation with an eight-sided disc, as four lines one after the other."""
    straight = max(round(0.83 * radius_cells), 1) | 1
    slanted = max(round(0.59 * radius_cells), 1) | 1
    line = ndimage.minimum_filter1d if pick is np.minimum else ndimage.maximum_filter1d
    for axis in (0, 1):
        field = line(field, straight, axis=axis, mode="nearest")
    for down in (1, -1):
        field = _diagonal(field, slanted, down, pick)
    return field


def deepest_within(depth: Floats, radius_cells: float) -> Floats:
    """The deepest of a disc about each cell."""
    return _octagon(depth, radius_cells, np.maximum)


def narrow_deep(depth: Floats, radius_cells: float) -> Floats:
    """
    How much deeper than its surroundings a place lies, where the deep is narrower than a disc; 0 elsewhere.

    Notes
    -----
    White top-hat (Serra 1982): a plane slope gives nothing, a channel its depth under the lower of its banks.
    """
    opened = _octagon(_octagon(depth, radius_cells, np.minimum), radius_cells, np.maximum)
    return np.maximum(depth - opened, 0.0)


def narrow_shallow(depth: Floats, radius_cells: float) -> Floats:
    """How much a place rises over its surroundings, where the rise is narrower than a disc: humps, ridges, points."""
    closed = _octagon(_octagon(depth, radius_cells, np.maximum), radius_cells, np.minimum)
    return np.maximum(closed - depth, 0.0)


def disc(radius_cells: float) -> Mask:
    """A round neighbourhood."""
    n = math.ceil(radius_cells)
    y, x = np.mgrid[-n : n + 1, -n : n + 1]
    return x * x + y * y <= radius_cells**2
