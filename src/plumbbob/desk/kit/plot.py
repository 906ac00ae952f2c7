"""The plotting kit: linear scales both ways, a framed plot of depths with its axes, and what lies under the mouse."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar, overload

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QFontMetricsF, QPainter

from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font, pen, round_steps
from plumbbob.desk.models.display import Display

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Axis:
    """A linear scale: values from first to last over pixels."""

    first: float
    last: float
    from_px: float
    to_px: float

    @overload
    def px(self, value: float) -> float: ...
    @overload
    def px(self, value: Floats) -> Floats: ...
    def px(self, value: float | Floats) -> float | Floats:
        """
        Pixel of a value, also outside.

        Examples
        --------
        >>> Axis(2.0, 4.0, 100.0, 300.0).px(3.0)
        200.0
        """
        return self.from_px + (value - self.first) / (self.last - self.first) * (self.to_px - self.from_px)

    def value(self, px: float) -> float:
        """
        Value of a pixel; the first where the axis has no length.

        Examples
        --------
        >>> Axis(2.0, 4.0, 100.0, 300.0).value(150.0)
        2.5
        """
        length = self.to_px - self.from_px
        return self.first if length == 0 else self.first + (px - self.from_px) / length * (self.last - self.first)


@dataclass(frozen=True, slots=True)
class DepthPlot:
    """Depths downwards against something across, in a frame."""

    area: QRectF
    length: float
    deepest: float

    @property
    def x(self) -> Axis:
        """Across: from 0 to the length."""
        return Axis(0.0, self.length, self.area.left(), self.area.right())

    @property
    def y(self) -> Axis:
        """Down: from the surface to the deepest."""
        return Axis(0.0, self.deepest, self.area.top(), self.area.bottom())

    def at(self, along: float, depth: float) -> QPointF:
        """Pixel of a place."""
        return QPointF(self.x.px(along), self.y.px(depth))


def paint_depths(painter: QPainter, plot: DepthPlot, display: Display, *, ticks: bool = False) -> None:
    """Depths to the left of a plot, in the reader's units."""
    painter.setFont(font(display.text_size * 0.78))
    metrics = QFontMetricsF(painter.font())
    area = plot.area
    for depth, text in depth_ticks(
        0.0, plot.deepest, display.system_of(Kind.DEPTH), max(int(area.height() // 26), 2)
    ):
        y = plot.y.px(depth)
        if ticks:
            painter.setPen(pen(display.theme.rule, 1.0))
            painter.drawLine(QPointF(area.left() - 4, y), QPointF(area.left(), y))
        painter.setPen(QColor(display.theme.muted_text))
        painter.drawText(QPointF(area.left() - 8 - metrics.horizontalAdvance(text), y + 4), text)


def paint_distances(painter: QPainter, plot: DepthPlot, display: Display, base_px: float) -> None:
    """Distances under a plot, the unit at the first."""
    painter.setFont(font(display.text_size * 0.78))
    metrics = QFontMetricsF(painter.font())
    painter.setPen(QColor(display.theme.muted_text))
    step = round_steps(plot.length, Kind.DISTANCE, display.system_of(Kind.DISTANCE), 7)
    for k in range(int(plot.length // step) + 1):
        text = f"{display.shown(k * step, Kind.DISTANCE):.10g}"
        if k == 0:
            text += f" {display.unit(Kind.DISTANCE)}"
        x = plot.x.px(k * step) - (0 if k == 0 else metrics.horizontalAdvance(text) / 2)
        painter.drawText(QPointF(x, base_px), text)


def nearest(at: QPointF, spots: Iterable[tuple[T, QPointF | None]], within_px: float) -> T | None:
    """What is drawn nearest to a place on screen, if it is near enough; things out of view have no spot."""
    best, near = None, within_px
    for thing, spot in spots:
        if spot is not None and (away := math.hypot(spot.x() - at.x(), spot.y() - at.y())) < near:
            best, near = thing, away
    return best
