"""The log as one list: what is listed is made into words only where it is seen."""

from __future__ import annotations

import math
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QItemSelectionModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QFont
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.log.words import DASH, light_words, rod_words, when_words
from plumbbob.store.values import Catch, Mark, Moment, Trip

_Index = QModelIndex | QPersistentModelIndex
# title, what it is sorted by, whether it stands to the right, a sample of its width
_COLUMNS = (
    ("When", "time", False, "30 Sep 2025 00:00"), ("What", "what", False, "● yellow perch 3/8"),
    ("Length", "length_m", True, "000.0 in"), ("", "", False, "released x"),
    ("Lure", "lure_depth_m", True, "000.0 ft"), ("Bottom", "bottom_depth_m", True, "000.0 ft"),
    ("Where", "place", False, "Old Kell channel x"),
    ("Rod and lure", "", False, "jig below the boat, blade 12 g"), ("Light", "", False, "high sun"),
)  # fmt: skip
_BEADS = {"fish": "●", "bait": "○", "structure": "■", "hazard": "▲", "place": "+"}
_ROW = 28


class ListModel(QAbstractTableModel):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._list = session.listed
        self._count = 0

    def refill(self) -> None:
        """Something else is listed."""
        self.beginResetModel()
        self._count = int(self._list.found.size)
        self.endResetModel()

    def value(self, row: int) -> Any:
        """What a row stands for."""
        found = self._list.found
        return self._list.value(int(found[row])) if 0 <= row < found.size else None

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else self._count

    def columnCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(_COLUMNS)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if _COLUMNS[index.column()][2] else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if (
            role == Qt.ItemDataRole.ForegroundRole
            and self._list.table.kind[self._list.found[index.row()]] == Row.BLANK
        ):
            return QColor(self._session.display.theme.muted_text)
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        words = self.words(index.row(), index.column())
        return words if role == Qt.ItemDataRole.DisplayRole or index.column() == 7 else None

    def words(self, row: int, column: int) -> str:
        """One cell."""
        session, found = self._session, self._list.found
        if row >= found.size:
            return ""
        k = int(found[row])
        table, value = self._list.table, self._list.value(k)
        if value is None:
            return ""
        title, name, _, _ = _COLUMNS[column]
        if title == "When":
            return when_words(session, float(table.time[k]), table.water[k])
        if title == "What":
            return self._what(value)
        if name in ("length_m", "lure_depth_m", "bottom_depth_m"):
            number = float(table.numbers[name][k])
            if not math.isfinite(number):
                return "" if name == "length_m" else DASH
            return session.display.words(number, Kind.FISH if name == "length_m" else Kind.DEPTH)
        if title == "":
            return ("kept" if value.kept else "released") if isinstance(value, Catch) else ""
        if title == "Where":
            place = table.place[k]
            return place or table.water[k]
        if title == "Rod and lure":
            return rod_words(session, value)
        latitude, longitude = float(table.latitude[k]), float(table.longitude[k])
        here = Position(latitude, longitude) if math.isfinite(latitude) and math.isfinite(longitude) else None
        return light_words(here, float(table.time[k])) if isinstance(value, Catch | Moment) else ""

    def _what(self, value: Any) -> str:
        session = self._session
        if isinstance(value, Catch):
            return f"● {session.display.species(value.species)}"
        if isinstance(value, Trip):
            return "○ no fish"
        if isinstance(value, Mark):
            return f"{_BEADS[value.kind.value]} {value.kind.value} {session.logbook.caught_at(value)}/{value.seen}"
        count = f" {value.count:g}" if value.count is not None and value.count > 1 else ""
        return f"◦ {value.kind.value}{count}"

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        title, _, right, _ = _COLUMNS[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return title
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None


class ListView(QTableView):
    """Needs the session; choosing a row shows its trip, or chooses its mark."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("loglist")
        self._session = session
        self._rows = ListModel(session)
        self.setModel(self._rows)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setAlternatingRowColors(True)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.verticalHeader().hide()
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        header = self.horizontalHeader()
        header.setHighlightSections(False)
        header.setStretchLastSection(True)
        header.setSectionsClickable(True)
        header.setSortIndicatorShown(True)
        header.sectionClicked.connect(self._sort)
        self.selectionModel().currentRowChanged.connect(self._picked)
        self._filling = False
        session.listed.changed.connect(self.fill)
        session.trips.chosen_changed.connect(self._follow)
        session.logbook.chosen_changed.connect(self._follow)

    def fill(self) -> None:
        """Show what is listed; nothing is done while nobody looks."""
        if not self.isVisible():
            return
        self._filling = True
        self._rows.refill()
        self._size()
        self._filling = False
        self._follow()

    def _size(self) -> None:
        """Columns as wide as what stands in them usually is."""
        made = QFont(self.font())
        self.setFont(made)
        metrics = self.fontMetrics()
        self.verticalHeader().setDefaultSectionSize(max(_ROW, metrics.height() + 8))
        for k, (_, _, _, sample) in enumerate(_COLUMNS):
            self.setColumnWidth(k, metrics.horizontalAdvance(sample) + 14)
        names = [c[1] for c in _COLUMNS]
        by, falling = self._session.listed.sort
        order = Qt.SortOrder.DescendingOrder if falling else Qt.SortOrder.AscendingOrder
        self.horizontalHeader().setSortIndicator(names.index(by), order)

    def _sort(self, section: int) -> None:
        name = _COLUMNS[section][1]
        if name:
            by, falling = self._session.listed.sort
            self._session.listed.set_sort(name, not falling if by == name else name not in ("what", "place"))

    def _picked(self, index: QModelIndex) -> None:
        if self._filling or not index.isValid():
            return
        value, session = self._rows.value(index.row()), self._session
        if isinstance(value, Mark):
            session.logbook.choose(value.id)
            return
        if isinstance(value, Trip):
            session.trips.choose(value.id)
        elif value is not None:
            trip = session.trips.by_ref(value.trip)
            if trip is not None:
                session.trips.choose(trip.id)
                session.trips.pick(value)
            if isinstance(value, Catch) and value.mark_id is not None:
                session.logbook.choose(value.mark_id)

    def _follow(self) -> None:
        """What is picked elsewhere is the chosen row, where it is listed."""
        if not self.isVisible() or self._filling:
            return
        session = self._session
        wanted: Any = session.trips.picked
        current = self._rows.value(self.currentIndex().row()) if self.currentIndex().isValid() else None
        if wanted is None:
            wanted = session.logbook.chosen
        if wanted is None or current == wanted:
            return
        table, found = session.listed.table, session.listed.found
        kind = {Catch: Row.CATCH, Moment: Row.CONTACT, Mark: Row.MARK}.get(type(wanted))
        if kind is None:
            return
        rows = ((table.kind[found] == kind) & (table.number[found] == wanted.id)).nonzero()[0]
        if rows.size:
            self._filling = True
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
            index = self._rows.index(int(rows[0]), 0)
            self.selectionModel().setCurrentIndex(index, flags)
            self.scrollTo(index)
            self._filling = False
