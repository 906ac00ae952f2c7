"""Fish that were met in open water, away from all structure: where they would be by now, drawn with their age."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter

from plumbbob.core.tally.open_water import Cluster, clusters
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, font, pen
from plumbbob.desk.kit.tags import Tags
from plumbbob.desk.kit.when import age_words
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.plan_layer import Placed
from plumbbob.store.values import CONTACTS

_AWAY_M, _OVER_BOTTOM_M = 80.0, 3.0  # nearer to structure or bottom, that explains them
_GOES_S, _FORGET_S = 6 * 3600.0, 10 * 86_400.0
_WORDS = {k.value for k in CONTACTS}


@dataclass(slots=True)
class OpenWaterLayer:
    """Needs the session and the picture it is drawn on."""

    session: Session
    picture: Placed
    _kept: tuple[tuple[object, ...], list[Cluster]] = field(default=((), []))

    def found(self) -> list[Cluster]:
        """Clusters of the log on this chart, the latest first; looked for once for each log and chart."""
        session = self.session
        chart, held = session.chart.chart, session.logbook.moments
        if chart is None or not len(held):
            return []
        key = (id(held), id(chart))
        if self._kept[0] == key:
            return self._kept[1]
        columns = ("latitude", "longitude", "time", "fish_depth_m", "bottom_depth_m", "count")
        latitude, longitude, time, depth, bottom, count = (held.numbers(n) for n in columns)
        mine = np.array([k in _WORDS for k in held.cells("kind")])
        mine &= np.isfinite(latitude) & np.isfinite(longitude) & np.isfinite(time)
        # near the bottom, or where nobody knows how far off it, structure may explain them
        mine &= bottom - depth > _OVER_BOTTOM_M
        x, y = chart.plane.to_xy(latitude[mine], longitude[mine])
        for feature in chart.features:
            away = np.hypot(x - feature.x, y - feature.y) > _AWAY_M
            keep = np.flatnonzero(mine)[~away]
            mine[keep] = False
            x, y = x[away], y[away]
        fish = np.where(np.isfinite(count[mine]), count[mine], 1.0)
        self._kept = key, clusters(x, y, time[mine], depth[mine], fish)
        return self._kept[1]

    def paint(self, painter: QPainter, tags: Tags) -> None:
        """A ring as wide as its place is good, a bead, how many and how old."""
        display, now = self.session.display, self.session.view.moment
        theme = display.theme
        wind, wind_from = self.session.view.wind
        for cluster in self.found():
            age = now - cluster.time
            if not 0.0 <= age <= _FORGET_S:
                continue
            if age <= _GOES_S:
                x, y, unsure = cluster.at(now, wind, wind_from)
            else:
                x, y, unsure = cluster.x, cluster.y, cluster.spread_m
            at = self.picture.at(x, y)
            edge = self.picture.at(x + unsure, y)
            fresh = 1.0 - 0.75 * min(age / _FORGET_S, 1.0)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen(theme.ink, 1.3, alpha=round(230 * fresh), style=Qt.PenStyle.DotLine))
            radius = max(abs(edge.x() - at.x()), 9.0)
            painter.drawEllipse(at, radius, radius)
            bead(painter, at, 3.0, theme.ink, kind="fish")
            painter.setFont(font(display.text_size * 0.76))
            deep = f", {display.words(cluster.depth_m, Kind.DEPTH)}" if math.isfinite(cluster.depth_m) else ""
            tags.paint(painter, QPointF(at.x() + 8, at.y() - 6), f"{cluster.count} fish{deep}, {age_words(age)}",
                       theme.ink, theme.panel)  # fmt: skip
