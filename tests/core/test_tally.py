"""Limits, care, weights, finding, the same thing twice, fish in open water."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.tally.doubles import merged, same_thing
from plumbbob.core.tally.find import matches, parse_query
from plumbbob.core.tally.fish_care import FishCare, at_catch, before_fishing_on
from plumbbob.core.tally.limits import Rule, Verdict, closes_in, day_number, forbids, is_open, judge
from plumbbob.core.tally.open_water import clusters
from plumbbob.core.tally.stretches import Watch, fishing, is_fishing
from plumbbob.core.tally.weight import weight_of
from plumbbob.core.units import Kind, System, parse
from plumbbob.formats.species import known_species, species_named

days = st.tuples(st.integers(1, 12), st.integers(1, 28))


def codes(verdicts):
    return [r.code for r in verdicts]


def test_a_fish_one_centimetre_short_may_not_be_kept():
    rule = Rule(least_m=0.38, bag=4)
    assert codes(judge(rule, (8, 15), length_m=0.37)) == [Verdict.SHORT, Verdict.ROOM]
    assert codes(judge(rule, (8, 15), length_m=0.38)) == [Verdict.AT_LIMIT, Verdict.ROOM]
    assert codes(judge(rule, (8, 15), length_m=0.45)) == [Verdict.ROOM]
    assert dict(judge(rule, (8, 15), length_m=0.37)[0].values)["by"].value == pytest.approx(0.01)


@pytest.mark.parametrize(("kept", "code"), [(0, Verdict.ROOM), (3, Verdict.LAST_ONE), (4, Verdict.BAG_FULL)])
def test_the_bag(kept, code):
    said = judge(Rule(bag=4), (8, 15), kept_today=kept)
    assert codes(said) == [code]
    assert forbids(said) == (code is Verdict.BAG_FULL)


def test_slot_longest_and_possession():
    rule = Rule(slot_low_m=0.5, slot_high_m=0.6, most_m=0.8, possession=6)
    assert codes(judge(rule, (1, 1), length_m=0.55, kept_all=6)) == [Verdict.IN_SLOT, Verdict.POSSESSION_FULL]
    assert codes(judge(rule, (1, 1), length_m=0.81)) == [Verdict.LONG]
    assert not forbids(judge(rule, (1, 1), length_m=0.65))


@given(days, days, days)
def test_a_season_and_its_gap_fill_the_year(opens, closes, day):
    rule = Rule(opens=opens, closes=closes)
    left = closes_in(rule, day)
    if is_open(rule, day):
        assert left is not None
        assert (day_number(day) + left) % 366 == day_number(closes)
        assert Verdict.CLOSED not in codes(judge(rule, day))
    else:
        assert left is None
        assert forbids(judge(rule, day))


def test_deep_fish_are_minded_before_and_at_the_catch():
    sauger, trout = species_named("sauger"), species_named("rainbow trout")
    assert codes(before_fishing_on([sauger, trout], 12.0)) == [FishCare.DEEP_AHEAD]
    assert before_fishing_on([sauger], math.nan) == ()
    assert codes(at_catch(sauger, depth_m=14.0)) == [FishCare.DEEP_CLOSED]
    assert codes(at_catch(trout, depth_m=30.0, water_c=21.5, fight_s=400)) == [
        FishCare.DEEP_VENTS, FishCare.WARM_STOP, FishCare.LONG_FIGHT,
    ]  # fmt: skip
    assert codes(at_catch(trout, water_c=19.5)) == [FishCare.WARM_MIND]
    assert codes(at_catch(None, oxygen_mgl=2.0)) == [FishCare.LOW_OXYGEN]
    assert at_catch(sauger, depth_m=5.0, water_c=15.0, oxygen_mgl=9.0, fight_s=60.0) == ()


def test_weights_of_the_table_are_those_published():
    assert weight_of(0.5, 0.00533, 3.18).kg / 0.93 == pytest.approx(1.348, rel=0.01)
    known = [s for s in known_species() if s.weight_a and s.weight_b]
    assert len(known) > 30
    for s in known:
        assert 0.005 < weight_of(0.3, s.weight_a, s.weight_b).kg < 1.5


@pytest.mark.parametrize(
    ("typed", "metres"),
    [
        ("13 1/4", 13.25 * 0.0254), ('13.25"', 13.25 * 0.0254), ("33.5 cm", 0.335), ("1'2\"", 14 * 0.0254),
        ("1' 2 1/2\"", 14.5 * 0.0254), ("13¼", 13.25 * 0.0254), ("1/2 in", 0.0127), ("2 ft", 0.6096),
        ("14", 14 * 0.0254), ("1 ft 2 in", 14 * 0.0254), ("33,5 cm", 0.335),
    ],
)  # fmt: skip
def test_lengths_are_read_as_people_type_them(typed, metres):
    assert parse(typed, Kind.FISH, System.US) == pytest.approx(metres, abs=1e-9)


@pytest.mark.parametrize("typed", ["13 1/0", "1'2'3", "x", "13 1/4 kg", ""])
def test_what_is_no_length_is_refused(typed):
    with pytest.raises(ValueError, match=r".+"):
        parse(typed, Kind.FISH, System.US)


def test_a_query_finds_by_words_months_sizes_and_fate():
    texts = ["kokanee twin humps spoon", "sauger anvil point", "kokanee the stairs fly"]
    month, year = np.array([8, 8, 7]), np.array([2026, 2025, 2026])
    kept = np.array([1.0, 0.0, np.nan])
    numbers = {"length_m": np.array([0.41, 0.40, np.nan]), "lure_depth_m": np.array([8.0, 6.0, 9.0])}

    def found(text):
        return matches(parse_query(text, System.METRIC), texts, month, year, kept, numbers).tolist()

    assert found("") == [True] * 3
    assert found("kokanee") == [True, False, True]
    assert found("kokanee aug") == [True, False, False]
    assert found("> 40.5 cm") == [True, False, False]
    assert found("lure > 7 m") == [True, False, True]
    assert found("2025 released") == [False, True, False]
    assert found("kept") == [True, False, False]
    assert found("> 20 kg") == [False] * 3


def test_marks_of_one_thing_are_found_and_made_one():
    rng = np.random.default_rng(3)
    things = np.column_stack([np.arange(40) * 50.0, rng.uniform(0, 2000, 40)])
    twice = np.concatenate([things, things[:15] + rng.normal(0, 1.0, (15, 2))])
    nan = np.full(len(twice), np.nan)
    groups = same_thing(twice[:, 0], twice[:, 1], np.full(len(twice), 2.0), nan, nan, np.zeros(len(twice), int))
    assert {tuple(g) for g in groups} == {(k, 40 + k) for k in range(15)}
    depth = np.concatenate([np.full(40, 5.0), np.full(15, 9.0)])
    assert same_thing(twice[:, 0], twice[:, 1], np.full(55, 2.0), depth, nan, np.zeros(55, int)) == []
    one = merged(np.array([0.0, 2.0]), np.zeros(2), np.array([2.0, 2.0]), np.array([8.0, 9.0]), np.full(2, np.nan))
    assert (one.x, one.depth_m) == (1.0, 8.5)
    assert one.sd_m == pytest.approx(2.0 / math.sqrt(2))


def test_fish_in_open_water_are_clusters_of_a_day():
    rng = np.random.default_rng(1)
    x = np.concatenate([rng.normal(0, 20, 5), rng.normal(1000, 20, 6), rng.normal(0, 20, 4)])
    time = np.concatenate([np.full(11, 0.0), np.full(4, 40 * 3600.0)])
    found = clusters(x, np.zeros(15), time, np.full(15, 8.0), np.ones(15))
    assert sorted(c.count for c in found) == [4, 5, 6]
    later = found[0].at(found[0].time + 7200, 5.0, 180.0)
    assert later[1] == pytest.approx(720.0)
    assert later[2] > found[0].spread_m


def test_a_stretch_lasts_while_rod_lure_depth_and_way_stay():
    watch = Watch()
    rod = fishing("downrigger", "spoon", 8.0, trolled=True)
    told = []
    for k in range(60):
        depth = 8.1 if k < 30 else 10.0
        speed = 1.2 if k < 50 else 6.0
        now = fishing("downrigger", "spoon", depth, trolled=True)
        told.append((k, *watch.look({0: now}, speed, 10.0 * k)))
    begun = [k for k, _, b in told if b]
    ended = [k for k, e, _ in told if e]
    assert begun == [2, 32]  # a nudge begins nothing, a second depth does, once it has held
    assert ended == [32, 52]
    assert not is_fishing(rod, 0.0)
    assert is_fishing(fishing("jig below the boat", "jig", 8.0, trolled=False), 0.0)
