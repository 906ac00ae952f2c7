"""Depth rasters as GeoTIFF: out with our own convention, in with whatever a person has."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chart.grid import Grid
from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.geodesy import Plane
from plumbbob.core.types import Floats
from plumbbob.core.units import DEEPEST_M
from plumbbob.files.atomic import NotWritten, writing
from plumbbob.files.errors import FileError
from plumbbob.formats import gdal
from plumbbob.formats.gdal import held

MOST_CELLS = 60_000_000
_STRIP_CELLS = 4_000_000
_MOST_BLOCK_BYTES = 256_000_000
_MOST_PACKED, _ALWAYS_BYTES = 1100, 64_000_000  # deflate packs at most about a thousand to one


def write_grid(path: Path, plane: Plane, grid: Grid, *, inputs: Iterable[Path] = ()) -> None:
    """One float32 band, depth at datum in metres, positive down, NaN where unknown; whole or not at all."""
    rasterio = gdal.rasterio()
    from rasterio.transform import from_origin

    frame = grid.frame
    north = frame.y0_m + frame.ny * frame.cell_m
    about = {
        "driver": "GTiff",
        "height": frame.ny,
        "width": frame.nx,
        "count": 1,
        "dtype": "float32",
        "crs": f"EPSG:{plane.epsg}",
        "transform": from_origin(frame.x0_m, north, frame.cell_m, frame.cell_m),
        "nodata": float("nan"),
        "compress": "deflate",
        "tiled": frame.nx >= 256 and frame.ny >= 256,
    }
    with writing(path, inputs=inputs) as fresh:
        try:
            with rasterio.open(fresh, "w", **about) as file:
                file.write(grid.depth_m[::-1].astype(np.float32), 1)
                file.update_tags(AREA_OR_POINT="Area", positive="down", units="m", note="not for navigation")
        except rasterio.errors.RasterioError as exc:
            raise NotWritten(path, f"could not be written: {exc}", fault=True) from exc


def read_raster(path: Path) -> tuple[Soundings, str]:
    """
    A raster's cells as soundings, and a note about what was assumed.

    Notes
    -----
    Rasters mostly below zero are read as heights. Cells are thinned to at most two million.

    Raises
    ------
    FileError
        In one line.
    """
    library = gdal.rasterio()
    from rasterio.warp import transform

    with held(path) as link:
        try:
            with library.open(link, driver="GTiff") as file:
                if file.crs is None:
                    raise FileError(path, "", "has no coordinate system; give it one and try again")
                _check_size(path, file)
                rows, columns, depth = _cells(file)
                if not rows.size:
                    raise FileError(path, "", "has no cell with a depth")
                xs, ys = library.transform.xy(file.transform, rows, columns)
                longitude, latitude = transform(file.crs, "EPSG:4326", np.asarray(xs), np.asarray(ys))
        except FileError:
            raise
        except Exception as exc:
            # the libraries' errors differ with what is wrong: blocks, reference systems, numbers
            raise FileError(path, "", "is no raster that can be read, or a damaged one") from exc
    latitude, longitude = np.asarray(latitude, np.float64), np.asarray(longitude, np.float64)
    with np.errstate(invalid="ignore"):
        good = (np.abs(latitude) <= 90.0) & (np.abs(longitude) <= 360.0) & (np.abs(depth) < DEEPEST_M)
    if not good.any():
        raise FileError(path, "", "has no cell with a depth at a place on earth")
    latitude, longitude, depth = latitude[good], longitude[good], depth[good]
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


def _check_size(path: Path, file: Any) -> None:
    """Cells and blocks against what is read here and what the file can hold."""
    cells = file.width * file.height
    if cells > MOST_CELLS:
        raise FileError(path, "", f"is {file.width} x {file.height} cells; cut out the water first")
    kind = np.dtype(file.dtypes[0])
    if kind.kind not in "fiu":
        raise FileError(path, "", f"has cells of {kind}, not of numbers")
    height, width = file.block_shapes[0]
    if height * width * kind.itemsize > _MOST_BLOCK_BYTES:
        raise FileError(path, "", "is stored in blocks too large to read")
    if cells * kind.itemsize > _MOST_PACKED * path.stat().st_size + _ALWAYS_BYTES:
        raise FileError(path, "", f"says {file.width} x {file.height} cells, and holds next to none of them")


def _cells(file: Any) -> tuple[NDArray[np.intp], NDArray[np.intp], Floats]:
    """Rows, columns and values of the cells that have one, thinned to at most two million; a strip at a time."""
    from rasterio.windows import Window

    tall = file.block_shapes[0][0]
    step = max(_STRIP_CELLS // max(file.width, 1) // tall, 1) * tall

    def strips() -> Iterator[tuple[int, Floats]]:
        for top in range(0, file.height, step):
            window = Window(0, top, file.width, min(step, file.height - top))
            band = file.read(1, window=window, masked=True)
            yield top, np.ma.filled(band.astype(np.float64), np.nan)

    known = sum(int(np.isfinite(band).sum()) for _, band in strips())
    every = max(int(np.ceil(np.sqrt(known / 2e6))), 1)
    rows, columns, values = [], [], []
    for top, band in strips():
        first = -top % every
        part = band[first::every, ::every]
        r, c = np.nonzero(np.isfinite(part))
        rows.append(r * every + first + top)
        columns.append(c * every)
        values.append(part[r, c])
    return np.concatenate(rows), np.concatenate(columns), np.concatenate(values)
