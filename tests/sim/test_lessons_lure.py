"""Items about fish that answer to a lure and about where to look: what is called true follows from what is shown."""

import math
import re

import numpy as np
import pytest

from plumbbob.core.plan.search import Cell, Look, searched
from plumbbob.core.rig.stand_off import aim_ahead
from plumbbob.sim.lesson import HARDEST
from plumbbob.sim.lessons import lesson
from plumbbob.sim.lessons_lure import CLOSE_M, REACH_M, met_at

LEVELS = (-HARDEST, 0.0, HARDEST)
SEEDS = range(10)


def numbers(text):
    return [float(v) for v in re.findall(r"\d+(?:\.\d+)?", text)]


def test_a_cast_lands_short_of_what_comes_and_beyond_what_goes():
    assert met_at(12.0, 0.3, 3.0, 0.6) == pytest.approx(12.0 - aim_ahead(0.3, 3.0, 0.6))
    assert met_at(12.0, -0.3, 3.0, 0.6) - 12.0 == pytest.approx(12.0 - met_at(12.0, 0.3, 3.0, 0.6))
    assert met_at(12.0, 0.0, 3.0, 0.6) == 12.0


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", SEEDS)
def test_only_the_fish_asked_for_is_in_reach_when_the_jig_is_down(hard, seed):
    one = lesson("which fish to cast to", hard, seed)
    metres, seconds = (float(v) for v in re.search(r"falls ([\d.]+) m in ([\d.]+) s", one.ask).groups())
    end = np.array([one.scene.seconds])
    reached = []
    for fish in one.scene.ahead:
        deep, away = float(fish.depth_m(end)[0]), float(fish.ahead_m(end)[0])
        nearer = away - float(fish.ahead_m(end + 1.0)[0])
        if CLOSE_M < met_at(away, nearer, deep, metres / seconds) < REACH_M:
            reached.append(f"the one {deep:.1f} m deep")
    assert reached == [one.truth]


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", SEEDS)
def test_what_a_follower_wants_is_what_it_does_at_the_end(hard, seed):
    one = lesson("what a follower wants", hard, seed)
    lure, fish = one.scene.hung
    late = np.array([one.scene.seconds - 6.0, one.scene.seconds - 1.0])
    gap = fish.depth_m(late - fish.start_s) - lure.depth_m(late - lure.start_s)
    rises = -float(np.diff(lure.depth_m(late - lure.start_s))[0])
    said = {
        gap[1] < 0: "reel it above the fish",
        gap[1] >= 0 and rises < 0.05: "lift it a little",
        gap[1] >= 0 and rises >= 0.05 and gap[1] - gap[0] > 0.25: "stop a moment for it",
        gap[1] >= 0 and rises >= 0.05 and gap[1] - gap[0] <= 0.25: "keep it rising",
    }[True]
    assert said == one.truth


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", SEEDS)
def test_what_to_change_follows_from_what_is_seen(hard, seed):
    one = lesson("change what first", hard, seed)
    lure, *others = one.scene.hung
    level = float(lure.depth_m(np.array([5.0]))[0])
    off = [abs(float(o.depth_m(np.array([3.0]))[0]) - level) for o in others]
    if not off:
        assert one.truth == "the place"
    elif min(off) > 1.25:
        assert one.truth == "the depth"
    else:
        assert one.truth == ("the size" if "then the pace" in one.ask else "the pace")
        assert "nothing" not in one.ask


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", SEEDS)
def test_the_first_scan_is_worth_most_for_its_minutes(hard, seed):
    one = lesson("what to scan first", hard, seed)
    worth = {}
    for bar in one.bars:
        shows, minutes = numbers(bar.note)
        worth[bar.words] = bar.share * shows / minutes
    first, second = sorted(worth.values())[:-3:-1]
    assert one.truth == max(worth, key=lambda name: worth[name])
    assert first > 1.05 * second
    assert sum(b.share for b in one.bars) <= 1.0


def test_cruel_scans_tempt_with_the_likeliest_place():
    cruel = [lesson("what to scan first", HARDEST, seed) for seed in range(30)]
    tempted = [max(one.bars, key=lambda b: b.share).words != one.truth for one in cruel]
    assert np.mean(tempted) > 0.8


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", SEEDS)
def test_the_next_depth_is_the_likeliest_after_what_was_tried(hard, seed):
    one = lesson("which depth to rule out next", hard, seed)
    times = {"not tried": 0, "tried once, nothing": 1, "tried twice, nothing": 2, "tried three times, nothing": 3}
    left = {bar.words: bar.share * 0.4 ** times[bar.note] for bar in one.bars}
    assert one.truth == max(left, key=lambda name: left[name])
    cells = [Cell(b.words, b.share, 0.6) for b in one.bars]
    looks = [Look(b.words, 0.6) for b in one.bars for _ in range(times[b.note])]
    found = searched(cells, looks)
    assert [b.words for b in one.bars][found.next] == one.truth
    told = re.search(r"(\d+)% that none bite", one.why)
    assert math.isclose(int(told[1]) / 100, found.none, abs_tol=0.006)
