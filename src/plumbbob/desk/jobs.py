"""Long work off the UI thread: one job with progress and cancel, one runner that owns all live ones."""

from __future__ import annotations

import contextlib
import ctypes
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QObject, QThreadPool, Signal

Progress = Callable[[float], None]
_GIVE_BACK_S = 5.0
_TICK_S = 0.05


class Cancelled(Exception):
    """Raised inside a job's work when it has been told to stop. Never shown."""


# no QObject: one for each, wired up with closures that know it, would never be let go of
@dataclass(eq=False)
class Job:
    """One piece of work: `work(progress)` runs in a pool thread and must touch no live object."""

    title: str
    work: Callable[[Progress], Any]
    done: Callable[[Any], None]
    fraction: float = 0.0  # share done
    after: list[Callable[[], object]] = field(default_factory=list)
    _stop: threading.Event = field(default_factory=threading.Event)

    def then(self, act: Callable[[], object]) -> None:
        """Do this in the UI thread once the work has ended, well or not."""
        self.after.append(act)

    def cancel(self) -> None:
        """Stop at the next tick; neither its result nor its failure will come."""
        self._stop.set()

    @property
    def is_cancelled(self) -> bool:
        """Told to stop."""
        return self._stop.is_set()


def _give_back() -> None:
    """Give memory that is free back to the system: the C library keeps what the pool's threads have used."""
    with contextlib.suppress(OSError, AttributeError):  # not every C library can
        ctypes.CDLL(None).malloc_trim(0)


class JobRunner(QObject):
    """Owns the live jobs; says what is going on."""

    changed = Signal()  # a job started, moved on or ended
    failed = Signal(object)
    _moved = Signal(object, float)
    _came = Signal(object, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # sent from the pool's threads, so they wait for the UI thread
        self._moved.connect(self._show_moved)
        self._came.connect(self._take)
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(2)
        # some libraries keep state by thread: let no thread go while the window stands
        self._pool.setExpiryTimeout(-1)
        self._gave_back = 0.0
        self._live: list[Job] = []

    @property
    def live(self) -> tuple[Job, ...]:
        """Jobs that have not ended."""
        return tuple(self._live)

    def start(
        self, title: str, work: Callable[[Progress], Any], done: Callable[[Any], None], *, brief: bool = False
    ) -> Job:
        """Run work in the background, before all that waits if it is brief; `done` is called in the UI thread."""
        job = Job(title, work, done)
        self._live.append(job)
        self._pool.start(lambda: self._run(job), int(brief))
        self.changed.emit()
        return job

    def _run(self, job: Job) -> None:
        """Called by the pool."""
        last = 0.0

        def tick(fraction: float) -> None:
            nonlocal last
            if job.is_cancelled:
                raise Cancelled
            now = time.monotonic()
            if now - last > _TICK_S or fraction >= 1.0:
                last = now
                self._moved.emit(job, fraction)

        result, trouble = None, None
        try:
            if not job.is_cancelled:
                result = job.work(tick)
        except Cancelled:
            job.cancel()
        except Exception as exc:
            # whatever it was, it is shown by the runner's listener, never swallowed
            trouble = exc
        self._came.emit(job, result, trouble)

    def _show_moved(self, job: Job, fraction: float) -> None:
        job.fraction = fraction
        self.changed.emit()

    def _take(self, job: Job, result: Any, trouble: Exception | None) -> None:
        try:
            if job.is_cancelled:
                return
            if trouble is not None:
                self.failed.emit(trouble)
            else:
                job.done(result)
        finally:
            self._end(job)

    def _end(self, job: Job) -> None:
        self._live.remove(job)
        now = time.monotonic()
        if not self._live and now - self._gave_back > _GIVE_BACK_S:
            self._gave_back = now
            self._pool.start(_give_back)
        for act in job.after:
            act()
        self.changed.emit()

    def shut_down(self) -> None:
        """Cancel everything and wait."""
        for job in self._live:
            job.cancel()
        self._pool.waitForDone(10_000)
