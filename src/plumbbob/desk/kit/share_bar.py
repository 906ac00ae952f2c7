"""A thin bar: so much of the whole."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.display import Display


class ShareBar(Painted):
    """Painted with the next frame; Qt's own bar paints the whole window at once each time it moves."""

    def __init__(self, display: Display) -> None:
        super().__init__()
        self._look, self._share = display, 0.0
        self.setFixedHeight(6)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_share(self, share: float) -> None:
        """From 0 to 1."""
        self._share = min(max(share, 0.0), 1.0)
        self.update()

    def paint(self, painter: QPainter) -> None:
        """The whole, and the share."""
        theme = self._look.theme
        painter.fillRect(self.rect(), QColor(theme.rule))
        painter.fillRect(QRectF(0, 0, self.width() * self._share, self.height()), QColor(theme.brass))
