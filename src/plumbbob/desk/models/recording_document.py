"""One open recording: what is in its file, what was read from it and said of it, and what follows from both."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.geodesy import Position, separation
from plumbbob.core.live.rolling import reaching
from plumbbob.core.sonar.corrections import Correction
from plumbbob.core.sonar.evidence import NOTHING, Evidence, gather
from plumbbob.core.sonar.groups import Group, find_groups
from plumbbob.core.sonar.reading import EMPTY, Fish, ForwardReading, Reading, SideReading
from plumbbob.core.sonar.recording import Down, Pings, Recording, transducer_at
from plumbbob.core.sonar.view_corrections import corrected
from plumbbob.desk.models.echogram_raster import Raster


class RecordingDocument:
    """Needs a recording, or none: then it is empty and every question has an answer all the same."""

    def __init__(self, recording: Recording | None = None, path: Path | None = None) -> None:
        self.recording, self.path = recording, path
        self.raster = Raster(self.down) if self.down is not None else None
        self.is_read = False
        self.is_live = False  # it grows
        self.sure_until = math.inf  # what was read of later times is preliminary
        self.reading: Reading = EMPTY  # with the corrections
        self._detected: Reading = EMPTY
        self.corrections: tuple[Correction, ...] = ()  # oldest first
        self.groups: tuple[Group, ...] = ()
        self.evidence: Evidence = NOTHING
        # on the axis of pings: each fish, ascending; where each bait and each standing thing begins and ends
        self.fish_pings = self.fish_depths = np.zeros(0)
        self.bait_pings = self.standing_pings = np.zeros((0, 2))
        self.layer_line = np.zeros((0, 2))  # the cold layer: pings and depths
        self.speed_mps = float("nan")  # usual; NaN where the track tells none
        if recording is not None and recording.track is not None and np.isfinite(recording.track.speed_mps).any():
            self.speed_mps = float(np.nanmedian(recording.track.speed_mps))
        lead = self.lead
        self._axis = np.arange(len(lead), dtype=np.float64) if lead is not None else np.zeros(0)

    @property
    def down(self) -> Down | None:
        """Its down view, if it has one with pings."""
        down = self.recording.down if self.recording else None
        return down if down is not None and len(down) else None

    @property
    def lead(self) -> Pings | None:
        """The view whose pings make the axis of time: the one that looks down, else to the side, else ahead."""
        recording = self.recording
        views = (recording.down, recording.side, recording.forward) if recording is not None else ()
        return next((view for view in views if view is not None and len(view)), None)

    def pings_of(self, times: Sequence[float] | NDArray[np.float64]) -> NDArray[np.float64]:
        """Where on the axis of pings many times fall."""
        if self.lead is None:
            return np.zeros(np.shape(times))
        return np.interp(times, self.lead.time, self._axis)

    def ping_of(self, time_s: float) -> float:
        """Where on the axis of pings a time falls."""
        lead = self.lead
        if lead is None:
            return 0.0
        i = min(max(int(np.searchsorted(lead.time, time_s)), 1), len(lead) - 1)
        low, high = float(lead.time[i - 1]), float(lead.time[i])
        share = (time_s - low) / (high - low) if high > low else 0.0
        return i - 1 + min(max(share, 0.0), 1.0)

    # -- while it grows -----------------------------------------------------------------------------------------

    def grow(self, recording: Recording, *, dropped: bool) -> None:
        """The same pass with more pings, and without its oldest where some were dropped."""
        self.recording = recording
        if self.down is not None:
            if self.raster is None:
                self.raster = Raster(self.down)
            else:
                self.raster.grow(self.down)
        lead = self.lead
        self._axis = np.arange(len(lead), dtype=np.float64) if lead is not None else np.zeros(0)
        self._detected, self.reading = reaching(self._detected, recording), reaching(self.reading, recording)
        if dropped:
            self._place()

    def set_growing(self, reading: Reading, sure_until: float, *, long: bool) -> None:
        """What was read so far; what follows from the whole is worked out after a long look only."""
        assert self.recording is not None
        self._detected, self.sure_until = reaching(reading, self.recording), sure_until
        self.is_read = True
        if long:
            track = self.recording.track
            if track is not None and np.isfinite(track.speed_mps).any():
                self.speed_mps = float(np.nanmedian(track.speed_mps))
            self.set_corrections(self.corrections)
        else:
            self.reading = corrected(self._detected, self.corrections, self.recording)
            self._place()

    # -- what was read ------------------------------------------------------------------------------------------

    def set_reading(self, reading: Reading, corrections: Sequence[Correction] = ()) -> None:
        """Take a finished reading, and what was said of it before."""
        self._detected, self.is_read = reading, True
        self.set_corrections(corrections)

    def set_views(self, side: SideReading | None, ahead: ForwardReading | None) -> None:
        """Take what was read from the other views, which comes after the view down."""
        self._detected = replace(self._detected, side=side, ahead=ahead)
        self.set_corrections(self.corrections)

    def set_corrections(self, corrections: Sequence[Correction]) -> None:
        """The reading with these corrections, and all that follows from it."""
        assert self.recording is not None
        self.corrections = tuple(corrections)
        reading = self.reading = corrected(self._detected, self.corrections, self.recording)
        self.evidence = gather(self.recording, reading)
        self.groups = find_groups(reading, self.speed_mps) if self.speed_mps > 0.0 else find_groups(reading)
        self._place()

    def _place(self) -> None:
        """Where what was read lies on the axis of pings."""
        reading = self.reading
        if self.lead is None:
            return
        self.fish_pings = self.pings_of([f.time for f in reading.fish])
        self.fish_depths = np.array([f.depth_m for f in reading.fish])
        self.bait_pings = self._spans([(b.time_start, b.time_end) for b in reading.bait])
        self.standing_pings = self._spans([(s.time_start, s.time_end) for s in reading.standing])
        path = np.array(reading.cold_layer.path if reading.cold_layer is not None else ()).reshape(-1, 2)
        self.layer_line = np.column_stack([self.pings_of(path[:, 0]), path[:, 1]])

    def _spans(self, times: Sequence[tuple[float, float]]) -> NDArray[np.float64]:
        """Stretches of time as stretches of pings, shape (stretches, 2)."""
        return self.pings_of(np.array(times).reshape(-1, 2))

    @property
    def beds(self) -> NDArray[np.float64]:
        """Bottom under each ping of the axis: from the view down, else from the sides' own height over it."""
        beds, side = self.reading.bottom.depth_m, self.reading.side
        if not beds.size and side is not None and self.recording is not None and self.recording.side is not None:
            return side.altitude_m + self.recording.side.mount.depth_m
        return beds

    def place_at(self, ping: int) -> Position | None:
        """Where the transducer was at a ping."""
        if self.lead is None or self.recording is None:
            return None
        at = transducer_at(self.recording.track, self.lead.mount, self.lead.time[ping : ping + 1])
        if not np.isfinite(at.latitude[0]):
            return None
        return Position(float(at.latitude[0]), float(at.longitude[0]))

    def ping_near(self, place: Position) -> int | None:
        """The ping that was taken nearest to a place."""
        if self.lead is None or self.recording is None:
            return None
        at = transducer_at(self.recording.track, self.lead.mount, self.lead.time)
        if not np.isfinite(at.latitude).any():
            return None
        east, north = separation(place.latitude, place.longitude, at.latitude, at.longitude)
        return int(np.nanargmin(np.hypot(east, north)))

    def speed_about(self, time_s: float) -> float:
        """Speed within a few seconds of a time; the usual one where the track has a gap there."""
        track = self.recording.track if self.recording is not None else None
        if track is None:
            return self.speed_mps
        low, high = np.searchsorted(track.time, (time_s - 2.5, time_s + 2.5))
        here = track.speed_mps[low:high]
        return float(np.nanmean(here)) if np.isfinite(here).any() else self.speed_mps

    def fish_after(self, chosen: object, time_s: float, step: int) -> Fish | None:
        """The next fish in time, or the one before: after a chosen one, else after a time."""
        fish = self.reading.fish
        if not fish:
            return None
        if isinstance(chosen, Fish) and chosen in fish:
            return fish[(fish.index(chosen) + step) % len(fish)]
        later = int(np.searchsorted([f.time for f in fish], time_s, side="right"))
        return fish[(later if step > 0 else later - 1) % len(fish)]
