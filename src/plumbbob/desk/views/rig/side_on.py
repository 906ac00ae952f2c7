"""The rods from the side: lines, lures, spreads, the bottom, what lies ahead."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPolygonF

from plumbbob.core.rig.lane import passage, seconds_to_mark
from plumbbob.core.rig.motion import LineRun, Run
from plumbbob.core.rig.rod import FAMILY, CannotReach, Family, RigAnswer
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, depth_ticks, font, pen, shade, sharp_image, tag
from plumbbob.desk.views.rig.drawing import (
    Ink,
    bottom_shape,
    hull,
    ice_sheet,
    lure_mark,
    number_bead,
    rod_tag,
    scale_bar,
    water,
)
from plumbbob.desk.views.rig.scale import _LEFT, _RIGHT, _TOP, SpreadScale
from plumbbob.desk.views.rig.words import amount_words, capital, countdown_words, depth_words, next_trouble

_BOAT_M = 4.9


class SpreadSide(SpreadScale):
    """Paints the rods from the side, at rest or in motion."""

    def _paint_side(self, painter: QPainter) -> None:
        session = self._session
        display, theme = session.display, session.display.theme
        painter.drawImage(0, 0, self._behind_rods(self.devicePixelRatioF()))
        if FAMILY[session.rig.settings.method] is Family.ICE:
            ice_sheet(painter, self.stern_x, float(self.width()), _TOP, theme)
        else:
            stern = QPointF(self.stern_x, _TOP)
            hull(painter, stern, min(max(_BOAT_M * self.across_px, 44.0), _RIGHT - 14), theme)
            painter.setFont(font(display.text_size, bold=True))
            painter.setPen(QColor(theme.ink))
            speed = display.words(session.rig.settings.speed_mps, Kind.SPEED)
            wide = QFontMetricsF(painter.font()).horizontalAdvance(speed)
            painter.drawText(QPointF(min(stern.x() + 18, self.width() - wide - 8), _TOP - 34), speed)
        run, frame = session.lines.run, session.lines.frame
        if run is not None and frame is not None:
            self._paint_motion(painter, run, frame)
        else:
            self._paint_rods(painter)
            self._paint_troubles(painter)
        taller = self.down_px / self.across_px
        words = f", depth drawn {taller:.1f} times" if taller > 1.02 else ", true scale"
        scale_bar(painter, QPointF(_LEFT, self.height() - 14.0), self.across_px, display, words)

    def _behind_rods(self, sharp: float) -> QImage:
        """Water, layer, what was seen and the bottom: drawn anew only where one of them or the scale has changed."""
        session = self._session
        boat, display = session.lines, session.display
        key = (
            (self.width(), self.height(), sharp, self.across_px, self.down_px),
            (display.theme, display.units, display.text_size),
            (boat.boat_m, boat.ground, session.view.column.layer),
        )
        if self._behind_image is None or key != self._behind_key:
            image = sharp_image(self, QColor(display.theme.ground))
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            water(painter, QRectF(0, _TOP, self.width(), self.height() - _TOP), display.theme)
            self._paint_depths(painter)
            self._paint_layer(painter)
            self._paint_seen(painter)
            self._paint_bottom(painter)
            painter.end()
            self._behind_image, self._behind_key = image, key
        return self._behind_image

    def _paint_depths(self, painter: QPainter) -> None:
        """Faint lines level with the plumb line's figures."""
        theme = self._session.display.theme
        _, base = self._session.lines.span
        painter.setPen(pen(theme.rule, 1.0, alpha=150))
        for depth, _ in depth_ticks(
            0.0, base, self._session.display.system_of(Kind.DEPTH), max(self.height() // 62, 2)
        ):
            if depth > 0:
                y = self.at(0, depth).y()
                painter.drawLine(QPointF(0, y), QPointF(self.width(), y))

    def _paint_layer(self, painter: QPainter) -> None:
        layer, display = self._session.view.column.layer, self._session.display
        theme = display.theme
        if layer is None:
            return
        top, base = self.at(0, layer[0]).y(), self.at(0, layer[1]).y()
        painter.fillRect(QRectF(0, top, self.width(), base - top), shade(theme.teal, 60))
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(theme.teal_text))
        words = f"cold layer {display.figure(layer[0], Kind.DEPTH, 0)}–{display.words(layer[1], Kind.DEPTH, 0)}"
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        at = QPointF(self.width() - wide - 10, min(base, self.height() - 30.0) - 5)
        boat = self._session.lines
        floor = boat.ground.bottom_at(np.array([boat.boat_m - (self.stern_x - at.x()) / self.across_px]))
        if layer[1] > float(floor[0]):
            at.setX(_LEFT)  # the bottom lies in front of it there
        painter.drawText(at, words)
        self._layer_box = QRectF(at.x() - 4, at.y() - 14, wide + 8, 18)

    def _paint_bottom(self, painter: QPainter) -> None:
        boat = self._session.lines
        x = np.arange(0.0, self.width() + 3.0, 3.0)
        along = boat.boat_m - (self.stern_x - x) / self.across_px
        y = _TOP + boat.ground.bottom_at(along) * self.down_px
        bottom_shape(painter, x, y, float(self.height()), self._session.display.theme)

    def _paint_seen(self, painter: QPainter) -> None:
        """Fish on a short thread, bait in a dotted outline, where the pass saw them."""
        boat, theme = self._session.lines, self._session.display.theme
        for seen in boat.ground.seen:
            aft = boat.boat_m - seen.along_m
            at = self.at(aft, seen.depth_m)
            if not math.isnan(seen.base_m):
                far = self.at(boat.boat_m - seen.to_m, seen.base_m)
                if far.x() > 0 and at.x() < self.width():
                    painter.setPen(pen(theme.lichen, 1.4, style=Qt.PenStyle.DotLine))
                    painter.setBrush(shade(theme.lichen, 22))
                    painter.drawEllipse(QRectF(at, far).normalized().adjusted(-3, 0, 3, 0))
            elif -10 < at.x() < self.width() + 10:
                painter.setPen(pen(theme.brass, 1.2))
                painter.drawLine(QPointF(at.x(), at.y() - 9), at)
                bead(painter, at, 2.6, theme.brass)

    def _paint_rods(self, painter: QPainter) -> None:
        rig, display = self._session.rig, self._session.display
        theme = display.theme
        order = [i for i in range(len(rig.sets)) if i != rig.chosen] + [rig.chosen]
        boxes = [] if self._session.view.column.layer is None else [self._layer_box]
        lures = ((k, self.lure_at(k)) for k in range(len(rig.sets)))
        self._lure_boxes = [(k, QRectF(p.x() - 9, p.y() - 6, 18, 12)) for k, p in lures if p is not None]
        for i in order:
            answer = rig.shown_all[i]
            if answer is None:
                continue
            reached, chosen = isinstance(rig.answers[i], RigAnswer), i == rig.chosen
            painter.setBrush(Qt.BrushStyle.NoBrush)
            colour = theme.ink if reached else theme.muted
            # a line of one pixel is drawn seven times as fast as a wider one
            painter.setPen(pen(colour, 1.9 if chosen else 1.0))
            style = Qt.PenStyle.DashLine if FAMILY[rig.sets[i].rod.method] is Family.CAST else Qt.PenStyle.SolidLine
            if style is Qt.PenStyle.DashLine:
                painter.setPen(pen(colour, 1.4, style=style))
            painter.drawPolyline(QPolygonF([self.at(x, z) for x, z in answer.shape]))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.ink))
            if answer.ball is not None:
                painter.drawEllipse(self.at(*answer.ball), 4.5, 4.5)
            for hook in answer.hooks:
                painter.drawEllipse(self.at(*hook), 2.4, 2.4)
            lure = self.at(*answer.lure)
            self._paint_spread(painter, lure, answer)
            lure_mark(painter, lure, theme, reached=reached)
        for i in reversed(order):
            answer = rig.shown_all[i]
            if answer is not None:
                boxes.append(self._paint_tag(painter, i, answer, boxes))

    def _paint_spread(self, painter: QPainter, lure: QPointF, answer: RigAnswer) -> None:
        """How far the depth may be off, one standard deviation each way."""
        theme, sd = self._session.display.theme, answer.depth_sd_m * self.down_px
        painter.setPen(pen(theme.brass, 1.0))
        for end in (-sd, sd):
            painter.drawLine(QPointF(lure.x() - 4, lure.y() + end), QPointF(lure.x() + 4, lure.y() + end))
        painter.drawLine(QPointF(lure.x(), lure.y() - sd), QPointF(lure.x(), lure.y() + sd))

    def _paint_tag(self, painter: QPainter, i: int, answer: RigAnswer, taken: list[QRectF]) -> QRectF:
        """Number, depth and what is out, beside the lure, clear of the other tags."""
        rig, display = self._session.rig, self._session.display
        reached, chosen = isinstance(rig.answers[i], RigAnswer), i == rig.chosen
        head = (
            depth_words(display, answer)
            if reached
            else f"{display.words(rig.sets[i].bob_m, Kind.DEPTH)}: out of reach"
        )
        more = amount_words(display, answer, short=True) if reached else f"this is {depth_words(display, answer)}"
        made = rod_tag(Ink.of(display, painter), i + 1, head, more, chosen, reached)
        size = made.deviceIndependentSize()
        box = self._free_box(i, answer, size.width(), size.height(), taken)
        painter.drawImage(box.topLeft(), made)
        return box

    def _free_box(self, i: int, answer: RigAnswer, wide: float, high: float, taken: list[QRectF]) -> QRectF:
        """Room for a tag near its lure, clear of the other tags and lures."""
        lure, sd = self.at(*answer.lure), answer.depth_sd_m * self.down_px
        others = [box for k, box in self._lure_boxes if k != i]
        below, above = lure.y() + 9 + sd, lure.y() - high - 9 - sd
        places = [
            (lure.x() + 6, below),
            (lure.x() + 6, above),
            (lure.x() - wide - 6, below),
            (lure.x() - wide - 6, above),
        ]
        places += [(lure.x() + 14, lure.y() - high / 2), (lure.x() - wide - 14, lure.y() - high / 2)]
        places += [(lure.x() + 6, below + k * 0.7 * high) for k in range(1, 8)]
        bounds = QRectF(4, _TOP + 4, self.width() - 8, self.height() - _TOP - 8)
        box = QRectF(0, 0, wide, high)
        for x, y in places:
            box.moveTopLeft(QPointF(min(max(x, bounds.left()), bounds.right() - wide), y))
            if bounds.contains(box) and not any(b.intersects(box) for b in (*taken, *others)):
                return box
        return box

    def _paint_troubles(self, painter: QPainter) -> None:
        """The next shoal under each towed lure, on the ground itself."""
        session = self._session
        rig, boat, display = session.rig, session.lines, session.display
        theme = display.theme
        if not boat.ground.known:
            return
        painter.setFont(font(display.text_size * 0.95, bold=True))
        metrics = QFontMetricsF(painter.font())
        row = 0
        for i, answer in enumerate(rig.answers):
            if isinstance(answer, CannotReach) or FAMILY[answer.method] is not Family.TROLLED:
                continue
            rod = rig.sets[i].rod
            found = passage(
                rod, answer, boat.ground.along_m, boat.ground.bottom_m, keep_m=boat.keep_m, knowledge=rig.knowledge
            )
            stretch = next_trouble(found, boat.boat_m, answer.layback_m)
            if stretch is None:
                continue
            left = seconds_to_mark(stretch.from_m, boat.boat_m, answer.layback_m, rod.speed_mps)
            if left > 300 or row > 2:
                continue
            words = "Shoal: " + countdown_words(display, i + 1, stretch, boat.boat_m, answer.layback_m, rod.speed_mps)
            # in the ground under the shoal, where nothing else is drawn
            deep = answer.depth_m + stretch.room_m
            x = self.at(boat.boat_m - (stretch.from_m + stretch.to_m) / 2, deep).x()
            wide = metrics.horizontalAdvance(words)
            x = min(max(x - wide / 2, _LEFT), self.width() - wide - 10.0)
            under = boat.ground.bottom_at(boat.boat_m - (self.stern_x - np.array([x, x + wide])) / self.across_px)
            floor = float(np.nanmax(under)) if np.isfinite(under).any() else deep
            y = min(self.at(0, floor).y() + 22 + row * (metrics.height() + 3), self.height() - 34.0)
            painter.setPen(QColor(theme.vermilion_text))
            painter.drawText(QPointF(x, y), words)
            row += 1

    def _behind(self, run: Run, frame: int, line: LineRun) -> np.ndarray:
        """A line's nodes as (aft, to starboard, down) of the boat's middle, shape (nodes, 3)."""
        k = min(max(frame, 1), len(run.time) - 1)
        way = np.array([run.boat_x[k] - run.boat_x[k - 1], run.boat_y[k] - run.boat_y[k - 1]])
        size = float(np.hypot(*way))
        if size < 1e-3:
            way = np.array([run.boat_x[1] - run.boat_x[0], run.boat_y[1] - run.boat_y[0]])
            size = max(float(np.hypot(*way)), 1e-6)
        ahead = way / size
        gap = line.shape[frame, :, :2] - np.array([run.boat_x[frame], run.boat_y[frame]])
        aft, side = -(gap @ ahead), gap @ np.array([ahead[1], -ahead[0]])
        return np.stack([aft, side, line.shape[frame, :, 2]], axis=1)

    def _moving_numbers(self, run: Run) -> list[int]:
        """Which rods the lines of the run are."""
        return list(self._session.lines.moving)[: len(run.lines)]

    def _paint_motion(self, painter: QPainter, run: Run, frame: int) -> None:
        display, rig = self._session.display, self._session.rig
        theme = display.theme
        for i, line in zip(self._moving_numbers(run), run.lines, strict=False):
            nodes = self._behind(run, frame, line)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(theme.ink, 1.9 if i == rig.chosen else 1.2))
            painter.drawPolyline(QPolygonF([self.at(float(a), float(z)) for a, _, z in nodes]))
            at = self.at(float(nodes[line.lure_node, 0]), float(nodes[line.lure_node, 2]))
            lure_mark(painter, at, theme, reached=True)
            number_bead(painter, QPointF(at.x() + 16, at.y() - 12), i + 1, display, chosen=i == rig.chosen)
            painter.setFont(font(display.text_size, bold=True))
            words = display.words(float(line.depth_m[frame]), Kind.DEPTH)
            tag(painter, QPointF(at.x() + 29, at.y() - 8), words, theme.ink, theme.raised)
        painter.setFont(font(display.text_size, bold=True))
        painter.setPen(QColor(theme.brass_text))
        words = f"{capital(self._session.lines.manoeuvre.value)}, {run.time[frame] - run.time[0]:.0f} s"
        painter.drawText(QPointF(_LEFT, _TOP - 24), words)
