"""
Structure found on a grid: humps, holes, basins, saddles, ledges, flats, channels, points, and what else there is.

Everything is measured in metres on the terrain, never in cells, and at several scales. Definitions: docs/physics.md.
"""

from __future__ import annotations

from collections.abc import Callable

from plumbbob.core.chart.feature import Feature
from plumbbob.core.chart.foundations import find_foundations
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.landforms.channels import channels
from plumbbob.core.chart.landforms.flats import flats
from plumbbob.core.chart.landforms.highs import highs
from plumbbob.core.chart.landforms.ledges import ledges
from plumbbob.core.chart.landforms.lows import lows
from plumbbob.core.chart.landforms.points import points
from plumbbob.core.chart.landforms.turns import turns
from plumbbob.core.chart.roads import find_roads
from plumbbob.core.chart.structure_fields import StructureFields
from plumbbob.core.chart.structure_settings import StructureSettings, settings_for
from plumbbob.core.chart.terrain import terrain_of

KINDS = ("hump", "hole", "point", "saddle", "ledge", "flat", "channel", "basin")
MORE_KINDS = ("inside turn", "road", "foundation")
_FINDERS = (highs, lows, ledges, flats, channels, points, turns)  # humps first: others leave their flanks alone


def find_structure(
    grid: Grid,
    settings: StructureSettings | None = None,
    *,
    progress: Callable[[float], None] = lambda fraction: None,
) -> tuple[Feature, ...]:
    """
    All structure of a grid.

    Parameters
    ----------
    grid : Grid
    settings : StructureSettings, optional
    progress : callable
        Hears the share done; may raise to stop.

    Returns
    -------
    tuple of Feature
        The kinds of `KINDS` and `MORE_KINDS`, largest of a kind first.
    """
    settings = settings or settings_for(float(grid.known.sum()) * grid.frame.cell_m**2)
    terrain = terrain_of(grid, finest_m=settings.smooth_m, smooth_m=settings.smooth_m)
    fields = StructureFields(terrain, settings)
    found: list[Feature] = []
    for i, find in enumerate(_FINDERS):
        found += find(fields)
        progress((i + 1) / (len(_FINDERS) + 1))
    roads = find_roads(grid)
    found += roads + find_foundations(grid.crossings, roads)
    progress(1.0)
    return tuple(found)
