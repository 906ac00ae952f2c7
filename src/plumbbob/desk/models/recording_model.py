"""What is open in Scan: a recording, what was read from it, where the cursor stands, what part is shown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.beam import footprint_diameter
from plumbbob.core.sonar.corrections import Correction, middle_of
from plumbbob.core.sonar.evidence import NOTHING, Evidence
from plumbbob.core.sonar.reading import Bait, Fish, ForwardReading, Reading, SideReading, StandingObject
from plumbbob.core.sonar.recording import Down, Pings, Recording
from plumbbob.desk.models.comparison import Comparison
from plumbbob.desk.models.drawing import Drawing, DrawTool
from plumbbob.desk.models.echogram_raster import Overview
from plumbbob.desk.models.recording_document import RecordingDocument
from plumbbob.desk.models.replay import Replay
from plumbbob.desk.models.viewport import LEAST_SPAN_M, LEAST_SPAN_PINGS, Viewport

_BED_PINGS = 45  # so far back the bottom of a live pass is taken as the one under the boat


def latest(values: NDArray[np.float64], ping: int, *, back: int) -> float:
    """Of values by ping the one at a ping; the newest of a live pass, not read yet, have the last not so far back."""
    if not back:
        return float(values[ping]) if ping < values.size else math.nan
    near = values[max(ping - back, 0) : ping + 1]
    known = near[np.isfinite(near)]
    return float(known[-1]) if known.size else math.nan


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
    evidence_changed = Signal()
    grew = Signal()  # more pings of the same recording
    read_on = Signal()  # its end was read, preliminary

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = RecordingDocument()
        self.replay, self.drawing, self.comparison = (
            Replay(lambda: self.lead is not None, self),
            Drawing(self),
            Comparison(self),
        )
        self._evidence: Evidence = NOTHING
        self._view = Viewport(0.0, 1.0, 0.0, 10.0)
        self._cursor = Cursor(0, 0.0)
        self._chosen: Fish | Bait | StandingObject | None = None
        self._gain_db = 0.0
        self._screenful = 840
        self._fitted = False  # depth goes from the surface to the bottom of what was read first

    # -- what is open -------------------------------------------------------------------------------------------

    @property
    def document(self) -> RecordingDocument:
        """The open recording with its reading; an empty one where none is open."""
        return self._document

    @property
    def recording(self) -> Recording | None:
        """The open recording."""
        return self._document.recording

    @property
    def down(self) -> Down | None:
        """Its down view, if it has one with pings."""
        return self._document.down

    @property
    def lead(self) -> Pings | None:
        """The view whose pings make the axis of time."""
        return self._document.lead

    @property
    def reading(self) -> Reading:
        """What was read from it; empty until it has been."""
        return self._document.reading

    @property
    def path(self) -> Path | None:
        """Where the open recording lies."""
        return self._document.path

    @property
    def footprint_m(self) -> float:
        """Width of the beam at the cursor's depth."""
        if self.down is None:
            return float("nan")
        reach = max(self._cursor.depth_m - self.down.mount.depth_m, 0.0)
        return float(footprint_diameter(reach, self.down.beam_width_deg))

    @property
    def footprint_pings(self) -> float:
        """How many pings wide the beam is at the cursor's depth, at the speed there; NaN if unknown or at rest."""
        if self.down is None or not self._document.speed_mps > 0.0:
            return float("nan")
        speed = self._document.speed_about(self.time)
        return self.footprint_m / (speed * self.down.typical_interval_s) if speed > 0.05 else float("nan")

    def ping_of(self, time_s: float) -> float:
        """Where on the axis of pings a time falls."""
        return self._document.ping_of(time_s)

    def open(
        self, recording: Recording, screenful: int = 840, path: Path | None = None, *, live: bool = False
    ) -> None:
        """Show another recording, one ping a pixel, from its start; one that is live grows from now on."""
        self._document = RecordingDocument(recording, path)
        self._document.is_live, self._screenful, self._fitted = live, screenful, False
        self._chosen = None
        lead = self.lead
        if lead is not None:
            self._view = Viewport(0.0, float(min(screenful, len(lead))), 0.0, lead.deepest_m)
            self._cursor = Cursor(len(lead) - 1 if live else min(screenful, len(lead)) // 2, 0.0)
        self.opened.emit()
        self.view_changed.emit()
        self.chosen_changed.emit()
        self.cursor_changed.emit()
        self.replay.set(False)
        self.drawing.set(DrawTool.LOOK)
        self.comparison.lay(None)

    # -- while it grows -----------------------------------------------------------------------------------------

    @property
    def is_live(self) -> bool:
        """It grows."""
        return self._document.is_live

    @property
    def at_live_edge(self) -> bool:
        """The newest pings are on screen, and stay there."""
        return self.is_live and self.lead is not None and self._view.last_ping >= len(self.lead) - 0.5

    def grow(self, recording: Recording, dropped: int) -> None:
        """More pings; `dropped` of the lead's oldest are gone. The cursor at the newest ping stays at the newest."""
        before = len(self.lead) if self.lead is not None else 0
        at_edge, newest = self.at_live_edge, self._cursor.ping >= before - 1
        self._document.grow(recording, dropped=dropped > 0)
        lead, v = self.lead, self._view
        if lead is None:
            return
        if dropped:
            self._cursor = Cursor(max(self._cursor.ping - dropped, 0), self._cursor.depth_m)
        if at_edge:
            wide = v.pings if v.pings < before - 0.5 or v.pings >= self._screenful else float(self._screenful)
            v = Viewport(len(lead) - wide, float(len(lead)), v.top_m, v.base_m)
            if newest:
                self._cursor = Cursor(len(lead) - 1, self._cursor.depth_m)
        else:
            v = v.moved(float(-dropped), 0.0)
        self._view = v.within(len(lead), lead.deepest_m)
        self.grew.emit()

    def take_growing(self, reading: Reading, sure_until: float, *, long: bool) -> None:
        """What was read of it so far."""
        self._document.set_growing(reading, sure_until, long=long)
        if self.at_live_edge:
            self._keep_bottom_in_view()
        if long:
            self._say_read()
        else:
            self._let_go()
            self.read_on.emit()

    def _keep_bottom_in_view(self) -> None:
        """Another depth on screen where the bottom has left it, or lies far up in it."""
        v, beds = self._view, self._document.beds
        bed = beds[max(int(v.first_ping), 0) :]
        if not np.isfinite(bed).any():
            return
        deepest = float(np.nanmax(bed))
        if not self._fitted or deepest > v.base_m or (v.top_m == 0.0 and deepest < 0.5 * v.base_m):
            self._fitted = True
            self.show_water()

    def to_live_edge(self) -> None:
        """The newest pings, with the cursor at the last."""
        if self.lead is not None:
            n, v = len(self.lead), self._view
            self.set_view(Viewport(n - v.pings, float(n), v.top_m, v.base_m))
            self.set_cursor(n - 1, self._cursor.depth_m)

    def end_live(self) -> None:
        """It grows no more."""
        if self.is_live:
            self._document.is_live = False
            self.grew.emit()

    # -- what was read ------------------------------------------------------------------------------------------

    def set_overview(self, overview: Overview) -> None:
        """The whole pass at a glance has been worked out."""
        if self._document.raster is not None:
            self._document.raster.set_overview(overview)
            self.overview_ready.emit()

    def set_views(self, side: SideReading | None, ahead: ForwardReading | None) -> None:
        """Take what was read from the other views, which comes after the view down."""
        self._document.set_views(side, ahead)
        self._say_read()
        if self.down is None:
            self.show_water()

    def set_reading(self, reading: Reading, corrections: Sequence[Correction] = ()) -> None:
        """Take a finished reading, and what was said of it before."""
        self._document.set_reading(reading, corrections)
        self._say_read()

    def set_corrections(self, corrections: Sequence[Correction]) -> None:
        """Show the reading with these corrections."""
        self._document.set_corrections(corrections)
        self._say_read()

    def _say_read(self) -> None:
        self._let_go()
        self.read.emit()
        self.cursor_changed.emit()

    def _let_go(self) -> None:
        """A chosen echo that is no more is not chosen."""
        reading = self.reading
        if self._chosen is not None and self._chosen not in (*reading.fish, *reading.bait, *reading.standing):
            self._chosen = None
            self.chosen_changed.emit()

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
        new = view.within(len(lead), lead.deepest_m)
        if new != self._view:
            self._view = new
            self.view_changed.emit()

    def zoom_pings(self, factor: float, about: float) -> None:
        """Show `factor` times as many pings, keeping one in place."""
        self.set_view(self._view.zoomed_pings(factor, about))

    def zoom_depth(self, factor: float, about: float) -> None:
        """Show `factor` times as much depth, keeping one depth in place."""
        self.set_view(self._view.zoomed_depth(factor, about))

    def pan(self, pings: float, metres: float) -> None:
        """Move the view."""
        self.set_view(self._view.moved(pings, metres))

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
        bed = self._document.beds[int(v.first_ping) : math.ceil(v.last_ping)]
        deepest = float(np.nanmax(bed)) if np.isfinite(bed).any() else lead.deepest_m
        self.set_view(v.of_depths(0.0, min(1.08 * deepest + 0.5, lead.deepest_m)))

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
        return self._here(self._document.beds)

    @property
    def hardness(self) -> float:
        """Hardness of the bottom there; NaN where unknown."""
        return self._here(self.reading.bottom.hardness)

    def _here(self, values: NDArray[np.float64]) -> float:
        """Of values by ping the one under the cursor."""
        return latest(values, self._cursor.ping, back=_BED_PINGS if self.is_live else 0)

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
        fish = self._document.fish_after(self._chosen, self.time, step)
        if fish is not None:
            self.choose(fish)

    # -- evidence, another pass, brightness ---------------------------------------------------------------------

    @property
    def evidence(self) -> Evidence:
        """All passes of the day together."""
        return self._evidence

    def set_evidence(self, evidence: Evidence) -> None:
        """Take the evidence of the day."""
        self._evidence = evidence
        self.evidence_changed.emit()

    def show_depths(self, top_m: float, base_m: float) -> None:
        """Most of the height for a span of depth."""
        room = 0.12 * max(base_m - top_m, LEAST_SPAN_M)
        self.set_view(self._view.of_depths(top_m - room, base_m + room))

    def show_time(self, start: float, end: float) -> None:
        """Make a stretch of the pass fill most of the width, its middle under the cursor."""
        low, high = self.ping_of(start), self.ping_of(end)
        wide = max(1.6 * (high - low), 4 * LEAST_SPAN_PINGS)
        middle = (low + high) / 2
        self.set_view(Viewport(middle - wide / 2, middle + wide / 2, self._view.top_m, self._view.base_m))
        self.set_cursor(round(middle), self._cursor.depth_m)

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

    def boat_place(self) -> Position | None:
        """Where the transducer was at the cursor's ping."""
        return self._document.place_at(self._cursor.ping)

    def go_to_place(self, place: Position) -> None:
        """Put the cursor at the ping that was taken nearest to a place."""
        ping = self._document.ping_near(place)
        if ping is not None:
            self.choose(None)
            self.set_cursor(ping, self._cursor.depth_m)
            self.keep_in_view(ping)

    def play_on(self, seconds: float) -> None:
        """Play on by so much recorded time; stops at the end."""
        lead = self.lead
        if lead is None:
            return
        ping = int(np.searchsorted(lead.time, self.time + seconds))
        if ping >= len(lead):
            self.replay.set(False)
            ping = len(lead) - 1
        self.set_cursor(max(ping, self._cursor.ping + 1), self._cursor.depth_m)
        v = self._view
        if self._cursor.ping > v.first_ping + 0.7 * v.pings:
            self.pan(self._cursor.ping - (v.first_ping + 0.7 * v.pings), 0.0)
