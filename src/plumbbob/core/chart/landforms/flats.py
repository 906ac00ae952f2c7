"""Wide level ground."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.terrain import slope_deg
from plumbbob.core.types import Mask


def flats(f: StructureFields) -> list[Feature]:
    """Wide level ground that is no basin's floor, seen from its edge nearest to deep water."""
    slope = slope_deg(f.depth, f.cell, 16.0)
    size = max(round(10.0 / f.cell), 1)
    level = ndimage.binary_opening(f.terrain.known & (slope <= f.settings.flat_deg), iterations=size)
    core = level & (slope <= f.settings.flat_core_deg)
    deepest = float(np.percentile(f.depth[f.terrain.known], 98))
    out: list[Feature] = []
    for _ in range(4 * f.settings.most_flats):
        labels, count = ndimage.label(core)
        if not count or len(out) >= f.settings.most_flats:
            break
        sizes = ndimage.sum_labels(core, labels, np.arange(1, count + 1)) * f.cell**2
        if sizes.max() < 0.6 * f.settings.flat_area_m2:
            break
        heart = labels == int(sizes.argmax()) + 1
        # ground that keeps falling is no flat, however gently: keep to a span of depth
        middle = float(np.median(f.depth[heart]))
        span = np.abs(f.depth - middle) <= max(1.0, 0.12 * middle)
        region, _ = ndimage.label(level & span)
        mine = np.bincount(region[heart & span]).argmax() if (heart & span).any() else 0
        region = region == mine if mine else heart & span
        core &= ~region & ~(heart & span)
        if f.area_m2(region) >= f.settings.flat_area_m2:
            found = _flat(f, region, deepest)
            if found is not None:
                out.append(found)
    return out


def _flat(f: StructureFields, region: Mask, deepest: float) -> Feature | None:
    top, base = (float(v) for v in np.percentile(f.depth[region], [3, 97]))
    inner = ndimage.distance_transform_edt(region) * f.cell
    heart = region & (inner >= min(30.0, 0.8 * float(inner.max())))
    deep = f.terrain.known & (f.depth > base + max(1.0, 0.15 * base))
    if deep.any():
        edge = ndimage.distance_transform_edt(~deep)
        cell = int(np.where(heart, -edge, -np.inf).argmax())
    elif (top + base) / 2 > 0.8 * deepest:
        return None  # the floor of it all
    else:
        cell = int(np.where(heart, inner, -1.0).argmax())
    return f.feature("flat", cell, region, top, base)
