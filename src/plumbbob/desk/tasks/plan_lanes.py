"""Plans lanes along a depth, and holes through the ice."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.chart.lanes import LaneSettings
from plumbbob.core.chart.suits import OPEN_WATER
from plumbbob.core.types import Progress
from plumbbob.core.units import Kind
from plumbbob.desk.models.chart_model import Drawn
from plumbbob.desk.models.session import Session

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature
    from plumbbob.core.chart.lanes import Lane

_UNDER_M = 2.0  # fish and lines in open water want the bottom so much deeper
_BLOWS_MPS = 2.0


class LanePlanner:
    """Needs the session; keeps how lanes and holes are laid."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.settings = LaneSettings(depth_m=0.0)
        self.ice_beam_deg, self.ice_holes = 20.0, 19

    def keep(self, changes: dict[str, float], beam_deg: float, holes: int) -> None:
        """Settings of lanes and holes."""
        self.settings = replace(self.settings, **changes)
        self.ice_beam_deg, self.ice_holes = beam_deg, holes

    def lay_lane(self) -> None:
        """A lane along the depth under the cursor; through a chosen place over open water one that stays in it."""
        session = self._session
        place = session.spots.chosen
        if place is not None and place.feature.kind == OPEN_WATER:
            self._lay_through(place.feature)
            return
        chart, cursor, depth = session.chart.chart, session.chart.cursor, session.chart.depth_m
        if chart is None or cursor is None or not math.isfinite(depth):
            session.say("Put the cursor on a depth first: the lane follows it.", wrong=True)
            return
        settings = replace(self.settings, depth_m=depth)

        def work(progress: Progress) -> Lane | None:
            from plumbbob.core.chart.lanes import lane_along

            grid = chart.grid
            return lane_along(grid.frame, grid.depth_m, grid.sd_m, chart.land, cursor, settings, chart.hazards)

        def done(lane: Lane | None) -> None:
            display = session.display
            words = display.words(depth + session.conditions.level_m, Kind.DEPTH)
            if lane is None:
                session.say(f"No lane along {words} here that the boat could turn in.", wrong=True)
                return
            note = "Close to shore: first pass slow." if lane.close_to_shore else "Not for navigation."
            session.chart.set_drawn(Drawn("lane", lane.line, lane.along_m, lane.depth_m, lane, note))
            session.say(
                f"Lane along {words}, {display.words(lane.length_m, Kind.DISTANCE, 0)}. Ctrl+G writes it as a route."
            )

        session.jobs.start("Laying a lane", work, done, brief=True)

    def _lay_through(self, feature: Feature) -> None:
        session = self._session
        chart, day = session.chart.chart, session.conditions
        if chart is None:
            return
        settings = replace(self.settings, depth_m=feature.depth_base_m + _UNDER_M)
        to = (day.wind_from_deg + 180.0) % 360.0 if day.wind_mps >= _BLOWS_MPS else None

        def work(progress: Progress) -> Lane | None:
            from plumbbob.core.chart.lanes import lane_through

            grid, at = chart.grid, (feature.x, feature.y)
            return lane_through(
                grid.frame, grid.depth_m, grid.sd_m, chart.land, at, settings, chart.hazards, wind_to_deg=to
            )

        def done(lane: Lane | None) -> None:
            display = session.display
            top, base = (max(d + day.level_m, 0.0) for d in (feature.depth_top_m, feature.depth_base_m))
            words = f"{display.figure(top, Kind.DEPTH, 0)}–{display.words(base, Kind.DEPTH, 0)}"
            if lane is None:
                session.say(f"No lane through here that stays over deeper water than {words}.", wrong=True)
                return
            session.chart.set_drawn(Drawn("lane", lane.line, lane.along_m, lane.depth_m, lane, "Not for navigation."))
            wind = " down the wind" if to is not None else ""
            session.say(
                f"Lane{wind} through open water, {display.words(lane.length_m, Kind.DISTANCE, 0)}, for lures at "
                f"{words}. Ctrl+G writes it as a route."
            )

        session.jobs.start("Laying a lane", work, done, brief=True)

    def plan_holes(self) -> None:
        """Holes from the chosen place, or the deepest water near the cursor, outwards."""
        from plumbbob.core.chart.lanes import hole_plan

        session = self._session
        chart, cursor = session.chart.chart, session.chart.cursor
        if chart is None or cursor is None:
            return
        if session.chart.holes is not None:
            session.chart.set_holes(None)
            return
        window, level = session.rig.window, session.conditions.level_m
        here = session.chart.depth_m + level
        interest = sum(window) / 2 if window is not None else here
        if not math.isfinite(interest) or interest <= 0.5:
            session.say("Put the cursor on water first: the holes start there.", wrong=True)
            return
        plan = hole_plan(
            chart.grid.frame,
            chart.grid.depth_m + np.float32(level),
            cursor,
            of_interest_m=interest,
            beam_width_deg=self.ice_beam_deg,
            holes=self.ice_holes,
        )
        session.chart.set_holes(plan)
        display = session.display
        session.say(
            f"{len(plan.places)} holes, {display.words(plan.spacing_m, Kind.DISTANCE, 0)} apart: each shows "
            f"{display.words(plan.footprint_m, Kind.DISTANCE, 0)} at {display.words(interest, Kind.DEPTH, 0)}. "
            "Check the ice at every step and ask locally."
        )
