"""A water's column: what is kept of it, what is guessed, and what a wind does to it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING

from plumbbob.core.water.profile import Profile
from plumbbob.files.errors import FileError
from plumbbob.formats.water_folder import WaterFolder
from plumbbob.formats.waters import Water

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.core.water.column import Layer
    from plumbbob.core.water.guess import Freezes, Guess
    from plumbbob.core.water.wind import Tilt


@dataclass(frozen=True, slots=True)
class ColumnReport:
    """The cold layer of a column and how a wind tilts it; None where there is none."""

    layer: Layer | None
    tilt: Tilt | None


def column_report(profile: Profile, wind_mps: float, fetch_m: float) -> ColumnReport:
    """What a column says by itself, in a steady wind along so long a water."""
    from plumbbob.core.water.column import cold_layer
    from plumbbob.core.water.wind import layer_tilt

    layer = cold_layer(profile)
    if layer is None or not wind_mps > 0:
        return ColumnReport(layer, None)
    return ColumnReport(layer, layer_tilt(profile, layer, wind_mps, fetch_m, float(profile.depth_m[-1])))


def kept_column(folder: WaterFolder) -> tuple[Profile | None, str]:
    """The column that was kept with a water, and what is wrong with it where it can't be used."""
    try:
        return folder.profile(), ""
    except FileError as exc:
        return None, str(exc)


def guessed_column(
    water: Water,
    chart: Chart | None,
    when: datetime,
    *,
    level_m: float = 0.0,
    secchi_m: float = 3.0,
    surface_c: float | None = None,
    freezes: Freezes | None = None,
) -> Guess:
    """A guess for a water and a day: its size from the chart where there is one, the surface as read if it was."""
    from plumbbob.core.water.guess import Lake, NoGuess, guess_column

    area, deepest = 1e6, math.nan
    if chart is not None:
        area = float(chart.grid.known.sum()) * chart.grid.frame.cell_m**2
        deepest = chart.deepest_m + level_m
    lake = Lake(
        latitude=water.place.latitude if water.place else 45.0,
        altitude_m=water.altitude_m,
        area_m2=area,
        deepest_m=deepest,
        secchi_m=secchi_m,
        freezes=freezes,
        hindrances=frozenset({NoGuess.SALT}) if water.salt else frozenset(),
    )
    return guess_column(lake, when.timetuple().tm_yday, surface_c)
