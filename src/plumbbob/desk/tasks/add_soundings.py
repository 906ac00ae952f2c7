"""Brings files into a water's chart: soundings, logs, rasters and vector charts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.registry import ChartPart, Content, Format, format_of
from plumbbob.services.chart import check_near, keep_grid

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.formats.soundings import Columns


_Added = tuple["Chart | None", int, Sequence[str]]  # the chart where it could be changed at once, soundings, notes


class SoundingsAdder:
    """Needs the session and what makes charts; asks for columns where a table does not say which is which."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        self._session, self._charter = session, charter
        self.asked_names: list[str] = []
        self._asked_path: Path | None = None

    def add_file(self, path: Path) -> None:
        """Soundings, a log, a raster or a vector chart; trouble is one line and the chart stays."""
        try:
            found = format_of(path, Content.SOUNDINGS, Content.CHART)
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        if found.content is Content.SOUNDINGS:
            self._add_table(path, found)
        elif found.read is not None:
            self._take(path, partial(found.read, path))

    def _add_table(self, path: Path, found: Format) -> None:
        from plumbbob.formats.soundings import guess_columns, read_header

        try:
            names, _ = read_header(path)
            try:
                columns = guess_columns(path, names)
            except FileError as exc:
                self.asked_names, self._asked_path = names, path
                self._session.say(str(exc))
                self._session.ask_sheet("columns")
                return
        except (FileError, OSError) as exc:
            self._session.say(why(exc), wrong=True)
            return
        if columns.depth == "depth_m" and "depth_ft" in names and found.read is not None:
            self._take(path, partial(found.read, path))
        else:
            self._take(path, partial(_table_with, path, columns))

    def add_asked(self, columns: Columns) -> None:
        """The person has said which column is what."""
        path, self._asked_path = self._asked_path, None
        if path is not None:
            self._take(path, partial(_table_with, path, columns))

    def _take(self, path: Path, read: Callable[[Progress], ChartPart]) -> None:
        """Read in the background, keep in the folder, put into the chart."""
        session, folder, cleaning = self._session, self._charter.folder, self._charter.cleaning
        before = session.chart.chart

        def work(progress: Progress) -> _Added:
            from plumbbob.core.chart.build import with_soundings

            part = read(lambda f: progress(0.5 * f))
            soundings, rings, hazards = part.soundings, part.shore, part.hazards
            if before is not None and len(soundings):
                check_near(path, before, soundings)
            if len(soundings):
                folder.add(path.stem, soundings)
            chart = None
            if rings or hazards:
                old_rings, old_hazards = folder.shore()
                folder.set_shore([*old_rings, *rings], [*old_hazards, *hazards])
            elif before is not None and len(soundings) <= 20_000:
                chart = with_soundings(before, soundings, cleaning)
                keep_grid(folder, cleaning, chart)
            return chart, len(soundings), part.notes

        def done(result: _Added) -> None:
            chart, number, notes = result
            if chart is not None:
                session.chart.open(chart)
            else:
                self._charter.build()
            words = f"{number:,} soundings added from {path.name}"
            session.say("; ".join([words, *notes]) + ".")

        session.jobs.start(f"Reading {path.name}", work, done)


def _table_with(path: Path, columns: Columns, progress: Progress) -> ChartPart:
    from plumbbob.formats.soundings import read_soundings

    found = read_soundings(path, columns, progress=progress)
    return ChartPart(soundings=found.soundings, notes=found.notes)
