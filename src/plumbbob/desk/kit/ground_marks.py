"""Small signs for kinds of bottom: rings for stones, strokes for hard, points for soft, waves, stems of weed."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from plumbbob.desk.kit.paint import pen


def ground_mark(painter: QPainter, at: QPointF, size: float, kind: str, colour: str, alpha: int) -> None:
    """Draw the sign of a kind of bottom within a square of that size."""
    painter.setPen(pen(colour, 1.1, alpha=alpha))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    r = size / 2
    if kind == "stony":
        for x, y, part in ((-0.45, 0.25, 0.3), (0.4, 0.35, 0.22), (0.1, -0.4, 0.34)):
            painter.drawEllipse(QPointF(at.x() + x * r, at.y() + y * r), part * r, part * r)
    elif kind == "hard":
        for x in (-0.5, 0.0, 0.5):
            painter.drawLine(
                QPointF(at.x() + (x - 0.2) * r, at.y() + 0.5 * r), QPointF(at.x() + (x + 0.2) * r, at.y() - 0.5 * r)
            )
    elif kind == "rippled":
        for y in (-0.35, 0.3):
            steps = [k / 8 for k in range(9)]
            line = [
                QPointF(at.x() + (2 * t - 1) * 0.7 * r, at.y() + y * r + 0.16 * r * math.sin(4 * math.pi * t))
                for t in steps
            ]
            painter.drawPolyline(QPolygonF(line))
    elif kind == "weed":
        for x, lean in ((-0.45, -0.2), (0.0, 0.08), (0.45, 0.25)):
            foot = QPointF(at.x() + x * r, at.y() + 0.6 * r)
            bend = QPointF(at.x() + (x - lean) * r, at.y() - 0.05 * r)
            painter.drawPolyline(QPolygonF([foot, bend, QPointF(at.x() + (x + lean) * r, at.y() - 0.65 * r)]))
    else:
        fill = QColor(colour)
        fill.setAlpha(alpha)
        painter.setBrush(fill)
        painter.setPen(Qt.PenStyle.NoPen)
        for x, y in ((-0.5, 0.3), (0.0, -0.3), (0.5, 0.3)):
            painter.drawEllipse(QPointF(at.x() + x * r, at.y() + y * r), 1.3, 1.3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
