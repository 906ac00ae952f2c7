"""Surfaces, grids, their spread, and new soundings in an old grid."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import LinearNDInterpolator

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.grid import GridSettings, line_spacing_m, make_grid, merge, sounding_noise
from plumbbob.core.chart.surface import Guide, Surface, guide_of
from tests.lake import EAST, NORTH, bowl, lines_over


def truth(grid, depth):
    x, y = np.meshgrid(grid.frame.x - EAST, grid.frame.y - NORTH)
    return depth(x, y)


def errors(grid, depth, margin=0.0):
    real = truth(grid, depth)
    good = grid.known & (real > 0.7 + margin)
    return (grid.depth_m - real)[good], good


def slanted_ledge(x, y):
    return 5.0 + 6.0 / (1.0 + np.exp(-((x - 400.0) * 0.77 + (y - 400.0) * 0.64) / 6.0)) + 0.002 * x


@pytest.mark.parametrize(("a", "b"), [(0.0, 0.0), (0.05, -0.02), (-0.2, 0.1)])
def test_a_plane_comes_back_from_a_few_cells(a, b):
    y, x = np.mgrid[0:60, 0:70].astype(float)
    plane = 9.0 + a * x + b * y
    weight = np.zeros(plane.shape)
    weight[::9, ::7] = 400.0
    found = Surface(weight, 200.0).solve(plane, tolerance=1e-4, most=40)
    assert found == pytest.approx(plane, abs=0.02)


def test_a_surface_takes_noise_off_a_smooth_bottom():
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:80, 0:80].astype(float)
    real = 10.0 + np.sin(x / 20.0) + np.cos(y / 25.0)
    noisy = real + rng.normal(0, 0.2, real.shape)
    found = Surface(np.full(real.shape, 25.0), 300.0).solve(noisy, most=20)
    assert np.std(found - real) < 0.35 * np.std(noisy - real)


def test_more_steps_do_not_change_a_settled_surface():
    y, x = np.mgrid[0:64, 0:64].astype(float)
    weight = np.where(y % 8 == 0, 100.0, 0.0)
    value = 8.0 + 3.0 * np.tanh((x + y - 60) / 6.0)
    surface = Surface(weight, 50.0)
    a = surface.solve(value, tolerance=1e-3, most=30)
    assert surface.solve(value, a, tolerance=1e-3, most=30) == pytest.approx(a, abs=0.02)


def test_the_guide_runs_along_a_ledge_and_is_silent_on_a_flat():
    y, x = np.mgrid[0:100, 0:100].astype(float)
    ledge = 5.0 + 4.0 * np.tanh((x - y) / 5.0)
    guide = guide_of(ledge, 4.0, 20.0)
    assert guide.strength[50, 50] > 0.9
    assert np.cos(2 * (guide.angle_rad[50, 50] - np.pi / 4)) > 0.99
    assert guide_of(np.full((50, 50), 7.0), 4.0, 20.0).strength.max() == 0.0


def test_a_guided_surface_carries_a_slanted_ledge_on_between_lines():
    cell = 4.0
    n = 200
    y, x = np.mgrid[0:n, 0:n].astype(float) * cell
    real = slanted_ledge(x, y)
    weight = np.where(np.arange(n)[:, None] % 10 == 0, 300.0, 0.0) * np.ones(n)
    plain = Surface(weight, 300.0).solve(real, most=20)
    guided = Surface(weight, 300.0, guide_of(plain, cell, 32.0)).solve(real, most=20)
    near = np.s_[30:-30, 30:-30]
    rms = [float(np.sqrt(((z - real)[near] ** 2).mean())) for z in (plain, guided)]
    assert rms[1] < 0.75 * rms[0]


def test_a_guide_of_no_strength_changes_nothing():
    y, x = np.mgrid[0:40, 0:40].astype(float)
    weight = np.where((x + 2 * y) % 7 == 0, 50.0, 0.0)
    value = 6.0 + 0.1 * x + np.sin(y / 5.0)
    none = Guide(np.zeros(value.shape), np.zeros(value.shape))
    # the guided plate counts its twist over the same cells, so that the two agree but for rounding
    a = Surface(weight, 80.0).solve(value, tolerance=1e-4, most=40)
    b = Surface(weight, 80.0, none).solve(value, tolerance=1e-4, most=40)
    assert b == pytest.approx(a, abs=0.02)


def test_a_grid_beats_straight_triangles_by_a_fifth():
    x, y, d = lines_over(slanted_ledge)
    grid = make_grid(x, y, d)
    real = truth(grid, slanted_ledge)
    gx, gy = np.meshgrid(grid.frame.x, grid.frame.y)
    flat = LinearNDInterpolator(np.stack([x, y], axis=1), d)(gx, gy)
    good = grid.known & np.isfinite(flat)
    ours, theirs = (float(np.sqrt(((z - real)[good] ** 2).mean())) for z in (grid.depth_m, flat))
    assert ours < 0.8 * theirs


def test_the_spread_is_honest_and_grows_away_from_the_lines():
    x, y, d = lines_over(bowl, noise_m=0.08)
    grid = make_grid(x, y, d)
    error, good = errors(grid, bowl, margin=0.5)
    z = error / grid.sd_m[good]
    assert 0.2 < float(np.sqrt((z**2).mean())) < 1.5
    assert np.mean(np.abs(z) < 2.0) > 0.9
    sounded = grid.count > 0
    assert np.nanmedian(grid.sd_m[sounded]) < np.nanmedian(grid.sd_m[good & ~sounded])


def test_nothing_is_invented_where_nothing_was_sounded():
    x, y, d = lines_over(bowl)
    hole = np.hypot(x - EAST - 400.0, y - NORTH - 400.0) > 130.0
    grid = make_grid(x[hole], y[hole], d[hole])
    row, column = (round(float(v)) for v in grid.frame.row_column(EAST + 400.0, NORTH + 400.0))
    assert not grid.known[row, column]
    assert not grid.known[0].any()
    gx, gy = np.meshgrid(grid.frame.x - EAST, grid.frame.y - NORTH)
    assert not (grid.known & (np.hypot(gx - 400.0, gy - 400.0) > 430.0)).any()


@pytest.mark.parametrize("spacing", [20.0, 35.0, 60.0])
def test_the_spacing_of_the_lines_is_seen(spacing):
    x, y, _ = lines_over(lambda x, y: 0 * x + 8.0, spacing_m=spacing)
    assert line_spacing_m(x, y) == pytest.approx(spacing, rel=0.2)


def test_noise_is_told_from_the_soundings():
    rng = np.random.default_rng(5)
    depth = np.repeat(np.linspace(2.0, 40.0, 40), 400)
    a, b = sounding_noise(depth + rng.normal(0, 1, depth.size) * np.hypot(0.06, 0.01 * depth))
    assert a == pytest.approx(0.06, abs=0.03)
    assert b == pytest.approx(0.01, rel=0.15)


def test_new_soundings_merge_into_what_a_whole_grid_would_be():
    x, y, d = lines_over(bowl)
    old = make_grid(x, y, d)
    nx, ny = EAST + np.linspace(200, 560, 400), NORTH + np.linspace(210, 540, 400)
    nd = bowl(nx - EAST, ny - NORTH)
    merged = merge(old, nx, ny, nd)
    together = (np.concatenate(pair) for pair in ((x, nx), (y, ny), (d, nd)))
    whole = make_grid(*together, GridSettings(cell_m=old.frame.cell_m))
    both = merged.known & whole.known
    assert merged.frame == whole.frame
    assert float(np.abs(merged.depth_m - whole.depth_m)[both].mean()) < 0.03
    before = np.abs(errors(old, bowl)[0]).mean()
    assert np.abs(errors(merged, bowl)[0]).mean() < before
    assert float(merged.count.sum()) == float(old.count.sum()) + 400


def test_soundings_scattered_over_a_large_water_bend_its_surface_at_once(monkeypatch):
    monkeypatch.setattr("plumbbob.core.chart.grid._MANY_CELLS", 1_000)
    monkeypatch.setattr("plumbbob.core.chart.grid._CORRECTED_CELLS", 8_000)
    old = make_grid(*lines_over(bowl))
    nx, ny = np.random.default_rng(4).uniform(150.0, 650.0, (2, 900))
    merged = merge(old, EAST + nx, NORTH + ny, bowl(nx, ny))
    before, after = (float(np.sqrt((errors(g, bowl)[0] ** 2).mean())) for g in (old, merged))
    assert after < 0.95 * before
    assert float(merged.count.sum()) == float(old.count.sum()) + 900
    still = merge(old, EAST + nx, NORTH + ny, old.frame.sample(old.surface_m.astype(float), EAST + nx, NORTH + ny))
    assert float(np.nanmedian(np.abs(still.depth_m - old.depth_m))) < 0.01


def test_a_grid_grows_for_soundings_beside_it_and_refuses_far_ones():
    x, y, d = lines_over(bowl)
    old = make_grid(x, y, d)
    nx = EAST + np.linspace(820, 1100, 300)
    grown = merge(old, nx, np.full(300, NORTH + 400.0), np.full(300, 4.0))
    assert grown.frame.nx > old.frame.nx
    assert grown.frame.sample(grown.depth_m, EAST + 1000.0, NORTH + 400.0) == pytest.approx(4.0, abs=0.2)
    there = old.known
    row, column = grown.frame.row_column(old.frame.x[0], old.frame.y[0])
    r, c = round(float(row)), round(float(column))
    same = grown.depth_m[r : r + old.frame.ny, c : c + old.frame.nx]
    assert np.isfinite(same[there]).all()
    with pytest.raises(ValueError, match="too far"):
        merge(old, nx + 3e6, np.full(300, NORTH), np.full(300, 4.0))
    assert merge(old, np.zeros(0), np.zeros(0), np.zeros(0)) is old


def test_a_cell_too_small_is_refused_in_words_and_so_are_too_few_soundings():
    x, y, d = lines_over(bowl)
    with pytest.raises(ValueError, match="choose"):
        make_grid(x, y, d, GridSettings(cell_m=0.05))
    with pytest.raises(ValueError, match="at least three"):
        make_grid(x[:2], y[:2], d[:2])


def test_making_a_grid_can_be_stopped():
    class Stop(Exception):
        pass

    def tick(fraction):
        assert 0.0 <= fraction <= 1.0
        if fraction > 0.3:
            raise Stop

    x, y, d = lines_over(bowl)
    with pytest.raises(Stop):
        make_grid(x, y, d, progress=tick)


@settings(max_examples=25)
@given(st.integers(0, 10_000), st.integers(3, 60), st.floats(1.0, 3000.0), st.floats(0.0, 90.0))
def test_any_few_soundings_make_some_grid(seed, count, wide, deep):
    rng = np.random.default_rng(seed)
    x, y = rng.uniform(0, wide, (2, count))
    grid = make_grid(EAST + x, NORTH + y, rng.uniform(0.0, deep + 0.1, count))
    known = grid.depth_m[grid.known]
    assert known.size
    assert np.isfinite(known).all()
    assert (grid.sd_m[grid.known] > 0).all()


def test_a_frame_finds_its_cells_and_reads_straight_fields_exactly():
    frame = CellGrid(100.0, 200.0, 5.0, 12, 9)
    x, y = np.meshgrid(frame.x, frame.y)
    field = 3.0 + 0.2 * x - 0.1 * y
    assert frame.sample(field, 131.7, 219.2) == pytest.approx(3.0 + 0.2 * 131.7 - 0.1 * 219.2)
    assert np.isnan(frame.sample(field, 90.0, 210.0))
    cell, inside = frame.cells([101.0, 99.0, 159.9], [201.0, 210.0, 244.9])
    assert inside.tolist() == [True, False, True]
    assert cell[0] == 0
    assert cell[2] == 9 * 12 - 1
    holed = field.copy()
    holed[3, 4] = np.nan
    assert np.isnan(frame.sample(holed, frame.x[4] + 1, frame.y[3] + 1))
    with pytest.raises(ValueError, match="no such frame"):
        CellGrid(0.0, 0.0, -1.0, 3, 3)


def test_a_track_over_a_large_water_changes_only_what_lies_beside_it(monkeypatch):
    monkeypatch.setattr("plumbbob.core.chart.grid._MANY_CELLS", 1_000)
    old = make_grid(*lines_over(bowl))
    x = EAST + np.linspace(300.0, 360.0, 100)
    merged = merge(old, x, np.full(100, NORTH + 400.0), np.full(100, 3.0))
    changed = np.abs(np.nan_to_num(merged.surface_m - old.surface_m)) > 1e-6
    assert 0 < changed.mean() < 0.4
