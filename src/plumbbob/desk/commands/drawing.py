"""Currents, docks and bridges drawn on the chart by hand; kept as marks that say so."""

from __future__ import annotations

import math

from plumbbob.core.units import Kind
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.models.chart_model import Tool
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Mark, MarkKind
from plumbbob.wording.compass import compass

STEP_MPS, STEP_PX = 0.1, 14.0  # an arrow is drawn so much longer for each step
_MOST_MPS = 3.0
_LEAST_PX = 8.0
LEAST_BUILT_M = 3.0


def arrow_told(across_px: float, down_px: float) -> tuple[float, float] | None:
    """
    Speed and direction of an arrow of so many pixels; None where it is too short to be meant.

    Examples
    --------
    >>> arrow_told(0.0, -56.0), arrow_told(3.0, 2.0)
    ((0.4, 0.0), None)
    """
    long = math.hypot(across_px, down_px)
    if long < _LEAST_PX:
        return None
    speed = min(max(round(long / STEP_PX), 1) * STEP_MPS, _MOST_MPS)
    return round(speed, 1), math.degrees(math.atan2(across_px, -down_px)) % 360.0


def draw_current(session: Session, asker: CommandHost) -> None:
    """Take the tool in hand, or lay it down."""
    _take(session, Tool.CURRENT, "Drag where the water goes to; the longer the arrow, the faster it runs.")


def draw_built(session: Session, asker: CommandHost) -> None:
    """Take the tool in hand, or lay it down."""
    _take(session, Tool.BUILT, "Drag from end to end: from bank to bank it is a bridge, else a dock.")


def _take(session: Session, tool: Tool, how: str) -> None:
    on = session.chart.tool is not tool
    session.chart.set_tool(tool if on else Tool.MOVE)
    if on:
        session.say(how)


def keep_current(session: Session, x: float, y: float, speed_mps: float, to_deg: float) -> None:
    """Save a current at a place of the chart as a mark named after it."""
    point = compass(to_deg)
    told = f"Current {session.display.words(speed_mps, Kind.SPEED)} to {point}"
    _keep(session, x, y, f"current {speed_mps:.1f} m/s to {point}", told)


def built_between(session: Session, start: tuple[float, float], end: tuple[float, float]) -> tuple[str, float, float]:
    """What a line drawn over a chart is: from land to land a bridge, else a dock; its metres and direction."""
    chart = session.chart
    made = chart.chart
    across, up = end[0] - start[0], end[1] - start[1]
    dry = made is not None and all(not chart.depth_at(made.plane.place(*at)) > 0.0 for at in (start, end))
    return "bridge" if dry else "dock", math.hypot(across, up), math.degrees(math.atan2(across, up)) % 360.0


def keep_built(session: Session, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Save a dock or a bridge as a mark named after it; one too short to be meant is left."""
    kind, long, turn = built_between(session, start, end)
    if long >= LEAST_BUILT_M:
        told = f"{kind.capitalize()} of {session.display.words(long, Kind.LENGTH, 0)}: its shade and cover count"
        _keep(session, *start, f"{kind} {long:.0f} m to {turn:.0f}°", told)


def _keep(session: Session, x: float, y: float, name: str, told: str) -> None:
    """A mark at a place of the chart, named after what was drawn there."""
    chart = session.chart.chart
    if chart is None:
        return
    place = chart.plane.place(x, y)
    mark = Mark(
        water=session.water.name,
        kind=MarkKind.PLACE,
        time=session.conditions.time_s,
        latitude=place.latitude,
        longitude=place.longitude,
        name=name,
    )
    try:
        session.logbook.add_mark(mark)
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    session.say(f"{told}.  Z takes it back.")
