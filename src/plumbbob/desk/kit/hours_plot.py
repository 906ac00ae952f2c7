"""What pictures with hours across share: where the water is, its head, the hours under it."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter
from PySide6.QtWidgets import QWidget

from plumbbob.desk.kit.paint import font
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.models.display import Display

_HOUR_S = 3600.0
_STEPS_H = (0.25, 0.5, 1.0, 2.0, 3.0, 6.0)


def water_area(widget: QWidget, display: Display, top_lines: float, foot_lines: float) -> QRectF:
    """Where the water is drawn, with room for depths left of it and some sizes of text above and below."""
    size = display.text_size
    left, top, foot = 3.6 * size, top_lines * size, foot_lines * size
    return QRectF(left, top, widget.width() - left - 10.0, max(widget.height() - top - foot, 30.0))


def paint_head(painter: QPainter, display: Display, width: float, title: str, words: str) -> None:
    """What it is, and in a line what can be done with it."""
    size = display.text_size
    painter.setFont(font(size * 0.82, bold=True))
    painter.setPen(QColor(display.theme.muted_text))
    painter.drawText(QPointF(8, 1.5 * size), title)
    x = 8 + QFontMetricsF(painter.font()).horizontalAdvance(title) + 12
    painter.setFont(font(size * 0.92))
    painter.setPen(QColor(display.theme.ink))
    room = round(width - x - 8)
    words = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, room)
    painter.drawText(QPointF(x, 1.5 * size), words)


def paint_hours(
    painter: QPainter, display: Display, x: Axis, area: QRectF, base_px: float, clock: Callable[[float], str]
) -> None:
    """Times under the water, as many as have room; `clock` says a time in words."""
    painter.setFont(font(display.text_size * 0.82))
    metrics = QFontMetricsF(painter.font())
    room = metrics.horizontalAdvance("00:00") + 14
    per_hour = abs(x.px(_HOUR_S) - x.px(0.0))
    step = _HOUR_S * next((n for n in _STEPS_H if n * per_hour >= room), 12.0)
    painter.setPen(QColor(display.theme.muted_text))
    time = math.ceil(x.first / step) * step
    while time <= x.last:
        text = clock(time)
        left = x.px(time) - metrics.horizontalAdvance(text) / 2
        painter.drawText(QPointF(min(max(left, area.left()), area.right() - room + 14), base_px), text)
        time += step
