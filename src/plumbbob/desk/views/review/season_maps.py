"""Where fish came from in spring, summer and autumn: small maps of one water side by side, all of one scale."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.geodesy import separation
from plumbbob.core.types import Floats, Mask
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session
from plumbbob.services.review import LogReview

_SEASONS = (("spring", (3, 4, 5)), ("summer", (6, 7, 8)), ("autumn", (9, 10, 11)))
_LEAST_M, _CELL_M = 300.0, 200.0
_MOST_PX = 11.0


class SeasonMaps(Painted):
    """Needs the session. A ring is fishing, its size the hours; what is filled of it are fish."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("seasonmaps")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (session.review.changed, session.display.changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        """A third of the year."""
        return QSize(360, 150)

    def paint(self, painter: QPainter) -> None:
        """A map a season."""
        display = self._session.display
        theme, size = display.theme, display.text_size
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        made = self._session.review.made
        if made is None or made.review.hours <= 0.0:
            return
        record = made.record
        known = np.isfinite(record.latitude) & np.isfinite(record.longitude)
        painter.setFont(font(size * 0.82, bold=True))
        painter.setPen(QColor(theme.muted_text))
        if not known.any():
            painter.drawText(QPointF(8, 1.5 * size), "BY SEASON: NO PLACE IS KNOWN")
            return
        water = int(np.argmax(np.bincount(record.water[known], record.hours[known])))
        here = known & (record.water == water)
        title = f"WHERE, BY SEASON · {made.read.water_names[water] or 'one water'}"
        title = QFontMetricsF(painter.font()).elidedText(title, Qt.TextElideMode.ElideRight, self.width() - 16)
        painter.drawText(QPointF(8, 1.5 * size), title)
        middle = float(np.median(record.latitude[here])), float(np.median(record.longitude[here]))
        x, y = separation(*middle, record.latitude, record.longitude)
        month = (record.start_s + record.utc_offset_s).astype("datetime64[s]").astype("datetime64[M]").astype(
            int
        ) % 12 + 1
        wide = self.width() / len(_SEASONS)
        for k, (name, months) in enumerate(_SEASONS):
            box = QRectF(k * wide + 4, 2.2 * size, wide - 8, self.height() - 2.6 * size)
            self._paint_season(painter, made, box, name, here & np.isin(month, months), here, (x, y))

    def _paint_season(
        self, painter: QPainter, made: LogReview, box: QRectF, name: str, mine: Mask, here: Mask,
        at: tuple[Floats, Floats],
    ) -> None:  # fmt: skip
        display = self._session.display
        theme, size = display.theme, display.text_size
        painter.setPen(pen(theme.rule))
        painter.setBrush(shade(theme.panel))
        painter.drawRoundedRect(box, 4, 4)
        x, y = at
        area = box.adjusted(_MOST_PX, _MOST_PX, -_MOST_PX, -_MOST_PX - 2.6 * size)
        spans = [max(float(np.ptp(v[here])), _LEAST_M) for v in (x, y)]
        per = max(spans[0] / max(area.width(), 10.0), spans[1] / max(area.height(), 10.0))
        centre = [float(v[here].min() + v[here].max()) / 2 for v in (x, y)]
        fish = np.bincount(made.record.catch_effort, minlength=x.size)
        # stretches at one place are one ring
        place = np.round(x / _CELL_M) * 100_000 + np.round(y / _CELL_M)
        hours_all = made.record.hours
        for key in np.unique(place[mine]):
            some = mine & (place == key)
            spot = QPointF(area.center().x() + (float(x[some].mean()) - centre[0]) / per,
                           area.center().y() - (float(y[some].mean()) - centre[1]) / per)  # fmt: skip
            hours, caught = float(hours_all[some].sum()), int(fish[some].sum())
            ring = min(2.5 + 1.6 * math.sqrt(hours), _MOST_PX)
            painter.setPen(pen(theme.ink, 1.0, alpha=150))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(spot, ring, ring)
            if caught:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(shade(theme.brass))
                full = min(2.0 + 1.4 * math.sqrt(caught), ring)
                painter.drawEllipse(spot, full, full)
        painter.setFont(font(size * 0.8))
        painter.setPen(QColor(theme.ink))
        metrics = QFontMetricsF(painter.font())
        count = int(fish[mine].sum())
        depth = made.record.numbers["lure_depth_m"]
        known = mine & np.isfinite(depth) & (fish > 0)
        under = f"{count} fish"
        if known.any():
            under += f", {display.words(float(np.average(depth[known], weights=fish[known])), Kind.DEPTH, 0)}"
        for k, text in enumerate((name, under)):
            painter.setPen(QColor(theme.ink if k == 0 else theme.muted_text))
            text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, round(box.width() - 10))
            painter.drawText(QPointF(box.left() + 6, box.bottom() - 0.5 * size - (1 - k) * 1.25 * size), text)
