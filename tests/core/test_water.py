"""Sound, density, the thermocline."""

import numpy as np
import pytest

from plumbbob.core.water.profile import Profile, thermocline_m
from plumbbob.core.water.sound import fresh_sound_speed, sea_sound_speed


@pytest.mark.parametrize(("warm", "speed"), [(4, 1421.6331), (10, 1447.29), (20, 1482.38)])
def test_fresh_sound_speed(warm, speed):
    assert float(fresh_sound_speed(warm)) == pytest.approx(speed, abs=0.01)


def test_sea_sound_speed():
    assert float(sea_sound_speed(18.0, 35.0, 40.0)) == pytest.approx(1516.45, abs=1.0)


def test_mixed_water_has_no_thermocline():
    z = np.arange(0.0, 13.0)
    assert thermocline_m(Profile(depth_m=z, temperature_c=11.4 - 0.02 * z)) is None


@pytest.mark.parametrize("depth", [5.0, 8.0, 11.0])
def test_a_step_is_found_where_it_is(depth):
    z = np.arange(0.0, 20.0, 0.5)
    t = 14 - 6 * np.tanh((z - depth) / 1.2)
    assert thermocline_m(Profile(depth_m=z, temperature_c=t)) == pytest.approx(depth, abs=0.6)


def test_a_profile_must_go_down():
    with pytest.raises(ValueError, match="go down"):
        Profile(depth_m=np.array([0.0, 2.0, 1.0]), temperature_c=np.array([20.0, 15.0, 17.0]))
