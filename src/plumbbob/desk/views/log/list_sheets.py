"""Lists over the log: what was taken out, what was marked twice, good copies. Enter acts on the chosen row."""

from __future__ import annotations

import math
from datetime import UTC, datetime
from typing import Any

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QWidget

from plumbbob.core.geodesy import offset, separation
from plumbbob.core.tally.doubles import USUAL_SD_M, Merged, merged, same_thing
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font
from plumbbob.desk.kit.searched import PaintedRow, SearchedSheet, data_of, row_of
from plumbbob.desk.models import trip_edit
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.log_files import LogFiles
from plumbbob.desk.views.log.words import caught_words, trip_words
from plumbbob.store.copies import day_of, good_copies
from plumbbob.store.database import count_rows
from plumbbob.store.errors import StoreError
from plumbbob.store.log import Thrown
from plumbbob.store.values import Catch, Effort, Limit, Mark, MarkKind, Moment, Trip


class _Line(PaintedRow):
    """A row as its text and, to the right, what it is."""

    def draw(self, painter: QPainter, box: QRectF, text: str, data: Any) -> None:
        """Words left, more words right and quieter."""
        theme, size = self._session.display.theme, self._session.display.text_size
        left, _, right = text.partition("\t")
        painter.setFont(font(size))
        painter.setPen(QColor(theme.ink if data is not None else theme.muted_text))
        painter.drawText(box.adjusted(8, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, left)
        painter.setFont(font(size * 0.85))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(
            box.adjusted(8, 0, -8, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, right
        )


class _Listed(SearchedSheet):
    """A list whose rows are words with what they stand for."""

    def __init__(self, session: Session, name: str, title: str, hint: str, words: str, host: QWidget) -> None:
        super().__init__(session, name, title, hint, host)
        self.list.setItemDelegate(_Line(session, 2.2, 30, self.list))
        self.list.setMinimumHeight(220)
        self.body.addWidget(self.filter)
        self.body.addWidget(self.list)
        self._rows: list[tuple[str, Any]] = []
        self._empty = ""
        self.finish(words, self.go)
        self.list.itemActivated.connect(lambda _: self.go())

    def rows(self) -> list[tuple[str, Any]]:
        """What there is."""
        raise NotImplementedError

    def fill(self) -> None:
        """All there is."""
        self._rows = self.rows()
        self.filter.clear()
        self.show_rows()

    def show_rows(self) -> None:
        """Those with all the words that are typed."""
        words = self.filter.text().lower().split()
        self.list.clear()
        for text, data in self._rows:
            if all(w in text.lower() for w in words):
                self.list.addItem(row_of(text, data))
        if not self.list.count():
            self.list.addItem(row_of(self._empty, None, heads=True))
        else:
            self.list.setCurrentRow(0)


class TrashSheet(_Listed):
    """Needs the session."""

    def __init__(self, session: Session, host: QWidget) -> None:
        super().__init__(session, "trash", "What was taken out", "find among it", "Put it back", host)
        self._empty = "nothing was taken out"

    def rows(self) -> list[tuple[str, Any]]:
        """The latest first."""
        try:
            thrown = self.session.logbook.log.trash()
        except StoreError as exc:
            self.session.say(str(exc), wrong=True)
            return []
        return [(f"{value_words(self.session, t.value)}\tout since {self._day(t.time)}", t) for t in thrown]

    def _day(self, time: float) -> str:
        when = datetime.fromtimestamp(time, UTC).astimezone(self.session.water.clock)
        return f"{when.day} {when:%b %H:%M}"

    def go(self) -> None:
        """Put the chosen row back."""
        thrown = data_of(self.list.currentItem())
        if not isinstance(thrown, Thrown):
            return
        value = thrown.value
        if isinstance(value, Catch) and value.mark_id is not None:
            mark = self.session.logbook.all(Mark).by_id(value.mark_id)
            if mark is None:
                self.session.say("Put its mark back first.", wrong=True)
                return
        try:
            self.session.logbook.edit("return", [value])
        except StoreError as exc:
            self.session.say(str(exc), wrong=True)
            return
        self.session.say(f"{value_words(self.session, value)} is back.  Z takes it out again.")
        self.refresh()


class TwiceSheet(_Listed):
    """Needs the session. Offered, never done by itself."""

    def __init__(self, session: Session, host: QWidget) -> None:
        super().__init__(session, "twice", "Marked twice", "find among them", "Make them one", host)
        self._empty = "no two marks look like one thing"

    def rows(self) -> list[tuple[str, Any]]:
        """Groups of marks that lie within their own spread."""
        marks = self.session.logbook.marks
        if len(marks) < 2:
            return []
        latitude, longitude = marks.numbers("latitude"), marks.numbers("longitude")
        x, y = separation(latitude[0], longitude[0], latitude, longitude)
        kinds = {k.value: i for i, k in enumerate(MarkKind)}
        kind = np.array([kinds[c] for c in marks.cells("kind")])
        columns = [marks.numbers(n) for n in ("position_sd_m", "depth_m", "bottom_depth_m")]
        # waters lie far apart: metres about the first mark order them, and near each other they are true
        scale = np.cos(np.radians(latitude)) / np.cos(np.radians(latitude[0]))
        groups = same_thing(x * scale, y, columns[0], columns[1], columns[2], kind)
        rows = []
        for group in groups:
            mine = [marks[int(k)] for k in group]
            one = merged(x[group], y[group], *(c[group] for c in columns))
            far = float(np.hypot(np.ptp(x[group]), np.ptp(y[group])))
            name = next((m.name for m in mine if m.name), mine[0].kind.value)
            say = self.session.display.words
            apart = f"{say(far, Kind.DISTANCE)} apart"
            depth = "" if math.isnan(one.depth_m) else f", {say(one.depth_m, Kind.DEPTH)} down"
            rows.append((f"{len(mine)} x {name}{depth}\t{apart}, together ±{one.sd_m:.1f} m", (mine, one)))
        return rows

    def go(self) -> None:
        """Make the chosen group one mark, placed by how well each is."""
        data = data_of(self.list.currentItem())
        if not isinstance(data, tuple):
            return
        mine, one = data
        try:
            trip_edit.merge(self.session.logbook, mine, merged_mark(mine, one))
        except StoreError as exc:
            self.session.say(str(exc), wrong=True)
            return
        self.session.say(f"{len(mine)} marks are one now, good to ±{one.sd_m:.1f} m.  Z takes it back.")
        self.refresh()


def merged_mark(marks: list[Mark], one: Merged) -> Mark:
    """The oldest mark with the place of all, what was seen at most at once, and all that was noted."""
    from dataclasses import replace

    first = min(marks, key=lambda m: m.time)
    weights = [1.0 / max(m.position_sd_m or USUAL_SD_M, 0.1) ** 2 for m in marks]
    east = north = 0.0
    for mark, weight in zip(marks, weights, strict=True):
        x, y = separation(first.latitude, first.longitude, mark.latitude, mark.longitude)
        east += float(x) * weight / sum(weights)
        north += float(y) * weight / sum(weights)
    latitude, longitude = offset(first.latitude, first.longitude, east, north)
    notes = list(dict.fromkeys(m.note for m in marks if m.note))
    return replace(
        first, latitude=float(latitude), longitude=float(longitude), position_sd_m=round(one.sd_m, 2),
        depth_m=None if math.isnan(one.depth_m) else round(one.depth_m, 2),
        bottom_depth_m=None if math.isnan(one.bottom_m) else round(one.bottom_m, 2),
        seen=max(m.seen for m in marks), caught=sum(m.caught for m in marks),
        name=next((m.name for m in marks if m.name), ""), note="; ".join(notes),
    )  # fmt: skip


class CopiesSheet(_Listed):
    """Needs the session and what puts a copy back."""

    def __init__(self, session: Session, files: LogFiles, host: QWidget) -> None:
        super().__init__(
            session, "copies", "Good copies of the log", "find by day", "Put it in the log's place", host
        )
        self._files = files
        self._empty = "no good copy lies beside the log yet"

    def rows(self) -> list[tuple[str, Any]]:
        """The newest first."""
        try:
            path = self.session.logbook.log.path
            return [(f"{day_of(c)}\t{count_rows(c)} rows, {c.name}", c) for c in good_copies(path)]
        except (StoreError, OSError) as exc:
            self.session.say(str(exc), wrong=True)
            return []

    def go(self) -> None:
        """Put it back; what was there is a copy now."""
        copy = data_of(self.list.currentItem())
        if copy is None:
            return
        self.session.ask_sheet("")
        self._files.restore(copy)


def value_words(session: Session, value: Any) -> str:
    """A row of the log in a few words."""
    if isinstance(value, Catch):
        return f"● {caught_words(session, value)}, {_day(session, value.time)}"
    if isinstance(value, Mark):
        return f"{value.kind.value} mark {value.name}".strip() + f", {_day(session, value.time)}"
    if isinstance(value, Trip):
        return f"trip, {trip_words(session, value)}"
    if isinstance(value, Effort):
        what = ", ".join(p for p in (value.lure, value.spot) if p)
        return f"stretch, {what}, {_day(session, value.start)}"
    if isinstance(value, Moment):
        return f"{value.kind.value}, {_day(session, value.time)}"
    if isinstance(value, Limit):
        return f"limit, {value.species} {value.water}".strip()
    return type(value).__name__


def _day(session: Session, time: float | None) -> str:
    if time is None or not math.isfinite(time):
        return "no day"
    when = session.local(time)
    return f"{when.day} {when:%b %Y %H:%M}"
