"""
Tables of the log, one for each kind of value, with the value's fields as columns.

Changes of shape go through migrations/, never through `values` alone.
"""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from sqlalchemy import Boolean, Column, Float, ForeignKey, Integer, MetaData, String, Table

from plumbbob.store.values import (
    Catch,
    Effort,
    KeptFile,
    Limit,
    LogChange,
    LoggedWater,
    Mark,
    Moment,
    PracticeAnswer,
    SavedNote,
    Trip,
)

METADATA = MetaData(
    naming_convention={
        "ix": "ix_%(column_0_label)s",
        "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
        "pk": "pk_%(table_name)s",
    }
)
NAMES: dict[type[Any], str] = {
    LoggedWater: "water",
    Trip: "trip",
    Effort: "effort",
    Mark: "mark",
    Catch: "catch",
    Moment: "moment",
    SavedNote: "rig_note",
    Limit: "fish_limit",
    KeptFile: "kept_file",
    PracticeAnswer: "practice_answer",
    LogChange: "change",
}
# NaN in the value, nothing in the table: what an archive may leave empty and the program always knows
UNKNOWN: dict[type[Any], tuple[str, ...]] = {
    Mark: ("time", "latitude", "longitude"),
    Catch: ("time",),
    Moment: ("time",),
}
_INDEXED = {"mark": ("time",), "catch": ("time", "mark_id", "trip"), "moment": ("time",), "rig_note": ("time",),
            "effort": ("trip",), "practice_answer": ("time",), "trip": ("start",), "change": ("row",)}  # fmt: skip
_SQL: dict[str, type[Any]] = {"str": String, "int": Integer, "float": Float, "bool": Boolean}


def sorted_by(cls: type[Any]) -> str:
    """The column that puts its rows in order."""
    names = [f.name for f in fields(cls)]
    return next((n for n in ("time", "start") if n in names), "id")


def _column(cls: type[Any], name: str, hint: str) -> Column[Any]:
    table = NAMES[cls]
    base = hint.removesuffix(" | None")
    sql = _SQL.get(base, String)  # what is an enum is kept as its text
    if name == "id":
        return Column(name, Integer, primary_key=True)
    nullable = hint != base or name in UNKNOWN.get(cls, ())
    indexed = name in _INDEXED.get(table, ())
    if name == "mark_id":
        return Column(name, sql, ForeignKey("mark.id"), nullable=nullable, index=indexed)
    return Column(name, sql, nullable=nullable, index=indexed)


TABLES: dict[type[Any], Table] = {
    cls: Table(name, METADATA, *(_column(cls, f.name, str(f.type)) for f in fields(cls)))
    for cls, name in NAMES.items()
}
ABOUT = Table("about", METADATA, Column("key", String, primary_key=True), Column("text", String, nullable=False))
CLASSES = {name: cls for cls, name in NAMES.items()}


def columns(cls: type[Any]) -> list[str]:
    """Names of a value's columns, in order."""
    return [f.name for f in fields(cls)]
