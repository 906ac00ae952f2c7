"""What is open in Scan: a recording, what was read from it, where the cursor stands, what part is shown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position, separation
from plumbbob.core.sonar.beam import footprint_diameter
from plumbbob.core.sonar.corrections import Correction, apply, middle_of
from plumbbob.core.sonar.evidence import NOTHING, Evidence, gather
from plumbbob.core.sonar.groups import Group, find_groups
from plumbbob.core.sonar.reading import EMPTY, Bait, Fish, ForwardReading, Reading, SideReading, StandingObject
from plumbbob.core.sonar.recording import Down, Pings, Recording, transducer_at
from plumbbob.core.sonar.view_corrections import apply_views
from plumbbob.desk.models.echogram_raster import Overview, Raster
from plumbbob.desk.models.viewport import Viewport

LEAST_SPAN_PINGS = 60.0
LEAST_SPAN_M = 2.0


class DrawTool(Enum):
    """What a press in the picture does."""

    LOOK = "look"
    DRAW = "draw"
    BOTTOM = "bottom"


@dataclass(frozen=True, slots=True, eq=False)
class Compared:
    """Another pass laid along the open one: for each ping the one of the other pass taken nearest to it."""

    recording: Recording
    pings: NDArray[np.intp]  # (pings of the open pass,); -1 where the other never came near
    away_m: NDArray[np.float64]  # how far off that was
    reading: Reading = EMPTY


@dataclass(frozen=True, slots=True)
class Cursor:
    """A place in the picture."""

    ping: int
    depth_m: float


class RecordingModel(QObject):
    """One recording at a time, with its reading, cursor, view and chosen echo."""

    opened = Signal()  # another recording
    overview_ready = Signal()
    read = Signal()  # another reading
    view_changed = Signal()
    cursor_changed = Signal()
    chosen_changed = Signal()
    gain_changed = Signal()
    replay_changed = Signal()
    tool_changed = Signal()
    evidence_changed = Signal()
    compared = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._recording: Recording | None = None
        self._reading: Reading = EMPTY
        self._is_read = False
        self._path: Path | None = None
        self._detected: Reading = EMPTY
        self._corrections: tuple[Correction, ...] = ()
        self._groups: tuple[Group, ...] = ()
        self._speed = float("nan")
        self._evidence: Evidence = NOTHING
        self._pass_evidence: Evidence = NOTHING
        self._hand, self._label = DrawTool.LOOK, "fish"
        self._beside: Compared | None = None
        self._split = False
        self._fish_pings = self._fish_depths = np.zeros(0)
        self._bait_pings = self._standing_pings = self._layer_line = np.zeros((0, 2))
        self._axis = np.zeros(0)
        self._view = Viewport(0.0, 1.0, 0.0, 10.0)
        self._raster: Raster | None = None
        self._cursor = Cursor(0, 0.0)
        self._chosen: Fish | Bait | StandingObject | None = None
        self._gain_db = 0.0
        self._replaying = False
        self._replay_speed = 1

    # -- what is open -------------------------------------------------------------------------------------------

    @property
    def recording(self) -> Recording | None:
        """The open recording."""
        return self._recording

    @property
    def down(self) -> Down | None:
        """Its down view, if it has one with pings."""
        down = self._recording.down if self._recording else None
        return down if down is not None and len(down) else None

    @property
    def lead(self) -> Pings | None:
        """The view whose pings make the axis of time: the one that looks down, else to the side, else ahead."""
        recording = self._recording
        views = (recording.down, recording.side, recording.forward) if recording is not None else ()
        return next((view for view in views if view is not None and len(view)), None)

    @property
    def reading(self) -> Reading:
        """What was read from it; empty until it has been."""
        return self._reading

    @property
    def is_read(self) -> bool:
        """The reading is there."""
        return self._is_read

    @property
    def fish_pings(self) -> NDArray[np.float64]:
        """Where on the axis of pings each fish of the reading was, shape (fish,), ascending."""
        return self._fish_pings

    @property
    def fish_depths(self) -> NDArray[np.float64]:
        """How deep each was, shape (fish,)."""
        return self._fish_depths

    @property
    def bait_pings(self) -> NDArray[np.float64]:
        """Where on the axis of pings each bait of the reading begins and ends, shape (bait, 2)."""
        return self._bait_pings

    @property
    def standing_pings(self) -> NDArray[np.float64]:
        """Where each standing thing begins and ends, shape (standing, 2)."""
        return self._standing_pings

    @property
    def layer_line(self) -> NDArray[np.float64]:
        """The cold layer along the pass: pings and depths, shape (points, 2)."""
        return self._layer_line

    def pings_of(self, times: Sequence[float]) -> NDArray[np.float64]:
        """Where on the axis of pings many times fall."""
        if self.lead is None:
            return np.zeros(len(times))
        return np.interp(times, self.lead.time, self._axis)

    @property
    def path(self) -> Path | None:
        """Where the open recording lies."""
        return self._path

    @property
    def corrections(self) -> tuple[Correction, ...]:
        """What was said of the reading, oldest first."""
        return self._corrections

    @property
    def groups(self) -> tuple[Group, ...]:
        """Fish that hold together."""
        return self._groups

    @property
    def speed_mps(self) -> float:
        """The pass's usual speed; NaN where the track tells none."""
        return self._speed

    @property
    def footprint_pings(self) -> float:
        """How many pings wide the beam is at the cursor's depth, at the speed there; NaN if unknown or at rest."""
        track = self._recording.track if self._recording is not None else None
        if self.down is None or track is None or not self._speed > 0.0:
            return float("nan")
        low, high = np.searchsorted(track.time, (self.time - 2.5, self.time + 2.5))
        here = track.speed_mps[low:high]
        speed = float(np.nanmean(here)) if np.isfinite(here).any() else self._speed
        return self.footprint_m / (speed * self.down.typical_interval_s) if speed > 0.05 else float("nan")

    @property
    def footprint_m(self) -> float:
        """Width of the beam at the cursor's depth."""
        if self.down is None:
            return float("nan")
        reach = max(self._cursor.depth_m - self.down.mount.depth_m, 0.0)
        return float(footprint_diameter(reach, self.down.beam_width_deg))

    def ping_of(self, time_s: float) -> float:
        """Where on the axis of pings a time falls."""
        lead = self.lead
        if lead is None:
            return 0.0
        i = min(max(int(np.searchsorted(lead.time, time_s)), 1), len(lead) - 1)
        low, high = float(lead.time[i - 1]), float(lead.time[i])
        share = (time_s - low) / (high - low) if high > low else 0.0
        return i - 1 + min(max(share, 0.0), 1.0)

    def open(self, recording: Recording, screenful: int = 840, path: Path | None = None) -> None:
        """Show another recording, one ping a pixel, from its start."""
        self._recording, self._path = recording, path
        self._raster = Raster(self.down) if self.down is not None else None
        self._reading, self._is_read = EMPTY, False
        self._detected, self._corrections, self._groups = EMPTY, (), ()
        self._pass_evidence = NOTHING
        self._hand, self._beside = DrawTool.LOOK, None
        self._speed = float("nan")
        if recording.track is not None and np.isfinite(recording.track.speed_mps).any():
            self._speed = float(np.nanmedian(recording.track.speed_mps))
        self._fish_pings = self._fish_depths = np.zeros(0)
        self._bait_pings = self._standing_pings = self._layer_line = np.zeros((0, 2))
        self._chosen = None
        self._replaying = False
        lead = self.lead
        self._axis = np.arange(len(lead), dtype=np.float64) if lead is not None else np.zeros(0)
        if lead is not None:
            self._view = Viewport(0.0, float(min(screenful, len(lead))), 0.0, lead.deepest_m)
            self._cursor = Cursor(min(screenful, len(lead)) // 2, 0.0)
        self.opened.emit()
        self.view_changed.emit()
        self.chosen_changed.emit()
        self.cursor_changed.emit()
        self.replay_changed.emit()
        self.tool_changed.emit()
        self.compared.emit()

    @property
    def raster(self) -> Raster | None:
        """What renders the echoes of the view down."""
        return self._raster

    def set_overview(self, overview: Overview) -> None:
        """The whole pass at a glance has been worked out."""
        if self._raster is not None:
            self._raster.set_overview(overview)
            self.overview_ready.emit()

    def set_views(self, side: SideReading | None, ahead: ForwardReading | None) -> None:
        """Take what was read from the other views, which comes after the view down."""
        self._detected = replace(self._detected, side=side, ahead=ahead)
        self.set_corrections(self._corrections)
        if self.down is None:
            self.show_water()

    def set_reading(self, reading: Reading, corrections: Sequence[Correction] = ()) -> None:
        """Take a finished reading, and what was said of it before."""
        self._detected, self._is_read = reading, True
        self.set_corrections(corrections)

    def set_corrections(self, corrections: Sequence[Correction]) -> None:
        """Show the reading with these corrections."""
        assert self._recording is not None
        self._corrections = tuple(corrections)
        reading = apply(self._detected, self._corrections, self._recording)
        reading = self._reading = apply_views(reading, self._corrections)
        self._pass_evidence = gather(self._recording, reading)
        self._groups = find_groups(reading, self._speed) if self._speed > 0.0 else find_groups(reading)
        if self.lead is not None:
            axis = self._axis
            self._fish_pings = np.interp([f.time for f in reading.fish], self.lead.time, axis)
            self._fish_depths = np.array([f.depth_m for f in reading.fish])
            ends = np.array([(b.time_start, b.time_end) for b in reading.bait]).reshape(-1, 2)
            self._bait_pings = np.interp(ends, self.lead.time, axis)
            ends = np.array([(s.time_start, s.time_end) for s in reading.standing]).reshape(-1, 2)
            self._standing_pings = np.interp(ends, self.lead.time, axis)
            path = np.array(reading.cold_layer.path if reading.cold_layer is not None else ()).reshape(-1, 2)
            self._layer_line = np.column_stack([np.interp(path[:, 0], self.lead.time, axis), path[:, 1]])
        chosen = self._chosen
        if chosen is not None and chosen not in (*reading.fish, *reading.bait, *reading.standing):
            self._chosen = None
            self.chosen_changed.emit()
        self.read.emit()
        self.cursor_changed.emit()

    # -- the view -----------------------------------------------------------------------------------------------

    @property
    def view(self) -> Viewport:
        """The part on screen."""
        return self._view

    def set_view(self, view: Viewport) -> None:
        """Show another part, kept inside the recording."""
        lead = self.lead
        if lead is None:
            return
        n, deepest = float(len(lead)), lead.deepest_m
        pings = min(max(view.pings, min(LEAST_SPAN_PINGS, n)), n)
        first = min(max(view.first_ping, 0.0), n - pings)
        span = min(max(view.base_m - view.top_m, LEAST_SPAN_M), deepest)
        top = min(max(view.top_m, 0.0), deepest - span)
        new = Viewport(first, first + pings, top, top + span)
        if new != self._view:
            self._view = new
            self.view_changed.emit()

    def zoom_pings(self, factor: float, about: float) -> None:
        """Show `factor` times as many pings, keeping one in place."""
        v = self._view
        self.set_view(
            Viewport(
                about - (about - v.first_ping) * factor, about + (v.last_ping - about) * factor, v.top_m, v.base_m
            )
        )

    def zoom_depth(self, factor: float, about: float) -> None:
        """Show `factor` times as much depth, keeping one depth in place."""
        v = self._view
        top, base = about - (about - v.top_m) * factor, about + (v.base_m - about) * factor
        self.set_view(Viewport(v.first_ping, v.last_ping, top, base))

    def pan(self, pings: float, metres: float) -> None:
        """Move the view."""
        v = self._view
        self.set_view(Viewport(v.first_ping + pings, v.last_ping + pings, v.top_m + metres, v.base_m + metres))

    def show_all(self) -> None:
        """The whole recording."""
        if self.lead is not None:
            self.set_view(Viewport(0.0, float(len(self.lead)), 0.0, self.lead.deepest_m))

    def show_water(self) -> None:
        """All pings on screen stay; depth from the surface to a little below the deepest bottom among them."""
        lead = self.lead
        if lead is None:
            return
        v = self._view
        bed = self._beds()[int(v.first_ping) : math.ceil(v.last_ping)]
        deepest = float(np.nanmax(bed)) if np.isfinite(bed).any() else lead.deepest_m
        self.set_view(Viewport(v.first_ping, v.last_ping, 0.0, min(1.08 * deepest + 0.5, lead.deepest_m)))

    # -- cursor and choice --------------------------------------------------------------------------------------

    @property
    def cursor(self) -> Cursor:
        """Where the cursor stands."""
        return self._cursor

    def set_cursor(self, ping: int, depth_m: float) -> None:
        """Move the cursor."""
        if self.lead is None:
            return
        new = Cursor(min(max(ping, 0), len(self.lead) - 1), min(max(depth_m, 0.0), self.lead.deepest_m))
        if new != self._cursor:
            self._cursor = new
            self.cursor_changed.emit()

    def stand_at(self, time_s: float) -> None:
        """Put the cursor at a time and keep it on screen."""
        self.set_cursor(round(self.ping_of(time_s)), self._cursor.depth_m)
        self.keep_in_view(self._cursor.ping)

    def step_cursor(self, pings: int, metres: float) -> None:
        """Move the cursor by some pings and metres and keep it on screen."""
        self.set_cursor(self._cursor.ping + pings, self._cursor.depth_m + metres)
        self.keep_in_view(self._cursor.ping)

    def keep_in_view(self, ping: float) -> None:
        """Pan so that a ping is on screen."""
        v = self._view
        if not v.first_ping <= ping < v.last_ping:
            self.pan(ping - (v.first_ping + v.pings * 0.5), 0.0)

    @property
    def time(self) -> float:
        """Time of the ping under the cursor; NaN without a recording."""
        return float(self.lead.time[self._cursor.ping]) if self.lead is not None else float("nan")

    @property
    def bottom_m(self) -> float:
        """Bottom under the cursor's ping; NaN where unknown."""
        beds = self._beds()
        return float(beds[self._cursor.ping]) if self._cursor.ping < beds.size else float("nan")

    def _beds(self) -> NDArray[np.float64]:
        """Bottom under each ping of the axis: from the view down, else from the sides' own height over it."""
        beds, side = self._reading.bottom.depth_m, self._reading.side
        if not beds.size and side is not None and self._recording is not None and self._recording.side is not None:
            return side.altitude_m + self._recording.side.mount.depth_m
        return beds

    @property
    def hardness(self) -> float:
        """Hardness of the bottom there; NaN where unknown."""
        values = self._reading.bottom.hardness
        return float(values[self._cursor.ping]) if self._cursor.ping < values.size else float("nan")

    def boat_place(self) -> Position | None:
        """Where the transducer was at the cursor's ping."""
        if self.lead is None or self._recording is None:
            return None
        at = transducer_at(self._recording.track, self.lead.mount, np.array([self.time]))
        if not np.isfinite(at.latitude[0]):
            return None
        return Position(float(at.latitude[0]), float(at.longitude[0]))

    def go_to_place(self, place: Position) -> None:
        """Put the cursor at the ping that was taken nearest to a place."""
        lead, recording = self.lead, self._recording
        if lead is None or recording is None:
            return
        at = transducer_at(recording.track, lead.mount, lead.time)
        if not np.isfinite(at.latitude).any():
            return
        east, north = separation(place.latitude, place.longitude, at.latitude, at.longitude)
        ping = int(np.nanargmin(np.hypot(east, north)))
        self.choose(None)
        self.set_cursor(ping, self._cursor.depth_m)
        self.keep_in_view(ping)

    @property
    def chosen(self) -> Fish | Bait | StandingObject | None:
        """The echo that was picked."""
        return self._chosen

    def choose(self, echo: Fish | Bait | StandingObject | None) -> None:
        """Pick an echo, or none."""
        if echo != self._chosen:
            self._chosen = echo
            if echo is not None and self.lead is not None:
                _, middle, depth, _, _ = middle_of(echo)
                self.set_cursor(int(np.searchsorted(self.lead.time, middle)), depth)
                self.keep_in_view(self._cursor.ping)
                if not self._view.top_m <= depth <= self._view.base_m:
                    self.show_water()
            self.chosen_changed.emit()

    def choose_next(self, step: int) -> None:
        """The next fish in time after the chosen one or the cursor."""
        fish = self._reading.fish
        if not fish:
            return
        if isinstance(self._chosen, Fish) and self._chosen in fish:
            i = fish.index(self._chosen) + step
        else:
            later = [i for i, f in enumerate(fish) if f.time > self.time]
            i = (later[0] if later else len(fish)) if step > 0 else (later[0] - 1 if later else len(fish) - 1)
        self.choose(fish[i % len(fish)])

    # -- hands, evidence, another pass ---------------------------------------------------------------------------

    @property
    def draw_tool(self) -> DrawTool:
        """What a press in the picture does."""
        return self._hand

    @property
    def label(self) -> str:
        """What is drawn."""
        return self._label

    def switch_draw_tool(self, tool: DrawTool) -> None:
        """Take a tool in hand, or put it away."""
        self.set_draw_tool(DrawTool.LOOK if self.draw_tool is tool else tool)

    def set_draw_tool(self, hand: DrawTool, label: str | None = None) -> None:
        """Take another tool, or draw something else."""
        label = self._label if label is None else label
        if (hand, label) != (self._hand, self._label):
            self._hand, self._label = hand, label
            self.tool_changed.emit()

    @property
    def evidence(self) -> Evidence:
        """All passes of the day together."""
        return self._evidence

    @property
    def pass_evidence(self) -> Evidence:
        """Of the open pass alone."""
        return self._pass_evidence

    def set_evidence(self, evidence: Evidence) -> None:
        """Take the evidence of the day."""
        self._evidence = evidence
        self.evidence_changed.emit()

    @property
    def beside(self) -> Compared | None:
        """The pass that is compared with the open one."""
        return self._beside

    def compare(self, other: Compared | None) -> None:
        """Lay another pass along this one, or take it away."""
        self._beside = other
        self.compared.emit()

    @property
    def split(self) -> bool:
        """The chart stands beside the picture."""
        return self._split

    def set_split(self, on: bool) -> None:
        """Show the chart beside the picture, or not."""
        if on != self._split:
            self._split = on
            self.tool_changed.emit()

    def show_depths(self, top_m: float, base_m: float) -> None:
        """Most of the height for a span of depth."""
        room = 0.12 * max(base_m - top_m, LEAST_SPAN_M)
        self.set_view(Viewport(self._view.first_ping, self._view.last_ping, top_m - room, base_m + room))

    def show_time(self, start: float, end: float) -> None:
        """Make a stretch of the pass fill most of the width, its middle under the cursor."""
        low, high = self.ping_of(start), self.ping_of(end)
        wide = max(1.6 * (high - low), 4 * LEAST_SPAN_PINGS)
        middle = (low + high) / 2
        self.set_view(Viewport(middle - wide / 2, middle + wide / 2, self._view.top_m, self._view.base_m))
        self.set_cursor(round(middle), self._cursor.depth_m)

    # -- gain and replay ----------------------------------------------------------------------------------------

    @property
    def gain_db(self) -> float:
        """Brightness of the picture, in decibels over the usual."""
        return self._gain_db

    def set_gain(self, gain_db: float) -> None:
        """Set the brightness."""
        gain_db = min(max(gain_db, -24.0), 24.0)
        if gain_db != self._gain_db:
            self._gain_db = gain_db
            self.gain_changed.emit()

    @property
    def replaying(self) -> bool:
        """The pass is being played."""
        return self._replaying

    @property
    def replay_speed(self) -> int:
        """Times recorded time."""
        return self._replay_speed

    def set_replay(self, on: bool, speed: int | None = None) -> None:
        """Play or pause."""
        speed = self._replay_speed if speed is None else speed
        if (on, speed) != (self._replaying, self._replay_speed) and self.lead is not None:
            self._replaying, self._replay_speed = on, speed
            self.replay_changed.emit()

    def advance(self, seconds: float) -> None:
        """Play on by so much recorded time; stops at the end."""
        lead = self.lead
        if lead is None:
            return
        ping = int(np.searchsorted(lead.time, self.time + seconds))
        if ping >= len(lead):
            self.set_replay(False)
            ping = len(lead) - 1
        self.set_cursor(max(ping, self._cursor.ping + 1), self._cursor.depth_m)
        v = self._view
        if self._cursor.ping > v.first_ping + 0.7 * v.pings:
            self.pan(self._cursor.ping - (v.first_ping + 0.7 * v.pings), 0.0)
