"""A flat reservoir over a drowned village (invented): roads, walls, ditches, foundations, stones, and its survey."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.types import Floats

EAST_M, NORTH_M = 500_000.0, 5_000_000.0  # south-west corner on its plane


@dataclass(frozen=True, slots=True, eq=False)
class Drowned:
    """A road, wall or ditch."""

    kind: str  # bank, cut, ditches; wall, ditch
    line: Floats  # (n, 2)
    width_m: float
    height_m: float


@dataclass(frozen=True, slots=True, eq=False)
class Reservoir:
    """The bottom, what lies on it, and soundings of it."""

    frame: CellGrid
    depth_m: Floats
    roads: tuple[Drowned, ...]
    others: tuple[Drowned, ...]
    foundations: tuple[tuple[float, float], ...]  # middles
    x: Floats  # of soundings, as the fixes say
    y: Floats
    sounded_m: Floats
    time: Floats


def made_reservoir(
    seed: int, *, side_m: float = 800.0, spacing_m: float = 25.0, wander_m: float = 1.0, rough_m: float = 0.04,
    stones: int = 0, village: bool = True,
) -> Reservoir:  # fmt: skip
    """
    A square of reservoir.

    Parameters
    ----------
    seed : int
    side_m, spacing_m : float
        Of the water, and between the survey's lines.
    wander_m : float
        Standard deviation of the fixes' wander; it lasts 80 s.
    rough_m : float
        Standard deviation of the ground's own ups and downs over some ten metres.
    stones : int
        Boulders and heaps, 1 to 8 m wide.
    village : bool
        Roads, walls, ditches and foundations; else only ground.
    """
    rng = np.random.default_rng(seed)
    frame = CellGrid(EAST_M, NORTH_M, 1.0, int(side_m), int(side_m))
    x, y = np.meshgrid(frame.x, frame.y)
    u, v = (x - EAST_M) / side_m, (y - NORTH_M) / side_m
    depth = 2.0 + 3.0 * u + rng.uniform(-1.0, 1.0) * v + 0.5 * np.sin(5.0 * u + 3.0 * v + rng.uniform(0, 6))
    for wide, high in ((12.0, rough_m), (45.0, 0.1)):
        ground = ndimage.gaussian_filter(rng.standard_normal(frame.shape), wide)
        depth += high * ground / ground.std()
    stream = v - 0.5 - 0.15 * np.sin(7.0 * u + rng.uniform(0, 6))
    depth += 1.4 * np.exp(-((stream * side_m / 14.0) ** 4))
    for _ in range(stones):
        at, wide = rng.uniform(0, side_m, 2), rng.uniform(0.5, 4.0)
        off = np.hypot(x - EAST_M - at[0], y - NORTH_M - at[1])
        depth -= rng.uniform(0.3, 1.0) * np.exp(-((off / wide) ** 4))
    roads: list[Drowned] = []
    others: list[Drowned] = []
    middles: list[tuple[float, float]] = []
    if village:
        for k in range(6):
            kind = ("bank", "bank", "cut", "bank", "ditches", "cut")[k]
            one = Drowned(kind, _way(rng, side_m, k % 2 == 0), rng.uniform(6.0, 10.0), rng.uniform(0.5, 1.1))
            depth += _relief(one, x, y, rng)
            roads.append(one)
        for kind in ("wall", "wall", "ditch", "ditch"):
            one = Drowned(kind, _way(rng, side_m, straight=True), rng.uniform(1.4, 2.4), rng.uniform(0.4, 0.8))
            depth += _relief(one, x, y, rng)
            others.append(one)
        for _ in range(4):
            at, turn = rng.uniform(0.15, 0.85, 2) * side_m, rng.uniform(0, math.pi)
            a, b = rng.uniform(12.0, 25.0), rng.uniform(12.0, 18.0)
            du, dv = x - EAST_M - at[0], y - NORTH_M - at[1]
            p, q = du * math.cos(turn) + dv * math.sin(turn), dv * math.cos(turn) - du * math.sin(turn)
            inside = (np.abs(p) < a / 2) & (np.abs(q) < b / 2)
            depth -= rng.uniform(0.45, 0.9) * ndimage.gaussian_filter(inside.astype(float), 0.8)
            middles.append((EAST_M + at[0], NORTH_M + at[1]))
    place, time = _survey(rng, side_m, spacing_m)
    wander = _wandering(rng, time, wander_m)
    sounded = frame.sample(depth, *(place + wander).T)
    sounded = sounded + rng.standard_normal(sounded.size) * np.hypot(0.03, 0.006 * sounded)
    known = np.isfinite(sounded)
    return Reservoir(
        frame, depth, tuple(roads), tuple(others), tuple(middles),
        place[known, 0], place[known, 1], sounded[known], time[known],
    )  # fmt: skip


def _way(rng: np.random.Generator, side_m: float, straight: bool) -> Floats:
    """A line of 200 to 700 m, straight or bending with a radius of some hundred metres."""
    length, heading = rng.uniform(200.0, 0.85 * side_m), rng.uniform(0, math.pi)
    bend = 0.0 if straight else rng.uniform(-1.0, 1.0) / 350.0
    along = np.arange(0.0, length, 4.0)
    way = heading + bend * along
    line = np.stack([np.cumsum(4.0 * np.cos(way)), np.cumsum(4.0 * np.sin(way))], axis=1)
    middle = rng.uniform(0.3, 0.7, 2) * side_m
    return np.asarray(line - line.mean(axis=0) + middle + [EAST_M, NORTH_M])


def _relief(one: Drowned, x: Floats, y: Floats, rng: np.random.Generator) -> Floats:
    """What it adds to the depth; a road has a gap where a bridge was."""
    from scipy.spatial import cKDTree

    fine = np.stack(
        [np.interp(np.arange(0, len(one.line) - 1, 0.2), np.arange(len(one.line)), c) for c in one.line.T], 1
    )
    away, at = cKDTree(fine).query(np.stack([x.ravel(), y.ravel()], axis=1), distance_upper_bound=30.0)
    off = away.reshape(x.shape)
    half = one.width_m / 2

    def strip(middle: float, wide: float) -> Floats:
        return np.clip((wide / 2 + 0.7 - np.abs(off - middle)) / 1.4, 0.0, 1.0)

    shape = strip(half, 1.6) if one.kind == "ditches" else strip(0.0, one.width_m)
    gap = rng.uniform(0.3, 0.7) * len(fine)
    if one.kind not in ("wall", "ditch"):
        shape = np.where(np.abs(at.reshape(x.shape) - gap) < 15.0 / 0.8, 0.0, shape)
    return np.where(np.isfinite(off), shape, 0.0) * (
        one.height_m if one.kind in ("cut", "ditches", "ditch") else -one.height_m
    )


def _survey(rng: np.random.Generator, side_m: float, spacing_m: float) -> tuple[Floats, Floats]:
    """Lines to and fro across it, and some along; where the fixes say they ran, and when."""
    turn = rng.uniform(-0.5, 0.5)
    parts = []
    for cross, apart in ((False, spacing_m), (True, 6.0 * spacing_m)):
        for k, off in enumerate(np.arange(-0.7 * side_m, 0.7 * side_m, apart)):
            s = np.arange(-0.7 * side_m, 0.7 * side_m, 0.75) * (1 if k % 2 else -1)
            t = off + 0.12 * spacing_m * np.sin(s / 60.0 + k)
            a, b = (t, s) if cross else (s, t)
            parts.append(
                np.stack([a * math.cos(turn) - b * math.sin(turn), a * math.sin(turn) + b * math.cos(turn)], axis=1)
            )
    place = np.concatenate(parts) + side_m / 2 + np.array([EAST_M, NORTH_M])
    return place, 0.4 * np.arange(len(place), dtype=np.float64)


def _wandering(rng: np.random.Generator, time: Floats, wander_m: float) -> Floats:
    from scipy.signal import lfilter

    keeps = math.exp(-float(time[1] - time[0]) / 80.0)
    push = rng.standard_normal((time.size, 2)) * wander_m * math.sqrt(1 - keeps**2)
    return np.asarray(lfilter([1.0], [1.0, -keeps], push, axis=0))
