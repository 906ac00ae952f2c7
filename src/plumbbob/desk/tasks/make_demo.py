"""Makes what of the demo does not ship, once there is nothing else to do."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.services.demo import AHEAD, SIDES, demo_pass

_SEED = 4


def veyra_survey(progress: Progress) -> Soundings:
    """First soundings of the made-up lake."""
    from plumbbob.sim.lake import survey

    return survey(_SEED, progress=progress)


def survey_of(water_key: str) -> Callable[[Progress], Soundings] | None:
    """First soundings of a made-up water; None for one that is not."""
    from plumbbob.sim import other_waters

    return {
        "veyra-lake": veyra_survey,
        "carrow-sound": lambda progress: other_waters.carrow_survey(_SEED),
        "tern-pond": lambda progress: other_waters.tern_survey(_SEED),
    }.get(water_key)


class DemoMaker(QObject):
    """Waits until the first pass has been read, then makes the others beside it, so that O finds them."""

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__(session)
        self._session = session
        self._missing = [folder / name for name in (SIDES, AHEAD) if not (folder / name).is_file()]
        if self._missing:
            session.jobs.changed.connect(self._look)

    def _look(self) -> None:
        session = self._session
        if session.jobs.live or not session.scan.document.is_read or not self._missing:
            return
        missing, self._missing = self._missing, []

        def work(progress: Progress) -> None:
            for path in missing:
                demo_pass(path.parent, path.name, progress)

        session.jobs.start("Making the demo's other passes", work, lambda _: None)
