"""Where fish may still be: cells ruled out by fruitless looks, and the next look that is most likely to find them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from plumbbob.core.types import Floats

OVER_ONE = 1e-6  # by which priors may sum above one


@dataclass(frozen=True, slots=True)
class Cell:
    """A place (and depth band) where the fish may be."""

    id: str | int
    prior: float
    detection: float = 1.0  # chance that the next look there finds them if they are there


@dataclass(frozen=True, slots=True)
class Look:
    """A look at a cell that found nothing."""

    cell: str | int
    detection: float
    at: float = 0.0  # seconds


@dataclass(frozen=True, slots=True)
class Searched:
    """What is left after all looks: chances by cell, shape (cells,), that there are none, and where to look next."""

    chance: Floats
    none: float
    next: int | None  # index of the cell


def searched(
    cells: Sequence[Cell],
    looks: Sequence[Look],
    *,
    now: float = 0.0,
    half_life_s: float | None = None,
    costs: Mapping[str | int, float] | None = None,
) -> Searched:
    """
    Chances after fruitless looks.

    Parameters
    ----------
    cells : sequence of Cell
        Priors sum to at most one; what is missing is the prior that there are no fish at all.
    looks : sequence of Look
    now, half_life_s : float
        A look's weight halves with its age, since fish move; None keeps it.
    costs : mapping, optional
        Seconds a look at a cell takes; a cell that is missing from it is never next.

    Notes
    -----
    Bayes (docs/handbook.md 7.2): a fruitless look multiplies a cell's weight by one less its detection. The next look
    is that of the greatest chance times detection for its cost (Stone 1975).

    Examples
    --------
    >>> found = searched([Cell("a", 0.6), Cell("b", 0.4)], [Look("a", 0.7)])
    >>> found.chance.round(4).tolist(), found.next
    ([0.3103, 0.6897], 1)
    """
    place = {cell.id: k for k, cell in enumerate(cells)}
    weight = np.array([cell.prior for cell in cells], np.float64)
    for look in looks:
        faded = 1.0 if half_life_s is None else 2.0 ** (-max(0.0, now - look.at) / half_life_s)
        weight[place[look.cell]] *= 1.0 - look.detection * faded
    absent = max(1.0 - sum(cell.prior for cell in cells), 0.0)
    total = float(weight.sum()) + absent
    if total <= 0.0:
        return Searched(np.zeros(len(cells)), 1.0, None)
    chance = weight / total
    price = np.array([1.0 if costs is None else costs.get(cell.id, np.inf) for cell in cells])
    worth = chance * np.array([cell.detection for cell in cells]) / price
    best = int(np.argmax(worth)) if worth.size else 0
    return Searched(chance, absent / total, best if worth.size and worth[best] > 0.0 else None)
