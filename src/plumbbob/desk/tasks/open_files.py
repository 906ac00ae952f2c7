"""One door for every file: told by what is in it, opened or added as is obvious, one after the other."""

from __future__ import annotations

import math
import tempfile
import time
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer

from plumbbob.core.types import Progress
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.question import Question
from plumbbob.desk.models.recent import remember_file
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.tasks import Tasks
from plumbbob.files.atomic import kept_copy, private_folder
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import GpxPlaces, Waypoint, read_gpx
from plumbbob.formats.recording import write_recording
from plumbbob.formats.registry import Content
from plumbbob.formats.sonar_netcdf import beam_groups, is_sonar_netcdf, read_sonar_netcdf
from plumbbob.formats.waters import Water
from plumbbob.services.archive import restore
from plumbbob.services.door import Found, unpacked, what_is
from plumbbob.services.marks_out import kind_of_symbol
from plumbbob.services.waters import Moves
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Mark, MarkKind

_LOOK_MS = 150
_MOST_FILES = 200
_MOST_GROUPS = 5


class FileOpener(QObject):
    """Needs the session, the tasks, and what opens a recording or a picture in the window."""

    def __init__(
        self, session: Session, tasks: Tasks, recording: Callable[[Path], None], picture: Callable[[Path], None]
    ) -> None:
        super().__init__(session)
        self._session, self._tasks, self._recording = session, tasks, recording
        self._unpacked: list[tempfile.TemporaryDirectory[str]] = []
        self._opens: dict[Content, Callable[[Path], None]] = {
            Content.RECORDING: self._open_recording,
            Content.PICTURE: picture,
            Content.SOUNDINGS: tasks.soundings.add_file,
            Content.CHART: tasks.soundings.add_file,
            Content.COLUMN: tasks.column.read_profile,
            Content.TIDE: tasks.tide.read_file,
            Content.TACKLE: tasks.rigger.read_box,
            Content.TRACK: self._read_gpx,
            Content.ARCHIVE: self._restore,
            Content.LOG: tasks.log_files.open,
            Content.OPEN_LOG: tasks.log_files.open,
            Content.CATCHES: tasks.log_files.look_at_catches,
            Content.ZIP: self._look_into,
        }
        self._waiting: list[Path] = []
        self._next = QTimer(self)  # a file after the one before has been dealt with
        self._next.setInterval(_LOOK_MS)
        self._next.timeout.connect(self._go_on)

    def open(self, paths: Sequence[Path]) -> None:
        """Deal with files, one after the other."""
        self._waiting += paths
        if len(self._waiting) > _MOST_FILES:
            self._waiting = self._waiting[:_MOST_FILES]
            self._session.say(f"Of so many files the first {_MOST_FILES} are taken.", wrong=True)
        if not self._next.isActive():
            self._look_at_next()  # what was asked before does not keep what was dropped now from being opened

    def _go_on(self) -> None:
        """The next file, once the one before needs nobody any more."""
        session = self._session
        asked = session.questions.open
        if not session.jobs.live and not session.sheet and (asked is None or not asked.answers):
            self._look_at_next()

    def _look_at_next(self) -> None:
        session = self._session
        if not self._waiting:
            self._next.stop()
            return
        path = self._waiting.pop(0)
        session.jobs.start(f"Looking at {path.name}", lambda progress: what_is(path), self._found, brief=True)
        if self._waiting:
            self._next.start()

    def _found(self, found: Found) -> None:
        if not self._is_unpacked(found.path):
            self._session.settings.setValue("folder", str(found.path.parent))
            remember_file(self._session.settings, found.path)
        self._opens[found.content](found.path)

    def _is_unpacked(self, path: Path) -> bool:
        return any(Path(folder.name) in path.parents for folder in self._unpacked)

    def _open_recording(self, path: Path) -> None:
        """Open it; where a file holds several frequencies, one is chosen first."""

        stays = not self._is_unpacked(path)
        passes = self._tasks.charter.waters.root.parent / "passes"

        def work(progress: Progress) -> tuple[Path, list[tuple[str, float]]]:
            groups = beam_groups(path) if is_sonar_netcdf(path) else []
            return (path if stays or len(groups) > 1 else kept_copy(path, passes)), groups

        def done(result: tuple[Path, list[tuple[str, float]]]) -> None:
            own, groups = result
            if len(groups) < 2:
                self._recording(own)
                return
            highest_first = sorted(groups, key=lambda g: -np.nan_to_num(g[1]))[:_MOST_GROUPS]
            answers = tuple(
                (f"{hertz / 1e3:.0f} kHz" if hertz == hertz else name, partial(self._open_group, path, name, hertz))
                for name, hertz in highest_first
            )
            self._session.questions.ask(Question(f"{path.name} holds several frequencies. Which is shown?", answers))

        self._session.jobs.start(f"Opening {path.name}", work, done, brief=True)

    def _open_group(self, path: Path, name: str, hertz: float) -> None:
        """One frequency, as a recording of its own beside the others: corrections lie with it."""
        folder = self._tasks.charter.waters.root.parent / "passes"

        def work(progress: Progress) -> Path:
            own = folder / f"{path.stem} {hertz / 1e3:.0f} kHz.nc"
            private_folder(folder)
            write_recording(own, read_sonar_netcdf(path, name), source="converted", inputs=[path])
            return own

        self._session.jobs.start(f"Reading {path.name}", work, self._recording)

    # -- what has no task of its own ----------------------------------------------------------------------------

    def _look_into(self, path: Path) -> None:
        """The files of a zip, each by what it is; they are read from a folder that goes with the window."""
        folder = tempfile.TemporaryDirectory(prefix="plumbbob-")
        self._unpacked.append(folder)

        def done(files: list[Path]) -> None:
            if not files:
                self._session.say(f"{path.name} holds no files.", wrong=True)
            self._waiting[:0] = files  # before what was dropped after the zip
            self.open(())

        self._session.jobs.start(f"Looking into {path.name}", lambda p: unpacked(path, Path(folder.name)), done)

    def _restore(self, path: Path) -> None:
        session, charter = self._session, self._tasks.charter
        waters = charter.waters

        def work(progress: Progress) -> Water:
            return restore(waters, path, progress)

        def done(water: Water) -> None:
            charter.come_to(water, time.time())
            session.say(f"{water.name} was brought back from {path.name}.  Z puts it into the trash.")
            stamp = session.local(time.time()).strftime("%Y-%m-%d %H%M")

            def undo() -> None:
                try:
                    moves.append(waters.delete(water, stamp))
                except FileError as exc:
                    raise StoreError(f"{exc}.") from exc
                charter.leave()

            def redo() -> None:
                moves.pop().take_back()
                charter.come_to(water, time.time())

            moves: list[Moves] = []
            session.history.did(Change(f"return of {water.name}", undo, redo))

        session.jobs.start(f"Bringing back {path.name}", work, done)

    def _read_gpx(self, path: Path) -> None:
        """Waypoints become marks, once; tracks and routes become trails on the chart."""
        session, charter = self._session, self._tasks.charter
        folder = charter.folder

        def work(progress: Progress) -> GpxPlaces:
            found = read_gpx(path)
            if found.ways and folder is not None:
                folder.add_trails(path.stem, found.ways)
            return found

        def done(found: GpxPlaces) -> None:
            marks = [_mark_of(point, session.water.name, path.name) for point in found.waypoints]
            try:
                new = session.logbook.add_marks(marks)
            except StoreError as exc:
                session.say(str(exc), wrong=True)
                return
            words = []
            if marks:
                known = f", {len(marks) - new} were there already" if new < len(marks) else ""
                words.append(f"{new} marks{known}")
            if found.ways:
                words.append(f"{len(found.ways)} trails" if folder is not None else "trails need a water first")
                charter.show_tracks()
            session.say(f"From {path.name}: {', '.join(words)}.  Z takes marks back.")

        session.jobs.start(f"Reading {path.name}", work, done, brief=True)


def _mark_of(point: Waypoint, water: str, source: str) -> Mark:
    def number(name: str) -> float | None:
        try:
            value = float(point.numbers.get(name, "nan"))
        except (TypeError, ValueError):
            return None
        return value if math.isfinite(value) and 0.0 <= value < 12_000.0 else None

    kind = str(point.numbers.get("kind", ""))
    return Mark(
        water=water,
        kind=MarkKind(kind) if kind in {k.value for k in MarkKind} else kind_of_symbol(point.symbol),
        time=point.time,
        latitude=point.latitude,
        longitude=point.longitude,
        depth_m=number("depth"),
        bottom_depth_m=number("bottom_depth"),
        source=source,
        note=". ".join(t for t in (point.name, point.desc) if t),
    )
