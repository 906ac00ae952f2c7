"""Search by elimination, stay or go, and ability: closed forms, and the policy against exhaustive valuation."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize_scalar
from scipy.stats import gamma, norm

from plumbbob.core.plan.search import Cell, Look, searched
from plumbbob.core.plan.skill import Answer, ability, next_item
from plumbbob.core.plan.stay import Prior, best_share, chance_here, chance_there, exposure, stay_or_go

SHARES = st.floats(0.0, 1.0)


@given(st.lists(st.tuples(st.floats(0.01, 1.0), SHARES, SHARES), min_size=1, max_size=6), st.floats(0.1, 1.0))
def test_chances_are_bayes_over_all_worlds(cells, share):
    total = sum(p for p, _, _ in cells) / share
    made = [Cell(k, p / total, 0.5) for k, (p, _, _) in enumerate(cells)]
    looks = [Look(k, d) for k, (_, d, e) in enumerate(cells) for d in (d, e)]
    found = searched(made, looks)
    likely = [c.prior * (1 - d) * (1 - e) for c, (_, d, e) in zip(made, cells, strict=True)]
    rest = 1 - sum(c.prior for c in made)
    if sum(likely) + rest > 1e-9:
        assert found.chance == pytest.approx(np.array(likely) / (sum(likely) + rest), abs=1e-9)
    assert found.chance.sum() + found.none == pytest.approx(1.0)


def test_old_looks_fade_and_dear_ones_wait():
    cells = [Cell("a", 0.5), Cell("b", 0.5)]
    fresh, old = (searched(cells, [Look("a", 0.8, at)], now=7200.0, half_life_s=3600.0) for at in (7200.0, 0.0))
    assert fresh.chance[0] == pytest.approx(0.2 / 1.2)
    assert old.chance[0] == pytest.approx(0.8 / 1.8)
    assert searched(cells, [Look("a", 0.1)], costs={"a": 60.0, "b": 600.0}).next == 0
    assert searched(cells, [Look("a", 0.1)], costs={"a": 60.0}).next == 0
    assert searched(cells, [Look("a", 1.0), Look("b", 1.0)]).next is None


@given(st.floats(0.0, 0.95), st.floats(0.02, 2.0), st.floats(0.05, 10.0))
def test_the_best_share_is_the_largest(gone, travel, left):
    found = best_share(gone, travel, left)
    if travel >= left:
        assert found == 0.0
        return
    worst = minimize_scalar(
        lambda h: -exposure(h, gone) / (travel + h), bounds=(1e-9, left - travel), method="bounded"
    )
    assert found >= -worst.fun - 1e-9
    assert found <= exposure(left, gone) / travel


def test_chances_here_and_there_are_the_closed_forms():
    here, there = Prior(2.0, 4.0), Prior(1.5, 1.0)
    found = stay_or_go(here, 1, 2.0, there, travel_h=0.25, left_h=3.0)
    assert found.here == pytest.approx(1 - (6.0 / (6.0 + 1 / 6)) ** 3)
    assert found.there == pytest.approx(1 - (1.0 / (1.0 + 2.75 / 3.0 / 6)) ** 1.5)
    rate = gamma.rvs(3.0, scale=1 / 6.0, size=200_000, random_state=1)
    assert found.here == pytest.approx(float(np.mean(1 - np.exp(-rate / 6))), abs=0.003)


def exhaustive(a, b, gone, travel, left, step, hours=0.0):
    """Fish expected by the best of all ways to spend the rest of the day, step by step, by plain recursion."""

    def value(a_, spent, steps, arrived):
        if steps <= 0:
            return 0.0
        worth = exposure(spent + step, gone) - exposure(spent, gone)
        rate_b = b + exposure(spent, gone)
        stay = a_ / rate_b * worth
        chance = (rate_b / (rate_b + worth)) ** a_
        left_over, k = 1.0, 0
        while left_over > 1e-6 and k < 6:
            stay += chance * value(a_ + k, spent + step, steps - 1, False)
            left_over -= chance
            chance *= (a_ + k) / (k + 1) * worth / (rate_b + worth)
            k += 1
        go = 0.0 if arrived else value(a, 0.0, steps - travel, True)
        return max(stay, go)

    return value(a, hours, left, False)


def test_the_rest_of_the_day_is_worth_what_trying_all_ways_says():
    step = 0.5
    by_hand = exhaustive(1.0, 1.0, 0.4, 1, 5, step)
    prior = Prior(1.0, 1.0)
    found = stay_or_go(prior, 0, 0.0, prior, gone_per_hour=0.4, travel_h=0.5, left_h=2.5)
    # finer steps can only do better than half-hourly ones, and hardly so
    assert by_hand - 0.01 < found.gain < 1.08 * by_hand


def test_a_fish_lengthens_a_stay_where_they_clump_and_hardly_where_they_are_even():
    def longer(fish):
        prior = Prior(fish, fish)
        none, one = (
            stay_or_go(prior, k, 0.5, prior, gone_per_hour=0.7, travel_h=0.2, left_h=6.0).minutes_more for k in (0, 1)
        )
        return one - none

    assert longer(0.4) > 3 * longer(8.0) >= 0.0


def test_there_is_no_going_without_time():
    prior = Prior(1.0, 1.0)
    for left in (0.0, 0.2):
        found = stay_or_go(prior, 0, 3.0, prior, travel_h=0.3, left_h=left)
        assert (found.stay, found.there) == (True, 0.0)
        assert found.minutes_more == pytest.approx(60 * left)


def test_an_empty_place_is_left_sooner_the_nearer_the_next():
    poor, good = Prior(0.5, 2.0), Prior(2.0, 1.0)
    stays = [
        stay_or_go(poor, 0, 0.0, good, gone_per_hour=0.2, travel_h=t, left_h=4.0).minutes_more for t in (0.1, 1, 3)
    ]
    assert stays == sorted(stays)
    assert not stay_or_go(poor, 0, 1.0, good, gone_per_hour=0.2, travel_h=0.1, left_h=4.0).stay


def test_ability_is_the_posterior_of_the_logistic_model():
    assert ability([]).low == pytest.approx(1.5 * norm.ppf(0.1), abs=1e-3)
    answers = [Answer("tree", d, r, 0.0) for d, r in ((0.0, True), (1.0, True), (2.0, False))]
    theta = np.linspace(-15, 15, 60_001)
    weight = norm.pdf(theta, 0, 1.5)
    for one in answers:
        p = 1 / (1 + np.exp(-(theta - one.difficulty)))
        weight = weight * (p if one.right else 1 - p)
    weight /= weight.sum()
    found = ability(answers)
    assert found.mean == pytest.approx(float(weight @ theta), abs=1e-3)
    assert found.high == pytest.approx(float(np.interp(0.9, np.cumsum(weight), theta)), abs=5e-3)
    assert math.isclose(found.low, float(np.interp(0.1, np.cumsum(weight), theta)), abs_tol=5e-3)


def test_what_comes_next_was_answered_before():
    answers = [
        Answer(s, 0.0, r, t) for (s, r), t in zip(itertools.product("ab", (True, False)), range(4), strict=True)
    ]
    skill, difficulty, _ = next_item(answers, {s: ability([a for a in answers if a.skill == s]) for s in "ab"}, 10.0)
    assert skill in "ab"
    assert difficulty < 0.0  # rather right than wrong
    assert next_item([], {}, 0.0) is None


def test_what_comes_next_tells_nearly_as_much_as_the_best_item_would():
    """An answer with chance p informs by p (1 - p), at most a quarter: an error may be 1.08 times the least."""
    answers = [Answer("a", 0.3, True, 0.0), Answer("a", 0.9, False, 1.0)]
    found = {"a": ability(answers)}
    _, difficulty, _ = next_item(answers, found, 2.0)
    chance = 1 / (1 + math.exp(difficulty - found["a"].mean))
    assert chance > 0.5
    assert math.sqrt(0.25 / (chance * (1 - chance))) <= 1.08


def test_both_chances_are_true_on_simulated_days():
    """Days drawn from the priors: of all times that a chance was said, a fish came in that share of them."""
    rng = np.random.default_rng(5)
    said = {"here": [], "there": []}
    for _ in range(12_000):
        a, b, a2, b2 = rng.uniform(0.5, 4.0, 4)
        gone, travel, left, hours = (
            rng.uniform(0, 0.8),
            rng.uniform(0.05, 0.8),
            rng.uniform(0.5, 6),
            rng.uniform(0, 2),
        )
        rate, other = rng.gamma(a) / b, rng.gamma(a2) / b2
        fish = rng.poisson(rate * exposure(hours, gone))
        soon = exposure(hours + 1 / 6, gone) - exposure(hours, gone)
        said["here"].append((chance_here(Prior(a, b), fish, hours, gone), rng.poisson(rate * soon) > 0))
        there = rng.poisson(other * best_share(gone, travel, left) / 6) > 0
        said["there"].append((chance_there(Prior(a2, b2), gone, travel, left), there))
    for rows in said.values():
        chance, came = np.array(rows, float).T
        order = np.array_split(np.argsort(chance), 10)
        assert np.mean([abs(chance[k].mean() - came[k].mean()) for k in order]) < 0.02
