"""Looking down: the echogram."""

from __future__ import annotations

import math

from plumbbob.core.sonar.fish_association import together
from plumbbob.core.sonar.reading import Bait, Fish, StandingObject
from plumbbob.desk.commands.marking import BOAT_SD_M, known
from plumbbob.desk.views.sonar.view import PassView
from plumbbob.store.values import Mark, MarkKind


class DownView(PassView):
    """Echoes by time and depth; single ones can be picked and corrected."""

    name = "down"
    title = "down"
    hints = "Space mark   C catch   . next fish   P replay   ? keys"
    corrects_echoes = True

    @property
    def is_offered(self) -> bool:
        """The recording has a view down."""
        return self.session.scan.down is not None

    @property
    def can_judge(self) -> bool:
        """An echo is chosen."""
        return self.session.scan.chosen is not None

    @property
    def fish_depth_m(self) -> float:
        """The bob hangs over fish, over what stands, and under bait."""
        echo = self.session.scan.chosen
        return math.nan if echo is None else self.session.rig.fish_depth_of(echo)

    def mark(self) -> Mark | None:
        """Of the chosen echo, else of the place under the cursor."""
        session, scan = self.session, self.session.scan
        place, echo = self.place, scan.chosen
        if place is None or scan.recording is None:
            return None
        kind, time, depth, sd, seen = MarkKind.PLACE, scan.time, scan.cursor.depth_m, BOAT_SD_M, 1
        bottom = scan.bottom_m
        if isinstance(echo, Fish):
            kind, time, depth, sd = MarkKind.FISH, echo.time, echo.depth_m, echo.position_sd_m
            seen = together(scan.reading, echo)
            bottom = echo.depth_m + echo.height_above_bottom_m
        elif isinstance(echo, Bait):
            kind, time = MarkKind.BAIT, (echo.time_start + echo.time_end) / 2
            depth = (echo.depth_top_m + echo.depth_bottom_m) / 2
            bottom = scan.reading.bottom.depth_at(time)
        elif isinstance(echo, StandingObject):
            kind, time = MarkKind.STRUCTURE, (echo.time_start + echo.time_end) / 2
            depth, bottom = echo.bottom_m - echo.height_m, echo.bottom_m
            seen = max(echo.fish_inside + echo.fish_over, 1)
        return Mark(
            water=session.water.name,
            kind=kind,
            time=time,
            latitude=place.latitude,
            longitude=place.longitude,
            position_sd_m=known(sd),
            depth_m=known(depth),
            bottom_depth_m=known(bottom),
            seen=seen,
            source=scan.recording.name,
        )
