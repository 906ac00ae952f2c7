"""The rod in hand: how it is rigged, where the bob hangs, and what brings the lure there."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtCore import QObject, Signal

from plumbbob.core.rig.methods import CannotReach, Method, RigAnswer, RigSettings, solve
from plumbbob.core.sonar.reading import Bait, Fish, Standing

LEAST_DEPTH_M = 0.5


class RigState(QObject):
    """The bob's depth and the rig that puts the lure there; solved anew on every change."""

    changed = Signal()
    window_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = RigSettings()
        self._bob_m = 6.0
        self._target_m: float | None = None
        self._window: tuple[float, float] | None = None
        self._answer = solve(self._settings, self._bob_m)
        self._shown = self._drawable()

    @property
    def settings(self) -> RigSettings:
        """How the rod is rigged."""
        return self._settings

    @property
    def bob_m(self) -> float:
        """Depth the lure should run at."""
        return self._bob_m

    @property
    def target_m(self) -> float | None:
        """Depth of the fish the bob was hung over; None once it has been dragged."""
        return self._target_m

    @property
    def answer(self) -> RigAnswer | CannotReach:
        """What to do."""
        return self._answer

    @property
    def shown(self) -> RigAnswer | None:
        """What the picture of the rig shows: the answer, or the nearest that can be had."""
        return self._shown

    @property
    def window(self) -> tuple[float, float] | None:
        """The chosen depth window."""
        return self._window

    def hang_over(self, echo: Fish | Bait | Standing) -> None:
        """Hang the bob over a fish or the top of what stands, or under bait: above, since fish look up."""
        if isinstance(echo, Fish):
            depth = echo.depth_m
        elif isinstance(echo, Standing):
            depth = echo.bottom_m - echo.height_m
        else:
            depth = echo.depth_bottom_m + self._settings.above_fish_m
        self.hang_over_depth(depth)

    def hang_over_depth(self, depth_m: float) -> None:
        """Hang the bob over a fish of which only the depth is known."""
        self._target_m = depth_m
        self._hang(depth_m - self._settings.above_fish_m)

    def drag_to(self, depth_m: float) -> None:
        """Hang the bob at a depth by hand."""
        self._target_m = None
        self._hang(depth_m)

    def _hang(self, depth_m: float) -> None:
        self._bob_m = max(depth_m, LEAST_DEPTH_M)
        self._solve()

    def set(self, **changes: Any) -> None:
        """Change settings by name; the bob keeps its distance over the fish it hangs over."""
        new = replace(self._settings, **changes)
        if new == self._settings:
            return
        self._settings = new
        if "above_fish_m" in changes and self._target_m is not None:
            self._bob_m = max(self._target_m - new.above_fish_m, LEAST_DEPTH_M)
        self._solve()

    def next_method(self) -> None:
        """The next way to bring the lure down."""
        methods = list(Method)
        self.set(method=methods[(methods.index(self._settings.method) + 1) % len(methods)])

    def set_window(self, window: tuple[float, float] | None) -> None:
        """Choose the depth window."""
        if window is not None:
            window = (max(min(window), 0.0), max(window))
        if window != self._window:
            self._window = window
            self.window_changed.emit()
            self.changed.emit()

    def _solve(self) -> None:
        self._answer = solve(self._settings, self._bob_m)
        self._shown = self._drawable()
        self.changed.emit()

    def _drawable(self) -> RigAnswer | None:
        if isinstance(self._answer, RigAnswer):
            return self._answer
        # a little on this side of the limit, which itself may need endless line
        for share in (0.97, 1.03):
            near = solve(self._settings, self._answer.nearest_depth_m * share)
            if isinstance(near, RigAnswer):
                return near
        return None
