"""Words on a picture, each on its own small ground, none over another."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from plumbbob.desk.kit.paint import shade

_STEPS = 8  # how far a word may be moved from where it belongs, in its own heights


class Tags:
    """Those that one picture has by now; `bounds` is where they may stand."""

    def __init__(self, bounds: QRectF) -> None:
        self._bounds = bounds
        self.boxes: list[QRectF] = []

    def free(self, wanted: QRectF) -> QRectF | None:
        """The place nearest above or below where nothing stands yet; None if all about is taken."""
        box = QRectF(wanted)
        box.moveLeft(max(min(box.left(), self._bounds.right() - box.width()), self._bounds.left()))
        for step in range(_STEPS + 1):
            for sign in (-1.0, 1.0):
                tried = box.translated(0.0, sign * step * 0.5 * (box.height() + 1))
                fits = self._bounds.top() <= tried.top() and tried.bottom() <= self._bounds.bottom()
                if fits and not any(tried.intersects(b) for b in self.boxes):
                    return tried
        return None

    def take(self, box: QRectF) -> None:
        """Something stands here."""
        self.boxes.append(box)

    def paint(self, painter: QPainter, at: QPointF, text: str, ink: str, ground: str) -> None:
        """A word whose base line begins at a point, or as near to it as there is room; else it is left out."""
        metrics = QFontMetricsF(painter.font())
        high = metrics.ascent() + metrics.descent()
        wanted = QRectF(at.x() - 3, at.y() - metrics.ascent() - 1, metrics.horizontalAdvance(text) + 6, high + 2)
        box = self.free(wanted)
        if box is None:
            return
        self.take(box)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade(ground, 215))
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(QColor(ink))
        painter.drawText(QPointF(box.left() + 3, box.top() + 1 + metrics.ascent()), text)
