"""What was drawn on the chart by hand: currents as arrows, docks and bridges; under the hand with its size."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from plumbbob.core.units import Kind
from plumbbob.desk.commands.drawing import LEAST_BUILT_M, STEP_MPS, STEP_PX, arrow_told, built_between
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.chart_model import Tool
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.plan_layer import Placed

_HEAD_PX = 7.0
_LONGEST_PX = 90.0
_DECK_PX, _PLANK_PX = 4.0, 9.0  # half the width of a dock or bridge, and from plank to plank


@dataclass(slots=True)
class DrawnLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed

    def paint(self, painter: QPainter, tags: Tags) -> None:
        """All currents, docks and bridges that marks tell of."""
        for cover in self.session.spots.facts.cover:
            if cover.end is not None:
                self._deck(painter, self.picture.at(cover.x, cover.y), self.picture.at(*cover.end))
        area = QRectF(0.0, 0.0, self.picture.width(), self.picture.height())
        for stream in self.session.spots.facts.streams:
            at = self.picture.at(stream.x, stream.y)
            if area.contains(at):
                long = min(stream.speed_mps / STEP_MPS * STEP_PX, _LONGEST_PX)
                turn = math.radians(stream.to_deg)
                self._arrow(painter, at, at + QPointF(long * math.sin(turn), -long * math.cos(turn)))

    def paint_rubber(self, painter: QPainter, tags: Tags, start: QPointF, end: QPointF) -> None:
        """What is under the hand, with what it says."""
        if self.session.chart.tool is Tool.BUILT:
            self._built_rubber(painter, tags, start, end)
            return
        told = arrow_told(end.x() - start.x(), end.y() - start.y())
        if told is None:
            return
        self._arrow(painter, start, end)
        display = self.session.display
        painter.setFont(font(display.text_size * 0.9, bold=True))
        words = display.words(told[0], Kind.SPEED)
        tags.paint(painter, end + QPointF(10, -6), words, display.theme.teal_text, display.theme.panel)

    def _built_rubber(self, painter: QPainter, tags: Tags, start: QPointF, end: QPointF) -> None:
        kind, long, _ = built_between(self.session, self.picture.place_at(start), self.picture.place_at(end))
        if long < LEAST_BUILT_M:
            return
        self._deck(painter, start, end)
        display = self.session.display
        painter.setFont(font(display.text_size * 0.9, bold=True))
        words = f"{kind}, {display.words(long, Kind.LENGTH, 0)}"
        tags.paint(painter, end + QPointF(10, -6), words, display.theme.ink, display.theme.panel)

    def _deck(self, painter: QPainter, start: QPointF, end: QPointF) -> None:
        """Two rails with planks between."""
        theme, way = self.session.display.theme, end - start
        long = math.hypot(way.x(), way.y())
        if long < 1.0:
            return
        side = QPointF(-way.y(), way.x()) * (_DECK_PX / long)
        planks = [start + way * (k * _PLANK_PX / long) for k in range(int(long / _PLANK_PX) + 1)]
        for colour, wide in ((theme.ground, 4.0), (theme.ink, 1.6)):
            painter.setPen(pen(colour, wide))
            for sign in (-1.0, 1.0):
                painter.drawLine(start + side * sign, end + side * sign)
            for at in planks:
                painter.drawLine(at - side, at + side)

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
