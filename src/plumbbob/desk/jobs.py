"""Long work off the UI thread: one job with progress and cancel, one runner that owns all live ones."""

from __future__ import annotations

import contextlib
import ctypes
import threading
import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, Signal

Progress = Callable[[float], None]
_GIVE_BACK_S = 5.0


class Cancelled(Exception):
    """Raised inside a job's work when it has been told to stop. Never shown."""


class Job(QObject):
    """One piece of work: `work(progress)` runs in a pool thread and must touch no live object."""

    progress = Signal(float)
    done = Signal(object)
    failed = Signal(object)
    finished = Signal()

    def __init__(self, title: str, work: Callable[[Progress], Any]) -> None:
        super().__init__()
        self.title = title
        self._work = work
        self._stop = threading.Event()
        self._last = 0.0

    def cancel(self) -> None:
        """Stop at the next tick; neither `done` nor `failed` will come."""
        self._stop.set()

    @property
    def is_cancelled(self) -> bool:
        """Told to stop."""
        return self._stop.is_set()

    def _tick(self, fraction: float) -> None:
        if self._stop.is_set():
            raise Cancelled
        now = time.monotonic()
        if now - self._last > 0.05 or fraction >= 1.0:
            self._last = now
            self.progress.emit(fraction)

    def run(self) -> None:
        """Called by the pool."""
        try:
            result = self._work(self._tick)
        except Cancelled:
            pass
        except Exception as exc:
            # whatever it was, it is shown by the runner's listener, never swallowed
            if not self._stop.is_set():
                self.failed.emit(exc)
        else:
            if not self._stop.is_set():
                self.done.emit(result)
        self.finished.emit()


def _give_back() -> None:
    """Give memory that is free back to the system: the C library keeps what the pool's threads have used."""
    with contextlib.suppress(OSError, AttributeError):  # not every C library can
        ctypes.CDLL(None).malloc_trim(0)


class JobRunner(QObject):
    """Owns the live jobs; says what is going on."""

    changed = Signal()  # a job started, moved on or ended
    failed = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        # some libraries keep state by thread: let no thread go while the window stands
        self._pool.setExpiryTimeout(-1)
        self._gave_back = 0.0
        self._live: list[Job] = []
        self._fraction: dict[int, float] = {}

    @property
    def live(self) -> tuple[Job, ...]:
        """Jobs that have not ended."""
        return tuple(self._live)

    def fraction(self, job: Job) -> float:
        """Share done."""
        return self._fraction.get(id(job), 0.0)

    def start(
        self, title: str, work: Callable[[Progress], Any], done: Callable[[Any], None], *, brief: bool = False
    ) -> Job:
        """Run work in the background, before all that waits if it is brief; `done` is called in the UI thread."""
        job = Job(title, work)
        job.done.connect(done)
        job.failed.connect(self.failed)
        job.progress.connect(lambda fraction: self._moved(job, fraction))
        job.finished.connect(lambda: self._ended(job))
        self._live.append(job)
        self._pool.start(job.run, int(brief))
        self.changed.emit()
        return job

    def _moved(self, job: Job, fraction: float) -> None:
        if job in self._live:
            self._fraction[id(job)] = fraction
        self.changed.emit()

    def _ended(self, job: Job) -> None:
        self._live.remove(job)
        self._fraction.pop(id(job), None)
        now = time.monotonic()
        if not self._live and now - self._gave_back > _GIVE_BACK_S:
            self._gave_back = now
            self._pool.start(_give_back)
        self.changed.emit()

    def shut_down(self) -> None:
        """Cancel everything and wait."""
        for job in self._live:
            job.cancel()
        self._pool.waitForDone(10_000)
