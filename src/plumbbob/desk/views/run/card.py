"""From the day on screen to its card: words, tables, and the chart as lines."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.chart.contours import contours, simplified
from plumbbob.core.rig.rod import Amount
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind, to_si
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.settings import text_of
from plumbbob.desk.tasks.follow_lines import tables
from plumbbob.desk.views.rig.words import rod_title
from plumbbob.desk.views.run.words import WHY_NOT, stay_words
from plumbbob.formats.day_card import FLOAT_KEYS, CardStay, DayCard, RodTable

if TYPE_CHECKING:
    from plumbbob.core.chart.build import Chart
    from plumbbob.desk.models.session import Session

ChartLines = tuple[tuple[Floats, ...], tuple[tuple[float, Floats], ...]]  # shore; contours by depth
_AGAIN = " (again)"
_MOST_LINES = 12
_TOLERANCE_M = 2.0


def day_card(session: Session, chart_lines: ChartLines) -> DayCard:
    """The card of the plan on screen. `chart_lines` are those of `lines_of`."""
    run, plan = session.run, session.run.plan
    assert plan is not None
    shore, depths = chart_lines
    lights = session.conditions.lights
    stays = tuple(
        CardStay(
            name=s.candidate.name + (_AGAIN if s.again else ""),
            arrive=s.arrive,
            leave=s.leave,
            fish=s.fish,
            why=stay_words(session, s),
            way=s.way,
            depth_m=s.candidate.fish_m,
            bottom_m=s.candidate.bottom_m,
        )
        for s in plan.stays
    )
    chart = session.chart.chart
    hazards = () if chart is None else tuple(chart.plane.place(x, y) for x, y in chart.hazards)
    profile = session.profile
    boats = session.water.boats
    told = {key: text_of(session.settings, f"float/{key}") for key in FLOAT_KEYS}
    if not told["craft"] and boats:
        told["craft"] = boats[0].name
    return DayCard(
        water=session.water.name,
        time_zone=session.water.time_zone,
        units=session.display.system,
        start=plan.start,
        back=plan.back,
        fish=plan.fish,
        fish_range=(plan.low, plan.high),
        stays=stays,
        way_home=plan.way_home,
        left_out=tuple((c.name, WHY_NOT[why]) for c, why in plan.left_out),
        hours=plan.ask.hours,
        lights={}
        if lights is None
        else {
            name: float(time)
            for name in ("first_light", "sunrise", "sunset", "last_light")
            if (time := getattr(lights, name)) is not None
        },
        wind_limit_mps=run.ask.craft.wind_limit_mps if run.ask is not None else math.nan,
        kayak=own_boat(session.settings).is_kayak,
        surface_c=float(profile.temperature_c[0]) if profile is not None else math.nan,
        rods=rod_tables(session),
        shore=shore,
        contours=depths,
        hazards=hazards,
        float_plan={key: text for key, text in told.items() if text},
    )


def rod_tables(session: Session) -> tuple[RodTable, ...]:
    """What to let out or count, one table for each rod, in the units on screen."""
    display, out = session.display, []
    for number, table in enumerate(tables(session)[:4], 1):
        counted = table.amount is Amount.COUNT
        middle = len(table.speeds_mps) // 2
        columns = sorted({middle, max(middle - 1, 0), min(middle + 1, len(table.speeds_mps) - 1)})
        if len(table.speeds_mps) == 1:
            columns = [0]
        head = [display.unit(Kind.DEPTH)]
        head += [
            display.figure(table.speeds_mps[c], Kind.SPEED) if len(table.speeds_mps) > 1 else "" for c in columns
        ]
        rows = []
        for depth, row in zip(table.depths_m, table.values, strict=True):
            cells = [display.figure(depth, Kind.DEPTH)]
            for c in columns:
                value = row[c]
                cells.append(f"{value:.0f}" if counted and value is not None else display.figure(value, Kind.LENGTH))
            rows.append(tuple(cells))
        foot = "s of count" if counted else f"{display.unit(Kind.LENGTH)} of {table.amount.value}"
        out.append(RodTable(title=f"{number} {rod_title(table.rod)}", head=tuple(head), rows=tuple(rows), foot=foot))
    return tuple(out)


def lines_of(chart: Chart, level_m: float, unit_m: float) -> ChartLines:
    """Shore and at most a dozen contours of a chart, as latitude and longitude."""
    deepest = max(chart.deepest_m + level_m, 1.0)
    steps = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0)
    step = next((s * unit_m for s in steps if deepest / (s * unit_m) <= _MOST_LINES), steps[-1] * unit_m)
    levels = [step * k for k in range(1, int(deepest / step) + 1)]
    depth = chart.grid.depth_m + np.float32(level_m)

    def degrees(xy: Floats) -> Floats:
        latitude, longitude = chart.plane.to_latlon(xy[:, 0], xy[:, 1])
        return np.stack([latitude, longitude], axis=1)

    drawn = [
        (contour.depth_m, degrees(simplified(line, _TOLERANCE_M)))
        for contour in contours(chart.grid.frame, depth, levels)
        for line in contour.lines
        if len(line) > 12
    ]
    if chart.shore:
        shore = tuple(degrees(simplified(ring, _TOLERANCE_M)) for ring in chart.shore)
    else:
        zero = contours(chart.grid.frame, np.where(np.isfinite(depth), depth, np.float32(-1.0)), [0.3])
        shore = tuple(degrees(simplified(line, _TOLERANCE_M)) for c in zero for line in c.lines if len(line) > 12)
    return shore, tuple(drawn)


def depth_unit_m(session: Session) -> float:
    """One unit of depth on screen."""
    return to_si(1.0, Kind.DEPTH, session.display.system_of(Kind.DEPTH))
