"""
Rows of the log as cells of open files, and back, so that every cell comes out as it went in.

What a field does not hold as it was written (an own kind of mark, an empty count, 1.50 for 1.5) stays beside it, in
`extra`, and is written again for as long as the field has not been changed since.
"""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from plumbbob.formats.log_columns import (
    CHANGED,
    TABLES,
    Cell,
    ColumnSpec,
    flag_of,
    number_of,
    time_of,
    write_number,
    write_time,
)
from plumbbob.store.values import (
    CONTACTS,
    SIGNS,
    Catch,
    Effort,
    Limit,
    LoggedWater,
    Mark,
    MarkKind,
    Moment,
    MomentKind,
    SavedNote,
    Trip,
)

CLASS_OF: dict[str, type[Any]] = {
    "waters": LoggedWater, "trips": Trip, "efforts": Effort, "marks": Mark, "catches": Catch, "contacts": Moment,
    "signs": Moment, "moments": Moment, "rig_notes": SavedNote, "limits": Limit,
}  # fmt: skip
ORDER = tuple(CLASS_OF)  # what is referred to comes first
_PLAIN: dict[tuple[type[Any], str], Any] = {
    (Mark, "seen"): 1,
    (Mark, "caught"): 0,
    (Mark, "water"): "",
    (Moment, "water"): "",
    (Catch, "species"): "",
    (SavedNote, "time"): 0.0,
    (SavedNote, "depth_m"): 0.0,
    (SavedNote, "value"): 0.0,
}
_KINDS: dict[str, tuple[tuple[MomentKind, ...], MomentKind]] = {
    "contacts": (CONTACTS, MomentKind.CONTACT),
    "signs": (SIGNS, MomentKind.SIGN),
    "moments": (tuple(k for k in MomentKind if k not in CONTACTS + SIGNS), MomentKind.SNAPSHOT),
}
_MARK_KINDS = {k.value: k for k in MarkKind}
_SPOKEN = {"landed": MomentKind.CAUGHT}  # other words for the same


def table_of(moment: Moment) -> str:
    """Which file something that happened belongs into."""
    return "contacts" if moment.kind in CONTACTS else "signs" if moment.kind in SIGNS else "moments"


def _default(cls: type[Any], name: str) -> Any:
    """What a field is where nothing is said; looked at once for each."""
    if (cls, name) not in _PLAIN:
        _PLAIN[(cls, name)] = _by_hint(cls, name)
    return _PLAIN[(cls, name)]


def _by_hint(cls: type[Any], name: str) -> Any:
    field = next(f for f in fields(cls) if f.name == name)
    hint = str(field.type)
    if hint.startswith("float"):
        return None if "None" in hint else float("nan")
    return {"str": "", "bool": False, "int": 0}.get(hint)


def _typed(table: str, spec: ColumnSpec, text: str) -> Any:
    """A cell as its field; what the field can't hold becomes what is nearest to it."""
    cls = CLASS_OF[table]
    if not text and spec.cell is not Cell.FLAG and spec.field != "kind":
        return _default(cls, spec.field)
    if spec.field == "kind":
        if cls is Mark:
            return _MARK_KINDS.get(text, MarkKind.PLACE)
        known, other = _KINDS[table]
        return next((k for k in known if k.value == text and k is not other), _SPOKEN.get(text, other))
    usual = _default(cls, spec.field)
    try:
        if spec.cell is Cell.NUMBER:
            value = number_of(text)
            if value is None:
                return usual
            if isinstance(usual, int):
                return max(min(round(value), 2**60), 0 if spec.field == "seen" else -(2**60))
            limit = {"latitude": 90.0, "longitude": 540.0}.get(spec.field)
            return usual if limit is not None and abs(value) > limit else value
        if spec.cell is Cell.TIME:
            when = time_of(text)
            return usual if when is None else when
        if spec.cell is Cell.FLAG:
            return bool(flag_of(text))
    except ValueError:
        return usual
    return text


def _written(spec: ColumnSpec, value: Any) -> str:
    """A field as its cell."""
    if spec.field == "kind":
        return str(value.value)
    if spec.cell is Cell.NUMBER:
        return write_number(value)
    if spec.cell is Cell.TIME:
        return write_time(value)
    return ("1" if value else "0") if spec.cell is Cell.FLAG else str(value or "")


def fields_of(table: str, cells: Mapping[str, str]) -> tuple[dict[str, Any], dict[str, str]]:
    """A row's fields by name (references as they stand), and the cells that must be kept beside them."""
    specs = {c.name: c for c in TABLES[table]}
    values: dict[str, Any] = {}
    beside = {name: text for name, text in cells.items() if name not in specs and text}
    for name, spec in specs.items():
        text = cells.get(name, "")
        if spec.field == "mark_id":
            continue
        if spec.name == CHANGED:
            if text:
                beside[name] = text
            continue
        values[spec.field] = value = _typed(table, spec, text)
        if text != _written(spec, value):
            beside[name] = text
    return values, beside


def cells_of(
    table: str, value: Any, *, mark_ref: str = "", caught: int | None = None, changed: float | None = None
) -> dict[str, str]:
    """
    A row of the log as cells by column.

    Parameters
    ----------
    table : str
    value : Any
        One of the values of `plumbbob.store.values`.
    mark_ref : str
        Of a catch: what its mark is called.
    caught : int, optional
        Of a mark: all that was caught there, with the catches noted one by one.
    changed : float, optional
        When it was last changed by hand here.
    """
    beside = extra_of(value).get("cells", {})
    cells = {name: text for name, text in beside.items() if name not in {c.name for c in TABLES[table]}}
    for spec in TABLES[table]:
        if spec.field == "mark_id":
            cells[spec.name] = mark_ref or beside.get(spec.name, "")
            continue
        if spec.name == CHANGED:
            cells[spec.name] = later(write_time(changed), beside.get(spec.name, ""))
            continue
        held = getattr(value, spec.field)
        if spec.field == "caught" and caught is not None:
            held = caught
        kept = beside.get(spec.name)
        same = kept is not None and _written(spec, _typed(table, spec, kept)) == _written(spec, held)
        cells[spec.name] = kept if kept is not None and same else _written(spec, held)
    return cells


def later(a: str, b: str) -> str:
    """The later of two times as cells; one that is none is earlier than any."""

    def stamp(text: str) -> float:
        try:
            found = time_of(text)
        except ValueError:
            found = None
        return -math.inf if found is None else found

    return a if stamp(a) > stamp(b) else b


def extra_of(value: Any) -> dict[str, Any]:
    """What stands beside a row's fields: `cells` as they were, and what it `was` called where it came from."""
    if not value.extra:
        return {}
    try:
        found = json.loads(value.extra)
    except ValueError:
        return {}
    return found if isinstance(found, dict) else {}


def extra_text(beside: Mapping[str, str], was: str = "") -> str:
    """The same as the log holds it."""
    held: dict[str, Any] = {"cells": dict(beside)} if beside else {}
    if was:
        held["was"] = was
    return json.dumps(held, ensure_ascii=False) if held else ""
