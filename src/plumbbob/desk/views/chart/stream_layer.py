"""Currents on the chart as arrows that point where the water goes; the one under the hand with its speed."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from plumbbob.core.units import Kind
from plumbbob.desk.commands.currents import STEP_MPS, STEP_PX, arrow_told
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.plan_layer import Placed

_HEAD_PX = 7.0
_LONGEST_PX = 90.0


@dataclass(slots=True)
class StreamLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed

    def paint(self, painter: QPainter, tags: Tags) -> None:
        """All currents that marks tell of."""
        area = QRectF(0.0, 0.0, self.picture.width(), self.picture.height())
        for stream in self.session.spots.facts.streams:
            at = self.picture.at(stream.x, stream.y)
            if area.contains(at):
                long = min(stream.speed_mps / STEP_MPS * STEP_PX, _LONGEST_PX)
                turn = math.radians(stream.to_deg)
                self._arrow(painter, at, at + QPointF(long * math.sin(turn), -long * math.cos(turn)))

    def paint_rubber(self, painter: QPainter, tags: Tags, start: QPointF, end: QPointF) -> None:
        """The arrow under the hand, with what it says."""
        told = arrow_told(end.x() - start.x(), end.y() - start.y())
        if told is None:
            return
        self._arrow(painter, start, end)
        display = self.session.display
        painter.setFont(font(display.text_size * 0.9, bold=True))
        words = display.words(told[0], Kind.SPEED)
        tags.paint(painter, end + QPointF(10, -6), words, display.theme.teal_text, display.theme.panel)

    def _arrow(self, painter: QPainter, start: QPointF, end: QPointF) -> None:
        theme = self.session.display.theme
        turn = math.atan2(end.y() - start.y(), end.x() - start.x())
        barbs = [
            end - QPointF(_HEAD_PX * math.cos(turn + side), _HEAD_PX * math.sin(turn + side)) for side in (-0.5, 0.5)
        ]
        for colour, wide in ((theme.ground, 4.5), (theme.teal, 2.2)):
            painter.setPen(pen(colour, wide))
            painter.drawLine(start, end)
            painter.drawPolyline(QPolygonF([barbs[0], end, barbs[1]]))
