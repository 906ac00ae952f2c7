"""The boat that is listened to, on the chart: its trail, its bow, its speed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from plumbbob.core.geodesy import Position
from plumbbob.core.live.anchor import let_go_at, rode_for
from plumbbob.core.live.drift import drift_start
from plumbbob.core.units import Kind
from plumbbob.desk.commands.casting import cast_words, reach_now, where_words
from plumbbob.desk.kit.paint import font, pen, tag

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session
    from plumbbob.desk.views.chart.plan_layer import Placed

_MOST_POINTS = 3000  # of a trail, as drawn
_SHOWN_M = 200.0  # a cast to a mark farther off is no cast
_BREEZE_MPS = 1.0  # from here on a boat lies down-wind of its anchor
_DRIFTS_MPS, _FALLS_MPS = (0.05, 1.2), 0.5


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
        self._paint_lying(painter)
        self._paint_cast(painter, at)
        self._paint_lane(painter, at)
        if math.isfinite(fix.speed_mps):
            display = self.session.display
            painter.setFont(font(display.text_size * 0.85, bold=True))
            words = display.words(fix.speed_mps, Kind.SPEED)
            tag(painter, at + QPointF(14, 5), words, theme.vermilion_text, theme.panel)

    def _paint_cast(self, painter: QPainter, boat: QPointF) -> None:
        """To the chosen mark: the way, where the lure lands, how it is done."""
        session, chart = self.session, self.session.chart.chart
        mark = session.logbook.chosen
        found = reach_now(session) if mark is not None else None
        if found is None or chart is None:
            return
        theme, display = session.display.theme, session.display
        aim, reach = found
        if reach.distance_m > _SHOWN_M:
            return
        x, y = chart.plane.to_xy(aim.place.latitude, aim.place.longitude)
        there = self.picture.at(float(x), float(y))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.brass if reach.plan is not None else theme.muted, 1.6, style=Qt.PenStyle.DashLine))
        painter.drawLine(boat, there)
        if reach.plan is not None and reach.distance_m > 0:
            land = boat + (there - boat) * (reach.plan.land_m / reach.distance_m)
            painter.setPen(pen(theme.brass, 1.6))
            painter.drawLine(there, land)
            painter.drawEllipse(land, 4.0, 4.0)
        painter.setFont(font(display.text_size * 0.85, bold=True))
        head, _ = cast_words(session, aim, reach)
        words = f"{head.lower()}: {where_words(session, reach)}"
        tag(painter, boat + QPointF(14, 22), words, theme.brass_text, theme.panel)

    def _paint_lane(self, painter: QPainter, boat: QPointF) -> None:
        """How far off the drawn lane the boat is, and how much of it is left."""
        session, on = self.session, self.session.lane.now()
        if on is None:
            return
        say, theme = session.display.words, session.display.theme
        painter.setFont(font(session.display.text_size * 0.85, bold=True))
        side = "right" if on.off_m > 0 else "left"
        words = f"{say(abs(on.off_m), Kind.DISTANCE, 0)} {side} of the lane, {say(on.left_m, Kind.DISTANCE, 0)} to go"
        tag(painter, boat + QPointF(14, -14), words, theme.ink, theme.panel)

    def _paint_lying(self, painter: QPainter) -> None:
        """To lie at the chosen place: where the anchor goes and how far one swings; for a drift, where it begins."""
        session, chart = self.session, self.session.chart.chart
        place, fix = session.run.chosen, session.live.fix
        if place is None or fix is None or chart is None or not session.view.shows_plan:
            return
        theme, display = session.display.theme, session.display
        wind, wind_from = session.view.wind
        there = self._on_chart(place.place)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(font(display.text_size * 0.8))
        if wind >= _BREEZE_MPS:
            rode = rode_for(place.bottom_m, wind)
            anchor = self._on_chart(let_go_at(place.place, rode.swing_m, wind_from))
            radius = math.hypot(anchor.x() - there.x(), anchor.y() - there.y())
            painter.setPen(pen(theme.muted, 1.2, style=Qt.PenStyle.DotLine))
            painter.drawEllipse(anchor, radius, radius)
            painter.setPen(pen(theme.ink, 1.6))
            painter.drawLine(anchor + QPointF(-5, 0), anchor + QPointF(5, 0))
            painter.drawLine(anchor + QPointF(0, -6), anchor + QPointF(0, 6))
            words = f"let go: {display.words(rode.rope_m, Kind.DISTANCE, 0)} of rope, bow to {wind_from % 360:.0f}°"
            tag(painter, anchor + QPointF(9, 4), words, theme.ink, theme.panel)
        if _DRIFTS_MPS[0] <= fix.speed_mps <= _DRIFTS_MPS[1] and math.isfinite(fix.course_deg):
            begin = drift_start(place.place, fix.speed_mps, fix.course_deg, place.fish_m / _FALLS_MPS)
            start = self._on_chart(begin)
            painter.setPen(pen(theme.brass, 1.6, style=Qt.PenStyle.DashLine))
            painter.drawLine(start, there)
            painter.setPen(pen(theme.brass, 1.6))
            painter.drawEllipse(start, 5.0, 5.0)
            tag(painter, start + QPointF(9, 4), "begin the drift here", theme.brass_text, theme.panel)

    def _on_chart(self, place: Position) -> QPointF:
        chart = self.session.chart.chart
        assert chart is not None
        x, y = chart.plane.to_xy(place.latitude, place.longitude)
        return self.picture.at(float(x), float(y))
