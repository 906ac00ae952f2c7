"""Inside turns of a break."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.terrain import plan_curvature, slope_deg


def turns(f: StructureFields) -> list[Feature]:
    """Inside turns: where the contours of a break bend into the shallow."""
    bend = plan_curvature(f.depth, f.cell, 22.0)
    slope = slope_deg(f.depth, f.cell, 12.0)
    inside = f.terrain.known & (f.open_m > 60.0) & (ndimage.distance_transform_edt(f.terrain.known) * f.cell > 30.0)
    hollow = inside & (bend < -1.0 / 70.0) & (slope >= 3.0)
    out = []
    for region in f.parts(hollow, 400.0):
        depths = f.depth[region]
        if np.ptp(depths) < 1.5:
            continue
        top, base = (float(v) for v in np.percentile(depths, [5, 95]))
        upper = region & (f.depth <= np.percentile(depths, 30))
        cell = int(np.where(upper, -bend, -np.inf).argmax())
        out.append(f.feature("inside turn", cell, region, top, base))
    return sorted(out, key=lambda f: -(f.depth_base_m - f.depth_top_m))[:25]
