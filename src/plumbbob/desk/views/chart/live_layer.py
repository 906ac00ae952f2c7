"""The boat that is listened to, on the chart: its trail, its bow, its speed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPolygonF

from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, tag

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session
    from plumbbob.desk.views.chart.plan_layer import Placed

_MOST_POINTS = 3000  # of a trail, as drawn


@dataclass
class LiveLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed

    def paint(self, painter: QPainter) -> None:
        """Trail, then boat."""
        live, chart = self.session.live, self.session.chart.chart
        if chart is None or not live.trail:
            return
        theme = self.session.display.theme
        every = max(len(live.trail) // _MOST_POINTS, 1)
        places = [*live.trail[::every], live.trail[-1]]
        x, y = chart.plane.to_xy([p.latitude for p in places], [p.longitude for p in places])
        line = QPolygonF([self.picture.at(a, b) for a, b in zip(np.ravel(x), np.ravel(y), strict=True)])
        painter.setPen(pen(theme.ground, 3.6, alpha=150))
        painter.drawPolyline(line)
        painter.setPen(pen(theme.vermilion, 1.6))
        painter.drawPolyline(line)
        fix = live.fix
        if fix is None or not live.is_on:
            return
        east, north = chart.plane.to_xy(fix.latitude, fix.longitude)
        at = self.picture.at(float(east), float(north))
        heading = live.heading_deg
        painter.setPen(pen(theme.ground, 2.0))
        painter.setBrush(QColor(theme.vermilion))
        if heading is None:
            painter.drawEllipse(at, 6.0, 6.0)
        else:
            painter.save()
            painter.translate(at)
            painter.rotate(heading)
            hull = [(0.0, -13.0), (6.0, -2.0), (5.0, 9.0), (-5.0, 9.0), (-6.0, -2.0)]
            painter.drawPolygon(QPolygonF([QPointF(a, b) for a, b in hull]))
            painter.restore()
        if math.isfinite(fix.speed_mps):
            display = self.session.display
            painter.setFont(font(display.text_size * 0.85, bold=True))
            words = display.words(fix.speed_mps, Kind.SPEED)
            tag(painter, at + QPointF(14, 5), words, theme.vermilion_text, theme.panel)
