"""Where to wait between bait on a flat and the deep water its hunters come up from."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from plumbbob.core.chart.grid import Grid

_DEEPER_M = 3.0
_FARTHEST_M = 600.0
_STEP_SHARE = 0.5  # of a cell
_OUT_OF_BAIT_M = 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Intercept:
    """A place to wait, in the grid's metres, with the line it lies on."""

    x: float
    y: float
    depth_m: float
    bait_x: float
    bait_y: float
    bait_depth_m: float  # of the bottom under the bait
    deep_x: float
    deep_y: float
    deep_depth_m: float
    from_bait_m: float
    slope_deg: float  # steepest on the way


def find_intercept(grid: Grid, bait_x: float, bait_y: float, *, deep_m: float = math.nan) -> Intercept:
    """
    The upper edge of the break on the shortest way from deep water to bait.

    Parameters
    ----------
    grid : Grid
    bait_x, bait_y : float
        Where the bait is, in the grid's metres.
    deep_m : float
        Depth of bottom that counts as deep; by default three metres more than under the bait.

    Raises
    ------
    ValueError
        In one line: off the chart, or no deep water near.

    Notes
    -----
    The nearest deep cell by distance over water the chart knows; along the straight way to it the place is where the
    slope first passes half of the way's steepest, at least 15 m out of the bait where the way is that long.
    """
    depth, frame = grid.depth_m, grid.frame
    here = frame.nearest(depth, bait_x, bait_y)
    if not math.isfinite(here):
        raise ValueError("the bait lies off the chart")
    row, column = (round(float(v)) for v in frame.row_column(bait_x, bait_y))
    deep = deep_m if math.isfinite(deep_m) else here + _DEEPER_M
    with np.errstate(invalid="ignore"):
        enough = depth >= deep
    if not enough.any():
        raise ValueError("no deeper water on this chart: no way to wait on")
    away, index = ndimage.distance_transform_edt(~enough, return_indices=True)
    if away[row, column] * frame.cell_m > _FARTHEST_M:
        raise ValueError(f"no deeper water within {_FARTHEST_M:.0f} m of this bait")
    if away[row, column] == 0:
        raise ValueError("this bait already hangs over deep water: there is no break to wait on")
    end_x, end_y = (float(v) for v in frame.xy(index[0][row, column], index[1][row, column]))
    end = (end_x, end_y)
    start = (bait_x, bait_y)
    length = math.hypot(end[0] - start[0], end[1] - start[1])
    n = max(int(length / (frame.cell_m * _STEP_SHARE)), 8)
    share = np.linspace(0.0, 1.0, n + 1)
    xs, ys = start[0] + share * (end[0] - start[0]), start[1] + share * (end[1] - start[1])
    profile = frame.sample(depth, xs, ys)
    profile = np.where(
        np.isfinite(profile), profile, np.interp(share, share[np.isfinite(profile)], profile[np.isfinite(profile)])
    )
    slope = np.gradient(ndimage.gaussian_filter1d(profile, 1.0), length / n)
    steepest = float(slope.max())
    out = share * length >= min(_OUT_OF_BAIT_M, length / 2)
    k = (
        int(np.argmax((slope >= steepest / 2) & out))
        if ((slope >= steepest / 2) & out).any()
        else int(np.argmax(slope))
    )
    return Intercept(
        x=float(xs[k]),
        y=float(ys[k]),
        depth_m=float(profile[k]),
        bait_x=bait_x,
        bait_y=bait_y,
        bait_depth_m=here,
        deep_x=end[0],
        deep_y=end[1],
        deep_depth_m=float(profile[-1]),
        from_bait_m=float(share[k] * length),
        slope_deg=math.degrees(math.atan(max(steepest, 0.0))),
    )
