"""The one session object: what is open and chosen. Widgets read it and ask it to change."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone

import numpy as np
from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from plumbbob.core.chart.rank import DayFacts
from plumbbob.core.geodesy import Position
from plumbbob.core.rig.calibrate import Calibration, RigNote, calibrate
from plumbbob.core.sonar.reading import SideFish
from plumbbob.core.water.profile import Profile
from plumbbob.desk.models.chart_model import ChartState
from plumbbob.desk.models.column import Column
from plumbbob.desk.models.conditions import DayState
from plumbbob.desk.models.display import Look
from plumbbob.desk.models.forward_model import AheadState
from plumbbob.desk.models.history import History
from plumbbob.desk.models.lines_model import BoatState, Ground, ground_of_lane, ground_of_pass
from plumbbob.desk.models.logbook import Logbook
from plumbbob.desk.models.notes import note_of
from plumbbob.desk.models.picture_model import PhotoState
from plumbbob.desk.models.ranked_spots import PlacesState
from plumbbob.desk.models.recording_model import ScanState, Sight
from plumbbob.desk.models.rods_model import RigState
from plumbbob.desk.models.side_model import SideState
from plumbbob.desk.tasks.jobs import JobRunner
from plumbbob.formats.waters import Water, water_at
from plumbbob.store.values import Mark

_RANK_MS = 70


class Session(QObject):
    """Parts with a few signals each, plus the water, the stage on screen and the line that is said."""

    changed = Signal()  # anything: commands look again at what they may do
    water_changed = Signal()
    stage_changed = Signal(str)
    said = Signal(str, bool)  # one line for the person; True if something went wrong
    catch_asked = Signal(bool)  # open or close the catch form
    keys_asked = Signal(bool)
    sheet_asked = Signal(str)  # a sheet by name; empty: none
    pass_picked = Signal(str, object)  # a recording's name and the place on its track
    column_changed = Signal()  # the plumb line hangs elsewhere, or something in it moved

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.settings = settings
        self.look = Look(settings, self)
        self.scan = ScanState(self)
        self.rig = RigState(settings, self)
        self.boat = BoatState(self)
        self.side = SideState(self.scan, self)
        self.ahead = AheadState(self.scan, self.rig, self)
        self.photo = PhotoState(self)
        self.chart = ChartState(self)
        self.day = DayState(settings, self)
        self.places = PlacesState(settings, self)
        self.history = History()
        self.logbook = Logbook(self.history, self)
        self.jobs = JobRunner(self)
        self._tuning: tuple[RigNote, ...] = ()
        self._along: tuple[tuple[Ground, tuple[Mark, ...]], tuple[tuple[Mark, float], ...]] | None = None
        self._water = water_at(None)
        self._stage = "water"
        self._catching = False
        self._showing_keys = False
        self._sheet = ""
        for signal in (
            self.look.changed,
            self.scan.opened,
            self.scan.read,
            self.scan.chosen_changed,
            self.scan.replay_changed,
            self.scan.tool_changed,
            self.scan.evidence_changed,
            self.scan.compared,
            self.scan.sight_changed,
            self.side.changed,
            self.photo.opened,
            self.photo.changed,
            self.ahead.chosen_changed,
            self.rig.changed,
            self.boat.changed,
            self.chart.opened,
            self.chart.drawn_changed,
            self.chart.shown_changed,
            self.chart.tool_changed,
            self.chart.swaths_changed,
            self.places.changed,
            self.places.chosen_changed,
            self.day.changed,
            self.logbook.changed,
            self.logbook.chosen_changed,
            self.jobs.changed,
            self.water_changed,
        ):
            signal.connect(self.changed)
        self.scan.chosen_changed.connect(self._hang_bob)
        self.side.chosen_changed.connect(self._hang_bob)
        self.ahead.chosen_changed.connect(self._hang_bob)
        self.logbook.chosen_changed.connect(self._stand_at_mark)
        self.chart.opened.connect(self._chart_opened)
        self.logbook.notes_changed.connect(self._tune_rig)
        self.places.chosen_changed.connect(self._stand_at_place)
        for signal in (
            self.chart.drawn_changed,
            self.chart.opened,
            self.scan.opened,
            self.scan.read,
            self.scan.evidence_changed,
            self.day.changed,
        ):
            signal.connect(self._lay_ground)
        self.scan.cursor_changed.connect(self._boat_follows)
        # ranking follows the hand a moment later: one redraw for many changes
        self._ranking = QTimer(self)
        self._ranking.setSingleShot(True)
        self._ranking.setInterval(_RANK_MS)
        self._ranking.timeout.connect(self._look_for_places)
        for signal in (
            self.day.changed,
            self.logbook.changed,
            self.scan.read,
            self.scan.evidence_changed,
            self.rig.window_changed,
        ):
            signal.connect(self._ranking.start)
        for signal in (
            self.scan.opened,
            self.scan.read,
            self.scan.evidence_changed,
            self.scan.cursor_changed,
            self.scan.sight_changed,
            self.ahead.span_changed,
            self.photo.span_changed,
            self.boat.span_changed,
            self.boat.changed,
            self.chart.opened,
            self.chart.cursor_changed,
            self.day.changed,
            self.rig.changed,
            self.look.changed,
            self.water_changed,
            self.stage_changed,
        ):
            signal.connect(self.column_changed)
        self._scale = (0.0, 0.0)
        self.scan.view_changed.connect(self._scale_moved)

    @property
    def water(self) -> Water:
        """The water one is on."""
        return self._water

    @property
    def profile(self) -> Profile | None:
        """Its temperature by depth, if known."""
        return self.day.profile

    def set_water(self, water: Water, profile: Profile | None) -> None:
        """Go to another water."""
        self._water = water
        self.day.set_profile(profile)
        self.water_changed.emit()

    @property
    def stage(self) -> str:
        """The stage on screen."""
        return self._stage

    def set_stage(self, stage: str) -> None:
        """Go to another stage."""
        if stage != self._stage:
            self._stage = stage
            self.stage_changed.emit(stage)
            self.changed.emit()

    @property
    def catching(self) -> bool:
        """The catch form is open."""
        return self._catching

    def ask_catch(self, on: bool) -> None:
        """Open or close the catch form."""
        if on != self._catching:
            self._catching = on
            self.catch_asked.emit(on)
            self.changed.emit()

    @property
    def showing_keys(self) -> bool:
        """The list of keys is open."""
        return self._showing_keys

    def ask_keys(self, on: bool) -> None:
        """Open or close the list of keys."""
        if on != self._showing_keys:
            self._showing_keys = on
            self.keys_asked.emit(on)
            self.changed.emit()

    @property
    def sheet(self) -> str:
        """Name of the open sheet; empty: none."""
        return self._sheet

    def ask_sheet(self, name: str) -> None:
        """Open a sheet by name, or close the open one with an empty name."""
        if name != self._sheet:
            self._sheet = name
            self.sheet_asked.emit(name)
            self.changed.emit()

    def open_pass(self, name: str, place: tuple[float, float]) -> None:
        """Go to a pass in Scan, at a place of its track."""
        self.pass_picked.emit(name, place)

    def say(self, line: str, *, wrong: bool = False) -> None:
        """One line for the person."""
        self.said.emit(line, wrong)

    # -- the water's own clock ----------------------------------------------------------------------------------

    def local(self, time_s: float) -> datetime:
        """A time in the water's own zone."""
        zone = timezone(timedelta(hours=self._water.utc_offset_h))
        return datetime.fromtimestamp(time_s, UTC).astimezone(zone)

    def clock(self, time_s: float, form: str = "%H:%M:%S") -> str:
        """A time of day as shown; a dash where there is none."""
        return "–" if time_s != time_s else self.local(time_s).strftime(form)

    @property
    def zone(self) -> str:
        """Name of the water's zone."""
        hours = self._water.utc_offset_h
        return f"UTC{hours:+g}".replace("-", "−") if hours else "UTC"

    # -- what is chosen -----------------------------------------------------------------------------------------

    def _hang_bob(self) -> None:
        """Over what is chosen in the picture on screen, where its depth is known."""
        fish, track = self.side.chosen, self.ahead.chosen
        if self.scan.sight is Sight.SIDE:
            if isinstance(fish, SideFish) and fish.depth_m == fish.depth_m:
                self.rig.hang_over_depth(fish.depth_m)
        elif self.scan.sight is Sight.AHEAD:
            if track is not None:
                self.rig.hang_over_depth(self.ahead.now(track).depth_m)
        elif self.scan.chosen is not None:
            self.rig.hang_over(self.scan.chosen)

    def _stand_at_mark(self) -> None:
        """In the log the plumb line hangs where the chosen mark was seen."""
        mark, recording = self.logbook.chosen, self.scan.recording
        if self._stage == "log" and mark is not None and recording is not None and mark.source == recording.name:
            self.scan.set_cursor(round(self.scan.ping_of(mark.time)), mark.depth_m or 0.0)

    def _chart_opened(self) -> None:
        chart = self.chart.chart
        self.day.set_chart(chart)
        self.places.set_features(chart.features if chart is not None else ())
        self._look_for_places()

    def _stand_at_place(self) -> None:
        place = self.places.chosen
        if place is not None:
            self.chart.set_cursor(place.feature.x, place.feature.y)

    def _look_for_places(self) -> None:
        """Tell the ranking what is known of the day."""
        chart, day = self.chart.chart, self.day
        if chart is None:
            return
        bait = []
        for cloud in self.scan.reading.bait:
            if cloud.latitude == cloud.latitude:
                x, y = chart.plane.to_xy(cloud.latitude, cloud.longitude)
                bait.append((float(x), float(y), cloud.time_end - cloud.time_start))
        record = []
        for mark in self.logbook.marks:
            x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
            record.append((float(x), float(y), mark.seen, len(self.logbook.catches_at(mark.id))))
        self.places.set_facts(
            DayFacts(
                level_m=day.level_m,
                window=self.rig.window,
                layer=day.layer_plane,
                frame=day.fetch_frame,
                fetch_m=day.fetch,
                wind_mps=day.wind_mps,
                secchi_m=day.secchi_m,
                sun_deg=day.sun_deg(),
                bait=tuple(bait),
                record=tuple(record),
                evidence=self.scan.evidence if self.scan.evidence.fish.sum() > 0 else None,
            )
        )

    def _tune_rig(self) -> None:
        """The notes in the log tune the tackle; one that can no longer be read is left out and told."""
        notes = []
        for saved in self.logbook.notes:
            try:
                notes.append(note_of(saved))
            except ValueError as exc:
                self.say(f"A note of the rig can't be used: {exc}.", wrong=True)
        told = tuple(notes)
        self._tuning = told  # the newest answer counts
        if not told:
            self.rig.set_notes(told)
            return

        def done(found: Calibration) -> None:
            if self._tuning is told:
                self.rig.set_calibration(found)

        self.jobs.start("Tuning the tackle", lambda progress: calibrate(told), done)

    def _lay_ground(self) -> None:
        """What the boat goes over: the lane or line on the chart, else the open pass."""
        drawn = self.chart.drawn
        if drawn is not None:
            chart = self.chart.chart
            start = None if chart is None else chart.plane.place(*drawn.line[0])
            self.boat.set_ground(ground_of_lane(drawn, self.day.level_m, start))
        else:
            self.boat.set_ground(ground_of_pass(self.scan))
            self._boat_follows()

    def _boat_follows(self) -> None:
        """Over an open pass the boat is where the cursor is."""
        if self.boat.ground.of_pass and self.scan.lead is not None:
            self.boat.set_boat(self.boat.ground.at_time(self.scan.time))

    @property
    def marks_along(self) -> tuple[tuple[Mark, float], ...]:
        """Marks near the boat's way and how far along it they lie; found once for each way and log."""
        key = (self.boat.ground, self.logbook.marks)
        if self._along is None or self._along[0][0] is not key[0] or self._along[0][1] != key[1]:
            found = ((m, self.boat.ground.along_of(Position(m.latitude, m.longitude))) for m in key[1])
            self._along = (key, tuple((m, along) for m, along in found if along == along))
        return self._along[1]

    def move_boat(self, along_m: float) -> None:
        """Move the boat along its way; over an open pass that moves the cursor."""
        ground, down = self.boat.ground, self.scan.lead
        if ground.time is not None and down is not None:
            time = float(np.interp(along_m, ground.along_m, ground.time))
            self.scan.set_cursor(int(np.searchsorted(down.time, time)), self.scan.cursor.depth_m)
            self.scan.keep_in_view(self.scan.cursor.ping)
        else:
            self.boat.set_boat(along_m)

    def _scale_moved(self) -> None:
        """A picture that is only moved along leaves the column as it is."""
        scale = (self.scan.view.top_m, self.scan.view.base_m)
        if scale != self._scale:
            self._scale = scale
            self.column_changed.emit()

    @property
    def on_picture(self) -> bool:
        """A picture of a screen is looked at: the open pass has no say in what is shown."""
        return self._stage == "scan" and self.scan.sight is Sight.PICTURE

    @property
    def column(self) -> Column:
        """The column of water that the plumb line shows."""
        if self._stage == "water":
            return Column.of_chart(self.chart, self.day)
        if self._stage == "rig":
            return Column.of_rig(self.boat, self.scan, self.day)
        if self._stage == "scan" and self.scan.sight is Sight.AHEAD:
            return Column.of_ahead(self.scan, self.ahead)
        if self.on_picture:
            return Column.of_photo(self.photo)
        return Column.of_pass(self.scan)

    def chosen_place(self) -> Position | None:
        """Where what is chosen lies; without a choice, where the transducer was at the cursor."""
        if self._stage == "water":
            return self.chart.cursor_place()
        if self._stage == "scan" and self.scan.sight is Sight.SIDE:
            return self._side_place()
        if self._stage == "scan" and self.scan.sight is Sight.AHEAD and self.ahead.chosen is not None:
            return self.ahead.place(self.ahead.chosen) or self.scan.boat_place()
        echo = self.scan.chosen
        if echo is not None and echo.latitude == echo.latitude:
            return Position(echo.latitude, echo.longitude)
        return self.scan.boat_place()

    def _side_place(self) -> Position | None:
        """Of what was seen abeam, not of the boat; the boat's own place only where the cursor is in the water."""
        echo = self.side.chosen
        if echo is not None:
            return Position(echo.latitude, echo.longitude) if echo.latitude == echo.latitude else None
        return self.side.cursor_place() or self.scan.boat_place()
