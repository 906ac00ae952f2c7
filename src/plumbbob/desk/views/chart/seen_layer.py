"""Fish and bait along every pass for the water looked at, between the depths of the window; bait's way since then."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter

from plumbbob.core.sonar.seen_along import BaitDrift
from plumbbob.desk.commands.seen import UNLUCKY, drift_words, stretch_words
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.models.seen_model import LaidPass
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.plan_layer import Placed

_THIN_PX, _WIDEST_PX, _TICK_PX = 2.0, 9.0, 9.0


@dataclass(slots=True)
class SeenLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed

    def paint(self, painter: QPainter, tags: Tags) -> None:
        """A line along each pass: dotted where nothing was looked at, broad where there were fish; bait as rings."""
        if not self.session.seen.shown:
            return
        laid = self.session.seen.laid(self.session.chart.chart, self.session.rig.window)
        passes, drift = laid.passes, laid.drift
        rates = np.concatenate([p.rate[np.isfinite(p.rate)] for p in passes]) if passes else np.zeros(0)
        most = max(float(np.percentile(rates, 97)) if rates.size else 0.0, 1e-9)
        for one in passes:
            self._paint_pass(painter, one, most)
        for one in passes:
            self._paint_stretch(painter, tags, one)
        if drift is not None:
            self._paint_drift(painter, tags, drift)

    def _paint_pass(self, painter: QPainter, one: LaidPass, most: float) -> None:
        theme, rate = self.session.display.theme, one.rate
        points = [self.picture.at(float(x), float(y)) for x, y in zip(one.x, one.y, strict=True)]
        for k in range(len(points) - 1):
            if not (math.isfinite(one.x[k]) and math.isfinite(one.x[k + 1])):
                continue
            if not math.isfinite(rate[k]):
                painter.setPen(pen(theme.muted, 1.4, style=Qt.PenStyle.DotLine))
            elif rate[k] > 0:
                wide = _THIN_PX + (_WIDEST_PX - _THIN_PX) * min(float(rate[k]) / most, 1.0)
                painter.setPen(pen(theme.brass, wide, alpha=230))
            else:
                painter.setPen(pen(theme.ink, _THIN_PX, alpha=150))
            painter.drawLine(points[k], points[k + 1])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        share = one.bait_m3 / np.maximum(one.volume_m3, 1e-9)
        for k in np.flatnonzero((one.bait_m3 > 0) & np.isfinite(one.x)).tolist():
            painter.setPen(pen(theme.lichen, 1.6))
            radius = 3.0 + 6.0 * math.sqrt(min(float(share[k]), 1.0))
            painter.drawEllipse(points[k], radius, radius)

    def _paint_stretch(self, painter: QPainter, tags: Tags, one: LaidPass) -> None:
        """Between which two places the fish were."""
        stretch, theme = one.stretch, self.session.display.theme
        if stretch is None or stretch.luck > UNLUCKY:
            return
        painter.setPen(pen(theme.brass, 2.2))
        ends = []
        for k in (stretch.first, stretch.last):
            j = min(max(k, 1), len(one.x) - 2)
            along = np.array([one.x[j + 1] - one.x[j - 1], one.y[j + 1] - one.y[j - 1]])
            if not np.isfinite(along).all() or not along.any():
                return
            at, u = self.picture.at(float(one.x[k]), float(one.y[k])), along / np.hypot(*along)
            aside = QPointF(_TICK_PX * float(u[1]), _TICK_PX * float(u[0]))
            painter.drawLine(at - aside, at + aside)
            ends.append(at)
        painter.setFont(font(self.session.display.text_size * 0.8))
        at = (ends[0] + ends[1]) / 2 + QPointF(12, -10)
        tags.paint(painter, at, stretch_words(stretch), theme.ink, theme.panel)

    def _paint_drift(self, painter: QPainter, tags: Tags, drift: BaitDrift) -> None:
        theme, session = self.session.display.theme, self.session
        painter.setPen(pen(theme.lichen, 1.8))
        for a, b in zip(drift.before, drift.after, strict=True):
            painter.drawLine(self.picture.at(a.x, a.y), self.picture.at(b.x, b.y))
        end = self.picture.at(drift.after[0].x, drift.after[0].y)
        painter.setFont(font(session.display.text_size * 0.8))
        tags.paint(painter, end + QPointF(10, 14), drift_words(session, drift), theme.ink, theme.panel)
