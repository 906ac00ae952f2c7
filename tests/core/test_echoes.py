"""Arcs in made-up levels: crossing ones come apart, other things are left alone."""

import numpy as np
import pytest

from plumbbob.core.sonar.beam import one_way_gain
from plumbbob.core.sonar.echoes import EchoSettings, find_arcs, ridges, smooth_levels, trace_components

PULSE, STEP, SPEED, WIDTH = 0.12, 0.04, 1.2, 18.0
TIME = 0.1 * np.arange(400)
RANGE = 0.2 + STEP * np.arange(420)


def water(seed=0):
    """Speckle in decibels over its own mean."""
    rng = np.random.default_rng(seed)
    raw = rng.exponential(size=(TIME.size, RANGE.size))
    smooth = (raw + np.roll(raw, 1, axis=1) + np.roll(raw, 2, axis=1)) / 3
    return (10 * np.log10(smooth) + 1.0).astype(np.float32)


def add_fish(levels, t0, depth, aside=0.0, loud=30.0, speed=SPEED):
    """A fish at a side distance: hyperbola in range, the beam's pattern in level."""
    along = speed * (TIME - t0)
    r = np.sqrt(depth**2 + aside**2 + along**2)
    gain = 20 * np.log10(np.maximum(one_way_gain(np.arctan2(np.hypot(along, aside), depth), WIDTH), 1e-4))
    for i in range(TIME.size):
        echo = loud + gain[i] - 3.0 * ((RANGE - r[i]) / (PULSE / 2)) ** 2
        levels[i] = np.maximum(levels[i], echo)


def arcs_in(levels, speed=SPEED, floor=16.0):
    still = np.full(TIME.size, floor)
    return find_arcs(levels, TIME, RANGE, np.full(TIME.size, 0.5), still, speed, PULSE, WIDTH, EchoSettings())[0]


@pytest.mark.parametrize(("depth", "aside", "loud"), [(5.0, 0.0, 40.0), (9.0, 0.7, 28.0), (14.0, 1.2, 20.0)])
def test_one_fish_is_one_arc(depth, aside, loud):
    levels = water()
    add_fish(levels, 18.0, depth, aside, loud)
    (arc,) = arcs_in(levels)
    assert arc.time == pytest.approx(18.0, abs=0.25)
    assert arc.range_m == pytest.approx(np.hypot(depth, aside), abs=0.06)
    assert arc.range_sd_m < 0.1


def test_crossing_arcs_come_apart():
    levels = water(1)
    add_fish(levels, 16.0, 8.0)
    add_fish(levels, 18.4, 8.05)
    add_fish(levels, 17.2, 8.6)
    arcs = arcs_in(levels)
    assert [round(a.time, 0) for a in arcs] == [16.0, 17.0, 18.0]


@pytest.mark.parametrize("seed", range(4))
def test_speckle_alone_has_no_fish(seed):
    assert arcs_in(water(seed)) == []


def test_interference_of_single_pings_is_no_fish():
    levels = water(2)
    levels[50] += 30.0
    levels[120:122] += 25.0
    for k in range(60):  # slashes: another sounder's pulses, a fixed step from ping to ping
        levels[200 + k, (k * 37) % RANGE.size] += 30.0
    assert arcs_in(levels) == []


def test_a_dense_cloud_is_no_crowd_of_fish():
    levels = water(3)
    rng = np.random.default_rng(4)
    cloud = 20 + 10 * np.log10(rng.exponential(size=(60, 60)))
    levels[100:160, 150:210] = np.maximum(levels[100:160, 150:210], cloud)
    assert len(arcs_in(levels)) <= 1


def test_what_lies_on_the_bottom_is_left_to_the_bottom():
    levels = water(5)
    add_fish(levels, 18.0, 15.85)
    assert arcs_in(levels) == []
    assert len(arcs_in(levels, floor=16.6)) == 1


def test_a_still_boat_sees_long_marks_once():
    levels = water(6)
    add_fish(levels, 20.0, 7.0, speed=0.1, loud=25.0)
    assert len(arcs_in(levels, speed=0.1)) == 1


def test_unknown_speed_still_finds_the_depth():
    levels = water(7)
    add_fish(levels, 18.0, 7.0)
    (arc,) = arcs_in(levels, speed=float("nan"))
    assert arc.range_m == pytest.approx(7.0, abs=0.1)


def test_ridges_are_one_pulse_thin_and_join_over_gaps():
    levels = np.full((30, 200), -3.0, np.float32)
    levels[5:25, 100] = 20.0
    levels[14, 100] = -3.0
    smooth = smooth_levels(levels, 1, 1)
    ridge = ridges(smooth, np.ones(levels.shape, bool), 3, EchoSettings())
    assert ridge.sum() == 19
    ((rows, cols),) = trace_components(ridge)
    assert rows.tolist() == [r for r in range(5, 25) if r != 14]
    assert set(cols.tolist()) == {100}
    assert trace_components(np.zeros((3, 3), bool)) == []


def add_puff(levels, t0, depth, seed, *, tall=0.5, lasts=2.0, loud=22.0):
    """Many small targets in a blob: bubbles, a tuft, a twig. Loud all through, speckled, thick."""
    rng = np.random.default_rng(seed)
    inside = (np.abs(TIME - t0)[:, None] < lasts / 2) & (np.abs(RANGE - depth)[None, :] < tall / 2)
    blob = loud + 10 * np.log10(rng.exponential(size=levels.shape) + 1e-3)
    levels[inside] = np.maximum(levels, blob)[inside]


@pytest.mark.parametrize("seed", range(6))
def test_a_puff_of_bubbles_is_no_fish_but_the_fish_beside_it_is(seed):
    levels = water(seed)
    add_puff(levels, 12.0, 7.0, seed)
    add_puff(levels, 14.0, 6.2, seed + 50, tall=0.7)
    add_fish(levels, 26.0, 8.0, 0.3, 26.0)
    (arc,) = arcs_in(levels)
    assert arc.time == pytest.approx(26.0, abs=0.3)


@pytest.mark.parametrize("gap", [0.25, 0.4])
def test_a_fish_close_over_the_bottom_is_seen_and_one_in_its_echo_is_not(gap):
    levels = water(8)
    add_fish(levels, 18.0, 10.0, 0.0, 30.0)
    assert len(arcs_in(levels, floor=10.0 + gap + 0.1)) == 1
    assert arcs_in(levels, floor=10.05) == []


def test_under_a_boat_at_rest_a_lasting_line_is_one_fish_and_a_trail():
    levels = water(9)
    at = 7.0 + 0.2 * np.sin(TIME / 9.0)
    loud = 26.0 - 3.0 * ((RANGE[None, :] - at[:, None]) / (PULSE / 2)) ** 2
    levels = np.maximum(levels, loud).astype(np.float32)
    still = np.full(TIME.size, 16.0)
    arcs, long = find_arcs(levels, TIME, RANGE, np.full(TIME.size, 0.5), still, 0.05, PULSE, WIDTH, EchoSettings())
    assert len(arcs) == 1
    (piece,) = long
    assert piece.lasts > 35.0
    assert np.abs(piece.range_m - np.interp(piece.time, TIME, at)).max() < 0.12
