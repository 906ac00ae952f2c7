"""
Where a track crosses something long and narrow: the bank or the cut of a drowned road, a pair of ditches.

Cells of some metres wash out what is six metres wide and half a metre proud; the soundings of a line across it do
not. So it is looked for along each track, before soundings become cells, and joined over many tracks (`roads`).
"""

from __future__ import annotations

from dataclasses import dataclass, fields
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.types import Floats

BANK, CUT, DITCHES = 0, 1, 2
_STEP_M = 0.75  # between the values a track is looked at
_BREAK_M = 6.0
_SHORTEST_M = 60.0
_WIDEST_M = 36.0  # along the track
_LEAST_M, _MOST_M = 0.25, 1.8  # height of what counts
_SLOPE_M = 50.0
_EDGE_M, _EDGE_SHARE = 3.75, 0.35  # natural ground takes longer to rise
_APART_M = (4.5, 22.0)  # from ditch to ditch, along the track
_NOISES = 4.0
_SIXTH = 6
_OWN_SHARE = 0.6  # of its height that must stand over both sides


@dataclass(frozen=True, slots=True, eq=False)
class Crossings:
    """Places where tracks cross something narrow; shape (n,) each."""

    x: Floats
    y: Floats
    kind: NDArray[np.int8]  # BANK, CUT or DITCHES
    rise_m: Floats  # over the ground beside it, negative for what is cut in
    width_m: Floats  # along the track, at half its height; from ditch to ditch
    heading_rad: Floats  # way of the track, from the x axis
    depth_m: Floats  # of the ground beside it
    edge_m: Floats  # along the track from a quarter to three quarters of the height, the longer of both sides

    def __len__(self) -> int:
        return int(self.x.size)

    def with_more(self, other: Crossings) -> Crossings:
        """These and others."""
        names = [f.name for f in fields(Crossings)]
        return Crossings(*(np.concatenate([getattr(self, n), getattr(other, n)]) for n in names))


def no_crossings() -> Crossings:
    """None at all."""
    return _gathered([])


def _gathered(rows: list[tuple[float, ...]]) -> Crossings:
    table = np.array(rows, float).reshape(-1, 8)
    x, y, kind, rise, width, heading, depth, edge = table.T
    return Crossings(x, y, kind.astype(np.int8), rise, width, heading, depth, edge)


def find_crossings(x: Floats, y: Floats, depth_m: Floats) -> Crossings:
    """
    Narrow rises and cuts along tracks.

    Parameters
    ----------
    x, y, depth_m : ndarray (n,)
        Cleaned soundings in the order they were taken. Without an order, or with soundings further apart than what is
        looked for is wide, nothing is found.

    Notes
    -----
    The top-hat of Serra (1982) along the track: what rises over an opening with a length of 30 m. A ledge's edge or a
    slope gives nothing, and a wide hump neither.
    """
    if x.size < 50:
        return no_crossings()
    step = np.hypot(np.diff(x), np.diff(y))
    cuts = np.flatnonzero(step > _BREAK_M) + 1
    rows: list[tuple[float, ...]] = []
    for a, b in zip(np.concatenate([[0], cuts]), np.concatenate([cuts, [x.size]]), strict=True):
        along = np.concatenate([[0.0], np.cumsum(step[a : b - 1])])
        if along[-1] < _SHORTEST_M:
            continue
        moved = np.concatenate([[True], np.diff(along) > 0])
        at = np.arange(0.0, along[-1], _STEP_M)
        tx, ty, td = (np.interp(at, along[moved], v[a:b][moved]) for v in (x, y, depth_m))
        rows += _on_track(tx, ty, td)
    return _gathered(rows)


def _on_track(x: Floats, y: Floats, depth: Floats) -> list[tuple[float, ...]]:
    # beside a bank on a slope an opening alone would see a cut: the slope goes first
    slope = ndimage.uniform_filter1d(ndimage.median_filter(depth, int(_SLOPE_M / _STEP_M) | 1, mode="nearest"), 9)
    level = ndimage.median_filter(depth, 3, mode="nearest") - slope
    length = int(_WIDEST_M / _STEP_M) | 1
    # way of the track over some metres: a wandering fix turns on the spot
    wide = int(8.0 / _STEP_M)
    heading = np.arctan2(
        ndimage.uniform_filter1d(np.gradient(y), wide, mode="nearest"),
        ndimage.uniform_filter1d(np.gradient(x), wide, mode="nearest"),
    )
    out: list[tuple[float, ...]] = []
    proud = -level - ndimage.grey_opening(-level, length, mode="nearest")
    sunk = level - ndimage.grey_opening(level, length, mode="nearest")
    for sign, over in ((1.0, proud), (-1.0, sunk)):
        usual = _running_median(over, 4 * length)
        rough = 1.4826 * _running_median(np.abs(over - usual), 4 * length)
        runs = _runs(over - usual, np.maximum(_LEAST_M, _NOISES * rough))
        wides = [r for r in runs if r[3] >= 3.0]
        for first, last, rise, width, edge in wides:
            if width <= _WIDEST_M - 3.0 and rise <= _MOST_M and edge <= max(_EDGE_M, _EDGE_SHARE * width):
                m = (first + last) // 2
                own = sign * (_beside(depth, first, last) - float(np.median(depth[first : last + 1])))
                if own >= _OWN_SHARE * rise:
                    row = (x[m], y[m], BANK if sign > 0 else CUT, sign * rise, width, heading[m])
                    out.append((*row, float(depth[m] + sign * rise), edge))
        if sign < 0:
            out += _ditches(runs, x, y, depth, heading, sunk - usual)
    return out


def _beside(depth: Floats, first: int, last: int) -> float:
    """The ground where a crossing is, by the ground on both sides of it: the tread of a stair stands over nothing."""
    off, some = int(2.0 / _STEP_M), int(6.0 / _STEP_M)
    before, after = depth[max(first - off - some, 0) : max(first - off, 1)], depth[last + off : last + off + some]
    return (float(np.median(before)) + float(np.median(after if after.size else before))) / 2


def _running_median(values: Floats, wide: int) -> Floats:
    """Over many values: every sixth of them tells it as well."""
    some = ndimage.median_filter(values[::_SIXTH], wide // _SIXTH | 1, mode="nearest")
    return np.asarray(np.repeat(some, _SIXTH)[: values.size])


_Run = tuple[int, int, float, float, float]  # first and last index, height, width at half of it, longer edge


def _edge(outwards: Floats, inwards: Floats, rise: float) -> float:
    """Way along the track from a quarter to three quarters of a height."""
    out = int(np.argmax(outwards < 0.25 * rise)) if (outwards < 0.25 * rise).any() else outwards.size
    inside = int(np.argmax(inwards > 0.75 * rise)) if (inwards > 0.75 * rise).any() else inwards.size
    return (out + inside) * _STEP_M


def _runs(over: Floats, least: Floats) -> list[_Run]:
    """Each stretch that stands out."""
    labels, count = ndimage.label(over > least)
    out: list[_Run] = []
    for (span,) in ndimage.find_objects(labels) if count else []:
        rise = float(np.percentile(over[span], 75))
        a, b = span.start, span.stop - 1
        half = 0.5 * rise
        while a > 0 and over[a - 1] > half:
            a -= 1
        while b < over.size - 1 and over[b + 1] > half:
            b += 1
        inside = np.flatnonzero(over[a : b + 1] > half)
        first, last = a + int(inside[0]), a + int(inside[-1])
        edge = max(_edge(over[first::-1], over[first:], rise), _edge(over[last:], over[last::-1], rise))
        out.append((first, last, rise, (last - first + 1) * _STEP_M, edge))
    return out


def _ditches(
    runs: list[_Run], x: Floats, y: Floats, depth: Floats, heading: Floats, sunk: Floats
) -> list[tuple[float, ...]]:
    """Two narrow cuts alike side by side, and level ground between them."""
    out: list[tuple[float, ...]] = []
    for one, two in pairwise(runs):
        middles = (one[0] + one[1]) / 2, (two[0] + two[1]) / 2
        apart = (middles[1] - middles[0]) * _STEP_M
        alike = min(one[2], two[2]) > 0.5 * max(one[2], two[2])
        narrow = max(one[3], two[3]) < 0.5 * apart + 0.75
        if not (_APART_M[0] <= apart <= _APART_M[1] and alike and narrow and max(one[2], two[2]) < _MOST_M):
            continue
        between = sunk[one[1] + 1 : two[0]]
        m = round(sum(middles) / 2)
        if between.size and float(np.median(between)) < 0.35 * min(one[2], two[2]):
            out.append(
                (x[m], y[m], DITCHES, -(one[2] + two[2]) / 2, apart, heading[m], float(depth[m]), max(one[4], two[4]))
            )
    return out
