"""A piece of tackle as its words have it, drawn to scale, and how it falls: a bead every two seconds."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPolygonF

from plumbbob.core.rig.bought import Form, Packet, Trailer
from plumbbob.core.rig.fall import depth_after
from plumbbob.core.rig.tackle import Item, LineKind, Lure, Weight
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font, pen, round_steps, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

_STEP_S = 2.0
_LADDER_M, _MOST_BEADS = 12.0, 40
_LONG_CM = 8.0  # where no length is told


class LurePicture(Painted):
    """Needs the session for light, units and the rod's line."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("lure_picture")
        self._session = session
        self._item: Item | None = None
        self._packet: Packet | None = None
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Room for a lure and its ladder of seconds."""
        return QSize(420, 190)

    minimumSizeHint = sizeHint

    def show_item(self, item: Item | None, packet: Packet | None) -> None:
        """Draw another piece; None draws none."""
        self._item, self._packet = item, packet
        self.update()

    def paint(self, painter: QPainter) -> None:
        """The piece on the left, its fall on the right."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self._session.display.theme
        painter.fillRect(self.rect(), QColor(theme.ground))
        item = self._item
        if item is None:
            painter.setPen(QColor(theme.muted_text))
            painter.setFont(font(self._session.display.text_size * 0.9))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "type what stands on the packet")
            return
        falls = isinstance(item, Lure) and item.weight_n > 0
        wide = self.width() * (0.62 if falls else 1.0)
        self._piece(painter, QRectF(12, 10, wide - 24, self.height() - 34), item)
        if falls and isinstance(item, Lure):
            self._ladder(painter, QRectF(wide + 34, 12, self.width() - wide - 60, self.height() - 24), item)

    # -- the piece itself ---------------------------------------------------------------------------------------

    def _piece(self, painter: QPainter, box: QRectF, item: Item) -> None:
        theme = self._session.display.theme
        long_m = self._length(item)
        # pixels a metre; a plug is high for its length
        scale = (
            box.width()
            * (0.62 if self._packet is not None and self._packet.form is Form.PLUG else 0.8)
            / max(long_m, 1e-3)
        )
        painter.setPen(pen(theme.ink, 1.4))
        painter.setBrush(shade(theme.brass, 150))
        middle = box.center()
        if isinstance(item, Lure):
            self._lure(painter, middle, scale)
        elif isinstance(item, LineKind):
            painter.setPen(pen(theme.ink, max(item.diameter_m * 12_000, 1.5)))
            wave = QPainterPath(QPointF(box.left(), middle.y()))
            wave.cubicTo(middle.x() - 60, box.top(), middle.x() + 60, box.bottom(), box.right(), middle.y())
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(wave)
        elif isinstance(item, Weight):
            radius = 0.5 * long_m * scale
            painter.drawEllipse(middle, 0.8 * radius, radius * 0.6)
        else:
            painter.drawRoundedRect(
                QRectF(box.left() + 0.1 * box.width(), middle.y() - 18, 0.8 * box.width(), 36), 12, 12
            )
        if not isinstance(item, LineKind):
            self._scale_bar(painter, box, scale)

    def _length(self, item: Item) -> float:
        packet = self._packet
        if isinstance(item, Weight):
            return 2.2 * (3 * item.mass_kg / (4 * math.pi * item.density)) ** (1 / 3)
        if packet is None:
            return 0.25
        head = self._head_m()
        if packet.trailer is not Trailer.NONE:
            return head + (packet.trailer_m if math.isfinite(packet.trailer_m) else 0.09)
        if math.isfinite(packet.length_m):
            return packet.length_m
        if packet.form in (Form.BALL_JIG, Form.FOOTBALL, Form.STAND_UP, Form.SWIM_HEAD, Form.BULLET):
            return 3.2 * head
        return _LONG_CM / 100

    def _head_m(self) -> float:
        mass = self._packet.mass_kg if self._packet is not None and math.isfinite(self._packet.mass_kg) else 0.005
        return float(2 * (3 * mass / (4 * math.pi * 10_500.0)) ** (1 / 3))

    def _lure(self, painter: QPainter, middle: QPointF, scale: float) -> None:
        packet = self._packet
        if packet is None:
            painter.drawEllipse(middle, 40, 14)
            return
        long = scale * self._length_of(packet)
        left = middle.x() - long / 2
        if packet.form in (Form.BALL_JIG, Form.FOOTBALL, Form.STAND_UP, Form.SWIM_HEAD, Form.BULLET, Form.TUBE):
            self._jig(painter, left, middle.y(), long, scale)
        elif packet.form in (Form.SPOON, Form.SLAB, Form.BLADE, Form.RATTLE):
            high = {Form.SPOON: 0.2, Form.SLAB: 0.1, Form.BLADE: 0.24, Form.RATTLE: 0.2}[packet.form] * long
            painter.drawEllipse(middle, long / 2, high)
            if packet.form is Form.BLADE:
                painter.setBrush(QColor(self._session.display.theme.ground))
                for x in (-0.1, 0.0, 0.1):
                    painter.drawEllipse(QPointF(middle.x() + x * long, middle.y() - 0.6 * high), 2.5, 2.5)
            self._hook(painter, QPointF(left + long, middle.y()), 0.16 * long)
        elif packet.form is Form.PLUG:
            self._plug(painter, left, middle.y(), long)
        elif packet.form in (Form.SPINNER, Form.TAIL_SPINNER):
            painter.drawLine(QPointF(left, middle.y()), QPointF(left + long, middle.y()))
            painter.drawEllipse(QPointF(left + 0.3 * long, middle.y()), 0.22 * long, 0.12 * long)
            painter.drawEllipse(QPointF(left + 0.68 * long, middle.y()), 0.14 * long, 0.05 * long)
            self._hook(painter, QPointF(left + long, middle.y()), 0.14 * long)
        else:
            self._fish(painter, left, middle.y(), long, slim=packet.form in (Form.WORM, Form.STICK_WORM))
            self._hook(painter, QPointF(left + 0.62 * long, middle.y()), 0.14 * long)

    def _length_of(self, packet: Packet) -> float:
        item = self._item
        assert item is not None
        return self._length(item)

    def _jig(self, painter: QPainter, left: float, y: float, long: float, scale: float) -> None:
        packet = self._packet
        assert packet is not None
        head = self._head_m() * scale
        theme = self._session.display.theme
        if packet.trailer is not Trailer.NONE or packet.form is Form.TUBE:
            painter.save()
            painter.setBrush(shade(theme.lichen, 140))
            self._tail(painter, left + 0.7 * head, y, long - 0.7 * head, packet.trailer)
            painter.restore()
        self._hook(painter, QPointF(left + head * 0.8 + min(0.35 * long, 2.2 * head), y), max(0.7 * head, 8.0))
        wide = 1.5 if packet.form is Form.FOOTBALL else 1.0
        if packet.form is Form.BULLET:
            nose = QPolygonF(
                [QPointF(left, y), QPointF(left + 1.3 * head, y - head / 2), QPointF(left + 1.3 * head, y + head / 2)]
            )
            painter.drawPolygon(nose)
        else:
            painter.drawEllipse(QPointF(left + head / 2, y), head / 2, wide * head / 2)

    def _tail(self, painter: QPainter, x: float, y: float, long: float, trailer: Trailer) -> None:
        thick = 0.09 * long
        path = QPainterPath(QPointF(x, y - thick))
        path.cubicTo(
            x + 0.5 * long, y - 1.2 * thick, x + 0.7 * long, y - 0.5 * thick, x + 0.86 * long, y - 0.25 * thick
        )
        if trailer is Trailer.CURLY:
            path.cubicTo(x + long, y - 3 * thick, x + 1.04 * long, y + 2 * thick, x + 0.9 * long, y + 2 * thick)
        elif trailer is Trailer.STRAIGHT:
            path.lineTo(x + long, y)
        else:
            path.lineTo(x + 0.93 * long, y - 1.6 * thick)
            path.lineTo(x + long, y + 1.2 * thick)
        path.lineTo(x + 0.86 * long, y + 0.25 * thick)
        path.cubicTo(x + 0.7 * long, y + 0.5 * thick, x + 0.5 * long, y + 1.2 * thick, x, y + thick)
        path.closeSubpath()
        painter.drawPath(path)
        if trailer in (Trailer.CREATURE, Trailer.SKIRT):
            for k in (-1, 1):
                painter.drawLine(QPointF(x + 0.2 * long, y), QPointF(x + 0.65 * long, y + 2.6 * k * thick))

    def _plug(self, painter: QPainter, left: float, y: float, long: float) -> None:
        packet = self._packet
        assert packet is not None
        high = {"fat": 0.17, "slender": 0.08, "": 0.12}[packet.body] * long
        lip = min(0.08 + 0.02 * (packet.printed_m if math.isfinite(packet.printed_m) else 2.0), 0.2)
        painter.drawPolygon(
            QPolygonF(
                [
                    QPointF(left + 0.14 * long, y + 0.3 * high),
                    QPointF(left + (0.1 - lip) * long, y + high + 0.4 * lip * long),
                    QPointF(left + 0.2 * long, y + 0.8 * high),
                ]
            )
        )
        painter.drawEllipse(QPointF(left + 0.55 * long, y), 0.45 * long, high)
        for x in (0.5, 0.97):
            self._hook(painter, QPointF(left + x * long, y + (high if x < 0.9 else 0)), 0.1 * long)

    def _fish(self, painter: QPainter, left: float, y: float, long: float, *, slim: bool) -> None:
        high = (0.035 if slim else 0.11) * long
        painter.drawEllipse(QPointF(left + 0.45 * long, y), 0.45 * long, high)
        if not slim:
            tail = [QPointF(left + 0.86 * long, y), QPointF(left + long, y - high), QPointF(left + long, y + high)]
            painter.drawPolygon(QPolygonF(tail))

    def _hook(self, painter: QPainter, at: QPointF, size: float) -> None:
        painter.save()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        path = QPainterPath(at)
        path.lineTo(at.x() + 0.6 * size, at.y())
        path.arcTo(QRectF(at.x() + 0.1 * size, at.y() - size, size, size), -90, 200)
        painter.drawPath(path)
        painter.restore()

    def _scale_bar(self, painter: QPainter, box: QRectF, scale: float) -> None:
        display = self._session.display
        theme = display.theme
        step = round_steps(0.5 * box.width() / scale, Kind.FISH, display.system_of(Kind.FISH), 1)
        wide = step * scale
        if wide > box.width():
            step, wide = step / 2, wide / 2
        y = self.height() - 14.0
        painter.setPen(pen(theme.ink, 1.4))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.left() + wide, y))
        for x in (box.left(), box.left() + wide):
            painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.setFont(font(display.text_size * 0.8))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(box.left() + wide + 8, y + 4), display.words(step, Kind.FISH))

    # -- its fall -----------------------------------------------------------------------------------------------

    def _ladder(self, painter: QPainter, box: QRectF, lure: Lure) -> None:
        """Depth downward, a bead every two seconds on slack line of the rod in hand."""
        display, theme = self._session.display, self._session.display.theme
        line, rho = self._session.rig.settings.line, self._session.rig.settings.rho
        falling = lure.falling(line, rho)
        painter.fillRect(box, shade(theme.teal, 40))
        painter.setPen(pen(theme.teal, 1.5))
        painter.drawLine(box.topLeft(), box.topRight())
        painter.setFont(font(display.text_size * 0.8))
        per = box.height() / _LADDER_M
        painter.setPen(QColor(theme.muted_text))
        for depth, words in depth_ticks(0.0, _LADDER_M, display.system_of(Kind.DEPTH), 4)[1:]:
            painter.drawText(
                QRectF(box.left() - 34, box.top() + depth * per - 8, 28, 16), Qt.AlignmentFlag.AlignRight, words
            )
        x = box.left() + 0.35 * box.width()
        last = -math.inf
        for k in range(1, _MOST_BEADS + 1):
            seconds = k * _STEP_S
            depth = depth_after(falling, seconds, rho=rho)
            if depth > _LADDER_M:
                break
            at = QPointF(x, box.top() + depth * per)
            painter.setPen(pen(theme.ink, 1.2))
            painter.setBrush(shade(theme.brass))
            painter.drawEllipse(at, 3.5, 3.5)
            if at.y() - last > 1.1 * display.text_size:
                painter.setPen(QColor(theme.ink))
                painter.drawText(QPointF(at.x() + 9, at.y() + 4), f"{seconds:.0f} s")
                last = at.y()
