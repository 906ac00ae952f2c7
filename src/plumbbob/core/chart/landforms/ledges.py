"""Steep stretches."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage
from scipy.spatial import cKDTree

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.outline import longest_path, path_length
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.types import Mask


def ledges(f: StructureFields) -> list[Feature]:
    """Steep stretches: grown from where it is plainly steep to where it still is."""
    slope = f.terrain.slope_deg
    inside = f.terrain.known & (ndimage.distance_transform_edt(f.terrain.known) * f.cell > 8.0)
    usual = float(np.percentile(slope[inside], 80)) if inside.any() else 0.0
    steep = inside & (slope >= max(f.settings.ledge_foot_deg, min(usual, 12.0)))
    labels, _ = ndimage.label(steep, structure=np.ones((3, 3)))
    seeds = np.unique(labels[inside & (slope >= f.settings.ledge_deg)])
    out = []
    boxes = ndimage.find_objects(labels)
    for k in seeds[seeds > 0]:
        box = boxes[k - 1]
        if box is None:
            continue
        region = labels == k
        here = slope[region]
        area = f.area_m2(region)
        length = math.hypot(box[0].stop - box[0].start, box[1].stop - box[1].start) * f.cell
        if area < 600.0 or length < 30.0 or np.percentile(here, 90) < f.settings.ledge_deg:
            continue
        if (f.hump_cells & region).sum() > 0.6 * region.sum():
            continue  # a hump's own flank
        if length < 3.0 * area / length and length < 120.0:
            continue
        for piece in _pieces(f, region):
            top, base = np.percentile(f.depth[piece], [5, 95])
            if base - top < 0.8 or np.percentile(slope[piece], 90) < f.settings.ledge_deg:
                continue
            cell, lip = _lip(f, piece, float(top), float(base))
            out.append(f.feature("ledge", cell, piece, float(top), float(base), lip=lip))
    return sorted(out, key=lambda f: -f.area_m2)[:40]


def _pieces(f: StructureFields, region: Mask) -> list[Mask]:
    """A long ledge in stretches that one can fish, cut across its own line."""
    path = longest_path(f.terrain.frame, region)
    if path is None or path_length(path) < 1.3 * f.settings.ledge_stretch_m:
        return [region]
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(path, axis=0).T))])
    count = math.ceil(along[-1] / f.settings.ledge_stretch_m)
    stretch = np.minimum((along / along[-1] * count).astype(np.intp), count - 1)
    rows, columns = np.nonzero(region)
    x, y = f.terrain.frame.xy(rows, columns)
    nearest = stretch[cKDTree(path).query(np.stack([x, y], axis=1))[1]]
    out = []
    for k in range(count):
        piece = np.zeros(region.shape, bool)
        piece[rows[nearest == k], columns[nearest == k]] = True
        if piece.any():
            out.append(piece)
    return out


def _lip(f: StructureFields, region: Mask, top: float, base: float) -> tuple[int, float]:
    """The steepest stretch of a ledge's upper half, and the depth of its upper edge there."""
    middle = np.median(f.depth[region])
    average = ndimage.gaussian_filter(f.terrain.slope_deg, 12.0 / f.cell)
    upper = region & (f.depth <= middle)
    cell = int(np.where(upper if upper.any() else region, average, -1.0).argmax())
    row, column = divmod(cell, f.terrain.frame.nx)
    r = max(round(40.0 / f.cell), 2)
    near = np.s_[max(row - r, 0) : row + r + 1, max(column - r, 0) : column + r + 1]
    here = f.depth[near][region[near]]
    return cell, float(np.percentile(here, 5)) if here.size else top
