"""
How a species and a season weigh a place: structure against habit, ground to spawn on, cover, current, open water.

The terms and weights are those of docs/handbook.md, 4.5; every term has a score of 0 to 1 and a reason of its own.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.cell_grid import CellGrid
from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.terms import DEFAULT_WEIGHTS, Term
from plumbbob.core.types import Floats
from plumbbob.core.water.habits import (
    DepthPrior,
    Group,
    Habits,
    Season,
    Spawn,
    WaterYear,
    days_cooling,
    depth_prior,
    season_of,
    warming_on,
)
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Species

OPEN_WATER = "open water"
_FITS, _SECOND, _LITTLE = 1.0, 0.6, 0.25
_STEEP_DEG = 25.0  # a bluff
_DEEP_NEAR_M = 60.0
# structure that serves a habit
_KINDS: Mapping[str, frozenset[str]] = {
    "B": frozenset({"flat", "hole", "basin", "hump", "saddle", "channel", "road"}),
    "N": frozenset({"flat", "hole", "hump", "saddle", "ledge", "channel", "foundation", "road"}),
    "E": frozenset({"ledge", "point", "inside turn", "channel bend", "channel", "hump"}),
    "C": frozenset({"foundation", "cover"}),
    "H": frozenset({"hump", "saddle", "foundation"}),
    "O": frozenset({OPEN_WATER, "basin"}),
}
_SPAWN_NEAR_M, _SPAWN_FADE_M = 300.0, 300.0
_COVER_NEAR_M, _GREEN_C, _DEAD_WEED = 60.0, 9.0, 0.3
_CURRENT_NEAR_M, _RUNS_MPS = 200.0, (0.15, 0.8)
_BANK_NEAR_M = 40.0

_W = Mapping[Term, float]
_DAILY: _W = {Term.WINDOW: 1.2, Term.SEEN: 1.5, Term.RECORD: 2.4, Term.WIND: 0.6, Term.SHADE: 0.6, Term.BANK: 1.5}
_SEASONS: Mapping[Group, Mapping[Season, _W]] = {
    Group.COVER: {
        Season.SPRING: {Term.SPAWN: 3, Term.COVER: 2, Term.DEPTH: 1, Term.HABIT: 1},
        Season.SUMMER: {Term.COVER: 3, Term.HABIT: 2, Term.DEEP: 2, Term.LAYER: 1, Term.BAIT: 1, Term.DEPTH: 1.5},
        Season.AUTUMN: {Term.BAIT: 3, Term.COVER: 2, Term.DEEP: 2, Term.DEPTH: 1.5, Term.HABIT: 1},
        Season.WINTER: {Term.DEEP: 3, Term.DEPTH: 2, Term.COVER: 2, Term.HABIT: 1},
    },
    Group.EDGE: {
        Season.SPRING: {Term.SPAWN: 3, Term.HABIT: 2, Term.CURRENT: 2, Term.DEPTH: 1.5},
        Season.SUMMER: {
            Term.HABIT: 3,
            Term.GROUND: 2,
            Term.LAYER: 2,
            Term.DEEP: 2,
            Term.BAIT: 1,
            Term.DEPTH: 2,
        },
        Season.AUTUMN: {Term.DEEP: 3, Term.HABIT: 2, Term.BAIT: 2, Term.DEPTH: 2, Term.LIP: 1},
        Season.WINTER: {Term.DEEP: 3, Term.GROUND: 2, Term.DEPTH: 3, Term.HABIT: 1},
    },
    Group.HUNG: {
        Season.SPRING: {Term.COVER: 3, Term.SPAWN: 2, Term.DEPTH: 1.5, Term.HABIT: 1},
        Season.SUMMER: {Term.COVER: 2, Term.HABIT: 3, Term.DEPTH: 2, Term.BAIT: 2},
        Season.AUTUMN: {Term.BAIT: 2, Term.DEPTH: 2, Term.HABIT: 2},
        Season.WINTER: {Term.DEPTH: 3, Term.HABIT: 2, Term.LIP: 1},
    },
    Group.OPEN_COLD: {
        Season.SPRING: {Term.DEPTH: 1.5, Term.BAIT: 1, Term.HABIT: 1.5},
        Season.SUMMER: {Term.DEPTH: 4, Term.BAIT: 2, Term.LAYER: 2, Term.HABIT: 2},
        Season.AUTUMN: {Term.SPAWN: 3, Term.DEPTH: 2, Term.HABIT: 1},
        Season.WINTER: {Term.DEPTH: 2, Term.DEEP: 1, Term.HABIT: 1},
    },
    Group.OPEN_WARM: {
        Season.SPRING: {Term.SPAWN: 3, Term.CURRENT: 3, Term.DEPTH: 1, Term.HABIT: 1},
        Season.SUMMER: {Term.BAIT: 4, Term.DEPTH: 2, Term.HABIT: 1},
        Season.AUTUMN: {Term.BAIT: 4, Term.DEPTH: 1, Term.HABIT: 1},
        Season.WINTER: {Term.BAIT: 3, Term.DEPTH: 3, Term.HABIT: 1},
    },
    Group.SMELL: {
        Season.SPRING: {Term.SPAWN: 2, Term.GROUND: 2, Term.DEPTH: 1.5, Term.HABIT: 1.5},
        Season.SUMMER: {Term.GROUND: 2, Term.HABIT: 2, Term.CURRENT: 2, Term.DEPTH: 2},
        Season.AUTUMN: {Term.DEPTH: 2, Term.HABIT: 2},
        Season.WINTER: {Term.DEPTH: 3, Term.HABIT: 3},
    },
}
_ONE = 3.0  # a weight of three in the handbook's table is a full one here


@dataclass(frozen=True, slots=True, kw_only=True)
class Cover:
    """Something to hide in, as it was seen or drawn: a place, or what reaches from it to an end."""

    x: float
    y: float
    kind: str  # brush, timber, weed, stones, dock, bridge
    end: tuple[float, float] | None = None

    def away(self, x: float, y: float) -> float:
        """
        Metres from a place to its nearest part.

        Examples
        --------
        >>> bridge = Cover(x=0.0, y=0.0, kind="bridge", end=(100.0, 0.0))
        >>> bridge.away(50.0, 20.0), bridge.away(-30.0, 40.0), Cover(x=0.0, y=0.0, kind="dock").away(3.0, 4.0)
        (20.0, 50.0, 5.0)
        """
        if self.end is None:
            return math.hypot(x - self.x, y - self.y)
        long_x, long_y = self.end[0] - self.x, self.end[1] - self.y
        square = long_x**2 + long_y**2
        share = ((x - self.x) * long_x + (y - self.y) * long_y) / square if square > 0 else 0.0
        share = min(max(share, 0.0), 1.0)
        return math.hypot(x - self.x - share * long_x, y - self.y - share * long_y)


@dataclass(frozen=True, slots=True, kw_only=True)
class Stream:
    """An arrow of current, drawn by hand."""

    x: float
    y: float
    speed_mps: float
    to_deg: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SpeciesDay:
    """One species in one season, as far as places are ranked for it."""

    habits: Habits
    season: Season
    spawn: Spawn = Spawn.NOT
    prior: DepthPrior | None = None  # over the whole water
    layer: str = ""  # its side of the cold layer
    spawn_ground: Floats | None = None  # (n, 2) eastings and northings of likely ground
    surface_c: float = math.nan


def species_day(
    species: Species,
    habits: Habits,
    profile: Profile,
    deepest_m: float,
    *,
    day_of_year: float,
    latitude: float,
    secchi_m: float,
    sun_deg: float,
    layer_m: float = math.nan,
    ice: bool = False,
    ground: Floats | None = None,
) -> SpeciesDay:
    """
    A species on a day: its season by this water, its likely depths, where it would spawn.

    Parameters
    ----------
    species, habits : Species, Habits
    profile : Profile
        Of the day.
    deepest_m : float
        Of the water today.
    day_of_year, latitude : float
        Whether waters warm or cool.
    secchi_m, sun_deg : float
    layer_m : float
        The cold layer, NaN without one.
    ice : bool
    ground : ndarray, optional
        Of `spawn_ground`.
    """
    surface = float(profile.temperature_c[0])
    year = WaterYear(
        surface_c=surface,
        warming=warming_on(day_of_year, latitude),
        ice=ice,
        cooling_days=days_cooling(day_of_year, latitude),
        # without a cold layer a cooling water has turned over
        turned_days=math.nan if math.isfinite(layer_m) else 0.0 if surface > 8.0 else 20.0,
    )
    season, spawn = season_of(habits, year)
    prior = depth_prior(
        species,
        habits,
        season,
        profile,
        deepest_m,
        secchi_m=secchi_m,
        sun_deg=sun_deg,
        layer_m=layer_m,
        spawn=spawn,
    )
    return SpeciesDay(
        habits=habits,
        season=season,
        spawn=spawn,
        prior=prior,
        layer=species.layer,
        spawn_ground=ground,
        surface_c=surface,
    )


def weights_for(
    habits: Habits, season: Season, layer: str, own: Mapping[Term, float] | None = None
) -> dict[Term, float]:
    """
    How much each reason counts for a species in a season, times what a person made of it.

    Parameters
    ----------
    habits : Habits
    season : Season
    layer : str
        Its side of the cold layer: none, and that reason is silent.
    own : mapping, optional
        A person's own weights; half of the usual one halves the reason here too, 0 leaves it out.
    """
    own = own or DEFAULT_WEIGHTS
    table = {**_DAILY, **_SEASONS[habits.group][season]}
    if layer in ("", "-"):
        table.pop(Term.LAYER, None)
    if habits.bait == "no":
        table.pop(Term.BAIT, None)
    # what the table leaves out speaks softly: it is seen, with its own switch
    out = {}
    for term in Term:
        usual = table.get(term, 0.0) / _ONE if term in table else 0.1 * DEFAULT_WEIGHTS[term]
        out[term] = usual * (own[term] / DEFAULT_WEIGHTS[term] if DEFAULT_WEIGHTS[term] else 1.0)
    return out


def habit_score(feature: Feature, letters: str) -> float:
    """
    How well a kind of structure serves a habit: its first letter 1, its second 0.6, else 0.25.

    Notes
    -----
    A steep bank with deep water close serves those that hang beside something, a hump only then.
    """
    known = [c for c in letters if c in _KINDS][:2]
    for letter, score in zip(known, (_FITS, _SECOND), strict=False):
        if _serves(feature, letter):
            return score
    return _LITTLE


def _serves(feature: Feature, letter: str) -> bool:
    if letter == "H":
        beside_deep = not feature.deep_m > _DEEP_NEAR_M
        return (feature.kind in _KINDS["H"] and beside_deep) or feature.slope_max_deg >= _STEEP_DEG
    return feature.kind in _KINDS[letter]


def depth_scores(features: Sequence[Feature], prior: DepthPrior, level_m: float) -> list[float]:
    """
    Share of the likely depths that each place's own depths cover, the best place of today 1.

    Notes
    -----
    Counted a metre of the place's span, so that a bank from the shore to the basin is not good at everything.
    """
    shares = []
    for feature in features:
        top, base = feature.depth_top_m + level_m, feature.depth_base_m + level_m
        span = max(base - top, 1.0)
        shares.append(prior.share(top - 0.5, max(base, top + 1.0) + 0.5) / (span + 1.0) ** 0.5)
    best = max(shares, default=0.0)
    return [s / best if best > 0 else 0.0 for s in shares]


def spawn_ground(
    frame: CellGrid, depth_m: NDArray[np.float32], spawn_m: tuple[float, float], level_m: float, most: int = 4000
) -> Floats:
    """Cells within a species' spawning depths, (n, 2); thinned to so many."""
    top, base = spawn_m
    deep = depth_m + level_m
    rows, columns = np.nonzero((deep >= max(top, 0.1)) & (deep <= base))
    step = max(rows.size // most, 1)
    x = frame.x0_m + (columns[::step] + 0.5) * frame.cell_m
    y = frame.y0_m + (rows[::step] + 0.5) * frame.cell_m
    return np.column_stack((x, y)).astype(np.float64)


def spawn_score(feature: Feature, ground: Floats) -> tuple[float, float]:
    """Nearness to likely spawning ground, 0 to 1, and how far it is, metres."""
    if not len(ground):
        return 0.1, math.nan
    away = float(np.hypot(ground[:, 0] - feature.x, ground[:, 1] - feature.y).min())
    return min(1.0, math.exp(-max(away - _SPAWN_NEAR_M, 0.0) / _SPAWN_FADE_M)), away


def cover_score(feature: Feature, cover: Sequence[Cover], surface_c: float) -> tuple[float, float] | None:
    """Cover close by, 0 to 1, and how many pieces; dead weed counts a third. None where none was seen at all."""
    if not cover:
        return None
    near = [c for c in cover if c.away(feature.x, feature.y) <= _COVER_NEAR_M]
    dead = surface_c < _GREEN_C
    worth = sum(_DEAD_WEED if c.kind == "weed" and dead else 1.0 for c in near)
    return 1.0 - math.exp(-worth / 1.5), float(len(near))


def current_score(feature: Feature, streams: Sequence[Stream]) -> tuple[float, float] | None:
    """A current that feeds, or the seam of one: 0 to 1, and its speed. None where none is drawn within reach."""
    near = [s for s in streams if math.hypot(s.x - feature.x, s.y - feature.y) <= _CURRENT_NEAR_M]
    if not near:
        return None
    speeds = [s.speed_mps for s in near]
    fastest, slowest = max(speeds), min(speeds)
    low, high = _RUNS_MPS
    runs = 1.0 if low <= fastest <= high else 0.4
    seam = fastest - slowest >= 0.15 and slowest <= high  # slack water beside running: a place to wait
    return (1.0 if seam else runs), (slowest if seam else fastest)


def shade_score(feature: Feature, cover: Sequence[Cover], sun_deg: float | None) -> tuple[float, float] | None:
    """Shade of bridges and docks by day, 0 to 1; None where none is drawn or no sun shines."""
    if sun_deg is None or sun_deg < 8.0:
        return None
    built = [c for c in cover if c.kind in ("dock", "bridge")]
    if not built:
        return None
    away = min(c.away(feature.x, feature.y) for c in built)
    return math.exp(-away / 40.0), away


def bank_score(feature: Feature, anglers: Sequence[tuple[float, float]]) -> tuple[float, float] | None:
    """Room to people who fish from the bank, 0 to 1, and how far they are; None where none stand."""
    if not anglers:
        return None
    away = min(math.hypot(x - feature.x, y - feature.y) for x, y in anglers)
    return (1.0 if away >= _BANK_NEAR_M else max(away / _BANK_NEAR_M, 0.1)), away


def open_places(
    frame: CellGrid,
    depth_m: NDArray[np.float32],
    features: Sequence[Feature],
    window: tuple[float, float],
    *,
    level_m: float = 0.0,
    wind_to_deg: float | None = None,
    most: int = 8,
) -> tuple[Feature, ...]:
    """
    Places over open water for those that roam: the bottom well under the window, near what juts in, down the wind.

    Parameters
    ----------
    frame : CellGrid
    depth_m : ndarray (ny, nx)
        At datum.
    features : sequence of Feature
        The water's structure.
    window : (float, float)
        Depths they keep to, under today's surface.
    level_m : float
    wind_to_deg : float, optional
        Where it blows to: what drifts, gathers there.
    most : int

    Notes
    -----
    From every point and hump the nearest water is taken whose bottom lies at least three metres under the window,
    60 m farther out from the structure; places within 150 m of a better one are left out.
    """
    deep = depth_m + level_m
    open_ = np.isfinite(deep) & (deep >= window[1] + 3.0)
    rows, columns = np.nonzero(open_)
    if rows.size == 0:
        return ()
    x = frame.x0_m + (columns + 0.5) * frame.cell_m
    y = frame.y0_m + (rows + 0.5) * frame.cell_m
    found: list[tuple[float, Feature]] = []
    along = np.zeros(x.size)
    if wind_to_deg is not None:
        to = math.radians(wind_to_deg)
        along = x * math.sin(to) + y * math.cos(to)
        along = (along - along.min()) / max(float(np.ptp(along)), 1.0)
    for feature in features:
        if feature.kind not in ("point", "hump", "ledge", "saddle"):
            continue
        away = np.hypot(x - feature.x, y - feature.y)
        i = int(away.argmin())
        if away[i] > 400.0:
            continue
        reach = np.abs(away - (away[i] + 60.0))
        j = int((reach - 30.0 * along).argmin())
        score = math.exp(-float(away[i]) / 150.0) * (0.6 + 0.4 * float(along[j]))
        place = Feature(
            kind=OPEN_WATER,
            x=float(x[j]),
            y=float(y[j]),
            depth_top_m=window[0] - level_m,
            depth_base_m=window[1] - level_m,
            slope_max_deg=feature.slope_max_deg,  # of what it lies off
            area_m2=0.0,
            shape=np.array([[float(x[j]), float(y[j])]]),
            deep_m=0.0,
            chance=feature.chance,
        )
        found.append((score, place))
    found.sort(key=lambda pair: -pair[0])
    out: list[Feature] = []
    for _, place in found:
        if all(math.hypot(p.x - place.x, p.y - place.y) > 150.0 for p in out):
            out.append(place)
        if len(out) == most:
            break
    return tuple(out)
