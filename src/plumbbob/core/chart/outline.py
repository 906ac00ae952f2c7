"""From a patch of cells to its outline, or to the longest line through it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, sparse
from scipy.sparse import csgraph

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.types import Floats

_STAIR = 5  # points of an outline that a step of it goes over


def outline_of(frame: CellGrid, region: NDArray[np.bool_]) -> Floats:
    """The longest outer line around a patch, closed, shape (n, 2) of eastings and northings."""
    import contourpy

    rows, columns = np.nonzero(region)
    if not rows.size:
        return np.zeros((0, 2))
    r0, c0 = int(rows.min()) - 1, int(columns.min()) - 1
    part = np.zeros((int(np.ptp(rows)) + 3, int(np.ptp(columns)) + 3))
    part[rows - r0, columns - c0] = 1.0
    lines = contourpy.contour_generator(z=part).lines(0.5)
    if not lines:
        return np.zeros((0, 2))
    line = _rounded(max((np.asarray(part) for part in lines), key=len))
    x, y = frame.xy(line[:, 1] + r0, line[:, 0] + c0)
    return np.stack([x, y], axis=1)


def _rounded(line: Floats) -> Floats:
    """A closed line around cells without the stairs that cells make; its bends wider than that stay."""
    if len(line) < 4 * _STAIR:
        return line
    kernel = np.convolve(np.ones(_STAIR), np.ones(_STAIR)) / _STAIR**2
    reach = kernel.size // 2
    ring = line[:-1]
    wrapped = np.concatenate([ring[-reach:], ring, ring[:reach]])
    smooth = np.stack([np.convolve(wrapped[:, k], kernel, "valid") for k in range(2)], axis=1)
    return np.concatenate([smooth, smooth[:1]])


def longest_path(
    frame: CellGrid,
    region: NDArray[np.bool_],
    *,
    prefer: Floats | None = None,
    start: NDArray[np.bool_] | None = None,
) -> Floats | None:
    """
    The line from one end of a patch to the other, through its middle.

    Parameters
    ----------
    frame : CellGrid
    region : ndarray of bool (ny, nx)
        One connected patch.
    prefer : ndarray (ny, nx), optional
        The line keeps to high values; default: the distance from the patch's edge.
    start : ndarray of bool (ny, nx), optional
        Cells at which it begins; default: the far end.

    Returns
    -------
    ndarray (n, 2) or None
        Eastings and northings; None for fewer than three cells.
    """
    rows, columns = np.nonzero(region)
    n = rows.size
    if n < 3:
        return None
    box = np.s_[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1]
    part = region[box]
    depth = ndimage.distance_transform_edt(np.pad(part, 1))[1:-1, 1:-1]
    value = depth if prefer is None else depth * prefer[box]
    cost = 1.0 / np.maximum(value / max(float(value[part].max()), 1e-12), 0.05)
    index = np.full(part.shape, -1, np.int64)
    index[part] = np.arange(n)
    i, j, w, plain = [], [], [], []
    ny, nx = part.shape
    for r, c in ((0, 1), (1, 0), (1, 1), (1, -1)):
        a = np.s_[: ny - r, (1 if c < 0 else 0) : nx - max(c, 0)]
        b = np.s_[r:, max(c, 0) : nx + min(c, 0)]
        both = part[a] & part[b]
        step = float(np.hypot(r, c))
        i.append(index[a][both])
        j.append(index[b][both])
        w.append(step * (cost[a] + cost[b])[both] / 2)
        plain.append(np.full(int(both.sum()), step))
    i_all, j_all = np.concatenate(i), np.concatenate(j)

    def graph(weights: list[NDArray[np.float64]]) -> sparse.csr_array:
        return sparse.csr_array((np.concatenate(weights), (i_all, j_all)), shape=(n, n))

    span, way = graph(plain), graph(w)
    first = index[start[box] & part] if start is not None and (start[box] & part).any() else np.array([0])
    if start is None:
        reach = csgraph.dijkstra(span, directed=False, indices=int(first[0]))
        first = np.array([int(np.where(np.isfinite(reach), reach, -1).argmax())])
    reach = csgraph.dijkstra(span, directed=False, indices=first, min_only=True)
    far = int(np.where(np.isfinite(reach), reach, -1).argmax())
    _, before, _ = csgraph.dijkstra(way, directed=False, indices=first, min_only=True, return_predecessors=True)
    cells = [far]
    while before[cells[-1]] >= 0:
        cells.append(int(before[cells[-1]]))
    cells.reverse()
    x, y = frame.xy(rows[cells], columns[cells])
    return np.stack([x, y], axis=1)


def path_length(path: Floats) -> float:
    """Length of a path of eastings and northings, m."""
    return float(np.hypot(*np.diff(path, axis=0).T).sum())
