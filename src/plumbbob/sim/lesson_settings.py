"""The sounder's settings in a learner's hand: the same water and fish, heard with another range, pulse or speed."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np

from plumbbob.sim.lesson import Lesson
from plumbbob.sim.scene import Scene, SideSounder, Sounder

_AnySounder = TypeVar("_AnySounder", Sounder, SideSounder)
RANGES = (0.6, 0.8, 1.0, 1.3, 1.7)
PULSES = (0.5, 1.0, 2.0, 4.0)
SPEEDS = (0.5, 1.0, 2.0)


@dataclass(frozen=True, slots=True)
class HeardWith:
    """Times what an item is usually heard with."""

    range: float = 1.0
    pulse: float = 1.0
    speed: float = 1.0

    def step(self, name: str, by: int) -> HeardWith:
        """One notch of a setting up or down; at its end it stays."""
        steps: tuple[float, ...] = {"range": RANGES, "pulse": PULSES, "speed": SPEEDS}[name]
        k = min(max(steps.index(getattr(self, name)) + by, 0), len(steps) - 1)
        changes: dict[str, Any] = {name: steps[k]}
        return replace(self, **changes)


def is_driven(one: Lesson) -> bool:
    """The boat goes over the scene: only then its speed matters."""
    return one.scene is not None and one.scene.forward is None and bool(one.scene.speed_mps(np.zeros(1))[0] > 0)


def heard(one: Lesson, settings: HeardWith) -> Lesson:
    """
    An item with other settings; what is asked and what is true stay the same water's.

    Notes
    -----
    A longer pulse fills the receiver for longer: noise falls by its length, echoes grow as thick as it. A faster boat
    meets the same fish sooner and in fewer pings. A range that ends above the bottom shows none.
    """
    scene = one.scene
    if scene is None:
        return one
    pace = settings.speed if is_driven(one) else 1.0
    changes: dict[str, Any] = {"sounder": _set(scene.sounder, settings), "seconds": scene.seconds / pace}
    if scene.side is not None:
        changes["side"] = _set(scene.side, settings)
    if pace != 1.0:
        usual = scene.speed_mps
        changes["speed_mps"] = lambda t: pace * usual(t)
    made: Scene = replace(scene, **changes)
    if pace == 1.0:
        return replace(one, scene=made)
    at = None if one.at_s is None else one.at_s / pace
    truth = [one.truth[0] / pace, one.truth[1]] if one.answer_is == "time_depth" else one.truth
    ask = one.ask
    if one.at_s is not None and at is not None:
        for digits in (1, 0):
            ask = ask.replace(f"{one.at_s:.{digits}f} s", f"{at:.{digits}f} s")
    to_sides = scene.side is not None
    shows = tuple((a, b / pace) if to_sides else (a / pace, b) for a, b in one.shows)
    return replace(one, scene=made, at_s=at, truth=truth, ask=ask, shows=shows)


def _set(sounder: _AnySounder, settings: HeardWith) -> _AnySounder:
    return replace(
        sounder,
        range_m=sounder.range_m * settings.range,
        samples=round(sounder.samples * settings.range),
        pulse_length_s=sounder.pulse_length_s * settings.pulse,
        noise_db=sounder.noise_db - 10.0 * math.log10(settings.pulse),
    )
