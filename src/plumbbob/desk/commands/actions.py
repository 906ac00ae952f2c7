"""One QAction for every command of the table; menus and buttons share them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Any, cast

from PySide6.QtCore import QObject, QTimer
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.commands.table import MENUS
from plumbbob.desk.models.recent import recent_files
from plumbbob.desk.models.session import Session


class _Watched:
    """A session that notes which of its parts were asked: an answer holds until one of them is another."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.parts: set[str] = set()

    def __getattr__(self, name: str) -> Any:
        self.parts |= _BEHIND.get(name, {name})
        if name == "view":
            self.parts |= self._session.view.inputs
        return getattr(self._session, name)


# what is no part of its own
_BEHIND = {"stage": {"view"}, "offered": {"view", "scan"}, "profile": {"conditions"}}


class Actions(QObject):
    """Actions by command id, kept up to date with the session."""

    def __init__(self, session: Session, commands: Sequence[Command], asker: CommandHost, window: QWidget) -> None:
        super().__init__(window)
        self._commands, self._asker = commands, asker
        self._session = session
        self._actions: dict[str, QAction] = {}
        for command in self._commands:
            action = QAction(command.title, window)
            action.setObjectName(command.id)
            action.setShortcuts([QKeySequence(k) for k in command.keys])
            keys = ", ".join(command.keys)
            action.setToolTip(f"{command.help}  ({keys})" if keys else command.help)
            action.setStatusTip(command.help)
            action.setCheckable(command.checked is not None)
            action.triggered.connect(partial(self._run, command, asker))
            window.addAction(action)
            self._actions[command.id] = action
        self._inputs: dict[str, set[str]] = {}  # of each command: the parts its last answer came from
        self._touched: set[str] = set()
        self._soon = QTimer(self)  # many changes of one turn of the loop are looked at once
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.refresh)
        session.touched.connect(self._touch)
        for command in commands:
            self._look_at(command)

    def __getitem__(self, command_id: str) -> QAction:
        self.refresh()
        return self._actions[command_id]

    def _run(self, command: Command, asker: CommandHost, _: bool = False) -> None:
        command.run(self._session, asker)
        self._look_at(command)  # Qt ticks it whether or not it did something

    def _touch(self, part: str) -> None:
        self._touched.add(part)
        if not self._soon.isActive():
            self._soon.start(0)

    def refresh(self) -> int:
        """Look again at what may be done and what is on, where it may have changed; says at how many commands."""
        touched, self._touched = self._touched, set()
        if not touched:
            return 0
        stale = [c for c in self._commands if not touched.isdisjoint(self._inputs[c.id])]
        for command in stale:
            self._look_at(command)
        return len(stale)

    def _look_at(self, command: Command) -> None:
        seen = _Watched(self._session)
        session = cast(Session, seen)
        action = self._actions[command.id]
        action.setEnabled(command.may(session))
        if command.checked is not None:
            action.setChecked(command.checked(session))
        self._inputs[command.id] = seen.parts

    def fill(self, bar: QMenuBar) -> None:
        """Menus in the table's order; commands of a group share a menu within."""
        for name in MENUS:
            menu = bar.addMenu(name)
            groups: dict[str, QMenu] = {}
            for command in self._commands:
                if command.menu != name:
                    continue
                if command.group and command.group not in groups:
                    groups[command.group] = menu.addMenu(command.group)
                groups.get(command.group, menu).addAction(self._actions[command.id])
            if name == MENUS[0]:
                for title, rows in (("Recent files", self._recent_files), ("Last waters", self._last_waters)):
                    self._live(menu, title, rows)

    def _live(self, menu: QMenu, title: str, rows: Callable[[], list[tuple[str, Callable[[], None]]]]) -> None:
        """A menu whose rows are those of the moment it opens, after what opens files."""
        live = QMenu(title, menu)
        menu.insertMenu(menu.actions()[1], live)

        def fill() -> None:
            live.clear()
            for words, act in rows():
                live.addAction(words.replace("&", "&&"), act)
            if live.isEmpty():
                live.addAction("none yet").setEnabled(False)

        live.aboutToShow.connect(fill)

    def _recent_files(self) -> list[tuple[str, Callable[[], None]]]:
        return [(p.name, partial(self._asker.open_files, [p])) for p in recent_files(self._session.settings)]

    def _last_waters(self) -> list[tuple[str, Callable[[], None]]]:
        waters = self._asker.tasks.waters
        return [(w.name, partial(waters.go, w)) for w in waters.all[:10]]
