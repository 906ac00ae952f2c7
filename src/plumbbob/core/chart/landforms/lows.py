"""Basins and holes, and the sills between two basins."""

from __future__ import annotations

import numpy as np

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.peaks import OUTSIDE, Peak, find_peaks
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.terrain import deepest_within
from plumbbob.core.types import Floats

_SOUNDED_M = 5.0  # so near a sounding nothing deep is missed
_FAR_M = 60.0  # gaps wider than twice this are no gaps between lines
_CLOSED = 0.6  # of its depth under the sill that must hold


def _as_deep_as_may_be(f: StructureFields) -> Floats:
    """The bottom, where nobody sounded between two lines as deep as beside them: a bed may run on there unseen."""
    out = f.depth.copy()
    away, near = f.terrain.away_m, _SOUNDED_M
    while near < min(float(away[f.terrain.whole].max()), _FAR_M):
        gap = (away > near) & (away <= 2 * near)
        out = np.where(gap, deepest_within(f.depth, (2 * near + 2 * _SOUNDED_M) / f.cell), out)
        near *= 2
    return out


def _may_go_on(f: StructureFields, low: Peak, could_be: Floats) -> bool:
    """Nothing that was sounded closes it off from deeper water."""
    level = low.height - _CLOSED * low.prominence
    region = f.part_with(f.terrain.whole & (could_be > level), low.cell)
    return bool((f.depth[region] > low.height + 0.05).any())


def lows(f: StructureFields) -> list[Feature]:
    """Basins and holes, and the sills between two basins."""
    out: list[Feature] = []
    water = float(f.terrain.known.sum()) * f.cell**2
    deeps = find_peaks(f.depth, f.terrain.whole, min(0.5, f.settings.hump_m))
    kept: list[Peak] = []
    could_be = _as_deep_as_may_be(f)
    for low in deeps:
        deepest, spill = low.height, max(low.col_height, 0.0)
        if low.prominence < max(f.settings.hump_m, 0.03 * deepest, 2.0 * f.error):
            continue
        closed = f.part_with(f.terrain.whole & (f.depth > spill + 0.02 * low.prominence), low.cell)
        area = f.area_m2(closed)
        if area < f.settings.hump_area_m2 or _may_go_on(f, low, could_be):
            continue
        top = max(spill, 0.65 * deepest)
        inner = f.part_with(closed & (f.depth >= top), low.cell)
        basin = f.area_m2(inner) >= max(f.settings.basin_area_m2, 0.002 * water)
        cell = f.known_near(low.cell, closed, 1.0)
        kept.append(low)
        if basin:
            out.append(f.feature("basin", cell, inner, top, deepest))
        else:
            out.append(f.feature("hole", cell, closed, spill, deepest))
    sills = []
    for low in kept:
        if low.parent == OUTSIDE or low.prominence < 1.0:
            continue
        row, column = divmod(low.col, f.terrain.frame.nx)
        r = max(round(60.0 / f.cell), 2)
        near = np.zeros(f.depth.shape, bool)
        near[max(row - r, 0) : row + r + 1, max(column - r, 0) : column + r + 1] = True
        region = f.part_with(near & f.terrain.whole & (np.abs(f.depth - low.col_height) < 0.5), low.col)
        sills.append(f.feature("saddle", low.col, region, low.col_height - 0.5, low.col_height + 0.5))
    return sorted(out, key=lambda f: -f.area_m2) + sills
