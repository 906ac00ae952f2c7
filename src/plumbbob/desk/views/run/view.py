"""The day on the water."""

from __future__ import annotations

import math
import time

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import wind_at
from plumbbob.desk.commands.marking import known
from plumbbob.desk.models.column import Column
from plumbbob.desk.models.view import View
from plumbbob.desk.views.run.words import numbers
from plumbbob.store.values import Mark, MarkKind

_STEP_S = 300.0


class RunView(View):
    """The plan: its cursor is the clock, what is chosen is a stay."""

    name = "run"
    stage = "run"
    title = "at the day"
    hints = "drag a stay   E from now   G bite   J nothing here   K keep beside   T the day   ? keys"
    hides_pass = True
    points_on_chart = True
    shows_plan = True
    inputs = frozenset({"run", "chart"})

    @property
    def column(self) -> Column:
        """Level with the picture of the day; the bottom is that of the chosen stay."""
        run, day = self.session.run, self.session.conditions
        surface, foot, deepest = run.scale
        per = deepest / max(foot - surface, 1e-6)
        place = run.chosen
        layer = None if day.layer is None else (day.layer.top_m, day.layer.base_m)
        return Column(
            live=run.plan is not None,
            top_m=-surface * per,
            base_m=(1.0 - surface) * per,
            floor_m=place.bottom_m if place is not None else math.nan,
            layer=layer,
        )

    @property
    def place(self) -> Position | None:
        """Of the boat that is listened to, else of the chosen stay, else under the chart's cursor."""
        if self.session.live.place is not None:
            return self.session.live.place
        chosen = self.session.run.chosen
        return chosen.place if chosen is not None else self.session.chart.cursor_place()

    @property
    def moment(self) -> float:
        """By the boat that is listened to, else by the clock of the day, else the present."""
        live, now = self.session.live, self.session.run.now
        if live.place is not None and live.fix is not None:
            return live.fix.time
        return now if now is not None else time.time()

    @property
    def wind(self) -> tuple[float, float]:
        """Of the hour on the day's clock; before one is out, of the chosen stay."""
        run = self.session.run
        if run.ask is None:
            return super().wind
        stay = run.chosen_stay
        time = run.now if run.now is not None else stay.arrive if stay is not None else run.ask.start
        hour = wind_at(run.ask.hours, time)
        return hour.wind_mps, hour.from_deg

    @property
    def header(self) -> str:
        """The day, and when it was planned from."""
        run, session = self.session.run, self.session
        if run.ask is None:
            return ""
        day = session.local(run.ask.start)
        words = f"{day:%a} {day.day} {day:%b %Y}"
        if run.plan is None:
            return words
        since = f"planned from {session.clock(run.plan.start, '%H:%M')}" if run.past else "plan"
        return f"{words} · {since}"

    @property
    def status(self) -> list[str]:
        """Where the chosen stay is, and what time it is."""
        out = [] if self.place is None else [self.session.display.place(self.place)]
        if self.session.run.now is not None:
            out.append(self.session.clock(self.session.run.now, "%H:%M"))
        return out

    @property
    def can_mark(self) -> bool:
        """A stay is chosen."""
        return self.place is not None

    def mark(self) -> Mark | None:
        """Of where the boat is, or of the chosen stay."""
        session, place, chosen = self.session, self.place, self.session.run.chosen
        if place is None:
            return None
        if session.live.place is not None:
            here = session.run.here
            bottom = session.chart.depth_at(place) + session.conditions.level_m
            return Mark(
                water=session.water.name,
                kind=MarkKind.PLACE,
                time=self.moment,
                latitude=place.latitude,
                longitude=place.longitude,
                bottom_depth_m=known(bottom),
                note=here.candidate.name if here is not None else "",
            )
        return Mark(
            water=self.session.water.name,
            kind=MarkKind.PLACE,
            time=self.moment,
            latitude=place.latitude,
            longitude=place.longitude,
            depth_m=chosen.fish_m if chosen is not None else None,
            bottom_depth_m=chosen.bottom_m if chosen is not None else None,
            note=chosen.name if chosen is not None else "",
        )

    @property
    def fish_depth_m(self) -> float:
        """The bob hangs where the chosen stay is fished."""
        chosen = self.session.run.chosen
        return chosen.fish_m if chosen is not None else math.nan

    @property
    def has_next(self) -> bool:
        """There are stays."""
        return bool(numbers(self.session.run))

    def choose_next(self, step: int) -> None:
        """The next stay."""
        self.session.run.choose_next(step)

    @property
    def start_words(self) -> str:
        """While there is no plan."""
        if self.session.run.plan is not None or self.session.run.ask is not None:
            return ""
        if self.session.chart.chart is None:
            return "A day thought through: it needs a chart of your water first; soundings or a recording make one."
        return (
            "A day thought through: F5 plans it from first light on: where first, how long, what next, and what is "
            "ruled out."
        )

    @property
    def start_command(self) -> str:
        """With a chart one key plans the day."""
        return "run.today" if self.session.chart.chart is not None else ""

    @property
    def has_picture(self) -> bool:
        """There is a plan."""
        return self.session.run.plan is not None

    def zoom(self, factor: float) -> None:
        """Of the chart."""
        self.session.chart.zoom(factor)

    def show_all(self) -> None:
        """The whole water."""
        self.session.chart.show_all()

    def step(self, right: int, down: int) -> None:
        """The clock, by five minutes."""
        run = self.session.run
        if run.ask is not None and right:
            now = run.now if run.now is not None else run.ask.start
            run.set_now(min(max(now + right * _STEP_S, run.ask.start), run.ask.end))

    def let_go(self) -> None:
        """Of what lies about the place, then of the clock."""
        run = self.session.run
        if run.around:
            run.show_around("")
        else:
            run.set_now(None)
