"""
Fish per rod hour in every bin of a condition: shrunk towards one's own mean, with the interval of the true rate.

The luck of the trips on which a bin was fished is in it, so that a lucky day makes no good depth; bins of one
condition share how far they differ, which is learned from the record.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import gammaincinv

from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.luck import Bites, LuckFit
from plumbbob.core.types import Floats

_SPREADS = (0.08, 0.2, 0.4, 0.7, 1.1)  # of the logarithm of bins' rates, that are tried
_STEPS = 30
_ENOUGH_FISH, _ENOUGH_TRIPS = 10, 4
_UNSURE = 1.2  # of the variance: the spread of luck is itself only estimated
_EXPECTED = 6.0  # fish that one's own mean would have given, where few were caught


@dataclass(frozen=True, slots=True)
class BinRate:
    """
    One bin.

    Parameters
    ----------
    bin : int
    trips : int
        On which it was fished.
    hours : float
        Rod hours.
    fish : int
    rate, low, high : float
        Fish per rod hour in the trips fished, and the 80 % interval.
    enough : bool
        Whether it can be told.
    """

    bin: int
    trips: int
    hours: float
    fish: int
    rate: float
    low: float
    high: float
    enough: bool


def bin_rates(
    bites: Bites, hours: Floats, fish: Floats, dimension: Dimension, plain: LuckFit, school: float, spread: float
) -> list[BinRate]:
    """
    Rates of every bin that was fished.

    Parameters
    ----------
    bites : Bites
        Their hours without those in which no further bite could have counted.
    hours, fish : (pieces,) arrays
        Rod hours and fish of each piece.
    dimension : Dimension
    plain : LuckFit
        The model in which nothing matters: its expectation and luck.
    school : float
        Fish a bite.
    spread : float
        Variance of bites over that of the model.
    """
    n = dimension.size
    code = np.where(dimension.code >= 0, dimension.code, n)
    # pieces of one trip in one bin are one: nothing else tells them apart here
    key = bites.trip * (n + 1) + code
    size = bites.trips * (n + 1)

    def cells(values: Floats) -> Floats:
        return np.bincount(key, values, size).astype(np.float64).reshape(-1, n + 1)

    expected, count = cells(plain.expected), cells(bites.count)
    whole = cells(plain.expected * hours / np.maximum(bites.hours, 1e-12))
    fished = np.flatnonzero(expected.sum(axis=0) > 0.0)
    fits, weight = _fits(expected[:, fished], count[:, fished], plain.shape)
    each = [_posterior(whole[:, fished], f, school, spread, float(bites.count.sum())) for f in fits]
    rates, variances = (np.array([e[k] for e in each]) for k in (0, 1))
    # how far bins differ is not known: all spreads count as far as the record speaks for them
    rate = weight @ rates
    variance = weight @ (variances + (rates - rate) ** 2)
    known = code < n
    at = np.bincount(code, hours, n + 1)
    caught = np.bincount(code, fish, n + 1)
    trips = (expected > 0.0).sum(axis=0)
    mean = float(fish[known].sum() / max(float(hours[known].sum()), 1e-12))
    made = []
    for k, b in enumerate(fished):
        if b == n:
            continue
        r, sd = rate[k] / at[b], np.sqrt(variance[k] * _UNSURE) / at[b]
        shape = max((r / max(sd, 1e-12)) ** 2, 0.05)
        low, high = gammaincinv(shape, [0.1, 0.9]) * r / shape
        told = trips[b] >= _ENOUGH_TRIPS and (
            caught[b] >= _ENOUGH_FISH or (mean * at[b] >= _EXPECTED and high < 0.6 * mean)
        )
        made.append(BinRate(int(b), int(trips[b]), float(at[b]), int(caught[b]), float(r), float(low), float(high),
                            bool(told)))  # fmt: skip
    return made


@dataclass(frozen=True, slots=True)
class _BinFit:
    """Logarithms of the bins' rates over the plain model's, their covariance, and each trip's luck."""

    log_rate: Floats
    covariance: Floats
    expected: Floats  # (trips, bins) at these rates
    luck: Floats
    shape: float


def _fits(expected: Floats, count: Floats, shape: float) -> tuple[list[_BinFit], Floats]:
    """Fits for every spread of bins that is tried, and the weight that the record gives to each."""
    start = np.zeros(expected.shape[1])
    fits, evidence = [], []
    for sd in _SPREADS:
        made, like = _fit(expected, count, shape, sd, start)
        start = made.log_rate
        fits.append(made)
        evidence.append(like)
    weight = np.exp(np.array(evidence) - max(evidence))
    return fits, weight / weight.sum()


def _fit(expected: Floats, count: Floats, shape: float, sd: float, start: Floats) -> tuple[_BinFit, float]:
    """Newton's steps for the bins at one spread, and the logarithm of the evidence."""
    caught, by_bin = count.sum(axis=1), count.sum(axis=0)
    p = by_bin.size
    penalty = np.full(p, sd**-2)
    log_rate = start
    for _ in range(_STEPS):
        mean = expected * np.exp(log_rate)
        left = shape + mean.sum(axis=1)
        luck = (shape + caught) / left
        score = by_bin - luck @ mean - penalty * log_rate
        information = np.diag(mean.sum(axis=0) + penalty) - mean.T @ (mean / left[:, None])
        step = np.linalg.solve(information, score)
        log_rate = log_rate + np.clip(step, -1.0, 1.0)
        if float(np.abs(step).max()) < 1e-5:
            break
    mean = expected * np.exp(log_rate)
    left = shape + mean.sum(axis=1)
    information = np.diag(mean.sum(axis=0) + penalty) - mean.T @ (mean / left[:, None])
    evidence = float(by_bin @ log_rate) - float(((shape + caught) * np.log(left)).sum())
    evidence += 0.5 * float(np.log(penalty).sum() - (penalty * log_rate**2).sum())
    evidence -= 0.5 * float(np.linalg.slogdet(information)[1])
    made = _BinFit(log_rate, np.linalg.inv(information), mean, (shape + caught) / left, shape)
    return made, evidence


def _posterior(whole: Floats, fitted: _BinFit, school: float, spread: float, n: float) -> tuple[Floats, Floats]:
    """Fish that each bin's hours would give on these trips, and the variance, by the first derivatives."""
    full = whole * np.exp(fitted.log_rate)
    luck_variance = fitted.luck / (fitted.shape + fitted.expected.sum(axis=1))
    fish = fitted.luck @ full
    # how the fish move with the rates: straight, and through the luck that is left to explain the catch
    slope = np.diag(fish) - full.T @ (fitted.expected * luck_variance[:, None])
    variance = luck_variance @ full**2 + np.einsum("bp,pq,bq->b", slope, fitted.covariance, slope)
    sizes = max(school - 1.0, 0.0) * school / max(n, 1.0)  # of the mean size of schools
    return fish * school, (variance * spread + fish**2 * sizes / school**2) * school**2
