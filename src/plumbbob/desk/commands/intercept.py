"""From bait to the place to wait for what hunts it: found on the chart, drawn there. No widgets here."""

from __future__ import annotations

import numpy as np

from plumbbob.core.chart.build import Chart
from plumbbob.core.sonar.reading import Bait
from plumbbob.core.units import Kind
from plumbbob.desk.models.chart_model import Drawn
from plumbbob.desk.models.line import as_line
from plumbbob.desk.models.session import Session


def can_wait(session: Session) -> bool:
    """There is a chart, and bait or a cursor on it."""
    return session.chart.chart is not None


def wait_between(session: Session) -> None:
    """Draw the way from deep water to the bait, and the place on it to wait at; again takes it away."""
    chart = session.chart.chart
    if chart is None:
        return
    if session.chart.drawn is not None and session.chart.drawn.wait is not None:
        session.chart.set_drawn(None)
        return
    from plumbbob.core.chart.intercept import find_intercept

    where = _bait(session, chart)
    if where is None:
        session.say("No bait was read, and the chart has no cursor: click where the bait is.", wrong=True)
        return
    (x, y), whose = where
    try:
        found = find_intercept(chart.grid, x, y)
    except ValueError as exc:
        session.say(as_line(exc), wrong=True)
        return
    n = 60
    share = np.linspace(0.0, 1.0, n)
    line = np.column_stack([found.deep_x + share * (x - found.deep_x), found.deep_y + share * (y - found.deep_y)])
    along = share * float(np.hypot(found.deep_x - x, found.deep_y - y))
    depth = chart.grid.frame.sample(chart.grid.depth_m, line[:, 0], line[:, 1])
    display, level = session.display, session.conditions.level_m
    away = display.words(found.from_bait_m, Kind.DISTANCE, 0)
    lip = display.words(found.depth_m + level, Kind.DEPTH, 0)
    session.chart.set_drawn(
        Drawn(title="from deep water to the bait", line=line, along_m=along, depth_m=depth, wait=(found.x, found.y))
    )
    session.chart.set_cursor(found.x, found.y)
    session.set_stage("water")
    session.chart.centre_on(found.x, found.y, closer=True)
    session.say(
        f"Wait at the lip, {lip} deep, {away} from {whose}: hunters pass there; in the bait a lure is one of many."
    )


def _bait(session: Session, chart: Chart) -> tuple[tuple[float, float], str] | None:
    """The chosen bait, the largest of the pass, or the cursor on the chart."""
    chosen = session.scan.chosen
    if session.view.points_on_chart and session.chart.cursor is not None:
        return session.chart.cursor, "the cursor"
    clouds = [b for b in session.scan.reading.bait if b.latitude == b.latitude]
    bait = chosen if isinstance(chosen, Bait) else max(clouds, key=lambda b: b.time_end - b.time_start, default=None)
    if bait is not None and bait.latitude == bait.latitude:
        x, y = chart.plane.to_xy(bait.latitude, bait.longitude)
        return (float(x), float(y)), "the bait"
    return (session.chart.cursor, "the cursor") if session.chart.cursor is not None else None
