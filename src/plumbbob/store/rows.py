"""Rows of the log as values, each held against what it must be: one that can't be read hides no other."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, TypeVar

from plumbbob.store.values import Catch, Mark, MarkKind, Moment, MomentKind, SavedNote

Row = Mapping[str, Any]
Value = TypeVar("Value", Mark, Catch, Moment, SavedNote)
_EARLIEST, _LATEST = -5e10, 2.5e11  # seconds since 1970 that a calendar can show


def _text(row: Row, name: str) -> str:
    value = row[name]
    if not isinstance(value, str) or any("\ud800" <= c <= "\udfff" for c in value):
        raise ValueError(f"{name} is no text")
    return value


def _number(row: Row, name: str, low: float = -math.inf, high: float = math.inf) -> float:
    value = row[name]
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError(f"{name} is no number")
    if not (math.isfinite(value) and low <= value <= high):
        raise ValueError(f"{name} is {value:g}")
    return float(value)


def _whole(row: Row, name: str, low: int = 0) -> int:
    value = _number(row, name, low, 2**62)
    if value != int(value):
        raise ValueError(f"{name} is {value:g}")
    return int(row[name])


def _maybe(row: Row, name: str) -> float | None:
    return None if row[name] is None else _number(row, name, -1e6, 1e6)


def mark_of(row: Row) -> Mark:
    """A mark; raises ValueError for a row that is none."""
    return Mark(
        id=_whole(row, "id", 1),
        water=_text(row, "water"),
        kind=MarkKind(row["kind"]),
        time=_number(row, "time", _EARLIEST, _LATEST),
        latitude=_number(row, "latitude", -90.0, 90.0),
        longitude=_number(row, "longitude", -540.0, 540.0),
        position_sd_m=_maybe(row, "position_sd_m"),
        depth_m=_maybe(row, "depth_m"),
        bottom_depth_m=_maybe(row, "bottom_depth_m"),
        seen=_whole(row, "seen"),
        source=_text(row, "source"),
        note=_text(row, "note"),
    )


def catch_of(row: Row) -> Catch:
    """A catch; raises ValueError for a row that is none."""
    return Catch(
        id=_whole(row, "id", 1),
        mark_id=_whole(row, "mark_id", 1),
        time=_number(row, "time", _EARLIEST, _LATEST),
        species=_text(row, "species"),
        length_m=_maybe(row, "length_m"),
        kept=bool(_number(row, "kept", 0, 1)),
        rig=_text(row, "rig"),
        lure_depth_m=_maybe(row, "lure_depth_m"),
        note=_text(row, "note"),
    )


def moment_of(row: Row) -> Moment:
    """Something that happened; raises ValueError for a row that is none."""
    return Moment(
        id=_whole(row, "id", 1),
        water=_text(row, "water"),
        kind=MomentKind(row["kind"]),
        time=_number(row, "time", _EARLIEST, _LATEST),
        latitude=None if row["latitude"] is None else _number(row, "latitude", -90.0, 90.0),
        longitude=None if row["longitude"] is None else _number(row, "longitude", -540.0, 540.0),
        fish_depth_m=_maybe(row, "fish_depth_m"),
        bottom_depth_m=_maybe(row, "bottom_depth_m"),
        lure_depth_m=_maybe(row, "lure_depth_m"),
        rig=_text(row, "rig"),
        source=_text(row, "source"),
        note=_text(row, "note"),
        is_open=bool(_number(row, "is_open", 0, 1)),
    )


def note_of(row: Row) -> SavedNote:
    """A note of the rig; raises ValueError for a row that is none."""
    return SavedNote(
        id=_whole(row, "id", 1),
        time=_number(row, "time", _EARLIEST, _LATEST),
        told=_text(row, "told"),
        depth_m=_number(row, "depth_m"),
        value=_number(row, "value"),
        words=_text(row, "words"),
        rod=_text(row, "rod"),
    )


def readable(rows: Sequence[Row], make: Callable[[Row], Value]) -> tuple[list[Value], int]:
    """What can be read, by time, and how many rows can't; those stay in the log as they are."""
    found, lost = [], 0
    for row in rows:
        try:
            found.append(make(row))
        except (ValueError, TypeError, KeyError, OverflowError):
            lost += 1
    return sorted(found, key=lambda v: (v.time, v.id)), lost
