"""A column that is guessed, what is called a cold layer, and comfort relative to what the column offers."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.groups import likely_species
from plumbbob.core.water.column import Layer, Layering, cold_layer, layering
from plumbbob.core.water.guess import Climate, Freezes, Lake, NoGuess, State, guess_column
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import comfort, relative_suitability
from plumbbob.core.water.wind import TiltState, layer_tilt
from plumbbob.formats.species import known_species

SPECIES = {s.key: s for s in known_species()}


def lake(latitude, altitude, area_km2, deepest, secchi, freezes=None, **more):
    return Lake(
        latitude=latitude,
        altitude_m=altitude,
        area_m2=area_km2 * 1e6,
        deepest_m=deepest,
        secchi_m=secchi,
        freezes=freezes,
        **more,
    )


A = lake(45, 250, 4, 18, 4, Freezes.MOST)
B = lake(-12, 470, 60, 60, 6)
C = lake(33, 150, 30, 25, 1.5)
D = lake(46.5, 2000, 0.3, 25, 8)
E = lake(49.1, 180, 0.01, 2.5, 1)
F = lake(61, 100, 8, 20, 3)
G = lake(54, 40, 10, 40, 5, Freezes.NEVER)
HIGH = lake(-16, 3800, 100, 60, 5)
J = lake(28, 20, 50, 4, 0.6)


@pytest.mark.parametrize(
    ("water", "day", "state", "surface", "below", "layer"),
    [
        (A, 205, State.LAYERED, 22.7, {5: 17.8, 10: 7.4, 18: 6.1}, 5.65),
        (A, 135, State.LAYERED, 10.6, {5: 7.3, 18: 5.9}, 3.4),
        (A, 280, State.LAYERED, 14.8, {10: 8.2, 18: 6.2}, None),
        (A, 310, State.MIXED, 8.0, {18: 8.0}, None),
        (A, 30, State.ICE, 0.0, {1: 1.9, 3: 3.5, 5: 3.9, 18: 4.0}, None),
        (B, 40, State.LAYERED, 28.0, {15: 26.5, 20: 24.7, 60: 24.1}, None),
        (B, 200, State.MIXED, 23.1, {60: 23.1}, None),
        (C, 215, State.LAYERED, 27.9, {5: 26.0, 10: 14.9, 25: 11.7}, 7.3),
        (C, 30, State.MIXED, 8.7, {25: 8.7}, None),
        (D, 215, State.LAYERED, 14.0, {5: 13.0, 8: 9.2, 25: 4.5}, None),
        (E, 200, State.OFTEN, 21.1, {2.5: 20.8}, None),
        (lake(49.1, 180, 0.01, 5, 1), 200, State.LAYERED, 21.1, {3: 11.8, 5: 8.5}, None),
        (F, 60, State.ICE, 0.0, {1: 1.9, 3: 3.5, 20: 4.0}, None),
        (F, 215, State.LAYERED, 17.0, {5: 16.3, 10: 9.9, 20: 5.8}, None),
        (G, 205, State.LAYERED, 19.6, {10: 11.2, 40: 7.0}, None),
        (G, 45, State.MIXED, 5.1, {40: 5.1}, None),
        (HIGH, 40, State.LAYERED, 16.5, {20: 13.6, 40: 11.0}, None),
        (J, 200, State.OFTEN, 29.1, {4: 28.5}, None),
    ],
)
def test_the_handbooks_waters_come_out(water, day, state, surface, below, layer):
    guess = guess_column(water, day)
    assert guess.state is state
    assert guess.surface_c == pytest.approx(surface, abs=0.11)
    assert guess.profile.estimated
    for depth, warm in below.items():
        assert guess.profile.at(depth) == pytest.approx(warm, abs=0.15)
    if layer is not None:
        assert guess.layer_m == pytest.approx(layer, abs=0.06)


@given(
    st.floats(-69, 69),
    st.floats(0, 3900),
    st.floats(0.001, 500),
    st.floats(0.6, 12_000),
    st.floats(0.2, 15),
    st.sampled_from([None, *Freezes]),
    st.sampled_from(list(Climate)),
    st.floats(1, 366),
)
def test_no_water_on_earth_gets_an_absurd_column(lat, high, area, deep, secchi, freezes, climate, day):
    guess = guess_column(lake(lat, high, area, deep, secchi, freezes, climate=climate), day)
    assert -0.5 <= guess.surface_c <= 33.0
    if guess.profile is None:
        assert guess.code is NoGuess.UNKNOWN_FREEZE
        return
    t = guess.profile.temperature_c
    assert t.size <= 1002
    assert np.isfinite(t).all()
    assert ((t >= -0.5) & (t <= 33.0)).all()
    if guess.state is not State.ICE:
        assert (np.diff(t) <= 1e-9).all()
        # only a water that freezes is near four degrees at the bottom
        assert t[-1] > 3.9 or t[0] < 4.5


@pytest.mark.parametrize(
    ("water", "code"),
    [
        (lake(45, 0, 1, math.nan, 3), NoGuess.UNKNOWN_DEPTH),
        (lake(42, 0, 1, 10, 3), NoGuess.UNKNOWN_FREEZE),
        (lake(10, 4200, 1, 10, 3), NoGuess.HIGH),
        (lake(45, 0, 1, 10, 3, Freezes.MOST, hindrances=frozenset({NoGuess.SALT})), NoGuess.SALT),
    ],
)
def test_what_can_not_be_guessed_has_no_column_and_a_reason(water, code):
    guess = guess_column(water, 200)
    assert guess.profile is None
    assert guess.code is code
    assert guess.surface_sd_c == 2.5


def test_near_a_turnover_both_states_are_given_and_the_surface_read_settles_it():
    guess = guess_column(A, 310)
    assert guess.code is NoGuess.TURNING
    assert guess.state is State.MIXED
    assert np.ptp(guess.other.temperature_c) > 1.0 > np.ptp(guess.profile.temperature_c)
    assert guess_column(A, 205).code is None
    read = guess_column(A, 205, surface_c=25.5)
    assert read.profile.temperature_c[0] == pytest.approx(25.4, abs=0.6)
    assert read.code is None


# -- what is called a cold layer --------------------------------------------------------------------------------


def column(*pairs, **more):
    z, t = np.array(pairs, float).T
    return Profile(depth_m=z, temperature_c=t, **more)


@pytest.mark.parametrize(
    ("profile", "what"),
    [
        (column((0, 0.1), (0.5, 1.2), (1, 2.0), (3, 3.5), (8, 4.0)), Layering.INVERSE),
        (column((0, 14.0), (30, 12.0)), Layering.WEAK),
        (column((0, 6.0), (10, 5.4), (20, 5.2)), Layering.MIXED),
        (column((0, 25.0), (0.5, 24.5), (1.0, 22.0), (2, 21.8), (12, 21.5)), Layering.SKIN),
        (column((0, 8.0), (20, 5.0)), Layering.WEAK),
    ],
)
def test_what_is_no_cold_layer_is_called_what_it_is(profile, what):
    assert layering(profile) == (what, None)


def test_under_a_skin_the_lasting_layer_is_found():
    profile = column((0, 27), (0.5, 26), (1, 23), (2, 22.6), (6, 22.4), (8, 15), (10, 9), (16, 7))
    what, layer = layering(profile)
    assert what is Layering.LAYERED
    assert 6.0 < layer.middle_m < 10.0


def test_in_very_warm_water_the_layer_does_not_begin_at_the_surface():
    z = np.arange(0.0, 20.1, 0.5)
    warm = 30.0 - 0.35 * z - 6.0 / (1 + np.exp(-(z - 9.0) / 0.6))
    layer = cold_layer(Profile(depth_m=z, temperature_c=warm))
    assert 6.0 < layer.top_m < layer.middle_m < layer.base_m < 13.0


def test_a_guess_must_show_more_than_a_cast_and_nothing_near_a_turnover():
    z = np.arange(0.0, 15.1, 0.5)
    weak = 12.0 - 2.6 / (1 + np.exp(-(z - 6.0) / 0.5))
    assert cold_layer(Profile(depth_m=z, temperature_c=weak)) is not None
    assert cold_layer(Profile(depth_m=z, temperature_c=weak, estimated=True)) is None
    strong = 20.0 - 10.0 / (1 + np.exp(-(z - 6.0) / 0.5))
    assert cold_layer(Profile(depth_m=z, temperature_c=strong, estimated=True)) is not None
    assert cold_layer(Profile(depth_m=z, temperature_c=strong, estimated=True, doubtful=True)) is None


def test_where_the_wind_breaks_the_layer_up_no_figure_is_given():
    z = np.linspace(0, 20, 201)
    box = Profile(depth_m=z, temperature_c=np.where(z < 8, 22.0, 8.0))
    storm = layer_tilt(box, Layer(8.0, 8.0, 8.0), 25.0, 9000.0, 20.0)
    assert storm.wedderburn < 1.0
    assert math.isnan(storm.end_to_end_m)
    assert storm.state is TiltState.SURFACING


# -- whom it suits ----------------------------------------------------------------------------------------------


def air(*values):
    return np.array(values, float)


def test_suitability_is_relative_to_what_the_column_offers():
    none = np.full(4, np.nan)
    warm = air(22.5, 17.8, 9.4, 6.3)
    assert relative_suitability(SPECIES["lmb"], warm, none).round(2).tolist() == [1.0, 0.4, 0.17, 0.17]
    assert relative_suitability(SPECIES["lkt"], warm, none).round(2).tolist() == [0.14, 0.14, 1.0, 0.82]
    hot = air(28, 26, 19.2, 12.3)
    assert relative_suitability(SPECIES["wal"], hot, none).round(2).tolist() == [0.14, 0.14, 1.0, 0.39]


@given(st.lists(st.floats(0, 32), min_size=2, max_size=12), st.sampled_from(list(SPECIES)))
def test_somewhere_in_every_column_is_the_best(temperatures, key):
    warm = np.array(sorted(temperatures, reverse=True))
    found = relative_suitability(SPECIES[key], warm, np.full(warm.size, np.nan))
    assert found.max() == pytest.approx(1.0)
    assert (found > 0).all()


def test_cold_water_is_not_full_of_trout():
    cold = column((0, 4.0), (5, 4.2), (20, 4.5))
    wanted = [SPECIES[k] for k in ("wal", "lkt", "lmb")]
    ranked = likely_species("strung", 18.0, wanted, cold)
    without = likely_species("strung", 18.0, wanted, None)
    assert [r.species.key for r in ranked] == [r.species.key for r in without]
    assert max(abs(a.chance - b.chance) for a, b in zip(ranked, without, strict=True)) < 0.05


def test_below_the_last_oxygen_reading_water_is_not_full_of_it():
    profile = column((0, 24), (3, 23), (6, 17), (9, 12), (12, 10), oxygen_mgl=air(8, 7, 0.5, np.nan, np.nan))
    found = comfort(SPECIES["wal"], profile, 12.0)
    assert found.band[1] < 6.0
    assert found.oxygen_to_m == 6.0
    assert found.limit_m <= 6.0
    assert found.depth_m[-1] == 12.0
    feet = column((0, 24), (3.048, 23), (6.096, 17), (9.144, 12), (12.192, 10), oxygen_mgl=profile.oxygen_mgl)
    assert comfort(SPECIES["wal"], feet, 12.0).band == pytest.approx(found.band, abs=0.3)


def test_in_water_far_from_what_it_likes_a_species_is_slow_and_still_somewhere():
    found = comfort(SPECIES["lmb"], column((0, 4.0), (6, 4.5)), 6.0)
    assert found.band == (0.0, 6.0)
    assert found.activity == pytest.approx(0.1, abs=0.02)
