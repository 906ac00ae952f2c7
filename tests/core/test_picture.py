"""Pictures off a screen: perspective, scales and their spread, colours to levels, and a pass read back from them."""

import math
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.picture import (
    CLICK_SD_PX,
    Looks,
    Missing,
    PictureScale,
    as_recording,
    check,
    fitted,
    levels,
    lightness,
    metres_at,
    perspective,
    project,
    ramp_along,
    seconds_at,
    straight_size,
    straighten,
    without_bar,
)
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.side import read_side
from plumbbob.sim.down import simulate
from plumbbob.sim.screen import COLOURS, colour_ramp, photographed, screen_of
from tests.conftest import a_scene
from tests.views import FLOOR_M, sides

SQUARE = ((0.0, 0.0), (100.0, 0.0), (100.0, 80.0), (0.0, 80.0))
WIDE, HIGH, DEEP = 900, 540, 18.0
CORNERS = ((70.0, 60.0), (980.0, 30.0), (950.0, 610.0), (40.0, 560.0))


@cache
def a_pass():
    return simulate(a_scene(), seed=3)[0]


def screen_scale(width=WIDE, height=HIGH, **more):
    """The calibration of someone who clicks exactly."""
    down = a_pass().down
    ends = (float(down.time[0]), float(down.time[-1]))
    return PictureScale(
        width=width,
        height=height,
        near=(0.0, 0.0),
        far=(height * 15.0 / DEEP, 15.0),
        early=(0.0, ends[0]),
        late=(float(width), ends[1]),
        **more,
    )


def bottom_error(recording):
    """Metres by which the bottom read from a picture differs from that of the pass itself."""
    down = a_pass().down
    true = read_down(a_pass()).bottom.depth_m
    read = read_down(recording).bottom.depth_m
    return read - np.interp(recording.down.time, down.time, true)


# -- perspective ----------------------------------------------------------------------------------------------------


@given(st.tuples(*[st.floats(-15, 15)] * 8), st.floats(1, 99), st.floats(1, 79))
def test_a_map_takes_corners_to_corners_and_back(moved, x, y):
    target = tuple((a + moved[2 * i], b + moved[2 * i + 1]) for i, (a, b) in enumerate(SQUARE))
    there, back = perspective(SQUARE, target), perspective(target, SQUARE)
    for (a, b), (u, v) in zip(SQUARE, target, strict=True):
        got = project(there, np.array([a]), np.array([b]))
        assert (float(got[0][0]), float(got[1][0])) == (pytest.approx(u, abs=1e-6), pytest.approx(v, abs=1e-6))
    u, v = project(there, np.array([x]), np.array([y]))
    again = project(back, u, v)
    assert (float(again[0][0]), float(again[1][0])) == (pytest.approx(x, abs=1e-6), pytest.approx(y, abs=1e-6))


def test_straight_lines_stay_straight():
    matrix = perspective(SQUARE, CORNERS)
    x = np.linspace(10.0, 90.0, 5)
    u, v = project(matrix, x, 3.0 + 0.5 * x)
    turned = (u[1:-1] - u[0]) * (v[-1] - v[0]) - (v[1:-1] - v[0]) * (u[-1] - u[0])
    assert np.abs(turned).max() < 1e-6 * (u[-1] - u[0]) ** 2


def test_a_photo_of_a_pattern_comes_back_straight():
    pattern = np.zeros((HIGH, WIDE, 3), np.uint8)
    pattern[::60] = 255
    pattern[:, ::90] = 255
    photo = photographed(pattern, CORNERS, (1040, 660), np.random.default_rng(1))
    straight = straighten(photo, CORNERS)
    high, wide = straight.shape[:2]
    rows = lightness(straight).mean(axis=1)
    for k in range(1, 9):
        y = k * 60 / HIGH * high
        near = rows[max(int(y) - 4, 0) : int(y) + 5]
        assert int(near.argmax()) + max(int(y) - 4, 0) == pytest.approx(y, abs=1.6)
    assert wide == straight_size(CORNERS)[0]


@pytest.mark.parametrize(
    "order", [(1, 0, 2, 3), (0, 2, 1, 3), (3, 2, 1, 0), (0, 0, 1, 2)], ids=["swapped", "crossed", "mirrored", "same"]
)
def test_corners_out_of_order_are_refused(order):
    with pytest.raises(ValueError, match="in order"):
        straight_size(tuple(CORNERS[k] for k in order))


# -- scales ---------------------------------------------------------------------------------------------------------


@given(st.floats(0, 500), st.floats(20, 600), st.floats(0.5, 80.0), st.floats(0, 1100))
def test_depth_is_a_line_through_two_clicks(surface, span, depth, pixel):
    c = PictureScale(width=9, height=9, near=(surface, 0.0), far=(surface + span, depth))
    assert metres_at(c, surface)[0] == pytest.approx(0.0, abs=1e-9)
    assert metres_at(c, surface + span)[0] == pytest.approx(depth)
    value, sd = metres_at(c, pixel)
    assert value == pytest.approx((pixel - surface) * depth / span, abs=1e-9)
    assert sd >= CLICK_SD_PX * depth / span


def test_the_spread_is_that_of_a_cloud_of_clicks():
    rng = np.random.default_rng(7)
    n = 30_000
    near, far, own = (
        rng.normal(100.0, CLICK_SD_PX, n),
        rng.normal(500.0, CLICK_SD_PX, n),
        rng.normal(0, CLICK_SD_PX, n),
    )
    own += rng.uniform(-0.5, 0.5, n)
    for pixel in (150.0, 300.0, 620.0):
        cloud = 20.0 * (pixel + own - near) / (far - near)
        sd = metres_at(PictureScale(width=9, height=9, near=(100.0, 0.0), far=(500.0, 20.0)), pixel)[1]
        assert sd == pytest.approx(float(np.std(cloud)), rel=0.05)


def test_what_is_missing_is_named():
    down, sides_ = PictureScale(width=9, height=9), PictureScale(width=9, height=9, looks=Looks.SIDES)
    assert (down.missing, sides_.missing) == (Missing.SURFACE, Missing.BOAT_LINE)
    assert replace(down, near=(1.0, 0.0)).missing is Missing.DEPTH
    assert math.isnan(metres_at(down, 3.0)[0])
    assert math.isnan(seconds_at(down, 3.0))
    with pytest.raises(ValueError, match="not marked yet"):
        as_recording(np.zeros((40, 40, 3), np.uint8), down, "x", start_time=0.0)


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"far": (90.0, 5.0)}, "below the shallower"),
        ({"far": (500.0, 0.0)}, "same value"),
        ({"far": (110.0, 999999.0)}, "more water than there is"),
        ({"far": (100.5, 5.0)}, "same place"),
        ({"early": (10.0, 5.0), "late": (11.0, 9.0)}, "same place"),
        ({"early": (10.0, 5.0), "late": (400.0, 5.0)}, "equal times"),
        ({"ramp": ((5.0, 5.0), (8.0, 5.0))}, "too short"),
        ({"corners": tuple(reversed(CORNERS))}, "in order"),
    ],
)
def test_a_wrong_calibration_gets_one_line(wrong, said):
    with pytest.raises(ValueError, match=said):
        check(replace(PictureScale(width=9, height=9, near=(100.0, 0.0), far=(500.0, 20.0)), **wrong))


def test_a_scale_is_offered_without_its_clock_and_only_for_the_same_size():
    c = screen_scale()
    again = fitted(c, WIDE, HIGH)
    assert (again.near, again.far, again.early) == (c.near, c.far, None)
    with pytest.raises(ValueError, match="size"):
        fitted(c, WIDE + 1, HIGH)


# -- colours --------------------------------------------------------------------------------------------------------


def test_every_colour_of_a_ramp_is_its_own_level():
    ramp = colour_ramp()
    found = levels(ramp[None, :, :], ramp)[0]
    assert np.abs(found.astype(int) - np.arange(256)).max() <= 6
    assert (np.diff(found.astype(int)) >= -3).all()


def test_a_rainbow_works_as_well_as_grey():
    turn = np.linspace(0, 2 * np.pi * 0.8, 256)
    rainbow = np.stack([127 + 120 * np.cos(turn + k) for k in (0.0, 2.1, 4.2)], axis=1).astype(np.uint8)
    assert np.abs(levels(rainbow[None], rainbow)[0].astype(int) - np.arange(256)).max() <= 8


def test_without_a_ramp_a_light_ground_is_turned():
    paper = np.full((20, 20, 3), 240, np.uint8)
    paper[5] = 20
    found = levels(paper)
    assert found[5].mean() > 200 > 60 > found[0].mean()


def test_writing_and_the_colour_bar_are_not_echoes():
    screen = np.broadcast_to(np.array(COLOURS[0], np.uint8), (200, 300, 3)).copy()
    screen[40:48, 20:60] = (90, 255, 90)  # writing in a colour of its own
    bar = colour_ramp(120)[::-1]
    screen[30:150, 270:280] = bar[:, None, :]
    ends = ((275.0, 149.5), (275.0, 30.5))
    hidden = without_bar(screen, ends)
    assert hidden[40:140, 271:279].all()
    assert not hidden[:, :250].any()
    found = levels(screen, ramp_along(screen, ends), hidden)
    assert found.max() < 25


# -- read back ------------------------------------------------------------------------------------------------------


def test_a_pass_drawn_as_a_picture_reads_as_the_pass():
    picture = screen_of(a_pass().down, DEEP, WIDE, HIGH)
    error = bottom_error(as_recording(picture, screen_scale(), "screen.png", start_time=0.0))
    pixel = DEEP / HIGH
    assert np.mean(~np.isfinite(error)) < 0.03
    assert abs(float(np.nanmedian(error))) < pixel
    assert float(np.nanpercentile(np.abs(error), 90)) < 3 * pixel


def test_a_tilted_photo_with_shaky_clicks_reads_within_their_spread():
    screen = screen_of(a_pass().down, DEEP, WIDE, HIGH)
    rng = np.random.default_rng(11)
    photo = photographed(screen, CORNERS, (1040, 660), rng)
    pixel = DEEP / HIGH
    for _ in range(3):
        clicked = tuple((x + rng.normal(0, CLICK_SD_PX), y + rng.normal(0, CLICK_SD_PX)) for x, y in CORNERS)
        straight = straighten(photo, clicked)
        high, wide = straight.shape[:2]
        scale = screen_scale(wide, high, corners=clicked)
        surface, deep = scale.near[0] + rng.normal(0, CLICK_SD_PX), scale.far[0] + rng.normal(0, CLICK_SD_PX)
        scale = replace(scale, near=(surface, 0.0), far=(deep, 15.0))
        error = bottom_error(as_recording(straight, scale, "photo.jpg", start_time=0.0))
        own = metres_at(scale, 13.0 / DEEP * high)[1]
        # one pixel's worth, the scale's clicks and as much again for the corners'
        assert abs(float(np.nanmedian(error))) < pixel + 2 * math.hypot(own, CLICK_SD_PX * pixel * 1.5)


def test_fish_and_layer_are_found_in_a_picture_with_its_colours():
    screen = screen_of(a_pass().down, DEEP, WIDE, HIGH)
    bar = colour_ramp(300)[::-1]
    screen[100:400, 860:876] = bar[:, None, :]
    scale = screen_scale(ramp=((868.0, 399.5), (868.0, 100.5)))
    found = read_down(as_recording(screen, scale, "screen.png", start_time=0.0))
    true = read_down(a_pass())
    assert found.cold_layer is not None
    assert found.cold_layer.depth_m == pytest.approx(true.cold_layer.depth_m, abs=0.4)
    for fish in true.fish:
        near = [f for f in found.fish if abs(f.time - fish.time) < 2.0]
        assert any(abs(f.depth_m - fish.depth_m) < 0.3 for f in near)


def test_clocks_that_run_backwards_turn_the_picture():
    screen = screen_of(a_pass().down, DEEP, WIDE, HIGH)
    scale = screen_scale()
    mirrored = replace(scale, early=(0.0, scale.late[1]), late=(float(WIDE), scale.early[1]))
    forward = as_recording(screen, scale, "a", start_time=0.0)
    backward = as_recording(screen[:, ::-1], mirrored, "b", start_time=0.0)
    assert np.array_equal(forward.down.echo.read(0, 99), backward.down.echo.read(0, 99))
    assert (np.diff(backward.down.time) > 0).all()


def test_a_picture_of_both_sides_becomes_a_view_to_the_sides():
    side = sides().side
    port, starboard = side.port.read(0, len(side)), side.starboard.read(0, len(side))
    grey = np.concatenate([port[:, ::-1], starboard], axis=1)[::-1]  # the newest line at the top
    picture = np.repeat(grey[..., None], 3, axis=2)
    samples = side.samples
    scale = PictureScale(
        looks=Looks.SIDES,
        width=2 * samples,
        height=len(side),
        near=(float(samples), 0.0),
        far=(samples + 400.0, float(side.range_start_m[0] + 400 * side.range_step_m[0])),
    )
    made = as_recording(picture, scale, "sides.png", start_time=100.0)
    assert made.down is None
    assert made.side.samples == samples
    found = read_side(made)
    assert float(np.nanmedian(found.altitude_m)) == pytest.approx(FLOOR_M - 0.45, abs=0.3)
    assert len(found.fish) >= 3


@pytest.mark.parametrize(
    ("scale", "said"),
    [
        ({"near": (590.0, 0.0), "far": (599.0, 5.0)}, "nothing is left"),
        ({"looks": Looks.SIDES, "near": (5.0, 0.0), "far": (300.0, 20.0)}, "one side is missing"),
    ],
)
def test_a_scale_that_leaves_nothing_is_said(scale, said):
    with pytest.raises(ValueError, match=said):
        as_recording(
            np.zeros((600, 800, 3), np.uint8), PictureScale(width=800, height=600, **scale), "x", start_time=0.0
        )
