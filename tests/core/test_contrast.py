"""The picture is right at once: silent, loud or clipped, fish stand out, the bottom shows, little is white."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.contrast import contrast_of, contrast_of_down
from plumbbob.core.sonar.forward import read_forward
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.recording import EchoArray
from plumbbob.core.sonar.views import read_views
from plumbbob.desk.models.echogram_raster import Raster
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.views.sonar.forward.raster import FanRaster
from plumbbob.desk.views.sonar.side.raster import SideRaster
from tests.views import ahead, sides


@pytest.fixture(scope="module")
def read(passed):
    return passed[0], read_down(passed[0])


def louder(down, db):
    return replace(down, offset_db=down.offset_db + db)


def silent_floor(down):
    raw = down.echo.read(0, len(down)).astype(int) - 40
    return replace(
        down, echo=EchoArray(np.clip(raw, 0, 255).astype(np.uint8)), offset_db=down.offset_db + 40 * down.scale_db
    )


def clipped(down):
    raw = down.echo.read(0, len(down)).astype(int) + 70
    return replace(
        down, echo=EchoArray(np.clip(raw, 0, 255).astype(np.uint8)), offset_db=down.offset_db - 70 * down.scale_db
    )


def corrected(down, tvg):
    """The same echoes with another range correction in them."""
    factor = {"none": 0.0, "20logR": 20.0, "40logR": 40.0}
    ranges = down.range_start_m[0] + down.range_step_m[0] * np.arange(down.samples)
    shift = (factor[tvg] - factor[down.tvg]) * np.log10(np.maximum(ranges, 1.0)) / down.scale_db
    raw = down.echo.read(0, len(down)) + shift[None, :] - shift.max() / 2
    offset = down.offset_db + shift.max() / 2 * down.scale_db
    return replace(down, echo=EchoArray(np.clip(np.rint(raw), 0, 255).astype(np.uint8)), tvg=tvg, offset_db=offset)


VARIANTS = {
    "as recorded": lambda d: d,
    "30 dB louder": lambda d: louder(d, 30.0),
    "25 dB quieter": lambda d: louder(d, -25.0),
    "silent floor": silent_floor,
    "clipped": clipped,
    "no correction": lambda d: corrected(d, "none"),
    "20 log R": lambda d: corrected(d, "20logR"),
    "40 log R": lambda d: corrected(d, "40logR"),
}


@pytest.mark.parametrize("variant", VARIANTS)
def test_fish_and_bottom_show_at_once_and_the_water_is_not_white(read, variant):
    recording, reading = read
    down = VARIANTS[variant](recording.down)
    wide, high = len(down), 500
    shown = Raster(down).render(Viewport(0, wide, 0, down.deepest_m), wide, high, 0.0).astype(float)
    depth = (np.arange(high) + 0.5) / high * down.deepest_m
    bed = reading.bottom.depth_m
    water = (depth[:, None] > 2.0) & (depth[:, None] < bed[None, :] - 0.5)
    assert (shown[water] >= 254).mean() <= 0.02
    for fish in reading.fish:
        i, k = int(np.searchsorted(down.time, fish.time)), int(fish.depth_m / down.deepest_m * high)
        near, about = shown[k - 3 : k + 4, i - 3 : i + 4], shown[k - 18 : k + 19, i - 14 : i + 15]
        assert np.percentile(near, 95) - np.median(about) >= 6
    for i in range(0, wide, 10):
        k = int(bed[i] / down.deepest_m * high)
        around = slice(max(i - 2, 0), i + 3)
        assert shown[k : k + 6, around].mean() - shown[k - 10 : k - 4, around].mean() >= 6


def shifted(view, names, steps):
    """Stored louder or quieter by so many steps, cut off at the ends of what can be stored."""
    made = {}
    for name in names:
        echo = getattr(view, name)
        raw = echo.read(0, len(view)).astype(int)
        made[name] = EchoArray(np.where(raw > 0, np.clip(raw + steps, 0, 255), 0).astype(np.uint8))
    return replace(view, **made)


@pytest.mark.parametrize("steps", [0, 60, -25])
def test_fish_to_the_sides_stand_out_of_a_picture_that_is_neither_black_nor_white(steps):
    recording = sides()
    found = read_views(recording).side
    side = shifted(recording.side, ("port", "starboard"), steps)
    raster = SideRaster(side)
    raster.set_altitude(found.altitude_m)
    slant = side.range_start_m[0] + side.range_step_m[0] * np.arange(side.samples)
    shown = raster.render(np.arange(len(side) + 1), slant, 2 * side.samples).astype(float)
    heard = shown > 0
    assert (shown >= 254).sum() <= 0.02 * heard.sum()
    assert 30 <= np.median(shown[heard]) <= 200
    for fish in found.fish:
        i = int(np.searchsorted(side.time, fish.time))
        k = int((fish.slant_m - slant[0]) / side.range_step_m[0])
        row = side.samples + k if fish.side == "starboard" else side.samples - 1 - k
        near, about = shown[row - 2 : row + 3, i - 2 : i + 3], shown[row - 25 : row + 26, i - 20 : i + 21]
        assert near.max() - np.median(about) >= 6


@pytest.mark.parametrize("steps", [0, 60, -25])
def test_fish_ahead_stand_out_and_the_water_is_dark(steps):
    recording = ahead()
    view = shifted(recording.forward, ("echo",), steps)
    raster, scale = FanRaster(view), 0.04
    for track in read_forward(recording).tracks[:3]:
        i = int(np.searchsorted(view.time, track.time[track.best]))
        shown = raster.render(i, 500, 300, scale, 20.0, 10.0, 0.0).astype(float)
        assert (shown >= 254).mean() <= 0.02
        distance, depth = track.distance_m[track.best], track.depth_m[track.best]
        x, y = int(distance / scale + 10), int(depth / scale + 20)
        near, about = shown[y - 8 : y + 9, x - 8 : x + 9], shown[y - 40 : y + 41, x - 40 : x + 41]
        assert near.max() - np.median(about) >= 6


@given(st.floats(-20, 60), st.integers(1, 40), st.integers(4, 200))
def test_the_ramp_always_has_two_ends(level, pings, samples):
    rng = np.random.default_rng(1)
    levels = level + 6 * rng.standard_normal((pings, samples))
    low, high = contrast_of(levels, np.linspace(0.1, 20, samples))
    assert -1.0 <= low < high
    assert 26.0 - 1e-9 <= high - low <= 72.0 + 1e-9


def test_nothing_recorded_has_a_usual_ramp(passed):
    assert contrast_of(np.full((3, 50), np.nan), np.linspace(0, 20, 50)) == (-1.0, 50.0)
    down = passed[0].down
    nothing = replace(down, echo=EchoArray(np.zeros((len(down), down.samples), np.uint8)))
    ramp = contrast_of_down(nothing)
    assert ramp.high_db > ramp.low_db
