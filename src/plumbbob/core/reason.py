"""Why: what the core answers beside its numbers, as a code with values; words are made of it outside (`wording`)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from plumbbob.core.units import Kind


@dataclass(frozen=True, slots=True)
class Measure:
    """A quantity in a reason: SI, written in the reader's units."""

    value: float
    kind: Kind


Value = float | int | str | Measure


@dataclass(frozen=True, slots=True)
class Reason:
    """One reason: a code and the values its words speak of."""

    code: Enum
    values: tuple[tuple[str, Value], ...] = ()


def because(code: Enum, **values: Value) -> Reason:
    """
    A reason with its values by name.

    Examples
    --------
    >>> class Why(Enum):
    ...     DEEP = "deep"
    >>> because(Why.DEEP, depth=Measure(3.0, Kind.DEPTH)).values
    (('depth', Measure(value=3.0, kind=<Kind.DEPTH: 'depth'>)),)
    """
    return Reason(code, tuple(values.items()))
