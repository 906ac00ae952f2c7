"""
What runs by the clock on the water: bait that loses its scent, a lure that falls, lifts and rests, the way home.

Pure: the caller says what time it is.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

from plumbbob.core.geodesy import Position, bearing_deg, distance_m
from plumbbob.core.plan.clock import Craft
from plumbbob.core.rig.pace import cadence


class BaitKind(Enum):
    """What is on the hook, as far as it matters how long it lasts."""

    WORM = "worm"
    CUT = "cut bait"
    LIVE = "live bait"
    DEAD = "whole dead bait"
    PASTE = "paste"


# minutes after which it is changed, over 20, 10 to 20 and under 10 degC (docs/handbook.md 7.9)
_FRESH_MIN = {
    BaitKind.WORM: ((10, 15), (15, 25), (20, 40)),
    BaitKind.CUT: ((15, 20), (20, 35), (30, 60)),
    BaitKind.LIVE: ((10, 20), (20, 40), (30, 90)),
    BaitKind.DEAD: ((30, 30), (45, 45), (60, 90)),
    BaitKind.PASTE: ((10, 10), (20, 20), (30, 30)),
}
_CURRENT_MPS, _CURRENT = 0.3, 0.6
_DAMAGED = 0.5  # torn or chewed bait: its juice is out, and it is looked at first [C]


def bait_lasts_s(
    kind: BaitKind, temperature_c: float, *, damaged: bool = False, current_mps: float = 0.0
) -> tuple[float, float]:
    """
    When to change bait, seconds since it was put on: from and to.

    Examples
    --------
    >>> bait_lasts_s(BaitKind.WORM, 22.0), bait_lasts_s(BaitKind.CUT, 15.0, current_mps=0.5)
    ((600.0, 900.0), (720.0, 1260.0))
    """
    row = _FRESH_MIN[kind][0 if temperature_c > 20.0 else 1 if temperature_c >= 10.0 else 2]
    factor = (_CURRENT if current_mps > _CURRENT_MPS and kind is BaitKind.CUT else 1.0) * (
        _DAMAGED if damaged else 1.0
    )
    return 60.0 * row[0] * factor, 60.0 * row[1] * factor


@dataclass(frozen=True, slots=True)
class Pump:
    """Lift, fall and rest of one move."""

    lift_s: float
    fall_s: float
    rest_s: float

    def at(self, seconds: float) -> tuple[str, float]:
        """
        Which part of it, and how long that still lasts, so long after it began.

        Examples
        --------
        >>> Pump(0.5, 1.0, 2.0).at(4.2), Pump(0.5, 1.0, 2.0).at(0.1)
        (('fall', 0.8), ('lift', 0.4))
        """
        into = seconds % (self.lift_s + self.fall_s + self.rest_s)
        for name, lasts in (("lift", self.lift_s), ("fall", self.fall_s), ("rest", self.rest_s)):
            if into < lasts:
                return name, round(lasts - into, 3)
            into -= lasts
        return "rest", 0.0


_LIFT_S, _MIDDLING_C = 0.45, 12.0


def pump_for(temperature_c: float, fall_mps: float) -> Pump:
    """
    How to lift a lure below the boat: by the water's temperature at the fish and the lure's speed of fall.

    Examples
    --------
    >>> pump_for(6.0, 0.5)
    Pump(lift_s=0.45, fall_s=0.4, rest_s=8.0)
    """
    found = cadence(temperature_c if math.isfinite(temperature_c) else _MIDDLING_C)
    lift, rest = (sum(band) / 2 for band in (found.lift_m, found.rest_s))
    return Pump(_LIFT_S, round(lift / max(fall_mps, 0.05), 2), rest)


def way_home_s(craft: Craft, boat: Position, home: Position, wind_mps: float, wind_from_deg: float) -> float:
    """
    How long the straight way home takes, seconds; longer against the wind.

    Examples
    --------
    >>> from plumbbob.core.plan.clock import KAYAK
    >>> there, here = Position(44.21, -40.05), Position(44.20, -40.05)
    >>> calm, hard = way_home_s(KAYAK, here, there, 0.0, 0.0), way_home_s(KAYAK, here, there, 6.0, 0.0)
    >>> round(calm), round(hard / calm, 2)
    (855, 1.72)
    """
    way = distance_m(boat, home)
    into = wind_mps * math.cos(math.radians(wind_from_deg - bearing_deg(boat, home)))
    speed = craft.upwind_mps(into) if into > 0 else craft.downwind_mps(-into)
    return way / speed


def next_change(stretches: Sequence[tuple[float, float, Enum]], now: float) -> tuple[float, Enum] | None:
    """When the light is next another, and which; None where it stays to the end of what is known."""
    for before, after in itertools.pairwise(stretches):
        if before[1] > now:
            return before[1], after[2]
    return None
