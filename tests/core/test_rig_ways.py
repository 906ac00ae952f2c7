"""Every way of fishing: published cases, physical sense, both directions, and reasons where it can't."""

import math
from contextlib import suppress
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from plumbbob.core.rig import tackle
from plumbbob.core.rig.casting import holding_speed, pump, retrieve_path, swing, time_to_angle
from plumbbob.core.rig.chains import HANGING, chain
from plumbbob.core.rig.fall import Falling, depth_after, fall_speed
from plumbbob.core.rig.line import Body, Segment, Unreachable, length_between, line_for_depth, to_tip, tow
from plumbbob.core.rig.methods import depth_of, hanging, run, solve, weight_for_angle
from plumbbob.core.rig.reasons import RigCaution, WhyNot
from plumbbob.core.rig.rod import (
    FAMILY,
    NUMBERS,
    SLOTS,
    Amount,
    CannotReach,
    Family,
    Method,
    RigAnswer,
    RigSettings,
    Zero,
    amount_of,
    default_setup,
)
from plumbbob.core.rig.table import card_table, speeds_about

THIN = Segment(length_m=0.0, diameter_m=0.28e-3, weight_npm=0.0, cn=1.2, ct=0.015)


def a_rod(method: Method, **changes) -> RigSettings:
    """A rod of a way with its usual tackle."""
    return replace(default_setup(RigSettings(), method), **changes)


def reached(answer: RigAnswer | CannotReach) -> RigAnswer:
    assert isinstance(answer, RigAnswer), answer
    return answer


# -- bodies on the way, against published cases -----------------------------------------------------------------


@pytest.mark.parametrize(("length", "depth"), [(10, 4.62), (25, 9.52), (40, 12.56)])
def test_a_disc_ahead_of_a_lure(length, depth):
    lure, disc = Body(weight_n=0.02, drag_area_m2=0.3 / 500), Body(weight_n=0.9, drag_area_m2=0.6 / 500)
    pieces = [replace(THIN, length_m=2.0), disc, replace(THIN, length_m=length - 2.0)]
    assert tow(lure, pieces, 1.0, rho=1000).depth_m == pytest.approx(depth, abs=0.02)


def test_a_weight_in_the_line():
    lure, sinker = Body(weight_n=0.05, drag_area_m2=0.3 / 500), Body(weight_n=1.0, drag_area_m2=0.1 / 500)
    solved = tow(lure, [replace(THIN, length_m=12.0), sinker, replace(THIN, length_m=18.0)], 1.0, rho=1000)
    assert solved.depth_m == pytest.approx(10.996, abs=0.01)
    assert solved.layback_m == pytest.approx(26.53, abs=0.02)
    joint = solved.loads[0]
    assert solved.s_m[joint] == pytest.approx(12.0)
    assert solved.z_m[joint] < solved.depth_m


@pytest.mark.parametrize(("speed", "depth"), [(0.6, 19.7), (0.8, 14.7), (1.0, 11.2), (1.3, 7.9)])
def test_a_sinker_and_a_lure_on_nylon(speed, depth):
    body = Body(weight_n=0.760, drag_area_m2=3e-4)
    line = tackle.LineKind(name="n", diameter_m=0.28e-3, density=1140.0, cf=0.015 / math.pi).segment(30.0, rho=1000)
    assert tow(body, [line], speed, rho=1000).depth_m == pytest.approx(depth, abs=0.35)


def test_a_body_without_weight_or_drag_changes_nothing():
    lure, nothing = Body(weight_n=0.5, drag_area_m2=5e-4), Body(weight_n=0.0, drag_area_m2=0.0)
    whole = tow(lure, [replace(THIN, length_m=30.0)], 1.0)
    cut = tow(lure, [replace(THIN, length_m=11.0), nothing, replace(THIN, length_m=19.0)], 1.0)
    assert cut.depth_m == pytest.approx(whole.depth_m, rel=1e-4)


@given(st.floats(0.3, 2.0), st.floats(1.0, 12.0), st.floats(-0.4, 0.4))
def test_a_shear_is_inverted_without_a_search(speed, depth, shear):
    body, line = Body(weight_n=3.0, drag_area_m2=5e-4), Segment(length_m=0, diameter_m=4e-4, weight_npm=1e-4)
    stream = [(0.0, speed), (20.0, speed + shear)]
    try:
        found = line_for_depth(body, [line], depth, 0.0, stream=stream)
    except Unreachable:
        return
    again = tow(body, [replace(line, length_m=found.length_m)], 0.0, stream=stream)
    assert again.depth_m == pytest.approx(depth, rel=5e-3, abs=5e-3)


@given(st.floats(0.05, 50), st.floats(0.0, 1.55), st.floats(1e-4, 0.03), st.floats(0.1, 3.0))
def test_the_line_in_the_air_is_a_catenary(tension, angle, weight, height):
    length, aft = to_tip(tension, angle, weight, height)
    assert length >= height * 0.999999
    assert math.hypot(aft, height) == pytest.approx(length, rel=1e-9)
    # by small steps: level pull stays, the upright grows by weight
    n = 4000
    level, up = tension * math.cos(angle), tension * math.sin(angle)
    rise = sum((up + weight * s) / math.hypot(level, up + weight * s) for s in (np.arange(n) + 0.5) * length / n)
    assert rise * length / n == pytest.approx(height, rel=1e-3)


@given(st.floats(0.5, 2.0), st.floats(1.0, 40.0))
def test_a_length_below_another_line_is_found(speed, length):
    lure, core = Body(weight_n=0.1, drag_area_m2=5e-4), Segment(length_m=length, diameter_m=8e-4, weight_npm=0.0127)
    leader, backing = replace(THIN, length_m=5.0), replace(THIN, length_m=12.0)
    depth = tow(lure, [leader, core, backing], speed).depth_m
    found, solved = length_between(lure, [leader, core, backing], 1, depth, speed)
    assert solved.depth_m == pytest.approx(depth, rel=1e-3, abs=1e-3)
    assert found == pytest.approx(length, rel=0.02, abs=0.02)
    with pytest.raises(Unreachable) as caught:
        length_between(lure, [leader, replace(THIN, length_m=0.0), backing], 1, 300.0, speed)
    assert 0 < caught.value.greatest_depth_m < 300
    with pytest.raises(ValueError, match="must be a line"):
        length_between(lure, [leader, lure, backing], 1, depth, speed)


# -- every way ---------------------------------------------------------------------------------------------------


def test_every_way_has_its_family_tackle_and_numbers():
    fields = set(RigSettings.__dataclass_fields__)
    for method in Method:
        assert FAMILY[method] in Family
        assert SLOTS[method][0] in fields
        assert set(NUMBERS[method]) <= fields
        assert (method in HANGING) == (FAMILY[method] is not Family.CAST)
        rod = a_rod(method)
        assert set(rod.items()) == set(SLOTS[method])


@pytest.mark.parametrize("method", sorted(HANGING, key=lambda m: m.value))
def test_where_the_lure_is_drawn_is_where_it_runs(method):
    rod = a_rod(method)
    answer = reached(solve(rod, 3.0))
    assert answer.lure[1] == pytest.approx(3.0, abs=0.01)
    assert answer.layback_m == pytest.approx(answer.lure[0])
    assert any(math.dist(p, answer.lure) < 1e-9 for p in answer.shape)
    if method is not Method.BOARD:
        assert answer.shape[-1] == (0.0, -rod.tip_height_m)
    assert answer.amount is amount_of(method)


@settings(max_examples=30)
@given(st.sampled_from(sorted(HANGING, key=lambda m: m.value)), st.floats(0.3, 2.0), st.floats(2.0, 60.0))
def test_more_line_never_gives_a_negative_depth_or_nan(method, speed, out):
    answer = run(a_rod(method, speed_mps=speed), out)
    if isinstance(answer, RigAnswer):
        numbers = [answer.depth_m, answer.depth_sd_m, answer.layback_m, answer.tension_n, *np.ravel(answer.shape)]
        assert np.isfinite(numbers).all()
        assert answer.depth_sd_m >= 0
    else:
        assert answer.reason


def test_a_clip_weight_too_short_for_its_own_leader_says_so():
    answer = solve(a_rod(Method.CLIP, ahead_m=20.0), 0.4)
    assert isinstance(answer, CannotReach)
    assert answer.reason.code is WhyNot.WEIGHT_NOT_IN
    assert isinstance(solve(a_rod(Method.CLIP, ahead_m=20.0), answer.nearest_depth_m + 0.2), RigAnswer)


def test_colours_of_weighted_line_run_out_into_backing():
    rod = a_rod(Method.WEIGHTED_LINE, core_m=27.432, speed_mps=0.8)
    some, more = reached(run(rod, 25.0)), reached(run(rod, 90.0))
    colours = {e.name: e.value for e in some.extras}["colours"]
    assert 0.5 < colours < 3.0
    assert {e.name: e.value for e in more.extras}["colours"] == pytest.approx(3.0)
    assert more.depth_m > some.depth_m


def test_a_disc_set_aside_runs_less_deep_and_to_its_side():
    straight, port = (reached(run(a_rod(Method.DIVER, setting=s), 20.0)) for s in (0, -2))
    starboard = reached(run(a_rod(Method.DIVER, setting=2), 20.0))
    assert straight.aside_m == 0.0
    assert port.aside_m == pytest.approx(-starboard.aside_m)
    assert starboard.aside_m > 1.0
    assert starboard.depth_m < straight.depth_m


def test_a_board_rides_where_pull_and_drag_balance():
    rod = a_rod(Method.BOARD, aside_m=2.0)
    answer = reached(solve(rod, 3.0))
    assert answer.aside_m > 10.0
    assert reached(solve(replace(rod, aside_m=-2.0), 3.0)).aside_m == pytest.approx(-answer.aside_m)
    out = math.hypot(answer.aside_m, answer.shape[-1][0])
    assert out == pytest.approx(math.sqrt(rod.board_m**2 - rod.tip_height_m**2), rel=1e-6)


def test_a_drop_weight_hangs_under_its_lure():
    answer = reached(solve(a_rod(Method.DROP_WEIGHT, leader_m=0.5, speed_mps=0.1), 8.0))
    assert answer.ball is not None
    assert answer.ball[1] - answer.lure[1] == pytest.approx(0.5, abs=0.02)


@pytest.mark.parametrize("method", [Method.DROP_WEIGHT, Method.DROPPERS])
def test_a_lure_above_its_weight_is_at_its_depth_in_a_shear_too(method):
    rod = a_rod(method, speed_mps=0.1, current=((0.0, 0.0), (8.0, 0.0), (9.0, -0.4)), leader_m=2.0, hook_gap_m=1.0)
    answer = reached(solve(rod, 8.0))
    assert answer.lure[1] == pytest.approx(8.0, abs=0.03)
    assert reached(run(rod, answer.value)).depth_m == pytest.approx(8.0, abs=0.03)


def test_droppers_span_their_gaps():
    answer = reached(solve(a_rod(Method.DROPPERS, hooks=5, hook_gap_m=0.4, speed_mps=0.05), 9.0))
    assert len(answer.hooks) == 5
    assert answer.band is not None
    assert answer.band[1] - answer.band[0] == pytest.approx(1.6, abs=0.03)
    assert (answer.band[0] + answer.band[1]) / 2 == pytest.approx(9.0, abs=0.05)


def test_a_drift_puts_the_line_aslant_and_says_when_too_much():
    calm, windy = (reached(solve(a_rod(Method.JIG, speed_mps=v), 9.0)) for v in (0.1, 0.45))
    assert calm.cautions == ()
    assert windy.angle_deg > 45
    assert windy.cautions[0].code is RigCaution.LINE_OFF_VERTICAL
    case = a_rod(Method.JIG, speed_mps=0.3, tip_height_m=0.0, rho=1000.0)
    body = Body(weight_n=0.028 * 9.80665 * (1 - 1000 / 11340), drag_area_m2=3e-4)
    braid = Segment(length_m=20.0, diameter_m=0.25e-3, weight_npm=0.0, cn=1.2, ct=0.0)
    solved = tow(body, [braid], case.speed_mps, rho=1000)
    assert solved.depth_m == pytest.approx(17.03, abs=0.05)
    assert solved.angle_deg == pytest.approx(41.5, abs=0.2)


@given(st.floats(2.0, 25.0), st.floats(0.1, 0.6), st.floats(15.0, 60.0))
def test_weight_for_an_angle_keeps_the_angle(depth, speed, off):
    rod = a_rod(Method.JIG, speed_mps=speed)
    mass = weight_for_angle(rod, depth, off)

    def angle(kilos: float) -> float:
        lead = tackle.Weight(name="lead", mass_kg=kilos).body()
        jig = replace(lead, drag_area_m2=max(lead.drag_area_m2, rod.lure.drag_area_m2))
        return line_for_depth(jig, [rod.line.segment(0)], depth, speed).angle_from_vertical_deg

    assert angle(mass) <= off + 0.01
    assume(mass > 0.0015)
    with suppress(Unreachable):
        assert angle(mass * 0.9) > off


def test_what_drags_more_takes_more_weight():
    jig = a_rod(Method.JIG, speed_mps=0.4)
    light, large = (
        weight_for_angle(replace(jig, lure=replace(tackle.JIG, drag_area_m2=a)), 8.0) for a in (1e-4, 9e-4)
    )
    assert large > 1.3 * light
    few, many = (weight_for_angle(a_rod(Method.DROPPERS, speed_mps=0.4, hooks=n), 8.0) for n in (1, 12))
    assert many > 1.2 * few


def test_a_counter_zeroed_at_the_surface_leaves_out_the_rod():
    for method in (Method.DOWNRIGGER, Method.FLAT_LINE, Method.WEIGHTED_LINE, Method.JIG, Method.ICE):
        surface, tip = (a_rod(method, zero=z, tip_height_m=1.2) for z in (Zero.SURFACE, Zero.TIP))
        a, b = (reached(solve(r, 3.0 if method is Method.FLAT_LINE else 6.0)) for r in (surface, tip))
        assert b.value - a.value == pytest.approx(1.2, abs=1e-6)
        assert reached(run(surface, a.value)).depth_m == pytest.approx(reached(run(tip, b.value)).depth_m, abs=1e-6)
    straight = reached(solve(a_rod(Method.JIG), 7.0))
    assert straight.value == pytest.approx(7.0, abs=0.01)


@given(
    st.sampled_from([m for m in Method if m not in (Method.CAST, Method.RETRIEVE, Method.PUMP)]),
    st.sampled_from(tackle.DEFAULT_BOX.lures),
    st.floats(0.0, 3.0),
    st.floats(0.0, 80.0),
)
def test_no_lure_runs_above_the_water(method, lure, speed, out):
    answer = run(a_rod(method, lure=lure, speed_mps=speed), out)
    if isinstance(answer, RigAnswer):
        assert answer.depth_m >= 0.0
        assert all(z >= 0.0 for _, z in answer.shape[:-1])
        assert answer.value >= 0.0
    else:
        assert answer.nearest_depth_m >= 0.0


def test_a_floating_lure_that_comes_up_is_said_to_float():
    answer = run(a_rod(Method.WALKER, lure=replace(tackle.BAIT, weight_n=-0.3), speed_mps=0.05, leader_m=6.0), 8.0)
    assert isinstance(answer, CannotReach)
    assert answer.reason.code is WhyNot.FLOATS_AT_SURFACE


def test_a_clip_weight_with_less_line_than_its_lead_is_a_plain_line_so_far():
    rod = a_rod(Method.CLIP, ahead_m=9.0)
    short = reached(run(rod, 6.0))
    plain = reached(run(replace(rod, method=Method.FLAT_LINE), 6.0))
    assert short.depth_m == pytest.approx(plain.depth_m)
    assert short.cautions[0].code is RigCaution.WEIGHT_NOT_ON_LINE
    assert reached(run(rod, 14.0)).depth_m > short.depth_m + 0.5


def test_five_colours_let_out_are_five():
    rod = a_rod(Method.WEIGHTED_LINE, leader_m=6.0, zero=Zero.TIP)
    answer = reached(run(rod, 6.0 + 5 * tackle.CORE.colour_m))
    assert {e.name: e.value for e in answer.extras}["colours"] == pytest.approx(5.0, abs=0.02)


def test_a_textbook_walker_is_let_be():
    rod = a_rod(Method.WALKER, sinker=tackle.Weight(name="2 oz", mass_kg=0.0567, cd=0.9), speed_mps=0.447)
    assert reached(solve(rod, 6.1)).cautions == ()
    light = replace(rod, sinker=replace(rod.sinker, mass_kg=0.014), speed_mps=0.65)
    deep = solve(light, 3.0)
    assert isinstance(deep, CannotReach) or deep.cautions[0].code is RigCaution.WALKER_FLAT


def test_through_the_ice_it_is_straight_down():
    answer = reached(solve(a_rod(Method.ICE, tip_height_m=0.5), 7.0))
    assert answer.value == pytest.approx(7.0, abs=1e-3)
    assert answer.layback_m == pytest.approx(0.0, abs=1e-6)
    assert {e.name for e in answer.extras} == {"start over the fish"}


@pytest.mark.parametrize(
    ("rod", "why"),
    [
        (a_rod(Method.FLAT_LINE, speed_mps=0.1), WhyNot.LIP_TOO_SLOW),
        (a_rod(Method.FLAT_LINE, lure=tackle.BAIT), WhyNot.FLOATS_WITHOUT_LIP),
        (a_rod(Method.JIG, lure=tackle.BAIT), WhyNot.FLOATS_WITHOUT_WEIGHT),
        (a_rod(Method.DIVER, speed_mps=0.0), WhyNot.DISC_TOO_SLOW),
        (a_rod(Method.CAST, lure=tackle.PLUG), WhyNot.FLOATS_NO_COUNT),
        (a_rod(Method.RETRIEVE, lure=tackle.SPOON), WhyNot.NO_LIP),
        (a_rod(Method.RETRIEVE, retrieve_mps=0.0), WhyNot.REEL_FASTER),
    ],
)
def test_what_can_not_work_says_why(rod, why):
    answer = solve(rod, 4.0)
    assert isinstance(answer, CannotReach)
    assert answer.reason.code is why
    assert math.isfinite(answer.nearest_depth_m)


@pytest.mark.parametrize("value", [-1.0, math.nan, math.inf, 5001.0, 1e300])
def test_senseless_amounts_and_depths_are_refused(value):
    for method in Method:
        assert isinstance(solve(a_rod(method), value), CannotReach)
        assert isinstance(run(a_rod(method), value), CannotReach)


@pytest.mark.parametrize(
    "changes",
    [{"speed_mps": -1.0}, {"speed_mps": math.nan}, {"lead_m": -1.0}, {"hooks": 0}, {"current": ((0.0, math.nan),)}],
)
def test_senseless_rods_are_refused(changes):
    with pytest.raises(ValueError, match=r"outside|at most 6 m/s"):
        a_rod(Method.DOWNRIGGER, **changes)


def test_a_current_against_the_boat_drags_more():
    still = reached(run(a_rod(Method.DOWNRIGGER), 12.0))
    against = reached(run(a_rod(Method.DOWNRIGGER, current=((0.0, -0.5), (12.0, -0.2))), 12.0))
    assert against.layback_m > still.layback_m
    assert against.depth_m < still.depth_m


@pytest.mark.parametrize("coefficient", ["line", "speed", "length"])
def test_every_doubt_widens_the_spread(coefficient):
    rod = a_rod(Method.FLAT_LINE)
    sure = replace(rod, speed_sd_mps=0.0, line_sd=0.0)
    before = reached(solve(sure, 3.0)).depth_sd_m
    wider = {
        "line": replace(sure, line=tackle.CORE),
        "speed": replace(sure, speed_sd_mps=0.3, lure=tackle.SPOON),
        "length": replace(sure, line_sd=0.2),
    }[coefficient]
    narrower = {
        "line": before * 0,
        "speed": reached(run(replace(wider, speed_sd_mps=0.0), 15.0)).depth_sd_m,
        "length": before,
    }[coefficient]
    found = run(wider, 15.0) if coefficient == "speed" else solve(wider, 3.0)
    assert reached(found).depth_sd_m > narrower


# -- casts -------------------------------------------------------------------------------------------------------


def test_a_tight_line_swings_as_published():
    jig = Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3)
    assert time_to_angle(jig, 15.0, 5.0, 60.0, rho=1000.0) == pytest.approx(44.9, abs=0.1)
    spoon = Falling(weight_n=0.15, drag_area_m2=7e-4, line_diameter_m=0.25e-3, mass_kg=0.018)
    depths = [z for z, _ in swing(spoon, 20.0, 0.0, [5.0, 15.0, 30.0], rho=998.0)]
    assert depths == pytest.approx([1.833, 5.429, 10.284], abs=0.08)


@given(st.floats(5, 40), st.floats(0.5, 15))
def test_the_holding_retrieve_neither_lifts_nor_drops(ahead, depth):
    falling = tackle.SPOON.falling(tackle.MONO)
    v = holding_speed(falling, ahead, depth, rho=998.0)
    assert 0 < v < 10
    further = holding_speed(falling, ahead * 1.5, depth, rho=998.0)
    assert further > v  # a flatter line is lifted less by the same reel


def test_a_lipped_lure_dives_as_published_and_climbs_back():
    lure = tackle.Lure(name="l", weight_n=0.0, drag_area_m2=6e-4, lift_area_m2=0.998 * 6e-4)
    line = tackle.LineKind(name="n", diameter_m=0.28e-3, density=1000.0, cf=0.015 / math.pi)
    rod = a_rod(Method.RETRIEVE, lure=lure, line=line, retrieve_mps=0.8, rho=1000.0)
    path = retrieve_path(rod, 30.0)
    left, deepest = max(path, key=lambda p: p[1])
    assert deepest == pytest.approx(4.96, abs=0.06)
    assert left == pytest.approx(18.8, abs=0.8)
    assert path[-1][1] < 1.0


def test_what_a_longer_cast_and_a_thinner_line_change():
    rod = a_rod(Method.RETRIEVE)
    short, long = (reached(run(rod, c)).depth_m for c in (15.0, 35.0))
    thin = reached(run(replace(rod, line=replace(rod.line, diameter_m=0.15e-3)), 35.0)).depth_m
    assert short < long < thin
    found = reached(solve(rod, long))
    assert found.value == pytest.approx(35.0, abs=0.3)


def test_a_pump_lifts_and_the_pause_lets_down():
    falling = tackle.BLADE.falling(tackle.MONO)
    rise, pause = pump(falling, 10.0, 6.0, 0.8, rho=998.0)
    assert rise == pytest.approx(0.8 * 6 / math.hypot(10, 6))
    assert pause * fall_speed(falling, 6.0) == pytest.approx(rise)
    answer = reached(solve(a_rod(Method.PUMP, cast_m=10.0), 6.0))
    assert answer.band == pytest.approx((6.0 - rise, 6.0))


def test_a_count_is_known_by_its_seconds():
    rod = a_rod(Method.CAST)
    answer = reached(solve(rod, 6.0))
    assert answer.amount is Amount.COUNT
    assert depth_of(rod, answer.value) == pytest.approx(6.0, abs=0.01)
    assert reached(solve(replace(rod, count_sd_s=2.0), 6.0)).depth_sd_m > answer.depth_sd_m
    with pytest.raises(ValueError, match="zero or more"):
        depth_after(rod.lure.falling(rod.line), -1.0)


# -- tackle ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("item", tackle.DEFAULT_BOX.all(), ids=lambda i: i.name)
def test_every_coefficient_can_be_scaled(item):
    for coefficient, sd in item.uncertain().items():
        assert 0 < sd < 1
        other = item.scaled(coefficient, 1.3)
        assert other != item
        assert other.name == item.name
    with pytest.raises(KeyError, match="no coefficient"):
        item.scaled("colour", 2.0)


def test_a_rated_lure_runs_at_its_rated_depth():
    plain = tackle.Lure(name="p", weight_n=-0.02, drag_area_m2=6e-4)
    line = tackle.MONO.segment(30.0)
    rated = tackle.rated_lure(plain, 4.5, line, 1.1)
    assert tow(rated.body(), [line], 1.1).depth_m == pytest.approx(4.5, abs=1e-3)
    with pytest.raises(ValueError, match="cannot run at"):
        tackle.rated_lure(plain, 29.0, line, 1.1)
    sinking = tackle.rated_fall(tackle.SPOON, 0.5)
    assert fall_speed(sinking.falling(replace(tackle.MONO, cf=0.0)), 0.0) == pytest.approx(0.5)
    with pytest.raises(ValueError, match="sink rate"):
        tackle.rated_fall(plain, 0.5)


@pytest.mark.parametrize(
    "make",
    [
        lambda: tackle.LineKind(name="x", diameter_m=0.0, density=1000.0),
        lambda: tackle.LineKind(name="x", diameter_m=1e-3),
        lambda: tackle.Weight(name="x", mass_kg=1.0, density=900.0),
        lambda: tackle.Lure(name="x", weight_n=0.1, drag_area_m2=0.0),
        lambda: tackle.Diver(name="x", area_m2=-1.0),
        lambda: tackle.Board(name="x", side_area_m2=0.0, drag_area_m2=1.0),
    ],
)
def test_tackle_that_can_not_be_is_refused(make):
    with pytest.raises(ValueError, match="x needs"):
        make()


def test_a_table_has_a_row_a_depth_and_a_column_a_speed():
    rod = a_rod(Method.DOWNRIGGER)
    table = card_table(rod, [3.0, 6.0, 500.0], speeds_about(0.9))
    assert [len(row) for row in table.values] == [5, 5, 5]
    assert table.values[2] == (None,) * 5
    middle = table.values[1][2]
    assert middle == pytest.approx(reached(solve(rod, 6.0)).value)
    assert all(a < b for a, b in zip(table.values[1], table.values[1][1:], strict=False))
    assert len(card_table(a_rod(Method.CAST), [3.0], speeds_about(0.9)).values[0]) == 1


def test_a_chain_is_what_hangs():
    rod = a_rod(Method.DOWNRIGGER)
    made, solved, air, aft = hanging(rod, 10.0)
    assert made == chain(rod)
    assert solved.length_m - rod.lead_m + air == pytest.approx(10.0 + rod.tip_height_m, abs=0.01)
    assert 0 <= aft < air
    assert hanging(a_rod(Method.CAST), 10.0) is None


@pytest.mark.parametrize("top_m", [-1.7e-6, 0.0, 3.0])
def test_no_piece_of_a_line_is_shorter_than_nothing(top_m):
    for method in (Method.FLAT_LINE, Method.WEIGHTED_LINE, Method.DOWNRIGGER):
        made = chain(a_rod(method))
        out = sum(p.length_m for p in made.pieces(top_m) if isinstance(p, Segment)) - made.fixed_m
        assert out == pytest.approx(max(top_m, 0.0))
