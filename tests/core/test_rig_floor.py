"""On the bottom: the handbook's tables, and what has to hold whatever the numbers."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.rig import floor
from plumbbob.core.rig.line import Body, tow
from plumbbob.core.rig.tackle import LineKind

RHO = 1000.0


def a_line(mm, density):
    return LineKind(name="line", diameter_m=mm / 1000, density=density, cf=0.015 / math.pi)


BRAID, THIN, NYLON, FLUORO = a_line(0.15, 970), a_line(0.13, 997), a_line(0.28, 1140), a_line(0.25, 1780)
JIG = Body(weight_n=0.0621, drag_area_m2=3.05e-4)


@pytest.mark.parametrize(
    ("depth", "line", "grams"),
    [
        (3, 15, (0.2, 0.8, 2.2)),
        (3, 5, (0.6, 2.5, 6.8)),
        (6, 9, (1.1, 4.6, 12.7)),
        (10, 30, (0.9, 3.6, 10)),
        (15, 35, (1.6, 6.3, 17)),
    ],
)
def test_lightest_lead_is_that_of_the_table(depth, line, grams):
    for speed, told in zip((0.15, 0.3, 0.5), grams, strict=True):
        found = floor.lightest_lead(depth, line, speed, BRAID, 3e-4, rho=RHO)
        assert 1000 * found == pytest.approx(told, rel=0.03, abs=0.06)


def test_hold_speeds_are_those_of_the_table():
    for line, told in ((NYLON, (0.57, 0.48, 0.40, 0.34)), (THIN, (0.83, 0.66, 0.54, 0.45))):
        found = [floor.hold_speed(JIG, 4.0, out, line, rho=RHO) for out in (20.0, 12.0, 8.0, 6.0)]
        assert found == pytest.approx(told, abs=0.012)
    with pytest.raises(ValueError, match="longer"):
        floor.hold_speed(JIG, 4.0, 3.0, NYLON)
    with pytest.raises(ValueError, match="floats"):
        floor.hold_speed(Body(weight_n=-0.01, drag_area_m2=1e-4), 4.0, 8.0, NYLON)


@given(depth=st.floats(1.0, 15.0), longer=st.floats(1.2, 6.0), speed=st.floats(0.05, 0.8))
@settings(max_examples=25)
def test_what_stays_down_stays_down(depth, longer, speed):
    line = depth * longer
    mass = floor.lightest_lead(depth, line, speed, BRAID, 3e-4)
    for factor, stays in ((1.05, True), (0.9, False)):
        weight = floor.GRAMS_N * 1000 * mass * factor * (1 - 998.0 / 11_340.0)
        found = tow(Body(weight_n=weight, drag_area_m2=3e-4), [BRAID.segment(line)], speed)
        if mass > 2e-4:
            assert (found.depth_m >= depth - 1e-3) is stays


@pytest.mark.parametrize(
    ("grams", "speed", "depth", "line", "angle"),
    [
        (14, 0.4, 6, 8.7, 27),
        (28, 0.6, 6, 9.6, 22),
        (42, 0.4, 12, 14.0, 43),
        (57, 0.6, 9, 11.7, 33),
        (85, 1.0, 3, 3.7, 41),
    ],
)
def test_walkers_are_those_of_the_table(grams, speed, depth, line, angle):
    found = floor.walk_on(grams / 1000, depth, speed, NYLON, rho=RHO)
    assert found.line_m == pytest.approx(line, abs=0.12)
    assert found.angle_deg == pytest.approx(angle, abs=1.2)


def test_a_walker_walks_lifts_or_stands():
    assert floor.walk_on(0.085, 3.0, 0.4, NYLON).walk is floor.Walk.ON_THE_SPOT
    assert floor.walk_on(0.042, 6.0, 0.6, NYLON).walk is floor.Walk.WALKS
    assert floor.walk_on(0.014, 9.0, 0.4, NYLON).walk is floor.Walk.LIFTS
    assert floor.walk_on(0.001, 12.0, 1.5, NYLON) is None
    low, high = (floor.walker_mass(6.0, 0.6, NYLON, angle_deg=a) for a in (35.0, 50.0))
    assert low < high
    assert floor.walk_on(low, 6.0, 0.6, NYLON).angle_deg == pytest.approx(35.0, abs=0.3)
    assert floor.walker_mass(6.0, 0.6, BRAID) == pytest.approx(0.6 * floor.walker_mass(6.0, 0.6, NYLON), rel=0.25)
    with pytest.raises(ValueError, match="depth"):
        floor.walk_on(0.03, 0.0, 0.4, NYLON)


@pytest.mark.parametrize(
    ("up", "speed", "heights"),
    [
        (0.005, 0.15, (0.46, 0.86, 1.19)),
        (0.01, 0.3, (0.40, 0.69, 0.90)),
        (0.02, 0.5, (0.35, 0.59, 0.77)),
        (0.01, 0.8, (0.12, 0.21, 0.28)),
    ],
)
def test_floaters_are_those_of_the_table(up, speed, heights):
    for leader, told in zip((0.5, 1.0, 1.5), heights, strict=True):
        assert floor.floater_height(up, 1e-4, leader, FLUORO, speed, rho=RHO) == pytest.approx(told, abs=0.012)


@given(up=st.floats(0.001, 0.05), leader=st.floats(0.2, 3.0), speed=st.floats(0.02, 1.2))
@settings(max_examples=30)
def test_a_floater_is_never_higher_than_its_leader(up, leader, speed):
    height = floor.floater_height(up, 1e-4, leader, FLUORO, speed)
    assert 0.0 <= height <= leader + 1e-6
    assert height <= floor.floater_height(2 * up, 1e-4, leader, FLUORO, speed) + 1e-6


@given(over=st.floats(0.1, 2.0), depth=st.floats(0.5, 30.0), away=st.floats(0.0, 40.0))
def test_tying_over_a_weight_goes_both_ways(over, depth, away):
    height = floor.drop_height(over, depth, away)
    assert 0 < height <= over
    assert floor.tied_over(height, depth, away) == pytest.approx(over)


@given(depth=st.floats(1.0, 20.0), away=st.floats(0.0, 40.0), slope=st.floats(0.0, 30.0), lean=st.floats(0.0, 25.0))
def test_a_touch_lies_on_the_slope(depth, away, slope, lean):
    deep, nearer = floor.touch_depth(depth, away, slope, lean)
    assert deep == pytest.approx(depth + (away - nearer) * math.tan(math.radians(slope)), rel=1e-6)
    assert floor.gap_after_pull(0.5, 10.0, -20.0) < 0 < floor.gap_after_pull(0.5, 10.0, 20.0)


@pytest.mark.parametrize(("current", "pull"), [(0.2, 0.048), (0.3, 0.108), (0.5, 0.30), (0.8, 0.77)])
def test_anchored_baits_are_those_of_the_table(current, pull):
    held = floor.holding_mass(current, 10.0, a_line(0.30, 1140), 6e-4, (0.7, 0.7), rho=RHO)
    assert held.side_pull_n == pytest.approx(pull, rel=0.02)
    taut = floor.holding_mass(current, 10.0, a_line(0.30, 1140), 6e-4, (0.4, 0.7), upward_n=0.2)
    assert held.mass_kg < taut.mass_low_kg < taut.mass_kg < taut.mass_high_kg
    assert floor.hold_of("gripping wires", floor.Ground.SAND)[0] > 2 * floor.hold_of("round", floor.Ground.SAND)[1]
    assert floor.hold_of("no such thing", floor.Ground.MUD) == floor.hold_of("round", floor.Ground.MUD)


@pytest.mark.parametrize(
    ("drift", "grams"),
    [(0.1, (0.7, 1.2, 1.8, 2.6, 3.4, 5.0)), (0.2, (2.9, 4.8, 7.3, 10.5, 13.7, 20)), (0.3, (6.5, 11, 17, 24, 31, 45))],
)
def test_jigs_below_a_drift_are_those_of_the_table(drift, grams):
    for depth, told in zip((3.0, 6.0, 10.0, 15.0, 20.0, 30.0), grams, strict=True):
        found = floor.jig_weight(depth, drift, THIN, 2.5e-4, fall_s=300.0)
        assert 1000 * found.angle_kg == pytest.approx(told, rel=0.08, abs=0.1)


def test_the_largest_of_three_needs_decides():
    assert floor.jig_weight(5.0, 0.0, THIN, 2.5e-4).need is floor.Need.FEEL
    assert floor.jig_weight(20.0, 0.0, THIN, 2.5e-4).need is floor.Need.FALL
    windy = floor.jig_weight(10.0, 0.4, NYLON, 2.5e-4, fall_s=60.0)
    assert windy.need is floor.Need.ANGLE
    assert windy.line_deg == pytest.approx(30.0, abs=0.3)
    calm = floor.jig_weight(8.0, 0.0, THIN, 0.5e-4, kayak=True)
    assert calm.mass_kg < 0.004
    with pytest.raises(ValueError, match="depth"):
        floor.jig_weight(0.0, 0.1, THIN, 2e-4)
    with pytest.raises(ValueError, match="no jig"):
        floor.jig_weight(900.0, 0.0, NYLON, 2e-4, fall_s=20.0)


@given(wind=st.floats(0.0, 12.0), depth=st.floats(1.0, 60.0))
def test_more_wind_and_depth_need_more_to_be_felt(wind, depth):
    felt = floor.felt_mass_kg(depth, wind, 0.28e-3)
    assert 0.003 <= felt <= floor.felt_mass_kg(depth + 5.0, wind + 1.0, 0.28e-3)


def test_schools_balls_and_hops():

    gone, there = floor.drop_on_school(12.0, 0.8, 0.3, 4.0), floor.drop_on_school(12.0, 1.5, 0.3, 10.0)
    assert gone.share < 0 < there.share
    assert there.share == pytest.approx(1 - 0.3 * there.seconds / 10.0)
    assert math.isinf(floor.seconds_to_touch(1.0, 0.0, 1.0))
    up = floor.raise_ball(3.0, 30.0, 1.1)
    assert up.begin_ahead_m == 0.0
    assert up.turns == pytest.approx(7.5)
    assert floor.contact_share(0.0, 1.0, 0.5, 3.0) == 1.0
    assert floor.lift_of(0.3, 0.5, 60.0) == 0.0
