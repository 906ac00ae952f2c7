"""The view ahead, true to scale: the boat at the left, depth downwards, distance to the right."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPolygonF, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.rig.cast import CastPlan
from plumbbob.core.sonar.reading import ForwardTarget
from plumbbob.core.units import Kind
from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.paint import bead, depth_ticks, font, indexed_image, pen, round_steps, shade, tag, text_box
from plumbbob.desk.kit.plot import nearest
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks import apply_corrections as correcting
from plumbbob.desk.theme import ramp
from plumbbob.desk.views.sonar.forward.raster import FanRaster
from plumbbob.desk.views.sonar.forward.words import echo_lines

_PICK_PX, _DRAG_PX = 20.0, 5.0
_THREAD_PX = 20.0
_TAIL_S = 6.0
_SURFACE_PX = 34.0  # room above the water for the casts' landing
_BOW_PX = 52.0  # and left of the bow for the scale
_PLAN_PX = 150.0  # the small chart seen from above


class ForwardPicture(CachedPicture):
    """Needs the session; draws the frame at the cursor's time and lets one pick a fish."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("ahead", parent)
        self._session = session
        self._raster: FanRaster | None = None
        self._drawn = (-1.0, 0.0)
        self._hover: QPointF | None = None
        self._held: tuple[ForwardTarget, QPointF] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.scan.opened.connect(self._opened)
        session.scan.gain_changed.connect(self._stale)
        session.scan.grew.connect(self._grew)
        session.forward.changed.connect(self._changed)
        session.logbook.changed.connect(self.update)
        session.display.changed.connect(self._stale)

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Another height shows other depths."""
        super().resizeEvent(event)
        self._session.forward.set_span(*self.depth_span)

    def _opened(self) -> None:
        self._raster = None
        self._stale()

    def _grew(self) -> None:
        view = self._session.forward.view
        if self._raster is not None and view is not None:
            self._raster.grow(view)

    def _changed(self) -> None:
        shown = (self._session.forward.frame_time, self._session.forward.far_m)
        if shown != self._drawn:
            self._drawn = shown
            self._image = None
            self._session.forward.set_span(*self.depth_span)
        self.update()

    # -- places on screen ---------------------------------------------------------------------------------------

    @property
    def m_per_px(self) -> float:
        """One scale for both directions: as far as is asked for, as deep as the height then shows."""
        return self._session.forward.far_m / max(self.width() - _BOW_PX - 10, 50)

    def at(self, ahead_m: float, depth_m: float) -> QPointF:
        """Pixel of a place."""
        return QPointF(_BOW_PX + ahead_m / self.m_per_px, _SURFACE_PX + depth_m / self.m_per_px)

    def place_at(self, at: QPointF) -> tuple[float, float]:
        """Distance ahead and depth of a pixel."""
        return (at.x() - _BOW_PX) * self.m_per_px, (at.y() - _SURFACE_PX) * self.m_per_px

    @property
    def depth_span(self) -> tuple[float, float]:
        """Depths at the top and the foot of the picture."""
        return -_SURFACE_PX * self.m_per_px, (self.height() - _SURFACE_PX) * self.m_per_px

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """The frame, what was followed, the cast."""
        session = self._session
        theme, view = session.display.theme, session.forward.view
        painter.fillRect(self.rect(), QColor(theme.echo[0]))
        if view is None:
            painter.setFont(font(session.display.text_size * 1.15))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This recording holds no view ahead.")
            return
        if self._raster is None:
            self._raster = FanRaster(view)
        if self._image is None:
            pixels = self._raster.render(
                session.forward.frame,
                max(self.width(), 1),
                max(self.height(), 1),
                self.m_per_px,
                _SURFACE_PX,
                _BOW_PX,
                session.scan.gain_db,
            )
            self._image = indexed_image(pixels, ramp(theme).tolist())
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_scale(painter)
        self._paint_tracks(painter)
        if session.forward.plan is not None:
            self._paint_cast(painter, session.forward.plan)
        self._paint_from_above(painter)
        self._paint_words(painter)

    def _paint_scale(self, painter: QPainter) -> None:
        display = self._session.display
        painter.setFont(font(display.text_size * 0.8))
        top, base = self.depth_span
        surface = _SURFACE_PX
        painter.setPen(pen(display.theme.teal, 1.2))
        painter.drawLine(QPointF(_BOW_PX - 8, surface), QPointF(self.width(), surface))
        for depth, text in depth_ticks(
            max(top, 0.0), base, display.system_of(Kind.DEPTH), max(self.height() // 70, 2)
        ):
            y = self.at(0.0, depth).y()
            painter.setPen(pen(display.theme.ink, alpha=90))
            painter.drawLine(QPointF(_BOW_PX - 8, y), QPointF(_BOW_PX, y))
            if y < self.height() - 6:
                painter.setPen(shade(display.theme.muted_text, 230))
                box = QRectF(0, y - 9, _BOW_PX - 12, 18)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        far = self._session.forward.far_m
        step = round_steps(far, Kind.DISTANCE, display.system_of(Kind.DISTANCE), max(self.width() // 130, 2))
        k = 1
        while k * step < far:
            x = self.at(k * step, 0.0).x()
            painter.setPen(pen(display.theme.ink, alpha=90))
            painter.drawLine(QPointF(x, surface - 6), QPointF(x, surface))
            painter.setPen(shade(display.theme.muted_text, 230))
            box = QRectF(x - 40, 4, 80, 18)
            painter.drawText(box, Qt.AlignmentFlag.AlignHCenter, display.words(k * step, Kind.DISTANCE, 0))
            k += 1
        # the boat's bow, so that left and right need no explaining
        bow = [QPointF(0, surface - 9), QPointF(_BOW_PX - 4, surface - 9), QPointF(_BOW_PX - 20, surface + 5)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade(display.theme.muted, 160))
        painter.drawPolygon(QPolygonF([*bow, QPointF(0, surface + 5)]))

    def _paint_tracks(self, painter: QPainter) -> None:
        """A bead on a thread, a tail of the last seconds, an arrow the way it swims."""
        session = self._session
        theme, now_s = session.display.theme, session.scan.time
        for track, now in session.forward.present():
            lure = track.kind == "lure"
            colour = theme.vermilion if lure else theme.brass
            chosen = track is session.forward.chosen
            recent = (track.time <= now_s) & (track.time > now_s - _TAIL_S)
            tail = [
                self.at(float(d), float(z))
                for d, z in zip(track.distance_m[recent], track.depth_m[recent], strict=True)
            ]
            painter.setPen(pen(colour, 1.3, alpha=200))
            painter.drawPolyline(QPolygonF(tail))
            at = self.at(now.distance_m, now.depth_m)
            top = QPointF(at.x(), at.y() - _THREAD_PX)
            painter.setPen(pen(colour, 2.0 if chosen else 1.2))
            painter.drawLine(top, QPointF(at.x(), at.y() - 6))
            bead(painter, top, 4.6 if chosen else 3.0, colour)
            if not lure and math.isfinite(track.towards_mps) and abs(track.towards_mps) >= 0.08:
                self._arrow(painter, top, -1.0 if track.towards_mps > 0 else 1.0, colour)

    def _arrow(self, painter: QPainter, at: QPointF, way: float, colour: str) -> None:
        """Towards the boat or away from it."""
        painter.setPen(pen(colour, 1.6))
        end = QPointF(at.x() + way * 20, at.y())
        painter.drawLine(QPointF(at.x() + way * 7, at.y()), end)
        for dy in (-4.0, 4.0):
            painter.drawLine(end, QPointF(end.x() - way * 5, end.y() + dy))

    def _paint_cast(self, painter: QPainter, plan: CastPlan) -> None:
        """Where it lands, how it falls, how it is drawn; a tick where it passes the fish."""
        theme = self._session.display.theme
        land = self.at(plan.land_m, 0.0)
        painter.setPen(pen(theme.vermilion, 1.6))
        painter.drawLine(QPointF(land.x() - 6, land.y() - 6), QPointF(land.x() + 6, land.y() + 6))
        painter.drawLine(QPointF(land.x() - 6, land.y() + 6), QPointF(land.x() + 6, land.y() - 6))
        points = [self.at(x, max(z, 0.0)) for _, x, z in plan.path]
        painter.setPen(pen(theme.vermilion, 1.6, style=Qt.PenStyle.DashLine))
        if plan.count_s > 0 and len(points) > 1:
            painter.drawLine(points[0], points[1])
        painter.setPen(pen(theme.vermilion, 2.0))
        painter.drawPolyline(QPolygonF(points[1:] if plan.count_s > 0 else points))
        end = points[-1]
        half = plan.pass_depth_sd_m / self.m_per_px
        painter.drawLine(QPointF(end.x(), end.y() - half), QPointF(end.x(), end.y() + half))
        for dy in (-half, half):
            painter.drawLine(QPointF(end.x() - 4, end.y() + dy), QPointF(end.x() + 4, end.y() + dy))
        display = self._session.display
        painter.setFont(font(display.text_size * 0.85, bold=True))
        at = QPointF(min(land.x() + 11, self.width() - 84.0), land.y() + 17)
        tag(painter, at, "land here", theme.vermilion_text, theme.panel)

    def _paint_from_above(self, painter: QPainter) -> None:
        """A small chart: the bow at its foot, the fan's direction, each fish where it is."""
        session = self._session
        display, ahead = session.display, session.forward
        theme, view = display.theme, session.forward.view
        assert view is not None
        box = QRectF(self.width() - _PLAN_PX - 10, self.height() - _PLAN_PX - 10, _PLAN_PX, _PLAN_PX)
        painter.setPen(pen(theme.rule))
        painter.setBrush(shade(theme.panel, 225))
        painter.drawRoundedRect(box, 4, 4)
        foot = QPointF(box.center().x(), box.bottom() - 14)
        scale = (box.height() - 30) / ahead.far_m

        def spot(distance: float, azimuth: float) -> QPointF:
            a = math.radians(azimuth)
            return QPointF(foot.x() + distance * math.sin(a) * scale, foot.y() - distance * math.cos(a) * scale)

        painter.setPen(pen(theme.teal, 1.2))
        painter.setBrush(shade(theme.teal, 50))
        azimuth = ahead.azimuth_deg
        painter.drawPolygon(QPolygonF([foot, spot(ahead.far_m, azimuth - 9), spot(ahead.far_m, azimuth + 9)]))
        painter.setPen(pen(theme.ink, 1.2, alpha=140, style=Qt.PenStyle.DotLine))
        painter.drawLine(foot, spot(ahead.far_m, 0.0))
        for track, now in ahead.present():
            chosen = track is ahead.chosen
            colour = theme.vermilion if track.kind == "lure" else theme.brass
            bead(painter, spot(now.distance_m, now.azimuth_deg), 4.0 if chosen else 2.6, colour)
        if ahead.plan is not None:
            painter.setPen(pen(theme.vermilion, 1.6))
            painter.drawLine(foot, spot(ahead.plan.land_m, ahead.plan.aim_deg))
        painter.setFont(font(display.text_size * 0.75))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(box.left() + 6, box.top() + 14), "from above")
        side = "right" if azimuth > 0 else "left"
        painter.drawText(QPointF(box.left() + 6, box.bottom() - 5), f"fan {abs(azimuth):.0f}° {side}")

    def _paint_words(self, painter: QPainter) -> None:
        session = self._session
        display, chosen = session.display, session.forward.chosen
        theme = display.theme
        plain, strong = font(display.text_size * 0.95), font(display.text_size * 1.1, bold=True)
        bounds = QRectF(self.rect())
        if chosen is not None:
            now = session.forward.now(chosen)
            first, *more = echo_lines(session, chosen, now)
            lines = [(first, strong, theme.ink)] + [(t, plain, theme.muted_text) for t in more]
            at = self.at(now.distance_m, now.depth_m)
            if at.y() > self.height() - _PLAN_PX - 130:
                bounds.setRight(bounds.right() - _PLAN_PX - 18)  # clear of the chart from above
            text_box(painter, lines, QPointF(at.x(), at.y() + 12), bounds, theme.panel, theme.brass)
        elif self._hover is not None:
            distance, depth = self.place_at(self._hover)
            if distance > 0 and depth > 0:
                lines = [
                    (f"{display.words(depth, Kind.DEPTH)} down", strong, theme.ink),
                    (f"{display.words(distance, Kind.DISTANCE)} ahead", plain, theme.muted_text),
                ]
                text_box(painter, lines, self._hover, bounds, theme.panel, theme.rule)

    # -- hands --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The chosen fish is taken hold of."""
        chosen = self._session.forward.chosen
        looks = self._session.scan.drawing.tool is DrawTool.LOOK
        held = looks and chosen is not None and self.track_at(event.position()) is chosen
        self._held = (chosen, event.position()) if held and chosen is not None else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Say what is under the mouse."""
        self._hover = event.position()
        self.update()

    def leaveEvent(self, event: object) -> None:
        """The reading goes with the mouse."""
        self._hover = None
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click picks the nearest fish, or none, or puts one in with the pen; a drag moves the chosen one."""
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        held, self._held = self._held, None
        if self._session.scan.drawing.tool is DrawTool.DRAW:
            correcting.draw_ahead(self._session, *self.place_at(event.position()))
            return
        if held is not None and (event.position() - held[1]).manhattanLength() > _DRAG_PX:
            track, pressed = held
            now = self._session.forward.now(track)
            off = self.at(now.distance_m, now.depth_m) - pressed
            correcting.move_ahead(self._session, track, *self.place_at(event.position() + off))
            return
        self._session.forward.choose(self.track_at(event.position()))

    def track_at(self, at: QPointF) -> ForwardTarget | None:
        """The track under a place on screen."""
        thread = QPointF(0.0, _THREAD_PX)  # the label stands so far over the track's spot
        spots = [(track, self.at(now.distance_m, now.depth_m)) for track, now in self._session.forward.present()]
        return nearest(at, [*spots, *((track, spot - thread) for track, spot in spots)], _PICK_PX)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """The wheel looks nearer or farther; with Shift it steps through the frames."""
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._session.scan.step_cursor(int(np.sign(-turns)) * 4, 0.0)
        else:
            self._session.forward.set_far(self._session.forward.far_m * 0.85**turns)
