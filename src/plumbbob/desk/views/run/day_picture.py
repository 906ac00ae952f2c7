"""The day through the water: hours across, depth down; stays as blocks whose width is time and depth the lure's."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QMouseEvent, QPainter, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.plan.events import DayState
from plumbbob.core.plan.outing import DayPlan, Hold, Stay
from plumbbob.core.units import Kind
from plumbbob.core.water.light import isolume_depth
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.kit.daylight import light_image
from plumbbob.desk.kit.hours_plot import paint_head, paint_hours, water_area
from plumbbob.desk.kit.paint import bead, font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import Axis, DepthPlot, paint_depths
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.run.words import figure

_TOP_LINES, _FOOT_LINES = 4.2, 1.9  # room for the head and the wind, and for the hours, in sizes of text
_AROUND_S = 1800.0
_SUN_STEPS = 60
_EDGE_PX, _SNAP_S = 7.0, 300.0
_LEAST_S = 600.0
_DIM_LUX = 500.0  # the light of sunrise at the surface
_BLOCK_M = 1.6  # half the height of a block, at least


class DayPicture(Painted):
    """Needs the session. A stay is dragged by its middle to another time, by its ends to another length."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("day")
        self._session = session
        self._run = session.run
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._light: tuple[tuple[object, ...], QImage, np.ndarray] | None = None
        self._drag: tuple[str, str, float, Hold] | None = None  # name, end, where it was taken, how it was
        self._before: DayState | None = None
        self._pressed: QPointF | None = None
        for signal in (
            session.run.planned,
            session.run.chosen_changed,
            session.run.moved,
            session.run.state_changed,
            session.conditions.changed,
            session.display.changed,
        ):
            signal.connect(self._changed)

    def _changed(self) -> None:
        self._tell_scale()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The plumb line beside it follows."""
        super().resizeEvent(event)
        self._tell_scale()

    def _tell_scale(self) -> None:
        """Where surface and foot lie within the picture that the plumb line hangs beside."""
        whole = self.parentWidget()
        while whole is not None and whole.objectName() != "runpicture":
            whole = whole.parentWidget()
        if whole is None or self._run.ask is None:
            return
        above = self.mapTo(whole, self.rect().topLeft()).y()
        area = self.area
        self._run.set_scale(above + area.top(), above + area.bottom(), whole.height(), self.deepest_m)

    # -- scales -------------------------------------------------------------------------------------------------

    @property
    def area(self) -> QRectF:
        """Where the water is drawn."""
        return water_area(self, self._session.display, _TOP_LINES, _FOOT_LINES)

    @property
    def deepest_m(self) -> float:
        """Of the scale: the deepest bottom of the day, and a little."""
        stays = self._run.stays
        deep = max((s.candidate.bottom_m for s in stays), default=10.0)
        return max(1.12 * deep, 3.0)

    @property
    def clock(self) -> Axis:
        """Hours across."""
        ask, area = self._run.ask, self.area
        if ask is None:
            return Axis(0.0, 1.0, area.left(), area.right())
        return Axis(ask.start - _AROUND_S / 3, ask.end + _AROUND_S, area.left(), area.right())

    @property
    def depths(self) -> Axis:
        """Depth down."""
        return Axis(0.0, self.deepest_m, self.area.top(), self.area.bottom())

    def block(self, stay: Stay) -> QRectF:
        """The rectangle of a stay."""
        x, y = self.clock, self.depths
        half = max(_BLOCK_M, 0.05 * self.deepest_m)
        top = max(stay.candidate.fish_m - half, 0.0)
        base = min(stay.candidate.fish_m + half, stay.candidate.bottom_m)
        left, right = x.px(stay.arrive), x.px(stay.leave)
        return QRectF(left, y.px(top), max(right - left, 3.0), max(y.px(base) - y.px(top), 8.0))

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Light, layer, bottoms, stays, the clock."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.panel))
        painter.setPen(pen(theme.rule))
        painter.drawLine(0, 0, self.width(), 0)
        if self._run.ask is None:
            return
        self._paint_head(painter)
        area = self.area
        painter.save()
        painter.setClipRect(area)
        self._paint_light(painter)
        self._paint_layer(painter)
        self._paint_bottoms(painter)
        if self._run.beside is not None:
            self._paint_beside(painter, self._run.beside)
        painter.restore()
        self._name_layer(painter)
        self._paint_stays(painter)
        self._paint_wind(painter)
        self._paint_hours(painter)
        paint_depths(painter, DepthPlot(area, 1.0, self.deepest_m), display)
        self._paint_home(painter)
        self._paint_now(painter)

    def _paint_head(self, painter: QPainter) -> None:
        words = "drag a stay; its depth is the lure's, its width the time" if self._run.plan is not None else ""
        live = self._session.jobs.live
        if self._run.plan is None and live:
            words = f"{live[-1].title} …"
        paint_head(painter, self._session.display, self.width(), "THE DAY THROUGH THE WATER", words)

    def _paint_light(self, painter: QPainter) -> None:
        ask, day, theme = self._run.ask, self._session.conditions, self._session.display.theme
        assert ask is not None
        area, x = self.area, self.clock
        key = (ask.start, ask.end, ask.launch, theme.light, round(self.deepest_m, 2), day.secchi_m)
        if self._light is None or self._light[0] != key:
            hours = np.linspace(x.first, x.last, _SUN_STEPS)
            sun = np.array([sun_elevation_deg(ask.launch, float(t)) for t in hours])
            self._light = key, light_image(theme, sun, self.deepest_m, day.secchi_m), sun
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(area, self._light[1])
        sun = self._light[2]
        depth = [isolume_depth(_DIM_LUX, float(s), day.secchi_m) for s in sun]
        hours = np.linspace(x.first, x.last, _SUN_STEPS)
        points = [QPointF(x.px(float(t)), self.depths.px(d)) for t, d in zip(hours, depth, strict=True)]
        painter.setPen(pen(theme.ink, 1.2, alpha=150, style=Qt.PenStyle.DotLine))
        painter.drawPolyline(QPolygonF(points))
        painter.setPen(pen(theme.teal, 1.6))
        painter.drawLine(area.topLeft(), area.topRight())

    def _paint_layer(self, painter: QPainter) -> None:
        layer, theme = self._session.conditions.layer, self._session.display.theme
        if layer is None:
            return
        top, base = self.depths.px(layer.top_m), self.depths.px(layer.base_m)
        painter.fillRect(QRectF(self.area.left(), top, self.area.width(), base - top), shade(theme.teal, 60))

    def _name_layer(self, painter: QPainter) -> None:
        layer, theme = self._session.conditions.layer, self._session.display.theme
        if layer is None or layer.base_m > self.deepest_m:
            return
        base = self.depths.px(layer.base_m)
        painter.setFont(font(self._session.display.text_size * 0.8))
        tags = Tags(self.area)
        spot = QPointF(self.area.left() + 6, base - 5)
        tags.paint(painter, spot, "cold layer", theme.teal_text, theme.panel)

    def _paint_bottoms(self, painter: QPainter) -> None:
        """The bottom under each stay; a thin line between them, since it is not the way's own."""
        theme, x, y = self._session.display.theme, self.clock, self.depths
        foot = self.area.bottom()
        for stay in self._run.stays:
            left, right = x.px(stay.arrive), x.px(stay.leave)
            top = y.px(stay.candidate.bottom_m)
            painter.fillRect(QRectF(left, top, right - left, foot - top), QColor(theme.land))
            painter.setPen(pen(theme.ink, 1.6))
            painter.drawLine(QPointF(left, top), QPointF(right, top))

    def _paint_beside(self, painter: QPainter, plan: DayPlan) -> None:
        theme = self._session.display.theme
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ink, 1.4, alpha=170, style=Qt.PenStyle.DashLine))
        for stay in plan.stays:
            painter.drawRect(self.block(stay).adjusted(0, -3, 0, 3))

    def _paint_stays(self, painter: QPainter) -> None:
        display, run = self._session.display, self._run
        theme = display.theme
        chosen, over = run.chosen, len(run.past)
        held = run.state.holds
        small = font(display.text_size * 0.85, bold=True)
        for k, stay in enumerate(run.stays):
            box = self.block(stay)
            mine = chosen is not None and stay.candidate.name == chosen.name
            middle = box.center()
            painter.setPen(pen(theme.brass, 1.4, alpha=255 if k >= over else 140))
            painter.drawLine(QPointF(middle.x(), self.area.top()), QPointF(middle.x(), box.top()))
            painter.setBrush(shade(theme.brass, 150 if mine else 80 if k >= over else 40))
            painter.setPen(pen(theme.ink if mine else theme.brass, 2.2 if mine else 1.4))
            painter.drawRoundedRect(box, 3, 3)
            if stay.candidate.name in held:
                bead(painter, QPointF(box.right() - 6, box.top() + 6), 2.6, theme.ink, kind="structure")
            text = figure(run, stay.candidate.name)
            painter.setFont(small)
            wide = max(QFontMetricsF(small).horizontalAdvance(text) + 8, 18.0)
            label = QRectF(middle.x() - wide / 2, middle.y() - 9, wide, 18)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.fill if mine else theme.raised))
            painter.drawRoundedRect(label, 9, 9)
            painter.setPen(QColor(theme.on_fill if mine else theme.ink))
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, text)
            self._paint_seen(painter, stay, box)

    def _paint_seen(self, painter: QPainter, stay: Stay, box: QRectF) -> None:
        """Beads of what came: filled for a fish, a ring for one that did not take."""
        theme, x, y = self._session.display.theme, self.clock, self.depths
        for event in self._run.state.events:
            if event.name != stay.candidate.name or not stay.arrive <= event.time <= stay.leave:
                continue
            at = QPointF(x.px(event.time), min(max(y.px(event.depth_m), box.top()), box.bottom()))
            if event.kind == "bite":
                bead(painter, at, 3.4, theme.ink)
            elif event.kind in ("follower", "other"):
                bead(painter, at, 3.4, theme.ink, kind="bait")
            elif event.kind == "bait":
                bead(painter, at, 2.4, theme.lichen, kind="bait")

    def _paint_wind(self, painter: QPainter) -> None:
        """An arrow the way the wind blows, longer for more, with its figure, at each hour of it."""
        ask, display = self._run.ask, self._session.display
        assert ask is not None
        theme, x, area = display.theme, self.clock, self.area
        y = area.top() - 0.85 * display.text_size
        painter.setFont(font(display.text_size * 0.82))
        metrics = QFontMetricsF(painter.font())
        last = -1e9
        for k, hour in enumerate(ask.hours):
            at = max(x.px(max(hour.time, x.first)), area.left())
            if at > area.right() - 40 or at < last:
                continue
            text = f"{display.shown(hour.wind_mps, Kind.SPEED):.0f}"
            text += f" {display.unit(Kind.SPEED)}" if k == 0 else ""
            text = text if hour.wind_mps > 0 else "calm"
            over = hour.wind_mps >= ask.craft.wind_limit_mps
            painter.setPen(QColor(theme.vermilion_text if over else theme.teal_text))
            painter.drawText(QPointF(at, y + metrics.ascent() / 2 - 2), text)
            start = at + metrics.horizontalAdvance(text) + 12
            last = start + 14
            if hour.wind_mps <= 0:
                continue
            angle = math.radians(hour.from_deg + 180.0)
            length = 6.0 + 0.9 * min(hour.wind_mps, 12.0)
            way = QPointF(math.sin(angle) * length / 2, -math.cos(angle) * length / 2)
            middle = QPointF(start, y - 1)
            painter.setPen(pen(theme.vermilion if over else theme.teal, 1.8))
            tip = middle + way
            painter.drawLine(middle - way, tip)
            for turn in (2.6, -2.6):
                barb = QPointF(math.sin(angle + turn) * 5.0, -math.cos(angle + turn) * 5.0)
                painter.drawLine(tip, tip + barb)

    def _paint_hours(self, painter: QPainter) -> None:
        session, base = self._session, self.height() - 5.0
        paint_hours(painter, session.display, self.clock, self.area, base, lambda time: session.clock(time, "%H:%M"))

    def _paint_home(self, painter: QPainter) -> None:
        plan, display = self._run.plan, self._session.display
        if plan is None or not plan.stays:
            return
        theme, area = display.theme, self.area
        leave = plan.stays[-1].leave
        at = self.clock.px(leave)
        painter.setPen(pen(theme.vermilion, 1.6, style=Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(at, area.top()), QPointF(at, area.bottom()))
        painter.setFont(font(display.text_size * 0.82))
        words = f"home by {self._session.clock(plan.back, '%H:%M')}"
        tags = Tags(area)
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        left = at + 6 if at + 6 + wide < area.right() else at - wide - 8
        tags.paint(painter, QPointF(left, area.bottom() - 8), words, theme.vermilion_text, theme.panel)

    def _paint_now(self, painter: QPainter) -> None:
        now, display = self._run.now, self._session.display
        if now is None:
            return
        theme, area = display.theme, self.area
        at = self.clock.px(now)
        painter.setPen(pen(theme.ground, 4.0, alpha=160))
        painter.drawLine(QPointF(at, area.top() - 6), QPointF(at, area.bottom()))
        painter.setPen(pen(theme.ink, 1.8))
        painter.drawLine(QPointF(at, area.top() - 6), QPointF(at, area.bottom()))
        painter.setFont(font(display.text_size * 0.85, bold=True))
        words = self._session.clock(now, "%H:%M")
        Tags(area).paint(painter, QPointF(at + 5, area.bottom() - 26), words, theme.ink, theme.panel)

    # -- hands --------------------------------------------------------------------------------------------------

    def _stay_at(self, at: QPointF) -> tuple[Stay, str] | None:
        """The stay under the mouse, and whether its begin, its end or its middle."""
        plan = self._run.plan
        for stay in reversed(plan.stays if plan is not None else ()):
            box = self.block(stay).adjusted(-_EDGE_PX / 2, -8, _EDGE_PX / 2, 8)
            if not box.contains(at):
                continue
            grip = min(_EDGE_PX, box.width() / 4)
            if at.x() < box.left() + grip:
                return stay, "arrive"
            return stay, "leave" if at.x() > box.right() - grip else "both"
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take a stay, or set the clock."""
        if event.button() != Qt.MouseButton.LeftButton or self._run.ask is None:
            return
        self._pressed = event.position()
        found = self._stay_at(event.position())
        if found is None:
            past = next((s for s in self._run.past if self.block(s).contains(event.position())), None)
            if past is not None:
                self._run.choose(past.candidate.name)
            elif self.area.contains(event.position()):
                self._run.set_now(self.clock.value(event.position().x()))
            return
        stay, end = found
        self._run.choose(stay.candidate.name)
        if not stay.again:
            self._drag = (
                stay.candidate.name,
                end,
                self.clock.value(event.position().x()),
                Hold(stay.arrive, stay.leave),
            )
            self._before = self._run.state

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it; the day is solved again under the hand."""
        if self._drag is None or self._pressed is None:
            found = self._stay_at(event.position()) if self._run.ask is not None else None
            shape = Qt.CursorShape.ArrowCursor
            if found is not None:
                shape = Qt.CursorShape.SizeAllCursor if found[1] == "both" else Qt.CursorShape.SizeHorCursor
            self.setCursor(shape)
            return
        if (event.position() - self._pressed).manhattanLength() < 4:
            return
        hold = self._dragged(event.position().x())
        if hold != self._run.state.holds.get(self._drag[0]):
            self._run.drag(self._drag[0], hold)

    def _dragged(self, px: float) -> Hold:
        assert self._drag is not None
        assert self._run.ask is not None
        _, end, taken, was = self._drag
        moved = round((self.clock.value(px) - taken) / _SNAP_S) * _SNAP_S
        low, high = self._run.ask.start, self._run.ask.end
        arrive, leave = was.arrive, was.leave
        if end == "both":
            moved = min(max(moved, low - arrive), high - leave)
            return Hold(arrive + moved, leave + moved)
        if end == "arrive":
            return Hold(min(max(arrive + moved, low), leave - _LEAST_S), leave)
        return Hold(arrive, max(min(leave + moved, high), arrive + _LEAST_S))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go: what was dragged is held from now on."""
        before, self._before = self._before, None
        self._drag, self._pressed = None, None
        if before is not None and before != self._run.state:
            self._run.dropped(before)
