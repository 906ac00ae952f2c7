"""What is chosen in the view ahead: how far and deep it looks, a fish, and the cast that is planned to it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QObject, Signal

from plumbbob.core import geodesy as geo
from plumbbob.core.geodesy import Position
from plumbbob.core.rig.cast import Approach, CannotCast, CastPlan, Target, Throw, Verdict, judge_cast, plan_cast
from plumbbob.core.sonar.reading import ForwardReading, ForwardTarget
from plumbbob.core.sonar.recording import Forward, TransducerTrack, transducer_at
from plumbbob.core.sonar.sounder_setup import LookAhead, look_ahead
from plumbbob.desk.models.recording_model import RecordingModel, latest
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.models.span import Spanned

LEAST_FAR_M = 4.0
FRESH_S = 2.5  # a track not seen for so long is no longer drawn as being there
_DRIFT_S = 8.0
_HELD_FRAMES = 20  # of a live pass, for which the last bottom read is still taken


@dataclass(frozen=True, slots=True)
class Now:
    """Where a track is at a moment, from the transducer."""

    distance_m: float
    depth_m: float
    azimuth_deg: float
    seen: bool  # within the last moments


class ForwardModel(Spanned):
    """The recording's fan ahead on screen. Time is that of the scan it belongs to."""

    changed = Signal()  # picture, choice or plan
    chosen_changed = Signal()

    def __init__(self, scan: RecordingModel, rig: RodsModel, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._scan, self._rig = scan, rig
        self._far, self._span = 20.0, (0.0, 10.0)
        self._chosen: ForwardTarget | None = None
        self._approach = Approach.PAST_OVER
        self._retrieve = 0.6
        self._plan: CastPlan | str = ""
        self._planned_for: tuple[object, ...] = ()
        scan.opened.connect(self._opened)
        for signal in (scan.read, scan.read_on, scan.grew):
            signal.connect(self._let_go)
        scan.cursor_changed.connect(self._moved)
        rig.changed.connect(self._moved)

    def _opened(self) -> None:
        view = self.view
        self._far = view.reach_m if view is not None else 20.0
        self.choose(None)
        self.changed.emit()

    def _let_go(self) -> None:
        if self._chosen is not None and not any(t is self._chosen for t in self.reading.tracks):
            self.choose(None)
        self.changed.emit()

    def _moved(self) -> None:
        if self._chosen is not None:
            self._plan_again()
        self.changed.emit()

    # -- what there is ------------------------------------------------------------------------------------------

    @property
    def view(self) -> Forward | None:
        """The open recording's view ahead."""
        recording = self._scan.recording
        view = recording.forward if recording is not None else None
        return view if view is not None and len(view) else None

    @property
    def reading(self) -> ForwardReading:
        """What was read from it; empty until it has been."""
        found = self._scan.reading.ahead
        return found if found is not None else ForwardReading(time=np.zeros(0), bottom_depth_m=np.zeros(0))

    @property
    def frame(self) -> int:
        """The frame at the cursor's time."""
        view = self.view
        if view is None:
            return 0
        return min(max(int(np.searchsorted(view.time, self._scan.time + 1e-6)) - 1, 0), len(view) - 1)

    @property
    def frame_time(self) -> float:
        """When the frame on screen was made."""
        return float(self.view.time[self.frame]) if self.view is not None else math.nan

    def choose_at(self, time_s: float, depth_m: float) -> None:
        """Pick the track nearest to a moment and a depth, if one is close."""
        near = [
            (abs(float(t.depth_m[k]) - depth_m) + abs(float(t.time[k]) - time_s), n)
            for n, t in enumerate(self.reading.tracks)
            for k in (int(abs(t.time - time_s).argmin()),)
        ]
        best = min(near, default=(math.inf, 0))
        self.choose(self.reading.tracks[best[1]] if best[0] < 1.0 else None)

    @property
    def azimuth_deg(self) -> float:
        """Where the fan points, from the bow."""
        return float(self.view.azimuth_deg[self.frame]) if self.view is not None else 0.0

    @property
    def bottom_m(self) -> float:
        """Bottom under the fan; NaN where unknown."""
        return latest(self.reading.bottom_depth_m, self.frame, back=_HELD_FRAMES if self._scan.is_live else 0)

    # -- how it is shown ----------------------------------------------------------------------------------------

    @property
    def far_m(self) -> float:
        """How far ahead is on screen at most."""
        return self._far

    def set_far(self, far_m: float) -> None:
        """Look farther or nearer."""
        most = self.view.reach_m if self.view is not None else 20.0
        far_m = min(max(far_m, min(LEAST_FAR_M, most)), most)
        if far_m != self._far:
            self._far = far_m
            self.changed.emit()

    def advice(self, wide_px: int, high_px: int) -> LookAhead | None:
        """How far and deep to look for the fish there are now."""
        here = [(t, now) for t in self.reading.tracks if (now := self.now(t)).seen and t.kind == "fish"]
        if not here:
            return None
        return look_ahead(
            max(n.depth_m for _, n in here),
            max(n.distance_m for _, n in here),
            self.bottom_m,
            wide_px=max(wide_px, 100),
            high_px=max(high_px, 100),
        )

    # -- tracks -------------------------------------------------------------------------------------------------

    def now(self, track: ForwardTarget) -> Now:
        """Where a track is at the cursor's time; its last place while it is out of the fan."""
        t = self._scan.time
        k = min(max(int(track.time.searchsorted(t, side="right")) - 1, 0), track.time.size - 1)
        seen = bool(track.time[0] - 0.3 <= t <= track.time[-1] + FRESH_S and abs(t - track.time[k]) <= FRESH_S)
        return Now(float(track.distance_m[k]), float(track.depth_m[k]), float(track.azimuth_deg[k]), seen)

    def present(self) -> list[tuple[ForwardTarget, Now]]:
        """Tracks that are there at the cursor's time."""
        return [(t, now) for t in self.reading.tracks if (now := self.now(t)).seen]

    @property
    def chosen(self) -> ForwardTarget | None:
        """The track that was picked."""
        return self._chosen

    def choose(self, track: ForwardTarget | None) -> None:
        """Pick a fish, or none; a cast to it is planned."""
        if track is self._chosen:
            return
        self._chosen = track
        if track is not None and not self.now(track).seen:
            self._scan.stand_at(float(track.time[track.best]))
        self._plan_again()
        self.chosen_changed.emit()
        self.changed.emit()

    def choose_next(self, step: int) -> None:
        """The next fish, nearest first; of those in the picture now if there are any."""
        fish = [t for t, _ in self.present() if t.kind == "fish"] or [
            t for t in self.reading.tracks if t.kind == "fish"
        ]
        if not fish:
            return
        fish.sort(key=lambda t: self.now(t).distance_m)
        at = next((k for k, t in enumerate(fish) if t is self._chosen), None)
        self.choose(fish[(at + step) % len(fish) if at is not None else (0 if step > 0 else -1)])

    def place(self, track: ForwardTarget) -> Position | None:
        """Where a track is at the cursor's time."""
        k = int(np.clip(np.searchsorted(track.time, self._scan.time, side="right") - 1, 0, track.time.size - 1))
        if not math.isfinite(track.latitude[k]):
            return None
        return Position(float(track.latitude[k]), float(track.longitude[k]))

    # -- the cast -----------------------------------------------------------------------------------------------

    @property
    def approach(self) -> Approach:
        """How the lure is to come to the fish."""
        return self._approach

    def set_approach(self, approach: Approach) -> None:
        """The other school."""
        if approach is not self._approach:
            self._approach = approach
            self._plan_again()
            self.changed.emit()

    @property
    def retrieve_mps(self) -> float:
        """How fast it is drawn in."""
        return self._retrieve

    def set_retrieve(self, mps: float) -> None:
        """Another speed of the reel."""
        mps = min(max(mps, 0.1), 3.0)
        if mps != self._retrieve:
            self._retrieve = mps
            self._plan_again()
            self.changed.emit()

    @property
    def plan(self) -> CastPlan | None:
        """The cast to the chosen fish."""
        return self._plan if isinstance(self._plan, CastPlan) else None

    @property
    def no_plan(self) -> str:
        """Why there is none; empty where there is one or no fish is chosen."""
        return self._plan if isinstance(self._plan, str) else ""

    def _plan_again(self) -> None:
        track = self._chosen
        if track is None or track.kind != "fish":
            self._plan, self._planned_for = "", ()
            return
        now, settings = self.now(track), self._rig.settings
        ahead, aside = self._drift(now.azimuth_deg)
        # a plan follows its fish; one that moved by less than it is known keeps its plan
        key = (
            round(now.distance_m * 4),
            round(now.depth_m * 8),
            round(now.azimuth_deg / 2),
            self._approach,
            self._retrieve,
            (settings, self._rig.cast_lure),
            round(ahead * 8),
            round(aside * 8),
        )
        if key == self._planned_for:
            return
        self._planned_for = key
        lure = self._rig.cast_lure
        if lure.weight_n <= 0:
            self._plan = f"{lure.name} is tied on, and floats: it comes to no depth by a count"
            return
        try:
            target = Target(
                distance_m=max(now.distance_m, 0.1),
                depth_m=max(now.depth_m, 0.1),
                azimuth_deg=now.azimuth_deg,
                depth_sd_m=max(track.depth_sd_m, 0.1),
            )
            throw = Throw(
                falling=lure.falling(settings.line),
                retrieve_mps=self._retrieve,
                clearance_m=max(settings.above_fish_m, 0.2),
                tip_height_m=settings.tip_height_m,
                drift_ahead_mps=ahead,
                drift_aside_mps=aside,
            )
            self._plan = plan_cast(target, throw, self._approach)
        except (CannotCast, ValueError) as exc:
            self._plan = str(exc)

    def _drift(self, azimuth_deg: float) -> tuple[float, float]:
        """Speed of the boat towards a bearing from the bow, and to the right of it, over some seconds."""
        recording, view = self._scan.recording, self.view
        if recording is None or view is None or recording.track is None:
            return 0.0, 0.0
        t = self._scan.time
        at: TransducerTrack = transducer_at(recording.track, view.mount, np.array([t - _DRIFT_S, t, t + _DRIFT_S]))
        known = np.flatnonzero(np.isfinite(at.latitude))
        if known.size < 2 or not np.isfinite(at.heading_deg[1]):
            return 0.0, 0.0
        a, b = int(known[0]), int(known[-1])
        east, north = geo.separation(at.latitude[a], at.longitude[a], at.latitude[b], at.longitude[b])
        seconds = (b - a) * _DRIFT_S
        toward = math.radians(float(at.heading_deg[1]) + azimuth_deg)
        ahead = (float(east) * math.sin(toward) + float(north) * math.cos(toward)) / seconds
        aside = (float(east) * math.cos(toward) - float(north) * math.sin(toward)) / seconds
        return ahead, aside

    def verdict(self) -> tuple[ForwardTarget, Verdict] | None:
        """What the last lure's own track says of the cast to the chosen fish, or to the one it came closest to."""
        t = self._scan.time
        lures = [a for a in self.reading.tracks if a.kind == "lure" and a.time[0] <= t]
        if not lures:
            return None
        lure = max(lures, key=lambda a: float(a.time[0]))
        fish = (
            [self._chosen]
            if self._chosen is not None and self._chosen.kind == "fish"
            else [a for a in self.reading.tracks if a.kind == "fish"]
        )
        found = [
            (f, v)
            for f in fish
            if (v := judge_cast(lure.time, lure.distance_m, lure.depth_m, f.time, f.distance_m, f.depth_m))
            is not None
        ]
        return min(found, key=lambda pair: pair[1].closest_m) if found else None
