"""Opens recordings and the log in the background and hands them to the session."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.types import Progress
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.boat import OwnBoat, own_boat
from plumbbob.desk.models.recent import remember_file
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import text_of
from plumbbob.desk.tasks.apply_corrections import WORDS as CORRECTION
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.find_water import WaterFinder
from plumbbob.desk.tasks.make_demo import survey_of, veyra_survey
from plumbbob.formats.waters import Water, data_path
from plumbbob.services.waters import Settled, Waters, middle_of, settle

if TYPE_CHECKING:
    from plumbbob.core.sonar.corrections import Correction
    from plumbbob.core.sonar.reading import ForwardReading, Reading, SideReading
    from plumbbob.core.sonar.recording import Recording
    from plumbbob.desk.models.echogram_raster import Overview
    from plumbbob.store.errors import StoreError
    from plumbbob.store.log import Log
    from plumbbob.store.opening import Opened

    _Others = tuple[SideReading | None, ForwardReading | None]


class RecordingLoader(QObject):
    """Needs the session. Heavy libraries are imported in the jobs, after the first paint."""

    def __init__(self, session: Session, charter: ChartBuilder, finder: WaterFinder, demo: bool = False) -> None:
        super().__init__()
        self._session, self._charter, self._finder, self._demo = session, charter, finder, demo
        self._running: list[Job[Any]] = []
        self._next: Callable[[], None] | None = None
        self.folder = text_of(session.settings, "folder", str(Path.home()))

    def then(self, act: Callable[[], None]) -> None:
        """Do this once, when the next opening has ended, well or not."""
        self._next = act

    def open(self, path: Path, screenful: int) -> None:
        """Open a recording; then its overview and its reading follow."""

        waters, here = self._charter.waters, self._session.water
        boat = own_boat(self._session.settings)

        def work(progress: Progress) -> tuple[Recording, Settled | None]:
            from plumbbob.formats.any_recording import read_any

            recording = _mounted(read_any(path, progress=progress), boat)
            if recording.down is not None and len(recording.down):
                recording.down.echo.read(0, 256)  # the first screenful is warm when it is drawn
            return recording, _settled(waters, path, recording, here)

        self._session.jobs.start(
            f"Opening {path.name}", work, lambda r: self._opened(path, r[0], screenful, r[1]), brief=True
        ).then(self._go_on)

    def show(self, path: Path, recording: Recording, screenful: int) -> None:
        """Show a recording that is in memory already; reading it follows as for one from a file."""
        found = _settled(self._charter.waters, path, recording, self._session.water)
        self._opened(path, recording, screenful, found)

    def _go_on(self) -> None:
        act, self._next = self._next, None
        if act is not None:
            QTimer.singleShot(0, act)

    def _opened(self, path: Path, recording: Recording, screenful: int, found: Settled | None) -> None:
        from plumbbob.formats.recording import close_recording

        session = self._session
        for job in self._running:
            job.cancel()
        self._running = []
        before = session.scan.recording
        self.folder = str(path.parent)
        session.settings.setValue("folder", self.folder)
        session.history.forget(CORRECTION)
        session.scan.open(recording, screenful, path)
        if "picture" not in recording.views:
            session.settings.setValue(f"passes/{recording.name}", str(path))
            session.settings.setValue("recording", str(path))
            remember_file(session.settings, path)
        self._find_water(path, recording, found)
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

    def _find_water(self, path: Path, recording: Recording, found: Settled | None) -> None:
        """Where the pass was recorded; one without places, as some pictures are, belongs where one is."""
        session, lead = self._session, self._session.scan.lead
        when = float(lead.time[0]) if lead is not None else None
        if found is None:
            self.come_to(session.water, when)
            return
        if found.water is not None:
            self.come_to(found.water, when)
            if found.is_new:
                self._finder.ask_name(found.water, takes_keys=False)
            return

        def go(water: Water) -> None:
            self.come_to(water, when)
            if recording is session.scan.recording and session.scan.document.is_read:
                self._charter.take_pass()

        self._charter.leave()
        track = recording.track
        middle = middle_of(track.latitude, track.longitude) if track is not None else None
        self._finder.ask(path, found.fit, middle, go)

    def come_to(self, water: Water, time_s: float | None) -> None:
        """Go to a water, unless one is there already; the day is that of the recording, else today."""
        when = time.time() if time_s is None else time_s
        if not water.key or self._charter.is_here(water):
            session = self._session
            session.conditions.set_when(session.water.place, when, session.water.offset_h(when))
            return
        self._charter.come_to(water, when, survey_of(water.key) if self._demo else None)

    def open_made_up(self, then: Callable[[Path], None]) -> None:
        """The made-up lake as one more water, and a pass over it to open, both the person's own copies."""
        session, charter = self._session, self._charter
        folder = charter.waters.root.parent / "passes"

        def work(progress: Progress) -> tuple[Water, Path]:
            from plumbbob.formats.waters import shipped_waters
            from plumbbob.services.demo import FIRST, own_copy

            return charter.waters.adopt(shipped_waters()[0]), own_copy(folder, FIRST)

        def done(result: tuple[Water, Path]) -> None:
            water, path = result
            if not charter.is_here(water):
                charter.come_to(water, time.time(), veyra_survey)
            then(path)

        session.jobs.start("Making the made-up lake", work, done, brief=True)

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
                opened = open_log(path)
                if self._demo:
                    _bring_seasons(opened.log)
                return opened
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


def _bring_seasons(log: Log) -> None:
    """The demo's two made-up seasons, the first time."""
    from plumbbob.services.log_archive import import_log
    from plumbbob.store.values import Trip

    if not len(log.read(Trip)):
        import_log(log, data_path("demo.log.zip"))


def _rig_the_wren(session: Session) -> None:
    """The demo's rods and the notes made with them, the first time."""
    from plumbbob.desk.models.kept_rods import RodSetup
    from plumbbob.desk.models.notes import saved_note
    from plumbbob.sim.veyra_rods import NOTES, RODS

    session.rig.set_all(tuple(RodSetup(rod, bob) for rod, bob in RODS), 0)
    if not session.logbook.notes:
        session.logbook.begin_with([saved_note(note) for note in NOTES])
    session.rig.keep()


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


def _settled(waters: Waters, path: Path, recording: Recording, here: Water) -> Settled | None:
    """The water of a recording by its track; None where it has no places."""
    track = recording.track
    if track is None or middle_of(track.latitude, track.longitude) is None:
        return None
    return settle(waters, path, track.latitude, track.longitude, here)


def _mounted(recording: Recording, boat: OwnBoat) -> Recording:
    """A recording whose views know where their transducers sat, by the boat's settings where the file is silent."""
    changes = {}
    for name in ("down", "side", "forward"):
        view = getattr(recording, name)
        if view is not None and (mount := boat.mount_for(view.mount)) != view.mount:
            changes[name] = replace(view, mount=mount)
    return replace(recording, **changes) if changes else recording
