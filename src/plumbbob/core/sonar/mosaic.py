"""The view to the side laid on the chart: every sample where it looked, level and pattern evened out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core import geodesy as geo
from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.geodesy import Plane
from plumbbob.core.sonar.blocks import read_block
from plumbbob.core.sonar.recording import SIDES, Recording, Side, transducer_at
from plumbbob.core.types import Floats

_SAMPLE_PINGS, _SMOOTH_M = 400, 1.0
_TURN_DPS = 5.0  # beyond, pings fan out and overlap (docs/handbook.md 1.8)
_MOST_CELLS = 6_000_000


@dataclass(frozen=True, slots=True, eq=False)
class Mosaic:
    """Levels over the usual one on a frame of the chart's plane, decibels; NaN where nothing looked."""

    name: str  # of the recording
    frame: CellGrid
    level_db: NDArray[np.float32]


def usual_levels(side: Side, altitude_m: Floats) -> Floats:
    """
    The usual level of the bottom at each sample of slant range, decibels, shape (samples,).

    Notes
    -----
    Medians over pings of samples behind the first return, both sides together, smoothed; nearer ranges repeat the
    first known value, so the water column stays dark when a picture is evened out by it.
    """
    n = len(side)
    index = np.unique(np.linspace(0, n - 1, min(_SAMPLE_PINGS, n)).astype(np.intp)) if n else np.zeros(0, np.intp)
    if not index.size:
        return np.zeros(side.samples)
    step = float(np.median(side.range_step_m))
    rows = np.concatenate([_rows(side, which, index) for which in SIDES]).astype(np.float32)
    height = np.tile(altitude_m[index] if altitude_m.size == n else np.full(index.size, np.nan), 2)
    start = np.nan_to_num((height - side.range_start_m[0]) / step, nan=0.0) + 4
    seen = np.arange(side.samples)[None, :] > start[:, None]
    values = np.where(seen, rows, np.nan)
    count = np.isfinite(values).sum(axis=0)
    known = count >= max(8, rows.shape[0] // 20)
    if not known.any():
        return np.full(side.samples, float(np.median(rows)) * side.scale_db + side.offset_db)
    middle = np.full(side.samples, np.nan)
    middle[known] = np.nanmedian(values[:, known], axis=0)
    at = np.arange(side.samples)
    filled = np.interp(at, at[known], middle[known])
    smooth = ndimage.uniform_filter1d(filled, max(int(_SMOOTH_M / step), 1), mode="nearest")
    return np.asarray(smooth * side.scale_db + side.offset_db)


def _rows(side: Side, which: str, index: NDArray[np.intp]) -> NDArray[np.uint8]:
    """Some pings of one side, ascending, read a run at a time."""
    echo = side.echo_of(which)
    out = np.empty((index.size, side.samples), np.uint8)
    for run in np.split(np.arange(index.size), np.flatnonzero(np.diff(index) > 64) + 1):
        low = int(index[run[0]])
        out[run] = echo.read(low, int(index[run[-1]]) + 1)[index[run] - low]
    return out


def make_mosaic(recording: Recording, altitude_m: Floats, plane: Plane, *, cell_m: float = 0.4) -> Mosaic | None:
    """
    Both swaths of a recording on a chart's plane; None without positions or a view to the side.

    Parameters
    ----------
    recording : Recording
    altitude_m : ndarray of shape (pings,)
        From `side.altitude`.
    plane : Plane
    cell_m : float
        Wider where the passes reach so far that a picture would need too many cells.

    Notes
    -----
    Ground range over a level bottom; antenna offset and heading applied. Where passes overlap the mean of their
    levels is shown; pings during quick turns are left out.
    """
    side = recording.side
    if side is None or not len(side):
        return None
    places = transducer_at(recording.track, side.mount, side.time)
    use = np.isfinite(places.latitude) & np.isfinite(places.heading_deg) & np.isfinite(altitude_m)
    if use.sum() < 8:
        return None
    use &= _turning(side.time, places.heading_deg) < _TURN_DPS
    x0, y0 = plane.to_xy(places.latitude, places.longitude)
    # away from the pole the grid's north and true north differ by less than this picture shows
    reach = side.reach_m
    west, south = float(np.nanmin(x0[use])) - reach, float(np.nanmin(y0[use])) - reach
    wide, high = float(np.nanmax(x0[use])) + reach - west, float(np.nanmax(y0[use])) + reach - south
    cell = max(cell_m, (wide * high / _MOST_CELLS) ** 0.5)
    frame = CellGrid(west, south, cell, int(wide / cell) + 1, int(high / cell) + 1)
    usual = usual_levels(side, altitude_m)
    grid_m = side.range_start_m[0] + float(np.median(side.range_step_m)) * np.arange(side.samples)
    total, count = np.zeros(frame.nx * frame.ny), np.zeros(frame.nx * frame.ny)
    for start in range(0, len(side), 512):
        pings = slice(start, min(start + 512, len(side)))
        for which in SIDES:
            block = read_block(side, pings.start, pings.stop, side.echo_of(which))
            every = max(int(cell / block.step_m / 1.5), 1)
            r = block.range_m[::every]
            level = block.raw[:, ::every] * np.float32(side.scale_db) + np.float32(side.offset_db)
            level -= np.interp(r, grid_m, usual).astype(np.float32)
            height = altitude_m[pings]
            inside = (r[None, :] > height[:, None]) & use[pings][:, None]
            ground = np.sqrt(np.maximum(r[None, :] ** 2 - height[:, None] ** 2, 0.0))
            across = ground if which == "starboard" else -ground
            east, north = geo.along_heading(places.heading_deg[pings][:, None], 0.0, across)
            cells, on = frame.cells((x0[pings][:, None] + east).ravel(), (y0[pings][:, None] + north).ravel())
            good = inside.ravel() & on
            total += np.bincount(cells[good], level.ravel()[good], minlength=total.size)
            count += np.bincount(cells[good], minlength=count.size)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.where(count > 0, total / count, np.nan).reshape(frame.ny, frame.nx)
    return Mosaic(recording.name, frame, _without_holes(mean).astype(np.float32))


def _turning(time: Floats, heading_deg: Floats) -> Floats:
    """Degrees a second by which the boat turns, over two seconds about each ping."""
    heading = np.unwrap(np.nan_to_num(heading_deg), period=360.0)
    before, after = np.interp(time - 1.0, time, heading), np.interp(time + 1.0, time, heading)
    return np.abs(after - before) / 2.0


def _without_holes(values: Floats) -> Floats:
    """Gaps between neighbouring pings filled with what lies around them."""
    known = np.isfinite(values)
    for _ in range(3):
        weight = ndimage.uniform_filter(known.astype(np.float64), 3)
        near = ndimage.uniform_filter(np.where(known, values, 0.0), 3)
        fill = ~known & (weight > 0.3)
        values = np.where(fill, near / np.maximum(weight, 1e-9), values)
        known |= fill
    return values
