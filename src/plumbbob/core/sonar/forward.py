"""
Reads the view ahead: bottom, fish and lure followed from frame to frame, and where each of them is.

A frame is a fan of beams in one upright plane. Fish are short spots that stand out from their own beam and from the
beams above and below at the same range; the bottom is the one strong line from beam to beam, and everything near or
beyond it is left out. Spots that go on from frame to frame are tracks. How far to one side a fish is shows only as
the fan turns: its echo is loudest when the fan points at it.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from plumbbob.core import geodesy as geo
from plumbbob.core.sonar.reading import ForwardReading, ForwardTarget
from plumbbob.core.sonar.recording import Forward, Recording, TransducerTrack, transducer_at
from plumbbob.core.types import Floats

Fan = NDArray[np.float32]

_RUN = 15  # frames that share one bottom line
_CELL_M = 0.1
_BED_LOSS = 20.0  # decibels a metre by which the bottom line pays for leaping
_BED_LEAP = 8  # cells from beam to beam
_BED_LEAST_DB = 4.0  # mean over the line
_NEAR_M = 1.0
_SPOT_DB = 8.0
_PULSE_M = 0.15
_GATE_M, _GATE_MPS, _GATE_BEAMS = 0.25, 0.8, 2.2
_LOST_S = 1.6
_LEAST_SPOTS, _LEAST_SHARE, _LEAST_DB = 8, 0.4, 9.5
_LONG_TRACK = 25  # spots after which a faint one is believed too
_LOBE_SHARE, _LOBE_M, _LOBE_DB = 0.7, 0.2, 8.0
_RIDE_S, _RIDE_M, _RIDE_WAY_M = 6.0, 0.06, 2.5
_WIDTH_DEG = 18.0  # of the fan, before the recording has told
_LEVEL_SD_DB, _DISTANCE_SD_M, _SWIM_SD_MPS = 4.0, 0.15, 0.15
_STEADY_S = 14.0
_FIX_SD_M = 0.7  # of one fix against those of the same minute
_HEADING_SD_DEG = 2.0
_SAME_M, _SAME_MPS, _SAME_DEPTH_M, _SAME_GAP_S = 1.0, 0.03, 0.4, 30.0
_LURE_FALL_M, _LURE_SINK_MPS = 1.0, (0.2, 2.0)
_LURE_GAP_S, _LURE_DRAWN_MPS, _LURE_LAST_S = 8.0, 0.3, 3.0
_TOWARDS_S = 4.0


def read_forward(
    recording: Recording, *, progress: Callable[[float], None] = lambda _: None
) -> ForwardReading | None:
    """
    Everything that can be told from a recording's view ahead; None where it has none.

    Parameters
    ----------
    recording : Recording
    progress : callable
        Hears the share done, 0 to 1; may raise to stop.
    """
    view = recording.forward
    if view is None:
        return None
    if len(view) < 2 or view.samples < 16 or view.beam_angle_deg.size < 4:
        return ForwardReading(time=view.time, bottom_depth_m=np.full(len(view), np.nan))
    tracker = _Tracker(view)
    depth = np.full(len(view), np.nan)
    for start in range(0, len(view), _RUN):
        frames = view.echo.read(start, start + _RUN).astype(np.float32)
        for first, last in _alike(view, start, start + len(frames)):
            geometry = _Geometry.of(view, first)
            bed = find_bed(view, geometry, frames[first - start : last - start])
            below = bed[np.argmin(np.abs(view.beam_angle_deg - 90.0))]
            if view.beam_angle_deg.max() > 60.0:
                depth[first:last] = below + view.mount.depth_m
            for k in range(first, last):
                tracker.add(k, find_spots(view, geometry, frames[k - start], bed))
        progress(min((start + _RUN) / len(view), 1.0))
    places = transducer_at(recording.track, view.mount, view.time)
    tracks = [t for t in tracker.tracks() if _believed(t)]
    tracks = [t for t in tracks if not _is_lobe(t, tracks) and not _rides_along(t, view, places)]
    return ForwardReading(time=view.time, bottom_depth_m=depth, tracks=tuple(_placed(view, places, tracks)))


def _alike(view: Forward, start: int, stop: int) -> list[tuple[int, int]]:
    """Runs of frames that look over the same ranges."""
    key = np.stack([view.range_start_m[start:stop], view.range_step_m[start:stop]])
    cuts = np.flatnonzero(np.any(np.abs(np.diff(key, axis=1)) > 1e-9, axis=0)) + 1
    edges = [start, *(start + cuts).tolist(), stop]
    return list(pairwise(edges))


@dataclass(frozen=True, slots=True, eq=False)
class _Geometry:
    """Where each sample of a frame looks."""

    range_m: Floats  # (samples,)
    sine: Floats  # (beams,) of the angle below level
    cosine: Floats

    @classmethod
    def of(cls, view: Forward, ping: int) -> _Geometry:
        angle = np.radians(view.beam_angle_deg)
        r = view.range_start_m[ping] + view.range_step_m[ping] * np.arange(view.samples)
        return cls(range_m=r, sine=np.sin(angle), cosine=np.cos(angle))

    @property
    def step_m(self) -> float:
        return float(self.range_m[1] - self.range_m[0])


def find_bed(view: Forward, geometry: _Geometry, frames: Fan) -> Floats:
    """
    Depth of the bottom below the transducer in every beam, shape (beams,); infinite where no line stands out.

    Notes
    -----
    The mean of some frames, each range over its median through the beams, is laid out by depth: there a level bottom
    is a straight line. The path of greatest sum from the steepest to the flattest beam, which pays for leaping, is
    the bottom (dynamic programming).
    """
    mean = ndimage.uniform_filter1d(frames.mean(axis=0), 3, axis=1)
    over = (mean - np.median(mean, axis=0, keepdims=True)) * view.scale_db
    order = np.argsort(-geometry.sine)  # steepest first
    depth = np.arange(0.4, geometry.range_m[-1], _CELL_M)
    sine = np.maximum(geometry.sine[order], 1e-3)
    index = (depth[None, :] / sine[:, None] - geometry.range_m[0]) / geometry.step_m
    seen = (index >= 0) & (index < view.samples - 1)
    laid = np.take_along_axis(over[order], np.clip(index, 0, view.samples - 1).astype(np.intp), axis=1)
    gain = np.where(seen, np.clip(laid, -10.0, 25.0), 0.0)
    beams, cells = gain.shape
    score, back = gain[0], np.zeros((beams, cells), np.intp)
    leaps = np.arange(-_BED_LEAP, _BED_LEAP + 1)
    loss = (_BED_LOSS * _CELL_M * np.abs(leaps)).astype(np.float32)[:, None]
    source = np.arange(cells)[None, :] + leaps[:, None]
    outside = (source < 0) | (source >= cells)
    source = np.clip(source, 0, cells - 1)
    for b in range(1, beams):
        reached = np.where(outside, -1e9, score[source] - loss)
        best = reached.argmax(axis=0)
        back[b] = source[best, np.arange(cells)]
        score = reached[best, np.arange(cells)] + gain[b]
    path = np.empty(beams, np.intp)
    path[-1] = int(score.argmax())
    for b in range(beams - 1, 0, -1):
        path[b - 1] = back[b, path[b]]
    on_line = seen[np.arange(beams), path]
    if not on_line.any() or gain[np.arange(beams), path][on_line].mean() < _BED_LEAST_DB:
        return np.full(beams, np.inf)
    bed = np.empty(beams)
    bed[order] = depth[path]
    return bed


@dataclass(frozen=True, slots=True, eq=False)
class _Spots:
    """Short echoes of one frame: slant range, angle below level, decibels over what surrounds them."""

    range_m: Floats
    angle_deg: Floats
    level_db: Floats


def find_spots(view: Forward, geometry: _Geometry, frame: Fan, bed: Floats) -> _Spots:
    """Local maxima that stand out along their beam and across the beams, clear of the bottom."""
    step = geometry.step_m
    wide = max(round(_PULSE_M / step), 2)
    smooth = ndimage.uniform_filter(frame, (3, wide | 1))
    # neighbours: five beams above and below, some pulses nearer and farther
    beams = ndimage.uniform_filter(frame, (5, wide | 1))
    ranges = ndimage.uniform_filter(frame, (3, 3 * wide))
    gap = 3 * wide + wide // 2
    above, below = _moved(beams, 0, 6), _moved(beams, 0, -6)
    nearer, farther = _moved(ranges, 1, gap), _moved(ranges, 1, -gap)
    around = np.maximum((above + below) / 2, np.maximum(nearer, farther))
    over = (smooth - around) * view.scale_db
    peak = (over == ndimage.maximum_filter(over, (7, 4 * wide + 1))) & (over > _SPOT_DB)
    half_beam = np.radians(max(view.beam_width_deg, view.beam_step_deg)) * 0.6
    depth = geometry.range_m[None, :] * geometry.sine[:, None]
    margin = geometry.range_m[None, :] * half_beam * np.abs(geometry.cosine)[:, None] + _PULSE_M
    peak &= depth < bed[:, None] - margin
    peak[:, geometry.range_m < _NEAR_M] = False
    b, j = np.nonzero(peak)
    if not b.size:
        return _Spots(np.zeros(0), np.zeros(0), np.zeros(0))
    # the centre of gravity over the neighbouring beams and samples, above half the peak's height
    last_b, last_j = frame.shape[0] - 1, frame.shape[1] - 1
    db = np.clip(b[:, None] + np.arange(-2, 3), 0, last_b)
    dj = np.clip(j[:, None] + np.arange(-wide, wide + 1), 0, last_j)
    across = np.maximum(smooth[db, j[:, None]] - around[b, j][:, None] - over[b, j][:, None] / view.scale_db / 2, 0.0)
    along = np.maximum(smooth[b[:, None], dj] - around[b, j][:, None] - over[b, j][:, None] / view.scale_db / 2, 0.0)
    angle = (across * view.beam_angle_deg[db]).sum(axis=1) / across.sum(axis=1)
    reach = (along * geometry.range_m[dj]).sum(axis=1) / along.sum(axis=1)
    return _Spots(reach, angle, over[b, j].astype(np.float64))


def _moved(values: Fan, axis: int, by: int) -> Fan:
    """Values from `by` places before, the edge repeated."""
    n = values.shape[axis]
    return np.take(values, np.clip(np.arange(n) - by, 0, n - 1), axis=axis)


@dataclass(slots=True, eq=False)
class _Chain:
    """Spots that go on from frame to frame."""

    frames: list[int] = field(default_factory=list)
    range_m: list[float] = field(default_factory=list)
    angle_deg: list[float] = field(default_factory=list)
    level_db: list[float] = field(default_factory=list)


class _Tracker:
    """Joins each frame's spots to the nearest chain that waits for one."""

    def __init__(self, view: Forward) -> None:
        self._view = view
        self._open: list[_Chain] = []
        self._done: list[_Chain] = []

    def add(self, k: int, spots: _Spots) -> None:
        now = self._view.time[k]
        waiting: list[_Chain] = []
        for chain in self._open:
            (waiting if now - self._view.time[chain.frames[-1]] <= _LOST_S else self._done).append(chain)
        self._open = waiting
        taken = np.zeros(spots.range_m.size, bool)
        if waiting and spots.range_m.size:
            quiet = now - self._view.time[[c.frames[-1] for c in waiting]]
            # the last few spots' median is steadier than the last one
            r = np.array([np.median(c.range_m[-3:]) for c in waiting])
            a = np.array([np.median(c.angle_deg[-5:]) for c in waiting])
            apart_r = np.abs(spots.range_m[None, :] - r[:, None]) / (_GATE_M + _GATE_MPS * quiet[:, None])
            gate_a = _GATE_BEAMS * max(self._view.beam_step_deg, self._view.beam_width_deg / 2)
            apart_a = np.abs(spots.angle_deg[None, :] - a[:, None]) / gate_a
            cost = np.hypot(apart_r, apart_a)
            cost[(apart_r > 1) | (apart_a > 1)] = np.inf
            used = [False] * len(waiting)
            for flat in np.argsort(cost, axis=None):
                c, s = divmod(int(flat), cost.shape[1])
                if not math.isfinite(cost[c, s]):
                    break
                if used[c] or taken[s]:
                    continue
                used[c] = taken[s] = True
                self._append(waiting[c], k, spots, s)
        for s in np.flatnonzero(~taken):
            chain = _Chain()
            self._append(chain, k, spots, int(s))
            self._open.append(chain)

    @staticmethod
    def _append(chain: _Chain, k: int, spots: _Spots, s: int) -> None:
        chain.frames.append(k)
        chain.range_m.append(float(spots.range_m[s]))
        chain.angle_deg.append(float(spots.angle_deg[s]))
        chain.level_db.append(float(spots.level_db[s]))

    def tracks(self) -> list[_Chain]:
        """All chains, in order of time."""
        return sorted(self._done + self._open, key=lambda c: c.frames[0])


def _believed(chain: _Chain) -> bool:
    n = len(chain.frames)
    share = n / (chain.frames[-1] - chain.frames[0] + 1)
    if n < _LEAST_SPOTS or share < _LEAST_SHARE:
        return False
    return float(np.mean(chain.level_db)) >= _LEAST_DB or n >= _LONG_TRACK


def _is_lobe(chain: _Chain, chains: list[_Chain]) -> bool:
    """Whether it is what a side lobe hears of another: at the same range nearly all the time, and much fainter."""
    for other in chains:
        if other is chain:
            continue
        at = np.searchsorted(other.frames, chain.frames)
        known = at < len(other.frames)
        theirs = np.minimum(at, len(other.frames) - 1)
        same = known & (np.array(other.frames)[theirs] == np.array(chain.frames))
        if same.mean() < _LOBE_SHARE:
            continue
        mine = np.flatnonzero(same)
        apart = np.abs(np.array(chain.range_m)[mine] - np.array(other.range_m)[theirs[mine]])
        fainter = np.array(other.level_db)[theirs[mine]] - np.array(chain.level_db)[mine]
        if (apart < _LOBE_M).mean() > _LOBE_SHARE and float(np.median(fainter)) > _LOBE_DB:
            return True
    return False


def _rides_along(chain: _Chain, view: Forward, places: TransducerTrack) -> bool:
    """Whether it keeps its place in the fan while the boat goes on and the fan turns: the boat's own noise."""
    k = np.array(chain.frames)
    took = float(view.time[k[-1]] - view.time[k[0]])
    speed = places.speed_mps[k]
    if took < _RIDE_S or not np.isfinite(speed).any():
        return False
    still = np.std(chain.range_m) < _RIDE_M and np.std(chain.angle_deg) < view.beam_step_deg
    return bool(still and float(np.nanmean(speed)) * took > _RIDE_WAY_M)


@dataclass(slots=True, eq=False)
class _Fix:
    """A chain with what is needed to place it: metres east and north of the first known place."""

    chain: _Chain
    time: Floats
    distance: Floats
    depth: Floats
    axis_deg: Floats  # true bearing of the fan
    east: Floats  # of the transducer
    north: Floats
    loud_db: Floats
    result: Floats = field(default_factory=lambda: np.zeros(5))  # east, north, speeds, level, at the middle time
    sd_deg: float = math.nan


def _placed(view: Forward, places: TransducerTrack, chains: list[_Chain]) -> list[ForwardTarget]:
    known = np.flatnonzero(np.isfinite(places.latitude))
    located = bool(known.size)
    home = (float(places.latitude[known[0]]), float(places.longitude[known[0]])) if located else (0.0, 0.0)
    path = _steady_path(view.time, places, home)
    fixes = []
    for chain in chains:
        k = np.array(chain.frames)
        r, angle = np.array(chain.range_m), np.radians(chain.angle_deg)
        heading = places.heading_deg[k]
        heading = np.where(np.isfinite(heading), heading, 0.0)
        east = north = np.zeros(k.size)
        if located:
            east, north = path[0][k], path[1][k]
        fixes.append(
            _Fix(
                chain=chain,
                time=view.time[k],
                distance=r * np.cos(angle),
                depth=view.mount.depth_m + r * np.sin(angle),
                axis_deg=heading + view.azimuth_deg[k],
                east=east,
                north=north,
                # one fish falls off by 40 log R: what the recorder did not add already
                loud_db=np.array(chain.level_db)
                + {"none": 40.0, "20logR": 20.0, "40logR": 0.0}[view.tvg] * np.log10(r),
            )
        )
    width = _WIDTH_DEG
    for _ in range(2):
        for fix in fixes:
            _solve(fix, width)
        width = _width_seen(fixes, width)
    tracks = _joined([_ahead(view, places, f, home if located else None) for f in fixes])
    return tracks


def _steady_path(time: Floats, places: TransducerTrack, home: tuple[float, float]) -> tuple[Floats, Floats]:
    """Metres east and north of home, a straight line through some seconds of fixes: boats drift more smoothly."""
    out = []
    for values in geo.separation(*home, places.latitude, places.longitude):
        good = np.isfinite(values)
        if good.sum() < 4:
            out.append(np.nan_to_num(values))
            continue
        filled = np.interp(time, time[good], values[good])
        x = time - time[0]
        first = np.searchsorted(time, time - _STEADY_S / 2)
        last = np.searchsorted(time, time + _STEADY_S / 2, side="right")

        def mean(v: Floats, first: NDArray[np.intp] = first, last: NDArray[np.intp] = last) -> Floats:
            total = np.concatenate(([0.0], np.cumsum(v)))
            return (total[last] - total[first]) / (last - first)

        mx, mv = mean(x), mean(filled)
        slope = (mean(x * filled) - mx * mv) / np.maximum(mean(x * x) - mx**2, 1e-9)
        out.append(mv + slope * (x - mx))
    return out[0], out[1]


def _predicted(fix: _Fix, p: Floats) -> tuple[Floats, Floats]:
    """Distance and true bearing of a moving place from the transducer."""
    t = fix.time - fix.time.mean()
    east, north = p[0] + p[2] * t - fix.east, p[1] + p[3] * t - fix.north
    return np.hypot(east, north), np.degrees(np.arctan2(east, north))


def _off_axis(fix: _Fix, bearing: Floats) -> Floats:
    return (bearing - fix.axis_deg + 180.0) % 360.0 - 180.0


def _solve(fix: _Fix, width_deg: float) -> None:
    """
    Place, speed and level of a fish from distances and from how its level changes as the fan turns.

    Notes
    -----
    Least squares over five unknowns; two-way levels fall by 24 (off / width)² decibels (a Gaussian beam), the speed
    is held near zero by a prior of 0.15 m/s.
    """
    from scipy.optimize import least_squares

    weight = 10 ** (fix.loud_db / 10)
    axis = np.radians(fix.axis_deg)
    bearing = math.atan2(float((weight * np.sin(axis)).sum()), float((weight * np.cos(axis)).sum()))
    d = float(np.median(fix.distance))
    start = np.array(
        [
            np.median(fix.east) + d * math.sin(bearing),
            np.median(fix.north) + d * math.cos(bearing),
            0.0,
            0.0,
            float(np.percentile(fix.loud_db, 80)),
        ]
    )

    def residuals(p: Floats) -> Floats:
        distance, toward = _predicted(fix, p)
        off = np.clip(_off_axis(fix, toward), -60.0, 60.0)
        level = p[4] - 24.0 * (off / width_deg) ** 2
        return np.concatenate(
            (
                (distance - fix.distance) / _DISTANCE_SD_M,
                (fix.loud_db - level) / _LEVEL_SD_DB,
                p[2:4] / _SWIM_SD_MPS,
            )
        )

    found = least_squares(residuals, start, loss="soft_l1", max_nfev=60)
    fix.result = found.x
    try:
        spread = np.linalg.inv(found.jac.T @ found.jac)
        toward = np.array([math.cos(bearing), -math.sin(bearing)])  # across the line of sight
        # spots of neighbouring frames are not independent: as if every fourth counted
        across = 2.0 * math.sqrt(max(float(toward @ spread[:2, :2] @ toward), 0.0))
    except np.linalg.LinAlgError:
        across = math.nan
    fix.sd_deg = (
        min(math.degrees(math.atan2(across, max(d, 0.5))), width_deg / 2) if math.isfinite(across) else width_deg / 2
    )


def _width_seen(fixes: list[_Fix], before: float) -> float:
    """The fan's width by how levels fell over all tracks; the value before where they don't tell."""
    square: list[Floats] = []
    fallen: list[Floats] = []
    for fix in fixes:
        off = _off_axis(fix, _predicted(fix, fix.result)[1])
        if len(off) < 12 or np.ptp(off) < 0.4 * before:
            continue
        square.append(off**2 - np.mean(off**2))
        fallen.append(fix.loud_db - fix.loud_db.mean())
    if sum(map(len, square)) < 60:
        return before
    x, y = np.concatenate(square), np.concatenate(fallen)
    slope = float((x * y).sum() / (x * x).sum())
    return float(np.clip(math.sqrt(24.0 / -slope), 4.0, 60.0)) if slope < -24.0 / 60.0**2 else before


def _ahead(view: Forward, places: TransducerTrack, fix: _Fix, home: tuple[float, float] | None) -> ForwardTarget:
    k = np.array(fix.chain.frames)
    _, bearing = _predicted(fix, fix.result)
    heading = fix.axis_deg - view.azimuth_deg[k]
    azimuth = (bearing - heading + 180.0) % 360.0 - 180.0
    t = fix.time - fix.time.mean()
    latitude = longitude = np.full(k.size, np.nan)
    if home is not None:
        latitude, longitude = geo.offset(*home, fix.result[0] + fix.result[2] * t, fix.result[1] + fix.result[3] * t)
    level = np.array(fix.chain.level_db)
    depth = _smoothed(fix.depth)
    toward = np.radians(bearing)
    closing = -(fix.result[2] * np.sin(toward) + fix.result[3] * np.cos(toward))
    slope = float(np.polyfit(t, fix.depth, 1)[0]) if np.ptp(t) > 1.0 else 0.0
    half = math.radians(view.beam_step_deg) * float(np.median(fix.distance))
    across = math.radians(fix.sd_deg + _HEADING_SD_DEG) * float(np.median(fix.distance))
    return ForwardTarget(
        kind="lure" if _is_lure(fix.time, depth) else "fish",
        time=fix.time,
        slant_m=np.array(fix.chain.range_m),
        distance_m=_smoothed(fix.distance),
        depth_m=depth,
        level_db=level,
        azimuth_deg=azimuth,
        azimuth_sd_deg=fix.sd_deg,
        latitude=latitude,
        longitude=longitude,
        depth_sd_m=max(half / math.sqrt(min(k.size, 9)), 0.05),
        position_sd_m=math.hypot(across, _FIX_SD_M),
        best=int(np.argmax(_smoothed(level))),
        towards_mps=float(closing.mean()) if np.ptp(t) > _TOWARDS_S else math.nan,
        sinks_mps=slope,
    )


def _smoothed(values: Floats) -> Floats:
    return ndimage.uniform_filter1d(values, min(7, values.size), mode="nearest")


def _is_lure(time: Floats, depth: Floats) -> bool:
    """Whether a track falls as only something heavy does: steadily, faster than a fish sinks, for some seconds."""
    low, high = _LURE_SINK_MPS
    if time.size < _LEAST_SPOTS or time[-1] - time[0] < 1.5:
        return False
    first = np.searchsorted(time, time - 1.5)
    rate = np.where(time - time[first] > 1.0, (depth - depth[first]) / np.maximum(time - time[first], 1e-9), 0.0)
    falls = (rate >= low) & (rate <= high)
    fallen = float(np.sum(np.where(falls[1:], np.maximum(np.diff(depth), 0.0), 0.0)))
    return fallen >= _LURE_FALL_M


def _joined(tracks: list[ForwardTarget]) -> list[ForwardTarget]:
    """Tracks of one fish that was lost as the fan turned away, made one."""
    kept: list[ForwardTarget] = []
    for track in sorted(tracks, key=lambda t: float(t.time[0])):
        for i, earlier in enumerate(kept):
            gap = float(track.time[0] - earlier.time[-1])
            if not 0 < gap < _SAME_GAP_S:
                continue
            if earlier.kind == "lure" and gap < _LURE_GAP_S and _drawn_in(earlier, track, gap):
                kept[i] = _one(earlier, track)
                break
            if earlier.kind != track.kind:
                continue
            if abs(float(track.depth_m[0] - earlier.depth_m[-1])) > _SAME_DEPTH_M:
                continue
            east, north = geo.separation(
                earlier.latitude[-1], earlier.longitude[-1], track.latitude[0], track.longitude[0]
            )
            # without positions, distance and azimuth must do
            apart = (
                math.hypot(float(east), float(north))
                if math.isfinite(float(east))
                else abs(float(track.distance_m[0] - earlier.distance_m[-1]))
            )
            if apart < _SAME_M + _SAME_MPS * gap:
                kept[i] = _one(earlier, track)
                break
        else:
            kept.append(track)
    return kept


def _drawn_in(lure: ForwardTarget, later: ForwardTarget, gap: float) -> bool:
    """Whether a track goes on where a lure that is being drawn in would be by then."""
    last = lure.time >= lure.time[-1] - _LURE_LAST_S
    rate = 0.0
    if last.sum() > 4:
        rate = float(np.polyfit(lure.time[last] - lure.time[-1], lure.distance_m[last], 1)[0])
    expected = float(lure.distance_m[-1]) + min(rate, 0.0) * gap
    if float(later.distance_m[0]) > float(lure.distance_m[-1]) + _SAME_M:
        return False
    near = abs(float(later.distance_m[0]) - expected) < _SAME_M + _LURE_DRAWN_MPS * gap
    return near and abs(float(later.depth_m[0] - lure.depth_m[-1])) < 2 * _SAME_DEPTH_M


def _one(a: ForwardTarget, b: ForwardTarget) -> ForwardTarget:
    arrays: dict[str, Any] = {
        name: np.concatenate((getattr(a, name), getattr(b, name)))
        for name in (
            "time",
            "slant_m",
            "distance_m",
            "depth_m",
            "level_db",
            "azimuth_deg",
            "latitude",
            "longitude",
        )
    }
    return replace(
        a,
        **arrays,
        azimuth_sd_deg=min(a.azimuth_sd_deg, b.azimuth_sd_deg),
        position_sd_m=min(a.position_sd_m, b.position_sd_m),
        best=a.best if a.level_db[a.best] >= b.level_db[b.best] else a.time.size + b.best,
        towards_mps=b.towards_mps if math.isfinite(b.towards_mps) else a.towards_mps,
        sinks_mps=b.sinks_mps,
    )
