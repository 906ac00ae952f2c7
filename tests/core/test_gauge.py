"""Geometry to the sides against closed forms: ranges, heights from shadows, their spreads, how wide to scan."""

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from plumbbob.core.sonar.shadow_height import (
    ground_range,
    height_from_shadow,
    over_broken_bottom,
    scan_width,
    shadow_height,
    shadow_range,
    slant_range,
    without_shadow,
)

altitudes = st.floats(0.5, 60.0)
slopes = st.floats(-25.0, 25.0)


@pytest.mark.parametrize(
    ("slant", "altitude", "slope", "ground"),
    [(25.0, 7.0, 0.0, 24.0), (30.0, 10.0, 8.0, 29.42), (30.0, 10.0, -8.0, 26.66), (30.0, 10.0, 0.0, 28.28)],
)
def test_published_ground_ranges(slant, altitude, slope, ground):
    assert float(ground_range(slant, altitude, slope)) == pytest.approx(ground, abs=0.006)


@given(altitudes, slopes, st.floats(0.1, 80.0))
def test_slant_and_ground_are_inverse_on_any_plane(altitude, slope, ground):
    height_there = altitude - ground * math.tan(math.radians(slope))
    if height_there <= 0.05:
        return  # the bottom has come up to the transducer
    slant = slant_range(ground, altitude, slope)
    back = float(ground_range(slant, altitude, slope))
    # before the foot of the perpendicular a range meets the plane twice; the farther one is given
    assert back >= ground - 1e-6
    assert float(slant_range(back, altitude, slope)) == pytest.approx(float(slant), rel=1e-9)


@given(altitudes)
def test_the_first_return_is_the_perpendicular(altitude):
    just = altitude * math.cos(math.radians(10.0))
    assert math.isnan(float(ground_range(just - 1e-3, altitude, 10.0)))
    assert math.isfinite(float(ground_range(just + 1e-3, altitude, 10.0)))


@given(altitudes, st.floats(0.01, 0.95), st.floats(1.02, 8.0))
def test_a_height_throws_the_shadow_that_tells_it(altitude, share, out):
    height, target = share * altitude, out * altitude
    shadow = float(shadow_range(target, height, altitude))
    assert float(height_from_shadow(target, shadow, altitude)) == pytest.approx(height, rel=1e-9)


def test_what_hangs_level_with_the_transducer_throws_no_shadow():
    assert shadow_range(12.0, 8.0, 8.0) == math.inf


@given(altitudes, slopes, st.floats(0.05, 0.7), st.floats(1.3, 4.0))
def test_gauge_recovers_a_target_over_a_slope(altitude, slope, share, out):
    """The ray past a target is traced to the plane by hand, and the gauge has to find the target again."""
    b = math.radians(slope)
    ground = out * altitude
    bottom = altitude - ground * math.tan(b)  # below the transducer, at the target
    height = share * altitude
    depth = bottom - height
    if depth < 0.3 or bottom < 0.5:
        return
    # along the ray (t ground, t depth) until it meets depth = altitude - x tan b
    t = altitude / (depth + ground * math.tan(b))
    if not 1.0 < t < 50.0:
        return
    target, shadow = math.hypot(ground, depth), t * math.hypot(ground, depth)
    found = shadow_height(target, shadow, shadow, altitude, slope_deg=slope)
    assert found.ground_m == pytest.approx(ground, rel=1e-6)
    # the height is over the bottom where the shadow's ray says: similar triangles measured straight down
    assert found.top_m == pytest.approx(altitude * (1 - 1 / t), rel=1e-9)


def test_published_heights():
    found = shadow_height(15.0, 24.0, 25.0, 10.0)
    assert (found.top_m, found.ground_m) == (pytest.approx(4.0), pytest.approx(13.75, abs=0.01))
    assert shadow_height(30.0, 30.0, 36.0, 10.0).top_m == pytest.approx(1.667, abs=1e-3)


def test_spreads_grow_with_each_doubt_and_match_a_cloud_of_clicks():
    rng = np.random.default_rng(4)
    n = 40_000
    t, s, e, h = (rng.normal(m, sd, n) for m, sd in ((15.0, 0.05), (24.0, 0.05), (25.0, 0.05), (10.0, 0.1)))
    found = shadow_height(15.0, 24.0, 25.0, 10.0, slope_sd_deg=0.0)
    assert found.top_sd_m == pytest.approx(float(np.std(height_from_shadow(t, e, h))), rel=0.05)
    assert found.ground_sd_m == pytest.approx(float(np.std(ground_range(e, h) * t / e)), rel=0.05)
    assert found.size_sd_m == pytest.approx(
        float(np.std(height_from_shadow(t, e, h) - height_from_shadow(t, s, h))), rel=0.05
    )
    unsure = shadow_height(15.0, 24.0, 25.0, 10.0, altitude_sd_m=0.5, slope_sd_deg=5.0)
    assert unsure.top_sd_m > found.top_sd_m
    assert unsure.ground_sd_m > found.ground_sd_m


def test_a_shadow_that_starts_at_its_echo_stands_on_the_bottom():
    assert shadow_height(20.0, 20.05, 26.0, 10.0).on_bottom
    assert not shadow_height(20.0, 24.0, 26.0, 10.0).on_bottom


@pytest.mark.parametrize(
    ("clicks", "said"),
    [
        ((25.0, 24.0, 26.0), "behind its echo"),
        ((15.0, 25.0, 24.0), "behind its echo"),
        ((4.0, 5.0, 8.0), "no bottom for it to fall on"),
        ((0.0, 24.0, 25.0), "above zero"),
        ((math.nan, 24.0, 25.0), "above zero"),
    ],
)
def test_wrong_clicks_get_one_line(clicks, said):
    with pytest.raises(ValueError, match=said):
        shadow_height(*clicks, 10.0)


def test_too_steep_is_refused():
    with pytest.raises(ValueError, match="steeper"):
        shadow_height(15.0, 24.0, 25.0, 10.0, slope_deg=80.0)


def test_without_a_shadow_the_answer_is_an_interval():
    least, most = without_shadow(15.0, 10.0)
    assert (least, most) == (pytest.approx(11.18, abs=0.01), 15.0)
    inside = without_shadow(6.0, 10.0, across_deg=56.0)
    assert 0.0 < inside[0] < 6.0
    assert inside[1] == 6.0


@given(st.floats(1.0, 30.0), st.floats(0.3, 4.0), st.floats(0.3, 12.0), st.floats(0.3, 3.0))
def test_width_keeps_two_pings_on_what_is_sought_unless_the_bottom_is_too_near(altitude, speed, sought, beam):
    reach, interval = scan_width(altitude, speed, sought, beam)
    assert 1.5 * altitude - 1e-9 <= reach <= 10 * altitude + 1e-9
    assert interval == pytest.approx(2 * reach / 1480.0)
    if reach > 1.5 * altitude + 1e-9:
        assert reach * math.radians(beam) <= sought * 1.001
        assert 2 * speed * interval <= sought * 1.001


@given(st.floats(-12.0, 12.0), st.floats(0.2, 4.0), st.floats(8.0, 30.0))
def test_over_a_broken_bottom_the_height_comes_back(slope, height, across):
    """A bottom with a step and a bend: the shadow is cast by geometry, then measured."""
    x = np.linspace(0.0, 120.0, 12_001)
    z = 10.0 - x * math.tan(math.radians(slope)) * 0.3 - 1.5 / (1 + np.exp(-(x - 45.0) / 2.0))
    top = float(np.interp(across, x, z)) - height
    ray = top / across * x
    below = np.flatnonzero((x > across) & (ray >= z))
    assume(below.size and top > 0.5)
    end = float(np.hypot(x[below[0]], z[below[0]]))
    found, where = over_broken_bottom(math.hypot(across, top), end, x, z)
    assert found == pytest.approx(height, abs=0.05)
    assert where == pytest.approx(across, abs=0.1)


def test_a_shadow_that_ends_nowhere_has_no_height():
    x = np.linspace(0.0, 20.0, 201)
    assert all(math.isnan(v) for v in over_broken_bottom(15.0, 60.0, x, np.full(201, 8.0)))
