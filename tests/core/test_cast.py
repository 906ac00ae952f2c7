"""Casting to one fish: closed forms of fall and swing, plans that keep above it, what a lure's track tells."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from plumbbob.core.rig.cast import (
    Approach,
    CannotCast,
    Target,
    Throw,
    judge_cast,
    plan_cast,
    swing_speed,
    tight_line,
)
from plumbbob.core.rig.fall import Falling, time_to_depth
from plumbbob.core.rig.tackle import BRAID, JIG, PLUG, SPOON
from plumbbob.core.sonar.sounder_setup import look_ahead

BOOK = Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3)
THROW = Throw(falling=JIG.falling(BRAID))
targets = st.builds(
    Target,
    distance_m=st.floats(4.0, 22.0),
    depth_m=st.floats(1.5, 9.0),
    azimuth_deg=st.floats(-40.0, 40.0),
    towards_mps=st.floats(-0.2, 0.2),
)


def test_published_swing():
    """Handbook 5.4: line of 15 m, 5 to 60 degrees in 44.9 s."""
    assert swing_speed(BOOK, 15.0, math.radians(5.0), 0.0, 1.0, 1000.0) == pytest.approx(0.361, abs=5e-4)
    throw = Throw(falling=BOOK, swing_beta=1.0, tip_height_m=0.0, rho=1000.0)
    q = math.radians(5.0)
    path = tight_line(
        throw, 15 * math.cos(q), 15 * math.sin(q), 0.0, lambda _t, x, z: math.atan2(z, x) >= math.radians(60.0)
    )
    assert path[-1][0] == pytest.approx(44.9, abs=0.1)


@given(st.floats(0.0, 1.4), st.floats(0.0, 2.0))
def test_drawing_slows_the_swing_and_both_balance_the_weight(angle, along):
    v = swing_speed(BOOK, 12.0, angle, along, 0.4, 1000.0)
    area = BOOK.drag_area_m2 + 0.4 * 1.2 * BOOK.line_diameter_m * 12.0 / 4
    assert 500.0 * area * v * math.hypot(v, along) == pytest.approx(BOOK.weight_n * math.cos(angle), rel=1e-9)
    assert v <= swing_speed(BOOK, 12.0, angle, 0.0, 0.4, 1000.0) + 1e-12


def test_a_straight_line_keeps_its_length_while_it_is_held():
    path = tight_line(THROW, 14.0, 0.0, 0.0, lambda t, _x, _z: t >= 8.0)
    lengths = [math.hypot(x, z + THROW.tip_height_m) for _, x, z in path if z > 0]
    assert np.ptp(lengths) < 1e-6


@settings(max_examples=40)
@example(Target(distance_m=4.0, depth_m=9.0, towards_mps=0.125), Approach.SWING_DOWN)
@given(targets, st.sampled_from(list(Approach)))
def test_a_plan_passes_above_the_fish_or_says_why_not(target, approach):
    try:
        plan = plan_cast(target, THROW, approach)
    except CannotCast:
        return  # each reason has a test of its own
    assert plan.pass_depth_m <= target.depth_m - 0.9 * THROW.clearance_m + 0.05
    assert plan.deepest_m <= target.depth_m
    assert plan.land_m <= THROW.reach_m
    assert plan.chance_below < 0.2
    # where it passes is where the fish is by then
    there = target.distance_m - target.towards_mps * plan.total_s
    assert plan.fish_at_pass_m == pytest.approx(there, abs=0.25)
    times = [t for t, _, _ in plan.path]
    assert times == sorted(times)


def test_past_and_over_lands_beyond_and_counts_down_on_open_line():
    plan = plan_cast(Target(distance_m=12.0, depth_m=5.0), THROW)
    assert plan.past_m >= 2.0
    assert plan.count_s == pytest.approx(time_to_depth(THROW.falling, plan.close_depth_m)[0], rel=2e-3)
    assert plan.draw_s > 0


def test_swing_down_holds_from_the_splash_and_comes_nearer():
    plan = plan_cast(Target(distance_m=12.0, depth_m=5.0), THROW, Approach.SWING_DOWN)
    assert plan.count_s == 0.0
    assert plan.swing_m > 0.5
    # the rod tip, the landing and the fish lie on one circle
    tip = THROW.tip_height_m
    assert math.hypot(plan.land_m, tip) == pytest.approx(
        math.hypot(plan.fish_at_pass_m, plan.pass_depth_m + tip), abs=0.05
    )


def test_a_drifting_boat_and_a_swimming_fish_are_led():
    still = plan_cast(Target(distance_m=12.0, depth_m=4.0), THROW)
    right = plan_cast(Target(distance_m=12.0, depth_m=4.0, aside_mps=0.3), THROW)
    assert abs(still.aim_deg) < 0.1
    assert right.aim_deg > 2.0
    # a boat that drifts to the right has to throw to the left of the fish: the line will lead from there to the boat
    drift = plan_cast(Target(distance_m=12.0, depth_m=4.0), replace(THROW, drift_aside_mps=0.3))
    assert drift.aim_deg < 0.0
    ahead = plan_cast(Target(distance_m=12.0, depth_m=4.0), replace(THROW, drift_ahead_mps=0.2))
    assert ahead.fish_at_pass_m < still.fish_at_pass_m


def test_more_doubt_leaves_more_room():
    sure = plan_cast(Target(distance_m=14.0, depth_m=6.0, depth_sd_m=0.05, distance_sd_m=0.1), THROW)
    unsure = plan_cast(Target(distance_m=14.0, depth_m=6.0, depth_sd_m=0.8, distance_sd_m=0.8), THROW)
    assert unsure.pass_depth_m < sure.pass_depth_m - 0.3


@pytest.mark.parametrize(
    ("target", "throw", "said"),
    [
        (Target(distance_m=10.0, depth_m=0.4), THROW, "too near the surface"),
        (Target(distance_m=10.0, depth_m=5.0), Throw(falling=PLUG.falling(BRAID)), "can't be cast and counted"),
        (Target(distance_m=34.0, depth_m=5.0), THROW, "move closer"),
        (Target(distance_m=20.0, depth_m=1.4), replace(THROW, retrieve_mps=0.1), "reel faster or go lighter"),
        (Target(distance_m=9.0, depth_m=4.0), replace(THROW, retrieve_mps=2.8), "slower or go heavier"),
    ],
)
def test_what_can_not_be_done_is_said_in_one_line(target, throw, said):
    with pytest.raises(CannotCast, match=said):
        plan_cast(target, throw)


@pytest.mark.parametrize("bad", [{"distance_m": 0.0, "depth_m": 3.0}, {"distance_m": 5.0, "depth_m": math.nan}])
def test_no_such_fish(bad):
    with pytest.raises(ValueError, match="above zero"):
        Target(**bad)


def test_a_heavier_lure_is_counted_shorter():
    target = Target(distance_m=13.0, depth_m=5.0)
    heavy = replace(JIG, weight_n=0.25, fall_area_m2=2e-4)
    assert plan_cast(target, Throw(falling=heavy.falling(BRAID))).count_s < plan_cast(target, THROW).count_s
    assert plan_cast(target, Throw(falling=SPOON.falling(BRAID))).count_s > plan_cast(target, THROW).count_s


T = np.arange(0.0, 12.0, 0.2)
FISH = (T, np.full(T.size, 8.0), np.full(T.size, 4.0))


@pytest.mark.parametrize(
    ("distance", "depth", "word"),
    [
        (14.0 - 0.7 * T, np.full(T.size, 3.4), "good"),
        (14.0 - 0.7 * T, np.full(T.size, 4.6), "below"),
        (14.0 - 0.7 * T, np.full(T.size, 0.8), "high"),
        (14.0 - 0.3 * T, np.full(T.size, 3.4), "long"),
        (6.5 - 0.3 * T, np.full(T.size, 3.4), "short"),
        (20.0 - 1.6 * T, np.full(T.size, 3.4), "fast"),
    ],
)
def test_a_lures_track_tells_what_went_wrong(distance, depth, word):
    verdict = judge_cast(T, distance, depth, *FISH)
    assert verdict.word == word
    assert verdict.amount >= 0


def test_tracks_that_never_met_tell_nothing():
    assert judge_cast(T + 100.0, 14.0 - 0.7 * T, np.full(T.size, 3.4), *FISH) is None
    none = np.zeros(0)
    assert judge_cast(none, none, none, *FISH) is None


@given(st.floats(1.0, 20.0), st.floats(2.0, 30.0), st.floats(2.0, 40.0))
def test_looking_ahead_keeps_every_fish_in_and_the_bottom_only_where_it_fits(depth, far, bottom):
    found = look_ahead(depth, far, bottom)
    assert found.deep_m >= depth
    assert found.far_m >= far
    assert found.pixels == pytest.approx(0.35 * 500 / found.deep_m)
    if found.with_bottom:
        assert found.deep_m >= bottom
        assert found.pixels >= 11.9
