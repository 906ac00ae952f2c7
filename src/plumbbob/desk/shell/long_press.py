"""A press of two seconds on a picture that stays where it is: what a thumb can do without looking for a key."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QPointF, QTimer
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QWidget

from plumbbob.desk.kit.widgets import AT_ONCE

HOLD_MS = 2_000
_STAYS_PX = 12.0


class LongPress(QObject):
    """Needs the widget in whose parts it counts, and what it does; parts that act at once are left out."""

    def __init__(self, within: QWidget, act: Callable[[], None]) -> None:
        super().__init__(within)
        self._at = QPointF()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self.hold_ms = HOLD_MS
        self._timer.timeout.connect(act)
        for child in within.findChildren(QWidget):
            if not child.property(AT_ONCE):
                child.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Begins with a press, ends with a release or a move; the press itself goes on to whom it is for."""
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
            self._at = event.globalPosition()
            self._timer.start(self.hold_ms)
        elif kind == QEvent.Type.MouseMove and isinstance(event, QMouseEvent):
            if (event.globalPosition() - self._at).manhattanLength() > _STAYS_PX:
                self._timer.stop()
        elif kind == QEvent.Type.MouseButtonRelease:
            self._timer.stop()
        return False
