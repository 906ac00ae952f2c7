"""On deck: the live column and a few large targets. Its cursor is the boat, now."""

from __future__ import annotations

import math
import time

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.reading import Bait, Fish
from plumbbob.desk.commands.marking import BOAT_SD_M, known
from plumbbob.desk.models.column import Column
from plumbbob.desk.models.view import View
from plumbbob.store.values import Mark, MarkKind

JUST_S = 12.0  # an echo so old still is what is being marked


class DeckView(View):
    """Everything by one key; nothing asks back."""

    name = "deck"
    stage = "run"
    title = "on deck"
    mode = "deck"
    hints = "Esc desk"
    hides_pass = True
    inputs = frozenset({"live", "deck", "scan", "run", "logbook"})

    @property
    def is_offered(self) -> bool:
        """By its own key only."""
        return True

    @property
    def column(self) -> Column:
        """Level with the strip beside it; without a sounder from the surface to the chart's bottom."""
        scan = self.session.scan
        here = Column.of_pass(scan)
        if scan.down is not None:
            return here
        floor = self.bottom_m
        base = max(1.15 * floor, 4.0) if math.isfinite(floor) else 15.0
        layer = self.session.conditions.layer
        span = None if layer is None else (layer.top_m, layer.base_m)
        return Column(live=True, top_m=0.0, base_m=base, floor_m=floor, layer=span)

    @property
    def bottom_m(self) -> float:
        """Under the boat: as sounded, else by the chart."""
        session = self.session
        if session.scan.is_live and math.isfinite(session.scan.bottom_m):
            return session.scan.bottom_m
        place = self.place
        if place is None or session.chart.chart is None:
            return math.nan
        return session.chart.depth_at(place) + session.conditions.level_m

    @property
    def place(self) -> Position | None:
        """Of the boat that is listened to, else by the plan."""
        session = self.session
        return session.live.place or session.run.boat or session.scan.boat_place()

    @property
    def moment(self) -> float:
        """By the receiver, else by the clock of the day, else the present."""
        live, run = self.session.live, self.session.run
        if live.is_on and live.fix is not None:
            return live.fix.time
        return run.now if run.now is not None else time.time()

    @property
    def header(self) -> str:
        """What is listened to."""
        live = self.session.live
        if not live.is_on:
            return "on deck · nothing is listened to"
        return "live · a made-up boat" if live.is_made_up else "live"

    def just_seen(self, kind: MarkKind) -> Fish | Bait | None:
        """The newest fish or school under the boat, if it is that new."""
        scan = self.session.scan
        if not scan.is_live or scan.lead is None:
            return None
        now = float(scan.lead.time[-1])
        if kind is MarkKind.FISH:
            fish = [f for f in scan.reading.fish if now - JUST_S <= f.time <= now]
            return fish[-1] if fish else None
        bait = [b for b in scan.reading.bait if b.time_end >= now - JUST_S]
        return bait[-1] if bait else None

    def mark(self, kind: MarkKind = MarkKind.FISH) -> Mark | None:
        """Of what has just passed under the boat, else of the boat's place."""
        session, place = self.session, self.place
        if place is None:
            return None
        depth, bottom, when, sd = math.nan, self.bottom_m, self.moment, BOAT_SD_M
        echo = self.just_seen(kind) if kind in (MarkKind.FISH, MarkKind.BAIT) else None
        if isinstance(echo, Fish):
            depth, when, sd = echo.depth_m, echo.time, max(echo.position_sd_m, BOAT_SD_M)
        elif isinstance(echo, Bait):
            depth, when = (echo.depth_top_m + echo.depth_bottom_m) / 2, (echo.time_start + echo.time_end) / 2
        if echo is not None and math.isfinite(echo.latitude):
            place = Position(echo.latitude, echo.longitude)
        live = session.live
        return Mark(
            water=session.water.name,
            kind=kind,
            time=when,
            latitude=place.latitude,
            longitude=place.longitude,
            position_sd_m=sd if math.isfinite(sd) else BOAT_SD_M,
            depth_m=known(depth),
            bottom_depth_m=known(bottom),
            source=live.recording.name if live.is_on and live.recording is not None else "",
        )
