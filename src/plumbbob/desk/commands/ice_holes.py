"""Holes in the ice: a coarse round over the chart, or a finer one about the chosen mark, saved as marks in order."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import TYPE_CHECKING

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.holes import Hole, IceSeason, coarse_search, refine, walk_m
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Mark, MarkKind

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart

_MOST, _NEAR_M = 16, 400.0
_EARLY, _LATE = (11, 12), (3, 4, 5)  # months of a northern winter
_STAY_OFF_M = 0.10


def ice_season(time_s: float, latitude: float) -> IceSeason:
    """
    How far the winter is, by the month.

    Examples
    --------
    >>> [ice_season(t, 49.0).value for t in (1764547200.0, 1769904000.0, 1774051200.0)]
    ['early', 'middle', 'late']
    """
    month = datetime.fromtimestamp(time_s, UTC).month
    if latitude < 0:
        month = (month + 5) % 12 + 1
    return IceSeason.EARLY if month in _EARLY else IceSeason.LATE if month in _LATE else IceSeason.MIDDLE


def can_plan_holes(session: Session) -> bool:
    """There is a chart, and a log to keep them in."""
    return session.chart.chart is not None and session.logbook.is_open


def plan_holes(session: Session, asker: CommandHost) -> None:
    """Holes about the chosen mark where one is chosen on this water, else a round over the whole chart."""
    chart, level, moment = session.chart.chart, session.conditions.level_m, session.conditions.time_s
    assert chart is not None
    middle = session.water.place or chart.plane.place(chart.grid.frame.x0_m, chart.grid.frame.y0_m)
    about = _about(session, chart)
    season = ice_season(moment, middle.latitude)

    def work(progress: Progress) -> tuple[Hole, ...]:
        depth = chart.grid.depth_m + level
        if about is not None:
            return refine(about, chart.grid.frame, depth)
        return coarse_search(chart.grid.frame, depth, season, deepest_m=chart.deepest_m + level, most=_MOST)

    def done(holes: tuple[Hole, ...]) -> None:
        marks = [_mark(session, chart, k, hole, moment, about is not None) for k, hole in enumerate(holes, 1)]
        try:
            kept = session.logbook.add_marks(marks)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        if not kept:
            session.say("No new holes: those there are as close as they are worth.")
            return
        what = "about the mark" if about is not None else f"for {season.value} ice"
        way, thin = (
            session.display.words(walk_m(holes), Kind.DISTANCE, 0),
            session.display.words(_STAY_OFF_M, Kind.FISH, 0),
        )
        session.say(f"{kept} holes {what}, {way} of way. No ice is certain: test each, stay off under {thin}.")

    session.jobs.start("Planning holes", work, done, brief=True)


def _about(session: Session, chart: Chart) -> Hole | None:
    mark = session.logbook.chosen
    if mark is None or mark.latitude != mark.latitude:
        return None
    x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
    depth = chart.grid.frame.nearest(chart.grid.depth_m, float(x), float(y))
    if not depth > 0:
        return None
    return Hole(x=float(x), y=float(y), depth_m=float(depth) + session.conditions.level_m, why="a mark")


def _mark(session: Session, chart: Chart, number: int, hole: Hole, time_s: float, fine: bool) -> Mark:
    place: Position = chart.plane.place(hole.x, hole.y)
    return Mark(
        water=session.water.name,
        kind=MarkKind.PLACE,
        time=time_s,
        latitude=place.latitude,
        longitude=place.longitude,
        bottom_depth_m=hole.depth_m,
        name=f"{'near hole' if fine else 'hole'} {number}",
        note=hole.why,
        seen=0,
    )
