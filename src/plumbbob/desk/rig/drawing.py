"""Pieces that the pictures of rods share: a rod's number, its lure, the boat, the bottom, the bar of scale."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from plumbbob.core.units import Kind, to_shown, unit_of
from plumbbob.desk.kit.paint import font, pen, round_steps, shade
from plumbbob.desk.session.look import Look
from plumbbob.desk.theme import Theme

At = Callable[[float, float], QPointF]


def number_bead(
    painter: QPainter, at: QPointF, number: int, look: Look, *, chosen: bool, radius: float = 9.0
) -> None:
    """A rod's number in a small round."""
    theme = look.theme
    painter.setPen(pen(theme.brass if chosen else theme.muted, 1.4))
    painter.setBrush(QColor(theme.fill if chosen else theme.raised))
    painter.drawEllipse(at, radius, radius)
    painter.setFont(font(look.text_size * 0.85, bold=True))
    painter.setPen(QColor(theme.on_fill if chosen else theme.ink))
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))


def lure_mark(painter: QPainter, at: QPointF, theme: Theme, *, reached: bool) -> None:
    """A lure: a slim lozenge."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.brass if reached else theme.vermilion))
    x, y = at.x(), at.y()
    painter.drawPolygon(QPolygonF([QPointF(x - 8, y), QPointF(x, y - 4), QPointF(x + 8, y), QPointF(x, y + 4)]))


def hull(painter: QPainter, stern: QPointF, length: float, theme: Theme) -> None:
    """The boat from the side, its stern at a point of the surface, bow to the right."""
    x, y = stern.x(), stern.y()
    shape = ((x, y - 0.14 * length), (x + length, y - 0.18 * length), (x + 0.78 * length, y + 4), (x + 3, y + 4))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.ink))
    painter.drawPolygon(QPolygonF([QPointF(*p) for p in shape]))


def bottom_shape(
    painter: QPainter, x: NDArray[np.float64], y: NDArray[np.float64], foot: float, theme: Theme
) -> None:
    """The bottom as a body of ground under its line, in pieces where it is not known; pixels."""
    known = np.flatnonzero(np.isfinite(y))
    if not known.size:
        return
    for run in np.split(known, np.flatnonzero(np.diff(known) > 1) + 1):
        line = [QPointF(float(x[i]), float(y[i])) for i in run]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.land))
        painter.drawPolygon(QPolygonF([*line, QPointF(line[-1].x(), foot), QPointF(line[0].x(), foot)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawPolyline(QPolygonF(line))


def scale_bar(painter: QPainter, at: QPointF, px_per_m: float, look: Look, words: str = "") -> None:
    """A round length in the unit on screen."""
    theme = look.theme
    step = round_steps(180.0 / px_per_m, Kind.LENGTH, look.system, 1)
    while step * px_per_m > 260:
        step /= 2
    painter.setPen(pen(theme.muted, 1.6))
    painter.drawLine(at, QPointF(at.x() + step * px_per_m, at.y()))
    painter.setFont(font(look.text_size * 0.85))
    painter.setPen(QColor(theme.muted_text))
    unit = unit_of(Kind.LENGTH, look.system)
    painter.drawText(
        QPointF(at.x(), at.y() - 6), f"{to_shown(step, Kind.LENGTH, look.system):.3g} {unit.symbol}{words}"
    )


def water(painter: QPainter, area: QRectF, theme: Theme) -> None:
    """Water under the surface, and the surface."""
    painter.fillRect(area, shade(theme.teal, 34))
    painter.setPen(pen(theme.teal, 1.4))
    painter.drawLine(area.topLeft(), area.topRight())
