"""The boat and what it goes over while rods are out: a lane on the chart or the open pass; lines in motion."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from enum import Enum

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QElapsedTimer, QObject, Signal

from plumbbob.core.geodesy import Position, separation
from plumbbob.core.rig.motion import Run
from plumbbob.core.types import Floats
from plumbbob.desk.models.chart_model import Drawn
from plumbbob.desk.models.recording_model import RecordingModel
from plumbbob.desk.models.span import Spanned

_MOST_POINTS = 4000
_NEAR_M = 25.0  # a mark so near to the way is passed


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """A fish or bait of the pass, by its way along it."""

    along_m: float
    depth_m: float
    base_m: float = math.nan  # of bait; NaN for a fish
    to_m: float = math.nan  # where bait ends


@dataclass(frozen=True, slots=True, eq=False)
class Ground:
    """What the boat goes over: way along it, depth of the bottom today, what was seen."""

    title: str = ""
    along_m: Floats = field(default_factory=lambda: np.zeros(0))
    bottom_m: Floats = field(default_factory=lambda: np.zeros(0))
    x: Floats = field(default_factory=lambda: np.zeros(0))  # east and north from its start
    y: Floats = field(default_factory=lambda: np.zeros(0))
    time: Floats | None = None  # of a pass
    origin: Position | None = None  # where x and y are zero
    seen: tuple[Seen, ...] = ()

    @property
    def known(self) -> bool:
        """There is something to go over."""
        return len(self.along_m) > 1

    @property
    def of_pass(self) -> bool:
        """It is a recording, in which the boat has a time."""
        return self.time is not None

    @property
    def length_m(self) -> float:
        """From one end to the other."""
        return float(self.along_m[-1]) if self.known else 0.0

    def at_time(self, time: float) -> float:
        """Way along a pass at a time."""
        return float(np.interp(time, self.time, self.along_m)) if self.time is not None and self.known else 0.0

    def along_of(self, place: Position) -> float:
        """How far along the way a place lies, NaN where the way does not come near it."""
        if self.origin is None or not self.known:
            return math.nan
        x, y = separation(self.origin.latitude, self.origin.longitude, place.latitude, place.longitude)
        far = np.hypot(self.x - float(x), self.y - float(y))
        k = int(far.argmin())
        return float(self.along_m[k]) if far[k] <= _NEAR_M else math.nan

    def close_to(self, latitude: Floats, longitude: Floats) -> NDArray[np.int64]:
        """Which of many places could lie near the way."""
        if self.origin is None or not self.known:
            return np.zeros(0, np.int64)
        x, y = separation(self.origin.latitude, self.origin.longitude, latitude, longitude)
        inside = (x > self.x.min() - _NEAR_M) & (x < self.x.max() + _NEAR_M)
        return np.flatnonzero(inside & (y > self.y.min() - _NEAR_M) & (y < self.y.max() + _NEAR_M))

    def bottom_at(self, along_m: Floats) -> Floats:
        """Depth of the bottom along the way; NaN before its start, after its end and where it is not known."""
        if not self.known:
            return np.full(np.shape(along_m), np.nan)
        return np.interp(along_m, self.along_m, self.bottom_m, left=np.nan, right=np.nan)


def ground_of_lane(drawn: Drawn, level_m: float, origin: Position | None) -> Ground:
    """A lane, or a line across the chart, with today's depths."""
    x, y = np.asarray(drawn.line, dtype=float).T
    way = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    return Ground(
        title=drawn.title,
        along_m=drawn.along_m,
        bottom_m=drawn.depth_m + level_m,
        x=np.interp(drawn.along_m, way, x) - x[0],
        y=np.interp(drawn.along_m, way, y) - y[0],
        origin=origin,
    )


def ground_of_pass(scan: RecordingModel) -> Ground:
    """The open pass: its track, the bottom and what was read of fish and bait."""
    recording, reading = scan.recording, scan.reading
    track = recording.track if recording is not None else None
    if recording is None or track is None or "picture" in recording.views or not len(reading.bottom.time):
        return Ground()
    good = np.isfinite(track.latitude) & np.isfinite(track.longitude)
    if good.sum() < 2:
        return Ground()
    time = track.time[good]
    x, y = separation(track.latitude[good][0], track.longitude[good][0], track.latitude[good], track.longitude[good])
    # positions jitter: a boat's way is measured over a second or more
    keep = np.concatenate([[True], np.diff(np.floor(time)) > 0])
    time, x, y = time[keep], x[keep], y[keep]
    way = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    bottom = reading.bottom
    every = max(len(bottom.time) // _MOST_POINTS, 1)
    pings = bottom.time[::every]
    along = np.interp(pings, time, way)
    rising = np.concatenate([[True], np.diff(along) > 1e-3])
    along, pings = along[rising], pings[rising]
    depth = bottom.depth_m[::every][rising]

    def place(t: float) -> float:
        return float(np.interp(t, time, way))

    seen = [Seen(place(f.time), f.depth_m) for f in reading.fish]
    seen += [Seen(place(b.time_start), b.depth_top_m, b.depth_bottom_m, place(b.time_end)) for b in reading.bait]
    return Ground(
        title="the open pass",
        along_m=along,
        bottom_m=depth,
        x=np.interp(pings, time, x),
        y=np.interp(pings, time, y),
        time=pings,
        origin=Position(float(track.latitude[good][0]), float(track.longitude[good][0])),
        seen=tuple(seen),
    )


class Manoeuvre(Enum):
    """What the boat does while the lines are followed."""

    STARBOARD = "turn to starboard"
    PORT = "turn to port"
    STOP = "stop of 20 s"
    BURST = "burst of 15 s"
    LANE = "the way ahead"


class LinesModel(Spanned):
    """Where the boat is over its ground, how the rods are looked at, and the last run of the lines in motion."""

    changed = Signal()
    moved = Signal()  # the lines were followed, or their picture moved on
    ground_changed = Signal()
    held = Signal()  # a playing run is to stop where it is

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._ground = Ground()
        self._boat_m = 0.0
        self._span = (-2.0, 15.0)
        self._above = False
        self._stretched = False
        self._manoeuvre = Manoeuvre.STARBOARD
        self._run: Run | None = None
        self._moving: tuple[int, ...] = ()
        self._frame: int | None = None
        self._radius = 20.0
        self._bait = QElapsedTimer()
        self._bait.start()
        self.keep_m = 1.0  # room to keep over the bottom
        self.most_m = 6.0  # more room than this is too high

    @property
    def ground(self) -> Ground:
        """What the boat goes over."""
        return self._ground

    def set_ground(self, ground: Ground) -> None:
        """Go over something else."""
        if ground.known or self._ground.known:
            self._ground = ground
            self._boat_m = min(self._boat_m, ground.length_m)
            self.ground_changed.emit()
            self.changed.emit()

    @property
    def boat_m(self) -> float:
        """How far along the boat is."""
        return self._boat_m

    def set_boat(self, along_m: float) -> None:
        """Move the boat along."""
        along_m = min(max(along_m, 0.0), self._ground.length_m)
        if along_m != self._boat_m:
            self._boat_m = along_m
            self.changed.emit()

    @property
    def bottom_m(self) -> float:
        """Depth under the boat; NaN where it is not known."""
        return float(self._ground.bottom_at(np.array([self._boat_m]))[0])

    @property
    def above(self) -> bool:
        """The rods are looked at from above."""
        return self._above

    def look_from_above(self, on: bool) -> None:
        """From above, or from the side."""
        if on != self._above:
            self._above = on
            self.changed.emit()

    @property
    def turn_radius_m(self) -> float:
        """Of the turns the boat makes."""
        return self._radius

    def set_turn_radius(self, radius_m: float) -> None:
        """Turn wider or tighter."""
        radius_m = min(max(radius_m, 3.0), 500.0)
        if radius_m != self._radius:
            self._radius = radius_m
            self.set_run(None)
            self.changed.emit()

    @property
    def bait_age_s(self) -> float:
        """Since fresh bait was put on; since the start where it has not been."""
        return self._bait.elapsed() / 1000.0

    def put_fresh_bait(self) -> None:
        """The clock of the bait begins anew."""
        self._bait.restart()
        self.changed.emit()

    @property
    def stretched(self) -> bool:
        """Depths are drawn larger than distances, to fill the picture."""
        return self._stretched

    def stretch(self, on: bool) -> None:
        """Fill the picture, or draw to true scale."""
        if on != self._stretched:
            self._stretched = on
            self.changed.emit()

    # -- lines in motion ----------------------------------------------------------------------------------------

    @property
    def manoeuvre(self) -> Manoeuvre:
        """What the boat did, or is to do."""
        return self._manoeuvre

    def choose_manoeuvre(self, manoeuvre: Manoeuvre) -> None:
        """What the boat is to do next."""
        if manoeuvre is not self._manoeuvre:
            self._manoeuvre = manoeuvre
            self.changed.emit()

    @property
    def run(self) -> Run | None:
        """The lines as last followed; None once the rods have changed."""
        return self._run

    @property
    def moving(self) -> tuple[int, ...]:
        """Which rods were followed, from 0."""
        return self._moving

    def set_run(self, run: Run | None, rods: tuple[int, ...] = ()) -> None:
        """What came of following the lines of some rods."""
        if run is not None or self._run is not None:
            self._run, self._moving = run, rods
            self._frame = None if run is None else 0
            self.moved.emit()
            self.changed.emit()

    @property
    def frame(self) -> int | None:
        """Which moment of the run is drawn; None: the lines at rest."""
        return self._frame

    def hold(self) -> None:
        """Stop playing; the moment stays."""
        self.held.emit()

    def set_frame(self, frame: int | None) -> None:
        """Draw another moment."""
        if self._run is not None and frame is not None:
            frame = min(max(frame, 0), len(self._run.time) - 1)
        if frame != self._frame:
            self._frame = frame
            self.moved.emit()
