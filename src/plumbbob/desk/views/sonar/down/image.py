"""The picture of a pass: where pings and depths are on screen, and the echoes with the bottom's line in them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import (
    QColor,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.sonar.reading import Bait, Fish, StandingObject
from plumbbob.desk.kit.plot import Axis
from plumbbob.desk.models.session import Session
from plumbbob.desk.theme import ramp
from plumbbob.desk.views.sonar.timed_picture import PingPicture

_LINE_INDEX = 255  # of the colour table: the bottom's line
_DEAD_INDEX = 0  # the dead zone's rim is cut out of the echo: the ground shows


class EchogramImage(PingPicture):
    """Needs the session; renders the recording's view down once for each part of it that is shown."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "echogram", parent)
        self._colours: list[int] = []
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        scan = session.scan
        scan.opened.connect(self._stale)
        scan.overview_ready.connect(self._stale)
        scan.view_changed.connect(self._stale)
        scan.gain_changed.connect(self._stale)
        for signal in (scan.read, scan.read_on, scan.grew):
            signal.connect(self._stale)
        self._drawn: list[QPointF] = []
        self._dragged: Fish | Bait | StandingObject | None = None
        for signal in (scan.cursor_changed, scan.chosen_changed, scan.drawing.changed, session.logbook.changed):
            signal.connect(self.update)
        session.rig.changed.connect(self.update)
        session.display.changed.connect(self._themed)
        self._themed()

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

    def _themed(self) -> None:
        theme = self._session.display.theme
        self._colours = ramp(theme).tolist()
        self._colours[_LINE_INDEX] = QColor(theme.ink).rgb()
        self._stale()

    @property
    def depths(self) -> Axis:
        """Its scale of depths."""
        v = self._session.scan.view
        return Axis(v.top_m, v.base_m, 0.0, self.height())

    def y_of(self, depth_m: float) -> float:
        """Pixel row of a depth."""
        return self.depths.px(depth_m)

    def depth_at(self, y: float) -> float:
        """Depth of a pixel row."""
        return self.depths.value(y)

    def place_of(self, fish: Fish) -> QPointF:
        """Where a fish is on screen."""
        return QPointF(self.x_of(self._session.scan.ping_of(fish.time)), self.y_of(fish.depth_m))

    def _line(self, pings: NDArray[np.float64], depths: NDArray[np.float64], lift: float = 0.0) -> list[QPointF]:
        """Points of a line that matter on screen: those in view and one beyond, no more than one every few pixels."""
        v = self._session.scan.view
        low = max(int(np.searchsorted(pings, v.first_ping)) - 1, 0)
        high = min(int(np.searchsorted(pings, v.last_ping)) + 1, pings.size)
        every = max((high - low) * 4 // max(self.width(), 1), 1)
        x, y = self.pings.px(pings[low:high:every]), self.depths.px(depths[low:high:every]) + lift
        return [QPointF(a, b) for a, b in zip(x.tolist(), y.tolist(), strict=True)]

    def _draw_beds(self, pixels: NDArray[np.uint8]) -> None:
        """The bottom's line; over it the rim of the dead zone; on slopes the depth straight below, in dashes."""
        bottom = self._session.scan.reading.bottom
        if not bottom.depth_m.size:
            return
        v = self._session.scan.view
        height, width = pixels.shape
        per_px = (v.base_m - v.top_m) / max(height, 1)
        columns = (v.first_ping + (np.arange(width) + 0.5) / width * v.pings).astype(int)
        pings = np.clip(columns, 0, bottom.depth_m.size - 1)
        bed = bottom.depth_m[pings]
        if bottom.dead_zone_m.size:
            dead = bottom.dead_zone_m[pings]
            self._draw_bottom(pixels, np.where(dead > 4 * per_px, bed - dead, np.nan), _LINE_INDEX, every=4)
        if bottom.below_m.size:
            below = bottom.below_m[pings]
            apart = np.abs(below - bed) > max(3 * per_px, 0.12)
            self._draw_bottom(pixels, np.where(apart, below, np.nan), _DEAD_INDEX, every=2)
        self._draw_bottom(pixels, bed, _LINE_INDEX)

    def _draw_bottom(self, pixels: NDArray[np.uint8], beds: NDArray[np.float64], index: int, every: int = 1) -> None:
        """A depth for each column, straight into the picture: a path a frame costs more than the whole picture."""
        v = self._session.scan.view
        height, width = pixels.shape
        y = (beds - v.top_m) / (v.base_m - v.top_m) * height
        good = np.isfinite(y) & (y >= 0) & (y < height) & (np.arange(width) % every == 0)
        row = np.where(good, y, 0).astype(int)
        # where the line climbs, a column spans half the way to each neighbour
        joined = good[1:] & good[:-1]
        half = np.where(joined, np.diff(row), 0) / 2
        low, high = row.copy(), row.copy()
        low[:-1] = np.minimum(low[:-1], row[:-1] + half)
        high[:-1] = np.maximum(high[:-1], row[:-1] + half)
        low[1:] = np.minimum(low[1:], row[1:] - half)
        high[1:] = np.maximum(high[1:], row[1:] - half)
        longest = int((high - low)[good].max(initial=0))
        columns = np.flatnonzero(good)
        for step in range(min(longest, height) + 1):
            at = low[columns] + step
            inside = (at <= high[columns]) & (at < height)
            pixels[at[inside], columns[inside]] = index
