"""What every picture of our own is painted in."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QWidget


class Painted(QWidget):
    """
    A widget that paints itself in `paint`.

    The painter ends with its paint event whatever happens in between: one that is kept alive by the traceback of an
    error takes the whole window down at its next event.
    """

    def paintEvent(self, event: QPaintEvent) -> None:
        """One painter for one event."""
        with QPainter(self) as painter:
            self.paint(painter)

    def paint(self, painter: QPainter) -> None:
        """To be told by each."""
        raise NotImplementedError


class Levelled(Painted):
    """A picture whose depths the plumb line beside it follows: it tells its scale whenever that may be another."""

    def _changed(self) -> None:
        if self.isVisible():
            self._tell_scale()
            self.update()

    def showEvent(self, event: QShowEvent) -> None:
        """What has changed while nobody looked."""
        super().showEvent(event)
        self._tell_scale()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The plumb line beside it follows."""
        super().resizeEvent(event)
        if self.isVisible():
            self._tell_scale()

    def _tell_scale(self) -> None:
        """To be told by each."""
        raise NotImplementedError
