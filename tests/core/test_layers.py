"""Clutter, clouds and the cold layer on made-up coarse pictures of known truth."""

import numpy as np
import pytest

from plumbbob.core.sonar.coarse import Coarse
from plumbbob.core.sonar.cold_layer import find_level_band
from plumbbob.core.sonar.layers import clouds, clutter_depth
from plumbbob.core.sonar.reading import LayerReason

PINGS, BINS, BIN, TOP, INTERVAL = 3000, 180, 0.1, 0.5, 0.1


def a_picture(paint=lambda levels, depth, ping: None, seed=0):
    """Noise, clutter that falls off from the surface, and what `paint` adds (decibels)."""
    rng = np.random.default_rng(seed)
    depth = TOP + BIN * (np.arange(BINS) + 0.5)
    levels = -2.5 + rng.normal(0, 2.5, (PINGS, BINS))
    levels += np.clip(30 - 14 * depth, 0, None)[None, :]
    paint(levels, depth[None, :], np.arange(PINGS)[:, None])
    packed = np.clip((levels + 20) * 2, 0, 255).astype(np.uint8)
    return Coarse(packed, TOP, BIN, np.zeros(6))


BED = 15.0 + 1.5 * np.sin(np.arange(PINGS) / 300)
CLUTTER = np.full(PINGS, 2.5)


def layer_of(paint, bed=BED, seed=0):
    return find_level_band(a_picture(paint, seed), bed, CLUTTER, INTERVAL)


def band(depth_of, thickness, loud):
    """A band of echo about a depth that may change along the pass."""

    def paint(levels, depth, ping):
        levels += loud * np.exp(-0.5 * ((depth - depth_of(ping)) / (0.42 * thickness)) ** 2)

    return paint


@pytest.mark.parametrize("depth", [5.0, 8.0, 11.0])
@pytest.mark.parametrize("thickness", [0.6, 1.4])
def test_a_steady_layer_is_found_where_it_is(depth, thickness):
    found = layer_of(band(lambda p: depth + 0.2 * np.sin(p / 150), thickness, 5.0))
    assert found is not None
    assert found.depth_m == pytest.approx(depth, abs=0.3)
    assert found.thickness_m == pytest.approx(thickness, abs=0.6)
    assert 0 < found.confidence < 1


def test_a_tilted_layer_is_followed():
    found = layer_of(band(lambda p: 7.0 + 1.2 * p / PINGS, 1.0, 5.0))
    assert found is not None
    assert found.depth_m == pytest.approx(7.6, abs=0.4)


@pytest.mark.parametrize("seed", range(5))
def test_water_without_a_layer_has_none(seed):
    assert layer_of(lambda levels, depth, ping: None, seed=seed) is None


def test_a_band_that_copies_the_bottom_is_no_cold_layer():
    assert layer_of(band(lambda p: BED[p] - 4.0, 1.0, 6.0)) is None


def test_patches_of_bait_at_one_depth_are_no_cold_layer():
    def patches(levels, depth, ping):
        inside = (ping % 700 < 120) & (np.abs(depth - 7.0) < 0.8)
        levels += 18.0 * inside

    assert layer_of(patches) is None


@pytest.mark.parametrize("every", [45, 80])
def test_bait_in_a_row_at_one_depth_is_no_cold_layer(every):
    def chain(levels, depth, ping):
        levels += 12.0 * (1 + np.sin(2 * np.pi * ping / every)) / 2 * (np.abs(depth - 7.0) < 0.6)

    assert layer_of(chain) is None


def test_a_thick_cloud_is_no_cold_layer():
    assert layer_of(band(lambda p: 8.0 + 0 * p, 7.0, 6.0)) is None


def reasons(found):
    return dict(found.why)


SHOAL = np.where(np.arange(PINGS) % 1500 < 500, 6.0, 14.0)
WAVY = band(lambda p: 8.0 + 0.25 * np.sin(p / 130), 0.9, 6.0)


def test_a_layer_says_what_speaks_for_it():
    def water_only(levels, depth, ping):
        kept = levels.copy()
        WAVY(levels, depth, ping)
        levels[:] = np.where(depth < SHOAL[ping], levels, kept)

    found = find_level_band(a_picture(water_only), SHOAL, CLUTTER, INTERVAL, surface_c=21.0)
    assert found.is_cold_layer
    assert found.confidence > 0.7
    assert {LayerReason.TEMPERATURE, LayerReason.WAVES, LayerReason.BELOW_BOTTOM} <= set(reasons(found))
    assert min(reasons(found).values()) > 0


def test_noise_that_goes_on_under_the_bottom_is_no_cold_layer():
    found = find_level_band(a_picture(WAVY), SHOAL, CLUTTER, INTERVAL, surface_c=21.0)
    assert reasons(found)[LayerReason.BELOW_BOTTOM] < 0
    assert not found.is_cold_layer


def test_a_line_as_if_ruled_is_no_cold_layer():
    found = find_level_band(a_picture(band(lambda p: 8.05 + 0 * p, 0.2, 8.0)), BED, CLUTTER, INTERVAL)
    assert reasons(found)[LayerReason.RULED] < 0
    assert not found.is_cold_layer


def test_plankton_that_ends_in_open_water_is_no_cold_layer():
    def patch(levels, depth, ping):
        kept = levels.copy()
        WAVY(levels, depth, ping)
        levels[:] = np.where(ping < 0.62 * PINGS, levels, kept)

    found = layer_of(patch)
    assert reasons(found)[LayerReason.ENDS] < 0
    assert not found.is_cold_layer


@pytest.mark.parametrize(("surface_c", "holds"), [(float("nan"), True), (18.0, True), (9.0, True), (5.0, False)])
def test_cold_water_holds_up_no_layer(surface_c, holds):
    found = find_level_band(a_picture(WAVY), BED, CLUTTER, INTERVAL, surface_c=surface_c)
    assert found.is_cold_layer == holds


def test_too_short_a_pass_tells_nothing():
    picture = a_picture(band(lambda p: 8.0 + 0 * p, 1.0, 6.0))
    short = Coarse(picture.packed[:150], TOP, BIN, np.zeros(1))
    assert find_level_band(short, BED[:150], CLUTTER[:150], INTERVAL) is None


def test_clutter_is_measured_ping_by_ping():
    def plume(levels, depth, ping):
        levels += 25.0 * ((ping > 1000) & (ping < 1200) & (depth < 4.5))

    measured = clutter_depth(a_picture(plume), BED)
    assert np.median(measured[1050:1150]) == pytest.approx(4.5, abs=0.3)
    assert np.median(measured[:900]) == pytest.approx(2.0, abs=0.5)


def boxes(*parts):
    def paint(levels, depth, ping):
        for first, last, top, base, loud in parts:
            levels += loud * ((ping >= first) & (ping < last) & (depth >= top) & (depth < base))

    return paint


def test_a_dense_cloud_is_measured():
    (cloud,) = clouds(a_picture(boxes((500, 560, 6.0, 8.0, 22.0))), BED, CLUTTER, INTERVAL)
    assert not cloud.on_bottom
    assert (cloud.first, cloud.last) == (pytest.approx(500, abs=4), pytest.approx(559, abs=4))
    assert (cloud.top_m, cloud.base_m) == (pytest.approx(6.0, abs=0.25), pytest.approx(8.0, abs=0.25))
    assert cloud.level_db == pytest.approx(22.0, abs=4.0)


def test_an_arc_is_no_cloud_however_loud():
    assert clouds(a_picture(boxes((500, 530, 6.0, 6.25, 50.0))), BED, CLUTTER, INTERVAL) == []


def test_what_stands_on_the_bottom_says_so():
    flat = np.full(PINGS, 14.0)
    found = clouds(a_picture(boxes((800, 900, 12.0, 14.0, 20.0))), flat, CLUTTER, INTERVAL)
    assert [c.on_bottom for c in found] == [True]
    assert found[0].height_m == pytest.approx(2.0, abs=0.3)


def test_clouds_at_the_seams_of_the_work_are_found_once():
    parts = [(start, start + 50, 6.0, 8.0, 22.0) for start in range(100, 2900, 350)]
    found = clouds(a_picture(boxes(*parts)), BED, CLUTTER, 0.02)
    assert len([c for c in found if not c.on_bottom]) == len(parts)
