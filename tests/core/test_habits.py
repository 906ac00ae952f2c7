"""Seasons, likely depths and places by species: the handbook's checks, and what an old hand would insist on."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart import suits
from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.rank import DayFacts, rank
from plumbbob.core.chart.terms import DEFAULT_WEIGHTS, Term
from plumbbob.core.plan.holes import Hole, IceSeason, View, coarse_search, ice_says, refine, spacing, walk_m
from plumbbob.core.water.guess import Freezes, Lake, guess_column
from plumbbob.core.water.habits import (
    Group,
    Season,
    Spawn,
    WaterYear,
    depth_prior,
    letter_weights,
    pace_of,
    season_of,
    sees_from,
    takes_from,
)
from plumbbob.core.water.profile import Profile
from plumbbob.formats.habits import habits_of, known_habits
from plumbbob.formats.species import known_species, species_named

KEYS = [s.key for s in known_species()]
SUMMER = guess_column(Lake(latitude=45.0, area_m2=4e6, deepest_m=30.0, freezes=Freezes.MOST), 215).profile
COLD = Profile(depth_m=np.array([0.0, 10.0, 30.0]), temperature_c=np.array([4.0, 4.2, 4.5]))


def a_species(key):
    return next(s for s in known_species() if s.key == key)


def a_place(kind, top, base, **changes):
    given_ = {"x": 0.0, "y": 0.0, "slope_max_deg": 8.0, "area_m2": 100.0, "deep_m": 30.0}
    return Feature(kind=kind, depth_top_m=top, depth_base_m=base, shape=np.zeros((1, 2)), **{**given_, **changes})


def a_day(key, season, prior=None, **changes):
    species = a_species(key)
    return suits.SpeciesDay(habits=habits_of(key), season=season, prior=prior, layer=species.layer, **changes)


def test_every_species_has_habits_and_nothing_else_has():
    assert set(known_habits()) == set(KEYS)
    for habits in known_habits().values():
        for season in Season:
            top, base = habits.depths(season)
            assert math.isnan(top) or 0 <= top < base
            assert set(habits.of(season)) <= set("BNECHO")
        assert 0 <= habits.low_feed_m <= 4


@given(st.text("BNECHO", min_size=0, max_size=3))
def test_habits_share_the_whole(letters):
    assert sum(letter_weights(letters).values()) == pytest.approx(1.0)


@given(key=st.sampled_from(KEYS), surface=st.floats(0.0, 32.0), warming=st.booleans(), ice=st.booleans())
def test_every_day_has_a_season(key, surface, warming, ice):
    season, spawn = season_of(habits_of(key), WaterYear(surface_c=surface, warming=warming, ice=ice))
    assert isinstance(season, Season)
    assert isinstance(spawn, Spawn)
    if ice:
        assert season is Season.WINTER


def test_seasons_go_by_water():
    walleye, trout, burbot = habits_of("wal"), habits_of("lkt"), habits_of("bur")
    assert season_of(walleye, WaterYear(surface_c=7.0, warming=True)) == (Season.SPRING, Spawn.SPAWNING)
    assert season_of(walleye, WaterYear(surface_c=7.0, warming=False, cooling_days=90.0))[1] is Spawn.NOT
    assert season_of(trout, WaterYear(surface_c=10.0, warming=False, cooling_days=80.0))[1] is Spawn.SPAWNING
    assert season_of(burbot, WaterYear(surface_c=0.0, warming=False, ice=True))[1] is Spawn.SPAWNING
    assert season_of(walleye, WaterYear(surface_c=20.0, warming=False, peak_c=22.0))[0] is Season.SUMMER
    assert season_of(walleye, WaterYear(surface_c=15.0, warming=False, peak_c=22.0))[0] is Season.AUTUMN
    assert (
        season_of(walleye, WaterYear(surface_c=9.0, warming=False, peak_c=22.0, turned_days=20.0))[0] is Season.WINTER
    )


@given(key=st.sampled_from(KEYS), season=st.sampled_from(list(Season)), deepest=st.floats(1.0, 60.0))
@settings(max_examples=60)
def test_nothing_is_ever_impossible(key, season, deepest):
    for bottom in (None, 0.7 * deepest):
        prior = depth_prior(a_species(key), habits_of(key), season, SUMMER, deepest, bottom_m=bottom, layer_m=6.0)
        assert prior.chance.sum() == pytest.approx(1.0)
        assert (prior.chance > 0).all()
        low, high = prior.band()
        assert 0 <= low <= high <= deepest + 0.3
        assert prior.share(0.0, deepest + 1.0) == pytest.approx(1.0)


def test_cold_water_does_not_turn_every_fish_into_a_trout():
    bass, trout = a_species("lmb"), a_species("lkt")
    assert pace_of(bass, COLD) == pytest.approx(0.1)
    flat = depth_prior(bass, habits_of("lmb"), Season.WINTER, COLD, 30.0)
    assert flat.middle() < 12.0  # habit speaks where temperature is silent
    assert pace_of(trout, COLD) > 0.4


def test_the_same_water_holds_three_species_at_three_depths():
    middles = {}
    for key in ("lmb", "kok", "bur"):
        prior = depth_prior(a_species(key), habits_of(key), Season.SUMMER, SUMMER, 30.0, layer_m=6.0)
        middles[key] = prior.middle()
    assert middles["lmb"] < middles["kok"] < middles["bur"]


def test_senses_reach_as_far_as_they_do():
    assert sees_from("S L", 4.0, night=True) < sees_from("S(dim) L", 4.0, night=True) < sees_from("S L", 4.0)
    over, under = takes_from("U", 2.0)
    assert over > under
    assert takes_from("D", 2.0) == (under, over)


PLACES = (
    a_place(suits.OPEN_WATER, 8.0, 18.0, deep_m=0.0, x=500.0),
    a_place("basin", 18.0, 30.0, deep_m=math.nan, x=1000.0),
    a_place("ledge", 3.0, 9.0, x=1500.0),
    a_place("flat", 1.0, 3.0, deep_m=200.0, x=2000.0),
)


@pytest.mark.parametrize(("key", "best"), [("kok", "open water"), ("bur", "basin"), ("wal", "ledge")])
def test_the_list_differs_by_species(key, best):
    prior = depth_prior(a_species(key), habits_of(key), Season.SUMMER, SUMMER, 30.0, layer_m=6.0)
    found = rank(PLACES, DayFacts(who=a_day(key, Season.SUMMER, prior)))
    assert found[0].feature.kind == best
    assert {r.term for r in found[0].reasons} >= {Term.DEPTH, Term.HABIT}


@given(key=st.sampled_from(KEYS), season=st.sampled_from(list(Season)))
def test_every_weight_has_a_switch(key, season):
    habits = habits_of(key)
    usual = suits.weights_for(habits, season, ">")
    assert set(usual) == set(Term)
    assert all(w >= 0 for w in usual.values())
    off = suits.weights_for(habits, season, ">", {**DEFAULT_WEIGHTS, Term.HABIT: 0.0})
    assert off[Term.HABIT] == 0.0
    assert suits.weights_for(habits, season, "-")[Term.LAYER] < 0.2


def test_spawning_ground_counts_only_when_it_is_time():
    ground = np.array([[1500.0, 100.0]])
    spawning = a_day("wal", Season.SPRING, spawn=Spawn.SPAWNING, spawn_ground=ground)
    terms = {f.feature.kind: {r.term: r for r in f.reasons} for f in rank(PLACES, DayFacts(who=spawning))}
    assert terms["ledge"][Term.SPAWN].score == 1.0
    assert terms["ledge"][Term.SPAWN].value == pytest.approx(100.0)
    assert terms[suits.OPEN_WATER][Term.SPAWN].score < 0.3
    quiet = a_day("wal", Season.SUMMER, spawn_ground=ground)
    assert all(r.term is not Term.SPAWN for f in rank(PLACES, DayFacts(who=quiet)) for r in f.reasons)
    assert suits.spawn_score(PLACES[0], np.zeros((0, 2)))[0] == pytest.approx(0.1)


def test_cover_current_shade_and_people():
    wood = (suits.Cover(x=1510.0, y=0.0, kind="timber"), suits.Cover(x=1500.0, y=20.0, kind="weed"))
    green, dead = (suits.cover_score(PLACES[2], wood, t)[0] for t in (18.0, 5.0))
    assert green > dead > 0.4
    assert suits.cover_score(PLACES[0], wood, 18.0) == (0.0, 0.0)
    assert suits.cover_score(PLACES[0], (), 18.0) is None
    seam = [suits.Stream(x=1500.0, y=y, speed_mps=v, to_deg=0.0) for y, v in ((10.0, 0.1), (-10.0, 0.9))]
    assert suits.current_score(PLACES[2], seam)[0] == 1.0
    assert suits.current_score(PLACES[2], seam[1:])[0] < 0.5
    assert suits.current_score(PLACES[0], seam) is None
    dock = (suits.Cover(x=1500.0, y=5.0, kind="dock"),)
    bridge = (suits.Cover(x=1200.0, y=5.0, kind="bridge", end=(1900.0, 5.0)),)
    assert suits.shade_score(PLACES[2], bridge, 40.0) == suits.shade_score(PLACES[2], dock, 40.0)  # under its middle
    assert suits.cover_score(PLACES[2], bridge, 15.0)[1] == 1.0
    ends = tuple(suits.Cover(x=x, y=5.0, kind="bridge") for x in (1200.0, 1900.0))
    assert suits.shade_score(PLACES[2], ends, 40.0)[0] < 0.1  # two marks at its ends tell nothing of what is between
    assert suits.shade_score(PLACES[2], dock, 40.0)[0] > 0.8
    assert suits.shade_score(PLACES[2], dock, 2.0) is None
    assert suits.shade_score(PLACES[2], wood, 40.0) is None
    assert suits.bank_score(PLACES[2], [(1500.0, 10.0)])[0] == pytest.approx(0.25)
    assert suits.bank_score(PLACES[2], ()) is None


# -- a made-up basin ------------------------------------------------------------------------------------------------

FRAME = CellGrid(0.0, 0.0, 5.0, 120, 120)
X, Y = np.meshgrid(FRAME.x, FRAME.y)
BOWL = (20.0 * np.exp(-(((X - 300.0) / 130.0) ** 2) - ((Y - 300.0) / 130.0) ** 2) - 1.0).astype(np.float32)
WATER = np.where(BOWL > 0, BOWL, np.nan).astype(np.float32)


def test_open_places_lie_over_deep_water_off_what_juts_in():
    point = a_place("point", 2.0, 12.0, x=180.0, y=300.0)
    found = suits.open_places(FRAME, WATER, (point,), (5.0, 9.0), wind_to_deg=90.0)
    assert len(found) == 1
    deep = FRAME.nearest(WATER, found[0].x, found[0].y)
    assert deep >= 12.0 - 0.5
    assert 40.0 < math.hypot(found[0].x - point.x, found[0].y - point.y) < 250.0
    assert suits.open_places(FRAME, WATER, (point,), (25.0, 40.0)) == ()
    ground = suits.spawn_ground(FRAME, WATER, (0.5, 2.0), 0.0)
    at = [FRAME.nearest(WATER, x, y) for x, y in ground[::50]]
    assert 0.4 < min(at) <= max(at) < 2.1


@given(season=st.sampled_from(list(IceSeason)), view=st.sampled_from(list(View)), most=st.integers(1, 20))
@settings(max_examples=20)
def test_holes_are_apart_in_water_and_in_walking_order(season, view, most):
    found = coarse_search(FRAME, WATER, season, view, most=most, start=(100.0, 100.0))
    assert 1 <= len(found) <= most
    assert all(h.depth_m > 0.5 for h in found)
    for i, a in enumerate(found):
        assert all(math.hypot(a.x - b.x, a.y - b.y) >= 14.9 for b in found[:i])
    by_name = sorted(found, key=lambda h: (h.x, h.y))
    assert walk_m(found) <= walk_m(by_name) + 1e-6


def test_early_ice_looks_shallower_than_midwinter():
    early, middle = (coarse_search(FRAME, WATER, s, most=8) for s in (IceSeason.EARLY, IceSeason.MIDDLE))
    assert max(h.depth_m for h in early) <= 5.1
    assert min(h.depth_m for h in middle) > 9.0
    assert any(h.why == "deepest" for h in middle)
    assert spacing(View.FAN, 8.0) > spacing(View.CONE, 8.0)
    with pytest.raises(ValueError, match="depth"):
        coarse_search(FRAME, np.full_like(WATER, np.nan), IceSeason.EARLY)


def test_a_mark_is_searched_along_its_depth_first():
    mark = Hole(x=220.0, y=300.0, depth_m=float(FRAME.nearest(WATER, 220.0, 300.0)), why="a mark")
    found = refine(mark, FRAME, WATER, [mark])
    assert 3 <= len(found) <= 8
    assert all(5.0 <= math.hypot(h.x - mark.x, h.y - mark.y) <= 7.0 for h in found)
    assert min(abs(h.depth_m - mark.depth_m) for h in found) < 0.75


@given(clear=st.floats(0.0, 1.0), white=st.floats(0.0, 0.5))
def test_no_ice_is_ever_called_safe(clear, white):
    says, late, river = ice_says(clear, white), ice_says(clear, white, late=True), ice_says(clear, white, river=True)
    assert river.stay_off
    assert late.counts_m <= says.counts_m
    assert says.stay_off is (clear + white / 2 < 0.10 - 1e-9)
    assert bool(says.usual_load) is not says.stay_off


def test_groups_are_all_there():
    assert {h.group for h in known_habits().values()} == set(Group)
    assert species_named("walleye").key == "wal"
