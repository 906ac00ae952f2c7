"""Humps, and the saddles between two of them."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.peaks import Peak, find_peaks
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.types import Mask


def highs(f: StructureFields) -> list[Feature]:
    """Humps, and the saddles between two of them."""
    out = []
    good: dict[int, Mask] = {}
    peaks = find_peaks(-f.depth, f.terrain.whole, min(0.5, f.settings.hump_m))
    for peak in peaks:
        top, base = -peak.height, -peak.col_height
        least = max(f.settings.hump_m, f.settings.hump_share * base, 2.0 * f.error)
        if peak.prominence < least or top < 0.0:
            continue
        found = _hump_region(f, peak)
        if found is None:
            continue
        region, base = found
        cell = f.known_near(peak.cell, region, -1.0)
        good[peak.cell] = region
        f.hump_cells |= region
        out.append(f.feature("hump", cell, region, top, base))
    out.sort(key=lambda f: -f.area_m2)
    return out + _saddles(f, peaks, set(good))


def _hump_region(f: StructureFields, peak: Peak) -> tuple[Mask, float] | None:
    """The ground that stands out, and its foot: all of it, or its upper part where it is most of the water."""
    top = -peak.height
    largest = 0.35 * float(f.terrain.known.sum()) * f.cell**2
    for share in (0.98, 0.7, 0.5):
        base = top + share * peak.prominence
        region = f.part_with(f.terrain.whole & (f.depth < base), peak.cell)
        area = f.area_m2(region)
        if area < f.settings.hump_area_m2:
            return None
        if area <= largest:
            return region, top + peak.prominence if share > 0.9 else base
    return None


def _saddles(f: StructureFields, peaks: list[Peak], good: set[int]) -> list[Feature]:
    """Where a hump meets a neighbour that stands at least a metre over the same saddle."""
    out = []
    humps = [p for p in peaks if p.cell in good]
    for peak in humps:
        saddle = _towards_neighbour(f, peak, humps)
        if saddle is None:
            continue
        cell, depth = saddle
        rise = min(1.0, 0.5 * peak.prominence)
        flat = np.abs(f.depth - depth) < max(rise, 0.4)
        y, x = np.divmod(cell, f.terrain.frame.nx)
        near = np.zeros(f.depth.shape, bool)
        r = max(round(60.0 / f.cell), 2)
        near[max(y - r, 0) : y + r + 1, max(x - r, 0) : x + r + 1] = True
        region = f.part_with(flat & near & f.terrain.whole, cell)
        out.append(f.feature("saddle", cell, region, depth - rise, depth + rise))
    return out


def _towards_neighbour(f: StructureFields, peak: Peak, humps: list[Peak]) -> tuple[int, float] | None:
    """The lowest place on the best way to the nearest hump within 500 m, if both stand a metre over it."""
    nx = f.terrain.frame.nx
    y, x = divmod(peak.cell, nx)
    best: tuple[float, int, float] | None = None
    for other in humps:
        apart = math.hypot(other.cell // nx - y, other.cell % nx - x) * f.cell
        if other is peak or not 40.0 <= apart <= 500.0 or (other.height, other.cell) < (peak.height, peak.cell):
            continue
        found = _pass_between(f, peak.cell, other.cell)
        if found is None:
            continue
        cell, depth = found
        stands = min(depth + peak.height, depth + other.height)
        if stands >= 0.9 and _is_own_pass(f, peak, depth) and (best is None or apart < best[0]):
            best = (apart, cell, depth)
    return None if best is None else best[1:]


def _is_own_pass(f: StructureFields, peak: Peak, depth: float) -> bool:
    """The way over is not much lower than the peak's lowest way to anywhere: else other ground lies between."""
    return depth <= -peak.col_height + max(0.25 * peak.prominence, 0.5)


def _pass_between(f: StructureFields, a: int, b: int) -> tuple[int, float] | None:
    """Cell and depth of the lowest place on the highest way between two cells, found in a window about both."""
    ny, nx = f.depth.shape
    pad = round(150.0 / f.cell)
    (ya, xa), (yb, xb) = divmod(a, nx), divmod(b, nx)
    rows = slice(max(min(ya, yb) - pad, 0), min(max(ya, yb) + pad, ny))
    columns = slice(max(min(xa, xb) - pad, 0), min(max(xa, xb) + pad, nx))
    depth = np.where(f.terrain.whole & ~f.terrain.land, f.depth, np.inf)[rows, columns]
    start, goal = (ya - rows.start, xa - columns.start), (yb - rows.start, xb - columns.start)
    low, high = max(depth[start], depth[goal]), float(np.max(depth[np.isfinite(depth)]))
    for _ in range(24):
        middle = (low + high) / 2
        labels, _ = ndimage.label(depth <= middle, structure=np.ones((3, 3)))
        low, high = (low, middle) if labels[start] == labels[goal] != 0 else (middle, high)
    labels, _ = ndimage.label(depth <= high - 1e-3, structure=np.ones((3, 3)))
    mine, other = labels == labels[start], labels == labels[goal]
    if not (labels[start] and labels[goal]):
        return None
    away = ndimage.distance_transform_edt(~mine) + ndimage.distance_transform_edt(~other)
    level = np.where(np.abs(depth - high) < 0.3, away, np.inf)
    cell = np.unravel_index(int(level.argmin()), level.shape)
    return int((cell[0] + rows.start) * nx + cell[1] + columns.start), high
