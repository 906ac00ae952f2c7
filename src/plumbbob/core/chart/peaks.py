"""Highs, lows and the saddles between them: which peak stands how far over the lowest way to a higher one."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Floats

OUTSIDE = -1


@dataclass(frozen=True, slots=True)
class Peak:
    """One high of a field."""

    cell: int  # flat index
    height: float
    col: int  # flat index of the saddle towards higher ground
    col_height: float
    parent: int  # cell of the higher peak it joins there; OUTSIDE at the rim of what is known

    @property
    def prominence(self) -> float:
        """Height over that saddle."""
        return self.height - self.col_height


def find_peaks(height: Floats, known: NDArray[np.bool_], least: float) -> list[Peak]:
    """
    All highs that stand at least so far over the way to higher ground, highest first.

    Parameters
    ----------
    height : ndarray (ny, nx)
    known : ndarray of bool (ny, nx)
        The rim of what is known counts as the way to higher ground.
    least : float
        Least prominence.

    Notes
    -----
    Merge tree (Carr et al. 2003) over the basins of steepest ascent: every cell runs up to its peak, neighbouring
    basins meet at the highest of their lowest border cells, and joining them from the highest meeting down gives
    each peak its saddle. A lower peak of two ends there.

    Examples
    --------
    >>> field = np.zeros((5, 9))
    >>> field[2] = [0, 1, 5, 2, 3, 1, 1, 1, 0]
    >>> [(p.height, p.prominence) for p in find_peaks(field, np.ones_like(field, bool), 0.5)]
    [(5.0, 5.0), (3.0, 1.0)]
    """
    ny, nx = height.shape
    n = ny * nx
    # ties are broken by index, so that a plateau runs to one cell
    order = np.lexsort((np.arange(n), np.where(known, height, -np.inf).ravel()))
    rank = np.empty(n, np.int64)
    rank[order] = np.arange(n)
    rank = np.where(known.ravel(), rank, -1).reshape(ny, nx)
    padded = np.pad(rank, 1, constant_values=-1)
    here = np.arange(n).reshape(ny, nx)
    best, target = rank.copy(), here.copy()
    steps = [(r, c) for r in (-1, 0, 1) for c in (-1, 0, 1) if (r, c) != (0, 0)]
    for r, c in steps:
        other = padded[1 + r : 1 + r + ny, 1 + c : 1 + c + nx]
        better = other > best
        best = np.where(better, other, best)
        target = np.where(better, here + r * nx + c, target)
    up = target.ravel()
    while True:
        further = up[up]
        if np.array_equal(further, up):
            break
        up = further
    up = np.where(known.ravel(), up, OUTSIDE)
    links = _links(height, known, up.reshape(ny, nx), here, padded)
    return _joined(height.ravel(), up[known.ravel()], links, least)


def _links(
    height: Floats,
    known: NDArray[np.bool_],
    basin: NDArray[np.int64],
    here: NDArray[np.int64],
    padded: NDArray[np.int64],
) -> list[tuple[float, int, int, int]]:
    """(height, cell, basin, other basin) of the best meeting of each two neighbouring basins and of the rim."""
    heights, cells, firsts, seconds = [], [], [], []
    ny, nx = height.shape
    for r, c in ((0, 1), (1, 0), (1, 1), (1, -1)):
        a = np.s_[: ny - r, (1 if c < 0 else 0) : nx - max(c, 0)]
        b = np.s_[r:, max(c, 0) : nx + min(c, 0)]
        p, q = basin[a], basin[b]
        meet = (p != q) & known[a] & known[b]
        lower = np.minimum(height[a], height[b])
        cell = np.where(height[a] <= height[b], here[a], here[b])
        heights.append(lower[meet])
        cells.append(cell[meet])
        firsts.append(np.minimum(p, q)[meet])
        seconds.append(np.maximum(p, q)[meet])
    rim = known & (
        np.minimum.reduce([padded[1 + r : 1 + r + ny, 1 + c : 1 + c + nx] for r in (-1, 0, 1) for c in (-1, 0, 1)])
        < 0
    )
    heights.append(height[rim])
    cells.append(here[rim])
    firsts.append(np.full(int(rim.sum()), OUTSIDE))
    seconds.append(basin[rim])
    h, k = np.concatenate(heights), np.concatenate(cells)
    f, s = np.concatenate(firsts), np.concatenate(seconds)
    order = np.lexsort((-h, s, f))
    h, k, f, s = h[order], k[order], f[order], s[order]
    new = np.ones(h.size, bool)
    new[1:] = (f[1:] != f[:-1]) | (s[1:] != s[:-1])
    return sorted(zip(h[new].tolist(), k[new].tolist(), f[new].tolist(), s[new].tolist(), strict=True), reverse=True)


def _joined(
    height: Floats, tops: NDArray[np.int64], links: list[tuple[float, int, int, int]], least: float
) -> list[Peak]:
    root = {int(p): int(p) for p in np.unique(tops)}
    root[OUTSIDE] = OUTSIDE

    def find(p: int) -> int:
        while root[p] != p:
            root[p] = root[root[p]]
            p = root[p]
        return p

    def tall(p: int) -> float:
        return np.inf if p == OUTSIDE else float(height[p])

    found = []
    for meet, cell, a, b in links:
        p, q = find(a), find(b)
        if p == q:
            continue
        if tall(p) < tall(q):
            p, q = q, p
        root[q] = p
        if tall(q) - meet >= least:
            found.append(Peak(q, float(height[q]), cell, meet, p))
    return sorted(found, key=lambda peak: -peak.height)
