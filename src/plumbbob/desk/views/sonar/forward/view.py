"""Looking ahead."""

from __future__ import annotations

import math

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.rig.cast import CastPlan
from plumbbob.core.sonar.reading import ForwardTarget
from plumbbob.core.units import Kind
from plumbbob.desk.commands.marking import known
from plumbbob.desk.models.column import Column
from plumbbob.desk.views.sonar.down.view import DownView
from plumbbob.desk.views.sonar.view import PassView
from plumbbob.store.values import Mark, MarkKind

_USUAL_PICTURE = (840, 520)  # pixels that the advice on how far to look is worked out for


class ForwardView(PassView):
    """Frames of what lies before the bow, one at a time."""

    name = "forward"
    title = "ahead"
    draws_fish = True
    hints = "Space mark   . next fish   P replay   Shift+A the other cast   ? keys"

    @property
    def is_offered(self) -> bool:
        """The recording has a view ahead."""
        return self.session.forward.view is not None

    @property
    def column(self) -> Column:
        """Level with the view ahead."""
        return Column.of_ahead(self.session.scan, self.session.forward)

    @property
    def place(self) -> Position | None:
        """Of the fish that was chosen ahead."""
        chosen = self.session.forward.chosen
        if chosen is None:
            return super().place
        return self.session.forward.place(chosen) or self.session.scan.boat_place()

    @property
    def can_judge(self) -> bool:
        """A fish is chosen."""
        return self.session.forward.chosen is not None

    @property
    def renamed(self) -> ForwardTarget | None:
        """The chosen one."""
        return self.session.forward.chosen

    @property
    def other_fish(self) -> ForwardTarget | None:
        """The chosen one."""
        return self.session.forward.chosen

    @property
    def fish_depth_m(self) -> float:
        """Where it is in this frame."""
        chosen = self.session.forward.chosen
        return math.nan if chosen is None else self.session.forward.now(chosen).depth_m

    @property
    def cast_plan(self) -> CastPlan | None:
        """The cast to the chosen fish."""
        return self.session.forward.plan

    def mark(self) -> Mark | None:
        """Of the chosen fish where it is now, else of the place under the cursor."""
        session, place = self.session, self.place
        track, recording = session.forward.chosen, session.scan.recording
        if track is None:
            return DownView(session).mark()
        if place is None or recording is None:
            return None
        now = session.forward.now(track)
        return Mark(
            water=session.water.name,
            kind=MarkKind.FISH if track.kind == "fish" else MarkKind.PLACE,
            time=session.scan.time,
            latitude=place.latitude,
            longitude=place.longitude,
            position_sd_m=known(track.position_sd_m),
            depth_m=known(now.depth_m),
            bottom_depth_m=known(session.forward.bottom_m),
            source=recording.name,
            note=f"{session.display.words(now.distance_m, Kind.DISTANCE, 0)} ahead",
        )

    @property
    def has_next(self) -> bool:
        """Something was followed ahead."""
        return bool(self.session.forward.reading.tracks)

    def choose_next(self, step: int) -> None:
        """The next that was followed."""
        self.session.forward.choose_next(step)

    def widen(self, factor: float) -> None:
        """How far ahead."""
        self.session.forward.set_far(self.session.forward.far_m * factor)

    def fit(self) -> None:
        """As far as the fish need; again, all of it."""
        ahead = self.session.forward
        found, before = ahead.advice(*_USUAL_PICTURE), ahead.far_m
        ahead.set_far(found.far_m if found is not None else math.inf)
        if ahead.far_m == before:
            ahead.set_far(math.inf)

    def step(self, right: int, down: int) -> None:
        """Frame by frame."""
        scan, ahead = self.session.scan, self.session.forward
        view, lead = ahead.view, scan.lead
        if view is None or lead is None or not right:
            return
        k = min(max(ahead.frame + right, 0), len(view) - 1)
        # the first ping of the axis at or after the frame, so that the frame is the one shown
        scan.set_cursor(int(np.searchsorted(lead.time, float(view.time[k]) - 1e-6)), scan.cursor.depth_m)
        scan.keep_in_view(scan.cursor.ping)
