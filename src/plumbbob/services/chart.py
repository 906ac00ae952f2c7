"""A water's chart from its folder: the kept grid where it is still true, else made anew."""

from __future__ import annotations

import logging
import math
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.chart.soundings import CleanSettings, Soundings
from plumbbob.core.types import Progress
from plumbbob.files.errors import FileError
from plumbbob.formats.water_folder import WaterFolder

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_logger = logging.getLogger(__name__)


def chart_of_folder(folder: WaterFolder, cleaning: CleanSettings, progress: Progress) -> tuple[Chart, list[str]]:
    """The folder's chart without its structure: the kept grid where it is still true, else made anew and kept."""
    from plumbbob.core.chart.build import build_chart, chart_of_grid
    from plumbbob.core.geodesy import Plane
    from plumbbob.formats.chart_cache import NAME, key_of, load_grid

    trouble_ashore = []
    try:
        rings, hazards = folder.shore()
    except FileError as exc:
        rings, hazards = [], []
        trouble_ashore = [f"{exc}; the chart is drawn without it"]
    key = key_of(_made_from(folder), cleaning)
    kept = load_grid(folder.path / NAME, key)
    if kept is not None:
        try:
            plane = Plane(kept.epsg)
            return chart_of_grid(
                plane, kept.grid, kept.used, kept.left_out, shore=rings, hazards=hazards, land=kept.land
            ), trouble_ashore
        except Exception:
            _logger.info("the kept grid is made anew", exc_info=True)  # it only saves time
    parts, trouble = folder.read_all(progress=lambda f: progress(0.2 * f))
    trouble += trouble_ashore
    try:
        chart = build_chart(
            parts, cleaning, shore=rings, hazards=hazards, structure=False, progress=lambda f: progress(0.2 + 0.8 * f)
        )
    except ValueError as exc:
        raise FileError(folder.path, "", "; ".join([str(exc), *trouble])) from exc
    if not trouble:
        keep_grid(folder, cleaning, chart)
    return chart, trouble


def _made_from(folder: WaterFolder) -> list[Path]:
    """The files a chart is made of; a link that leads nowhere is none."""
    return [p for p in (*folder.sources(), *folder.path.glob("shore.geojson")) if p.is_file()]


def keep_grid(folder: WaterFolder, cleaning: CleanSettings, chart: Chart) -> None:
    """The grid beside its soundings; a full disk costs time at the next start, no data."""
    from plumbbob.formats.chart_cache import NAME, Kept, key_of, save_grid

    try:
        key = key_of(_made_from(folder), cleaning)
        kept = Kept(chart.plane.epsg, chart.grid, chart.land, chart.used, dict(chart.left_out))
        save_grid(folder.path / NAME, key, kept)
    except (FileError, OSError):
        _logger.warning("the grid could not be kept", exc_info=True)


def check_near(path: Path, chart: Chart, soundings: Soundings) -> None:
    x, y = chart.plane.to_xy(np.median(soundings.latitude), np.median(soundings.longitude))
    frame = chart.grid.frame
    middle_x, middle_y = frame.x0_m + frame.nx * frame.cell_m / 2, frame.y0_m + frame.ny * frame.cell_m / 2
    far = math.hypot(float(x) - middle_x, float(y) - middle_y)
    if not far < 40_000.0:
        away = "on another part of the globe" if not math.isfinite(far) else f"{far / 1000:.0f} km from this water"
        raise FileError(path, "", f"lies {away}; nothing was added. Swapped columns, or another water?")
