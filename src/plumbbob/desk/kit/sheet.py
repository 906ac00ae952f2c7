"""A sheet that lies over the foot of a picture: a title, a body, one button that does it, one that leaves."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.session.session import Session


class Sheet(QFrame):
    """Opens when the session asks for its name, closes on Esc; a kind of sheet fills `body` and calls `finish`."""

    def __init__(self, session: Session, name: str, title: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName(f"sheet_{name}")
        self.setProperty("role", "panel")
        self.session, self.name = session, name
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(16, 12, 16, 12)
        self._column.setSpacing(8)
        self._column.addWidget(label(title, "title"))
        self.body = QVBoxLayout()
        self.body.setSpacing(8)
        self._column.addLayout(self.body)
        session.sheet_asked.connect(self._asked)
        self.hide()

    def finish(self, words: str, act: Callable[[], None], *, cancel: bool = True) -> None:
        """The last row: what the sheet does, and leaving it where that is something else."""
        row = QHBoxLayout()
        row.addStretch(1)
        go, leave = Button(words), Button("Cancel")
        leave.setVisible(cancel)
        go.setObjectName(f"{self.objectName()}_go")
        go.setProperty("role", "main")
        go.clicked.connect(act)
        leave.clicked.connect(lambda: self.session.ask_sheet(""))
        row.addWidget(go)
        row.addWidget(leave)
        self._column.addLayout(row)

    def fill(self) -> None:
        """Show what is so now; called before the sheet is seen."""

    def refresh(self) -> None:
        """Show what is so now, if it is open."""
        if self.isVisible():
            self.fill()
            self.place()

    def _asked(self, name: str) -> None:
        parent = self.parentWidget()
        if name != self.name:
            if self.isVisible():
                self.hide()
                if parent is not None:
                    parent.setFocus()
            return
        self.fill()
        self.place()
        self.show()
        self.raise_()
        self.setFocus()

    def place(self) -> None:
        """Sit over the foot of the parent."""
        parent = self.parentWidget()
        if parent is not None:
            width = parent.width() - 16
            self._column.activate()  # what has just been filled in counts
            wanted = self.sizeHint().height()
            if self._column.hasHeightForWidth():
                wanted = self._column.totalHeightForWidth(width)
            height = min(wanted, parent.height() - 16)
            self.setGeometry(8, parent.height() - height - 8, width, height)
