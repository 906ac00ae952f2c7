"""Under the rods: the whole way of the boat, how deep every lure runs over it, and where that goes wrong."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.rig.lane import Passage, Trouble, passage
from plumbbob.core.rig.rod import FAMILY, Family, Method, RigAnswer
from plumbbob.core.units import Kind
from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.paint import font, pen, shade, sharp_image
from plumbbob.desk.kit.plot import DepthPlot, paint_depths, paint_distances
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.drawing import bottom_shape, number_bead, water
from plumbbob.desk.views.rig.words import stretch_words

_RIGHT = 20.0


class AlongTrackPicture(CachedPicture):
    """Needs the session. A click or a drag moves the boat along its way."""

    def __init__(self, session: Session) -> None:
        super().__init__("over")
        self._session, self._deepest = session, 0.0
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (session.rig.changed, session.lines.changed):
            signal.connect(self.update)
        for signal in (session.lines.ground_changed, session.display.changed):
            signal.connect(self._stale)

    @property
    def passage(self) -> Passage | None:
        """The rod in hand over the way; None where there is no way, or it is not towed."""
        rig, boat = self._session.rig, self._session.lines
        answer = rig.answer
        if not boat.ground.known or not isinstance(answer, RigAnswer) or FAMILY[answer.method] is not Family.TROLLED:
            return None
        return passage(
            rig.settings,
            answer,
            boat.ground.along_m,
            boat.ground.bottom_m,
            keep_m=boat.keep_m,
            most_m=boat.most_m if answer.method is Method.WALKER else math.inf,
            knowledge=rig.knowledge,
        )

    def _area(self) -> QRectF:
        size = self._session.display.text_size
        left, top, foot = 4.6 * size, 4.4 * size, 1.8 * size
        return QRectF(left, top, self.width() - left - _RIGHT, self.height() - top - foot)

    def paint(self, painter: QPainter) -> None:
        """The way as rendered; over it lures, stretches and the boat."""
        session = self._session
        boat, theme = session.lines, session.display.theme
        known = boat.ground.known and bool(np.isfinite(boat.ground.bottom_m).any())
        lures = [a.depth_m for a in session.rig.shown_all if a is not None]
        deepest = max([2.0, *(math.ceil(d * 1.04) for d in lures)])
        if known:
            deepest = max(deepest, float(np.nanmax(boat.ground.bottom_m)) * 1.06)
        if self._image is None or deepest != self._deepest:
            self._deepest = deepest
            self._image = self._rendered(known, deepest)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(0, 0, self._image)
        if not known:
            return
        area = self._area()
        at = DepthPlot(area, boat.ground.length_m, deepest).at
        painter.save()
        painter.setClipRect(area)
        self._paint_lures(painter, at)
        painter.restore()
        found = self.passage
        if found is not None:
            self._paint_stretches(painter, found, at)
        here = at(boat.boat_m, 0.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.ink))
        flag = ((here.x() - 7, here.y() - 7), (here.x() + 9, here.y() - 7), (here.x() + 2, here.y()))
        painter.drawPolygon(QPolygonF([*(QPointF(*p) for p in flag), QPointF(here.x() - 5, here.y())]))

    def _rendered(self, known: bool, deepest: float) -> QImage:
        """What stays while rods are moved: title, water, bottom, axes."""
        display, boat = self._session.display, self._session.lines
        theme = display.theme
        image = sharp_image(self, QColor(theme.panel))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(theme.rule))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font(display.text_size * 0.82, bold=True))
        painter.setPen(QColor(theme.muted_text))
        base = 1.6 * display.text_size
        painter.drawText(QPointF(8, base), "OVER THE BOTTOM")
        x = 8 + QFontMetricsF(painter.font()).horizontalAdvance("OVER THE BOTTOM") + 12
        painter.setFont(font(display.text_size * 0.92))
        painter.setPen(QColor(theme.ink))
        if not known:
            words = "Draw a line or lay a lane in Water, or open a pass: its bottom shows here."
            painter.drawText(QPointF(x, base), words)
            return image
        ground, area = boat.ground, self._area()
        painter.drawText(QPointF(x, base), f"{ground.title}, {display.words(ground.length_m, Kind.DISTANCE, 0)}")
        water(painter, area, theme)
        painter.save()
        painter.setClipRect(area)
        px = np.arange(area.left(), area.right() + 2.0, 2.0)
        depth = ground.bottom_at((px - area.left()) / area.width() * ground.length_m)
        bottom_shape(painter, px, area.top() + depth / deepest * area.height(), area.bottom(), theme)
        painter.restore()
        self._paint_axes(painter, area, deepest)
        return image

    def _paint_lures(self, painter: QPainter, at: object) -> None:
        rig, boat, display = self._session.rig, self._session.lines, self._session.display
        theme = display.theme
        assert callable(at)
        for i, answer in enumerate(rig.shown_all):
            if answer is None or FAMILY[answer.method] is not Family.TROLLED:
                continue
            chosen = i == rig.chosen
            painter.setPen(pen(theme.brass if chosen else theme.muted, 1.0))
            painter.drawLine(at(0, answer.depth_m), at(boat.ground.length_m, answer.depth_m))
        for i, answer in enumerate(rig.shown_all):
            if answer is None or FAMILY[answer.method] is not Family.TROLLED:
                continue
            place = at(boat.boat_m - answer.layback_m, answer.depth_m)
            number_bead(painter, place, i + 1, display, chosen=i == rig.chosen, radius=7.0)

    def _paint_stretches(self, painter: QPainter, found: Passage, at: object) -> None:
        display, rig = self._session.display, self._session.rig
        theme = display.theme
        assert callable(at)
        for stretch in found.stretches:
            colour = theme.muted if stretch.trouble is Trouble.HIGH else theme.vermilion
            inside = (found.along_m >= stretch.from_m - 1e-6) & (found.along_m <= stretch.to_m + 1e-6)
            line = [
                at(float(a), float(b)) for a, b in zip(found.along_m[inside], found.bottom_m[inside], strict=True)
            ]
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(colour, 4.0))
            painter.drawPolyline(QPolygonF(line if len(line) > 1 else [line[0], line[0] + QPointF(4, 0)]))
        painter.setFont(font(display.text_size * 0.92))
        painter.setPen(QColor(theme.ink))
        trouble = next((s for s in found.stretches if s.trouble is not Trouble.HIGH), None)
        first = trouble or next(iter(found.stretches), None)
        words = f"{rig.chosen + 1} keeps clear of the bottom all the way."
        if first is not None:
            painter.setPen(QColor(theme.vermilion_text if trouble is not None else theme.ink))
            words = stretch_words(display, rig.chosen + 1, first)
            others = len(found.stretches) - 1
            words += f" And {others} more." if others else ""
        metrics = QFontMetricsF(painter.font())
        wide = round(self.width() - 8 - _RIGHT)
        words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, wide)
        painter.drawText(QPointF(8, 3.4 * display.text_size), words)

    def _paint_axes(self, painter: QPainter, area: QRectF, deepest: float) -> None:
        display = self._session.display
        plot = DepthPlot(area, self._session.lines.ground.length_m, deepest)
        paint_depths(painter, plot, display)
        paint_distances(painter, plot, display, self.height() - 5.0)
        painter.setPen(pen(display.theme.rule, 1.0))
        painter.setBrush(shade(display.theme.rule, 0))
        painter.drawRect(area)

    # -- hands --------------------------------------------------------------------------------------------------

    def _move_to(self, x: float) -> None:
        self._session.move_boat(DepthPlot(self._area(), self._session.lines.ground.length_m, 1.0).x.value(x))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The boat goes there."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """And follows."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())
