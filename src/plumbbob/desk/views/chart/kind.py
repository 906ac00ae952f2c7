"""The chart and its stage, for the registry."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from plumbbob.desk.kit.layouts import PANEL_WIDTH, PLUMB_WIDTH, as_column, row_of
from plumbbob.desk.views.chart.commands import COMMANDS
from plumbbob.desk.views.chart.panel import ChartPanel, ConditionsPanel, SpotWords
from plumbbob.desk.views.chart.picture import ChartPicture
from plumbbob.desk.views.chart.section import SectionPicture
from plumbbob.desk.views.chart.sheets import all_sheets
from plumbbob.desk.views.chart.view import ChartView
from plumbbob.desk.views.kinds import Parts, StageKind, ViewKind

_SECTION_HEIGHT = 170


class ChartHome(QWidget):
    """Where the one picture of the chart stands while it is not lent to stand beside another."""

    def __init__(self, parts: Parts) -> None:
        super().__init__()
        self.picture = ChartPicture(parts.session)
        home = QVBoxLayout(self)
        home.setContentsMargins(0, 0, 0, 0)
        home.addWidget(self.picture)
        self.setFocusProxy(self.picture)

    def lend(self, to: QWidget | None) -> None:
        """Let it stand in another widget's layout; None takes it back."""
        layout = (self if to is None else to).layout()
        if layout is not None and layout.indexOf(self.picture) < 0:
            layout.addWidget(self.picture)
            self.picture.show()


def _foot(parts: Parts) -> QWidget:
    return row_of(
        (as_column(ConditionsPanel(parts.session, parts.actions), PANEL_WIDTH), 0),
        (SectionPicture(parts.session), 1),
        (as_column(SpotWords(parts.session), PLUMB_WIDTH), 0),
    )


CHART = ViewKind(
    view=ChartView,
    panel=lambda parts: ChartPanel(parts.session, parts.actions),
    picture=ChartHome,
    sheets=lambda parts, host: all_sheets(parts.session, parts.tasks, host),
    commands=COMMANDS,
)
WATER = StageKind(
    name="water",
    title="Water",
    help="The chart, the column, places worth a look.",
    foot=_foot,
    foot_height=_SECTION_HEIGHT,
)
