"""Values of a request from outside, checked one by one; each error names its value in one line."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

MOST_ITEMS = 100_000


def number_from(name: str, value: Any) -> float:
    """
    A finite number.

    Raises
    ------
    ValueError
        That names it.
    """
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) <= 1e30:
        raise ValueError(f"{name} {value!r} is not a number")
    return float(value)


def list_of(value: Any, most: int = MOST_ITEMS) -> list[Any]:
    """A list of at most so many."""
    if isinstance(value, str | Mapping) or not isinstance(value, Sequence):
        raise ValueError("a list is needed")
    if len(value) > most:
        raise ValueError(f"{len(value)} are too many: at most {most} are answered")
    return list(value)


def object_of(value: Any, known: Sequence[str]) -> Mapping[str, Any]:
    """An object of named values, all of them known: one that is dropped in silence would give another answer."""
    if not isinstance(value, Mapping):
        raise ValueError("an object of named values is needed")
    strange = next((k for k in value if k not in known), None)
    if strange is not None:
        raise ValueError(f"{strange} is not known; {', '.join(known)} are")
    return value


def within(name: str, value: Any, low: float, high: float) -> float:
    """A number from a lowest to a highest."""
    number = number_from(name, value)
    if not low <= number <= high:
        raise ValueError(f"{name} {number:g} is outside {low:g} to {high:g}")
    return number
