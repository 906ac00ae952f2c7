"""
Where a species holds through its year, by what senses, and at which depths today (docs/handbook.md, 4.2 and 4.5).

Seasons go by water, not by date. A depth is likely where the column suits the species, where its habit of the season
puts it over this bottom, and where the light is right; a flat share is mixed in, so that nothing is ever impossible.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.core.water.light import depth_of_share
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Species, oxygen_suitability, relative_suitability, temperature_suitability

_FLAT = 0.25
_FIRST, _SECOND, _OTHERS = 0.6, 0.3, 0.1  # how often a habit's first and second letter hold
_LETTERS = "BNECHO"
_WINTER_C, _AFTER_C, _AUTUMN_C = 3.0, 4.0, 3.0
_COLD_C = 5.0
_WARMEST_DAY, _SUMMER_DAYS = 215.0, 45.0  # of a northern year, and how long after it summer usually lasts
_SIGHT_SHARE, _SIGHT_MOST_M = 0.6, 4.0
_DAY_DIM = 0.3  # share of light that is bright for fish of the half light


class Season(Enum):
    """Of a water, for one species."""

    WINTER = "winter"
    SPRING = "spring"  # from gathering to after spawning, for those that spawn as it warms
    SUMMER = "summer"
    AUTUMN = "autumn"


class Group(Enum):
    """Species that places are ranked for alike."""

    COVER = "cover"
    EDGE = "edge"
    HUNG = "hung"
    OPEN_COLD = "open cold"
    OPEN_WARM = "open warm"
    SMELL = "smell"


class Spawn(Enum):
    """Where a species is in its spawning year."""

    NOT = "not"
    GATHERING = "gathering"
    SPAWNING = "spawning"
    AFTER = "after"


@dataclass(frozen=True, slots=True, kw_only=True)
class Habits:
    """Of one species; letters, most used first: B bottom, N near it, E edge, C cover, H hung, O open water."""

    key: str
    letters: tuple[str, str, str, str]  # winter, spring, summer, autumn
    depths_m: tuple[tuple[float, float], ...]  # usual in middling waters, by season; NaN where none are told
    senses: str  # as in the table: S sight, S(dim), L lateral line, N smell, H hearing
    low_feed_m: float  # least height over the bottom
    low_rest_m: float
    bait: str  # on, edge, wait, under, no
    group: Group
    spawn_c: tuple[float, float]  # NaN where not told
    spawn_falling: bool  # spawns as the water cools
    spawn_m: tuple[float, float]
    notes: str = ""

    def of(self, season: Season) -> str:
        """Its letters in a season."""
        return self.letters[_ORDER[season]]

    def depths(self, season: Season) -> tuple[float, float]:
        """Its usual depths in a season, metres; good to half as much again."""
        return self.depths_m[_ORDER[season]]

    @property
    def by_smell(self) -> bool:
        """Finds bait by its nose first."""
        return self.senses.startswith("N")


_ORDER = {Season.WINTER: 0, Season.SPRING: 1, Season.SUMMER: 2, Season.AUTUMN: 3}


def letter_weights(letters: str) -> dict[str, float]:
    """
    How often each habit holds: the first letter 60 %, the second 30 %, the rest spread evenly.

    Examples
    --------
    >>> weights = letter_weights("NB")
    >>> round(weights["N"], 2), round(weights["B"], 2), round(weights["O"], 3), round(sum(weights.values()), 6)
    (0.6, 0.3, 0.025, 1.0)
    """
    known = [c for c in letters if c in _LETTERS][:2]
    given = dict(zip(known, (_FIRST, _SECOND), strict=False)) or dict.fromkeys(_LETTERS, 1.0 / len(_LETTERS))
    if len(known) == 1:
        given[known[0]] = _FIRST + _SECOND
    rest = [c for c in _LETTERS if c not in given]
    left = max(1.0 - sum(given.values()), 0.0)
    return {**given, **{c: left / len(rest) for c in rest}}


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterYear:
    """What tells the season; NaN where not known."""

    surface_c: float
    warming: bool
    ice: bool = False
    peak_c: float = math.nan  # the year's warmest surface
    turned_days: float = math.nan  # since the autumn turnover; below 0 or NaN: not yet
    cooling_days: float = math.nan  # since the height of summer, where the peak is not known


def season_of(habits: Habits, year: WaterYear) -> tuple[Season, Spawn]:
    """
    The season of a water for a species, and where it is in its spawning.

    Notes
    -----
    For those that spawn as it warms: three degrees under their spawning temperature and more is winter, then they
    gather; up to four degrees over it is after. Summer lasts until the surface is three degrees below its peak,
    autumn until a fortnight after the turnover. Those that spawn as it cools do so in autumn or winter.

    Examples
    --------
    >>> perch = Habits(key="p", letters=("NB", "EC", "NE", "NB"), depths_m=((5, 15),) * 4, senses="S", low_feed_m=0.1,
    ...     low_rest_m=0.2, bait="on", group=Group.EDGE, spawn_c=(7.0, 12.0), spawn_falling=False, spawn_m=(0.5, 3.0))
    >>> [season_of(perch, WaterYear(surface_c=t, warming=True))[0].value for t in (2.0, 6.0, 9.0, 15.0, 22.0)]
    ['winter', 'spring', 'spring', 'spring', 'summer']
    """
    low, high = habits.spawn_c
    t = year.surface_c
    spawn = Spawn.NOT
    if math.isfinite(low):
        rises = not habits.spawn_falling
        if rises == year.warming or (year.ice and low <= 4.0):
            if low <= t <= high or (year.ice and low <= 4.0):
                spawn = Spawn.SPAWNING
            elif (rises and low - _WINTER_C <= t < low) or (not rises and high < t <= high + _WINTER_C):
                spawn = Spawn.GATHERING
            elif rises and high < t <= high + _AFTER_C:
                spawn = Spawn.AFTER
    if year.ice or t < 3.5:
        return Season.WINTER, spawn
    if year.warming:
        gathers = low - _WINTER_C if math.isfinite(low) and not habits.spawn_falling else 5.0
        over = high + _AFTER_C if math.isfinite(high) and not habits.spawn_falling else 14.0
        if t < gathers:
            return Season.WINTER, spawn
        return (Season.SPRING if t <= over else Season.SUMMER), spawn
    late = t <= year.peak_c - _AUTUMN_C if math.isfinite(year.peak_c) else not year.cooling_days <= _SUMMER_DAYS
    if not late:
        return Season.SUMMER, spawn
    if year.turned_days > 14.0 or t < _COLD_C:
        return Season.WINTER, spawn
    return Season.AUTUMN, spawn


def warming_on(day_of_year: float, latitude: float) -> bool:
    """
    Whether waters still warm on a day: from the end of winter to the height of summer.

    Examples
    --------
    >>> warming_on(120, 45.0), warming_on(280, 45.0), warming_on(280, -40.0)
    (True, False, True)
    """
    return 32.0 <= _northern(day_of_year, latitude) <= _WARMEST_DAY


def days_cooling(day_of_year: float, latitude: float) -> float:
    """
    Days since the height of summer.

    Examples
    --------
    >>> days_cooling(245, 45.0)
    30.0
    """
    return (_northern(day_of_year, latitude) - _WARMEST_DAY) % 365.25


def _northern(day_of_year: float, latitude: float) -> float:
    return (day_of_year - (0.0 if latitude >= 0 else 182.6)) % 365.25


def pace_of(species: Species, profile: Profile) -> float:
    """How lively it can be in the best of this column, 0.1 to 1: its pace, never its depth or which species."""
    q = temperature_suitability(species, profile.temperature_c) * oxygen_suitability(
        species, profile.oxygen_at(profile.depth_m)
    )
    return max(0.1, float(q.max()))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class DepthPrior:
    """How likely each depth is for a species today, over a bottom of some depth."""

    depth_m: Floats  # centres, evenly spaced
    chance: Floats  # sums to 1

    def share(self, top_m: float, base_m: float) -> float:
        """How much of it lies between two depths."""
        inside = (self.depth_m >= top_m) & (self.depth_m <= base_m)
        return float(self.chance[inside].sum())

    def middle(self, share: float = 0.5) -> float:
        """Depth down to which so much of it lies."""
        return float(np.interp(share, np.cumsum(self.chance), self.depth_m))

    def band(self, share: float = 0.6) -> tuple[float, float]:
        """The narrowest run of depths that holds so much of it."""
        best = (float(self.depth_m[0]), float(self.depth_m[-1]))
        total = np.concatenate(([0.0], np.cumsum(self.chance)))
        for i in range(self.depth_m.size):
            j = int(np.searchsorted(total, total[i] + share))
            if j <= self.depth_m.size and self.depth_m[j - 1] - self.depth_m[i] < best[1] - best[0]:
                best = float(self.depth_m[i]), float(self.depth_m[j - 1])
        return best


def depth_prior(
    species: Species,
    habits: Habits,
    season: Season,
    profile: Profile,
    deepest_m: float,
    *,
    bottom_m: float | None = None,
    secchi_m: float | None = None,
    sun_deg: float = 40.0,
    layer_m: float = math.nan,
    spawn: Spawn = Spawn.NOT,
    structure: Floats | None = None,
    step_m: float = 0.25,
) -> DepthPrior:
    """
    How likely each depth is.

    Parameters
    ----------
    species, habits : Species, Habits
    season : Season
    profile : Profile
    deepest_m : float
        Of the water.
    bottom_m : float, optional
        Over one place; left out, over the whole water: those on the bottom can be at any depth.
    secchi_m, sun_deg : float, optional
        With them, fish of the half light leave the bright water by day.
    layer_m : float
        The cold layer today, for species that keep to a side of it; NaN without one.
    spawn : Spawn
        Those that gather or spawn are in their spawning depths as well.
    structure : ndarray, optional
        0 to 1 at each depth, how much there is to hold to.
    step_m : float

    Notes
    -----
    p(z) ~ r(z)^e x habit(z) x season's depths x layer x light x (0.5 + 0.5 structure), a quarter flat mixed in. The
    exponent is 1 in a measured column that suits it somewhere, 0.5 in a guessed one, 0.3 in winter.
    """
    floor = bottom_m if bottom_m is not None else deepest_m
    if not floor > 0:
        raise ValueError("a bottom below the surface is needed")
    z = np.arange(step_m / 2, max(floor, step_m), step_m)
    warm = np.interp(z, profile.depth_m, profile.temperature_c)
    oxygen = profile.oxygen_at(z)
    exponent = 0.3 if season is Season.WINTER else 0.5 if profile.estimated else 1.0
    if float((temperature_suitability(species, warm) * oxygen_suitability(species, oxygen)).max()) <= 0.5:
        exponent = min(exponent, 0.5)
    p = relative_suitability(species, warm, oxygen) ** exponent
    weights = letter_weights(habits.of(season))
    open_share = weights["O"] + weights["H"]
    if bottom_m is not None:
        up = floor - z
        on, near = np.exp(-((up / 1.0) ** 2)), np.exp(-(((up - 1.5) / 1.5) ** 2))
        p = p * (weights["B"] * on + (weights["N"] + weights["E"] + weights["C"]) * near + open_share + 0.02)
    else:
        p = p * _usual(z, habits, season, spawn, deepest_m)
    if season is Season.SUMMER and math.isfinite(layer_m):
        p = p * _side_of_layer(z, species.layer, layer_m)
    if secchi_m is not None and species.light and "D" not in species.light and sun_deg > 8.0:
        p = p * np.where(z < depth_of_share(_DAY_DIM, secchi_m), 0.5, 1.0)
    if structure is not None:
        p = p * (0.5 + 0.5 * np.asarray(structure, np.float64))
    total = float(p.sum())
    even = np.full(z.size, 1.0 / z.size)
    return DepthPrior(depth_m=z, chance=(1 - _FLAT) * p / total + _FLAT * even if total > 0 else even)


def _usual(z: Floats, habits: Habits, season: Season, spawn: Spawn, deepest_m: float) -> Floats:
    """Soft shoulders about the season's usual depths: those hold for middling waters, and half as much again."""
    top, base = habits.depths(season)
    if not math.isfinite(top):
        return np.ones(z.size)
    if deepest_m < base:  # a shallower water: all of it counts from where the upper end still fits
        top, base = min(top, 0.6 * deepest_m), deepest_m

    def shoulders(low: float, high: float) -> Floats:
        away = np.maximum(np.maximum(low - z, z - high), 0.0)
        soft = np.where(z < low, max(0.5 * low, 0.5), max(0.3 * high, 1.0))
        return 0.15 + 0.85 * np.exp(-((away / soft) ** 2))

    usual = shoulders(top, base)
    if spawn in (Spawn.GATHERING, Spawn.SPAWNING) and math.isfinite(habits.spawn_m[0]):
        usual = np.maximum(usual, shoulders(*habits.spawn_m))
    return usual


def _side_of_layer(z: Floats, side: str, layer_m: float) -> Floats:
    """Above the cold layer, at its upper edge, or below it; each soft by a metre and a half."""
    out = np.full(z.size, 0.1)
    for k, letter in enumerate(side):
        share = (1.0, 0.7)[min(k, 1)]
        if letter == ">":
            good = 1.0 / (1.0 + np.exp(np.clip((z - layer_m - 0.5) / 0.75, -50, 50)))
        elif letter == "=":
            good = np.exp(-(((z - layer_m) / 1.5) ** 2))
        elif letter == "<":
            good = 1.0 / (1.0 + np.exp(np.clip((layer_m - z) / 0.75, -50, 50)))
        else:
            return np.ones(z.size)
        out = np.maximum(out, share * good)
    return out


def sees_from(senses: str, secchi_m: float, *, night: bool = False) -> float:
    """
    How far away a species sees a lure, metres.

    Examples
    --------
    >>> round(sees_from("S L", 4.0), 2), round(sees_from("S(dim) L", 4.0, night=True), 2), sees_from("N L", 8.0)
    (2.4, 1.68, 4.0)
    """
    reach = min(_SIGHT_SHARE * secchi_m, _SIGHT_MOST_M)
    if not night:
        return reach
    return reach * (0.7 if "S(dim)" in senses else 0.3)


def takes_from(looks: str, reach_m: float) -> tuple[float, float]:
    """
    From how far above its lure and below it a fish comes, by where it looks: metres over the fish, metres under.

    Examples
    --------
    >>> [round(v, 2) for v in takes_from("U", 2.0)], [round(v, 2) for v in takes_from("D", 2.0)]
    ([2.0, 0.4], [0.4, 2.0])
    """
    first = looks[:1] or "U"
    if first == "L":
        return 0.3 * reach_m, 0.3 * reach_m
    return (reach_m, 0.2 * reach_m) if first == "U" else (0.2 * reach_m, reach_m)
