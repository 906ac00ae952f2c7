"""The day and its stage, for the registry."""

from __future__ import annotations

from plumbbob.desk.kit.layouts import WithChart
from plumbbob.desk.views.kinds import Parts, StageKind, ViewKind
from plumbbob.desk.views.run.commands import COMMANDS
from plumbbob.desk.views.run.day_picture import DayPicture
from plumbbob.desk.views.run.day_sheet import DaySheet
from plumbbob.desk.views.run.foot import FOOT_HEIGHT, run_foot
from plumbbob.desk.views.run.panel import RunPanel
from plumbbob.desk.views.run.view import RunView


def _picture(parts: Parts) -> WithChart:
    session = parts.session
    whole = WithChart(DayPicture(session))
    whole.setObjectName("runpicture")

    def fit() -> None:
        chart = session.chart.chart
        if chart is not None:
            known = chart.grid.known
            rows, columns = (known.any(axis=axis) for axis in (1, 0))
            whole.fit(float(columns.sum()) / max(float(rows.sum()), 1.0))

    session.chart.opened.connect(fit)
    return whole


DAY = ViewKind(
    view=RunView,
    panel=lambda parts: RunPanel(parts.session, parts.actions),
    picture=_picture,
    sheets=lambda parts, host: (DaySheet(parts.session, parts.tasks.day, host),),
    commands=COMMANDS,
)
RUN = StageKind(
    name="run",
    title="Run",
    help="The day: where first, how long, stay or go.",
    foot=lambda parts: run_foot(parts.session, parts.actions),
    foot_height=FOOT_HEIGHT,
)
