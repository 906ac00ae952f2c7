"""Where fish may be: looks thin, signs raise, time fades; ways about a place."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.plan import veil as v
from plumbbob.core.plan.around import lane_set, rings, spokes, turn, turn_length_m
from plumbbob.core.plan.search import Cell, Look, searched

FRAME = CellGrid(0.0, 0.0, 10.0, 60, 50)


def bowl(x, y):
    """Eighteen metres in the middle of 600 by 500."""
    return 18.0 - 16.0 * (((np.asarray(x) - 300) / 300) ** 2 + ((np.asarray(y) - 250) / 250) ** 2)


@pytest.fixture(scope="module")
def grid():
    return v.search_grid(FRAME, bowl(*np.meshgrid(FRAME.x, FRAME.y)))


@pytest.fixture(scope="module")
def prior(grid):
    return v.prior_weights(grid, {}, 0.8)


def test_cells_stay_within_their_number_and_bands_within_the_water(grid):
    coarse = v.search_grid(FRAME, bowl(*np.meshgrid(FRAME.x, FRAME.y)), most=2000)
    assert coarse.bottom_m.size * coarse.bands <= 2000 * 1.1
    assert coarse.frame.cell_m > FRAME.cell_m
    assert grid.edges_m[-1] >= np.nanmax(grid.bottom_m)
    wet = grid.water
    assert not wet[:, ~np.isfinite(grid.bottom_m)].any()
    assert np.all(wet[:-1] | ~wet[1:])  # water under a band means water in it
    assert grid.band_of(100.0) == grid.bands - 1


def test_chances_sum_to_that_of_any_fish_at_all(grid, prior):
    assert prior.sum() == pytest.approx(0.8, abs=1e-4)
    now, none = v.chances(prior, prior)
    assert now.sum() + none == pytest.approx(1.0, abs=1e-5)
    doubled = v.prior_weights(grid, {"all": np.full((1, 1, 1), 2.0)}, 0.8)
    assert np.allclose(doubled, prior)


def test_fruitless_looks_are_those_of_the_search_by_cells(grid, prior):
    """The same numbers as the exact search of few cells, with its fading."""
    a, b = np.flatnonzero(prior.ravel())[[10, 400]]
    looks = [v.Sight(0.0, np.array([a]), np.array([0.6], np.float32)), v.Sight(900.0, np.array([b]), np.array([0.3]))]
    now = 4000.0
    found, none = v.chances(v.thinned(grid, prior, looks, now), prior)
    life = grid.half_life_s.ravel()
    cells = [Cell("a", float(prior.flat[a])), Cell("b", float(prior.flat[b]))]
    cells.append(Cell("rest", 0.8 - sum(c.prior for c in cells)))
    exact = searched(
        cells,
        [
            Look("a", 0.6 * 2 ** (-now / life[a])),
            Look("b", 0.3 * 2 ** (-(now - 900.0) / life[b])),
        ],
    )
    assert found.flat[a] == pytest.approx(exact.chance[0], rel=1e-3)
    assert found.flat[b] == pytest.approx(exact.chance[1], rel=1e-3)
    assert none == pytest.approx(exact.none, rel=1e-3)


def test_old_looks_fade_and_later_ones_are_not_known_yet(grid, prior):
    look = v.fished(grid, (300.0, 250.0), 40.0, 8.0, 0.8, at=1000.0)
    fresh, old, before = (v.thinned(grid, prior, [look], t) for t in (1000.0, 8000.0, 500.0))
    cells = look.cells
    assert np.all(fresh.flat[cells] < old.flat[cells])
    assert np.all(old.flat[cells] < prior.flat[cells])
    assert np.array_equal(before, prior)
    # open water forgets sooner than water near the bottom
    life = grid.half_life_s
    assert life[0, 25, 30] == v.HALF_LIFE_OPEN_S
    assert life[grid.band_of(17.0), 25, 30] == v.HALF_LIFE_COVER_S


def test_a_lure_covers_its_depth_and_its_fan_only(grid):
    all_round = v.fished(grid, (300.0, 250.0), 45.0, 8.0, 0.7, 0.0)
    fan = v.fished(grid, (300.0, 250.0), 45.0, 8.0, 0.7, 0.0, bearing_deg=90.0, fan_deg=90.0)
    ny, nx = grid.bottom_m.shape
    bands = set(np.unique(all_round.cells // (ny * nx)).tolist())
    assert bands == {grid.band_of(7.1), grid.band_of(10.9)}
    assert 0 < fan.cells.size < all_round.cells.size / 2
    columns = fan.cells % nx
    assert np.all(grid.frame.x[columns] > 300.0)
    assert np.all(all_round.detection <= 0.7)
    assert v.fished(grid, (300.0, 250.0), 45.0, 500.0, 0.7, 0.0).cells.size == 0


def test_a_pass_sees_by_its_beam(grid):
    line = np.array([[100.0, 255.0], [500.0, 255.0]])
    look = v.seen_by_pass(grid, line, 20.0, 0.0)
    ny, nx = grid.bottom_m.shape
    band, row = look.cells // (ny * nx), look.cells // nx % ny
    assert set(row.tolist()) == {25}
    deep, shallow = (float(look.detection[band == b].mean()) for b in (grid.band_of(11.0), grid.band_of(1.0)))
    assert deep > shallow  # the cone is wider below, and fish at the top keep away
    one = look.detection[(band == 3) & (look.cells % nx == 30)]
    wide = 2 * 10.5 * math.tan(math.radians(10.0)) * 0.7
    assert one == pytest.approx(-math.expm1(-wide * 10.0 / 100.0), rel=0.1)
    sides = v.seen_to_sides(grid, line, 5.0, 30.0, 0.0)
    assert {22, 28} <= set((sides.cells // nx % ny).tolist())


def test_a_sign_raises_here_most_and_at_like_places(grid, prior):
    caught = v.sign(grid, (300.0, 255.0), 8.0, 8.0, at=0.0)
    now, _ = v.chances(v.thinned(grid, prior, [caught], 0.0), prior)
    band = grid.band_of(8.0)
    before, _ = v.chances(prior, prior)
    ratio = now[band] / np.where(before[band] > 0, before[band], np.nan)
    here = ratio[25, 30]
    bottom = grid.bottom_m
    like = (np.abs(bottom - bottom[25, 30]) < 1.0) & np.isfinite(ratio)
    far_like = ratio[like & (np.hypot(*(np.indices(bottom.shape) - np.array([25, 30])[:, None, None])) > 12)]
    assert here > 3.0
    assert far_like.size == 0 or np.all((far_like > 1.0) & (far_like < here))
    late, _ = v.chances(v.thinned(grid, prior, [caught], 6 * 3600.0), prior)
    assert late[band, 25, 30] < now[band, 25, 30]
    # many signs together count no more than twenty times
    many = v.thinned(grid, prior, [caught] * 5, 0.0)
    assert np.nanmax(many / np.where(prior > 0, prior, np.nan)) == pytest.approx(20.0, rel=1e-3)


def test_down_the_column_what_was_tried_shows_even_where_fish_were_seen(grid, prior):
    place = (300.0, 250.0)
    looks = [v.fished(grid, place, 30.0, 8.0, 0.9, 0.0), v.sign(grid, place, 8.0, 8.0, 0.0)]
    both, thin = v.thinned(grid, prior, looks, 0.0), v.thinned(grid, prior, looks[:1], 0.0)
    column = v.down_the_column(grid, prior, both, thin, place, 30.0, present=0.4, detection=0.5)
    tried = column.bands[grid.band_of(8.0)]
    assert tried.empty > 0.3
    assert column.next is not None
    assert column.next.top_m <= 8.0 <= column.next.base_m  # where one was seen is still the best look
    assert sum(b.chance for b in column.bands) + column.none == pytest.approx(1.0)
    alone = v.down_the_column(grid, prior, thin, thin, place, 30.0, present=0.4, detection=0.5)
    assert alone.none > 0.6
    assert alone.next is not None
    assert not alone.next.top_m <= 8.0 <= alone.next.base_m


@given(st.floats(0.05, 0.95), st.floats(0, 300), st.floats(0.1, 5))
def test_silence_empties_a_place(present, minutes, rate):
    assert 0 <= v.none_left(minutes, present, rate) <= present + 1e-9


# -- about a place ---------------------------------------------------------------------------------------------------


@given(st.floats(5, 60), st.floats(3, 200))
def test_turns_are_as_long_as_their_formula_and_no_tighter_than_the_radius(radius, spacing):
    line = turn(radius, spacing)
    assert np.hypot(*np.diff(line, axis=0).T).sum() == pytest.approx(turn_length_m(radius, spacing), rel=2e-3)
    assert line[0] == pytest.approx([0, 0], abs=1e-6)
    assert line[-1] == pytest.approx([spacing, 0], abs=1e-6)
    # three points of a round of radius R lie on it: none of a smaller one
    a, b, c = line[:-2], line[1:-1], line[2:]
    area = np.abs(np.cross(np.c_[b - a, np.zeros(len(a))], np.c_[c - a, np.zeros(len(a))])[:, 2]) / 2
    sides = np.hypot(*(b - a).T) * np.hypot(*(c - b).T) * np.hypot(*(c - a).T)
    round_of = sides / np.maximum(4 * area, 1e-12)
    # where two arcs meet the three points may lie on both
    assert np.quantile(round_of, 0.1) >= radius * 0.98


def test_spokes_and_rings_hold_water_over_the_depth():
    found = spokes((300.0, 250.0), bowl, depth_m=8.0, inner_m=25.0, length_m=400.0)
    assert len(found) == 8
    for spoke in found:
        assert np.all(bowl(spoke.line[:, 0], spoke.line[:, 1]) >= 9.0 - 1e-9)
        assert np.hypot(*(spoke.line[0] - [300.0, 250.0])) >= 25.0 - 3.0
    east, north = found[2], found[0]
    assert len(east.line) > len(north.line)  # the bowl is longer that way
    assert not spokes((300.0, 250.0), bowl, depth_m=30.0, inner_m=25.0, length_m=400.0)
    arcs = rings((300.0, 250.0), bowl, depth_m=8.0, radii_m=(60.0, 260.0))
    assert any(np.allclose(np.hypot(*(a - [300.0, 250.0]).T), 60.0) for a in arcs)
    assert all(np.all(bowl(a[:, 0], a[:, 1]) >= 9.0 - 1e-9) for a in arcs)


def test_lanes_are_parallel_apart_and_joined():
    lanes = lane_set(
        (0.0, 0.0), bearing_deg=30.0, length_m=200.0, count=4, spacing_m=15.0, radius_m=20.0,
        shore_at=lambda x, y: 100.0 - np.hypot(x, y),
    )  # fmt: skip
    middles = np.array([lane.mean(axis=0) for lane in lanes.lanes])
    assert np.hypot(*np.diff(middles, axis=0).T) == pytest.approx([15.0] * 3)
    bearings = [math.degrees(math.atan2(*(lane[1] - lane[0]))) % 360 for lane in lanes.lanes]
    assert bearings == pytest.approx([30.0, 210.0, 30.0, 210.0])
    assert lanes.length_m == pytest.approx(4 * 200 + 3 * turn_length_m(20.0, 15.0), rel=5e-3)
    assert any(lanes.slow)
    assert not any(lane_set((0.0, 0.0), bearing_deg=0, length_m=50, count=2, spacing_m=9, radius_m=9).slow)
