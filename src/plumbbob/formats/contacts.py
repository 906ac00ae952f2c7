"""Fish, bait and structure of a reading for other programs: CSV, GeoJSON, GPX. SI, WGS 84."""

from __future__ import annotations

import csv
import json
import math
from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.corrections import middle_of
from plumbbob.core.sonar.reading import Bait, Fish, Reading, StandingObject
from plumbbob.core.sonar.sizes import size_class, usual_strength
from plumbbob.files.atomic import check_target, write_text, writing
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import Waypoint, write_gpx

COLUMNS = (
    "kind", "time", "latitude", "longitude", "depth_m", "depth_sd_m", "height_above_bottom_m", "bottom_depth_m",
    "off_axis_m", "level_db", "strength_db", "size", "time_end", "depth_top_m", "depth_bottom_m", "length_m",
    "height_m", "shape", "hand",
)  # fmt: skip


def _known(value: float, digits: int) -> float | None:
    return round(value, digits) if math.isfinite(value) else None


def _fish_row(fish: Fish, usual: float) -> dict[str, Any]:
    return {
        "kind": "fish",
        "time": fish.time,
        "latitude": _known(fish.latitude, 8),
        "longitude": _known(fish.longitude, 8),
        "depth_m": _known(fish.depth_m, 2),
        "depth_sd_m": _known(fish.depth_sd_m, 2),
        "height_above_bottom_m": _known(fish.height_above_bottom_m, 2),
        "bottom_depth_m": _known(fish.depth_m + fish.height_above_bottom_m, 2),
        "off_axis_m": _known(fish.off_axis_m, 2),
        "level_db": _known(fish.level_db, 1),
        "strength_db": _known(fish.strength_db, 1),
        "size": size_class(fish, usual).word,
        "hand": fish.hand,
    }


def _bait_row(bait: Bait) -> dict[str, Any]:
    return {
        "kind": "bait",
        "time": bait.time_start,
        "time_end": bait.time_end,
        "latitude": _known(bait.latitude, 8),
        "longitude": _known(bait.longitude, 8),
        "depth_m": _known(middle_of(bait)[2], 2),
        "depth_top_m": _known(bait.depth_top_m, 2),
        "depth_bottom_m": _known(bait.depth_bottom_m, 2),
        "length_m": _known(bait.length_m, 1),
        "level_db": _known(bait.level_db, 1),
        "shape": bait.shape,
        "hand": bait.hand,
    }


def _standing_row(thing: StandingObject) -> dict[str, Any]:
    return {
        "kind": thing.detail or thing.kind,
        "time": thing.time_start,
        "time_end": thing.time_end,
        "latitude": _known(thing.latitude, 8),
        "longitude": _known(thing.longitude, 8),
        "depth_m": _known(thing.bottom_m - thing.height_m, 2),
        "bottom_depth_m": _known(thing.bottom_m, 2),
        "height_m": _known(thing.height_m, 2),
        "length_m": _known(thing.length_m, 1),
        "hand": thing.hand,
    }


def contacts(reading: Reading) -> list[dict[str, Any]]:
    """One row an echo, in order of time; what is not known is None."""
    usual = usual_strength(reading.fish)
    rows = [_fish_row(f, usual) for f in reading.fish]
    rows += [_bait_row(b) for b in reading.bait]
    rows += [_standing_row(s) for s in reading.standing]
    return sorted(rows, key=lambda r: r["time"])


def _iso(time: float) -> str:
    return datetime.fromtimestamp(time, UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def write_contacts(path: Path, reading: Reading, *, inputs: Iterable[Path] = ()) -> int:
    """
    Write all contacts in the form that the name asks for; returns how many were written.

    Raises
    ------
    FileError
        For any other ending. GeoJSON and GPX leave out what has no position.
    """
    rows = contacts(reading)
    for row in rows:
        row["utc"] = _iso(row["time"])
    check_target(path, inputs)
    kind = path.suffix.lower()
    placed = [r for r in rows if r["latitude"] is not None and r["longitude"] is not None]
    if kind == ".csv":
        with writing(path, inputs=inputs) as fresh, fresh.open("w", newline="", encoding="utf-8") as file:
            writer = csv.DictWriter(file, ("utc", *COLUMNS), restval="", extrasaction="ignore")
            writer.writeheader()
            writer.writerows({k: ("" if v is None else v) for k, v in r.items()} for r in rows)
        return len(rows)
    if kind in (".geojson", ".json"):
        features = [
            {
                "type": "Feature",
                "geometry": {"type": "Point", "coordinates": [r["longitude"], r["latitude"]]},
                "properties": {k: v for k, v in r.items() if k not in ("latitude", "longitude") and v is not None},
            }
            for r in placed
        ]
        write_text(path, json.dumps({"type": "FeatureCollection", "features": features}) + "\n", inputs=inputs)
        return len(placed)
    if kind == ".gpx":
        write_gpx(path, [_waypoint(r) for r in placed])
        return len(placed)
    raise FileError(path, "", "contacts are written as .csv, .geojson or .gpx")


def _waypoint(row: dict[str, Any]) -> Waypoint:
    numbers = {k: v for k, v in row.items() if k in COLUMNS[4:] and v not in (None, "")}
    depth = row.get("depth_m")
    return Waypoint(
        name=f"{row['kind']} {depth:g} m" if depth is not None else row["kind"],
        desc=f"{row['kind']} read from sonar; not for navigation",
        latitude=row["latitude"],
        longitude=row["longitude"],
        time=row["time"],
        numbers=numbers,
    )
