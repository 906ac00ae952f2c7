"""
What a record says beyond chance: parts of conditions in which bites were more or fewer than under otherwise like ones.

All questions are asked at once, and as many as were asked are counted in: records in which nothing matters are drawn
from the fitted luck of trips, and only what their best finding reaches one time in twenty-five is called a finding.
"""

from __future__ import annotations

from copy import copy
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.optimize import brentq
from scipy.special import gammainc, gammaincc, ndtr, ndtri

from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.luck import Bites, LuckFit, fit
from plumbbob.core.types import Floats, Mask

# that a record in which nothing matters gives a finding: what is drawn is reached less often than that, because
# a finding must also stand against every other condition
CHANCE, _NEXT_CHANCE = 0.045, 0.02
_DRAWS, _SEED = 1500, 20
_LEAST_INFORMATION = 1.5  # of a question worth asking: bites expected in the smaller part, about
_LEAST_TRIPS = 3
_HOLDS = 1.6  # standard deviations that must be left when any one other condition is allowed for
_ALIKE, _CLOSE = 0.9, 0.4  # of two parts' hours, and of their strengths
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
_CHOSEN = ("lure_depth", "height_off_bottom", "lure", "colour", "lure_kind", "lure_length", "speed", "method", "spot")
_MOST_FINDINGS = 8
PRIOR_SD = 0.8  # of the logarithm of a ratio: two thirds of what matters lie within 0.45 and 2.2
_WIDEST = 0.7  # share of the hours that a part may be
_LARGE = 1.7  # standard deviations under which the shape of a tail does not matter
_MANY_PIECES = 25_000


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a condition: bins from `first` to `last`."""

    dimension: int
    first: int
    last: int


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

    def __init__(
        self, bites: Bites, dimensions: list[Dimension], nuisance: Floats, hidden: Floats, spread: float
    ) -> None:
        """
        Get ready.

        Parameters
        ----------
        bites : Bites
        dimensions : list of Dimension
        nuisance : (pieces, q) array
            What is always allowed for; its first column is ones.
        hidden : (pieces, h) array
            What a finding must hold against without being one itself, such as the later half of the trips.
        spread : float
            Variance of bites over that of the model, 1 or more.
        """
        self._bites, self._dimensions, self._spread = bites, dimensions, max(spread, 1.0)
        self._nuisance = nuisance
        starts, columns = [], []
        at = 0
        for d in dimensions:
            starts.append(at)
            codes = np.where(d.code >= 0, d.code, d.size)  # the last one: not known
            columns.append((codes[:, None] == np.arange(d.size + 1)).astype(np.float64))
            at += d.size + 1
        self._starts = starts
        self._bins = np.concatenate([*columns, hidden], axis=1) if columns else hidden
        self._hidden = np.arange(at, at + hidden.shape[1])
        self.parts = [p for k, d in enumerate(dimensions) for p in _parts(k, d, bites.hours)]
        self._member = np.zeros((len(self.parts), self._bins.shape[1]))
        for j, p in enumerate(self.parts):
            self._member[j, self._starts[p.dimension] + p.first : self._starts[p.dimension] + p.last + 1] = 1.0
        self._unknown = np.array([self._starts[p.dimension] + dimensions[p.dimension].size for p in self.parts])
        trips_with = (bites.by_trip(self._bins) > 0).astype(np.float32)
        self._trips = np.array((trips_with @ self._member.T.astype(np.float32) > 0).sum(axis=0), np.int64)
        self._first: _View | None = None

    def indicator(self, part: Part) -> Floats:
        """1 where a piece lies in a part."""
        code = self._dimensions[part.dimension].code
        return ((code >= part.first) & (code <= part.last)).astype(np.float64)

    def unknown(self, part: Part) -> Floats:
        """1 where a part's condition is not known."""
        return (self._dimensions[part.dimension].code < 0).astype(np.float64)

    def run(self) -> Findings:
        """Ask, take the strongest, allow for it, and ask again until nothing stands out."""
        made = Findings()
        taken: list[Part] = []
        closed: set[int] = set()
        rng = np.random.default_rng(_SEED)
        for _ in range(_MOST_FINDINGS + 4):
            view = self._plain() if not taken else self._with(taken)
            ask = view.worth & ~np.isin([p.dimension for p in self.parts], list(closed))
            made.asked = made.asked or int(ask.sum())
            if not ask.any():
                break
            strength, largest = view.strength(ask, rng)
            j = int(np.argmax(np.where(ask, np.abs(strength), 0.0)))
            least = float(np.quantile(largest, 1.0 - (_NEXT_CHANCE if made.found else CHANCE)))
            if abs(strength[j]) <= least:
                break
            chosen, same, tie = self._resolve(view, ask, strength, j)
            if tie is not None:
                made.ties.append(tie)
                closed |= {tie.one.dimension, tie.other.dimension}
            if chosen is None:
                closed.add(self.parts[j].dimension)
                continue
            taken.append(self.parts[chosen])
            closed |= {self.parts[chosen].dimension, *(p.dimension for p in same)}
            chance = float((1 + (largest >= abs(strength[chosen])).sum()) / (1 + largest.size))
            margin = max(abs(float(strength[chosen])) / least, 1.0)
            made.found.append(Finding(self.parts[chosen], 1.0, 1.0, 1.0, chance, margin, same))
            if len(made.found) == _MOST_FINDINGS:
                break
        made.found = self._measured(made.found)
        return made

    def design(self, taken: list[Part]) -> tuple[Floats, Floats]:
        """Columns of the model with some parts in it, and their penalties."""
        columns, penalty = [self._nuisance], [np.full(self._nuisance.shape[1], 1e-4)]
        for part in taken:
            columns.append(self.indicator(part)[:, None])
            penalty.append(np.array([PRIOR_SD**-2]))
            unknown = self.unknown(part)
            if unknown.any():
                columns.append(unknown[:, None])
                penalty.append(np.array([PRIOR_SD**-2]))
        return np.concatenate(columns, axis=1), np.concatenate(penalty)

    def hints(self, told: set[int], ties: list[Tie], least: float) -> list[tuple[Part, Part | None, float]]:
        """
        What stands out and is no finding: of each condition its strongest part, against another or the rest.

        Returns
        -------
        list of (part, other, log_ratio)
            First of what can't be told apart.
        """
        view = self._plain()
        z = view.score / np.sqrt(view.information * self._spread)
        made: list[tuple[Part, Part | None, float]] = [(t.one, t.other, float(np.log(t.ratio))) for t in ties]
        for d in range(len(self._dimensions)):
            here = [k for k, p in enumerate(self.parts) if p.dimension == d and view.worth[k] and z[k] >= least]
            if here and d not in told and self._dimensions[d].name in _CHOSEN:
                best = max(here, key=lambda k: z[k])
                made.append((self.parts[best], None, view.one_step(best)))
        return made

    def _with(self, taken: list[Part]) -> _View:
        """The view with parts in the model; of large records by one step from that with nothing."""
        if self._bites.count.size > _MANY_PIECES:
            return self._plain().allowing([self.parts.index(p) for p in taken])
        return self._view(taken)

    def _plain(self) -> _View:
        """The view with nothing in the model."""
        if self._first is None:
            self._first = self._view([])
        return self._first

    def _view(self, taken: list[Part]) -> _View:
        design, penalty = self.design(taken)
        return _View(self, design, fit(self._bites, design, penalty))

    def _resolve(
        self, view: _View, ask: Mask, strength: Floats, best: int
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
            if left >= _HOLDS:
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
            if abs(back) >= _HOLDS and there not in tried and abs(strength[rival]) > 2.5:
                j = rival
                continue
            ratio = float(np.exp(np.clip(view.one_step(j), -2, 2)))
            return None, (), Tie(self.parts[j], self.parts[rival], ratio)

    def _same(self, view: _View, ask: Mask, j: int, dimensions: set[int]) -> tuple[Part, ...]:
        """Of other conditions the parts that are almost the same hours."""
        made = []
        for d in sorted(dimensions - {self.parts[j].dimension}):
            here = [k for k, p in enumerate(self.parts) if p.dimension == d and ask[k]]
            best = max(here, key=lambda k: view.alike(j, k))
            made.append(self.parts[best])
        return tuple(made)

    def _rank(self, j: int) -> tuple[int, int]:
        """Family of a part's condition, and its place there."""
        name = self._dimensions[self.parts[j].dimension].name
        for k, family in enumerate(_FAMILIES):
            if name in family:
                return k, family.index(name)
        return -1 - self.parts[j].dimension, 0

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
        view = self._plain()
        made = []
        taken = {p.dimension for p in parts}
        for f in found:
            beside = self._beside(view, f.part, taken)
            ordered = [f.part, *(p for p in parts if p is not f.part), *beside]
            design, penalty = self.design(ordered)
            # of a large record the luck is known well before
            shape = view.shape if self._bites.count.size > _MANY_PIECES else 0.0
            fitted = fit(self._bites, design, penalty, shape=shape)
            at = self._nuisance.shape[1]
            beta = float(fitted.coefficients[at])
            sd = float(np.sqrt(max(fitted.covariance[at, at], 1e-9) * self._spread))
            low, high = chosen_interval(beta / sd, f.margin)
            # towards nothing it reaches as far as being chosen makes it; away from it no less than if it were not
            low, high = (low, max(high, beta / sd + 1.96)) if beta >= 0.0 else (min(low, beta / sd - 1.96), high)
            ratio, low, high = (float(np.exp(v)) for v in (beta, low * sd, high * sd))
            made.append(replace(f, ratio=ratio, low=low, high=high, beside=tuple(beside)))
        return sorted(made, key=lambda f: -abs(np.log(f.ratio)))

    def _beside(self, view: _View, part: Part, but: set[int]) -> list[Part]:
        """Of each other condition the part that goes along with this one most, where it does and could be it."""
        j = self.parts.index(part)
        alike = np.abs(view.gram[j]) / np.sqrt(view.information[j] * view.information)
        z = np.abs(view.score) / np.sqrt(view.information)
        made = []
        for d in range(len(self._dimensions)):
            here = [
                k
                for k, p in enumerate(self.parts)
                if p.dimension == d and d not in but and view.worth[k] and alike[k] > _ALONG and z[k] > 0.5 * z[j]
            ]
            if here:
                made.append(max(here, key=lambda k: (alike[k] * z[k], -k)))
        return [self.parts[k] for k in sorted(made, key=lambda k: -alike[k])[:_MOST_BESIDE]]


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
    (4.04, 7.96)
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


def _parts(k: int, dimension: Dimension, hours: Floats) -> list[Part]:
    """
    Parts worth asking about: of two that leave each other nothing the one that was fished less.

    Names stand alone; bins that follow each other make a range of at most `_WIDEST` of the hours.
    """
    known = dimension.code >= 0
    held = np.bincount(dimension.code[known], hours[known], dimension.size)
    n, total = dimension.size, float(held.sum())
    made = []
    for a in range(n):
        for b in range(a, n if dimension.edges is not None else a + 1):
            share = float(held[a : b + 1].sum()) / max(total, 1e-12)
            whole = (a == 0 or held[:a].sum() <= 0.0) or (b == n - 1 or held[b + 1 :].sum() <= 0.0)
            two = dimension.edges is None and int((held > 0.0).sum()) == 2
            if 0.0 < share <= (0.5 if (whole and dimension.edges is not None) or two else _WIDEST):
                made.append(Part(k, a, b))
    return made


class _View:
    """Scores of all questions under one null model."""

    def __init__(self, search: Search, design: Floats, fitted: LuckFit) -> None:
        self._search, self._fit = search, fitted
        bites = search._bites  # noqa: SLF001
        self._design, self._bites = design, bites
        q = design.shape[1]
        full = np.concatenate([design, search._bins], axis=1)  # noqa: SLF001
        m = fitted.expected
        per_trip = bites.by_trip(full * m[:, None])
        self._shrink = 1.0 / (fitted.shape + bites.by_trip(m))
        whole = full.astype(np.float32) if m.size > _MANY_PIECES else full  # twice as quick, and close enough
        gram = (whole.T @ (whole * m[:, None].astype(whole.dtype))).astype(np.float64)
        gram -= per_trip.T @ (per_trip * self._shrink[:, None])
        self._to = np.linalg.pinv(gram[:q, :q]) @ gram[:q, q:]
        bins = gram[q:, q:] - gram[q:, :q] @ self._to
        member = search._member  # noqa: SLF001
        # what is not known of a condition is allowed for too
        unknown = np.eye(bins.shape[0])[search._unknown]  # noqa: SLF001
        own = np.einsum("jb,jb->j", unknown @ bins, unknown)
        cross = np.einsum("jb,jb->j", member @ bins, unknown)
        share = np.where(own > 1e-9, cross / np.maximum(own, 1e-12), 0.0)
        self._lift = member - share[:, None] * unknown
        self._bins_gram = bins
        self.gram = self._lift @ bins @ self._lift.T
        self.information = np.maximum(np.diag(self.gram), 1e-12)
        self.score = self._scores(bites.count[None])[0]
        self.worth = (self.information / search._spread >= _LEAST_INFORMATION) & (search._trips >= _LEAST_TRIPS)  # noqa: SLF001
        h = search._hidden  # noqa: SLF001
        self._hidden_gram = bins[h, h]
        self._hidden_cross = self._lift @ bins[:, h]
        self._hidden_score = self._bin_scores(bites.count[None])[0][h]

    @property
    def shape(self) -> float:
        """Of the trips' luck."""
        return self._fit.shape

    def allowing(self, taken: list[int]) -> _View:
        """The same with some parts swept out of every score."""
        made = copy(self)
        keep = self.gram[np.ix_(taken, taken)] + np.eye(len(taken)) * PRIOR_SD**-2
        to = np.linalg.solve(keep, self.gram[taken])
        made.gram = self.gram - self.gram[:, taken] @ to
        made.information = np.maximum(np.diag(made.gram), 1e-12)
        made.score = self.score - self.score[taken] @ to
        cross = np.linalg.solve(keep, self._hidden_cross[taken])
        made._hidden_score = self._hidden_score - self.score[taken] @ cross
        made._hidden_gram = self._hidden_gram - (self._hidden_cross[taken] * cross).sum(axis=0)
        made._hidden_cross = self._hidden_cross - self.gram[:, taken] @ cross
        made.worth = self.worth & (made.information > 0.1 * self.information)
        return made

    def _bin_scores(self, counts: Floats) -> Floats:
        """(draws, bins) scores, with what the model's own columns take."""
        bites, m = self._bites, self._fit.expected
        caught = np.stack([bites.by_trip(c) for c in counts])
        luck = (self._fit.shape + caught) * self._shrink
        rest = counts - m * luck[:, bites.trip]
        return rest @ self._search._bins - (rest @ self._design) @ self._to  # noqa: SLF001

    def _scores(self, counts: Floats) -> Floats:
        return self._bin_scores(counts) @ self._lift.T

    def _scatter(self) -> Floats:
        """(trips, parts): what each trip adds to the variance of the scores for each unit of its luck."""
        bites, m = self._bites, self._fit.expected
        x = self._search._bins @ self._lift.T - self._design @ (self._to @ self._lift.T)  # noqa: SLF001
        along = bites.by_trip(x * m[:, None])
        return bites.by_trip(x * x * m[:, None]) - along**2 * self._shrink[:, None]

    def _deviation(self, counts: Floats, scatter: Floats) -> Floats:
        """(draws, parts): standard deviations of the scores given how many each trip caught."""
        caught = np.stack([self._bites.by_trip(c) for c in counts])
        luck = (self._fit.shape + caught) * self._shrink
        floor = 0.1 * scatter.sum(axis=0) + 1e-9
        return np.sqrt(np.maximum(luck @ scatter, floor) * self._search._spread)  # noqa: SLF001

    def one_step(self, j: int) -> float:
        """Logarithm of a part's ratio by one step from none."""
        return float(self.score[j] / (self.information[j] + PRIOR_SD**-2))

    def conditional(self, j: int, k: int) -> float:
        """Standard deviations of part j with part k allowed for, by one step."""
        left = self.gram[j, j] - self.gram[j, k] ** 2 / self.information[k]
        if left < 0.02 * self.gram[j, j]:
            return 0.0
        rest = self.score[j] - self.gram[j, k] / self.information[k] * self.score[k]
        return float(rest / np.sqrt(left * self._search._spread))  # noqa: SLF001

    def alike(self, j: int, k: int) -> float:
        """Correlation of two parts' scores, 0 to 1."""
        return float(abs(self.gram[j, k]) / np.sqrt(self.information[j] * self.information[k]))

    def worst_rival(self, j: int, ask: Mask, but: set[int]) -> tuple[int, float]:
        """The part of another condition that leaves least of part j, and what is left; -1 for a hidden one."""
        parts = self._search.parts
        sign = np.sign(self.score[j])
        others = np.array([p.dimension != parts[j].dimension and p.dimension not in but for p in parts]) & ask
        cross, information = self.gram[j], self.information
        left = self.gram[j, j] - cross**2 / information
        rest = sign * (self.score[j] - cross / information * self.score)
        z = np.where(left > 0.02 * self.gram[j, j], rest / np.sqrt(np.maximum(left, 1e-12)), 0.0)
        z = np.where(others, z, np.inf) / np.sqrt(self._search._spread)  # noqa: SLF001
        k = int(np.argmin(z)) if z.size else -1
        least = float(z[k]) if k >= 0 else np.inf
        for h in range(self._hidden_gram.size):
            left_h = self.gram[j, j] - self._hidden_cross[j, h] ** 2 / max(self._hidden_gram[h], 1e-9)
            rest_h = sign * (
                self.score[j] - self._hidden_cross[j, h] / max(self._hidden_gram[h], 1e-9) * self._hidden_score[h]
            )
            z_h = rest_h / np.sqrt(left_h * self._search._spread) if left_h > 0.02 * self.gram[j, j] else 0.0  # noqa: SLF001
            if z_h < least and z_h < _HOLDS:
                k, least = -1, float(z_h)
        return k, least

    def strength(self, ask: Mask, rng: np.random.Generator) -> tuple[Floats, Floats]:
        """Each question's strength in standard deviations, and the largest of each record in which nothing matters."""
        m, a, bites = self._fit.expected, self._fit.shape, self._bites
        spread = self._search._spread  # noqa: SLF001
        scale = np.sqrt(self.information * spread)
        if m.size > _MANY_PIECES:
            top, bottom = np.linalg.eigh(self.gram[np.ix_(ask, ask)])
            root = bottom * np.sqrt(np.maximum(top, 0.0))
            drawn = rng.standard_normal((_DRAWS, root.shape[1])) @ root.T / np.sqrt(self.information[ask])
            largest = np.abs(drawn).max(axis=1)
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
            drawn = _normal((drawn - mean) / sd, skew)
            strength = _normal(((own - mean) / sd)[None], skew)[0]
            largest = np.abs(drawn[:, ask]).max(axis=1)
        return strength, largest


def _normal(x: Floats, skew: Floats) -> Floats:
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
