"""Marks and catches as tables."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QItemSelectionModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QHeaderView, QTableView, QVBoxLayout, QWidget

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.session import Session
from plumbbob.store.values import Catch, Mark

_Index = QModelIndex | QPersistentModelIndex
_BEADS = {"fish": "●", "bait": "○", "structure": "■", "hazard": "▲", "place": "+"}


class _Rows(QAbstractTableModel):
    """Rows of values, newest first, each column a heading, an alignment and words for a value."""

    def __init__(self, columns: list[tuple[str, bool, Callable[[Any], str]]]) -> None:
        super().__init__()
        self._columns = columns
        self.rows: list[Any] = []

    def fill(self, rows: list[Any]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = rows
        self.endResetModel()

    def rowCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: _Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self._columns)

    def data(self, index: _Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        _, numeric, words = self._columns[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return words(self.rows[index.row()])
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if numeric else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        return None

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if orientation is not Qt.Orientation.Horizontal:
            return None
        title, numeric, _ = self._columns[section]
        if role == Qt.ItemDataRole.DisplayRole:
            return title
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return (
                Qt.AlignmentFlag.AlignRight if numeric else Qt.AlignmentFlag.AlignLeft
            ) | Qt.AlignmentFlag.AlignVCenter
        return None


def _view(model: _Rows, name: str) -> QTableView:
    view = QTableView()
    view.setObjectName(name)
    view.setModel(model)
    view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    view.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    view.setAlternatingRowColors(True)
    view.setShowGrid(False)
    view.setWordWrap(False)
    view.verticalHeader().hide()
    view.verticalHeader().setDefaultSectionSize(30)
    header = view.horizontalHeader()
    header.setHighlightSections(False)
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    header.setStretchLastSection(True)
    return view


class LogTables(QWidget):
    """Needs the session and the actions; choosing a row chooses the mark."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self.setObjectName("logtables")
        self._session = session
        display, clock = session.display, session.clock

        def deep(value: float | None) -> str:
            return display.words(value, Kind.DEPTH) if value is not None else "–"

        self._marks = _Rows(
            [
                ("What", False, lambda m: f"{_BEADS[m.kind.value]} {m.kind.value}"),
                ("Caught / seen", True, lambda m: f"{len(session.logbook.catches_at(m.id))}/{m.seen}"),
                ("Down", True, lambda m: deep(m.depth_m)),
                ("Off bottom", True, lambda m: deep(m.height_above_bottom_m)),
                ("Bottom", True, lambda m: deep(m.bottom_depth_m)),
                ("When", True, lambda m: clock(m.time, "%d %b %H:%M")),
                ("Place", False, _place_words),
            ]
        )
        self._catches = _Rows(
            [
                ("Species", False, lambda c: display.species(c.species)),
                ("Length", True, lambda c: display.words(c.length_m, Kind.FISH) if c.length_m is not None else "–"),
                ("", False, lambda c: "kept" if c.kept else "released"),
                ("Lure at", True, lambda c: deep(c.lure_depth_m)),
                ("When", True, lambda c: clock(c.time, "%H:%M")),
                ("Rig", False, lambda c: c.rig),
            ]
        )
        self.marks_view, self.catches_view = _view(self._marks, "marks"), _view(self._catches, "catches")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 16, 10)
        row.setSpacing(16)
        for title, view, share in (("MARKS", self.marks_view, 11), ("CATCHES", self.catches_view, 9)):
            column = QVBoxLayout()
            column.setSpacing(5)
            column.addWidget(label(title, "head"))
            column.addWidget(view)
            row.addLayout(column, share)
        self.marks_view.addActions([actions[i] for i in ("mark.show", "mark.more", "mark.fewer", "mark.remove")])
        self.marks_view.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)
        self.marks_view.selectionModel().currentRowChanged.connect(self._picked)
        self._filling = False
        self._is_stale = True
        for signal in (session.logbook.changed, display.changed, session.water_changed):
            signal.connect(self._fill)
        session.logbook.chosen_changed.connect(self._show_chosen)

    def showEvent(self, event: QShowEvent) -> None:
        """What has changed while nobody looked."""
        super().showEvent(event)
        if self._is_stale:
            self._fill()

    def _fill(self) -> None:
        self._is_stale = not self.isVisible()
        if self._is_stale:
            return
        self._filling = True
        marks: list[Mark] = self._session.logbook.marks[::-1]
        catches: list[Catch] = self._session.logbook.catches[::-1]
        self._marks.fill(marks)
        self._catches.fill(catches)
        self._filling = False
        self._show_chosen()

    def _picked(self, index: QModelIndex) -> None:
        if not self._filling and index.isValid():
            self._session.logbook.choose(self._marks.rows[index.row()].id)

    def _show_chosen(self) -> None:
        if self._is_stale:
            return
        chosen = self._session.logbook.chosen
        rows = [i for i, m in enumerate(self._marks.rows) if chosen is not None and m.id == chosen.id]
        model = self.marks_view.selectionModel()
        if not rows:
            model.clear()
        elif model.currentIndex().row() != rows[0] or not model.hasSelection():
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
            model.setCurrentIndex(self._marks.index(rows[0], 0), flags)


def _place_words(mark: Mark) -> str:
    return write_position(Position(mark.latitude, mark.longitude))
