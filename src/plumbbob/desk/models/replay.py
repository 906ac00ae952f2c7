"""Playing a pass: on or not, and how fast."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal


class Replay(QObject):
    """Needs to know whether there is a pass. In times of recorded time; the clock is elsewhere."""

    changed = Signal()

    def __init__(self, ready: Callable[[], bool], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._ready = ready
        self._on, self._speed = False, 1

    @property
    def on(self) -> bool:
        """The pass is being played."""
        return self._on

    @property
    def speed(self) -> int:
        """Times recorded time."""
        return self._speed

    def set(self, on: bool, speed: int | None = None) -> None:
        """Play or pause; where there is nothing to play nothing happens."""
        speed = self._speed if speed is None else speed
        if (on, speed) != (self._on, self._speed) and (not on or self._ready()):
            self._on, self._speed = on, speed
            self.changed.emit()
