"""The day and its stage, for the registry."""

from __future__ import annotations

from plumbbob.desk.kit.layouts import WithChart
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.run.card_sheet import CardSheet
from plumbbob.desk.views.run.commands import COMMANDS
from plumbbob.desk.views.run.day_picture import DayPicture
from plumbbob.desk.views.run.day_sheet import DaySheet
from plumbbob.desk.views.run.foot import FOOT_HEIGHT, run_foot
from plumbbob.desk.views.run.panel import RunPanel
from plumbbob.desk.views.run.view import RunView


class RunPicture(WithChart):
    """The day, with the chart beside it as the water's shape has it."""

    def __init__(self, session: Session) -> None:
        super().__init__(DayPicture(session))
        self.setObjectName("runpicture")
        self._chart = session.chart
        self._chart.opened.connect(self._opened)

    def _opened(self) -> None:
        if self._chart.chart is not None:
            rows, columns = (self._chart.chart.grid.known.any(axis=axis).sum() for axis in (1, 0))
            self.fit(float(columns) / max(float(rows), 1.0))


DAY = ViewKind(
    view=RunView,
    panel=lambda parts: RunPanel(parts.session, parts.actions),
    picture=lambda parts: RunPicture(parts.session),
    sheets=lambda parts, host: (
        DaySheet(parts.session, parts.tasks.day, host),
        CardSheet(parts.session, host),
    ),
    commands=COMMANDS,
)
RUN = StageKind(
    name="run",
    title="Run",
    help="The day: where first, how long, stay or go.",
    foot=lambda parts: run_foot(parts.session, parts.actions),
    foot_height=FOOT_HEIGHT,
)
