"""Bottom of the window: where the cursor is, and the keys that matter here. Above it, one line at a time is said."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton

from plumbbob.desk.kit.widgets import label, set_role
from plumbbob.desk.models.session import Session

_SAID_MS = 9000


class Footer(QFrame):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self.setFixedHeight(30)
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        self._place, self._hints = label("", "muted", name="place"), label("", "muted", name="hints")
        row.addWidget(self._place)
        row.addWidget(self._hints, 1)
        # long hints at a large size must not widen the window
        self._hints.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._hints.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        session.scan.cursor_changed.connect(self._show)
        session.chart.cursor_changed.connect(self._show)
        for signal in (session.scan.opened, session.display.changed, session.view_changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        view, offered = self._session.view, self._session.offered
        more = len(offered) > 1 or (bool(offered) and view not in offered)
        self._hints.setText(f"Q other views   {view.hints}" if more else view.hints)
        self._place.setText("     ".join(view.status))


class Notice(QFrame):
    """One line over the head of the picture; goes by itself unless something went wrong."""

    def __init__(self, session: Session, parent: QFrame) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self.setProperty("role", "panel")
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 8, 6)
        self._text = label("", "value", name="said")
        close = QToolButton()
        close.setText("×")
        close.setToolTip("Close this line")
        close.clicked.connect(self.hide)
        row.addWidget(self._text, 1)
        row.addWidget(close)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        session.said.connect(self._say)
        self.hide()

    @property
    def text(self) -> str:
        """What is being said."""
        return self._text.text()

    def _say(self, line: str, wrong: bool) -> None:
        self._text.setText(line)
        set_role(self._text, "warn" if wrong else "value")
        self._timer.stop()
        if not line:
            self.hide()
            return
        if not wrong:
            self._timer.start(_SAID_MS)
        self.adjustSize()
        self.place()
        self.show()
        self.raise_()

    def place(self) -> None:
        """Sit over the head of the picture, where only the surface's clutter is."""
        parent = self.parentWidget()
        if parent is not None:
            wide = min(self.sizeHint().width() + 20, parent.width() - 24)
            self.setGeometry(
                (parent.width() - wide) // 2,
                10,
                wide,
                self.sizeHint().height(),
            )
