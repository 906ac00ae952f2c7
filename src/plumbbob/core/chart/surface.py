"""
A smooth surface through weighted cells, led by the structure's own direction.

The surface minimises `sum w (z - d)^2 + stiffness * integral |D2 z|^2`, where the second derivatives count fully
along a guide (the way a ledge or a channel runs), less across it, and where going up or down along the guide costs as
well. Without a guide it is the thin plate of Duchon (1977). Between survey lines a guided surface carries a ledge on
in its own direction instead of averaging it away (after the coherence-led diffusion of Weickert, 1999).

Solved by conjugate gradients with one multigrid V-cycle as preconditioner, started from the coarser levels' answers.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, sparse

from plumbbob.core.types import Floats, Singles

_COARSEST = 14  # cells along the shorter side at which a level is solved directly
_SMOOTHS = 2  # Chebyshev steps before and after each coarser level
_MOST = 16  # conjugate gradient steps of a coarser level
_SPLIT = 60_000  # cells from which on a product is shared between two threads
_SLAB = 48  # rows
_EIGEN_CELLS = 40_000
_THREADS = ThreadPoolExecutor(2, thread_name_prefix="surface")


@dataclass(frozen=True, slots=True, eq=False)
class Guide:
    """The way structure runs at each cell, shape (ny, nx) each."""

    angle_rad: Floats  # from the x axis
    strength: Floats  # 0 no direction to 1 plainly one
    across: float = 0.05  # share of the stiffness left across the guide, where it is strong
    hold: float = 0.33  # cost of the slope along the guide, in shares of the stiffness (per cell)


def guide_of(surface: Floats, cell_m: float, reach_m: float, *, gentle: float = 0.05) -> Guide:
    """
    The way a surface's structure runs.

    Parameters
    ----------
    surface : ndarray (ny, nx), metres
    cell_m, reach_m : float
        Size of a cell and the distance over which directions are gathered: about the spacing of the survey's lines.
    gentle : float
        Slope (tangent) under which a direction counts little.

    Notes
    -----
    Structure tensor (Bigun & Granlund 1987): gradients are gathered as their outer product, so that both sides of a
    ridge agree.
    """
    zx = ndimage.gaussian_filter(surface, 1.0, order=(0, 1)) / cell_m
    zy = ndimage.gaussian_filter(surface, 1.0, order=(1, 0)) / cell_m
    spread = reach_m / cell_m
    a, b, c = (ndimage.gaussian_filter(p, spread, truncate=2.5) for p in (zx * zx, zy * zy, zx * zy))
    half, off = (a - b) / 2, np.hypot((a - b) / 2, c)
    large, small = (a + b) / 2 + off, (a + b) / 2 - off
    clear = ((large - small) / np.maximum(large + small, 1e-12)) ** 2
    strength = clear * large / (large + gentle**2)
    strength[strength < 1e-3] = 0.0  # numbers too small for single precision are slow, and say nothing
    return Guide(0.5 * np.arctan2(c, half) + np.pi / 2, strength)


def finer_guide(guide: Guide, shape: tuple[int, int]) -> Guide:
    """The same guide on cells of half the size."""
    c2, s2, strength = (
        _raised(field.astype(np.float32), shape)
        for field in (
            guide.strength * np.cos(2 * guide.angle_rad),
            guide.strength * np.sin(2 * guide.angle_rad),
            guide.strength,
        )
    )
    return Guide(np.arctan2(s2, c2) / 2, np.clip(strength, 0.0, 1.0), guide.across, guide.hold)


# second and first derivatives on three by three cells, rows then columns, in units of one cell
_XX = np.array([[0, 0, 0], [1, -2, 1], [0, 0, 0]], np.float64)
_YY = _XX.T.copy()
_XY = np.array([[1, 0, -1], [0, 0, 0], [-1, 0, 1]], np.float64) / 4
_X = np.array([[0, 0, 0], [-1, 0, 1], [0, 0, 0]], np.float64) / 2
_Y = _X.T.copy()
_SPOTS = [(r, c) for r in (-1, 0, 1) for c in (-1, 0, 1)]


class _Level:
    """One level of cells: its matrix, the weights' diagonal included, and how to smooth an error on it."""

    def __init__(self, weight: Singles, terms: list[tuple[Singles, Floats]], stiffness: float) -> None:
        self.shape: tuple[int, int] = weight.shape
        ny, nx = weight.shape
        keys = sorted({(qr - pr, qc - pc) for _, product in terms for (pr, pc), (qr, qc) in _reached(product)})
        steps = sorted({r * nx + c for r, c in keys})
        self._reach = max(steps[-1], -steps[0])  # cells beyond a slab that its product needs
        self._slabs: list[tuple[int, int, sparse.dia_array]] = []
        edges = _edge_terms(ny, nx)
        self.over_diagonal = np.empty(ny * nx, np.float32)
        # in slabs of rows, small enough for the processor's cache; as bands, since the columns' numbers of a general
        # sparse matrix would have to come from memory as well, and the memory is what these products wait for
        for top in range(0, ny, _SLAB):
            foot = min(top + _SLAB, ny)
            low, high = max(top - 1, 0), min(foot + 1, ny)
            bands = _bands_of(terms, keys, low, high, ny, nx)
            for key, (rows, across, values) in edges.items():
                mine = (rows >= low) & (rows < high)
                at = (rows[mine] - low, across[mine])
                np.add.at(bands[key], at, (stiffness * values[mine]).astype(np.float32))
            bands[(0, 0)] += weight[low:high]
            inner = slice(top - low, foot - low)
            a, b = top * nx, foot * nx
            data = np.zeros((len(steps), b - a + 2 * self._reach), np.float32)
            for r, c in keys:
                step = r * nx + c
                data[steps.index(step), self._reach + step : self._reach + step + b - a] += bands[(r, c)][
                    inner
                ].ravel()
            shifts = np.array(steps) + self._reach
            self._slabs.append((a, b, sparse.dia_array((data, shifts), shape=(b - a, data.shape[1]))))
            self.over_diagonal[a:b] = 1.0 / np.maximum(bands[(0, 0)][inner].ravel(), 1e-20)
        half = len(self._slabs) // 2
        self._parts = (
            [self._slabs[:half], self._slabs[half:]] if ny * nx > _SPLIT and half else [self._slabs]
        )  # for two threads

    def times(self, z: Singles) -> Singles:
        """Matrix times vector."""
        wide = np.zeros(z.size + 2 * self._reach, np.float32)  # bands that reach over the rim are zero there
        wide[self._reach : -self._reach] = z
        out = np.empty_like(z)

        def multiply(part: list[tuple[int, int, sparse.dia_array]]) -> None:
            for a, b, slab in part:
                out[a:b] = slab @ wide[a : b + 2 * self._reach]

        if len(self._parts) == 1:
            multiply(self._slabs)
        else:
            list(_THREADS.map(multiply, self._parts))
        return out

    def whole(self) -> sparse.csr_array:
        """The matrix."""
        n = self.over_diagonal.size
        rows = [slab.tocsr() for _, _, slab in self._slabs]
        shifted = [
            sparse.csr_array((m.data, m.indices + a - self._reach, m.indptr), shape=(b - a, n))
            for m, (a, b, _) in zip(rows, self._slabs, strict=True)
        ]
        return sparse.vstack(shifted).tocsr()

    def largest_eigenvalue(self) -> float:
        """Of the matrix over its diagonal, from above."""
        v = np.random.default_rng(1).standard_normal(self.over_diagonal.size).astype(np.float32)
        size = 1.0
        for _ in range(14):
            v = self.over_diagonal * self.times(v)
            size = float(np.linalg.norm(v))
            v /= np.float32(size)
        return 1.2 * size

    def smooth(self, z: Singles | None, right: Singles, largest: float) -> Singles:
        """Chebyshev steps that damp the upper part of the spectrum; from zero where there is no start."""
        middle, half = largest * 7 / 12, largest * 5 / 12
        step = self.over_diagonal * (right if z is None else right - self.times(z)) / np.float32(middle)
        z = step.copy() if z is None else z + step
        rho, sigma = half / middle, middle / half
        for _ in range(_SMOOTHS):
            after = 1.0 / (2 * sigma - rho)
            residual = self.over_diagonal * (right - self.times(z))
            step = np.float32(after * rho) * step + np.float32(2 * after / half) * residual
            z += step
            rho = after
        return z


def _reached(product: Floats) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Pairs of the nine cells that a product of derivatives ties together."""
    return [(_SPOTS[p], _SPOTS[q]) for p, q in zip(*np.nonzero(product), strict=True)]


def _bands_of(
    terms: list[tuple[Singles, Floats]], keys: list[tuple[int, int]], low: int, high: int, ny: int, nx: int
) -> dict[tuple[int, int], Singles]:
    """The matrix's bands for some rows; the outermost of them lack what comes from beyond."""
    bands = {key: np.zeros((high - low, nx), np.float32) for key in keys}
    first, last = max(low, 1), min(high, ny - 1)  # middles of three by three cells
    for field, product in terms:
        inner = field if field.ndim == 0 else field[first:last, 1:-1]
        for (pr, pc), (qr, qc) in _reached(product):
            # the row that is written lies at its own offset from the middle
            a, b = max(first + pr, low), min(last + pr, high)
            if a >= b:
                continue
            part = inner if inner.ndim == 0 else inner[a - pr - first : b - pr - first]
            factor = np.float32(product[_SPOTS.index((pr, pc)), _SPOTS.index((qr, qc))])
            bands[(qr - pr, qc - pc)][a - low : b - low, 1 + pc : nx - 1 + pc] += factor * part
    return bands


def _edge_terms(ny: int, nx: int) -> dict[tuple[int, int], tuple[NDArray[np.intp], NDArray[np.intp], Floats]]:
    """Second differences along the rim, which the three by three cells inside do not see."""
    parts: dict[tuple[int, int], list[tuple[NDArray[np.intp], NDArray[np.intp], Floats]]] = {}
    across = np.array([1.0, -2.0, 1.0])
    for rows, columns, dr, dc in (
        *((np.full(nx - 2, r), np.arange(1, nx - 1), 0, 1) for r in (0, ny - 1)),
        *((np.arange(1, ny - 1), np.full(ny - 2, c), 1, 0) for c in (0, nx - 1)),
    ):
        for p in (-1, 0, 1):
            for q in (-1, 0, 1):
                key = ((q - p) * dr, (q - p) * dc)
                value = np.full(rows.size, across[p + 1] * across[q + 1])
                parts.setdefault(key, []).append((rows + p * dr, columns + p * dc, value))
    return {
        key: (
            np.concatenate([r for r, _, _ in found]),
            np.concatenate([c for _, c, _ in found]),
            np.concatenate([v for _, _, v in found]),
        )
        for key, found in parts.items()
    }


def _halved(field: Singles, *, total: bool) -> Singles:
    """Cells of twice the size: sums, or means."""
    ny, nx = field.shape
    field = np.pad(field, ((0, ny % 2), (0, nx % 2)), mode="constant" if total else "edge")
    out = field[::2, ::2] + field[1::2, ::2] + field[::2, 1::2] + field[1::2, 1::2]
    return out if total else out / np.float32(4)


def _raised(coarse: Singles, shape: tuple[int, int]) -> Singles:
    """Bilinear values on cells of half the size."""
    rows = _stretched(coarse, shape[0])
    return np.ascontiguousarray(_stretched(rows.T, shape[1]).T)


def _stretched(field: Singles, n: int) -> Singles:
    near, far = np.float32(0.75), np.float32(0.25)
    out = np.empty((2 * field.shape[0], field.shape[1]), np.float32)
    out[::2] = near * field
    out[1::2] = out[::2]
    out[2::2] += far * field[:-1]
    out[0] += far * field[0]
    out[1:-1:2] += far * field[1:]
    out[-1] += far * field[-1]
    return out[:n]


def _lowered(fine: Singles, shape: tuple[int, int]) -> Singles:
    """The transpose of `_raised`."""
    rows = _gathered(fine, shape[0])
    return np.ascontiguousarray(_gathered(rows.T, shape[1]).T)


def _gathered(field: Singles, n: int) -> Singles:
    near, far = np.float32(0.75), np.float32(0.25)
    if field.shape[0] < 2 * n:
        field = np.concatenate([field, np.zeros((1, field.shape[1]), np.float32)])
    even, odd = field[::2], field[1::2]
    out = near * (even + odd)
    out[:-1] += far * even[1:]
    out[0] += far * even[0]
    out[1:] += far * odd[:-1]
    out[-1] += far * odd[-1]
    return out


def halved_mean(mean: Floats, weight: Floats) -> tuple[Floats, Floats]:
    """Weighted means on cells of twice the size, and their weights."""
    coarse = _halved(weight.astype(np.float32), total=True)
    value = _halved((weight * mean).astype(np.float32), total=True) / np.maximum(coarse, 1e-20)
    return value.astype(np.float64), coarse.astype(np.float64)


_Directions = tuple[Singles, Singles, Singles]  # strength times cosine and sine of twice the angle, and strength


def _terms(
    stiffness: float, guide: Guide | None, directions: _Directions | None, level: int
) -> list[tuple[Singles, Floats]]:
    """The energy of one level as fields times products of derivatives on three by three cells."""
    lam = stiffness / 4.0**level  # the plate's energy per cell falls with the square of the cell
    xx, yy, xy, x, y = (k.ravel() for k in (_XX, _YY, _XY, _X, _Y))

    def pair(a: Floats, b: Floats) -> Floats:
        return (np.outer(a, b) + np.outer(b, a)) / 2

    if guide is None or directions is None:
        product = pair(xx, xx) + pair(yy, yy) + 2 * pair(xy, xy)
        return [(np.asarray(lam, np.float32), product)]
    c2, s2, strength = directions
    angle = np.arctan2(s2, c2) / 2
    c, s = np.cos(angle), np.sin(angle)
    r = 1 - strength * np.float32(1 - guide.across)
    q = 2 * np.sqrt(r)
    cc, ss, cs = c * c, s * s, c * s
    # uu^2 + r vv^2 + 2 sqrt(r) uv^2, with u along the guide, written out in xx, yy, xy
    fields = {
        "xx": cc * cc + r * ss * ss + q * cs * cs,
        "yy": ss * ss + r * cc * cc + q * cs * cs,
        "xy": 4 * cs * cs * (1 + r) + q * (cc - ss) ** 2,
        "xxyy": 2 * cs * cs * (1 + r) - 2 * q * cs * cs,
        "xxxy": 4 * cs * cc - 4 * r * cs * ss - 2 * q * cs * (cc - ss),
        "yyxy": 4 * cs * ss - 4 * r * cs * cc + 2 * q * cs * (cc - ss),
    }
    products = {
        "xx": pair(xx, xx),
        "yy": pair(yy, yy),
        "xy": pair(xy, xy),
        "xxyy": pair(xx, yy),
        "xxxy": pair(xx, xy),
        "yyxy": pair(yy, xy),
    }
    lamf = np.float32(lam)
    terms: list[tuple[Singles, Floats]] = [(lamf * fields[k], products[k]) for k in fields]
    # a slope's energy per cell does not change with the cell
    hold = np.float32(stiffness * guide.hold) * strength
    terms += [(hold * cc, pair(x, x)), (hold * ss, pair(y, y)), (2 * hold * cs, pair(x, y))]
    return terms


class Surface:
    """The solver for one set of cells; keeps its levels, so that it can be asked again with other values."""

    def __init__(self, weight: Floats, stiffness: float, guide: Guide | None = None) -> None:
        w = weight.astype(np.float32)
        self._levels: list[_Level] = []
        self._weights: list[Singles] = []
        level = 0
        directions: _Directions | None = None
        if guide is not None:
            twice, strength = 2 * guide.angle_rad.astype(np.float32), guide.strength.astype(np.float32)
            directions = (strength * np.cos(twice), strength * np.sin(twice), strength)
        while True:
            terms = _terms(stiffness, guide, directions, level)
            self._levels.append(_Level(w, terms, stiffness / 4.0**level))
            if w.size < _EIGEN_CELLS and not hasattr(self, "_largest"):
                # weights only lower it, and it hardly differs by level: taken without them, where it is cheap
                bare = _Level(np.zeros_like(w), terms, stiffness / 4.0**level)
                self._largest = bare.largest_eigenvalue()
            self._weights.append(w)
            if min(w.shape) <= _COARSEST:
                break
            w = _halved(w, total=True)
            if directions is not None:
                c2, s2, strength = (_halved(f, total=False) for f in directions)
                directions = (c2, s2, strength)
            level += 1
        bottom = self._levels[-1].whole().astype(np.float64)
        # no data at all on some part leaves a plane free: hold it by a hair
        hair = 1e-9 * float(bottom.diagonal().max())
        self._direct = sparse.linalg.splu((bottom + hair * sparse.eye_array(bottom.shape[0])).tocsc())

    def _cycle(self, k: int, right: Singles) -> Singles:
        """One V-cycle for level k with a zero start."""
        level = self._levels[k]
        if k == len(self._levels) - 1:
            return np.asarray(self._direct.solve(right.astype(np.float64)), np.float32)
        z = level.smooth(None, right, self._largest)
        residual = (right - level.times(z)).reshape(level.shape)
        below = self._levels[k + 1]
        coarse = self._cycle(k + 1, _lowered(residual, below.shape).ravel())
        z = z + _raised(coarse.reshape(below.shape), level.shape).ravel()
        return level.smooth(z, right, self._largest)

    def solve(
        self,
        value: Floats,
        start: Floats | None = None,
        *,
        tolerance: float = 0.03,
        most: int = 6,
        progress: Callable[[float], None] = lambda fraction: None,
    ) -> Floats:
        """
        The surface for cell values.

        Parameters
        ----------
        value : ndarray (ny, nx)
            Mean of each cell; counts only where the weight is not zero.
        start : ndarray (ny, nx), optional
            A surface that is already close.
        tolerance : float
            Residual left, relative to the first one.
        most : int
            Steps on the finest level.

        Returns
        -------
        ndarray (ny, nx) of float64
        """
        rights = [(self._weights[0] * value).astype(np.float32)]
        for _ in self._levels[1:]:
            rights.append(_halved(rights[-1], total=True))
        if start is not None:
            z = start.astype(np.float32).ravel()
            return (
                self._descend(0, z, rights[0].ravel(), tolerance, most)
                .reshape(self._levels[0].shape)
                .astype(np.float64)
            )
        last = len(self._levels) - 1
        z = np.asarray(self._direct.solve(rights[last].ravel().astype(np.float64)), np.float32)
        for k in range(last - 1, -1, -1):
            z = _raised(z.reshape(self._levels[k + 1].shape), self._levels[k].shape).ravel()
            z = self._descend(
                k, z, rights[k].ravel(), tolerance if k == 0 else 2 * tolerance, most if k == 0 else _MOST
            )
            progress(4.0**-k)
        return z.reshape(self._levels[0].shape).astype(np.float64)

    def _descend(self, k: int, z: Singles, right: Singles, tolerance: float, most: int) -> Singles:
        """Conjugate gradients on one level."""
        level = self._levels[k]
        residual = right - level.times(z)
        y = self._cycle(k, residual)
        p = y.copy()
        now = float(np.vdot(residual, y))
        first = max(now, 1e-30)
        self.steps = 0
        for _ in range(most):
            ap = level.times(p)
            bend = float(np.vdot(p, ap))
            if not bend > 0.0:
                break
            step = np.float32(now / bend)
            z = z + step * p
            before = residual
            residual = residual - step * ap
            self.steps += 1
            y = self._cycle(k, residual)
            later = float(np.vdot(residual, y))
            if later <= tolerance**2 * first or later <= 0.0:
                break
            # the cycle is not quite symmetric in single precision: Polak-Ribiere
            beta = np.float32(max((later - float(np.vdot(before, y))) / now, 0.0))
            p = y + beta * p
            now = later
        return z
