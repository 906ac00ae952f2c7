"""Drowned roads: crossings of many tracks joined into long, narrow, nearly straight lines of one height and width."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import cKDTree

from plumbbob.core.chart.crossings import BANK, CUT, DITCHES, Crossings
from plumbbob.core.chart.grid import Grid
from plumbbob.core.types import Floats, Mask

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature

# across the road: over all at half its height, or from ditch to ditch (docs/handbook.md, 7.1)
_WIDE_M = {BANK: (4.2, 15.0), CUT: (4.2, 14.0), DITCHES: (4.5, 15.0)}
_LONG_M = 60.0
_FEWEST = 3  # crossings
_CHANCE = 0.05  # lines of chance crossings that a water may show
_FITS = 0.3  # share of chance crossings that fit in height and width
_AROUND_M = 200.0
_FURTHER_M = 160.0  # over a gap, where two crossings or more carry on
_ALIKE = 0.45  # least share of heights and of widths, from one crossing to the next
_TURN = 0.16  # sideways for each metre ahead
_WANDER_M = 3.0  # of fixes, both together
_LOOK_BACK_M = 70.0  # over which the way of the last crossings is taken
_NEAR_M = 9.0
_MOST_MORE_M = 15.0
_BARE_M = 24.0  # sounded stretch without a crossing that ends a road: a gap, or a bridge that is gone
_SEEN = 0.6  # least share of what is sounded on the line that shows it


def find_roads(grid: Grid) -> list[Feature]:
    """
    Banks, cuts and pairs of ditches that many tracks cross one behind the other; lines on the chart's plane.

    Notes
    -----
    What speaks against a road counts as well: a track that runs over the line and shows nothing there.
    """
    crossings = grid.crossings
    reach = float(np.clip(2.6 * grid.spacing_m, 40.0, 110.0))
    out: list[Feature] = []
    for kind in (BANK, CUT, DITCHES):
        at = np.flatnonzero(crossings.kind == kind)
        for chain in _Chains(crossings, at, reach).found():
            out += _roads_on(grid, crossings, chain, kind)
    return out


class _Chains:
    """Crossings of one kind, joined one behind the other."""

    def __init__(self, crossings: Crossings, at: NDArray[np.intp], reach: float) -> None:
        self.at, self.reach = at, reach
        self.place = np.stack([crossings.x[at], crossings.y[at]], axis=1)
        self.limits = _WIDE_M[int(crossings.kind[at[0]])] if at.size else (0.0, 0.0)
        self.free = np.ones(at.size, bool)
        # plain numbers: each crossing has a handful of neighbours, too few for arrays
        self.spots: list[tuple[float, float]] = [(float(x), float(y)) for x, y in self.place]
        self.rise = [abs(float(r)) for r in crossings.rise_m[at]]
        self.width, self.heading = crossings.width_m[at].tolist(), crossings.heading_rad[at].tolist()
        self.tree = cKDTree(self.place) if at.size else None

    def found(self) -> list[NDArray[np.intp]]:
        """Chains of numbers of crossings, longest first; each crossing in one of them."""
        if self.at.size < _FEWEST:
            return []
        assert self.tree is not None
        _, near = self.tree.query(self.place, k=min(6, self.at.size))
        self.beside: list[list[int]] = [list(k) for k in self.tree.query_ball_point(self.place, self.reach)]
        grown: set[tuple[int, ...]] = set()
        joined: set[tuple[int, int]] = set()
        for i, others in enumerate(near[:, 1:].tolist()):
            for j in others:
                if (i, j) not in joined:  # else it would only grow the same chain again
                    chain = self._grown(i, j)
                    grown.add(chain)
                    joined.update([*pairwise(chain), *pairwise(chain[::-1]), (i, j), (j, i)])
        out: list[NDArray[np.intp]] = []
        for chain in sorted(grown, key=lambda c: (-len(c), c)):
            left = [k for k in chain if self.free[k]]
            if len(left) < _FEWEST or len(left) < 0.6 * len(chain):
                continue
            line = self.place[left]
            if math.hypot(*(line[-1] - line[0])) < _LONG_M or self.at.size * self._by_chance(left) > _CHANCE:
                continue
            left = self._further(left)
            out.append(self.at[left])
            self.free[left] = False
            self.free &= _distance_to(self.place[left], self.place) >= _NEAR_M
        return out

    def _by_chance(self, chain: list[int]) -> float:
        """How probable it is that crossings strewn as about here carry one on so far."""
        line = self.place[chain]
        away = _distance_to(line, self.place)
        steps = np.hypot(*np.diff(line, axis=0).T)
        area = 2 * _AROUND_M * steps.sum() + math.pi * _AROUND_M**2
        others = int(((away <= _AROUND_M) & (away > _NEAR_M)).sum())
        strewn = (others + 1.0) / area * _FITS
        return float(np.prod(np.minimum(strewn * steps * (2 * _WANDER_M + _TURN * steps), 1.0)))

    def _further(self, chain: list[int]) -> list[int]:
        """The chain over gaps at both ends, where more crossings than chance would have carry on behind them."""
        for _ in range(2):
            while True:
                more: list[int] = []
                while (k := self._next(chain + more, _FURTHER_M if not more else self.reach)) is not None:
                    if not self.free[k]:
                        break
                    more.append(k)
                if len(more) < 2 or self._by_chance([chain[-1], *more]) > _CHANCE:
                    break
                chain = chain + more
            chain = chain[::-1]
        return chain

    def _fits(self, i: int, k: int, way: float) -> bool:
        """Two could be crossings of the same line, if it runs that way."""
        one = self.width[i] * abs(math.sin(way - self.heading[i]))
        two = self.width[k] * abs(math.sin(way - self.heading[k]))
        low, high = self.limits
        if not (low <= one <= high and low <= two <= high) or min(one, two) <= _ALIKE * max(one, two):
            return False
        return min(self.rise[i], self.rise[k]) > _ALIKE * max(self.rise[i], self.rise[k])

    def _grown(self, i: int, j: int) -> tuple[int, ...]:
        """The chain through two crossings, as far as it goes both ways."""
        east, north = self.spots[j][0] - self.spots[i][0], self.spots[j][1] - self.spots[i][1]
        if not 2.0 < math.hypot(east, north) <= self.reach or not self._fits(i, j, math.atan2(north, east)):
            return ()
        chain = [i, j]
        for _ in range(2):
            while (k := self._next(chain, self.reach)) is not None:
                chain.append(k)
            chain.reverse()
        return tuple(chain)

    def _way(self, chain: list[int]) -> float:
        """Way of the last crossings of a chain, from the x axis: the main axis of their places."""
        x, y = self.spots[chain[-1]]
        back = [self.spots[k] for k in chain if math.dist(self.spots[k], (x, y)) <= _LOOK_BACK_M]
        if len(back) < 2:
            back = [self.spots[k] for k in chain[-2:]]
        straight = math.atan2(y - back[0][1], x - back[0][0])
        mx, my = (sum(p[n] for p in back) / len(back) for n in (0, 1))
        xx, yy = sum((p[0] - mx) ** 2 for p in back), sum((p[1] - my) ** 2 for p in back)
        axis = 0.5 * math.atan2(2 * sum((p[0] - mx) * (p[1] - my) for p in back), xx - yy)
        return axis if math.cos(axis - straight) >= 0 else axis + math.pi

    def _next(self, chain: list[int], reach: float) -> int | None:
        last = chain[-1]
        x, y = self.spots[last]
        way = self._way(chain)
        c, s = math.cos(way), math.sin(way)
        near = self.beside[last]
        if reach > self.reach:
            assert self.tree is not None
            near = self.tree.query_ball_point((x, y), reach)
        best, cost = None, math.inf
        for k in near:
            east, north = self.spots[k][0] - x, self.spots[k][1] - y
            ahead, aside = east * c + north * s, abs(north * c - east * s)
            room = _WANDER_M + _TURN * ahead
            if not 1.5 < ahead <= reach or aside > room or k in chain:
                continue
            price = ahead / reach + aside / room
            # so near, the way between the two is mostly their fixes' wander
            if price < cost and self._fits(last, k, math.atan2(north, east) if ahead > 12.0 else way):
                best, cost = k, price
        return best


def _distance_to(line: Floats, points: Floats) -> Floats:
    """Distance of points to a polyline."""
    a, b = line[:-1], line[1:]
    way = b - a
    long2 = np.maximum((way**2).sum(axis=1), 1e-9)
    t = np.clip(((points[:, None] - a) * way).sum(axis=2) / long2, 0.0, 1.0)
    return np.asarray(np.hypot(*np.moveaxis(points[:, None] - (a + t[..., None] * way), 2, 0)).min(axis=1))


def _roads_on(grid: Grid, crossings: Crossings, chain: NDArray[np.intp], kind: int) -> list[Feature]:
    """What of a chain is a road: stretches on which the tracks that run over it show it."""
    line = np.stack([crossings.x[chain], crossings.y[chain]], axis=1)
    smooth = np.stack([_smoothed(line[:, i]) for i in (0, 1)], axis=1)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(smooth, axis=0).T))])
    at = np.arange(0.0, along[-1], 2.0)
    path = np.stack([np.interp(at, along, smooth[:, i]) for i in (0, 1)], axis=1)
    frame = grid.frame
    sounded = (grid.count > 0) if frame.cell_m > 3.0 else ndimage.binary_dilation(grid.count > 0)
    cell, inside = frame.cells(path[:, 0], path[:, 1])
    run_over = sounded.flat[cell] & inside
    shows = cKDTree(line).query(path)[0] <= _NEAR_M
    bare = run_over & ~shows
    out = []
    for a, b in _pieces(at, bare):
        part = (along >= at[a] - 1.0) & (along <= at[b] + 1.0)
        seen = run_over[a : b + 1]
        if at[b] - at[a] < 0.4 * _LONG_M or part.sum() < 2:
            continue
        if seen.any() and float((shows[a : b + 1] & seen).sum()) < _SEEN * float(seen.sum()):
            continue
        share = float((shows[a : b + 1] & seen).sum()) / max(float(seen.sum()), 1.0) if seen.any() else 0.8
        out.append(
            _feature(crossings, chain[part], smooth[part], kind, min(share, 1.0 - 1.0 / (1.0 + float(part.sum()))))
        )
    return out


def _smoothed(values: Floats) -> Floats:
    """Half of each neighbour: fixes wander."""
    out = values.copy()
    out[1:-1] = 0.5 * values[1:-1] + 0.25 * (values[:-2] + values[2:])
    return out


def _longer(line: Floats) -> Floats:
    """A road goes on behind its last crossing, on average by half the way to the next."""
    more = min(0.5 * float(np.median(np.hypot(*np.diff(line, axis=0).T))), _MOST_MORE_M)
    ends = [
        p + more * (p - q) / max(math.hypot(*(p - q)), 1e-6) for p, q in ((line[0], line[1]), (line[-1], line[-2]))
    ]
    return np.concatenate([ends[:1], line, ends[1:]])


def _pieces(at: Floats, bare: Mask) -> list[tuple[int, int]]:
    """First and last index of what is left between long bare stretches."""
    labels, count = ndimage.label(bare)
    out, start = [], 0
    for (span,) in ndimage.find_objects(labels) if count else []:
        if at[span.stop - 1] - at[span.start] >= _BARE_M:
            out.append((start, max(span.start - 1, start)))
            start = span.stop
    return [*out, (min(start, at.size - 1), at.size - 1)]


def _feature(crossings: Crossings, chain: NDArray[np.intp], line: Floats, kind: int, chance: float) -> Feature:
    from plumbbob.core.chart.feature import Feature

    base, rise = crossings.depth_m[chain], crossings.rise_m[chain]
    way = np.arctan2(*np.flip(np.gradient(line, axis=0).T, axis=0))
    width = float(np.median(crossings.width_m[chain] * np.abs(np.sin(way - crossings.heading_rad[chain]))))
    length = float(np.hypot(*np.diff(line, axis=0).T).sum())
    middle = line[len(line) // 2]
    return Feature(
        kind="road",
        x=float(middle[0]),
        y=float(middle[1]),
        depth_top_m=float((base - np.maximum(rise, 0.0)).min()),
        depth_base_m=float((base - np.minimum(rise, 0.0)).max()),
        slope_max_deg=math.degrees(math.atan2(float(np.median(np.abs(rise))), max(width / 3.0, 1.0))),
        area_m2=length * width,
        shape=_longer(line),
        is_line=True,
        chance=chance,
        rise_m=float(np.median(rise)),
    )
