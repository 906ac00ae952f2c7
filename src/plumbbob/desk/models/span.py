"""A state whose picture has a scale of depth that the plumb line beside it shares."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal


class Spanned(QObject):
    """The depths at the top and the foot of a picture."""

    span_changed = Signal()
    _span: tuple[float, float] = (-1.0, 15.0)

    @property
    def span(self) -> tuple[float, float]:
        """Depths at the top and the foot of the picture."""
        return self._span

    def set_span(self, top_m: float, base_m: float) -> None:
        """The picture says which depths it shows, for the plumb line beside it."""
        if (top_m, base_m) != self._span:
            self._span = (top_m, base_m)
            self.span_changed.emit()
