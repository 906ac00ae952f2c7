"""Order statistics of masked arrays, a column at a time but all columns at once."""

from __future__ import annotations

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
