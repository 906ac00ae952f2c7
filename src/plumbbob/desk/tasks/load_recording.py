"""Opens recordings and the log in the background and hands them to the session."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.types import Progress
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import text_of
from plumbbob.desk.tasks.apply_corrections import WORDS as CORRECTION
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.formats.waters import Water

if TYPE_CHECKING:
    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.sonar.corrections import Correction
    from plumbbob.core.sonar.reading import ForwardReading, Reading, SideReading
    from plumbbob.core.sonar.recording import Recording
    from plumbbob.desk.models.echogram_raster import Overview
    from plumbbob.store.errors import StoreError
    from plumbbob.store.opening import Opened

    _Others = tuple[SideReading | None, ForwardReading | None]


class RecordingLoader(QObject):
    """Needs the session. Heavy libraries are imported in the jobs, after the first paint."""

    def __init__(self, session: Session, charter: ChartBuilder, demo: bool = False) -> None:
        super().__init__()
        self._session, self._charter, self._demo = session, charter, demo
        self._here = ""
        self._running: list[Job[Any]] = []
        self._next: Callable[[], None] | None = None
        self.folder = text_of(session.settings, "folder", str(Path.home()))

    def then(self, act: Callable[[], None]) -> None:
        """Do this once, when the next opening has ended, well or not."""
        self._next = act

    def open(self, path: Path, screenful: int) -> None:
        """Open a recording; then its overview and its reading follow."""

        def work(progress: Progress) -> Recording:
            from plumbbob.formats.any_recording import read_any

            recording = read_any(path, progress=progress)
            if recording.down is not None and len(recording.down):
                recording.down.echo.read(0, 256)  # the first screenful is warm when it is drawn
            return recording

        self._session.jobs.start(
            f"Opening {path.name}", work, lambda r: self._opened(path, r, screenful), brief=True
        ).then(self._go_on)

    def show(self, path: Path, recording: Recording, screenful: int) -> None:
        """Show a recording that is in memory already; reading it follows as for one from a file."""
        self._opened(path, recording, screenful)

    def _go_on(self) -> None:
        act, self._next = self._next, None
        if act is not None:
            QTimer.singleShot(0, act)

    def _opened(self, path: Path, recording: Recording, screenful: int) -> None:
        from plumbbob.formats.recording import close_recording
        from plumbbob.formats.waters import water_at

        session = self._session
        for job in self._running:
            job.cancel()
        self._running = []
        before = session.scan.recording
        self.folder = str(path.parent)
        session.settings.setValue("folder", self.folder)
        track = recording.track
        place = None
        if track is not None and len(track) and track.latitude[0] == track.latitude[0]:
            place = Position(float(track.latitude[0]), float(track.longitude[0]))
        water = water_at(place)
        session.history.forget(CORRECTION)
        session.scan.open(recording, screenful, path)
        if "picture" not in recording.views:
            session.settings.setValue(f"passes/{recording.name}", str(path))
        if place is None and "picture" in recording.views:
            water = session.water  # a picture without a place belongs where one is
        self.come_to(water, float(session.scan.lead.time[0]) if session.scan.lead is not None else None)
        if before is not None:
            close_recording(before)
        session.say("; ".join(recording.notes).capitalize() + "." if recording.notes else "")
        if session.scan.lead is None:
            return
        if session.scan.down is not None:
            self._running.append(
                session.jobs.start("Drawing the whole pass", lambda p: _overview(recording, p), self._overview)
            )
        self._charter.after_chart(lambda: self._begin_reading(recording))

    def _begin_reading(self, recording: Recording) -> None:
        if recording is self._session.scan.recording:
            job = self._session.jobs.start("Reading the pass", lambda p: _reading(recording, p), self._read)
            self._running.append(job)

    def come_to(self, water: Water, time_s: float | None) -> None:
        """Go to a water, unless one is there already; the day is that of the recording, else today."""
        session = self._session
        when = time.time() if time_s is None else time_s
        key = water.name if water.radius_m else f"{water.name} {water.place}"
        if self._here and (
            key == self._here or (not water.radius_m and not session.water.radius_m and _close(water, session.water))
        ):
            session.conditions.set_when(session.water.place, when, session.water.utc_offset_h)
            return
        self._here = key
        self._charter.come_to(water, when, _veyra_survey if self._demo and water.name == "Veyra Lake" else None)

    def _overview(self, result: tuple[Recording, Overview]) -> None:
        if result[0] is self._session.scan.recording:
            self._session.scan.set_overview(result[1])

    def _read(self, result: tuple[Recording, Reading]) -> None:
        recording, reading = result
        session = self._session
        if recording is not session.scan.recording:
            return
        from plumbbob.files.errors import FileError
        from plumbbob.services.scan import said_of

        said: tuple[Correction, ...] = ()
        if session.scan.path is not None:
            try:
                said = said_of(session.scan.path)
            except FileError as exc:
                session.say(f"Your corrections can't be used: {exc}. The file is left as it is.", wrong=True)
        session.scan.set_reading(reading, said)
        session.scan.show_water()
        self._charter.take_pass()
        if recording.side is not None or recording.forward is not None:
            job = session.jobs.start(
                "Reading to the sides and ahead", lambda p: _others(recording, reading, p), self._others_read
            )
            self._running.append(job)

    def _others_read(self, result: tuple[Recording, _Others]) -> None:
        recording, (side, ahead) = result
        if recording is self._session.scan.recording:
            self._session.scan.set_views(side, ahead)

    def open_log(self, path: Path) -> None:
        """Open the log; trouble is said, and nothing is saved until there is one."""

        def work(progress: Progress) -> Opened | StoreError:
            from plumbbob.store.errors import StoreError
            from plumbbob.store.opening import open_log

            try:
                return open_log(path)
            except StoreError as exc:
                return exc
            finally:
                import plumbbob.formats.recording  # noqa: F401  its libraries are warm when a file is chosen

        self._charter.after_chart(lambda: self._session.jobs.start("Opening the log", work, self._log_opened))

    def _log_opened(self, result: Opened | StoreError) -> None:
        session = self._session
        if isinstance(result, Exception):
            session.logbook.refuse(str(result).rstrip("."))
            session.say(f"{result} Marks can't be saved until it can.", wrong=True)
            return
        from plumbbob.store.errors import StoreError

        try:
            session.logbook.attach(result.log)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        if result.to_check:
            self._check_log(result.log.path)
        if self._demo and session.rig.is_new:
            _rig_the_wren(session)
        if result.note:
            session.say(result.note, wrong=True)

    def _check_log(self, path: Path) -> None:
        """The full check of a large log, and its copy."""

        def work(progress: Progress) -> str:
            from plumbbob.store.errors import StoreError
            from plumbbob.store.opening import check_and_copy

            try:
                return check_and_copy(path)
            except StoreError as exc:
                return str(exc)

        def done(trouble: str) -> None:
            if trouble:
                self._session.say(trouble, wrong=True)

        self._session.jobs.start("Checking the log", work, done)


def _rig_the_wren(session: Session) -> None:
    """The demo's rods and the notes made with them, the first time."""
    from plumbbob.desk.models.kept_rods import RodSetup
    from plumbbob.desk.models.notes import saved_note
    from plumbbob.sim.veyra_rods import NOTES, RODS

    session.rig.set_all(tuple(RodSetup(rod, bob) for rod, bob in RODS), 0)
    if not session.logbook.notes:
        session.logbook.begin_with([saved_note(note) for note in NOTES])
    session.rig.keep()


def _close(a: Water, b: Water) -> bool:
    return a.place is not None and b.place is not None and distance_m(a.place, b.place) < 8000.0


def _veyra_survey(progress: Progress) -> Soundings:
    from plumbbob.sim.lake import survey

    return survey(4, progress=progress)


def _overview(recording: Recording, progress: Progress) -> tuple[Recording, Overview]:
    from plumbbob.desk.models.echogram_raster import make_overview

    assert recording.down is not None
    return recording, make_overview(recording.down, progress)


def _reading(recording: Recording, progress: Progress) -> tuple[Recording, Reading]:
    from plumbbob.core.sonar.read import read_down

    return recording, read_down(recording, progress=progress)


def _others(recording: Recording, reading: Reading, progress: Progress) -> tuple[Recording, _Others]:
    from plumbbob.core.sonar.views import read_others

    return recording, read_others(recording, reading.bottom, progress=progress)
