"""
A jig kept above a rising fish, as it goes in a hole or below a still boat.

The hand reels or lets out, the jig falls by its own physics, and the fish does what the handbook says of followers:
it rises to what stays a little above it and keeps moving up, hangs when that stands still for long, and is gone
when the lure drops onto it or runs away.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

NEAR_M, FAR_M = 0.15, 0.6  # so far above it a jig holds a fish
_LOST_M = 1.6  # farther away it loses sight
_REEL_MPS = 0.9  # a full turn of the hand
_EAGER_MPS = 0.35  # a keen fish rises so fast
_TIRES_S = 7.0  # of a jig that stands still
_TOUCH_M = 0.05
_TOP_M = 0.6
_SHY_S = 1.2
_RISES_M = 2.2  # a keen fish in the time there is


@dataclass(frozen=True, slots=True)
class Chase:
    """A moment of it. Depths in metres, positive down."""

    time_s: float
    jig_m: float
    fish_m: float
    start_m: float  # depth of the fish in the beginning
    held_s: float = 0.0  # the jig was where it holds the fish
    still_s: float = 0.0  # since the jig last moved up
    gone: bool = False  # the fish has had enough
    lure_fall_mps: float = 0.5
    mood: float = 1.0  # how fast this fish rises, against a keen one
    restless: float = 0.0  # how much it surges
    phase: float = 0.0

    @property
    def gap_m(self) -> float:
        """Of the jig over the fish."""
        return self.fish_m - self.jig_m

    @property
    def holds(self) -> bool:
        """The jig is where it holds the fish."""
        return not self.gone and NEAR_M <= self.gap_m <= FAR_M


def begin(fall_mps: float, difficulty: float, seed: int, bottom_m: float = 9.0) -> Chase:
    """
    A jig a metre over a fish near the bottom.

    Parameters
    ----------
    fall_mps : float
        Of this jig on an open line.
    difficulty : float
        On the logistic scale: a harder fish is slower to rise and surges.
    seed : int
    bottom_m : float
    """
    rng = np.random.default_rng([seed, 17])
    hard = min(max((difficulty + 2.5) / 5.0, 0.0), 1.0)
    fish = bottom_m - 0.4 - float(rng.uniform(0.0, 0.8))
    return Chase(
        time_s=0.0,
        jig_m=fish - 1.0,
        fish_m=fish,
        start_m=fish,
        lure_fall_mps=fall_mps,
        mood=1.0 - 0.55 * hard,
        restless=0.05 + 0.3 * hard,
        phase=float(rng.uniform(0.0, 2 * math.pi)),
    )


def step(now: Chase, hand: float, seconds: float) -> Chase:
    """
    A little later.

    Parameters
    ----------
    now : Chase
    hand : float
        1 reels as fast as one can, 0 holds, -1 opens the line: the jig falls as it does.
    seconds : float
        At most a tenth of one.

    Notes
    -----
    A jig on a line held back falls slower, in step with the hand. The fish goes for a point two thirds up the gap, no
    faster than its mood; its surges are a slow sine.
    """
    hand = min(max(hand, -1.0), 1.0)
    speed = hand * (_REEL_MPS if hand > 0 else now.lure_fall_mps)
    jig = max(now.jig_m - speed * seconds, _TOP_M)
    still = 0.0 if hand > 0.03 else now.still_s + seconds
    if now.gone:
        return replace(now, time_s=now.time_s + seconds, jig_m=jig, fish_m=now.fish_m + 0.6 * seconds)
    gap = now.fish_m - jig
    dropped = gap < _TOUCH_M and hand < 0
    gone = dropped or gap < -_LOST_M or gap > 2 * _LOST_M
    surge = now.restless * math.sin(now.phase + now.time_s * 2 * math.pi / 5.0)
    tired = math.exp(-max(still - _SHY_S, 0.0) / _TIRES_S)
    wish = min(max((gap - (NEAR_M + FAR_M) / 2) / 0.5, -1.0), 1.0)
    sight = math.exp(-((max(gap - FAR_M, 0.0) / _LOST_M) ** 2))
    rise = _EAGER_MPS * now.mood * (wish * tired * sight + surge) if gap > 0 else -0.1
    fish = max(now.fish_m - rise * seconds, jig + _TOUCH_M / 2 if not gone else 0.0)
    after = replace(now, time_s=now.time_s + seconds, jig_m=jig, fish_m=fish, still_s=still, gone=gone)
    return replace(after, held_s=now.held_s + (seconds if after.holds else 0.0))


def grade(end: Chase, least_s: float = 1.0) -> float:
    """How much of the time the jig held the fish, times how far it came up against what a fish of its mood can."""
    held = min(end.held_s / max(end.time_s - least_s, least_s), 1.0)
    return held * min(max(end.start_m - end.fish_m, 0.0) / (_RISES_M * end.mood), 1.0)


def lesson_of(end: Chase) -> str:
    """What it came to, in a sentence."""
    if end.gone:
        return "it left: a jig that drops onto a fish, or runs away from it, ends the chase"
    if end.still_s > _TIRES_S:
        return "it hung back: a jig that stands still for long lets interest fade; keep it going up a little"
    held = f"held for {end.held_s:.0f} of {end.time_s:.0f} s, {end.start_m - end.fish_m:.1f} m up"
    return f"{held}: a little above it and always a little up"
