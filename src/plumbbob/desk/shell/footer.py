"""Bottom of the window: where the cursor is, and the keys that matter here. Above it, one line at a time is said."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton

from plumbbob.core.sonar.recording import transducer_at
from plumbbob.core.units import Kind
from plumbbob.desk.commands.marking import place_words
from plumbbob.desk.kit.widgets import label, set_role
from plumbbob.desk.models.recording_model import Sight
from plumbbob.desk.models.session import Session

_SAID_MS = 9000
_SIGHT_HINTS = {
    Sight.DOWN: "Space mark   C catch   . next fish   P replay   ? keys",
    Sight.SIDE: "Space mark   . next fish   Shift+H height from a shadow   Shift+G ground range   ? keys",
    Sight.AHEAD: "Space mark   . next fish   P replay   Shift+A the other cast   ? keys",
    Sight.PICTURE: "F2 corners   F3 surface   F4 depth   F7 colours   F8 read it   ? keys",
}
_HINTS = {
    "rig": "drag a lure   . next rod   G note   T turn   V from above   J advice   ? keys",
    "water": "Space mark   . next place   D line across   E lane   T column   K what counts   ? keys",
    "log": "S show in the picture   + − seen   Del remove   Z undo   ? keys",
}


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
        for signal in (session.scan.opened, session.scan.sight_changed, session.look.changed, session.stage_changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        session = self._session
        scan, look = session.scan, session.look
        hints = _HINTS.get(session.stage, _SIGHT_HINTS[scan.sight])
        more = session.stage == "scan" and (len(scan.sights) > 1 or scan.sight is Sight.PICTURE)
        self._hints.setText(f"Q other views   {hints}" if more else hints)
        if session.stage == "water":
            place = session.chart.cursor_place()
            self._place.setText("" if place is None else place_words(place))
            return
        if scan.lead is None or scan.recording is None or session.on_picture:
            self._place.setText("")
            return
        at = transducer_at(scan.recording.track, scan.lead.mount, np.array([scan.time]))
        parts = [place_words(scan.boat_place())]
        track = scan.recording.track
        if track is not None and np.isfinite(track.temperature_c).any():
            good = np.isfinite(track.temperature_c)
            warm = float(np.interp(scan.time, track.time[good], track.temperature_c[good]))
            parts.append(look.words(warm, Kind.TEMPERATURE))
        if math.isfinite(float(at.speed_mps[0])):
            parts.append(look.words(float(at.speed_mps[0]), Kind.SPEED))
        if math.isfinite(float(at.heading_deg[0])):
            parts.append(f"heading {float(at.heading_deg[0]) % 360:.0f}°")
        self._place.setText("     ".join(parts))


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
