"""
Marks as GPX 1.1 waypoints; tracks read back.

Depths stand readable in `desc`, and as numbers in metres under `extensions` in a namespace of our own, so that a
plotter shows the words and a program gets the figures.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.geodesy import separation
from plumbbob.core.sonar.recording import Track
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

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
            time=datetime.fromtimestamp(point.time, UTC),
            name=point.name,
            description=point.desc,
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
        at = (point.time.timestamp(), float(point.latitude), float(point.longitude))
    except (ValueError, OverflowError, OSError):
        return None
    return at if 0.0 < at[0] < _LATEST and abs(at[1]) <= 90.0 and abs(at[2]) <= 360.0 else None


def read_track(path: Path) -> Track:
    """
    Every point with a time of a GPX file's tracks, in order of time.

    Raises
    ------
    FileError
        If it is no GPX file or holds no track with times.
    """
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
