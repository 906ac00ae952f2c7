"""The lines in motion by time: how deep each lure is, and the bottom under the first of them where it is known."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.rig.motion import Run
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import DepthPlot, paint_depths
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.drawing import bottom_shape, number_bead, water
from plumbbob.desk.views.rig.words import capital

_LEFT, _RIGHT, _TOP, _FOOT = 46.0, 34.0, 26.0, 18.0


class DepthTimePicture(Painted):
    """Needs the session. A click or a drag shows that moment of the run; Esc goes back to the lines at rest."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("course")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        for signal in (session.lines.moved, session.rig.rods_changed, session.display.changed):
            signal.connect(self.update)

    def _area(self) -> QRectF:
        return QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _FOOT)

    def paint(self, painter: QPainter) -> None:
        """Lures by time, the moment in the picture above."""
        display, boat = self._session.display, self._session.lines
        theme, run = display.theme, boat.run
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.panel))
        painter.setPen(pen(theme.rule))
        painter.drawLine(0, 0, self.width(), 0)
        if run is None:
            return
        painter.setFont(font(display.text_size * 0.82, bold=True))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(_LEFT, 16), f"{boat.manoeuvre.value.upper()}: DEPTH OF EACH LURE BY SECONDS")
        area = self._area()
        deepest = 1.08 * max(1.0, *(line.deepest_m for line in run.lines))
        floor = run.lines[0].depth_m + run.lines[0].room_m
        if np.isfinite(floor).any() and float(np.nanmin(floor)) < 1.6 * deepest:
            deepest = max(deepest, 1.05 * float(np.nanmin(floor)))
        water(painter, area, theme)
        plot = DepthPlot(area, float(run.time[-1] - run.time[0]), deepest)
        px = plot.x.px(run.time - run.time[0])
        painter.save()
        painter.setClipRect(area)
        bottom_shape(painter, px, plot.y.px(floor), area.bottom(), theme)
        self._paint_lures(painter, run, plot)
        painter.restore()
        self._paint_axes(painter, run, plot)
        if boat.frame is not None:
            x = float(px[min(boat.frame, len(px) - 1)])
            painter.setPen(pen(theme.brass, 1.0))
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))

    def _paint_lures(self, painter: QPainter, run: Run, plot: DepthPlot) -> None:
        session = self._session
        theme, px = session.display.theme, plot.x.px(run.time - run.time[0])
        for i, line in zip(session.lines.moving, run.lines, strict=True):
            chosen = i == session.rig.chosen
            y = plot.y.px(line.depth_m)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(theme.brass if chosen else theme.ink, 1.9 if chosen else 1.0))
            painter.drawPolyline(QPolygonF([QPointF(*p) for p in zip(px.tolist(), y.tolist(), strict=True)]))
            at = QPointF(float(px[0]) + 12 + 18 * (i % 3), float(y[0]))
            number_bead(painter, at, i + 1, session.display, chosen=chosen, radius=7.0)

    def _paint_axes(self, painter: QPainter, run: Run, plot: DepthPlot) -> None:
        display, area = self._session.display, plot.area
        paint_depths(painter, plot, display)
        painter.setFont(font(display.text_size * 0.78))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QColor(display.theme.muted_text))
        length = plot.length
        step = next(s for s in (5, 10, 20, 30, 60, 120, 300, 600) if length / s <= 10 or s == 600)
        for second in range(0, int(length) + 1, step):
            x = plot.x.px(second)
            words = f"{second} s" if second == 0 else str(second)
            painter.drawText(QPointF(x - metrics.horizontalAdvance(words) / 2, self.height() - 5.0), words)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(display.theme.rule))
        painter.drawRect(area)
        frame = self._session.lines.frame
        if frame is not None:
            told = ", ".join(
                f"{i + 1} {display.words(float(line.depth_m[frame]), Kind.DEPTH)}"
                for i, line in zip(self._session.lines.moving, run.lines, strict=True)
            )
            words = f"{run.time[frame] - run.time[0]:.0f} s: {told}"
            painter.setFont(font(display.text_size * 0.92))
            painter.setPen(QColor(display.theme.ink))
            wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
            painter.drawText(QPointF(area.right() - wide, 16), capital(words))

    # -- hands --------------------------------------------------------------------------------------------------

    def _show_moment(self, x: float) -> None:
        run = self._session.lines.run
        if run is not None:
            self._session.lines.set_frame(round(DepthPlot(self._area(), len(run.time) - 1, 1.0).x.value(x)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """That moment; a playing run stops there."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._session.lines.hold()
            self._show_moment(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """And as the mouse goes."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._show_moment(event.position().x())
