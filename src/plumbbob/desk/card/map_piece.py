"""A piece of the chart on paper: contours, shore, hazards, ways, stays by number; turned where that fits better."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPen, QPolygonF

from plumbbob.core.geodesy import Position, metres_per_degree
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.card.paper import Pen, face, plain_name
from plumbbob.desk.kit.paint import round_steps

_PAD, _FOOT = 100.0, 130.0
_BEAD = 78.0


@dataclass(frozen=True, slots=True, eq=False)
class MapFrame:
    """From places to paper: about a middle, to one scale, north up or to the left."""

    box: QRectF
    origin: Position
    turned: bool
    middle: Floats  # (2,) of what is shown, metres on the paper's axes
    scale: float

    def flat(self, latlon: Floats) -> Floats:
        """Metres on the paper's axes, shape (n, 2)."""
        return _flat(self.origin, latlon, self.turned)

    def line(self, latlon: Floats) -> QPolygonF:
        """A line of places on paper."""
        centre = self.box.center()
        xy = (self.flat(latlon) - self.middle) * self.scale
        return QPolygonF([QPointF(centre.x() + a, centre.y() - b) for a, b in xy.tolist()])

    def spot(self, place: Position) -> QPointF:
        """One place."""
        return self.line(np.array([(place.latitude, place.longitude)])).first()


def _flat(origin: Position, latlon: Floats, turned: bool) -> Floats:
    north, east = metres_per_degree(origin.latitude)
    x, y = (latlon[:, 1] - origin.longitude) * east, (latlon[:, 0] - origin.latitude) * north
    return np.stack([-y, x] if turned else [x, y], axis=1)


def frame_for(box: QRectF, show: Sequence[Position], more: Sequence[Floats], radius_m: float) -> MapFrame:
    """
    A frame that shows places, and lines with them.

    Parameters
    ----------
    radius_m : float
        About the places; 0: as much as there is, turned by a quarter where the water lies across the paper.
    """
    origin = show[0]
    latlon = np.concatenate([np.array([(p.latitude, p.longitude) for p in show]), *more])
    points = _flat(origin, latlon, False)
    size = np.ptp(points, axis=0)
    turned = bool(not radius_m and (size[1] > size[0]) != (box.height() > box.width()))
    points = _flat(origin, latlon, turned)
    low, high = points.min(axis=0) - radius_m, points.max(axis=0) + radius_m
    room = np.array([box.width() - 2 * _PAD, box.height() - 2 * _PAD])
    scale = float((room / np.maximum(high - low, 1.0)).min())
    return MapFrame(box, origin, turned, (low + high) / 2, scale)


def paint_map(pen: Pen, box: QRectF, show: Sequence[Position], *, radius_m: float = 0.0) -> None:
    """The piece in its box."""
    painter, inks, card = pen.painter, pen.inks, pen.card
    painter.setPen(QPen(QColor(inks.soft), 6))
    painter.setBrush(QColor("white"))
    painter.drawRect(box)
    if not show:
        return
    # the scale stands under what is shown
    frame = frame_for(box.adjusted(0, 0, 0, -_FOOT), show, () if radius_m else card.shore, radius_m)
    painter.save()
    painter.setClipRect(box)
    for ring in card.shore:
        painter.setBrush(QColor(inks.fill))
        painter.setPen(QPen(QColor(inks.ink), 12))
        painter.drawPolygon(frame.line(ring))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    lines = [(depth, frame.line(line)) for depth, line in card.contours]
    painter.setPen(QPen(QColor(inks.water), 5))
    for _, line in lines:
        painter.drawPolyline(line)
    if radius_m:
        taken = [QRectF(frame.spot(p).x() - 100, frame.spot(p).y() - 100, 200, 200) for p in show]
        for depth, line in lines:
            _contour_figure(pen, line, depth, box.adjusted(30, 30, -190, -170), taken)
    for hazard in card.hazards:
        at = frame.spot(hazard)
        painter.setPen(QPen(QColor(inks.warn), 12))
        painter.drawPolygon(QPolygonF([at + QPointF(0, -50), at + QPointF(-45, 35), at + QPointF(45, 35)]))
    _ways(pen, frame)
    _stays(pen, frame)
    painter.restore()
    _scale_and_north(pen, frame, box)


def _places(way: Sequence[Position]) -> Floats:
    return np.array([(p.latitude, p.longitude) for p in way], np.float64).reshape(-1, 2)


def _ways(pen: Pen, frame: MapFrame) -> None:
    painter = pen.painter
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(pen.inks.strong), 14))
    for stay in pen.card.stays:
        painter.drawPolyline(frame.line(_places(stay.way)))
    if len(pen.card.way_home) > 1:
        painter.setPen(QPen(QColor(pen.inks.strong), 12, Qt.PenStyle.DashLine))
        painter.drawPolyline(frame.line(_places(pen.card.way_home)))


def _stays(pen: Pen, frame: MapFrame) -> None:
    painter, stays = pen.painter, pen.card.stays
    if not stays:
        return
    at = frame.spot(stays[0].way[0])
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(pen.inks.ink))
    painter.drawPolygon(QPolygonF([at + QPointF(0, -60), at + QPointF(-50, 40), at + QPointF(50, 40)]))
    for name, stay in {plain_name(s.name): s for s in reversed(stays)}.items():
        at = frame.spot(stay.place)
        painter.setPen(QPen(QColor(pen.inks.strong), 12))
        painter.setBrush(QColor("white"))
        painter.drawEllipse(at, _BEAD, _BEAD)
        pen.centred(at.x(), at.y(), pen.number(name), bold=True)


def _contour_figure(pen: Pen, line: QPolygonF, depth: float, box: QRectF, taken: list[QRectF]) -> None:
    """The depth of a line, once, where nothing else stands."""
    text = pen.say(depth, Kind.DEPTH, 0).split()[0]
    metrics = QFontMetricsF(face())
    wide, high = metrics.horizontalAdvance(text) + 20, metrics.height() * 0.9
    for k in range(0, line.size(), 3):
        spot = QRectF(line.at(k).x() - wide / 2, line.at(k).y() - high / 2, wide, high)
        if box.contains(spot) and not any(spot.intersects(t) for t in taken):
            taken.append(spot.adjusted(-40, -40, 40, 40))
            pen.painter.fillRect(spot, QColor(pen.inks.fill))
            pen.write(spot.left() + 10, spot.center().y() - metrics.height() / 2, text, ink=pen.inks.water)
            return


def _scale_and_north(pen: Pen, frame: MapFrame, box: QRectF) -> None:
    """A round distance to scale, and which way north is."""
    painter = pen.painter
    length = round_steps(box.width() * 0.25 / frame.scale, Kind.DISTANCE, pen.card.units, 1)
    if length * frame.scale > box.width() * 0.45:
        length /= 2
    x, y = box.left() + 60, box.bottom() - 60
    words = pen.say(length, Kind.DISTANCE)
    wide = length * frame.scale
    ground = QRectF(x - 30, y - 100, wide + QFontMetricsF(face()).horizontalAdvance(words) + 110, 140)
    painter.fillRect(ground, QColor("white"))
    painter.setPen(QPen(QColor(pen.inks.ink), 14))
    painter.drawLine(QPointF(x, y), QPointF(x + wide, y))
    pen.write(x + wide + 40, y - 90, words)
    at = QPointF(box.right() - 100, box.top() + 110)
    painter.fillRect(QRectF(at.x() - 80, at.y() - 90, 160, 280), QColor("white"))
    way = QPointF(-1.0, 0.0) if frame.turned else QPointF(0.0, -1.0)
    side = QPointF(way.y(), way.x())
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(pen.inks.ink))
    painter.drawPolygon(QPolygonF([at + way * 65, at - way * 50 + side * 42, at - way * 50 - side * 42]))
    pen.centred(at.x(), at.y() + 115, "N", bold=True)
