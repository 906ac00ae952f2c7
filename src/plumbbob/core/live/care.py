"""What to mind on the water now: short cautions by temperature, wind, light and time; local rules come first."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

from plumbbob.core.plan.clock import Craft
from plumbbob.core.reason import Measure, Reason, because
from plumbbob.core.units import Kind

COLD_WATER_C, HOT_AIR_C, THUNDER_S = 15.0, 32.0, 1800.0
_MIND_SHARE = 0.7  # of the craft's limit of wind
_DIM_DEG, _DARK_DEG = 0.0, -6.0
_HOME_S, _BATTERY_SPARE = 1200.0, 1.3
_ICE_STAY_OFF_M = 0.10


class Care(Enum):
    """What is to be minded; the most pressing first."""

    THUNDER = "thunder"
    WIND_ASHORE = "wind ashore"
    THIN_ICE = "thin ice"
    ICE = "ice"
    BATTERY = "battery"
    HOME_NOW = "home now"
    WIND_MIND = "wind mind"
    COLD_WATER = "cold water"
    HOME_SOON = "home soon"
    DARK = "dark"
    DUSK = "dusk"
    HEAT = "heat"
    HOOKS = "hooks"


_ORDER: dict[Enum, int] = {care: k for k, care in enumerate(Care)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """What is known of the boat and the hour; NaN and None where nothing is."""

    craft: Craft
    water_c: float = math.nan
    air_c: float = math.nan
    wind_mps: float = math.nan
    sun_deg: float = math.nan
    home_in_s: float = math.nan  # until one must turn
    battery_s: float = math.nan  # of way that is left in it
    way_home_s: float = math.nan
    ice_m: float | None = None  # on ice: how thick, as measured; NaN where it was not
    thunder_s: float = math.inf  # since it was heard last
    fish_on_deck: bool = False


def cares(around: Around) -> tuple[Reason, ...]:
    """
    What to mind, most pressing first (docs/handbook.md section 8).

    Examples
    --------
    >>> from plumbbob.core.plan.clock import BOAT
    >>> [r.code.name for r in cares(Around(craft=BOAT, water_c=8.0, wind_mps=9.5))]
    ['WIND_ASHORE', 'COLD_WATER']
    """
    a, found = around, []
    if a.wind_mps >= a.craft.wind_limit_mps:
        found.append(because(Care.WIND_ASHORE, wind=Measure(a.wind_mps, Kind.SPEED)))
    elif a.wind_mps >= _MIND_SHARE * a.craft.wind_limit_mps:
        found.append(because(Care.WIND_MIND, wind=Measure(a.wind_mps, Kind.SPEED)))
    if a.ice_m is not None and a.ice_m < _ICE_STAY_OFF_M:
        found.append(because(Care.THIN_ICE, thick=Measure(a.ice_m, Kind.FISH)))
    elif a.ice_m is not None:
        found.append(because(Care.ICE))
    elif a.water_c < COLD_WATER_C:
        found.append(because(Care.COLD_WATER, water=Measure(a.water_c, Kind.TEMPERATURE)))
    if a.battery_s < _BATTERY_SPARE * a.way_home_s:
        found.append(because(Care.BATTERY))
    if a.home_in_s <= 0.0:
        found.append(because(Care.HOME_NOW))
    elif a.home_in_s <= _HOME_S:
        found.append(because(Care.HOME_SOON, minutes=round(a.home_in_s / 60.0)))
    if a.sun_deg < _DARK_DEG:
        found.append(because(Care.DARK))
    elif a.sun_deg < _DIM_DEG:
        found.append(because(Care.DUSK))
    if a.air_c >= HOT_AIR_C:
        found.append(because(Care.HEAT, air=Measure(a.air_c, Kind.TEMPERATURE)))
    if 0.0 <= a.thunder_s < THUNDER_S:
        found.append(because(Care.THUNDER))
    if a.fish_on_deck:
        found.append(because(Care.HOOKS))
    return tuple(sorted(found, key=lambda r: _ORDER[r.code]))
