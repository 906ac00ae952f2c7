"""The view to the sides as painted: the fans, what was read in them, marks, the shadow gauge, the cursor."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.reading import SideFish, SideThing
from plumbbob.core.sonar.shadow_height import slant_range
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, font, indexed_image, pen, round_steps, tag, text_box
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.side_model import Across
from plumbbob.desk.theme import ramp
from plumbbob.desk.views.sonar.side.raster import SideRaster
from plumbbob.desk.views.sonar.side.words import echo_lines, gauge_lines, thing_word
from plumbbob.desk.views.sonar.timed_picture import TimedPicture

_THREAD_PX = 18.0
_SURE, _FAINT = 0.75, 0.5  # a fish less likely than that is drawn so faintly
_LINE_INDEX = 255  # of the colour table: the bottom's first return


class SideLayers(TimedPicture):
    """Needs the session. Seen from above: port above, starboard below, the boat going to the right."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "sides", parent)
        self._raster: SideRaster | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        scan, side = session.scan, session.side
        scan.opened.connect(self._opened)
        scan.view_changed.connect(self._stale)
        scan.gain_changed.connect(self._gained)
        scan.read.connect(self._read)
        scan.read_on.connect(self.update)
        scan.grew.connect(self._grew)
        self._shown = (Across.SLANT, 0.0)
        side.changed.connect(self._side_changed)
        for signal in (scan.cursor_changed, session.logbook.changed):
            signal.connect(self.update)
        session.display.changed.connect(self._stale)

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

    def _opened(self) -> None:
        self._raster = None
        self._stale()

    def _grew(self) -> None:
        view = self._session.side.view
        if self._raster is not None and view is not None:
            self._raster.grow(view)
        self._stale()

    def _read(self) -> None:
        if self._raster is not None:
            self._raster.set_altitude(self._session.side.reading.altitude_m)
        self._stale()

    def _gained(self) -> None:
        if self._raster is not None:
            self._raster.set_gain(self._session.scan.gain_db)
        self._stale()

    def _side_changed(self) -> None:
        side = self._session.side
        shown = (side.across, side.reach_m)
        if shown != self._shown:
            self._shown = shown
            self._stale()
        self.update()

    def y_of(self, across_m: float) -> float:
        """Pixel row of a distance to starboard."""
        return self.height() / 2 * (1 + across_m / self._session.side.reach_m)

    def across_at(self, y: float) -> float:
        """Distance to starboard of a pixel row."""
        return (y / max(self.height(), 1) * 2 - 1) * self._session.side.reach_m

    def place_of(self, echo: SideFish | SideThing) -> QPointF | None:
        """Where an echo is on screen; nothing where it is cut away."""
        shown = self._session.side.shown_of_echo(echo)
        return QPointF(self._x_at(echo.time), self.y_of(shown)) if math.isfinite(shown) else None

    def _x_at(self, time: float) -> float:
        return self.x_of(self._session.scan.ping_of(time) + 0.5)

    def paint(self, painter: QPainter) -> None:
        """Echoes from the cached image, then what was read, then the cursor."""
        theme, view = self._session.display.theme, self._session.side.view
        painter.fillRect(self.rect(), QColor(theme.echo[0]))
        if view is None:
            painter.setFont(font(self._session.display.text_size * 1.15))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This recording holds no view to the sides.")
            return
        if self._raster is None:
            self._raster = SideRaster(view)
            self._raster.set_altitude(self._session.side.reading.altitude_m)
            self._raster.set_gain(self._session.scan.gain_db)
        if self._image is None:
            colours = ramp(theme).tolist()
            colours[_LINE_INDEX] = QColor(theme.teal).rgb()
            self._image = indexed_image(self._render(), colours)
            if self._raster.incomplete:
                QTimer.singleShot(0, self._stale)
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_middle(painter)
        self._paint_scale(painter)
        self._paint_things(painter)
        self._paint_schools(painter)
        self._paint_fish(painter)
        self._paint_marks(painter)
        self._paint_gauge(painter)
        self._paint_cursor(painter)

    def _render(self) -> np.ndarray:
        session, view = self._session, self._session.side.view
        assert view is not None
        assert self._raster is not None
        width, height = max(self.width(), 1), max(self.height(), 2)
        lead = session.scan.lead
        assert lead is not None
        v = session.scan.view
        pings = v.first_ping + v.pings * np.arange(width + 1) / width
        edges = np.clip(np.rint(pings), 0, len(lead) - 1).astype(np.intp)
        if lead is not view:
            edges = np.clip(np.searchsorted(view.time, lead.time[edges]), 0, len(view) - 1)
        side, half = session.side, height // 2
        shown = side.reach_m * (np.arange(half) + 0.5) / half
        heights = side.reading.altitude_m
        if side.across is Across.SLANT or not heights.size:
            pixels = self._raster.render(edges, shown, height)
            self._draw_bed(pixels, edges)
            return pixels
        above = heights[edges[:-1]].astype(np.float32)[:, None]
        shown = shown.astype(np.float32)
        if side.across is Across.CUT:
            return self._raster.render(edges, shown[None, :] + above, height)
        if side.slope_given is None:
            return self._raster.render(edges, np.sqrt(shown[None, :] ** 2 + above**2), height)
        return self._raster.render(edges, slant_range(shown[None, :], above, side.slope_deg), height)

    def _draw_bed(self, pixels: np.ndarray, edges: np.ndarray) -> None:
        """The first return in dashes, straight into the picture: a dashed path a frame costs more than the echoes."""
        side = self._session.side
        heights = side.reading.altitude_m
        if side.across is not Across.SLANT or not heights.size:
            return
        high, wide = pixels.shape
        off = heights[edges[:-1]] / side.reach_m * high / 2
        columns = np.flatnonzero(np.isfinite(off) & (off < high / 2 - 1) & (np.arange(wide) % 9 < 5))
        for sign in (-1, 1):
            rows = (high / 2 + sign * off[columns]).astype(int)
            pixels[np.clip(rows, 0, high - 1), columns] = _LINE_INDEX

    def _paint_middle(self, painter: QPainter) -> None:
        """The boat's line."""
        painter.setPen(pen(self._session.display.theme.ink, 1.0, alpha=120))
        painter.drawLine(QPointF(0, self.height() / 2), QPointF(self.width(), self.height() / 2))

    def _paint_scale(self, painter: QPainter) -> None:
        display, side = self._session.display, self._session.side
        painter.setFont(font(display.text_size * 0.8))
        step = round_steps(
            side.reach_m, Kind.DISTANCE, display.system_of(Kind.DISTANCE), max(self.height() // 150, 2)
        )
        k = 1
        while k * step < side.reach_m:
            for sign, word in ((-1.0, "port"), (1.0, "starboard")):
                y = self.y_of(sign * k * step)
                painter.setPen(pen(display.theme.ink, alpha=90))
                painter.drawLine(QPointF(0, y), QPointF(7, y))
                words = display.words(k * step, Kind.DISTANCE, 0)
                tag(painter, QPointF(12, y + 4), words, display.theme.muted_text, display.theme.panel)
                if k == 1:
                    beside = QPointF(12, self.height() / 2 + sign * 18 + 4)
                    tag(painter, beside, word, display.theme.muted_text, display.theme.panel)
            k += 1
        words = f"{side.across.value}  ·  ahead is right"
        wide = painter.fontMetrics().horizontalAdvance(words)
        tag(painter, QPointF(self.width() - wide - 12, 20), words, display.theme.muted_text, display.theme.panel)

    def _paint_things(self, painter: QPainter) -> None:
        """A dotted line along what stands, with a square bead and a word; an edge is a line with its drop."""
        display, side, scan = self._session.display, self._session.side, self._session.scan
        painter.setFont(font(display.text_size * 0.8))
        tags = Tags(QRectF(self.rect()))
        for thing in side.reading.things:
            left, right = (self.x_of(scan.ping_of(t)) for t in (thing.time_start, thing.time_end))
            at = self.place_of(thing) if right >= 0 and left <= self.width() else None
            if at is None:
                continue
            wide = 2.4 if thing is side.chosen else 1.3
            out = 1.0 if thing.side == "starboard" else -1.0
            painter.setPen(pen(display.theme.ink, wide, alpha=220, style=Qt.PenStyle.DotLine))
            y = at.y() - 5 * out
            painter.drawLine(QPointF(left - 4, y), QPointF(right + 4, y))
            middle = min(max(at.x(), 40.0), self.width() - 60.0)
            bead(painter, QPointF(middle, y - 8 * out), 3.2, display.theme.ink, kind="structure")
            words = thing_word(thing)
            if math.isfinite(thing.height_m):
                words += (" ≥ " if thing.at_least else " ") + display.words(thing.height_m, Kind.DEPTH)
            spot = QPointF(middle + 11, y - 8 * out + 4)
            tags.paint(painter, spot, words, display.theme.ink, display.theme.panel)

    def _paint_schools(self, painter: QPainter) -> None:
        """Schools and balls of bait: a dashed outline with how many, or what it is."""
        display, side, scan = self._session.display, self._session.side, self._session.scan
        painter.setFont(font(display.text_size * 0.8))
        for school in side.reading.schools:
            left, right = (self.x_of(scan.ping_of(t)) for t in (school.time_start, school.time_end))
            near, far = (side.shown_of(r, school.time) for r in (school.near_m, school.far_m))
            if right < 0 or left > self.width() or not (math.isfinite(near) and math.isfinite(far)):
                continue
            sign = 1.0 if school.side == "starboard" else -1.0
            top, bottom = sorted((self.y_of(sign * near), self.y_of(sign * far)))
            box = QRectF(left, top, right - left, bottom - top).adjusted(-9, -9, 9, 9)
            painter.setPen(pen(display.theme.brass, 1.4, style=Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box, 9, 9)
            words = "bait" if school.kind == "bait" else f"{school.least} or more"
            at = QPointF(max(box.left(), 4.0), box.bottom() + 13 if sign > 0 else box.top() - 5)
            tag(painter, at, words, display.theme.ink, display.theme.panel)

    def _paint_fish(self, painter: QPainter) -> None:
        """A bead on a thread that leads to the echo; a thin line on to its shadow."""
        theme, side = self._session.display.theme, self._session.side
        for fish in side.reading.fish:
            at = self.place_of(fish) if -20 < self._x_at(fish.time) < self.width() + 20 else None
            if at is None:
                continue
            out = 1.0 if fish.side == "starboard" else -1.0
            chosen = fish is side.chosen
            painter.setOpacity(1.0 if chosen or fish.chance >= _SURE else _FAINT)
            painter.setPen(pen(theme.brass, 2.0 if chosen else 1.2))
            painter.drawLine(QPointF(at.x(), at.y() - out * _THREAD_PX), QPointF(at.x(), at.y() - out * 5))
            bead(painter, QPointF(at.x(), at.y() - out * _THREAD_PX), 4.4 if chosen else 2.8, theme.brass)
            if chosen and math.isfinite(fish.shadow_m):
                end = side.shown_of(fish.shadow_m, fish.time)
                if math.isfinite(end):
                    painter.setPen(pen(theme.brass, 1.2, style=Qt.PenStyle.DotLine))
                    y = self.y_of(out * end)
                    painter.drawLine(QPointF(at.x(), at.y() + out * 6), QPointF(at.x(), y))
                    painter.drawLine(QPointF(at.x() - 6, y), QPointF(at.x() + 6, y))
        painter.setOpacity(1.0)

    def _paint_marks(self, painter: QPainter) -> None:
        """Marks made from this view: a small bead where they were seen."""
        scan, theme, side = self._session.scan, self._session.display.theme, self._session.side
        if scan.recording is None:
            return
        for mark in self._session.logbook.marks.of_source(scan.recording.name):
            x = self.x_of(scan.ping_of(mark.time) + 0.5)
            if not -10 < x < self.width() + 10:
                continue
            across = side.ground_of(Position(mark.latitude, mark.longitude), mark.time)
            if side.across is not Across.GROUND:
                height = side.altitude_at(mark.time)
                if math.isfinite(height):
                    across = math.copysign(side.shown_of(math.hypot(across, height), mark.time), across)
            if math.isfinite(across) and abs(across) > 1.0:
                bead(painter, QPointF(x + 7, self.y_of(across)), 4.0, theme.ink, kind=mark.kind.value)

    def _paint_gauge(self, painter: QPainter) -> None:
        """What was clicked, numbered, and a line between."""
        display, side, scan = self._session.display, self._session.side, self._session.scan
        if side.clicks is None:
            return
        theme = display.theme
        points = []
        for click in side.clicks:
            shown = side.shown_of(click.slant_m, click.time)
            if math.isfinite(shown):
                y = self.y_of(shown if click.side == "starboard" else -shown)
                points.append(QPointF(self.x_of(scan.ping_of(click.time) + 0.5), y))
        painter.setPen(pen(theme.vermilion, 1.8))
        painter.drawPolyline(QPolygonF(points))
        painter.setFont(font(display.text_size * 0.85, bold=True))
        for k, at in enumerate(points):
            bead(painter, at, 3.4, theme.vermilion)
            painter.drawText(QPointF(at.x() + 7, at.y() + 4), str(k + 1))
        lines = gauge_lines(self._session)
        if lines:
            first = (lines[0], font(display.text_size * 1.1, bold=True), theme.ink)
            rest = [(t, font(display.text_size * 0.95), theme.muted_text) for t in lines[1:]]
            at = points[-1] if points else QPointF(self.width() / 2 - 120, 30)
            text_box(painter, [first, *rest], at, QRectF(self.rect()), theme.panel, theme.vermilion)

    def _paint_cursor(self, painter: QPainter) -> None:
        session = self._session
        scan, side, display = session.scan, session.side, session.display
        theme = display.theme
        x, y = self.x_of(scan.cursor.ping + 0.5), self.y_of(side.cursor_m)
        painter.setPen(pen(theme.ink, 1.0, alpha=200))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        bounds = QRectF(self.rect())
        plain, strong = font(display.text_size * 0.95), font(display.text_size * 1.1, bold=True)
        if side.chosen is not None:
            at = self.place_of(side.chosen)
            if at is not None and side.clicks is None:
                first, *more = echo_lines(session, side.chosen)
                lines = [(first, strong, theme.ink)] + [(t, plain, theme.muted_text) for t in more]
                text_box(painter, lines, at, bounds, theme.panel, theme.brass)
            return
        painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))
        if side.clicks is not None or not (self.underMouse() or self.hasFocus()):
            return
        ground = side.cursor_ground_m
        if math.isfinite(ground):
            lines = [(f"{display.words(ground, Kind.DISTANCE)} to {side.cursor_side}", strong, theme.ink)]
            place = side.cursor_place()
            off = side.lies_off(place) if place is not None else None
            if off is not None:
                lines.append((f"off {thing_word(off)}", plain, theme.muted_text))
        else:
            lines = [("in the water, before the bottom", strong, theme.ink)]
        slant = side.slant_of(abs(side.cursor_m), scan.time)
        lines.append((f"slant range {display.words(slant, Kind.DISTANCE)}", plain, theme.muted_text))
        text_box(painter, lines, QPointF(x, y), bounds, theme.panel, theme.rule)
