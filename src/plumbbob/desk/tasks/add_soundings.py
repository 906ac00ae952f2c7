"""Brings files into a water's chart: soundings, logs, rasters and vector charts."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.types import Floats, Progress
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.question import Question
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.find_water import WaterFinder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.registry import ChartPart, Content, Format, format_of
from plumbbob.formats.waters import Water
from plumbbob.services.chart import keep_grid
from plumbbob.services.waters import Settled, middle_of, settle
from plumbbob.store.errors import StoreError

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.formats.soundings import Columns, Header


class SoundingsAdder:
    """Needs the session and what makes charts; asks for columns where a table does not say which is which."""

    def __init__(self, session: Session, charter: ChartBuilder, finder: WaterFinder) -> None:
        self._session, self._charter, self._finder = session, charter, finder
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
        from plumbbob.formats.soundings import guess_columns, read_header, untitled_columns

        try:
            header = read_header(path)
            try:
                if not header.titled:
                    self._ask_order(path, header, untitled_columns(path, header))
                    return
                columns = guess_columns(path, header.names)
            except FileError as exc:
                self._session.say(str(exc))
                self._ask_columns(path, header)
                return
        except (FileError, OSError) as exc:
            self._session.say(why(exc), wrong=True)
            return
        if columns.depth == "depth_m" and "depth_ft" in header.names and found.read is not None:
            self._take(path, partial(found.read, path))
        else:
            self._take(path, partial(_table_with, path, columns))

    def _ask_columns(self, path: Path, header: Header) -> None:
        self.asked_names, self._asked_path = header.names, path
        self._session.ask_sheet("columns")

    def _ask_order(self, path: Path, header: Header, columns: Columns) -> None:
        """A table that names nothing: one row of it as it would be read; a figure says which reading is right."""
        from plumbbob.formats.soundings import number_of

        value = {name: number_of(cell) for name, cell in zip(header.names, header.first, strict=True)}
        swapped = replace(columns, latitude=columns.longitude, longitude=columns.latitude)
        ways = [columns] if abs(value[columns.longitude]) > 90.0 else [columns, swapped]
        answers = tuple(
            (
                f"latitude {value[way.latitude]:.1f}, {abs(value[way.depth]):.10g} {unit} deep",
                partial(self._take, path, partial(_table_with, path, replace(way, depth_unit=unit))),
            )
            for way in ways
            for unit in ("m", "ft")
        )
        words = " ".join(header.first[:5])
        self._session.questions.ask(
            Question(
                f"{path.name} names no columns. Its first row, {words}, is:",
                (*answers, ("Something else …", partial(self._ask_columns, path, header))),
            )
        )

    def add_asked(self, columns: Columns) -> None:
        """The person has said which column is what."""
        path, self._asked_path = self._asked_path, None
        if path is not None:
            self._take(path, partial(_table_with, path, columns))

    def _take(self, path: Path, read: Callable[[Progress], ChartPart]) -> None:
        """Read in the background, find the water it belongs to, keep it there, show its chart."""
        waters, here = self._charter.waters, self._session.water

        def work(progress: Progress) -> tuple[ChartPart, Settled]:
            part = read(lambda f: progress(0.9 * f))
            return part, settle(waters, path, *_places(part), here)

        def done(result: tuple[ChartPart, Settled]) -> None:
            part, found = result
            if found.water is not None:
                self._keep(path, part, found.water, is_new=found.is_new)
            else:
                self._finder.ask(path, found.fit, middle_of(*_places(part)), lambda w: self._keep(path, part, w))

        self._session.jobs.start(f"Reading {path.name}", work, done, brief=True)

    def _keep(self, path: Path, part: ChartPart, water: Water, *, is_new: bool = False) -> None:
        """Into the folder of its water, and into the chart."""
        session, charter = self._session, self._charter
        if not charter.is_here(water):
            charter.come_to(water, time.time())
        folder, cleaning, before = charter.waters.folder(water), charter.cleaning, session.chart.chart

        def work(progress: Progress) -> tuple[Chart | None, Water, Path | None]:
            from plumbbob.core.chart.build import with_soundings

            soundings = part.soundings
            kept = folder.add(path.stem, soundings) if len(soundings) else None
            wider = charter.waters.reach(water, *_places(part))
            chart = None
            if part.shore or part.hazards:
                rings, hazards = folder.shore()
                folder.set_shore([*rings, *part.shore], [*hazards, *part.hazards])
            elif before is not None and len(soundings) <= 20_000:
                chart = with_soundings(before, soundings, cleaning)
                keep_grid(folder, cleaning, chart)
            return chart, wider, kept

        def done(result: tuple[Chart | None, Water, Path | None]) -> None:
            chart, wider, kept = result
            if kept is not None:
                self._can_take_back(kept)
            if not charter.is_here(water):
                return
            session.set_description(wider)
            if chart is not None:
                session.chart.open(chart)
            else:
                charter.build()
            where = f" to {wider.name}" if not is_new else ""
            words = f"{len(part.soundings):,} soundings added{where} from {path.name}"
            session.say("; ".join([words, *part.notes]) + ".  Z takes them out.")
            if is_new:
                self._finder.ask_name(wider)

        session.jobs.start(f"Keeping {path.name}", work, done, brief=True)

    def _can_take_back(self, kept: Path) -> None:
        """Z moves the file aside, and back; the chart follows where it is on screen."""
        charter, aside = self._charter, kept.parent / "taken out" / kept.name

        def move(source: Path, target: Path) -> None:
            try:
                target.parent.mkdir(exist_ok=True)
                source.replace(target)
            except OSError as exc:
                raise StoreError(f"{source.name} could not be moved: {why(exc)}.") from exc
            if charter.folder is not None and charter.folder.path == kept.parent:
                charter.build_or_clear()

        self._session.history.did(
            Change(f"soundings of {kept.name}", lambda: move(kept, aside), lambda: move(aside, kept))
        )


def _places(part: ChartPart) -> tuple[Floats, Floats]:
    """Latitudes and longitudes of what a file holds: its soundings, else its shore."""
    if len(part.soundings) or not part.shore:
        return part.soundings.latitude, part.soundings.longitude
    rings = np.concatenate([np.asarray(r, float) for r in part.shore])
    return rings[:, 0], rings[:, 1]


def _table_with(path: Path, columns: Columns, progress: Progress) -> ChartPart:
    from plumbbob.formats.soundings import read_soundings

    found = read_soundings(path, columns, progress=progress)
    return ChartPart(soundings=found.soundings, notes=found.notes)
