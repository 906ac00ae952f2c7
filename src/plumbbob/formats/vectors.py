"""Vector charts through GDAL's drivers: GeoPackage, Shapefile, GeoJSON and S-57 cells in; contours and places out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.chart.contours import Contour
from plumbbob.core.chart.frame import Floats, Plane
from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.units import FATHOM_M, FOOT_M
from plumbbob.formats.errors import FormatError

_DEPTH_FIELDS = ("VALDCO", "DEPTH_M", "DEPTH", "DEPTH_FT", "DEPTH_FM", "VALSOU", "DRVAL1", "CONTOUR", "ELEV", "Z")
_S57_LAYERS = {
    "SOUNDG": "soundings",
    "DEPCNT": "contours",
    "DEPARE": "areas",
    "COALNE": "shore",
    "LNDARE": "land",
    "OBSTRN": "hazards",
    "UWTROC": "hazards",
    "WRECKS": "hazards",
}
_LINE_STEP_M = 12.0


@dataclass(frozen=True, slots=True, eq=False)
class VectorChart:
    """What a vector chart says, in degrees."""

    soundings: Soundings  # points, and contour lines cut into points
    shore: tuple[Floats, ...]  # closed rings of (latitude, longitude): water is inside
    hazards: tuple[tuple[float, float], ...]
    notes: tuple[str, ...]


def read_vectors(path: Path, layer: str | None = None) -> VectorChart:
    """
    Soundings, contours, shoreline and hazards of a vector file.

    Notes
    -----
    In S-57 cells layers are known by their object classes. Elsewhere points and lines with a depth field count as
    soundings and contours, polygons without one as shoreline.

    Raises
    ------
    FormatError
        In one line that says what is wrong and what to do.
    """
    import pyogrio
    import shapely

    try:
        layers = [str(name) for name, _ in pyogrio.list_layers(path)]
    except Exception as exc:
        # GDAL's own errors differ from driver to driver
        raise FormatError(path, "", "is no vector chart that can be read, or a damaged one") from exc
    if layer is not None and layer not in layers:
        raise FormatError(path, "", f"has no layer {layer}; it has {', '.join(layers[:8])}")
    points: list[np.ndarray[Any, Any]] = []
    rings: list[Floats] = []
    hazards: list[tuple[float, float]] = []
    notes: list[str] = []
    is_s57 = path.suffix.lower() == ".000" or "DSID" in layers
    for name in [layer] if layer else layers:
        role = _S57_LAYERS.get(name, "") if is_s57 else "any"
        if not role:
            continue
        try:
            meta, _, shapes, columns = _read(path, name)
        except FormatError:
            raise
        except Exception as exc:
            raise FormatError(path, f"layer {name}", "cannot be read") from exc
        if shapes.size == 0:
            continue
        shapes = _to_degrees(path, name, meta, shapes)
        depth = _depth_column(meta, columns)
        kinds = shapely.get_type_id(shapes)
        if role in ("soundings", "any") and np.isin(kinds, (0, 4)).any():
            points.append(_point_depths(shapes[np.isin(kinds, (0, 4))], _rows(depth, np.isin(kinds, (0, 4)))))
        if role in ("contours", "any") and depth is not None and np.isin(kinds, (1, 5)).any():
            lines = np.isin(kinds, (1, 5))
            points.append(_line_depths(shapes[lines], depth[lines]))
        if role in ("shore", "land", "any") and (role != "any" or depth is None):
            rings += _rings(path, name, shapes, kinds, notes)
        if role == "hazards":
            middle = shapely.centroid(shapes)
            hazards += list(zip(shapely.get_y(middle).tolist(), shapely.get_x(middle).tolist(), strict=True))
    found = np.concatenate(points) if points else np.zeros((0, 3))
    found = found[np.isfinite(found).all(axis=1)]
    if not found.size and not rings and not hazards:
        what = (
            "no soundings, contours or shoreline" if is_s57 else "no depth field on points or lines, and no polygons"
        )
        raise FormatError(path, "", f"has {what}; nothing was added")
    if not found.size:
        notes.append("it has no soundings: only shoreline and hazards were taken")
    n = len(found)
    return VectorChart(
        soundings=Soundings(
            latitude=found[:, 0],
            longitude=found[:, 1],
            depth_m=found[:, 2],
            water_level_m=np.zeros(n),
            time=np.full(n, np.nan),
        ),
        shore=tuple(rings),
        hazards=tuple(hazards),
        notes=tuple(notes),
    )


def _read(path: Path, name: str) -> tuple[dict[str, Any], Any, Any, list[Any]]:
    import pyogrio
    import shapely

    meta, index, blobs, columns = pyogrio.raw.read(path, layer=name)
    shapes = np.array([], object) if blobs is None else shapely.from_wkb(blobs, on_invalid="ignore")
    return meta, index, shapes, columns


def _rows(depth: Floats | None, rows: Any) -> Floats | None:
    return None if depth is None else depth[rows]


def _to_degrees(path: Path, name: str, meta: dict[str, Any], shapes: Any) -> Any:
    import shapely
    from pyproj import Transformer

    crs = meta.get("crs")
    if not crs:
        raise FormatError(path, f"layer {name}", "has no coordinate system; give it one and try again")
    if str(crs) == "EPSG:4326":
        return shapes
    way = Transformer.from_crs(crs, 4326, always_xy=True)
    has_z = bool(shapely.has_z(shapes).any())

    def turn(c: Floats) -> Floats:
        x, y = way.transform(c[:, 0], c[:, 1])
        return np.stack([x, y, c[:, 2]], axis=1) if has_z else np.stack([x, y], axis=1)

    return shapely.transform(shapes, turn, include_z=has_z)


def _depth_column(meta: dict[str, Any], columns: list[Any]) -> Floats | None:
    names = [str(f).upper() for f in meta["fields"]]
    for wanted in _DEPTH_FIELDS:
        if wanted in names:
            raw = columns[names.index(wanted)]
            try:
                depth = np.asarray(raw, np.float64)
            except (TypeError, ValueError):
                continue
            factor = {"DEPTH_FT": FOOT_M, "DEPTH_FM": FATHOM_M}.get(wanted, 1.0)
            if wanted == "ELEV" or (np.nanmedian(depth) < 0 if depth.size else False):
                depth = -depth
            return depth * factor
    return None


def _point_depths(shapes: Any, depth: Floats | None) -> Floats:
    """Points with their depth: the field's, else the third coordinate."""
    import shapely

    parts, owner = shapely.get_parts(shapes, return_index=True)
    x, y, z = shapely.get_x(parts), shapely.get_y(parts), shapely.get_z(parts)
    value = z if depth is None else np.where(np.isfinite(depth[owner]), depth[owner], z)
    return np.stack([y, x, value], axis=1)


def _line_depths(shapes: Any, depth: Floats) -> Floats:
    """Contours as points every dozen metres."""
    import shapely

    dense = shapely.segmentize(shapes, _LINE_STEP_M / 111_000.0)
    coordinates, owner = shapely.get_coordinates(dense, return_index=True)
    return np.stack([coordinates[:, 1], coordinates[:, 0], depth[owner]], axis=1)


def _rings(path: Path, name: str, shapes: Any, kinds: Any, notes: list[str]) -> list[Floats]:
    import shapely

    out = []
    for shape, kind in zip(shapes, kinds, strict=True):
        if kind in (3, 6):
            for polygon in shapely.get_parts(shape):
                out += [shapely.get_coordinates(ring)[:, ::-1] for ring in shapely.get_rings(polygon)]
        elif kind == 1:
            c = shapely.get_coordinates(shape)
            if len(c) >= 4 and np.allclose(c[0], c[-1], atol=2e-5):
                out.append(c[:, ::-1])
            else:
                notes.append(f"layer {name}: a shoreline is not closed and was left out; close it to use it")
    return out


def write_contours(path: Path, plane: Plane, found: Sequence[Contour]) -> None:
    """
    Contours as a GeoPackage or GeoJSON (by the name's ending), WGS 84, depth in metres; whole or not at all.

    Raises
    ------
    FormatError
        If it could not be written.
    """
    import shapely

    lines, depths = [], []
    for contour in found:
        for line in contour.lines:
            latitude, longitude = plane.to_latlon(line[:, 0], line[:, 1])
            lines.append(shapely.LineString(np.stack([longitude, latitude], axis=1)))
            depths.append(contour.depth_m)
    write_shapes(path, "contours", lines, {"depth_m": np.array(depths, np.float64)}, "LineString")


def write_shapes(path: Path, layer: str, shapes: list[Any], columns: dict[str, Any], kind: str) -> None:
    """Shapes in degrees with columns, as GeoPackage or GeoJSON."""
    import pyogrio
    import shapely

    driver = {".gpkg": "GPKG", ".geojson": "GeoJSON", ".json": "GeoJSON"}.get(path.suffix.lower())
    if driver is None:
        raise FormatError(path, "", "ends neither in .gpkg nor in .geojson")
    partial = path.with_name(f".{path.stem}.part{path.suffix}")
    try:
        pyogrio.raw.write(
            partial,
            shapely.to_wkb(np.array(shapes, object)),
            list(columns.values()),
            list(columns),
            layer=layer,
            driver=driver,
            geometry_type=kind,
            crs="EPSG:4326",
        )
        partial.replace(path)
    except Exception as exc:
        raise FormatError(path, "", f"could not be written: {exc}") from exc
    finally:
        partial.unlink(missing_ok=True)
