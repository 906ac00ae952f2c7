"""Quantities and places: round trips, published values, the reference ellipsoid."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyproj import Geod

from plumbbob.core import geodesy as geo
from plumbbob.core import units
from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind, System

GEOD = Geod(ellps="WGS84")


@given(st.floats(-200, 200), st.sampled_from(Kind), st.sampled_from(System))
def test_shown_and_back_is_the_same_quantity(value, kind, system):
    assert units.to_si(units.to_shown(value, kind, system), kind, system) == pytest.approx(value, abs=1e-9)


@given(
    st.floats(0.1, 90),
    st.sampled_from([Kind.DEPTH, Kind.SPEED, Kind.FISH, Kind.TEMPERATURE]),
    st.sampled_from(System),
)
def test_what_is_written_can_be_typed_again(value, kind, system):
    typed = units.parse(units.quantity(value, kind, system), kind, system)
    step = 0.5 * 10 ** -units.unit_of(kind, system).decimals / units.unit_of(kind, system).factor
    assert abs(typed - value) <= step * 1.001


@pytest.mark.parametrize(
    ("text", "kind", "expected"),
    [
        ("25 ft", Kind.DEPTH, 7.62),
        ("25", Kind.DEPTH, 7.62),
        ("4,5 m", Kind.DEPTH, 4.5),
        ("2 kn", Kind.SPEED, 1.028888),
        ("50 °F", Kind.TEMPERATURE, 10.0),
        ("14 in", Kind.FISH, 0.3556),
        ("−3 m", Kind.DEPTH, -3.0),
    ],
)
def test_typed_quantities(text, kind, expected):
    assert units.parse(text, kind, System.US) == pytest.approx(expected)


@pytest.mark.parametrize("text", ["", "deep", "12 parsec", "1 2", "--3"])
def test_what_is_no_quantity_is_refused_in_one_line(text):
    with pytest.raises(ValueError, match="not a") as caught:
        units.parse(text, Kind.DEPTH, System.US)
    assert "\n" not in str(caught.value)


def test_unknown_is_a_dash_and_never_nan():
    assert units.number(float("nan"), Kind.DEPTH, System.US) == "–"
    assert units.number(None, Kind.DEPTH, System.METRIC) == "–"
    assert units.number(-0.001, Kind.DEPTH, System.METRIC) == "0.0"


@given(st.floats(-75, 75), st.floats(-180, 180), st.floats(-900, 900), st.floats(-900, 900))
def test_offsets_agree_with_the_ellipsoid(latitude, longitude, east, north):
    lat, lon = geo.offset(latitude, longitude, east, north)
    bearing, _, metres = GEOD.inv(longitude, latitude, float(lon), float(lat))
    far = math.hypot(east, north)
    assert metres == pytest.approx(far, abs=0.002 + 2e-4 * far)
    if far > 20:
        turn = (bearing - math.degrees(math.atan2(east, north)) + 180) % 360 - 180
        assert abs(turn) < 0.1


@given(st.floats(-80, 80), st.floats(-180, 180), st.floats(-400, 400), st.floats(-400, 400))
def test_offset_and_separation_are_inverse(latitude, longitude, east, north):
    lat, lon = geo.offset(latitude, longitude, east, north)
    back_e, back_n = geo.separation(latitude, longitude, lat, lon)
    assert float(back_e) == pytest.approx(east, abs=0.03)
    assert float(back_n) == pytest.approx(north, abs=0.03)


def test_side_target_over_a_port_range():
    east, north = geo.along_heading(245.0, -3.1, -0.3 - 34.2)
    lat, lon = geo.offset(54.62, -3.21, east, north)
    assert float(lat) == pytest.approx(54.61973088, abs=4.5e-7)
    assert float(lon) == pytest.approx(-3.209730798, abs=7.8e-7)


def test_positions_are_written_without_sixty_minutes():
    assert geo.write_position(Position(43.9999999, -40.0)) == "44°00.000'N  40°00.000'W"
    with pytest.raises(ValueError, match="no such place"):
        Position(91.0, 0.0)


def test_bearing_and_distance():
    a, b = Position(44.2, -40.05), Position(44.21, -40.05)
    assert geo.distance_m(a, b) == pytest.approx(1111.2, abs=0.5)
    assert geo.bearing_deg(a, b) == pytest.approx(0.0, abs=1e-6)
    assert geo.bearing_deg(b, a) == pytest.approx(180.0)


@pytest.mark.parametrize(
    ("latitude", "step_m", "off_m"), [(45.0, 100.0, 0.001), (60.0, 1000.0, 0.14), (80.0, 1000.0, 0.45)]
)
def test_a_step_is_as_right_as_it_says(latitude, step_m, off_m):
    for bearing in range(0, 360, 30):
        east, north = step_m * math.sin(math.radians(bearing)), step_m * math.cos(math.radians(bearing))
        a, b = geo.offset(latitude, 10.0, east, north)
        there = GEOD.fwd(10.0, latitude, bearing, step_m)
        assert GEOD.inv(there[0], there[1], float(b), float(a))[2] <= off_m
