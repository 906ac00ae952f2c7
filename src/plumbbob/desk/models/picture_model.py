"""A picture off any screen: what has been clicked and typed of it, and which click comes next."""

from __future__ import annotations

import math
from dataclasses import replace
from enum import Enum
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.picture import Looks, PictureScale, Pixels, Point, check, metres_at, seconds_at, straighten
from plumbbob.core.sonar.recording import Track
from plumbbob.desk.models.line import as_line


class Step(Enum):
    """What the next click says."""

    NONE = ""
    CORNERS = "corners"
    NEAR = "near"
    FAR = "far"
    EARLY = "early"
    LATE = "late"
    RAMP = "ramp"


_CORNER_WORDS = ("top left", "top right", "bottom right", "bottom left")


class PictureModel(QObject):
    """One picture at a time. Points are in the straightened picture once corners were given."""

    opened = Signal()  # another picture, or the same straightened
    changed = Signal()  # scale, step or cursor
    zoomed = Signal(float)  # show it so many times larger
    span_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._path: Path | None = None
        self._whole: Pixels | None = None
        self._shown: Pixels | None = None
        self._time = 0.0
        self._scale = PictureScale(width=1, height=1)
        self._offered: PictureScale | None = None
        self._step = Step.NONE
        self._clicked: tuple[Point, ...] = ()
        self._far_value = 10.0
        self._times = (0.0, 60.0)
        self._cursor: Point | None = None
        self._rows = (0.0, 1.0)
        self._told: tuple[float, float] | None = None
        self._place: Position | None = None
        self._track: Track | None = None

    # -- what is open -------------------------------------------------------------------------------------------

    @property
    def path(self) -> Path | None:
        """The picture's file."""
        return self._path

    @property
    def pixels(self) -> Pixels | None:
        """The picture on screen: straightened once corners were given."""
        return self._shown

    @property
    def time(self) -> float:
        """When the picture was taken, as its file tells."""
        return self._time

    @property
    def scale(self) -> PictureScale:
        """What is known of it."""
        return self._scale

    @property
    def offered(self) -> PictureScale | None:
        """The scale of the last picture of the same size, until it is taken or refused."""
        return self._offered

    def open(
        self, path: Path, pixels: Pixels, taken: float, scale: PictureScale | None, offered: PictureScale | None
    ) -> None:
        """Show a picture, with its own scale or the offer of another's."""
        self._path, self._whole, self._time = path, pixels, taken
        height, width = pixels.shape[:2]
        self._scale = scale if scale is not None else PictureScale(width=width, height=height)
        self._offered = offered if scale is None else None
        self._step, self._clicked, self._cursor = Step.NONE, (), None
        self._place, self._track = None, None
        if scale is not None and scale.far is not None:
            self._far_value = scale.far[1]
        self._times = (taken, taken + 60.0)
        if self._scale.early is not None and self._scale.late is not None:
            self._times = (self._scale.early[1], self._scale.late[1])
        self._straighten()

    def _straighten(self) -> None:
        assert self._whole is not None
        corners = self._scale.corners
        self._shown = straighten(self._whole, corners) if corners is not None else self._whole
        self.opened.emit()
        self.changed.emit()

    def take_offer(self) -> None:
        """Use the last picture's scale for this one."""
        if self._offered is not None:
            self._scale, self._offered = self._offered, None
            if self._scale.far is not None:
                self._far_value = self._scale.far[1]
            self._straighten()

    # -- clicks -------------------------------------------------------------------------------------------------

    @property
    def step(self) -> Step:
        """What the next click says."""
        return self._step

    @property
    def clicked(self) -> tuple[Point, ...]:
        """Points of a step that takes several."""
        return self._clicked

    def start(self, step: Step) -> None:
        """Begin a step; again leaves it."""
        self._step = Step.NONE if step is self._step else step
        self._clicked = ()
        if self._step is Step.CORNERS and self._whole is not None and self._scale.corners is not None:
            # corners are clicked in the photo as it is
            self._scale = replace(self._scale, corners=None, near=None, far=None, early=None, late=None, ramp=None)
            self._straighten()
        self.changed.emit()

    @property
    def asked(self) -> str:
        """What to click now, in words."""
        down = self._scale.looks is Looks.DOWN
        return {
            Step.NONE: "",
            Step.CORNERS: f"Click the screen's {_CORNER_WORDS[min(len(self._clicked), 3)]} corner.",
            Step.NEAR: "Click the water's surface." if down else "Click the boat's line, where both sides meet.",
            Step.FAR: "Click a depth that the scale names." if down else "Click a range that the scale names.",
            Step.EARLY: "Click a place whose clock you know.",
            Step.LATE: "Click another place whose clock you know.",
            Step.RAMP: "Click the quiet end of the colour bar." if not self._clicked else "Click its loud end.",
        }[self._step]

    def click(self, x: float, y: float) -> str:
        """Take a click; returns a line for the person if it can't be."""
        step, before = self._step, self._scale
        along_x = self._scale.looks is Looks.DOWN
        deep, time = (y, x) if along_x else (x, y)
        if step in (Step.CORNERS, Step.RAMP):
            self._clicked = (*self._clicked, (x, y))
            if len(self._clicked) < (4 if step is Step.CORNERS else 2):
                self.changed.emit()
                return ""
        elif step is Step.NONE:
            return ""
        try:
            if step is Step.CORNERS:
                a, b, c, d = self._clicked
                new = replace(before, corners=(a, b, c, d))
            elif step is Step.RAMP:
                p, q = self._clicked
                new = replace(before, ramp=(p, q))
            elif step is Step.NEAR:
                new = replace(before, near=(deep, 0.0))
            elif step is Step.FAR:
                new = replace(before, far=(deep, self._far_value))
            elif step is Step.EARLY:
                new = replace(before, early=(time, self._times[0]))
            else:
                new = replace(before, late=(time, self._times[1]))
            check(new)
        except ValueError as exc:
            self._clicked = ()
            self.changed.emit()
            return as_line(exc)
        self._scale, self._clicked = new, ()
        follow = {Step.CORNERS: Step.NEAR, Step.NEAR: Step.FAR, Step.EARLY: Step.LATE}
        self._step = follow.get(step, Step.NONE)
        if step is Step.CORNERS:
            self._straighten()
        else:
            self.changed.emit()
        return ""

    def set_looks(self, looks: Looks) -> None:
        """It looks down, or to both sides; the scale's clicks go, since they mean something else."""
        if looks is not self._scale.looks:
            self._scale = replace(self._scale, looks=looks, near=None, far=None, early=None, late=None)
            self._step = Step.NONE
            self.changed.emit()

    @property
    def far_value(self) -> float:
        """What the second mark of the scale reads, metres."""
        return self._far_value

    def set_far_value(self, metres: float) -> str:
        """Type what the second mark reads; returns a line if it can't be."""
        if not metres > 0:
            return "Two marks of the scale with the same value give no scale."
        if self._scale.far is None:
            self._far_value = metres
            return ""
        before, self._far_value = self._far_value, metres
        line = self._take(replace(self._scale, far=(self._scale.far[0], metres)))
        if line:
            self._far_value = before
        return line

    def _take(self, new: PictureScale) -> str:
        """Use another scale if it can be one; returns a line if it can't."""
        try:
            check(new)
        except ValueError as exc:
            return as_line(exc)
        self._scale = new
        self.changed.emit()
        return ""

    @property
    def times(self) -> tuple[float, float]:
        """Clocks of the two marks along time."""
        return self._times

    def set_time(self, which: int, seconds: float) -> str:
        """Type the clock of the first or second mark; returns a line if it can't be."""
        before = self._times
        self._times = (seconds, before[1]) if which == 0 else (before[0], seconds)
        marked = (self._scale.early, self._scale.late)[which]
        if marked is None:
            return ""
        mark = (marked[0], seconds)
        line = self._take(replace(self._scale, early=mark) if which == 0 else replace(self._scale, late=mark))
        if line:
            self._times = before
            self.changed.emit()  # the field goes back to what holds
        return line

    def set_apart(self, metres: float) -> str:
        """Type the way between the two marks along time; returns a line if it can't be."""
        return self._take(replace(self._scale, apart_m=metres))

    def shift_times(self, seconds: float) -> None:
        """Move the marked clocks: they were typed in another zone."""
        scale = self._scale
        if seconds and scale.early is not None and scale.late is not None:
            self._times = (self._times[0] + seconds, self._times[1] + seconds)
            early, late = scale.early, scale.late
            self._scale = replace(scale, early=(early[0], early[1] + seconds), late=(late[0], late[1] + seconds))
            self.changed.emit()

    # -- where it was -------------------------------------------------------------------------------------------

    @property
    def place(self) -> Position | None:
        """Where it was taken, as typed."""
        return self._place

    def set_place(self, place: Position | None) -> None:
        """Type where it was taken."""
        self._place = place
        self.changed.emit()

    @property
    def track(self) -> Track | None:
        """Where the boat went, from a GPX track."""
        return self._track

    def set_track(self, track: Track | None) -> None:
        """Take a track; places follow its clock."""
        self._track = track
        self.changed.emit()

    # -- the depths on screen, for the plumb line ---------------------------------------------------------------

    @property
    def span(self) -> tuple[float, float] | None:
        """Depths at the head and the foot of the picture's place on screen; None where it tells none."""
        if self._scale.looks is not Looks.DOWN or self._scale.missing is not None:
            return None
        return metres_at(self._scale, self._rows[0])[0], metres_at(self._scale, self._rows[1])[0]

    def show_rows(self, top: float, base: float) -> None:
        """The picture says which of its rows lie at the head and the foot of its place on screen."""
        self._rows = (top, base)
        if self.span != self._told:
            self._told = self.span
            self.span_changed.emit()

    # -- the cursor ---------------------------------------------------------------------------------------------

    @property
    def cursor(self) -> Point | None:
        """Where the mouse is, in the picture's pixels."""
        return self._cursor

    def set_cursor(self, at: Point | None) -> None:
        """The mouse moved."""
        self._cursor = at
        self.changed.emit()

    def read_at(self, at: Point) -> tuple[float, float, float]:
        """Depth or range at a place with its spread, and the clock there; NaN where not known."""
        deep, time = at if self._scale.looks is Looks.SIDES else (at[1], at[0])
        value, sd = metres_at(self._scale, deep)
        return (value, sd, seconds_at(self._scale, time)) if math.isfinite(value) else (math.nan, math.nan, math.nan)
