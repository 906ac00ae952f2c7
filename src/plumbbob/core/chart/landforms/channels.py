"""Long narrow deeps."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.outline import longest_path, path_length
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.terrain import narrow_deep
from plumbbob.core.types import Floats


def channels(f: StructureFields) -> list[Feature]:
    """Long narrow deeps with banks on both sides."""
    best = np.zeros(f.depth.shape)
    for width in f.settings.widths_m:
        found = narrow_deep(f.depth, width / f.cell)
        best = np.maximum(best, np.where(f.open_m > 0.8 * width, found, 0.0))
    sunk = f.terrain.known & (best > f.settings.channel_m)
    out = []
    for region in f.parts(sunk, 0.5 * f.settings.channel_length_m * 2 * f.cell):
        path = longest_path(f.terrain.frame, region, prefer=best)
        if path is None:
            continue
        length = path_length(path)
        width = f.area_m2(region) / max(length, 1.0)
        if length < f.settings.channel_length_m or length < 2.5 * width:
            continue
        depths = f.terrain.frame.sample(f.depth, path[:, 0], path[:, 1])
        if np.nanmedian(f.terrain.frame.sample(best, path[:, 0], path[:, 1])) < 1.2 * f.settings.channel_m:
            continue
        bends = _bends(path)
        cell = _outer_bend(f, bends, path)
        top, base = (float(v) for v in np.nanpercentile(depths, [5, 95]))
        rise = float(np.median(best[region]))
        out.append(f.feature("channel", cell, region, max(top - rise, 0.0), base, line=path, bends=tuple(bends)))
    return sorted(out, key=lambda f: -f.area_m2)


def _outer_bend(f: StructureFields, bends: list[tuple[float, float]], path: Floats) -> int:
    """The bend whose bank is steepest, else the deepest place of the path."""
    frame = f.terrain.frame
    if bends:
        points = np.array(bends)
        steep = ndimage.maximum_filter(f.terrain.slope_deg, max(round(25.0 / f.cell), 1))
        at = points[int(np.nanargmax(frame.sample(steep, points[:, 0], points[:, 1])))]
    else:
        at = path[int(np.nanargmax(frame.sample(f.depth, path[:, 0], path[:, 1])))]
    return int(frame.cells(at[0], at[1])[0])


def _bends(path: Floats, over_m: float = 160.0, least_deg: float = 40.0) -> list[tuple[float, float]]:
    """Places where a path turns by so much within some channel widths, the sharpest of each turn."""
    steps = np.hypot(*np.diff(path, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    even = np.arange(0.0, along[-1], 5.0)
    if even.size < 8:
        return []
    smooth = [ndimage.gaussian_filter1d(np.interp(even, along, path[:, i]), 3.0) for i in (0, 1)]
    heading = np.unwrap(np.arctan2(np.gradient(smooth[1]), np.gradient(smooth[0])))
    n = max(round(over_m / 2 / 5.0), 1)
    turn = np.zeros(even.size)
    turn[n:-n] = np.degrees(np.abs(heading[2 * n :] - heading[: -2 * n]))
    peaks = (turn >= least_deg) & (turn >= ndimage.maximum_filter1d(turn, 2 * n + 1))
    return [(float(smooth[0][i]), float(smooth[1][i])) for i in np.flatnonzero(peaks)]
