"""The words of the log on screen."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.models.session import Session
from plumbbob.store.values import Catch, Mark, Moment, Trip

DASH = "–"


def local_clock(session: Session, trip: Trip | None) -> Callable[[float], datetime]:
    """A time by the clock of a trip's own water."""
    zone = session.trips.zone_of(trip.water) if trip is not None else None

    def at(time: float) -> datetime:
        moment = datetime.fromtimestamp(time, UTC)
        return moment.astimezone(zone if zone is not None else session.water.clock)

    return at


def when_words(session: Session, time: float | None, water: str) -> str:
    """Day and time of a row; this year's without the year."""
    if time is None or not math.isfinite(time):
        return DASH
    zone = session.trips.zone_of(water)
    local = datetime.fromtimestamp(time, UTC).astimezone(zone if zone is not None else session.water.clock)
    trips = session.logbook.trips
    newest = trips[len(trips) - 1].start if len(trips) else None
    this_year = session.local(newest if newest is not None else time).year
    return f"{local.day} {local:%b %H:%M}" if local.year == this_year else f"{local.day} {local:%b %Y}"


def light_words(place: Position | None, time: float | None) -> str:
    """Night, dawn or dusk, day, high sun."""
    if place is None or time is None or not math.isfinite(time):
        return ""
    sun = sun_elevation_deg(place, time)
    if sun < -6.0:
        return "night"
    if sun < 6.0:
        return "dawn" if sun_elevation_deg(place, time + 600.0) > sun else "dusk"
    return "day" if sun < 20.0 else "high sun"


def duration_words(hours: float) -> str:
    """Hours and minutes."""
    minutes = round(60.0 * hours)
    return f"{minutes // 60} h {minutes % 60:02d}" if minutes >= 60 else f"{minutes} min"


def rod_words(session: Session, value: Any) -> str:
    """With what it was caught, or how a blank trip was fished."""
    if isinstance(value, Catch):
        effort = session.logbook.efforts.by_ref(value.effort)
        if effort is None:
            return value.rig
        return ", ".join(p for p in (effort.method, effort.lure, effort.colour) if p) or value.rig
    if isinstance(value, Trip):
        hours = session.trips.hours.get(value.ref, 0.0)
        return f"{duration_words(hours)} of rods in the water" if hours else ""
    if isinstance(value, Moment):
        return value.rig or value.lure_did
    return value.note if isinstance(value, Mark) else ""


def trip_words(session: Session, trip: Trip) -> str:
    """A trip in a line: where, when, how long."""
    if trip.start is None:
        return trip.water
    at = local_clock(session, trip)
    first = at(trip.start)
    words = f"{first:%a} {first.day} {first:%b %Y}"
    if trip.end is not None and trip.end > trip.start:
        words += f", {first:%H:%M} to {at(trip.end):%H:%M}"
    return f"{trip.water} · {words}" if trip.water else words


def caught_words(session: Session, catch: Catch) -> str:
    """A fish in a few words."""
    display = session.display
    parts = [display.species(catch.species)]
    if catch.length_m is not None:
        parts.append(display.words(catch.length_m, Kind.FISH))
    parts.append("kept" if catch.kept else "released")
    return ", ".join(parts)
