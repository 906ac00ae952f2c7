"""SIGTERM and SIGINT end the window as closing it does: state kept, jobs ended, and a status that says which."""

from __future__ import annotations

import signal
import socket
from collections.abc import Callable
from types import FrameType

from PySide6.QtCore import QObject, QSocketNotifier


class SignalWatch(QObject):
    """Calls `stop`, once there is one, in the interface's own thread when a signal has come."""

    def __init__(self) -> None:
        super().__init__()
        self.number = 0  # of the signal that came; 0: none
        self.stop: Callable[[], object] = lambda: None
        # Python only looks at signals between its own steps: a byte through a socket wakes the event loop
        self._read, self._write = socket.socketpair()
        self._read.setblocking(False)
        self._write.setblocking(False)
        self._notifier = QSocketNotifier(self._read.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._woken)
        signal.set_wakeup_fd(self._write.fileno(), warn_on_full_buffer=False)
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, self._came)

    @property
    def status(self) -> int:
        """Exit status that says which signal it was; 0 without one."""
        return 128 + self.number if self.number else 0

    def _came(self, number: int, frame: FrameType | None) -> None:
        self.number = number

    def _woken(self) -> None:
        self._read.recv(64)
        if self.number:
            self.stop()
