"""Rates and findings: closed forms, properties, and made-up records whose truth is known."""

import math

import numpy as np
import pytest
from astral import Observer
from astral.sun import elevation
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.core.geodesy import Position
from plumbbob.core.tally.dimensions import Dimension, in_pieces, wind_side_deg
from plumbbob.core.tally.findings import Search, chosen_interval
from plumbbob.core.tally.luck import Bites, fit, information_of
from plumbbob.core.tally.questions import Questions
from plumbbob.core.tally.rates import bin_rates
from plumbbob.core.tally.record import NUMBERS, WORDS, FishingRecord, Words
from plumbbob.core.tally.review import Silence, hours_to_tell, review
from plumbbob.core.tally.schools import schools
from plumbbob.core.tally.scores import normal_tail
from plumbbob.core.tally.sidelines import Sideline, rank_strength, size_by_depth
from plumbbob.core.water.sun import lights_of
from plumbbob.core.water.sun_arrays import sun_elevations_deg, sunrises_s

START = 1_750_000_000.0


def a_record(start, hours, *, trip=None, rods=1.0, catch_effort=(), catch_s=None, numbers=None, words=None):
    """Efforts from arrays; what is not said is not known."""
    start = np.asarray(start, float)
    n = start.size
    nan = np.full(n, math.nan)
    made = dict.fromkeys(NUMBERS, nan) | {k: np.asarray(v, float) for k, v in (numbers or {}).items()}
    named = {name: Words(np.full(n, -1), ()) for name in WORDS}
    for name, values in (words or {}).items():
        known = sorted(set(values))
        named[name] = Words(np.array([known.index(v) for v in values]), tuple(known))
    trip = np.arange(n) if trip is None else np.asarray(trip)
    effort = np.asarray(catch_effort, np.int64)
    return FishingRecord(
        trip=trip, water=np.zeros(n, np.int64), start_s=start, end_s=start + 3600.0 * np.asarray(hours, float),
        rods=np.broadcast_to(np.asarray(rods, float), (n,)).copy(), utc_offset_s=np.full(n, -10800.0),
        latitude=nan, longitude=nan, water_latitude=np.full(n, 44.2), water_longitude=np.full(n, -40.05),
        numbers=made, words=named, catch_effort=effort,
        catch_s=np.full(effort.size, math.nan) if catch_s is None else np.asarray(catch_s, float),
        trips=int(trip.max()) + 1 if n else 0,
    )  # fmt: skip


@given(latitude=st.floats(-65, 65), longitude=st.floats(-179, 179), time=st.floats(946_684_800.0, 2_208_988_800.0))
def test_the_sun_of_many_is_that_of_the_library(latitude, longitude, time):
    from datetime import UTC, datetime

    theirs = elevation(Observer(latitude, longitude), datetime.fromtimestamp(time, UTC), with_refraction=False)
    assert float(sun_elevations_deg(latitude, longitude, time)) == pytest.approx(theirs, abs=0.06)


@pytest.mark.parametrize("day", range(0, 365, 41))
def test_sunrise_of_many_is_that_of_the_library(day):
    time = START + 86400.0 * day
    place = Position(44.2, -40.05)
    theirs = lights_of(place, time, -3.0).sunrise
    assert float(sunrises_s(44.2, -40.05, time, -10800.0)) == pytest.approx(theirs, abs=150.0)
    assert math.isnan(float(sunrises_s(80.0, 0.0, START, 0.0)))  # midsummer far north


def test_without_luck_a_ratio_is_that_of_the_rates_and_with_much_that_within_trips():
    hours = np.array([2.0, 1.0, 4.0, 1.0])
    count = np.array([2.0, 5.0, 1.0, 6.0])
    x = np.array([0.0, 1.0, 0.0, 1.0])
    design, none = np.stack([np.ones(4), x], axis=1), np.full(2, 1e-9)
    bites = Bites(count, hours, np.array([0, 0, 1, 1]), 2)
    alike = fit(bites, design, none, shape=1e6)
    assert math.exp(alike.coefficients[1]) == pytest.approx((11 / 2) / (3 / 6), rel=1e-3)
    # variance of the logarithm of a ratio of two Poisson counts
    assert alike.covariance[1, 1] == pytest.approx(1 / 11 + 1 / 3, rel=2e-3)
    # each trip fished both halves for the same time: its own luck falls out of the ratio
    bites = Bites(np.array([2.0, 4.0, 20.0, 40.0]), np.ones(4), np.array([0, 0, 1, 1]), 2)
    within = fit(bites, design, none, shape=0.01)
    assert math.exp(within.coefficients[1]) == pytest.approx(2.0, rel=1e-3)


def test_luck_is_the_mean_of_gamma_and_poisson():
    bites = Bites(np.array([3.0, 0.0]), np.array([1.0, 1.0]), np.array([0, 1]), 2)
    made = fit(bites, np.ones((2, 1)), np.zeros(1), shape=2.0)
    m = made.expected[0]
    assert made.luck.tolist() == pytest.approx([(2 + 3) / (2 + m), 2 / (2 + m)])


def test_the_information_is_the_curvature_that_is_expected():
    rng = np.random.default_rng(1)
    trip = np.repeat(np.arange(6), 5)
    hours, x = rng.uniform(0.5, 2.0, 30), rng.uniform(0, 1, 30)
    design = np.stack([np.ones(30), x], axis=1)
    m, a = hours * np.exp(design @ [-0.3, 0.8]), 1.7
    bites = Bites(np.zeros(30), hours, trip, 6)
    # the mean outer product of the score over drawn records
    luck = rng.gamma(a, 1 / a, (20_000, 6))[:, trip]
    count = rng.poisson(m * luck)
    caught = np.stack([np.bincount(trip, c, 6) for c in count])
    w = (a + caught) / (a + bites.by_trip(m))
    score = (count - m * w[:, trip]) @ design
    assert information_of(bites, design, m, a) == pytest.approx(score.T @ score / 20_000, rel=0.06)


def test_fish_of_a_school_are_one_bite_and_lone_ones_are_many():
    rng = np.random.default_rng(2)
    effort = np.repeat(np.arange(40), 6)
    within = np.sort(rng.uniform(0, 7200, (40, 2)), axis=1)
    time = START + np.concatenate(
        [np.concatenate([t + np.array([0, 20, 45]) for t in row[:, None]]) for row in within]
    )
    end, span = np.full(40, START + 7200.0), np.full(40, 7200.0)
    made = schools(effort, time, end, span)
    assert 45 <= made.gap_s < 600
    assert made.mean_size == pytest.approx(3.0, abs=0.25)
    assert (made.busy_s >= 0).all()
    alone = schools(effort, START + rng.uniform(0, 7200, 240), end, span)
    assert alone.gap_s == 0.0
    assert alone.first.all()
    unknown = schools(effort, np.full(240, math.nan), end, span)
    assert unknown.first.all()
    assert unknown.busy_s.sum() == 0.0


@settings(max_examples=30, deadline=None)
@given(st.data())
def test_pieces_lose_no_hour_and_every_known_value_has_its_bin(data):
    n = data.draw(st.integers(1, 25))
    values = data.draw(st.lists(st.floats(0, 40) | st.just(math.nan), min_size=n, max_size=n))
    hours = data.draw(st.lists(st.floats(0.05, 12), min_size=n, max_size=n))
    record = a_record(START + 90_000.0 * np.arange(n), hours, rods=2.0, numbers={"lure_depth_m": values})
    pieces = in_pieces(record)
    assert pieces.hours.sum() == pytest.approx(record.hours.sum())
    for dimension in pieces.dimensions:
        if dimension.name == "lure_depth":
            assert (np.diff(dimension.edges) > 0).all()
            for effort, code in zip(pieces.effort, dimension.code, strict=True):
                if math.isnan(values[effort]):
                    assert code == -1
                else:
                    assert dimension.edges[code] <= values[effort] < dimension.edges[code + 1]
    # a moment is in a piece of its own effort
    effort = np.arange(n)
    at = pieces.of_moment(record, effort, record.start_s + 1.0)
    assert (pieces.effort[at] == effort).all()


def test_light_is_that_of_each_ten_minutes():
    rise = float(sunrises_s(44.2, -40.05, START, -10800.0))
    pieces = in_pieces(a_record([rise - 3600.0], [2.0]))
    light = next(d for d in pieces.dimensions if d.name == "light")
    hours = np.bincount(light.code, pieces.hours, 4)
    begin = rise - 3600.0 + 300.0 + 600.0 * np.arange(12)
    sun = sun_elevations_deg(44.2, -40.05, begin)
    expected = [(sun < -6).sum() / 6, ((sun >= -6) & (sun < 6)).sum() / 6, ((sun >= 6) & (sun < 20)).sum() / 6, 0.0]
    assert hours.tolist() == pytest.approx(expected)


@pytest.mark.parametrize(("blows_from", "side"), [(180.0, 0.0), (0.0, 180.0), (90.0, 90.0), (270.0, 90.0)])
def test_wind_onto_a_northern_shore_comes_from_the_south(blows_from, side):
    record = a_record([START], [1.0], numbers={"wind_from_deg": [blows_from]})
    object.__setattr__(record, "latitude", np.array([44.3]))
    object.__setattr__(record, "longitude", np.array([-40.05]))
    assert float(wind_side_deg(record)[0]) == pytest.approx(side, abs=1e-6)


def test_an_interval_of_what_was_chosen_holds_as_often_as_it_says():
    rng = np.random.default_rng(3)
    for mean in (0.0, 1.5, 3.0):
        seen = rng.normal(mean, 1.0, 200_000)
        seen = seen[np.abs(seen) > 3.2][:400]
        held = [low <= mean <= high for low, high in (chosen_interval(z, abs(z) / 3.2) for z in seen)]
        assert np.mean(held) == pytest.approx(0.95, abs=0.035)


def test_skewed_tails_are_told_as_those_of_a_normal():
    rng = np.random.default_rng(4)
    shape = 2.5
    x = (rng.gamma(shape, 1.0, 100_000) - shape) / math.sqrt(shape)
    told = normal_tail(x[:, None], np.array([2 / math.sqrt(shape)]))[:, 0]
    assert np.quantile(told, 0.99) == pytest.approx(2.326, abs=0.05)
    assert np.quantile(told, 0.999) == pytest.approx(3.09, abs=0.12)


def a_bites(rng, trips, per_trip, rate, effect, luck=0.4):
    """Pieces of like hours, half of them in the part."""
    trip = np.repeat(np.arange(trips), per_trip)
    inside = rng.random(trip.size) < 0.4
    hours = rng.uniform(0.5, 1.5, trip.size)
    u = rng.gamma(1 / luck, luck, trips)[trip]
    return Bites(rng.poisson(hours * rate * u * effect**inside).astype(float), hours, trip, trips), inside


def test_rates_are_shrunk_towards_the_mean_and_hold_the_truth_eight_times_in_ten():
    rng = np.random.default_rng(5)
    held, widths = [], []
    for _ in range(150):
        trip = np.repeat(np.arange(20), 6)
        code = rng.integers(0, 4, 120)
        hours = rng.uniform(0.3, 1.5, 120)
        rate = np.exp(rng.normal(math.log(0.5), 0.4, 4))[code] * rng.gamma(2.0, 0.5, 20)[trip]
        count = rng.poisson(rate * hours).astype(float)
        bites = Bites(count, hours, trip, 20)
        plain = fit(bites, np.ones((120, 1)), np.zeros(1))
        made = bin_rates(bites, hours, count, Dimension("spot", code, None, tuple("abcd")), plain, 1.0, 1.0)
        assert sum(r.fish for r in made) == count.sum()
        assert sum(r.hours for r in made) == pytest.approx(hours.sum())
        mean = count.sum() / hours.sum()
        for r in made:
            own, here = r.fish / r.hours, code == r.bin
            truth = (rate * hours)[here].sum() / hours[here].sum()
            assert r.low < r.rate < r.high
            held.append(r.low <= truth <= r.high)
            widths.append(abs(r.rate - mean) <= abs(own - mean) + 0.25 * mean)
    assert np.mean(held) == pytest.approx(0.8, abs=0.05)
    assert np.mean(widths) > 0.9


def test_few_fish_on_few_trips_cannot_be_told_and_it_says_what_would():
    record = a_record(
        START + 86_400.0 * np.arange(6), np.full(6, 2.0), catch_effort=[0, 1],
        catch_s=START + np.array([600.0, 87_000.0]),
        words={"spot": ["a", "b", "a", "b", "a", "b"]},
    )  # fmt: skip
    made = review(record)
    for r in made.rates["spot"]:
        assert not r.enough
        assert hours_to_tell(made, r) > 5.0
    assert made.findings.found == []


def a_season(rng, trips, effect, *, other=None, luck=0.3):
    """Trips with two lures at two depths; `effect` times as many fish deep; `other` ties a lure to a depth."""
    start, trip, depth, lure, catch, times = [], [], [], [], [], []
    for t in range(trips):
        u = rng.gamma(1 / luck, luck)
        for k in range(5):
            deep = rng.random() < 0.4
            name = (
                ("amber" if deep else "white") if other == "always" else str(rng.choice(["amber", "white", "green"]))
            )
            if other == "mostly":
                name = "amber" if deep and rng.random() < 0.8 else str(rng.choice(["white", "green"]))
            begin = START + 86_400.0 * 2 * t + 4000.0 * k
            for when in rng.uniform(0, 3600.0, rng.poisson(0.5 * u * effect**deep)):
                catch.append(len(start))
                times.append(begin + when)
            start.append(begin)
            trip.append(t)
            depth.append(rng.uniform(7, 9) if deep else rng.uniform(1, 6.5))
            lure.append(name)
    return a_record(start, np.ones(len(start)), trip=trip, catch_effort=catch, catch_s=times,
                    numbers={"lure_depth_m": depth}, words={"lure": lure})  # fmt: skip


def names_of(made):
    dimensions = made.pieces.dimensions
    return [dimensions[f.part.dimension].name for f in made.findings.found]


def test_what_matters_is_found_with_its_size_and_nothing_else_is():
    made = review(a_season(np.random.default_rng(6), 60, 4.0))
    assert names_of(made) == ["lure_depth"]
    found = made.findings.found[0]
    edges = made.pieces.dimensions[found.part.dimension].edges
    assert edges[found.part.first] >= 6.0
    assert found.low <= 4.0 <= found.high
    assert found.chance < 0.02
    evidence = made.evidence[0]
    assert evidence.rate > 2 * evidence.rest
    assert evidence.on_best <= evidence.fish


def test_where_nothing_matters_nothing_is_found():
    found = [bool(review(a_season(np.random.default_rng([7, k]), 30, 1.0)).findings.found) for k in range(25)]
    assert sum(found) <= 3


def test_a_lure_that_goes_along_with_the_good_depth_is_no_finding_but_is_named():
    made = review(a_season(np.random.default_rng(8), 70, 4.0, other="mostly"))
    assert "lure" not in names_of(made)
    assert "lure_depth" in names_of(made)
    lure = made.dimension("lure")
    aside = next(a for a in made.asides if made.pieces.dimensions[a.part.dimension] is lure)
    assert lure.names[aside.part.first] == "amber"
    assert aside.ratio > 1.5
    assert made.pieces.dimensions[aside.by.dimension].name == "lure_depth"


def test_what_was_always_fished_together_can_not_be_told_apart():
    made = review(a_season(np.random.default_rng(10), 60, 4.0, other="always"))
    assert names_of(made) == []
    tie = made.findings.ties[0]
    dimensions = made.pieces.dimensions
    assert {dimensions[p.dimension].name for p in (tie.one, tie.other)} == {"lure", "lure_depth"}
    assert any(t.against is not None for t in made.tests)


def test_large_records_by_the_normal_law_say_the_same_as_drawn_ones(monkeypatch):
    rng = np.random.default_rng(10)
    bites, inside = a_bites(rng, 120, 12, 0.6, 2.0)
    dimension = Dimension("spot", inside.astype(np.int64), None, ("here", "there"))
    other = Dimension("method", rng.integers(0, 3, inside.size), None, ("a", "b", "c"))

    def run():
        questions = Questions(bites, [dimension, other], np.ones((inside.size, 1)), np.zeros((inside.size, 0)), 1.0)
        return Search(questions).run().found

    drawn = run()
    for module in ("scores", "findings"):
        monkeypatch.setattr(f"plumbbob.core.tally.{module}.MANY_PIECES", 10)
    law = run()
    assert [f.part for f in drawn] == [f.part for f in law]
    assert law[0].ratio == pytest.approx(drawn[0].ratio, rel=0.1)


@given(st.lists(st.integers(0, 9), min_size=2, max_size=12), st.lists(st.integers(0, 9), min_size=2, max_size=12))
def test_ranks_are_those_of_every_pair(above, below):
    """U is the number of pairs in which one above is larger, halves for ties; turned round it turns its sign."""
    a, b = np.array(above, float), np.array(below, float)
    over = (a[:, None] > b).sum() + 0.5 * (a[:, None] == b).sum() - a.size * b.size / 2
    made = rank_strength(a, b)
    assert np.sign(made) == np.sign(round(over, 6)) or len({*above, *below}) == 1
    assert rank_strength(b, a) == pytest.approx(-made, abs=1e-9)


def test_size_by_depth_is_said_only_where_it_is_sure():
    rng = np.random.default_rng(12)
    depth = rng.uniform(2, 12, 60)
    grows = size_by_depth("sauger", 0.3 + 0.02 * depth + rng.normal(0, 0.03, 60), depth)
    assert grows.code is Sideline.LARGER_DEEPER
    assert size_by_depth("sauger", rng.normal(0.4, 0.05, 60), depth) is None
    assert size_by_depth("sauger", depth[:8] * 0.1, depth[:8]) is None


def test_silence_says_why():
    assert review(a_record([], [])).silence is Silence.NO_EFFORT
    assert review(a_record([START, START + 90_000], [1.0, 1.0])).silence is Silence.NO_FISH
    one = a_record([START, START + 4000], [1.0, 1.0], trip=[0, 0], catch_effort=[0])
    assert review(one).silence is Silence.ONE_TRIP
