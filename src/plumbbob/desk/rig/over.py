"""Under the rods: the whole way of the boat, how deep every lure runs over it, and where that goes wrong."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.rig.lane import Passage, Trouble, passage
from plumbbob.core.rig.rod import FAMILY, Family, RigAnswer
from plumbbob.core.units import Kind, to_shown, unit_of
from plumbbob.desk.kit.paint import depth_ticks, font, pen, round_steps, shade
from plumbbob.desk.rig.drawing import bottom_shape, number_bead, water
from plumbbob.desk.rig.words import stretch_words
from plumbbob.desk.session.session import Session

_LEFT, _RIGHT, _TOP, _FOOT = 46.0, 20.0, 44.0, 18.0


class OverPicture(QWidget):
    """Needs the session. A click or a drag moves the boat along its way."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("over")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        for signal in (session.rig.changed, session.boat.changed, session.look.changed):
            signal.connect(self.update)

    @property
    def passage(self) -> Passage | None:
        """The rod in hand over the way; None where there is no way, or it is not towed."""
        rig, boat = self._session.rig, self._session.boat
        answer = rig.answer
        if not boat.ground.known or not isinstance(answer, RigAnswer) or FAMILY[answer.method] is not Family.TROLLED:
            return None
        return passage(
            rig.settings,
            answer,
            boat.ground.along_m,
            boat.ground.bottom_m,
            keep_m=boat.keep_m,
            most_m=boat.most_m if answer.method.value == "bottom walker" else math.inf,
            knowledge=rig.knowledge,
        )

    def _area(self) -> QRectF:
        return QRectF(_LEFT, _TOP, self.width() - _LEFT - _RIGHT, self.height() - _TOP - _FOOT)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Words, bottom, lures, boat."""
        session = self._session
        look, boat, theme = session.look, session.boat, session.look.theme
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.panel))
        painter.setPen(pen(theme.rule))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(font(look.text_size * 0.82, bold=True))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(_LEFT, 16), "OVER THE BOTTOM")
        x = _LEFT + QFontMetricsF(painter.font()).horizontalAdvance("OVER THE BOTTOM") + 12
        painter.setFont(font(look.text_size * 0.92))
        painter.setPen(QColor(theme.ink))
        if not boat.ground.known:
            painter.drawText(
                QPointF(x, 16), "Draw a line or lay a lane in Water, or open a pass: its bottom shows here."
            )
            return
        found = self.passage
        title = f"{boat.ground.title}, {look.words(boat.ground.length_m, Kind.DISTANCE, 0)}"
        painter.drawText(QPointF(x, 16), title)
        bottom = boat.ground.bottom_m
        if not np.isfinite(bottom).any():
            return
        lures = [a.depth_m for a in session.rig.shown_all if a is not None]
        deepest = max([float(np.nanmax(bottom)) * 1.06, 2.0, *(d * 1.04 for d in lures)])
        area = self._area()

        def at(along: float, depth: float) -> QPointF:
            return QPointF(
                area.left() + along / boat.ground.length_m * area.width(),
                area.top() + depth / deepest * area.height(),
            )

        water(painter, area, theme)
        painter.save()
        painter.setClipRect(area)
        px = area.left() + boat.ground.along_m / boat.ground.length_m * area.width()
        bottom_shape(painter, px, area.top() + bottom / deepest * area.height(), area.bottom(), theme)
        self._paint_lures(painter, at)
        painter.restore()
        if found is not None:
            self._paint_stretches(painter, found, at)
        self._paint_axes(painter, area, deepest)
        here = at(boat.boat_m, 0.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.ink))
        flag = [
            QPointF(here.x() - 7, here.y() - 7),
            QPointF(here.x() + 9, here.y() - 7),
            QPointF(here.x() + 2, here.y()),
        ]
        painter.drawPolygon(QPolygonF([*flag, QPointF(here.x() - 5, here.y())]))

    def _paint_lures(self, painter: QPainter, at: object) -> None:
        rig, boat, look = self._session.rig, self._session.boat, self._session.look
        theme = look.theme
        assert callable(at)
        for i, answer in enumerate(rig.shown_all):
            if answer is None or FAMILY[answer.method] is not Family.TROLLED:
                continue
            chosen = i == rig.chosen
            painter.setPen(pen(theme.brass, 1.6 if chosen else 1.0, alpha=255 if chosen else 130))
            painter.drawLine(at(0, answer.depth_m), at(boat.ground.length_m, answer.depth_m))
        for i, answer in enumerate(rig.shown_all):
            if answer is None or FAMILY[answer.method] is not Family.TROLLED:
                continue
            place = at(boat.boat_m - answer.layback_m, answer.depth_m)
            number_bead(painter, place, i + 1, look, chosen=i == rig.chosen, radius=7.0)

    def _paint_stretches(self, painter: QPainter, found: Passage, at: object) -> None:
        look, rig = self._session.look, self._session.rig
        theme = look.theme
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
        painter.setFont(font(look.text_size * 0.92))
        painter.setPen(QColor(theme.ink))
        trouble = next((s for s in found.stretches if s.trouble is not Trouble.HIGH), None)
        first = trouble or next(iter(found.stretches), None)
        words = f"{rig.chosen + 1} keeps clear of the bottom all the way."
        if first is not None:
            painter.setPen(QColor(theme.vermilion_text if trouble is not None else theme.ink))
            words = stretch_words(look, rig.chosen + 1, first)
            others = len(found.stretches) - 1
            words += f" And {others} more." if others else ""
        metrics = QFontMetricsF(painter.font())
        wide = round(self.width() - _LEFT - _RIGHT)
        painter.drawText(QPointF(_LEFT, 34), metrics.elidedText(words, Qt.TextElideMode.ElideRight, wide))

    def _paint_axes(self, painter: QPainter, area: QRectF, deepest: float) -> None:
        look, boat = self._session.look, self._session.boat
        theme = look.theme
        painter.setFont(font(look.text_size * 0.78))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QColor(theme.muted_text))
        for depth, text in depth_ticks(0.0, deepest, look.system, max(int(area.height() // 26), 2)):
            y = area.top() + depth / deepest * area.height()
            painter.drawText(QPointF(area.left() - 8 - metrics.horizontalAdvance(text), y + 4), text)
        step = round_steps(boat.ground.length_m, Kind.DISTANCE, look.system, 7)
        for k in range(int(boat.ground.length_m // step) + 1):
            x = area.left() + k * step / boat.ground.length_m * area.width()
            text = f"{to_shown(k * step, Kind.DISTANCE, look.system):.4g}"
            if k == 0:
                text += f" {unit_of(Kind.DISTANCE, look.system).symbol}"
            painter.drawText(
                QPointF(x - (0 if k == 0 else metrics.horizontalAdvance(text) / 2), self.height() - 5.0), text
            )
        painter.setPen(pen(theme.rule, 1.0))
        painter.setBrush(shade(theme.rule, 0))
        painter.drawRect(area)

    # -- hands --------------------------------------------------------------------------------------------------

    def _move_to(self, x: float) -> None:
        area = self._area()
        self._session.move_boat((x - area.left()) / max(area.width(), 1.0) * self._session.boat.ground.length_m)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The boat goes there."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """And follows."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._move_to(event.position().x())
