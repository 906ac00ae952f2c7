"""How fish hold together: strung, stacked, scattered or hung over something, and who holds like that."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.sonar.reading import Bait, Fish, Reading, StandingObject
from plumbbob.core.stats import near_groups
from plumbbob.core.types import Floats
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Species, relative_suitability

LEAST_FISH = 5
_NEAR_M, _NEAR_DEPTH_M = 15.0, 2.5
_STACKED, _STRUNG = 1.0, 0.3  # depth spread over spread along the pass
_LOW_M = 2.0
_NEAR_STANDING_M = 15.0
_HUMP_M, _HUMP_ASIDE_M = 1.5, (20.0, 60.0)
_LIP_RISE_M = 2.0
_EDGE_M = 10.0
_NOMINAL_MPS = 1.2
_PLACE_CHANCE = (0.5, 0.25, 0.15)  # by the order of a species' habits; anything else:
_ELSE_CHANCE = 0.07
MUCH_BAIT = 0.10  # of the water looked at


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Fish close together, and how they hold."""

    fish: tuple[int, ...]  # indices into the reading's fish
    how: str  # "strung", "edge", "stacked", "scattered", "hung"
    time_start: float
    time_end: float
    depth_top_m: float
    depth_bottom_m: float
    height_m: float  # median over the bottom; NaN where it is lost
    along_m: float  # from first to last
    ratio: float  # spread in depth over spread along the pass
    over: str = ""  # what they hang over


def find_groups(reading: Reading, metres_per_second: float = _NOMINAL_MPS) -> tuple[Group, ...]:
    """
    Groups of at least five fish, in order of time.

    Parameters
    ----------
    reading : Reading
    metres_per_second : float
        The pass's usual speed, to put times and depths on one scale.

    Notes
    -----
    Fish within 15 m along the pass and 2.5 m of depth of each other are one group. Depth spread over spread along the
    pass: above 1 stacked, under 0.3 strung, else scattered (docs/handbook.md 2.3); strung within two metres of the
    bottom counts as along it, and within ten metres of a lip as along an edge. Groups over standing structure or over
    a hump are hung over that. A boat at rest makes everything look stacked: then nothing is said.
    """
    fish = reading.fish
    if len(fish) < LEAST_FISH:
        return ()
    speed = max(metres_per_second, 0.05)
    x = np.array([f.time for f in fish]) * speed
    z = np.array([f.depth_m for f in fish])
    which = near_groups(np.column_stack([x / _NEAR_M, z / _NEAR_DEPTH_M]), 1.0)
    out = []
    for k in range(which.max() + 1):
        index = np.flatnonzero(which == k)
        if index.size < LEAST_FISH:
            continue
        group = _group(reading, index, x, z, speed)
        if group is not None:
            out.append(group)
    return tuple(sorted(out, key=lambda g: g.time_start))


def _group(reading: Reading, index: NDArray[np.intp], x: Floats, z: Floats, speed: float) -> Group | None:
    fish = [reading.fish[i] for i in index]
    along = float(np.ptp(x[index]))
    if along < 1.0:
        return None
    ratio = float(np.std(z[index]) / max(float(np.std(x[index])), 0.1))
    up = np.array([f.height_above_bottom_m for f in fish])
    height = float(np.median(up[np.isfinite(up)])) if np.isfinite(up).any() else math.nan
    start, end = fish[0].time, fish[-1].time
    over = _under_them(reading, start, end, speed) if not height < 0.5 else ""
    if ratio < _STRUNG:
        how = "strung" if height <= _LOW_M else "scattered"
        if height <= _LOW_M and _at_a_lip(reading, start, end, speed):
            how = "edge"
    else:
        how = "stacked" if ratio > _STACKED else "scattered"
    if over and how != "strung" and how != "edge":
        how = "hung"
    return Group(
        fish=tuple(index.tolist()),
        how=how,
        time_start=start,
        time_end=end,
        depth_top_m=float(z[index].min()),
        depth_bottom_m=float(z[index].max()),
        height_m=height,
        along_m=along,
        ratio=ratio,
        over=over if how == "hung" else "",
    )


def _under_them(reading: Reading, start: float, end: float, speed: float) -> str:
    """A standing thing, or a hump, under a stretch of the pass."""
    reach = _NEAR_STANDING_M / speed

    def word(thing: StandingObject) -> str:
        return thing.detail or (thing.kind if thing.kind != "unknown" else "something that stands")

    for thing in reading.standing:
        if thing.time_start - reach <= end and start <= thing.time_end + reach:
            return word(thing)
    here = _bed(reading, start, end)
    low, high = (a / speed for a in _HUMP_ASIDE_M)
    before, after = _bed(reading, start - high, start - low), _bed(reading, end + low, end + high)
    if here.size and before.size and after.size:
        rise = min(float(np.median(before)), float(np.median(after))) - float(np.median(here))
        if rise > _HUMP_M:
            return "a hump"
    return ""


def _at_a_lip(reading: Reading, start: float, end: float, speed: float) -> bool:
    """The bottom falls or climbs by some metres close by."""
    reach = _EDGE_M / speed
    bed = _bed(reading, start - reach, end + reach)
    return bool(bed.size and np.ptp(bed) > _LIP_RISE_M)


def _bed(reading: Reading, start: float, end: float) -> Floats:
    low, high = np.searchsorted(reading.bottom.time, (start, end))
    bed = reading.bottom.depth_m[low:high]
    return bed[np.isfinite(bed)]


@dataclass(frozen=True, slots=True)
class Likely:
    """How likely a group is of one species, and what speaks for and against."""

    species: Species
    chance: float
    habit: bool  # it often holds like that
    temperature_c: float  # at their depth; NaN where unknown
    warm: float  # how well the depth suits it, of the best of this column; NaN where unknown


_HABIT = {"strung": "B", "edge": "E", "stacked": "S", "scattered": "O", "hung": "H"}


def likely_species(
    how: str, depth_m: float, species: Sequence[Species], profile: Profile | None
) -> tuple[Likely, ...]:
    """
    Likelihoods over the species of a water, likeliest first; they add up to 1. A hint with reasons, no verdict.

    Notes
    -----
    How often a species holds so (its listed habits, in order), times how well that depth suits it relative to the
    best that this column offers it: no species is likelier for the column being cold or warm. Echoes do not tell
    species.
    """
    warm = math.nan
    levels = np.array([depth_m])
    if profile is not None:
        levels = np.append(levels, profile.depth_m)
        warm = float(np.interp(depth_m, profile.depth_m, profile.temperature_c))
    found = []
    for kind in species:
        place = kind.holds.find(_HABIT[how])
        chance = _PLACE_CHANCE[min(place, len(_PLACE_CHANCE) - 1)] if place >= 0 else _ELSE_CHANCE
        suits = math.nan
        if profile is not None:
            column = np.interp(levels, profile.depth_m, profile.temperature_c)
            suits = float(relative_suitability(kind, column, profile.oxygen_at(levels))[0])
            chance *= max(suits, 0.05)
        found.append((kind, chance, place in (0, 1), suits))
    total = sum(c for _, c, _, _ in found) or 1.0
    ranked = [Likely(k, c / total, habit, warm, suits) for k, c, habit, suits in found]
    return tuple(sorted(ranked, key=lambda r: -r.chance))


def bait_distance(fish: Fish, bait: Bait, metres_per_second: float) -> tuple[float, str]:
    """
    Distance from a fish to the nearest edge of a bait, and the side: "above", "under", "in", "before", "after".

    Along the pass and in depth; how far to the side either is can't be known from one beam.
    """
    along = max(bait.time_start - fish.time, fish.time - bait.time_end, 0.0) * metres_per_second
    up = max(bait.depth_top_m - fish.depth_m, fish.depth_m - bait.depth_bottom_m, 0.0)
    if along == 0.0 and up == 0.0:
        return 0.0, "in"
    if up >= along:
        return math.hypot(along, up), "above" if fish.depth_m < bait.depth_top_m else "under"
    return math.hypot(along, up), "before" if fish.time < bait.time_start else "after"


def nearest_bait(fish: Fish, baits: Sequence[Bait], metres_per_second: float) -> tuple[float, str] | None:
    """Distance and side of the nearest bait; None without bait."""
    return min((bait_distance(fish, b, metres_per_second) for b in baits), default=None, key=lambda d: d[0])
