"""Commands that only the chart brings."""

from __future__ import annotations

import time

from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.words import place_title, why
from plumbbob.files.errors import FileError
from plumbbob.formats.gpx import Waypoint, write_gpx


def place_waypoints(session: Session, most: int = 30) -> list[Waypoint]:
    """The best places as waypoints: words in the units on screen, numbers in SI at datum."""
    chart = session.chart.chart
    if chart is None:
        return []
    out = []
    for number, place in enumerate(session.spots.places[:most], 1):
        feature = place.feature
        spot = chart.plane.place(feature.x, feature.y)
        out.append(
            Waypoint(
                name=f"{number} {place_title(session.display, feature, session.conditions.level_m)}",
                desc=why(session.display, place, 6),
                latitude=spot.latitude,
                longitude=spot.longitude,
                time=time.time(),
                numbers={
                    "kind": feature.kind,
                    "score": place.score,
                    "depth_top": feature.depth_top_m,
                    "depth_base": feature.depth_base_m,
                },
            )
        )
    return out


def _write_places(session: Session, asker: CommandHost) -> None:
    path = asker.save_path("Write the places", "plumbbob-places.gpx", "GPX (*.gpx)")
    if path is None:
        return
    points = place_waypoints(session)
    try:
        write_gpx(path, points)
    except FileError as exc:
        session.say(f"{exc}.", wrong=True)
        return
    session.say(f"{len(points)} places written to {path.name}.")


COMMANDS = (
    Command(
        id="file.places",
        title="Write places as GPX …",
        menu="File",
        group="Write",
        before="file.take_out",
        run=_write_places,
        enabled=lambda s: bool(s.spots.places),
        help="The ranked places with their reasons, as waypoints.",
    ),
)
