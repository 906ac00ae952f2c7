"""What looks good in the plain numbers and is explained by something else: the traps of a log, named."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from plumbbob.core.tally.findings import CHOSEN, Findings, family_of
from plumbbob.core.tally.questions import Part, Questions
from plumbbob.core.tally.scores import Scores
from plumbbob.core.types import Floats, Mask

_LOOKS, _LEFT = 1.8, 1.4  # standard deviations by plain numbers, and of what is left when like is held against like
_MOST = 4
_ONE = 0.9  # correlation of parts that are one thing
_ALONG = 0.15  # correlation with what explains it, at least


@dataclass(frozen=True, slots=True)
class Aside:
    """
    A part that looks `ratio` times as good, and isn't.

    `by` is the part that explains it; None: the days on which it was fished, when everything caught more.
    """

    part: Part
    ratio: float
    by: Part | None


def asides(questions: Questions, plain: Scores, findings: Findings, hours: Floats, fish: Floats) -> list[Aside]:
    """
    The strongest of each condition that an angler can choose, where it is explained away.

    Parameters
    ----------
    questions : Questions
    plain : Scores
        Of the model with nothing in it but the luck of trips and the years.
    findings : Findings
    hours, fish : (pieces,) arrays
    """
    told = {p.dimension for f in findings.found for p in (f.part, *f.same)}
    bites = questions.bites
    mean = float(bites.count.sum() / max(float(bites.hours.sum()), 1e-12))
    made: list[tuple[float, int, Aside]] = []
    for d, dimension in enumerate(questions.dimensions):
        if d in told or dimension.name not in CHOSEN or dimension.edges is not None:
            continue
        for j, part in enumerate(questions.parts):
            if part.dimension != d or not plain.worth[j]:
                continue
            inside = questions.indicator(part) > 0.0
            expected = mean * float(bites.hours[inside].sum())
            looks = (float(bites.count[inside].sum()) - expected) / np.sqrt(expected * questions.spread)
            if looks < _LOOKS:
                continue
            ratio = _ratio(inside, questions.unknown_of(part) > 0.0, hours, fish)
            by, left = _explained(questions, plain, findings, j)
            if left < _LEFT:
                made.append((looks, j, Aside(part, ratio, by)))
    # a lure and its colour are one thing: named by what names the others too
    made.sort(key=lambda a: (family_of(questions, a[2].part), -a[0]))
    kept: list[tuple[float, int, Aside]] = []
    for looks, j, said in made:
        if all(plain.alike(j, k) < _ONE for _, k, _ in kept):
            kept.append((looks, j, said))
    return [said for _, _, said in sorted(kept, key=lambda a: -a[0])[:_MOST]]


def _explained(questions: Questions, plain: Scores, findings: Findings, j: int) -> tuple[Part | None, float]:
    """What takes most of a part's strength away, and what is left of it."""
    by: Part | None = None
    left = float(plain.score[j] / np.sqrt(plain.information[j] * questions.spread))
    if left < _LEFT:
        return None, left  # the trips themselves explain it
    for f in findings.found:
        k = questions.parts.index(f.part)
        rest = plain.conditional(j, k)
        own = family_of(questions, f.part)[0] == family_of(questions, questions.parts[j])[0]
        if rest < left and not own and plain.alike(j, k) > _ALONG:
            by, left = f.part, rest
    return by, left


def _ratio(inside: Mask, unknown: Mask, hours: Floats, fish: Floats) -> float:
    rest = ~inside & ~unknown
    here = float(fish[inside].sum() / max(float(hours[inside].sum()), 1e-12))
    there = float(fish[rest].sum() / max(float(hours[rest].sum()), 1e-12))
    return here / max(there, 1e-9)
