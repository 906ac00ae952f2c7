"""From what is chosen on screen to a mark or a catch, and the words about them."""

from __future__ import annotations

import math

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.rig.rod import Amount, CannotReach, RigAnswer
from plumbbob.core.units import Kind
from plumbbob.desk.commands import landing
from plumbbob.desk.models.session import Session
from plumbbob.formats.gpx import Route, Waypoint
from plumbbob.services.marks_out import SYMBOLS
from plumbbob.store.values import Catch, Effort, Mark, MarkKind

BOAT_SD_M = 1.5


def known(value: float) -> float | None:
    """As the log holds it: nothing where it is not known."""
    return value if math.isfinite(value) else None


def rig_words(session: Session) -> str:
    """How the rod is rigged, in words for the log."""
    settings, answer, display = session.rig.settings, session.rig.answer, session.display
    plan = session.view.cast_plan
    if plan is not None:
        where = display.words(plan.land_m, Kind.DISTANCE, 0)
        return f"{session.rig.cast_lure.name}, cast {where}, counted {plan.count_s:.0f} s"
    speed = display.words(settings.speed_mps, Kind.SPEED)
    if isinstance(answer, CannotReach):
        return f"{settings.method.value}, {speed}"
    if answer.amount is Amount.COUNT:
        return f"{settings.lure.name}, counted {answer.value:.0f} s"
    amount = f"{display.words(answer.value, Kind.LENGTH)} {answer.amount.value}"
    return f"{amount}, {speed}, {settings.lure.name}, {settings.method.value}"


def lure_depth(session: Session) -> float:
    """Where the lure runs: where the cast passes the fish, else the bob."""
    plan = session.view.cast_plan
    if plan is not None:
        return plan.pass_depth_m
    answer = session.rig.answer
    return answer.depth_m if isinstance(answer, RigAnswer) else session.rig.bob_m


def lure_depth_now(session: Session) -> float:
    """Of the picked stretch where a past trip is on screen, else where the lure runs now."""
    stretch = session.trips.picked if session.stage == "log" else None
    if isinstance(stretch, Effort) and stretch.lure_depth_m is not None:
        return stretch.lure_depth_m
    return lure_depth(session)


def mark_words(session: Session, mark: Mark) -> str:
    """One line about a mark."""
    display = session.display
    parts = [
        f"{mark.kind.value} {display.words(mark.depth_m, Kind.DEPTH)} down"
        if mark.depth_m is not None
        else mark.kind.value
    ]
    up = mark.height_above_bottom_m
    if up is not None:
        parts.append(f"{display.words(up, Kind.DEPTH)} off bottom")
    if mark.seen > 1:
        parts.append(f"{mark.seen} together")
    if mark.note:
        parts.append(mark.note)
    return ", ".join(parts)


def waypoints(session: Session) -> list[Waypoint]:
    """All marks for a GPX file: words in the units on screen, numbers in SI."""
    display = session.display
    out = []
    for mark in session.logbook.marks:
        catches = session.logbook.catches_at(mark.id)
        words = [mark_words(session, mark)]
        if mark.bottom_depth_m is not None:
            words.append(f"bottom {display.words(mark.bottom_depth_m, Kind.DEPTH)}")
        if catches:
            words.append(f"{len(catches)} caught: {', '.join(display.species(c.species) for c in catches)}")
        if mark.position_sd_m is not None:
            words.append(f"place good to ±{mark.position_sd_m:.0f} m")
        caught = session.logbook.caught_at(mark)
        numbers: dict[str, float | int | str] = {"kind": mark.kind.value, "seen": mark.seen, "caught": caught}
        for key, value in (
            ("depth", mark.depth_m),
            ("bottom_depth", mark.bottom_depth_m),
            ("height_above_bottom", mark.height_above_bottom_m),
            ("position_sd", mark.position_sd_m),
        ):
            if value is not None:
                numbers[key] = float(value)
        out.append(
            Waypoint(
                name=mark.name or f"{mark.kind.value} {caught}/{mark.seen}",
                desc="; ".join(words),
                latitude=mark.latitude,
                longitude=mark.longitude,
                time=mark.time,
                numbers=numbers,
                symbol=SYMBOLS[mark.kind],
            )
        )
    return out


def drawn_route(session: Session) -> Route | None:
    """The drawn line or lane as a route: a point every dozen metres, depths of today."""
    chart, drawn = session.chart.chart, session.chart.drawn
    if chart is None or drawn is None:
        return None
    step = max(round(12.0 / max(float(drawn.along_m[1] - drawn.along_m[0]), 0.1)), 1)
    keep = list(range(0, len(drawn.line), step))
    latitude, longitude = chart.plane.to_latlon(drawn.line[keep, 0], drawn.line[keep, 1])
    depth = drawn.depth_m[keep] + session.conditions.level_m
    kind = "lane" if drawn.lane is not None else "line"
    known = depth[np.isfinite(depth)]
    middle = session.display.words(float(np.median(known)), Kind.DEPTH) if known.size else "water not sounded"
    points = [
        (float(a), float(b), float(d) if math.isfinite(d) else None)
        for a, b, d in zip(latitude, longitude, depth, strict=True)
    ]
    return Route(name=f"{kind} {middle}", desc=f"{kind} over {middle}; not for navigation", points=points)


def new_catch(
    session: Session,
    species: str,
    length_m: float | None,
    kept: bool,
    depth_m: float | None,
    *,
    when: float | None = None,
    where: Position | None = None,
) -> tuple[Mark, Catch] | None:
    """
    A catch and the mark it belongs to: the nearest within reach, else a new one. None without a position.

    `when` and `where` were typed; else they are those of the moment on screen.
    """
    at = session.view.moment if when is None else when
    fresh = session.view.mark() if where is None else None
    place = session.view.place if where is None else where
    if place is None:
        return None
    if fresh is None:
        fresh = Mark(
            water=session.water.name,
            kind=MarkKind.FISH,
            time=at,
            latitude=place.latitude,
            longitude=place.longitude,
        )
    mark = session.logbook.nearest(place) or fresh
    stretch = session.trips.picked if session.stage == "log" else None
    effort = stretch if isinstance(stretch, Effort) else None
    catch = Catch(
        mark_id=mark.id,
        effort=effort.ref if effort is not None else "",
        trip=effort.trip if effort is not None else "",
        time=at,
        species=species,
        length_m=length_m,
        kept=kept,
        rig=rig_words(session) if effort is None else ", ".join(p for p in (effort.method, effort.lure) if p),
        latitude=place.latitude,
        longitude=place.longitude,
        fish_depth_m=mark.depth_m,
        lure_depth_m=depth_m,
        bottom_depth_m=mark.bottom_depth_m,
        around=landing.around_text(session, place, at),
    )
    return mark, catch
