"""Figures on the chart: along its rim scale bar, north, wind, latitude and longitude; depths along contours."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPolygonF

from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, round_steps, shade, tag
from plumbbob.desk.models.chart_model import Shown
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session


class Placed(Protocol):
    """A picture that knows which pixel is which place."""

    def width(self) -> int:
        """Pixels across."""

    def height(self) -> int:
        """Pixels down."""

    def at(self, x: float, y: float) -> QPointF:
        """Pixel of a place on the plane."""

    def place_at(self, at: QPointF) -> tuple[float, float]:
        """Place on the plane of a pixel."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Graticule:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed

    def paint(self, painter: QPainter) -> None:
        """Scale bar, north, graticule ticks in degrees and minutes."""
        session = self.session
        display, v = session.display, session.chart.view
        theme = display.theme
        step = round_steps(150.0 * v.m_per_px, Kind.DISTANCE, display.system_of(Kind.DISTANCE), 1)
        step = step if step / v.m_per_px <= 190 else step / 2
        x, y = 16.0, self.picture.height() - 16.0
        text = f"{display.shown(step, Kind.DISTANCE):,.10g} {display.unit(Kind.DISTANCE)}"
        painter.setFont(font(display.text_size * 0.85))
        wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
        long = step / v.m_per_px
        painter.fillRect(QRectF(x - 8, y - 16, long + wide + 26, 24), shade(theme.panel, 240))
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawLine(QPointF(x, y), QPointF(x + long, y))
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + 4))
        painter.drawLine(QPointF(x + long, y - 4), QPointF(x + long, y + 4))
        painter.setPen(QColor(theme.ink))
        painter.drawText(QPointF(x + long + 8, y + 4), text)
        north = QPointF(self.picture.width() - 22.0, 34.0)
        painter.setBrush(QColor(theme.ink))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([north + QPointF(0, -14), north + QPointF(5, 6), north + QPointF(-5, 6)]))
        painter.setPen(QColor(theme.ink))
        painter.setFont(font(display.text_size * 0.85, bold=True))
        painter.drawText(north + QPointF(-4, 20), "N")
        self._paint_wind(painter)
        self._paint_graticule(painter)
        if session.chart.shown is not Shown.DEPTH:
            words = (
                "slope: level to 25°"
                if session.chart.shown is Shown.SLOPE
                else f"spread of the depth: 0 to {display.words(1.0, Kind.DEPTH)}"
            )
            painter.setFont(font(display.text_size * 0.9, bold=True))
            box = QRectF(10, 8, QFontMetricsF(painter.font()).horizontalAdvance(words) + 16, 22)
            painter.fillRect(box, shade(theme.panel, 215))
            painter.setPen(QColor(theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_wind(self, painter: QPainter) -> None:
        """An arrow that flies with the wind, and its speed."""
        display = self.session.display
        wind_mps, from_deg = self.session.view.wind
        if wind_mps < 0.5:
            return
        painter.save()
        painter.translate(self.picture.width() - 22.0, 92.0)
        painter.rotate(from_deg + 180.0)
        painter.setPen(pen(display.theme.teal, 2.2))
        painter.drawLine(QPointF(0, 14), QPointF(0, -12))
        painter.drawPolyline(QPolygonF([QPointF(-5, -5), QPointF(0, -12), QPointF(5, -5)]))
        painter.restore()
        text = display.words(wind_mps, Kind.SPEED, 0)
        painter.setFont(font(display.text_size * 0.8))
        painter.setPen(QColor(display.theme.teal_text))
        wide = QFontMetricsF(painter.font()).horizontalAdvance(text)
        painter.drawText(QPointF(self.picture.width() - 8.0 - wide, 124.0), text)

    def _paint_graticule(self, painter: QPainter) -> None:
        chart, display = self.session.chart.chart, self.session.display
        if chart is None:
            return
        theme = display.theme
        corners = [
            self.picture.place_at(QPointF(0, self.picture.height())),
            self.picture.place_at(QPointF(self.picture.width(), 0)),
        ]
        (south, west), (north, east) = ([float(v) for v in chart.plane.to_latlon(*c)] for c in corners)
        painter.setFont(font(display.text_size * 0.74))
        metrics = QFontMetricsF(painter.font())
        per = _round_minutes((north - south) * 60.0 / 4)
        for k in range(math.ceil(south * 60 / per), math.floor(north * 60 / per) + 1):
            x, y = chart.plane.to_xy(k * per / 60.0, west)
            at = self.picture.at(float(x), float(y))
            painter.setPen(pen(theme.ink, 1.0, alpha=170))
            painter.drawLine(QPointF(0, at.y()), QPointF(6, at.y()))
            if 50 < at.y() < self.picture.height() - 40:
                tag(painter, QPointF(10, at.y() + 4), _minutes(k * per, "NS", per), theme.muted_text, theme.ground)
        per = _round_minutes((east - west) * 60.0 / 4)
        for k in range(math.ceil(west * 60 / per), math.floor(east * 60 / per) + 1):
            x, y = chart.plane.to_xy(north, k * per / 60.0)
            at = self.picture.at(float(x), float(y))
            painter.setPen(pen(theme.ink, 1.0, alpha=170))
            painter.drawLine(QPointF(at.x(), 0), QPointF(at.x(), 6))
            text = _minutes(k * per, "EW", per)
            if 80 < at.x() < self.picture.width() - 90:
                left = at.x() - metrics.horizontalAdvance(text) / 2
                tag(painter, QPointF(left, 19), text, theme.muted_text, theme.ground)


def label_spots(picture: Placed, line: np.ndarray) -> list[tuple[QPointF, float]]:
    """Every few hundred pixels along a line, where it runs straight enough to carry a figure."""
    pixels = np.array([(p.x(), p.y()) for p in (picture.at(x, y) for x, y in line.tolist())])
    steps = np.hypot(*np.diff(pixels, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    out = []
    for target in np.arange(90.0, along[-1] - 40.0, 330.0):
        i = int(np.searchsorted(along, target))
        a, b = (
            int(np.searchsorted(along, target - 16)),
            min(int(np.searchsorted(along, target + 16)), len(along) - 1),
        )
        chord = float(np.hypot(*(pixels[b] - pixels[a])))
        x, y = pixels[min(i, len(pixels) - 1)]
        if not (20 < x < picture.width() - 20 and 14 < y < picture.height() - 14):
            continue
        if along[b] - along[a] > 1e-6 and chord / (along[b] - along[a]) > 0.95:
            turn = math.degrees(math.atan2(*(pixels[b] - pixels[a])[::-1]))
            turn = turn - 180.0 if turn > 90.0 else turn + 180.0 if turn < -90.0 else turn
            out.append((QPointF(float(x), float(y)), turn))
    return out


def paint_labels(painter: QPainter, display: Display, labels: list[tuple[QPointF, float, str]]) -> None:
    """Figures on contours, each turned along its line, none over another."""
    painter.setFont(font(display.text_size * 0.78))
    metrics = QFontMetricsF(painter.font())
    taken: list[QPointF] = []
    for at, turn, text in labels:
        if any(abs(at.x() - t.x()) < 38 and abs(at.y() - t.y()) < 26 for t in taken):
            continue
        taken.append(at)
        wide = metrics.horizontalAdvance(text)
        painter.save()
        painter.translate(at)
        painter.rotate(turn)
        painter.fillRect(QRectF(-wide / 2 - 3, -6, wide + 6, 12), shade(display.theme.ground, 190))
        painter.setPen(QColor(display.theme.muted_text))
        painter.drawText(QPointF(-wide / 2, metrics.ascent() / 2 - 1), text)
        painter.restore()


def _round_minutes(wanted: float) -> float:
    return next((m for m in (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0) if m >= wanted), 60.0)


def _minutes(total: float, letters: str, per: float) -> str:
    """Degrees and minutes with as many decimals as the step needs."""
    places = 0 if per >= 1 else 1 if per >= 0.1 else 2
    value = round(abs(total), 3)
    degrees, minutes = divmod(value, 60.0)
    return f"{int(degrees)}°{minutes:0{3 + places if places else 2}.{places}f}'{letters[total < 0]}"
