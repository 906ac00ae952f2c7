"""
A guessed temperature column, where nobody has lowered a thermometer: from place, season, size and clarity.

The rules are those of docs/handbook.md, 3.6 (after Straskraba 1980, Lewis 1996, Patalas 1984, Gorham & Boyce 1989
and the heat budget); their constants are chosen so that well studied waters come out within the spread. A guess
carries its spread, and the one question that would shrink it most. Where nothing can be guessed, it says why.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import Enum
from typing import Any

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.core.water.profile import Profile, fresh_density

SURFACE_SD_C = 2.5
LAYER_FACTOR = 1.35  # one standard deviation of the layer's depth, as a factor
_YEAR = 365.25
_LATITUDES = (0.0, 10.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 55.0, 60.0, 65.0, 70.0)
_SUMMER_C = (29.0, 29.5, 30.0, 30.0, 29.5, 28.0, 26.0, 24.0, 21.5, 19.5, 18.0, 15.5, 11.5)
_WINTER_C = (27.0, 25.5, 21.0, 17.0, 12.0, 7.5, 3.0, -3.0, -6.0, -7.0, -8.0, -10.0, -14.0)
_KEPT_DAYS = 20.0  # after the warmest day the column only cools
_ICE_OUT_DAYS = 30.0
_WARMS_DAYS = 15.0
_LAYERED_KGPM3 = 0.15
_TURNING_DAYS = 14.0
_STEP_M = 0.25
_MOST_LEVELS = 1000
_UNDER_ICE_M, _DEEP_C = 1.5, 4.0
_SHALLOW_M = 3.0
_EVEN_FALL_CPM, _MOST_FALL_C = 0.14, 1.0


class Freezes(Enum):
    """Whether a water freezes over: the question worth most north of 38 degrees."""

    MOST = "most winters"
    SOME = "some winters"
    NEVER = "never"


class Climate(Enum):
    """What shifts summers."""

    USUAL = "usual"
    PLATEAU = "dry, sunny plateau"
    COAST = "cloudy coast"
    DESERT = "desert"


_SUMMER_SHIFT_C = {Climate.USUAL: 0.0, Climate.PLATEAU: 1.5, Climate.COAST: -2.0, Climate.DESERT: 1.0}


class NoGuess(Enum):
    """Why a column cannot be guessed."""

    SALT = "salt"
    FLOW = "flow"
    SPRING = "spring"
    NEVER_MIXES = "never_mixes"
    UNKNOWN_DEPTH = "unknown_depth"
    UNKNOWN_FREEZE = "unknown_freeze"
    TURNING = "turning"
    LEVEL_CHANGE = "level_change"
    HIGH = "high"
    HEATED = "heated"


class State(Enum):
    """What the column does on the day."""

    ICE = "under ice"
    MIXED = "mixed"
    LAYERED = "layered"
    OFTEN = "mixes often"


@dataclass(frozen=True, slots=True, kw_only=True)
class Lake:
    """A water as far as a guess needs it."""

    latitude: float  # degrees, negative in the south
    altitude_m: float = 0.0
    area_m2: float
    deepest_m: float  # NaN where not known
    secchi_m: float = 3.5
    freezes: Freezes | None = None  # None: nobody has said
    climate: Climate = Climate.USUAL
    hindrances: frozenset[NoGuess] = frozenset()  # what a person knows to make a guess void


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Guess:
    """A guessed column; `profile` is None where it can't be guessed, and `code` says why."""

    state: State
    profile: Profile | None
    surface_c: float  # today
    surface_sd_c: float = SURFACE_SD_C
    bottom_sd_c: float
    layer_m: float = math.nan  # centre of the cold layer; NaN without one
    code: NoGuess | None = None
    other: Profile | None = None  # near a turnover, what it may be as well


@dataclass(frozen=True, slots=True)
class _Year:
    """The year of a water: its extremes, its ice, and what its column does in summer."""

    summer_c: float
    winter_c: float
    warmest_day: float
    coldest_bottom_c: float
    bottom_c: float
    mixed_m: float
    never: bool

    def surface(self, x: Floats | float) -> Floats:
        """Surface temperature so many days after the warmest, -182 to 182; below zero it makes ice."""
        x = np.asarray(x, np.float64)
        mean, swing = (self.summer_c + self.winter_c) / 2, (self.summer_c - self.winter_c) / 2
        warm = mean + swing * np.cos(2 * math.pi * x / _YEAR)
        out = self.ice_out
        if math.isfinite(out):
            warm = np.where((x > out) & (warm > 0), warm * (1 - np.exp(-(x - out) / _WARMS_DAYS)), warm)
        return np.asarray(warm)

    @property
    def ice_in(self) -> float:
        """Days after the warmest on which ice begins; NaN for a water without."""
        mean, swing = (self.summer_c + self.winter_c) / 2, (self.summer_c - self.winter_c) / 2
        return math.acos(-mean / swing) * _YEAR / (2 * math.pi) if mean < swing else math.nan

    @property
    def ice_out(self) -> float:
        """Days after the warmest (before it: negative) on which the ice goes."""
        return -self.ice_in + _ICE_OUT_DAYS

    @property
    def layers_on(self) -> float:
        """First day on which layers hold."""
        start = self.ice_out if math.isfinite(self.ice_in) else -_YEAR / 2
        x = np.arange(start, _KEPT_DAYS, 0.5)
        heavy = float(fresh_density(self.bottom_c)) - fresh_density(self.surface(x)) >= _LAYERED_KGPM3
        heavy &= self.surface(x) > self.bottom_c
        return float(x[int(np.argmax(heavy))]) if heavy.any() else math.nan


def _year_of(lake: Lake) -> _Year:
    high = abs(lake.latitude)
    lapse = float(np.interp(high, (25.0, 35.0), (3.5, 4.5))) * lake.altitude_m / 1000.0
    summer = float(np.interp(high, _LATITUDES, _SUMMER_C)) - lapse + _SUMMER_SHIFT_C[lake.climate]
    winter = float(np.interp(high, _LATITUDES, _WINTER_C)) - lapse
    if lake.freezes is Freezes.MOST:
        winter = min(winter, -1.0)
    elif lake.freezes is Freezes.SOME:
        winter = 1.0
    elif lake.freezes is Freezes.NEVER:
        winter = max(winter, 5.0)
    never = winter > 2.0
    size = math.log10(max(lake.area_m2, 100.0) / 1e6)
    warmest = 200.0 + 8.0 * min(max(size + 1.0, 0.0), 3.5) + (182.6 if lake.latitude < 0 else 0.0)
    coldest = max(4.5, winter + 0.5) if never else _DEEP_C
    span = max(summer - coldest, 0.0)
    area_km2 = max(lake.area_m2 / 1e6, 1e-4)
    base = 4.0 * area_km2**0.205 * (max(lake.secchi_m, 0.1) / 4.0) ** (0.25 if area_km2 < 5.0 else 0.1)
    mixed, bottom = base, coldest
    for _ in range(8):  # the mixed depth and the bottom's warmth follow from each other
        bottom = coldest + span * min(max(0.06 + 0.045 * size, 0.02), 0.25)
        bottom += 0.35 * span * math.exp(-max(lake.deepest_m - mixed, 0.0) / 4.0)
        drop = max(float(fresh_density(bottom) - fresh_density(summer)), 0.3)
        mixed = base * min(max(math.sqrt(1.8 / drop), 0.8), 1.8)
    return _Year(summer, winter, warmest, coldest, bottom, mixed, never)


def guess_column(lake: Lake, day_of_year: float, surface_c: float | None = None) -> Guess:
    """
    The column on a day of the year, 1 to 366.

    Parameters
    ----------
    lake : Lake
    day_of_year : float
    surface_c : float, optional
        Today's surface as read; it takes the place of the guessed one.

    Notes
    -----
    docs/handbook.md 3.6, steps 1 to 16. Shapes are good to 2.5 degC at the surface, a factor of 1.35 in the layer's
    depth and 2 degC at the bottom (3 in a water that never freezes).

    Examples
    --------
    >>> guess = guess_column(Lake(latitude=45.0, altitude_m=250.0, area_m2=4e6, deepest_m=18.0, secchi_m=4.0), 205)
    >>> round(guess.surface_c, 1), round(guess.layer_m, 1), round(float(guess.profile.temperature_c[-1]), 1)
    (22.7, 5.7, 6.1)
    """
    hindrance = _hindrance(lake)
    year = _year_of(lake if math.isfinite(lake.deepest_m) else _with_depth(lake))
    x = (day_of_year - year.warmest_day + _YEAR / 2) % _YEAR - _YEAR / 2
    usual = float(year.surface(x))
    iced = math.isfinite(year.ice_in) and (x >= year.ice_in or x < year.ice_out)
    if surface_c is not None:
        iced = surface_c < 1.0 and lake.freezes is not Freezes.NEVER and (iced or usual < 6.0)
    today = 0.0 if iced else usual if surface_c is None else surface_c
    doubt = 3.0 if year.never else 2.0

    def made(state: State, profile: Profile | None, **more: Any) -> Guess:
        return Guess(state=state, profile=profile, surface_c=today, bottom_sd_c=doubt, **more)

    if hindrance is not None:
        return made(State.ICE if iced else State.MIXED, None, code=hindrance)
    step = max(_STEP_M, lake.deepest_m / _MOST_LEVELS)
    z = np.append(np.arange(0.0, lake.deepest_m - step / 100, step), lake.deepest_m)
    if iced:
        return made(State.ICE, _made(z, _under_ice(z)))
    state, warm, layer = _open_water(lake, year, x, today, z)
    turning = state is not State.OFTEN and _is_turning(year, x, surface_c)
    other = None
    if turning:
        even = _made(z, np.full(z.size, today))
        other = even if state is State.LAYERED else _made(z, _layered(year, _KEPT_DAYS if x > 0 else x, today, z)[0])
    code = NoGuess.TURNING if turning else None
    return made(state, _made(z, warm), layer_m=layer, code=code, other=other)


def _made(z: Floats, warm: Floats) -> Profile:
    return Profile(depth_m=z, temperature_c=np.asarray(warm, np.float64), estimated=True)


def _with_depth(lake: Lake) -> Lake:
    return replace(lake, deepest_m=15.0)


def _hindrance(lake: Lake) -> NoGuess | None:
    """What makes a guess void, the gravest first."""
    for code in NoGuess:
        if code in lake.hindrances:
            return code
    if lake.altitude_m > 4000.0:
        return NoGuess.HIGH
    if not (math.isfinite(lake.deepest_m) and lake.deepest_m > 0.5):
        return NoGuess.UNKNOWN_DEPTH
    high = abs(lake.latitude)
    winter = float(np.interp(high, _LATITUDES, _WINTER_C))
    winter -= float(np.interp(high, (25.0, 35.0), (3.5, 4.5))) * lake.altitude_m / 1000.0
    if lake.freezes is None and 36.0 <= high <= 50.0 and abs(winter) < 4.0:
        return NoGuess.UNKNOWN_FREEZE
    return None


def _under_ice(z: Floats) -> Floats:
    """Nearly nothing at the ice, four degrees below some metres."""
    return _DEEP_C * (1.0 - np.exp(-z / _UNDER_ICE_M))


def _open_water(lake: Lake, year: _Year, x: float, today: float, z: Floats) -> tuple[State, Floats, float]:
    if lake.deepest_m < _SHALLOW_M or lake.deepest_m < 1.2 * year.mixed_m:
        fall = min(_EVEN_FALL_CPM * lake.deepest_m, _MOST_FALL_C)
        return State.OFTEN, today - fall * z / lake.deepest_m, math.nan
    on = year.layers_on
    if not math.isfinite(on) or x < on:
        return State.MIXED, np.full(z.size, today), math.nan
    if x <= _KEPT_DAYS:
        warm, layer = _layered(year, x, today, z)
        return (State.LAYERED, warm, layer) if today > year.bottom_c + 1.0 else (State.MIXED, warm, math.nan)
    kept, layer = _layered(year, _KEPT_DAYS, float(year.surface(_KEPT_DAYS)), z)
    warm = np.minimum(kept, today)
    heavier = float(fresh_density(kept[-1]) - fresh_density(today))
    if today <= kept[-1] or heavier < _LAYERED_KGPM3:
        return State.MIXED, np.full(z.size, today), math.nan
    # cut off from above, the steepest part is where what is left begins, or where it always was
    below = float(z[int(np.argmax(kept < today))])
    return State.LAYERED, warm, max(layer, below)


def _layered(year: _Year, x: float, today: float, z: Floats) -> tuple[Floats, float]:
    """The summer's profile: sharper above the layer's centre than below it."""
    on = year.layers_on
    share = 1.0
    if x < _KEPT_DAYS and math.isfinite(on):
        share = 0.4 + 0.6 * min(max((x - on) / (_KEPT_DAYS - on), 0.0), 1.0)
    mixed = year.mixed_m * share
    thick = 2.5 + 0.5 * mixed
    centre = mixed + 0.4 * thick
    bottom = min(year.bottom_c, today)
    upper = 1.0 / (1.0 + np.exp(np.clip(4.0 * (z - centre) / thick, -50.0, 50.0)))
    warm = bottom + (today - bottom) * upper
    tail = min(3.0, (today - bottom) / 4.0) * np.exp(-np.maximum(z - centre, 0.0) / 5.0) * (1.0 - upper)
    return warm + tail, centre


def _is_turning(year: _Year, x: float, surface_c: float | None) -> bool:
    """Within a fortnight of a turnover, as far as the year goes."""
    if surface_c is not None:
        return False  # the thermometer knows better than the calendar
    on = year.layers_on
    days = np.arange(_KEPT_DAYS, _YEAR / 2, 0.5)
    mixed = float(fresh_density(year.bottom_c)) - fresh_density(year.surface(days)) < _LAYERED_KGPM3
    off = float(days[int(np.argmax(mixed))]) if mixed.any() else math.nan
    return any(math.isfinite(turn) and abs(x - turn) <= _TURNING_DAYS for turn in (on, off))
