"""Items to practise on: every skill, from easy to cruel, asks what can be told and holds its own truth."""

import math
from collections import Counter
from typing import Any

import numpy as np
import pytest

from plumbbob.sim.down import simulate
from plumbbob.sim.lesson import HARDEST
from plumbbob.sim.lessons import SKILLS, lesson, lessons

_ROUNDS = 4


@pytest.mark.parametrize("skill", list(SKILLS))
@pytest.mark.parametrize("hard", [-HARDEST, 0.0, HARDEST])
def test_every_item_is_fit_to_be_asked(skill, hard):
    for seed in range(_ROUNDS):
        item = lesson(skill, hard, seed)
        assert item.skill == skill
        assert item.ask.endswith((".", "?"))
        assert item.why
        assert item.scene is not None or item.card or item.bars or item.chart is not None
        if item.answer_is == "choice":
            assert item.truth in item.choices
            assert len(set(item.choices)) == len(item.choices) >= 2
        else:
            truth = np.ravel(item.truth)
            assert np.all(np.isfinite(truth))
            assert len(item.tolerance) == truth.size
            assert all(0 < t < math.inf for t in item.tolerance)


@pytest.mark.parametrize("skill", list(SKILLS))
def test_whoever_answers_always_the_same_is_not_right(skill):
    items = [lesson(skill, 0.0, seed) for seed in range(40)]
    truths = Counter(str(item.truth) for item in items)
    assert len(truths) > 1
    if items[0].answer_is == "choice":
        assert max(truths.values()) < 0.6 * len(items)


def test_a_set_has_every_skill_and_grows_harder():
    items = lessons(4 * len(SKILLS), 9)
    assert {i.skill for i in items} == set(SKILLS)
    hard = np.array([i.difficulty for i in items])
    assert hard[: len(items) // 3].mean() < hard[-len(items) // 3 :].mean() - 1.0
    assert np.all(np.abs(hard) <= HARDEST)


def test_a_seed_is_a_set():
    first, again, other = lessons(12, 4), lessons(12, 4), lessons(12, 5)
    assert [(i.ask, i.truth) for i in first] == [(i.ask, i.truth) for i in again]
    assert [(i.ask, i.truth) for i in first] != [(i.ask, i.truth) for i in other]


def test_what_is_not_practised_is_told():
    with pytest.raises(ValueError, match="not practised"):
        lesson("knots", 0.0, 1)


SHOWN = ("one or many", "height off the bottom", "height from a shadow", "fish among stones")


@pytest.mark.parametrize("skill", SHOWN)
@pytest.mark.parametrize("seed", range(3))
def test_the_echo_that_is_shown_afterwards_is_there(skill, seed):
    one = lesson(skill, -1.5, seed)
    recording = simulate(one.scene, seed)[0]
    assert one.shows
    view: Any
    for a, b in one.shows:
        if recording.side is None:
            view, seconds, metres = recording.down, a, b - recording.down.mount.depth_m
            levels = view.echo.read(0, len(view))
        else:
            view, seconds, metres = recording.side, b, abs(a)
            levels = view.echo_of("starboard" if a > 0 else "port").read(0, len(view))
        k = int(np.abs(view.time - view.time[0] - seconds).argmin())
        j = round((metres - float(view.range_start_m[k])) / float(view.range_step_m[k]))
        columns = slice(max(j - 8, 0), j + 9)
        near = levels[max(k - 3, 0) : k + 4, columns].astype(float)
        assert near.max() > np.median(levels[:, columns]) + 30
