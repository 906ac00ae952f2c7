"""Writes charts out: depths, contours, soundings."""

from __future__ import annotations

from enum import Enum
from pathlib import Path
from typing import TYPE_CHECKING

from plumbbob.core.chart.soundings import CleanSettings
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind, System
from plumbbob.desk.models.session import Session
from plumbbob.formats.water_folder import WaterFolder

if TYPE_CHECKING:
    pass


_CONTOUR_M = {System.METRIC: 1.0, System.US: 5 * 0.3048, System.NAUTICAL: 1.8288}  # a metre, five feet, a fathom


class ChartOutput(Enum):
    """What of a chart is written."""

    GRID = "grid"
    CONTOURS = "contours"
    SOUNDINGS = "soundings"


def write_chart(
    session: Session, folder: WaterFolder, cleaning: CleanSettings, path: Path, what: ChartOutput
) -> None:
    """Write grid, contours or soundings in the background, whole or not at all."""
    chart = session.chart.chart
    if chart is None:
        return
    level, step = session.conditions.level_m, _CONTOUR_M[session.display.system_of(Kind.DEPTH)]

    def work(progress: Progress) -> str:
        if what is ChartOutput.GRID:
            from plumbbob.formats.raster import write_grid

            write_grid(path, chart.plane, chart.grid)
            return f"Depths at datum written to {path.name}."
        if what is ChartOutput.CONTOURS:
            from plumbbob.core.chart.contours import contours
            from plumbbob.formats.vectors import write_contours

            levels = [k * step - level for k in range(1, int((chart.deepest_m + level) / step) + 1)]
            found = contours(chart.grid.frame, chart.grid.depth_m, levels, progress=progress)
            write_contours(path, chart.plane, found)
            return f"{len(found)} depths of contours written to {path.name}."
        from plumbbob.core.chart.soundings import clean, joined
        from plumbbob.formats.soundings import at_datum, write_soundings

        parts, _ = folder.read_all(progress=progress)
        whole = joined(parts)
        kept = clean(whole, cleaning, chart.plane)
        write_soundings(path, at_datum(whole, kept))
        return f"{int(kept.kept.sum()):,} soundings at datum written to {path.name}."

    session.jobs.start(f"Writing {path.name}", work, session.say)
