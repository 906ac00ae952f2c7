"""Catches in any table of text: its separator, its decimal sign and its dates as somebody, somewhere, writes them."""

from __future__ import annotations

import csv
import io
import math
import re
import sys
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, tzinfo
from enum import Enum
from pathlib import Path

from plumbbob.core.units import Kind, System, parse
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why

_MOST_BYTES, _MOST_ROWS = 200_000_000, 500_000


class DateOrder(Enum):
    """How the numbers of a date follow each other."""

    YEAR_FIRST = "2026-08-15"
    DAY_FIRST = "15.08.2026"
    MONTH_FIRST = "08/15/2026"


class Into(Enum):
    """What a column may be."""

    TIME = "time"
    DATE = "date"
    SPECIES = "species"
    LENGTH = "length"
    WEIGHT = "weight"
    KEPT = "kept"
    WATER = "water"
    LATITUDE = "latitude"
    LONGITUDE = "longitude"
    DEPTH = "depth"
    LURE = "lure"
    NOTE = "note"


_NAMES: dict[Into, tuple[str, ...]] = {
    Into.DATE: ("date", "day", "datum", "fecha", "jour"),
    Into.TIME: ("time", "when", "zeit", "uhrzeit", "hora", "heure", "timestamp", "datetime"),
    Into.SPECIES: ("species", "fish", "fisch", "art", "especie", "pez", "espece", "poisson"),
    Into.LENGTH: ("length", "size", "laenge", "länge", "longitud", "talla", "longueur", "taille", "cm", "inch"),
    Into.WEIGHT: ("weight", "gewicht", "peso", "poids", "kg", "lb"),
    Into.KEPT: ("kept", "keep", "released", "release", "fate", "mitgenommen"),
    Into.WATER: ("water", "lake", "river", "gewässer", "gewaesser", "see", "agua", "lac", "location"),
    Into.LATITUDE: ("latitude", "lat", "breite"),
    Into.LONGITUDE: ("longitude", "lon", "lng", "long", "länge_geo"),
    Into.DEPTH: ("depth", "tiefe", "profundidad", "profondeur"),
    Into.LURE: ("lure", "bait", "köder", "koeder", "senuelo", "leurre", "fly"),
    Into.NOTE: ("note", "notes", "comment", "remarks", "bemerkung", "notiz", "notizen", "notas"),
}
_YES = {"1", "yes", "y", "true", "kept", "keep", "ja", "si", "oui", "x", "mitgenommen"}
_NO = {"0", "no", "n", "false", "released", "release", "nein", "non", ""}
_DATE = re.compile(r"(\d{1,4})[./\- ](\d{1,2})[./\- ](\d{1,4})")
_CLOCK = re.compile(r"(\d{1,2})[:.h](\d{2})(?:[:.](\d{2}))?\s*([ap]m)?", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Sheet:
    """A table as it stands."""

    path: Path
    header: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    decimal_comma: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CaughtRow:
    """One fish of the table, SI; None and empty where nothing is said."""

    time: float | None
    species: str
    length_m: float | None = None
    weight_kg: float | None = None
    kept: bool = False
    water: str = ""
    latitude: float | None = None
    longitude: float | None = None
    lure_depth_m: float | None = None
    lure: str = ""
    note: str = ""


def read_sheet(path: Path) -> Sheet:
    """
    A table of text, whatever separates its cells; UTF-8, else as Western Windows wrote it.

    Raises
    ------
    FileError
    """
    plain_file(path, _MOST_BYTES)
    try:
        data = path.read_bytes()
    except OSError as exc:
        raise FileError(path, "", why(exc)) from exc
    if b"\0" in data[:4096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise FileError(path, "", "is no table of text")
    text = _decoded(data)
    first = next((line for line in text.splitlines() if line.strip()), "")
    separator = max(";\t,|", key=first.count)
    csv.field_size_limit(sys.maxsize)
    try:
        rows = [
            r for r in csv.reader(io.StringIO(text, newline=""), delimiter=separator) if any(c.strip() for c in r)
        ]
    except csv.Error as exc:
        raise FileError(path, "", f"is no table that can be read: {exc}") from exc
    if len(rows) < 2 or len(rows[0]) < 2:
        raise FileError(path, "", "needs a row of headings, and rows below it with more than one column")
    if len(rows) > _MOST_ROWS:
        raise FileError(path, "", f"holds {len(rows)} rows; at most {_MOST_ROWS} are read")
    header = tuple(h.strip() or f"column {k}" for k, h in enumerate(rows[0], 1))
    body = tuple(tuple(c.strip() for c in r[: len(header)]) + ("",) * (len(header) - len(r)) for r in rows[1:])
    cells = [c for r in body[:2000] for c in r]
    comma = sum(bool(re.fullmatch(r"-?\d+,\d+", c)) for c in cells) > sum(
        bool(re.fullmatch(r"-?\d+\.\d+", c)) for c in cells
    )
    return Sheet(path, header, body, comma)


def _decoded(data: bytes) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def guess(sheet: Sheet) -> dict[Into, int]:
    """Which column could be what, by its heading; the first that fits, each column once."""
    found: dict[Into, int] = {}
    for into, names in _NAMES.items():
        for k, head in enumerate(sheet.header):
            words = set(re.split(r"[^\w]+|_", head.lower()))
            if k not in found.values() and words & set(names):
                found[into] = k
                break
    return found


def date_orders(sheet: Sheet, mapping: Mapping[Into, int]) -> list[DateOrder]:
    """Every order in which all dates of the table make sense; two where somebody has to be asked."""
    column = mapping.get(Into.DATE, mapping.get(Into.TIME))
    if column is None:
        return []
    parts = [m for r in sheet.rows if (m := _DATE.search(r[column])) is not None]
    if not parts:
        return []
    return [order for order in DateOrder if all(_date_of(m, order) is not None for m in parts)]


def _date_of(found: re.Match[str], order: DateOrder) -> tuple[int, int, int] | None:
    a, b, c = (int(found[k]) for k in (1, 2, 3))
    year, month, day = {
        DateOrder.YEAR_FIRST: (a, b, c), DateOrder.DAY_FIRST: (c, b, a), DateOrder.MONTH_FIRST: (c, a, b),
    }[order]  # fmt: skip
    if order is DateOrder.YEAR_FIRST and len(found[1]) != 4:
        return None
    if len(found[3 if order is not DateOrder.YEAR_FIRST else 1]) == 2:
        year += 2000
    try:
        datetime(year, month, day)
    except ValueError:
        return None
    return year, month, day


def caught(
    sheet: Sheet, mapping: Mapping[Into, int], order: DateOrder | None, system: System, zone: tzinfo
) -> tuple[list[CaughtRow], list[str]]:
    """
    The fish of a table, and a line for each row that could not be used.

    Parameters
    ----------
    sheet : Sheet
    mapping : mapping
        Which column is what; a species is needed.
    order : DateOrder or None
        Of the dates; None where the table has none.
    system : System
        Meant by bare numbers; units in a heading or beside a number win.
    zone : tzinfo
        In which the times are meant.
    """
    rows: list[CaughtRow] = []
    problems: list[str] = []
    for line, cells in enumerate(sheet.rows, 2):
        try:
            rows.append(_caught(sheet, cells, mapping, order, system, zone))
        except ValueError as exc:
            problems.append(f"row {line}: {exc}")
    return rows, problems


def _caught(
    sheet: Sheet,
    cells: Sequence[str],
    mapping: Mapping[Into, int],
    order: DateOrder | None,
    system: System,
    zone: tzinfo,
) -> CaughtRow:
    def text(into: Into) -> str:
        k = mapping.get(into)
        return "" if k is None else cells[k]

    def quantity(into: Into, kind: Kind) -> float | None:
        k = mapping.get(into)
        if k is None or not cells[k]:
            return None
        value = cells[k].replace(",", ".") if sheet.decimal_comma else cells[k]
        unit = re.search(r"\b(cm|mm|in|inch|kg|g|lb|lbs|oz|m|ft)\b", sheet.header[k].lower())
        if unit and re.fullmatch(r"-?[\d.,]+", value):
            value += {"inch": "in", "lbs": "lb"}.get(unit[1], unit[1])
        return parse(value, kind, system)

    def degrees(into: Into) -> float | None:
        value = text(into).replace(",", ".") if sheet.decimal_comma else text(into)
        if not value:
            return None
        number = float(value)
        if not (math.isfinite(number) and abs(number) <= (90.0 if into is Into.LATITUDE else 360.0)):
            raise ValueError(f"{into.value} {value} cannot be")
        return number

    species = text(Into.SPECIES)
    if not species:
        raise ValueError("no fish is named")
    kept = text(Into.KEPT).lower()
    if kept not in _YES | _NO:
        raise ValueError(f'"{kept[:20]}" says neither kept nor released')
    backwards = "releas" in (sheet.header[mapping[Into.KEPT]].lower() if Into.KEPT in mapping else "")
    return CaughtRow(
        time=_time(text(Into.DATE), text(Into.TIME), order, zone),
        species=species,
        length_m=quantity(Into.LENGTH, Kind.FISH),
        weight_kg=quantity(Into.WEIGHT, Kind.WEIGHT),
        kept=(kept in _NO and kept != "") if backwards else kept in _YES,
        water=text(Into.WATER),
        latitude=degrees(Into.LATITUDE),
        longitude=degrees(Into.LONGITUDE),
        lure_depth_m=quantity(Into.DEPTH, Kind.DEPTH),
        lure=text(Into.LURE),
        note=text(Into.NOTE),
    )


def _time(date: str, clock: str, order: DateOrder | None, zone: tzinfo) -> float | None:
    """Noon where a day has no time."""
    both = f"{date} {clock}".strip()
    if not both:
        return None
    if re.fullmatch(r"\d{4}-\d\d-\d\dT.*(Z|[+-]\d\d:?\d\d)", both):
        return datetime.fromisoformat(both).timestamp()
    found = _DATE.search(both)
    parts = _date_of(found, order) if found is not None and order is not None else None
    if found is None or parts is None:
        raise ValueError(f'"{both[:30]}" is no date')
    rest = (both[: found.start()] + " " + both[found.end() :]).replace("T", " ")
    at = _CLOCK.search(rest)
    hour, minute, second = 12, 0, 0
    if at is not None:
        hour, minute, second = int(at[1]), int(at[2]), int(at[3] or 0)
        if at[4]:
            hour = hour % 12 + (12 if at[4].lower() == "pm" else 0)
    try:
        return datetime(*parts, hour, minute, second, tzinfo=zone).timestamp()
    except (ValueError, OverflowError) as exc:
        raise ValueError(f'"{both[:30]}" is no time') from exc
