"""Scores of all questions under one model: how far the record is from what the model expects, part by part."""

from __future__ import annotations

from copy import copy

import numpy as np
from scipy.special import gammainc, gammaincc, ndtri

from plumbbob.core.tally.luck import LuckFit
from plumbbob.core.tally.questions import PRIOR_SD, Questions
from plumbbob.core.tally.record import Codes
from plumbbob.core.types import Floats, Mask

HOLDS = 1.6  # standard deviations that must be left when any one other condition is allowed for
_DRAWS = 1500
_LEAST_INFORMATION = 1.5  # of a question worth asking: bites expected in the smaller part, about
_LEAST_TRIPS = 3
_LARGE = 1.7  # standard deviations under which the shape of a tail does not matter
MANY_PIECES = 25_000  # from so many on the normal law is close enough, and drawing takes too long


class Scores:
    """Scores of all questions under one null model."""

    def __init__(self, questions: Questions, design: Floats, fitted: LuckFit) -> None:
        self._questions, self._fit = questions, fitted
        bites = questions.bites
        self._design, self._bites = design, bites
        q = design.shape[1]
        full = np.concatenate([design, questions.bins], axis=1)
        m = fitted.expected
        per_trip = bites.by_trip(full * m[:, None])
        self._shrink = 1.0 / (fitted.shape + bites.by_trip(m))
        whole = full.astype(np.float32) if m.size > MANY_PIECES else full  # twice as quick, and close enough
        gram = (whole.T @ (whole * m[:, None].astype(whole.dtype))).astype(np.float64)
        gram -= per_trip.T @ (per_trip * self._shrink[:, None])
        self._to = np.linalg.pinv(gram[:q, :q]) @ gram[:q, q:]
        bins = gram[q:, q:] - gram[q:, :q] @ self._to
        member = questions.member
        # what is not known of a condition is allowed for too
        unknown = np.eye(bins.shape[0])[questions.unknown]
        own = np.einsum("jb,jb->j", unknown @ bins, unknown)
        cross = np.einsum("jb,jb->j", member @ bins, unknown)
        share = np.where(own > 1e-9, cross / np.maximum(own, 1e-12), 0.0)
        self._lift = member - share[:, None] * unknown
        self._bins_gram = bins
        self.gram = self._lift @ bins @ self._lift.T
        self.information = np.maximum(np.diag(self.gram), 1e-12)
        self.score = self._scores(bites.count[None])[0]
        self.worth = (self.information / questions.spread >= _LEAST_INFORMATION) & (questions.trips >= _LEAST_TRIPS)
        h = questions.hidden
        self.hidden_gram = bins[h, h]
        self.hidden_cross = self._lift @ bins[:, h]
        self.hidden_score = self._bin_scores(bites.count[None])[0][h]

    @property
    def shape(self) -> float:
        """Of the trips' luck."""
        return self._fit.shape

    def allowing(self, taken: list[int]) -> Scores:
        """The same with some parts swept out of every score."""
        made = copy(self)
        keep = self.gram[np.ix_(taken, taken)] + np.eye(len(taken)) * PRIOR_SD**-2
        to = np.linalg.solve(keep, self.gram[taken])
        made.gram = self.gram - self.gram[:, taken] @ to
        made.information = np.maximum(np.diag(made.gram), 1e-12)
        made.score = self.score - self.score[taken] @ to
        cross = np.linalg.solve(keep, self.hidden_cross[taken])
        made.hidden_score = self.hidden_score - self.score[taken] @ cross
        made.hidden_gram = self.hidden_gram - (self.hidden_cross[taken] * cross).sum(axis=0)
        made.hidden_cross = self.hidden_cross - self.gram[:, taken] @ cross
        made.worth = self.worth & (made.information > 0.1 * self.information)
        return made

    def _bin_scores(self, counts: Floats) -> Floats:
        """(draws, bins) scores, with what the model's own columns take."""
        bites, m = self._bites, self._fit.expected
        caught = np.stack([bites.by_trip(c) for c in counts])
        luck = (self._fit.shape + caught) * self._shrink
        rest = counts - m * luck[:, bites.trip]
        return rest @ self._questions.bins - (rest @ self._design) @ self._to

    def _scores(self, counts: Floats) -> Floats:
        return self._bin_scores(counts) @ self._lift.T

    def _scatter(self) -> Floats:
        """(trips, parts): what each trip adds to the variance of the scores for each unit of its luck."""
        bites, m = self._bites, self._fit.expected
        x = self._questions.bins @ self._lift.T - self._design @ (self._to @ self._lift.T)
        along = bites.by_trip(x * m[:, None])
        return bites.by_trip(x * x * m[:, None]) - along**2 * self._shrink[:, None]

    def _deviation(self, counts: Floats, scatter: Floats) -> Floats:
        """(draws, parts): standard deviations of the scores given how many each trip caught."""
        caught = np.stack([self._bites.by_trip(c) for c in counts])
        luck = (self._fit.shape + caught) * self._shrink
        floor = 0.1 * scatter.sum(axis=0) + 1e-9
        return np.sqrt(np.maximum(luck @ scatter, floor) * self._questions.spread)

    def one_step(self, j: int) -> float:
        """Logarithm of a part's ratio by one step from none."""
        return float(self.score[j] / (self.information[j] + PRIOR_SD**-2))

    def conditional(self, j: int, k: int) -> float:
        """Standard deviations of part j with part k allowed for, by one step."""
        left = self.gram[j, j] - self.gram[j, k] ** 2 / self.information[k]
        if left < 0.02 * self.gram[j, j]:
            return 0.0
        rest = self.score[j] - self.gram[j, k] / self.information[k] * self.score[k]
        return float(rest / np.sqrt(left * self._questions.spread))

    def alike(self, j: int, k: int) -> float:
        """Correlation of two parts' scores, 0 to 1."""
        return float(abs(self.gram[j, k]) / np.sqrt(self.information[j] * self.information[k]))

    def worst_rival(self, j: int, ask: Mask, but: set[int]) -> tuple[int, float]:
        """The part of another condition that leaves least of part j, and what is left; -1 for a hidden one."""
        parts = self._questions.parts
        sign = np.sign(self.score[j])
        others = np.array([p.dimension != parts[j].dimension and p.dimension not in but for p in parts]) & ask
        cross, information = self.gram[j], self.information
        left = self.gram[j, j] - cross**2 / information
        rest = sign * (self.score[j] - cross / information * self.score)
        z = np.where(left > 0.02 * self.gram[j, j], rest / np.sqrt(np.maximum(left, 1e-12)), 0.0)
        z = np.where(others, z, np.inf) / np.sqrt(self._questions.spread)
        k = int(np.argmin(z)) if z.size else -1
        least = float(z[k]) if k >= 0 else np.inf
        for h in range(self.hidden_gram.size):
            left_h = self.gram[j, j] - self.hidden_cross[j, h] ** 2 / max(self.hidden_gram[h], 1e-9)
            rest_h = sign * (
                self.score[j] - self.hidden_cross[j, h] / max(self.hidden_gram[h], 1e-9) * self.hidden_score[h]
            )
            z_h = rest_h / np.sqrt(left_h * self._questions.spread) if left_h > 0.02 * self.gram[j, j] else 0.0
            if z_h < least and z_h < HOLDS:
                k, least = -1, float(z_h)
        return k, least

    def strength(self, ask: Mask, rng: np.random.Generator) -> tuple[Floats, Floats]:
        """
        Strength of each question in standard deviations, and of those asked on records where nothing matters.

        Returns
        -------
        (parts,) array, (draws, parts asked) array
        """
        m, a, bites = self._fit.expected, self._fit.shape, self._bites
        spread = self._questions.spread
        scale = np.sqrt(self.information * spread)
        if m.size > MANY_PIECES:
            top, bottom = np.linalg.eigh(self.gram[np.ix_(ask, ask)])
            root = bottom * np.sqrt(np.maximum(top, 0.0))
            drawn = rng.standard_normal((_DRAWS, root.shape[1])) @ root.T / np.sqrt(self.information[ask])
            strength = self.score / scale
        else:
            luck = rng.gamma(a, 1 / a, (_DRAWS, bites.trips))[:, bites.trip]
            if spread > 1.0:
                # bites that cluster beyond their trip: as counts of as much larger a variance
                size = spread - 1.0
                extra = rng.gamma(np.maximum(m / size, 1e-6)[None].repeat(_DRAWS, 0), size) / np.maximum(m, 1e-12)
                luck = luck * extra
            counts = rng.poisson(m * luck).astype(np.float64)
            scatter = self._scatter()
            drawn = self._scores(counts) / self._deviation(counts, scatter)
            own = self.score / self._deviation(bites.count[None], scatter)[0]
            mean, sd = drawn.mean(axis=0), np.maximum(drawn.std(axis=0), 1e-9)
            skew = ((drawn - mean) ** 3).mean(axis=0) / sd**3
            drawn = normal_tail((drawn - mean) / sd, skew)[:, ask]
            strength = normal_tail(((own - mean) / sd)[None], skew)[0]
        return strength, drawn

    def evidence(self, strength: Floats, which: Codes) -> Floats:
        """
        Logarithm of the evidence for an effect in each part against none, (..., parts of `which`).

        Notes
        -----
        By the normal prior of an effect's size: a part that is known too little to show anything counts less, and so
        does one so well known that what is seen there would be a trifle (Wakefield, 2009).
        """
        known = self.information[which] / self._questions.spread * PRIOR_SD**2
        return 0.5 * strength**2 * known / (1.0 + known) - 0.5 * np.log1p(known)


def normal_tail(x: Floats, skew: Floats) -> Floats:
    """
    Standardised values of a skewed distribution (Pearson's third) as those of a normal one with the same tails.

    Only where they are large: small ones are no candidates for the largest.
    """
    made = x.copy()
    rows, columns = np.nonzero((np.abs(x) > _LARGE) & (np.abs(skew) >= 0.02)[None])
    g = np.clip(np.abs(skew[columns]), 1e-3, 3.0)
    sign = np.sign(skew[columns])
    shape = 4.0 / g**2
    at = np.maximum(shape + sign * x[rows, columns] * np.sqrt(shape), 1e-9)
    # a tail beyond what doubles hold is strong enough
    upper, lower = np.maximum(gammaincc(shape, at), 1e-15), np.maximum(gammainc(shape, at), 1e-15)
    made[rows, columns] = sign * np.where(upper < lower, -ndtri(upper), ndtri(lower))
    return made
