"""Where a boat goes while lines are followed: as logged, or a turn, a stop, a burst of speed."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from plumbbob.core.types import Floats

LONGEST_S = 4 * 3600.0  # that lines are followed


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Track:
    """Where the boat is at each time, and which way the water past it goes."""

    time: Floats  # s, rising
    x: Floats
    y: Floats
    current_mps: tuple[float, float] = (0.0, 0.0)  # of the water, east and north

    def __post_init__(self) -> None:
        if len(self.time) < 2 or not (np.diff(self.time) > 0).all():
            raise ValueError("a track needs at least two places, with times that rise")
        if not (np.isfinite(self.x).all() and np.isfinite(self.y).all() and np.isfinite(self.time).all()):
            raise ValueError("a track's places must be numbers")


def turn_track(
    speed_mps: float,
    *,
    radius_m: float = 25.0,
    turn_deg: float = 180.0,
    run_in_s: float = 10.0,
    run_out_s: float = 60.0,
    step_s: float = 0.5,
) -> Track:
    """Straight, then a turn (positive to starboard), then straight: at a steady speed, northwards at first."""
    if not (speed_mps > 0 and radius_m > 0):
        raise ValueError("a turn needs a speed and a radius above zero")
    turning = math.radians(abs(turn_deg)) * radius_m / speed_mps
    if turning > LONGEST_S:
        raise ValueError(f"at {speed_mps:g} m/s that turn takes {turning / 3600:.3g} hours: too long to be followed")
    time = np.arange(0.0, run_in_s + turning + run_out_s + step_s, step_s)
    rate = np.where((time >= run_in_s) & (time < run_in_s + turning), speed_mps / radius_m, 0.0)
    heading = np.cumsum(rate) * step_s * math.copysign(1.0, turn_deg)
    x = np.concatenate([[0.0], np.cumsum(speed_mps * np.sin(heading[:-1]) * step_s)])
    y = np.concatenate([[0.0], np.cumsum(speed_mps * np.cos(heading[:-1]) * step_s)])
    return Track(time=time, x=x, y=y)


def change_track(
    speed_mps: float,
    other_mps: float,
    *,
    for_s: float = 20.0,
    run_in_s: float = 10.0,
    run_out_s: float = 40.0,
    step_s: float = 0.5,
) -> Track:
    """Straight on, northwards, with another speed for a while: a stop or a burst, changed to within two seconds."""
    if not (speed_mps >= 0 and other_mps >= 0):
        raise ValueError("speeds must be zero or more")
    time = np.arange(0.0, run_in_s + for_s + run_out_s + step_s, step_s)
    knots = (0.0, run_in_s, run_in_s + 2.0, run_in_s + max(for_s, 4.0), run_in_s + max(for_s, 4.0) + 2.0, 1e9)
    speeds = (speed_mps, speed_mps, other_mps, other_mps, speed_mps, speed_mps)
    speed = np.interp(time, knots, speeds)
    y = np.concatenate([[0.0], np.cumsum((speed[1:] + speed[:-1]) / 2 * step_s)])
    return Track(time=time, x=np.zeros_like(y), y=y)
