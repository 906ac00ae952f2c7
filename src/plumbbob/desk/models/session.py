"""The one session object: what is open and chosen. Widgets read it and ask it to change."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone
from functools import partial

import numpy as np
from PySide6.QtCore import QObject, QSettings, QTimer, Signal

from plumbbob.core.chart.rank import DayFacts
from plumbbob.core.geodesy import Position
from plumbbob.core.rig.calibrate import RigNote, TackleCalibration, calibrate
from plumbbob.core.water.profile import Profile
from plumbbob.desk.jobs import JobRunner
from plumbbob.desk.models.chart_model import ChartModel
from plumbbob.desk.models.conditions import Conditions
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.forward_model import ForwardModel
from plumbbob.desk.models.history import History
from plumbbob.desk.models.lines_model import Ground, LinesModel, ground_of_lane, ground_of_pass
from plumbbob.desk.models.logbook import Logbook
from plumbbob.desk.models.notes import note_of
from plumbbob.desk.models.picture_model import PictureModel
from plumbbob.desk.models.ranked_spots import RankedSpots
from plumbbob.desk.models.recording_model import DrawTool, RecordingModel
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.models.side_model import SideModel
from plumbbob.desk.models.view import View
from plumbbob.formats.waters import Water, water_at
from plumbbob.store.values import Mark

_RANK_MS = 70


class Session(QObject):
    """Parts with a few signals each, plus the water, the stage on screen and the line that is said."""

    touched = Signal(str)  # the name of a part that may be another now: commands look again at what they may do
    water_changed = Signal()
    stage_changed = Signal(str)
    view_changed = Signal()  # another view is on screen, of this stage or another
    said = Signal(str, bool)  # one line for the person; True if something went wrong
    catch_asked = Signal(bool)  # open or close the catch form
    keys_asked = Signal(bool)
    sheet_asked = Signal(str)  # a sheet by name; empty: none
    pass_picked = Signal(str, object)  # a recording's name and the place on its track
    column_changed = Signal()  # the plumb line hangs elsewhere, or something in it moved

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.settings = settings
        self.look = Display(settings, self)
        self.scan = RecordingModel(self)
        self.rig = RodsModel(settings, self)
        self.boat = LinesModel(self)
        self.side = SideModel(self.scan, self)
        self.ahead = ForwardModel(self.scan, self.rig, self)
        self.photo = PictureModel(self)
        self.chart = ChartModel(self)
        self.day = Conditions(settings, self)
        self.places = RankedSpots(settings, self)
        self.history = History(self)
        self.logbook = Logbook(self.history, self)
        self.jobs = JobRunner(self)
        self._tuning: tuple[RigNote, ...] = ()
        self._along: tuple[tuple[Ground, tuple[Mark, ...]], tuple[tuple[Mark, float], ...]] | None = None
        self._water = water_at(None)
        self._views: tuple[View, ...] = (View(self),)
        self._view = self._views[0]
        self._shown: dict[str, View] = {}  # the view of each stage that was on screen last
        self._catching = False
        self._showing_keys = False
        self._sheet = ""
        scan, chart = self.scan, self.chart
        for part, signals in (
            ("look", (self.look.changed,)),
            ("scan", (scan.opened, scan.read, scan.chosen_changed, scan.replay_changed, scan.tool_changed)),
            ("scan", (scan.evidence_changed, scan.compared)),
            ("view", (self.view_changed,)),
            ("side", (self.side.changed, self.side.chosen_changed)),
            ("photo", (self.photo.opened, self.photo.changed)),
            ("ahead", (self.ahead.changed, self.ahead.chosen_changed)),
            ("rig", (self.rig.changed,)),
            ("boat", (self.boat.changed,)),
            ("chart", (chart.opened, chart.drawn_changed, chart.shown_changed, chart.tool_changed)),
            ("chart", (chart.swaths_changed,)),
            ("places", (self.places.changed, self.places.chosen_changed)),
            ("day", (self.day.changed,)),
            ("logbook", (self.logbook.changed, self.logbook.chosen_changed)),
            ("history", (self.history.changed,)),
            ("jobs", (self.jobs.changed,)),
            ("water", (self.water_changed,)),
            ("sheet", (self.sheet_asked,)),
            ("catching", (self.catch_asked,)),
            ("showing_keys", (self.keys_asked,)),
        ):
            for signal in signals:
                signal.connect(partial(self._touch, part))
        self.scan.chosen_changed.connect(self._hang_bob)
        self.side.chosen_changed.connect(self._hang_bob)
        self.ahead.chosen_changed.connect(self._hang_bob)
        self.logbook.chosen_changed.connect(self._mark_chosen)
        self.scan.opened.connect(self._offer_views)
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
            self.view_changed,
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

    # -- views --------------------------------------------------------------------------------------------------

    @property
    def views(self) -> tuple[View, ...]:
        """All views, in the order of their stages."""
        return self._views

    def set_views(self, views: tuple[View, ...]) -> None:
        """What can be shown; the first is."""
        self._views, self._view, self._shown = views, views[0], {}
        self.view_changed.emit()

    @property
    def view(self) -> View:
        """The view on screen."""
        return self._view

    @property
    def stage(self) -> str:
        """The stage on screen."""
        return self._view.stage

    @property
    def offered(self) -> tuple[View, ...]:
        """The views of this stage that what is open has something to show in."""
        return tuple(v for v in self._views if v.stage == self.stage and v.is_offered)

    def show(self, name: str) -> None:
        """Go to a view by name."""
        self._go_to(next(v for v in self._views if v.name == name))

    def set_stage(self, stage: str) -> None:
        """Go to another stage, to the view that was on screen there last."""
        if stage != self.stage:
            first = next(v for v in self._views if v.stage == stage)
            self._go_to(self._shown.get(stage, first))

    def _go_to(self, view: View) -> None:
        self._shown[view.stage] = view
        if view is self._view:
            return
        before, self._view = self._view, view
        self.scan.set_draw_tool(DrawTool.LOOK)
        self.view_changed.emit()
        if before.stage != view.stage:
            self.stage_changed.emit(view.stage)

    def _offer_views(self) -> None:
        """Another recording looks other ways: in each stage the first view that it offers is shown."""
        for stage in {v.stage for v in self._views}:
            views = [v for v in self._views if v.stage == stage]
            first = next((v for v in views if v.is_offered), views[0])
            if stage == self.stage:
                self._go_to(first)
            else:
                self._shown[stage] = first

    @property
    def catching(self) -> bool:
        """The catch form is open."""
        return self._catching

    def ask_catch(self, on: bool) -> None:
        """Open or close the catch form."""
        if on != self._catching:
            self._catching = on
            self.catch_asked.emit(on)

    @property
    def showing_keys(self) -> bool:
        """The list of keys is open."""
        return self._showing_keys

    def ask_keys(self, on: bool) -> None:
        """Open or close the list of keys."""
        if on != self._showing_keys:
            self._showing_keys = on
            self.keys_asked.emit(on)

    @property
    def sheet(self) -> str:
        """Name of the open sheet; empty: none."""
        return self._sheet

    def ask_sheet(self, name: str) -> None:
        """Open a sheet by name, or close the open one with an empty name."""
        if name != self._sheet:
            self._sheet = name
            self.sheet_asked.emit(name)

    def _touch(self, part: str, *_: object) -> None:
        self.touched.emit(part)

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
        depth = self._view.fish_depth_m
        if depth == depth:
            self.rig.hang_over_depth(depth)

    def _mark_chosen(self) -> None:
        mark = self.logbook.chosen
        if mark is not None:
            self._view.mark_chosen(mark)

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

        def done(found: TackleCalibration) -> None:
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
