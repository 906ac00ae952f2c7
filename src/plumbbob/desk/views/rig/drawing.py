"""Pieces that the pictures of rods share: a rod's number, its lure, the boat, the bottom, the bar of scale."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPolygonF

from plumbbob.core.units import Kind, unit_of
from plumbbob.desk.kit.paint import font, pen, round_steps, shade
from plumbbob.desk.models.display import Display
from plumbbob.desk.theme import Theme


@dataclass(frozen=True, slots=True)
class Ink:
    """What a small picture of text is drawn with: it is made once for each."""

    theme: Theme
    size: float  # of plain text, points
    sharp: float  # pixels to a point of the screen

    @staticmethod
    def of(display: Display, painter: QPainter) -> Ink:
        """For what is painted on."""
        return Ink(display.theme, display.text_size, painter.device().devicePixelRatioF())

    def blank(self, wide: float, high: float) -> QImage:
        """A see-through picture."""
        size = (math.ceil(wide * self.sharp), math.ceil(high * self.sharp))
        image = QImage(*size, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(self.sharp)
        image.fill(Qt.GlobalColor.transparent)
        return image


def number_bead(
    painter: QPainter, at: QPointF, number: int, display: Display, *, chosen: bool, radius: float = 9.0
) -> None:
    """A rod's number in a small round."""
    image = _bead(Ink.of(display, painter), number, chosen, radius)
    painter.drawImage(QPointF(at.x() - radius - 1, at.y() - radius - 1), image)


# drawn once each: a spread under the hand asks for dozens a frame, and most of them have not changed
@lru_cache(128)
def _bead(ink: Ink, number: int, chosen: bool, radius: float) -> QImage:
    theme, side = ink.theme, 2 * radius + 2
    image = ink.blank(side, side)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(pen(theme.brass if chosen else theme.muted, 1.4))
    painter.setBrush(QColor(theme.fill if chosen else theme.raised))
    painter.drawEllipse(QPointF(radius + 1, radius + 1), radius, radius)
    painter.setFont(font(min(ink.size * 0.85, radius * 0.95), bold=True))  # two figures at most
    painter.setPen(QColor(theme.on_fill if chosen else theme.ink))
    painter.drawText(QRectF(0, 0, side, side), Qt.AlignmentFlag.AlignCenter, str(number))
    painter.end()
    return image


@lru_cache(256)
def rod_tag(ink: Ink, number: int, head: str, more: str, chosen: bool, reached: bool) -> QImage:
    """Beside a lure: the rod's number, where the lure runs, what is out."""
    theme = ink.theme
    large, small = font(ink.size * 1.1, bold=True), font(ink.size * 0.88)
    a, b = QFontMetricsF(large), QFontMetricsF(small)
    wide = max(a.horizontalAdvance(head), b.horizontalAdvance(more)) + 40
    high = a.height() + b.height() + 8
    image = ink.blank(wide, high)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(pen(theme.brass if chosen else theme.rule, 1.2))
    painter.setBrush(shade(theme.raised, 232))
    painter.drawRoundedRect(QRectF(0.7, 0.7, wide - 1.4, high - 1.4), 4, 4)
    painter.drawImage(QPointF(15 - 9.5, 14 - 9.5), _bead(ink, number, chosen, 8.5))
    painter.setFont(large)
    painter.setPen(QColor(theme.ink if reached else theme.vermilion_text))
    painter.drawText(QPointF(30, 4 + a.ascent()), head)
    painter.setFont(small)
    painter.setPen(QColor(theme.muted_text))
    painter.drawText(QPointF(30, high - 4 - b.descent()), more)
    painter.end()
    return image


@lru_cache(256)
def rod_card(
    ink: Ink, size: tuple[int, int], number: int, title: str, depth: str, words: str, chosen: bool, reached: bool
) -> QImage:
    """In the list of rods: number, way, the depth asked for, what is out."""
    theme, (width, height) = ink.theme, size
    image = ink.blank(width, height)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(pen(theme.brass if chosen else theme.rule, 1.4))
    painter.setBrush(shade(theme.raised, 255 if chosen else 140))
    painter.drawRoundedRect(QRectF(0.7, 1, width - 1.4, height - 5), 5, 5)
    painter.drawImage(QPointF(6, 0.31 * height - 10), _bead(ink, number, chosen, 9.0))
    strong, small = font(ink.size * 0.95, bold=True), font(ink.size * 0.82)
    metrics, elide = QFontMetricsF(strong), Qt.TextElideMode.ElideRight
    wide = metrics.horizontalAdvance(depth)
    painter.setFont(strong)
    painter.setPen(QColor(theme.brass_text if reached else theme.vermilion_text))
    painter.drawText(QPointF(width - wide - 9, 0.4 * height), depth)
    painter.setPen(QColor(theme.ink))
    painter.drawText(QPointF(31, 0.4 * height), metrics.elidedText(title, elide, width - wide - 44))
    painter.setFont(small)
    painter.setPen(QColor(theme.muted_text if reached else theme.vermilion_text))
    painter.drawText(QPointF(31, 0.74 * height), QFontMetricsF(small).elidedText(words, elide, width - 40))
    painter.end()
    return image


def lure_mark(painter: QPainter, at: QPointF, theme: Theme, *, reached: bool) -> None:
    """A lure: a slim lozenge."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.brass if reached else theme.vermilion))
    x, y = at.x(), at.y()
    painter.drawPolygon(QPolygonF([QPointF(x - 8, y), QPointF(x, y - 4), QPointF(x + 8, y), QPointF(x, y + 4)]))


def hull(painter: QPainter, stern: QPointF, length: float, theme: Theme) -> None:
    """The boat from the side, its stern at a point of the surface, bow to the right."""
    x, y = stern.x(), stern.y()
    shape = ((x, y - 0.14 * length), (x + length, y - 0.18 * length), (x + 0.78 * length, y + 4), (x + 3, y + 4))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.ink))
    painter.drawPolygon(QPolygonF([QPointF(*p) for p in shape]))


def ice_sheet(painter: QPainter, hole_x: float, wide: float, surface_y: float, theme: Theme) -> None:
    """Ice from the side with a hole where the line goes down."""
    for left, right in ((0.0, hole_x - 7), (hole_x + 7, wide)):
        painter.fillRect(QRectF(left, surface_y - 7, right - left, 11), QColor(theme.raised))
        painter.setPen(pen(theme.muted, 1.0))
        painter.drawRect(QRectF(left, surface_y - 7, right - left, 11))


def bottom_shape(
    painter: QPainter, x: NDArray[np.float64], y: NDArray[np.float64], foot: float, theme: Theme
) -> None:
    """The bottom as a body of ground under its line, in pieces where it is not known; pixels."""
    known = np.flatnonzero(np.isfinite(y))
    if not known.size:
        return
    for run in np.split(known, np.flatnonzero(np.diff(known) > 1) + 1):
        line = [QPointF(float(x[i]), float(y[i])) for i in run]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.land))
        painter.drawPolygon(QPolygonF([*line, QPointF(line[-1].x(), foot), QPointF(line[0].x(), foot)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawPolyline(QPolygonF(line))


def scale_bar(painter: QPainter, at: QPointF, px_per_m: float, display: Display, words: str = "") -> None:
    """A round length in the unit on screen."""
    theme = display.theme
    step = round_steps(180.0 / px_per_m, Kind.LENGTH, display.system_of(Kind.LENGTH), 1)
    while step * px_per_m > 260:
        step /= 2
    painter.setPen(pen(theme.muted, 1.6))
    painter.drawLine(at, QPointF(at.x() + step * px_per_m, at.y()))
    painter.setFont(font(display.text_size * 0.85))
    painter.setPen(QColor(theme.muted_text))
    unit = unit_of(Kind.LENGTH, display.system_of(Kind.LENGTH))
    painter.drawText(
        QPointF(at.x(), at.y() - 6),
        f"{display.shown(step, Kind.LENGTH):.3g} {unit.symbol}{words}",
    )


def water(painter: QPainter, area: QRectF, theme: Theme) -> None:
    """Water under the surface, and the surface."""
    painter.fillRect(area, shade(theme.teal, 34))
    painter.setPen(pen(theme.teal, 1.4))
    painter.drawLine(area.topLeft(), area.topRight())
