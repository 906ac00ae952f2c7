"""Makes charts in the background and hands them to the session: from a water's folder, from files, from passes."""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Callable
from dataclasses import replace
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
from plumbbob.formats.water_folder import WaterFolder, folder_of
from plumbbob.formats.waters import Water

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.soundings import Soundings
    from plumbbob.core.water.guess import Freezes, Guess
    from plumbbob.formats.soundings import Columns

_logger = logging.getLogger(__name__)
_PATIENCE_MS = 2500  # for a chart that is being made from its soundings nobody waits
RASTERS = (".tif", ".tiff")
VECTORS = (".gpkg", ".shp", ".geojson", ".json", ".000", ".gml", ".kml")
TEXTS = (".csv", ".txt", ".tsv", ".xyz")
LOGS = (".nmea", ".log", ".nma")


class Charter(QObject):
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

            return with_structure(chart, progress=progress), _tracks(folder, chart)

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
        ending = path.suffix.lower()
        if ending in TEXTS:
            self._add_text(path)
            return
        readers: dict[str, Callable[[Path, Progress], Any]] = dict.fromkeys(RASTERS, _read_raster)
        readers |= dict.fromkeys(VECTORS, _read_vectors)
        readers |= dict.fromkeys(LOGS, _read_log)
        reader = readers.get(ending)
        if reader is None:
            kinds = ", ".join((*TEXTS, *LOGS, *RASTERS, *VECTORS))
            self._session.say(f"{path.name}: not a kind of chart file that can be read ({kinds}).", wrong=True)
            return
        self._take(path, lambda progress: reader(path, progress))

    def _add_text(self, path: Path) -> None:
        from plumbbob.formats.soundings import guess_columns, read_header, read_soundings

        try:
            with path.open("rb") as file:
                if file.read(1) == b"$":
                    self._take(path, lambda progress: _read_log(path, progress))
                    return
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
        both = columns.depth == "depth_m" and "depth_ft" in names
        self._take(
            path, lambda progress: _from_text(read_soundings(path, None if both else columns, progress=progress))
        )

    def add_asked(self, columns: Columns) -> None:
        """The person has said which column is what."""
        path, self._asked_path = self._asked_path, None
        if path is None:
            return
        from plumbbob.formats.soundings import read_soundings

        self._take(path, lambda progress: _from_text(read_soundings(path, columns, progress=progress)))

    def _take(self, path: Path, read: Callable[[Progress], Any]) -> None:
        """Read in the background, keep in the folder, put into the chart."""
        session, folder, cleaning = self._session, self.folder, self.cleaning
        before = session.chart.chart

        def work(progress: Progress) -> Any:
            from plumbbob.core.chart.build import with_soundings

            soundings, rings, hazards, notes = read(lambda f: progress(0.5 * f))
            if before is not None and len(soundings):
                _check_near(path, before, soundings)
            if len(soundings):
                folder.add(path.stem, soundings)
            chart = None
            if rings or hazards:
                old_rings, old_hazards = folder.shore()
                folder.set_shore([*old_rings, *rings], [*old_hazards, *hazards])
            elif before is not None and len(soundings) <= 20_000:
                chart = with_soundings(before, soundings, cleaning)
                _keep(folder, cleaning, chart)
            return chart, len(soundings), notes

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
            _keep(folder, cleaning, chart)
            return folder, chart, _tracks(folder, chart)

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


def chart_of_folder(folder: WaterFolder, cleaning: CleanSettings, progress: Progress) -> tuple[Chart, list[str]]:
    """The folder's chart without its structure: the kept grid where it is still true, else made anew and kept."""
    from plumbbob.core.chart.build import build_chart, chart_of_grid
    from plumbbob.core.geodesy import Plane
    from plumbbob.formats.chart_cache import NAME, key_of, load_grid

    trouble_ashore = []
    try:
        rings, hazards = folder.shore()
    except FileError as exc:
        rings, hazards = [], []
        trouble_ashore = [f"{exc}; the chart is drawn without it"]
    key = key_of(_made_from(folder), cleaning)
    kept = load_grid(folder.path / NAME, key)
    if kept is not None:
        try:
            plane = Plane(kept.epsg)
            return chart_of_grid(
                plane, kept.grid, kept.used, kept.left_out, shore=rings, hazards=hazards, land=kept.land
            ), trouble_ashore
        except Exception:
            _logger.info("the kept grid is made anew", exc_info=True)  # it only saves time
    parts, trouble = folder.read_all(progress=lambda f: progress(0.2 * f))
    trouble += trouble_ashore
    try:
        chart = build_chart(
            parts, cleaning, shore=rings, hazards=hazards, structure=False, progress=lambda f: progress(0.2 + 0.8 * f)
        )
    except ValueError as exc:
        raise FileError(folder.path, "", "; ".join([str(exc), *trouble])) from exc
    if not trouble:
        _keep(folder, cleaning, chart)
    return chart, trouble


def _made_from(folder: WaterFolder) -> list[Path]:
    """The files a chart is made of; a link that leads nowhere is none."""
    return [p for p in (*folder.sources(), *folder.path.glob("shore.geojson")) if p.is_file()]


def _keep(folder: WaterFolder, cleaning: CleanSettings, chart: Chart) -> None:
    """The grid beside its soundings; a full disk costs time at the next start, no data."""
    from plumbbob.formats.chart_cache import NAME, Kept, key_of, save_grid

    try:
        key = key_of(_made_from(folder), cleaning)
        kept = Kept(chart.plane.epsg, chart.grid, chart.land, chart.used, dict(chart.left_out))
        save_grid(folder.path / NAME, key, kept)
    except (FileError, OSError):
        _logger.warning("the grid could not be kept", exc_info=True)


def _tracks(folder: WaterFolder, chart: Chart) -> tuple[PassTrack, ...]:
    out = []
    for name, latitude, longitude in folder.passes():
        x, y = chart.plane.to_xy(latitude, longitude)
        out.append(PassTrack(name, np.stack([x, y], axis=1)[:: max(len(x) // 150, 1)]))
    return tuple(out)


def _check_near(path: Path, chart: Chart, soundings: Soundings) -> None:
    x, y = chart.plane.to_xy(np.median(soundings.latitude), np.median(soundings.longitude))
    frame = chart.grid.frame
    middle_x, middle_y = frame.x0_m + frame.nx * frame.cell_m / 2, frame.y0_m + frame.ny * frame.cell_m / 2
    far = math.hypot(float(x) - middle_x, float(y) - middle_y)
    if not far < 40_000.0:
        away = "on another part of the globe" if not math.isfinite(far) else f"{far / 1000:.0f} km from this water"
        raise FileError(path, "", f"lies {away}; nothing was added. Swapped columns, or another water?")


def _from_text(file: Any) -> Any:
    return file.soundings, [], [], list(file.notes)


def _read_raster(path: Path, progress: Progress) -> Any:
    from plumbbob.formats.raster import read_raster

    soundings, note = read_raster(path)
    return soundings, [], [], [note] if note else []


def _read_vectors(path: Path, progress: Progress) -> Any:
    from plumbbob.formats.vectors import read_vectors

    found = read_vectors(path)
    return found.soundings, list(found.shore), list(found.hazards), list(found.notes)


def _read_log(path: Path, progress: Progress) -> Any:
    from plumbbob.formats.nmea import read_nmea

    found = read_nmea(path, progress=progress)
    return found.soundings, [], [], list(found.notes)
