"""Schools that pass a still boat: the best way, and what falls short of it."""

import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.rig.school_pass import (
    LASTS_S,
    REEL_MPS,
    School,
    SchoolPass,
    begin,
    best_met,
    grade,
    in_sight,
    lesson_of,
    step,
)

FALL = 0.7
LEVELS = (-2.5, 0.0, 2.5)


def one_school(depth, front, *, length=6.0, speed=1.0, fall=FALL, jig=0.3):
    school = School(depth_m=depth, high_m=1.0, length_m=length, front_m=front, speed_mps=speed)
    return SchoolPass(0.0, jig, (school,), fall, 12.0, 9.0, (0.0,))


def played(now, hand):
    while now.time_s < LASTS_S:
        now = step(now, hand(now), 0.02)
    return now


def to(depth, now):
    off = depth - now.jig_m
    return -1.0 if off > 0.1 else 1.0 if off < -0.1 else 0.0


def at_once(now):
    coming = [s for s in in_sight(now) if s.front_at(now.time_s) + s.length_m > 0]
    return to(coming[0].depth_m, now) if coming else 0.0


def when_it_is_there(now):
    over = [s for s in now.schools if s.is_over(now.time_s)]
    return to(over[0].depth_m, now) if over else 0.0


def test_a_school_in_time_is_met_from_end_to_end():
    start = one_school(5.0, 20.0)
    assert best_met(start)[0] == pytest.approx(6.0, abs=0.3)
    end = played(start, lambda now: to(5.0, now))
    assert end.met_s[0] == pytest.approx(6.0, abs=0.1)
    assert grade(end, best_met(start)) == pytest.approx(1.0, abs=0.02)


@settings(max_examples=25, deadline=None)
@given(st.floats(3.0, 11.0), st.floats(0.0, 8.0), st.floats(0.3, 1.2))
def test_at_best_the_jig_meets_what_is_left_when_it_comes_down(depth, front, fall):
    """Closed form: it enters the band half a school's height above its middle."""
    start = one_school(depth, front, fall=fall)
    down = (depth - 0.5 - start.jig_m) / fall
    left = min(front + 6.0, LASTS_S) - max(down, front)
    steps = max(abs(round(fall * 0.25 / 0.05) * 0.05 / 0.25 - fall) / fall, 0.0)  # speeds are kept in whole cells
    assert best_met(start)[0] == pytest.approx(max(left, 0.0), abs=0.5 + steps * down)


def test_what_is_reeled_comes_up_and_what_is_let_go_falls():
    start = one_school(5.0, 20.0, jig=6.0)
    assert step(start, 1.0, 0.1).jig_m == pytest.approx(6.0 - 0.1 * REEL_MPS)
    assert step(start, -1.0, 0.1).jig_m == pytest.approx(6.0 + 0.1 * FALL)
    assert step(start, 0.0, 0.1).jig_m == 6.0


@pytest.mark.parametrize("hard", LEVELS)
def test_who_goes_down_in_time_beats_who_waits(hard):
    early, late = [], []
    for seed in range(12):
        start = begin(FALL, hard, seed)
        best = best_met(start)
        assert np.all(best >= 0)
        early.append(grade(played(start, at_once), best))
        late.append(grade(played(start, when_it_is_there), best))
        assert sum(played(start, at_once).met_s) <= best.sum() + 1.0
    assert np.mean(early) > 0.55
    assert np.mean(late) < 0.4
    assert np.mean(early) > np.mean(late) + 0.25


def test_harder_schools_are_seen_later_and_are_more():
    easy, cruel = begin(FALL, -2.5, 3), begin(FALL, 2.5, 3)
    assert cruel.seen_m < easy.seen_m
    assert len(cruel.schools) > len(easy.schools)
    assert (
        max(s.length_m / s.speed_mps for s in cruel.schools) < min(s.length_m / s.speed_mps for s in easy.schools) + 1
    )
    assert not in_sight(cruel)


def test_where_most_was_lost_is_told_with_the_way_ahead():
    start = one_school(7.0, 12.0)
    best = best_met(start)
    told = lesson_of(played(start, lambda now: 0.0), best)
    assert "most was lost at 7.0 m" in told
    off = int(re.search(r"(\d+) m off", told)[1])
    assert off == pytest.approx(7.0 / FALL, abs=1.0)  # it swims a metre a second
    assert "lost" not in lesson_of(played(start, lambda now: to(7.0, now)), best)
