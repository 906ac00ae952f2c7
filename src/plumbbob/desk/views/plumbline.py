"""The plumb line: one column of water at the cursor, level with the picture beside it, and the bob to drag."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent

from plumbbob.desk.views.column_layers import BAND_X, LINE_X, ColumnLayers

_GRAB_PX = 9.0


class PlumbLine(ColumnLayers):
    """Needs the session. Its depth scale is the picture's; dragging the bob solves the rig anew."""

    def _handle_at(self, at: QPointF) -> str:
        window = self._session.rig.window
        if window is not None and at.x() < BAND_X + 14:
            for name, depth in zip(("top", "base"), window, strict=True):
                if abs(at.y() - self.y_of(depth)) < _GRAB_PX:
                    return name
        return "bob" if at.x() > BAND_X + 14 else "new"

    def _other_bob_at(self, at: QPointF) -> int | None:
        """The rod, not in hand, whose bob is under the mouse."""
        rig = self._session.rig
        if abs(at.x() - LINE_X) > _GRAB_PX or abs(at.y() - self.y_of(rig.bob_m)) < _GRAB_PX:
            return None
        near = (i for i, s in enumerate(rig.sets) if abs(self.y_of(s.bob_m) - at.y()) < _GRAB_PX and i != rig.chosen)
        return next(near, None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the bob, or an end of the window."""
        if event.button() != Qt.MouseButton.LeftButton or not self.column.live:
            return
        self._drag = self._handle_at(event.position())
        other = self._other_bob_at(event.position())
        if other is not None:
            self._session.rig.choose(other)
        if self._drag == "new":
            depth = self.depth_at(event.position().y())
            self._session.rig.set_window((depth, depth + 0.05))
            self._drag = "base"
        self._dragged(event.position().y())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it."""
        if self._drag:
            self._dragged(event.position().y())
            return
        over = self._handle_at(event.position())
        near_bob = over == "bob" and abs(event.position().y() - self.y_of(self._session.rig.bob_m)) < 18
        grab = over in ("top", "base") or near_bob
        self.setCursor(Qt.CursorShape.SizeVerCursor if grab else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._drag = ""

    def _dragged(self, y: float) -> None:
        depth = max(self.depth_at(min(max(y, 0.0), float(self.height()))), 0.0)
        rig = self._session.rig
        if self._drag == "bob":
            rig.drag_to(depth)
        elif rig.window is not None:
            top, base = rig.window
            if self._drag == "top":
                rig.set_window((min(depth, base - 0.1), base))
            else:
                rig.set_window((top, max(depth, top + 0.1)))
