"""Where to wait between bait on a flat and deep water."""

import math

import numpy as np
import pytest

from plumbbob.core.chart.grid import make_grid
from plumbbob.core.chart.intercept import find_intercept
from plumbbob.core.geodesy import Position, parse_position, write_position


def a_break(lip=100.0):
    """A flat 6 m deep that drops to 14 m over twenty metres east of the lip."""
    x, y = (v.ravel() for v in np.meshgrid(np.arange(0.0, 220.0, 5.0), np.arange(0.0, 160.0, 5.0)))
    depth = 6.0 + 8.0 * np.clip((x - lip) / 20.0, 0.0, 1.0) + 0.002 * y
    return make_grid(x, y, depth)


def test_it_waits_at_the_lip_on_the_shortest_way():
    found = find_intercept(a_break(), 40.0, 80.0)
    assert found.x == pytest.approx(100.0, abs=9.0)
    assert found.y == pytest.approx(80.0, abs=4.0)
    assert found.depth_m == pytest.approx(6.3, abs=1.5)
    assert found.deep_depth_m >= found.bait_depth_m + 2.8
    assert found.from_bait_m == pytest.approx(math.hypot(found.x - 40.0, found.y - 80.0), abs=0.5)
    assert 0 < found.from_bait_m < math.hypot(found.deep_x - 40.0, found.deep_y - 80.0)


def test_it_never_waits_in_the_bait():
    assert find_intercept(a_break(), 92.0, 80.0).from_bait_m >= 5.0


def test_deeper_water_can_be_asked_for():
    shallow, deep = find_intercept(a_break(), 40.0, 80.0), find_intercept(a_break(), 40.0, 80.0, deep_m=13.0)
    assert deep.deep_x > shallow.deep_x


@pytest.mark.parametrize(
    ("x", "deep", "said"),
    [(-500.0, math.nan, "off the chart"), (40.0, 30.0, "no deeper water"), (200.0, 10.0, "already hangs")],
)
def test_where_there_is_none_it_says_so(x, deep, said):
    with pytest.raises(ValueError, match=said):
        find_intercept(a_break(), x, 80.0, deep_m=deep)


@pytest.mark.parametrize(
    ("text", "latitude", "longitude"),
    [
        ("44.2061 N 40.0583 W", 44.2061, -40.0583),
        ("44.2061, -40.0583", 44.2061, -40.0583),
        ("-12.5 100.25", -12.5, 100.25),
        ("52°24.0'N 024°36.5'W", 52.4, -24.608333),
        ("S", None, None),
        ("95 N 10 E", None, None),
        ("", None, None),
    ],
)
def test_places_are_read_as_people_write_them(text, latitude, longitude):
    if latitude is None:
        with pytest.raises(ValueError, match=r"position|place"):
            parse_position(text)
        return
    place = parse_position(text)
    assert (place.latitude, place.longitude) == (
        pytest.approx(latitude, abs=1e-5),
        pytest.approx(longitude, abs=1e-5),
    )


def test_what_is_written_is_read_back():
    place = Position(44.20531, -40.06577)
    again = parse_position(write_position(place))
    assert again.latitude == pytest.approx(place.latitude, abs=1e-5)
    assert again.longitude == pytest.approx(place.longitude, abs=1e-5)
