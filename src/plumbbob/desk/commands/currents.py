"""A current drawn on the chart by hand: where the water goes, how fast; kept as a mark that says so."""

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
    on = session.chart.tool is not Tool.CURRENT
    session.chart.set_tool(Tool.CURRENT if on else Tool.MOVE)
    if on:
        session.say("Drag where the water goes to; the longer the arrow, the faster it runs.")


def keep_current(session: Session, x: float, y: float, speed_mps: float, to_deg: float) -> None:
    """Save a current at a place of the chart as a mark named after it."""
    chart = session.chart.chart
    if chart is None:
        return
    place = chart.plane.place(x, y)
    point = compass(to_deg)
    mark = Mark(
        water=session.water.name,
        kind=MarkKind.PLACE,
        time=session.conditions.time_s,
        latitude=place.latitude,
        longitude=place.longitude,
        name=f"current {speed_mps:.1f} m/s to {point}",
    )
    try:
        session.logbook.add_mark(mark)
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    session.say(f"Current {session.display.words(speed_mps, Kind.SPEED)} to {point}.  Z takes it back.")
