"""What was read from a pass, over its echoes: layer, what stands, bait, trails, fish, marks, the cursor."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QPainter,
    QPen,
    QPolygonF,
)

from plumbbob.core.sonar.corrections import middle_of
from plumbbob.core.sonar.reading import Bait, Fish, StandingObject
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, depth_ticks, font, indexed_image, pen, shade, tag, text_box
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.views.sonar.down.image import EchogramImage
from plumbbob.desk.views.sonar.down.words import echo_lines, standing_word

_THREAD_PX = 20.0
_TRAIL_WORDS = {
    "falling lure": "lure going down",
    "lure": "lure",
    "following fish": "follows",
    "moving fish": "moves",
}


class EchogramLayers(EchogramImage):
    """Paints what was read, and the cursor with what is under it."""

    def paint(self, painter: QPainter) -> None:
        """Echoes from the cached image, then what was read, then the cursor."""
        theme = self._session.display.theme
        painter.fillRect(self.rect(), QColor(theme.echo[0]))
        raster = self._session.scan.document.raster
        if raster is None:
            self._paint_nothing(painter)
            return
        if self._image is None:
            view, gain = self._session.scan.view, self._session.scan.gain_db
            pixels = raster.render(view, max(self.width(), 1), max(self.height(), 1), gain)
            self._draw_beds(pixels)
            self._image = indexed_image(pixels, self._colours)
            if raster.incomplete:
                QTimer.singleShot(0, self._stale)
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_scale(painter)
        self._paint_layer(painter)
        self._paint_standing(painter)
        self._paint_bait(painter)
        self._paint_trails(painter)
        self._paint_bob(painter)
        self._paint_fish(painter)
        self._paint_others(painter)
        self._paint_marks(painter)
        self._paint_unsure(painter)
        self._paint_cursor(painter)
        self._paint_hand(painter)

    def _paint_nothing(self, painter: QPainter) -> None:
        display = self._session.display
        painter.setFont(font(display.text_size * 1.15))
        painter.setPen(QColor(display.theme.muted_text))
        recording = self._session.scan.recording
        text = "" if recording is None else f"{recording.name} holds no pings that look down."
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_scale(self, painter: QPainter) -> None:
        display, v = self._session.display, self._session.scan.view
        painter.setFont(font(display.text_size * 0.8))
        for depth, text in depth_ticks(v.top_m, v.base_m, display.system_of(Kind.DEPTH), max(self.height() // 70, 2)):
            y = self.y_of(depth)
            painter.setPen(pen(display.theme.ink, alpha=90))
            painter.drawLine(QPointF(0, y), QPointF(7, y))
            if 12 < y < self.height() - 6:
                painter.setPen(shade(display.theme.muted_text, 210))
                painter.drawText(QPointF(11, y + 4), text)

    def _paint_layer(self, painter: QPainter) -> None:
        layer, display = self._session.scan.reading.cold_layer, self._session.display
        if layer is None:
            return
        scan = self._session.scan
        y = self.y_of(layer.depth_m)
        painter.setPen(pen(display.theme.teal, 1.2, style=Qt.PenStyle.DashLine))
        line = self._line(scan.document.layer_line[:, 0], scan.document.layer_line[:, 1])
        if len(line) < 2:
            line = [QPointF(46, y), QPointF(self.width(), y)]
        painter.drawPolyline(QPolygonF(line))
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(display.theme.teal_text))
        highest = min((p.y() for p in line if -200 < p.x() < 200), default=y)
        painter.drawText(QPointF(48, highest - 6), f"cold layer {display.words(layer.depth_m, Kind.DEPTH)}")

    def _paint_bait(self, painter: QPainter) -> None:
        theme, chosen = self._session.display.theme, self._session.scan.chosen
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for bait, box in self._visible_bait():
            painter.setPen(pen(theme.lichen, 2.2 if bait is chosen else 1.3, style=Qt.PenStyle.DotLine))
            if len(bait.outline) >= 3:
                painter.drawPolygon(self._outline(bait.outline))
            else:
                painter.drawRoundedRect(box, min(box.width(), 40) / 2, min(box.height(), 40) / 2)

    def _outline(self, outline: tuple[tuple[float, float, float], ...]) -> QPolygonF:
        """Along the tops, back along the bases, three pixels outside."""
        columns = np.array(outline)
        pings = self._session.scan.document.pings_of(columns[:, 0].tolist())
        return QPolygonF(self._line(pings, columns[:, 1], -3.0) + self._line(pings, columns[:, 2], 3.0)[::-1])

    def _paint_standing(self, painter: QPainter) -> None:
        """A thin dotted line along its top, a square bead at its highest, and what it is."""
        display, chosen = self._session.display, self._session.scan.chosen
        theme = display.theme
        painter.setFont(font(display.text_size * 0.8))
        for thing, box in self._visible_standing():
            wide = 2.4 if thing is chosen else 1.3
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(theme.ink, wide, alpha=220, style=Qt.PenStyle.DotLine))
            if len(thing.outline) >= 2:
                tops = np.array(thing.outline)
                pings = self._session.scan.document.pings_of(tops[:, 0].tolist())
                painter.drawPolyline(QPolygonF(self._line(pings, tops[:, 1], -3.0)))
            else:
                painter.drawLine(box.topLeft(), box.topRight())
            bead(painter, QPointF(box.center().x(), box.top() - 8), 3.2, theme.ink, kind="structure")
            if box.width() > 24:
                painter.setPen(QColor(theme.muted_text))
                painter.drawText(QPointF(box.center().x() + 8, box.top() - 5), standing_word(thing))

    def _visible_standing(self) -> list[tuple[StandingObject, QRectF]]:
        """Standing things on screen, each with its box."""
        scan, out = self._session.scan, []
        pings = scan.document.standing_pings
        for k in np.flatnonzero((pings[:, 1] >= scan.view.first_ping) & (pings[:, 0] <= scan.view.last_ping)):
            thing = scan.reading.standing[k]
            left, right = (self.x_of(float(ping)) for ping in pings[k])
            top, base = self.y_of(thing.bottom_m - thing.height_m), self.y_of(thing.bottom_m)
            out.append((thing, QRectF(left, top - 3, max(right - left, 4.0), max(base - top, 6.0))))
        return out

    def _paint_trails(self, painter: QPainter) -> None:
        """What moved under the boat: its way as a line, with a word."""
        scan, display = self._session.scan, self._session.display
        painter.setFont(font(display.text_size * 0.8))
        for trail in scan.reading.trails:
            first, last = self.x_of(scan.ping_of(trail.time[0])), self.x_of(scan.ping_of(trail.time[-1]))
            if last < 0 or first > self.width():
                continue
            lure = "lure" in trail.kind
            colour = display.theme.vermilion if lure else display.theme.brass
            painter.setPen(pen(colour, 1.4, style=Qt.PenStyle.DashLine))
            line = self._line(scan.document.pings_of(trail.time), np.array(trail.depth_m), 5.0)
            painter.drawPolyline(QPolygonF(line))
            if last - first > 40:
                painter.setPen(QColor(display.theme.vermilion_text if lure else display.theme.brass_text))
                painter.drawText(QPointF(max(first + 16, 48.0), line[0].y() + 8), _TRAIL_WORDS[trail.kind])

    def _paint_others(self, painter: QPainter) -> None:
        """What a person said is something else: a small cross and the word."""
        scan, display = self._session.scan, self._session.display
        painter.setFont(font(display.text_size * 0.8))
        for other in scan.reading.others:
            at = QPointF(self.x_of(scan.ping_of(other.time)), self.y_of(other.depth_m))
            if 0 <= at.x() <= self.width():
                bead(painter, at, 3.5, display.theme.muted, kind="place")
                painter.drawText(QPointF(at.x() + 7, at.y() + 4), other.label)

    def _paint_hand(self, painter: QPainter) -> None:
        """What the hand is drawing, and the line that says how."""
        scan, display = self._session.scan, self._session.display
        if scan.drawing.tool is DrawTool.LOOK and self._dragged is None:
            return
        theme = display.theme
        painter.setPen(pen(theme.vermilion, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if len(self._drawn) >= 2:
            if scan.drawing.tool is DrawTool.BOTTOM:
                painter.drawPolyline(QPolygonF(self._drawn))
            elif scan.drawing.tool is DrawTool.DRAW and scan.drawing.label != "fish":
                painter.drawRect(QRectF(self._drawn[0], self._drawn[-1]))
        if self._dragged is not None and self._last is not None:
            bead(painter, self._last, 5.0, theme.vermilion)
        told = {
            DrawTool.DRAW: f"Drawing {scan.drawing.label}: "
            + ("click it" if scan.drawing.label == "fish" else "drag a box about it")
            + ".  D for the next kind, Esc ends.",
            DrawTool.BOTTOM: "Drag along where the bottom is.  Esc ends.",
            DrawTool.LOOK: "",
        }[scan.drawing.tool]
        if told:
            painter.setFont(font(display.text_size, bold=True))
            wide = painter.fontMetrics().horizontalAdvance(told) + 20
            box = QRectF((self.width() - wide) / 2, 8, wide, 28)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.fill))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(QColor(theme.on_fill))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, told)

    def _visible_bait(self) -> list[tuple[Bait, QRectF]]:
        """Bait on screen, each with its box."""
        scan, out = self._session.scan, []
        pings = scan.document.bait_pings
        for k in np.flatnonzero((pings[:, 1] >= scan.view.first_ping) & (pings[:, 0] <= scan.view.last_ping)):
            bait = scan.reading.bait[k]
            left, right = (self.x_of(float(ping)) for ping in pings[k])
            top, base = self.y_of(bait.depth_top_m), self.y_of(bait.depth_bottom_m)
            out.append((bait, QRectF(left - 3, top - 3, right - left + 6, base - top + 6)))
        return out

    def _paint_bob(self, painter: QPainter) -> None:
        """The lure's depth across the picture, so that an eye can travel level to the plumb line."""
        y = self.y_of(self._session.rig.bob_m)
        painter.setPen(pen(self._session.display.theme.brass, 1.0, alpha=150, style=Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(46, y), QPointF(self.width(), y))

    def _visible_fish(self) -> tuple[slice, NDArray[np.float64], NDArray[np.float64]]:
        """Which fish of the reading are on screen, and their columns and rows of pixels."""
        scan, v = self._session.scan, self._session.scan.view
        margin = 0.03 * v.pings + 5
        low, high = np.searchsorted(scan.document.fish_pings, (v.first_ping - margin, v.last_ping + margin))
        x = (scan.document.fish_pings[low:high] - v.first_ping) / v.pings * self.width()
        y = (scan.document.fish_depths[low:high] - v.top_m) / (v.base_m - v.top_m) * self.height()
        return slice(int(low), int(high)), x, y

    def _paint_fish(self, painter: QPainter) -> None:
        """Beads on threads; all in two strokes, since there may be hundreds in every frame."""
        theme, chosen = self._session.display.theme, self._session.scan.chosen
        _, across, down = self._visible_fish()
        long = _THREAD_PX if across.size < 150 else 8.0
        beads = [QPointF(x, y - 6) for x, y in zip(across.tolist(), down.tolist(), strict=True)]
        painter.setPen(pen(theme.brass, 1.2))
        painter.drawLines([QLineF(at.x(), at.y() + 6 - long, at.x(), at.y()) for at in beads])
        dot = QPen(shade(theme.brass), 2 * 2.8 + 1.6)
        dot.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(dot)
        painter.drawPoints(beads)
        if isinstance(chosen, Fish):
            at = self.place_of(chosen)
            painter.setPen(pen(theme.brass, 2.0))
            painter.drawLine(QPointF(at.x(), at.y() - 1.6 * long), QPointF(at.x(), at.y() - 6))
            bead(painter, QPointF(at.x(), at.y() - 6), 4.6, theme.brass)

    def _paint_marks(self, painter: QPainter) -> None:
        """Marks of this recording: a small plumb line from the surface with its bead."""
        scan, theme = self._session.scan, self._session.display.theme
        if scan.recording is None or scan.down is None:
            return
        book = self._session.logbook
        for mark in book.marks.of_source(scan.recording.name):
            if not scan.down.time[0] <= mark.time <= scan.down.time[-1]:
                continue
            x = self.x_of(self._session.scan.ping_of(mark.time))
            if not -10 < x < self.width() + 10:
                continue
            colour = theme.brass if book.caught_at(mark) else theme.ink
            painter.setPen(pen(colour, 1.4))
            painter.drawLine(QPointF(x, 0), QPointF(x, 16))
            bead(painter, QPointF(x, 18), 4.0, colour, kind=mark.kind.value)

    def _paint_unsure(self, painter: QPainter) -> None:
        """While it is live: from where on what was read may still change."""
        scan, display = self._session.scan, self._session.display
        sure = scan.document.sure_until
        if not scan.is_live or scan.lead is None or not scan.document.is_read:
            return
        x = self.x_of(scan.ping_of(sure)) if math.isfinite(sure) else 0.0
        if x > self.width() - 4:
            return
        y = self.height() - 1.5
        painter.setPen(pen(display.theme.brass, 3.0, style=Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(max(x, 0.0), y), QPointF(self.width(), y))
        painter.setFont(font(display.text_size * 0.8))
        words = "preliminary"
        wide = painter.fontMetrics().horizontalAdvance(words)
        if self.width() - x > wide + 16:
            at = QPointF(self.width() - wide - 14, y - 8)
            tag(painter, at, words, display.theme.ink, display.theme.panel)

    def _paint_cursor(self, painter: QPainter) -> None:
        scan, display = self._session.scan, self._session.display
        theme = display.theme
        x, y = self.x_of(scan.cursor.ping + 0.5), self.y_of(scan.cursor.depth_m)
        painter.setPen(pen(theme.ink, 1.0, alpha=200))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        self._paint_footprint(painter, x, y)
        bounds = QRectF(self.rect())
        chosen = scan.chosen
        plain, strong = font(display.text_size * 0.95), font(display.text_size * 1.1, bold=True)
        if chosen is not None:
            first, *more = echo_lines(self._session, chosen)
            lines = [(first, strong, theme.ink)] + [(t, plain, theme.muted_text) for t in more]
            _, time, depth, _, _ = middle_of(chosen)
            at = QPointF(self.x_of(scan.ping_of(time)), self.y_of(depth))
            text_box(painter, lines, at, bounds, theme.panel, theme.brass)
            return
        painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
        if not (self.underMouse() or (self.hasFocus() and scan.cursor.depth_m > 0.0)):
            return
        lines = [(display.words(scan.cursor.depth_m, Kind.DEPTH), strong, theme.ink)]
        up = scan.bottom_m - scan.cursor.depth_m
        if math.isfinite(up):
            words = display.words(abs(up), Kind.DEPTH)
            lines.append((f"{words} {'off' if up >= 0 else 'under'} bottom", plain, theme.muted_text))
        if math.isfinite(scan.footprint_pings):
            lines.append((f"beam {display.words(scan.footprint_m, Kind.DEPTH)} wide here", plain, theme.muted_text))
        text_box(painter, lines, QPointF(x, y), bounds, theme.panel, theme.rule)

    def _paint_footprint(self, painter: QPainter, x: float, y: float) -> None:
        """The beam's width at the cursor's depth, along the pass, to scale; and its cone up to the boat."""
        scan, theme = self._session.scan, self._session.display.theme
        half = scan.footprint_pings / scan.view.pings * self.width() / 2
        if not half > 3:
            return
        painter.setPen(pen(theme.teal, 1.6))
        painter.drawLine(QPointF(x - half, y), QPointF(x + half, y))
        for end in (-half, half):
            painter.drawLine(QPointF(x + end, y - 5), QPointF(x + end, y + 5))
        assert scan.down is not None
        top = self.y_of(scan.down.mount.depth_m)
        painter.setPen(pen(theme.teal, 1.0, alpha=110, style=Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, top), QPointF(x - half, y))
        painter.drawLine(QPointF(x, top), QPointF(x + half, y))
