"""
Marks as GPX 1.1 waypoints.

Depths stand readable in `desc`, and as numbers in metres under `extensions` in a namespace of our own, so that a
plotter shows the words and a program gets the figures.
"""

from __future__ import annotations

import os
import xml.etree.ElementTree as ET
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

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


def write_gpx(
    path: Path,
    waypoints: Sequence[Waypoint],
    routes: Sequence[Route] = (),
    *,
    replace: Callable[[Path, Path], None] = os.replace,
) -> None:
    """Write the file whole or not at all."""
    partial = path.with_name(path.name + ".part")
    try:
        partial.write_text(gpx_text(waypoints, routes), encoding="utf-8")
        replace(partial, path)
    finally:
        partial.unlink(missing_ok=True)
