"""A made-up day: drawn once, as its beliefs have it."""

import numpy as np
import pytest

from plumbbob.core.plan.stay import Prior, exposure
from plumbbob.sim.water_day import hidden_day


def test_the_same_seed_is_the_same_day():
    priors = {"a": Prior(1.5, 2.0), "b": Prior(3.0, 2.0)}
    assert hidden_day(priors, 0.6, 4).bites == hidden_day(dict(reversed(priors.items())), 0.6, 4).bites
    assert hidden_day(priors, 0.6, 4).bites != hidden_day(priors, 0.6, 5).bites
    assert not hidden_day(priors, 0.6, 4).between("nowhere", 0.0, 600.0)


def test_days_give_what_is_believed_of_them():
    prior, gone = Prior(1.5, 1.0), 0.6
    counts = []
    for seed in range(2500):
        day = hidden_day({"a": prior}, gone, seed)
        counts.append(sum(b.takes for b in day.between("a", 0.0, 120.0)))
    expected = prior.fish / prior.hours * exposure(2.0, gone)
    assert np.mean(counts) == pytest.approx(expected, rel=0.08)
    assert np.mean(np.array(counts) == 0) > 0.35  # some places are empty
