"""The year as water: ice, warmth and the cold layer, where lures were fished and fish were caught, day by day."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy
from scipy.ndimage import gaussian_filter1d

from plumbbob.core.types import Floats
from plumbbob.desk.kit.hours_plot import paint_head, water_area
from plumbbob.desk.kit.paint import bead, font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.plot import Axis, DepthPlot, paint_depths
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.review.rate_picture import open_trip
from plumbbob.services.review import LogReview

_DAYS = 366.0
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_STARTS = (0, 31, 60, 91, 121, 152, 182, 213, 244, 274, 305, 335)
_ICE_C, _WARM_C = 3.0, 22.0
_COLUMNS, _ROWS = 183, 40
_SMOOTH_DAYS = 12.0
_LAYER_COLUMNS = 5.0
_PICK_PX = 8.0


class YearPicture(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("year")
        self._session = session
        self._model = session.review
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.beads: list[tuple[int, QPointF]] = []
        for signal in (self._model.changed, session.display.changed):
            signal.connect(self.update)

    @property
    def area(self) -> QRectF:
        """Where the water is drawn."""
        return water_area(self, self._session.display, 2.6, 1.9)

    @property
    def days(self) -> Axis:
        """Days across."""
        return Axis(0.0, _DAYS, self.area.left(), self.area.right())

    def deepest_m(self, made: LogReview) -> float:
        """Of the lures, and a little."""
        depth = made.record.numbers["lure_depth_m"]
        return float(np.nanmax(depth) * 1.12) if np.isfinite(depth).any() else 10.0

    def paint(self, painter: QPainter) -> None:
        """Water, then what was done in it."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        made = self._model.made
        self.beads = []
        if made is None or made.review.hours <= 0.0:
            return
        legend = "warmth, ice and the cold layer; pale: lures fished, beads: fish, rings: trips without one"
        paint_head(painter, display, self.width(), "THE YEAR AS WATER", legend)
        area = self.area
        plot = DepthPlot(area, _DAYS, self.deepest_m(made))
        day = day_of_year(made)
        warm = smooth(day, made.record.numbers["water_temperature_c"])
        layer = smooth(day, made.record.numbers["layer_m"])
        painter.drawImage(area, self._water(warm, layer, plot.deepest))
        paint_depths(painter, plot, display)
        self._paint_months(painter, area)
        self._paint_ice(painter, area, made, day)
        if np.isfinite(layer).any():
            painter.setPen(pen(theme.teal, 1.6, style=Qt.PenStyle.DashLine))
            known = np.flatnonzero(np.isfinite(layer))
            for a, b in pairwise(known.tolist()):
                if b - a == 1:
                    painter.drawLine(plot.at(_day(a), layer[a]), plot.at(_day(b), layer[b]))
        self._paint_fishing(painter, plot, made, day)

    def _water(self, warm: Floats, layer: Floats, deepest: float) -> QImage:
        """Warmth by day and depth: the surface's down to the layer, four degrees at the foot."""
        theme = self._session.display.theme
        depth = (np.arange(_ROWS) + 0.5) / _ROWS * deepest
        top = np.where(np.isfinite(layer), layer, deepest * 1.2)
        # a layer comes and goes over weeks, not overnight
        top = gaussian_filter1d(top, _LAYER_COLUMNS, mode="wrap")
        share = 1 / (1 + np.exp((depth[:, None] - top[None]) / 1.2))
        surface = np.nan_to_num(warm, nan=4.0)
        here = 4.0 + (surface[None] - 4.0) * share
        level = np.clip((here - _ICE_C) / (_WARM_C - _ICE_C), 0, 1) * np.isfinite(warm)[None]
        cold, hot = QColor(theme.panel), QColor(theme.brass)
        low, high = (np.array([c.red(), c.green(), c.blue()]) for c in (cold, hot))
        rgb = low + 0.62 * level[:, :, None] * (high - low)
        pixels = np.full((_ROWS, _COLUMNS, 4), 255, np.uint8)
        pixels[:, :, :3] = rgb.astype(np.uint8)[:, :, ::-1]
        return QImage(pixels.tobytes(), _COLUMNS, _ROWS, QImage.Format.Format_RGB32).copy()

    def _paint_months(self, painter: QPainter, area: QRectF) -> None:
        display = self._session.display
        painter.setFont(font(display.text_size * 0.82))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QColor(display.theme.muted_text))
        narrow = area.width() / 12 < metrics.horizontalAdvance("Mmmm")
        for k, name in enumerate(_MONTHS):
            if narrow and k % 2:
                continue
            painter.drawText(QPointF(self.days.px(_STARTS[k] + 4.0), self.height() - 6.0), name)
            painter.setPen(pen(display.theme.rule, 1.0))
            x = self.days.px(float(_STARTS[k]))
            painter.drawLine(QPointF(x, area.bottom()), QPointF(x, area.bottom() + 4))
            painter.setPen(QColor(display.theme.muted_text))

    def _paint_ice(self, painter: QPainter, area: QRectF, made: LogReview, day: Floats) -> None:
        """A white lid over the days on which somebody fished through ice."""
        theme = self._session.display.theme
        method = made.record.words["method"]
        through = [k for k, name in enumerate(method.names) if "ice" in name.split()]
        days = np.unique(np.round(day[np.isin(method.code, through)]))
        for first, last in _runs(days):
            left, right = self.days.px(first - 2.0), self.days.px(last + 2.0)
            painter.fillRect(QRectF(left, area.top() - 6, right - left, 6), shade(theme.ink))

    def _paint_fishing(self, painter: QPainter, plot: DepthPlot, made: LogReview, day: Floats) -> None:
        theme = self._session.display.theme
        record = made.record
        depth = record.numbers["lure_depth_m"]
        high = np.clip(record.hours, 0.3, 4.0) / 4.0 * 0.16 * plot.area.height()
        for k in np.flatnonzero(np.isfinite(depth)):
            at = plot.at(float(day[k]), float(depth[k]))
            painter.setPen(pen(theme.ink, 1.6, alpha=70))
            painter.drawLine(at - QPointF(0, high[k] / 2), at + QPointF(0, high[k] / 2))
        caught = np.bincount(record.trip[record.catch_effort], minlength=record.trips)
        for effort in record.catch_effort:
            if math.isfinite(depth[effort]):
                at = plot.at(float(day[effort]), float(depth[effort]))
                bead(painter, at, 3.0, theme.brass)
                self.beads.append((int(record.trip[effort]), at))
        first = {int(t): k for k, t in reversed(list(enumerate(record.trip)))}
        for trip in np.flatnonzero(caught == 0):
            if int(trip) in first:
                at = QPointF(plot.x.px(float(day[first[int(trip)]])), plot.area.top() + 8)
                bead(painter, at, 3.4, theme.ink, kind="bait")
                self.beads.append((int(trip), at))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A bead opens its trip in the log."""
        made = self._model.made
        if event.button() != Qt.MouseButton.LeftButton or made is None or not self.beads:
            return
        trip, at = min(self.beads, key=lambda b: (b[1] - event.position()).manhattanLength())
        if (at - event.position()).manhattanLength() < _PICK_PX:
            open_trip(self._session, made.read.trip_names[trip])


def _runs(days: Floats) -> list[tuple[float, float]]:
    """First and last of days that follow within a fortnight."""
    if not days.size:
        return []
    cuts = np.flatnonzero(np.diff(days) > 14.0)
    return list(zip(days[np.r_[0, cuts + 1]].tolist(), days[np.r_[cuts, days.size - 1]].tolist(), strict=True))


def _day(column: int) -> float:
    return (column + 0.5) * _DAYS / _COLUMNS


def day_of_year(made: LogReview) -> Floats:
    """Days since the first of January of each effort, by the water's own clock."""
    local = (made.record.start_s + made.record.utc_offset_s).astype("datetime64[s]")
    return (local - local.astype("datetime64[Y]")) / np.timedelta64(1, "D")


def smooth(day: Floats, values: Floats) -> Floats:
    """Values by day as a smooth line of the year, (columns,); NaN far from any."""
    known = np.isfinite(values)
    if not known.any():
        return np.full(_COLUMNS, np.nan)
    at = (np.arange(_COLUMNS) + 0.5) * _DAYS / _COLUMNS
    # a day's mean first: many efforts of a day are one reading
    days = np.round(day[known]).astype(np.int64)
    total, count = np.bincount(days, values[known], 368), np.bincount(days, minlength=368)
    held = np.flatnonzero(count)
    mean = total[held] / count[held]
    apart = np.abs(at[:, None] - held[None])
    apart = np.minimum(apart, _DAYS - apart)
    weight = np.exp(-0.5 * (apart / _SMOOTH_DAYS) ** 2)
    near = weight.sum(axis=1)
    return np.where(apart.min(axis=1) < 2.5 * _SMOOTH_DAYS, weight @ mean / np.maximum(near, 1e-12), np.nan)
