"""The drawn lane under a boat that is listened to: how far off it the boat is, and what the lure meets next on it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from plumbbob.core.live.drift import off_line
from plumbbob.core.rig.lane import Passage, Stretch, Trouble, passage
from plumbbob.core.rig.rod import RigAnswer

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session

ON_IT_M = 80.0  # farther off one is not on the lane


@dataclass(frozen=True, slots=True)
class OnLane:
    """Where the boat is on it."""

    off_m: float  # to the right of its way over 0
    along_m: float
    left_m: float
    trouble: Stretch | None  # the next that the lure has not passed
    in_s: float  # until what is to be done about it is begun; NaN at rest


class LaneWatch:
    """Needs the session; a lane is looked along once for each rod, lane and level."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._known: tuple[object, object, float] | None = None
        self._passage: Passage | None = None

    def now(self) -> OnLane | None:
        """None without a lane or a boat on it."""
        session = self._session
        fix, drawn, chart = session.live.fix, session.chart.drawn, session.chart.chart
        if fix is None or drawn is None or chart is None or not session.live.is_on:
            return None
        x, y = chart.plane.to_xy(fix.latitude, fix.longitude)
        off, along, left = off_line(drawn.line, float(x), float(y))
        if abs(off) > ON_IT_M:
            return None
        answer = session.rig.answer
        if not isinstance(answer, RigAnswer):
            return OnLane(off, along, left, None, math.nan)
        level = session.conditions.level_m
        if self._known is None or self._known[0] is not drawn or self._known[1:] != (answer, level):
            self._known = (drawn, answer, level)
            self._passage = passage(
                session.rig.settings, answer, drawn.along_m, drawn.depth_m + level, knowledge=session.rig.knowledge
            )
        assert self._passage is not None
        low = (s for s in self._passage.stretches if s.trouble is not Trouble.HIGH)
        trouble = next((s for s in low if s.to_m > along - answer.layback_m), None)
        seconds = math.nan
        if trouble is not None and fix.speed_mps > 0.2:
            seconds = max(trouble.begin_boat_m - along, 0.0) / fix.speed_mps
        return OnLane(off, along, left, trouble, seconds)
