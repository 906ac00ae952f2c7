"""The log: trips, what was fished, seen and caught."""

from __future__ import annotations

import math

from plumbbob.core.geodesy import Position
from plumbbob.desk.models.column import Column
from plumbbob.desk.views.log.words import trip_words
from plumbbob.desk.views.sonar.down.view import DownView
from plumbbob.store.values import Catch, Effort, Mark, MarkKind, Moment


class LogView(DownView):
    """The log; the cursor is that of the open pass, and goes to where a chosen mark was seen."""

    name = "log"
    stage = "log"
    title = "at the log"
    hints = "Q find   T past trip   G the same again   V put right   Z undo   ? keys"
    corrects_echoes = False
    can_have_chart = False
    is_offered = True
    inputs = frozenset({"scan", "logbook", "trips"})

    @property
    def start_words(self) -> str:
        """While nothing was noted."""
        if self.session.logbook.marks or self.session.trips.chosen is not None:
            return ""
        how = "T writes a past trip in a minute. Space marks what is chosen in Scan or on the chart, C notes a catch."
        return f"Keep what was seen, tried and caught: {how} Marks of any GPX come in too."

    @property
    def column(self) -> Column:
        """Level with the picture of the trip; the bottom is that of what is picked."""
        trips = self.session.trips
        outing = trips.outing
        if outing is None:
            return super().column
        surface, foot, deepest = trips.scale
        per = deepest / max(foot - surface, 1e-6)
        picked = trips.picked
        shown = picked if picked is not None else next(iter(outing.efforts), None)
        floor = shown.bottom_depth_m if shown is not None else None
        layer = shown.layer_m if isinstance(shown, Effort) else None
        return Column(
            live=True,
            top_m=-surface * per,
            base_m=(1.0 - surface) * per,
            floor_m=floor if floor is not None else math.nan,
            layer=None if layer is None else (layer - 0.75, layer + 0.75),
        )

    @property
    def header(self) -> str:
        """The trip."""
        trip = self.session.trips.chosen
        if trip is None:
            return super().header
        words = trip_words(self.session, trip)
        return words.removeprefix(f"{self.session.water.name} · ")

    @property
    def fish_depth_m(self) -> float:
        """Where what is picked was."""
        picked = self.session.trips.picked
        depth = picked.fish_depth_m if isinstance(picked, Catch | Moment) else None
        return math.nan if depth is None else depth

    @property
    def place(self) -> Position | None:
        """Where what is picked was; else that of the open pass."""
        picked = self.session.trips.picked
        if picked is not None and picked.latitude is not None and picked.longitude is not None:
            return Position(picked.latitude, picked.longitude)
        return super().place

    @property
    def moment(self) -> float:
        """When what is picked was, of a stretch where the hand was on it; else as in the open pass."""
        trips = self.session.trips
        picked = trips.picked
        if isinstance(picked, Effort) and picked.start is not None and picked.end is not None:
            inside = picked.start <= trips.cut_at <= picked.end
            return trips.cut_at if inside else (picked.start + picked.end) / 2
        if isinstance(picked, Catch | Moment) and math.isfinite(picked.time):
            return picked.time
        return super().moment

    def mark(self) -> Mark | None:
        """Of where what is picked was; else as in the open pass."""
        picked, place = self.session.trips.picked, self.place
        if picked is None or place is None:
            return super().mark()
        trip = self.session.trips.chosen
        depth = picked.fish_depth_m if isinstance(picked, Catch | Moment) else None
        return Mark(
            water=trip.water if trip is not None else self.session.water.name,
            kind=MarkKind.PLACE if isinstance(picked, Effort) else MarkKind.FISH,
            time=self.moment,
            latitude=place.latitude,
            longitude=place.longitude,
            depth_m=depth,
            bottom_depth_m=picked.bottom_depth_m,
            name=picked.spot if isinstance(picked, Effort) else "",
        )

    @property
    def status(self) -> list[str]:
        """Where what is picked was."""
        picked = self.session.trips.picked
        if picked is None or picked.latitude is None or picked.longitude is None:
            return [] if self.session.trips.chosen is not None else super().status
        return [self.session.display.place(Position(picked.latitude, picked.longitude))]

    @property
    def has_next(self) -> bool:
        """There are fish on the trip."""
        outing = self.session.trips.outing
        return outing is not None and bool(outing.catches or outing.contacts or outing.efforts)

    def choose_next(self, step: int) -> None:
        """The next fish or stretch, by time."""
        outing = self.session.trips.outing
        if outing is None:
            return
        things: list[Effort | Catch | Moment] = [*outing.efforts, *outing.catches, *outing.contacts]
        things.sort(key=lambda v: (v.start or 0.0) if isinstance(v, Effort) else v.time)
        picked = self.session.trips.picked
        at = things.index(picked) if picked in things else (-1 if step > 0 else 0)
        self.session.trips.pick(things[(at + step) % len(things)])

    def let_go(self) -> None:
        """Of what is picked."""
        self.session.trips.pick(None)

    def mark_chosen(self, mark: Mark) -> None:
        """The plumb line hangs where it was seen."""
        scan = self.session.scan
        if scan.recording is not None and mark.source == scan.recording.name:
            scan.set_cursor(round(scan.ping_of(mark.time)), mark.depth_m or 0.0)
