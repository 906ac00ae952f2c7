"""From what is chosen on screen to a mark or a catch, and the words about them."""

from __future__ import annotations

import math
import time

import numpy as np

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.rig.cast import CastPlan
from plumbbob.core.rig.rod import Amount, CannotReach, RigAnswer
from plumbbob.core.sonar.fish_association import together
from plumbbob.core.sonar.reading import Bait, Fish, SideFish, SideThing, Standing
from plumbbob.core.units import Kind
from plumbbob.desk.models.recording_model import Sight
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.side.words import thing_word
from plumbbob.formats.gpx import Route, Waypoint
from plumbbob.store.values import Catch, Mark, MarkKind

_BOAT_SD_M = 1.5


def _known(value: float) -> float | None:
    return value if math.isfinite(value) else None


def moment(session: Session) -> float:
    """The time on screen: that of the pass under the cursor, else the present."""
    on_pass = session.stage in ("scan", "log") and math.isfinite(session.scan.time)
    return session.scan.time if on_pass else time.time()


def mark_here(session: Session) -> Mark | None:
    """A mark of what is chosen, or of the place under the cursor; None without a position."""
    scan = session.scan
    place = session.chosen_place()
    if session.stage == "water":
        return _mark_on_chart(session, place)
    if place is None or scan.recording is None:
        return None
    if session.stage == "scan" and scan.sight is Sight.SIDE:
        return _mark_abeam(session, place)
    if session.stage == "scan" and scan.sight is Sight.AHEAD and session.ahead.chosen is not None:
        return _mark_ahead(session, place)
    echo = scan.chosen
    kind, time, depth, sd, seen = MarkKind.PLACE, scan.time, scan.cursor.depth_m, _BOAT_SD_M, 1
    bed = scan.bottom_m
    if isinstance(echo, Fish):
        kind, time, depth, sd = MarkKind.FISH, echo.time, echo.depth_m, echo.position_sd_m
        seen = together(scan.reading, echo)
        bed = echo.depth_m + echo.height_above_bottom_m
    elif isinstance(echo, Bait):
        kind, time = MarkKind.BAIT, (echo.time_start + echo.time_end) / 2
        depth = (echo.depth_top_m + echo.depth_bottom_m) / 2
        bed = scan.reading.bottom.depth_at(time)
    elif isinstance(echo, Standing):
        kind, time = MarkKind.STRUCTURE, (echo.time_start + echo.time_end) / 2
        depth, bed, seen = echo.bottom_m - echo.height_m, echo.bottom_m, max(echo.fish_inside + echo.fish_over, 1)
    return Mark(
        water=session.water.name,
        kind=kind,
        time=time,
        latitude=place.latitude,
        longitude=place.longitude,
        position_sd_m=_known(sd),
        depth_m=_known(depth),
        bottom_depth_m=_known(bed),
        seen=seen,
        source=scan.recording.name,
    )


def _mark_abeam(session: Session, place: Position) -> Mark:
    """A mark of what was seen to one side: left or right, how far, and what it lies off."""
    scan, side, look = session.scan, session.side, session.look
    assert scan.recording is not None
    echo, time = side.chosen, scan.time
    kind, depth, sd, across = MarkKind.PLACE, None, None, side.cursor_ground_m
    which, off = side.cursor_side, side.lies_off(place)
    draft = side.view.mount.depth_m if side.view is not None else 0.0
    if echo is not None:
        time, which, across = echo.time, echo.side, echo.ground_m
    bed = _known(side.altitude_at(time) + draft)
    if isinstance(echo, SideFish):
        kind, depth, sd = MarkKind.FISH, _known(echo.depth_m), echo.position_sd_m
    elif isinstance(echo, SideThing):
        kind, sd, off = MarkKind.STRUCTURE, echo.ground_sd_m + _BOAT_SD_M, None
        depth = None if bed is None else bed - echo.height_m
    where = f"{look.words(across, Kind.DISTANCE, 0)} to {which}" if math.isfinite(across) else f"to {which}"
    near = echo.beside if isinstance(echo, SideFish) and echo.beside else thing_word(off) if off is not None else ""
    words = [where] + ([f"off {near}"] if near else [])
    if isinstance(echo, SideThing):
        words.insert(0, thing_word(echo))
    return Mark(
        water=session.water.name,
        kind=kind,
        time=time,
        latitude=place.latitude,
        longitude=place.longitude,
        position_sd_m=_known(sd) if sd is not None else _BOAT_SD_M,
        depth_m=depth,
        bottom_depth_m=bed,
        source=scan.recording.name,
        note=", ".join(words),
    )


def _mark_ahead(session: Session, place: Position) -> Mark:
    """A mark of a fish ahead, where it is now."""
    scan, track = session.scan, session.ahead.chosen
    assert scan.recording is not None
    assert track is not None
    now = session.ahead.now(track)
    return Mark(
        water=session.water.name,
        kind=MarkKind.FISH if track.kind == "fish" else MarkKind.PLACE,
        time=scan.time,
        latitude=place.latitude,
        longitude=place.longitude,
        position_sd_m=_known(track.position_sd_m),
        depth_m=_known(now.depth_m),
        bottom_depth_m=_known(session.ahead.bottom_m),
        source=scan.recording.name,
        note=f"{session.look.words(now.distance_m, Kind.DISTANCE, 0)} ahead",
    )


def _mark_on_chart(session: Session, place: Position | None) -> Mark | None:
    """A mark of the chosen structure, or of the spot under the chart's cursor."""
    chosen = session.places.chosen
    if place is None:
        return None
    depth = session.chart.depth_m + session.day.level_m
    return Mark(
        water=session.water.name,
        kind=MarkKind.STRUCTURE if chosen is not None else MarkKind.PLACE,
        time=time.time(),
        latitude=place.latitude,
        longitude=place.longitude,
        depth_m=_known(depth),
        bottom_depth_m=_known(depth),
        note=chosen.feature.kind if chosen is not None else "",
    )


def rig_words(session: Session) -> str:
    """How the rod is rigged, in words for the log."""
    settings, answer, look = session.rig.settings, session.rig.answer, session.look
    plan = cast_plan(session)
    if plan is not None:
        where = look.words(plan.land_m, Kind.DISTANCE, 0)
        return f"{session.rig.cast_lure.name}, cast {where}, counted {plan.count_s:.0f} s"
    speed = look.words(settings.speed_mps, Kind.SPEED)
    if isinstance(answer, CannotReach):
        return f"{settings.method.value}, {speed}"
    if answer.amount is Amount.COUNT:
        return f"{settings.lure.name}, counted {answer.value:.0f} s"
    amount = f"{look.words(answer.value, Kind.LENGTH)} {answer.amount.value}"
    return f"{amount}, {speed}, {settings.lure.name}, {settings.method.value}"


def cast_plan(session: Session) -> CastPlan | None:
    """The cast that is being made to a fish ahead."""
    return session.ahead.plan if session.stage == "scan" and session.scan.sight is Sight.AHEAD else None


def lure_depth(session: Session) -> float:
    """Where the lure runs: where the cast passes the fish, else the bob."""
    plan = cast_plan(session)
    if plan is not None:
        return plan.pass_depth_m
    answer = session.rig.answer
    return answer.depth_m if isinstance(answer, RigAnswer) else session.rig.bob_m


def mark_words(session: Session, mark: Mark) -> str:
    """One line about a mark."""
    look = session.look
    parts = [
        f"{mark.kind.value} {look.words(mark.depth_m, Kind.DEPTH)} down"
        if mark.depth_m is not None
        else mark.kind.value
    ]
    up = mark.height_above_bottom_m
    if up is not None:
        parts.append(f"{look.words(up, Kind.DEPTH)} off bottom")
    if mark.seen > 1:
        parts.append(f"{mark.seen} together")
    if mark.note:
        parts.append(mark.note)
    return ", ".join(parts)


def waypoints(session: Session) -> list[Waypoint]:
    """All marks for a GPX file: words in the units on screen, numbers in SI."""
    look = session.look
    out = []
    for mark in session.logbook.marks:
        catches = session.logbook.catches_at(mark.id)
        words = [mark_words(session, mark)]
        if mark.bottom_depth_m is not None:
            words.append(f"bottom {look.words(mark.bottom_depth_m, Kind.DEPTH)}")
        if catches:
            words.append(f"{len(catches)} caught: {', '.join(c.species for c in catches)}")
        if mark.position_sd_m is not None:
            words.append(f"place good to ±{mark.position_sd_m:.0f} m")
        numbers: dict[str, float | int | str] = {"kind": mark.kind.value, "seen": mark.seen, "caught": len(catches)}
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
                name=f"{mark.kind.value} {len(catches)}/{mark.seen}",
                desc="; ".join(words),
                latitude=mark.latitude,
                longitude=mark.longitude,
                time=mark.time,
                numbers=numbers,
            )
        )
    return out


def place_waypoints(session: Session, most: int = 30) -> list[Waypoint]:
    """The best places as waypoints: words in the units on screen, numbers in SI at datum."""
    from plumbbob.desk.views.chart.words import place_title, why

    chart = session.chart.chart
    if chart is None:
        return []
    out = []
    for number, place in enumerate(session.places.places[:most], 1):
        feature = place.feature
        spot = chart.plane.place(feature.x, feature.y)
        out.append(
            Waypoint(
                name=f"{number} {place_title(session.look, feature, session.day.level_m)}",
                desc=why(session.look, place, 6),
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


def drawn_route(session: Session) -> Route | None:
    """The drawn line or lane as a route: a point every dozen metres, depths of today."""
    chart, drawn = session.chart.chart, session.chart.drawn
    if chart is None or drawn is None:
        return None
    step = max(round(12.0 / max(float(drawn.along_m[1] - drawn.along_m[0]), 0.1)), 1)
    keep = list(range(0, len(drawn.line), step))
    latitude, longitude = chart.plane.to_latlon(drawn.line[keep, 0], drawn.line[keep, 1])
    depth = drawn.depth_m[keep] + session.day.level_m
    kind = "lane" if drawn.lane is not None else "line"
    known = depth[np.isfinite(depth)]
    middle = session.look.words(float(np.median(known)), Kind.DEPTH) if known.size else "water not sounded"
    points = [
        (float(a), float(b), float(d) if math.isfinite(d) else None)
        for a, b, d in zip(latitude, longitude, depth, strict=True)
    ]
    return Route(name=f"{kind} {middle}", desc=f"{kind} over {middle}; not for navigation", points=points)


def place_words(place: Position | None) -> str:
    """A position as written, or a dash."""
    return "no position" if place is None else write_position(place)


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
    at = moment(session) if when is None else when
    fresh = mark_here(session) if where is None else None
    place = session.chosen_place() if where is None else where
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
    catch = Catch(
        mark_id=mark.id,
        time=at,
        species=species,
        length_m=length_m,
        kept=kept,
        rig=rig_words(session),
        lure_depth_m=depth_m,
    )
    return mark, catch
