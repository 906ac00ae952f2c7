"""Structure: each kind is found where it was put, and a plain bottom has none."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage

from plumbbob.core.chart.peaks import OUTSIDE, find_peaks
from plumbbob.core.chart.structure import find_structure
from plumbbob.core.chart.structure_settings import StructureSettings
from plumbbob.core.chart.terrain import land_of, narrow_deep, narrow_shallow, plan_curvature, slope_deg, terrain_of
from tests.lake import EAST, NORTH, bell, bowl, grid_of


def of_kind(features, kind):
    return [f for f in features if f.kind == kind]


def near(feature, x, y, within):
    return np.hypot(feature.x - EAST - x, feature.y - NORTH - y) <= within


def test_a_slanted_plane_holds_nothing():
    found = find_structure(grid_of(lambda x, y: 6.0 + 0.03 * x + 0.01 * y))
    assert [f.kind for f in found if f.kind != "flat"] == []


def test_a_hump_and_a_hole_in_a_bowl():
    found = find_structure(grid_of(bowl))
    (hump,) = of_kind(found, "hump")
    assert near(hump, 330, 430, 15)
    assert hump.depth_top_m == pytest.approx(float(bowl(330.0, 430.0)), abs=0.4)
    assert 8.0 < hump.depth_base_m < 12.5
    assert 2_000 < hump.area_m2 < 15_000
    assert np.isfinite(hump.shore_m)
    lows = of_kind(found, "hole") + of_kind(found, "basin")
    assert any(near(f, 520, 330, 25) for f in lows)
    inside = hump.shape - np.array([EAST, NORTH])
    assert np.hypot(*(inside - [330, 430]).T).max() < 120


def test_two_humps_have_a_saddle_between_them():
    def twins(x, y):
        return (
            14.0
            + 0.004 * np.hypot(x - 400, y - 400)
            - 6.0 * bell(x, y, (330, 400), 32)
            - 5.0 * bell(x, y, (470, 400), 32)
        )

    found = find_structure(grid_of(twins))
    assert len(of_kind(found, "hump")) == 2
    (saddle,) = of_kind(found, "saddle")
    assert near(saddle, 402, 400, 25)
    between = float(twins(402.0, 400.0))
    assert saddle.depth_top_m < between < saddle.depth_base_m


def test_two_basins_have_a_sill():
    def basins(x, y):
        return 6.0 - ((y - 400) / 200) ** 2 + 12.0 * bell(x, y, (220, 400), 80) + 10.0 * bell(x, y, (580, 400), 80)

    found = find_structure(grid_of(basins))
    assert len(of_kind(found, "basin")) == 2
    assert any(near(f, 400, 400, 45) for f in of_kind(found, "saddle"))


def test_a_ledge_with_its_lip_and_steepest_stretch():
    def ledge(x, y):
        steep = 1.5 + 5.0 * bell(x * 0, y, (0, 500), 60)  # steepest about y = 500
        return 5.0 + 8.0 / (1.0 + np.exp(-(x - 400.0) / (14.0 / steep)))

    found = of_kind(find_structure(grid_of(ledge)), "ledge")
    assert found
    best = max(found, key=lambda f: f.slope_max_deg)
    assert abs(best.x - EAST - 400) < 30
    assert abs(best.y - NORTH - 500) < 90
    assert best.depth_top_m < 7.5
    assert best.depth_base_m > 10.5
    assert best.lip_m < best.depth_base_m


def test_a_long_ledge_comes_in_stretches_one_can_fish():
    def shelf(x, y):
        return 4.0 + 13.0 / (1.0 + np.exp(-(x - 900.0) / 9.0))

    found = of_kind(find_structure(grid_of(shelf, size_m=1800.0)), "ledge")
    assert 2 <= len(found) <= 4


def test_a_winding_channel_with_its_bends():
    def channel(x, y):
        return 5.0 + 0.002 * y + 3.0 * np.exp(-(((x - 400 - 110 * np.sin(y / 130)) / 16.0) ** 2))

    (found,) = of_kind(find_structure(grid_of(channel)), "channel")
    assert found.is_line
    assert len(found.bends) >= 2
    x, y = found.shape[:, 0] - EAST, found.shape[:, 1] - NORTH
    assert np.abs(x - 400 - 110 * np.sin(y / 130)).mean() < 10
    assert found.depth_base_m > 7.5


def test_a_point_runs_out_from_the_shore():
    def point(x, y):
        off = 1.5 + 0.035 * x
        ridge = np.exp(-(((y - 400) / 45.0) ** 2)) / (1 + np.exp((x - 330) / 25))
        return off - ridge * np.maximum(off - 1.2 - 0.008 * x, 0.0)

    found = of_kind(find_structure(grid_of(point, known=lambda x, y: x > 12)), "point")
    assert found
    assert near(found[0], 320, 400, 110)
    assert found[0].depth_base_m - found[0].depth_top_m > 1.0


def test_flats_are_level_and_by_the_break():
    def shelf(x, y):
        return 3.0 + 0.004 * y / 4 + 9.0 / (1.0 + np.exp(-(x - 450.0) / 25.0))

    found = of_kind(find_structure(grid_of(shelf)), "flat")
    assert found
    top = min(found, key=lambda f: f.depth_top_m)
    assert 200 < top.x - EAST < 430
    assert top.depth_base_m < 4.6


def test_inside_turns_bend_into_the_shallow():
    def cove(x, y):
        edge = 400.0 - 130.0 * np.exp(-(((y - 400) / 70.0) ** 2))
        return 4.0 + 8.0 / (1.0 + np.exp(-(x - edge) / 16.0))

    found = of_kind(find_structure(grid_of(cove)), "inside turn")
    assert any(near(f, 270, 400, 70) for f in found)


def test_small_things_can_be_asked_for():
    def little(x, y):
        return 9.0 + 0.005 * x - 0.65 * bell(x, y, (400, 400), 20)

    assert not of_kind(find_structure(grid_of(little)), "hump")
    keen = StructureSettings(hump_m=0.3, hump_share=0.02)
    assert of_kind(find_structure(grid_of(little), keen), "hump")


def test_looking_can_be_stopped_and_says_how_far_it_is():
    heard = []
    find_structure(grid_of(bowl), progress=heard.append)
    assert heard == sorted(heard)
    assert heard[-1] == 1.0


# -- peaks ------------------------------------------------------------------------------------------------------


def prominences(field):
    """By flooding: how far the water must fall from each peak until it joins a higher one or the rim."""
    out = {}
    for level in np.unique(field)[::-1]:
        labels, count = ndimage.label(field >= level, structure=np.ones((3, 3)))
        for k in range(1, count + 1):
            part = labels == k
            rim = part[0].any() or part[-1].any() or part[:, 0].any() or part[:, -1].any()
            tops = sorted(field[part & (field == ndimage.maximum_filter(field, 3))])
            for top in tops[: None if rim else -1]:
                out.setdefault(float(top), float(top - level))
    return out


@settings(max_examples=60)
@given(st.permutations(range(49)))
def test_prominence_is_how_far_one_must_go_down(heights):
    field = np.array(heights, float).reshape(7, 7)
    found = {p.height: p.prominence for p in find_peaks(field, np.ones(field.shape, bool), 0.5)}
    slow = {h: p for h, p in prominences(field).items() if p >= 0.5}
    assert found == slow


@given(arrays(np.float64, (6, 8), elements=st.floats(-50, 50)), st.floats(0.1, 20))
def test_peaks_stand_as_high_as_asked(field, least):
    known = np.ones(field.shape, bool)
    known[0, :3] = False
    for peak in find_peaks(field, known, least):
        assert peak.prominence >= least
        assert peak.height == field.flat[peak.cell]
        assert peak.parent == OUTSIDE or field.flat[peak.parent] >= peak.height


# -- terrain ----------------------------------------------------------------------------------------------------


@given(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3))
def test_a_plane_is_neither_narrow_nor_deep(a, b):
    y, x = np.mgrid[0:50, 0:60].astype(float)
    plane = 20.0 + a * x + b * y
    inner = np.s_[12:-12, 12:-12]
    assert narrow_deep(plane, 6.0)[inner].max() < 1e-9
    assert narrow_shallow(plane, 6.0)[inner].max() < 1e-9
    slope = np.degrees(np.arctan(np.hypot(a, b)))
    assert slope_deg(plane, 1.0, 2.0)[25, 30] == pytest.approx(slope, abs=1e-6)


def test_a_trench_is_as_deep_as_its_banks_say():
    x = np.mgrid[0:60, 0:60][1].astype(float)
    trench = 5.0 + 2.0 * (np.abs(x - 30) < 3)
    assert narrow_deep(trench, 8.0)[30, 30] == pytest.approx(2.0)
    assert narrow_deep(trench, 2.0)[30, 30] == 0.0
    assert narrow_shallow(-trench, 8.0)[30, 30] == pytest.approx(2.0)


def test_contours_of_a_dome_curve_outward_and_of_a_bowl_inward():
    y, x = np.mgrid[-40:41, -40:41].astype(float)
    r2 = x**2 + y**2
    assert plan_curvature(10 + r2 / 300, 1.0, 1.5)[40, 60] == pytest.approx(1 / 20, rel=0.1)
    assert plan_curvature(10 - r2 / 300, 1.0, 1.5)[40, 60] == pytest.approx(-1 / 20, rel=0.1)


def test_land_lies_where_the_bottom_climbs_out():
    grid = grid_of(bowl)
    land = land_of(grid)
    assert land[2, 2]
    assert not land[80, 80]
    open_end = grid_of(lambda x, y: 20.0 + 0 * x, known=lambda x, y: (x > 100) & (x < 700))
    assert not land_of(open_end).any()


def test_a_fine_grid_is_made_coarser_for_looking():
    grid = grid_of(bowl, size_m=600.0, cell_m=2.0)
    terrain = terrain_of(grid)
    assert terrain.frame.cell_m == 8.0
    assert np.isfinite(terrain.depth_m).all()
