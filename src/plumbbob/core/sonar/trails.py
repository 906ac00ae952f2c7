"""
Trails: echoes that stay in the beam longer than the boat's passing explains.

A lure let down is a straight line that falls, a fish that comes up to it runs along under it, a fish that keeps pace
with the boat is a long flat mark. The size of such a mark says nothing about the size of a fish
(docs/handbook.md 1.6).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.reading import Trail
from plumbbob.core.sonar.recording import Down
from plumbbob.core.types import Floats

LONGER_THAN_TRANSIT = 1.8
LEAST_S = 4.0
_GAP_PINGS = 8
_FASTEST_MPS = 2.2  # of a sinking lure, straight down
_REACH_PULSES = 1.5
_SAME_M = 0.25
_STILL_BOAT_MPS = 0.6
_FALL_LEAST_M, _FALL_LEAST_MPS = 1.5, 0.12
_STRAIGHT = 0.06  # rms about a straight fall, as a share of the fall
_STRAIGHT_M = 0.15
_STEADY_M, _STEADY_S = 0.12, 30.0
_BELOW_M = (-0.2, 2.5)  # a follower keeps between these under what it follows
_TOGETHER_S = 2.5
_CLIMB_M = 0.8
_POINTS = 200


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Piece:
    """One point a ping along a thin ridge."""

    time: Floats
    range_m: Floats
    level_db: Floats

    @property
    def lasts(self) -> float:
        """Seconds from first to last point."""
        return float(self.time[-1] - self.time[0])


def follow_ridge(
    rows: NDArray[np.intp], cols: NDArray[np.intp], level: Floats, time: Floats, range_m: Floats, pulse_m: float
) -> list[Piece]:
    """
    The long traces in one component of ridge points, the longest first.

    Parameters
    ----------
    rows, cols : ndarrays of int (points,)
        Ping and sample of each point.
    level : ndarray (points,)
        Decibels over the usual.
    time, range_m : ndarrays (pings,), (samples,)
    pulse_m : float

    Notes
    -----
    From the loudest point both ways: the next point is the one nearest to where the last ones lead, as far as a pulse
    and a half and what a sinking lure can move allow.
    """
    left = np.ones(rows.size, bool)
    out: list[Piece] = []
    for _ in range(4):
        if left.sum() < 12:
            break
        index = np.flatnonzero(left)
        top = int(index[level[index].argmax()])
        chain = _walk(rows, cols, left, top, -1, time, range_m, pulse_m)[::-1]
        chain = [*chain, top, *_walk(rows, cols, left, top, 1, time, range_m, pulse_m)]
        near = np.isin(rows, rows[chain])
        left[chain] = False
        # what lies on the same rows within a pulse is the same echo
        where = np.full(time.size, np.inf)
        where[rows[chain]] = range_m[cols[chain]]
        left &= ~(near & (np.abs(range_m[cols] - where[rows]) < pulse_m))
        if len(chain) >= 12:
            out.append(Piece(time=time[rows[chain]], range_m=range_m[cols[chain]], level_db=level[chain]))
    return sorted(out, key=lambda p: -p.lasts)


def _walk(
    rows: NDArray[np.intp],
    cols: NDArray[np.intp],
    left: NDArray[np.bool_],
    start: int,
    step: int,
    time: Floats,
    range_m: Floats,
    pulse_m: float,
) -> list[int]:
    """Indices of points from a start on, forwards or backwards in time."""
    chain: list[int] = []
    past_t, past_r = [float(time[rows[start]])], [float(range_m[cols[start]])]
    row, missed = int(rows[start]), 0
    while missed <= _GAP_PINGS:
        row += step
        if not 0 <= row < time.size:
            break
        low, high = np.searchsorted(rows, (row, row + 1))
        free = np.arange(low, high)[left[low:high]]
        ahead = float(time[row]) - past_t[-1]
        speed = 0.0
        if len(past_t) > 6 and past_t[-1] != past_t[-7]:
            speed = (past_r[-1] - past_r[-7]) / (past_t[-1] - past_t[-7])
        if free.size:
            off = np.abs(range_m[cols[free]] - (past_r[-1] + speed * ahead))
            k = int(off.argmin())
            if off[k] <= _REACH_PULSES * pulse_m + 0.3 * abs(ahead):
                chain.append(int(free[k]))
                past_t.append(float(time[row]))
                past_r.append(float(range_m[cols[free[k]]]))
                missed = 0
                continue
        missed += 1
    return chain


def find_trails(pieces: Sequence[Piece], down: Down, speed_mps: Floats) -> tuple[Trail, ...]:
    """
    Trails from the pieces of all runs of pings, in order of time.

    Parameters
    ----------
    pieces : sequence of Piece
        From overlapping runs: the same trail may come in several.
    down : Down
    speed_mps : ndarray (pings,)
        Of the boat; NaN where unknown.
    """
    draft = down.mount.depth_m
    trails = []
    for piece in _joined(pieces):
        row = np.searchsorted(down.time, piece.time)
        boat = speed_mps[np.minimum(row, len(down) - 1)]
        known = boat[np.isfinite(boat)]
        still = not (known.size and float(np.median(known)) > _STILL_BOAT_MPS)
        landed = _fall_ends(piece) if still else 0
        if not landed:
            trails.append(_trail(piece, draft, "" if still else "moving"))
            continue
        # what was let down stays what it is when it rests and is lifted
        trails.append(_trail(_part(piece, 0, landed), draft, "falling lure"))
        if piece.time.size - landed >= 12:
            trails.append(_trail(_part(piece, landed, piece.time.size), draft, "lure"))
    return _followers(sorted(trails, key=lambda t: t.time[0]))


def _joined(pieces: Sequence[Piece]) -> list[Piece]:
    """Pieces of one trail put together, each time once."""
    out: list[Piece] = []
    for piece in sorted(pieces, key=lambda p: p.time[0]):
        for i, other in enumerate(out):
            if _same(other, piece):
                time = np.concatenate([other.time, piece.time])
                order = np.unique(time, return_index=True)[1]
                out[i] = Piece(
                    time=time[order],
                    range_m=np.concatenate([other.range_m, piece.range_m])[order],
                    level_db=np.concatenate([other.level_db, piece.level_db])[order],
                )
                break
        else:
            out.append(piece)
    return out


def _same(a: Piece, b: Piece) -> bool:
    """They share some time and lie together there, or the one begins where the other ends."""
    shared = b.time[(b.time >= a.time[0]) & (b.time <= a.time[-1])]
    if shared.size:
        off = np.interp(shared, a.time, a.range_m) - np.interp(shared, b.time, b.range_m)
        return bool(np.median(np.abs(off)) < _SAME_M)
    return bool(0 <= b.time[0] - a.time[-1] < 1.5 and abs(float(b.range_m[0] - a.range_m[-1])) < _SAME_M)


def _part(piece: Piece, first: int, last: int) -> Piece:
    return Piece(time=piece.time[first:last], range_m=piece.range_m[first:last], level_db=piece.level_db[first:last])


def _fall_ends(piece: Piece) -> int:
    """Points of a straight fall that a trail begins with; 0 if it does not begin with one."""
    best = 0
    for end in range(12, piece.time.size + 1, 4):
        t, r = piece.time[:end], piece.range_m[:end]
        slope, level = np.polyfit(t - t[0], r, 1)
        fall = float(slope) * float(t[-1] - t[0])
        rms = float(np.std(r - slope * (t - t[0]) - level))
        if slope > _FALL_LEAST_MPS and fall > _FALL_LEAST_M and rms < min(_STRAIGHT * fall, _STRAIGHT_M):
            best = end
        elif best and end - best > 24:
            break
    return best


def _trail(piece: Piece, draft_m: float, kind: str) -> Trail:
    """A trail of a known kind, or of one told from how steady it is; "moving" is a boat under way."""
    slope, level = np.polyfit(piece.time - piece.time[0], piece.range_m, 1)
    rms = float(np.std(piece.range_m - slope * (piece.time - piece.time[0]) - level))
    if kind in ("", "moving"):
        steady = rms < _STEADY_M and abs(float(slope)) * piece.lasts < 3 * _STEADY_M and piece.lasts > _STEADY_S
        kind = "lure" if steady and kind == "moving" else "moving fish"
    every = max(piece.time.size // _POINTS, 1)
    return Trail(
        kind=kind,
        time=tuple(piece.time[::every].tolist()),
        depth_m=tuple((piece.range_m[::every] + draft_m).tolist()),
        sink_mps=float(slope),
        level_db=float(np.median(piece.level_db)),
    )


def _followers(trails: list[Trail]) -> tuple[Trail, ...]:
    """What rises close under another trail that rises follows it."""
    out = []
    for trail in trails:
        time, depth = np.array(trail.time), np.array(trail.depth_m)
        for other in trails:
            if other is trail or "lure" in trail.kind:
                continue
            low, high = max(time[0], other.time[0]), min(time[-1], other.time[-1])
            if high - low < _TOGETHER_S:
                continue
            at = np.linspace(low, high, 20)
            mine, lead = np.interp(at, time, depth), np.interp(at, other.time, other.depth_m)
            under = mine - lead
            both_rise = mine[0] - mine[-1] > _CLIMB_M and lead[0] - lead[-1] > _CLIMB_M
            if both_rise and _BELOW_M[0] < float(np.median(under)) < _BELOW_M[1] and float(np.median(under)) > 0.05:
                trail = replace(trail, kind="following fish")
                break
        out.append(trail)
    return tuple(out)
