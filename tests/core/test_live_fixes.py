"""Positions judged: what can't be is left out, what holds on is believed, one talker is followed."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.geodesy import bearing_deg, distance_m, offset
from plumbbob.core.live.anchor import let_go_at, moves_by, rode_for, swing_radius
from plumbbob.core.live.fixes import Fix, Judge, TalkerChoice, rank_of, with_age

START = Fix(time=1e9, latitude=44.2, longitude=-40.05)


def moved(fix, east=0.0, later=0.0):
    latitude, longitude = offset(fix.latitude, fix.longitude, np.array(east), np.array(0.0))
    return replace(fix, time=fix.time + later, latitude=float(latitude), longitude=float(longitude))


def test_a_boat_under_way_is_believed():
    judge = Judge()
    for k in range(50):
        assert judge.take(moved(START, 8.0 * k, k), 100.0 + k)
    assert not judge.left_out
    assert judge.clock(150.0) == pytest.approx(1e9 + 50.0)


@pytest.mark.parametrize(
    ("odd", "reason"),
    [
        (moved(START, 500.0, 1.0), "jump"),
        (moved(START, 0.0, 3600.0), "clock"),
        (moved(START, 0.0, -120.0), "clock"),
    ],
)
def test_one_that_cannot_be_is_left_out(odd, reason):
    judge = Judge()
    judge.take(START, 0.0)
    assert not judge.take(odd, 1.0)
    assert judge.left_out == {reason: 1}
    assert judge.take(moved(START, 3.0, 2.0), 2.0)
    # within thirty metres nobody has flown, however short the time
    assert judge.take(moved(START, 30.0, 2.1), 2.1)


def test_twenty_that_agree_are_believed_and_twenty_that_do_not_are_none():
    judge = Judge()
    judge.take(START, 0.0)
    there = moved(START, 5000.0)
    taken = [judge.take(moved(there, k, k), float(k)) for k in range(1, 25)]
    assert taken == [False] * 19 + [True] * 5
    wild = Judge()
    wild.take(START, 0.0)
    for k in range(1, 60):
        assert not wild.take(moved(START, 5000.0 * k * (-1) ** k, k), float(k))


def test_a_better_talker_is_followed_and_another_after_five_seconds():
    choice = TalkerChoice()
    assert choice.follows("GP", START, 0.0)
    assert choice.follows("GN", START, 0.5)
    assert not choice.follows("GP", START, 1.0)
    assert not choice.follows("GP", START, 5.0)
    assert choice.follows("GP", START, 5.6)
    assert choice.follows("GN", START, 6.0)
    assert rank_of("GN") < rank_of("GP") < rank_of("II")
    far = moved(START, 40.0)
    choice.follows("GP", far, 6.1)
    assert choice.apart == {"GN and GP": 1}


def test_temperature_and_heading_are_taken_while_they_are_fresh():
    fix = with_age(START, (10.0, 18.5), (5.0, 90.0), 12.0)
    assert fix.temperature_c == 18.5
    assert fix.heading_deg != fix.heading_deg
    assert with_age(replace(START, heading_deg=3.0), None, (12.0, 90.0), 12.0).heading_deg == 3.0


@given(st.floats(0.5, 60), st.floats(0, 20), st.floats(0, 360))
def test_a_boat_at_anchor_lies_where_it_was_wanted(depth, wind, from_deg):
    rode = rode_for(depth, wind)
    assert swing_radius(rode.rope_m, depth) == pytest.approx(rode.swing_m)
    anchor = let_go_at(START.place, rode.swing_m, from_deg)
    assert distance_m(anchor, START.place) == pytest.approx(rode.swing_m, rel=1e-3)
    # seen from the boat the anchor is where the wind comes from
    off = (bearing_deg(START.place, anchor) - from_deg + 180) % 360 - 180
    assert abs(off) < 0.5
    assert moves_by(rode.swing_m, 180.0) == pytest.approx(2 * rode.swing_m)
    assert swing_radius(depth / 2, depth) == 0.0
