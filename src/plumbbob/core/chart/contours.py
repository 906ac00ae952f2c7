"""Depth contours at any interval, and how much of a water lies in a band of depth."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True, eq=False)
class Contour:
    """All lines of one depth; each line is (n, 2) eastings and northings, closed where its ends meet."""

    depth_m: float
    lines: tuple[Floats, ...]


def contours(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    levels_m: Sequence[float],
    *,
    progress: Callable[[float], None] = lambda fraction: None,
) -> tuple[Contour, ...]:
    """
    Lines of equal depth through a grid; none where depth is unknown.

    Parameters
    ----------
    frame : CellGrid
    depth_m : ndarray (ny, nx)
        NaN where unknown.
    levels_m : sequence of float

    Examples
    --------
    >>> frame = CellGrid(0.0, 0.0, 1.0, 21, 21)
    >>> y, x = np.mgrid[-10:11, -10:11].astype(np.float32)
    >>> (circle,) = contours(frame, np.hypot(x, y), [5.0])
    >>> line = circle.lines[0] - 10.5
    >>> bool(np.allclose(np.hypot(line[:, 0], line[:, 1]), 5.0, atol=0.03))
    True
    """
    import contourpy

    generator = contourpy.contour_generator(
        x=frame.x, y=frame.y, z=np.ma.masked_invalid(depth_m), name="serial", corner_mask=True
    )
    out = []
    for i, level in enumerate(levels_m):
        lines = [np.asarray(line) for line in generator.lines(float(level))]
        out.append(Contour(float(level), tuple(line for line in lines if len(line) >= 4)))
        progress((i + 1) / max(len(levels_m), 1))
    return tuple(out)


def simplified(line: Floats, tolerance_m: float) -> Floats:
    """
    The line with fewer points, none further from it than the tolerance.

    Notes
    -----
    Douglas & Peucker (1973).
    """
    from shapely import LineString

    return np.asarray(LineString(line).simplify(tolerance_m, preserve_topology=False).coords)


def smoothed(line: Floats, rounds: int = 1) -> Floats:
    """Corners cut (Chaikin 1974): rounder, and never further off than a quarter of a step."""
    closed = bool(np.allclose(line[0], line[-1]))
    for _ in range(rounds):
        if len(line) < 3:
            break
        a, b = line[:-1], line[1:]
        cut = np.empty((2 * len(a), 2))
        cut[::2], cut[1::2] = 0.75 * a + 0.25 * b, 0.25 * a + 0.75 * b
        line = np.vstack([cut, cut[:1]]) if closed else np.vstack([line[:1], cut[1:-1], line[-1:]])
    return line


@dataclass(frozen=True, slots=True)
class Share:
    """How much of a water lies in a band of depth."""

    inside_m2: float
    water_m2: float

    @property
    def share(self) -> float:
        """0 to 1; 0 without water."""
        return self.inside_m2 / self.water_m2 if self.water_m2 else 0.0


def window_share(depth_m: NDArray[np.float32], cell_m: float, level_m: float, window: tuple[float, float]) -> Share:
    """
    Area inside a depth window at a water level.

    Parameters
    ----------
    depth_m : ndarray
        At datum; NaN where unknown.
    cell_m, level_m : float
        Cell, and the water's level over datum.
    window : (float, float)
        Depths below today's surface; its base belongs to the window under it, so that neighbours add up.
    """
    today = depth_m + np.float32(level_m)
    water = today > 0
    inside = water & (today >= window[0]) & (today < window[1])
    return Share(float(inside.sum()) * cell_m**2, float(water.sum()) * cell_m**2)
