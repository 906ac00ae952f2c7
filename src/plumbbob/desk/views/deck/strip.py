"""The last seconds under the boat, level with the plumb line: the newest ping at the right, the bob across it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.live.hole import Closing, closing_fish, still_tracks
from plumbbob.core.sonar.reading import Trail
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
        self.tracks: tuple[Trail, ...] = ()
        self.closing: Closing | None = None
        self._looked = 0.0
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
    def is_still(self) -> bool:
        """The boat lies still, or there is a hole and no boat."""
        return self.seconds <= STILL_S

    def look(self) -> None:
        """Lure and fish below a boat that lies still; some times a second, while it is on screen."""
        scan = self._session.scan
        if not (self.is_still and scan.is_live and scan.down is not None):
            self.tracks, self.closing = (), None
            return
        now, before = float(scan.down.time[-1]), self.closing
        if now == self._looked:
            return
        self._looked = now
        self.tracks = still_tracks(scan.down, scan.bottom_m)
        lure = before.lure_m if before is not None else self._session.rig.bob_m
        self.closing = closing_fish(self.tracks, now, lure)
        self.update()

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

    def _y(self, view: Viewport, depth_m: float) -> float:
        return (depth_m - view.top_m) / (view.base_m - view.top_m) * self.height()

    def _line(self, view: Viewport, pings: NDArray[np.float64], depths: NDArray[np.float64]) -> QPolygonF:
        """Points of a line, no more than one every few pixels."""
        every = max(pings.size * 3 // max(self.width(), 1), 1)
        x = (pings[::every] - view.first_ping) / max(view.pings, 1.0) * self.width()
        y = (depths[::every] - view.top_m) / (view.base_m - view.top_m) * self.height()
        good = np.isfinite(y)
        return QPolygonF([QPointF(p, q) for p, q in zip(x[good].tolist(), y[good].tolist(), strict=True)])

    def _paint_read(self, painter: QPainter, view: Viewport) -> None:
        scan, theme = self._session.scan, self._session.display.theme
        document = scan.document
        low, high = int(view.first_ping), min(int(view.last_ping), document.beds.size)
        painter.setPen(pen(theme.ink, 1.6))
        painter.drawPolyline(self._line(view, np.arange(low, high, dtype=np.float64) + 0.5, document.beds[low:high]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for bait, span in zip(scan.reading.bait, document.bait_pings.tolist(), strict=True):
            if len(bait.outline) >= 3 and span[1] > view.first_ping:
                rim = np.array(bait.outline)
                around = np.concatenate([rim[:, [0, 1]], rim[::-1][:, [0, 2]]])
                painter.setPen(pen(theme.lichen, 1.6, style=Qt.PenStyle.DotLine))
                painter.drawPolygon(self._line(view, document.pings_of(around[:, 0]), around[:, 1]))
        for track in self.tracks:
            is_fish = self.closing is not None and abs(track.depth_m[-1] - self.closing.depth_m) < 0.01
            painter.setPen(pen(theme.vermilion if is_fish else theme.brass, 1.6))
            painter.drawPolyline(self._line(view, document.pings_of(track.time), np.array(track.depth_m)))
        if self.is_still:
            return
        shown = document.fish_pings >= view.first_ping
        for ping, depth in zip(
            document.fish_pings[shown].tolist(), document.fish_depths[shown].tolist(), strict=True
        ):
            at = QPointF((ping - view.first_ping) / max(view.pings, 1.0) * self.width(), self._y(view, depth) - 6)
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
