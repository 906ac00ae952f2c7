"""
Rates with the luck of a trip in them: bites are Poisson, each trip has a luck of its own that is Gamma with mean 1.

The trip's luck can be taken out in closed form, so that what is known within trips and between them is weighed
rightly whatever its spread: with no spread all hours are alike, with a large one only hours of one trip are compared.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize_scalar
from scipy.sparse import csr_array
from scipy.special import gammaln

from plumbbob.core.tally.record import Codes
from plumbbob.core.types import Floats

_STEPS, _CLOSE = 40, 1e-7
_SHAPES = (0.15, 200.0)
_WORST_STEP = 2.0


@dataclass(frozen=True, slots=True)
class LuckFit:
    """
    A fitted model.

    Parameters
    ----------
    coefficients : (p,) array
        Natural logarithms of ratios, in the order of the design's columns.
    covariance : (p, p) array
    shape : float
        Of the trips' luck; its variance is 1 / shape.
    expected : (pieces,) array
        Bites of each piece on a trip of mean luck.
    luck : (trips,) array
        Posterior mean of each trip's.
    """

    coefficients: Floats
    covariance: Floats
    shape: float
    expected: Floats
    luck: Floats


class Bites:
    """
    Bites and rod hours of pieces, and the trip of each.

    Parameters
    ----------
    count, hours : (pieces,) arrays
    trip : (pieces,) int array
    trips : int
    """

    def __init__(self, count: Floats, hours: Floats, trip: Codes, trips: int) -> None:
        self.count, self.hours, self.trip, self.trips = count, hours, trip, trips
        n = trip.size
        self._sum = csr_array((np.ones(n), (trip, np.arange(n))), shape=(trips, n))

    def by_trip(self, values: Floats) -> Floats:
        """Sums over the pieces of each trip; columns of a matrix each for itself."""
        return self._sum @ values


def fit(bites: Bites, design: Floats, penalty: Floats, start: Floats | None = None, shape: float = 0.0) -> LuckFit:
    """
    Most likely coefficients and spread of luck.

    Parameters
    ----------
    bites : Bites
    design : (pieces, p) array
        The first column should be ones.
    penalty : (p,) array
        1 / variance of a normal prior of each coefficient; 0 where there is none.
    start : (p,) array, optional
    shape : float
        Of the luck, where it is known; 0: it is fitted.

    Notes
    -----
    The counts of a trip are negative multinomial given the design. Newton's steps on the coefficients alternate with
    a search along the shape; McCullagh and Nelder (1989), section 6.2, for the likelihood's form.
    """
    total = max(float(bites.count.sum()), 0.5)
    beta = np.zeros(design.shape[1]) if start is None else start.astype(np.float64).copy()
    if start is None and design.shape[1]:
        beta[0] = np.log(total / max(float(bites.hours.sum()), 1e-9))
    caught = bites.by_trip(bites.count)
    found = shape or 2.0
    if not bites.count.any():
        # nothing to fit: half a fish in all these hours, Jeffreys' guess
        expected = _expected(bites, design, beta)
        return LuckFit(beta, np.eye(beta.size), found, expected, np.ones(bites.trips))
    information = np.eye(beta.size)
    for _ in range(1 if shape else 4):
        beta, information = _newton(bites, design, penalty, beta, found, caught)
        if shape:
            break
        mean = bites.by_trip(_expected(bites, design, beta))
        before, found = found, _best_shape(caught, mean)
        if abs(np.log(found / before)) < 0.02:
            break
    beta, information = _newton(bites, design, penalty, beta, found, caught)
    expected = _expected(bites, design, beta)
    luck = (found + caught) / (found + bites.by_trip(expected))
    return LuckFit(beta, np.linalg.pinv(information).astype(np.float64), found, expected, luck)


def _expected(bites: Bites, design: Floats, beta: Floats) -> Floats:
    return bites.hours * np.exp(np.clip(design @ beta, -30.0, 30.0))


def information_of(bites: Bites, design: Floats, expected: Floats, shape: float) -> Floats:
    """Expected information of the coefficients, (p, p)."""
    weighted = design * expected[:, None]
    per_trip = bites.by_trip(weighted)
    mean = bites.by_trip(expected)
    return design.T @ weighted - per_trip.T @ (per_trip / (shape + mean)[:, None])


def _newton(
    bites: Bites, design: Floats, penalty: Floats, beta: Floats, shape: float, caught: Floats
) -> tuple[Floats, Floats]:
    """Newton's steps on the expected information, halved where they make it worse."""

    def value(b: Floats) -> float:
        mean = bites.by_trip(_expected(bites, design, b))
        along = float(bites.count @ np.clip(design @ b, -30.0, 30.0))
        return along - float(((shape + caught) * np.log(shape + mean)).sum()) - 0.5 * float((penalty * b * b).sum())

    now = value(beta)
    information = np.eye(beta.size)
    for _ in range(_STEPS):
        expected = _expected(bites, design, beta)
        luck = (shape + caught) / (shape + bites.by_trip(expected))
        score = design.T @ (bites.count - expected * luck[bites.trip]) - penalty * beta
        information = information_of(bites, design, expected, shape) + np.diag(penalty + 1e-9)
        step = np.linalg.lstsq(information, score, rcond=None)[0]
        step *= min(1.0, _WORST_STEP / max(float(np.abs(step).max(initial=0.0)), 1e-12))
        for _ in range(12):
            after = value(beta + step)
            if after >= now - 1e-12:
                break
            step = step / 2
        beta, gained, now = beta + step, after - now, after
        if gained < _CLOSE:
            break
    return beta, information


def _best_shape(caught: Floats, mean: Floats) -> float:
    """The likeliest shape of the luck for counts of trips and what was expected of them, with a mild prior."""
    fished = mean > 0.0
    y, m = caught[fished], mean[fished]

    def loss(log_shape: float) -> float:
        a = float(np.exp(log_shape))
        like = gammaln(a + y) - gammaln(a) + a * np.log(a / (a + m)) + y * np.log(m / (a + m))
        return -float(like.sum()) + 0.5 * ((log_shape - np.log(2.0)) / 1.0) ** 2

    found = minimize_scalar(loss, bounds=(np.log(_SHAPES[0]), np.log(_SHAPES[1])), method="bounded")
    return float(np.exp(found.x))
