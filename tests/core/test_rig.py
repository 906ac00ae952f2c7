"""Towed lines and falls: closed forms, an independent integration, published cases, inverses, limits."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from plumbbob.core.rig import tackle
from plumbbob.core.rig.fall import Falling, depth_after, fall_speed, time_to_depth
from plumbbob.core.rig.line import Body, Segment, Unreachable, line_for_depth, tow, weightless_depth_m
from plumbbob.core.rig.methods import run, solve
from plumbbob.core.rig.rod import Amount, CannotReach, Method, RigAnswer, RigSettings, default_setup

speeds = st.floats(0.2, 3.0)
bodies = st.builds(Body, weight_n=st.floats(0.05, 60), drag_area_m2=st.floats(1e-5, 5e-3), lift_area_m2=st.just(0.0))


@given(bodies, st.floats(1, 80), st.floats(1e-4, 1.5e-3), speeds)
def test_weightless_line_agrees_with_the_closed_form(body, length, diameter, speed):
    line = Segment(length_m=length, diameter_m=diameter, weight_npm=0.0, cn=1.2, ct=0.0)
    solved = tow(body, [line], speed)
    depth, layback = weightless_depth_m(body, line, speed)
    assert solved.depth_m == pytest.approx(depth, rel=1e-3, abs=1e-3)
    assert solved.layback_m == pytest.approx(layback, rel=1e-3, abs=1e-3)


def tight_integration(body: Body, line: Segment, speed: float, rho: float = 998.0) -> tuple[float, float, float]:
    """The same equations by an adaptive solver of high order: depth, layback, tension."""
    q = 0.5 * rho * speed**2
    drag, down = q * body.drag_area_m2, body.weight_n + q * body.lift_area_m2
    kn, kt, w = q * line.diameter_m * line.cn, q * line.diameter_m * line.ct, line.weight_npm

    def rates(_, y):
        t, p = y[0], y[1]
        s, c = math.sin(p), math.cos(p)
        return [w * s + kt * c * abs(c), (w * c - kn * s * abs(s)) / t, c, s]

    start = [math.hypot(drag, down), math.atan2(down, drag), 0.0, 0.0]
    end = solve_ivp(rates, (0, line.length_m), start, method="DOP853", rtol=1e-10, atol=1e-12).y[:, -1]
    return end[3], end[2], end[0]


@settings(max_examples=40, deadline=None)
@given(bodies, st.floats(2, 90), st.floats(2e-4, 1.2e-3), st.floats(-0.002, 0.06), speeds)
def test_heavy_and_floating_lines_agree_with_a_tight_integration(body, length, diameter, weight, speed):
    line = Segment(length_m=length, diameter_m=diameter, weight_npm=weight, cn=1.25, ct=0.03)
    solved = tow(body, [line], speed)
    depth, layback, tension = tight_integration(body, line, speed)
    assert solved.depth_m == pytest.approx(depth, rel=5e-3, abs=2e-3)
    assert solved.layback_m == pytest.approx(layback, rel=5e-3, abs=2e-3)
    assert solved.tension_n == pytest.approx(tension, rel=5e-3)


def test_long_heavy_line_reaches_its_critical_angle():
    core = Segment(
        length_m=400, diameter_m=0.8e-3, weight_npm=(1.8e-3 - 1000 * math.pi * 0.4e-3**2) * 9.80665, ct=0.0
    )
    solved = tow(Body(weight_n=1e-6, drag_area_m2=1e-9), [core], 1.0, rho=1000)
    assert solved.angle_deg == pytest.approx(9.31, abs=0.05)


@pytest.mark.parametrize(("speed", "depth", "layback"), [(1.0, 29.18, 6.33), (1.3, 27.90, 10.06)])
def test_ball_on_a_cable(speed, depth, layback):
    ball = Body(weight_n=40.25, drag_area_m2=1.63 / 500)
    cable = Segment(length_m=30.0, diameter_m=0.8e-3, weight_npm=0.0, cn=1.2, ct=0.015)
    solved = tow(ball, [cable], speed, rho=1000)
    assert solved.depth_m == pytest.approx(depth, abs=0.02)
    assert solved.layback_m == pytest.approx(layback, abs=0.03)


def test_sheared_stream():
    cable = Segment(length_m=40, diameter_m=0.0006, weight_npm=0.0129234, cn=1.2, ct=math.pi * 0.02)
    body = Body(weight_n=40.2462, drag_area_m2=0.003068)
    solved = tow(body, [cable], 1.0, stream=[(0, 1.4), (10, 1.2), (20, 0.9), (60, 0.9)])
    assert solved.depth_m == pytest.approx(39.083138, rel=1e-3)
    assert solved.layback_m == pytest.approx(7.459554, rel=1e-3)
    assert solved.angle_from_vertical_deg == pytest.approx(23.04087, rel=1e-3)


def test_two_kinds_of_line_join():
    leader = Segment(length_m=8, diameter_m=0.0003, weight_npm=9.84332e-05, cn=1.2, ct=math.pi * 0.02)
    core = Segment(length_m=27, diameter_m=0.0009, weight_npm=0.0124064, cn=1.3, ct=math.pi * 0.02)
    solved = tow(Body(weight_n=0.08, drag_area_m2=0.0005), [leader, core], 0.8)
    assert solved.depth_m == pytest.approx(6.776659, rel=1e-3)
    assert solved.tension_n == pytest.approx(0.755626, rel=1e-3)


@given(bodies, speeds, st.floats(0.5, 15))
def test_line_for_a_depth_is_the_inverse(body, speed, depth):
    line = Segment(length_m=0.0, diameter_m=0.3e-3, weight_npm=1e-4)
    try:
        found = line_for_depth(body, [line], depth, speed)
    except Unreachable:
        assert tow(body, [replace(line, length_m=300.0)], speed).depth_m < depth
        return
    again = tow(body, [Segment(length_m=found.length_m, diameter_m=0.3e-3, weight_npm=1e-4)], speed)
    assert again.depth_m == pytest.approx(depth, abs=0.01)


def test_a_floating_line_has_a_greatest_depth():
    body = Body(weight_n=0.05, drag_area_m2=0.0002)
    line = Segment(length_m=0, diameter_m=0.0014, weight_npm=-0.00147942, cn=1.3, ct=math.pi * 0.02)
    with pytest.raises(Unreachable) as caught:
        line_for_depth(body, [line], 3.0, 0.5, longest_m=1000)
    assert caught.value.greatest_depth_m == pytest.approx(0.79682, abs=0.02)


@pytest.mark.parametrize("speed", [-1.0, float("nan"), float("inf")])
def test_senseless_speeds_are_refused(speed):
    with pytest.raises(ValueError, match="speed"):
        tow(tackle.PLUG.body(), [tackle.MONO.segment(20)], speed)


def test_fall_with_and_without_inertia():
    ball = Falling(weight_n=0.25, drag_area_m2=0.00019, mass_kg=0.028)
    seconds, speed = time_to_depth(ball, 15.0)
    assert seconds == pytest.approx(9.36343, abs=0.01)
    assert speed == pytest.approx(1.623839, rel=1e-4)
    jig = Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3, line_ct=0.02 * math.pi)
    assert time_to_depth(jig, 6.0, rho=1000)[0] == pytest.approx(5.73, abs=0.01)


@given(st.floats(0.03, 1.0), st.floats(5e-5, 2e-3), st.floats(0.5, 30), st.floats(0, 0.05))
def test_count_and_depth_are_inverse(weight, area, depth, mass):
    lure = Falling(weight_n=weight, drag_area_m2=area, line_diameter_m=0.25e-3, line_ct=0.015, mass_kg=mass)
    seconds, speed = time_to_depth(lure, depth)
    assert depth_after(lure, seconds) == pytest.approx(depth, rel=1e-3)
    assert 0 < speed <= fall_speed(lure, 0.0) * 1.0001


def test_a_weightless_mass_falls_as_one_without_inertia():
    parts = {"weight_n": 0.3, "drag_area_m2": 2e-3}
    still, _ = time_to_depth(Falling(**parts), 8.0)
    for mass in (5e-324, 1e-12, 1e-4, 1e-3):
        assert time_to_depth(Falling(**parts, mass_kg=mass), 8.0)[0] == pytest.approx(still, rel=2e-3)


def test_what_floats_can_not_be_counted():
    with pytest.raises(ValueError, match="floats"):
        time_to_depth(Falling(weight_n=-0.1, drag_area_m2=1e-4), 3.0)
    with pytest.raises(ValueError, match=r"holds it at 2\.0 m"):
        time_to_depth(Falling(weight_n=0.02, drag_area_m2=1e-4, line_weight_npm=-0.01), 5.0)


@pytest.mark.parametrize("method", list(Method))
@given(depth=st.floats(0.0, 60.0), speed=st.floats(0.0, 5.0))
def test_every_answer_is_a_number_or_a_reason(method, depth, speed):
    answer = solve(default_setup(RigSettings(speed_mps=speed), method), depth)
    if isinstance(answer, CannotReach):
        assert answer.reason
        assert math.isfinite(answer.nearest_depth_m)
        return
    numbers = [answer.value, answer.depth_sd_m, answer.layback_m, answer.angle_deg, *np.ravel(answer.shape)]
    assert np.isfinite(numbers).all()
    assert answer.value >= 0
    assert answer.depth_m == pytest.approx(depth, abs=0.02)
    again = run(default_setup(RigSettings(speed_mps=speed), method), answer.value)
    assert isinstance(again, RigAnswer)
    # a weighted line that lies flat behind a fast boat is let out by metres for centimetres of depth
    flat = method is Method.WEIGHTED_LINE and speed > 3.0
    assert again.value == pytest.approx(answer.value, rel=0.04 if flat else 0.01, abs=0.05)
    if method is not Method.WEIGHTED_LINE or depth > 2:  # a flat leader may have a second, deeper balance
        assert again.depth_m == pytest.approx(depth, rel=0.01, abs=0.05)


def test_a_ball_needs_more_wire_the_faster_the_boat():
    slow, fast = (solve(RigSettings(speed_mps=v), 15.0) for v in (0.6, 1.6))
    assert isinstance(slow, RigAnswer)
    assert isinstance(fast, RigAnswer)
    assert slow.amount is Amount.WIRE
    assert fast.value > slow.value
    assert fast.blow_back_m > slow.blow_back_m
    assert fast.angle_deg > slow.angle_deg


def test_a_depth_out_of_reach_names_one_within():
    answer = solve(default_setup(RigSettings(), Method.FLAT_LINE), 30.0)
    assert isinstance(answer, CannotReach)
    near = solve(default_setup(RigSettings(), Method.FLAT_LINE), answer.nearest_depth_m * 0.98)
    assert isinstance(near, RigAnswer)
