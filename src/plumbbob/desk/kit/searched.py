"""A list that is searched by typing: rows painted by hand, arrows go through them while one types, Enter acts."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from plumbbob.desk.kit.paint import shade
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.models.session import Session

_DATA = Qt.ItemDataRole.UserRole
_STEPS = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -10, Qt.Key.Key_PageDown: 10}


def row_of(text: str, data: object, *, heads: bool = False) -> QListWidgetItem:
    """A row with what it stands for; one that only heads others cannot be chosen."""
    item = QListWidgetItem(text)
    item.setData(_DATA, data)
    if heads:
        item.setFlags(Qt.ItemFlag.NoItemFlags)
    return item


def data_of(item: QListWidgetItem | None) -> Any:
    """What a row stands for; None for a head or none."""
    return item.data(_DATA) if item is not None else None


class PaintedRow(QStyledItemDelegate):
    """Needs the session; a row is a few lines of text high, whatever their size."""

    def __init__(self, session: Session, lines: float, least_px: int, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._lines, self._least_px = session, lines, least_px

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        """As high as its lines."""
        return QSize(200, max(self._least_px, round(self._session.display.text_size * self._lines)))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        """The ground of a chosen row, then what is written on it."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, shade(self._session.display.theme.brass, 60))
        self.draw(painter, box, index.data(), index.data(_DATA))
        painter.restore()

    def draw(self, painter: QPainter, box: QRectF, text: str, data: Any) -> None:
        """What is written on a row."""


class SearchedSheet(Sheet):
    """A field above a list."""

    def __init__(self, session: Session, name: str, title: str, hint: str, host: QWidget) -> None:
        super().__init__(session, name, title, host, over=True)
        self.first = self.filter = QLineEdit()
        self.filter.setObjectName(f"{name}_filter")
        self.filter.setPlaceholderText(hint)
        self.filter.textChanged.connect(self.show_rows)
        self.filter.returnPressed.connect(self.go)
        self.list = QListWidget()
        self.list.setObjectName(f"{name}_list")

    def show_rows(self) -> None:
        """Those that what is typed finds."""

    def go(self) -> None:
        """Do what the chosen row stands for."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The arrows go through the list while one types; heads are passed over."""
        step = _STEPS.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        row = min(max(self.list.currentRow() + step, 0), self.list.count() - 1)
        while 0 < row < self.list.count() - 1 and data_of(self.list.item(row)) is None:
            row += 1 if step > 0 else -1
        self.list.setCurrentRow(row)
