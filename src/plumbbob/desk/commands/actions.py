"""One QAction for every command of the table; menus and buttons share them."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenuBar, QWidget

from plumbbob.desk.commands.registry import Asker
from plumbbob.desk.commands.table import COMMANDS, MENUS
from plumbbob.desk.models.session import Session


class Actions(QObject):
    """Actions by command id, kept up to date with the session."""

    def __init__(self, session: Session, asker: Asker, window: QWidget) -> None:
        super().__init__(window)
        self._session = session
        self._actions: dict[str, QAction] = {}
        for command in COMMANDS:
            action = QAction(command.title, window)
            action.setObjectName(command.id)
            action.setShortcuts([QKeySequence(k) for k in command.keys])
            keys = ", ".join(command.keys)
            action.setToolTip(f"{command.help}  ({keys})" if keys else command.help)
            action.setStatusTip(command.help)
            action.setCheckable(command.checked is not None)
            action.triggered.connect(lambda _=False, c=command: c.run(session, asker))
            window.addAction(action)
            self._actions[command.id] = action
        session.changed.connect(self.refresh)
        self.refresh()

    def __getitem__(self, command_id: str) -> QAction:
        return self._actions[command_id]

    def refresh(self) -> None:
        """Look again at what may be done and what is on."""
        stage = self._session.stage
        for command in COMMANDS:
            action = self._actions[command.id]
            action.setEnabled((not command.stage or command.stage == stage) and command.enabled(self._session))
            if command.checked is not None:
                action.setChecked(command.checked(self._session))

    def fill(self, bar: QMenuBar) -> None:
        """Menus in the table's order."""
        for name in MENUS:
            menu = bar.addMenu(name)
            for command in COMMANDS:
                if command.menu == name:
                    menu.addAction(self._actions[command.id])
