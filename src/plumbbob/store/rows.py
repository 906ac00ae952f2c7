"""Rows of the log as values, each held against what it must be: one that can't be read hides no other."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import fields
from enum import Enum
from operator import attrgetter
from typing import Any, TypeVar

from plumbbob.store.tables import UNKNOWN, columns
from plumbbob.store.values import MarkKind, MomentKind

Row = Mapping[str, Any]
V = TypeVar("V")
_RANGES = {"time": (-6.3e10, 2.54e11), "latitude": (-90.0, 90.0), "longitude": (-540.0, 540.0)}  # what can be shown
_RANGES |= {"start": _RANGES["time"], "end": _RANGES["time"]}
_LEAST = {"id": 1, "seen": 0}
_ENUMS: dict[str, type[Enum]] = {"MarkKind": MarkKind, "MomentKind": MomentKind}


def _text(value: Any, name: str) -> str:
    if not isinstance(value, str) or any("\ud800" <= c <= "\udfff" for c in value):
        raise ValueError(f"{name} is no text")
    return value


def _number(value: Any, name: str) -> float:
    low, high = _RANGES.get(name, (-math.inf, math.inf))
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError(f"{name} is no number")
    if not (math.isfinite(value) and low <= value <= high):
        raise ValueError(f"{name} is {value:g}")
    return float(value)


def _whole(value: Any, name: str) -> int:
    number = _number(value, name)
    if number != int(number) or not _LEAST.get(name, -(2**62)) <= number <= 2**62:
        raise ValueError(f"{name} is {value:g}")
    return int(value)


def _flag(value: Any, name: str) -> bool:
    if value not in (0, 1):
        raise ValueError(f"{name} is {value}")
    return bool(value)


Shape = tuple[tuple[str, Callable[[Any, str], Any], bool, Any], ...]
_SHAPES: dict[type[Any], Shape] = {}
_WRITERS: dict[type[Any], tuple[Callable[[Any], tuple[Any, ...]], list[int], list[int]]] = {}
_CHECKS: dict[str, Callable[[Any, str], Any]] = {"str": _text, "int": _whole, "float": _number, "bool": _flag}


def _shape(cls: type[Any]) -> Shape:
    """The fields of a kind, looked at once."""
    if cls not in _SHAPES:
        _SHAPES[cls] = _look(cls)
    return _SHAPES[cls]


def _look(cls: type[Any]) -> Shape:
    """Each field: its name, its check, whether the table may hold nothing, and what nothing is then."""
    made = []
    for field in fields(cls):
        hint = str(field.type)
        base = hint.removesuffix(" | None")
        enum = _ENUMS.get(base)
        check = _CHECKS[base] if enum is None else lambda value, _, kind=enum: kind(value)
        unknown = field.name in UNKNOWN.get(cls, ())
        made.append((field.name, check, unknown or hint != base, math.nan if unknown else None))
    return tuple(made)


def value_of(cls: type[V], row: Row) -> V:
    """
    A row as a value.

    Raises
    ------
    ValueError, TypeError, KeyError, OverflowError
        For a row that is none.
    """
    made = {}
    for name, check, may_lack, nothing in _shape(cls):
        value = row[name]
        made[name] = nothing if value is None and may_lack else check(value, name)
    return cls(**made)


def row_of(value: Any) -> dict[str, Any]:
    """A value as its row."""
    return dict(zip(columns(type(value)), cells_of_row(value), strict=True))


def cells_of_row(value: Any) -> list[Any]:
    """A value as the cells of its row, in the order of the columns."""
    cls = type(value)
    if cls not in _WRITERS:
        shape = _shape(cls)
        enums = [k for k, (_, check, _, _) in enumerate(shape) if check not in _CHECKS.values()]
        lacking = [k for k, (_, _, _, nothing) in enumerate(shape) if nothing is not None]
        _WRITERS[cls] = attrgetter(*(name for name, _, _, _ in shape)), enums, lacking
    get, enums, lacking = _WRITERS[cls]
    cells = list(get(value))
    for k in enums:
        cells[k] = cells[k].value
    for k in lacking:
        if cells[k] is not None and not math.isfinite(cells[k]):
            cells[k] = None
    return cells


def odd_condition(cls: type[Any]) -> str:
    """In the words of the database: a row of a kind that is not wholly as it should be."""
    parts = []
    for name, check, may_lack, _ in _shape(cls):
        cell = f'"{name}"'
        low, high = _RANGES.get(name, (-1.7e308, 1.7e308))
        if check is _text:
            sound = f"typeof({cell}) = 'text'"
        elif check is _number:
            sound = f"typeof({cell}) IN ('real', 'integer') AND {cell} BETWEEN {low!r} AND {high!r}"
        elif check is _whole:
            sound = f"typeof({cell}) = 'integer' AND {cell} BETWEEN {_LEAST.get(name, -(2**62))} AND {2**62}"
        elif check is _flag:
            sound = f"{cell} IN (0, 1)"
        else:
            words = ", ".join(f"'{kind.value}'" for kind in _kinds_of(cls, name))
            sound = f"{cell} IN ({words})"
        parts.append(f"({cell} IS NULL OR {sound})" if may_lack else f"({cell} IS NOT NULL AND {sound})")
    return f"NOT ({' AND '.join(parts)})"


def _kinds_of(cls: type[Any], name: str) -> type[Enum]:
    field = next(f for f in fields(cls) if f.name == name)
    return _ENUMS[str(field.type).removesuffix(" | None")]


def readable(cls: type[Any], rows: Iterable[Sequence[Any]]) -> tuple[list[Sequence[Any]], int]:
    """Those rows (cells in the order of the columns) that can be read, and how many can't."""
    rows, names, found = list(rows), columns(cls), []
    for row in rows:
        try:
            value_of(cls, dict(zip(names, row, strict=True)))
        except (ValueError, TypeError, KeyError, OverflowError):
            continue
        found.append(row)
    return found, len(rows) - len(found)
