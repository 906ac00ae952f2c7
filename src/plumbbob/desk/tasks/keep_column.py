"""The column of temperature and oxygen: kept with the water, read from a file, or guessed."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from plumbbob.core.water.profile import Profile
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.services.water import guessed_column

if TYPE_CHECKING:
    from plumbbob.core.water.guess import Freezes, Guess


class ColumnKeeper:
    """Needs the session and what knows the water's folder."""

    def __init__(self, session: Session, charter: ChartBuilder, ask_file: Callable[[], None]) -> None:
        self._session, self._charter = session, charter
        self.ask_file = ask_file

    def set_profile(self, profile: Profile) -> None:
        """Use a column and keep it with the water; a guess is not kept."""
        folder = self._charter.folder
        if not profile.estimated and folder is not None:
            try:
                folder.set_profile(profile)
            except (FileError, OSError) as exc:
                self._session.say(f"The column could not be saved: {why(exc)}.", wrong=True)
        self._session.conditions.set_profile(profile)

    def guess(self, surface_c: float | None, freezes: Freezes | None) -> Guess:
        """A guess for this water and this day; the surface as read, if it was."""
        session = self._session
        return guessed_column(
            session.water,
            session.chart.chart,
            session.local(session.scan.time if session.scan.lead is not None else time.time()),
            level_m=session.conditions.level_m,
            secchi_m=session.conditions.secchi_m,
            surface_c=surface_c,
            freezes=freezes,
        )

    def read_profile(self, path: Path) -> None:
        """A column from a file."""
        from plumbbob.formats.profile import read_profile

        try:
            self.set_profile(read_profile(path))
        except FileError as exc:
            self._session.say(str(exc), wrong=True)
            return
        self._session.ask_sheet("")
        self._session.say(f"Column read from {path.name}.")
