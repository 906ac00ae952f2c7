"""Foundations of drowned buildings: a few tracks cross the same low, flat block with steep sides."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from plumbbob.core.chart.crossings import BANK, Crossings
from plumbbob.core.types import Floats, Mask

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature

_LONG_M = (8.0, 32.0)  # of a track on it; 12 to 25 m across, and corners are cut
_LEAST_RISE_M = 0.3
_EDGE_M = 4.5  # natural ground takes longer to rise
_BLOCK_M = 16.0  # crossings of one block lie no further apart
_ALIKE = 0.6
_OFF_ROADS_M = 14.0
_VILLAGE_M = 300.0
_ONE_TRACK, _MORE_TRACKS = 0.35, 0.6  # what was a building in made-up villages (22 of 61, 3 of 5), by tracks over it
_SAME_RISE, _BESIDE_M, _LINED_UP = 0.25, 90.0, 0.4


def find_foundations(crossings: Crossings, roads: Sequence[Feature]) -> list[Feature]:
    """Blocks that are no part of a road; outlines on the chart's plane."""
    from plumbbob.core.chart.feature import Feature

    at = np.flatnonzero(
        (crossings.kind == BANK)
        & (crossings.width_m >= _LONG_M[0])
        & (crossings.width_m <= _LONG_M[1])
        & (crossings.rise_m >= _LEAST_RISE_M)
        & (crossings.edge_m <= _EDGE_M)
    )
    place = np.stack([crossings.x, crossings.y], axis=1)
    to_road = np.full(len(crossings), math.inf)
    if roads and at.size:
        to_road = cKDTree(np.concatenate([_along(road) for road in roads])).query(place)[0]
        at = at[to_road[at] > _OFF_ROADS_M]
    out = []
    free = np.ones(at.size, bool)
    for i in np.argsort(-crossings.rise_m[at]):
        if not free[i]:
            continue
        away = np.hypot(*(place[at] - place[at[i]]).T)
        mine = free & (away <= _BLOCK_M) & (crossings.rise_m[at] >= _ALIKE * crossings.rise_m[at[i]])
        free &= away > _BLOCK_M
        block = at[mine]
        # one track alone may have crossed a rock, unless people lived here
        if block.size < 2 and to_road[block[0]] > _VILLAGE_M:
            continue
        if _goes_on(crossings, block, to_road > _OFF_ROADS_M):
            continue
        ends = _ends(crossings, block)
        low, high = ends.min(axis=0), ends.max(axis=0)
        if np.hypot(*(high - low)) > 1.6 * _LONG_M[1]:
            continue
        middle = place[block].mean(axis=0)
        base, rise = float(np.median(crossings.depth_m[block])), float(np.median(crossings.rise_m[block]))
        out.append(
            Feature(
                kind="foundation",
                x=float(middle[0]),
                y=float(middle[1]),
                depth_top_m=base - rise,
                depth_base_m=base,
                slope_max_deg=math.degrees(math.atan2(0.5 * rise, float(np.median(crossings.edge_m[block])))),
                area_m2=float(np.median(crossings.width_m[block])) ** 2,
                shape=np.array([low, (high[0], low[1]), high, (low[0], high[1]), low]),
                chance=_ONE_TRACK if block.size < 2 else _MORE_TRACKS,
                rise_m=rise,
            )
        )
    return out


def _goes_on(crossings: Crossings, block: NDArray[np.intp], unexplained: Mask) -> bool:
    """What has its height is crossed on both sides, or twice on one: a road that was not recognised as one."""
    alike = (
        unexplained
        & (crossings.kind == BANK)
        & (np.abs(crossings.rise_m / np.median(crossings.rise_m[block]) - 1.0) <= _SAME_RISE)
    )
    alike[block] = False
    others = np.flatnonzero(alike)
    east = crossings.x[others] - crossings.x[block].mean()
    north = crossings.y[others] - crossings.y[block].mean()
    away = np.hypot(east, north)
    near = (away <= _BESIDE_M) & (away > 1.0)
    way = np.arctan2(north[near], east[near])
    turn = np.abs((way[:, None] - way[None, :] + np.pi) % (2 * np.pi) - np.pi)
    apart = np.abs(away[near][:, None] - away[near][None, :])
    return bool(((turn > np.pi - _LINED_UP) | ((turn < _LINED_UP / 2) & (apart > 10.0))).any())


def _ends(crossings: Crossings, block: NDArray[np.intp]) -> Floats:
    half = 0.5 * crossings.width_m[block]
    way = np.stack([np.cos(crossings.heading_rad[block]), np.sin(crossings.heading_rad[block])])
    place = np.stack([crossings.x[block], crossings.y[block]])
    return np.concatenate([(place - half * way).T, (place + half * way).T])


def _along(road: Feature) -> Floats:
    line = road.shape
    far = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0.0, far[-1] + 3.0, 3.0)
    return np.stack([np.interp(at, far, line[:, i]) for i in (0, 1)], axis=1)
