"""The chart's plane: metres in a UTM zone, cells of one size, and the way from there to latitude and longitude."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
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


@dataclass(frozen=True, slots=True)
class Plane:
    """One UTM zone; eastings and northings in metres."""

    epsg: int
    _ways: dict[str, Any] = field(default_factory=dict, compare=False, repr=False)

    def _way(self, there: bool) -> Any:
        key = "there" if there else "back"
        if key not in self._ways:
            from pyproj import Transformer  # slow to load, and only wanted once there is a chart

            ends = (4326, self.epsg) if there else (self.epsg, 4326)
            self._ways[key] = Transformer.from_crs(*ends, always_xy=True)
        return self._ways[key]

    def to_xy(self, latitude: ArrayLike, longitude: ArrayLike) -> tuple[Floats, Floats]:
        """Eastings and northings of places, metres; infinite or NaN places give NaN."""
        x, y = self._way(True).transform(np.asarray(longitude, np.float64), np.asarray(latitude, np.float64))
        good = np.isfinite(x) & np.isfinite(y)
        return np.where(good, x, np.nan), np.where(good, y, np.nan)

    def to_latlon(self, x: ArrayLike, y: ArrayLike) -> tuple[Floats, Floats]:
        """Latitudes and longitudes of points, degrees."""
        longitude, latitude = self._way(False).transform(np.asarray(x, np.float64), np.asarray(y, np.float64))
        return np.asarray(latitude), np.asarray(longitude)

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
