"""Finding in the log as one types: species, place, lure, month, words, and sizes such as > 14 in."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.types import Floats
from plumbbob.core.units import Kind, System, parse

MONTHS = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
)  # fmt: skip
_SIZE = re.compile(r"(lure|fish|bottom)?\s*(<=|>=|<|>)\s*([\d.,]+(?:\s+\d+/\d+)?)\s*(cm|in|\"|mm|kg|lb|oz|g|ft|m|')?")
_WEIGHTS, _LENGTHS, _DEPTHS = {"kg", "lb", "oz", "g"}, {"cm", "in", '"', "mm"}, {"m", "ft", "'"}


@dataclass(frozen=True, slots=True)
class Query:
    """What was typed, understood: all of it must hold. Ranges are SI, open at an infinite end."""

    words: tuple[str, ...] = ()
    months: frozenset[int] = frozenset()
    years: frozenset[int] = frozenset()
    kept: bool | None = None
    ranges: Mapping[str, tuple[float, float]] = field(default_factory=dict)

    @property
    def is_empty(self) -> bool:
        """Nothing was asked for."""
        return not (self.words or self.months or self.years or self.ranges) and self.kept is None


def parse_query(text: str, system: System) -> Query:
    """
    Understand what was typed; what is no size, month, year or fate is a word to be found.

    Examples
    --------
    >>> q = parse_query("kokanee august > 14 in", System.US)
    >>> q.words, sorted(q.months), round(q.ranges["length_m"][0], 4)
    (('kokanee',), [8], 0.3556)
    """
    ranges: dict[str, tuple[float, float]] = {}

    def size(found: re.Match[str]) -> str:
        what, sign, number, unit = found.groups()
        name, kind = _meant(what, unit)
        try:
            value = parse(f"{number} {unit or ''}", kind, system)
        except ValueError:
            return found[0]
        low, high = ranges.get(name, (-math.inf, math.inf))
        ranges[name] = (max(low, value), high) if sign.startswith(">") else (low, min(high, value))
        return " "

    rest = _SIZE.sub(size, text.lower())
    words, months, years, kept = [], set(), set(), None
    for word in rest.split():
        month = next((k for k, m in enumerate(MONTHS, 1) if len(word) >= 3 and m.startswith(word)), 0)
        if month and (len(word) > 3 or word == MONTHS[month - 1][:3]):
            months.add(month)
        elif re.fullmatch(r"(19|20)\d\d", word):
            years.add(int(word))
        elif word in ("kept", "released"):
            kept = word == "kept"
        else:
            words.append(word)
    return Query(tuple(words), frozenset(months), frozenset(years), kept, ranges)


def _meant(what: str | None, unit: str | None) -> tuple[str, Kind]:
    if what is not None:
        return {"lure": "lure_depth_m", "fish": "fish_depth_m", "bottom": "bottom_depth_m"}[what], Kind.DEPTH
    if unit in _WEIGHTS:
        return "weight_kg", Kind.WEIGHT
    if unit in _DEPTHS:
        return "lure_depth_m", Kind.DEPTH
    return "length_m", Kind.FISH


def matches(
    query: Query,
    texts: Sequence[str],
    month: NDArray[np.int64],
    year: NDArray[np.int64],
    kept: Floats,
    numbers: Mapping[str, Floats],
    among: NDArray[np.bool_] | None = None,
) -> NDArray[np.bool_]:
    """
    Which rows a query finds.

    Parameters
    ----------
    query : Query
    texts : sequence of str, length n
        All words of each row, in small letters.
    month, year : (n,) int arrays
        Of the row's own local day; 0 where unknown.
    kept : (n,) array
        1 kept, 0 released, NaN for what is no catch.
    numbers : mapping of (n,) arrays
        SI, by the names used in ranges; NaN where unknown, which no range holds.
    among : (n,) bool array, optional
        Only these are looked at.
    """
    found = np.ones(len(texts), dtype=bool) if among is None else among.copy()
    if query.months:
        found &= np.isin(month, list(query.months))
    if query.years:
        found &= np.isin(year, list(query.years))
    if query.kept is not None:
        found &= kept == float(query.kept)
    for name, (low, high) in query.ranges.items():
        values = numbers.get(name)
        found &= False if values is None else (values >= low) & (values <= high)
    for word in query.words:
        left = np.flatnonzero(found)
        found[left] = (
            [word in texts[k] for k in left.tolist()] if left.size < len(texts) else [word in t for t in texts]
        )
    return found
