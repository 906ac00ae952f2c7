"""
What a record says beyond chance: parts of conditions in which bites were more or fewer than otherwise.

Like is held against like: a part is compared where all that is known to matter is the same.

All questions are asked at once, and as many as were asked are counted in: records in which nothing matters are drawn
from the fitted luck of trips, and only what their best finding reaches one time in twenty-five is called a finding.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.optimize import brentq
from scipy.special import logsumexp, ndtr

from plumbbob.core.tally.luck import fit
from plumbbob.core.tally.questions import Part, Questions
from plumbbob.core.tally.scores import HOLDS, MANY_PIECES, Scores
from plumbbob.core.types import Floats, Mask

# that a record in which nothing matters gives a finding, and one more; measured a little more often, because the luck
# of trips is itself estimated
CHANCE, _NEXT_CHANCE = 0.025, 0.0125
_SEED = 20
_ALIKE, _CLOSE = 0.75, 0.4  # of two parts' hours, and of their strengths
_TWIN, _TWIN_HOLDS = 0.85, 3.0
# conditions that name the same thing, the plainest name first
_FAMILIES = (
    ("lure", "colour", "lure_kind", "lure_length", "method", "speed"),
    ("spot", "bottom_depth", "wind_side"),
    ("lure_depth", "layer_distance", "height_off_bottom"),
    ("light", "hour_from_sunrise"),
    ("water_temperature", "month"),
)
_ALONG, _MOST_BESIDE = 0.4, 5  # what goes along with a part
# what an angler can choose, and so put to a test
CHOSEN = ("lure_depth", "height_off_bottom", "lure", "colour", "lure_kind", "lure_length", "speed", "method", "spot")
_MOST_FINDINGS = 8


@dataclass(frozen=True, slots=True)
class Finding:
    """
    A part that differs.

    Parameters
    ----------
    part : Part
    ratio, low, high : float
        Bites in it against the rest of that condition, with the 95 % interval.
    chance : float
        That so much would be found somewhere in a record in which nothing matters.
    margin : float
        Its strength over what the best of such records reaches.
    same : tuple of Part
        Parts of other conditions that are almost the same hours and can't be told from it, such as a lure's colour.
    beside : tuple of Part
        Those that go along with it.
    """

    part: Part
    ratio: float
    low: float
    high: float
    chance: float
    margin: float = 1.0
    same: tuple[Part, ...] = ()
    beside: tuple[Part, ...] = ()


@dataclass(frozen=True, slots=True)
class Tie:
    """Two parts of which one may matter, and the record can't tell which."""

    one: Part
    other: Part
    ratio: float


@dataclass(slots=True)
class Findings:
    """Findings by their weight, and what can't be told apart."""

    found: list[Finding] = field(default_factory=list)
    ties: list[Tie] = field(default_factory=list)
    asked: int = 0


class Search:
    """One record's questions."""

    def __init__(self, questions: Questions) -> None:
        self.questions = questions
        self.parts = questions.parts
        self._of = np.array([p.dimension for p in self.parts], np.int64)
        self._first: Scores | None = None

    def run(self) -> Findings:
        """Ask, take the strongest, allow for it, and ask again until nothing stands out."""
        made = Findings()
        taken: list[Part] = []
        closed: set[int] = set()
        rng = np.random.default_rng(_SEED)
        for _ in range(_MOST_FINDINGS + 4):
            view = self.plain() if not taken else self._with(taken)
            ask = view.worth & ~np.isin([p.dimension for p in self.parts], list(closed))
            made.asked = made.asked or int(ask.sum())
            if not ask.any():
                break
            strength, drawn = view.strength(ask, rng)
            asked = np.flatnonzero(ask)
            groups = [np.flatnonzero(self._of[asked] == d) for d in np.unique(self._of[asked])]
            # of each condition the mean evidence of its parts: where in it the edges lie is not known
            own = view.evidence(strength[asked], asked)
            seen = np.array([_mean_of(own[g]) for g in groups])
            by_chance = view.evidence(drawn, asked)
            chance_of = np.stack([_mean_of(by_chance[:, g]) for g in groups], axis=1).max(axis=1)
            least = float(np.quantile(chance_of, 1.0 - (_NEXT_CHANCE if made.found else CHANCE)))
            best = int(np.argmax(seen))
            if seen[best] <= least:
                break
            j = int(asked[groups[best][np.argmax(own[groups[best]])]])
            chosen, same, tie = self._resolve(view, ask, strength, j)
            if tie is not None:
                made.ties.append(tie)
                closed |= {tie.one.dimension, tie.other.dimension}
            if chosen is None:
                closed.add(self.parts[j].dimension)
                continue
            taken.append(self.parts[chosen])
            closed |= {self.parts[chosen].dimension, *(p.dimension for p in same)}
            chance = float((1 + (chance_of >= seen[best]).sum()) / (1 + chance_of.size))
            z2 = float(strength[chosen]) ** 2
            margin = 1.0 / math.sqrt(max(1.0 - 2.0 * (float(seen[best]) - least) / max(z2, 1e-9), 0.05))
            made.found.append(Finding(self.parts[chosen], 1.0, 1.0, 1.0, chance, margin, same))
            if len(made.found) == _MOST_FINDINGS:
                break
        made.found = self._measured(made.found)
        return made

    def hints(self, findings: Findings, but: set[int], least: float) -> list[tuple[Part, Part | None, float]]:
        """
        What stands out and is no finding: of each condition its strongest part, against another or the rest.

        Returns
        -------
        list of (part, other, log_ratio)
            First of what can't be told apart.
        """
        # with what is told allowed for: it would be seen in everything that goes along with it
        view = self._with([f.part for f in findings.found]) if findings.found else self.plain()
        told = but | {p.dimension for f in findings.found for p in (f.part, *f.same)}
        z = view.score / np.sqrt(view.information * self.questions.spread)
        made: list[tuple[Part, Part | None, float]] = []
        made += [(t.one, t.other, float(np.log(t.ratio))) for t in findings.ties]
        for d in range(len(self.questions.dimensions)):
            here = [k for k, p in enumerate(self.parts) if p.dimension == d and view.worth[k] and z[k] >= least]
            if here and d not in told and self.questions.dimensions[d].name in CHOSEN:
                best = max(here, key=lambda k: z[k])
                made.append((self.parts[best], None, view.one_step(best)))
        return made

    def _with(self, taken: list[Part]) -> Scores:
        """The view with parts in the model; of large records by one step from that with nothing."""
        if self.questions.bites.count.size > MANY_PIECES:
            return self.plain().allowing([self.parts.index(p) for p in taken])
        return self._view(taken)

    def plain(self) -> Scores:
        """The view with nothing in the model."""
        if self._first is None:
            self._first = self._view([])
        return self._first

    def _view(self, taken: list[Part]) -> Scores:
        design, penalty = self.questions.design(taken)
        return Scores(self.questions, design, fit(self.questions.bites, design, penalty))

    def _resolve(
        self, view: Scores, ask: Mask, strength: Floats, best: int
    ) -> tuple[int | None, tuple[Part, ...], Tie | None]:
        """
        Which part it is: one that still stands when any one other condition is allowed for.

        Notes
        -----
        Where the strongest does not stand against another, and that other stands against it, it is the other. Where
        the two are almost the same hours of one family, such as a lure and its colour, it is named by what names the
        others too. Where neither stands they can't be told apart.
        """
        tried: set[int] = set()
        j = self._plainest(ask, strength, best)
        same: set[int] = set()
        while True:
            tried.add(self.parts[j].dimension)
            rival, left = view.worst_rival(j, ask, same)
            # the edges of bins are ours: what is nearly the same hours must be beaten clearly
            twin = rival >= 0 and self._rank(j)[0] != self._rank(rival)[0] and view.alike(j, rival) > _TWIN
            if left >= (_TWIN_HOLDS if twin else HOLDS):
                return j, self._same(view, ask, j, same), None
            if rival < 0:
                return None, (), None  # a matter of when, not of what
            rival = self._plainest(ask, strength, rival)
            there = self.parts[rival].dimension
            if view.alike(j, rival) > _ALIKE and self._rank(j)[0] == self._rank(rival)[0]:
                same.add(there)
                if self._rank(rival) < self._rank(j) and abs(strength[rival]) > abs(strength[j]) - _CLOSE:
                    same.add(self.parts[j].dimension)
                    j = rival
                continue
            back = view.conditional(rival, j)
            if abs(back) >= HOLDS and there not in tried and abs(strength[rival]) > 2.5:
                j = rival
                continue
            ratio = float(np.exp(np.clip(view.one_step(j), -2, 2)))
            return None, (), Tie(self.parts[j], self.parts[rival], ratio)

    def _same(self, view: Scores, ask: Mask, j: int, dimensions: set[int]) -> tuple[Part, ...]:
        """Of other conditions the parts that are almost the same hours."""
        made = []
        for d in sorted(dimensions - {self.parts[j].dimension}):
            here = [k for k, p in enumerate(self.parts) if p.dimension == d and ask[k]]
            best = max(here, key=lambda k: view.alike(j, k))
            made.append(self.parts[best])
        return tuple(made)

    def _rank(self, j: int) -> tuple[int, int]:
        """Family of a part's condition, and its place there."""
        return family_of(self.questions, self.parts[j])

    def _plainest(self, ask: Mask, strength: Floats, best: int) -> int:
        """Of the parts of one condition that say it about as well: one with more, not less, and the smaller one."""
        d = self.parts[best].dimension
        close = [
            j
            for j, p in enumerate(self.parts)
            if p.dimension == d and ask[j] and abs(strength[j]) > abs(strength[best]) - _CLOSE
        ]
        return min(close, key=lambda j: (strength[j] < 0.0, -abs(strength[j]))) if close else best

    def _measured(self, found: list[Finding]) -> list[Finding]:
        """
        Ratios of all findings in one model, with intervals.

        Beside each stand the parts of other conditions that go along with it: what can't be told from it is in its
        interval.
        """
        if not found:
            return []
        parts = [f.part for f in found]
        view = self.plain()
        taken = {p.dimension for p in parts}
        besides = [self._beside(view, f.part, taken) for f in found]
        large = self.questions.bites.count.size > MANY_PIECES
        # of a large record one fit holds all of it, and the luck is known well before
        whole = self._fit([*parts, *(p for b in besides for p in b)], view.shape) if large else None
        made = []
        for f, beside in zip(found, besides, strict=True):
            beta, variance = (whole or self._fit([f.part, *(p for p in parts if p is not f.part), *beside]))[f.part]
            sd = math.sqrt(max(variance, 1e-9) * self.questions.spread)
            low, high = chosen_interval(beta / sd, f.margin)
            # towards nothing it reaches as far as being chosen makes it; away from it no less than if it were not
            low, high = (low, max(high, beta / sd + 1.96)) if beta >= 0.0 else (min(low, beta / sd - 1.96), high)
            ratio, low, high = (float(np.exp(v)) for v in (beta, low * sd, high * sd))
            made.append(replace(f, ratio=ratio, low=low, high=high, beside=tuple(beside)))
        return sorted(made, key=lambda f: -abs(np.log(f.ratio)))

    def _fit(self, parts: list[Part], shape: float = 0.0) -> dict[Part, tuple[float, float]]:
        """Logarithm of the ratio and its variance of each part, all in one model."""
        ordered = list(dict.fromkeys(parts))
        design, penalty = self.questions.design(ordered)
        fitted = fit(self.questions.bites, design, penalty, shape=shape)
        at, made = self.questions.nuisance.shape[1], {}
        for part in ordered:
            made[part] = (float(fitted.coefficients[at]), float(fitted.covariance[at, at]))
            at += 2 if self.questions.unknown_of(part).any() else 1
        return made

    def _beside(self, view: Scores, part: Part, but: set[int]) -> list[Part]:
        """Of each other condition the part that goes along with this one most, where it does and could be it."""
        j = self.parts.index(part)
        alike = np.abs(view.gram[j]) / np.sqrt(view.information[j] * view.information)
        z = np.abs(view.score) / np.sqrt(view.information)
        made = []
        for d in range(len(self.questions.dimensions)):
            here = [
                k
                for k, p in enumerate(self.parts)
                if p.dimension == d and d not in but and view.worth[k] and alike[k] > _ALONG and z[k] > 0.5 * z[j]
            ]
            if here:
                made.append(here[int(np.argmax(alike[here] * z[here]))])
        return [self.parts[k] for k in sorted(made, key=lambda k: -alike[k])[:_MOST_BESIDE]]


def _mean_of(evidence: Floats) -> Floats:
    """Logarithm of the mean of what are logarithms, along the last axis."""
    return logsumexp(evidence, axis=-1) - math.log(evidence.shape[-1])


def family_of(questions: Questions, part: Part) -> tuple[int, int]:
    """Which conditions name the same thing as a part's does, and its place among them."""
    name = questions.dimensions[part.dimension].name
    for k, family in enumerate(_FAMILIES):
        if name in family:
            return k, family.index(name)
    return -1 - part.dimension, 0


def chosen_interval(z: float, margin: float) -> tuple[float, float]:
    """
    The 95 % interval of a mean of which a normal value was seen only because it was large.

    Parameters
    ----------
    z : float
        The value, in standard deviations.
    margin : float
        The value over the least that would have been shown, 1 or more.

    Notes
    -----
    The interval given that the value passed that limit on either side, after Zhong and Prentice (2008): far above the
    limit it is the usual one, close to it it reaches towards nothing.

    Examples
    --------
    >>> tuple(round(v, 2) for v in chosen_interval(6.0, 2.0))
    (3.96, 7.96)
    >>> chosen_interval(3.6, 1.01)[0] < 0.5
    True
    """
    x, least = abs(z), abs(z) / max(margin, 1.0)

    def above(mean: float) -> float:
        """Chance of more than was seen, given that it was shown."""
        shown = float(ndtr(mean - least) + ndtr(-least - mean))
        return float(ndtr(mean - x)) / max(shown, 1e-300)

    low = brentq(lambda mean: above(mean) - 0.025, x - 12.0, x + 1.0)
    high = brentq(lambda mean: above(mean) - 0.975, x - 12.0, x + 6.0)
    return (low, high) if z >= 0.0 else (-high, -low)
