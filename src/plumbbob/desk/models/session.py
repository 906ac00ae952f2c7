"""The one session object: what is open and chosen. Widgets read it and ask it to change."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.geodesy import Position
from plumbbob.core.water.profile import Profile
from plumbbob.desk.jobs import JobRunner
from plumbbob.desk.models.chart_model import ChartModel
from plumbbob.desk.models.conditions import Conditions
from plumbbob.desk.models.deck_model import DeckModel
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.models.forward_model import ForwardModel
from plumbbob.desk.models.history import History
from plumbbob.desk.models.lane_watch import LaneWatch
from plumbbob.desk.models.lines_model import Ground, LinesModel
from plumbbob.desk.models.live_model import LiveModel
from plumbbob.desk.models.log_list import LogList
from plumbbob.desk.models.logbook import Logbook, PlacedMarks
from plumbbob.desk.models.picture_model import PictureModel
from plumbbob.desk.models.question import Questions
from plumbbob.desk.models.ranked_spots import RankedSpots
from plumbbob.desk.models.recording_model import RecordingModel
from plumbbob.desk.models.review_model import ReviewModel
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.models.run_model import RunModel
from plumbbob.desk.models.search_model import SearchModel
from plumbbob.desk.models.seen_model import SeenModel
from plumbbob.desk.models.side_model import SideModel
from plumbbob.desk.models.trips_model import TripsModel
from plumbbob.desk.models.view import View
from plumbbob.desk.models.wiring import Wiring
from plumbbob.formats.waters import Water
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
    sheet_asked = Signal(str)  # a sheet by name; empty: none
    pass_picked = Signal(str, object)  # a recording's name and the place on its track
    column_changed = Signal()  # the plumb line hangs elsewhere, or something in it moved

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.settings = settings
        self.display = Display(settings, self)
        self.scan = RecordingModel(self)
        self.rig = RodsModel(settings, self)
        self.lines = LinesModel(self)
        self.side = SideModel(self.scan, self)
        self.forward = ForwardModel(self.scan, self.rig, self)
        self.screen_picture = PictureModel(self)
        self.chart = ChartModel(self)
        self.conditions = Conditions(settings, self)
        self.spots = RankedSpots(settings, self)
        self.seen = SeenModel(self)
        self.history = History(self)
        self.logbook = Logbook(self.history, self)
        self.trips = TripsModel(self.logbook, self)
        self.listed = LogList(self.logbook, self.trips, self.display, self)
        self.review = ReviewModel(self)
        self.run = RunModel(self.history, self)
        self.search = SearchModel(self)
        self.live = LiveModel(self)
        self.deck = DeckModel(settings, self)
        self.lane = LaneWatch(self)
        self.jobs = JobRunner(self)
        self.questions = Questions(self)
        self._along: tuple[tuple[Ground, PlacedMarks], tuple[tuple[Mark, float], ...]] | None = None
        self._water = Water()
        self._views: tuple[View, ...] = (View(self),)
        self._view = self._views[0]
        self._before_mode = self._view
        self._shown: dict[str, View] = {}  # the view of each stage that was on screen last
        self._catching = False
        self._sheet = ""
        self.wiring = Wiring(self)

    @property
    def water(self) -> Water:
        """The water one is on."""
        return self._water

    @property
    def profile(self) -> Profile | None:
        """Its temperature by depth, if known."""
        return self.conditions.profile

    def set_description(self, water: Water) -> None:
        """The water one is on is described otherwise: renamed, or sounded farther."""
        self._water = water
        self.water_changed.emit()

    def set_water(self, water: Water, profile: Profile | None) -> None:
        """Go to another water."""
        self._water = water
        self.conditions.set_profile(profile)
        self.water_changed.emit()

    # -- views --------------------------------------------------------------------------------------------------

    @property
    def views(self) -> tuple[View, ...]:
        """All views, in the order of their stages."""
        return self._views

    def set_views(self, views: tuple[View, ...]) -> None:
        """What can be shown; the first is."""
        self._views, self._view, self._shown = views, views[0], {}
        self._before_mode = views[0]
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
        return tuple(v for v in self._views if v.stage == self.stage and v.is_offered and not v.mode)

    def show(self, name: str) -> None:
        """Go to a view by name."""
        self._go_to(next(v for v in self._views if v.name == name))

    def set_stage(self, stage: str) -> None:
        """Go to another stage, to the view that was on screen there last."""
        if stage != self.stage or self._view.mode:
            first = next(v for v in self._views if v.stage == stage)
            self._go_to(self._shown.get(stage, first))

    def set_mode(self, name: str) -> None:
        """Into a view that takes the whole window, by name; empty: back to the one before."""
        if name:  # what lay over the picture would lie over it
            self.ask_sheet("")
            self.ask_catch(False)
        self._go_to(next(v for v in self._views if v.name == name) if name else self._before_mode)

    def _go_to(self, view: View) -> None:
        if not view.mode:
            self._shown[view.stage] = view
        if view is self._view:
            return
        before, self._view = self._view, view
        if not before.mode:
            self._before_mode = before
        self.scan.drawing.set(DrawTool.LOOK)
        self.view_changed.emit()
        if before.stage != view.stage:
            self.stage_changed.emit(view.stage)

    def offer_views(self) -> None:
        """Another recording looks other ways: in each stage the first view that it offers is shown."""
        for stage in {v.stage for v in self._views}:
            views = [v for v in self._views if v.stage == stage and not v.mode]
            first = next((v for v in views if v.is_offered), views[0])
            if stage == self.stage and not self._view.mode:
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
    def sheet(self) -> str:
        """Name of the open sheet; empty: none."""
        return self._sheet

    def ask_sheet(self, name: str) -> None:
        """Open a sheet by name, or close the open one with an empty name."""
        if name != self._sheet:
            self._sheet = name
            self.sheet_asked.emit(name)

    def open_pass(self, name: str, place: tuple[float, float]) -> None:
        """Go to a pass in Scan, at a place of its track."""
        self.pass_picked.emit(name, place)

    def say(self, line: str, *, wrong: bool = False) -> None:
        """One line for the person."""
        self.said.emit(line, wrong)

    # -- the water's own clock ----------------------------------------------------------------------------------

    def local(self, time_s: float) -> datetime:
        """A time in the water's own zone."""
        return datetime.fromtimestamp(time_s, UTC).astimezone(self._water.clock)

    def clock(self, time_s: float, form: str = "%H:%M:%S") -> str:
        """A time of day as shown; a dash where there is none."""
        return "–" if time_s != time_s else self.local(time_s).strftime(form)

    @property
    def zone(self) -> str:
        """Name of the water's zone."""
        hours = self._water.offset_h(self.scan.time if self.scan.lead is not None else 0.0)
        utc = f"UTC{hours:+g}".replace("-", "−") if hours else "UTC"
        name = self._water.time_zone
        return utc if name == "UTC" or name.startswith("Etc/") else f"{name.replace('_', ' ')}, {utc}"

    # -- what is chosen -----------------------------------------------------------------------------------------

    @property
    def marks_along(self) -> tuple[tuple[Mark, float], ...]:
        """Marks near the boat's way and how far along it they lie; found once for each way and log."""
        ground, marks = self.lines.ground, self.logbook.marks
        if self._along is None or self._along[0][0] is not ground or self._along[0][1] is not marks:
            close = ground.close_to(marks.numbers("latitude"), marks.numbers("longitude"))
            near = (marks[int(k)] for k in close)
            found = ((m, ground.along_of(Position(m.latitude, m.longitude))) for m in near)
            self._along = ((ground, marks), tuple((m, along) for m, along in found if along == along))
        return self._along[1]

    def move_boat(self, along_m: float) -> None:
        """Move the boat along its way; over an open pass that moves the cursor."""
        ground, down = self.lines.ground, self.scan.lead
        if ground.time is not None and down is not None:
            time = float(np.interp(along_m, ground.along_m, ground.time))
            self.scan.set_cursor(int(np.searchsorted(down.time, time)), self.scan.cursor.depth_m)
            self.scan.keep_in_view(self.scan.cursor.ping)
        else:
            self.lines.set_boat(along_m)
