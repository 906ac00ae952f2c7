"""First bites: how soon they come where fish are active, and what silence says."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum


class Fishing(Enum):
    """How one fishes, as far as the time to a bite goes."""

    CAST = "cast"
    VERTICAL = "vertical"
    TROLL = "troll"
    BAIT = "bait"


# minutes to a first bite where fish are active, and where they are not (docs/handbook.md 7.9)
_TIMES = {
    Fishing.CAST: (6.0, 45.0),
    Fishing.VERTICAL: (4.0, 45.0),
    Fishing.TROLL: (15.0, 90.0),
    Fishing.BAIT: (20.0, 120.0),
}
ACTIVE_MARKS, ACTIVE_STRUCTURE = 0.5, 0.2


def first_bite(minutes: float, active: float, fishing: Fishing = Fishing.CAST) -> float:
    """
    Chance of a bite within so many minutes.

    Notes
    -----
    P(t) = p (1 - exp(-t/t1)) + (1 - p) (1 - exp(-t/t2)): active here, or not now.

    Examples
    --------
    >>> [round(first_bite(t, 0.5), 3) for t in (2, 5, 10, 20, 30, 60)]
    [0.163, 0.335, 0.505, 0.662, 0.74, 0.868]
    """
    soon, late = _TIMES[fishing]
    return active * -math.expm1(-minutes / soon) + (1.0 - active) * -math.expm1(-minutes / late)


def still_active(minutes: float, active: float, fishing: Fishing = Fishing.CAST) -> float:
    """
    Chance that fish here are active, when none has bitten for so long.

    Examples
    --------
    >>> round(still_active(20.0, 0.5), 3)
    0.053
    """
    soon, late = _TIMES[fishing]
    a, b = active * math.exp(-minutes / soon), (1.0 - active) * math.exp(-minutes / late)
    return a / (a + b) if a + b > 0 else 0.0


class Lever(Enum):
    """What can be changed at a place."""

    DEPTH = "depth"
    PACE = "pace"
    LURE = "lure"
    SIZE = "size"
    COLOUR = "colour"
    PLACE = "place"


class Ladder(Enum):
    """Which lever first, where practitioners differ."""

    DEPTH_FIRST = "depth first"
    LURE_FIRST = "lure first"


_ORDER = {
    Ladder.DEPTH_FIRST: (Lever.DEPTH, Lever.PACE, Lever.SIZE, Lever.COLOUR, Lever.LURE, Lever.PLACE),
    Ladder.LURE_FIRST: (Lever.LURE, Lever.SIZE, Lever.DEPTH, Lever.PACE, Lever.COLOUR, Lever.PLACE),
}
_GIVE_MIN = {Fishing.CAST: 8.0, Fishing.VERTICAL: 6.0, Fishing.TROLL: 22.0, Fishing.BAIT: 20.0}
_FOLLOWED_MIN = 2.0  # after two followers: one more cast


@dataclass(frozen=True, slots=True)
class Rung:
    """One change, and how long to give it."""

    lever: Lever
    minutes: float
    own: int  # times that own notes say it helped


def ladder(
    tried: Sequence[Lever] = (),
    *,
    school: Ladder = Ladder.DEPTH_FIRST,
    fishing: Fishing = Fishing.CAST,
    followers: int = 0,
    own: Sequence[Lever] = (),
) -> tuple[Rung, ...]:
    """
    What to change while fish are seen and do not take, in order.

    Parameters
    ----------
    tried : sequence of Lever
        Already changed here: left out.
    own : sequence of Lever
        What helped before, from own notes: twice and more goes before the school's order.

    Examples
    --------
    >>> [r.lever.value for r in ladder((Lever.DEPTH,), own=(Lever.SIZE, Lever.SIZE))][:2]
    ['size', 'pace']
    """
    order = [lever for lever in _ORDER[school] if lever not in tried]
    order.sort(key=lambda lever: -min(own.count(lever), 9) if own.count(lever) >= 2 else 0)
    minutes = _FOLLOWED_MIN if followers >= 2 else _GIVE_MIN[fishing]
    return tuple(Rung(lever, minutes, own.count(lever)) for lever in order)
