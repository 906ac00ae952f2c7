"""The chart's plane: metres in a UTM zone, cells of one size, and the way from there to latitude and longitude."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plumbbob.core.geo import Position

Floats = NDArray[np.float64]


def utm_epsg(place: Position) -> int:
    """
    EPSG code of the UTM zone (WGS 84) around a place.

    Examples
    --------
    >>> utm_epsg(Position(44.2, -40.05)), utm_epsg(Position(-23.5, 151.2))
    (32624, 32756)
    """
    zone = math.floor((place.longitude + 180.0) / 6.0) % 60 + 1
    return (32600 if place.latitude >= 0 else 32700) + zone


_A = 6378137.0  # WGS 84
_F = 1 / 298.257223563
_N = _F / (2 - _F)
_SCALE = 0.9996
_EAST_M, _SOUTH_M = 500_000.0, 10_000_000.0
_MEAN_RADIUS = _A / (1 + _N) * (1 + _N**2 / 4 + _N**4 / 64)
# Krueger's series in the third flattening, to the sixth order: forth and back
_ALPHA = (
    _N / 2 - 2 / 3 * _N**2 + 5 / 16 * _N**3 + 41 / 180 * _N**4 - 127 / 288 * _N**5 + 7891 / 37800 * _N**6,
    13 / 48 * _N**2 - 3 / 5 * _N**3 + 557 / 1440 * _N**4 + 281 / 630 * _N**5 - 1983433 / 1935360 * _N**6,
    61 / 240 * _N**3 - 103 / 140 * _N**4 + 15061 / 26880 * _N**5 + 167603 / 181440 * _N**6,
    49561 / 161280 * _N**4 - 179 / 168 * _N**5 + 6601661 / 7257600 * _N**6,
)
_BETA = (
    _N / 2 - 2 / 3 * _N**2 + 37 / 96 * _N**3 - 1 / 360 * _N**4 - 81 / 512 * _N**5 + 96199 / 604800 * _N**6,
    1 / 48 * _N**2 + 1 / 15 * _N**3 - 437 / 1440 * _N**4 + 46 / 105 * _N**5 - 1118711 / 3870720 * _N**6,
    17 / 480 * _N**3 - 37 / 840 * _N**4 - 209 / 4480 * _N**5 + 5569 / 90720 * _N**6,
    4397 / 161280 * _N**4 - 11 / 504 * _N**5 - 830251 / 7257600 * _N**6,
)
_E = math.sqrt(_F * (2 - _F))


@dataclass(frozen=True, slots=True)
class Plane:
    """
    One UTM zone; eastings and northings in metres.

    Notes
    -----
    Transverse Mercator after Krueger (1912), Karney (2011): good to a micrometre within a zone. Written out here
    since the usual library keeps its state by thread and does not survive the window's worker threads.

    Examples
    --------
    >>> x, y = Plane(32624).to_xy(44.2, -40.05)
    >>> round(float(x), 3), round(float(y), 3)
    (416100.345, 4894622.781)
    """

    epsg: int

    def __post_init__(self) -> None:
        if not (32601 <= self.epsg <= 32660 or 32701 <= self.epsg <= 32760):
            raise ValueError(f"EPSG:{self.epsg} is no UTM zone")

    @property
    def _meridian(self) -> float:
        return (self.epsg % 100) * 6.0 - 183.0

    @property
    def _north_m(self) -> float:
        return _SOUTH_M if self.epsg >= 32700 else 0.0

    def to_xy(self, latitude: ArrayLike, longitude: ArrayLike) -> tuple[Floats, Floats]:
        """Eastings and northings of places, metres; NaN places give NaN."""
        phi = np.radians(np.asarray(latitude, np.float64))
        turn = (np.asarray(longitude, np.float64) - self._meridian + 180.0) % 360.0 - 180.0
        lam = np.radians(turn)
        s = np.sin(phi)
        t = np.sinh(np.arctanh(s) - _E * np.arctanh(_E * s))
        xi = np.arctan2(t, np.cos(lam))
        eta = np.arcsinh(np.sin(lam) / np.hypot(t, np.cos(lam)))
        x, y = eta.copy(), xi.copy()
        for k, a in enumerate(_ALPHA, 1):
            y = y + a * np.sin(2 * k * xi) * np.cosh(2 * k * eta)
            x = x + a * np.cos(2 * k * xi) * np.sinh(2 * k * eta)
        return _EAST_M + _SCALE * _MEAN_RADIUS * x, self._north_m + _SCALE * _MEAN_RADIUS * y

    def to_latlon(self, x: ArrayLike, y: ArrayLike) -> tuple[Floats, Floats]:
        """Latitudes and longitudes of points, degrees."""
        eta = (np.asarray(x, np.float64) - _EAST_M) / (_SCALE * _MEAN_RADIUS)
        xi = (np.asarray(y, np.float64) - self._north_m) / (_SCALE * _MEAN_RADIUS)
        p, q = xi.copy(), eta.copy()
        for k, b in enumerate(_BETA, 1):
            p = p - b * np.sin(2 * k * xi) * np.cosh(2 * k * eta)
            q = q - b * np.cos(2 * k * xi) * np.sinh(2 * k * eta)
        tau_conformal = np.sin(p) / np.hypot(np.sinh(q), np.cos(p))
        tau = tau_conformal.copy()
        for _ in range(4):
            root = np.sqrt(1 + tau**2)
            sigma = np.sinh(_E * np.arctanh(_E * tau / root))
            now = tau * np.sqrt(1 + sigma**2) - sigma * root
            tau = tau + (tau_conformal - now) / np.sqrt(1 + now**2) * (1 + (1 - _E**2) * tau**2) / (
                (1 - _E**2) * root
            )
        latitude = np.degrees(np.arctan(tau))
        longitude = self._meridian + np.degrees(np.arctan2(np.sinh(q), np.cos(p)))
        return latitude, (longitude + 180.0) % 360.0 - 180.0

    def place(self, x: float, y: float) -> Position:
        """One place."""
        latitude, longitude = self.to_latlon(x, y)
        return Position(float(latitude), float(longitude))


@dataclass(frozen=True, slots=True)
class Frame:
    """
    Square cells on a plane. Row 0 is the southernmost: y grows with the row, x with the column.

    `x0_m`, `y0_m` are the south-west corner of cell (0, 0).
    """

    x0_m: float
    y0_m: float
    cell_m: float
    nx: int
    ny: int

    def __post_init__(self) -> None:
        if self.cell_m <= 0 or self.nx < 1 or self.ny < 1:
            raise ValueError(f"no such frame: {self.nx} x {self.ny} cells of {self.cell_m:g} m")

    @property
    def shape(self) -> tuple[int, int]:
        """Rows, columns."""
        return self.ny, self.nx

    @property
    def x(self) -> Floats:
        """Eastings of the middles of the columns, shape (nx,)."""
        return np.asarray(self.x0_m + (np.arange(self.nx) + 0.5) * self.cell_m, np.float64)

    @property
    def y(self) -> Floats:
        """Northings of the middles of the rows, shape (ny,)."""
        return np.asarray(self.y0_m + (np.arange(self.ny) + 0.5) * self.cell_m, np.float64)

    def row_column(self, x: ArrayLike, y: ArrayLike) -> tuple[Floats, Floats]:
        """Rows and columns as fractions: whole numbers are the middles of cells."""
        return (
            (np.asarray(y, np.float64) - self.y0_m) / self.cell_m - 0.5,
            (np.asarray(x, np.float64) - self.x0_m) / self.cell_m - 0.5,
        )

    def xy(self, row: ArrayLike, column: ArrayLike) -> tuple[Floats, Floats]:
        """Eastings and northings of rows and columns."""
        return (
            self.x0_m + (np.asarray(column, np.float64) + 0.5) * self.cell_m,
            self.y0_m + (np.asarray(row, np.float64) + 0.5) * self.cell_m,
        )

    def cells(self, x: ArrayLike, y: ArrayLike) -> tuple[NDArray[np.intp], NDArray[np.bool_]]:
        """Flat index of the cell of each point, and which points lie inside; outside the index is 0."""
        row, column = self.row_column(x, y)
        i, j = np.floor(row + 0.5), np.floor(column + 0.5)
        inside = (i >= 0) & (j >= 0) & (i < self.ny) & (j < self.nx)
        return np.where(inside, i * self.nx + j, 0).astype(np.intp), inside

    def nearest(self, field: NDArray[Any], x: float, y: float) -> float:
        """Value of the cell at a point, NaN outside."""
        i, j = math.floor((y - self.y0_m) / self.cell_m), math.floor((x - self.x0_m) / self.cell_m)
        return float(field[i, j]) if 0 <= i < self.ny and 0 <= j < self.nx else math.nan

    def sample(self, field: NDArray[Any], x: ArrayLike, y: ArrayLike) -> Floats:
        """Bilinear values of a field, NaN outside or where a neighbour is unknown."""
        row, column = self.row_column(x, y)
        i, j = np.floor(row).astype(np.intp), np.floor(column).astype(np.intp)
        f, g = row - i, column - j
        out = np.zeros(np.shape(row), np.float64)
        inside = (row > -0.5) & (column > -0.5) & (row < self.ny - 0.5) & (column < self.nx - 0.5)
        for di, dj, weight in ((0, 0, (1 - f) * (1 - g)), (0, 1, (1 - f) * g), (1, 0, f * (1 - g)), (1, 1, f * g)):
            rows, columns = np.clip(i + di, 0, self.ny - 1), np.clip(j + dj, 0, self.nx - 1)
            out = out + np.where(weight > 0, weight * field[rows, columns], 0.0)
        return np.where(inside, out, np.nan)
