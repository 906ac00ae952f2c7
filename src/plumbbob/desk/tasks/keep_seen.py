"""What passes saw along their way: worked out when one has been read, kept with the water, brought back with it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why

if TYPE_CHECKING:
    from pathlib import Path

    from plumbbob.core.sonar.seen_along import SeenAlong


class SeenKeeper(QObject):
    """Needs the session and what knows the water's folder."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        super().__init__(session)
        self._session, self._charter = session, charter
        session.water_changed.connect(self._bring_back)
        session.scan.read.connect(self._take)

    def _folder(self) -> Path | None:
        return None if self._charter.folder is None else self._charter.folder.path / "seen"

    def _bring_back(self) -> None:
        folder = self._folder()
        self._session.seen.set_passes(())
        if folder is not None and folder.is_dir():

            def work(progress: Progress) -> tuple[Path, tuple[SeenAlong, ...], str]:
                from plumbbob.formats.seen_csv import all_seen

                return folder, all_seen(folder), ""

            self._session.jobs.start("Looking at what was seen", work, self._brought, brief=True)

    def _take(self) -> None:
        scan, folder = self._session.scan, self._folder()
        recording, reading = scan.recording, scan.reading
        if recording is None or folder is None or not scan.document.is_read or scan.down is None:
            return
        if "picture" in recording.views:
            return

        def work(progress: Progress) -> tuple[Path, tuple[SeenAlong, ...], str]:
            from plumbbob.core.sonar.seen_along import seen_along
            from plumbbob.formats.seen_csv import write_seen

            found = seen_along(recording, reading)
            if found is None:
                return folder, (), ""
            try:
                write_seen(folder / f"{recording.name}.csv", found)
            except (FileError, OSError) as exc:
                return folder, (found,), f"What the pass saw could not be kept: {why(exc)}."
            return folder, (found,), ""

        self._session.jobs.start("Adding up the pass", work, self._brought, brief=True)

    def _brought(self, result: tuple[Path, tuple[SeenAlong, ...], str]) -> None:
        folder, passes, trouble = result
        if folder == self._folder():  # the water is still the same
            self._session.seen.add(passes)
        if trouble:
            self._session.say(trouble, wrong=True)
