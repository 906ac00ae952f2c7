"""Marks for other programs: what symbol a kind has and which kind a symbol means; tables of marks in open files."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from plumbbob.files.atomic import write_text, writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.gpx import Waypoint, write_gpx
from plumbbob.store.values import MarkKind

# a word that says what it is; plotters that know it not draw their usual one
SYMBOLS = {
    MarkKind.FISH: "fish", MarkKind.BAIT: "bait", MarkKind.STRUCTURE: "structure", MarkKind.HAZARD: "hazard",
    MarkKind.PLACE: "place",
}  # fmt: skip
# what other people's symbols are called, by words in their names; the first that fits
_MEANT: tuple[tuple[MarkKind, tuple[str, ...]], ...] = (
    (MarkKind.HAZARD, ("danger", "hazard", "wreck", "rock", "skull", "shallow", "obstruct", "warning")),
    (MarkKind.BAIT, ("bait", "baitfish", "school")),
    (MarkKind.STRUCTURE, ("structure", "tree", "stump", "weed", "brush", "ledge", "reef", "hump", "pile", "bridge")),
    (MarkKind.FISH, ("fish", "bass", "trout", "pike", "perch")),
)
ENDINGS = (".gpx", ".csv", ".geojson", ".gpkg")


def kind_of_symbol(symbol: str) -> MarkKind:
    """
    What a symbol of any plotter most likely means; a place where it says nothing.

    Examples
    --------
    >>> kind_of_symbol("Danger Area"), kind_of_symbol("Fishing Hot Spot"), kind_of_symbol("Flag, Blue")
    (<MarkKind.HAZARD: 'hazard'>, <MarkKind.FISH: 'fish'>, <MarkKind.PLACE: 'place'>)
    """
    name = symbol.lower()
    return next((kind for kind, words in _MEANT if any(w in name for w in words)), MarkKind.PLACE)


def write_marks(path: Path, points: Sequence[Waypoint]) -> None:
    """
    Marks as GPX, CSV, GeoJSON or GeoPackage, by the ending.

    Raises
    ------
    FileError
    """
    ending = path.suffix.lower()
    if ending == ".gpx":
        write_gpx(path, points)
    elif ending == ".csv":
        write_text(path, _csv([_row(p) for p in points]))
    elif ending == ".geojson":
        write_text(path, _geojson([_row(p) for p in points]))
    elif ending == ".gpkg":
        _geopackage(path, [_row(p) for p in points])
    else:
        raise FileError(path, "", f"marks are written as {', '.join(ENDINGS)}")


def _row(point: Waypoint) -> dict[str, Any]:
    time = None if point.time != point.time else round(point.time, 3)
    return {"name": point.name, "time": time, "latitude": point.latitude, "longitude": point.longitude,
            "words": point.desc, **point.numbers}  # fmt: skip


def _names(rows: Sequence[Mapping[str, Any]]) -> list[str]:
    return list(dict.fromkeys(name for row in rows for name in row))


def _csv(rows: Sequence[Mapping[str, Any]]) -> str:
    out = io.StringIO()
    writer = csv.DictWriter(out, _names(rows), lineterminator="\n", restval="")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def _geojson(rows: Sequence[Mapping[str, Any]]) -> str:
    features = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": [row["longitude"], row["latitude"]]},
            "properties": {k: v for k, v in row.items() if k not in ("latitude", "longitude")},
        }
        for row in rows
    ]
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False, indent=1) + "\n"


def _geopackage(path: Path, rows: Sequence[Mapping[str, Any]]) -> None:
    import numpy as np
    import pyogrio.raw
    import shapely

    names = [n for n in _names(rows) if n not in ("latitude", "longitude")]
    geometry = shapely.to_wkb(shapely.points([r["longitude"] for r in rows], [r["latitude"] for r in rows]))
    words = ("name", "words", "kind")
    data = [
        np.array([str(r.get(n, "")) for r in rows], dtype=object)
        if n in words
        else np.array([np.nan if r.get(n) is None else float(r[n]) for r in rows])
        for n in names
    ]
    try:
        with writing(path) as fresh:
            pyogrio.raw.write(
                fresh, geometry=geometry, field_data=data, fields=np.array(names, dtype=object), driver="GPKG",
                geometry_type="Point", crs="EPSG:4326", layer="marks",
            )  # fmt: skip
    except (pyogrio.errors.DataSourceError, OSError, ValueError) as exc:
        raise FileError(path, "", f"could not be written: {why(exc)}") from exc
