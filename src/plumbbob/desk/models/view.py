"""What every view answers to the keys, the plumb line, the header and the footer that all views share."""

from __future__ import annotations

import math
import time
from typing import TYPE_CHECKING

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.rig.cast import CastPlan
from plumbbob.core.sonar.reading import ForwardTarget, SideFish, SideThing
from plumbbob.core.sonar.recording import transducer_at
from plumbbob.core.units import Kind
from plumbbob.desk.models.column import Column
from plumbbob.store.values import Mark

if TYPE_CHECKING:
    from plumbbob.desk.models.session import Session


class View:
    """
    One view, without its widgets: where its cursor is, and what the shared keys do to it.

    A view says only what differs from this one, which shows nothing and stands on the open pass.
    """

    name = ""
    stage = ""
    mode = ""  # it takes the whole window, and only commands of this mode are heard
    title = ""  # as in "Looking down."
    hints = "? keys"
    inputs: frozenset[str] = frozenset({"scan"})  # the parts of the session its answers to the shared keys hang on
    hides_pass = False  # what is shown has nothing to do with the open pass
    corrects_echoes = False  # single echoes of the view down can be picked, moved, drawn
    draws_fish = False  # a click of the pen puts a fish in
    points_on_chart = False  # the hand points at the chart
    shows_plan = False  # the chart shows the day's plan, in place of what is worth a look
    can_have_chart = False  # the chart may stand beside it

    def __init__(self, session: Session) -> None:
        self.session = session

    # -- where it is --------------------------------------------------------------------------------------------

    @property
    def is_offered(self) -> bool:
        """What is open has something to show in it."""
        return True

    @property
    def column(self) -> Column:
        """The column of water that the plumb line shows."""
        return Column.of_pass(self.session.scan)

    @property
    def place(self) -> Position | None:
        """Where what is chosen lies; without a choice, where the transducer was at the cursor."""
        scan = self.session.scan
        echo = scan.chosen
        if echo is not None and echo.latitude == echo.latitude:
            return Position(echo.latitude, echo.longitude)
        return scan.boat_place()

    @property
    def moment(self) -> float:
        """The time on screen: that of the pass under the cursor, else the present."""
        return self.session.scan.time if math.isfinite(self.session.scan.time) else time.time()

    @property
    def wind(self) -> tuple[float, float]:
        """Speed and where from, as the chart shows it."""
        day = self.session.conditions
        return day.wind_mps, day.wind_from_deg

    @property
    def header(self) -> str:
        """Beside the water's name: what is open, and its day."""
        session = self.session
        scan = session.scan
        if scan.lead is None or scan.recording is None:
            return ""
        if scan.is_live:
            return "live · a made-up boat" if session.live.is_made_up else "live, recording"
        day = session.local(float(scan.lead.time[0]))
        return f"{day:%a} {day.day} {day:%b %Y} · {scan.recording.title or scan.recording.name}"

    @property
    def status(self) -> list[str]:
        """In the footer: where the boat was at the cursor, how warm, how fast, which way."""
        scan, display = self.session.scan, self.session.display
        if scan.lead is None or scan.recording is None:
            return []
        at = transducer_at(scan.recording.track, scan.lead.mount, np.array([scan.time]))
        parts = [display.place(scan.boat_place())]
        track = scan.recording.track
        if track is not None and np.isfinite(track.temperature_c).any():
            good = np.isfinite(track.temperature_c)
            warm = float(np.interp(scan.time, track.time[good], track.temperature_c[good]))
            parts.append(display.words(warm, Kind.TEMPERATURE))
        if math.isfinite(float(at.speed_mps[0])):
            parts.append(display.words(float(at.speed_mps[0]), Kind.SPEED))
        if math.isfinite(float(at.heading_deg[0])):
            parts.append(f"heading {float(at.heading_deg[0]) % 360:.0f}°")
        return parts

    # -- what is chosen in it -----------------------------------------------------------------------------------

    @property
    def can_mark(self) -> bool:
        """There is a place to mark."""
        return self.session.scan.lead is not None

    def mark(self) -> Mark | None:
        """A mark of what is chosen, or of the place under the cursor; None without a position."""
        return None

    @property
    def can_judge(self) -> bool:
        """Something is chosen of which a person can say yes or no."""
        return False

    @property
    def other_fish(self) -> SideFish | ForwardTarget | None:
        """The chosen fish, where it is not one of the view down."""
        return None

    @property
    def renamed(self) -> SideFish | SideThing | ForwardTarget | None:
        """The chosen echo that is no one of the view down and can be called something else."""
        return None

    @property
    def fish_depth_m(self) -> float:
        """Depth of what is chosen, for the bob; NaN where nothing is or its depth is not known."""
        return math.nan

    @property
    def cast_plan(self) -> CastPlan | None:
        """The cast that is being made to a fish."""
        return None

    def mark_chosen(self, mark: Mark) -> None:
        """A mark has been chosen in the log."""

    # -- what the shared keys do --------------------------------------------------------------------------------

    @property
    def has_next(self) -> bool:
        """There is a next one to choose."""
        return False

    def choose_next(self, step: int) -> None:
        """Choose the next fish, place or rod."""

    @property
    def start_words(self) -> str:
        """What this is for, title and sentence with a colon between, while there is nothing to show; else empty."""
        return ""

    @property
    def start_command(self) -> str:
        """The command that begins it, where all it needs is there; else empty: first something has to be opened."""
        return ""

    @property
    def has_picture(self) -> bool:
        """There is something on screen to move about in."""
        return False

    @property
    def can_widen(self) -> bool:
        """Its other axis has a scale of its own."""
        return False

    @property
    def can_show_all(self) -> bool:
        """There is a whole to show."""
        return self.has_picture

    def zoom(self, factor: float) -> None:
        """Show `factor` times as much along the picture."""

    def widen(self, factor: float) -> None:
        """Show `factor` times as much across the picture."""

    def show_all(self) -> None:
        """All there is."""

    def fit(self) -> None:
        """Across the picture, what matters."""

    def step(self, right: int, down: int) -> None:
        """The cursor by small steps."""

    def let_go(self) -> None:
        """Let go of the tool in hand, else of what is chosen."""
