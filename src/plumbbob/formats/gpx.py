"""
Marks as GPX 1.1 waypoints; tracks read back.

Depths stand readable in `desc`, and as numbers in metres under `extensions` in a namespace of our own, so that a
plotter shows the words and a program gets the figures.
"""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ET
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.geodesy import separation
from plumbbob.core.sonar.recording import Track
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text
from plumbbob.files.text import printable

_MOST_BYTES = 200_000_000
_LATEST = 1e10  # seconds since 1970: no boat was out later
NAMESPACE = "urn:plumbbob:gpx:1"


@dataclass(frozen=True, slots=True, kw_only=True)
class Waypoint:
    """One place to write: the words are the caller's, in the units of the person."""

    name: str
    desc: str
    latitude: float
    longitude: float
    time: float
    numbers: dict[str, float | int | str]  # written under extensions, SI
    symbol: str = ""  # what a plotter may draw


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """A line to follow: (latitude, longitude, depth in metres or None) of each point."""

    name: str
    desc: str
    points: Sequence[tuple[float, float, float | None]]


def gpx_text(waypoints: Sequence[Waypoint], routes: Sequence[Route] = ()) -> str:
    """The whole file as text, valid against the GPX 1.1 schema."""
    import gpxpy.gpx  # slow to load, and only wanted here

    gpx = gpxpy.gpx.GPX()
    gpx.creator = "Plumbbob"
    gpx.name = "Plumbbob marks"
    gpx.description = "Not for navigation."
    gpx.nsmap["plumb"] = NAMESPACE
    for point in waypoints:
        element = gpxpy.gpx.GPXWaypoint(
            latitude=round(point.latitude, 8),
            longitude=round((point.longitude + 180.0) % 360.0 - 180.0, 8),
            time=datetime.fromtimestamp(point.time, UTC) if math.isfinite(point.time) else None,
            name=point.name,
            description=point.desc,
            symbol=point.symbol or None,
        )
        for key, value in point.numbers.items():
            child = ET.Element(f"{{{NAMESPACE}}}{key}")
            child.text = f"{value:.3f}" if isinstance(value, float) else str(value)
            element.extensions.append(child)
        gpx.waypoints.append(element)
    for route in routes:
        way = gpxpy.gpx.GPXRoute(name=route.name, description=route.desc)
        for latitude, longitude, depth in route.points:
            spot = gpxpy.gpx.GPXRoutePoint(latitude=round(latitude, 8), longitude=round(longitude, 8))
            if depth is not None:
                spot.description = f"{depth:.1f} m"
                child = ET.Element(f"{{{NAMESPACE}}}depth")
                child.text = f"{depth:.3f}"
                spot.extensions.append(child)
            way.points.append(spot)
        gpx.routes.append(way)
    return gpx.to_xml(version="1.1")


def write_gpx(path: Path, waypoints: Sequence[Waypoint], routes: Sequence[Route] = ()) -> None:
    """Write the file whole or not at all."""
    write_text(path, gpx_text(waypoints, routes))


def _timed(point: Any) -> tuple[float, float, float] | None:
    """A point's time, latitude and longitude; None where one of them is none."""
    if point.time is None or point.latitude is None or point.longitude is None:
        return None
    try:
        at = (_stamp(point.time), float(point.latitude), float(point.longitude))
    except (ValueError, OverflowError, OSError):
        return None
    return at if 0.0 < at[0] < _LATEST and abs(at[1]) <= 90.0 and abs(at[2]) <= 360.0 else None


def _parsed(path: Path) -> Any:
    """The whole file; raises FileError if it is no GPX, or points to other files."""
    import gpxpy
    import gpxpy.gpx

    text = read_text(path, _MOST_BYTES, encoding="utf-8-sig")
    if re.search(r"<!(DOCTYPE|ENTITY)", text, re.IGNORECASE):
        raise FileError(path, "", "points to other files, which are not read")
    try:
        parsed = gpxpy.parse(text)
    except Exception as exc:
        # the library and the parsers below it each have errors of their own
        raise FileError(path, "", "not readable as GPX") from exc
    return parsed


def read_track(path: Path) -> Track:
    """
    Every point with a time of a GPX file's tracks, in order of time.

    Raises
    ------
    FileError
        If it is no GPX file or holds no track with times.
    """
    parsed = _parsed(path)
    points = [
        at
        for track in parsed.tracks
        for segment in track.segments
        for p in segment.points
        if (at := _timed(p)) is not None
    ]
    if len(points) < 2:
        raise FileError(path, "track", "holds no points with times")
    time, latitude, longitude = np.array(sorted(points), np.float64).T
    fresh = np.concatenate(([True], np.diff(time) > 0))
    time, latitude, longitude = time[fresh], latitude[fresh], longitude[fresh]
    east, north = separation(latitude[:-1], longitude[:-1], latitude[1:], longitude[1:])
    speed = np.hypot(east, north) / np.maximum(np.diff(time), 1e-3)
    course = np.degrees(np.arctan2(east, north)) % 360.0
    return Track(
        time=time,
        latitude=latitude,
        longitude=longitude,
        speed_mps=np.append(speed, speed[-1:]),
        course_deg=np.append(course, course[-1:]),
        heading_deg=np.full(time.size, np.nan),
        temperature_c=np.full(time.size, np.nan),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class GpxPlaces:
    """What a GPX file holds: waypoints with their words, and ways as (n, 2) latitudes and longitudes by name."""

    waypoints: tuple[Waypoint, ...]
    ways: tuple[tuple[str, NDArray[np.float64]], ...]


def read_gpx(path: Path) -> GpxPlaces:
    """
    Waypoints, tracks and routes of any GPX file.

    Raises
    ------
    FileError
        If it is no GPX file, or holds nothing.
    """
    parsed = _parsed(path)
    points = []
    for k, point in enumerate(parsed.waypoints):
        if not _on_earth(point):
            continue
        stamp = _stamp(point.time)
        points.append(
            Waypoint(
                name=printable(point.name or f"waypoint {k + 1}", 120),
                desc=printable(" ".join(t for t in (point.description, point.comment) if t), 400),
                latitude=float(point.latitude),
                longitude=float(point.longitude),
                time=stamp if 0.0 < stamp < _LATEST else math.nan,
                symbol=printable(point.symbol or point.type or "", 60),
                numbers={
                    child.tag.split("}")[1]: child.text or ""
                    for child in point.extensions
                    if isinstance(child.tag, str) and child.tag.startswith(f"{{{NAMESPACE}}}")
                },
            )
        )
    ways = [(t.name or "track", [p for s in t.segments for p in s.points]) for t in parsed.tracks]
    ways += [(r.name or "route", r.points) for r in parsed.routes]
    lines = tuple(
        (printable(name, 120), np.array([(p.latitude, p.longitude) for p in along if _on_earth(p)], np.float64))
        for name, along in ways
    )
    lines = tuple((name, line) for name, line in lines if len(line) >= 2)
    if not points and not lines:
        raise FileError(path, "", "holds no waypoints, tracks or routes")
    return GpxPlaces(waypoints=tuple(points), ways=lines)


def _stamp(when: datetime | None) -> float:
    """Seconds since 1970; a time without a zone is UTC, as the format has it. NaN where there is none."""
    if when is None:
        return math.nan
    try:
        return (when if when.tzinfo is not None else when.replace(tzinfo=UTC)).timestamp()
    except (ValueError, OverflowError, OSError):
        return math.nan


def _on_earth(point: Any) -> bool:
    try:
        return abs(float(point.latitude)) <= 90.0 and abs(float(point.longitude)) <= 360.0
    except (TypeError, ValueError):
        return False
