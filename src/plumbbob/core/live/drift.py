"""Drifting and following a lane: where to begin a drift, how far off a line the boat is, when a drift is too fast."""

from __future__ import annotations

import math

import numpy as np

from plumbbob.core.geodesy import Position, offset
from plumbbob.core.types import Floats

SETUP_S = 30.0  # to stow the paddle or the motor and take the rod [C]


def drift_start(
    aim: Position,
    drift_mps: float,
    course_deg: float,
    fall_s: float,
    *,
    setup_s: float = SETUP_S,
    lane_m: float = 0.0,
) -> Position:
    """
    Where to begin a drift so that the lure is down when it comes over a place.

    Parameters
    ----------
    aim : Position
        The place.
    drift_mps, course_deg : float
        How fast and where to the boat drifts.
    fall_s : float
        Until the lure is at its depth.
    setup_s : float
    lane_m : float
        Length of the stretch that is fished before the place; half of it is added.

    Notes
    -----
    Up-drift by v (t_setup + t_fall) and half a lane (docs/handbook.md 7.8).

    Examples
    --------
    >>> from plumbbob.core.geodesy import distance_m
    >>> aim = Position(52.4, -24.6)
    >>> round(distance_m(aim, drift_start(aim, 0.3, 90.0, 60.0, setup_s=30.0)))
    27
    """
    way = drift_mps * (setup_s + fall_s) + lane_m / 2.0
    turn = math.radians(course_deg)
    latitude, longitude = offset(aim.latitude, aim.longitude, -way * math.sin(turn), -way * math.cos(turn))
    return Position(float(latitude), float(longitude))


def off_line(line: Floats, x: float, y: float) -> tuple[float, float, float]:
    """
    How far a boat is off a line, and how far along it.

    Parameters
    ----------
    line : ndarray of shape (points, 2)
        In metres, at least two.
    x, y : float

    Returns
    -------
    off_m : float
        To starboard of the line's way over 0.
    along_m : float
    left_m : float
        Of the line still ahead.

    Examples
    --------
    >>> line = np.array([[0.0, 0.0], [0.0, 100.0]])
    >>> [round(float(v), 1) for v in off_line(line, 12.0, 40.0)]
    [12.0, 40.0, 60.0]
    """
    step = np.diff(line, axis=0)
    length = np.maximum(np.hypot(*step.T), 1e-9)
    share = np.clip(((x - line[:-1, 0]) * step[:, 0] + (y - line[:-1, 1]) * step[:, 1]) / length**2, 0.0, 1.0)
    foot = line[:-1] + step * share[:, None]
    away = np.hypot(x - foot[:, 0], y - foot[:, 1])
    k = int(away.argmin())
    # the boat lies to the right of the way where the cross product says so
    right = step[k, 1] * (x - foot[k, 0]) - step[k, 0] * (y - foot[k, 1])
    along = float(length[:k].sum() + share[k] * length[k])
    return math.copysign(float(away[k]), right), along, float(length.sum()) - along
