"""Narrow rises that run out into the water."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.outline import longest_path, path_length
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.terrain import narrow_shallow
from plumbbob.core.types import Mask


def points(f: StructureFields) -> list[Feature]:
    """Narrow rises that run out from land or from shallower ground and lose depth outwards on three sides."""
    best = np.zeros(f.depth.shape)
    filled = np.where(f.terrain.land, np.minimum(f.depth, 0.0), f.depth)
    for width in f.settings.widths_m:
        found = narrow_shallow(filled, width / f.cell)
        best = np.maximum(best, np.where(f.open_m > 0.8 * width, found, 0.0))
    raised = f.terrain.known & (best > f.settings.point_m) & ~f.hump_cells
    out = []
    for region in f.parts(raised, 0.5 * f.settings.point_length_m * 2 * f.cell):
        point = _point(f, region)
        if point is not None:
            out.append(point)
    return sorted(out, key=lambda f: -f.area_m2)


def _point(f: StructureFields, region: Mask) -> Feature | None:
    near_land = f.shore_m[region]
    if not np.isfinite(near_land).any() or float(near_land.min()) > f.settings.point_root_m:
        return None
    root = region & (f.shore_m <= float(near_land.min()) + 1.5 * f.cell)
    path = longest_path(f.terrain.frame, region, start=root)
    if path is None:
        return None
    length = path_length(path)
    width = f.area_m2(region) / max(length, 1.0)
    depths = f.terrain.frame.sample(f.depth, path[:, 0], path[:, 1])
    shore = f.terrain.frame.sample(f.shore_m, path[:, 0], path[:, 1])
    if length < f.settings.point_length_m or length < 0.8 * width or not np.isfinite(depths).all():
        return None
    # outwards: further from land and deeper, most of the way
    if shore[-1] - shore[0] < 0.5 * length or depths[-1] - depths[0] < f.settings.point_m:
        return None
    falls = np.gradient(ndimage.gaussian_filter1d(depths, 1.5))
    falls[: len(falls) // 3] = -np.inf
    tip = path[int(falls.argmax())]
    cell = int(f.terrain.frame.cells(tip[0], tip[1])[0])
    top, base = (float(v) for v in np.percentile(f.depth[region], [3, 97]))
    return f.feature("point", cell, region, max(top, 0.0), base)
