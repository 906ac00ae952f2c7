"""
From a mark to a cast: how far to stay away, where the lure must land, where the boat should lie and drift.

Rules of docs/handbook.md, 7.8. What a fish sees through the surface follows from refraction; hull and noise are rules
of practice, and said to be.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum

SEATED_KAYAK_M, SEATED_M, STANDING_M = 1.2, 1.7, 2.6
_LEAST_M, _CAST_SHARE = 3.0, 0.85
_WINDOW_TAN = 1.10  # of the cone in which all the sky is seen: 1.48 z across
_SEEN_SHARE = 0.8  # of the Secchi depth a dark thing is seen


class Noise(Enum):
    """What the boat does."""

    QUIET = "quiet"  # drifts, paddles, lies at anchor
    LOW = "electric low"
    HIGH = "electric high"  # also starts, thumps, chain
    PETROL = "petrol idling"
    WASH = "wash"


_NOISE_M = {Noise.QUIET: 3.0, Noise.LOW: 6.0, Noise.HIGH: 12.5, Noise.PETROL: 25.0, Noise.WASH: 40.0}


class Surface(Enum):
    """How the surface lets a person be seen: the lowest elevation that still shows."""

    CALM = "calm"
    RIPPLE = "ripple"
    CHOP = "chop"


_ELEVATION_DEG = {Surface.CALM: 10.0, Surface.RIPPLE: 20.0, Surface.CHOP: 35.0}


def seen_through_surface(
    fish_m: float, height_m: float, secchi_m: float, surface: Surface = Surface.CALM, *, sun_behind_view: bool = False
) -> float:
    """
    How far away a person over the water is seen by a fish, metres; 0 where the water hides them.

    Examples
    --------
    >>> [round(seen_through_surface(2.0, 2.6, 4.0, s), 1) for s in Surface]
    [16.9, 9.3, 5.9]
    """
    if 1.48 * fish_m >= _SEEN_SHARE * secchi_m:
        return 0.0
    low = _ELEVATION_DEG[surface] + (5.0 if sun_behind_view else 0.0)
    return height_m / math.tan(math.radians(low)) + _WINDOW_TAN * fish_m


def hull_seen(fish_m: float, secchi_m: float) -> float:
    """
    How far away a hull is seen under water, metres.

    Examples
    --------
    >>> round(hull_seen(1.0, 8.0), 1), round(hull_seen(2.0, 4.0), 1)
    (6.3, 2.5)
    """
    return math.sqrt(max((_SEEN_SHARE * secchi_m) ** 2 - fish_m**2, 0.0))


def heard_m(noise: Noise, bottom_m: float) -> float:
    """How far noise puts fish off, metres: half of it over deep water, twice over shallow."""
    factor = 0.5 if bottom_m > 6.0 else 2.0 if bottom_m < 2.0 else 1.0
    return factor * _NOISE_M[noise]


@dataclass(frozen=True, slots=True, kw_only=True)
class StandOff:
    """How far to stay from a fish, and what asks for it."""

    distance_m: float
    seen_m: float
    hull_m: float
    heard_m: float
    over_it: bool  # right above is fine
    shadow_m: float  # of a person; it must not touch


def stand_off(
    fish_m: float,
    bottom_m: float,
    secchi_m: float,
    *,
    height_m: float = SEATED_M,
    surface: Surface = Surface.RIPPLE,
    noise: Noise = Noise.QUIET,
    cast_m: float = 25.0,
    night: bool = False,
    hard_fished: bool = False,
    sun_deg: float = 40.0,
) -> StandOff:
    """
    How far to stay off a fish: the farthest of what it sees and hears, at most most of a cast.

    Parameters
    ----------
    fish_m, bottom_m : float
    secchi_m : float
    height_m : float
        Of the eyes over the water.
    surface, noise : Surface, Noise
    cast_m : float
        Longest cast with this lure.
    night, hard_fished : bool
    sun_deg : float
    """
    if not 0 < fish_m <= bottom_m:
        raise ValueError("the fish is between the surface and the bottom")
    seen = seen_through_surface(fish_m, height_m, secchi_m, surface)
    hull, heard = hull_seen(fish_m, secchi_m), heard_m(noise, bottom_m)
    far = max(seen, hull, heard, _LEAST_M)
    if night:
        far *= 0.6
    if hard_fished and surface is Surface.CALM and secchi_m >= 4.0:
        far *= 1.3
    return StandOff(
        distance_m=min(max(far, _LEAST_M), _CAST_SHARE * cast_m),
        seen_m=seen,
        hull_m=hull,
        heard_m=heard,
        over_it=fish_m > max(6.0, 1.5 * secchi_m) and noise in (Noise.QUIET, Noise.LOW),
        shadow_m=height_m / math.tan(math.radians(sun_deg)) if sun_deg > 1.0 else math.inf,
    )


def lie_at(
    wind_from_deg: float,
    wind_mps: float,
    *,
    sun_from_deg: float | None = None,
    sun_deg: float = -90.0,
    deep_to_deg: float | None = None,
    shallow: bool = True,
) -> float:
    """
    Bearing from the fish at which the boat should lie.

    Parameters
    ----------
    wind_from_deg, wind_mps : float
        One lies up the wind: it carries the cast, and no wave slaps before the boat.
    sun_from_deg, sun_deg : float
        Where the sun stands: a low one is kept in front, so that no shadow falls over the fish.
    deep_to_deg : float, optional
        Where it gets deeper: shallow fish are approached from there.
    shallow : bool

    Examples
    --------
    >>> lie_at(270.0, 5.0), round(lie_at(270.0, 0.0, sun_from_deg=90.0, sun_deg=10.0))
    (270.0, 270)
    """
    pulls = [(wind_from_deg, min(wind_mps / 4.0, 1.0))]
    if sun_from_deg is not None and 0.0 < sun_deg < 35.0:
        pulls.append((sun_from_deg + 180.0, 0.8))
    if deep_to_deg is not None and shallow:
        pulls.append((deep_to_deg, 0.8))
    east = sum(w * math.sin(math.radians(a)) for a, w in pulls)
    north = sum(w * math.cos(math.radians(a)) for a, w in pulls)
    if math.hypot(east, north) < 1e-6:
        return wind_from_deg % 360.0
    return round(math.degrees(math.atan2(east, north)) % 360.0, 6)


def land_counted(away_m: float, fish_m: float, *, lean_deg: float = 15.0, wind_in_m: float = 2.5) -> float:
    """
    Where a counted sinking lure must land, metres from the rod.

    Examples
    --------
    >>> round(land_counted(20.0, 4.0, wind_in_m=2.0), 1)
    23.1
    """
    return away_m + fish_m * math.tan(math.radians(lean_deg)) + wind_in_m


def land_dived(away_m: float, cast_m: float, line_at_deepest_m: float) -> float:
    """Where a dived plug must land to pass a fish at its deepest, metres: a whole cast from L* away."""
    return away_m + cast_m - line_at_deepest_m


def land_dragged(away_m: float, beyond_m: float = 4.0) -> float:
    """Where a dragged lure must land: three to five metres beyond."""
    return away_m + beyond_m


def blown_aside(mass_kg: float, wind_mps: float, cast_m: float) -> float:
    """
    How far a wind across moves the landing, metres.

    Examples
    --------
    >>> round(blown_aside(0.0035, 5.0, 20.0), 1), round(blown_aside(0.028, 5.0, 20.0), 1)
    (2.0, 0.8)
    """
    share = 0.02 * (mass_kg / 0.0035) ** -0.44
    return share * wind_mps * cast_m


def aim_ahead(swims_mps: float, fish_m: float, fall_mps: float, flight_s: float = 1.5) -> float:
    """
    How far ahead of a moving fish to aim, metres.

    Examples
    --------
    >>> round(aim_ahead(0.3, 3.0, 0.6), 2)
    1.95
    """
    return swims_mps * (flight_s + fish_m / fall_mps)


_CASTS_M = ((0.001, 8.0, 12.0), (0.0035, 15.0, 22.0), (0.007, 20.0, 30.0), (0.014, 28.0, 42.0), (0.028, 35.0, 55.0))


def cast_reach(mass_kg: float, *, held_back: bool = False) -> tuple[float, float]:
    """
    How far a lure of a mass is cast, metres; with a tail that brakes, sitting low or into the wind less.

    Examples
    --------
    >>> cast_reach(0.007), cast_reach(0.1)
    ((20.0, 30.0), (35.0, 55.0))
    """
    rows = _CASTS_M
    if mass_kg <= rows[0][0]:
        low, high = rows[0][1:]
    elif mass_kg >= rows[-1][0]:
        low, high = rows[-1][1:]
    else:
        i = next(k for k in range(1, len(rows)) if mass_kg <= rows[k][0])
        share = math.log(mass_kg / rows[i - 1][0]) / math.log(rows[i][0] / rows[i - 1][0])
        low, high = (rows[i - 1][k] + share * (rows[i][k] - rows[i - 1][k]) for k in (1, 2))
    return (0.6 * low, 0.8 * high) if held_back else (low, high)


# -- boat -------------------------------------------------------------------------------------------------------

_HULLS = {"kayak": (0.6, 0.9), "boat bow on": (2.0, 0.9), "boat beam on": (5.0, 1.1)}


def wind_force(hull: str, wind_mps: float) -> float:
    """
    Push of a wind on a boat, N.

    Examples
    --------
    >>> [round(wind_force(h, 8.0)) for h in ("kayak", "boat bow on", "boat beam on")]
    [21, 69, 211]
    """
    if hull not in _HULLS:
        raise ValueError(f"hull {hull!r}: {', '.join(_HULLS)} are known")
    area, cd = _HULLS[hull]
    return 0.6 * cd * area * wind_mps**2


def lane_spacing(spread_m: float, seen_from_m: float, coverage: float = 0.8) -> float:
    """
    Distance between lanes, metres: what the lures cover over the coverage wanted.

    Examples
    --------
    >>> round(lane_spacing(5.2, 1.4), 1)
    10.0
    """
    if not 0 < coverage <= 1:
        raise ValueError("coverage is over 0, at most 1")
    return (spread_m + 2.0 * seen_from_m) / coverage


def turn_radius(layback_m: float) -> float:
    """
    Least radius of a turn in which lures keep two thirds of their speed, metres.

    Examples
    --------
    >>> turn_radius(30.0)
    39.0
    """
    return 1.3 * layback_m


def turn_length(radius_m: float, lane_m: float) -> float:
    """
    Way of a turn from one lane into the next, metres: a bulb where the lanes lie closer than two radii.

    Examples
    --------
    >>> [round(turn_length(20.0, s), 1) for s in (10.0, 20.0, 40.0)]
    [134.5, 120.7, 62.8]
    """
    if lane_m >= 2 * radius_m:
        return math.pi * radius_m + (lane_m - 2 * radius_m)
    a = math.acos((radius_m + lane_m / 2) / (2 * radius_m))
    return radius_m * (math.pi + 4 * a)


def deepest_on(path: Callable[[float], list[tuple[float, float]]], cast_m: float) -> tuple[float, float]:
    """Of a dived plug: its greatest depth on a cast, and the line left there."""
    left, depth = max(path(cast_m), key=lambda point: point[1])
    return depth, left
