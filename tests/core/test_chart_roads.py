"""Drowned roads and foundations: crossed by tracks, joined, and told from walls, ditches and chance."""

import numpy as np
import pytest
import shapely

from plumbbob.core.chart.crossings import BANK, CUT, DITCHES, find_crossings, no_crossings
from plumbbob.core.chart.grid import make_grid, merge
from plumbbob.core.chart.structure import find_structure
from plumbbob.sim.reservoir import made_reservoir

SAND = np.arange(0.0, 300.0, 0.8)


def track(shape):
    """A straight track over a gentle slope with something on it."""
    return SAND, np.zeros(SAND.size), 4.0 + 0.01 * SAND - shape(SAND - 150.0)


def block(off, wide):
    return (np.abs(off) < wide / 2).astype(float)


@pytest.mark.parametrize("rise", [0.6, -0.6])
def test_a_bank_or_a_cut_is_crossed_once(rise):
    found = find_crossings(*track(lambda s: rise * block(s, 8.0)))
    assert found.kind.tolist() == [BANK if rise > 0 else CUT]
    assert found.x[0] == pytest.approx(150.0, abs=1.0)
    assert found.rise_m[0] == pytest.approx(rise, abs=0.1)
    assert found.width_m[0] == pytest.approx(8.0, abs=1.6)
    assert np.sin(found.heading_rad[0]) == pytest.approx(0.0, abs=0.02)


def test_two_ditches_side_by_side_are_one_way():
    found = find_crossings(*track(lambda s: -0.5 * (block(s - 4.5, 1.8) + block(s + 4.5, 1.8))))
    (ditches,) = np.flatnonzero(found.kind == DITCHES)
    assert found.width_m[ditches] == pytest.approx(9.0, abs=1.6)


@pytest.mark.parametrize(
    "shape", [lambda s: 0.0 * s, lambda s: 3.0 / (1 + np.exp(-s / 2)), lambda s: 2.0 * np.exp(-((s / 60.0) ** 2))]
)
def test_slopes_ledges_and_wide_humps_are_not_crossed(shape):
    assert len(find_crossings(*track(shape))) == 0


def test_few_and_scattered_soundings_have_no_crossings():
    rng = np.random.default_rng(1)
    assert len(find_crossings(*rng.uniform(0, 500, (3, 400)))) == 0
    assert len(find_crossings(np.zeros(3), np.zeros(3), np.ones(3))) == 0
    assert len(no_crossings().with_more(no_crossings())) == 0


@pytest.fixture(scope="module")
def village():
    return made_reservoir(0, spacing_m=20.0, wander_m=0.5, rough_m=0.03)


@pytest.fixture(scope="module")
def found(village):
    return find_structure(make_grid(village.x, village.y, village.sounded_m))


def near_share(line, others, within=15.0):
    spots = shapely.line_interpolate_point(line, np.arange(0.5, line.length, 1.0))
    return float((shapely.distance(shapely.union_all(others), spots) <= within).mean())


def test_most_of_the_roads_are_found_and_little_else(village, found):
    roads = [shapely.LineString(f.shape) for f in found if f.kind == "road"]
    true = [shapely.LineString(r.line) for r in village.roads]
    right = sum(near_share(r, true) * r.length for r in roads) / sum(r.length for r in roads)
    surveyed = shapely.box(village.x.min(), village.y.min(), village.x.max(), village.y.max())
    inside = [t.intersection(surveyed) for t in true]
    seen = sum(near_share(t, roads) * t.length for t in inside) / sum(t.length for t in inside)
    assert right > 0.85
    assert seen > 0.6
    for road in (f for f in found if f.kind == "road"):
        assert 0.2 < abs(road.rise_m) < 1.8


def test_foundations_stand_where_buildings_were(village, found):
    blocks = [f for f in found if f.kind == "foundation"]
    hits = [any(np.hypot(f.x - x, f.y - y) < 15.0 for f in blocks) for x, y in village.foundations]
    assert sum(hits) >= 2


def test_ground_without_a_village_has_no_roads():
    bare = made_reservoir(5, spacing_m=25.0, rough_m=0.1, stones=150, village=False)
    found = find_structure(make_grid(bare.x, bare.y, bare.sounded_m))
    assert [f.kind for f in found if f.kind in ("road", "foundation")] == []


def test_crossings_come_along_with_new_soundings(village):
    half = village.x.size // 2
    parts = [(village.x[s], village.y[s], village.sounded_m[s]) for s in (slice(half), slice(half, None))]
    grid = make_grid(*parts[0])
    larger = merge(grid, *parts[1])
    assert len(larger.crossings) > len(grid.crossings) > 0
