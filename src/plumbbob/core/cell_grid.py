"""Cells of one size on a plane: from place to row and column and back, and values between cells."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True)
class CellGrid:
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
