"""Rates by a condition: thickness is effort, the line is the doubt; depths hang level with the plumb line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.tally.dimensions import Dimension
from plumbbob.core.tally.questions import Part
from plumbbob.core.tally.rates import BinRate
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.kit.hours_plot import paint_head
from plumbbob.desk.kit.paint import depth_ticks, font, pen, shade, tag
from plumbbob.desk.kit.painted import Levelled
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.models.review_model import Item, Saying
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.review.words import cut_words
from plumbbob.services.review import LogReview
from plumbbob.wording.review import NAMES, named

_HANGING = ("lure_depth", "bottom_depth")
_TOP_LINES, _FOOT_LINES = 5.2, 2.4
_BEAD_PX, _BEADS_A_ROW = 5.0, 34
_LEAST_BAR, _MOST_BAR, _USUAL_DEEPEST = 3.0, 30.0, 12.0
_MOST_BEADS = 102


@dataclass(frozen=True, slots=True)
class _Row:
    """One bin on screen."""

    rate: BinRate
    top: float
    bottom: float
    words: str

    @property
    def middle(self) -> float:
        return (self.top + self.bottom) / 2


class RatePicture(Levelled):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rates")
        self._session = session
        self._model = session.review
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.beads: list[tuple[int, QPointF]] = []
        for signal in (self._model.changed, self._model.picked_changed, session.display.changed):
            signal.connect(self._changed)

    def _tell_scale(self) -> None:
        area = self.area
        self._model.set_scale(area.top(), area.bottom(), self.height(), self.deepest_m)

    # -- scales -------------------------------------------------------------------------------------------------

    @property
    def area(self) -> QRectF:
        """Where the bars are."""
        size = self._session.display.text_size
        hangs = self._model.dimension in _HANGING
        left = 3.6 * size if hangs else min(13.5 * size, 0.3 * self.width())
        top = _TOP_LINES * size
        return QRectF(left, top, max(self.width() - left - 12.0, 30.0),
                      max(self.height() - top - _FOOT_LINES * size, 30.0))  # fmt: skip

    @property
    def deepest_m(self) -> float:
        """Of the scale of depth: of the lures, or of the bottom where that is shown."""
        name = self._model.dimension if self._model.dimension in _HANGING else "lure_depth"
        dimension = None if self._model.review is None else self._model.review.dimension(name)
        if dimension is None or dimension.edges is None:
            return _USUAL_DEEPEST
        return max(float(dimension.edges[-1]) * 1.04, 1.0)

    def rates(self, made: LogReview | None) -> tuple[Dimension, list[BinRate]] | None:
        """Of the condition on screen."""
        if made is None:
            return None
        dimension = made.review.dimension(self._model.dimension)
        rates = made.review.rates.get(self._model.dimension)
        return (dimension, rates) if dimension is not None and rates else None

    def rows(self) -> list[_Row]:
        """The bins from the top down."""
        found = self.rates(self._model.made)
        if found is None:
            return []
        dimension, rates = found
        area, units = self.area, self._session.display.system_of
        out = []
        y = self._level(dimension, len(rates))
        for k, r in enumerate(rates):
            if dimension.edges is not None and dimension.name in _HANGING:
                top, bottom = y.px(float(dimension.edges[r.bin])), y.px(float(dimension.edges[r.bin + 1]))
            else:
                top, bottom = y.px(float(k)), y.px(float(k + 1))
            out.append(_Row(r, top, bottom, named(dimension.name, dimension, Part(0, r.bin, r.bin), units)))
        return [row for row in out if row.bottom > area.top()]

    def _level(self, dimension: Dimension, count: int) -> Axis:
        area = self.area
        last = self.deepest_m if dimension.name in _HANGING else max(float(count), 1.0)
        return Axis(0.0, last, area.top(), area.bottom())

    @property
    def across(self) -> Axis:
        """Fish per rod hour."""
        area = self.area
        most = 0.05
        for made in (self._model.made, self._model.other):
            found = self.rates(made)
            if found is not None:
                most = max(most, *(min(r.high, 4 * r.rate + 0.05) for r in found[1]))
        right = area.right() - 7.5 * self._session.display.text_size
        return Axis(0.0, most * 1.03, area.left(), max(right, area.left() + 20))

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Head, scale, bars, the trips behind it."""
        display = self._session.display
        theme, size = display.theme, display.text_size
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        review = self._model.review
        self.beads = []
        if review is None or review.hours <= 0.0:
            return
        name = NAMES.get(self._model.dimension, "")
        legend = "thickness is how long it was fished; the line is where the truth lies, eight times in ten"
        paint_head(painter, display, self.width(), f"FISH PER ROD HOUR BY {name.upper()}", legend)
        area, x = self.area, self.across
        painter.fillRect(area, shade(theme.panel))
        self._paint_scale(painter, area, x)
        rows = self.rows()
        most = max((r.rate.hours for r in rows), default=1.0)
        for row in rows:
            self._paint_row(painter, row, x, most)
        self._paint_other(painter, x)
        at = x.px(review.rate)
        painter.setPen(pen(theme.teal, 1.4, style=Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(at, area.top()), QPointF(at, area.bottom()))
        painter.setFont(font(size * 0.8))
        tag(painter, QPointF(at + 6, area.top() + 1.1 * size), "all your fishing", theme.teal_text, theme.panel)
        if self._model.other is not None:
            words = f"◆ {cut_words(self._model.beside)}"
            wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
            tag(painter, QPointF(area.right() - wide - 8, area.bottom() - 8), words, theme.teal_text, theme.panel)
        self._paint_beads(painter)

    def _paint_scale(self, painter: QPainter, area: QRectF, x: Axis) -> None:
        display = self._session.display
        theme, size = display.theme, display.text_size
        painter.setFont(font(size * 0.78))
        metrics = QFontMetricsF(painter.font())
        step = _round_step(x.last / 5)
        for k in range(int(x.last / step) + 1):
            at = x.px(k * step)
            painter.setPen(pen(theme.rule, 1.0))
            painter.drawLine(QPointF(at, area.top()), QPointF(at, area.bottom()))
            text = f"{k * step:.4g}"
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(at - metrics.horizontalAdvance(text) / 2, area.bottom() + 1.3 * size), text)
        if self._model.dimension in _HANGING:
            y = Axis(0.0, self.deepest_m, area.top(), area.bottom())
            count = max(int(area.height() // 34), 2)
            for depth, text in depth_ticks(0.0, self.deepest_m, display.system_of(Kind.DEPTH), count):
                painter.setPen(QColor(theme.muted_text))
                right = area.left() - 8 - metrics.horizontalAdvance(text)
                painter.drawText(QPointF(right, y.px(depth) + 4), text)
            painter.drawText(QPointF(4, area.top() - 6), display.unit(Kind.DEPTH))

    def _paint_row(self, painter: QPainter, row: _Row, x: Axis, most: float) -> None:
        display = self._session.display
        theme, size = display.theme, display.text_size
        room = row.bottom - row.top
        high = max(min(room * 0.86, _MOST_BAR * row.rate.hours / most), _LEAST_BAR)
        item = self._model.picked
        chosen = self._holds(item, row.rate)
        bar = QRectF(x.from_px, row.middle - high / 2, max(x.px(row.rate.rate) - x.from_px, 1.0), high)
        if row.rate.enough:
            painter.fillRect(bar, shade(theme.brass, 235 if chosen else 120))
        else:
            painter.setPen(pen(theme.brass, 1.0, style=Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(bar)
        painter.setPen(pen(theme.ink if row.rate.enough else theme.muted, 1.8))
        low, end = x.px(row.rate.low), min(x.px(row.rate.high), x.to_px + 4)
        painter.drawLine(QPointF(low, row.middle), QPointF(end, row.middle))
        painter.setFont(font(size * 0.8))
        metrics = QFontMetricsF(painter.font())
        said = f"{row.rate.hours:.0f} h · {row.rate.fish}"
        painter.setPen(QColor(theme.muted_text))
        if room >= 0.75 * metrics.height():
            painter.drawText(QPointF(end + 6, row.middle + 4), said)
        if self._model.dimension not in _HANGING:
            painter.setPen(QColor(theme.ink if chosen else theme.muted_text))
            words = metrics.elidedText(row.words, Qt.TextElideMode.ElideRight, round(self.area.left() - 14))
            painter.drawText(QPointF(self.area.left() - 8 - metrics.horizontalAdvance(words), row.middle + 4), words)

    def _holds(self, item: Item | None, rate: BinRate) -> bool:
        """The picked sentence speaks of this bin."""
        part = self._part(item)
        return part is not None and part.first <= rate.bin <= part.last

    def _part(self, item: Item | None) -> Part | None:
        """What a sentence says of the condition on screen."""
        review = self._model.review
        if item is None or review is None or item.part is None or item.saying is Saying.UNTOLD:
            return None
        parts = [item.part]
        if item.saying is Saying.FINDING:
            parts += review.findings.found[item.number].same
        return next((p for p in parts if review.pieces.dimensions[p.dimension].name == self._model.dimension), None)

    def _paint_other(self, painter: QPainter, x: Axis) -> None:
        """What it is held against: a diamond with its own line under each bar."""
        mine, other = self.rates(self._model.made), self.rates(self._model.other)
        if mine is None or other is None:
            return
        theme = self._session.display.theme
        rows = self.rows()
        for r in other[1]:
            y = self._place_of(mine[0], other[0], r, rows)
            if y is None:
                continue
            painter.setPen(pen(theme.teal, 1.4))
            painter.drawLine(QPointF(x.px(r.low), y), QPointF(min(x.px(r.high), x.to_px), y))
            painter.setBrush(shade(theme.teal))
            at = QPointF(x.px(r.rate), y)
            painter.drawPolygon([at + QPointF(-5, 0), at + QPointF(0, -5), at + QPointF(5, 0), at + QPointF(0, 5)])

    def _place_of(self, mine: Dimension, other: Dimension, rate: BinRate, rows: list[_Row]) -> float | None:
        if other.edges is None or mine.edges is None:
            name = other.names[rate.bin] if other.edges is None else ""
            found = next((r for r in rows if mine.edges is None and mine.names[r.rate.bin] == name), None)
            return None if found is None else min(found.middle + 20.0, found.bottom - 4.0)
        middle = float(other.edges[rate.bin] + other.edges[rate.bin + 1]) / 2
        if mine.name in _HANGING:
            return self._level(mine, len(rows)).px(middle) + 7.0
        at = np.interp(middle, mine.edges, np.arange(mine.edges.size))
        return self._level(mine, len(rows)).px(float(at)) + 7.0

    # -- the trips behind it ------------------------------------------------------------------------------------

    def trips_behind(self) -> tuple[Floats, Floats]:
        """Rod hours and fish of each trip, in the picked part or in all."""
        made = self._model.made
        assert made is not None
        review = made.review
        inside = np.ones(review.pieces.hours.size, bool)
        part = self._part(self._model.picked)
        if part is not None:
            code = review.pieces.dimensions[part.dimension].code
            inside = (code >= part.first) & (code <= part.last)
        trip = made.record.trip[review.pieces.effort]
        hours = np.bincount(trip[inside], review.pieces.hours[inside], review.trips).astype(np.float64)
        return hours, np.bincount(trip[inside], review.fish_in[inside], review.trips).astype(np.float64)

    def _paint_beads(self, painter: QPainter) -> None:
        display = self._session.display
        theme, size = display.theme, display.text_size
        hours, fish = self.trips_behind()
        fished = np.flatnonzero(hours > 0.0)[-_MOST_BEADS:]
        if not fished.size:
            return
        painter.setFont(font(size * 0.8))
        caught = int((fish[fished] > 0).sum())
        words = f"{fished.size} trips behind it, {caught} with fish"
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
        room = self.width() - wide - 40.0
        per_row = min(_BEADS_A_ROW, max(int(room // (2.6 * _BEAD_PX)), 6))
        left = self.width() - 14 - min(per_row, fished.size) * 2.6 * _BEAD_PX
        top = 2.1 * size + 8
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(max(left - wide - 12, 8.0), top + 5), words)
        for k, trip in enumerate(fished.tolist()):
            at = QPointF(left + (k % per_row + 0.5) * 2.6 * _BEAD_PX, top + (k // per_row) * 2.5 * _BEAD_PX)
            if at.y() > self.area.top() - 2:
                break
            painter.setPen(pen(theme.brass if fish[trip] else theme.muted, 1.3))
            painter.setBrush(shade(theme.brass) if fish[trip] else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(
                at, _BEAD_PX * (0.9 if fish[trip] else 0.75), _BEAD_PX * (0.9 if fish[trip] else 0.75)
            )
            self.beads.append((trip, at))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A bead opens its trip in the log."""
        self.setFocus()
        if event.button() != Qt.MouseButton.LeftButton or self._model.made is None:
            return
        for trip, at in self.beads:
            if (at - event.position()).manhattanLength() < 2.2 * _BEAD_PX:
                open_trip(self._session, self._model.made.read.trip_names[trip])
                return


def open_trip(session: Session, ref: str) -> None:
    """Show a trip in the log."""
    trip = session.logbook.trips.by_ref(ref) if ref else None
    if trip is not None:
        session.trips.choose(trip.id)
        session.set_stage("log")


def _round_step(wish: float) -> float:
    scale = 10.0 ** np.floor(np.log10(max(wish, 1e-6)))
    return float(next(m * scale for m in (1, 2, 5, 10) if m * scale >= wish * 0.999))
