"""A picture with the pass's time along it: pings to columns and back, moving along by hand and wheel."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.models.session import Session


class PingPicture(CachedPicture):
    """Needs the session; its columns are the pings of the scan's view."""

    def __init__(self, session: Session, name: str, parent: QWidget | None = None) -> None:
        super().__init__(name, parent)
        self._session = session
        self._pressed: QPointF | None = None
        self._last: QPointF | None = None

    @property
    def pings(self) -> Axis:
        """Its scale of pings."""
        v = self._session.scan.view
        return Axis(v.first_ping, v.last_ping, 0.0, self.width())

    def x_of(self, ping: float) -> float:
        """Pixel column of a ping."""
        return self.pings.px(ping)

    def ping_at(self, x: float) -> float:
        """Ping of a pixel column."""
        return self.pings.value(x)


class TimedPicture(PingPicture):
    """Moved along by hand and wheel: a click picks, a drag moves along, the wheel zooms."""

    def time_at(self, x: float) -> float:
        """Time of a pixel column."""
        lead = self._session.scan.lead
        assert lead is not None
        return float(np.interp(self.ping_at(x), np.arange(len(lead)), lead.time))

    def pick(self, at: QPointF) -> None:
        """A click."""

    def hover(self, at: QPointF) -> None:
        """The mouse moved with no button pressed."""

    def shift(self, down_px: float) -> None:
        """The picture was dragged by so many rows."""

    def widen(self, factor: float, at: QPointF) -> None:
        """The wheel with Ctrl: `factor` times as much across the picture."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click or a drag."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the cursor, or the picture under a pressed button."""
        at = event.position()
        if self._session.scan.lead is None:
            return
        if self._pressed is None or self._last is None:
            self.hover(at)
        elif (at - self._pressed).manhattanLength() > 5 or self._last != self._pressed:
            dx, dy = at.x() - self._last.x(), at.y() - self._last.y()
            self._last = at
            self._session.scan.pan(-dx / max(self.width(), 1) * self._session.scan.view.pings, 0.0)
            self.shift(dy)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click, unless it was a drag."""
        pressed, self._pressed = self._pressed, None
        if pressed is None or self._session.scan.lead is None or self._last != pressed:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.pick(event.position())

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Wheel zooms time, with Ctrl what lies across, with Shift it moves along."""
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120
        scan = self._session.scan
        if scan.lead is None:
            return
        factor = 0.8**turns
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.widen(factor, event.position())
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            scan.pan(-turns * scan.view.pings * 0.15, 0.0)
        else:
            scan.zoom_pings(factor, self.ping_at(event.position().x()))

    def leaveEvent(self, event: object) -> None:
        """The cursor's reading goes with the mouse."""
        self.update()
