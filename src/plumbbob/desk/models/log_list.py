"""What of the log is listed: all kinds in one list, found by typing, cut by ranges, sorted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.tally.find import matches, parse_query
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.logbook import Logbook
from plumbbob.desk.models.trips_model import TripsModel
from plumbbob.store.values import CONTACTS, Catch, Mark, Moment, Trip

_DAY_S = 86_400.0


class Row(IntEnum):
    """Kinds of rows."""

    CATCH = 0
    BLANK = 1
    CONTACT = 2
    MARK = 3


CLASS_OF = {Row.CATCH: Catch, Row.BLANK: Trip, Row.CONTACT: Moment, Row.MARK: Mark}
NUMBERS = ("length_m", "weight_kg", "lure_depth_m", "fish_depth_m", "bottom_depth_m", "hour", "month")


@dataclass(slots=True)
class _Table:
    """All rows that could be listed, column by column."""

    kind: NDArray[np.int64]
    number: NDArray[np.int64]  # id within its kind
    time: Floats
    month: NDArray[np.int64]
    year: NDArray[np.int64]
    day: NDArray[np.int64]
    kept: Floats
    latitude: Floats
    longitude: Floats
    trip: list[str]
    water: list[str]
    what: list[str]
    place: list[str]
    texts: list[str]
    numbers: dict[str, Floats]


class LogList(QObject):
    """Needs logbook, trips and display. Looked at lazily: a change of the log costs nothing while nobody looks."""

    changed = Signal()
    asked = Signal()  # somebody wants to type

    def __init__(self, logbook: Logbook, trips: TripsModel, display: Display, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._book, self._trips, self._display = logbook, trips, display
        self.text = ""
        self.shows = {Row.CATCH, Row.BLANK, Row.MARK}
        self.ranges: dict[str, tuple[float, float]] = {}
        self.sort: tuple[str, bool] = ("time", True)  # by what, and whether the greatest comes first
        self._table: _Table | None = None
        self._found: NDArray[np.int64] | None = None
        trips.changed.connect(self.look_again)
        display.changed.connect(self._find_again)

    # -- asking -------------------------------------------------------------------------------------------------

    def set_text(self, text: str) -> None:
        """Find by what is typed."""
        if text != self.text:
            self.text = text
            self._find_again()

    def set_shown(self, kind: Row, on: bool) -> None:
        """List a kind of rows, or not."""
        if on != (kind in self.shows):
            self.shows ^= {kind}
            self._find_again()

    def set_range(self, name: str, span: tuple[float, float] | None) -> None:
        """Cut by a range of one of the numbers."""
        if span is None:
            self.ranges.pop(name, None)
        else:
            self.ranges[name] = span
        self._find_again()

    def set_sort(self, name: str, falling: bool) -> None:
        """Put in another order."""
        self.sort = (name, falling)
        self._find_again()

    def clear(self) -> None:
        """List everything again."""
        self.text, self.ranges = "", {}
        self._find_again()

    def look_again(self) -> None:
        """The log is another: the table is made anew when somebody looks."""
        self._table = None
        self._find_again()

    def _find_again(self) -> None:
        self._found = None
        self.changed.emit()

    # -- what is found ------------------------------------------------------------------------------------------

    @property
    def table(self) -> _Table:
        """All that could be listed."""
        if self._table is None:
            self._table = _made(self._book, self._trips, self._display.species)
        return self._table

    @property
    def found(self) -> NDArray[np.int64]:
        """Which rows of the table are listed, in order."""
        if self._found is None:
            self._found = self._find(self.ranges)
        return self._found

    def found_but(self, name: str) -> NDArray[np.int64]:
        """Those that would be listed without the cut by one number: what a distribution of it shows."""
        return self._find({k: v for k, v in self.ranges.items() if k != name}, in_order=False)

    def _find(self, ranges: dict[str, tuple[float, float]], *, in_order: bool = True) -> NDArray[np.int64]:
        t = self.table
        query = parse_query(self.text, self._display.system_of(Kind.FISH))
        mask = np.isin(t.kind, [int(k) for k in self.shows])
        if not query.is_empty:
            mask = matches(query, t.texts, t.month, t.year, t.kept, t.numbers, mask)
        for name, (low, high) in ranges.items():
            mask &= (t.numbers[name] >= low) & (t.numbers[name] <= high)
        found = np.flatnonzero(mask)
        return found[self._order(found)] if in_order else found

    def _order(self, found: NDArray[np.int64]) -> NDArray[np.int64]:
        name, falling = self.sort
        t = self.table
        if name in ("what", "place"):
            words = getattr(t, name)
            keys: Any = np.array([words[k] for k in found.tolist()], dtype=object)
            order = np.array(sorted(range(len(keys)), key=keys.__getitem__), dtype=np.int64)
            return order[::-1] if falling else order
        values = t.time[found] if name == "time" else t.numbers[name][found]
        order = np.argsort(-values if falling else values, kind="stable")
        return order

    def value(self, row: int) -> Any:
        """What a row of the table stands for."""
        t = self.table
        return self._book.all(CLASS_OF[Row(int(t.kind[row]))]).by_id(int(t.number[row]))

    def summary(self) -> tuple[int, int, int, float]:
        """Catches, trips, days and rod hours of what is listed."""
        t, found = self.table, self.found
        catches = int((t.kind[found] == Row.CATCH).sum())
        trips = {t.trip[k] for k in found.tolist() if t.trip[k]}
        hours = self._trips.hours
        days = len(np.unique(t.day[found])) if found.size else 0
        return catches, len(trips), days, sum(hours.get(r, 0.0) for r in trips)


def _made(book: Logbook, trips: TripsModel, species: Callable[[str], str]) -> _Table:
    catches, moments, marks, outings = book.catches, book.moments, book.all(Mark), book.trips
    trip_water = dict(zip(outings.cells("ref"), outings.cells("water"), strict=True))
    spots = dict(zip(book.efforts.cells("ref"), book.efforts.cells("spot"), strict=True))
    lures = dict(zip(book.efforts.cells("ref"), book.efforts.cells("lure"), strict=True))
    mark_at = {m: k for k, m in enumerate(marks.cells("id"))}
    kinds: list[int] = []
    numbers: list[int] = []
    time: list[float | None] = []
    kept: list[float] = []
    columns: dict[str, list[float | None]] = {n: [] for n in (*NUMBERS[:5], "latitude", "longitude")}
    trip: list[str] = []
    water: list[str] = []
    what: list[str] = []
    place: list[str] = []
    notes: list[str] = []

    def numbers_of(held: Any, take: list[int] | None) -> None:
        have = set(held.names)
        for name, column in columns.items():
            cells = held.cells(name) if name in have else [None] * len(held)
            column += cells if take is None else [cells[k] for k in take]

    # catches
    n = len(catches)
    kinds += [int(Row.CATCH)] * n
    numbers += catches.cells("id")
    time += catches.cells("time")
    kept += [float(k) for k in catches.cells("kept")]
    trip += catches.cells("trip")
    at = [mark_at.get(m) if m is not None else None for m in catches.cells("mark_id")]
    mark_water, mark_name = marks.cells("water"), marks.cells("name")
    water += [
        trip_water.get(t) or (mark_water[k] if k is not None else "")
        for t, k in zip(catches.cells("trip"), at, strict=True)
    ]
    what += [species(s) for s in catches.cells("species")]
    place += [
        spots.get(e) or (mark_name[k] if k is not None else "")
        for e, k in zip(catches.cells("effort"), at, strict=True)
    ]
    notes += [
        f"{r} {lures.get(e, '')} {o} {a} {s}"
        for r, e, o, a, s in zip(
            *(catches.cells(c) for c in ("rig", "effort", "note", "angler", "species")), strict=True
        )
    ]
    numbers_of(catches, None)
    for k, mark in enumerate(at):
        if mark is not None and columns["latitude"][k] is None:
            # a catch without a place of its own lies where its mark does
            for name in ("latitude", "longitude", "bottom_depth_m"):
                columns[name][k] = columns[name][k] if columns[name][k] is not None else marks.cells(name)[mark]
    # trips without a fish
    with_fish = set(catches.cells("trip"))
    blank = [k for k, ref in enumerate(outings.cells("ref")) if ref not in with_fish]
    kinds += [int(Row.BLANK)] * len(blank)
    for name, column in (("id", numbers), ("start", time), ("ref", trip), ("water", water), ("note", notes)):
        cells = outings.cells(name)
        column += [cells[k] for k in blank]
    kept += [np.nan] * len(blank)
    what += ["no fish"] * len(blank)
    first_spot: dict[str, str] = {}
    for ref, spot in zip(book.efforts.cells("trip"), book.efforts.cells("spot"), strict=True):
        if spot:
            first_spot.setdefault(ref, spot)
    place += [first_spot.get(outings.cells("ref")[k], "") for k in blank]
    numbers_of(outings, blank)
    # contacts
    words = {k.value for k in CONTACTS}
    seen = [k for k, kind in enumerate(moments.cells("kind")) if kind in words]
    kinds += [int(Row.CONTACT)] * len(seen)
    for name, column in (("id", numbers), ("time", time), ("trip", trip), ("kind", what), ("note", notes)):
        cells = moments.cells(name)
        column += [cells[k] for k in seen]
    kept += [np.nan] * len(seen)
    moment_water, moment_trip = moments.cells("water"), moments.cells("trip")
    water += [trip_water.get(moment_trip[k]) or moment_water[k] for k in seen]
    place += [""] * len(seen)
    numbers_of(moments, seen)
    # marks
    kinds += [int(Row.MARK)] * len(marks)
    numbers += marks.cells("id")
    time += marks.cells("time")
    kept += [np.nan] * len(marks)
    trip += [""] * len(marks)
    water += marks.cells("water")
    what += [f"{k} mark" for k in marks.cells("kind")]
    place += marks.cells("name")
    notes += marks.cells("note")
    start = len(columns["fish_depth_m"])
    numbers_of(marks, None)
    columns["fish_depth_m"][start:] = marks.cells("depth_m")
    texts = [f"{w} {a} {b} {c}".lower() for w, a, b, c in zip(what, place, water, notes, strict=True)]
    when = np.array(time, dtype=np.float64)
    local = when + _offsets(water, when, trips)
    stamps = np.where(np.isfinite(local), local, 0.0).astype("datetime64[s]")
    months = stamps.astype("datetime64[M]").astype(np.int64)
    known = np.isfinite(when)
    values = {name: np.array(column, dtype=np.float64) for name, column in columns.items()}
    values["hour"] = np.where(known, (local % _DAY_S) / 3600.0, np.nan)
    values["month"] = np.where(known, months % 12 + 1.0, np.nan)
    latitude, longitude = values.pop("latitude"), values.pop("longitude")
    return _Table(
        kind=np.array(kinds, dtype=np.int64),
        number=np.array(numbers, dtype=np.int64),
        time=when,
        month=np.where(known, months % 12 + 1, 0),
        year=np.where(known, months // 12 + 1970, 0),
        day=np.where(known, stamps.astype("datetime64[D]").astype(np.int64), -1),
        kept=np.array(kept, dtype=np.float64),
        latitude=latitude,
        longitude=longitude,
        trip=trip,
        water=water,
        what=what,
        place=place,
        texts=texts,
        numbers=values,
    )


def _offsets(water: list[str], when: Floats, trips: TripsModel) -> Floats:
    """How far each row's own clock is from UTC, seconds; good to an hour about the change to summer time."""
    offset = np.zeros(when.size)
    if not water:
        return offset
    names, code = np.unique(np.array(water, dtype=str), return_inverse=True)
    for k, name in enumerate(names.tolist()):
        zone = trips.zone_of(name)
        mine = code == k
        stamps = when[mine & np.isfinite(when)]
        if zone is None or not stamps.size:
            continue
        shift = datetime.fromtimestamp(float(np.median(stamps)), UTC).astimezone(zone).utcoffset()
        offset[mine] = shift.total_seconds() if shift is not None else 0.0
    return offset


def trip_of(value: Any) -> str:
    """The name of the trip a row belongs to."""
    return value.ref if isinstance(value, Trip) else getattr(value, "trip", "")
