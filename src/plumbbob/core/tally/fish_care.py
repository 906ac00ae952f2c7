"""Deep and tired fish: what to mind before fishing on at a depth, and at a catch (docs/handbook.md, section 8)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from enum import Enum

from plumbbob.core.reason import Measure, Reason, because
from plumbbob.core.units import Kind
from plumbbob.core.water.species import Species

_WARM_FLOOR_C, _MIND_C = 20.0, 2.0
_OXYGEN_MGL = 3.0
_LONG_FIGHT_S = 300.0
_COLD_C = 12.0  # below it a long fight tires a fish less


class FishCare(Enum):
    """What to mind, the most pressing first."""

    DEEP_AHEAD = "deep ahead"
    DEEP_CLOSED = "deep closed"
    DEEP_VENTS = "deep vents"
    WARM_STOP = "warm stop"
    WARM_MIND = "warm mind"
    LOW_OXYGEN = "low oxygen"
    LONG_FIGHT = "long fight"


def expansion(depth_m: float, *, salt: bool = False) -> float:
    """
    How many times the gas in a fish grows when it is brought up from a depth.

    Notes
    -----
    Boyle: 1 + z / 10.33 in fresh water, z / 10.06 in the sea.

    Examples
    --------
    >>> round(expansion(10.0), 3), round(expansion(10.0, salt=True), 3)
    (1.968, 1.994)
    """
    return 1.0 + depth_m / (10.06 if salt else 10.33)


def warm_stop_c(species: Species) -> float:
    """Water from which a species should not be fished for release: what it avoids, for cold-water fish 20 degC."""
    return max(species.avoid_c, _WARM_FLOOR_C)


def before_fishing_on(species: Sequence[Species], depth_m: float) -> tuple[Reason, ...]:
    """
    Before a lure goes to a depth from which released fish die: each species that may be there and is caught too deep.

    Examples
    --------
    >>> sauger = Species(key="sau", name="sauger", warm_low_c=18, warm_high_c=24, avoid_c=27, oxygen_mgl=3.5,
    ...                  bladder="PC", care_m=9.0)
    >>> len(before_fishing_on([sauger], 12.0)), len(before_fishing_on([sauger], 8.0))
    (1, 0)
    """
    if not math.isfinite(depth_m):
        return ()
    deep = [s for s in species if s.bladder == "PC" and s.care_m is not None and depth_m > s.care_m]
    return tuple(
        because(FishCare.DEEP_AHEAD, species=s.name, care=Measure(s.care_m or 0.0, Kind.DEPTH))
        for s in sorted(deep, key=lambda s: s.care_m or 0.0)
    )


def at_catch(
    species: Species | None,
    *,
    depth_m: float = math.nan,
    water_c: float = math.nan,
    oxygen_mgl: float = math.nan,
    fight_s: float = math.nan,
) -> tuple[Reason, ...]:
    """
    What helps a fish that is to be released; NaN for what is not known.

    Parameters
    ----------
    species : Species or None
    depth_m : float
        Where it took the lure.
    water_c, oxygen_mgl : float
        Of the water it is released into.
    fight_s : float
    """
    found: list[Reason] = []
    if species is not None and species.care_m is not None and depth_m > species.care_m and species.bladder:
        code = FishCare.DEEP_CLOSED if species.bladder == "PC" else FishCare.DEEP_VENTS
        found.append(because(code, depth=Measure(depth_m, Kind.DEPTH), times=round(expansion(depth_m), 1)))
    stop = warm_stop_c(species) if species is not None else math.inf
    if water_c >= stop:
        found.append(because(FishCare.WARM_STOP, water=Measure(water_c, Kind.TEMPERATURE)))
    elif water_c >= stop - _MIND_C:
        found.append(because(FishCare.WARM_MIND, water=Measure(water_c, Kind.TEMPERATURE)))
    if oxygen_mgl < _OXYGEN_MGL:
        found.append(because(FishCare.LOW_OXYGEN))
    if fight_s > _LONG_FIGHT_S and not water_c < _COLD_C:
        found.append(because(FishCare.LONG_FIGHT, minutes=round(fight_s / 60.0)))
    return tuple(found)
