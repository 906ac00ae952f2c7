"""What is listened to: wires and their states, where the boat is and was, how deep it is, what is recorded."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position, bearing_deg, distance_m
from plumbbob.core.live.fixes import Fix

_MOST_TRAIL = 40_000
_MOVED_M = 1.5  # a trail keeps a place every so often
_WAY_M = 8.0  # from so far back the heading is taken where nothing tells it


class LiveModel(QObject):
    """Nothing until one listens."""

    changed = Signal()  # states, counts, on or off
    moved = Signal()  # another fix

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.is_on = False
        self.made_up = ""  # the stand-in's outing, where it is its boat
        self.outing: object = None  # another for each time one listens
        self.recording: Path | None = None
        self.sources: tuple[dict[str, Any], ...] = ()
        self.trouble: tuple[str, ...] = ()
        self.pings: dict[str, int] = {}
        self.fixes = 0
        self.fix: Fix | None = None
        self.trail: list[Position] = []

    @property
    def is_made_up(self) -> bool:
        """The boat is the stand-in's."""
        return bool(self.made_up)

    def begin(self, recording: Path, *, made_up: str = "") -> None:
        """One listens from now on."""
        self.is_on, self.made_up, self.recording = True, made_up, recording
        self.outing = object()
        self.sources, self.trouble, self.pings, self.fixes = (), (), {}, 0
        self.fix, self.trail = None, []
        self.changed.emit()
        self.moved.emit()

    def end(self) -> None:
        """No more; trail and last place stay on the chart."""
        self.is_on = False
        self.changed.emit()
        self.moved.emit()

    def take_told(self, told: dict[str, Any], recording: Path | None = None) -> None:
        """The line of this second, and the file that is written to."""
        self.recording = recording or self.recording
        self.sources, self.trouble = tuple(told["sources"]), tuple(told["trouble"])
        self.pings, self.fixes = dict(told["pings"]), int(told["fixes"])
        self.changed.emit()

    def take_fix(self, fix: Fix) -> None:
        """Where the boat is."""
        self.fix = fix
        if not self.trail or distance_m(self.trail[-1], fix.place) >= _MOVED_M:
            self.trail.append(fix.place)
            del self.trail[:-_MOST_TRAIL]
        self.moved.emit()

    @property
    def words(self) -> str:
        """How old the position is, or that there is none; what has gone quiet."""
        if not self.sources:
            return "listening"
        of_place = [s for s in self.sources if s["kind"] != "pings"]
        ages = [float(s["age"]) for s in of_place if s["age"] is not None]
        words = f"position {max(min(ages), 0.0):.1f} s old" if ages else "no position yet"
        quiet = sum(s["state"] != "connected" for s in self.sources)
        return f"{words}; {quiet} of {len(self.sources)} quiet" if quiet else words

    @property
    def place(self) -> Position | None:
        """Of the boat, while one listens."""
        return self.fix.place if self.is_on and self.fix is not None else None

    @property
    def heading_deg(self) -> float | None:
        """Where the bow points, else where the boat goes, else where it came from last; None: not known."""
        fix = self.fix
        if fix is None:
            return None
        for value in (fix.heading_deg, fix.course_deg):
            if value == value:
                return value
        back = next((p for p in reversed(self.trail) if distance_m(p, fix.place) > _WAY_M), None)
        return bearing_deg(back, fix.place) if back is not None else None
