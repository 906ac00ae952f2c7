"""
The quickest ways over water: straight legs around the corners of the land, at the speed the wind allows.

Land grown by the distance to keep off is what may not be crossed; between places and its outer corners all straight
legs that stay clear of it make a graph, and the quickest paths through that are the ways.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from pyproj import Geod
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import dijkstra
from shapely.geometry.base import BaseGeometry

from plumbbob.core.geodesy import Position, metres_per_degree
from plumbbob.core.types import Floats

_GEOD = Geod(ellps="WGS84")
_HAIR_M = 0.02  # legs may touch what may not be crossed
_ROUND = 8  # straight pieces of a quarter of a round corner
_LEAST_FINE_M, _FINE_SHARE = 0.1, 0.003  # the outline of grown land is simplified by so much, and grown by as much
_MOST_CORNERS = 900
_ASHORE_M = 50.0  # so far a place may lie on land


@dataclass(frozen=True, slots=True)
class Boat:
    """Speeds in still water, against the wind and before it, m/s, and where the wind is from; NaN: no wind."""

    speed_mps: float
    upwind_mps: float
    downwind_mps: float
    wind_from_deg: float = math.nan

    def speed(self, course_deg: Floats) -> Floats:
        """Speed on courses, shape as given."""
        course = np.asarray(course_deg, np.float64)
        if not math.isfinite(self.wind_from_deg):
            return np.full(course.shape, self.speed_mps)
        x = np.cos(np.radians(course - self.wind_from_deg))
        against = self.speed_mps + x * (self.upwind_mps - self.speed_mps)
        before = self.speed_mps - x * (self.downwind_mps - self.speed_mps)
        return np.where(x >= 0, against, before)


@dataclass(frozen=True, slots=True, eq=False)
class Ways:
    """Seconds from every place to every other, shape (n, n), infinite where there is no way; and the ways."""

    seconds: Floats
    places: tuple[Position, ...]
    _node: tuple[Position, ...]
    _from: tuple[np.ndarray, ...]  # of each place: predecessors of all nodes

    def way(self, start: int, end: int) -> list[Position]:
        """Corners from one place to another, both ends with it."""
        if start == end:
            return [self.places[start]]
        out, at = [], end
        before = self._from[start]
        while at != start:
            out.append(self._node[at])
            at = int(before[at])
            if at < 0:
                raise ValueError("there is no way between these places")
        return [self._node[start], *reversed(out)]


@dataclass(frozen=True, slots=True)
class _Frame:
    """A plane about the middle of all places, metres."""

    latitude: float
    longitude: float

    def xy(self, latitude: Floats, longitude: Floats) -> Floats:
        north, east = metres_per_degree(self.latitude)
        return np.stack([_wide(longitude - self.longitude) * east, (latitude - self.latitude) * north], axis=-1)

    def position(self, xy: Floats) -> Position:
        north, east = metres_per_degree(self.latitude)
        longitude = self.longitude + float(xy[0] / east)
        return Position(self.latitude + float(xy[1] / north), float(_wide(np.asarray(longitude))))


def find_ways(places: Sequence[Position], boat: Boat, land: BaseGeometry | None, keep_off_m: float = 0.0) -> Ways:
    """
    Quickest ways between all places.

    Parameters
    ----------
    places : sequence of Position
    boat : Boat
    land : shapely geometry, optional
        Polygons in longitude and latitude; holes are water.
    keep_off_m : float
        From land. A place nearer than that, or up to 50 m ashore, is joined by a straight line to the nearest water
        that is allowed, of at most twice that distance and 50 m.
    """
    n = len(places)
    latitude, longitude = np.array([p.latitude for p in places]), np.array([p.longitude for p in places])
    frame = _Frame(float(latitude.mean()), float(longitude[0] + _wide(longitude - longitude[0]).mean()))
    xy = frame.xy(latitude, longitude)
    if land is None or land.is_empty:
        return _solve(list(places), np.ones((n, n), bool) & ~np.eye(n, dtype=bool), places, boat)
    flat = shapely.transform(land, lambda c: frame.xy(c[:, 1], c[:, 0]))
    barred = _barred(flat, keep_off_m)
    joins = [_joined(point, barred, flat, keep_off_m) for point in xy]
    corners = _corners(barred)
    water = np.array([np.full(2, np.nan) if j is None else j for j in joins]).reshape(n, 2)
    nodes = np.concatenate([water, corners[:, :2]])
    clear = _clear(nodes, n, corners, barred)
    # places that lie in the band hang on their nearest water by a leg of their own
    aside = [k for k in range(n) if joins[k] is not None and np.hypot(*(water[k] - xy[k])) > 1e-9]
    total = len(nodes) + len(aside)
    full = np.zeros((total, total), bool)
    full[: len(nodes), : len(nodes)] = clear
    points = np.concatenate([nodes, np.zeros((len(aside), 2))])
    for extra, k in enumerate(aside):
        other = len(nodes) + extra
        # the place itself takes the number of its water, which moves to the end
        full[[k, other]] = full[[other, k]]
        full[:, [k, other]] = full[:, [other, k]]
        points[other], points[k] = water[k], xy[k]
        full[k, other] = full[other, k] = True
    # from a place to itself there is no need to go out on the water
    full[:n, :n] |= (xy[:, None] == xy[None, :]).all(axis=2) & ~np.eye(n, dtype=bool)
    known = np.isfinite(points).all(axis=1)
    full &= known[:, None] & known[None, :]
    at = [places[k] if k < n else frame.position(points[k]) for k in range(total)]
    return _solve(at, full, places, boat)


def _wide(degrees: Floats) -> Floats:
    return (degrees + 180.0) % 360.0 - 180.0


def _solve(nodes: list[Position], clear: np.ndarray, places: Sequence[Position], boat: Boat) -> Ways:
    rows, columns = np.nonzero(clear)
    latitude, longitude = np.array([p.latitude for p in nodes]), np.array([p.longitude for p in nodes])
    seconds = np.zeros(0)
    if rows.size:
        course, _, metres = _GEOD.inv(longitude[rows], latitude[rows], longitude[columns], latitude[columns])
        seconds = np.maximum(metres, 1e-6) / boat.speed(np.asarray(course))
    graph = csr_matrix((seconds, (rows, columns)), shape=(len(nodes), len(nodes)))
    n = len(places)
    found, before = dijkstra(graph, directed=True, indices=np.arange(n), return_predecessors=True)
    return Ways(found[:, :n], tuple(places), tuple(nodes), tuple(before))


def _barred(flat: BaseGeometry, keep_off_m: float) -> BaseGeometry:
    """What may not be crossed: land, grown, its outline simplified without coming nearer than asked for."""
    fine = max(_LEAST_FINE_M, _FINE_SHARE * keep_off_m)
    while True:
        # the chords of round corners lie outside the circle they stand for
        outside = (1.002 * keep_off_m + fine) / math.cos(math.pi / (4 * _ROUND))
        grown = flat.buffer(outside, quad_segs=_ROUND).simplify(fine)
        if shapely.get_num_coordinates(grown) <= 2 * _MOST_CORNERS or fine > 20.0:
            return grown
        fine *= 1.6


def _joined(point: Floats, barred: BaseGeometry, flat: BaseGeometry, keep_off_m: float) -> Floats | None:
    """Where a place is joined to allowed water: itself, the nearest, or None where that is too far."""
    here = shapely.Point(point)
    if not barred.contains(here):
        return point
    line = shapely.shortest_line(here, barred.boundary)
    ashore = line.intersection(flat).length if flat.intersects(line) else 0.0
    slack = 2 * max(_LEAST_FINE_M, _FINE_SHARE * keep_off_m)
    if line.length > 2 * keep_off_m + _ASHORE_M + slack or ashore > _ASHORE_M + slack:
        return None
    return np.asarray(line.coords[1], np.float64)


def _corners(barred: BaseGeometry) -> Floats:
    """Corners that a way may bend at, those that stick out into the water, with the corners before and after them."""
    out = []
    for polygon in shapely.get_parts(barred):
        for number, ring in enumerate((polygon.exterior, *polygon.interiors)):
            c = shapely.get_coordinates(ring)[:-1]
            if len(c) < 3:
                continue
            before, after = np.roll(c, 1, axis=0), np.roll(c, -1, axis=0)
            turn = _cross(c - before, after - c)
            # land lies to the left of an outline that runs against the clock, of a hole that runs with it
            area = 0.5 * float(np.sum(c[:, 0] * after[:, 1] - after[:, 0] * c[:, 1]))
            left = (area > 0) == (number == 0)
            keep = turn > 0 if left else turn < 0
            out.append(np.hstack([c, before, after])[keep])
    return np.concatenate(out) if out else np.zeros((0, 6))


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _clear(nodes: Floats, n: int, corners: Floats, barred: BaseGeometry) -> np.ndarray:
    """Which straight legs between nodes stay clear; legs that would cut a corner they end at are left out at once."""
    count = len(nodes)
    a, b = np.triu_indices(count, 1)
    good = np.isfinite(nodes[a]).all(axis=1) & np.isfinite(nodes[b]).all(axis=1)
    a, b = a[good], b[good]
    touches = np.ones(a.size, bool)
    for end, other in ((a, b), (b, a)):
        at = end >= n
        k = end[at] - n
        way = nodes[other[at]] - nodes[end[at]]
        one, two = (_cross(way, corners[k, s] - corners[k, :2]) for s in (slice(2, 4), slice(4, 6)))
        touches[at] &= one * two >= -1e-9
    a, b = a[touches], b[touches]
    keep = np.zeros((count, count), bool)
    if a.size:
        core = barred.buffer(-_HAIR_M)
        shapely.prepare(core)
        lines = shapely.linestrings(np.stack([nodes[a], nodes[b]], axis=1))
        free = ~shapely.intersects(core, lines)
        keep[a[free], b[free]] = keep[b[free], a[free]] = True
    return keep
