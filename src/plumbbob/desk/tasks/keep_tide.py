"""The tide table of a water: kept with it, read from a file, and the moment it is asked for."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject

from plumbbob.core.water.tide import TideTable
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.tide_csv import read_tide


class TideKeeper(QObject):
    """Needs the session and what knows the water's folder."""

    def __init__(self, session: Session, charter: ChartBuilder, ask_file: Callable[[], None]) -> None:
        super().__init__(session)
        self._session, self._charter = session, charter
        self.ask_file = ask_file
        session.water_changed.connect(self._came)
        session.scan.cursor_changed.connect(self._tell_time)
        session.live.moved.connect(self._tell_live)

    def set_tide(self, table: TideTable | None) -> None:
        """Use a table and keep it with the water; None forgets it."""
        folder = self._charter.folder
        if folder is not None:
            try:
                folder.set_tide(table)
            except (FileError, OSError) as exc:
                self._session.say(f"The tide table could not be saved: {why(exc)}.", wrong=True)
        self._session.conditions.set_tide(table)

    def read_file(self, path: Path) -> None:
        """A table from a file."""
        session = self._session
        try:
            table = read_tide(path, session.conditions.offset_h)
        except FileError as exc:
            session.say(str(exc), wrong=True)
            return
        self.set_tide(table)
        session.ask_sheet("")
        reaches = session.conditions.tide_now is not None
        session.say(f"Tide read from {path.name}" + ("; the level follows it." if reaches else ", of other days."))

    def _came(self) -> None:
        folder, table = self._charter.folder, None
        if folder is not None:
            try:
                table = folder.tide()
            except FileError as exc:
                self._session.say(str(exc), wrong=True)
        self._session.conditions.set_tide(table)

    def _tell_time(self) -> None:
        if self._session.scan.lead is not None:
            self._session.conditions.set_moment(self._session.scan.time)

    def _tell_live(self) -> None:
        fix = self._session.live.fix
        if fix is not None:
            self._session.conditions.set_moment(fix.time)
