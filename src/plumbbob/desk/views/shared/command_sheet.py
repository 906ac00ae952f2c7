"""Everything that can be done, searched by any part of a word: what works here now comes first; Enter does it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetricsF, QPainter
from PySide6.QtWidgets import QWidget

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.commands.table import GESTURES
from plumbbob.desk.kit.paint import font
from plumbbob.desk.kit.searched import PaintedRow, SearchedSheet, data_of, row_of
from plumbbob.desk.models.recent import recent_files
from plumbbob.desk.models.session import Session


class _Entry:
    """One row: what it is called, its keys, where it stands, and what it does; None: it can only be read."""

    def __init__(
        self, title: str, keys: str, where: str, run: Callable[[], None] | None, *, works: bool, more: str = ""
    ) -> None:
        self.title, self.keys, self.where, self.run, self.works = title, keys, where, run, works
        self.sought = f"{title} {where} {more} {keys}".lower()


class _Row(PaintedRow):
    """Title, keys, menu, in columns."""

    def draw(self, painter: QPainter, box: QRectF, text: str, entry: _Entry | None) -> None:
        """One command, or the head of some."""
        display = self._session.display
        theme = display.theme
        if entry is None:
            painter.setFont(font(display.text_size * 0.82, bold=True))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(box.left() + 8, box.bottom() - 6), text)
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


class CommandSheet(SearchedSheet):
    """Needs the session, all commands with their actions, and the window's files and waters."""

    def __init__(
        self, session: Session, commands: Sequence[Command], actions: Actions, asker: CommandHost, host: QWidget
    ) -> None:
        hint = "type a part of any word: lane, bright, units …"
        super().__init__(session, "commands", "What can be done", hint, host)
        self._commands, self._actions, self._asker = commands, actions, asker
        self.filter.setAccessibleName("search of commands")
        self.body.addWidget(self.filter)
        self.list.setAccessibleName("commands; those that work here come first")
        self.list.setItemDelegate(_Row(session, 1.9, 0, self.list))
        self.list.itemActivated.connect(lambda _: self.go())
        self.list.itemClicked.connect(lambda _: self.go())
        self.list.setMinimumHeight(300)
        self.body.addWidget(self.list, 1)
        self.finish("Do it", self.go)
        self._entries: list[_Entry] = []

    def fill(self) -> None:
        """What can be done at this moment."""
        self._entries = self._listed()
        self.filter.clear()
        self.show_rows()

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

    def show_rows(self) -> None:
        """What works here, what works elsewhere, what is done with the mouse."""
        words = self.filter.text().lower().split()
        found = [e for e in self._entries if all(w in e.sought for w in words)]
        if words:  # what is called so comes before what is only described so
            found.sort(key=lambda e: not e.title.lower().startswith(words[0]) and words[0] not in e.title.lower())
        self.list.clear()
        for head, rows in (
            ("WORKS HERE NOW", [e for e in found if e.works]),
            ("ELSEWHERE", [e for e in found if not e.works and e.run is not None]),
            ("WITH THE MOUSE", [e for e in found if e.run is None]),
        ):
            if rows:
                self.list.addItem(row_of(head, None, heads=True))
            for entry in rows:
                self.list.addItem(row_of(f"{entry.title}  {entry.keys}", entry))
        self.list.setCurrentRow(min(1, self.list.count() - 1))

    def rows(self) -> list[str]:
        """What is listed, as a screen reader says it."""
        return [self.list.item(k).text() for k in range(self.list.count())]

    def go(self) -> None:
        """Do it."""
        entry: _Entry | None = data_of(self.list.currentItem())
        if entry is None or entry.run is None:
            return
        if not entry.works:
            self.session.say(f"{entry.title} does not work here: {entry.where}.", wrong=True)
            return
        self.session.ask_sheet("")
        QTimer.singleShot(0, entry.run)  # the sheet is gone first: it may open another
