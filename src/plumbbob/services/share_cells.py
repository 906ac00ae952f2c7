"""
What of a log may leave: tables with all that tells a place taken out, or made coarse, and a count of what was taken.

Nothing is left from which a place can be put together again: rows are numbered and ordered by what they still say,
not by when they were written; times are days; names of waters, spots and marks are blanked wherever else they were
typed.
"""

from __future__ import annotations

import math
import random
import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import Enum
from functools import cache

from plumbbob.formats.log_columns import TABLES, Cell, ColumnSpec, number_of, time_of, write_number, write_time
from plumbbob.formats.species import known_species

Rows = list[dict[str, str]]
SHARED = ("waters", "trips", "efforts", "marks", "catches", "contacts", "signs")
_DAY_S = 86_400.0
_CELL_DEG = 0.09
_BEARINGS = ("bearing_deg", "distance_m", "metres", "bait_distance_m", "position_sd_m")
_GROUND = (
    "lake pond river creek stream brook canal channel sound bay bight cove harbour harbor inlet loch lough mere tarn "
    "reservoir dam sea ocean strait reef shoal bank bar flat flats hump humps hole basin point points head island "
    "isle ledge lip edge drop wall slope cliff stairs road bridge mill weed weeds stump stumps timber rock rocks "
    "stones gravel sand mud north south east west upper lower middle old new big little long deep shallow far near "
    "left right first second third the of and at off on in by to end mouth arm shore launch ramp pier jetty spot "
    "mark place fish bait structure hazard contact seen caught good best one two three morning evening night day "
    "spring summer autumn winter school schools lure spoon plug jig fly worm"
)
_LEAST_NAME = 3  # shorter names stand in too many other words
_PLACE_IN_WORDS = re.compile(
    r"[-+]?\d{1,3}[.,]\d{3,}|\d{1,3}\s*°|\d{1,3}\s*[º˚]|\b\d{1,2}\s*'\s*\d|\b[NSEW]\s*\d{1,3}\b|\b\d{1,3}\s*[NSEW]\b"
)


class Positions(Enum):
    """How much of a place may be told."""

    NONE = "none"
    AREA = "area"
    EXACT = "exact"


@dataclass(slots=True)
class Shareable:
    """What may leave, and what was taken out, by kind."""

    tables: dict[str, Rows]
    taken: Counter[str] = field(default_factory=Counter)


def area_middle(latitude: float, longitude: float) -> tuple[float, float]:
    """
    The middle of the cell a place lies in: rows of 0.09 degrees from the equator, columns about as wide on the
    ground.

    Examples
    --------
    >>> tuple(round(v, 4) for v in area_middle(44.2062, -40.058))
    (44.235, -40.0216)
    """
    rows = int(90.0 / _CELL_DEG) - 1
    row = min(max(math.floor(latitude / _CELL_DEG), -rows - 1), rows)
    middle = (row + 0.5) * _CELL_DEG
    wide = _CELL_DEG / math.cos(math.radians(middle))
    across = (math.floor(((longitude + 180.0) % 360.0 - 180.0) / wide) + 0.5) * wide
    return middle, (across + 180.0) % 360.0 - 180.0


def shareable(
    tables: Mapping[str, Iterable[Mapping[str, str]]],
    positions: Positions,
    pictures: Mapping[str, str] = {},
) -> Shareable:
    """
    The tables of a log as far as they may leave.

    Parameters
    ----------
    tables : mapping
        Rows as cells by column, as in the open files; other tables and columns never leave.
    positions : Positions
        `none` and `area` take out all that tells a place; `exact` leaves the tables as they are.
    pictures : mapping, optional
        What each picture is called where it goes with them; others are not spoken of.
    """
    known = {t: list(TABLES[t]) for t in SHARED}
    rows = {t: [dict(r) for r in tables.get(t, ())] for t in SHARED}
    found = Shareable({})
    if positions is Positions.EXACT:
        for t in SHARED:
            names = [c.name for c in known[t]]
            found.tables[t] = [{n: row.get(n, "") for n in names} for row in rows[t]]
            for row in found.tables[t]:
                if row.get("picture"):
                    row["picture"] = _picture(row["picture"], pictures)
        return found
    waters = {r.get("water", "") for t in ("waters", "trips") for r in rows[t]} - {""}
    found.taken["waters"] = len(waters)
    secret = _names(rows)
    for t in SHARED:
        found.tables[t] = [_cleaned(t, row, positions, secret, found.taken) for row in rows[t]]
        for row, was in zip(found.tables[t], rows[t], strict=True):
            if t == "catches":
                row["picture"] = _picture(was.get("picture", ""), pictures)
    _renumber(found.tables)
    return found


def _picture(text: str, pictures: Mapping[str, str]) -> str:
    """What a picture is called now; cells may name it with its folder or without."""
    return pictures.get(text) or pictures.get(f"pictures/{text}", "")


def _names(rows: Mapping[str, Rows]) -> re.Pattern[str] | None:
    """Names of waters, spots and marks, wherever they stand in other words."""
    names = {r.get("water", "") for t in SHARED for r in rows[t]}
    names |= {r.get("spot", "") for r in rows["efforts"]} | {r.get("name", "") for r in rows["marks"]}
    parts = {_even(n).strip() for n in names}
    # a name is also told by its words: "Old Kell" of "Old Kell channel"
    parts |= {" ".join(w) for n in list(parts) for w in _word_runs(n.split())}
    used = sorted((n for n in parts if len(n) >= _LEAST_NAME and not _is_common(n)), key=len, reverse=True)
    if not used:
        return None
    # short names only as words of their own; long ones, and those in scripts without spaces, anywhere
    words = [re.escape(n) if len(n) >= 5 or not n.isascii() else rf"(?<!\w){re.escape(n)}(?!\w)" for n in used]
    return re.compile("|".join(words), re.IGNORECASE)


def _even(text: str) -> str:
    """Text with one way to write each letter, one kind of space."""
    return " ".join(unicodedata.normalize("NFKC", text).split())


def _word_runs(words: list[str]) -> list[list[str]]:
    """Runs of two and more words of a name, and each of its words that is a name by its capital."""
    runs = [words[i:j] for i in range(len(words)) for j in range(i + 2, len(words) + 1)] if len(words) < 9 else []
    return runs + [[w] for w in words if len(w) > _LEAST_NAME and w[:1].isupper()]


@cache
def _common() -> frozenset[str]:
    """Words that say nothing of where: kinds of water and ground, and of fish."""
    return frozenset(_GROUND.split()) | {w for s in known_species() for w in s.name.lower().split()}


def _is_common(name: str) -> bool:
    """Every word of a name is one of those."""
    return all(w in _common() or w.isdigit() for w in re.findall(r"\w+", name.lower()))


def _cleaned(
    table: str, row: Mapping[str, str], positions: Positions, secret: re.Pattern[str] | None, taken: Counter[str]
) -> dict[str, str]:
    made: dict[str, str] = {}
    place = _place(row)
    if place is not None:
        taken["positions"] += 1
    middle = area_middle(*place) if place is not None and positions is Positions.AREA else None
    for spec in TABLES[table]:
        text = row.get(spec.name, "")
        kept = "" if not text else _cell(spec, text, secret, taken)
        if spec.name in ("latitude", "longitude"):
            value = None if middle is None else middle[spec.name == "longitude"]
            kept = "" if value is None else f"{value:.7f}".rstrip("0").rstrip(".")
        made[spec.name] = kept
    return made


def _place(row: Mapping[str, str]) -> tuple[float, float] | None:
    try:
        latitude, longitude = number_of(row.get("latitude", "")), number_of(row.get("longitude", ""))
    except ValueError:
        return None
    if latitude is None or longitude is None or not abs(latitude) <= 90.0:
        return None
    return latitude, longitude


def _cell(spec: ColumnSpec, text: str, secret: re.Pattern[str] | None, taken: Counter[str]) -> str:
    """What of one cell may leave."""
    if spec.cell in (Cell.ID, Cell.REF):
        return text  # numbered anew below
    if spec.own or spec.name in ("note", "time_zone", "spot", "name", "picture", *_BEARINGS):
        kind = {"note": "notes", "time_zone": "time zones", "spot": "names", "name": "names", "picture": "pictures"}
        taken["own columns" if spec.own else kind.get(spec.name, "bearings and distances")] += 1
        return ""
    try:
        if spec.cell is Cell.TIME:
            when = time_of(text)
            if when is not None and when % _DAY_S:
                taken["times"] += 1
            return "" if when is None else write_time(math.floor(when / _DAY_S) * _DAY_S)
        if spec.cell is Cell.NUMBER:
            return write_number(number_of(text))
        if spec.cell is Cell.FLAG:
            return "1" if number_of(text) else "0"
    except ValueError:
        return ""
    if secret is not None and secret.search(_even(text)):
        taken["names"] += 1
        return ""
    if _PLACE_IN_WORDS.search(text):
        taken["positions in words"] += 1
        return ""
    if spec.name == "anglers" and not text.strip().isdigit():
        taken["names"] += 1
        return ""
    return text


_chance = random.SystemRandom()


def _renumber(tables: dict[str, Rows]) -> None:
    """Rows named by numbers and ordered by what they still say; references follow, and go where nothing is meant."""
    names: dict[str, dict[str, str]] = {}
    for table in SHARED:
        key = next((c.name for c in TABLES[table] if c.cell is Cell.ID), "")
        refs = [c for c in TABLES[table] if c.cell is Cell.REF]
        for row in tables[table]:
            for spec in refs:
                row[spec.name] = names.get(spec.of, {}).get(row[spec.name], "") if not spec.own else ""
        _chance.shuffle(tables[table])  # those that say the same stand in no order
        tables[table].sort(key=lambda row: [text for name, text in sorted(row.items()) if name != key])
        if not key:
            continue
        names[table] = {}
        for k, row in enumerate(tables[table], 1):
            new = f"water {k}" if table == "waters" else str(k)
            names[table][row[key]] = new
            row[key] = new
