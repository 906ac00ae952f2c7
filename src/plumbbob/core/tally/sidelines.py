"""What else a log says beside how often: size by depth, what was lost, what followed, what went back."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import Enum

import numpy as np

from plumbbob.core.reason import Measure, Reason, because
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind

_LEAST_SIZES, _SURE = 12, 2.8  # fish of a kind with length and depth, and standard deviations
_LEAST_LOST, _LEAST_SHOWN = 8, 5


class Sideline(Enum):
    """One of these facts."""

    LARGER_DEEPER = "larger deeper"
    LARGER_SHALLOWER = "larger shallower"
    LOST = "lost"
    FOLLOWED = "followed"
    RELEASED = "released"
    DEEP_HOOKED = "deep hooked"
    SEEN = "seen"


def rank_strength(above: Floats, below: Floats) -> float:
    """
    By how many standard deviations values above rank over those below: the sum of ranks of Mann and Whitney (1947).

    Examples
    --------
    >>> round(rank_strength(np.array([3.0, 4.0, 5.0]), np.array([1.0, 2.0, 2.5])), 2)
    1.96
    """
    n, m = above.size, below.size
    if not n or not m:
        return 0.0
    values = np.concatenate([above, below])
    _, place, count = np.unique(values, return_inverse=True, return_counts=True)
    rank = (np.cumsum(count) - (count - 1) / 2)[place]
    over = float(rank[:n].sum()) - n * (n + 1) / 2
    ties = float((count**3 - count).sum()) / ((n + m) * (n + m - 1))
    variance = n * m / 12 * (n + m + 1 - ties)
    return (over - n * m / 2) / math.sqrt(variance) if variance > 0.0 else 0.0


def size_by_depth(species: str, length_m: Floats, depth_m: Floats) -> Reason | None:
    """Whether a kind is larger below or above the middle of its depths; None where it can't be told."""
    known = np.isfinite(length_m) & np.isfinite(depth_m)
    length, depth = length_m[known], depth_m[known]
    if length.size < _LEAST_SIZES:
        return None
    middle = float(np.median(depth))
    deep, shallow = length[depth > middle], length[depth <= middle]
    strength = rank_strength(deep, shallow)
    if abs(strength) < _SURE:
        return None
    code = Sideline.LARGER_DEEPER if strength > 0 else Sideline.LARGER_SHALLOWER
    apart = abs(float(np.median(deep) - np.median(shallow)))
    return because(code, species=species, depth=Measure(middle, Kind.DEPTH), by=Measure(apart, Kind.FISH))


def of_contacts(kinds: Mapping[str, float], landed: int) -> list[Reason]:
    """What came of fish that were seen, followed, struck: `kinds` counts them by their word."""
    made = []
    lost = kinds.get("lost", 0.0) + kinds.get("bitten off", 0.0)
    hooked = lost + landed
    if lost and hooked >= _LEAST_LOST:
        made.append(because(Sideline.LOST, lost=lost, hooked=float(hooked)))
    followed = kinds.get("followed", 0.0) + kinds.get("turned", 0.0)
    if followed >= _LEAST_SHOWN:
        made.append(because(Sideline.FOLLOWED, followed=followed, landed=float(landed)))
    seen = kinds.get("seen", 0.0)
    if seen >= _LEAST_SHOWN:
        made.append(because(Sideline.SEEN, seen=seen, landed=float(landed)))
    return made


def of_care(kept: Floats, deep_hooked: int) -> list[Reason]:
    """How many went back, and how many were hooked deep; `kept` 1, 0 or NaN a fish."""
    known = kept[np.isfinite(kept)]
    made = []
    back = float((known == 0).sum())
    if back >= _LEAST_SHOWN:
        made.append(because(Sideline.RELEASED, back=back, fish=float(known.size)))
        if deep_hooked:
            made.append(because(Sideline.DEEP_HOOKED, deep=float(deep_hooked), fish=float(known.size)))
    return made
