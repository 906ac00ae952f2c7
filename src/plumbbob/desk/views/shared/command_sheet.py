"""Everything that can be done, searched by any part of a word: what works here now comes first; Enter does it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter
from PySide6.QtWidgets import (
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.commands.table import GESTURES
from plumbbob.desk.kit.paint import font, shade
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.models.recent import recent_files
from plumbbob.desk.models.session import Session

_ENTRY = Qt.ItemDataRole.UserRole


class _Entry:
    """One row: what it is called, its keys, where it stands, and what it does; None: it can only be read."""

    def __init__(
        self, title: str, keys: str, where: str, run: Callable[[], None] | None, *, works: bool, more: str = ""
    ) -> None:
        self.title, self.keys, self.where, self.run, self.works = title, keys, where, run, works
        self.sought = f"{title} {where} {more} {keys}".lower()


class _Row(QStyledItemDelegate):
    """Title, keys, menu, in columns."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        """A line of text."""
        return QSize(200, round(self._session.display.text_size * 1.9))

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        """One command."""
        display, entry = self._session.display, index.data(_ENTRY)
        theme, box = display.theme, QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, shade(theme.brass, 60))
        if entry is None:
            painter.setFont(font(display.text_size * 0.82, bold=True))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(box.left() + 8, box.bottom() - 6), index.data())
            painter.restore()
            return
        painter.setFont(font(display.text_size * 0.95))
        metrics = QFontMetricsF(painter.font())
        base = box.center().y() + metrics.ascent() / 2 - 2
        painter.setPen(QColor(theme.ink if entry.works else theme.muted_text))
        room = round(0.5 * box.width() - 20)
        title = metrics.elidedText(entry.title, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(box.left() + 16, base), title)
        painter.setPen(QColor(theme.brass_text))
        keys = metrics.elidedText(entry.keys, Qt.TextElideMode.ElideRight, round(0.24 * box.width()))
        painter.drawText(QPointF(box.left() + 0.5 * box.width(), base), keys)
        painter.setPen(QColor(theme.muted_text))
        where = metrics.elidedText(entry.where, Qt.TextElideMode.ElideRight, round(0.24 * box.width()))
        painter.drawText(QPointF(box.left() + 0.75 * box.width(), base), where)
        painter.restore()


class CommandSheet(Sheet):
    """Needs the session, all commands with their actions, and the window's files and waters."""

    def __init__(
        self, session: Session, commands: Sequence[Command], actions: Actions, asker: CommandHost, host: QWidget
    ) -> None:
        super().__init__(session, "commands", "What can be done", host, over=True)
        self._commands, self._actions, self._asker = commands, actions, asker
        self.first = self._filter = QLineEdit()
        self._filter.setObjectName("commands_filter")
        self._filter.setPlaceholderText("type a part of any word: lane, bright, units …")
        self._filter.setAccessibleName("search of commands")
        self._filter.textChanged.connect(self._show)
        self._filter.returnPressed.connect(self._go)
        self.body.addWidget(self._filter)
        self._list = QListWidget()
        self._list.setObjectName("commands_list")
        self._list.setAccessibleName("commands; those that work here come first")
        self._list.setItemDelegate(_Row(session, self._list))
        self._list.itemActivated.connect(lambda _: self._go())
        self._list.itemClicked.connect(lambda _: self._go())
        self._list.setMinimumHeight(300)
        self.body.addWidget(self._list, 1)
        self.finish("Do it", self._go)
        self._entries: list[_Entry] = []

    def fill(self) -> None:
        """What can be done at this moment."""
        self._entries = self._listed()
        self._filter.clear()
        self._show()

    def _listed(self) -> list[_Entry]:
        out = []
        for command in self._commands:
            if command.id == "help.commands":
                continue
            action = self._actions[command.id]
            where = " ▸ ".join(p for p in (command.menu, command.group) if p)
            keys = "  ".join(command.keys)
            out.append(
                _Entry(
                    command.title.rstrip(" …"),
                    keys,
                    where,
                    action.trigger,
                    works=action.isEnabled(),
                    more=command.help,
                )
            )
        for water in self._asker.tasks.waters.all:
            run = partial(self._asker.tasks.waters.go, water)
            out.append(_Entry(f"Go to {water.name}", "", "waters", run, works=True))
        for path in recent_files(self.session.settings):
            run = partial(self._asker.open_files, [path])
            out.append(_Entry(f"Open {Path(path).name}", "", "recent files", run, works=True))
        out += [_Entry(words, keys, "mouse", None, works=False) for keys, words in GESTURES]
        return out

    def _show(self) -> None:
        words = self._filter.text().lower().split()
        found = [e for e in self._entries if all(w in e.sought for w in words)]
        if words:  # what is called so comes before what is only described so
            found.sort(key=lambda e: not e.title.lower().startswith(words[0]) and words[0] not in e.title.lower())
        self._list.clear()
        for head, rows in (
            ("WORKS HERE NOW", [e for e in found if e.works]),
            ("ELSEWHERE", [e for e in found if not e.works and e.run is not None]),
            ("WITH THE MOUSE", [e for e in found if e.run is None]),
        ):
            if rows:
                item = QListWidgetItem(head)
                item.setFlags(Qt.ItemFlag.NoItemFlags)
                self._list.addItem(item)
            for entry in rows:
                item = QListWidgetItem(f"{entry.title}  {entry.keys}")
                item.setData(_ENTRY, entry)
                self._list.addItem(item)
        self._list.setCurrentRow(min(1, self._list.count() - 1))

    def rows(self) -> list[str]:
        """What is listed, as a screen reader says it."""
        return [self._list.item(k).text() for k in range(self._list.count())]

    def _go(self) -> None:
        item = self._list.currentItem()
        entry = item.data(_ENTRY) if item is not None else None
        if entry is None or entry.run is None:
            return
        if not entry.works:
            self.session.say(f"{entry.title} does not work here: {entry.where}.", wrong=True)
            return
        self.session.ask_sheet("")
        QTimer.singleShot(0, entry.run)  # the sheet is gone first: it may open another

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down go through the list while one types."""
        steps = {
            Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -10, Qt.Key.Key_PageDown: 10,
        }  # fmt: skip
        step = steps.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        row = min(max(self._list.currentRow() + step, 0), self._list.count() - 1)
        while 0 < row < self._list.count() - 1 and self._list.item(row).data(_ENTRY) is None:
            row += 1 if step > 0 else -1
        self._list.setCurrentRow(row)
