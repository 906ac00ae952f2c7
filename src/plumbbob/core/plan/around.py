"""Around a place: spokes and rings over the deeper water about it, and lanes back and forth with turns."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from plumbbob.core.types import Floats

_STEP_M, _ARC_DEG = 3.0, 6.0
_LEAST_LEG_M = 15.0


@dataclass(frozen=True, slots=True, eq=False)
class Spoke:
    """A way out from a place at one bearing, to where the water gets too shallow or it is far enough."""

    bearing_deg: float
    line: Floats  # (n, 2) eastings and northings, from the place's edge outwards
    deepest_m: float


def spokes(
    centre: tuple[float, float],
    depth_at: Callable[[Floats, Floats], Floats],
    *,
    depth_m: float,
    inner_m: float,
    length_m: float,
    count: int = 8,
    clearance_m: float = 1.0,
) -> tuple[Spoke, ...]:
    """
    Spokes over water that holds a depth: what is suspended off a reef when the reef itself is empty.

    Parameters
    ----------
    depth_at : callable
        Bottom depth, metres, at eastings and northings of any shape; NaN where not known.
    depth_m : float
        Of the bait: a spoke goes on as long as the bottom is deeper than that by the clearance.
    inner_m, length_m : float
        From the middle of the place: where spokes begin and how far they go at most.
    """
    away = np.arange(0.0, length_m + _STEP_M / 2, _STEP_M)
    out = []
    for k in range(count):
        bearing = 360.0 * k / count
        east, north = math.sin(math.radians(bearing)), math.cos(math.radians(bearing))
        x, y = centre[0] + away * east, centre[1] + away * north
        depth = depth_at(x, y)
        ok = (depth >= depth_m + clearance_m) & (away >= inner_m)
        starts = np.flatnonzero(ok)
        if not starts.size:
            continue
        first = int(starts[0])
        ends = np.flatnonzero(~ok[first:])
        last = first + (int(ends[0]) if ends.size else ok.size - first) - 1
        if (last - first) * _STEP_M >= _LEAST_LEG_M:
            line = np.stack([x[first : last + 1], y[first : last + 1]], axis=1)
            out.append(Spoke(bearing, line, float(np.nanmax(depth[first : last + 1]))))
    return tuple(out)


def rings(
    centre: tuple[float, float],
    depth_at: Callable[[Floats, Floats], Floats],
    *,
    depth_m: float,
    radii_m: tuple[float, ...],
    clearance_m: float = 1.0,
) -> tuple[Floats, ...]:
    """Arcs about a place where the water holds a depth, each (n, 2); very short ones are left out."""
    out = []
    for radius in radii_m:
        angle = np.radians(np.arange(0.0, 360.0 + _ARC_DEG / 2, _ARC_DEG))
        x, y = centre[0] + radius * np.sin(angle), centre[1] + radius * np.cos(angle)
        ok = depth_at(x, y) >= depth_m + clearance_m
        runs = np.split(np.arange(ok.size), np.flatnonzero(np.diff(ok.astype(np.int8))) + 1)
        least = max(_LEAST_LEG_M / (math.radians(_ARC_DEG) * radius), 2.0)
        out += [np.stack([x[run], y[run]], axis=1) for run in runs if ok[run[0]] and run.size >= least]
    return tuple(out)


def turn_length_m(radius_m: float, spacing_m: float) -> float:
    """
    Way of a turn by 180 degrees from one lane to the next, no tighter than a radius.

    Notes
    -----
    docs/handbook.md 7.8. Closer than two radii the boat first swings out (a bulb): a = acos((R + s/2) / 2R),
    length R (pi + 4a); else pi R + (s - 2R).

    Examples
    --------
    >>> round(turn_length_m(20.0, 10.0), 1), round(turn_length_m(20.0, 20.0), 1), round(turn_length_m(20.0, 40.0), 1)
    (134.5, 120.7, 62.8)
    """
    if spacing_m >= 2.0 * radius_m:
        return math.pi * radius_m + spacing_m - 2.0 * radius_m
    a = math.acos((radius_m + spacing_m / 2.0) / (2.0 * radius_m))
    return radius_m * (math.pi + 4.0 * a)


def turn(radius_m: float, spacing_m: float) -> Floats:
    """
    A turn from (0, 0), heading +y, to (spacing, 0), heading -y; shape (n, 2).

    The bulb swings out to the other side first, by as much on both ends.
    """
    step = math.radians(_ARC_DEG)
    if spacing_m >= 2.0 * radius_m:
        up = np.arange(math.pi, math.pi / 2 - 1e-9, -step)
        down = np.arange(math.pi / 2, -1e-9, -step)
        left = np.stack([radius_m + radius_m * np.cos(up), radius_m * np.sin(up)], axis=1)
        right = np.stack([spacing_m - radius_m + radius_m * np.cos(down), radius_m * np.sin(down)], axis=1)
        return np.concatenate([left, right, [[spacing_m, 0.0]]])
    a = math.acos((radius_m + spacing_m / 2.0) / (2.0 * radius_m))
    out = np.arange(0.0, a, step)
    first = np.stack([-radius_m + radius_m * np.cos(out), radius_m * np.sin(out)], axis=1)
    # the large arc about a middle that is two radii from both small ones
    middle = np.array([spacing_m / 2.0, 2.0 * radius_m * math.sin(a)])
    big = np.arange(math.pi + a, -a - 1e-9, -step)
    round_it = middle + radius_m * np.stack([np.cos(big), np.sin(big)], axis=1)
    back = np.arange(a, -1e-9, -step)
    last = np.stack([spacing_m + radius_m - radius_m * np.cos(back), radius_m * np.sin(back)], axis=1)
    return np.concatenate([first, round_it, last, [[spacing_m, 0.0]]])


@dataclass(frozen=True, slots=True, eq=False)
class LaneSet:
    """Lanes back and forth as one way, with what each is."""

    line: Floats  # (n, 2)
    lanes: tuple[Floats, ...]  # (2, 2) each: the straight parts
    slow: tuple[bool, ...]  # of each: close to the shore, first pass slow
    spacing_m: float
    length_m: float


def lane_set(
    centre: tuple[float, float],
    *,
    bearing_deg: float,
    length_m: float,
    count: int,
    spacing_m: float,
    radius_m: float,
    shore_at: Callable[[Floats, Floats], Floats] | None = None,
    slow_within_m: float = 30.0,
) -> LaneSet:
    """
    Parallel lanes about a place, joined by turns no tighter than a radius.

    Parameters
    ----------
    shore_at : callable, optional
        Metres to the shore at eastings and northings; lanes that come close are marked slow.
    """
    along = np.array([math.sin(math.radians(bearing_deg)), math.cos(math.radians(bearing_deg))])
    across = np.array([along[1], -along[0]])
    middle = np.asarray(centre, np.float64)
    lanes, pieces, slow = [], [], []
    loop = turn(radius_m, spacing_m)
    for k in range(count):
        off = (k - (count - 1) / 2.0) * spacing_m
        ends = np.array([middle + off * across + s * length_m / 2.0 * along for s in (-1.0, 1.0)])
        if k % 2:
            ends = ends[::-1]
        lanes.append(ends)
        walk = np.linspace(ends[0], ends[1], max(int(length_m / _STEP_M), 2))
        near = shore_at(walk[:, 0], walk[:, 1]) if shore_at is not None else np.full(len(walk), np.inf)
        slow.append(bool(np.nanmin(near, initial=np.inf) < slow_within_m))
        pieces.append(ends)
        if k + 1 < count:
            ahead = along if k % 2 == 0 else -along
            pieces.append(ends[1] + loop[:, :1] * across + loop[:, 1:] * ahead)
    line = np.concatenate(pieces)
    return LaneSet(line, tuple(lanes), tuple(slow), spacing_m, float(np.hypot(*np.diff(line, axis=0).T).sum()))
