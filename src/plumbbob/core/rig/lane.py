"""Over the bottom: the lure follows the boat by its layback, so a lane's depths and a lure's path can be compared."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.rig.knowledge import PRIOR, Knowledge
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.rod import RigAnswer, RigSettings
from plumbbob.core.types import Floats

_SHORT_M = 3.0  # stretches nearer to each other than this are one


class Trouble(Enum):
    """What goes wrong on a stretch."""

    DRAGS = "drags"  # the lure would be in the bottom
    CLOSE = "close"  # nearer to it than is kept free
    HIGH = "high"  # too far over it


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """A piece of the lane over which a lure runs wrong, by the lure's own place on it."""

    trouble: Trouble
    from_m: float  # along the lane
    to_m: float
    room_m: float  # from lure to bottom where it is worst; below zero it would be in it
    chance: float  # that it touches at all, with the depth's spread
    change_m: float | None  # of what is out, to keep clear or to come down; negative: take in; None: can't be had
    begin_boat_m: float  # along the lane, where the boat is when that should be begun
    back_boat_m: float  # and when it can be put back


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Passage:
    """One rod over one lane."""

    along_m: Floats  # of the lure
    bottom_m: Floats
    room_m: Floats
    stretches: tuple[Stretch, ...]


def passage(
    rod: RigSettings,
    answer: RigAnswer,
    along_m: Floats,
    bottom_m: Floats,
    *,
    keep_m: float = 1.0,
    most_m: float = math.inf,
    knowledge: Knowledge = PRIOR,
) -> Passage:
    """
    Where on a lane a lure drags or hangs too high, and what to change where.

    Parameters
    ----------
    rod : RigSettings
    answer : RigAnswer
        As it is out now.
    along_m, bottom_m : ndarray, shape (n,)
        The lane: way from its start, rising, and the depth of the bottom there today; NaN where not known.
    keep_m : float
        Room to keep over the bottom.
    most_m : float
        More room than this is too high.
    knowledge : Knowledge

    Notes
    -----
    The lure is where the boat was a layback ago. A change of length takes about that way to reach the lure, so it is
    begun when the boat passes where the stretch begins.
    """
    if along_m.shape != bottom_m.shape or len(along_m) < 2:
        raise ValueError("a lane needs as many depths as places, two at least")
    room = bottom_m - answer.depth_m
    known = np.isfinite(room)
    troubles = (
        (Trouble.DRAGS, known & (room <= 0)),
        (Trouble.CLOSE, known & (room > 0) & (room < keep_m)),
        (Trouble.HIGH, known & (room > most_m)),
    )
    # what drags and what comes close is one stretch: it is put right by one change
    low = troubles[0][1] | troubles[1][1]
    stretches = [_low(rod, answer, along_m, bottom_m, a, b, keep_m, knowledge) for a, b in _runs(low, along_m)]
    stretches += [
        _high(rod, answer, along_m, bottom_m, a, b, keep_m, most_m, knowledge)
        for a, b in _runs(troubles[2][1], along_m)
    ]
    return Passage(
        along_m=along_m, bottom_m=bottom_m, room_m=room, stretches=tuple(sorted(stretches, key=lambda s: s.from_m))
    )


def _runs(mask: NDArray[np.bool_], along: Floats) -> list[tuple[int, int]]:
    """First and last index of each run of True, those with small gaps between them as one."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(int)))
    out: list[tuple[int, int]] = []
    for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
        if out and along[a] - along[out[-1][1]] < _SHORT_M:
            out[-1] = (out[-1][0], b - 1)
        else:
            out.append((a, b - 1))
    return out


def _change(rod: RigSettings, answer: RigAnswer, depth: float, knowledge: Knowledge) -> float | None:
    found = solve(rod, max(depth, 0.0), knowledge) if depth > 0 else None
    return found.value - answer.value if isinstance(found, RigAnswer) else None


def _low(
    rod: RigSettings,
    answer: RigAnswer,
    along: Floats,
    bottom: Floats,
    a: int,
    b: int,
    keep: float,
    knowledge: Knowledge,
) -> Stretch:
    least = float(np.nanmin(bottom[a : b + 1]))
    room = least - answer.depth_m
    return Stretch(
        trouble=Trouble.DRAGS if room <= 0 else Trouble.CLOSE,
        from_m=float(along[a]),
        to_m=float(along[b]),
        room_m=room,
        chance=0.5 * math.erfc(room / max(answer.depth_sd_m, 0.02) / math.sqrt(2)),
        change_m=_change(rod, answer, least - keep, knowledge),
        begin_boat_m=float(along[a]),
        back_boat_m=float(along[b]) + answer.layback_m,
    )


def _high(
    rod: RigSettings,
    answer: RigAnswer,
    along: Floats,
    bottom: Floats,
    a: int,
    b: int,
    keep: float,
    most: float,
    knowledge: Knowledge,
) -> Stretch:
    piece = bottom[a : b + 1]
    # no deeper than the shallowest of the stretch allows
    wanted = max(float(np.nanmin(piece)) - (keep + most) / 2, answer.depth_m)
    return Stretch(
        trouble=Trouble.HIGH,
        from_m=float(along[a]),
        to_m=float(along[b]),
        room_m=float(np.nanmax(piece)) - answer.depth_m,
        chance=0.0,
        change_m=_change(rod, answer, wanted, knowledge),
        begin_boat_m=float(along[a]),
        back_boat_m=float(along[b]),
    )


def seconds_to_mark(mark_m: float, boat_m: float, layback_m: float, speed_mps: float) -> float:
    """
    Until a lure reaches a mark on the lane; below zero it has passed. NaN for a boat at rest.

    Examples
    --------
    >>> round(seconds_to_mark(mark_m=100.0, boat_m=100.0, layback_m=30.0, speed_mps=1.1))
    27
    """
    return (mark_m + layback_m - boat_m) / speed_mps if speed_mps > 0 else math.nan


def keeps_apart(aside_m: Floats, layback_m: Floats, turn_radius_m: float) -> float:
    """
    Least distance between neighbouring lures while the boat turns, by the trailer rule, m.

    Parameters
    ----------
    aside_m, layback_m : ndarray, shape (rods,)
    turn_radius_m : float

    Notes
    -----
    A line on a steady turn trails on a smaller circle: a lure a way x behind at y abeam runs on radius
    sqrt((R + y)^2 - x^2); one with x beyond the radius is drawn to the middle (docs/handbook.md, 5.4).
    """
    if len(aside_m) < 2:
        return math.inf
    least = math.inf
    for way in (1.0, -1.0):
        out = turn_radius_m + way * aside_m
        radius = np.sqrt(np.maximum(out**2 - layback_m**2, 0.0))
        behind = np.arctan2(layback_m, radius)
        x, y = radius * np.cos(behind), radius * np.sin(behind)
        for i in range(len(x)):
            for j in range(i):
                least = min(least, float(math.hypot(x[i] - x[j], y[i] - y[j])))
    return least
