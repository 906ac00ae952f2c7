"""All waters, last visited first, each with its outline; what can be done to a whole one, and to its files."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.extent import size_m
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.searched import PaintedRow, SearchedSheet, data_of, row_of
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.formats.waters import Water

_ROW_PX, _OUTLINE_PX = 52, 40


class _Row(PaintedRow):
    """An outline to the left, the name, and how large it is and where."""

    def draw(self, painter: QPainter, box: QRectF, text: str, water: Water) -> None:
        """One water."""
        display = self._session.display
        theme = display.theme
        painter.setPen(pen(theme.teal, 1.4))
        painter.setBrush(shade(theme.teal, 50))
        painter.drawPolygon(_outline(water, QRectF(box.left() + 8, box.top() + 6, _OUTLINE_PX, box.height() - 12)))
        left = box.left() + _OUTLINE_PX + 20
        here = water.key == self._session.water.key
        painter.setFont(font(display.text_size, bold=True))
        painter.setPen(QColor(theme.ink))
        middle = box.center().y()
        painter.drawText(QPointF(left, middle - 3), water.name + ("  ·  here" if here else ""))
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(left, middle + display.text_size + 3), _words(self._session, water))


def _words(session: Session, water: Water) -> str:
    if water.place is None:
        return "empty"
    across = size_m(_corners(water))
    wide = f"{session.display.words(across, Kind.DISTANCE, 0)} across · " if across > 0 else ""
    ns, ew = "NS"[water.place.latitude < 0], "EW"[water.place.longitude < 0]
    return f"{wide}{abs(water.place.latitude):.2f}° {ns} {abs(water.place.longitude):.2f}° {ew}"


def _facts(session: Session, water: Water) -> str:
    """What is known of a water: its clock, its level, what lives there, the boats one has on it."""
    display = session.display
    parts = [f"clock {water.time_zone}"]
    if water.altitude_m:
        parts.append(f"{display.words(water.altitude_m, Kind.DISTANCE, 0)} above the sea")
    if water.level_range_m is not None:
        low, high = (display.figure(v, Kind.DEPTH) for v in water.level_range_m)
        parts.append(f"level from {low} to {high} {display.unit(Kind.DEPTH)}")
    for title, names in (
        ("species", tuple(display.species(name) for name in water.species)),
        ("bait", tuple(b.name for b in water.baits)),
        ("boats", tuple(b.name for b in water.boats)),
    ):
        if names:
            parts.append(f"{title}: {', '.join(names[:6])}{' …' if len(names) > 6 else ''}")
    return " · ".join(parts)


def _corners(water: Water) -> Floats:
    return np.array(water.outline, float).reshape(-1, 2)


def _outline(water: Water, box: QRectF) -> QPolygonF:
    """North up, in true shape, in the middle of a box."""
    if len(water.outline) < 3:
        centre = box.center()
        return QPolygonF([centre + QPointF(dx, dy) for dx, dy in ((-3, 0), (0, -3), (3, 0), (0, 3))])
    squeeze = math.cos(math.radians(water.outline[0][0]))
    places = [(lon * squeeze, -lat) for lat, lon in water.outline]
    left, top = min(x for x, _ in places), min(y for _, y in places)
    wide, high = max(x for x, _ in places) - left, max(y for _, y in places) - top
    scale = min(box.width() / max(wide, 1e-9), box.height() / max(high, 1e-9))
    dx, dy = (box.width() - wide * scale) / 2, (box.height() - high * scale) / 2
    return QPolygonF(
        [QPointF(box.left() + dx + (x - left) * scale, box.top() + dy + (y - top) * scale) for x, y in places]
    )


class WatersSheet(SearchedSheet):
    """Needs the session and the window's files and tasks. Typing filters; Enter goes there."""

    def __init__(self, session: Session, asker: CommandHost, parent: QWidget) -> None:
        super().__init__(session, "waters", "Waters", "type a part of a name", parent)
        self._asker, self._keeper = asker, asker.tasks.waters
        row = QHBoxLayout()
        left = QVBoxLayout()
        self.filter.setAccessibleName("filter of waters")
        left.addWidget(self.filter)
        self.list.setAccessibleName("waters, last visited first")
        self.list.setItemDelegate(_Row(session, 3.6, _ROW_PX, self.list))
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.list.setMinimumHeight(240)
        self.list.itemDoubleClicked.connect(lambda _: self.go())
        self.list.itemSelectionChanged.connect(self._chosen)
        left.addWidget(self.list, 1)
        row.addLayout(left, 3)
        right = QVBoxLayout()
        right.addWidget(label("ITS FILES", "head"))
        self._files = QListWidget()
        self._files.setObjectName("waters_files")
        self._files.setAccessibleName("files of the chosen water")
        self._files.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self._files.itemSelectionChanged.connect(self._enable)
        right.addWidget(self._files, 1)
        self._facts = label("", "small", name="waters_facts")
        self._facts.setWordWrap(True)
        right.addWidget(self._facts)
        row.addLayout(right, 2)
        self.body.addLayout(row)
        acts = QHBoxLayout()
        self._buttons: dict[str, Button] = {}
        for name, words, act in (
            ("new", "New …", self._keeper.ask_new),
            ("rename", "Rename …", lambda: self._keeper.ask_rename(self._water())),
            ("merge", "Merge two", self._merge),
            ("split", "Files apart …", lambda: self._keeper.split(self._water(), self._paths())),
            ("move", "Files to …", lambda: self._keeper.move_files(self._water(), self._paths())),
            ("back_up", "Back up …", self._back_up),
            ("delete", "Delete", lambda: self._keeper.delete(self._water())),
        ):
            button = Button(words)
            button.setObjectName(f"waters_{name}")
            button.clicked.connect(lambda _=False, act=act: act())
            acts.addWidget(button)
            self._buttons[name] = button
        acts.addStretch(1)
        self.body.addLayout(acts)
        self.finish("Go there", self.go)
        self._keeper.listed.connect(self._listed)

    def fill(self) -> None:
        """The list of last time at once, and what has changed since a moment later."""
        self.filter.clear()
        self.show_rows()
        self._keeper.look()

    def _listed(self) -> None:
        if self.isVisible():
            self.show_rows()

    def show_rows(self) -> None:
        """Those whose name holds what is typed."""
        wanted = self.filter.text().strip().lower()
        before = {w.key for w in self._selected()}
        self.list.clear()
        for water in self._keeper.all:
            if wanted in water.name.lower():
                item = row_of(water.name, water)
                self.list.addItem(item)
                item.setSelected(water.key in before)
        others = [i for i in range(self.list.count()) if data_of(self.list.item(i)).key != self.session.water.key]
        if not self.list.selectedItems() and self.list.count():
            self.list.setCurrentRow(others[0] if others else 0)
        self._chosen()

    def _selected(self) -> list[Water]:
        return [data_of(item) for item in self.list.selectedItems()]

    def _water(self) -> Water:
        chosen = self._selected()
        return chosen[0] if chosen else self.session.water

    def _paths(self) -> list[Path]:
        return [data_of(item) for item in self._files.selectedItems()]

    def _chosen(self) -> None:
        self._files.clear()
        chosen = self._selected()
        if len(chosen) == 1:
            for path in self._asker.tasks.charter.waters.folder(chosen[0]).sources():
                self._files.addItem(row_of(path.stem, path))
        self._facts.setText(_facts(self.session, chosen[0]) if len(chosen) == 1 else "")
        self._enable()

    def _enable(self) -> None:
        chosen, files = len(self._selected()), len(self._files.selectedItems())
        for name in ("rename", "back_up", "delete"):
            self._buttons[name].setEnabled(chosen == 1)
        self._buttons["merge"].setEnabled(chosen == 2)
        for name in ("split", "move"):
            self._buttons[name].setEnabled(chosen == 1 and files > 0)

    def go(self) -> None:
        """To the chosen one."""
        chosen = self._selected()
        if len(chosen) == 1:
            self.session.ask_sheet("")
            self._keeper.go(chosen[0])

    def _merge(self) -> None:
        chosen = self._selected()
        if len(chosen) == 2:
            into, other = sorted(chosen, key=lambda w: -len(w.outline))
            self._keeper.merge(into, other)

    def _back_up(self) -> None:
        water = self._water()
        path = self._asker.save_path(f"Back up {water.name}", f"{water.key}.zip", "Backups (*.zip)")
        if path is not None:
            self._keeper.back_up(water, path)
