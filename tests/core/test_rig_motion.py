"""Lines in motion: the steady shape stays, turns and stops do what they must, small steps change little."""

import math
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core.reason import because
from plumbbob.core.rig import tackle
from plumbbob.core.rig.methods import run, solve
from plumbbob.core.rig.motion import run_along
from plumbbob.core.rig.reasons import WhyNot
from plumbbob.core.rig.rod import CannotReach, Method, RigSettings, default_setup
from plumbbob.core.rig.track import Track, change_track, turn_track

SPEED = 0.9
WAYS = (
    (Method.DOWNRIGGER, 8.0, -1.0),
    (Method.FLAT_LINE, 4.0, 1.0),
    (Method.WEIGHTED_LINE, 4.0, -1.6),
    (Method.CLIP, 2.5, 1.6),
    (Method.DIVER, 5.0, -0.4),
    (Method.BOARD, 3.0, 2.0),
)


def a_spread(ways=WAYS):
    rods = [replace(default_setup(RigSettings(speed_mps=SPEED), m), aside_m=a) for m, _, a in ways]
    return rods, [solve(rod, depth) for rod, (_, depth, _) in zip(rods, ways, strict=True)]


def lengths(line):
    return np.linalg.norm(np.diff(line.shape, axis=1), axis=2).sum(axis=1)


@pytest.fixture(scope="module")
def straight():
    rods, answers = a_spread()
    return answers, run_along(rods, answers, change_track(SPEED, SPEED, for_s=20.0))


def test_at_a_steady_speed_the_steady_shape_stays(straight):
    answers, found = straight
    for answer, line in zip(answers, found.lines, strict=True):
        assert line.depth_m[0] == pytest.approx(answer.depth_m, abs=0.03)
        assert line.depth_m[-1] == pytest.approx(answer.depth_m, rel=0.02, abs=0.02)
        assert line.speed_mps[-1] == pytest.approx(SPEED, abs=0.02)
    # all but the board, whose line sets itself between rod and board
    for answer, line in zip(answers[:-1], found.lines[:-1], strict=True):
        assert found.boat_y[-1] - line.y[-1] == pytest.approx(answer.layback_m, rel=0.01, abs=0.05)
        assert line.tension_n[-1] == pytest.approx(answer.tension_n, rel=0.04)


def test_lines_do_not_stretch(straight):
    _, found = straight
    for line in found.lines:
        assert np.ptp(lengths(line)) < 2e-3 * lengths(line)[0]


@pytest.fixture(scope="module")
def turned():
    rods, answers = a_spread(WAYS[:3])
    return rods, answers, run_along(rods, answers, turn_track(SPEED, radius_m=20.0, turn_deg=180.0))


def test_a_steady_turn_follows_the_trailer_rule():
    radius = 40.0
    rods, answers = a_spread(((Method.FLAT_LINE, 4.0, 0.0),))
    track = turn_track(SPEED, radius_m=radius, turn_deg=720.0, run_out_s=1.0)
    found = run_along(rods, answers, track)
    late = found.time > found.time[-1] - 60
    # the boat turns to starboard about a point its radius east of where the turn began
    far = np.hypot(found.lines[0].x - radius, found.lines[0].y - 10.0 * SPEED)[late].mean()
    rule = math.sqrt(radius**2 - answers[0].layback_m ** 2)
    # a rigid trailer would run on the rule's radius; a line that bends follows the boat's own way a little
    assert 0.98 * rule < far < radius
    assert found.lines[0].speed_mps[late].mean() == pytest.approx(SPEED * far / radius, rel=0.05)


def test_the_inner_line_slows_and_the_outer_speeds_up():
    inner, outer = ((Method.CLIP, 2.5, 2.0), (Method.CLIP, 2.5, -2.0))
    rods, answers = a_spread((inner, outer))
    found = run_along(rods, answers, turn_track(SPEED, radius_m=15.0, turn_deg=180.0))
    turning = (found.time > 20) & (found.time < 60)
    slow, fast = (line.speed_mps[turning].mean() for line in found.lines)
    assert slow < fast < 1.2 * SPEED
    sunk, risen = (line.deepest_m for line in found.lines)
    assert sunk > risen


def test_a_four_times_smaller_step_changes_little(turned):
    rods, answers, found = turned
    fine = run_along(rods, answers, turn_track(SPEED, radius_m=20.0, turn_deg=180.0), step_s=0.125)
    n = min(len(found.time), len(fine.time))
    for a, b in zip(found.lines, fine.lines, strict=True):
        assert np.abs(a.depth_m[:n] - b.depth_m[:n]).max() < 0.1
        assert np.hypot(a.x[:n] - b.x[:n], a.y[:n] - b.y[:n]).max() < 0.25


def test_in_a_stop_weight_sinks_and_lip_floats():
    rods, answers = a_spread(((Method.CLIP, 2.5, -1.0), (Method.FLAT_LINE, 4.0, 1.0)))
    found = run_along(rods, answers, change_track(SPEED, 0.0, for_s=30.0))
    sinks, floats = found.lines
    assert sinks.deepest_m > 5.0
    assert floats.depth_m.min() < 3.0
    assert floats.deepest_m < 4.2
    for line in found.lines:
        assert np.isfinite(line.shape).all()
        # a slack line lies in folds, it does not grow
        assert lengths(line).max() < 1.01 * lengths(line)[0]


def test_a_burst_lifts_what_is_held_down_by_weight_only():
    rods, answers = a_spread(((Method.CLIP, 2.5, -1.0), (Method.FLAT_LINE, 4.0, 1.0)))
    found = run_along(rods, answers, change_track(SPEED, 2 * SPEED, for_s=20.0))
    assert found.lines[0].depth_m.min() < 1.2
    assert found.lines[1].depth_m.min() > 3.6


def test_what_sinks_comes_to_lie_on_the_bottom():
    rods, answers = a_spread(((Method.CLIP, 2.5, 0.0),))
    floor = 4.0
    found = run_along(
        rods, answers, change_track(SPEED, 0.0, for_s=40.0), bottom=lambda x, y: np.full(np.shape(x), floor)
    )
    assert found.lines[0].deepest_m == pytest.approx(floor, abs=0.05)
    assert found.lines[0].room_m.min() == pytest.approx(0.0, abs=0.05)


def test_a_current_carries_boat_and_lines_alike():
    rods, answers = a_spread(((Method.FLAT_LINE, 4.0, 0.0),))
    still = change_track(SPEED, SPEED, for_s=10.0)
    drift = replace(still, x=still.x + 0.4 * still.time, current_mps=(0.4, 0.0))
    found = run_along(rods, answers, drift)
    assert found.lines[0].depth_m[-1] == pytest.approx(4.0, abs=0.05)
    assert found.lines[0].x[-1] == pytest.approx(found.boat_x[-1], abs=0.1)


def test_lines_set_close_may_cross_and_lines_far_apart_do_not(turned):
    rods, answers = a_spread(((Method.CLIP, 2.5, -0.2), (Method.CLIP, 2.6, 0.2)))
    assert run_along(rods, answers, turn_track(SPEED, radius_m=12.0)).may_cross
    alone = run_along(rods[:1], answers[:1], change_track(SPEED, SPEED, for_s=5.0, run_out_s=5.0))
    assert not alone.may_cross
    assert np.isinf(alone.nearest_m).all()


def test_droppers_and_drop_weights_can_be_followed():
    rod = replace(default_setup(RigSettings(), Method.DROPPERS), speed_mps=0.15)
    answer = solve(rod, 6.0)
    found = run_along([rod], [answer], change_track(0.15, 0.15, for_s=10.0))
    assert found.lines[0].depth_m[-1] == pytest.approx(6.0, abs=0.1)


def test_what_can_not_be_followed_is_refused():
    rods, _ = a_spread(WAYS[:1])
    with pytest.raises(ValueError, match="at least one rod"):
        run_along([], [], turn_track(SPEED))
    lost = CannotReach(method=Method.DOWNRIGGER, reason=because(WhyNot.NO_MORE_LINE), nearest_depth_m=0.0)
    with pytest.raises(ValueError, match="reaches its depth"):
        run_along(rods, [lost], turn_track(SPEED))
    cast = default_setup(RigSettings(), Method.CAST)
    with pytest.raises(ValueError, match="no line in the water"):
        run_along([cast], [run(cast, 5.0)], turn_track(SPEED))
    jig = replace(default_setup(RigSettings(), Method.JIG), speed_mps=0.3, current=((0.0, -3.0), (5.0, 2.2)))
    afloat = solve(jig, 0.0)
    with pytest.raises(ValueError, match="no line in the water"):
        run_along([jig], [afloat], turn_track(SPEED))
    with pytest.raises(ValueError, match="hours: too long to be followed"):
        turn_track(0.001, radius_m=5000.0, turn_deg=360.0)
    answers = [solve(rods[0], 8.0)]
    for lasts in (0.3, 1e6):
        short = Track(time=np.array([0.0, lasts]), x=np.zeros(2), y=np.array([0.0, lasts]))
        with pytest.raises(ValueError, match="two steps"):
            run_along(rods, answers, short)
    with pytest.raises(ValueError, match="at least two places"):
        Track(time=np.zeros(1), x=np.zeros(1), y=np.zeros(1))
    with pytest.raises(ValueError, match="must be numbers"):
        Track(time=np.arange(2.0), x=np.array([0.0, np.nan]), y=np.zeros(2))
    with pytest.raises(ValueError, match="above zero"):
        turn_track(0.0)
    with pytest.raises(ValueError, match="zero or more"):
        change_track(1.0, -1.0)


def test_progress_is_told_and_a_heavier_ball_swings_less():
    heard = []
    rods, answers = a_spread(WAYS[:1])
    run_along(rods, answers, turn_track(SPEED), progress=heard.append)
    assert heard[-1] == 1.0
    assert heard == sorted(heard)
    light = [replace(rods[0], ball=tackle.SMALL_BALL)]
    swings = []
    for spread in (rods, light):
        out = [solve(spread[0], 8.0)]
        found = run_along(spread, out, turn_track(SPEED, radius_m=10.0))
        swings.append(np.ptp(found.lines[0].depth_m))
    assert swings[0] < swings[1]


def test_a_line_far_out_in_the_air_is_no_endless_chain():
    # so fast, the line of a walker leaves the water some 300 m behind the boat
    rod = replace(default_setup(RigSettings(), Method.WALKER), speed_mps=6.0, tip_height_m=5.0)
    answer = solve(rod, 3.0)
    found = run_along([rod], [answer], change_track(6.0, 6.0, for_s=5.0))
    assert answer.value > 400.0
    assert found.lines[0].shape.shape[1] < 65


@pytest.mark.parametrize(
    "current", [((0.0, 4.5e5), (8.0, 0.0)), ((0.0, math.inf),), ((-3.0, 0.2),), ((math.nan, 0.2),)]
)
def test_a_current_that_can_not_be_is_refused(current):
    with pytest.raises(ValueError, match="a current runs at most 6 m/s"):
        RigSettings(current=current)
