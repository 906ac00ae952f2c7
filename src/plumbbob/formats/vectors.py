"""Vector charts: GeoPackage, Shapefile, GeoJSON, KML, GML and S-57 cells in; contours and places out."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.chart.contours import Contour
from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.geodesy import Plane
from plumbbob.core.types import Floats
from plumbbob.core.units import DEEPEST_M, FATHOM_M, FOOT_M
from plumbbob.files.atomic import NotWritten, writing
from plumbbob.files.errors import FileError
from plumbbob.formats import gdal
from plumbbob.formats.gdal import held
from plumbbob.formats.geojson import numbers, read_geojson

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
_MOST_LINE_M = 60e6  # five million points of contours
_MOST_SHAPES = 20_000_000


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
    FileError
        In one line that says what is wrong and what to do.
    """
    if path.suffix.lower() in (".geojson", ".json"):
        crs, shapes, fields = read_geojson(path)
        if layer is not None and layer != path.stem:
            raise FileError(path, "", f"has no layer {layer}; it has {path.stem}")
        return _chart(path, [_Layer(path.stem, crs, shapes, {k: numbers(v) for k, v in fields.items()})], False)
    with held(path) as link:
        layers, is_s57 = _read_layers(path, link, layer)
    return _chart(path, layers, is_s57)


@dataclass(frozen=True, slots=True, eq=False)
class _Layer:
    name: str
    crs: str
    shapes: Any
    fields: dict[str, Any]


def _read_layers(path: Path, link: Path, layer: str | None) -> tuple[list[_Layer], bool]:
    """The layers of a file that hold what is looked for."""
    import shapely

    library = gdal.pyogrio()
    try:
        names = [str(name) for name, _ in library.list_layers(link)]
    except Exception as exc:
        # GDAL's own errors differ from driver to driver
        raise FileError(path, "", "is no vector chart that can be read, or a damaged one") from exc
    shown = [path.stem if n == link.stem else n for n in names]
    if layer is not None and layer not in shown:
        raise FileError(path, "", f"has no layer {layer}; it has {', '.join(shown[:8])}")
    is_s57 = path.suffix.lower() == ".000" or "DSID" in names
    found = []
    for name, title in zip(names, shown, strict=True):
        if (layer is not None and title != layer) or (is_s57 and name not in _S57_LAYERS):
            continue
        try:
            if int(library.read_info(link, layer=name, force_feature_count=True)["features"]) > _MOST_SHAPES:
                raise FileError(path, f"layer {title}", f"has more than {_MOST_SHAPES // 1_000_000} million shapes")
            meta, _, blobs, columns = library.raw.read(link, layer=name)
            shapes = np.array([], object) if blobs is None else shapely.from_wkb(blobs, on_invalid="ignore")
        except FileError:
            raise
        except Exception as exc:
            raise FileError(path, f"layer {title}", "cannot be read") from exc
        fields = {str(f): c for f, c in zip(meta["fields"], columns, strict=True)}
        found.append(_Layer(title, str(meta.get("crs") or ""), shapes, fields))
    return found, is_s57


def _chart(path: Path, layers: list[_Layer], is_s57: bool) -> VectorChart:
    """Soundings, shore and hazards of the layers."""
    import shapely

    points: list[np.ndarray[Any, Any]] = []
    rings: list[Floats] = []
    hazards: list[tuple[float, float]] = []
    notes: list[str] = []
    for one in layers:
        role = _S57_LAYERS[one.name] if is_s57 else "any"
        good = ~shapely.is_missing(one.shapes) if one.shapes.size else np.zeros(0, bool)
        if not good.any():
            continue
        columns = {n: np.asarray(c)[good] for n, c in one.fields.items()}
        try:
            shapes = _to_degrees(path, one, one.shapes[good])
        except FileError:
            raise
        except Exception as exc:
            # the projection library has errors of its own for every way a reference system can be wrong
            raise FileError(path, f"layer {one.name}", "cannot be placed: its reference system is none") from exc
        depth = _depth_column(columns)
        kinds = shapely.get_type_id(shapes)
        are_points, are_lines = np.isin(kinds, (0, 4)), np.isin(kinds, (1, 5))
        if role in ("soundings", "any") and are_points.any():
            points.append(_point_depths(shapes[are_points], _rows(depth, are_points)))
        if role in ("contours", "any") and depth is not None and are_lines.any():
            points.append(_line_depths(path, shapes[are_lines], depth[are_lines]))
        if role in ("shore", "land", "any") and (role != "any" or depth is None):
            rings += _rings(one.name, shapes, kinds, notes)
        if role == "hazards":
            middle = shapely.centroid(shapes)
            places = np.stack([shapely.get_y(middle), shapely.get_x(middle)], axis=1)
            hazards += [(float(a), float(b)) for a, b in places[_on_earth(places)]]
    return _made(path, points, rings, hazards, notes, is_s57)


def _made(
    path: Path,
    points: list[np.ndarray[Any, Any]],
    rings: list[Floats],
    hazards: list[tuple[float, float]],
    notes: list[str],
    is_s57: bool,
) -> VectorChart:
    found = np.concatenate(points) if points else np.zeros((0, 3))
    found = found[np.isfinite(found).all(axis=1) & (np.abs(found[:, 2]) < DEEPEST_M)]
    usable = found[_on_earth(found)]
    if len(usable) < len(found):
        notes.append(f"{len(found) - len(usable)} soundings lie nowhere on earth and were left out")
    if not usable.size and not rings and not hazards:
        what = (
            "no soundings, contours or shoreline" if is_s57 else "no depth field on points or lines, and no polygons"
        )
        raise FileError(path, "", f"has {what}; nothing was added")
    if not usable.size:
        notes.append("it has no soundings: only shoreline and hazards were taken")
    n = len(usable)
    return VectorChart(
        soundings=Soundings(
            latitude=usable[:, 0],
            longitude=usable[:, 1],
            depth_m=usable[:, 2],
            water_level_m=np.zeros(n),
            time=np.full(n, np.nan),
        ),
        shore=tuple(rings),
        hazards=tuple(hazards),
        notes=tuple(notes),
    )


def _on_earth(places: Floats) -> Any:
    """Rows of latitude and longitude that are a place."""
    with np.errstate(invalid="ignore"):
        return (np.abs(places[:, 0]) <= 90.0) & (np.abs(places[:, 1]) <= 360.0)


def _rows(depth: Floats | None, rows: Any) -> Floats | None:
    return None if depth is None else depth[rows]


def _to_degrees(path: Path, layer: _Layer, shapes: Any) -> Any:
    import shapely
    from pyproj import CRS, Transformer

    if not layer.crs:
        raise FileError(path, f"layer {layer.name}", "has no coordinate system; give it one and try again")
    if layer.crs == "EPSG:4326":
        return shapes
    way = Transformer.from_crs(CRS.from_user_input(layer.crs), 4326, always_xy=True)
    has_z = bool(shapely.has_z(shapes).any())

    def turn(c: Floats) -> Floats:
        x, y = way.transform(c[:, 0], c[:, 1])
        return np.stack([x, y, c[:, 2]], axis=1) if has_z else np.stack([x, y], axis=1)

    return shapely.transform(shapes, turn, include_z=has_z)


def _depth_column(columns: dict[str, Any]) -> Floats | None:
    names = {n.upper(): n for n in columns}
    for wanted in _DEPTH_FIELDS:
        if wanted in names:
            raw = columns[names[wanted]]
            try:
                depth = np.asarray(raw, np.float64)
            except (TypeError, ValueError):
                continue
            factor = {"DEPTH_FT": FOOT_M, "DEPTH_FM": FATHOM_M}.get(wanted, 1.0)
            if wanted == "ELEV" or (np.isfinite(depth).any() and np.nanmedian(depth) < 0):
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


def _line_depths(path: Path, shapes: Any, depth: Floats) -> Floats:
    """Contours as points every dozen metres."""
    import shapely

    length_m = float(np.nansum(shapely.length(shapes))) * 111_000.0
    if not length_m < _MOST_LINE_M:
        raise FileError(path, "", "its contours are longer than those of any water: not in degrees, or damaged")
    dense = shapely.segmentize(shapes, _LINE_STEP_M / 111_000.0)
    coordinates, owner = shapely.get_coordinates(dense, return_index=True)
    return np.stack([coordinates[:, 1], coordinates[:, 0], depth[owner]], axis=1)


def _rings(name: str, shapes: Any, kinds: Any, notes: list[str]) -> list[Floats]:
    import shapely

    out = []
    for shape, kind in zip(shapes, kinds, strict=True):
        if kind in (3, 6):
            for polygon in shapely.get_parts(shape):
                rings = [shapely.get_coordinates(ring)[:, ::-1] for ring in shapely.get_rings(polygon)]
                good = [r for r in rings if len(r) >= 4 and np.isfinite(r).all() and _on_earth(r).all()]
                out += good
                if len(good) < len(rings):
                    notes.append(f"layer {name}: a shoreline lies nowhere on earth and was left out")
        elif kind == 1:
            c = shapely.get_coordinates(shape)
            if len(c) >= 4 and np.allclose(c[0], c[-1], atol=2e-5):
                out.append(c[:, ::-1])
            else:
                notes.append(f"layer {name}: a shoreline is not closed and was left out; close it to use it")
    return out


def write_contours(path: Path, plane: Plane, found: Sequence[Contour], *, inputs: Iterable[Path] = ()) -> None:
    """
    Contours as a GeoPackage or GeoJSON (by the name's ending), WGS 84, depth in metres; whole or not at all.

    Raises
    ------
    FileError
        If it could not be written.
    """
    import shapely

    lines, depths = [], []
    for contour in found:
        for line in contour.lines:
            latitude, longitude = plane.to_latlon(line[:, 0], line[:, 1])
            lines.append(shapely.LineString(np.stack([longitude, latitude], axis=1)))
            depths.append(contour.depth_m)
    columns = {"depth_m": np.array(depths, np.float64)}
    write_shapes(path, "contours", lines, columns, "LineString", inputs=inputs)


def write_shapes(
    path: Path,
    layer: str,
    shapes: list[Any],
    columns: dict[str, Any],
    kind: str,
    *,
    inputs: Iterable[Path] = (),
) -> None:
    """Shapes in degrees with columns, as GeoPackage or GeoJSON."""
    import shapely

    driver = {".gpkg": "GPKG", ".geojson": "GeoJSON", ".json": "GeoJSON"}.get(path.suffix.lower())
    if driver is None:
        raise FileError(path, "", "ends neither in .gpkg nor in .geojson")
    with writing(path, inputs=inputs) as fresh:
        try:
            gdal.pyogrio().raw.write(
                fresh,
                shapely.to_wkb(np.array(shapes, object)),
                list(columns.values()),
                list(columns),
                layer=layer,
                driver=driver,
                geometry_type=kind,
                crs="EPSG:4326",
            )
        except Exception as exc:
            # GDAL's own errors differ from driver to driver
            raise NotWritten(path, f"could not be written: {exc}", fault=True) from exc
