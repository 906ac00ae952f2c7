"""The review of the log, made in the background whenever the stage is on screen and the log or the cut is another."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from plumbbob.core.types import Progress
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError

if TYPE_CHECKING:
    from plumbbob.formats.log_frames import LogFrames
    from plumbbob.services.review import Choices, LogReview

_SETTLES_MS = 150


class LogReviewer(QObject):
    """Needs the session."""

    _part = Signal(int, object, float)  # from the worker: which run, what there is so far, the share done

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._frames: LogFrames | None = None
        self._job: Job[tuple[LogFrames, Choices, LogReview, LogReview | None]] | None = None
        self._run = 0
        self._stale = True
        self._settling = QTimer(self)
        self._settling.setSingleShot(True)
        self._settling.setInterval(_SETTLES_MS)
        self._settling.timeout.connect(self.look)
        session.logbook.changed.connect(self._log_changed)
        session.review.cut_changed.connect(self._cut_changed)
        session.view_changed.connect(self._settling.start)
        self._part.connect(self._take_part)

    def _log_changed(self) -> None:
        self._stale, self._frames = True, None
        self._settling.start()

    def _cut_changed(self) -> None:
        self._stale = True
        self._settling.start()

    def look(self) -> None:
        """Make it, if somebody looks and it is another."""
        session = self._session
        if not self._stale or session.stage != "review" or not session.logbook.is_open:
            return
        self._stale = False
        if self._job is not None:
            self._job.cancel()
        self._run += 1
        run, frames, path = self._run, self._frames, session.logbook.log.path
        cut, beside = session.review.cut, session.review.beside

        def work(progress: Progress) -> tuple[LogFrames, Choices, LogReview, LogReview | None]:
            from plumbbob.formats.log_frames import frames_of
            from plumbbob.services.log_archive import cells_by_table
            from plumbbob.services.review import Cut, choices_of, cut_frames, review_frames
            from plumbbob.store.database import make_engine
            from plumbbob.store.log import Log

            held = frames
            if held is None:
                with closing(Log(make_engine(path), path)) as log:
                    held = frames_of(cells_by_table(log))

            def told(made: LogReview, share: float) -> None:
                progress(share)
                self._part.emit(run, made, share)

            made = review_frames(cut_frames(held, cut or Cut()), told)
            other = (
                None if beside is None else review_frames(cut_frames(held, beside), lambda _, share: progress(share))
            )
            return held, choices_of(held), made, other

        self._job = session.jobs.start("Reviewing the log", work, lambda result: self._take(run, result))

    def report(self, out: Path, *, places: bool) -> None:
        """What is on screen as pages; what was taken out is told."""
        session = self._session
        made, units = session.review.made, session.display.system_of
        if made is None:
            return

        def work(progress: Progress) -> list[str] | FileError:
            from plumbbob.services.review_report import write_review

            try:
                return write_review(out, made, units, places=places)
            except FileError as exc:
                return exc

        def told(result: list[str] | FileError) -> None:
            if isinstance(result, FileError):
                session.say(str(result), wrong=True)
                return
            without = f" Left out: {', '.join(result)}." if result else ""
            session.say(f"The review is in {out.name}.{without}")

        session.jobs.start("Writing the review", work, told)

    def _take_part(self, run: int, made: LogReview, share: float) -> None:
        if run == self._run and share >= 0.5:
            self._session.review.take(made, min(share, 0.99))

    def _take(self, run: int, result: tuple[LogFrames, Choices, LogReview, LogReview | None]) -> None:
        if run != self._run:
            return
        self._frames, self._session.review.choices, made, other = result
        self._session.review.take(made, 1.0)
        self._session.review.take_other(other)
