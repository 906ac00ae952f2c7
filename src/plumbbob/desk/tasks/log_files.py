"""Logs in and out of the window, in the background: open files, tables of catches, what is shared, good copies."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QObject, Signal

from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.catch_csv import CaughtRow, Sheet, read_sheet
from plumbbob.services.log_archive import Imported
from plumbbob.services.share_cells import Positions
from plumbbob.store.errors import StoreError

if TYPE_CHECKING:
    from plumbbob.store.log import Log

R = TypeVar("R")


@dataclass(frozen=True, slots=True)
class _Came:
    """What an import brought."""

    words: str
    batch: int
    is_new: bool
    before: tuple[Any, ...] = ()  # rows that have got a newer version, and these
    after: tuple[tuple[Any, float], ...] = ()


class LogFiles(QObject):
    """Needs the session. The log itself is written by one hand at a time: here by a second one on the same file."""

    closed = Signal(object)  # the path of a log that is to be opened again

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.pending: Sheet | None = None  # a table of catches somebody is asked about

    def open(self, path: Path) -> None:
        """A log in whatever form: open files, another log's own file, a table of catches."""
        from plumbbob.store.database import is_database

        try:
            if path.name == "log.json":
                self.bring(path.parent)
            elif path.suffix.lower() == ".zip" or path.is_dir():
                self.bring(path)
            elif is_database(path):
                self.bring_other(path)
            else:
                self.look_at_catches(path)
        except OSError as exc:
            self._session.say(f"{path.name}: {why(exc)}", wrong=True)

    def look_at_catches(self, path: Path) -> None:
        """A table of catches; what its columns are is asked."""

        def told(result: Sheet | Exception) -> None:
            if isinstance(result, Exception):
                self._session.say(str(result), wrong=True)
                return
            self.pending = result
            self._session.ask_sheet("")  # one that is open asks about the table before
            self._session.ask_sheet("catch_csv")

        self._session.jobs.start(f"Reading {path.name}", _guarded(lambda progress: read_sheet(path)), told)

    def bring_other(self, path: Path) -> None:
        """Another log's own file, which is not changed: a copy of it is read."""

        def work(progress: Progress) -> _Came:
            from plumbbob.services.log_archive import export_log, import_log
            from plumbbob.store.opening import copied

            with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder:
                with copied(path, Path(folder)) as other:
                    export_log(other, Path(folder) / "log")
                with closing(self._second()) as log:
                    return _came(import_log(log, Path(folder) / "log", progress=progress))

        self._came(f"Bringing in {path.name}", work)

    def export(self, out: Path) -> None:
        """The whole log as open files."""

        def work(progress: Progress) -> str:
            from plumbbob.services.log_archive import export_log

            with closing(self._second()) as log:
                counts = export_log(log, out, progress)
            return f"{sum(counts.values())} rows written to {out.name}."

        self._start("Writing the log", work)

    def share(self, out: Path, positions: Positions, done: Callable[[tuple[str, ...]], None]) -> None:
        """For others; what was taken out is told."""

        def work(progress: Progress) -> tuple[str, ...]:
            from plumbbob.services.log_archive import export_log
            from plumbbob.services.share import share

            with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder, closing(self._second()) as log:
                export_log(log, Path(folder) / "log")
                return share(Path(folder) / "log", out, positions).taken

        def told(result: tuple[str, ...] | Exception) -> None:
            if isinstance(result, Exception):
                self._session.say(str(result), wrong=True)
                return
            done(result)

        self._session.jobs.start("Preparing what is shared", _guarded(work), told)

    def what_leaves_out(self, ending: str, positions: Positions, done: Callable[[tuple[str, ...]], None]) -> None:
        """What would be taken out, before anything is written."""

        def work(progress: Progress) -> tuple[str, ...]:
            from plumbbob.services.log_archive import export_log
            from plumbbob.services.share import prepared

            with tempfile.TemporaryDirectory(prefix="plumbbob-") as folder, closing(self._second()) as log:
                export_log(log, Path(folder) / "log")
                with prepared(Path(folder) / "log", Path(folder) / f"out{ending}", positions) as (_, shared):
                    return shared.taken

        def told(result: tuple[str, ...] | Exception) -> None:
            if not isinstance(result, Exception):
                done(result)

        self._session.jobs.start("Looking what is left out", _guarded(work), told)

    def bring(self, source: Path) -> None:
        """Another log in, all of it or nothing; one step back takes it out again."""

        def work(progress: Progress) -> _Came:
            from plumbbob.services.log_archive import import_log

            with closing(self._second()) as log:
                return _came(import_log(log, source, progress=progress))

        self._came(f"Bringing in {source.name}", work)

    def bring_catches(self, rows: list[CaughtRow], name: str) -> None:
        """Fish of a table in; one step back takes them out again."""
        zone = self._session.water.clock

        def work(progress: Progress) -> _Came:
            from plumbbob.services.log_csv import import_catches

            with closing(self._second()) as log:
                added, doubles, batch = import_catches(log, rows, zone, progress)
            words = f"{added} fish from {name}" + (f"; {doubles} were here already" if doubles else "")
            return _Came(f"{words}.", batch, added > 0)

        self._came(f"Bringing in {name}", work)

    def _came(self, title: str, work: Callable[[Progress], _Came]) -> None:
        session = self._session

        def told(result: _Came | Exception) -> None:
            if isinstance(result, Exception):
                session.say(str(result), wrong=True)
                return
            if not result.is_new:
                session.say(result.words)
                return
            log = session.logbook.log
            taken: list[dict[type[Any], list[Any]]] = []

            def undo() -> None:
                taken[:] = [log.take_batch(result.batch)]
                if result.before:
                    log.apply(result.before)

            def redo() -> None:
                log.put_batch(taken[0], otherwise=result.after)

            try:
                session.logbook.brought("import", undo, redo)
            except StoreError as exc:
                session.say(str(exc), wrong=True)
                return
            session.say(f"{result.words}  Z takes it back.")

        session.jobs.start(title, _guarded(work), told)

    def report(self, out: Path) -> None:
        """A page about the trip on screen, with its places."""
        from plumbbob.services.log_archive import cells_by_table
        from plumbbob.services.trip_report import write_report

        session = self._session
        trip = session.trips.chosen
        if trip is None:
            return
        ref, system = trip.ref, session.display.system_of(Kind.FISH)

        def work(progress: Progress) -> str:
            with closing(self._second()) as log:
                tables = cells_by_table(log)
                mine = {t: [r for r in rows if r.get("trip") == ref] for t, rows in tables.items()}
                mine["marks"], mine["waters"] = [], []
                names = {c["picture"] for c in mine["catches"] if c.get("picture")}
                write_report(out, mine, exact=True, pictures=log.pictures(names), system=system)
            return f"The trip is a page in {out.name}, with its places."

        self._start("Writing the page", work)

    def restore(self, copy: Path) -> None:
        """A good copy in the log's place; the log that was there is kept beside it."""
        from plumbbob.store.copies import keep_copy, put_copy

        session = self._session
        try:
            log = session.logbook.log
            path = log.path
            held = copy.with_name(f"{copy.stem}.restored{copy.suffix}")
            held.write_bytes(copy.read_bytes())
            keep_copy(path)  # what is there now stays, in the place of the copy that is put back
            session.logbook.close()
            for tail in ("-wal", "-shm"):
                path.with_name(path.name + tail).unlink(missing_ok=True)
            put_copy(held, path)
            held.unlink()
        except (StoreError, FileError, OSError) as exc:
            session.say(f"The copy could not be put back: {exc}", wrong=True)
            return
        session.history.clear()
        self.closed.emit(path)

    def _second(self) -> Log:
        from plumbbob.store.database import make_engine
        from plumbbob.store.log import Log

        path = self._session.logbook.log.path
        return Log(make_engine(path), path)

    def _start(self, title: str, work: Callable[[Progress], str]) -> None:
        def told(result: str | Exception) -> None:
            self._session.say(str(result), wrong=isinstance(result, Exception))

        self._session.jobs.start(title, _guarded(work), told)


def _came(came: Imported) -> _Came:
    added = ", ".join(f"{n} {t}" for t, n in came.added.items() if n)
    doubles = sum(came.doubles.values())
    words = f"Brought in: {added}" if added else "Nothing in it is new"
    aside = len(came.files) + sum(map(len, came.unknown_columns.values()))
    words += f"; {doubles} were here already" if doubles else ""
    words += f"; {aside} unknown columns and files kept aside" if aside else ""
    if came.newer:
        words += f"; {sum(came.newer.values())} put right, as theirs is newer"
    return _Came(f"{words}.", came.batch, came.is_new, tuple(came.before), tuple(came.after))


def _guarded(work: Callable[[Progress], R]) -> Callable[[Progress], R | Exception]:
    """Trouble with files and the log is an answer, not an accident."""

    def run(progress: Progress) -> R | Exception:
        try:
            return work(progress)
        except (FileError, StoreError) as exc:
            return exc

    return run
