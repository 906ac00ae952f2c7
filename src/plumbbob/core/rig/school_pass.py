"""
Schools that pass a still boat, and a jig that must be at their depth while they are under it.

The jig falls on an open line by its own physics and comes up as fast as it is reeled. The best that could have been
done with all schools known is found by dynamic programming over depth and time, so a score says how near one came.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from plumbbob.core.types import Floats

LASTS_S = 45.0
REEL_MPS = 0.9  # a full turn of the hand
TOP_M = 0.3
_TIME_STEP_S, _CELLS = 0.25, 8  # of time, and cells of depth that are fallen in it


@dataclass(frozen=True, slots=True)
class School:
    """Fish that swim at one depth and speed under the boat. Metres; over 0 the front is still ahead of the line."""

    depth_m: float
    high_m: float
    length_m: float
    front_m: float  # at the beginning
    speed_mps: float

    def front_at(self, time_s: float) -> float:
        """How far its front still is from the line; its tail follows a length behind."""
        return self.front_m - self.speed_mps * time_s

    def is_over(self, time_s: float) -> bool:
        """The line is in the school."""
        return -self.length_m <= self.front_at(time_s) <= 0.0

    def holds(self, depth_m: float) -> bool:
        """A lure at that depth is among them."""
        return abs(depth_m - self.depth_m) <= self.high_m / 2


@dataclass(frozen=True, slots=True)
class SchoolPass:
    """A moment of it."""

    time_s: float
    jig_m: float
    schools: tuple[School, ...]
    fall_mps: float
    bottom_m: float
    seen_m: float  # how far off a school comes into sight
    met_s: tuple[float, ...]  # with each school so far

    @property
    def meets(self) -> bool:
        """The jig is among fish now."""
        return any(s.is_over(self.time_s) and s.holds(self.jig_m) for s in self.schools)


def begin(fall_mps: float, difficulty: float, seed: int, bottom_m: float = 12.0) -> SchoolPass:
    """
    Schools of such a difficulty: harder ones are shorter, faster, and seen later.

    Parameters
    ----------
    fall_mps : float
        Of the jig on an open line.
    difficulty : float
        On the logistic scale.
    seed : int
    bottom_m : float
    """
    rng = np.random.default_rng([seed, 23])
    hard = min(max((difficulty + 2.5) / 5.0, 0.0), 1.0)
    count = 3 + round(3 * hard)
    schools, arrives = [], 7.0 - 2.0 * hard
    for _ in range(count):
        speed = float(rng.uniform(0.5, 0.8)) * (1.0 + 0.6 * hard)
        length = speed * (5.5 - 2.5 * hard) * float(rng.uniform(0.8, 1.3))
        schools.append(
            School(
                depth_m=float(rng.uniform(2.5, bottom_m - 1.2)),
                high_m=1.4 - 0.6 * hard,
                length_m=length,
                front_m=speed * arrives,
                speed_mps=speed,
            )
        )
        arrives += (LASTS_S - 12.0) / count * float(rng.uniform(0.85, 1.15))
    seen = 8.0 - 5.0 * hard
    return SchoolPass(0.0, TOP_M, tuple(schools), fall_mps, bottom_m, seen, (0.0,) * count)


def step(now: SchoolPass, hand: float, seconds: float) -> SchoolPass:
    """
    A little later.

    Parameters
    ----------
    now : SchoolPass
    hand : float
        1 reels as fast as one can, 0 holds, -1 opens the line.
    seconds : float
        At most a tenth of one.
    """
    hand = min(max(hand, -1.0), 1.0)
    speed = hand * (REEL_MPS if hand > 0 else now.fall_mps)
    jig = min(max(now.jig_m - speed * seconds, TOP_M), now.bottom_m)
    time = now.time_s + seconds
    met = tuple(
        m + (seconds if s.is_over(time) and s.holds(jig) else 0.0)
        for s, m in zip(now.schools, now.met_s, strict=True)
    )
    return replace(now, time_s=time, jig_m=jig, met_s=met)


def best_met(start: SchoolPass) -> Floats:
    """
    Seconds with each school on the best way of the jig, all of them known beforehand. Shape (schools,).

    Notes
    -----
    Backward induction over depths and quarters of a second: what a depth is worth now is whether
    a school is there, and the best that can be reached from it in the next step.
    """
    cell = start.fall_mps * _TIME_STEP_S / _CELLS
    depths: Floats = np.arange(TOP_M, start.bottom_m + cell / 2, cell)
    times: Floats = np.arange(0.0, LASTS_S, _TIME_STEP_S) + _TIME_STEP_S / 2
    down, up = _CELLS, max(round(REEL_MPS * _TIME_STEP_S / cell), 1)
    level = [np.abs(depths - s.depth_m) <= s.high_m / 2 for s in start.schools]
    among = np.array(
        [[s.is_over(t) & at for s, at in zip(start.schools, level, strict=True)] for t in times.tolist()]
    )
    gain: Floats = np.asarray(among.any(axis=1), float) * _TIME_STEP_S
    worth = np.zeros(depths.size)
    chosen = np.zeros((times.size, depths.size), np.intp)
    for k in range(times.size - 1, -1, -1):
        value = gain[k] + worth
        reach = np.full((up + down + 1, depths.size), -np.inf)
        for j, move in enumerate(range(-up, down + 1)):
            to = np.arange(depths.size) + move
            good = (to >= 0) & (to < depths.size)
            reach[j, good] = value[to[good]]
        chosen[k] = reach.argmax(axis=0) - up
        worth = reach.max(axis=0)
    at = int(np.argmin(np.abs(depths - start.jig_m)))
    met = np.zeros(len(start.schools))
    for k in range(times.size):
        at += int(chosen[k, at])
        met += among[k, :, at] * _TIME_STEP_S
    return met


def grade(end: SchoolPass, best_s: Floats) -> float:
    """The square of the share of what the best way meets: who only follows meets half, which is a quarter."""
    return min(sum(end.met_s) / max(float(best_s.sum()), 1e-6), 1.0) ** 2


def lesson_of(end: SchoolPass, best_s: Floats) -> str:
    """What it came to, and where most was lost, in a sentence."""
    met = f"{sum(end.met_s):.0f} s among fish of {float(best_s.sum()):.0f} s at best"
    lost = best_s - np.array(end.met_s)
    if float(lost.max(initial=0.0)) < 1.0:
        return met
    worst = end.schools[int(lost.argmax())]
    falls = worst.depth_m / end.fall_mps
    return (
        f"{met}; most was lost at {worst.depth_m:.1f} m: {falls:.0f} s from the surface, so down when its front is "
        f"{math.ceil(falls * worst.speed_mps)} m off, or wait at a depth between two schools"
    )


def in_sight(now: SchoolPass) -> Sequence[School]:
    """Schools whose front has come near enough and whose tail has not passed by as far."""
    return [
        s
        for s in now.schools
        if s.front_at(now.time_s) <= now.seen_m and s.front_at(now.time_s) + s.length_m >= -now.seen_m
    ]
