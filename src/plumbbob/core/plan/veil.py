"""Where fish may still be: cells of a chart times bands of depth, thinned by looks and raised by signs."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.types import Floats, Levels

MOST_CELLS = 250_000
BAND_M = 3.0
_MOST_BANDS = 14
_OPEN_M = 3.0  # over the bottom: from here on up it is open water
HALF_LIFE_COVER_S, HALF_LIFE_OPEN_S = 4 * 3600.0, 3600.0  # of an old "nothing here" (docs/handbook.md 7.2)
_REACH_UP_M, _REACH_DOWN_M = 2.0, 1.0  # how far fish come to a lure
_LEAST_RATIO, _MOST_RATIO = 0.1, 20.0  # of all signs together
LIKE_SHARE = 0.3  # of a sign's weight (as exponent) that counts at like places
_LIKE_DEPTH_M, _SIGN_M = 2.0, 100.0
_SHOWS = 0.7  # of the fish under a beam, how many show


@dataclass(frozen=True, slots=True, eq=False)
class SearchGrid:
    """
    Cells of the water times bands of depth.

    Attributes
    ----------
    frame : CellGrid
    bottom_m : ndarray (ny, nx)
        Under today's surface; NaN on land and where not sounded.
    edges_m : ndarray (bands + 1,)
    """

    frame: CellGrid
    bottom_m: Floats
    edges_m: Floats

    @property
    def bands(self) -> int:
        """How many."""
        return int(self.edges_m.size - 1)

    @property
    def water(self) -> NDArray[np.bool_]:
        """Which of them hold water, shape (bands, ny, nx)."""
        deep = np.nan_to_num(self.bottom_m, nan=-1.0)
        return np.asarray(deep[None] > self.edges_m[:-1, None, None] + 0.3)

    @property
    def half_life_s(self) -> Levels:
        """In which an old look loses half its weight, shape (bands, ny, nx): fish in open water move sooner."""
        is_open = np.nan_to_num(self.bottom_m, nan=0.0)[None] - self.edges_m[1:, None, None] > _OPEN_M
        return np.where(is_open, HALF_LIFE_OPEN_S, HALF_LIFE_COVER_S).astype(np.float32)

    def band_of(self, depth_m: float) -> int:
        """The band that holds a depth; the last for what is deeper."""
        return int(np.clip(np.searchsorted(self.edges_m, depth_m, side="right") - 1, 0, self.bands - 1))


def search_grid(frame: CellGrid, bottom_m: Floats, most: int = MOST_CELLS) -> SearchGrid:
    """
    Cells as coarse and bands as thick as keep their number within a limit.

    Parameters
    ----------
    bottom_m : ndarray (ny, nx)
        Depths under today's surface on the frame; NaN or under zero where there is no water.
    """
    bottom = np.where(np.nan_to_num(bottom_m, nan=-1.0) > 0, bottom_m, np.nan).astype(np.float64)
    deepest = float(np.nanmax(bottom)) if np.isfinite(bottom).any() else 1.0
    band = max(BAND_M, deepest / _MOST_BANDS)
    edges = np.arange(0.0, deepest + band, band)
    k = max(math.ceil(math.sqrt(bottom.size * (edges.size - 1) / most)), 1)
    coarse = bottom[k // 2 :: k, k // 2 :: k]
    ny, nx = coarse.shape
    return SearchGrid(CellGrid(frame.x0_m, frame.y0_m, k * frame.cell_m, nx, ny), coarse, edges)


def prior_weights(grid: SearchGrid, terms: Mapping[str, Floats], present: float) -> Levels:
    """
    Chances before any look, shape (bands, ny, nx); they sum to the chance that there are fish at all.

    Parameters
    ----------
    terms : mapping
        Each a weight of zero and more that spreads to (bands, ny, nx); they multiply, and each can be shown alone.
    present : float
        0.7 to 0.9 with fish seen, 0.3 to 0.5 on good structure (docs/handbook.md 7.2).
    """
    weight = grid.water.astype(np.float64)
    for term in terms.values():
        weight *= term
    total = float(weight.sum())
    return (weight * (present / total) if total > 0 else weight).astype(np.float32)


@dataclass(frozen=True, slots=True, eq=False)
class Sight:
    """
    What one look says of some cells.

    Attributes
    ----------
    at : float
        Time, s.
    cells : ndarray of int (n,)
        In the flattened (bands, ny, nx).
    detection : ndarray (n,)
        Chance that fish there would have been found; for a sign its odds instead.
    is_sign : bool
        Something was found: odds over one, or under one for what speaks against.
    lasts_s : float
        For a sign: its weight falls to a third in this time.
    """

    at: float
    cells: NDArray[np.intp]
    detection: Levels
    is_sign: bool = False
    lasts_s: float = 3600.0


def thinned(grid: SearchGrid, prior: Levels, sights: Sequence[Sight], now: float) -> Levels:
    """
    Weights after all looks up to now, not summing to one: what is thin is ruled out.

    Notes
    -----
    A look of detection d multiplies by 1 - d 2^(-age / half life); a sign of odds R by 1 + (R - 1) exp(-age / lasts)
    (docs/handbook.md 7.2, 7.9), all signs on a cell together between 0.1 and 20.
    """
    weight = np.array(prior, np.float32).ravel()
    life = grid.half_life_s.ravel()
    odds: NDArray[np.float32] | None = None
    for sight in sights:
        age = max(now - sight.at, 0.0)
        if sight.at > now:
            continue
        if sight.is_sign:
            if odds is None:
                odds = np.ones(weight.size, np.float32)
            odds[sight.cells] *= 1.0 + (sight.detection - 1.0) * math.exp(-age / sight.lasts_s)
        else:
            weight[sight.cells] *= 1.0 - sight.detection * np.exp2(-age / life[sight.cells])
    if odds is not None:
        weight *= np.clip(odds, _LEAST_RATIO, _MOST_RATIO)
    return np.asarray(weight.reshape(prior.shape))


def chances(weight: Levels, prior: Levels) -> tuple[Levels, float]:
    """Chances by cell after looks, shape as given, and that there are no fish within the chart at all."""
    absent = max(1.0 - float(prior.sum()), 0.0)
    total = float(weight.sum()) + absent
    return (weight / total, absent / total) if total > 0 else (weight, 1.0)


def none_left(minutes: float, present: float, per_hour: float) -> float:
    """
    Chance that there are any fish here, after so long without one.

    Examples
    --------
    >>> round(none_left(60.0, 0.6, 1.0), 4), round(none_left(180.0, 0.6, 1.0), 4)
    (0.3556, 0.0695)
    """
    empty = present * math.exp(-per_hour * minutes / 60.0)
    return empty / (empty + 1.0 - present)


# -- what a look covers ---------------------------------------------------------------------------------------------


def _flat(grid: SearchGrid, band: int, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> NDArray[np.intp]:
    ny, nx = grid.bottom_m.shape
    return (band * ny + rows) * nx + columns


def _cells_along(grid: SearchGrid, line: Floats) -> tuple[NDArray[np.intp], NDArray[np.intp], Floats]:
    """Cells that a line goes through, rows and columns, and metres of it in each."""
    frame, (ny, nx) = grid.frame, grid.bottom_m.shape
    legs = np.hypot(*np.diff(line, axis=0).T)
    way = np.concatenate([[0.0], np.cumsum(legs)])
    step = frame.cell_m / 4.0
    at = np.arange(0.0, way[-1] + step / 2, step)
    x, y = np.interp(at, way, line[:, 0]), np.interp(at, way, line[:, 1])
    columns = np.floor((x - frame.x0_m) / frame.cell_m).astype(np.intp)
    rows = np.floor((y - frame.y0_m) / frame.cell_m).astype(np.intp)
    ok = (columns >= 0) & (columns < nx) & (rows >= 0) & (rows < ny)
    metres = np.bincount(rows[ok] * nx + columns[ok], minlength=ny * nx) * step
    cells = np.flatnonzero(metres)
    return cells // nx, cells % nx, np.asarray(metres[cells])


def seen_by_pass(grid: SearchGrid, line: Floats, beam_width_deg: float, at: float) -> Sight:
    """
    A pass with the view down that showed no fish.

    Notes
    -----
    Sweep width 2 D tan(half the beam), of which what shows counts; a cell searched at random by C of its area is
    found out with 1 - exp(-C) (docs/handbook.md 7.1). Fish within the first metres keep out of the way of the boat.
    """
    rows, columns, metres = _cells_along(grid, line)
    area = grid.frame.cell_m**2
    cells, detection = [], []
    bottom = np.nan_to_num(grid.bottom_m[rows, columns], nan=0.0)
    for band in range(grid.bands):
        middle = float(grid.edges_m[band : band + 2].mean())
        shy = 0.35 if middle < 4.0 else 1.0
        wide = 2.0 * middle * math.tan(math.radians(beam_width_deg / 2.0)) * _SHOWS * shy
        here = bottom > grid.edges_m[band]
        cells.append(_flat(grid, band, rows[here], columns[here]))
        detection.append(-np.expm1(-wide * metres[here] / area))
    return Sight(at, np.concatenate(cells), np.concatenate(detection).astype(np.float32))


def seen_to_sides(
    grid: SearchGrid, line: Floats, near_m: float, far_m: float, at: float, shows: float = 0.5
) -> Sight:
    """A pass with the view to the sides that showed no fish: near the bottom, both sides, from near to far."""
    rows, columns, _ = _cells_along(grid, line)
    reach = max(round(far_m / grid.frame.cell_m), 1)
    ny, nx = grid.bottom_m.shape
    wide = np.zeros((ny, nx), bool)
    for dy in range(-reach, reach + 1):
        for dx in range(-reach, reach + 1):
            if near_m - grid.frame.cell_m / 2 <= math.hypot(dx, dy) * grid.frame.cell_m <= far_m:
                r, c = rows + dy, columns + dx
                ok = (r >= 0) & (r < ny) & (c >= 0) & (c < nx)
                wide[r[ok], c[ok]] = True
    r, c = np.nonzero(wide & np.isfinite(grid.bottom_m))
    band = np.clip(np.searchsorted(grid.edges_m, grid.bottom_m[r, c] - 0.5, side="right") - 1, 0, grid.bands - 1)
    return Sight(at, (band * ny + r) * nx + c, np.full(r.size, shows, np.float32))


def fished(
    grid: SearchGrid,
    centre: tuple[float, float],
    radius_m: float,
    depth_m: float,
    detection: float,
    at: float,
    *,
    bearing_deg: float = 0.0,
    fan_deg: float = 360.0,
) -> Sight:
    """
    A lure worked at a depth without a touch: a fan of casts, or all round.

    Parameters
    ----------
    detection : float
        Chance that fish within its reach would have taken by now.
    bearing_deg, fan_deg : float
        Middle of the fan and how wide it is.
    """
    frame = grid.frame
    x, y = frame.x[None, :] - centre[0], frame.y[:, None] - centre[1]
    away = np.hypot(x, y)
    # a place smaller than a cell is in one
    inside = away <= max(radius_m, frame.cell_m / 2.0)
    if fan_deg < 360.0:
        off = (np.degrees(np.arctan2(x, y)) - bearing_deg + 180.0) % 360.0 - 180.0
        inside &= np.abs(off) <= fan_deg / 2.0
    rows, columns = np.nonzero(inside & np.isfinite(grid.bottom_m))
    share = min(math.pi * radius_m**2 * fan_deg / 360.0 / max(rows.size, 1) / frame.cell_m**2, 1.0)
    cells, out = [], []
    for band in range(grid.bands):
        top, base = float(grid.edges_m[band]), float(grid.edges_m[band + 1])
        # fish come up farther than they go down
        covered = min(base, depth_m + _REACH_DOWN_M + _REACH_UP_M) - max(top, depth_m - _REACH_DOWN_M)
        if covered > 0:
            here = grid.bottom_m[rows, columns] > top
            cells.append(_flat(grid, band, rows[here], columns[here]))
            out.append(np.full(int(here.sum()), detection * share * min(covered / (base - top), 1.0), np.float32))
    if not cells:
        return Sight(at, np.zeros(0, np.intp), np.zeros(0, np.float32))
    return Sight(at, np.concatenate(cells), np.concatenate(out))


def sign(
    grid: SearchGrid,
    centre: tuple[float, float],
    depth_m: float,
    odds: float,
    at: float,
    *,
    lasts_s: float = 3600.0,
    like_share: float = LIKE_SHARE,
) -> Sight:
    """
    Fish, a follower, bait, or another that eats the same, seen or caught at a depth.

    Parameters
    ----------
    odds : float
        For catchable fish there (docs/handbook.md 7.9): a catch 8, a follower 10, fish seen 5, bait 2.
    like_share : float
        Exponent with which it counts in the same band over a bottom as deep, elsewhere: fish of one kind do the same
        thing in many places on a day, but not in all of them.
    """
    ny, nx = grid.bottom_m.shape
    band = grid.band_of(depth_m)
    x, y = grid.frame.x[None, :] - centre[0], grid.frame.y[:, None] - centre[1]
    near = np.hypot(x, y) <= max(_SIGN_M, grid.frame.cell_m)
    column = int(np.clip((centre[0] - grid.frame.x0_m) // grid.frame.cell_m, 0, nx - 1))
    row = int(np.clip((centre[1] - grid.frame.y0_m) // grid.frame.cell_m, 0, ny - 1))
    bottom = float(grid.bottom_m[row, column])
    like = np.abs(grid.bottom_m - bottom) <= _LIKE_DEPTH_M if math.isfinite(bottom) else np.zeros((ny, nx), bool)
    rows, columns = np.nonzero((near | like) & np.isfinite(grid.bottom_m))
    here = near[rows, columns]
    strength = np.where(here, odds, odds**like_share)
    return Sight(at, _flat(grid, band, rows, columns), strength.astype(np.float32), True, lasts_s)


# -- what is left ---------------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class BandLook:
    """One band of depth at a place: how sure it is that it is empty, and what a look there would tell."""

    top_m: float
    base_m: float
    empty: float  # 0: nothing is known; 1: ruled out
    chance: float  # that fish are here
    finds: float  # chance that a look here finds them


@dataclass(frozen=True, slots=True)
class ColumnLook:
    """All bands at a place, from the surface down, and that there are none at all."""

    bands: tuple[BandLook, ...]
    none: float

    @property
    def next(self) -> BandLook | None:
        """Where the next look tells most."""
        return max(self.bands, key=lambda b: b.finds, default=None)


def down_the_column(
    grid: SearchGrid,
    prior: Levels,
    weight: Levels,
    tried: Levels,
    centre: tuple[float, float],
    radius_m: float,
    *,
    present: float,
    detection: float,
) -> ColumnLook:
    """
    The bands at a place; those under the bottom are left out.

    Parameters
    ----------
    tried : ndarray (bands, ny, nx)
        Weights after the fruitless looks alone: what a sign raises has been tried all the same.
    present : float
        Chance that there were fish at this place before any look.
    detection : float
        Chance that a look at a band that holds them finds them.
    """
    x, y = grid.frame.x[None, :] - centre[0], grid.frame.y[:, None] - centre[1]
    near = np.hypot(x, y) <= max(radius_m, 0.75 * grid.frame.cell_m)
    deepest = float(np.nanmax(np.where(near, grid.bottom_m, np.nan), initial=0.0)) if near.any() else 0.0
    bands = max(int(np.count_nonzero(grid.edges_m[:-1] < deepest - 0.3)), 0)
    before, after, thin = (np.array([float(w[k][near].sum()) for k in range(bands)]) for w in (prior, weight, tried))
    absent = float(before.sum()) * (1.0 - present) / present
    total = float(after.sum()) + absent
    looks = []
    for k in range(bands):
        empty = min(max(1.0 - thin[k] / before[k], 0.0), 1.0) if before[k] > 0 else 0.0
        chance = float(after[k]) / total if total > 0 else 0.0
        looks.append(
            BandLook(float(grid.edges_m[k]), float(grid.edges_m[k + 1]), float(empty), chance, chance * detection)
        )
    return ColumnLook(tuple(looks), absent / total if total > 0 else 1.0)
