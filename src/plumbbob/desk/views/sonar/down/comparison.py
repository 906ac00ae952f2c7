"""Another pass below the open one, laid along it by position: what stays is structure, what is gone has swum off."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.units import Kind
from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.paint import font, indexed_image, pen, shade
from plumbbob.desk.models.echogram_raster import Raster
from plumbbob.desk.models.session import Session
from plumbbob.desk.theme import ramp


class ComparisonPicture(CachedPicture):
    """Needs the session; shares the echogram's view, cursor and depth scale."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("beside", parent)
        self._session = session
        self.raster: Raster | None = None
        self.setMouseTracking(True)
        self.setMinimumHeight(140)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        scan = session.scan
        scan.comparison.changed.connect(self._compared)
        for signal in (scan.view_changed, scan.gain_changed, session.display.changed):
            signal.connect(self._stale)
        scan.cursor_changed.connect(self.update)
        self.hide()

    def _compared(self) -> None:
        beside = self._session.scan.comparison.other
        down = beside.recording.down if beside is not None else None
        self.raster = Raster(down) if down is not None else None
        self.setVisible(down is not None)
        self._stale()

    def paint(self, painter: QPainter) -> None:
        """Its echoes at the same places, its bottom and fish, and how far apart the two passes were."""
        scan, display = self._session.scan, self._session.display
        theme, beside = display.theme, self._session.scan.comparison.other
        painter.fillRect(self.rect(), QColor(theme.echo[0]))
        down = beside.recording.down if beside is not None else None
        if beside is None or down is None or self.raster is None:
            return
        width, height = max(self.width(), 1), max(self.height(), 1)
        v = scan.view
        mine = np.clip(
            (v.first_ping + (np.arange(width) + 0.5) / width * v.pings).astype(np.intp), 0, beside.pings.size - 1
        )
        theirs = beside.pings[mine]
        if self._image is None:
            pixels = self.raster.render_pings(theirs, v.top_m, v.base_m, height, scan.gain_db)
            self._image = indexed_image(pixels, ramp(theme).tolist())
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_read(painter, theirs)
        painter.fillRect(QRectF(0, 0, width, 2), QColor(theme.rule))
        painter.setFont(font(display.text_size * 0.85, bold=True))
        words = beside.recording.title or beside.recording.name
        here = int(np.clip(scan.cursor.ping, 0, beside.pings.size - 1))
        if beside.pings[here] >= 0:
            away = display.words(float(beside.away_m[here]), Kind.DISTANCE, 0)
            when = self._session.clock(float(down.time[beside.pings[here]]))
            words += f"  ·  {when} here, {away} beside this pass"
        else:
            words += "  ·  never came near this place"
        wide = QFontMetricsF(painter.font()).horizontalAdvance(words) + 16
        painter.fillRect(QRectF(8, 8, wide, 24), shade(theme.panel, 225))
        painter.setPen(QColor(theme.ink))
        painter.drawText(QRectF(8, 8, wide, 24), Qt.AlignmentFlag.AlignCenter, words)
        x = (scan.cursor.ping + 0.5 - v.first_ping) / v.pings * width
        y = (scan.cursor.depth_m - v.top_m) / (v.base_m - v.top_m) * height
        painter.setPen(pen(theme.ink, 1.0, alpha=200))
        painter.drawLine(QPointF(x, 0), QPointF(x, height))
        painter.drawLine(QPointF(x - 6, y), QPointF(x + 6, y))

    def _paint_read(self, painter: QPainter, theirs: np.ndarray) -> None:
        """Its bottom, and its fish where the two passes lay together."""
        scan, theme = self._session.scan, self._session.display.theme
        beside = scan.comparison.other
        assert beside is not None
        assert beside.recording.down is not None
        reading, v, height = beside.reading, scan.view, self.height()
        if not reading.bottom.depth_m.size:
            return
        bed = np.where(theirs >= 0, reading.bottom.depth_m[np.maximum(theirs, 0)], np.nan)
        y = (bed - v.top_m) / (v.base_m - v.top_m) * height
        dot = QPen(QColor(theme.ink), 1.4)
        painter.setPen(dot)
        painter.drawPoints([QPointF(float(i), float(y[i])) for i in np.flatnonzero(np.isfinite(y))])
        dot = QPen(QColor(theme.brass), 7.0)
        dot.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(dot)
        columns = np.flatnonzero(theirs >= 0)
        if not columns.size:
            return
        times = beside.recording.down.time[theirs[columns]]
        for fish in reading.fish:
            k = int(np.abs(times - fish.time).argmin())
            if abs(float(times[k]) - fish.time) < 0.8:
                depth = (fish.depth_m - v.top_m) / (v.base_m - v.top_m) * height
                painter.drawPoint(QPointF(float(columns[k]), depth - 6))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The cursor is the echogram's."""
        scan = self._session.scan
        if scan.down is None:
            return
        v, at = scan.view, event.position()
        ping = v.first_ping + at.x() / max(self.width(), 1) * v.pings
        depth = v.top_m + at.y() / max(self.height(), 1) * (v.base_m - v.top_m)
        scan.set_cursor(math.floor(ping), depth)
