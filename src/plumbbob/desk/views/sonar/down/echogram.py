"""What a hand does in the picture of a pass: pick, pan, zoom, move an echo, draw."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import (
    QMouseEvent,
    QWheelEvent,
)

from plumbbob.core.sonar.reading import Bait, Fish, StandingObject
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.tasks import apply_corrections as correcting
from plumbbob.desk.views.sonar.down.layers import EchogramLayers

_PICK_PX = 16.0


class Echogram(EchogramLayers):
    """The whole of it: lets one pick, pan, zoom and draw."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click, a drag, a drawing, or of moving the chosen echo."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed = self._last = event.position()
        scan = self._session.scan
        if scan.drawing.tool is not DrawTool.LOOK:
            self._drawn = [event.position()]
        elif scan.chosen is not None and self.echo_at(event.position()) is scan.chosen:
            self._dragged = scan.chosen

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the cursor, or the picture under a pressed button."""
        if self._session.scan.down is None:
            return
        at = event.position()
        if self._pressed is not None and self._last is not None:
            if self._drawn or self._dragged is not None:
                self._last = at
                if self._drawn:
                    self._drawn.append(at)
                self.update()
            elif (at - self._pressed).manhattanLength() > 5 or self._last != self._pressed:
                v: Viewport = self._session.scan.view
                dx, dy = at.x() - self._last.x(), at.y() - self._last.y()
                self._last = at
                self._session.scan.pan(-dx / self.width() * v.pings, -dy / self.height() * (v.base_m - v.top_m))
            return
        self._session.scan.set_cursor(int(self.ping_at(at.x())), self.depth_at(at.y()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click picks the nearest echo, or none; a drawing or a move is done."""
        pressed, self._pressed = self._pressed, None
        drawn, self._drawn = self._drawn, []
        dragged, self._dragged = self._dragged, None
        if pressed is None or self._session.scan.down is None:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = event.position()
        if drawn:
            self._take_drawing([*drawn, at])
            return
        if dragged is not None and (at - pressed).manhattanLength() > 5:
            correcting.move(self._session, dragged, self.time_at(at.x()), self.depth_at(at.y()))
            self.update()
            return
        if self._last != pressed:
            return
        self._session.scan.set_cursor(int(self.ping_at(at.x())), self.depth_at(at.y()))
        self._session.scan.choose(self.echo_at(at))

    def time_at(self, x: float) -> float:
        """Time of a pixel column."""
        down = self._session.scan.down
        assert down is not None
        return float(np.interp(self.ping_at(x), np.arange(len(down)), down.time))

    def _take_drawing(self, points: list[QPointF]) -> None:
        session, scan = self._session, self._session.scan
        if scan.drawing.tool is DrawTool.BOTTOM:
            line = sorted((self.time_at(p.x()), max(self.depth_at(p.y()), 0.0)) for p in points)
            if line[-1][0] - line[0][0] > 0.2:
                correcting.draw_bottom(session, line)
        elif scan.drawing.label == "fish":
            at = points[-1]
            correcting.draw(session, "fish", self.time_at(at.x()), max(self.depth_at(at.y()), 0.0), 0.0, 0.0)
        else:
            times = [self.time_at(p.x()) for p in (points[0], points[-1])]
            depths = [max(self.depth_at(p.y()), 0.0) for p in (points[0], points[-1])]
            half_s, half_m = abs(times[1] - times[0]) / 2, abs(depths[1] - depths[0]) / 2
            if half_s < 0.1 or half_m < 0.05:
                session.say(f"Drag a box about the {scan.drawing.label}.")
                return
            correcting.draw(session, scan.drawing.label, sum(times) / 2, sum(depths) / 2, half_s, half_m)
        self.update()

    def leaveEvent(self, event: object) -> None:
        """The cursor's reading goes with the mouse."""
        self.update()

    def echo_at(self, at: QPointF) -> Fish | Bait | StandingObject | None:
        """The echo under a place on screen."""
        which, x, y = self._visible_fish()
        away = np.hypot(x - at.x(), y - at.y())
        if away.size and away.min() <= _PICK_PX:
            return self._session.scan.reading.fish[which.start + int(away.argmin())]
        bait = next((bait for bait, box in self._visible_bait() if box.contains(at)), None)
        if bait is not None:
            return bait
        return next((s for s, box in self._visible_standing() if box.adjusted(-3, -16, 3, 0).contains(at)), None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Wheel zooms time, with Ctrl depth, with Shift it moves along."""
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120
        scan = self._session.scan
        if scan.down is None:
            return
        factor = 0.8**turns
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            scan.zoom_depth(factor, self.depth_at(event.position().y()))
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            scan.pan(-turns * scan.view.pings * 0.15, 0.0)
        else:
            scan.zoom_pings(factor, self.ping_at(event.position().x()))
