"""Veyra Lake as a whole, and a summer's soundings of it."""

import numpy as np
import pytest

from plumbbob.core.chart.soundings import Fault, clean
from plumbbob.core.geodesy import offset, separation
from plumbbob.sim.lake import LEVEL_M, MIDDLE, lake_depth, survey
from plumbbob.sim.veyra import NORTH_BASIN, basin_bottom


@pytest.fixture(scope="module")
def soundings():
    return survey(4)


def test_the_lake_agrees_with_the_pass_over_it():
    along = np.linspace(20, 480, 200)
    heading = np.radians(312.0)
    east, north = along * np.sin(heading), along * np.cos(heading)
    lat, lon = offset(NORTH_BASIN.latitude, NORTH_BASIN.longitude, east, north)
    x, y = separation(MIDDLE.latitude, MIDDLE.longitude, lat, lon)
    assert lake_depth(x, y) + LEVEL_M == pytest.approx(basin_bottom(along), abs=0.35)


def test_the_lake_is_long_and_has_shores():
    x, y = np.meshgrid(np.linspace(-2500, 2500, 200), np.linspace(-4000, 4000, 300))
    wet = lake_depth(x, y) > 0
    assert 6500 < np.ptp(y[wet]) < 7800
    assert not wet[:, 0].any()
    assert not wet[0].any()
    assert 20 < lake_depth(x, y).max() < 45


def test_the_survey_is_the_same_from_the_same_seed_and_not_from_another(soundings):
    again = survey(4)
    assert np.array_equal(again.depth_m, soundings.depth_m)
    assert not np.array_equal(survey(5).depth_m[:100], soundings.depth_m[:100])
    assert len(soundings) > 100_000


def test_the_survey_has_what_real_logs_have(soundings):
    cleaned = clean(soundings)
    counts = cleaned.counts()
    assert {Fault.NO_DEPTH, Fault.DOUBLE, Fault.WEED} <= set(counts)
    assert cleaned.kept.mean() > 0.98
    assert soundings.water_level_m.min() < -1.0
    kept = np.flatnonzero(cleaned.kept)[::50]
    x, y = separation(MIDDLE.latitude, MIDDLE.longitude, soundings.latitude[kept], soundings.longitude[kept])
    off = cleaned.depth_m[kept] - lake_depth(x, y)
    assert abs(np.median(off)) < 0.03
    assert np.median(np.abs(off)) < 0.12
