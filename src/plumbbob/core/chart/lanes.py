"""Lanes: a line that a boat can follow along a depth, clear of the shore and of what it should keep away from."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.contours import contours
from plumbbob.core.types import Floats

_STEP_M = 3.0
_NEAR_SHORE_M = 60.0
_BEARING_DEG, _DOWN_WIND = 7.5, 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class LaneSettings:
    """How a boat follows a depth."""

    depth_m: float  # at datum
    turn_m: float = 15.0  # least radius
    shore_m: float = 25.0  # kept from land
    hazard_m: float = 30.0  # kept from hazards and from anglers on the bank
    longest_m: float = 1500.0


@dataclass(frozen=True, slots=True, eq=False)
class Lane:
    """One lane; shape (n, 2) and (n,) each."""

    line: Floats  # eastings and northings
    along_m: Floats
    depth_m: Floats  # at datum; NaN where unknown
    sd_m: Floats
    close_to_shore: bool

    @property
    def length_m(self) -> float:
        """From end to end."""
        return float(self.along_m[-1])


def lane_along(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    sd_m: NDArray[np.float32],
    land: NDArray[np.bool_],
    near: tuple[float, float],
    settings: LaneSettings,
    hazards: Sequence[tuple[float, float]] = (),
) -> Lane | None:
    """
    A lane along a depth past a place.

    Parameters
    ----------
    frame : CellGrid
    depth_m, sd_m : ndarray (ny, nx)
        At datum, NaN where unknown.
    land : ndarray of bool (ny, nx)
    near : (float, float)
        Easting and northing that the lane should pass closest.
    settings : LaneSettings
    hazards : sequence of (float, float)
        Places to keep away from.

    Returns
    -------
    Lane or None
        None where no such depth runs near, or only for a few metres.

    Notes
    -----
    The contour is evened out where it turns more tightly than the boat can, until nowhere it does.
    """
    free, away = _free_water(frame, depth_m, land, settings, hazards)
    (found,) = contours(frame, depth_m, [settings.depth_m])
    best: tuple[float, Floats] | None = None
    for line in found.lines:
        even = _even(line)
        smooth = _turnable(even, settings.turn_m)
        for run in _free_runs(frame, free, smooth):
            gap = float(np.hypot(run[:, 0] - near[0], run[:, 1] - near[1]).min())
            score = gap - 0.2 * min(_length(run), settings.longest_m)
            if _length(run) >= 4 * settings.turn_m and (best is None or score < best[0]):
                best = (score, run)
    if best is None:
        return None
    return _as_lane(frame, depth_m, sd_m, away, _about(best[1], near, settings.longest_m))


def lane_through(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    sd_m: NDArray[np.float32],
    land: NDArray[np.bool_],
    through: tuple[float, float],
    settings: LaneSettings,
    hazards: Sequence[tuple[float, float]] = (),
    *,
    wind_to_deg: float | None = None,
) -> Lane | None:
    """
    A straight lane through a place over open water, where the bottom stays under a depth.

    Parameters
    ----------
    frame, depth_m, sd_m, land, hazards
        As for `lane_along`.
    through : (float, float)
        Easting and northing of the place.
    settings : LaneSettings
        `depth_m` is the least depth of bottom that fish and line need.
    wind_to_deg : float, optional
        Where the wind goes to: down it speed and course are held with ease, so it is preferred.

    Returns
    -------
    Lane or None
        The longest of all bearings, in the wind's sense; None where even that is too short to turn at.
    """
    free, away = _free_water(frame, depth_m, land, settings, hazards)
    free &= np.nan_to_num(depth_m) >= settings.depth_m
    half = settings.longest_m / 2
    steps = np.arange(-half, half + _STEP_M, _STEP_M)
    best: tuple[float, Floats] | None = None
    for bearing in np.arange(0.0, 360.0, _BEARING_DEG):
        u = np.array([math.sin(math.radians(bearing)), math.cos(math.radians(bearing))])
        ray = np.array(through) + steps[:, None] * u
        runs = [r for r in _free_runs(frame, free, ray) if np.hypot(*(r - np.array(through)).T).min() <= _STEP_M]
        if not runs:
            continue
        with_wind = 0.0 if wind_to_deg is None else math.cos(math.radians(bearing - wind_to_deg))
        score = _length(runs[0]) * (1.0 + _DOWN_WIND * with_wind)
        if best is None or score > best[0] + 1e-6:
            best = (score, runs[0])
    if best is None or _length(best[1]) < 8 * settings.turn_m:
        return None
    return _as_lane(frame, depth_m, sd_m, away, best[1])


def _free_water(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    land: NDArray[np.bool_],
    settings: LaneSettings,
    hazards: Sequence[tuple[float, float]],
) -> tuple[NDArray[np.bool_], Floats]:
    """Where a boat may go, and how far land is."""
    from scipy import ndimage  # slow to load, and only wanted here

    free = np.isfinite(depth_m)
    away = ndimage.distance_transform_edt(~land) * frame.cell_m if land.any() else np.full(frame.shape, np.inf)
    free &= away >= settings.shore_m
    for x, y in hazards:
        gx, gy = np.meshgrid(frame.x - x, frame.y - y)
        free &= np.hypot(gx, gy) >= settings.hazard_m
    return free, away


def _as_lane(
    frame: CellGrid, depth_m: NDArray[np.float32], sd_m: NDArray[np.float32], away: Floats, line: Floats
) -> Lane:
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    close = bool(np.nanmin(frame.sample(np.minimum(away, 1e6), line[:, 0], line[:, 1])) < _NEAR_SHORE_M)
    return Lane(
        line=line,
        along_m=along,
        depth_m=frame.sample(depth_m, line[:, 0], line[:, 1]),
        sd_m=frame.sample(sd_m, line[:, 0], line[:, 1]),
        close_to_shore=close,
    )


def _length(line: Floats) -> float:
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def _even(line: Floats) -> Floats:
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.linspace(0.0, along[-1], max(int(along[-1] / _STEP_M), 2))
    return np.stack([np.interp(at, along, line[:, i]) for i in (0, 1)], axis=1)


def curvature(line: Floats) -> Floats:
    """Curvature of an evenly spaced line at each point, 1/m; 0 at its ends."""
    if len(line) < 5:
        return np.zeros(len(line))
    d1 = (line[4:] - line[:-4]) / 4
    d2 = (line[4:] - 2 * line[2:-2] + line[:-4]) / 4
    speed = np.maximum(np.hypot(d1[:, 0], d1[:, 1]), 1e-9)
    out = np.zeros(len(line))
    out[2:-2] = np.abs(d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0]) / speed**3
    return out


def _turnable(line: Floats, radius_m: float) -> Floats:
    """Evened out, only where it must be."""
    from scipy import ndimage

    line = line.copy()
    closed = bool(np.hypot(*(line[0] - line[-1])) < 2 * _STEP_M)
    for _ in range(300):
        tight = curvature(line) > 1.0 / radius_m
        if not tight.any():
            break
        soft = ndimage.binary_dilation(tight, iterations=max(round(radius_m / _STEP_M), 2))
        soft[[0, -1]] = False
        mean = ndimage.gaussian_filter1d(line, 2.0, axis=0, mode="wrap" if closed else "nearest")
        line[soft] = mean[soft]
    return _even(line)


def _free_runs(frame: CellGrid, free: NDArray[np.bool_], line: Floats) -> list[Floats]:
    cell, inside = frame.cells(line[:, 0], line[:, 1])
    good = inside & free.ravel()[cell]
    edges = np.flatnonzero(np.diff(np.concatenate([[0], good.astype(np.int8), [0]])))
    return [line[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a >= 3]


def _about(line: Floats, near: tuple[float, float], longest_m: float) -> Floats:
    most = max(int(longest_m / _STEP_M), 3)
    if len(line) <= most:
        return line
    i = int(np.hypot(line[:, 0] - near[0], line[:, 1] - near[1]).argmin())
    first = min(max(i - most // 2, 0), len(line) - most)
    return line[first : first + most]


@dataclass(frozen=True, slots=True, eq=False)
class HolePlan:
    """Holes through the ice, in the order of walking."""

    places: Floats  # (n, 2) eastings and northings
    spacing_m: float
    footprint_m: float  # width that one hole shows at the depth of interest
    walk_m: float


def hole_plan(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    start: tuple[float, float],
    *,
    of_interest_m: float,
    beam_width_deg: float,
    holes: int = 19,
    shallowest_m: float = 1.5,
) -> HolePlan:
    """
    Holes from a place outwards, as far apart as the sounder's cone sees at the depth of interest.

    Parameters
    ----------
    frame, depth_m
        The chart, depths under today's surface.
    start : (float, float)
        Easting and northing: the deepest water, or a structure.
    of_interest_m : float
        Depth at which fish are expected.
    beam_width_deg : float
        Full width of the cone.
    holes : int
        At most so many.
    shallowest_m : float
        No hole over less water.

    Notes
    -----
    A honeycomb of circles that just overlap has its middles 0.87 widths apart. The walk goes ring by ring, and is
    then straightened by turning stretches of it round while that makes it shorter (2-opt).
    """
    width = 2.0 * of_interest_m * math.tan(math.radians(beam_width_deg / 2))
    spacing = max(0.87 * width, 2.0)
    rings = math.ceil(math.sqrt(holes / 3.0)) + 4
    spots = []
    for q in range(-rings, rings + 1):
        for r in range(-rings, rings + 1):
            x, y = spacing * (q + r / 2), spacing * r * math.sqrt(3) / 2
            ring = (abs(q) + abs(r) + abs(q + r)) // 2
            if ring <= rings:
                spots.append((ring, math.atan2(y, x), start[0] + x, start[1] + y))
    spots.sort()
    at = np.array([(x, y) for _, _, x, y in spots])
    depth = frame.sample(depth_m, at[:, 0], at[:, 1])
    at = at[np.isfinite(depth) & (depth >= shallowest_m)][:holes]
    at = _shorter_walk(at)
    walk = float(np.hypot(*np.diff(at, axis=0).T).sum()) if len(at) > 1 else 0.0
    return HolePlan(at, spacing, width, walk)


def _shorter_walk(at: Floats) -> Floats:
    order = list(range(len(at)))

    def gap(i: int, j: int) -> float:
        return float(np.hypot(*(at[order[i]] - at[order[j]])))

    better = True
    while better:
        better = False
        for i in range(1, len(order) - 1):
            for j in range(i + 1, len(order)):
                old = gap(i - 1, i) + (gap(j, j + 1) if j + 1 < len(order) else 0.0)
                new = gap(i - 1, j) + (gap(i, j + 1) if j + 1 < len(order) else 0.0)
                if new < old - 1e-6:
                    order[i : j + 1] = order[i : j + 1][::-1]
                    better = True
    return at[order]
