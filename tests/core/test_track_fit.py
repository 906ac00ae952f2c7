"""Wandering fixes over a steep bowl are drawn together; what needs nothing stays where it is."""

import math

import numpy as np
from scipy.signal import lfilter

from plumbbob.core.chart.grid import make_grid
from plumbbob.core.chart.structure import find_structure
from plumbbob.core.chart.track_fit import WANDER_M, fit_tracks


def pond(x, y):
    """A bowl of 150 m, 7 m deep, with a hump and a spit."""
    r = np.hypot(x, y) / 75.0
    hump = 1.4 * np.exp(-((x - 25.0) ** 2 + (y + 20.0) ** 2) / (2 * 7.0**2))
    return np.maximum(7.0 * (1.0 - r**2.5) - hump, -1.0)


def surveyed(wander_m, seed=3):
    """Soundings of the pond by lines both ways; where the fixes say they are."""
    rng = np.random.default_rng(seed)
    legs = []
    for turned in (False, True):
        for k, off in enumerate(np.arange(-60.0, 61.0, 12.0)):
            s = np.arange(-64.0, 64.0, 0.7) * (1 if k % 2 else -1)
            legs.append(np.stack([np.full(s.size, off), s] if turned else [s, np.full(s.size, off)], axis=1))
    place = np.concatenate(legs)
    time = 0.4 * np.arange(len(place))
    keeps = math.exp(-0.4 / 80.0)
    push = rng.standard_normal((len(place), 2)) * wander_m * math.sqrt(1 - keeps**2)
    true = place + lfilter([1.0], [1.0, -keeps], push, axis=0)
    depth = pond(*true.T) + 0.04 * rng.standard_normal(len(place))
    wet = depth > 0.4
    return place[wet, 0], place[wet, 1], depth[wet], time[wet]


def error(x, y, depth):
    grid = make_grid(x, y, depth)
    gx, gy = np.meshgrid(np.arange(-45.0, 46.0, 3.0), np.arange(-45.0, 46.0, 3.0))
    off = grid.frame.sample(grid.surface_m.astype(float), gx.ravel(), gy.ravel()) - pond(gx.ravel(), gy.ravel())
    return float(np.sqrt(np.nanmean(off**2)))


def test_wandering_surveys_of_a_bowl_come_out_better():
    before, after = [], []
    for seed in range(3, 9):
        x, y, depth, time = surveyed(2.0, seed)
        before.append(error(x, y, depth))
        after.append(error(*fit_tracks(x, y, depth, time), depth))
    assert np.hypot.reduce(after) < 0.9 * np.hypot.reduce(before)


def test_true_fixes_lose_nothing():
    x, y, depth, time = surveyed(0.0)
    u, v = fit_tracks(x, y, depth, time)
    assert float(np.hypot(u - x, v - y).mean()) < 0.3
    assert error(u, v, depth) < 1.2 * error(x, y, depth)


def test_times_may_be_missing():
    x, y, depth, _ = surveyed(2.0)
    assert error(*fit_tracks(x, y, depth, np.full(x.size, np.nan)), depth) < error(x, y, depth)


def test_over_flat_ground_nothing_moves():
    x, y, _, time = surveyed(0.0)
    u, v = fit_tracks(x, y, np.full(x.size, 3.0), time)
    assert float(np.hypot(u - x, v - y).max()) < 1e-6


def test_scattered_or_few_soundings_stay():
    x, y = np.random.default_rng(2).uniform(0, 400, (2, 900))
    assert fit_tracks(x, y, x / 100, np.arange(900.0))[0] is x
    assert fit_tracks(x[:50], y[:50], x[:50], np.arange(50.0))[0].size == 50


def test_depths_that_fit_no_bottom_move_nothing_far():
    x, y, depth, time = surveyed(0.0)
    u, v = fit_tracks(x, y, np.random.default_rng(1).uniform(0, 300, depth.size), time)
    assert float(np.hypot(u - x, v - y).max()) <= 3.0 * WANDER_M + 1e-6


def test_what_is_small_counts_in_a_pond():
    x, y, depth, _ = surveyed(0.0)
    depth = depth - 1.8 * np.exp(-((x - 5.0) ** 2 + y**2) / (2 * 6.0**2))
    humps = [f for f in find_structure(make_grid(x, y, depth)) if f.kind == "hump"]
    assert any(math.hypot(f.x - 5.0, f.y) < 10.0 for f in humps)
