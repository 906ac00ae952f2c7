"""GeoJSON as shapes with their properties, read without a driver: it is JSON, and may name no other file."""

from __future__ import annotations

import json
import math
import re
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.types import Floats
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.formats.gdal import MOST_TEXT_BYTES

_SHAPES = ("Point", "MultiPoint", "LineString", "MultiLineString", "Polygon", "MultiPolygon", "GeometryCollection")
_MOST_FIELDS = 500


def read_geojson(path: Path) -> tuple[str, Any, dict[str, list[Any]]]:
    """
    Reference system, shapes and properties of a GeoJSON file.

    Returns
    -------
    crs : str
        As EPSG:4326.
    shapes : ndarray of shapely geometries (n,)
        None for one that is no geometry.
    fields : dict of lists (n,)
        None where a feature lacks it.

    Raises
    ------
    FileError
        If it is no GeoJSON, or its reference system is given by a link.
    """
    import shapely

    doc = read_json(path, MOST_TEXT_BYTES)
    if not isinstance(doc, dict):
        raise FileError(path, "", "is no GeoJSON")
    kind = doc.get("type")
    features = doc.get("features") if kind == "FeatureCollection" else [doc]
    if kind in _SHAPES:
        features = [{"type": "Feature", "properties": {}, "geometry": doc}]
    if not isinstance(features, list) or kind not in ("FeatureCollection", "Feature", *_SHAPES):
        raise FileError(path, "", "is no GeoJSON")
    rows = [f if isinstance(f, dict) else {} for f in features]
    texts = [_text(row.get("geometry")) for row in rows]
    shapes = shapely.from_geojson(np.array(texts, object), on_invalid="ignore") if texts else np.array([], object)
    properties = [p if isinstance(p := row.get("properties"), dict) else {} for row in rows]
    names = list(dict.fromkeys(name for p in properties for name in p))
    if len(names) > _MOST_FIELDS:
        raise FileError(path, "", f"has {len(names)} properties; at most {_MOST_FIELDS} are read")
    return _crs(path, doc), shapes, {n: [p.get(n) for p in properties] for n in names}


def _text(shape: Any) -> str | None:
    if not isinstance(shape, dict) or shape.get("type") not in _SHAPES:
        return None
    return json.dumps({k: shape[k] for k in ("type", "coordinates", "geometries") if k in shape})


def _crs(path: Path, doc: dict[str, Any]) -> str:
    given = doc.get("crs")
    if given is None:
        return "EPSG:4326"
    name = (
        given.get("properties", {}).get("name") if isinstance(given, dict) and given.get("type") == "name" else None
    )
    if isinstance(name, str):
        if re.fullmatch(r"urn:ogc:def:crs:OGC:[\d.]*:CRS84h?", name):
            return "EPSG:4326"
        code = re.fullmatch(r"(?:urn:ogc:def:crs:)?EPSG:[\d.]*:?(\d{4,6})", name)
        if code:
            return f"EPSG:{code[1]}"
    raise FileError(path, "crs", "is not given by its EPSG number; links to elsewhere are not followed")


def numbers(values: list[Any]) -> Floats:
    """A property as numbers, NaN where it is none."""
    out = np.full(len(values), math.nan)
    for i, value in enumerate(values):
        if isinstance(value, int | float) and not isinstance(value, bool):
            out[i] = float(value)
        elif isinstance(value, str):
            try:
                out[i] = float(value.replace(",", "."))
            except ValueError:
                continue
    return out


def rings_and_points(shapes: Any) -> tuple[list[Floats], list[tuple[float, float]]]:
    """Closed rings of (latitude, longitude) and single places, without heights and what lies nowhere on earth."""
    import shapely

    rings: list[Floats] = []
    points: list[tuple[float, float]] = []
    for shape in shapely.get_parts(shapes[~shapely.is_missing(shapes)]) if len(shapes) else []:
        kind = int(shapely.get_type_id(shape))
        at = shapely.get_coordinates(shape)[:, ::-1]
        if not (np.isfinite(at).all() and (np.abs(at[:, 0]) <= 90).all() and (np.abs(at[:, 1]) <= 360).all()):
            continue
        if kind == 3:
            rings += [r for ring in shapely.get_rings(shape) if len(r := shapely.get_coordinates(ring)[:, ::-1]) >= 4]
        elif kind == 0 and len(at):
            points.append((float(at[0, 0]), float(at[0, 1])))
    return rings, points
