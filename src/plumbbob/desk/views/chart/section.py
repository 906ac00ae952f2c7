"""Under the chart: the bottom along the line across or the lane, or else how much of the water lies at each depth."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.geodesy import bearing_deg
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, round_steps, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import DepthPlot, paint_depths, paint_distances
from plumbbob.desk.models.chart_model import Drawn
from plumbbob.desk.models.session import Session
from plumbbob.wording.compass import compass

_RIGHT = 14.0
_TOP_LINES, _FOOT_LINES = 2.4, 1.8  # room for a head and for distances, in sizes of text


class SectionPicture(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("section")
        self._session = session
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._shares: tuple[int, float, np.ndarray] | None = None
        for signal in (
            session.chart.opened,
            session.chart.drawn_changed,
            session.chart.cursor_changed,
            session.conditions.changed,
            session.rig.changed,
            session.display.changed,
        ):
            signal.connect(self.update)

    def paint(self, painter: QPainter) -> None:
        """The profile, or the shares."""
        theme = self._session.display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.panel))
        painter.setPen(pen(theme.rule))
        painter.drawLine(0, 0, self.width(), 0)
        if self._session.chart.chart is None:
            return
        drawn = self._session.chart.drawn
        if drawn is not None:
            self._paint_profile(painter, drawn)
        else:
            self._paint_shares(painter)

    def _head(self, painter: QPainter, title: str, words: str) -> None:
        display = self._session.display
        painter.setFont(font(display.text_size * 0.82, bold=True))
        painter.setPen(QColor(display.theme.muted_text))
        base = 1.6 * display.text_size
        painter.drawText(QPointF(8, base), title)
        x = 8 + QFontMetricsF(painter.font()).horizontalAdvance(title) + 12
        painter.setFont(font(display.text_size * 0.92))
        painter.setPen(QColor(display.theme.ink))
        room = round(self.width() - x - 6)
        words = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(x, base), words)

    @property
    def area(self) -> QRectF:
        """Where depths are drawn."""
        size = self._session.display.text_size
        left, top, foot = 4.6 * size, _TOP_LINES * size, _FOOT_LINES * size
        return QRectF(left, top, self.width() - left - _RIGHT, self.height() - top - foot)

    # -- along a line -------------------------------------------------------------------------------------------

    def _paint_profile(self, painter: QPainter, drawn: Drawn) -> None:
        session = self._session
        display, level = session.display, session.conditions.level_m
        theme = display.theme
        depth = drawn.depth_m + level
        known = np.isfinite(depth)
        self._head(painter, "LANE" if drawn.lane is not None else "ACROSS", self.line_words(drawn, depth))
        if not known.any():
            return
        length = float(drawn.along_m[-1])
        deepest = max(float(np.nanmax(depth)) * 1.08, 2.0)
        area = self.area

        plot = DepthPlot(area, length, deepest)
        at = plot.at
        painter.fillRect(area, shade(theme.teal, 34))
        window = session.rig.window
        if window is not None:
            top, base = at(0, window[0]).y(), min(at(0, window[1]).y(), area.bottom())
            painter.fillRect(QRectF(area.left(), top, area.width(), max(base - top, 0)), shade(theme.brass, 46))
        if session.conditions.layer_plane is not None:
            layer = session.conditions.layer_plane.at(drawn.line[:, 0], drawn.line[:, 1])
            painter.setPen(pen(theme.teal, 1.6, style=Qt.PenStyle.DashLine))
            pairs = zip(drawn.along_m.tolist(), layer.tolist(), strict=True)
            painter.drawPolyline(QPolygonF([at(a, d) for a, d in pairs if d < deepest]))
        runs = np.split(np.flatnonzero(known), np.flatnonzero(np.diff(np.flatnonzero(known)) > 1) + 1)
        for run in runs:
            line = [at(float(drawn.along_m[i]), max(float(depth[i]), 0.0)) for i in run]
            ground = [*line, QPointF(line[-1].x(), area.bottom()), QPointF(line[0].x(), area.bottom())]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.land))
            painter.drawPolygon(QPolygonF(ground))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(theme.ink, 1.6))
            painter.drawPolyline(QPolygonF(line))
        bob = session.rig.bob_m
        if bob < deepest:
            painter.setPen(pen(theme.brass, 1.2, style=Qt.PenStyle.DotLine))
            painter.drawLine(at(0, bob), at(length, bob))
        paint_depths(painter, plot, display, ticks=True)
        paint_distances(painter, plot, display, self.height() - 5.0)
        self._paint_here(painter, drawn, plot)

    def line_words(self, drawn: Drawn, depth: np.ndarray) -> str:
        """How long the line is, which way it goes, how deep it gets."""
        session = self._session
        display = session.display
        length = display.words(float(drawn.along_m[-1]), Kind.DISTANCE, 0)
        if drawn.lane is not None:
            spread = float(np.nanmedian(drawn.lane.sd_m))
            low, high = float(np.nanmin(depth)), float(np.nanmax(depth))
            span = f"{display.figure(low, Kind.DEPTH)}–{display.words(high, Kind.DEPTH)}"
            return f"{length} long, {span} {display.spread(spread, Kind.DEPTH)}. {drawn.note}"
        chart = session.chart.chart
        assert chart is not None
        first, last = chart.plane.place(*drawn.line[0]), chart.plane.place(*drawn.line[-1])
        bearing = bearing_deg(first, last)
        deepest = display.words(float(np.nanmax(depth)), Kind.DEPTH) if np.isfinite(depth).any() else "not sounded"
        return f"{length} towards {bearing:.0f}° ({compass(bearing)}), deepest {deepest}"

    def _paint_here(self, painter: QPainter, drawn: Drawn, plot: DepthPlot) -> None:
        """The place on the line that is nearest to the cursor."""
        cursor = self._session.chart.cursor
        if cursor is None:
            return
        away = np.hypot(drawn.line[:, 0] - cursor[0], drawn.line[:, 1] - cursor[1])
        i = int(away.argmin())
        if away[i] > 30 * self._session.chart.view.m_per_px:
            return
        x = plot.x.px(float(drawn.along_m[i]))
        painter.setPen(pen(self._session.display.theme.ink, 1.0, alpha=190))
        painter.drawLine(QPointF(x, plot.area.top()), QPointF(x, plot.area.bottom()))

    # -- how much at each depth ---------------------------------------------------------------------------------

    def _paint_shares(self, painter: QPainter) -> None:
        session = self._session
        display, theme = session.display, session.display.theme
        chart = session.chart.chart
        assert chart is not None
        step = round_steps(
            max(chart.deepest_m + session.conditions.level_m, 1.0), Kind.DEPTH, display.system_of(Kind.DEPTH), 26
        )
        key = (id(chart), round(session.conditions.level_m, 2) + 1000 * step)
        if self._shares is None or self._shares[:2] != key:
            today = chart.grid.depth_m[::3, ::3] + np.float32(
                session.conditions.level_m
            )  # a ninth tells the shares well
            today = today[today > 0]
            bins = max(math.ceil(float(today.max()) / step), 1) if today.size else 1
            self._shares = (*key, np.histogram(today, bins=bins, range=(0, bins * step))[0] / max(today.size, 1))
        shares = self._shares[2]
        self._head(painter, "HOW MUCH LIES AT EACH DEPTH", "D draws a line across, E lays a lane along this depth.")
        area = self.area
        most = float(shares.max()) or 1.0
        wide = area.width() / shares.size
        window = session.rig.window
        painter.setFont(font(display.text_size * 0.78))
        metrics = QFontMetricsF(painter.font())
        every = max(math.ceil(44 / wide), 1)
        for k, share in enumerate(shares.tolist()):
            tall = share / most * (area.height() - 2)
            box = QRectF(area.left() + k * wide + 1, area.bottom() - tall, wide - 2, tall)
            inside = window is not None and (k + 1) * step > window[0] and k * step < window[1]
            painter.fillRect(box, QColor(theme.brass if inside else theme.rule))
            if k % every == 0:
                text = f"{display.shown(k * step, Kind.DEPTH):.10g}"
                if k == 0:
                    text += f" {display.unit(Kind.DEPTH)}"
                painter.setPen(QColor(theme.muted_text))
                x = area.left() + k * wide - (0 if k == 0 else metrics.horizontalAdvance(text) / 2)
                painter.drawText(QPointF(x, self.height() - 5.0), text)
        layer = session.conditions.layer
        if layer is not None and layer.middle_m < shares.size * step:
            x = area.left() + layer.middle_m / step * wide
            painter.setPen(pen(theme.teal, 1.6, style=Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            painter.setPen(QColor(theme.teal_text))
            painter.drawText(QPointF(x + 5, area.top() + 10), "cold layer")
        painter.setPen(pen(theme.muted, 1.0))
        painter.drawLine(QPointF(area.left(), area.bottom()), QPointF(area.right(), area.bottom()))
        text = f"{100 * most:.0f} %"
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(area.left() - 8 - metrics.horizontalAdvance(text), area.top() + 9), text)

    # -- hands --------------------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Over the profile the chart's cursor walks along the line."""
        drawn = self._session.chart.drawn
        if drawn is None:
            return
        share = (event.position().x() - self.area.left()) / max(self.area.width(), 1.0)
        if 0.0 <= share <= 1.0:
            i = int(np.searchsorted(drawn.along_m, share * float(drawn.along_m[-1])))
            self._session.chart.set_cursor(*(float(v) for v in drawn.line[min(i, len(drawn.line) - 1)]))
