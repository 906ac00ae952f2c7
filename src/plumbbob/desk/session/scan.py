"""What is open in Scan: a recording, what was read from it, where the cursor stands, what part is shown."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from plumbbob.core.geo import Position, separation
from plumbbob.core.sonar.reading import EMPTY, Bait, Fish, Reading
from plumbbob.core.sonar.recording import Down, Recording, transducer_at

LEAST_SPAN_PINGS = 60.0
LEAST_SPAN_M = 2.0


@dataclass(frozen=True, slots=True)
class View:
    """The part of the picture on screen: pings from left to right, depths from top to bottom."""

    first_ping: float
    last_ping: float
    top_m: float
    base_m: float

    @property
    def pings(self) -> float:
        """How many pings wide."""
        return self.last_ping - self.first_ping


@dataclass(frozen=True, slots=True)
class Cursor:
    """A place in the picture."""

    ping: int
    depth_m: float


class ScanState(QObject):
    """One recording at a time, with its reading, cursor, view and chosen echo."""

    opened = Signal()  # another recording
    read = Signal()  # another reading
    view_changed = Signal()
    cursor_changed = Signal()
    chosen_changed = Signal()
    gain_changed = Signal()
    replay_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._recording: Recording | None = None
        self._reading: Reading = EMPTY
        self._is_read = False
        self._fish_pings = self._fish_depths = np.zeros(0)
        self._bait_pings = np.zeros((0, 2))
        self._view = View(0.0, 1.0, 0.0, 10.0)
        self._cursor = Cursor(0, 0.0)
        self._chosen: Fish | Bait | None = None
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

    def ping_of(self, time_s: float) -> float:
        """Where on the axis of pings a time falls."""
        down = self.down
        if down is None:
            return 0.0
        i = min(max(int(np.searchsorted(down.time, time_s)), 1), len(down) - 1)
        low, high = float(down.time[i - 1]), float(down.time[i])
        share = (time_s - low) / (high - low) if high > low else 0.0
        return i - 1 + min(max(share, 0.0), 1.0)

    def open(self, recording: Recording, screenful: int = 840) -> None:
        """Show another recording, one ping a pixel, from its start."""
        self._recording = recording
        self._reading, self._is_read = EMPTY, False
        self._fish_pings = self._fish_depths = np.zeros(0)
        self._bait_pings = np.zeros((0, 2))
        self._chosen = None
        self._replaying = False
        down = self.down
        if down is not None:
            self._view = View(0.0, float(min(screenful, len(down))), 0.0, down.deepest_m)
            self._cursor = Cursor(min(screenful, len(down)) // 2, 0.0)
        self.opened.emit()
        self.view_changed.emit()
        self.chosen_changed.emit()
        self.cursor_changed.emit()
        self.replay_changed.emit()

    def set_reading(self, reading: Reading) -> None:
        """Take a finished reading."""
        self._reading, self._is_read = reading, True
        if self.down is not None:
            axis = np.arange(len(self.down))
            self._fish_pings = np.interp([f.time for f in reading.fish], self.down.time, axis)
            self._fish_depths = np.array([f.depth_m for f in reading.fish])
            ends = np.array([(b.time_start, b.time_end) for b in reading.bait]).reshape(-1, 2)
            self._bait_pings = np.interp(ends, self.down.time, axis)
        self.read.emit()
        self.cursor_changed.emit()

    # -- the view -----------------------------------------------------------------------------------------------

    @property
    def view(self) -> View:
        """The part on screen."""
        return self._view

    def set_view(self, view: View) -> None:
        """Show another part, kept inside the recording."""
        down = self.down
        if down is None:
            return
        n, deepest = float(len(down)), down.deepest_m
        pings = min(max(view.pings, min(LEAST_SPAN_PINGS, n)), n)
        first = min(max(view.first_ping, 0.0), n - pings)
        span = min(max(view.base_m - view.top_m, LEAST_SPAN_M), deepest)
        top = min(max(view.top_m, 0.0), deepest - span)
        new = View(first, first + pings, top, top + span)
        if new != self._view:
            self._view = new
            self.view_changed.emit()

    def zoom_pings(self, factor: float, about: float) -> None:
        """Show `factor` times as many pings, keeping one in place."""
        v = self._view
        self.set_view(
            View(about - (about - v.first_ping) * factor, about + (v.last_ping - about) * factor, v.top_m, v.base_m)
        )

    def zoom_depth(self, factor: float, about: float) -> None:
        """Show `factor` times as much depth, keeping one depth in place."""
        v = self._view
        top, base = about - (about - v.top_m) * factor, about + (v.base_m - about) * factor
        self.set_view(View(v.first_ping, v.last_ping, top, base))

    def pan(self, pings: float, metres: float) -> None:
        """Move the view."""
        v = self._view
        self.set_view(View(v.first_ping + pings, v.last_ping + pings, v.top_m + metres, v.base_m + metres))

    def show_all(self) -> None:
        """The whole recording."""
        if self.down is not None:
            self.set_view(View(0.0, float(len(self.down)), 0.0, self.down.deepest_m))

    def show_water(self) -> None:
        """All pings on screen stay; depth from the surface to a little below the deepest bottom among them."""
        down = self.down
        if down is None:
            return
        v = self._view
        bed = self._reading.bottom.depth_m[int(v.first_ping) : math.ceil(v.last_ping)]
        deepest = float(np.nanmax(bed)) if np.isfinite(bed).any() else down.deepest_m
        self.set_view(View(v.first_ping, v.last_ping, 0.0, min(1.08 * deepest + 0.5, down.deepest_m)))

    # -- cursor and choice --------------------------------------------------------------------------------------

    @property
    def cursor(self) -> Cursor:
        """Where the cursor stands."""
        return self._cursor

    def set_cursor(self, ping: int, depth_m: float) -> None:
        """Move the cursor."""
        if self.down is None:
            return
        new = Cursor(min(max(ping, 0), len(self.down) - 1), min(max(depth_m, 0.0), self.down.deepest_m))
        if new != self._cursor:
            self._cursor = new
            self.cursor_changed.emit()

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
        return float(self.down.time[self._cursor.ping]) if self.down is not None else float("nan")

    @property
    def bottom_m(self) -> float:
        """Bottom under the cursor's ping; NaN where unknown."""
        beds = self._reading.bottom.depth_m
        return float(beds[self._cursor.ping]) if self._cursor.ping < beds.size else float("nan")

    @property
    def hardness(self) -> float:
        """Hardness of the bottom there; NaN where unknown."""
        values = self._reading.bottom.hardness
        return float(values[self._cursor.ping]) if self._cursor.ping < values.size else float("nan")

    def boat_place(self) -> Position | None:
        """Where the transducer was at the cursor's ping."""
        if self.down is None or self._recording is None:
            return None
        at = transducer_at(self._recording.track, self.down.mount, np.array([self.time]))
        if not np.isfinite(at.latitude[0]):
            return None
        return Position(float(at.latitude[0]), float(at.longitude[0]))

    def go_to_place(self, place: Position) -> None:
        """Put the cursor at the ping that was taken nearest to a place."""
        down, recording = self.down, self._recording
        if down is None or recording is None:
            return
        at = transducer_at(recording.track, down.mount, down.time)
        if not np.isfinite(at.latitude).any():
            return
        east, north = separation(place.latitude, place.longitude, at.latitude, at.longitude)
        ping = int(np.nanargmin(np.hypot(east, north)))
        self.choose(None)
        self.set_cursor(ping, self._cursor.depth_m)
        self.keep_in_view(ping)

    @property
    def chosen(self) -> Fish | Bait | None:
        """The echo that was picked."""
        return self._chosen

    def choose(self, echo: Fish | Bait | None) -> None:
        """Pick an echo, or none."""
        if echo != self._chosen:
            self._chosen = echo
            if echo is not None and self.down is not None:
                middle = echo.time if isinstance(echo, Fish) else (echo.time_start + echo.time_end) / 2
                depth = echo.depth_m if isinstance(echo, Fish) else (echo.depth_top_m + echo.depth_bottom_m) / 2
                self.set_cursor(int(np.searchsorted(self.down.time, middle)), depth)
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
        if (on, speed) != (self._replaying, self._replay_speed) and self.down is not None:
            self._replaying, self._replay_speed = on, speed
            self.replay_changed.emit()

    def advance(self, seconds: float) -> None:
        """Play on by so much recorded time; stops at the end."""
        down = self.down
        if down is None:
            return
        ping = int(np.searchsorted(down.time, self.time + seconds))
        if ping >= len(down):
            self.set_replay(False)
            ping = len(down) - 1
        self.set_cursor(max(ping, self._cursor.ping + 1), self._cursor.depth_m)
        v = self._view
        if self._cursor.ping > v.first_ping + 0.7 * v.pings:
            self.pan(self._cursor.ping - (v.first_ping + 0.7 * v.pings), 0.0)
