"""Makes charts in the background and hands them to the session: from a water's folder and from passes."""

from __future__ import annotations

import logging
import time
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from PySide6.QtCore import QObject, QTimer

from plumbbob.core.chart.soundings import CleanSettings, Soundings
from plumbbob.core.types import Progress
from plumbbob.desk.jobs import Job
from plumbbob.desk.models.chart_model import PassTrack
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import kept_window
from plumbbob.files.text import why
from plumbbob.formats.water_folder import WaterFolder
from plumbbob.formats.waters import Water
from plumbbob.services.chart import chart_of_folder, keep_grid
from plumbbob.services.water import kept_column
from plumbbob.services.waters import Waters

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_logger = logging.getLogger(__name__)
_PATIENCE_MS = 2500  # for a chart that is being made from its soundings nobody waits


_Built = tuple[WaterFolder, "Chart", list[str]]
_PassTaken = tuple["Chart", tuple[PassTrack, ...], Water]


class ChartBuilder(QObject):
    """Needs the session and the folder of all waters. Heavy libraries are imported in the jobs."""

    def __init__(self, session: Session, waters: Waters) -> None:
        super().__init__()
        self._session = session
        self.waters = waters
        self.folder: WaterFolder | None = None  # of the water one is on
        self.cleaning = CleanSettings()
        self._building: Job[Any] | None = None
        self._making: Callable[[Progress], Soundings] | None = None

    # -- a water ------------------------------------------------------------------------------------------------

    def come_to(self, water: Water, time_s: float, make: Callable[[Progress], Soundings] | None = None) -> None:
        """Go to a water: its folder, numbers and chart. `make` gives first soundings where there are none."""
        session = self._session
        folder = self.folder = self.waters.folder(water) if water.key else None
        session.settings.setValue("water", water.key)
        session.conditions.come_to(water.key, {"level_m": water.usual_level_m, **water.defaults})
        profile, trouble = kept_column(folder) if folder is not None else (None, "")
        if trouble:
            session.say(trouble, wrong=True)
        session.set_water(water, profile)
        session.conditions.set_when(water.place, time_s, water.offset_h(time_s))
        session.chart.open(None)
        kept = kept_window(session.settings, water.key)
        session.rig.set_window(kept)
        if folder is None:
            if self._building is not None:
                self._building.cancel()
            return
        now = time.time()
        session.jobs.start(
            f"Going to {water.name}", lambda p: self.waters.visit(water, now), lambda _: None, brief=True
        )
        self._making = make if not folder.sources() else None
        self.build()

    def leave(self) -> None:
        """On no water, as when it has to be asked which one."""
        self.come_to(Water(), time.time())

    def is_here(self, water: Water) -> bool:
        """This water is the one on screen."""
        return self.folder is not None and self.folder.path.name == water.key

    def build(self) -> None:
        """Make the chart anew from all that the folder holds."""
        if self._building is not None:
            self._building.cancel()
        folder, cleaning, make, water = self.folder, self.cleaning, self._making, self._session.water
        self._making = None
        if folder is None or (make is None and not folder.sources()):
            return

        def work(progress: Progress) -> _Built:
            if make is not None:
                made = make(lambda f: progress(0.1 * f))
                folder.add("soundings", made)
                self.waters.reach(water, made.latitude, made.longitude)
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

    def _built(self, result: _Built) -> None:
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
        if folder is None:
            return

        def work(progress: Progress) -> tuple[Chart, tuple[PassTrack, ...]]:
            from plumbbob.core.chart.build import with_structure

            return with_structure(chart, progress=progress), tracks_of(folder, chart)

        def done(result: tuple[Chart, tuple[PassTrack, ...]]) -> None:
            if session.chart.chart is chart:
                session.chart.open(result[0])
                session.chart.set_tracks(result[1])

        session.jobs.start("Looking for structure", work, done)

    def _first_window(self, chart: Chart) -> tuple[float, float] | None:
        """Over the cold layer where there is one; else none: the person chooses."""
        layer = self._session.conditions.layer
        if layer is None or chart.deepest_m < layer.top_m:
            return None
        # two thirds of the way down to the layer, and into it
        return round(0.62 * layer.middle_m * 2) / 2, round(1.02 * layer.middle_m * 2) / 2

    # -- more soundings -----------------------------------------------------------------------------------------

    def take_out(self) -> None:
        """The file added last leaves the chart; it is moved aside, not deleted."""
        if self.folder is None:
            return
        try:
            name = self.folder.take_out_last()
        except OSError as exc:
            self._session.say(f"The file could not be moved: {why(exc)}.", wrong=True)
            return
        if not name:
            return
        self._session.say(f"{name} left the chart; it lies in the water's folder under 'taken out'.")
        self.build_or_clear()

    def build_or_clear(self) -> None:
        """The chart of what the folder holds now; none where it holds nothing."""
        if self.folder is not None and self.folder.sources():
            self.build()
        else:
            self._session.chart.open(None)

    def take_pass(self) -> None:
        """The open recording's bottom becomes soundings, once; a water without a chart gets its first one."""
        session = self._session
        recording, reading = session.scan.recording, session.scan.reading
        if recording is None or recording.down is None or self.folder is None:
            return
        if self.folder.has_pass(recording.name):
            return
        if "picture" in recording.views:  # its scale is by hand and its places may be anywhere
            return
        folder, cleaning, level, water = self.folder, self.cleaning, session.conditions.level_m, session.water

        def work(progress: Progress) -> _PassTaken | None:
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
            wider = self.waters.reach(water, part.latitude, part.longitude)
            return chart, tracks_of(folder, chart), wider

        def done(result: _PassTaken | None) -> None:
            if result is not None and folder is self.folder:
                session.set_description(result[2])
                session.chart.open(result[0])
                session.chart.set_tracks(result[1])

        # a chart that is being made reads the folder itself: put the pass in once it stands
        if self._building is not None and self._building in session.jobs.live:
            self._building.then(lambda: QTimer.singleShot(0, self.take_pass))
            return
        session.jobs.start("Putting the pass into the chart", work, done)

    def grow(self, name: str, parts: Sequence[Soundings]) -> bool:
        """More of a pass that is being recorded, into its soundings in the folder and the chart; False: not now."""
        session, folder, cleaning = self._session, self.folder, self.cleaning
        if folder is None or (self._building is not None and self._building in session.jobs.live):
            return False
        before, water = session.chart.chart, session.water

        def work(progress: Progress) -> _PassTaken | None:
            from plumbbob.core.chart.build import build_chart, with_soundings
            from plumbbob.core.chart.soundings import joined

            new = joined(parts)
            try:
                chart = build_chart([new], cleaning) if before is None else with_soundings(before, new, cleaning)
            except ValueError:
                return None
            folder.add_pass(name, joined([*folder.soundings_of_pass(name), new]))
            keep_grid(folder, cleaning, chart)
            return chart, tracks_of(folder, chart), self.waters.reach(water, new.latitude, new.longitude)

        def done(result: _PassTaken | None) -> None:
            if result is not None and folder is self.folder:
                session.set_description(result[2])
                session.chart.open(result[0])
                session.chart.set_tracks(result[1])

        session.jobs.start("Growing the chart", work, done)
        return True

    def retake_pass(self) -> None:
        """A person drew the bottom of the open pass: its soundings are written anew, and the chart is made again."""
        session = self._session
        recording, reading = session.scan.recording, session.scan.reading
        if recording is None or self.folder is None or not self.folder.has_pass(recording.name):
            return
        folder, level = self.folder, session.conditions.level_m

        def work(progress: Progress) -> None:
            from plumbbob.core.chart.build import pass_soundings

            folder.add_pass(recording.name, pass_soundings(recording, reading, level))

        def done(_: None) -> None:
            if folder is self.folder:
                self.build()

        session.jobs.start("Putting your bottom into the chart", work, done)

    def show_tracks(self) -> None:
        """Passes and trails as the folder has them now."""
        chart, folder = self._session.chart.chart, self.folder
        if chart is None or folder is None:
            return

        def done(tracks: tuple[PassTrack, ...]) -> None:
            if folder is self.folder:
                self._session.chart.set_tracks(tracks)

        self._session.jobs.start("Drawing trails", lambda progress: tracks_of(folder, chart), done, brief=True)

    def set_cleaning(self, cleaning: CleanSettings) -> None:
        """Clean otherwise, and make the chart anew."""
        self.cleaning = cleaning
        self.build()


def tracks_of(folder: WaterFolder, chart: Chart) -> tuple[PassTrack, ...]:
    """The ways of a folder's passes on the chart's plane, thinned for drawing."""
    out = []
    for name, latitude, longitude in folder.passes():
        x, y = chart.plane.to_xy(latitude, longitude)
        out.append(PassTrack(name, np.stack([x, y], axis=1)[:: max(len(x) // 150, 1)]))
    for name, line in folder.trails():
        x, y = chart.plane.to_xy(line[:, 0], line[:, 1])
        out.append(PassTrack(name, np.stack([x, y], axis=1)[:: max(len(x) // 300, 1)], recorded=False))
    return tuple(out)
