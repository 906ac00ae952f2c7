"""
The tables of a log as open files: their columns, how a cell is read and written, and when two cells are equal.

Numbers are SI, times ISO 8601 in UTC with Z, cells empty where nothing is known. Columns of our own stand behind
those that every reader knows, and only where one of them holds something.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import Enum


class Cell(Enum):
    """What a cell holds."""

    TEXT = "text"
    ID = "id"
    REF = "reference"
    NUMBER = "number"
    TIME = "time"
    FLAG = "0 or 1"


@dataclass(frozen=True, slots=True)
class ColumnSpec:
    """One column of a file. `field` is its name in the log; `of` the table a reference points to."""

    name: str
    cell: Cell = Cell.TEXT
    field: str = ""
    of: str = ""
    own: bool = False


def _columns(text: str, own: str = "") -> tuple[ColumnSpec, ...]:
    """Columns as `name:kind=field>table`; t text, i id, n number, d time, f flag, r reference."""
    kinds = {"t": Cell.TEXT, "i": Cell.ID, "n": Cell.NUMBER, "d": Cell.TIME, "f": Cell.FLAG, "r": Cell.REF}
    made = []
    for part, is_own in [(p, False) for p in text.split()] + [(p, True) for p in own.split()]:
        found = re.fullmatch(r"(\w+)(?::([tindfr]))?(?:=(\w+))?(?:>(\w+))?", part)
        assert found is not None
        name, kind, field, of = found.groups()
        made.append(ColumnSpec(name, kinds[kind or "t"], field or name, of or "", is_own))
    return tuple(made)


TABLES: dict[str, tuple[ColumnSpec, ...]] = {
    "waters": _columns("water:i latitude:n longitude:n time_zone"),
    "trips": _columns("trip:i=ref water:r>waters start:d end:d anglers craft note"),
    "efforts": _columns(
        "effort:i=ref trip:r>trips start:d end:d rods:n metres:n spot latitude:n longitude:n "
        "bottom_m:n=bottom_depth_m lure_depth_m:n method lure lure_kind colour lure_length_m:n speed_mps:n "
        "wind_mps:n wind_from_deg:n cloud:n water_temperature_c:n secchi_m:n layer_m:n bait_distance_m:n"
    ),
    "marks": _columns(
        "mark:i=ref time:d kind latitude:n longitude:n position_sd_m:n depth_m:n bottom_m:n=bottom_depth_m seen:n "
        "caught:n name note",
        "water:r>waters source picture",
    ),
    "catches": _columns(
        "catch:i=ref effort:r>efforts trip:r>trips time:d species length_m:n weight_kg:n kept:f hook_place "
        "latitude:n longitude:n fish_depth_m:n lure_depth_m:n bottom_m:n=bottom_depth_m picture note",
        "mark:r=mark_id>marks angler condition rig around",
    ),
    "contacts": _columns(
        "contact:i=ref trip:r>trips time:d kind latitude:n longitude:n fish_depth_m:n bottom_m:n=bottom_depth_m "
        "count:n note",
        "water:r>waters lure_depth_m:n rig source seconds:n lure_did to_complete:f=is_open",
    ),
    "signs": _columns(
        "trip:r>trips time:d kind latitude:n longitude:n bearing_deg:n distance_m:n",
        "water:r>waters source note to_complete:f=is_open",
    ),
    "moments": _columns(
        "moment:i=ref trip:r>trips time:d kind latitude:n longitude:n fish_depth_m:n bottom_m:n=bottom_depth_m "
        "lure_depth_m:n rig source note to_complete:f=is_open water:r>waters"
    ),
    "rig_notes": _columns("note:i=ref time:d told depth_m:n value:n words rod"),
    "limits": _columns(
        "limit:i=ref water:r>waters species opens closes least_m:n most_m:n slot_low_m:n slot_high_m:n bag:n "
        "possession:n gear source dated own:f"
    ),
}
# when a row was last changed by hand, by the machine that wrote it: it tells which of two versions is newer
CHANGED = "plumbbob_changed"
for _table in ("trips", "efforts", "marks", "catches", "contacts", "signs", "moments", "limits"):
    TABLES[_table] += (ColumnSpec(CHANGED, Cell.TIME, CHANGED, own=True),)
# files whose columns are our own: one that looks otherwise is somebody else's, and kept as a file
OWN_TABLES = ("moments", "rig_notes", "limits")
_NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?", re.ASCII)
_TIME = re.compile(r"\d{4}-\d\d-\d\d[Tt ]\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:[Zz]|[+-]\d\d:?\d\d)", re.ASCII)


def id_column(table: str) -> str:
    """The column that names a row; empty for a table whose rows have no name."""
    return next((c.name for c in TABLES[table] if c.cell is Cell.ID and not c.own), "")


def number_of(text: str) -> float | None:
    """
    A number; None for an empty cell.

    Raises
    ------
    ValueError
    """
    text = text.strip()
    if not text:
        return None
    if not _NUMBER.fullmatch(text) or not math.isfinite(value := float(text)):
        raise ValueError("is no number")
    return value


def time_of(text: str) -> float | None:
    """
    A time, seconds since 1970 UTC; None for an empty cell.

    Raises
    ------
    ValueError
        Also for a time without its offset from UTC: it could be any of a day's.
    """
    text = text.strip()
    if not text:
        return None
    if not _TIME.fullmatch(text):
        raise ValueError("is no time in UTC such as 2026-08-15T06:12:00Z")
    try:
        return datetime.fromisoformat(text.upper()).timestamp()
    except (ValueError, OverflowError) as exc:
        raise ValueError("is no time in UTC such as 2026-08-15T06:12:00Z") from exc


def flag_of(text: str) -> bool | None:
    """0 or 1; None for an empty cell. Raises ValueError."""
    value = number_of(text)
    if value not in (None, 0.0, 1.0):
        raise ValueError("is neither 0 nor 1")
    return None if value is None else bool(value)


def write_number(value: float | None) -> str:
    """As few digits as tell it from every other number."""
    if value is None or not math.isfinite(value):
        return ""
    if value == int(value) and abs(value) < 1e15:
        return str(int(value))
    return repr(float(value))


def write_time(value: float | None) -> str:
    """ISO 8601 in UTC, parts of a second only where there are some."""
    if value is None or not math.isfinite(value):
        return ""
    try:
        when = datetime.fromtimestamp(value, UTC)
    except (ValueError, OverflowError, OSError):
        return ""
    part = f".{when.microsecond:06d}".rstrip("0") if when.microsecond else ""
    return (
        f"{when.year:04d}-{when.month:02d}-{when.day:02d}T{when.hour:02d}:{when.minute:02d}:{when.second:02d}{part}Z"
    )


def meaning(spec: ColumnSpec | None, text: str) -> float | bool | str | None:
    """
    What a cell says, so that two cells are equal if this is: 1.0 and 1, a time with and without its parts of a
    second.

    Raises
    ------
    ValueError
        If it holds no number, time or flag where one belongs.
    """
    if spec is None or spec.cell in (Cell.TEXT, Cell.ID, Cell.REF):
        return text or None
    if spec.cell is Cell.NUMBER:
        return number_of(text)
    return time_of(text) if spec.cell is Cell.TIME else flag_of(text)


def row_meaning(table: str, cells: Mapping[str, str]) -> dict[str, float | bool | str]:
    """A row as what its cells say; cells that say nothing are left out, and what can't be read is its text."""
    specs = {c.name: c for c in TABLES[table]}
    said = {}
    for name, text in cells.items():
        if name == CHANGED:
            continue
        try:
            value = meaning(specs.get(name), text)
        except ValueError:
            value = text
        if value is not None:
            said[name] = value
    return said
