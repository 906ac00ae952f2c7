"""Depth rasters as GeoTIFF: out with our own convention, in with whatever a person has."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from plumbbob.core.chart.frame import Floats, Plane
from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import Soundings
from plumbbob.formats.errors import FormatError

MOST_CELLS = 60_000_000


def write_grid(path: Path, plane: Plane, grid: Grid) -> None:
    """One float32 band, depth at datum in metres, positive down, NaN where unknown; whole or not at all."""
    import rasterio
    from rasterio.transform import from_origin

    frame = grid.frame
    north = frame.y0_m + frame.ny * frame.cell_m
    partial = path.with_name(path.name + ".part")
    try:
        with rasterio.open(
            partial,
            "w",
            driver="GTiff",
            height=frame.ny,
            width=frame.nx,
            count=1,
            dtype="float32",
            crs=f"EPSG:{plane.epsg}",
            transform=from_origin(frame.x0_m, north, frame.cell_m, frame.cell_m),
            nodata=float("nan"),
            compress="deflate",
            tiled=frame.nx >= 256 and frame.ny >= 256,
        ) as file:
            file.write(grid.depth_m[::-1].astype(np.float32), 1)
            file.update_tags(AREA_OR_POINT="Area", positive="down", units="m", note="not for navigation")
        partial.replace(path)
    except rasterio.errors.RasterioError as exc:
        raise FormatError(path, "", f"could not be written: {exc}") from exc
    finally:
        partial.unlink(missing_ok=True)


def read_raster(path: Path) -> tuple[Soundings, str]:
    """
    A raster's cells as soundings, and a note about what was assumed.

    Notes
    -----
    Rasters mostly below zero are read as heights. Cells are thinned to at most two million.

    Raises
    ------
    FormatError
        In one line.
    """
    import rasterio
    from rasterio.warp import transform

    try:
        with rasterio.open(path) as file:
            if file.crs is None:
                raise FormatError(path, "", "has no coordinate system; give it one and try again")
            if file.width * file.height > MOST_CELLS:
                raise FormatError(path, "", f"is {file.width} x {file.height} cells; cut out the water first")
            band = file.read(1, masked=True).astype(np.float64).filled(np.nan)
            rows, columns = np.nonzero(np.isfinite(band))
            if not rows.size:
                raise FormatError(path, "", "has no cell with a depth")
            every = max(int(np.ceil(np.sqrt(rows.size / 2e6))), 1)
            keep = (rows % every == 0) & (columns % every == 0)
            rows, columns = rows[keep], columns[keep]
            xs, ys = rasterio.transform.xy(file.transform, rows, columns)
            longitude, latitude = transform(file.crs, "EPSG:4326", np.asarray(xs), np.asarray(ys))
    except rasterio.errors.RasterioError as exc:
        raise FormatError(path, "", "is no raster that can be read, or a damaged one") from exc
    depth: Floats = band[rows, columns]
    note = ""
    if (depth < 0).mean() > 0.6:
        depth, note = -depth, "heights below zero were taken as depths"
    n = depth.size
    return (
        Soundings(
            latitude=np.asarray(latitude, np.float64),
            longitude=np.asarray(longitude, np.float64),
            depth_m=depth,
            water_level_m=np.zeros(n),
            time=np.full(n, np.nan),
        ),
        note,
    )
