"""Makes charts in the background and hands them to the session: from a water's folder, from files, from passes."""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QTimer

from plumbbob.core.chart.lanes import LaneSettings
from plumbbob.core.chart.soundings import CleanSettings
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.core.water.profile import Profile
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.chart_model import Drawn, PassTrack
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import kept_window
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.registry import ChartPart, Content, Format, format_of
from plumbbob.formats.water_folder import WaterFolder, folder_of
from plumbbob.formats.waters import Water
from plumbbob.services.chart import chart_of_folder, check_near, keep_grid

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.water.guess import Freezes, Guess
    from plumbbob.formats.soundings import Columns

_logger = logging.getLogger(__name__)
_PATIENCE_MS = 2500  # for a chart that is being made from its soundings nobody waits


class ChartBuilder(QObject):
    """Needs the session and the folder of all waters. Heavy libraries are imported in the jobs."""

    def __init__(self, session: Session, waters: Path) -> None:
        super().__init__()
        self._session = session
        self._waters = waters
        self.folder = WaterFolder(waters / "unnamed")
        self.cleaning = CleanSettings()
        self.lanes = LaneSettings(depth_m=0.0)
        self.ice_beam_deg, self.ice_holes = 20.0, 19
        self.asked_names: list[str] = []
        self._asked_path: Path | None = None
        self._building: Job | None = None
        self._making: Callable[[Progress], Soundings] | None = None
        self.ask_profile: Callable[[], None] = lambda: None  # the window asks for a file

    # -- a water ------------------------------------------------------------------------------------------------

    def come_to(self, water: Water, time_s: float, make: Callable[[Progress], Soundings] | None = None) -> None:
        """Go to a water: its folder, numbers and chart. `make` gives first soundings where there are none."""
        session = self._session
        self.folder = WaterFolder(folder_of(self._waters, water))
        session.settings.setValue("water", water.name)
        session.day.come_to(self.folder.path.name, dict(water.defaults))
        try:
            profile = self.folder.profile()
        except FileError as exc:
            profile = None
            session.say(str(exc), wrong=True)
        if profile is None and water.profile is not None:
            from plumbbob.formats.profile import read_profile

            profile = read_profile(water.profile)
        session.set_water(water, profile)
        session.day.set_when(water.place, time_s, water.utc_offset_h)
        session.chart.open(None)
        kept = kept_window(session.settings, water.name)
        if kept is not None:
            session.rig.set_window(kept)
        self._making = make if not self.folder.sources() else None
        self.build()

    def build(self) -> None:
        """Make the chart anew from all that the folder holds."""
        if self._building is not None:
            self._building.cancel()
        folder, cleaning, make = self.folder, self.cleaning, self._making
        self._making = None
        if make is None and not folder.sources():
            return

        def work(progress: Progress) -> Any:
            if make is not None:
                folder.add("soundings", make(lambda f: progress(0.1 * f)))
            chart, trouble = chart_of_folder(folder, cleaning, lambda f: progress(0.1 + 0.9 * f))
            return folder, chart, trouble

        self._building = self._session.jobs.start("Making the chart", work, self._built)

    def after_chart(self, act: Callable[[], object]) -> None:
        """Do this when the chart that is being made has been drawn, or soon: their libraries hold each other up."""
        waiting = [act]

        def go() -> None:
            if waiting:
                waiting.pop()()

        if self._building is None or self._building not in self._session.jobs.live:
            go()
            return
        self._building.then(lambda: QTimer.singleShot(0, go))
        QTimer.singleShot(_PATIENCE_MS, go)

    def _built(self, result: tuple[WaterFolder, Chart, list[str]]) -> None:
        folder, chart, trouble = result
        if folder is not self.folder:
            return
        session = self._session
        session.chart.open(chart)
        if session.rig.window is None:
            session.rig.set_window(self._first_window(chart))
        if trouble:
            session.say("; ".join(trouble), wrong=True)
        self._look_for_structure(chart)

    def _look_for_structure(self, chart: Chart) -> None:
        session, folder = self._session, self.folder

        def work(progress: Progress) -> Any:
            from plumbbob.core.chart.build import with_structure

            return with_structure(chart, progress=progress), tracks_of(folder, chart)

        def done(result: tuple[Chart, tuple[PassTrack, ...]]) -> None:
            if session.chart.chart is chart:
                session.chart.open(result[0])
                session.chart.set_tracks(result[1])

        session.jobs.start("Looking for structure", work, done)

    def _first_window(self, chart: Chart) -> tuple[float, float] | None:
        """Over the cold layer where there is one; else none: the person chooses."""
        layer = self._session.day.layer
        if layer is None or chart.deepest_m < layer.top_m:
            return None
        # two thirds of the way down to the layer, and into it
        return round(0.62 * layer.middle_m * 2) / 2, round(1.02 * layer.middle_m * 2) / 2

    # -- more soundings -----------------------------------------------------------------------------------------

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
        session, folder, cleaning = self._session, self.folder, self.cleaning
        before = session.chart.chart

        def work(progress: Progress) -> Any:
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

        def done(result: Any) -> None:
            chart, number, notes = result
            if chart is not None:
                session.chart.open(chart)
            else:
                self.build()
            words = f"{number:,} soundings added from {path.name}"
            session.say("; ".join([words, *notes]) + ".")

        session.jobs.start(f"Reading {path.name}", work, done)

    def take_out(self) -> None:
        """The file added last leaves the chart; it is moved aside, not deleted."""
        try:
            name = self.folder.take_out_last()
        except OSError as exc:
            self._session.say(f"The file could not be moved: {why(exc)}.", wrong=True)
            return
        if not name:
            return
        self._session.say(f"{name} left the chart; it lies in the water's folder under 'taken out'.")
        if self.folder.sources():
            self.build()
        else:
            self._session.chart.open(None)

    def take_pass(self) -> None:
        """The open recording's bottom becomes soundings, once; a water without a chart gets its first one."""
        session = self._session
        recording, reading = session.scan.recording, session.scan.reading
        if recording is None or recording.down is None or self.folder.has_pass(recording.name):
            return
        if "picture" in recording.views:  # its scale is by hand and its places may be anywhere
            return
        folder, cleaning, level = self.folder, self.cleaning, session.day.level_m

        def work(progress: Progress) -> Any:
            from plumbbob.core.chart.build import build_chart, pass_soundings, with_soundings

            part = pass_soundings(recording, reading, level)
            if len(part) < 20:
                return None
            before = session.chart.chart
            try:
                chart = build_chart([part], cleaning) if before is None else with_soundings(before, part, cleaning)
            except ValueError:
                return None  # too far from the chart, or too little: the recording can still be read
            folder.add_pass(recording.name, part)
            keep_grid(folder, cleaning, chart)
            return folder, chart, tracks_of(folder, chart)

        def done(result: Any) -> None:
            if result is not None and result[0] is self.folder:
                session.chart.open(result[1])
                session.chart.set_tracks(result[2])

        # a chart that is being made reads the folder itself: put the pass in once it stands
        if self._building is not None and self._building in session.jobs.live:
            self._building.then(lambda: QTimer.singleShot(0, self.take_pass))
            return
        session.jobs.start("Putting the pass into the chart", work, done)

    def retake_pass(self) -> None:
        """A person drew the bottom of the open pass: its soundings are written anew, and the chart is made again."""
        session = self._session
        recording, reading = session.scan.recording, session.scan.reading
        if recording is None or not self.folder.has_pass(recording.name):
            return
        folder, level = self.folder, session.day.level_m

        def work(progress: Progress) -> Any:
            from plumbbob.core.chart.build import pass_soundings

            folder.add_pass(recording.name, pass_soundings(recording, reading, level))
            return folder

        def done(result: Any) -> None:
            if result is self.folder:
                self.build()

        session.jobs.start("Putting your bottom into the chart", work, done)

    def set_cleaning(self, cleaning: CleanSettings) -> None:
        """Clean otherwise, and make the chart anew."""
        self.cleaning = cleaning
        self.build()

    # -- the column ---------------------------------------------------------------------------------------------

    def set_profile(self, profile: Profile) -> None:
        """Use a column and keep it with the water; a guess is not kept."""
        if not profile.estimated:
            try:
                self.folder.set_profile(profile)
            except (FileError, OSError) as exc:
                self._session.say(f"The column could not be saved: {why(exc)}.", wrong=True)
        self._session.day.set_profile(profile)

    def guess(self, surface_c: float | None, freezes: Freezes | None) -> Guess:
        """A guess for this water and this day; the surface as read, if it was."""
        from plumbbob.core.water.guess import Lake, NoGuess, guess_column

        session = self._session
        chart, water = session.chart.chart, session.water
        now = session.local(session.scan.time if session.scan.lead is not None else time.time())
        area, deepest = 1e6, math.nan
        if chart is not None:
            area = float(chart.grid.known.sum()) * chart.grid.frame.cell_m**2
            deepest = chart.deepest_m + session.day.level_m
        lake = Lake(
            latitude=water.place.latitude if water.place else 45.0,
            altitude_m=water.altitude_m,
            area_m2=area,
            deepest_m=deepest,
            secchi_m=session.day.secchi_m,
            freezes=freezes,
            hindrances=frozenset({NoGuess.SALT}) if water.salt else frozenset(),
        )
        return guess_column(lake, now.timetuple().tm_yday, surface_c)

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

    # -- lanes and holes ----------------------------------------------------------------------------------------

    def keep_lanes(self, changes: dict[str, float], beam_deg: float, holes: int) -> None:
        """Settings of lanes and holes."""
        self.lanes = replace(self.lanes, **changes)
        self.ice_beam_deg, self.ice_holes = beam_deg, holes

    def lay_lane(self) -> None:
        """A lane along the depth under the cursor."""
        session = self._session
        chart, cursor, depth = session.chart.chart, session.chart.cursor, session.chart.depth_m
        if chart is None or cursor is None or not math.isfinite(depth):
            session.say("Put the cursor on a depth first: the lane follows it.", wrong=True)
            return
        settings = replace(self.lanes, depth_m=depth)

        def work(progress: Progress) -> Any:
            from plumbbob.core.chart.lanes import lane_along

            grid = chart.grid
            return lane_along(grid.frame, grid.depth_m, grid.sd_m, chart.land, cursor, settings, chart.hazards)

        def done(lane: Any) -> None:
            look = session.look
            words = look.words(depth + session.day.level_m, Kind.DEPTH)
            if lane is None:
                session.say(f"No lane along {words} here that the boat could turn in.", wrong=True)
                return
            note = "Close to shore: first pass slow." if lane.close_to_shore else "Not for navigation."
            session.chart.set_drawn(Drawn("lane", lane.line, lane.along_m, lane.depth_m, lane, note))
            session.say(
                f"Lane along {words}, {look.words(lane.length_m, Kind.DISTANCE, 0)}. Ctrl+G writes it as a route."
            )

        session.jobs.start("Laying a lane", work, done, brief=True)

    def plan_holes(self) -> None:
        """Holes from the chosen place, or the deepest water near the cursor, outwards."""
        from plumbbob.core.chart.lanes import hole_plan

        session = self._session
        chart, cursor = session.chart.chart, session.chart.cursor
        if chart is None or cursor is None:
            return
        if session.chart.holes is not None:
            session.chart.set_holes(None)
            return
        window, level = session.rig.window, session.day.level_m
        here = session.chart.depth_m + level
        interest = sum(window) / 2 if window is not None else here
        if not math.isfinite(interest) or interest <= 0.5:
            session.say("Put the cursor on water first: the holes start there.", wrong=True)
            return
        plan = hole_plan(
            chart.grid.frame,
            chart.grid.depth_m + np.float32(level),
            cursor,
            of_interest_m=interest,
            beam_width_deg=self.ice_beam_deg,
            holes=self.ice_holes,
        )
        session.chart.set_holes(plan)
        look = session.look
        session.say(
            f"{len(plan.places)} holes, {look.words(plan.spacing_m, Kind.DISTANCE, 0)} apart: each shows "
            f"{look.words(plan.footprint_m, Kind.DISTANCE, 0)} at {look.words(interest, Kind.DEPTH, 0)}. "
            "Check the ice at every step and ask locally."
        )

    # -- out ----------------------------------------------------------------------------------------------------

    def write(self, path: Path, what: str) -> None:
        """Write grid, contours or soundings, whole or not at all."""
        session = self._session
        chart, folder = session.chart.chart, self.folder
        if chart is None:
            return
        level, cleaning = session.day.level_m, self.cleaning

        def work(progress: Progress) -> str:
            if what == "grid":
                from plumbbob.formats.raster import write_grid

                write_grid(path, chart.plane, chart.grid)
                return f"Depths at datum written to {path.name}."
            if what == "contours":
                from plumbbob.core.chart.contours import contours
                from plumbbob.formats.vectors import write_contours

                found = contours(chart.grid.frame, chart.grid.depth_m, session_levels, progress=progress)
                write_contours(path, chart.plane, found)
                return f"{len(found)} depths of contours written to {path.name}."
            from plumbbob.core.chart.soundings import clean, joined
            from plumbbob.formats.soundings import at_datum, write_soundings

            parts, _ = folder.read_all(progress=progress)
            whole = joined(parts)
            kept = clean(whole, cleaning, chart.plane)
            write_soundings(path, at_datum(whole, kept))
            return f"{int(kept.kept.sum()):,} soundings at datum written to {path.name}."

        step = (
            1.0
            if session.look.system.value == "metric"
            else 5 * 0.3048
            if session.look.system.value == "US"
            else 1.8288
        )
        session_levels = [k * step - level for k in range(1, int((chart.deepest_m + level) / step) + 1)]
        session.jobs.start(f"Writing {path.name}", work, session.say)


def _table_with(path: Path, columns: Columns, progress: Progress) -> ChartPart:
    from plumbbob.formats.soundings import read_soundings

    found = read_soundings(path, columns, progress=progress)
    return ChartPart(soundings=found.soundings, notes=found.notes)


def tracks_of(folder: WaterFolder, chart: Chart) -> tuple[PassTrack, ...]:
    out = []
    for name, latitude, longitude in folder.passes():
        x, y = chart.plane.to_xy(latitude, longitude)
        out.append(PassTrack(name, np.stack([x, y], axis=1)[:: max(len(x) // 150, 1)]))
    return tuple(out)
