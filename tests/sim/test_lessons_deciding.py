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
from plumbbob.core.tally.fish_care import expansion, warm_stop_c
from plumbbob.formats.species import species_named
from plumbbob.services.practice_cards import chart_png
from plumbbob.sim.down import simulate
from plumbbob.sim.lesson import HARDEST
from plumbbob.sim.lessons import lesson
from plumbbob.sim.lessons_sides import SIDE_BOTTOM_M

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


WINDS = {"north": 0.0, "east": 90.0, "south": 180.0, "west": 270.0}


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(8))
def test_the_best_stretch_has_the_depth_the_slope_and_the_wind(hard, seed):
    one = lesson("best stretch of a ledge", hard, seed)
    low, high = (float(v) for v in re.findall(r"([\d.]+) m", one.ask)[:2])
    card, wind = one.chart, WINDS[re.search(r"from the (\w+)", one.ask)[1]]
    assert card.wind_from_deg == wind
    at, steep = cells(one), steepness(one)
    rows, columns = card.depth_m.shape
    windward, inside = set(), set()
    for letter, (row, column) in at.items():
        bearing = math.degrees(math.atan2((column - columns / 2) / 1.35, rows / 2 - row)) % 360
        if abs((bearing - wind + 180) % 360 - 180) < 60:
            windward.add(letter)
        if low - 0.5 <= card.depth_m[row, column] <= high + 0.3:
            inside.add(letter)
    assert windward >= {one.truth}
    assert inside >= {one.truth}
    assert len(windward & inside) == 2
    assert one.truth == max(windward & inside, key=lambda letter: steep[letter])


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(8))
def test_a_road_bends_where_two_strips_meet(hard, seed):
    one = lesson("roads and bends", hard, seed)
    card = one.chart
    y, x = np.mgrid[: card.depth_m.shape[0], : card.depth_m.shape[1]] * card.cell_m
    flat = card.depth_m - np.median(card.depth_m)

    def ways(letter):
        """Directions in which a strip as proud as a road leaves a place."""
        row, column = cells(one)[letter]
        turn = np.degrees(np.arctan2(y - row * card.cell_m, x - column * card.cell_m)) % 360
        far = np.hypot(y - row * card.cell_m, x - column * card.cell_m)
        ring = (far > 25) & (far < 60)
        level = np.array(
            [np.median(flat[ring & (np.abs((turn - a + 180) % 360 - 180) < 6)]) for a in range(0, 360, 6)]
        )
        return level

    levels = {letter: ways(letter) for letter in at_letters(one)}
    proud = {letter: np.sort(level)[:2] for letter, level in levels.items()}
    # two strips leave the bend; the straight stretch has two that lie opposite, the others none
    first, second = np.argsort(levels[one.truth])[:2] * 6
    assert proud[one.truth].max() < np.median(levels[one.truth])
    assert hard > 0 or abs((first - second + 180) % 360 - 180) < 170


def at_letters(one):
    return [letter for letter, *_ in one.chart.places]


@pytest.mark.parametrize("seed", range(6))
def test_a_turn_tells_what_the_followed_line_does(seed):
    one = lesson("what a lure does in a turn", 0.5, seed)
    ((_, time, depth),) = one.drawing.lines
    deep = float(re.search(r"at (\d+) m", one.ask)[1])
    down, up = float(depth.max()) - deep, deep - float(depth.min())
    change = down if down >= up else -up
    said = {change < -0.5: 0, -0.5 <= change < 0.5: 1, 0.5 <= change < 2.0: 2, change >= 2.0: 3}[True]
    assert one.truth == one.choices[said]
    assert float(depth[0]) == pytest.approx(deep, abs=0.05)
    assert np.all(np.diff(time) > 0)


@pytest.mark.parametrize("hard", LEVELS)
def test_a_heavy_line_on_the_inner_rod_sinks_and_no_outer_one_does(hard):
    told = {}
    for seed in range(24):
        one = lesson("what a lure does in a turn", hard, seed)
        told.setdefault("inner" if "inner" in one.ask else "outer", set()).add(one.choices.index(one.truth))
    assert max(told["inner"]) == 3
    assert max(told["outer"]) <= 1


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(12))
def test_a_deep_fish_is_helped_as_its_bladder_and_the_water_ask(hard, seed):
    one = lesson("keep or release from this depth", hard, seed)
    name = re.match(r"A (.+) took at", one.ask)[1]
    species = species_named(name)
    depth, water = (float(v) for v in re.search(r"at (\d+) m, the water on top is (\d+) °C", one.ask).groups())
    if species.care_m is not None and depth > species.care_m:
        expected = one.choices[2] if species.bladder == "PC" else one.choices[1]
    elif water >= warm_stop_c(species):
        expected = one.choices[3]
    else:
        expected = one.choices[0]
    assert one.truth == expected
    ((_, times, _),) = one.drawing.lines
    assert float(times[0]) == pytest.approx(expansion(depth), rel=0.01)
    assert float(times[-1]) == pytest.approx(1.0)
    assert "Local rules come first" in one.why


@pytest.mark.parametrize("hard", LEVELS)
@pytest.mark.parametrize("seed", range(3))
def test_the_dark_beyond_a_lip_is_as_long_as_the_drop_makes_it(hard, seed):
    one = lesson("edge of a drop", hard, seed)
    (near, at_s), (far, _) = one.shows
    high = SIDE_BOTTOM_M - one.scene.side.draft_m
    assert high * (abs(far) - abs(near)) / abs(near) == pytest.approx(one.truth)
    side = simulate(one.scene, seed)[0].side
    view = side.starboard if near > 0 else side.port
    levels = view.read(0, len(side))
    pings = np.abs(side.time - side.time[0] - at_s) < 1.0
    step = side.reach_m / levels.shape[1]
    mean = levels[pings].mean(axis=0)

    def level(low, top):
        return float(mean[int(low / step) : int(top / step)].mean())

    dark = level(abs(near) + 0.3, abs(far) - 0.2)
    assert level(abs(near) - 2.0, abs(near) - 0.4) > dark + 8
    assert hard > 0 or level(abs(far) + 0.3, abs(far) + 2.0) > dark + 8
