"""Solves rods and remembers what was solved lately: a spread is dragged one rod at a time."""

from __future__ import annotations

from plumbbob.core.rig.knowledge import PRIOR, Knowledge
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.rod import CannotReach, RigAnswer, RigSettings

_MOST = 64  # solutions kept: of every rod, what is drawn for it, and what it was before


class RodSolver:
    """Answers for a rod and a depth, as the tackle is known."""

    def __init__(self, knowledge: Knowledge = PRIOR) -> None:
        self.knowledge = knowledge
        self._lately: dict[tuple[RigSettings, float], RigAnswer | CannotReach] = {}

    def knows(self, rod: RigSettings, depth_m: float) -> bool:
        """It was solved lately."""
        return (rod, depth_m) in self._lately

    def answer(self, rod: RigSettings, depth_m: float) -> RigAnswer | CannotReach:
        """With its spread; what was solved lately is not solved again."""
        key = (rod, depth_m)
        if key not in self._lately:
            if len(self._lately) >= _MOST:
                del self._lately[next(iter(self._lately))]
            self._lately[key] = solve(rod, depth_m, self.knowledge)
        return self._lately[key]

    def quickly(self, rod: RigSettings, depth_m: float, before: RigAnswer | CannotReach) -> RigAnswer | CannotReach:
        """With the spread it had before: working that out takes most of the time."""
        sd = before.depth_sd_m if isinstance(before, RigAnswer) else 0.0
        return solve(rod, depth_m, self.knowledge, depth_sd_m=sd)

    def drawable(self, rod: RigSettings, answer: RigAnswer | CannotReach, *, quick: bool = False) -> RigAnswer | None:
        """What can be drawn: the answer, or a little short of the limit, which itself may need endless line."""
        if isinstance(answer, RigAnswer):
            return answer
        for share in (0.97, 1.03):
            depth = answer.nearest_depth_m * share
            near = self.quickly(rod, depth, answer) if quick else self.answer(rod, depth)
            if isinstance(near, RigAnswer):
                return near
        return None
