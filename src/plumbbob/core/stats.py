"""Order statistics of masked arrays and running extremes, all columns at once."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray


def masked_percentile(
    values: NDArray[np.float32], use: NDArray[np.bool_], percent: float, least: int
) -> NDArray[np.float64]:
    """
    Percentile down each column over the samples in use, shape (columns,).

    Parameters
    ----------
    values : ndarray of float32, shape (rows, columns)
    use : ndarray of bool, shape (rows, columns)
    percent : float
        0 to 100; the nearest rank is taken, nothing is interpolated.
    least : int
        Columns with fewer samples in use give NaN.

    Examples
    --------
    >>> v = np.array([[1, 5], [3, 6], [2, 7]], np.float32)
    >>> masked_percentile(v, v < 6.5, 50, 2).tolist()
    [2.0, 5.0]
    """
    count = use.sum(axis=0)
    ordered = np.sort(np.where(use, values, np.float32(np.inf)), axis=0)
    rank = np.clip(np.floor((count - 1) * percent / 100 + 0.5 - 1e-9), 0, None).astype(np.intp)
    picked = ordered[rank, np.arange(values.shape[1])].astype(np.float64)
    return np.where(count >= max(least, 1), picked, np.nan)


def running_extreme(values: NDArray[Any], width: int, axis: int, *, largest: bool) -> NDArray[Any]:
    """
    Largest or smallest value in a window about each place, edges repeated.

    Parameters
    ----------
    values : ndarray of shape (rows, columns)
    width : int
        Of the window; an even one reaches one further back than forward.
    axis : int
        0 or 1.
    largest : bool

    Notes
    -----
    Windows of 1, 2, 4 ... are joined until they span the width: a few passes over the whole array at memory's pace.

    Examples
    --------
    >>> running_extreme(np.array([[1, 5, 2, 0, 3]]), 3, 1, largest=True).tolist()
    [[5, 5, 5, 3, 3]]
    """
    best = np.maximum if largest else np.minimum
    out, span = _padded(values, width, axis), 1
    while 2 * span <= width:
        out = best(*_apart(out, span, axis))
        span *= 2
    if span < width:
        out = best(*_apart(out, width - span, axis))
    return out


def running_mean(values: NDArray[np.float32], width: int, axis: int) -> NDArray[np.float32]:
    """
    Mean over a window about each place, edges repeated; the window as in `running_extreme`.

    Notes
    -----
    Sums over 1, 2, 4 ... are doubled, and those that the width is made of added up.

    Examples
    --------
    >>> running_mean(np.array([[3, 0, 0, 6]], np.float32), 3, 1).tolist()
    [[2.0, 1.0, 2.0, 4.0]]
    """
    power, span = _padded(values, width, axis), 1
    n = values.shape[axis]
    total, used = None, 0
    while span <= width:
        if width & span:
            piece = power[used : used + n] if axis == 0 else power[:, used : used + n]
            total = piece.copy() if total is None else np.add(total, piece, out=total)
            used += span
        if 2 * span <= width:
            power = np.add(*_apart(power, span, axis))
        span *= 2
    assert total is not None
    total *= np.float32(1.0 / width)
    return total


def closed(mask: NDArray[np.bool_], rows: int, columns: int) -> NDArray[np.bool_]:
    """
    A mask with gaps of less than so many rows and columns filled (a closing with a rectangle); odd numbers.

    Examples
    --------
    >>> closed(np.array([[1, 0, 1, 0, 0, 0, 1]], bool), 1, 3).astype(int).tolist()
    [[1, 1, 1, 0, 0, 0, 1]]
    """
    out = mask.view(np.uint8)
    for largest in (True, False):
        out = running_extreme(running_extreme(out, rows, 0, largest=largest), columns, 1, largest=largest)
    return out.view(np.bool_)


def _padded(values: NDArray[Any], width: int, axis: int) -> NDArray[Any]:
    back = width // 2
    pad = [(0, 0), (0, 0)]
    pad[axis] = (back, width - 1 - back)
    return np.pad(values, pad, mode="edge")


def _apart(array: NDArray[Any], by: int, axis: int) -> tuple[NDArray[Any], NDArray[Any]]:
    """Two views of an array so far apart."""
    n = array.shape[axis] - by
    return (array[:n], array[by:]) if axis == 0 else (array[:, :n], array[:, by:])


def steady_slope(x: NDArray[np.float64], y: NDArray[np.float64]) -> tuple[float, float]:
    """
    Slope of a line through points of which some are wild, and its spread.

    Notes
    -----
    Median of the slopes of all pairs (Theil 1950, Sen 1968); of long runs every so many-th point. The spread is that
    of a least-squares slope with the residuals' median absolute deviation.

    Examples
    --------
    >>> x = np.arange(20.0)
    >>> steady_slope(x, np.where(x == 7, 99.0, 2.0 * x))
    (2.0, 0.0)
    """
    every = max(x.size // 800, 1)
    x, y = x[::every], y[::every]
    i, j = np.triu_indices(x.size, 1)
    apart = x[j] - x[i]
    far = np.abs(apart) > 1e-9
    if not far.any():
        return float("nan"), float("nan")
    slope = float(np.median((y[j] - y[i])[far] / apart[far]))
    rest = y - slope * x
    rest = np.abs(rest - np.median(rest))
    return slope, float(1.4826 * np.median(rest) / max(float(np.std(x)) * math.sqrt(x.size), 1e-9))


def near_groups(points: NDArray[Any], reach: float, *, p: float = 2.0) -> NDArray[np.intp]:
    """
    Which group each point belongs to: points within reach of each other are one, and so on from point to point.

    Parameters
    ----------
    points : ndarray, shape (n, dimensions)
    reach : float
    p : float
        Of the norm: 2 straight, inf along the longest axis.

    Returns
    -------
    ndarray of int, shape (n,)
        From 0 without gaps.

    Examples
    --------
    >>> near_groups(np.array([[0.0], [1.0], [5.0], [1.9]]), 1.0).tolist()
    [0, 0, 1, 0]
    """
    # a tenth of a second that a short reading does without
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    n = len(points)
    if n < 2:
        return np.zeros(n, np.intp)
    pairs = cKDTree(points).query_pairs(reach, p=p, output_type="ndarray")
    links = coo_array((np.ones(len(pairs), bool), (pairs[:, 0], pairs[:, 1])), shape=(n, n))
    return np.asarray(connected_components(links, directed=False)[1], np.intp)
