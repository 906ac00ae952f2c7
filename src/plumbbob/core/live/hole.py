"""Below a boat that lies still, or a hole: the lure, the fish that comes to it, and whether to raise or to hold."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core.sonar.blocks import noise_floor_db, over_noise, read_block
from plumbbob.core.sonar.reading import Trail
from plumbbob.core.sonar.recording import Down
from plumbbob.core.types import Floats, Levels

LOOK_S, FRESH_S = 20.0, 1.5
_NEAR_M, _AT_LURE_M = 4.0, 0.3
_LAGS_M, _SET_M = 0.3, 0.8
_COMES_MPS, _RISE_S = 0.02, 3.0
_LEAST_PINGS, _MOST_PEAKS = 10, 12
_PEAK_DB, _SURFACE_M, _OFF_BED_M = 16.0, 0.4, 0.12
_GATE_M, _GAP_S, _FASTEST_MPS = 0.12, 0.8, 2.0
_LASTS_S, _FILLED = 2.0, 0.6
_LATE = 10  # points of a track that tell where it is now


class Answer(Enum):
    """What to do with the lure (docs/handbook.md 5.9: fish raised are fish that bite)."""

    RAISE = "raise"
    HOLD = "hold"
    WAIT = "wait"


@dataclass(frozen=True, slots=True, kw_only=True)
class Closing:
    """A fish near the lure."""

    depth_m: float
    lure_m: float
    below_m: float  # of the fish under the lure; above it below 0
    closing_mps: float  # how fast it comes nearer; below 0 it goes
    answer: Answer
    raise_mps: float = 0.0  # how fast to raise

    @property
    def meets_s(self) -> float:
        """Until it is there; infinite where it does not come."""
        return abs(self.below_m) / self.closing_mps if self.closing_mps > _COMES_MPS else math.inf


@dataclass
class _Track:
    """Peaks of neighbouring pings that belong together."""

    time: list[float]
    depth: list[float]
    level: list[float]

    def expects(self, time: float) -> float:
        """Where the next peak should be: on with the speed of the last half second."""
        late = [k for k, t in enumerate(self.time) if t >= self.time[-1] - 0.6]
        first = late[0]
        lasted = self.time[-1] - self.time[first]
        speed = (self.depth[-1] - self.depth[first]) / lasted if lasted > 0.2 else 0.0
        return self.depth[-1] + float(np.clip(speed, -_FASTEST_MPS, _FASTEST_MPS)) * (time - self.time[-1])


def still_tracks(down: Down, bed_m: float, *, seconds: float = LOOK_S) -> tuple[Trail, ...]:
    """
    What hangs and moves below a boat that lies still, or a hole, in the last seconds; newest points last.

    Parameters
    ----------
    down : Down
    bed_m : float
        Depth of the bottom; NaN where unknown: then to the end of the range.
    seconds : float

    Notes
    -----
    Peaks of each ping that stand out from the noise and from what each depth usually gives are joined from ping to
    ping where the next lies near where the last ones lead. A track counts from two seconds on; clutter and the
    bottom's own echo are left out. Ties go to the louder peak.
    """
    first = int(np.searchsorted(down.time, down.time[-1] - seconds)) if len(down) else 0
    if len(down) - first < _LEAST_PINGS:
        return ()
    block = read_block(down, first, len(down))
    levels = over_noise(down, block, noise_floor_db(down, block))
    depth = block.range_m + down.mount.depth_m
    floor = bed_m - max(2.0 * down.pulse_m, _OFF_BED_M) if math.isfinite(bed_m) else float(depth[-1])
    water = (depth > _SURFACE_M + down.mount.depth_m) & (depth < floor)
    if water.sum() < 3:
        return ()
    levels, depth = levels[:, water], depth[water]
    # the surface's clutter is loud in most pings, from the top down
    clutter = np.flatnonzero(np.median(levels, axis=0) < _PEAK_DB)
    top = int(clutter[0]) if clutter.size else 0
    wide = max(round(down.pulse_m / block.step_m), 1)
    smooth = ndimage.uniform_filter1d(levels, wide, axis=1)
    peaks = (smooth >= ndimage.maximum_filter1d(smooth, 2 * wide + 1, axis=1)) & (smooth > _PEAK_DB)
    peaks[:, :top] = False
    return _linked(down.time[first:], depth, smooth, peaks)


def _linked(time: Floats, depth: Floats, level: Levels, peaks: NDArray[np.bool_]) -> tuple[Trail, ...]:
    tracks: list[_Track] = []
    for k, now in enumerate(time.tolist()):
        here = sorted(np.flatnonzero(peaks[k]).tolist(), key=lambda i: -float(level[k, i]))[:_MOST_PEAKS]
        taken: set[int] = set()
        going = [t for t in tracks if now - t.time[-1] <= _GAP_S]
        for track in sorted(going, key=lambda t: -len(t.time)):
            at = track.expects(now)
            near = [(abs(float(depth[i]) - at), i) for i in here if i not in taken]
            away, i = min(near, default=(math.inf, -1))
            if away <= _GATE_M + 0.5 * (now - track.time[-1]):
                taken.add(i)
                track.time.append(now)
                track.depth.append(float(depth[i]))
                track.level.append(float(level[k, i]))
        tracks += [_Track([now], [float(depth[i])], [float(level[k, i])]) for i in here if i not in taken]
    out = []
    for t in tracks:
        lasts = t.time[-1] - t.time[0]
        if lasts >= _LASTS_S and len(t.time) >= _FILLED * lasts / max(float(np.median(np.diff(time))), 1e-3):
            sinks = (t.depth[-1] - t.depth[0]) / lasts
            level_db = float(np.median(t.level))
            out.append(Trail(kind="", time=tuple(t.time), depth_m=tuple(t.depth), sink_mps=sinks, level_db=level_db))
    return tuple(out)


def closing_fish(
    tracks: Sequence[Trail], now: float, lure_m: float, *, raise_mps: tuple[float, float] = (0.05, 0.15)
) -> Closing | None:
    """
    The fish nearest to the lure that is there now, and what to do; None where none is within four metres.

    Parameters
    ----------
    tracks : sequence of Trail
        Of `still_tracks`.
    now : float
        Time of the newest ping.
    lure_m : float
        Depth at which the lure was last told to be, else set: the track nearest to it is the lure's.
    raise_mps : (float, float)
        How fast a lure is raised before the fish.

    Notes
    -----
    A fish that rises is led: the lure goes up as long as it follows, and stops where it lags more than 30 cm behind.
    """
    there = [t for t in tracks if now - t.time[-1] <= FRESH_S]
    lure = _lure_of(there, lure_m)
    if lure is not None:
        lure_m = float(lure.depth_m[-1])
    fish: list[tuple[float, float]] = []
    for track in there:
        if track is lure:
            continue
        times, depths = np.array(track.time), np.array(track.depth_m)
        late = times >= now - _RISE_S
        rise = -float(np.polyfit(times[late], depths[late], 1)[0]) if late.sum() >= 5 else 0.0
        fish.append((float(depths[-1]), rise))
    if not fish:
        return None
    depth, rise = min(fish, key=lambda f: abs(f[0] - lure_m))
    below = depth - lure_m
    if abs(below) > _NEAR_M:
        return None
    closing = rise if below > 0 else -rise
    if below < -_AT_LURE_M:
        answer = Answer.RAISE  # a lure beneath a fish is seen by none that looks up
    elif closing > _COMES_MPS and below > _LAGS_M:
        answer = Answer.HOLD
    elif closing > _COMES_MPS or abs(below) <= _LAGS_M:
        answer = Answer.RAISE
    else:
        answer = Answer.WAIT
    speed = float(np.clip(rise, *raise_mps)) if answer is Answer.RAISE else 0.0
    return Closing(depth_m=depth, lure_m=lure_m, below_m=below, closing_mps=closing, answer=answer, raise_mps=speed)


def _lure_of(there: Sequence[Trail], lure_m: float) -> Trail | None:
    """The track that is the lure's: it was, not long ago, nearest to where the lure was; of new ones the oldest."""
    away = [(abs(float(np.median(t.depth_m[-_LATE:])) - lure_m), k) for k, t in enumerate(there)]
    nearest = min(away, default=(math.inf, 0))
    return there[nearest[1]] if nearest[0] <= _SET_M else None
