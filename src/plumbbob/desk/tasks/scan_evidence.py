"""Work of the Scan stage in the background: evidence kept with the water, another pass beside, recordings cut."""

from __future__ import annotations

from dataclasses import replace
from enum import Enum
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.types import Progress
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.comparison import Compared
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why

if TYPE_CHECKING:
    from plumbbob.core.sonar.corrections import Correction
    from plumbbob.core.sonar.evidence import Evidence
    from plumbbob.core.sonar.mosaic import Mosaic
    from plumbbob.core.sonar.reading import Reading
    from plumbbob.core.sonar.recording import Recording


_RECHART_MS = 2500


class Edit(Enum):
    """What is made of the open recording."""

    CUT = "cut"
    JOIN = "join"
    THIN = "thin"


class EvidenceKeeper(QObject):
    """Needs the session and the charter, whose water's folder keeps the evidence."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        super().__init__()
        self._session, self._charter = session, charter
        self._comparing: list[Job[Any]] = []
        self._drawn: tuple[Correction, ...] | None = None  # None: the pass has just been opened
        self._recharting = QTimer(self)
        self._recharting.setSingleShot(True)
        self._recharting.setInterval(_RECHART_MS)
        self._recharting.timeout.connect(self.retake_now)
        session.scan.read.connect(self._keep_evidence)
        session.scan.read.connect(self._see_bottom)
        session.scan.opened.connect(self._let_go)

    # -- evidence of the day ------------------------------------------------------------------------------------

    def _keep_evidence(self) -> None:
        session = self._session
        scan = session.scan
        if (
            scan.recording is None
            or not scan.document.is_read
            or scan.down is None
            or "picture" in scan.recording.views
        ):
            return
        found, name, start = scan.document.evidence, scan.recording.name, float(scan.down.time[0])
        midnight = session.local(start).replace(hour=0, minute=0, second=0, microsecond=0).timestamp()
        water = self._charter.folder
        if water is None:
            return
        folder = water.path / "evidence"

        def work(progress: Progress) -> tuple[str, Evidence, str]:
            from plumbbob.formats.evidence import evidence_of_day, write_evidence

            try:
                write_evidence(folder / f"{name}.csv", found, start)
            except (FileError, OSError) as exc:
                return name, found, f"The evidence could not be kept: {why(exc)}."
            return name, evidence_of_day(folder, midnight, midnight + 86400.0), ""

        session.jobs.start("Adding up the day", work, self._kept, brief=True)

    def _kept(self, result: tuple[str, Evidence, str]) -> None:
        name, found, trouble = result
        recording = self._session.scan.recording
        if recording is not None and recording.name == name:
            self._session.scan.set_evidence(found)
        if trouble:
            self._session.say(trouble, wrong=True)

    # -- the swath on the chart ---------------------------------------------------------------------------------

    def lay_swath(self) -> None:
        """Show what the fans saw on the chart; made in the background the first time."""
        session = self._session
        recording, chart, shown = session.scan.recording, session.chart.chart, session.chart.swaths_shown
        heights = session.side.reading.altitude_m
        made = recording is not None and any(m.name == recording.name for m in session.chart.swaths)
        if shown and (made or session.side.view is None):
            session.chart.show_swaths(False)
            session.say("Swath taken off the chart.")
            return
        session.chart.show_swaths(True)
        if made or recording is None or chart is None or not heights.size:
            if not made and not session.chart.swaths:
                session.say("The sides are still being read.", wrong=True)
            return

        def work(progress: Progress) -> Mosaic | None:
            from plumbbob.core.sonar.mosaic import make_mosaic

            return make_mosaic(recording, heights, chart.plane)

        session.jobs.start("Laying the swath on the chart", work, self._laid)

    def _laid(self, mosaic: Mosaic | None) -> None:
        session = self._session
        if mosaic is None:
            session.say("Without positions there is no swath to lay.", wrong=True)
            return
        session.chart.add_swath(mosaic)
        session.say("What the fans saw lies on the chart.  1 goes there, Shift+M takes it off. Not for navigation.")

    def _see_bottom(self) -> None:
        """A bottom drawn by hand goes into the chart, a while after the last stroke."""
        scan = self._session.scan
        drawn = tuple(c for c in scan.document.corrections if c.what == "bottom")
        before, self._drawn = self._drawn, drawn
        if before is not None and drawn != before:
            self._recharting.start()

    # -- another pass beside ------------------------------------------------------------------------------------

    def compare_with(self, path: Path) -> None:
        """Lay another pass along the open one; its reading follows."""
        session = self._session
        mine = session.scan.recording
        if mine is None:
            return

        def work(progress: Progress) -> tuple[Recording, Compared]:
            from plumbbob.core.sonar.align import matching_pings
            from plumbbob.formats.recording import read_recording

            other = read_recording(path)
            pings, away = matching_pings(mine, other)
            return mine, Compared(other, pings, away)

        session.jobs.start(f"Opening {path.name}", work, self._opened, brief=True)

    def _opened(self, result: tuple[Recording, Compared]) -> None:
        mine, found = result
        session = self._session
        if mine is not session.scan.recording:
            return
        if found.recording.down is None or not (found.pings >= 0).any():
            session.say(f"{found.recording.name} never came within 25 m of this pass.", wrong=True)
            return
        near = float((found.pings >= 0).mean())
        session.scan.comparison.lay(found)
        session.say(f"{found.recording.name} lies along {near:.0%} of this pass.  K takes it away.")

        def work(progress: Progress) -> tuple[Compared, Reading]:
            from plumbbob.core.sonar.read import read_down

            return found, read_down(found.recording, progress=progress)

        self._comparing.append(session.jobs.start(f"Reading {found.recording.name}", work, self._read))

    def _read(self, result: tuple[Compared, Reading]) -> None:
        found, reading = result
        if self._session.scan.comparison.other is found:
            self._session.scan.comparison.lay(replace(found, reading=reading))

    def retake_now(self) -> None:
        """Put the bottom drawn by hand into the chart without waiting for another stroke."""
        self._recharting.stop()
        self._charter.retake_pass()

    def _let_go(self) -> None:
        self._drawn = None
        self._recharting.stop()
        for job in self._comparing:
            job.cancel()
        self._comparing = []

    # -- recordings ---------------------------------------------------------------------------------------------

    def edit_recording(self, how: Edit, other: Path, out: Path) -> None:
        """Cut what is on screen, join, or keep every second ping; the open recording stays as it is."""
        session = self._session
        scan, path, down = session.scan, session.scan.path, session.scan.down
        if path is None or down is None:
            return
        low = max(int(scan.view.first_ping), 0)
        high = min(int(scan.view.last_ping), len(down) - 1)
        start, end = float(down.time[low]), float(down.time[high])

        def work(progress: Progress) -> int:
            from plumbbob.formats import recording_edit

            if how is Edit.CUT:
                return recording_edit.cut(path, out, start, end, progress=progress)
            if how is Edit.JOIN:
                return recording_edit.join([path, other], out, progress=progress)
            return recording_edit.thin(path, out, 2, progress=progress)

        session.jobs.start(
            f"Writing {out.name}", work, lambda pings: session.say(f"{pings:,} pings written to {out.name}.")
        )
