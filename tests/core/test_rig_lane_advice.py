"""Over the bottom, where to hang it, which ways reach it: what is said, and that it is so."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.rig import tackle
from plumbbob.core.rig.advice import (
    Pace,
    RigFacts,
    Size,
    Vertical,
    above_fish_m,
    advise,
    bait_length_m,
    usual_speed,
    ways_to_reach,
    where_to_hang,
)
from plumbbob.core.rig.lane import Trouble, keeps_apart, passage, seconds_to_mark
from plumbbob.core.rig.methods import run, solve
from plumbbob.core.rig.reasons import HangReason, RigCaution, SchoolReason, Tip, Topic, WayReason, WhyNot
from plumbbob.core.rig.rod import Method, RigAnswer, RigSettings, default_setup

BALL = RigSettings()
ALONG = np.arange(0.0, 401.0, 2.0)


def a_hump(top: float, deep: float = 14.0) -> np.ndarray:
    return deep - (deep - top) * np.exp(-0.5 * ((ALONG - 200.0) / 20.0) ** 2)


def a_passage(top: float, depth: float = 8.0, rod: RigSettings = BALL, **limits):
    answer = solve(rod, depth)
    assert isinstance(answer, RigAnswer)
    return answer, passage(rod, answer, ALONG, a_hump(top), **limits)


def test_over_deep_water_nothing_is_wrong():
    assert a_passage(12.0)[1].stretches == ()


@pytest.mark.parametrize(("top", "trouble"), [(6.0, Trouble.DRAGS), (8.4, Trouble.CLOSE)])
def test_a_hump_is_told_and_the_change_clears_it(top, trouble):
    answer, found = a_passage(top, keep_m=1.0)
    (stretch,) = found.stretches
    assert stretch.trouble is trouble
    assert stretch.from_m < 200 < stretch.to_m
    assert stretch.room_m == pytest.approx(top - 8.0, abs=0.02)
    assert stretch.change_m < 0
    shorter = run(BALL, answer.value + stretch.change_m)
    assert isinstance(shorter, RigAnswer)
    assert shorter.depth_m == pytest.approx(top - 1.0, abs=0.05)
    assert stretch.begin_boat_m == stretch.from_m
    assert stretch.back_boat_m == pytest.approx(stretch.to_m + answer.layback_m)


def test_chances_of_touching_rise_as_room_goes():
    chances = [a_passage(top, keep_m=1.0)[1].stretches[0].chance for top in (8.9, 8.3, 8.0, 7.0)]
    assert chances == sorted(chances)
    assert chances[2] == pytest.approx(0.5, abs=0.05)


def test_a_hump_to_the_surface_can_not_be_cleared():
    _, found = a_passage(0.5)
    assert found.stretches[0].change_m is None


def test_too_much_room_asks_for_more_line():
    _, found = a_passage(12.0, depth=4.0, most_m=6.0)
    high = [s for s in found.stretches if s.trouble is Trouble.HIGH]
    assert high
    assert high[0].change_m > 0


def test_an_unknown_bottom_is_nobodys_trouble():
    bottom = np.where(ALONG < 200, np.nan, 14.0)
    answer = solve(BALL, 8.0)
    found = passage(BALL, answer, ALONG, bottom)
    assert found.stretches == ()
    assert np.isnan(found.room_m[0])
    with pytest.raises(ValueError, match="as many depths"):
        passage(BALL, answer, ALONG, bottom[:-1])


def test_two_humps_are_two_stretches():
    bottom = np.minimum(a_hump(6.0), np.roll(a_hump(6.0), 60))
    found = passage(BALL, solve(BALL, 8.0), ALONG, bottom)
    assert len(found.stretches) == 2


@given(st.floats(0, 500), st.floats(0, 80), st.floats(0.2, 3))
def test_the_countdown_is_over_when_the_lure_is_there(mark, layback, speed):
    left = seconds_to_mark(mark, mark, layback, speed)
    assert left == pytest.approx(layback / speed)
    assert seconds_to_mark(mark, mark + layback, layback, speed) == pytest.approx(0.0, abs=1e-9)
    assert math.isnan(seconds_to_mark(mark, 0.0, layback, 0.0))


def test_lures_keep_apart_by_the_trailer_rule():
    aside, back = np.array([-3.0, 3.0]), np.array([20.0, 20.0])
    wide, tight = (keeps_apart(aside, back, r) for r in (200.0, 25.0))
    assert wide == pytest.approx(6.0, rel=0.05)
    assert tight != pytest.approx(6.0, rel=0.05)
    assert keeps_apart(aside[:1], back[:1], 30.0) == math.inf


def codes(reasons):
    return [r.code for r in reasons]


# -- where to hang it --------------------------------------------------------------------------------------------


@given(st.floats(1.0, 30.0), st.floats(0.3, 12.0), st.floats(-20, 60))
def test_the_lure_hangs_over_the_fish_and_never_out_of_the_water(fish, secchi, sun):
    facts = RigFacts(secchi_m=secchi, sun_deg=sun)
    hung = where_to_hang(fish, facts)
    assert 0.3 <= hung.depth_m <= max(fish, 0.3)
    assert 0 <= above_fish_m(facts, fish, 0.7) <= 3.0
    assert hung.reasons


def test_clear_water_by_day_lifts_it_and_the_dark_brings_it_down():
    clear, turbid = (above_fish_m(RigFacts(secchi_m=s), 8.0, 0.7) for s in (8.0, 1.0))
    night = above_fish_m(RigFacts(secchi_m=8.0, sun_deg=-15.0), 8.0, 0.7)
    assert clear > night
    assert clear > turbid


@pytest.mark.parametrize(
    ("facts", "where", "why"),
    [
        (RigFacts(bait=((7.0, 8.8),)), lambda d: d >= 8.8 or d <= 7.0, HangReason.UNDER_BAIT),
        (RigFacts(bottom_m=9.4), lambda d: 9.2 <= d <= 9.4, HangReason.ON_BOTTOM),
        (RigFacts(bottom_m=9.4, soft_bottom=True), lambda d: 8.9 <= d <= 9.1, HangReason.ON_BOTTOM),
        (RigFacts(looks="LU", species="largemouth bass"), lambda d: d == 9.0, HangReason.LEVEL),
        (RigFacts(looks="DL", species="lake whitefish"), lambda d: 9.0 < d <= 9.3, HangReason.JUST_UNDER),
        (RigFacts(looks="U", species="kokanee"), lambda d: d < 8.6, HangReason.OVER_KNOWN),
    ],
)
def test_bait_bottom_and_eyes_have_a_say(facts, where, why):
    hung = where_to_hang(9.0, facts)
    assert where(hung.depth_m)
    assert why in codes(hung.reasons)


def test_a_fish_that_was_seen_counts_for_more_than_a_layer():
    facts = RigFacts(layer=(7.0, 12.4), comfort=(2.0, 8.0), species="walleye", looks="LU")
    for fish in (12.3, 12.4, 12.5, 14.0):
        hung = where_to_hang(fish, facts)
        assert hung.depth_m == fish
        layer = RigCaution.UNDER_LAYER if fish > 12.4 else RigCaution.IN_LAYER
        assert codes(hung.cautions) == [layer, RigCaution.UNDER_COMFORT]
    nobody = where_to_hang(12.5, RigFacts(layer=(7.0, 12.4)))
    assert not any("species" in dict(r.values) for r in nobody.cautions)


def test_ways_that_a_person_would_not_fish_do_not_reach():
    summer = RigFacts(bottom_m=9.0, surface_c=21.0)
    ways = {w.method: w for w in ways_to_reach(6.0, summer, BALL)}
    assert ways[Method.WALKER].reason.code is WayReason.WALKS_OVER
    assert ways[Method.ICE].reason.code is WayReason.NO_ICE
    for depth in (3.0, 6.0, 9.0, 14.0, 25.0):
        for speed in (0.4, 0.9, 1.6):
            for way in ways_to_reach(depth, RigFacts(), replace(BALL, speed_mps=speed)):
                assert not way.reaches or way.answer.value <= 140.0
    on_it = {w.method: w for w in ways_to_reach(8.6, RigFacts(bottom_m=9.0), replace(BALL, speed_mps=0.5))}
    assert on_it[Method.WALKER].reaches


def test_pace_below_the_boat_is_lifts_not_way():
    jig = default_setup(RigSettings(), Method.ICE)
    pace = next(a for a in advise(6.0, RigFacts(temperature_c=3.5), [jig]) if a.topic is Topic.PACE)
    assert pace.tip.code is Tip.LIFTS
    assert {"few": 4, "many": 10}.items() <= dict(pace.tip.values).items()
    assert [why.code for _, why in pace.schools] == [SchoolReason.SLOW_LIFTS, SchoolReason.FAST_LIFTS]


def test_the_other_school_fishes_at_the_fish():
    hung = where_to_hang(9.0, RigFacts(), vertical=Vertical.AT)
    assert hung.depth_m == 9.0
    with pytest.raises(ValueError, match="depth above zero"):
        where_to_hang(math.nan, RigFacts())


# -- which ways, and what to tie on ------------------------------------------------------------------------------


def test_wind_takes_the_ways_below_the_boat_away():
    calm = {w.method: w for w in ways_to_reach(9.0, RigFacts(wind_mps=1.0), BALL)}
    storm = {w.method: w for w in ways_to_reach(9.0, RigFacts(wind_mps=16.0), BALL)}
    assert set(calm) == set(Method)
    assert calm[Method.JIG].reaches
    assert not storm[Method.JIG].reaches
    assert storm[Method.JIG].reason.code in (WayReason.DRIFTS_AWAY, WayReason.NO_WEIGHT_HOLDS)
    assert calm[Method.DOWNRIGGER].reaches
    assert not calm[Method.ICE].reaches
    assert calm[Method.ICE].reason.code is WayReason.ICE_UNCERTAIN
    assert RigFacts(wind_mps=10.0, kayak=True).drift_mps > RigFacts(wind_mps=10.0).drift_mps


def test_too_deep_is_said_with_the_reason():
    ways = {w.method: w for w in ways_to_reach(25.0, RigFacts(), BALL)}
    assert not ways[Method.FLAT_LINE].reaches
    assert ways[Method.FLAT_LINE].reason.code is WhyNot.LURE_TRAILS


def test_light_pace_size_and_noise_each_have_their_say():
    dark = RigFacts(secchi_m=1.0, sun_deg=-10.0, temperature_c=6.0, bait_length_m=0.07, species="kokanee")
    said = {a.topic: a for a in advise(8.0, dark, [BALL])}
    assert said[Topic.LIGHT].tip.code is Tip.GLOW
    assert said[Topic.PACE].tip.code is Tip.COLD
    assert [school for school, _ in said[Topic.PACE].schools] == [Pace.SLOW]  # cold fish that do not chase
    lively = {a.topic: a for a in advise(8.0, replace(dark, activity=0.9), [BALL])}
    assert [school for school, _ in lively[Topic.PACE].schools] == [Pace.SLOW, Pace.FAST]
    assert [school for school, _ in said[Topic.SIZE].schools] == [Size.MATCH, Size.BIG]
    assert said[Topic.NOISE].tip.code is Tip.RATTLE
    assert Topic.BAIT not in said
    one = {a.topic: a for a in advise(8.0, dark, [BALL], pace=Pace.FAST)}
    assert [school for school, _ in one[Topic.PACE].schools] == [Pace.FAST]
    noon = {a.topic: a for a in advise(3.0, replace(dark, sun_deg=60.0, secchi_m=6.0, fish_chase=True), [BALL])}
    assert noon[Topic.PACE].tip.code is Tip.CHASE
    assert str(dict(noon[Topic.LIGHT].tip.values)["share"]).endswith(" %")


def test_natural_bait_is_changed_by_the_clock():
    rod = default_setup(RigSettings(), Method.WALKER)
    assert rod.lure is tackle.BAIT
    assert Topic.BAIT in [a.topic for a in advise(8.0, RigFacts(), [rod])]
    assert usual_speed("kokanee", natural=True)[1] < usual_speed("kokanee", natural=False)[1]
    assert bait_length_m("emerald shiner") == pytest.approx(0.07)
    assert math.isnan(bait_length_m("stone"))
