"""Places of a water ranked for a species on a day, from a chart and a column."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.chart.rank import DayFacts, RankedSpot, rank
from plumbbob.core.chart.suits import Cover, SpeciesDay, Stream, open_places, spawn_ground, species_day
from plumbbob.core.chart.terms import Term
from plumbbob.core.water.column import layering
from plumbbob.core.water.habits import Group, Habits
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Species
from plumbbob.core.water.wind import LayerPlane, fetch_field

if TYPE_CHECKING:
    from plumbbob.core.cell_grid import CellGrid
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.chart.feature import Feature
    from plumbbob.core.types import Floats

_COARSE_CELLS = 40_000
_OPEN_GROUPS = (Group.OPEN_COLD, Group.OPEN_WARM)


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacesAsked:
    """What is asked of a chart."""

    species: Species
    habits: Habits
    profile: Profile
    day_of_year: float
    latitude: float
    secchi_m: float = 3.0
    sun_deg: float = 40.0
    level_m: float = 0.0
    wind_mps: float = 0.0
    wind_from_deg: float = 225.0
    ice: bool = False
    cover: Sequence[Cover] = ()
    streams: Sequence[Stream] = ()
    weights: Mapping[Term, float] | None = None


@dataclass(frozen=True, slots=True)
class PlacesFound:
    """The places, best first, and the species' day that they were ranked by."""

    spots: tuple[RankedSpot, ...]
    who: SpeciesDay
    window: tuple[float, float]


def who_of(chart: Chart, asked: PlacesAsked, layer_m: float) -> SpeciesDay:
    """The species on this chart on this day."""
    frame = chart.grid.frame
    return species_day(
        asked.species,
        asked.habits,
        asked.profile,
        chart.deepest_m + asked.level_m,
        day_of_year=asked.day_of_year,
        latitude=asked.latitude,
        secchi_m=asked.secchi_m,
        sun_deg=asked.sun_deg,
        layer_m=layer_m,
        ice=asked.ice,
        ground=spawn_ground(frame, chart.grid.depth_m, asked.habits.spawn_m, asked.level_m)
        if math.isfinite(asked.habits.spawn_m[0])
        else None,
    )


def roaming_places(
    chart: Chart, who: SpeciesDay, features: Sequence[Feature], level_m: float, wind_to_deg: float | None
) -> tuple[Feature, ...]:
    """Places over open water, for species that roam in this season; none for others."""
    if who.prior is None or not (who.habits.group in _OPEN_GROUPS or "O" in who.habits.of(who.season)):
        return ()
    window = who.prior.band()
    return open_places(
        chart.grid.frame, chart.grid.depth_m, features, window, level_m=level_m, wind_to_deg=wind_to_deg
    )


def places_for(chart: Chart, asked: PlacesAsked) -> PlacesFound:
    """Structure and open water ranked for a species on a day."""
    _, layer = layering(asked.profile)
    middle = math.nan if layer is None else layer.middle_m
    who = who_of(chart, asked, middle)
    assert who.prior is not None
    frame, fetch = _fetch(chart, asked)
    to = (asked.wind_from_deg + 180.0) % 360.0 if asked.wind_mps >= 2.0 else None
    features = (*chart.features, *roaming_places(chart, who, chart.features, asked.level_m, to))
    facts = DayFacts(
        level_m=asked.level_m,
        layer=None if layer is None else LayerPlane(middle_m=middle),
        frame=frame,
        fetch_m=fetch,
        wind_mps=asked.wind_mps,
        secchi_m=asked.secchi_m,
        sun_deg=asked.sun_deg,
        who=who,
        cover=asked.cover,
        streams=asked.streams,
    )
    return PlacesFound(rank(features, facts, asked.weights), who, who.prior.band())


def _fetch(chart: Chart, asked: PlacesAsked) -> tuple[CellGrid | None, Floats | None]:
    if asked.wind_mps < 2.0:
        return None, None
    from plumbbob.core.cell_grid import CellGrid

    grid = chart.grid
    k = max(round(math.sqrt(grid.depth_m.size / _COARSE_CELLS)), 1)
    water = grid.depth_m[k // 2 :: k, k // 2 :: k] + np.float32(asked.level_m) > 0
    coarse = CellGrid(grid.frame.x0_m, grid.frame.y0_m, k * grid.frame.cell_m, water.shape[1], water.shape[0])
    return coarse, fetch_field(water, coarse.cell_m, asked.wind_from_deg)
