"""The rods in the water, from the side or from above; a lure is dragged to its depth."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPolygonF

from plumbbob.core.rig.lane import keeps_apart
from plumbbob.core.rig.rod import FAMILY, Family
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.plot import nearest
from plumbbob.desk.views.rig.drawing import (
    lure_mark,
    number_bead,
    scale_bar,
)
from plumbbob.desk.views.rig.scale import _LEAST_REACH_M, _LEFT, _RIGHT, _TOP
from plumbbob.desk.views.rig.side_on import _BOAT_M, SpreadSide
from plumbbob.desk.views.rig.words import capital

_GRAB_PX = 16.0


class SpreadPicture(SpreadSide):
    """Drag a lure: its rod is solved as the mouse moves. Drag the water: the boat moves along."""

    def paint(self, painter: QPainter) -> None:
        """From the side or from above."""
        theme = self._session.display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        if self._session.lines.above:
            self._paint_above(painter)
        else:
            self._paint_side(painter)

    def _paint_above(self, painter: QPainter) -> None:
        session = self._session
        rig, display, boat = session.rig, session.display, session.lines
        theme = display.theme
        painter.fillRect(self.rect(), shade(theme.teal, 34))
        middle = self.height() / 2
        shown = [(i, a) for i, a in enumerate(rig.shown_all) if a is not None]
        reach = max([_LEAST_REACH_M, *(max(p[0] for p in a.shape) * 1.06 + 1 for _, a in shown)])
        side = max([4.0, *(abs(rig.sets[i].rod.aside_m + a.aside_m) * 1.2 + 1 for i, a in shown)])
        run, frame = boat.run, boat.frame
        if run is not None and frame is not None:
            spread = [self._behind(run, frame, line) for line in run.lines]
            reach = max([reach, *(float(n[:, 0].max()) + 1 for n in spread)])
            side = max([side, *(float(np.abs(n[:, 1]).max()) * 1.1 for n in spread)])
        px = min((self.width() - _RIGHT - _LEFT) / reach, (self.height() / 2 - 30) / side)

        def at(aft: float, starboard: float) -> QPointF:
            return QPointF(self.stern_x - aft * px, middle + starboard * px)

        long, wide = max(_BOAT_M * px, 30.0), max(1.8 * px, 12.0)
        x = self.stern_x
        outline = (
            (x, -wide / 2),
            (x + 0.6 * long, -wide / 2),
            (x + long, 0),
            (x + 0.6 * long, wide / 2),
            (x, wide / 2),
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.ink))
        painter.drawPolygon(QPolygonF([QPointF(a, middle + b) for a, b in outline]))
        if run is not None and frame is not None:
            for i, line, nodes in zip(self._moving_numbers(run), run.lines, spread, strict=False):
                points = [at(float(a), float(s)) for a, s, _ in nodes]
                self._paint_line_above(painter, i, points, points[line.lure_node])
            painter.setFont(font(display.text_size, bold=True))
            painter.setPen(QColor(theme.brass_text))
            words = f"{capital(boat.manoeuvre.value)}, {run.time[frame] - run.time[0]:.0f} s"
            painter.drawText(QPointF(_LEFT, 26), words)
        else:
            for i, answer in shown:
                tip = rig.sets[i].rod.aside_m
                turn = [at(0, tip)]
                if abs(answer.aside_m) > 0.1:
                    # out to the board or disc, then straight aft
                    turn.append(at(min(p[0] for p in answer.shape[:-1]), tip + answer.aside_m))
                lure = at(answer.layback_m, tip + answer.aside_m)
                self._paint_line_above(painter, i, [*turn, lure], lure)
            self._paint_apart(painter)
        scale_bar(painter, QPointF(_LEFT, self.height() - 14.0), px, display, ", from above")

    def _paint_apart(self, painter: QPainter) -> None:
        """How near the lures come to each other in a turn, by the trailer rule; T follows the lines themselves."""
        rig, display, boat = self._session.rig, self._session.display, self._session.lines
        shown = [
            (i + 1, s.rod.aside_m + a.aside_m, a.layback_m)
            for i, (s, a) in enumerate(zip(rig.sets, rig.shown_all, strict=True))
            if a is not None and FAMILY[a.method] is Family.TROLLED
        ]
        turn = f"In a steady turn of {display.words(boat.turn_radius_m, Kind.LENGTH, 0)} radius"
        long = [str(number) for number, _, back in shown if back >= boat.turn_radius_m]
        if long:
            wrong = True
            words = f"{turn} {' and '.join(long)} trail further than it is wide: they all but stop. T tries it."
        elif len(shown) > 1:
            _, aside, back = np.array(shown, float).T
            least = keeps_apart(aside, back, boat.turn_radius_m)
            wrong = least < 1.5
            words = f"{turn} the lures keep {display.words(least, Kind.LENGTH)} apart. T tries it."
        else:
            return
        painter.setFont(font(display.text_size))
        painter.setPen(QColor(display.theme.vermilion_text if wrong else display.theme.ink))
        painter.drawText(QPointF(_LEFT, 26), words)

    def _paint_line_above(self, painter: QPainter, i: int, points: list[QPointF], lure: QPointF) -> None:
        display, chosen = self._session.display, i == self._session.rig.chosen
        theme = display.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ink, 1.9 if chosen else 1.2))
        painter.drawPolyline(QPolygonF(points))
        lure_mark(painter, lure, theme, reached=True)
        number_bead(painter, QPointF(lure.x() - 20, lure.y()), i + 1, display, chosen=chosen)

    def _lure_near(self, at: QPointF) -> int | None:
        if self._session.lines.above:
            return None
        return nearest(at, ((i, self.lure_at(i)) for i in range(len(self._session.rig.sets))), _GRAB_PX)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take a lure, or the water."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        self._session.lines.set_frame(None)
        self._held = self._lure_near(event.position())
        if self._held is not None:
            self._session.rig.choose(self._held)
        else:
            self._from = (self._session.lines.boat_m, event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it."""
        if self._held is not None:
            depth = (min(max(event.position().y(), _TOP), float(self.height())) - _TOP) / self.down_px
            self._session.rig.drag_to(depth)
        elif self._from is not None:
            self._session.move_boat(self._from[0] - (event.position().x() - self._from[1]) / self.across_px)
        else:
            over = self._lure_near(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeVerCursor if over else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._held, self._from = None, None
        self._changed()
