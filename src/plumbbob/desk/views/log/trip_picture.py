"""The trip through the water: hours across, depth down, a band for each rod that fished, beads for fish."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import (
    QColor,
    QFontMetricsF,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.kit.daylight import light_image
from plumbbob.desk.kit.hours_plot import paint_head, paint_hours, water_area
from plumbbob.desk.kit.paint import bead, font, pen, shade
from plumbbob.desk.kit.painted import Levelled
from plumbbob.desk.kit.plot import Axis, DepthPlot, nearest, paint_depths
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.trips_model import Outing
from plumbbob.desk.views.log.words import local_clock
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Catch, Effort, Moment, MomentKind

_TOP_LINES, _FOOT_LINES = 3.4, 1.9
_AROUND = 0.03
_SUN_STEPS = 60
_EDGE_PX, _SNAP_S, _LEAST_S, _PICK_PX = 7.0, 60.0, 120.0, 13.0
_BAND_PX = 9.0
_USUAL_SECCHI_M = 3.5


class TripPicture(Levelled):
    """
    Needs the session.

    A band is dragged by its ends to other times, by its middle to another depth; X cuts it where the hand was last.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("trip")
        self._session = session
        self._trips = session.trips
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._light: tuple[tuple[object, ...], QImage] | None = None
        self._drag: tuple[Effort, str, QPointF] | None = None
        self._dragged: Effort | None = None
        for signal in (session.trips.chosen_changed, session.display.changed, session.water_changed):
            signal.connect(self._changed)

    def _tell_scale(self) -> None:
        area = self.area
        self._trips.set_scale(area.top(), area.bottom(), self.height(), self.deepest_m)

    # -- scales -------------------------------------------------------------------------------------------------

    @property
    def area(self) -> QRectF:
        """Where the water is drawn."""
        return water_area(self, self._session.display, _TOP_LINES, _FOOT_LINES)

    @property
    def deepest_m(self) -> float:
        """Of the scale: the deepest bottom of the trip, and a little."""
        outing = self._trips.outing
        return max(1.12 * outing.deepest_m, 3.0) if outing is not None else 10.0

    @property
    def clock(self) -> Axis:
        """Hours across."""
        outing, area = self._trips.outing, self.area
        if outing is None:
            return Axis(0.0, 1.0, area.left(), area.right())
        start, end = outing.span
        room = _AROUND * (end - start)
        return Axis(start - room, end + room, area.left(), area.right())

    @property
    def depths(self) -> Axis:
        """Depth down."""
        return Axis(0.0, self.deepest_m, self.area.top(), self.area.bottom())

    def band(self, effort: Effort) -> QRectF | None:
        """The rectangle of a stretch; None where its time or depth is not known."""
        if effort.start is None or effort.end is None or effort.end <= effort.start:
            return None
        x, depth = self.clock, effort.lure_depth_m
        if depth is None:
            depth = effort.bottom_depth_m if effort.bottom_depth_m is not None else 0.5 * self.deepest_m
        left, right = x.px(effort.start), x.px(effort.end)
        return QRectF(left, self.depths.px(depth) - _BAND_PX / 2, max(right - left, 3.0), _BAND_PX)

    def spot(self, value: Catch | Moment) -> QPointF:
        """Where a fish hangs."""
        depth = value.fish_depth_m
        if depth is None:
            depth = value.lure_depth_m if value.lure_depth_m is not None else 0.0
        return QPointF(self.clock.px(value.time), self.depths.px(depth))

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Light, bottoms, layer, bands, beads, hours."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.panel))
        outing = self._trips.outing
        if outing is None:
            return
        self._paint_head(painter, outing)
        area = self.area
        painter.save()
        painter.setClipRect(area)
        self._paint_light(painter, outing)
        self._paint_bottoms(painter, outing)
        self._paint_layer(painter, outing)
        painter.restore()
        self._paint_bands(painter, outing)
        self._paint_fish(painter, outing)
        self._paint_signs(painter, outing)
        self._paint_places(painter, outing)
        self._paint_hours(painter, outing)
        paint_depths(painter, DepthPlot(area, 1.0, self.deepest_m), display)

    def _paint_head(self, painter: QPainter, outing: Outing) -> None:
        words = "a band is a rod fishing: drag its ends, its depth; X cuts it, G says it again"
        if not outing.efforts:
            words = "nothing says yet how it was fished: E adds a stretch"
        paint_head(painter, self._session.display, self.width(), "THE TRIP THROUGH THE WATER", words)

    def _place(self, outing: Outing) -> Position | None:
        things: list[Effort | Catch | Moment] = [*outing.efforts, *outing.catches, *outing.moments]
        for value in things:
            if value.latitude is not None and value.longitude is not None:
                return Position(value.latitude, value.longitude)
        known = next((w for w in self._session.logbook.waters if w.water == outing.trip.water), None)
        if known is not None and known.latitude is not None and known.longitude is not None:
            return Position(known.latitude, known.longitude)
        return self._session.water.place

    def _paint_light(self, painter: QPainter, outing: Outing) -> None:
        theme, x, place = self._session.display.theme, self.clock, self._place(outing)
        area = self.area
        secchi = next((e.secchi_m for e in outing.efforts if e.secchi_m), None) or _USUAL_SECCHI_M
        if place is not None:
            key = (x.first, x.last, place, theme.light, round(self.deepest_m, 2), secchi)
            if self._light is None or self._light[0] != key:
                hours = np.linspace(x.first, x.last, _SUN_STEPS)
                sun = np.array([sun_elevation_deg(place, float(t)) for t in hours])
                self._light = key, light_image(theme, sun, self.deepest_m, secchi)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(area, self._light[1])
        else:
            painter.fillRect(area, QColor(theme.ground))
        painter.setPen(pen(theme.teal, 1.6))
        painter.drawLine(area.topLeft(), area.topRight())

    def _paint_bottoms(self, painter: QPainter, outing: Outing) -> None:
        """The bottom under each stretch; a thin straight line between them, since it is not the way's own."""
        theme, x, y = self._session.display.theme, self.clock, self.depths
        points: list[QPointF] = []
        for effort in outing.efforts:
            if effort.start is None or effort.end is None or effort.bottom_depth_m is None:
                continue
            low = y.px(effort.bottom_depth_m)
            if points and x.px(effort.start) < points[-1].x():
                continue  # another rod at the same place
            points += [QPointF(x.px(effort.start), low), QPointF(x.px(effort.end), low)]
        if not points:
            return
        foot = self.area.bottom()
        shape = [QPointF(points[0].x(), foot), *points, QPointF(points[-1].x(), foot)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.land))
        painter.drawPolygon(QPolygonF(shape))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for k in range(len(points) - 1):
            painter.setPen(pen(theme.ink, 1.8 if k % 2 == 0 else 0.8, alpha=255 if k % 2 == 0 else 120))
            painter.drawLine(points[k], points[k + 1])

    def _paint_layer(self, painter: QPainter, outing: Outing) -> None:
        theme, x, y = self._session.display.theme, self.clock, self.depths
        for effort in outing.efforts:
            if effort.layer_m is None or effort.start is None or effort.end is None:
                continue
            left, right, at = x.px(effort.start), x.px(effort.end), y.px(effort.layer_m)
            painter.setPen(pen(theme.teal, 2.4, alpha=150))
            painter.drawLine(QPointF(left, at), QPointF(right, at))

    def _paint_bands(self, painter: QPainter, outing: Outing) -> None:
        display, picked = self._session.display, self._trips.picked
        theme = display.theme
        caught = {c.effort for c in outing.catches if c.effort}
        painter.setFont(font(display.text_size * 0.78))
        tags = Tags(self.area)
        for effort in outing.efforts:
            shown = self._dragged if self._dragged is not None and self._dragged.id == effort.id else effort
            box = self.band(shown)
            if box is None:
                continue
            mine = isinstance(picked, Effort) and picked.id == effort.id
            colour = theme.brass if effort.ref in caught else theme.muted
            painter.setPen(pen(theme.ink, 1.8) if mine else pen(theme.ground, 1.0, alpha=180))
            painter.setBrush(shade(colour, 235 if mine else 190))
            painter.drawRoundedRect(box, _BAND_PX / 2, _BAND_PX / 2)
            if mine:
                words = self._band_words(shown)
                wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
                left = min(max(box.left(), self.area.left() + 4), self.area.right() - wide - 6)
                above = box.top() - 7 if box.top() - 20 > self.area.top() else box.bottom() + 15
                tags.paint(painter, QPointF(left, above), words, theme.ink, theme.panel)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _band_words(self, effort: Effort) -> str:
        display = self._session.display
        parts = [f"{effort.rods:g} rods" if effort.rods not in (None, 1.0) else ""]
        parts += [effort.lure or effort.method]
        if effort.lure_depth_m is not None:
            parts.append(display.words(effort.lure_depth_m, Kind.DEPTH))
        if effort.start is not None and effort.end is not None:
            at = local_clock(self._session, self._trips.chosen)
            parts.append(f"{at(effort.start):%H:%M}–{at(effort.end):%H:%M}")
        return ", ".join(p for p in parts if p)

    def _paint_fish(self, painter: QPainter, outing: Outing) -> None:
        theme, picked, top = self._session.display.theme, self._trips.picked, self.area.top()
        for moment in outing.contacts:
            if not math.isfinite(moment.time):
                continue
            at = self.spot(moment)
            painter.setPen(pen(theme.ink, 1.1, alpha=200))
            painter.drawLine(QPointF(at.x(), top), at)
            mine = picked is not None and isinstance(picked, Moment) and picked.id == moment.id
            seen = moment.kind in (MomentKind.SEEN, MomentKind.FOLLOWED, MomentKind.TURNED)
            bead(painter, at, 5.5 if mine else 4.0, theme.ink, kind="bait" if seen else "fish")
        for catch in outing.catches:
            if not math.isfinite(catch.time):
                continue
            at = self.spot(catch)
            painter.setPen(pen(theme.brass, 1.6))
            painter.drawLine(QPointF(at.x(), top), at)
            mine = isinstance(picked, Catch) and picked.id == catch.id
            if mine:
                painter.setPen(pen(theme.ink, 2.0))
                painter.drawEllipse(at, 9.0, 9.0)
            bead(painter, at, 6.5, theme.brass)

    def _paint_signs(self, painter: QPainter, outing: Outing) -> None:
        display = self._session.display
        painter.setFont(font(display.text_size * 0.78))
        painter.setPen(QColor(display.theme.teal_text))
        metrics = QFontMetricsF(painter.font())
        taken = -1e9
        for moment in outing.signs:
            if not math.isfinite(moment.time):
                continue
            words = moment.kind.value if moment.kind is not MomentKind.SIGN else "sign"
            wide = metrics.horizontalAdvance(words)
            left = min(max(self.clock.px(moment.time) - wide / 2, self.area.left()), self.area.right() - wide)
            if left > taken:
                painter.drawText(QPointF(left, self.area.top() - 5), words)
                taken = left + wide + 8

    def _paint_places(self, painter: QPainter, outing: Outing) -> None:
        """Names under the bottoms, each once where it was fished."""
        display, y = self._session.display, self.area.bottom() - 6
        painter.setFont(font(display.text_size * 0.78))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QColor(display.theme.ink))
        taken, before = -1e9, ""
        for effort in outing.efforts:
            if not effort.spot or effort.spot == before or effort.start is None or effort.end is None:
                continue
            before = effort.spot
            middle = self.clock.px((effort.start + effort.end) / 2)
            wide = metrics.horizontalAdvance(effort.spot)
            left = max(min(middle - wide / 2, self.area.right() - wide), self.area.left())
            if left > taken:
                box = QRectF(left - 3, y - metrics.ascent(), wide + 6, metrics.height())
                painter.fillRect(box, shade(display.theme.panel, 170))
                painter.drawText(QPointF(left, y), effort.spot)
                taken = left + wide + 10

    def _paint_hours(self, painter: QPainter, outing: Outing) -> None:
        at = local_clock(self._session, outing.trip)
        base, display = self.height() - 5.0, self._session.display
        paint_hours(painter, display, self.clock, self.area, base, lambda time: f"{at(time):%H:%M}")
        self._paint_wind(painter, outing)

    def _paint_wind(self, painter: QPainter, outing: Outing) -> None:
        """An arrow for each place fished, with its wind."""
        display = self._session.display
        theme = display.theme
        painter.setFont(font(display.text_size * 0.72))
        metrics = QFontMetricsF(painter.font())
        taken = -1e9
        for effort in outing.efforts:
            if effort.wind_mps is None or effort.wind_from_deg is None or effort.start is None:
                continue
            at = QPointF(self.clock.px(effort.start) + 10, self.area.bottom() - 26)
            words = display.words(effort.wind_mps, Kind.SPEED)
            if at.x() < taken:
                continue
            to = math.radians(effort.wind_from_deg + 180.0)
            tip = QPointF(at.x() + 8 * math.sin(to), at.y() - 8 * math.cos(to))
            tail = QPointF(at.x() - 8 * math.sin(to), at.y() + 8 * math.cos(to))
            painter.setPen(pen(theme.ink, 1.4, alpha=200))
            painter.drawLine(tail, tip)
            painter.setBrush(QColor(theme.ink))
            painter.drawEllipse(tip, 2.0, 2.0)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QColor(theme.ink))
            painter.drawText(QPointF(at.x() + 13, at.y() + 4), words)
            taken = at.x() + 30 + metrics.horizontalAdvance(words)

    # -- hands --------------------------------------------------------------------------------------------------

    def _band_at(self, at: QPointF) -> tuple[Effort, str] | None:
        outing = self._trips.outing
        for effort in reversed(outing.efforts if outing is not None else ()):
            box = self.band(effort)
            if box is None or not box.adjusted(-_EDGE_PX / 2, -5, _EDGE_PX / 2, 5).contains(at):
                continue
            grip = min(_EDGE_PX, box.width() / 4)
            if at.x() < box.left() + grip:
                return effort, "start"
            return effort, "end" if at.x() > box.right() - grip else "depth"
        return None

    def _fish_at(self, at: QPointF) -> Catch | Moment | None:
        outing = self._trips.outing
        if outing is None:
            return None
        fish: list[Catch | Moment] = [*outing.catches, *outing.contacts]
        return nearest(at, ((v, self.spot(v)) for v in fish if math.isfinite(v.time)), _PICK_PX)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick a fish or take a band."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        fish = self._fish_at(at)
        if fish is not None:
            self._trips.pick(fish)
            return
        found = self._band_at(at)
        self._trips.pick(None if found is None else found[0])
        if found is not None:
            self._trips.cut_at = self.clock.value(at.x())
            self._drag = (found[0], found[1], at)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it; nothing is saved before it is let go."""
        if self._drag is None:
            found = self._band_at(event.position())
            shape = Qt.CursorShape.ArrowCursor
            if found is not None:
                shape = Qt.CursorShape.SizeVerCursor if found[1] == "depth" else Qt.CursorShape.SizeHorCursor
            self.setCursor(shape)
            return
        effort, what, taken = self._drag
        if (event.position() - taken).manhattanLength() < 4 and self._dragged is None:
            return
        self._dragged = self._moved(effort, what, taken, event.position())
        self.update()

    def _moved(self, effort: Effort, what: str, taken: QPointF, at: QPointF) -> Effort:
        assert effort.start is not None
        assert effort.end is not None
        if what == "depth":
            start = effort.lure_depth_m if effort.lure_depth_m is not None else self.depths.value(taken.y())
            depth = start + self.depths.value(at.y()) - self.depths.value(taken.y())
            floor = effort.bottom_depth_m if effort.bottom_depth_m is not None else self.deepest_m
            return replace(effort, lure_depth_m=round(min(max(depth, 0.0), max(floor, 0.0)), 2))
        by = round((self.clock.value(at.x()) - self.clock.value(taken.x())) / _SNAP_S) * _SNAP_S
        if what == "start":
            return replace(effort, start=min(effort.start + by, effort.end - _LEAST_S))
        return replace(effort, end=max(effort.end + by, effort.start + _LEAST_S))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go: that is saved, and Z takes it back."""
        dragged, self._drag, self._dragged = self._dragged, None, None
        if dragged is None:
            return
        try:
            self._session.logbook.edit("stretch", [dragged])
        except StoreError as exc:
            self._session.say(str(exc), wrong=True)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys are commands of the window."""
        event.ignore()
