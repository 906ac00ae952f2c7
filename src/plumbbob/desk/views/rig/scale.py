"""The rods in the water to true scale: where depths and distances are on screen."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QResizeEvent
from PySide6.QtWidgets import QSizePolicy

from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

_RIGHT, _LEFT, _TOP, _FOOT = 96.0, 26.0, 58.0, 14.0
_LEAST_REACH_M, _LEAST_DEEP_M = 12.0, 6.0


class SpreadScale(Painted):
    """Needs the session; finds the scale that holds all rods."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("spread")
        self._session = session
        self._held: int | None = None
        self._from: tuple[float, float] | None = None  # where the boat was, and the mouse
        self._layer_box = QRectF()
        self._lure_boxes: list[tuple[int, QRectF]] = []
        self._behind_image: QImage | None = None
        self._behind_key: tuple[object, ...] = ()
        self.across_px = self.down_px = 10.0  # pixels to a metre, across and down
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        for signal in (session.rig.changed, session.lines.changed, session.lines.moved, session.display.changed):
            signal.connect(self._changed)
        session.column_changed.connect(self.update)

    def _changed(self) -> None:
        if self._held is None:
            self._scale_to_fit()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The span of depths follows the size."""
        super().resizeEvent(event)
        self._scale_to_fit()

    def _scale_to_fit(self) -> None:
        """One scale for both ways that holds all lures, and the bottom if it is not much deeper."""
        session = self._session
        shown = [a for a in session.rig.shown_all if a is not None]
        reach = max([_LEAST_REACH_M, *(max(p[0] for p in a.shape) * 1.06 + 1 for a in shown)])
        deep = max([_LEAST_DEEP_M, *(max(p[1] for p in a.shape) * 1.25 + 1 for a in shown)])
        run = session.lines.run
        if run is not None:
            deep = max([deep, *(line.deepest_m * 1.1 + 0.5 for line in run.lines)])
        floor = self._deepest_ground(reach)
        if math.isfinite(floor) and floor < 2.2 * deep:
            deep = max(deep, floor * 1.06)
        wide, high = self.width() - _RIGHT - _LEFT, self.height() - _TOP - _FOOT
        fits = max(min(wide / reach, high / deep), 0.5)
        # a scale that nearly fits stays: what lies behind the rods need not be drawn anew with each step of the hand
        if not 0.92 * fits <= self.across_px <= 1.02 * fits:
            self.across_px = fits
        self.down_px = max(high / deep, self.across_px) if session.lines.stretched else self.across_px
        session.lines.set_span(-_TOP / self.down_px, (self.height() - _TOP) / self.down_px)

    def _deepest_ground(self, reach: float) -> float:
        boat = self._session.lines
        depths = boat.ground.bottom_at(np.linspace(boat.boat_m - reach, boat.boat_m + 6.0, 60))
        return float(np.nanmax(depths)) if np.isfinite(depths).any() else math.nan

    @property
    def stern_x(self) -> float:
        """Pixel column of the rods' tips."""
        return self.width() - _RIGHT

    def at(self, aft: float, depth: float) -> QPointF:
        """Pixel of a place behind the boat."""
        return QPointF(self.stern_x - aft * self.across_px, _TOP + depth * self.down_px)

    def lure_at(self, index: int) -> QPointF | None:
        """Pixel of a rod's lure as drawn."""
        answer = self._session.rig.shown_all[index]
        return None if answer is None else self.at(*answer.lure)
