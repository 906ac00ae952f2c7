"""Notes from the water: what they move, how sure they make, what they do when they contradict each other."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import RigNote, Told, calibrate, note_sd
from plumbbob.core.rig.knowledge import PRIOR, keys_of, scaled
from plumbbob.core.rig.methods import depth_of, run, solve
from plumbbob.core.rig.reasons import WhyNot
from plumbbob.core.rig.rod import Method, RigAnswer, RigSettings, default_setup

PLUG = default_setup(RigSettings(speed_mps=1.1), Method.FLAT_LINE)


def a_note(depth, out, rod=PLUG, told=Told.AT) -> RigNote:
    return RigNote(rod=rod, told=told, depth_m=depth, value=out)


def reached(answer) -> RigAnswer:
    assert isinstance(answer, RigAnswer), answer
    return answer


def test_without_notes_nothing_is_known_beyond_the_catalogue():
    found = calibrate([])
    assert found.knowledge.keys == ()
    assert found.knowledge.tuned(PLUG) is PLUG
    assert solve(PLUG, 3.0, found.knowledge) == solve(PLUG, 3.0)


def test_one_touch_moves_the_depth_and_makes_it_surer():
    found = calibrate([a_note(6.1, 30.0)])
    before, after = reached(run(PLUG, 30.0)), reached(run(PLUG, 30.0, found.knowledge))
    assert abs(after.depth_m - 6.1) < 0.25 < abs(before.depth_m - 6.1)
    assert after.depth_sd_m < 0.5 * before.depth_sd_m
    by_key = {m.key: m for m in found.moved}
    lift = by_key[("lure", PLUG.lure.name, "lift")]
    assert lift.factor > 1.1
    assert lift.sd < lift.prior_sd
    fall = by_key[("lure", PLUG.lure.name, "fall")]
    assert fall.factor == pytest.approx(1.0)
    assert fall.sd == pytest.approx(fall.prior_sd)


def test_a_second_length_tells_more_than_the_same_one_again():
    same = calibrate([a_note(6.1, 30.0), a_note(6.1, 30.0)])
    other = calibrate([a_note(6.1, 30.0), a_note(4.45, 15.0)])
    far_same, far_other = (reached(run(PLUG, 15.0, c.knowledge)).depth_sd_m for c in (same, other))
    assert far_other < far_same


@settings(max_examples=12, deadline=None)
@given(st.floats(0.7, 1.5), st.floats(0.75, 1.35))
def test_notes_of_a_known_truth_bring_it_back(lift, line):
    lure_key, line_key = ("lure", PLUG.lure.name, "lift"), ("line", PLUG.line.name, "cn")
    truth = scaled(PLUG, {lure_key: lift, line_key: line})
    notes = [a_note(depth_of(truth, out), out) for out in (12.0, 25.0, 40.0, 60.0)]
    found = calibrate(notes)
    for out in (18.0, 33.0, 50.0):
        said = reached(run(PLUG, out, found.knowledge))
        assert said.depth_m == pytest.approx(depth_of(truth, out), rel=0.06, abs=0.1)
        assert abs(said.depth_m - depth_of(truth, out)) < 2.5 * said.depth_sd_m
    assert not found.contradictions


def test_a_bound_that_holds_with_room_moves_nothing():
    deep = depth_of(PLUG, 30.0)
    for told, depth in ((Told.TOUCHED, deep - 2.5), (Told.CLEAR, deep + 2.5)):
        found = calibrate([a_note(depth, 30.0, told=told)])
        assert reached(run(PLUG, 30.0, found.knowledge)).depth_m == pytest.approx(deep, rel=1e-3)
    for told, depth in ((Told.TOUCHED, deep + 1.5), (Told.CLEAR, deep - 1.5)):
        found = calibrate([a_note(depth, 30.0, told=told)])
        moved = reached(run(PLUG, 30.0, found.knowledge)).depth_m - deep
        assert moved * (1 if told is Told.TOUCHED else -1) > 0.5


def test_notes_that_contradict_are_told_and_make_nothing_surer():
    agreeing = [a_note(6.1, 30.0), a_note(4.45, 15.0)]
    found = calibrate([*agreeing, a_note(3.0, 30.0)])
    assert [j.note.depth_m for j in found.contradictions] == [3.0]
    wide, narrow = (
        reached(run(PLUG, 30.0, calibrate(n).knowledge)).depth_sd_m
        for n in ([*agreeing, a_note(3.0, 30.0)], agreeing)
    )
    assert wide > 2 * narrow


def test_a_note_a_rod_could_not_have_made_is_left_aside():
    floats = replace(PLUG, lure=tackle.BAIT)
    found = calibrate([a_note(3.0, 20.0, rod=floats), a_note(6.1, 30.0)])
    assert len(found.unusable) == 1
    assert found.unusable[0][1].code is WhyNot.FLOATS_WITHOUT_LIP
    assert len(found.judged) == 1


def test_what_is_learnt_of_a_line_helps_every_rod_on_it():
    found = calibrate([a_note(5.6, 30.0), a_note(4.2, 15.0), a_note(7.6, 55.0)])
    other = replace(PLUG, lure=replace(tackle.PLUG, name="another plug"))
    key = ("line", PLUG.line.name, "cn")
    assert found.knowledge.factor(key)[1] < 0.2
    assert reached(run(other, 30.0, found.knowledge)).depth_sd_m < reached(run(other, 30.0)).depth_sd_m
    factor, sd = found.knowledge.factor(("lure", "another plug", "drag"))
    assert factor == 1.0
    assert math.isnan(sd)


def test_a_count_to_a_shelf_tunes_the_fall():
    spoon = default_setup(RigSettings(), Method.CAST)
    found = calibrate([a_note(7.0, 9.0, rod=spoon)])
    before, after = reached(run(spoon, 9.0)), reached(run(spoon, 9.0, found.knowledge))
    assert abs(after.depth_m - 7.0) < abs(before.depth_m - 7.0)
    assert after.depth_sd_m < before.depth_sd_m
    assert note_sd(a_note(7.0, 9.0, rod=spoon)) > 0.28


def test_variance_follows_how_coefficients_vary_together():
    found = calibrate([a_note(6.1, 30.0), a_note(4.45, 15.0)]).knowledge
    keys = found.keys
    slopes = dict.fromkeys(keys, 1.0)
    assert found.variance(slopes, {}) == pytest.approx(float(found.covariance.sum()))
    assert PRIOR.variance({keys[0]: 2.0}, {keys[0]: 0.3}) == pytest.approx(0.36)
    assert np.allclose(found.covariance, found.covariance.T)
    assert (np.linalg.eigvalsh(found.covariance) > 0).all()
    assert set(keys_of(PLUG)) == set(keys)


@pytest.mark.parametrize("bad", [{"depth_m": 0.0}, {"depth_m": math.nan}, {"value": -1.0}, {"value": math.inf}])
def test_a_senseless_note_is_refused(bad):
    with pytest.raises(ValueError, match="a note needs"):
        RigNote(**{"rod": PLUG, "depth_m": 3.0, "value": 20.0, **bad})
