"""The battery as the kernel tells it."""

import math

import pytest

from plumbbob.services.battery import seconds_left


def a_battery(folder, name="BAT0", **values):
    (folder / name).mkdir()
    for key, value in values.items():
        (folder / name / key).write_text(f"{value}\n")


def test_time_left_is_what_is_held_over_what_is_taken(tmp_path):
    assert math.isnan(seconds_left(tmp_path))
    a_battery(tmp_path, status="Discharging", energy_now=20_000_000, power_now=10_000_000)
    assert seconds_left(tmp_path) == pytest.approx(7200.0)
    a_battery(tmp_path, "BAT1", status="Discharging", charge_now=3_000_000, current_now=1_000_000)
    assert seconds_left(tmp_path) == pytest.approx(10_800.0)


@pytest.mark.parametrize(
    "values",
    [
        {"status": "Charging", "energy_now": 1, "power_now": 1},
        {"status": "Discharging", "energy_now": "?", "power_now": 1},
        {"status": "Discharging", "energy_now": 5, "power_now": 0},
        {},
    ],
)
def test_what_is_untold_is_not_guessed(tmp_path, values):
    a_battery(tmp_path, **values)
    assert math.isnan(seconds_left(tmp_path))
