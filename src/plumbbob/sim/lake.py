"""Veyra Lake as a whole (invented): its bottom as a function of place, and a boat's survey of it."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.geodesy import Position, offset, separation
from plumbbob.core.types import Floats
from plumbbob.sim.veyra import FIRST_PASS, NORTH_BASIN, basin_bottom

MIDDLE = Position(44.20, -40.05)
LEVEL_M = -1.3  # today, over full
_AXIS_DEG = 340.0
_HALF_LENGTH_M = 3700.0
_PASS_DEG, _PASS_LENGTH_M = 312.0, 520.0
_LINE_M, _STEP_M = 42.0, 1.6


def _bell(x: Floats, at: float, width: float) -> Floats:
    return np.exp(-0.5 * ((x - at) / width) ** 2)


def _rise(x: Floats, at: float, width: float) -> Floats:
    return 0.5 * (1 + np.tanh((x - at) / width))


def _turned(x: Floats, y: Floats, heading_deg: float) -> tuple[Floats, Floats]:
    """Along a heading, and to its right."""
    h = math.radians(heading_deg)
    return x * math.sin(h) + y * math.cos(h), x * math.cos(h) - y * math.sin(h)


def _half_width(s: Floats) -> Floats:
    wide = 400.0 + 640.0 * _bell(s, 1150.0, 800.0) + 260.0 * _bell(s, -1700.0, 750.0) + 60.0 * np.sin(s / 310.0)
    return wide * np.sqrt(np.clip(1.0 - (np.abs(s) / _HALF_LENGTH_M) ** 4, 0.0, 1.0))


def _channel(s: Floats) -> Floats:
    """Where the Old Kell runs, to the right of the axis: through the demo pass, then winding to the dam."""
    swing = 150.0 * np.sin((s - 300.0) / 330.0) + 45.0 * np.sin(s / 140.0)
    return -505.0 * _bell(s, 960.0, 420.0) + swing * (1.0 - _bell(s, 960.0, 420.0))


def lake_depth(east_m: Floats, north_m: Floats) -> Floats:
    """
    Depth under the full level, metres; negative ashore. Shape of the places, metres from the lake's middle.

    Notes
    -----
    A valley along an axis, with the named places: Anvil Point, the Stairs, Larch Flat, Mill Road, a rock field, and
    along the demo pass the very bottom that the pass was simulated over.
    """
    x, y = np.asarray(east_m, np.float64), np.asarray(north_m, np.float64)
    s, t = _turned(x, y, _AXIS_DEG)
    half = np.maximum(_half_width(s), 1.0)
    u = t / half
    deepest = 17.5 - 3.4 * (s / _HALF_LENGTH_M) + 8.5 * _bell(s, -2500.0, 850.0) + 2.0 * _bell(s, -700.0, 500.0)
    deepest = deepest * (1.0 - np.clip(np.abs(s) / 3600.0, 0.0, 1.0) ** 7)
    depth = deepest * (1.0 - np.abs(u) ** 2.6) - 3.0 * _rise(np.abs(u), 1.04, 0.03)
    depth += 0.5 * np.sin(s / 170.0 + 1.0) * np.cos(t / 150.0) + 0.3 * np.sin(x / 67.0) * np.sin(y / 83.0)
    # the river's old bed, with its banks
    off = t - _channel(s)
    depth += 4.6 * np.exp(-((off / 30.0) ** 4)) * _rise(deepest * (1.0 - np.abs(u) ** 2.6), 7.0, 1.0)
    # Larch Flat: a shelf on the western side of the North Basin
    flat = _rise(-t, 560.0, 40.0) * _bell(s, 1450.0, 420.0) * _rise(depth, 5.0, 1.0)
    depth = depth + flat * (6.4 + 0.0012 * (s - 1450.0) - depth)
    # Anvil Point runs out from the western bank
    along = t + half + 20.0
    point = (
        np.exp(-(((s + 620.0 + 0.12 * along) / 62.0) ** 2))
        * (1.0 - _rise(along, 400.0, 40.0))
        * _rise(along, -50.0, 20.0)
    )
    depth -= point * np.maximum(depth - 2.2 - 0.010 * np.maximum(along, 0.0), 0.0)
    # the Stairs: three steps down the eastern bank
    side = half - t
    stairs = _bell(s, -250.0, 380.0)
    steps = 3.0 + 3.4 * _rise(side, 60.0, 4.0) + 4.4 * _rise(side, 120.0, 4.5) + 5.6 * _rise(side, 190.0, 5.0)
    near = _rise(side, 25.0, 12.0) * (1.0 - _rise(side, 300.0, 40.0))
    depth = depth + stairs * near * (steps - depth)
    # two humps in the southern water and a sunk isle near the dam
    for at_s, at_t, height, width in (
        (-1550.0, 180.0, 8.6, 58.0),
        (-1760.0, 60.0, 6.4, 44.0),
        (-2650.0, -190.0, 13.0, 75.0),
    ):
        depth -= height * np.exp(-((s - at_s) ** 2 + (t - at_t) ** 2) / (2 * width**2))
    depth = _road(depth, s, t)
    return _with_the_pass(depth, x, y)


def _road(depth: Floats, s: Floats, t: Floats) -> Floats:
    """Mill Road: a low bank across the valley."""
    _, off = _turned(s + 1050.0, t, 68.0)
    return depth - 1.1 * np.exp(-((off / 7.5) ** 4)) * _rise(depth, 3.0, 0.5)


def _with_the_pass(depth: Floats, x: Floats, y: Floats) -> Floats:
    east, north = separation(MIDDLE.latitude, MIDDLE.longitude, NORTH_BASIN.latitude, NORTH_BASIN.longitude)
    along, off = _turned(x - float(east), y - float(north), _PASS_DEG)
    own = _rise(along, -70.0, 25.0) * (1.0 - _rise(along, _PASS_LENGTH_M + 40.0, 25.0))
    own = own * np.exp(-((off / 110.0) ** 4))
    inside = np.clip(along, -20.0, _PASS_LENGTH_M)
    bed = basin_bottom(inside, off) - LEVEL_M
    return depth + own * (bed - depth)


def survey(seed: int, *, progress: Callable[[float], None] = lambda fraction: None) -> Soundings:
    """
    A summer's soundings of Veyra Lake from "Wren": lines across it, and a close look at Mill Road.

    Notes
    -----
    With what real logs have: fixes that wander by a metre, noise that grows with depth, weed on the flat, double
    echoes, lost bottoms, levels that fall over the weeks.
    """
    rng = np.random.default_rng(seed)
    heading = math.radians(_AXIS_DEG)
    xs, ys, days = [], [], []
    stations = np.arange(-_HALF_LENGTH_M + 60.0, _HALF_LENGTH_M - 40.0, _LINE_M)
    for k, s in enumerate(stations):
        half = float(_half_width(np.array([s]))[0])
        t = np.arange(-half + 4.0, half - 4.0, _STEP_M)
        if t.size < 10:
            continue
        if k % 2:
            t = t[::-1]
        ss = s + 5.0 * np.sin(t / 130.0 + k)
        xs.append(ss * math.sin(heading) + t * math.cos(heading))
        ys.append(ss * math.cos(heading) - t * math.sin(heading))
        days.append(np.full(t.size, k * 21 // stations.size))
    for k, s in enumerate(np.arange(-1230.0, -930.0, 7.0)):
        t = np.arange(-170.0, 190.0, _STEP_M) * (1 if k % 2 else -1)
        xs.append(s * math.sin(heading) + t * math.cos(heading))
        ys.append(s * math.cos(heading) - t * math.sin(heading))
        days.append(np.full(t.size, 22))
    x, y, day = np.concatenate(xs), np.concatenate(ys), np.concatenate(days).astype(np.float64)
    progress(0.3)
    n = x.size
    wander = np.cumsum(rng.normal(0, 0.05, (2, n)), axis=1)
    wander -= np.stack([np.convolve(w, np.full(400, 1 / 400), "same") for w in wander])
    true = lake_depth(x, y)
    level = np.round(-0.25 - 1.0 * day / 22.0, 2)
    depth = true + level
    depth += rng.normal(0, 1, n) * np.hypot(0.05, 0.006 * depth)
    wet = depth > 0.7
    weed = wet & (depth > 1.5) & (depth < 4.2) & (np.sin(x / 41.0) * np.sin(y / 53.0) > 0.55) & (rng.random(n) < 0.6)
    depth = np.where(weed, depth - rng.uniform(0.3, 1.4, n), depth)
    double = rng.random(n) < 0.002
    depth = np.where(double, 2.0 * depth + 0.4, depth)
    depth = np.where(rng.random(n) < 0.001, 0.0, depth)
    progress(0.7)
    latitude, longitude = offset(MIDDLE.latitude, MIDDLE.longitude, x + wander[0], y + wander[1])
    time = FIRST_PASS - 86400.0 * (30.0 - day) + 1.1 * np.arange(n)
    progress(1.0)
    return Soundings(
        latitude=latitude[wet],
        longitude=longitude[wet],
        depth_m=np.maximum(depth[wet], 0.0),
        water_level_m=level[wet],
        time=time[wet],
    )
