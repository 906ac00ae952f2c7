"""The last seconds under the boat, level with the plumb line: the newest ping at the right, the bob across it."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.live.hole import Closing, closing_fish
from plumbbob.core.units import Kind
from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.paint import bead, font, indexed_image, pen, shade, tag
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.theme import ramp

UNDER_WAY_S, STILL_S = 40.0, 20.0
STILL_MPS = 0.15


class LiveStrip(CachedPicture):
    """Needs the session. Its depth scale is the scan's, which the plumb line beside it has too."""

    def __init__(self, session: Session) -> None:
        super().__init__("deck_strip")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumWidth(120)
        scan = session.scan
        for signal in (scan.grew, scan.read, scan.read_on, scan.opened, scan.view_changed, session.display.changed):
            signal.connect(self._stale)
        session.rig.changed.connect(self.update)

    @property
    def seconds(self) -> float:
        """How much is shown: less while the boat lies still."""
        fix = self._session.live.fix
        still = fix is not None and fix.speed_mps < STILL_MPS
        return STILL_S if still else UNDER_WAY_S

    @property
    def closing(self) -> Closing | None:
        """A fish that comes to the lure, while one lies still."""
        scan = self._session.scan
        if scan.lead is None or self.seconds > STILL_S:
            return None
        return closing_fish(scan.reading, float(scan.lead.time[-1]), self._session.rig.bob_m)

    def _view(self) -> Viewport | None:
        scan = self._session.scan
        lead = scan.lead
        if lead is None or scan.document.raster is None or not scan.is_live:
            return None
        n = len(lead)
        first = int(np.searchsorted(lead.time, lead.time[-1] - self.seconds))
        return Viewport(float(min(first, n - 2)), float(n), scan.view.top_m, scan.view.base_m)

    def paint(self, painter: QPainter) -> None:
        """Echoes, then what was read, then the bob."""
        session = self._session
        theme, view = session.display.theme, self._view()
        painter.fillRect(self.rect(), QColor(theme.echo[0]))
        raster = session.scan.document.raster
        if view is None or raster is None:
            painter.setFont(font(session.display.text_size))
            painter.setPen(QColor(theme.muted_text))
            words = "No sounder yet." if session.live.is_on else "Nothing is listened to."
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(8, 8, -8, -8), flags, words)
            return
        if self._image is None:
            pixels = raster.render(view, max(self.width(), 1), max(self.height(), 1), session.scan.gain_db)
            self._image = indexed_image(pixels, ramp(theme).tolist())
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_read(painter, view)
        y = self._y(view, session.rig.bob_m)
        painter.setPen(pen(theme.brass, 1.4, style=Qt.PenStyle.DotLine))
        painter.drawLine(QLineF(0, y, self.width(), y))
        painter.setPen(pen(theme.ink, 2.0))
        painter.drawLine(QLineF(self.width() - 1, 0, self.width() - 1, self.height()))
        self._paint_closing(painter, view)

    def _x(self, view: Viewport, ping: float) -> float:
        return (ping - view.first_ping) / max(view.pings, 1.0) * self.width()

    def _y(self, view: Viewport, depth_m: float) -> float:
        return (depth_m - view.top_m) / (view.base_m - view.top_m) * self.height()

    def _paint_read(self, painter: QPainter, view: Viewport) -> None:
        scan, theme = self._session.scan, self._session.display.theme
        beds = scan.document.beds
        low, high = int(view.first_ping), min(int(view.last_ping), beds.size)
        every = max((high - low) // max(self.width() // 3, 1), 1)
        points = [
            QPointF(self._x(view, k + 0.5), self._y(view, float(beds[k])))
            for k in range(low, high, every)
            if math.isfinite(beds[k])
        ]
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawPolyline(QPolygonF(points))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for bait in scan.reading.bait:
            if len(bait.outline) >= 3 and scan.ping_of(bait.time_end) > view.first_ping:
                tops = [QPointF(self._x(view, scan.ping_of(t)), self._y(view, a) - 2) for t, a, _ in bait.outline]
                feet = [QPointF(self._x(view, scan.ping_of(t)), self._y(view, b) + 2) for t, _, b in bait.outline]
                painter.setPen(QPen(QColor(theme.lichen), 1.6, Qt.PenStyle.DotLine))
                painter.drawPolygon(QPolygonF([*tops, *feet[::-1]]))
        for fish in scan.reading.fish:
            ping = scan.ping_of(fish.time)
            if ping >= view.first_ping:
                at = QPointF(self._x(view, ping), self._y(view, fish.depth_m) - 6)
                painter.setPen(pen(theme.brass, 1.6))
                painter.drawLine(QPointF(at.x(), at.y() - 14), at)
                bead(painter, at, 3.6, theme.brass)

    def _paint_closing(self, painter: QPainter, view: Viewport) -> None:
        """Fish and lure told apart, and how soon they meet."""
        found, display = self.closing, self._session.display
        if found is None:
            return
        y = self._y(view, found.depth_m)
        painter.setPen(pen(display.theme.vermilion, 2.0))
        painter.drawLine(QPointF(self.width() - 26, y), QPointF(self.width() - 4, y))
        painter.setFont(font(display.text_size, bold=True))
        painter.setPen(shade(display.theme.ink))
        words = f"{display.words(abs(found.below_m), Kind.DEPTH)} {'below' if found.below_m > 0 else 'above'}"
        wide = painter.fontMetrics().horizontalAdvance(words)
        tag(painter, QPointF(self.width() - wide - 32, y + 4), words, display.theme.ink, display.theme.panel)
