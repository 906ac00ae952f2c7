"""What stands beside the picture of a pass: another pass laid along it, or the chart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.sonar.reading import EMPTY, Reading
from plumbbob.core.sonar.recording import Recording


@dataclass(frozen=True, slots=True, eq=False)
class Compared:
    """Another pass laid along the open one: for each ping the one of the other pass taken nearest to it."""

    recording: Recording
    pings: NDArray[np.intp]  # (pings of the open pass,); -1 where the other never came near
    away_m: NDArray[np.float64]  # how far off that was
    reading: Reading = EMPTY


class Comparison(QObject):
    """Whether another pass, and whether the chart, stands beside the open one."""

    changed = Signal()
    chart_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._other: Compared | None = None
        self._with_chart = False

    @property
    def other(self) -> Compared | None:
        """The pass that is compared with the open one."""
        return self._other

    def lay(self, other: Compared | None) -> None:
        """Lay another pass along this one, or take it away."""
        if other is not self._other:
            self._other = other
            self.changed.emit()

    @property
    def with_chart(self) -> bool:
        """The chart stands beside the picture."""
        return self._with_chart

    def show_chart(self, on: bool) -> None:
        """Show the chart beside the picture, or not."""
        if on != self._with_chart:
            self._with_chart = on
            self.chart_changed.emit()
