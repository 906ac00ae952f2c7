"""Where what is listed lies: exactly the rows of the list, on the shape of the water where a chart of it is open."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.geodesy import Position, separation
from plumbbob.core.types import Floats
from plumbbob.desk.kit.paint import bead, font, indexed_image, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session

_MOST_BEADS = 300
_LEAST_M = 300.0
_At = Callable[[float, float], QPointF]


class SmallMap(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("logmap")
        self._session = session
        self._shape: tuple[object, QImage] | None = None
        self._spots: tuple[Floats, Floats, Floats] | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (session.listed.changed, session.trips.chosen_changed, session.chart.opened):
            signal.connect(self._changed)

    def _changed(self) -> None:
        self._spots = None
        self.update()

    def sizeHint(self) -> QSize:
        """Small."""
        return QSize(210, 130)

    def _placed(self) -> tuple[Floats, Floats, Floats]:
        """Latitude, longitude and kind of the rows that have a place, in the water of the trip on screen."""
        t, found = self._session.listed.table, self._session.listed.found
        known = found[np.isfinite(t.latitude[found]) & np.isfinite(t.longitude[found])]
        waters = [t.water[k] for k in known.tolist()]
        trip = self._session.trips.chosen
        here = (
            trip.water
            if trip is not None and trip.water in waters
            else max(set(waters), key=waters.count, default="")
        )
        known = known[[w == here for w in waters]] if known.size else known
        return t.latitude[known], t.longitude[known], t.kind[known].astype(float)

    def paint(self, painter: QPainter) -> None:
        """The water's shape, beads, a scale."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        if self._spots is None:
            self._spots = self._placed()
        latitude, longitude, kind = self._spots
        foot = 1.6 * display.text_size
        area = QRectF(6, 6, self.width() - 12, self.height() - 12 - foot)
        painter.setFont(font(display.text_size * 0.76))
        painter.setPen(QColor(theme.muted_text))
        if not latitude.size:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "nothing listed has a place")
            return
        painter.drawText(QPointF(6, self.height() - 6), "what is listed")
        origin = Position(float(np.median(latitude)), float(np.median(longitude)))
        x, y = separation(origin.latitude, origin.longitude, latitude, longitude)
        grid = self._session.chart.chart
        box = [float(v) for v in (x.min(), y.min(), x.max(), y.max())]
        if grid is not None:
            corners = self._extent(origin)
            if corners is not None and corners[0] < box[2] and corners[2] > box[0]:
                box = list(corners)
        wide, high = max(box[2] - box[0], _LEAST_M), max(box[3] - box[1], _LEAST_M)
        per = max(wide / area.width(), high / area.height()) * 1.06
        cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2

        def at(px: float, py: float) -> QPointF:
            return QPointF(area.center().x() + (px - cx) / per, area.center().y() - (py - cy) / per)

        self._paint_shape(painter, origin, at)
        order = np.argsort(kind != Row.CATCH)[::-1]
        if latitude.size > _MOST_BEADS:
            keep = np.unique(np.round(np.column_stack([x, y]) / (6.0 * per)), axis=0, return_index=True)[1]
            order = order[np.isin(order, keep)][:2000]
        for k in order.tolist():
            spot = at(float(x[k]), float(y[k]))
            caught = kind[k] == Row.CATCH
            bead(painter, spot, 3.6 if caught else 2.8, theme.brass if caught else theme.ink)
        self._paint_picked(painter, origin, at)
        self._paint_scale(painter, per, area)

    def _extent(self, origin: Position) -> tuple[float, float, float, float] | None:
        chart = self._session.chart.chart
        if chart is None:
            return None
        f = chart.grid.frame
        corners = [(f.x0_m, f.y0_m), (f.x0_m + f.nx * f.cell_m, f.y0_m + f.ny * f.cell_m)]
        ends = [separation(origin.latitude, origin.longitude, *chart.plane.to_latlon(*c)) for c in corners]
        return float(ends[0][0]), float(ends[0][1]), float(ends[1][0]), float(ends[1][1])

    def _paint_shape(self, painter: QPainter, origin: Position, at: _At) -> None:
        chart, theme = self._session.chart.chart, self._session.display.theme
        extent = self._extent(origin)
        if chart is None or extent is None:
            return
        key = (id(chart.grid), theme.light)
        if self._shape is None or self._shape[0] != key:
            step = max(chart.grid.frame.nx // 400, 1)
            known = np.flipud(chart.grid.known[::step, ::step]).astype(np.uint8)
            colours = [QColor(theme.ground).rgb(), QColor(theme.depth[1]).rgb()] + [0] * 254
            self._shape = key, indexed_image(known, colours)
        painter.setOpacity(0.28)
        painter.drawImage(QRectF(at(extent[0], extent[3]), at(extent[2], extent[1])), self._shape[1])
        painter.setOpacity(1.0)

    def _paint_picked(self, painter: QPainter, origin: Position, at: _At) -> None:
        picked = self._session.trips.picked
        latitude, longitude = getattr(picked, "latitude", None), getattr(picked, "longitude", None)
        if latitude is None or longitude is None:
            return
        x, y = separation(origin.latitude, origin.longitude, latitude, longitude)
        painter.setPen(pen(self._session.display.theme.ink, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at(float(x), float(y)), 7.0, 7.0)

    def _paint_scale(self, painter: QPainter, per: float, area: QRectF) -> None:
        theme = self._session.display.theme
        bar = 10 ** math.floor(math.log10(max(per * 90.0, 1.0)))
        y = self.height() - 9.0
        painter.setPen(pen(theme.muted, 1.4))
        painter.drawLine(QPointF(area.right() - bar / per, y), QPointF(area.right(), y))
        words = f"{bar / 1000:g} km" if bar >= 1000 else f"{bar:g} m"
        painter.setPen(shade(theme.muted_text))
        painter.drawText(QRectF(area.right() - bar / per - 66, y - 10, 60, 16), Qt.AlignmentFlag.AlignRight, words)
