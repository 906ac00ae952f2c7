"""Contacts in open water that no structure explains: clusters of a day that drift with the wind and grow old."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from plumbbob.core.types import Floats

_REACH_M, _DAY_S = 150.0, 16 * 3600.0
_DRIFT = 0.02  # of the wind's speed: surface water, and what swims with it, to within half
_WANDER_MPS = 0.03  # fish go their own ways beside


@dataclass(frozen=True, slots=True, kw_only=True)
class Cluster:
    """Fish of one day in open water. Metres on the plane, seconds since 1970."""

    x: float
    y: float
    spread_m: float
    depth_m: float
    time: float
    count: int

    def at(self, time: float, wind_mps: float = 0.0, wind_from_deg: float = 0.0) -> tuple[float, float, float]:
        """
        Where it would be by a time, and how far that is good, if it went with the wind as surface water does.

        Examples
        --------
        >>> c = Cluster(x=0.0, y=0.0, spread_m=30.0, depth_m=8.0, time=0.0, count=5)
        >>> tuple(round(v) for v in c.at(3600.0, 5.0, 270.0))
        (360, 0, 212)
        """
        age = max(time - self.time, 0.0)
        to = math.radians(wind_from_deg + 180.0)
        gone = _DRIFT * wind_mps * age
        unsure = math.sqrt(self.spread_m**2 + (0.5 * gone) ** 2 + (_WANDER_MPS * age) ** 2)
        return self.x + gone * math.sin(to), self.y + gone * math.cos(to), unsure


def clusters(
    x: Floats, y: Floats, time: Floats, depth_m: Floats, count: Floats, *, least: float = 3
) -> list[Cluster]:
    """
    Contacts that lie near each other on one outing, joined.

    Parameters
    ----------
    x, y, time, depth_m, count : (n,) arrays
        Of contacts away from all structure; NaN depth where unknown.
    least : float
        Fewer fish than that are no cluster.
    """
    if x.size == 0:
        return []
    # time as a third way to be apart
    where = np.column_stack([x, y, time * (_REACH_M / _DAY_S)])
    pairs = cKDTree(where).query_pairs(_REACH_M, output_type="ndarray")
    ones = np.ones(len(pairs))
    links = coo_matrix((ones, (pairs[:, 0], pairs[:, 1])), shape=(x.size, x.size))
    _, label = connected_components(links, directed=False)
    found = []
    for k in range(label.max() + 1):
        mine = label == k
        if count[mine].sum() < least:
            continue
        weight = np.maximum(count[mine], 1e-9)
        cx, cy = float(np.average(x[mine], weights=weight)), float(np.average(y[mine], weights=weight))
        depths = depth_m[mine][np.isfinite(depth_m[mine])]
        spread = math.sqrt(float(np.average((x[mine] - cx) ** 2 + (y[mine] - cy) ** 2, weights=weight)))
        found.append(
            Cluster(x=cx, y=cy, spread_m=max(spread, 10.0), depth_m=float(np.median(depths)) if depths.size else
            math.nan,
                    time=float(time[mine].max()), count=round(float(count[mine].sum())))
        )  # fmt: skip
    return sorted(found, key=lambda c: -c.time)
