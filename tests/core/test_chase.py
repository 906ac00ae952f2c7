"""A jig above a rising fish: what holds it, what loses it, and that the hand decides."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.rig.chase import FAR_M, NEAR_M, begin, grade, lesson_of, step


def played(hand, difficulty=0.0, seed=1, seconds=25.0):
    now = begin(0.5, difficulty, seed)
    while now.time_s < seconds:
        now = step(now, hand(now), 0.02)
    return now


def skilled(now):
    return 0.35 if now.gap_m < 0.5 else 0.0 if now.gap_m < FAR_M else -0.4


@pytest.mark.parametrize("difficulty", [-2.0, 0.0, 2.0])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_skilled_hand_brings_it_up_and_others_do_not(difficulty, seed):
    assert grade(played(skilled, difficulty, seed)) > 0.7
    for poor in (lambda now: 0.0, lambda now: 0.6, lambda now: -0.6):
        assert grade(played(poor, difficulty, seed)) < 0.5


def test_what_ends_it_is_said():
    dropped, still, held = played(lambda now: -0.6), played(lambda now: 0.0), played(skilled)
    assert dropped.gone
    assert "left" in lesson_of(dropped)
    assert "stands still" in lesson_of(still)
    assert "held for" in lesson_of(held)


def test_a_harder_fish_rises_slower():
    rises = [e.start_m - e.fish_m for e in (played(skilled, d, seed=4) for d in (-2.5, 0.0, 2.5))]
    assert rises == sorted(rises, reverse=True)


def test_the_jig_falls_as_it_does_on_an_open_line_and_no_faster():
    now = begin(0.37, 0.0, 1)
    after = step(now, -1.0, 0.1)
    assert after.jig_m - now.jig_m == pytest.approx(0.037)
    assert step(now, -0.5, 0.1).jig_m - now.jig_m == pytest.approx(0.0185)


@given(st.lists(st.floats(-3.0, 3.0), min_size=1, max_size=120), st.floats(-2.5, 2.5), st.integers(0, 99))
def test_nothing_leaves_the_water_and_time_is_kept(hands, difficulty, seed):
    now = begin(0.5, difficulty, seed)
    for hand in hands:
        after = step(now, hand, 0.05)
        assert after.jig_m >= 0.6
        assert after.time_s == pytest.approx(now.time_s + 0.05)
        assert after.held_s >= now.held_s
        assert after.gone or not now.gone
        assert not after.holds or NEAR_M <= after.fish_m - after.jig_m <= FAR_M
        now = after
    assert 0.0 <= grade(now) <= 1.0


def test_the_same_seed_is_the_same_fish():
    assert begin(0.5, 0.3, 9) == begin(0.5, 0.3, 9)
    assert begin(0.5, 0.3, 9) != begin(0.5, 0.3, 10)
