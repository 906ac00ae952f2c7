"""Straight low ridges and cuts, such as a drowned road: found on the grid's own cells."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from scipy import ndimage

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.terrain import narrow_deep, narrow_shallow, slope_deg
from plumbbob.core.types import Floats, Mask

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature

_LONG_M = 80.0
_WIDE_M = 24.0
_CROOKED_M = 2.5
_LOW_M, _HIGH_M = 0.3, 1.8


def find_roads(grid: Grid) -> list[Feature]:
    """Straight strips raised or cut by some decimetres, longer than 80 m; lines on the chart's plane."""
    from plumbbob.core.chart.feature import Feature

    frame = grid.frame
    known = grid.known
    if frame.cell_m > 6.0 or not known.any():
        return []
    rows, columns = ndimage.distance_transform_edt(~known, return_distances=False, return_indices=True)
    depth = ndimage.gaussian_filter(grid.depth_m[rows, columns], 1.0)
    slope = slope_deg(depth, frame.cell_m, 12.0)
    rim = ndimage.distance_transform_edt(np.pad(known, 1))[1:-1, 1:-1] * frame.cell_m
    inside = known & (rim > 2 * _WIDE_M)
    out = []
    for raised, strip in ((True, narrow_shallow), (False, narrow_deep)):
        height = strip(depth, 18.0 / frame.cell_m)
        mask = inside & (height > _LOW_M) & (slope < 8.0)
        labels, count = ndimage.label(mask, structure=np.ones((3, 3)))
        if not count:
            continue
        sizes = ndimage.sum_labels(mask, labels, np.arange(1, count + 1)) * frame.cell_m**2
        boxes = ndimage.find_objects(labels)
        for k in np.argsort(-sizes)[:80]:
            if sizes[k] < _LONG_M * 3.0:
                break
            found = _straight(frame, labels[boxes[k]] == k + 1, boxes[k])
            if found is None:
                continue
            region, line = found
            rise = float(np.median(height[boxes[k]][region]))
            if rise > _HIGH_M:
                continue
            depths = depth[boxes[k]][region]
            out.append(
                Feature(
                    kind="road",
                    x=float(line[:, 0].mean()),
                    y=float(line[:, 1].mean()),
                    depth_top_m=float(depths.min()),
                    depth_base_m=float(depths.max()),
                    slope_max_deg=float(slope[boxes[k]][region].max()),
                    area_m2=float(region.sum()) * frame.cell_m**2,
                    shape=line,
                    is_line=True,
                    rise_m=rise if raised else -rise,
                )
            )
    return out


def _straight(frame: CellGrid, region: Mask, box: tuple[slice, slice]) -> tuple[Mask, Floats] | None:
    """The middle line of a strip, if it is long, narrow and straight."""
    rows, columns = np.nonzero(region)
    x, y = frame.xy(rows + box[0].start, columns + box[1].start)
    points = np.stack([x, y], axis=1)
    middle = points.mean(axis=0)
    _, _, axes = np.linalg.svd(points - middle, full_matrices=False)
    along, off = (points - middle) @ axes[0], (points - middle) @ axes[1]
    long, wide = float(np.ptp(along)), float(points.shape[0]) * frame.cell_m**2 / max(float(np.ptp(along)), 1.0)
    if long < _LONG_M or wide > _WIDE_M:
        return None
    # the strip's own width is no crookedness: look at its middle in pieces
    pieces = np.array_split(np.argsort(along), max(int(long / 20.0), 3))
    if math.sqrt(float(np.mean([off[p].mean() ** 2 for p in pieces]))) > _CROOKED_M:
        return None
    ends = np.array([along.min(), along.max()])
    return region, middle + ends[:, None] * axes[0][None, :]
