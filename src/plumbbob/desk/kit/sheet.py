"""A sheet that lies over the foot of a picture: a title, a body, one button that does it, one that leaves."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMainWindow, QVBoxLayout, QWidget

from plumbbob.desk.kit.widgets import Button, label, panel_column
from plumbbob.desk.models.session import Session

_LEAST_PICTURE_PX = 150  # a picture lower than that shows nothing: the sheet then lies over it


class Sheet(QFrame):
    """
    Opens over its host when the session asks for its name, closes on Esc.

    A kind of sheet fills `body` and calls `finish`. What it changes stays in sight: the picture makes room for it,
    unless it is `over` everything, as what changes no picture is.

    While closed it has no parent: another light or text size then dresses what can be seen, and no sheet else.
    """

    def __init__(self, session: Session, name: str, title: str, host: QWidget, *, over: bool = False) -> None:
        super().__init__()
        self._over = over
        self._host = host
        self.setObjectName(f"sheet_{name}")
        self.session, self.name = session, name
        self.first: QWidget | None = None  # what the keys go to; by default the sheet
        self._column = panel_column(self, (16, 12, 16, 12), 8)
        self._column.addWidget(label(title, "title"))
        self.body = QVBoxLayout()
        self.body.setSpacing(8)
        self._column.addLayout(self.body)
        session.sheet_asked.connect(self._asked)
        host.installEventFilter(self)

    def finish(self, words: str, act: Callable[[], None], *, cancel: bool = True) -> QHBoxLayout:
        """The last row, given back: what the sheet does, and leaving it where that is something else."""
        row = QHBoxLayout()
        row.addStretch(1)
        go, leave = Button(words), Button("Cancel")
        if not cancel:
            leave.hide()
        go.setObjectName(f"{self.objectName()}_go")
        go.setProperty("role", "main")
        go.clicked.connect(act)
        leave.clicked.connect(lambda: self.session.ask_sheet(""))
        row.addWidget(go)
        row.addWidget(leave)
        self._column.addLayout(row)
        return row

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The picture it lies over has another size, as after another stage."""
        if event.type() == QEvent.Type.Resize and watched is self._host and self.isVisible():
            self.place()
        return False

    def fill(self) -> None:
        """Show what is so now; called before the sheet is seen."""

    def refresh(self) -> None:
        """Show what is so now, if it is open."""
        if self.isVisible():
            self.fill()
            self.place()

    def _asked(self, name: str) -> None:
        if name != self.name:
            if self.isVisible():
                self.hide()
                self._make_room(0)
                self.setParent(None)
                self._host.setFocus()
            return
        self.setParent(self._host)
        self.fill()
        self.setParent(self._ground())
        self.place()
        self.show()
        self.place()  # to be shown settles what was still being laid out beneath it
        self.raise_()
        (self.first or self).setFocus()

    def _ground(self) -> QWidget:
        """What it lies on: its host, or all of the window where that is too small for it, as with large text."""
        self.ensurePolished()
        self._column.activate()
        least, window = self.minimumSizeHint(), self._host.window()
        fits = least.width() + 16 <= self._host.width() and least.height() + 16 <= self._host.height()
        whole = window.centralWidget() if isinstance(window, QMainWindow) else None
        return self._host if fits or whole is None else whole

    def place(self) -> None:
        """Sit over the foot of what it lies on."""
        self._column.activate()  # what has just been filled in counts
        ground = self.parentWidget() or self._host
        width = ground.width() - 16
        wanted = self.sizeHint().height()
        if self._column.hasHeightForWidth():
            wanted = self._column.totalHeightForWidth(width)
        height = min(wanted, ground.height() - 16)
        self.setGeometry(8, ground.height() - height - 8, width, height)
        room = height + 12
        over = self._over or ground is not self._host or ground.height() - room < _LEAST_PICTURE_PX
        self._make_room(0 if over else room)

    def _make_room(self, foot: int) -> None:
        """The picture ends above the sheet."""
        layout = self._host.layout()
        if layout is not None and layout.contentsMargins().bottom() != foot:
            layout.setContentsMargins(0, 0, 0, foot)
