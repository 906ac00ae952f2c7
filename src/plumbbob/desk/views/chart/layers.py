"""What lies over the depths: passes, structure, what was drawn, marks, places, the boat, the cursor."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QPainter,
    QPolygonF,
)

from plumbbob.core.types import Floats
from plumbbob.desk.kit.ground_marks import ground_mark
from plumbbob.desk.kit.paint import bead, font, pen, shade, text_box
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.chart_model import Tool
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.drawn_layer import DrawnLayer
from plumbbob.desk.views.chart.graticule import Graticule
from plumbbob.desk.views.chart.image import ChartImage
from plumbbob.desk.views.chart.live_layer import LiveLayer
from plumbbob.desk.views.chart.open_water_layer import OpenWaterLayer
from plumbbob.desk.views.chart.plan_layer import PlanLayer
from plumbbob.desk.views.chart.seen_layer import SeenLayer
from plumbbob.desk.views.chart.words import cursor_lines, place_title

_NAME_LETTERS = 14
_MOST_PLACES = 8
_MOST_BEADS, _PATCH_PX = 400, 28.0  # more marks than that in sight are drawn as a crowd
_LEAST_GROUND_PX = 6.0


class ChartLayers(ChartImage):
    """Paints what is known of the water over its depths."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.plan, self.live = PlanLayer(session, self), LiveLayer(session, self)
        self.open_water = OpenWaterLayer(session, self)
        self.drawn, self.seen = DrawnLayer(session, self), SeenLayer(session, self)
        session.live.moved.connect(self.update)
        run = session.run
        for signal in (run.planned, run.chosen_changed, run.moved, run.shown_changed, session.search.changed):
            signal.connect(self.update)

    def paint(self, painter: QPainter) -> None:
        """Pixels from the cached picture, lines over them, then what is chosen."""
        theme = self._session.display.theme
        painter.fillRect(self.rect(), QColor(theme.ground))
        if self._raster is None or self._palette is None:
            self._paint_nothing(painter)
            return
        if self.rendered is None:
            self.rendered = self._render()
        painter.drawImage(self.rect(), self.rendered)
        self._swaths.paint(painter, self.at)
        if self.lines is None:
            self.lines = self._render_lines()
        painter.drawImage(0, 0, self.lines)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._tags = Tags(QRectF(self.rect()).adjusted(3, 24, -3, -3))
        self._paint_tracks(painter)
        self._paint_ground(painter)
        self.seen.paint(painter, self._tags)
        self._paint_features(painter)
        self._paint_drawn(painter)
        self.open_water.paint(painter, self._tags)
        self.drawn.paint(painter, self._tags)
        self.plan.paint(painter)
        if not self._session.view.shows_plan:
            self._paint_places(painter)
        self._paint_marks(painter)
        self._name_tracks(painter)
        if not self._session.view.shows_plan:
            self._paint_boat(painter)
        self.live.paint(painter)
        self._paint_cursor(painter)
        Graticule(session=self._session, picture=self).paint(painter)

    def _paint_boat(self, painter: QPainter) -> None:
        """Where the ping under the echogram's cursor was taken, with the width of the beam's foot to scale."""
        session = self._session
        chart, boat = session.chart.chart, session.scan.boat_place()
        if chart is None or boat is None:
            return
        x, y = chart.plane.to_xy(boat.latitude, boat.longitude)
        at, theme = self.at(float(x), float(y)), session.display.theme
        foot = session.scan.footprint_m / 2 / session.chart.view.m_per_px
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ground, 4.0, alpha=200))
        painter.drawEllipse(at, 6.0, 6.0)
        painter.setPen(pen(theme.vermilion, 2.0))
        painter.drawEllipse(at, 6.0, 6.0)
        if foot > 8:
            painter.drawEllipse(at, foot, foot)

    def _paint_nothing(self, painter: QPainter) -> None:
        display = self._session.display
        painter.setPen(QColor(display.theme.muted_text))
        painter.setFont(font(display.text_size * 1.15))
        live = self._session.jobs.live  # with nothing under way the start page lies here
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, f"{live[-1].title} …" if live else "")

    def _paint_tracks(self, painter: QPainter) -> None:
        theme, scan = self._session.display.theme, self._session.scan
        for track in self._session.chart.tracks:
            points = QPolygonF([self.at(x, y) for x, y in track.line.tolist()])
            mine = scan.recording is not None and scan.recording.name == track.name
            painter.setPen(pen(theme.vermilion if track.recorded else theme.lichen, 1.8 if mine else 1.0, alpha=220))
            painter.drawPolyline(points)

    def _name_tracks(self, painter: QPainter) -> None:
        """What each line is, at its end, where nothing that matters more stands."""
        theme = self._session.display.theme
        painter.setFont(font(self._session.display.text_size * 0.8))
        for track in self._session.chart.tracks:
            if len(track.line):
                words = "pass" if track.recorded else track.name
                end = self.at(*track.line[-1].tolist()) + QPointF(6, -4)
                if self.rect().contains(end.toPoint()):
                    self._tags.paint(painter, end, words, theme.vermilion_text, theme.panel)

    def _paint_ground(self, painter: QPainter) -> None:
        """Kinds of bottom that the fans of the open pass saw, where they are large enough to be seen."""
        session = self._session
        chart, side = session.chart.chart, session.scan.reading.side
        if chart is None or side is None or not side.ground:
            return
        near, far = self.at(0.0, 0.0), self.at(1.0, 0.0)
        per_metre = abs(far.x() - near.x())
        for tile in side.ground:
            size = (tile.far_m - tile.near_m) * per_metre
            if tile.latitude != tile.latitude or size < _LEAST_GROUND_PX:
                continue
            x, y = chart.plane.to_xy(tile.latitude, tile.longitude)
            at = self.at(float(x), float(y))
            if self.rect().contains(at.toPoint()):
                alpha = 110 + round(100 * (tile.chance - 0.5))
                ground_mark(painter, at, 0.8 * min(size, 22.0), tile.kind, session.display.theme.ink, alpha)

    def _paint_features(self, painter: QPainter) -> None:
        """The chosen place's own outline, roads and channels' bends."""
        theme = self._session.display.theme
        chart, chosen = self._session.chart.chart, self._session.spots.chosen
        if chart is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for feature in chart.features:
            if feature.kind == "road":
                painter.setPen(pen(theme.brass, 1.6, alpha=190, style=Qt.PenStyle.DashLine))
                painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in feature.shape.tolist()]))
        if chosen is not None and len(chosen.feature.shape):
            painter.setPen(pen(theme.vermilion, 1.6, style=Qt.PenStyle.DotLine))
            painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in chosen.feature.shape.tolist()]))
        for x, y in chart.hazards:
            bead(painter, self.at(x, y), 5.0, theme.vermilion, kind="hazard")

    def _paint_drawn(self, painter: QPainter) -> None:
        theme, chart = self._session.display.theme, self._session.chart
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if chart.drawn is not None:
            lane = chart.drawn.lane is not None
            painter.setPen(pen(theme.ink if not lane else theme.brass, 2.2))
            painter.drawPolyline(QPolygonF([self.at(x, y) for x, y in chart.drawn.line.tolist()]))
            if chart.drawn.wait is not None:
                wait = self.at(*chart.drawn.wait)
                bead(painter, wait, 7.0, theme.vermilion, kind="place")
                painter.setFont(font(self._session.display.text_size, bold=True))
                words = wait + QPointF(11, -6)
                self._tags.paint(painter, words, "wait here", theme.vermilion_text, theme.panel)
        if chart.holes is not None:
            v = chart.view
            points = [self.at(x, y) for x, y in chart.holes.places.tolist()]
            painter.setPen(pen(theme.teal, 1.0, style=Qt.PenStyle.DotLine))
            painter.drawPolyline(QPolygonF(points))
            radius = chart.holes.footprint_m / 2 / v.m_per_px
            for i, at in enumerate(points):
                painter.setPen(pen(theme.teal, 1.2))
                painter.drawEllipse(at, radius, radius)
                painter.setFont(font(self._session.display.text_size * 0.8, bold=True))
                painter.setPen(QColor(theme.teal_text))
                painter.drawText(at + QPointF(-4, 4), str(i + 1))
        if self._rubber is not None:
            a, b = self._rubber
            if self._session.chart.tool in (Tool.CURRENT, Tool.BUILT):
                self.drawn.paint_rubber(painter, self._tags, a, b)
                return
            painter.setPen(pen(theme.ink, 1.6, style=Qt.PenStyle.DashLine))
            painter.drawLine(a, b)

    def _paint_marks(self, painter: QPainter) -> None:
        """Bead marks: a stroke from surface to bottom with a bead at the relative depth of what was seen."""
        session = self._session
        chart, theme = session.chart.chart, session.display.theme
        if chart is None or not session.logbook.marks:
            return
        book, marks = session.logbook, session.logbook.marks
        chosen = book.chosen
        painter.setFont(font(session.display.text_size * 0.8, bold=True))
        v = session.chart.view
        xs, ys = marks.on(chart.plane)
        across, down = (xs - v.x) / v.m_per_px + self.width() / 2, (v.y - ys) / v.m_per_px + self.height() / 2
        shown = np.flatnonzero(
            (across > -40) & (across < self.width() + 40) & (down > -40) & (down < self.height() + 40)
        )
        if shown.size > _MOST_BEADS:
            self._paint_crowd(painter, across[shown], down[shown])
            shown = shown[:0] if chosen is None else shown[marks.numbers("id")[shown] == chosen.id]
        for k in shown:
            mark = marks[int(k)]
            foot = QPointF(float(across[k]), float(down[k]))
            number = book.caught_at(mark)
            colour = theme.brass if number else theme.ink
            tall = 26.0
            top = QPointF(foot.x(), foot.y() - tall)
            painter.setPen(pen(theme.ground, 4.0, alpha=150))
            painter.drawLine(top, foot)
            painter.setPen(pen(colour, 2.4 if chosen is not None and mark.id == chosen.id else 1.5))
            painter.drawLine(top, foot)
            painter.drawLine(QPointF(foot.x() - 4, foot.y()), QPointF(foot.x() + 4, foot.y()))
            share = 1.0
            if mark.depth_m is not None and mark.bottom_depth_m:
                share = min(max(mark.depth_m / mark.bottom_depth_m, 0.0), 1.0)
            bead(painter, QPointF(foot.x(), top.y() + share * tall), 3.6, colour, kind=mark.kind.value)
            if session.chart.view.m_per_px < 2.5:
                seen = QPointF(foot.x() + 7, foot.y() - 8)
                # a place that is only to be found again has its name, such as a hole its number in the walk
                words = f"{number}/{mark.seen}" if mark.seen or number or not mark.name else mark.name[:_NAME_LETTERS]
                self._tags.paint(painter, seen, words, theme.ink, theme.panel)

    def _paint_crowd(self, painter: QPainter, across: Floats, down: Floats) -> None:
        """More marks than beads have room for: how many there are in each patch of the picture."""
        theme = self._session.display.theme
        wide = 1 + int(self.width() // _PATCH_PX) + 4
        cell = (down // _PATCH_PX + 2).astype(int) * wide + (across // _PATCH_PX + 2).astype(int)
        cells, counts = np.unique(cell, return_counts=True)
        most = float(np.log1p(counts.max()))
        painter.setPen(Qt.PenStyle.NoPen)
        for c, number in zip(cells.tolist(), counts.tolist(), strict=True):
            at = QPointF((c % wide - 1.5) * _PATCH_PX, (c // wide - 1.5) * _PATCH_PX)
            size = 2.5 + 0.4 * _PATCH_PX * math.log1p(number) / most
            painter.setBrush(shade(theme.ink, 110))
            painter.drawEllipse(at, size, size)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_places(self, painter: QPainter) -> None:
        session = self._session
        display, theme = session.display, session.display.theme
        plain = font(display.text_size * 0.85, bold=True)
        metrics = QFontMetricsF(plain)
        ranked = list(enumerate(session.spots.places[:_MOST_PLACES], 1))
        chosen = session.spots.chosen
        if chosen is not None and all(p is not chosen for _, p in ranked):
            ranked.append((0, chosen))
        high = metrics.height() + 4
        boxes: list[tuple[bool, QPointF, QRectF | None, str]] = []
        # the chosen one takes its room first and is drawn last, on top
        for number, place in sorted(ranked, key=lambda item: item[1] is not chosen):
            at = self.at(place.feature.x, place.feature.y)
            if not self.rect().contains(at.toPoint()):
                continue
            title = place_title(display, place.feature, session.conditions.level_m)
            for text in (f"{number}  {title}" if number else place.feature.kind, str(number)):
                wide = metrics.horizontalAdvance(text) + 12
                left = at.x() + 10 if at.x() + 14 + wide < self.width() else at.x() - 10 - wide
                box = self._tags.free(QRectF(left, at.y() - high / 2, wide, high))
                if box is not None and abs(box.center().y() - at.y()) <= high:
                    self._tags.take(box)
                    boxes.append((place is chosen, at, box, text))
                    break
            else:
                boxes.append((place is chosen, at, None, ""))
        for mine, at, box, text in reversed(boxes):
            painter.setPen(pen(theme.vermilion, 2.6 if mine else 1.8))
            r = 7.0 if mine else 5.0
            painter.drawLine(at - QPointF(r, 0), at + QPointF(r, 0))
            painter.drawLine(at - QPointF(0, r), at + QPointF(0, r))
            if box is None:
                continue
            painter.setPen(pen(theme.vermilion) if mine else Qt.PenStyle.NoPen)
            painter.setBrush(shade(theme.panel, 235 if mine else 215))
            painter.drawRoundedRect(box, 3, 3)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setFont(plain)
            painter.setPen(QColor(theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_cursor(self, painter: QPainter) -> None:
        session = self._session
        cursor, display = session.chart.cursor, session.display
        theme = display.theme
        if cursor is None:
            return
        at = self.at(*cursor)
        painter.setPen(pen(theme.ink, 1.2, alpha=220))
        painter.drawLine(at - QPointF(9, 0), at - QPointF(3, 0))
        painter.drawLine(at + QPointF(3, 0), at + QPointF(9, 0))
        painter.drawLine(at - QPointF(0, 9), at - QPointF(0, 3))
        painter.drawLine(at + QPointF(0, 3), at + QPointF(0, 9))
        if not self.underMouse() or (session.spots.chosen is not None and self._near_chosen(at)):
            return
        strong, plain = font(display.text_size * 1.1, bold=True), font(display.text_size * 0.95)
        lines = cursor_lines(session)
        shown = [(lines[0], strong, theme.ink)] + [(t, plain, theme.muted_text) for t in lines[1:]]
        text_box(painter, shown, at, QRectF(self.rect()), theme.panel, theme.rule)

    def _near_chosen(self, at: QPointF) -> bool:
        chosen = self._session.spots.chosen
        if chosen is None:
            return False
        spot = self.at(chosen.feature.x, chosen.feature.y)
        return math.hypot(spot.x() - at.x(), spot.y() - at.y()) < 12
