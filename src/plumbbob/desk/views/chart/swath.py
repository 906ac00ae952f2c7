"""Swaths of the view to the sides, drawn on the chart as pictures of their own."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter

from plumbbob.core.sonar.mosaic import Mosaic
from plumbbob.desk.models.session import Session
from plumbbob.desk.theme import ramp

_LOW_DB, _HIGH_DB = -12.0, 12.0
_ALPHA = 215


class Swaths:
    """Needs the session; keeps one image for each mosaic and theme."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._images: dict[int, tuple[Mosaic, object, QImage]] = {}

    def paint(self, painter: QPainter, at: Callable[[float, float], QPointF]) -> None:
        """Oldest first, so that the newest pass lies on top."""
        chart = self._session.chart
        if not chart.swaths_shown:
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for mosaic in chart.swaths:
            frame = mosaic.frame
            north_west = at(frame.x0_m, frame.y0_m + frame.ny * frame.cell_m)
            south_east = at(frame.x0_m + frame.nx * frame.cell_m, frame.y0_m)
            painter.drawImage(QRectF(north_west, south_east), self._image(mosaic))

    def _image(self, mosaic: Mosaic) -> QImage:
        theme = self._session.display.theme
        kept = self._images.get(id(mosaic))
        if kept is not None and kept[0] is mosaic and kept[1] is theme:
            return kept[2]
        level = mosaic.level_db[::-1]
        index = np.clip((np.nan_to_num(level) - _LOW_DB) / (_HIGH_DB - _LOW_DB) * 255, 0, 255).astype(np.intp)
        colours = (ramp(theme).astype(np.uint32) & 0x00FFFFFF) | (_ALPHA << 24)
        pixels = np.where(np.isfinite(level), colours[index], 0).astype(np.uint32)
        height, width = pixels.shape
        image = QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_ARGB32).copy()
        self._images = {k: v for k, v in self._images.items() if v[0] in self._session.chart.swaths}
        self._images[id(mosaic)] = (mosaic, theme, image)
        return image
