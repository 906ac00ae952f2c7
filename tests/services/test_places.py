"""Places ranked from a chart and a column: what wind, level, ice and season change, on a made-up pond."""

import math
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core.chart.build import build_chart
from plumbbob.core.water.guess import Freezes, Lake, guess_column
from plumbbob.core.water.habits import Season
from plumbbob.formats.habits import habits_of, known_habits
from plumbbob.formats.species import known_species
from plumbbob.services.places import PlacesAsked, places_for, roaming_places, who_of
from plumbbob.sim.other_waters import TERN, tern_depth, tern_survey

SPECIES = {s.key: s for s in known_species()}


@pytest.fixture(scope="module")
def pond():
    return build_chart([tern_survey(11)])


def asked(key, day, **more):
    column = guess_column(Lake(latitude=49.0, area_m2=2.2e5, deepest_m=12.0, freezes=Freezes.MOST), day).profile
    usual = {"species": SPECIES[key], "habits": habits_of(key), "profile": column, "day_of_year": float(day)}
    return PlacesAsked(**{**usual, "latitude": 49.0, **more})


def true_depth(chart, place):
    """Of the pond as it was made, where a place is marked."""
    x, y = chart.plane.to_xy(TERN.latitude, TERN.longitude)
    return float(tern_depth(place.x - x, place.y - y))


@pytest.mark.parametrize("key", sorted(known_habits()))
def test_every_species_has_a_likely_depth_and_places_best_first(pond, key):
    found = places_for(pond, asked(key, 200))
    scores = [s.score for s in found.spots]
    assert scores == sorted(scores, reverse=True)
    assert all(0.0 <= s <= 1.0 for s in scores)
    top, base = found.window
    assert 0.0 <= top < base <= pond.deepest_m + 0.5
    for spot in found.spots:
        assert all(math.isfinite(r.score) and 0 <= r.score <= 1 for r in spot.reasons)
        assert true_depth(pond, spot.feature) > 0.0


def test_wind_says_which_shore(pond):
    terms = [{r.term for r in places_for(pond, asked("yep", 200, wind_mps=w)).spots[0].reasons} for w in (0.0, 8.0)]
    assert terms[0] < terms[1]
    added = terms[1] - terms[0]

    def blown(from_deg):
        """Mean east of places, as the wind's own terms would have it."""
        spots = places_for(pond, asked("yep", 200, wind_mps=8.0, wind_from_deg=from_deg)).spots
        weigh = [sum(r.score for r in s.reasons if r.term in added) for s in spots]
        return np.average([s.feature.x for s in spots], weights=np.asarray(weigh) + 1e-9)

    assert blown(270.0) > blown(90.0)  # a west wind blows on the east shore


def test_a_falling_level_takes_the_fish_down_the_slope(pond):
    full = places_for(pond, asked("wal", 200))
    low = places_for(pond, replace(asked("wal", 200), level_m=-3.0))
    assert low.window[1] <= full.window[1] + 0.5
    assert low.who.prior is not None
    assert low.who.prior.band()[1] <= pond.deepest_m - 3.0 + 0.5


def test_only_species_that_roam_get_open_water(pond):
    for key in sorted(known_habits()):
        question = asked(key, 200)
        who = who_of(pond, question, math.nan)
        roams = who.habits.group.value.startswith("open") or "O" in who.habits.of(who.season)
        found = roaming_places(pond, who, pond.features, 0.0, None)
        assert roams or not found
        for place in found:
            assert true_depth(pond, place) > who.prior.band()[0] - 0.5


def test_ice_is_winter_for_all(pond):
    for key in sorted(known_habits()):
        assert who_of(pond, asked(key, 32, ice=True), math.nan).season is Season.WINTER


def test_the_same_question_has_the_same_answer(pond):
    first, second = (places_for(pond, asked("yep", 150, wind_mps=5.0)) for _ in range(2))
    assert [(s.score, s.feature.x) for s in first.spots] == [(s.score, s.feature.x) for s in second.spots]
