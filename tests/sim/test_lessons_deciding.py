"""Items about places and deciding: what is called true is so by the chart and by the solvers."""

import math
import re

import numpy as np
import pytest
from PIL import Image

from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.floor import drop_on_school
from plumbbob.core.rig.tackle import BRAID
from plumbbob.services.practice_chart import chart_png
from plumbbob.sim.lesson import HARDEST
from plumbbob.sim.lessons import lesson

LEVELS = (-HARDEST, 0.0, HARDEST)


def cells(one):
    """Row and column of each lettered place."""
    card = one.chart
    return {letter: (round(south / card.cell_m), round(east / card.cell_m)) for letter, east, south in card.places}


def steepness(one):
    down, along = np.gradient(one.chart.depth_m, one.chart.cell_m)
    slope = np.hypot(down, along)
    return {
        letter: float(slope[r - 1 : r + 2, max(c - 1, 0) : c + 2].mean()) for letter, (r, c) in cells(one).items()
    }


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(8))
def test_the_place_asked_for_lies_in_the_window_where_it_is_steepest(hard, seed):
    one = lesson("where a window meets a lip", hard, seed)
    top, base = (float(v) for v in re.findall(r"(\d+) m", one.ask)[:2])
    depth = {letter: float(one.chart.depth_m[at]) for letter, at in cells(one).items()}
    inside = {letter for letter, deep in depth.items() if top - 0.9 <= deep <= base + 0.9}
    steep = steepness(one)
    assert one.truth in inside
    assert len(inside) == 2
    assert one.truth == max(inside, key=lambda letter: steep[letter])


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(8))
def test_an_inside_turn_has_deeper_water_to_both_sides_of_the_bank(hard, seed):
    one = lesson("inside turns", hard, seed)
    depth, reach = one.chart.depth_m, 12
    bend = {}
    for letter, (row, column) in cells(one).items():
        left, right = depth[row, max(column - reach, 0)], depth[row, min(column + reach, depth.shape[1] - 1)]
        bend[letter] = float(depth[row, column] - (left + right) / 2)  # deeper than beside it, as far from the shore
    assert one.truth == max(bend, key=lambda letter: bend[letter])


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(6))
def test_a_drop_is_judged_as_the_solver_has_it(hard, seed):
    one = lesson("drop on a passing school", hard, seed)
    deep, length, passes, grams = (
        float(re.search(words, one.ask)[1])
        for words in (r"beam at (\d+) m", r"([\d.]+) m long", r"at ([\d.]+) m/s", r"Your ([\d.]+) g")
    )
    fall = fall_speed(lure_of(Packet(form=Form.BALL_JIG, mass_kg=grams / 1000)).falling(BRAID), deep)
    share = drop_on_school(deep, fall, passes, length).share
    k = one.choices.index(one.truth)
    assert share <= 0.05 if k == 0 else (k - 1) / 3 - 0.05 <= share <= k / 3 + 0.05


def test_more_weight_needs_less_line_and_line_is_longer_than_the_depth():
    lines = {}
    for seed in range(40):
        one = lesson("line for a depth", 0.0, seed)
        grams, deep, speed = (
            float(re.search(w, one.ask)[1]) for w in (r"a (\d+) g", r"at (\d+) m", r"at ([\d.]+) m/s")
        )
        assert one.truth >= deep
        lines.setdefault((deep, speed), {})[grams] = one.truth
    for by_weight in lines.values():
        found = [by_weight[g] for g in sorted(by_weight)]
        assert found == sorted(found, reverse=True)


def test_staying_is_told_in_four_ways_that_all_come():
    found = {lesson("stay or go", 0.0, seed).truth for seed in range(40)}
    assert found == set(lesson("stay or go", 0.0, 0).choices)


@pytest.mark.parametrize("feet", [False, True])
def test_a_chart_is_drawn_with_its_places_and_the_same_bytes_each_time(feet, tmp_path):
    card = lesson("inside turns", 0.0, 2).chart
    data = chart_png(card, feet=feet)
    assert data == chart_png(card, feet=feet)
    (tmp_path / "c.png").write_bytes(data)
    picture = np.asarray(Image.open(tmp_path / "c.png").convert("RGB")).astype(int)
    marked = np.abs(picture - (196, 78, 42)).sum(axis=2) < 30
    for _, east, south in card.places:
        x, y = round(east / card.cell_m * 5), round(south / card.cell_m * 5)
        assert marked[y - 4 : y + 5, x - 4 : x + 5].mean() > 0.5
    assert math.isfinite(float(card.depth_m.max()))
