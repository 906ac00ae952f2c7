"""Small things that several pictures draw the same way."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QImage, QPainter, QPainterPath, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from plumbbob.core.units import Kind, System, to_shown, to_si, unit_of

_WIDEST_CHARS = 44


# made once each: a picture asks for the same few a thousand times a frame; nobody changes what these return
@lru_cache(256)
def font(size: float, *, bold: bool = False) -> QFont:
    """The program's font at a point size."""
    made = QFont("B612")
    made.setPointSizeF(size)
    made.setBold(bold)
    return made


@lru_cache(512)
def pen(colour: str, width: float = 1.0, *, alpha: int = 255, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    """A pen of one of the theme's colours."""
    made = QPen(shade(colour, alpha), width, style)
    made.setCapStyle(Qt.PenCapStyle.FlatCap)
    return made


@lru_cache(512)
def shade(colour: str, alpha: int = 255) -> QColor:
    """A colour of the theme, see-through if asked."""
    made = QColor(colour)
    made.setAlpha(alpha)
    return made


def indexed_image(pixels: NDArray[np.uint8], colours: list[int]) -> QImage:
    """A picture of colour indices, shape (rows, columns), in a table of 256 colours; owns its pixels."""
    height, width = pixels.shape
    stride = -(-width // 4) * 4  # Qt wants rows of whole words
    if stride != width:
        pixels = np.pad(pixels, ((0, 0), (0, stride - width)))
    image = QImage(pixels.tobytes(), width, height, stride, QImage.Format.Format_Indexed8)
    image.setColorTable(colours)
    return image.convertToFormat(QImage.Format.Format_RGB32)


def sharp_image(widget: QWidget, ground: QColor) -> QImage:
    """An empty image of a widget's size, with as many pixels as its screen has."""
    sharp = widget.devicePixelRatioF()
    size = QSize(math.ceil(widget.width() * sharp), math.ceil(widget.height() * sharp))
    image = QImage(size, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(sharp)
    image.fill(ground)
    return image


def round_steps(span_si: float, kind: Kind, system: System, most: int) -> float:
    """A round step in SI that cuts a span into at most so many parts, round in the unit on screen."""
    factor = unit_of(kind, system).factor
    shown = max(span_si * factor, 1e-9) / max(most, 1)
    size = 10 ** math.floor(math.log10(shown))
    step = next(m * size for m in (1, 2, 5, 10) if m * size >= shown * 0.999)
    return float(step / factor)


def depth_ticks(top_m: float, base_m: float, system: System, most: int) -> list[tuple[float, str]]:
    """Depths to label between two depths, each with its figure in the unit on screen."""
    step = round_steps(base_m - top_m, Kind.DEPTH, system, most)
    per = to_shown(step, Kind.DEPTH, system)
    first = math.ceil(top_m / step - 1e-9)
    out = []
    k = first
    while k * step <= base_m + 1e-9:
        out.append((to_si(k * per, Kind.DEPTH, system), f"{k * per:.10g}"))
        k += 1
    return out


def bead(painter: QPainter, at: QPointF, radius: float, colour: str, *, kind: str = "fish") -> None:
    """The bead of a mark: filled for fish, ring for bait, square for structure, triangle for a hazard."""
    painter.setPen(pen(colour, 1.6))
    painter.setBrush(shade(colour) if kind != "bait" else Qt.BrushStyle.NoBrush)
    if kind == "structure":
        painter.drawRect(QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius))
    elif kind == "hazard":
        r = radius * 1.25
        corners = [QPointF(at.x(), at.y() - r), QPointF(at.x() - r, at.y() + r), QPointF(at.x() + r, at.y() + r)]
        painter.drawPolygon(QPolygonF(corners))
    elif kind == "place":
        painter.drawLine(QPointF(at.x() - radius, at.y()), QPointF(at.x() + radius, at.y()))
        painter.drawLine(QPointF(at.x(), at.y() - radius), QPointF(at.x(), at.y() + radius))
    else:
        painter.drawEllipse(at, radius, radius)


def tag(painter: QPainter, at: QPointF, text: str, ink: str, ground: str) -> None:
    """A word on its own small ground, readable over speckle; `at` is where its base line begins."""
    metrics = QFontMetricsF(painter.font())
    box = QRectF(at.x() - 3, at.y() - metrics.ascent() - 1, metrics.horizontalAdvance(text) + 6, metrics.height() + 2)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(shade(ground, 205))
    painter.drawRoundedRect(box, 3, 3)
    painter.setPen(QColor(ink))
    painter.drawText(at, text)


def bob_path(tip: QPointF, size: float) -> QPainterPath:
    """A plumb bob whose tip points at a depth."""
    path = QPainterPath(QPointF(tip.x() - size * 0.62, tip.y() - size * 1.55))
    path.lineTo(tip.x() + size * 0.62, tip.y() - size * 1.55)
    path.lineTo(tip.x() + size * 0.62, tip.y() - size * 0.95)
    path.lineTo(tip)
    path.lineTo(tip.x() - size * 0.62, tip.y() - size * 0.95)
    path.closeSubpath()
    return path


def _room(metrics: QFontMetricsF, most: float) -> float:
    """How wide lines in a box may be: a box that is all width hides what it speaks of."""
    return min(most, _WIDEST_CHARS * metrics.averageCharWidth())


def wrapped(text: str, metrics: QFontMetricsF, width: float) -> list[str]:
    """A text in lines that are no wider than there is room for."""
    out = [""]
    for word in text.split(" "):
        longer = f"{out[-1]} {word}" if out[-1] else word
        if out[-1] and metrics.horizontalAdvance(longer) > width:
            out.append(word)
        else:
            out[-1] = longer
    return out


def text_box(
    painter: QPainter,
    lines: list[tuple[str, QFont, str]],
    at: QPointF,
    bounds: QRectF,
    ground: str,
    edge: str,
) -> QRectF:
    """Lines of text in a small box beside a point, kept inside bounds; returns the box."""
    pad = 8.0
    lines = [
        (part, face, colour)
        for text, face, colour in lines
        for part in wrapped(text, QFontMetricsF(face), _room(QFontMetricsF(face), bounds.width() - 2 * pad - 4))
    ]
    metrics = [QFontMetricsF(f) for _, f, _ in lines]
    width = max(m.horizontalAdvance(t) for m, (t, _, _) in zip(metrics, lines, strict=True)) + 2 * pad
    height = sum(m.height() for m in metrics) + 2 * pad - 2
    x = at.x() + 14 if at.x() + 14 + width <= bounds.right() else at.x() - 14 - width
    y = min(max(at.y() + 10, bounds.top() + 4), bounds.bottom() - height - 4)
    box = QRectF(max(x, bounds.left() + 2), y, width, height)
    painter.setPen(pen(edge))
    painter.setBrush(shade(ground, 238))
    painter.drawRoundedRect(box, 4, 4)
    y = box.top() + pad - 1
    for metric, (text, face, colour) in zip(metrics, lines, strict=True):
        painter.setFont(face)
        painter.setPen(QColor(colour))
        painter.drawText(QPointF(box.left() + pad, y + metric.ascent()), text)
        y += metric.height()
    return box
