"""The rods in the water."""

from __future__ import annotations

import time

from plumbbob.desk.models.column import Column
from plumbbob.desk.views.sonar.down.view import DownView

_STEP = 0.01  # of the way ahead


class RigView(DownView):
    """All lines from the side or from above; marks are of what is chosen in the open pass."""

    name = "rig"
    stage = "rig"
    title = "at the rods"
    hints = "drag a lure   . next rod   G note   T turn   V from above   J advice   ? keys"
    corrects_echoes = False
    can_have_chart = False
    is_offered = True
    can_widen = False
    inputs = frozenset({"scan", "rig", "lines"})
    can_show_all = True

    @property
    def start_words(self) -> str:
        """Rods are always there."""
        return ""

    @property
    def column(self) -> Column:
        """Level with the picture of the rods."""
        session = self.session
        return Column.of_rig(session.lines, session.scan, session.conditions)

    @property
    def moment(self) -> float:
        """The present."""
        return time.time()

    @property
    def has_next(self) -> bool:
        """There is another rod."""
        return len(self.session.rig.sets) > 1

    def choose_next(self, step: int) -> None:
        """Take the next rod in hand, round and round."""
        rig = self.session.rig
        rig.choose((rig.chosen + step) % len(rig.sets))

    @property
    def has_picture(self) -> bool:
        """The boat goes over a bottom."""
        return self.session.lines.ground.known

    def zoom(self, factor: float) -> None:
        """It is always as large as it can be."""

    def show_all(self) -> None:
        """Depths fill the picture, or true scale."""
        self.session.lines.stretch(not self.session.lines.stretched)

    def step(self, right: int, down: int) -> None:
        """Move the boat along its way."""
        boat = self.session.lines
        self.session.move_boat(boat.boat_m + right * _STEP * boat.ground.length_m)

    def let_go(self) -> None:
        """The lines stand still again."""
        self.session.lines.set_frame(None)
