"""The water column: layer, tilt, fetch, light, sun, and whom it suits."""

import math
from datetime import UTC, datetime

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.geodesy import Position
from plumbbob.core.water.column import cold_layer, oxygen_saturation, schmidt_stability
from plumbbob.core.water.light import attenuation, depth_of_share, isolume_depth, light_share, surface_lux
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.sound import true_range
from plumbbob.core.water.species import Species, comfort, oxygen_suitability
from plumbbob.core.water.sun import lights_of, sun_elevation_deg
from plumbbob.core.water.wind import (
    LayerPlane,
    TiltState,
    WindCaution,
    fetch_field,
    layer_tilt,
    tilted_layer,
    wave_height_m,
    wind_caution,
)
from plumbbob.formats.species import known_species, species_named

VEYRA = Position(44.20, -40.05)
MORNING = 1786785000.0


def step(middle=8.0, warm=21.0, cold=7.0, deep=20.0, wide=1.0):
    z = np.arange(0.0, deep + 0.25, 0.25)
    return Profile(depth_m=z, temperature_c=cold + (warm - cold) / (1 + np.exp((z - middle) / wide)))


@given(st.floats(3.0, 15.0), st.floats(12.0, 27.0), st.floats(4.5, 8.0), st.floats(0.4, 1.2))
def test_the_cold_layer_lies_about_the_steepest_drop(middle, warm, cold, wide):
    layer = cold_layer(step(middle, warm, cold, wide=wide))
    assert layer.top_m <= layer.middle_m <= layer.base_m
    # water expands more when warm: the density's steepest drop lies a little above the temperature's
    assert layer.middle_m == pytest.approx(middle, abs=1.5 * wide + 0.2)


def test_mixed_water_has_no_layer():
    z = np.linspace(0, 15, 16)
    assert cold_layer(Profile(depth_m=z, temperature_c=12.0 + 0.02 * z)) is None
    assert cold_layer(Profile(depth_m=z, temperature_c=np.full(16, 9.0))) is None


def test_stability_needs_layers_and_grows_with_them():
    box = ([0.0, 20.0], [1e6, 1e6])
    flat = Profile(depth_m=np.array([0.0, 20.0]), temperature_c=np.array([10.0, 10.0]))
    assert schmidt_stability(flat, *box) == pytest.approx(0.0, abs=1e-6)
    weak, strong = step(warm=14.0), step(warm=24.0)
    assert 0 < schmidt_stability(weak, *box) < schmidt_stability(strong, *box)


def test_oxygen_falls_with_warmth_height_and_salt():
    warm = oxygen_saturation(np.arange(0.0, 31.0))
    assert (np.diff(warm) < 0).all()
    assert oxygen_saturation(10.0, 0.0, 1500.0) < oxygen_saturation(10.0)
    assert oxygen_saturation(10.0, 35.0) < oxygen_saturation(10.0)


# -- wind -------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("wind_from", "row", "column", "fetch"),
    [(270.0, 20, 25, 255.0), (90.0, 20, 25, 155.0), (0.0, 20, 25, 105.0), (180.0, 10, 5, 105.0)],
)
def test_fetch_over_an_open_box_is_the_way_to_its_upwind_side(wind_from, row, column, fetch):
    water = np.zeros((40, 50), bool)
    water[1:31, 0:41] = True
    found = fetch_field(water, 10.0, wind_from)
    assert found[row, column] == pytest.approx(fetch, abs=12.0)
    assert found[35, 5] == 0.0


def test_an_isle_shelters_what_lies_behind_it():
    water = np.ones((41, 81), bool)
    water[18:23, 38:42] = False
    found = fetch_field(water, 10.0, 270.0)
    assert found[20, 45] < 80.0
    assert found[5, 45] > 400.0


@given(st.floats(0, 359), st.floats(0.0, 5.0))
def test_a_tilted_layer_is_deep_downwind_and_as_tilted_as_said(wind_from, tilt):
    x, y = np.meshgrid(np.linspace(0, 3000, 31), np.linspace(0, 1000, 11))
    plane = tilted_layer(12.0, tilt, x, y, wind_from)
    depth = plane.at(x, y)
    assert np.ptp(depth) == pytest.approx(tilt, abs=1e-6)
    to = math.radians(wind_from + 180.0)
    along = x * math.sin(to) + y * math.cos(to)
    if tilt > 0.1:
        assert depth.flat[along.argmax()] > depth.flat[along.argmin()]
    assert LayerPlane(middle_m=4.0).at(1e6, -3.0) == 4.0


def test_stronger_wind_tilts_more_and_says_when_it_no_longer_holds():
    profile = step()
    layer = cold_layer(profile)
    tilts = [layer_tilt(profile, layer, w, 6000.0, 20.0) for w in (2.0, 5.0, 7.0, 25.0)]
    sizes = [t.end_to_end_m for t in tilts]
    assert sizes[:-1] == sorted(sizes[:-1])
    assert [t.state for t in tilts[:: len(tilts) - 1]] == [TiltState.HARDLY, TiltState.SURFACING]
    assert all(t.end_to_end_m <= 2 * layer.middle_m for t in tilts[:-1])
    assert tilts[1].wedderburn == pytest.approx(layer.middle_m / tilts[1].end_to_end_m)


def test_waves_grow_with_wind_and_fetch_and_cautions_come_with_them():
    assert wave_height_m(0.0, 5000.0) == 0.0
    assert wave_height_m(5.0, 1000.0) < wave_height_m(5.0, 8000.0) < wave_height_m(9.0, 8000.0)
    assert wind_caution(3.0) is None
    assert wind_caution(8.0) is WindCaution.MIND
    assert wind_caution(12.0) is wind_caution(8.0, kayak=True) is WindCaution.ASHORE


# -- light and sun ----------------------------------------------------------------------------------------------


@given(st.floats(0.3, 20.0), st.floats(0.001, 0.99))
def test_light_by_depth_and_depth_by_light_are_inverse(secchi, share):
    depth = depth_of_share(share, secchi)
    assert float(light_share(depth, secchi)) == pytest.approx(share)
    assert attenuation(secchi) * depth == pytest.approx(-math.log(share))


def test_a_light_that_fish_follow_rises_at_dusk():
    noon, dusk, night = (isolume_depth(0.1, sun, 3.0) for sun in (50.0, 0.0, -14.0))
    assert noon > dusk > night == 0.0
    assert dusk == pytest.approx(math.log(5000.0) / 0.5667, rel=0.02)
    assert surface_lux(60.0) > 50_000


def test_sun_and_moon_of_the_local_day():
    lights = lights_of(VEYRA, MORNING, -3.0)
    start = datetime(2026, 8, 15, 3, tzinfo=UTC).timestamp()
    order = [lights.first_light, lights.sunrise, lights.noon, lights.sunset, lights.last_light]
    assert order == sorted(order)
    assert all(start <= t < start + 86400 for t in order)
    assert sun_elevation_deg(VEYRA, lights.noon) == pytest.approx(90 - 44.2 + 14.0, abs=1.0)
    assert abs(sun_elevation_deg(VEYRA, lights.sunrise)) < 1.5
    assert sun_elevation_deg(VEYRA, lights.first_light) == pytest.approx(-6.0, abs=0.5)
    assert 0.0 <= lights.moon < 1.0


def test_the_same_day_is_meant_at_any_hour_and_in_any_zone():
    early, late = (lights_of(VEYRA, MORNING + h * 3600, -3.0).sunrise for h in (-5, 16))
    assert early == late
    east = lights_of(Position(-36.0, 174.0), MORNING, 12.0)
    assert east.sunrise < east.sunset


def test_days_as_long_as_nights_at_the_equinox_and_none_in_the_polar_night():
    equinox = datetime(2026, 3, 20, 12, tzinfo=UTC).timestamp()
    lights = lights_of(Position(40.0, 0.0), equinox, 0.0)
    assert (lights.sunset - lights.sunrise) / 3600 == pytest.approx(12.1, abs=0.15)
    dark = lights_of(Position(78.0, 15.0), datetime(2026, 12, 21, 12, tzinfo=UTC).timestamp(), 1.0)
    assert dark.sunrise is None
    assert dark.sunset is None


# -- species ----------------------------------------------------------------------------------------------------


def test_every_species_of_the_table_makes_sense():
    table = known_species()
    assert len(table) > 50
    assert len({s.key for s in table}) == len(table)
    for s in table:
        assert s.warm_low_c < s.warm_high_c < s.avoid_c
        assert 1.0 <= s.oxygen_mgl <= 6.0
        assert set(s.light) <= set("DCN")
        assert s.bladder in ("PS", "PC", "0")
    assert species_named("kokanee").warm_high_c == 14.0
    assert species_named("nothing") is None


def test_cold_water_fish_sit_at_the_layer_and_warm_ones_over_it():
    column = step()
    cold, warm = species_named("kokanee"), species_named("yellow perch")
    a, b = comfort(cold, column, 20.0), comfort(warm, column, 20.0)
    assert a.band[0] > b.band[0]
    assert 7.0 < sum(a.band) / 2 < 12.0
    assert b.band[0] == 0.0


def test_lack_of_oxygen_rules_the_deep_out():
    column = step()
    oxygen = np.where(column.depth_m < 11.0, 8.0, 0.5)
    poor = Profile(depth_m=column.depth_m, temperature_c=column.temperature_c, oxygen_mgl=oxygen)
    found = comfort(species_named("kokanee"), poor, 20.0)
    assert found.limit_m == pytest.approx(11.0, abs=0.6)
    assert found.band[1] < 11.5
    fish = Species(key="x", name="x", warm_low_c=10, warm_high_c=14, avoid_c=18, oxygen_mgl=4.0)
    assert oxygen_suitability(fish, np.array([2.0, 3.0, 4.0, np.nan])).tolist() == [0.0, 0.5, 1.0, 1.0]


def test_nowhere_comfortable_is_said_and_never_impossible():
    hot = Profile(depth_m=np.array([0.0, 5.0, 10.0]), temperature_c=np.array([29.0, 28.5, 28.0]))
    found = comfort(species_named("lake trout"), hot, 10.0)
    assert found.band is None
    assert (found.suitability > 0).all()


def test_fish_of_the_dark_leave_bright_water_by_day():
    column = step()
    bright, dim = (comfort(species_named("burbot"), column, 20.0, s).suitability for s in (15.0, 0.5))
    assert bright[36] <= dim[36]


@given(st.lists(st.floats(0.1, 5.0), min_size=2, max_size=20), st.data())
def test_profiles_read_between_their_levels(steps, data):
    depth = np.cumsum(steps)
    warm = np.array(data.draw(st.lists(st.floats(0, 30), min_size=len(depth), max_size=len(depth))))
    profile = Profile(depth_m=depth, temperature_c=warm)
    assert warm.min() - 1e-9 <= profile.at(float(depth.mean())) <= warm.max() + 1e-9
    assert math.isnan(profile.at(float(depth[-1]) + 1.0))
    assert np.isnan(profile.oxygen_at(depth)).all()
    with pytest.raises(ValueError, match="same depths"):
        Profile(depth_m=depth, temperature_c=warm, oxygen_mgl=np.zeros(len(depth) + 1))


def test_light_with_another_factor_and_a_true_range_through_layers():
    assert attenuation(3.0, 2.3) == pytest.approx(2.3 / 3.0)
    assert float(light_share(3.0, 3.0, 1.3)) == pytest.approx(math.exp(-1.3))
    assert depth_of_share(0.1, 3.0, 2.3) < depth_of_share(0.1, 3.0) < depth_of_share(0.1, 3.0, 1.3)
    assert isolume_depth(0.1, 0.0, 3.0, 2.3) < isolume_depth(0.1, 0.0, 3.0)
    even = true_range(np.array([0.0, 10.0, 25.0]), 1500.0, [0.0, 50.0], [1450.0, 1450.0])
    assert even == pytest.approx([0.0, 9.6667, 24.1667], abs=1e-3)


def test_nautical_twilight_and_the_polar_day_and_night():
    lights = lights_of(VEYRA, MORNING, -3.0)
    assert lights.nautical_dawn < lights.first_light < lights.sunrise
    assert lights.sunset < lights.last_light < lights.nautical_dusk
    assert sun_elevation_deg(VEYRA, lights.nautical_dawn) == pytest.approx(-12.0, abs=0.3)
    assert lights.polar == ""
    summer, winter = (datetime(2026, m, 21, tzinfo=UTC).timestamp() for m in (6, 12))
    assert [lights_of(Position(72.0, 10.0), t, 1.0).polar for t in (summer, winter)] == ["day", "night"]
