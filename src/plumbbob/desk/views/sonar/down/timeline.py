"""The whole pass as a strip: where the picture stands in it, where fish were, what time it was."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.desk.kit.cached import CachedPicture
from plumbbob.desk.kit.paint import font, indexed_image, pen, shade
from plumbbob.desk.models.echogram_raster import Raster
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.viewport import Viewport
from plumbbob.desk.theme import ramp

HEIGHT = 62
_CLOCK_PX = 18


class Timeline(CachedPicture):
    """Needs the session; drawn once the overview of the pass is there."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__("timeline", parent)
        self._session = session
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        session.scan.view_changed.connect(self.update)
        session.scan.grew.connect(self.update)
        for signal in (session.scan.opened, session.scan.overview_ready, session.scan.read, session.scan.read_on):
            signal.connect(self._stale)
        session.view_changed.connect(self.update)
        session.display.changed.connect(self._stale)
        session.water_changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A strip."""
        return QSize(840, HEIGHT)

    def paint(self, painter: QPainter) -> None:
        """Clock above, strip below."""
        display, scan = self._session.display, self._session.scan
        theme = display.theme
        painter.fillRect(self.rect(), QColor(theme.panel))
        lead = scan.lead
        if lead is None or self._session.view.hides_pass:
            return
        self._paint_clock(painter)
        strip = QRectF(0, _CLOCK_PX, self.width(), self.height() - _CLOCK_PX)
        painter.fillRect(strip, QColor(theme.echo[0]))
        raster = scan.document.raster
        if raster is not None and (raster.has_overview or scan.is_live):
            if self._image is None:
                self._image = self._render(raster, int(strip.width()), int(strip.height()))
            painter.drawImage(strip.topLeft(), self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        n = len(lead)
        if scan.down is None:
            self._paint_seen(painter, strip)
        painter.setPen(Qt.PenStyle.NoPen)
        v = scan.view
        left, right = v.first_ping / n * self.width(), v.last_ping / n * self.width()
        painter.setBrush(shade(theme.ground, 150))
        painter.drawRect(QRectF(0, _CLOCK_PX, left, strip.height()))
        painter.drawRect(QRectF(right, _CLOCK_PX, self.width() - right, strip.height()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.brass, 1.6))
        painter.drawRect(QRectF(left + 0.8, _CLOCK_PX + 0.8, max(right - left - 1.6, 2), strip.height() - 1.6))

    def _paint_seen(self, painter: QPainter, strip: QRectF) -> None:
        """Without a view down: fish to port above the middle, to starboard below it."""
        scan, theme = self._session.scan, self._session.display.theme
        seen = self._session.side.reading.fish
        lead = scan.lead
        if lead is None:
            return
        painter.setPen(pen(theme.rule))
        painter.drawLine(QPointF(strip.left(), strip.center().y()), QPointF(strip.right(), strip.center().y()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.brass))
        for fish, ping in zip(seen, scan.document.pings_of([f.time for f in seen]), strict=True):
            out = fish.ground_m / max(lead.reach_m, 1.0) * strip.height() / 2
            y = strip.center().y() + (out if fish.side == "starboard" else -out)
            painter.drawEllipse(QPointF(ping / len(lead) * strip.width(), y), 2.0, 2.0)

    def _render(self, raster: Raster, width: int, height: int) -> QImage:
        lead = self._session.scan.lead
        assert lead is not None
        view = Viewport(0.0, float(len(lead)), 0.0, lead.deepest_m)
        pixels = raster.render(view, width, height, self._session.scan.gain_db)
        image = indexed_image(pixels, ramp(self._session.display.theme).tolist())
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self._session.display.theme.brass))
        for x in self._session.scan.document.fish_pings / len(lead) * width:
            painter.drawEllipse(QPointF(float(x), 4.0), 1.6, 1.6)
        painter.end()
        return image

    def _paint_clock(self, painter: QPainter) -> None:
        """Local times under the picture, for the part it shows."""
        display, scan = self._session.display, self._session.scan
        lead = scan.lead
        assert lead is not None
        v = scan.view
        low, high = max(int(v.first_ping), 0), min(int(v.last_ping), len(lead) - 1)
        if high <= low:
            return
        seconds = float(lead.time[high] - lead.time[low])
        steps = (1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14400)
        step = next((s for s in steps if seconds / s <= max(self.width() / 110, 2)), 28800)
        form = "%H:%M:%S" if step < 60 else "%H:%M"
        shift = self._session.water.offset_h(float(lead.time[low])) * 3600
        first = np.ceil((lead.time[low] + shift) / step) * step - shift
        painter.setFont(font(display.text_size * 0.8))
        painter.setPen(QColor(display.theme.muted_text))
        metrics = QFontMetricsF(painter.font())
        for t in np.arange(first, lead.time[high] + 1e-6, step):
            x = (scan.ping_of(float(t)) - v.first_ping) / v.pings * self.width()
            painter.drawLine(QPointF(x, 0), QPointF(x, 4))
            text = self._session.clock(float(t), form)
            wide = metrics.horizontalAdvance(text)
            if wide / 2 < x < self.width() - wide / 2:
                painter.drawText(QPointF(x - wide / 2, _CLOCK_PX - 3), text)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go there."""
        self._go(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag along."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event.position().x())

    def _go(self, x: float) -> None:
        scan = self._session.scan
        if scan.lead is None:
            return
        ping = x / max(self.width(), 1) * len(scan.lead)
        half = scan.view.pings / 2
        scan.set_view(Viewport(ping - half, ping + half, scan.view.top_m, scan.view.base_m))
        scan.set_cursor(int(ping), scan.cursor.depth_m)
