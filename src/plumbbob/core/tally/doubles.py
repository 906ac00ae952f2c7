"""The same thing marked twice: pairs that lie within their own spread, and the one mark they make."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from plumbbob.core.types import Floats

USUAL_SD_M = 4.0  # of a mark whose spread is not known
_MOST_M, _SDS = 25.0, 2.0
_DEPTH_M = 1.5


@dataclass(frozen=True, slots=True)
class Merged:
    """One place of several: metres on the plane, its spread, and the depth that most speaks for."""

    x: float
    y: float
    sd_m: float
    depth_m: float
    bottom_m: float


def same_thing(
    x: Floats, y: Floats, sd_m: Floats, depth_m: Floats, bottom_m: Floats, kind: NDArray[np.int64]
) -> list[NDArray[np.int64]]:
    """
    Groups of marks that are one thing: of one kind, no farther apart than twice their common spread, at one depth.

    Parameters
    ----------
    x, y : (n,) arrays
        Metres on a plane.
    sd_m, depth_m, bottom_m : (n,) arrays
        NaN where unknown; a depth that is not known speaks neither for nor against.
    kind : (n,) int array

    Returns
    -------
    list of int arrays
        Each of two and more, oldest number first. A chain whose ends are farther apart than its links is no group.
    """
    if x.size < 2:
        return []
    sd = np.where(np.isfinite(sd_m), sd_m, USUAL_SD_M)
    pairs = cKDTree(np.column_stack([x, y])).query_pairs(_MOST_M, output_type="ndarray")
    if not pairs.size:
        return []
    i, j = pairs.T
    far = np.hypot(x[i] - x[j], y[i] - y[j])
    close = (kind[i] == kind[j]) & (far <= _SDS * np.hypot(sd[i], sd[j]))
    for value in (depth_m, bottom_m):
        apart = np.abs(value[i] - value[j])
        close &= ~(apart > _DEPTH_M)
    order = np.argsort(far[close], kind="stable")
    group = np.arange(x.size)
    linked = {(int(a), int(b)) for a, b in zip(i[close], j[close], strict=True)}
    linked |= {(b, a) for a, b in linked}
    members: dict[int, list[int]] = {}
    for a, b in zip(i[close][order].tolist(), j[close][order].tolist(), strict=True):
        left, right = members.get(group[a], [a]), members.get(group[b], [b])
        if group[a] != group[b] and all((p, q) in linked for p in left for q in right):
            both = sorted(left + right)
            members.pop(int(group[a]), None), members.pop(int(group[b]), None)
            group[both] = both[0]
            members[both[0]] = both
    return [np.array(m) for m in sorted(members.values())]


def merged(x: Floats, y: Floats, sd_m: Floats, depth_m: Floats, bottom_m: Floats) -> Merged:
    """
    The one mark: each counts by how well it is placed.

    Examples
    --------
    >>> nan = np.full(2, np.nan)
    >>> m = merged(np.array([0.0, 3.0]), np.zeros(2), np.array([1.0, 2.0]), np.array([8.0, np.nan]), nan)
    >>> round(m.x, 3), round(m.sd_m, 3), m.depth_m
    (0.6, 0.894, 8.0)
    """
    sd = np.where(np.isfinite(sd_m), sd_m, USUAL_SD_M)
    weight = 1.0 / np.maximum(sd, 0.1) ** 2
    mean = [float(np.average(v, weights=weight)) for v in (x, y)]
    depths = [
        float(np.mean(v[np.isfinite(v)])) if np.isfinite(v).any() else float("nan") for v in (depth_m, bottom_m)
    ]
    return Merged(mean[0], mean[1], float(1.0 / np.sqrt(weight.sum())), depths[0], depths[1])
