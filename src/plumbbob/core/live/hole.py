"""Below a boat that lies still, or a hole: the lure, the fish that comes to it, and whether to raise or to hold."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np

from plumbbob.core.sonar.reading import Reading

FRESH_S = 3.0
_NEAR_M, _AT_LURE_M = 4.0, 0.3
_LAGS_M = 0.3
_STILL_MPS = 0.02


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
        return abs(self.below_m) / self.closing_mps if self.closing_mps > _STILL_MPS else math.inf


def closing_fish(
    reading: Reading, now: float, lure_m: float, *, raise_mps: tuple[float, float] = (0.05, 0.15)
) -> Closing | None:
    """
    The fish nearest to the lure that is there now, and what to do; None where none is within four metres.

    Parameters
    ----------
    reading : Reading
        Of a live pass; trails are what stays in the beam.
    now : float
        Time of the newest ping.
    lure_m : float
        Depth of the lure where no trail tells it.
    raise_mps : (float, float)
        How fast a lure is raised before the fish.

    Notes
    -----
    A lure's own trail tells its depth better than the rig does. A fish that rises is led: the lure goes up as long
    as it follows, and stops where it lags more than 30 cm behind.
    """
    there = [t for t in reading.trails if now - t.time[-1] <= FRESH_S]
    lures = [t for t in there if "lure" in t.kind]
    if lures:
        lure_m = float(lures[-1].depth_m[-1])
    fish = []
    for trail in there:
        if "fish" not in trail.kind:
            continue
        times, depths = np.array(trail.time), np.array(trail.depth_m)
        late = times >= now - 3.0
        rise = -float(np.polyfit(times[late], depths[late], 1)[0]) if late.sum() >= 3 else -trail.sink_mps
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
    elif closing > _STILL_MPS and below > _LAGS_M:
        answer = Answer.HOLD
    elif closing > _STILL_MPS or abs(below) <= _LAGS_M:
        answer = Answer.RAISE
    else:
        answer = Answer.WAIT
    speed = float(np.clip(rise, *raise_mps)) if answer is Answer.RAISE else 0.0
    return Closing(depth_m=depth, lure_m=lure_m, below_m=below, closing_mps=closing, answer=answer, raise_mps=speed)
