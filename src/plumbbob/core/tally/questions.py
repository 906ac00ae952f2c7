"""The questions that a record is asked: every part of every condition, as one matrix of bins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.luck import Bites
from plumbbob.core.types import Floats

PRIOR_SD = 0.8  # of the logarithm of a ratio: two thirds of what matters lie within 0.45 and 2.2
_WIDEST = 0.7  # share of the hours that a part may be


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a condition: bins from `first` to `last`."""

    dimension: int
    first: int
    last: int


class Questions:
    """
    All parts of all conditions that can be asked about.

    Parameters
    ----------
    parts : list of Part
    bins : (pieces, bins) array
        Bins of every condition, with one for what is not known, and what is hidden.
    member : (parts, bins) array
        The bins of each part.
    unknown : (parts,) int array
        The bin of what is not known of a part's condition.
    hidden : int array
        Bins that a finding must hold against without being one itself.
    trips : (parts,) int array
        On which each part was fished.
    """

    def __init__(
        self, bites: Bites, dimensions: list[Dimension], nuisance: Floats, hidden: Floats, spread: float
    ) -> None:
        """
        Lay the bins out.

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
        self.bites, self.dimensions, self.spread = bites, dimensions, max(spread, 1.0)
        self.nuisance = nuisance
        starts, columns = [], []
        at = 0
        for d in dimensions:
            starts.append(at)
            codes = np.where(d.code >= 0, d.code, d.size)  # the last one: not known
            columns.append((codes[:, None] == np.arange(d.size + 1)).astype(np.float64))
            at += d.size + 1
        self._starts = starts
        self.bins = np.concatenate([*columns, hidden], axis=1) if columns else hidden
        self.hidden = np.arange(at, at + hidden.shape[1])
        self.parts = [p for k, d in enumerate(dimensions) for p in _parts(k, d, bites.hours)]
        self.member = np.zeros((len(self.parts), self.bins.shape[1]))
        for j, p in enumerate(self.parts):
            self.member[j, self._starts[p.dimension] + p.first : self._starts[p.dimension] + p.last + 1] = 1.0
        self.unknown = np.array([self._starts[p.dimension] + dimensions[p.dimension].size for p in self.parts])
        trips_with = (bites.by_trip(self.bins) > 0).astype(np.float32)
        self.trips = np.array((trips_with @ self.member.T.astype(np.float32) > 0).sum(axis=0), np.int64)

    def indicator(self, part: Part) -> Floats:
        """1 where a piece lies in a part."""
        code = self.dimensions[part.dimension].code
        return ((code >= part.first) & (code <= part.last)).astype(np.float64)

    def unknown_of(self, part: Part) -> Floats:
        """1 where a part's condition is not known."""
        return (self.dimensions[part.dimension].code < 0).astype(np.float64)

    def design(self, taken: list[Part]) -> tuple[Floats, Floats]:
        """Columns of the model with some parts in it, and their penalties."""
        columns, penalty = [self.nuisance], [np.full(self.nuisance.shape[1], 1e-4)]
        for part in taken:
            columns.append(self.indicator(part)[:, None])
            penalty.append(np.array([PRIOR_SD**-2]))
            unknown = self.unknown_of(part)
            if unknown.any():
                columns.append(unknown[:, None])
                penalty.append(np.array([PRIOR_SD**-2]))
        return np.concatenate(columns, axis=1), np.concatenate(penalty)


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
