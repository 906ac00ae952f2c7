"""The log as a row of plumb lines: each mark a stroke from surface to bottom with its bead where it was seen."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, depth_ticks, font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.models.session import Session
from plumbbob.store.values import Mark

_LEFT = 44.0
_CLOCK_PX = 24.0


class MarkPicture(Painted):
    """Needs the session. Depths are level with the plumb line beside it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("beads")
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (
            session.logbook.changed,
            session.logbook.chosen_changed,
            session.display.changed,
            session.scan.view_changed,
            session.water_changed,
        ):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        """A picture."""
        return QSize(840, 320)

    def y_of(self, depth_m: float) -> float:
        """Pixel row of a depth."""
        v = self._session.scan.view
        return Axis(v.top_m, v.base_m, 0.0, self.height()).px(depth_m)

    def shown(self) -> list[Mark]:
        """As many of the latest marks as fit."""
        room = max(int((self.width() - _LEFT) / 34), 1)
        return self._session.logbook.marks[-room:]

    def x_of(self, i: int, count: int) -> float:
        """Pixel column of a mark."""
        gap = min((self.width() - _LEFT - 30) / max(count, 1), 92.0)
        return _LEFT + 18 + gap * (i + 0.5)

    def paint(self, painter: QPainter) -> None:
        """Scale, strokes, beads, counts, times."""
        session = self._session
        display, v = session.display, session.scan.view
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        small = font(display.text_size * 0.82)
        painter.setFont(small)
        for depth, text in depth_ticks(v.top_m, v.base_m, display.system_of(Kind.DEPTH), max(self.height() // 54, 2)):
            y = self.y_of(depth)
            painter.setPen(pen(theme.rule))
            painter.drawLine(QPointF(_LEFT, y), QPointF(self.width(), y))
            if 10 < y < self.height() - 4:
                painter.setPen(QColor(theme.muted_text))
                painter.drawText(QPointF(12, y + 4), text)
        marks = self.shown()
        if not marks:
            return  # the start page lies here
        for i, mark in enumerate(marks):
            self._paint_mark(painter, mark, self.x_of(i, len(marks)))

    def _paint_mark(self, painter: QPainter, mark: Mark, x: float) -> None:
        session = self._session
        display = session.display
        theme = display.theme
        caught = len(session.logbook.catches_at(mark.id))
        chosen = session.logbook.chosen
        mine = chosen is not None and chosen.id == mark.id
        colour = theme.brass if caught else theme.ink
        top = max(self.y_of(0.0), 0.0)
        foot = self.y_of(mark.bottom_depth_m) if mark.bottom_depth_m is not None else self.height() - _CLOCK_PX
        if mine:
            painter.fillRect(int(x - 16), 0, 32, self.height(), shade(theme.brass, 34))
        painter.setPen(pen(colour, 2.4 if mine else 1.5))
        painter.drawLine(QPointF(x, top), QPointF(x, foot))
        painter.drawLine(QPointF(x - 7, foot), QPointF(x + 7, foot))
        y = self.y_of(mark.depth_m) if mark.depth_m is not None else top
        bead(painter, QPointF(x, y), 6.0 if mine else 5.0, colour, kind=mark.kind.value)
        painter.setFont(font(display.text_size * 0.9, bold=True))
        painter.setPen(QColor(theme.brass_text if caught else theme.ink))
        painter.drawText(QPointF(x + 10, y + 5), f"{caught}/{mark.seen}")
        if mine and mark.depth_m is not None:
            painter.setFont(font(display.text_size * 0.82))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(x + 10, y + 20), display.words(mark.depth_m, Kind.DEPTH))
        painter.setFont(font(display.text_size * 0.78))
        painter.setPen(QColor(theme.muted_text))
        text = session.clock(mark.time, "%H:%M")
        painter.drawText(QPointF(x + 7, top + 14), text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the nearest mark."""
        marks = self.shown()
        near = [(abs(self.x_of(i, len(marks)) - event.position().x()), m.id) for i, m in enumerate(marks)]
        best = min(near, default=None)
        if best is not None and best[0] < 30:
            self._session.logbook.choose(best[1])
