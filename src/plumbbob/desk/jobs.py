"""Long work off the UI thread: one job with progress and cancel, one runner that owns all live ones."""

from __future__ import annotations

import contextlib
import ctypes
import itertools
import queue
import threading
import time
import weakref
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from PySide6.QtCore import QObject, Signal

from plumbbob.core.types import Progress

_GIVE_BACK_S = 5.0
_TICK_S = 0.05
_PATIENCE_S = 10.0
_THREADS, _STOP = 2, 1_000


R = TypeVar("R")  # what a job's work gives


class Cancelled(Exception):
    """Raised inside a job's work when it has been told to stop. Never shown."""


# no QObject: one for each, wired up with closures that know it, would never be let go of
@dataclass(eq=False)
class Job(Generic[R]):
    """One piece of work: `work(progress)` runs in a worker's thread and must touch no live object."""

    title: str
    work: Callable[[Progress], R]
    done: Callable[[R], None]
    fraction: float = 0.0  # share done
    after: list[Callable[[], object]] = field(default_factory=list)
    quiet: bool = False  # it comes again and again, and nobody waits for it
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
    """Give memory that is free back to the system: the C library keeps what the workers have used."""
    with contextlib.suppress(OSError, AttributeError):  # not every C library can
        ctypes.CDLL(None).malloc_trim(0)


class _Workers:
    """
    A few Python threads that take work in order of its urgency.

    Qt's own pool gives Python a new thread state for every piece of work. Libraries that keep state by thread lose it
    in between: with the projections of PROJ that ends the program within a few of a thousand jobs.
    """

    def __init__(self, count: int) -> None:
        self._count = count
        self._queue: queue.PriorityQueue[tuple[int, int, Callable[[], None] | None]] = queue.PriorityQueue()
        self._order = itertools.count()
        self._threads: list[threading.Thread] = []

    def take(self, work: Callable[[], None], urgency: int = 0) -> None:
        """Do this before all that waits with less urgency."""
        self._queue.put((-urgency, next(self._order), work))
        if not self._threads:
            self._threads = [
                threading.Thread(target=self._go_on, args=(self._queue,), daemon=True) for _ in range(self._count)
            ]
            for thread in self._threads:
                thread.start()

    @staticmethod
    def _go_on(waiting: queue.PriorityQueue[tuple[int, int, Callable[[], None] | None]]) -> None:
        while True:
            work = waiting.get()[2]
            if work is None:
                return
            work()
            del work  # or it would be held until there is more to do

    def dismiss(self) -> None:
        """Let every thread go after what it is at."""
        for _ in self._threads:
            self._queue.put((-_STOP, next(self._order), None))

    def wait(self, seconds: float) -> None:
        """Until the dismissed have gone, or so long."""
        end = time.monotonic() + seconds
        for thread in self._threads:
            thread.join(max(end - time.monotonic(), 0.0))
        self._threads = []


class JobRunner(QObject):
    """Owns the live jobs; says what is going on."""

    changed = Signal()  # a job started, moved on or ended
    failed = Signal(object)
    _moved = Signal(object, float)
    _came = Signal(object, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        # sent from the workers' threads, so they wait for the UI thread
        self._moved.connect(self._show_moved)
        self._came.connect(self._take)
        self._workers = _Workers(_THREADS)
        weakref.finalize(self, self._workers.dismiss)
        self._gave_back = 0.0
        self._live: list[Job[Any]] = []
        self._quiet: list[Job[Any]] = []

    @property
    def live(self) -> tuple[Job[Any], ...]:
        """Jobs that have not ended."""
        return tuple(self._live)

    def start_quietly(self, work: Callable[[Progress], R], done: Callable[[R], None]) -> Job[R]:
        """As `start`, before all that waits, for what comes again and again: it is not shown."""
        job = Job("", work, done, quiet=True)
        self._quiet.append(job)
        self._workers.take(lambda: self._run(job), 1)
        return job

    def start(
        self, title: str, work: Callable[[Progress], R], done: Callable[[R], None], *, brief: bool = False
    ) -> Job[R]:
        """Run work in the background, before all that waits if it is brief; `done` is called in the UI thread."""
        job = Job(title, work, done)
        self._live.append(job)
        self._workers.take(lambda: self._run(job), int(brief))
        self.changed.emit()
        return job

    def _run(self, job: Job[Any]) -> None:
        """In a worker's thread."""
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

    def _show_moved(self, job: Job[Any], fraction: float) -> None:
        if job.quiet:
            return
        job.fraction = fraction
        self.changed.emit()

    def _take(self, job: Job[Any], result: Any, trouble: Exception | None) -> None:
        try:
            if job.is_cancelled:
                return
            if trouble is not None:
                self.failed.emit(trouble)
            else:
                job.done(result)
        finally:
            self._end(job)

    def _end(self, job: Job[Any]) -> None:
        if job.quiet:
            self._quiet.remove(job)
            for act in job.after:
                act()
            return
        self._live.remove(job)
        now = time.monotonic()
        if not self._live and now - self._gave_back > _GIVE_BACK_S:
            self._gave_back = now
            self._workers.take(_give_back)
        for act in job.after:
            act()
        self.changed.emit()

    def shut_down(self) -> None:
        """Cancel everything and wait."""
        for job in (*self._live, *self._quiet):
            job.cancel()
        self._workers.dismiss()
        self._workers.wait(_PATIENCE_S)
