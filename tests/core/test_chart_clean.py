"""What is left out of soundings: counted, switchable, and never a rock."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyproj import Transformer

from plumbbob.core.chart.soundings import CleanSettings, Fault, Soundings, clean, joined, raggedness
from plumbbob.core.geodesy import Plane, Position, utm_epsg
from tests.lake import EAST, NORTH, as_soundings, bowl, lines_over


def changed(s: Soundings, **fields) -> Soundings:
    names = ("latitude", "longitude", "depth_m", "water_level_m", "time")
    return Soundings(**{n: fields.get(n, getattr(s, n)) for n in names})


@pytest.fixture(scope="module")
def good():
    return as_soundings(*lines_over(bowl))


def test_clean_soundings_stay(good):
    cleaned = clean(good)
    assert cleaned.kept.mean() > 0.999
    assert cleaned.plane.epsg == 32624


def test_depth_at_datum_is_scaled_then_sunk_then_levelled(good):
    settings = CleanSettings(draft_m=0.4, sound_speed_ratio=1450 / 1500)
    levelled = changed(good, water_level_m=np.full(len(good), -1.3))
    cleaned = clean(levelled, settings)
    assert cleaned.depth_m == pytest.approx(good.depth_m * 1450 / 1500 + 0.4 + 1.3)
    unknown = changed(good, water_level_m=np.full(len(good), np.nan))
    assert clean(unknown, CleanSettings(level_m=0.7)).depth_m == pytest.approx(good.depth_m - 0.7)


def test_zeros_and_missing_depths_go(good):
    depth = good.depth_m.copy()
    depth[[50, 51, 400]] = [0.0, -1.0, np.nan]
    cleaned = clean(changed(good, depth_m=depth))
    assert cleaned.counts()[Fault.NO_DEPTH] == 3
    assert not cleaned.kept[[50, 51, 400]].any()


@pytest.mark.parametrize("place", [(0.0, 0.0), (-44.0, 140.0), (44.2, 139.9), (95.0, 10.0)])
def test_a_stray_fix_half_a_world_away_goes_and_the_plane_stays(good, place):
    latitude, longitude = good.latitude.copy(), good.longitude.copy()
    latitude[[10, 900]], longitude[[10, 900]] = place
    cleaned = clean(changed(good, latitude=latitude, longitude=longitude))
    assert cleaned.counts()[Fault.STRAY] == 2
    assert np.ptp(cleaned.x[cleaned.kept]) < 1000.0


def test_an_isle_of_a_few_soundings_some_miles_off_goes(good):
    latitude = good.latitude.copy()
    latitude[300:306] += 0.1
    cleaned = clean(changed(good, latitude=latitude))
    assert (cleaned.fault[300:306] == Fault.STRAY).all()


def test_a_jumped_fix_goes(good):
    longitude = good.longitude.copy()
    longitude[700:703] += 0.0012  # a hundred metres
    cleaned = clean(changed(good, longitude=longitude))
    assert (cleaned.fault[700:703] == Fault.JUMP).all()
    assert cleaned.counts()[Fault.JUMP] == 3


def test_double_echoes_and_spikes_are_told_apart(good):
    depth = good.depth_m.copy()
    deep = np.flatnonzero(depth > 6.0)[::97][:12]
    depth[deep[:6]] *= 2.03
    depth[deep[6:]] -= 3.0
    counts = clean(changed(good, depth_m=depth)).counts()
    assert counts[Fault.DOUBLE] == 6
    assert counts[Fault.SPIKE] == 6


def test_a_long_run_of_double_echoes_is_seen_against_its_surroundings(good):
    depth = good.depth_m.copy()
    run = np.flatnonzero(depth > 8.0)[:20]
    depth[run] *= 2.0
    cleaned = clean(changed(good, depth_m=depth))
    assert (cleaned.fault[run[3:-3]] == Fault.DOUBLE).mean() > 0.8


def test_weed_tops_go_and_the_bottom_between_them_stays():
    rng = np.random.default_rng(2)
    x, y, d = lines_over(lambda x, y: 3.5 + 0.002 * x, noise_m=0.03)
    bed = (x - EAST > 300) & (x - EAST < 340)
    tops = bed & (rng.random(x.size) < 0.55)
    weedy = np.where(tops, d - rng.uniform(0.6, 1.8, x.size), d)
    cleaned = clean(as_soundings(x, y, weedy))
    assert (cleaned.fault[tops] != Fault.NONE).mean() > 0.75
    assert cleaned.kept[bed & ~tops].mean() > 0.85
    assert cleaned.counts()[Fault.WEED] > 10
    assert cleaned.kept[~bed].mean() > 0.995


def test_a_sharp_rock_that_many_soundings_agree_on_stays():
    def rock(x, y):
        return 15.0 - 9.0 * np.exp(-((x - 400) ** 2 + (y - 420) ** 2) / (2 * 9.0**2))

    x, y, d = lines_over(rock, spacing_m=15.0)
    cleaned = clean(as_soundings(x, y, d))
    on_top = np.hypot(x - EAST - 400, y - NORTH - 420) < 20
    assert on_top.sum() > 40
    assert cleaned.kept[on_top].mean() > 0.97


def test_each_search_can_be_switched_off(good):
    depth = good.depth_m.copy()
    depth[500] = 0.0
    depth[900] *= 2.02
    off = clean(changed(good, depth_m=depth), CleanSettings(look_for=frozenset()))
    assert off.kept.all()
    only = clean(changed(good, depth_m=depth), CleanSettings(look_for=frozenset({Fault.NO_DEPTH})))
    assert set(only.counts()) == {Fault.NO_DEPTH}


def test_counts_and_kept_add_up(good):
    depth = good.depth_m.copy()
    depth[::60] = 0.0
    cleaned = clean(changed(good, depth_m=depth))
    assert int(cleaned.kept.sum()) + sum(cleaned.counts().values()) == len(good)


def test_no_usable_sounding_is_an_error_in_words(good):
    nothing = changed(good, depth_m=np.full(len(good), np.nan))
    with pytest.raises(ValueError, match="usable"):
        clean(nothing)


def test_a_lake_on_the_date_line_stays_whole():
    plane = Plane(32660)
    x, y, d = lines_over(bowl)
    east, _ = plane.to_xy(44.2, 179.995)
    latitude, longitude = plane.to_latlon(x - EAST + float(east), y)
    assert longitude.min() < -179 < 179 < longitude.max()
    s = Soundings(latitude=latitude, longitude=longitude, depth_m=d, water_level_m=0 * d, time=0 * d)
    cleaned = clean(s)
    assert cleaned.kept.mean() > 0.99
    assert np.ptp(cleaned.x[cleaned.kept]) < 1000


def test_files_join_in_order(good):
    both = joined([good, good])
    assert len(both) == 2 * len(good)
    assert both.depth_m[len(good)] == good.depth_m[0]
    assert len(joined([])) == 0


def test_raggedness_is_small_on_a_slope_and_large_in_weed():
    slope = np.linspace(2.0, 30.0, 300)
    assert raggedness(slope).max() < 1e-6
    rng = np.random.default_rng(1)
    assert np.median(raggedness(slope + rng.choice([0.0, -1.5], 300))) > 0.5


@given(st.floats(-79.0, 83.0), st.floats(-180.0, 179.99), st.floats(-3.0, 3.0))
def test_the_plane_agrees_with_the_standard_library(latitude, longitude, off):
    epsg = utm_epsg(Position(latitude, longitude))
    plane = Plane(epsg)
    shifted = (longitude + off + 180.0) % 360.0 - 180.0
    x, y = plane.to_xy(latitude, shifted)
    wx, wy = Transformer.from_crs(4326, epsg, always_xy=True).transform(shifted, latitude)
    assert float(x) == pytest.approx(wx, abs=1e-3)
    assert float(y) == pytest.approx(wy, abs=1e-3)
    back = plane.to_latlon(x, y)
    assert float(back[0]) == pytest.approx(latitude, abs=1e-8)
    assert abs((float(back[1]) - shifted + 180.0) % 360.0 - 180.0) < 1e-8


def test_only_utm_zones_are_planes():
    with pytest.raises(ValueError, match="no UTM"):
        Plane(3857)
