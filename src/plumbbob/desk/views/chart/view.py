"""The chart."""

from __future__ import annotations

import time

from plumbbob.core.geodesy import Position
from plumbbob.desk.commands.marking import known
from plumbbob.desk.models.chart_model import Tool
from plumbbob.desk.models.column import Column
from plumbbob.desk.models.view import View
from plumbbob.store.values import Mark, MarkKind

_STEP_PX = 8.0


class ChartView(View):
    """The water from above: depths, places worth a look, marks."""

    name = "chart"
    stage = "water"
    title = "at the chart"
    hints = "Space mark   . next place   D line across   E lane   T column   K what counts   ? keys"
    points_on_chart = True
    inputs = frozenset({"chart", "spots"})

    @property
    def column(self) -> Column:
        """At the chart's cursor."""
        return Column.of_chart(self.session.chart, self.session.conditions)

    @property
    def place(self) -> Position | None:
        """Under the chart's cursor."""
        return self.session.chart.cursor_place()

    @property
    def moment(self) -> float:
        """The present."""
        return time.time()

    @property
    def header(self) -> str:
        """The day, and its first light."""
        session = self.session
        if session.scan.lead is None or session.chart.chart is None:
            return ""
        day = session.local(float(session.scan.lead.time[0]))
        lights = session.conditions.lights
        first = session.clock(lights.first_light, "%H:%M") if lights is not None and lights.first_light else "–"
        return f"{day:%a} {day.day} {day:%b %Y} · first light {first}"

    @property
    def status(self) -> list[str]:
        """The cursor's place."""
        return [] if self.place is None else [self.session.display.place(self.place)]

    @property
    def can_mark(self) -> bool:
        """There is a chart."""
        return self.has_picture

    def mark(self) -> Mark | None:
        """Of the chosen structure, or of the spot under the cursor."""
        session, place = self.session, self.place
        chosen = session.spots.chosen
        if place is None:
            return None
        depth = session.chart.depth_m + session.conditions.level_m
        return Mark(
            water=session.water.name,
            kind=MarkKind.STRUCTURE if chosen is not None else MarkKind.PLACE,
            time=self.moment,
            latitude=place.latitude,
            longitude=place.longitude,
            depth_m=known(depth),
            bottom_depth_m=known(depth),
            note=chosen.feature.kind if chosen is not None else "",
        )

    @property
    def has_next(self) -> bool:
        """There are ranked places."""
        return bool(self.session.spots.places)

    def choose_next(self, step: int) -> None:
        """The next place worth a look."""
        session = self.session
        session.spots.choose_next(step)
        place = session.spots.chosen
        if place is not None:
            session.chart.centre_on(place.feature.x, place.feature.y)

    @property
    def start_words(self) -> str:
        """While there is no chart."""
        if self.has_picture:
            return ""
        water = self.session.water
        title = f"{water.name} has no soundings yet" if water.key else "A chart of your water"
        return (
            f"{title}: Soundings or recordings become a chart with its spread, and places worth a look for the day."
        )

    @property
    def has_picture(self) -> bool:
        """There is a chart."""
        return self.session.chart.chart is not None

    def zoom(self, factor: float) -> None:
        """About the middle."""
        self.session.chart.zoom(factor)

    def show_all(self) -> None:
        """The whole water."""
        self.session.chart.show_all()

    def step(self, right: int, down: int) -> None:
        """The cursor east and south."""
        self.session.chart.step_cursor(_STEP_PX * right, -_STEP_PX * down)

    def let_go(self) -> None:
        """Of the tool, the line, the holes and the place."""
        session = self.session
        session.chart.set_tool(Tool.MOVE)
        session.chart.set_drawn(None)
        session.chart.set_holes(None)
        session.spots.choose(None)
        session.say("")
