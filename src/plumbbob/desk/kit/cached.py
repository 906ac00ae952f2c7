"""A picture that is rendered once and drawn many times."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QResizeEvent
from PySide6.QtWidgets import QWidget

from plumbbob.desk.kit.painted import Painted


class CachedPicture(Painted):
    """Keeps its image until it is stale or has another size; whoever paints makes it where it is None."""

    def __init__(self, name: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self._image: QImage | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def is_painted(self) -> bool:
        """Its image is as it should be."""
        return self._image is not None

    def _stale(self) -> None:
        self._image = None
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Render anew."""
        self._stale()
