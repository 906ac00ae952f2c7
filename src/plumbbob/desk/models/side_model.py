"""What is chosen in the view to the sides: how ranges are shown, the cursor's distance, an echo, a shadow."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np
from PySide6.QtCore import QObject, Signal

from plumbbob.core import geodesy as geo
from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.reading import SideFish, SideReading, SideThing
from plumbbob.core.sonar.recording import Side, transducer_at
from plumbbob.core.sonar.shadow_height import ShadowHeight, ground_range, place_spread, shadow_height, slant_range
from plumbbob.core.sonar.side_bed import rise_deg
from plumbbob.desk.models.line import as_line
from plumbbob.desk.models.recording_model import RecordingModel, latest

LEAST_REACH_M = 3.0
NEAR_M = 4.0  # so close to a standing thing a mark lies off it


class Across(Enum):
    """What the distance from the boat's line means."""

    SLANT = "slant range"
    CUT = "slant range without the water"
    GROUND = "ground range"


@dataclass(frozen=True, slots=True, kw_only=True)
class Click:
    """A place clicked for the shadow gauge."""

    time: float
    side: str
    slant_m: float


_HELD_PINGS = 60  # of a live pass, for which the last height read is still taken
GAUGE_STEPS = ("its echo", "where its shadow starts", "where its shadow ends")


class SideModel(QObject):
    """The recording's fans on screen. Time and pings are those of the scan it belongs to."""

    changed = Signal()  # picture, cursor or measurement
    chosen_changed = Signal()

    def __init__(self, scan: RecordingModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._scan = scan
        self._across = Across.SLANT
        self._reach = 10.0
        self._cursor_m = 0.0
        self._chosen: SideFish | SideThing | None = None
        self._clicks: tuple[Click, ...] | None = None
        self._gauged: ShadowHeight | None = None
        self._slope: float | None = None
        scan.opened.connect(self._opened)
        scan.read.connect(self._let_go)
        scan.read_on.connect(self._let_go)

    def _opened(self) -> None:
        side = self.view
        self._reach = side.reach_m if side is not None else 10.0
        self._cursor_m, self._clicks, self._gauged, self._slope = self._reach / 3, None, None, None
        self.choose(None)
        self.changed.emit()

    def _let_go(self) -> None:
        reading = self.reading
        if self._chosen is not None and self._chosen not in (*reading.fish, *reading.things):
            self.choose(None)
        self.changed.emit()

    # -- what there is ------------------------------------------------------------------------------------------

    @property
    def view(self) -> Side | None:
        """The open recording's view to the sides."""
        recording = self._scan.recording
        side = recording.side if recording is not None else None
        return side if side is not None and len(side) else None

    @property
    def reading(self) -> SideReading:
        """What was read from it; empty until it has been."""
        found = self._scan.reading.side
        return found if found is not None else SideReading(time=np.zeros(0), altitude_m=np.zeros(0))

    def ping_at(self, time_s: float) -> int:
        """The ping of this view nearest in time."""
        side = self.view
        if side is None:
            return 0
        i = min(max(int(np.searchsorted(side.time, time_s)), 1), len(side) - 1)
        return i - 1 if abs(side.time[i - 1] - time_s) <= abs(side.time[i] - time_s) else i

    def altitude_at(self, time_s: float) -> float:
        """Height of the transducer over the bottom; NaN where unknown."""
        return latest(self.reading.altitude_m, self.ping_at(time_s), back=_HELD_PINGS if self._scan.is_live else 0)

    # -- how it is shown ----------------------------------------------------------------------------------------

    @property
    def across(self) -> Across:
        """What the distance from the boat's line means."""
        return self._across

    def set_across(self, across: Across) -> None:
        """Show ranges another way; the cursor stays on what it was on."""
        if across is not self._across:
            slant = self.slant_of(abs(self._cursor_m), self._scan.time)
            self._across = across
            if math.isfinite(slant):
                shown = self.shown_of(slant, self._scan.time)
                self._cursor_m = math.copysign(shown if math.isfinite(shown) else 0.0, self._cursor_m)
            self.changed.emit()

    @property
    def reach_m(self) -> float:
        """How far to each side is on screen."""
        return self._reach

    def set_reach(self, reach_m: float) -> None:
        """Show farther or nearer."""
        most = self.view.reach_m if self.view is not None else 10.0
        reach_m = min(max(reach_m, min(LEAST_REACH_M, most)), most)
        if reach_m != self._reach:
            self._reach = reach_m
            self.changed.emit()

    def slant_of(self, shown_m: float, time_s: float) -> float:
        """Slant range of a distance on screen (without its sign)."""
        height = self.altitude_at(time_s)
        if self._across is Across.SLANT or not math.isfinite(height):
            return shown_m
        if self._across is Across.CUT:
            return shown_m + height
        return float(slant_range(shown_m, height, self.slope_deg))

    def shown_of(self, slant_m: float, time_s: float) -> float:
        """Distance on screen of a slant range; NaN where it is cut away."""
        height = self.altitude_at(time_s)
        if self._across is Across.SLANT or not math.isfinite(height):
            return slant_m
        if self._across is Across.CUT:
            return slant_m - height if slant_m >= height else math.nan
        return float(ground_range(slant_m, height, self.slope_deg))

    def shown_of_echo(self, echo: SideFish | SideThing) -> float:
        """Signed distance on screen of an echo: a fish that hangs is nearer on the ground than its echo looks."""
        on_ground = self._across is Across.GROUND
        shown = echo.ground_m if on_ground else self.shown_of(echo.slant_m, echo.time)
        return shown if echo.side == "starboard" else -shown

    # -- cursor, choice -----------------------------------------------------------------------------------------

    @property
    def cursor_m(self) -> float:
        """Distance of the cursor on screen, to starboard."""
        return self._cursor_m

    def set_cursor(self, across_m: float) -> None:
        """Move the cursor across."""
        across_m = min(max(across_m, -self._reach), self._reach)
        if across_m != self._cursor_m:
            self._cursor_m = across_m
            self.changed.emit()

    @property
    def cursor_side(self) -> str:
        """Which side the cursor is on."""
        return "starboard" if self._cursor_m >= 0 else "port"

    @property
    def cursor_ground_m(self) -> float:
        """Ground range under the cursor, the bottom taken as what is looked at; NaN in the water column."""
        time = self._scan.time
        slant = self.slant_of(abs(self._cursor_m), time)
        height = self.altitude_at(time)
        return float(ground_range(slant, height, self.slope_deg)) if math.isfinite(height) else slant

    @property
    def chosen(self) -> SideFish | SideThing | None:
        """The echo that was picked."""
        return self._chosen

    def choose(self, echo: SideFish | SideThing | None) -> None:
        """Pick an echo, or none; the cursor goes there."""
        if echo == self._chosen:
            return
        self._chosen = echo
        if echo is not None:
            self._scan.stand_at(echo.time)
            shown = self.shown_of_echo(echo)
            if math.isfinite(shown):
                self._cursor_m = shown
        self.chosen_changed.emit()
        self.changed.emit()

    def choose_at(self, side: str, time_s: float, slant_m: float) -> None:
        """Pick the echo that lies there, if any."""
        echoes: list[SideFish | SideThing] = [*self.reading.fish, *self.reading.things]
        near = [e for e in echoes if e.side == side]
        echo = min(near, key=lambda e: abs(e.time - time_s) + abs(e.slant_m - slant_m), default=None)
        self.choose(echo if echo is not None and abs(echo.time - time_s) < 0.6 else None)

    def choose_next(self, step: int) -> None:
        """The next fish in time after the chosen one or the cursor."""
        fish = self.reading.fish
        if not fish:
            return
        if isinstance(self._chosen, SideFish) and self._chosen in fish:
            i = fish.index(self._chosen) + step
        else:
            later = next((k for k, f in enumerate(fish) if f.time > self._scan.time), len(fish))
            i = later if step > 0 else later - 1
        self.choose(fish[i % len(fish)])

    def place(self, time_s: float, side: str, ground_m: float) -> Position | None:
        """Where something abeam lies: antenna offset and heading applied."""
        view, recording = self.view, self._scan.recording
        if view is None or recording is None or not math.isfinite(ground_m):
            return None
        at = transducer_at(recording.track, view.mount, np.array([time_s]))
        if not np.isfinite(at.latitude[0]) or not np.isfinite(at.heading_deg[0]):
            return None
        east, north = geo.along_heading(at.heading_deg[0], 0.0, ground_m if side == "starboard" else -ground_m)
        latitude, longitude = geo.offset(at.latitude[0], at.longitude[0], east, north)
        return Position(float(latitude), float(longitude))

    def place_sd(self, time_s: float, ground_m: float, ground_sd_m: float) -> float:
        """Spread of a place abeam: fix, distance, and heading, which counts for more while the boat turns."""
        view, recording = self.view, self._scan.recording
        if view is None or recording is None:
            return math.nan
        at = transducer_at(recording.track, view.mount, np.array([time_s - 1.0, time_s + 1.0]))
        turn = abs((float(at.heading_deg[1] - at.heading_deg[0]) + 180.0) % 360.0 - 180.0) / 2.0
        return place_spread(ground_m, ground_sd_m, turn)

    def ground_of(self, place: Position, time_s: float) -> float:
        """How far to starboard of the transducer a place lay at a time; NaN without a track."""
        view, recording = self.view, self._scan.recording
        if view is None or recording is None:
            return math.nan
        at = transducer_at(recording.track, view.mount, np.array([time_s]))
        east, north = geo.separation(at.latitude[0], at.longitude[0], place.latitude, place.longitude)
        heading = math.radians(float(at.heading_deg[0]))
        return float(east) * math.cos(heading) - float(north) * math.sin(heading)

    def cursor_place(self) -> Position | None:
        """Where the cursor points, on the bottom."""
        return self.place(self._scan.time, self.cursor_side, self.cursor_ground_m)

    def lies_off(self, place: Position) -> SideThing | None:
        """The standing thing that a place lies close to."""
        near = None
        for thing in self.reading.things:
            if not math.isfinite(thing.latitude):
                continue
            away = geo.distance_m(place, Position(thing.latitude, thing.longitude))
            if away <= NEAR_M and (near is None or away < near[0]):
                near = (away, thing)
        return None if near is None else near[1]

    # -- the shadow gauge ---------------------------------------------------------------------------------------

    @property
    def clicks(self) -> tuple[Click, ...] | None:
        """What has been clicked for a measurement; None while nothing is measured."""
        return self._clicks

    @property
    def gauged(self) -> ShadowHeight | None:
        """The last measurement."""
        return self._gauged

    @property
    def slope_deg(self) -> float:
        """Slope across the track used for ranges; 0 where none was given."""
        return self._slope or 0.0

    @property
    def slope_given(self) -> float | None:
        """Slope as typed or taken from the chart; None: level."""
        return self._slope

    def rise_on(self, time_s: float, side: str) -> float:
        """Slope of the bottom on a side, positive rising away: as typed, else as both first returns tell it."""
        if self._slope is not None:
            return self._slope
        slope, sd = self.reading.slope_deg, self.reading.slope_sd_deg
        if not slope.size:
            return 0.0
        return rise_deg(slope, sd, self.ping_at(time_s), side)

    def set_slope(self, slope_deg: float | None) -> None:
        """Take another slope across the track; positive rises away from the boat."""
        self._slope = slope_deg
        self._measure()
        self.changed.emit()

    def start_gauge(self, on: bool) -> None:
        """Begin to measure, or leave it."""
        self._clicks, self._gauged = (() if on else None), None
        self.changed.emit()

    def click(self, time_s: float, side: str, slant_m: float) -> str:
        """One more click of the gauge; returns a line for the person if it can't be."""
        if self._clicks is None or len(self._clicks) >= len(GAUGE_STEPS):
            self._clicks = ()
        if self._clicks and side != self._clicks[0].side:
            return "A shadow lies on the same side as its echo."
        self._clicks = (*self._clicks, Click(time=time_s, side=side, slant_m=slant_m))
        said = self._measure()
        if said:
            self._clicks = ()
        self.changed.emit()
        return said

    def _measure(self) -> str:
        clicks, view = self._clicks, self.view
        self._gauged = None
        if clicks is None or len(clicks) < len(GAUGE_STEPS) or view is None:
            return ""
        height = self.altitude_at(clicks[0].time)
        if not math.isfinite(height):
            return "How high the boat is over the bottom is not known here."
        echo, start, end = (c.slant_m for c in clicks)
        rise = self.rise_on(clicks[0].time, clicks[0].side)
        # a click is as good as two pixels of a usual screen, or the sound's own resolution
        sd = max(2.0 * self._reach / 280.0, float(np.median(view.range_step_m)))
        try:
            self._gauged = shadow_height(echo, start, end, height, slope_deg=rise, click_sd_m=sd)
        except ValueError as exc:
            return as_line(exc)
        return ""
