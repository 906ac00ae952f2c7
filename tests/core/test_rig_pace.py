"""Pace and stand-off: the handbook's tables, and order in what should be in order."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.rig import pace, stand_off
from plumbbob.core.water.species import Species

CHAR = Species(key="acr", name="char", warm_low_c=7, warm_high_c=12, avoid_c=16, oxygen_mgl=5, light="D")
BASS = Species(key="smb", name="bass", warm_low_c=20, warm_high_c=27, avoid_c=31, oxygen_mgl=3, light="DC")


@pytest.mark.parametrize(
    ("warm", "wound", "rest"), [(3, (0.3, 0.6), (5, 20)), (10, (0.6, 1.1), (2, 6)), (20, (0.9, 1.8), (1, 3))]
)
def test_cadence_is_that_of_the_table(warm, wound, rest):
    found = pace.cadence(warm, BASS)
    assert found.wound_mps == pytest.approx(wound)
    assert found.rest_s == rest


@given(st.floats(-2.0, 42.0), st.floats(-2.0, 42.0))
def test_warmer_is_never_slower_until_it_is_hot(a, b):
    cold, warm = sorted((a, b))
    if warm < 24.0:
        assert pace.cadence(cold).wound_mps[1] <= pace.cadence(warm).wound_mps[1]
        assert pace.cadence(cold).rest_s[1] >= pace.cadence(warm).rest_s[1]


@given(st.floats(-2.0, 42.0), st.booleans(), st.booleans(), st.floats(0.2, 12.0))
def test_bands_stay_in_order(warm, night, front, secchi):
    hour = pace.Hour(secchi_m=secchi, night=night, cold_front=front)
    found = pace.cadence(warm, CHAR, hour)
    for band in (found.wound_mps, found.lifts_min, found.lift_m, found.rest_s, found.drag_mps, found.plug_pause_s):
        assert 0 <= band[0] <= band[1]
    low, high = pace.held_to(found, (0.5, 0.9)).wound_mps
    assert 0.5 <= low <= high <= 0.9


def test_cold_water_fish_are_quick_where_it_is_cold():
    assert pace.cadence(6.0, CHAR).wound_mps[1] > pace.cadence(6.0, BASS).wound_mps[1]
    assert pace.cadence(30.0, BASS, pace.Hour(noon=True)).wound_mps[1] < pace.cadence(30.0, BASS).wound_mps[1]
    with pytest.raises(ValueError, match="degC"):
        pace.cadence(80.0)


def test_followers_and_the_rising_band():
    assert pace.answer_follower(3.0).faster[1] < pace.answer_follower(12.0).faster[1]
    assert pace.answer_follower(20.0).faster[1] > pace.answer_follower(20.0, by_sight=False).faster[1]
    assert pace.rising_band(25.0, "U") == 2.0
    assert pace.raise_speed("lkt")[1] > pace.raise_speed("yep")[1]
    assert pace.minutes_a_hole("pik")[0] == 30.0
    beat = pace.beat_of(0.5, 0.5, 2.0, tight=2.0)
    assert beat.period_s == pytest.approx(0.5 + 2.0 + 2.0)
    for wrong in (lambda: pace.beat_of(0.5, 0.0, 1.0), lambda: pace.turns_a_second(1.0, 0.0)):
        with pytest.raises(ValueError, match=r"speeds|line"):
            wrong()


@given(
    fish=st.floats(0.3, 15.0),
    secchi=st.floats(0.3, 12.0),
    height=st.floats(0.8, 3.0),
    noise=st.sampled_from(list(stand_off.Noise)),
    surface=st.sampled_from(list(stand_off.Surface)),
)
def test_a_stand_off_is_far_enough_and_in_reach(fish, secchi, height, noise, surface):
    found = stand_off.stand_off(
        fish, 20.0, secchi, height_m=height, surface=surface, noise=noise, cast_m=30.0, night=False
    )
    assert 3.0 <= found.distance_m <= 25.5
    assert found.distance_m >= min(found.heard_m, 25.5) - 1e-9
    dark = stand_off.stand_off(
        fish, 20.0, secchi, height_m=height, surface=surface, noise=noise, night=True, cast_m=30.0
    )
    assert dark.distance_m <= found.distance_m + 1e-9


def test_stand_offs_of_the_table():
    assert stand_off.seen_through_surface(2.0, 1.2, 4.0) == pytest.approx(9.0, abs=0.1)
    assert stand_off.seen_through_surface(3.0, 1.2, 4.0) == 0.0
    assert stand_off.heard_m(stand_off.Noise.PETROL, 10.0) < stand_off.heard_m(stand_off.Noise.PETROL, 4.0)
    deep = stand_off.stand_off(12.0, 15.0, 3.0)
    assert deep.over_it
    assert not stand_off.stand_off(2.0, 3.0, 6.0).over_it
    assert math.isinf(stand_off.stand_off(2.0, 3.0, 6.0, sun_deg=0.0).shadow_m)
    with pytest.raises(ValueError, match="bottom"):
        stand_off.stand_off(5.0, 3.0, 2.0)
    for wrong in (lambda: stand_off.wind_force("raft", 3.0), lambda: stand_off.lane_spacing(3.0, 1.0, 0.0)):
        with pytest.raises(ValueError, match=r"hull|coverage"):
            wrong()


@given(st.floats(0.0005, 0.1), st.floats(0.0005, 0.1))
def test_heavier_lures_are_cast_farther(a, b):
    light, heavy = sorted((a, b))
    assert stand_off.cast_reach(light)[0] <= stand_off.cast_reach(heavy)[0] + 1e-9
    assert stand_off.cast_reach(heavy, held_back=True)[1] < stand_off.cast_reach(heavy)[1]
