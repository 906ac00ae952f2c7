"""Looking to the sides."""

from __future__ import annotations

import math

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.reading import SideFish, SideThing
from plumbbob.core.units import Kind
from plumbbob.desk.commands.marking import BOAT_SD_M, known
from plumbbob.desk.views.sonar.side.words import thing_word
from plumbbob.desk.views.sonar.view import PassView
from plumbbob.store.values import Mark, MarkKind


class SideView(PassView):
    """Echoes by time and distance, left and right of the boat."""

    name = "side"
    title = "to the sides"
    draws_fish = True
    hints = "Space mark   . next fish   Shift+H height from a shadow   Shift+G ground range   ? keys"

    @property
    def is_offered(self) -> bool:
        """The recording has a view to the sides."""
        return self.session.side.view is not None

    @property
    def place(self) -> Position | None:
        """Of what was seen abeam, not of the boat; the boat's own place only where the cursor is in the water."""
        side = self.session.side
        echo = side.chosen
        if echo is not None:
            return Position(echo.latitude, echo.longitude) if echo.latitude == echo.latitude else None
        return side.cursor_place() or self.session.scan.boat_place()

    @property
    def can_judge(self) -> bool:
        """Something is chosen."""
        return self.session.side.chosen is not None

    @property
    def renamed(self) -> SideFish | SideThing | None:
        """Any chosen one."""
        return self.session.side.chosen

    @property
    def other_fish(self) -> SideFish | None:
        """The chosen one, if it is a fish."""
        chosen = self.session.side.chosen
        return chosen if isinstance(chosen, SideFish) else None

    @property
    def fish_depth_m(self) -> float:
        """Where its shadow told it."""
        fish = self.other_fish
        return math.nan if fish is None else fish.depth_m

    def mark(self) -> Mark | None:
        """Of what was seen to one side: left or right, how far, and what it lies off."""
        scan, side, display, place = self.session.scan, self.session.side, self.session.display, self.place
        if place is None or scan.recording is None:
            return None
        echo, time = side.chosen, scan.time
        kind, depth, sd, across = MarkKind.PLACE, None, None, side.cursor_ground_m
        which, off = side.cursor_side, side.lies_off(place)
        draft = side.view.mount.depth_m if side.view is not None else 0.0
        if echo is not None:
            time, which, across = echo.time, echo.side, echo.ground_m
        bottom = known(side.altitude_at(time) + draft)
        if isinstance(echo, SideFish):
            kind, depth, sd = MarkKind.FISH, known(echo.depth_m), echo.position_sd_m
        elif isinstance(echo, SideThing):
            kind, sd, off = MarkKind.STRUCTURE, echo.ground_sd_m + BOAT_SD_M, None
            depth = None if bottom is None else bottom - echo.height_m
        where = f"{display.words(across, Kind.DISTANCE, 0)} to {which}" if math.isfinite(across) else f"to {which}"
        near = (
            echo.beside if isinstance(echo, SideFish) and echo.beside else thing_word(off) if off is not None else ""
        )
        words = [where] + ([f"off {near}"] if near else [])
        if isinstance(echo, SideThing):
            words.insert(0, thing_word(echo))
        return Mark(
            water=self.session.water.name,
            kind=kind,
            time=time,
            latitude=place.latitude,
            longitude=place.longitude,
            position_sd_m=known(sd) if sd is not None else BOAT_SD_M,
            depth_m=depth,
            bottom_depth_m=bottom,
            source=scan.recording.name,
            note=", ".join(words),
        )

    @property
    def has_next(self) -> bool:
        """A fish was seen abeam."""
        return bool(self.session.side.reading.fish)

    def choose_next(self, step: int) -> None:
        """The next fish abeam."""
        self.session.side.choose_next(step)

    def widen(self, factor: float) -> None:
        """How far to the sides."""
        self.session.side.set_reach(self.session.side.reach_m * factor)

    def fit(self) -> None:
        """The whole reach."""
        self.session.side.set_reach(math.inf)

    def step(self, right: int, down: int) -> None:
        """Along the pass, and away from the boat."""
        side = self.session.side
        self.session.scan.step_cursor(right * self.step_pings, 0.0)
        side.set_cursor(side.cursor_m + down * side.reach_m / 60)

    def let_go(self) -> None:
        """The shadow gauge first."""
        if self.session.side.clicks is not None:
            self.session.side.start_gauge(False)
        else:
            super().let_go()
