"""Bottom of the window: where the cursor is, and the keys that matter here. Above it, one line at a time is said."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.widgets import elided, label, set_role
from plumbbob.desk.models.session import Session

_SAID_MS = 9000
_MOST_HINTS = 4


# what is done most, for mouse and touch
_BUTTONS = (
    ("mark.mark", "Mark"),
    ("mark.catch", "Catch"),
    ("picture.next", "Next"),
    ("picture.in", "+"),
    ("picture.out", "\u2212"),
    ("picture.all", "All"),
    ("mark.undo", "Undo"),
    ("help.commands", "More"),
)
_DECK_PT = 14.0  # from this size of text on, fingers in gloves hit it too


class Footer(QFrame):
    """Needs the session and the actions of the buttons."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(4)
        self._buttons: list[QToolButton] = []
        for command, words in _BUTTONS:
            button = QToolButton()
            actions[command].setIconText(words)  # what a button says where a menu has room for more
            button.setDefaultAction(actions[command])
            button.setObjectName(f"bar_{command.replace('.', '_')}")
            button.setAccessibleName(actions[command].text())
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the picture keeps the keys
            row.addWidget(button)
            self._buttons.append(button)
        row.addSpacing(12)
        self._place, self._hints = elided("muted", name="place"), elided("muted", name="hints")
        row.addWidget(self._place)
        row.addWidget(self._hints, 1)
        # long hints at a large size must not widen the window
        self._hints.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._hints.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        session.scan.cursor_changed.connect(self._show)
        session.chart.cursor_changed.connect(self._show)
        session.run.moved.connect(self._show)
        session.live.changed.connect(self._show)
        session.run.chosen_changed.connect(self._show)
        for signal in (session.scan.opened, session.display.changed, session.view_changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        deck = self._session.display.text_size >= _DECK_PT
        for button in self._buttons:
            button.setFixedHeight(40 if deck else 24)
            button.setMinimumWidth(max(button.sizeHint().width(), 56 if deck else 30))
        self.setFixedHeight(46 if deck else 30)
        view, offered = self._session.view, self._session.offered
        more = len(offered) > 1 or (bool(offered) and view not in offered)
        wanted = [h for h in view.hints.split("   ") if not h.startswith("?")]
        keys = [*(["Q other views"] if more else []), *wanted][:_MOST_HINTS]
        self._hints.setText("   ".join([*keys, "/ all"]))
        live = self._session.live
        self._place.setText("     ".join([*([live.words] if live.is_on else []), *view.status]))


class Notice(QFrame):
    """One line over the head of the picture; goes by itself unless something went wrong."""

    def __init__(self, session: Session, parent: QFrame) -> None:
        super().__init__(parent)
        self.setObjectName("notice")
        self._session = session
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
        for signal in (session.view_changed, session.scan.opened):
            signal.connect(self._end)  # it spoke of what is no longer there
        self.hide()

    @property
    def text(self) -> str:
        """What is being said."""
        return self._text.text()

    def _say(self, line: str, wrong: bool) -> None:
        self._text.setText(line)
        if self._session.view.mode:
            return  # what takes the whole window says it itself
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

    def _end(self) -> None:
        self._timer.stop()
        self.hide()

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
