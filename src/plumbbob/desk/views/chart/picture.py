"""What a hand does on the chart: move it, pick, draw a line, zoom."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import (
    QMouseEvent,
    QWheelEvent,
)

from plumbbob.desk.commands.drawing import arrow_told, keep_built, keep_current
from plumbbob.desk.kit.plot import nearest
from plumbbob.desk.models.chart_model import Tool
from plumbbob.desk.views.chart.layers import _MOST_PLACES, ChartLayers

_PICK_PX = 14.0


class ChartPicture(ChartLayers):
    """The whole of it: lets one move over it, pick, and draw a line."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click, a move, or a line."""
        if event.button() == Qt.MouseButton.LeftButton and self._raster is not None:
            self._pressed = self._last = event.position()
            if self._session.chart.tool is not Tool.MOVE:
                self._rubber = (event.position(), event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the cursor, or the chart under a pressed button."""
        at = event.position()
        if self._raster is None:
            return
        if self._rubber is not None:
            self._rubber = (self._rubber[0], at)
            if self._session.chart.tool is Tool.LINE:
                self._draw_line()
            self.update()
        elif self._last is not None and self._pressed is not None:
            moved = at - self._pressed
            if math.hypot(moved.x(), moved.y()) > 4:
                step = self._last - at
                self._session.chart.pan(step.x(), step.y())
            self._last = at
        self._session.chart.set_cursor(*self.place_at(at))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click picks; a line is done."""
        pressed, self._pressed, self._last = self._pressed, None, None
        if self._rubber is not None:
            if self._session.chart.tool is Tool.CURRENT:
                self._draw_current(*self._rubber)
            elif self._session.chart.tool is Tool.BUILT:
                keep_built(self._session, *(self.place_at(at) for at in self._rubber))
            else:
                self._draw_line()
            self._rubber = None
            self._session.chart.set_tool(Tool.MOVE)
            self.update()
            return
        if pressed is not None and event.button() == Qt.MouseButton.LeftButton:
            moved = event.position() - pressed
            if math.hypot(moved.x(), moved.y()) <= 4:
                self._pick(event.position())

    def _draw_line(self) -> None:
        assert self._rubber is not None
        chart = self._session.chart
        drawn = chart.line_across(self.place_at(self._rubber[0]), self.place_at(self._rubber[1]))
        if drawn is not None:
            chart.set_drawn(drawn)

    def _draw_current(self, start: QPointF, end: QPointF) -> None:
        told = arrow_told(end.x() - start.x(), end.y() - start.y())
        if told is not None:
            keep_current(self._session, *self.place_at(start), *told)

    def _pick(self, at: QPointF) -> None:
        session = self._session
        chart = session.chart.chart
        if chart is None:
            return

        spots = ((p, self.at(p.feature.x, p.feature.y)) for p in session.spots.places[:_MOST_PLACES])
        spot = nearest(at, spots, _PICK_PX)
        if spot is not None:
            session.spots.choose(spot)
            return
        raised = QPointF(0.0, -13.0)  # a mark's bead stands on a thread
        marks = session.logbook.marks
        xs, ys = marks.on(chart.plane)
        x, y = self.place_at(at - raised)
        reach = 2 * (_PICK_PX + 6) * session.chart.view.m_per_px
        close = np.flatnonzero((np.abs(xs - x) < reach) & (np.abs(ys - y) < reach))
        beads = ((marks[int(k)], self.at(float(xs[k]), float(ys[k])) + raised) for k in close)
        mark = nearest(at, beads, _PICK_PX + 6)
        if mark is not None:
            session.logbook.choose(mark.id)
            return
        if not session.view.points_on_chart:
            # beside the echogram the chart leads to the ping nearest to a place
            session.scan.go_to_place(chart.plane.place(*self.place_at(at)))
            return
        fixes = ((t, self.at(x, y)) for t in session.chart.tracks if t.recorded for x, y in t.line[::2].tolist())
        track = nearest(at, fixes, _PICK_PX * 0.7)
        if track is not None:
            session.open_pass(track.name, self.place_at(at))
            return
        session.spots.choose(None)
        session.chart.set_cursor(*self.place_at(at))

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the mouse."""
        if self._raster is not None and event.angleDelta().y():
            self._session.chart.zoom(0.9985 ** event.angleDelta().y(), self.place_at(event.position()))
