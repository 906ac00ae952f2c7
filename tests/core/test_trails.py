"""Trails followed point by point, the way made, sound lost on the way: on made-up points with known answers."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.beam import dead_zone, range_to_vertical, slope_under
from plumbbob.core.sonar.recording import distance_along
from plumbbob.core.sonar.trails import Piece, find_trails, follow_ridge
from plumbbob.core.water.sound import absorption_db_per_m
from tests.core.test_sonar import a_down

TIME = 0.1 * np.arange(600)
RANGE = 0.2 + 0.04 * np.arange(420)
PULSE = 0.12


def points(path, first=0, last=600, every=1, loud=25.0):
    """Ridge points along a path of ranges, one a ping."""
    rows = np.arange(first, last, every)
    cols = np.searchsorted(RANGE, path(TIME[rows]))
    return rows, cols, np.full(rows.size, loud)


def together(*traces):
    rows, cols, level = (np.concatenate(part) for part in zip(*traces, strict=True))
    order = np.argsort(rows, kind="stable")
    return rows[order], cols[order], level[order]


def followed(*traces):
    return follow_ridge(*together(*traces), TIME, RANGE, PULSE)


def a_piece(path, start=0.0, end=20.0):
    time = np.arange(start, end, 0.1)
    return Piece(time=time, range_m=path(time), level_db=np.full(time.size, 20.0))


def trails_of(*pieces, speed=0.1):
    down = replace(a_down(np.zeros((600, 20), np.uint8)), time=TIME)
    return find_trails(pieces, down, np.full(600, speed))


@given(st.floats(6.0, 11.0), st.floats(-0.08, 0.08), st.integers(1, 4))
def test_a_line_is_followed_from_end_to_end_over_small_gaps(start, slope, every):
    (piece,) = followed(points(lambda t: start + slope * t, every=every))
    assert piece.time[0] == TIME[0]
    assert piece.lasts > 58.0
    assert np.abs(piece.range_m - (start + slope * piece.time)).max() < 0.05


def test_two_lines_side_by_side_stay_apart():
    found = followed(points(lambda t: 6.0 + 0 * t), points(lambda t: 7.0 + 0 * t, loud=20.0))
    assert sorted(round(float(np.median(p.range_m)), 1) for p in found) == [6.0, 7.0]


def test_a_crossing_line_does_not_lead_astray():
    flat, steep = points(lambda t: 8.0 + 0 * t, loud=30.0), points(lambda t: 4.0 + 0.25 * t, 60, 300)
    longest = followed(flat, steep)[0]
    assert np.abs(longest.range_m - 8.0).max() < 0.3
    assert longest.lasts > 55.0


def test_a_long_gap_ends_a_trace():
    found = followed(points(lambda t: 6.0 + 0 * t, 0, 200), points(lambda t: 6.0 + 0 * t, 300, 600))
    assert [round(p.lasts) for p in found] == [30, 20]


def test_pieces_of_overlapping_runs_are_one_trail():
    def path(t):
        return 6.0 + 0.3 * np.sin(t / 5.0)

    (trail,) = trails_of(a_piece(path, 0.0, 20.0), a_piece(path, 12.0, 40.0))
    assert (trail.time[0], trail.time[-1]) == (0.0, pytest.approx(39.9))
    assert len(set(trail.time)) == len(trail.time)
    assert len(trails_of(a_piece(path, 0.0, 20.0), a_piece(lambda t: path(t) + 2.0, 12.0, 40.0))) == 2


def test_a_fall_is_a_lure_only_under_a_boat_at_rest():
    fall = a_piece(lambda t: 1.0 + 0.6 * t, 0.0, 9.0)
    assert [t.kind for t in trails_of(fall)] == ["falling lure"]
    assert [t.kind for t in trails_of(fall, speed=1.4)] == ["moving fish"]
    assert trails_of(fall)[0].sink_mps == pytest.approx(0.6, abs=0.01)


def test_a_steady_line_under_way_is_a_lure_and_a_wandering_one_a_fish():
    steady, wandering = a_piece(lambda t: 5.0 + 0 * t, 0.0, 40.0), a_piece(lambda t: 5.0 + 0.5 * np.sin(t), 0.0, 40.0)
    assert [t.kind for t in trails_of(steady, speed=1.2)] == ["lure"]
    assert [t.kind for t in trails_of(wandering, speed=1.2)] == ["moving fish"]


def test_what_rises_under_another_follows_it_and_what_rises_alone_does_not():
    def lift(t):
        return np.interp(t, [0.0, 5.0, 15.0], [8.0, 8.0, 4.0])

    lead, under = a_piece(lift, 0.0, 20.0), a_piece(lambda t: lift(t) + 0.7, 3.0, 19.0)
    assert [t.kind for t in trails_of(lead, under)].count("following fish") == 1
    apart = a_piece(lambda t: lift(t) + 5.0, 3.0, 19.0)
    assert "following fish" not in [t.kind for t in trails_of(lead, apart)]


@given(st.floats(0.0, 10.0), st.integers(2, 200))
def test_way_is_speed_times_time(speed, count):
    time = np.linspace(0.0, 0.5 * count, count)
    way = distance_along(time, np.full(count, speed))
    assert way[-1] == pytest.approx(speed * time[-1])
    assert (np.diff(way) >= 0).all()


def test_nothing_is_looked_at_in_a_gap_and_no_speed_is_no_way():
    way = distance_along(np.array([0.0, 1.0, 1001.0, 1002.0]), np.full(4, 2.0))
    assert way.tolist() == [0.0, 2.0, 8.0, 10.0]
    assert np.isnan(distance_along(TIME, np.full(600, np.nan))).all()
    assert distance_along(np.array([0.0, 1.0, 2.0]), np.array([1.0, np.nan, 1.0])).tolist() == [0.0, 1.0, 2.0]


@pytest.mark.parametrize(
    ("warm", "salt", "expected"),
    [(5, 0, (0.96, 15.4, 246)), (20, 0, (0.55, 8.80, 141)), (10, 10, (4.99, 25.1, 213)), (20, 35, (13.0, 77.1, 236))],
)
def test_absorption_agrees_with_the_published_table(warm, salt, expected):
    """Francois & Garrison 1982 at 50, 200 and 800 kHz, decibels a kilometre."""
    found = [1000 * float(absorption_db_per_m(f, warm, salt)) for f in (50e3, 200e3, 800e3)]
    assert found == pytest.approx(expected, rel=0.01)


@given(st.floats(0.5, 60.0), st.floats(0.0, 50.0), st.floats(6.0, 30.0))
def test_a_slope_and_its_depth_come_back_from_what_is_shown(depth, slope, width):
    """Handbook 1.7, both regimes: inside the beam a sine, beyond it the beam's edge answers first."""
    b, phi = np.radians(slope), np.radians(width / 2)
    nearest = np.cos(b) / np.cos(max(b - phi, 0.0))
    shown = np.sin(b) if b <= phi else np.sin(b) / np.cos(b - phi)
    assert float(slope_under(shown, width)) == pytest.approx(b, abs=1e-9)
    assert float(range_to_vertical(depth * nearest, b, width)) == pytest.approx(depth)
    assert float(dead_zone(depth, width, 0.1, slope)) >= float(dead_zone(depth, width, 0.1)) >= 0.1
