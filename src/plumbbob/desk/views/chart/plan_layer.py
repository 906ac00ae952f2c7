"""The day's plan over the depths: a veil of threads where fish may still be, ways, stays, what lies about a place."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Protocol

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter, QPolygonF

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.around import lane_set, rings, spokes
from plumbbob.core.types import Floats
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.theme import rgb

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session

# threads a pixel row: from so much of the densest cells' chance on, one in so many pixels
_THREADS = ((0.12, 14), (0.35, 7), (0.7, 4))
_DENSE = 97.0  # percentile of the cells that hold any chance
_SPOKE_IN_M, _SPOKE_M, _RINGS_M = 25.0, 160.0, (60.0, 100.0, 140.0)
_LANE_M, _LANES, _TURN_M = 220.0, 5, 25.0


class Placed(Protocol):
    """A picture with places on it."""

    def at(self, x: float, y: float) -> QPointF:
        """Pixel of a place on the plane."""

    def place_at(self, at: QPointF) -> tuple[float, float]:
        """The place of a pixel."""

    def width(self) -> int:
        """Pixels."""

    def height(self) -> int:
        """Pixels."""

    def rect(self) -> QRect:
        """All of it."""


@dataclass
class PlanLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed
    _veil: tuple[tuple[object, ...], QImage] | None = field(default=None, init=False)

    def paint(self, painter: QPainter) -> None:
        """What of it is wanted."""
        run = self.session.run
        if not self.session.view.shows_plan or self.session.chart.chart is None:
            return
        if run.veil:
            self._paint_veil(painter)
        self._paint_around(painter)
        self._paint_ways(painter)
        self._paint_stays(painter)
        self._paint_boat(painter)

    def _xy(self, place: Position) -> QPointF:
        chart = self.session.chart.chart
        assert chart is not None
        x, y = chart.plane.to_xy(place.latitude, place.longitude)
        return self.picture.at(float(x), float(y))

    # -- the veil -----------------------------------------------------------------------------------------------

    def _paint_veil(self, painter: QPainter) -> None:
        search, weight = self.session.search.search, self.session.search.weight
        if search is None or weight is None:
            return
        theme, view, what = self.session.display.theme, self.session.chart.view, self.session.run.veil
        size = self.picture.width(), self.picture.height()
        key = (id(weight), view, size, theme.light, what)
        if self._veil is None or self._veil[0] != key:
            before, now = search.prior.sum(axis=0), weight.sum(axis=0)
            if what in search.terms:
                before = now = (search.grid.water * search.terms[what]).sum(axis=0)
            self._veil = key, self._threads(before, now)
        painter.drawImage(0, 0, self._veil[1])

    def _threads(self, before: Floats, now: Floats) -> QImage:
        search, view = self.session.search.search, self.session.chart.view
        assert search is not None
        frame = search.grid.frame
        wide, high = self.picture.width(), self.picture.height()
        px, py = np.arange(wide), np.arange(high)
        # what stands at the middle of the picture is the middle of the view; south is down
        column = np.floor((view.x + (px - wide / 2) * view.m_per_px - frame.x0_m) / frame.cell_m).astype(np.intp)
        row = np.floor((view.y - (py - high / 2) * view.m_per_px - frame.y0_m) / frame.cell_m).astype(np.intp)
        held = before[before > 0]
        dense = float(np.percentile(held, _DENSE)) if held.size else 1.0
        levels = np.clip(now / max(dense, 1e-12), 0.0, 1.0).astype(np.float32)
        inside = ((row >= 0) & (row < frame.ny))[:, None] & ((column >= 0) & (column < frame.nx))[None, :]
        level = levels[np.clip(row, 0, frame.ny - 1)[:, None], np.clip(column, 0, frame.nx - 1)[None, :]]
        level = np.where(inside, level, 0.0)
        slant = px[None, :] + py[:, None]
        thread = np.zeros(level.shape, bool)
        for least, every in _THREADS:
            thread |= (level >= least) & (slant % every == 0)
        red, green, blue = rgb(self.session.display.theme.ink)
        # colours are stored already multiplied by how much they cover
        alpha = 120
        colour = (alpha << 24) | (red * alpha // 255 << 16) | (green * alpha // 255 << 8) | (blue * alpha // 255)
        pixels = np.where(thread, np.uint32(colour), np.uint32(0)).astype(np.uint32)
        image = QImage(pixels.tobytes(), wide, high, 4 * wide, QImage.Format.Format_ARGB32_Premultiplied)
        return image.copy()

    # -- ways and stays -----------------------------------------------------------------------------------------

    def _paint_ways(self, painter: QPainter) -> None:
        run, theme = self.session.run, self.session.display.theme
        plan = run.plan
        if plan is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if run.beside is not None:
            painter.setPen(pen(theme.ink, 1.2, alpha=150, style=Qt.PenStyle.DotLine))
            for way in [s.way for s in run.beside.stays] + [run.beside.way_home]:
                painter.drawPolyline(QPolygonF([self._xy(p) for p in way]))
        for stay in run.past:
            painter.setPen(pen(theme.ground, 4.0, alpha=120))
            self._way(painter, stay.way)
            painter.setPen(pen(theme.brass, 1.4, alpha=150))
            self._way(painter, stay.way)
        for way in [s.way for s in plan.stays]:
            painter.setPen(pen(theme.ground, 4.5, alpha=170))
            self._way(painter, way)
            painter.setPen(pen(theme.brass, 2.2))
            self._way(painter, way)
        painter.setPen(pen(theme.brass, 1.8, style=Qt.PenStyle.DashLine))
        self._way(painter, plan.way_home)

    def _way(self, painter: QPainter, way: tuple[Position, ...]) -> None:
        painter.drawPolyline(QPolygonF([self._xy(p) for p in way]))

    def _paint_stays(self, painter: QPainter) -> None:
        session, run = self.session, self.session.run
        display, theme = session.display, session.display.theme
        if run.ask is not None and run.plan is not None:
            at = self._xy(run.ask.launch)
            painter.setPen(pen(theme.ground, 1.0))
            painter.setBrush(QColor(theme.ink))
            corners = [at + QPointF(0, -7), at + QPointF(-6, 5), at + QPointF(6, 5)]
            painter.drawPolygon(QPolygonF(corners))
        bold = font(display.text_size * 0.9, bold=True)
        painter.setFont(bold)
        metrics = QFontMetricsF(bold)
        names = {s.candidate.name: s for s in run.stays}
        order = list(names)
        for candidate in run.candidates:
            at = self._xy(candidate.place)
            if candidate.name not in names:
                painter.setPen(pen(theme.ink, 1.2, alpha=150))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawLine(at + QPointF(-3, -3), at + QPointF(3, 3))
                if candidate.name not in run.state.banned:
                    painter.drawLine(at + QPointF(-3, 3), at + QPointF(3, -3))
                continue
            mine = run.chosen is candidate
            text = "?" if candidate.kind == "unseen" else str(order.index(candidate.name) + 1)
            radius = max(metrics.horizontalAdvance(text) / 2 + 5, 9.0) + (2.0 if mine else 0.0)
            painter.setPen(pen(theme.ground, 3.0))
            painter.setBrush(QColor(theme.fill if mine else theme.raised))
            painter.drawEllipse(at, radius, radius)
            painter.setPen(pen(theme.brass, 1.8))
            painter.drawEllipse(at, radius, radius)
            painter.setPen(QColor(theme.on_fill if mine else theme.ink))
            box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_boat(self, painter: QPainter) -> None:
        """Where the boat is by the plan, now."""
        run, theme = self.session.run, self.session.display.theme
        place = run.boat
        if place is None or self.session.live.is_on:  # then it is drawn as it lies
            return
        at = self._xy(place)
        painter.setPen(pen(theme.ground, 3.0))
        painter.setBrush(QColor(theme.vermilion))
        painter.drawEllipse(at, 5.5, 5.5)

    # -- about a place ------------------------------------------------------------------------------------------

    def _paint_around(self, painter: QPainter) -> None:
        session, run = self.session, self.session.run
        chart, place = session.chart.chart, run.chosen
        if not run.around or chart is None or place is None:
            return
        theme, level = session.display.theme, session.conditions.level_m
        x, y = (float(v) for v in chart.plane.to_xy(place.place.latitude, place.place.longitude))
        grid = chart.grid

        def depth_at(east: Floats, north: Floats) -> Floats:
            return grid.frame.sample(grid.depth_m, east, north) + level

        painter.setBrush(Qt.BrushStyle.NoBrush)
        if run.around == "spokes":
            found = spokes((x, y), depth_at, depth_m=place.fish_m, inner_m=_SPOKE_IN_M, length_m=_SPOKE_M)
            for spoke in found:
                self._line(painter, spoke.line, theme.teal, 2.0)
            for ring in rings((x, y), depth_at, depth_m=place.fish_m, radii_m=_RINGS_M):
                self._line(painter, ring, theme.teal, 1.2)
            return
        wind = run.ask.hours[0].from_deg if run.ask is not None else 0.0
        lanes = lane_set(
            (x, y), bearing_deg=self._along_contour((x, y), wind), length_m=_LANE_M, count=_LANES,
            spacing_m=self._spacing(place.fish_m), radius_m=_TURN_M, shore_at=self._shore_at,
        )  # fmt: skip
        self._line(painter, lanes.line, theme.teal, 1.2)
        painter.setFont(font(session.display.text_size * 0.8, bold=True))
        for lane, slow in zip(lanes.lanes, lanes.slow, strict=True):
            self._line(painter, lane, theme.vermilion if slow else theme.teal, 2.4)
            if slow:
                painter.setPen(QColor(theme.vermilion_text))
                painter.drawText(self.picture.at(*lane.mean(axis=0).tolist()) + QPointF(4, -4), "slow first")

    def _line(self, painter: QPainter, line: Floats, colour: str, width: float) -> None:
        points = QPolygonF([self.picture.at(a, b) for a, b in line.tolist()])
        painter.setPen(pen(self.session.display.theme.ground, width + 2.4, alpha=150))
        painter.drawPolyline(points)
        painter.setPen(pen(colour, width))
        painter.drawPolyline(points)

    def _spacing(self, depth_m: float) -> float:
        """Between lanes: what the sounder sees at that depth, and not less than a lure's own reach."""
        return max(2.0 * depth_m * math.tan(math.radians(10.0)) + 3.0, 8.0)

    def _along_contour(self, at: tuple[float, float], wind_deg: float) -> float:
        """Along the depth contour through a place; across the wind where the bottom is level."""
        chart = self.session.chart.chart
        assert chart is not None
        step = 15.0
        frame, depth = chart.grid.frame, chart.grid.depth_m
        east = frame.sample(depth, at[0] + step, at[1]) - frame.sample(depth, at[0] - step, at[1])
        north = frame.sample(depth, at[0], at[1] + step) - frame.sample(depth, at[0], at[1] - step)
        if not math.isfinite(float(east + north)) or math.hypot(float(east), float(north)) < 0.15:
            return (wind_deg + 90.0) % 360.0
        return (math.degrees(math.atan2(float(east), float(north))) + 90.0) % 360.0

    def _shore_at(self, east: Floats, north: Floats) -> Floats:
        """Metres to the nearest shore line."""
        chart = self.session.chart.chart
        assert chart is not None
        if not chart.shore:
            return np.full(np.shape(east), np.inf)
        rings_ = np.concatenate(chart.shore)
        points = np.stack([east, north], axis=-1)
        return np.asarray(np.hypot(*(points[:, None] - rings_[None]).transpose(2, 0, 1)).min(axis=1))
