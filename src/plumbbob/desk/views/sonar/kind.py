"""The views of a pass and their stage, for the registry."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QSplitter, QWidget

from plumbbob.desk.kit.layouts import PANEL_WIDTH, PLUMB_WIDTH, as_column
from plumbbob.desk.views.kinds import Parts, StageKind, ViewKind
from plumbbob.desk.views.rig.strip import HEIGHT as RIG_HEIGHT
from plumbbob.desk.views.rig.strip import RigStrip
from plumbbob.desk.views.sonar.down.bottom_words import BottomWords
from plumbbob.desk.views.sonar.down.comparison import ComparisonPicture
from plumbbob.desk.views.sonar.down.echogram import Echogram
from plumbbob.desk.views.sonar.down.panel import DownPanel
from plumbbob.desk.views.sonar.down.sheets import scan_sheets
from plumbbob.desk.views.sonar.down.timeline import HEIGHT, Timeline
from plumbbob.desk.views.sonar.down.view import DownView
from plumbbob.desk.views.sonar.forward.panel import ForwardPanel
from plumbbob.desk.views.sonar.forward.picture import ForwardPicture
from plumbbob.desk.views.sonar.forward.view import ForwardView
from plumbbob.desk.views.sonar.picture.panel import ScreenPicturePanel
from plumbbob.desk.views.sonar.picture.picture import ScreenPicture
from plumbbob.desk.views.sonar.picture.view import PictureView
from plumbbob.desk.views.sonar.side.panel import SidePanel
from plumbbob.desk.views.sonar.side.picture import SidePicture
from plumbbob.desk.views.sonar.side.sheets import WidthSheet
from plumbbob.desk.views.sonar.side.view import SideView


class _Passes(QSplitter):
    """The echogram; below it a pass to compare."""

    def __init__(self, parts: Parts) -> None:
        super().__init__(Qt.Orientation.Vertical)
        echogram = Echogram(parts.session)
        for k, picture in enumerate((echogram, ComparisonPicture(parts.session))):
            self.addWidget(picture)
            self.setStretchFactor(k, 1)
        self.setChildrenCollapsible(False)
        self.setHandleWidth(5)
        self.setFocusProxy(echogram)
        parts.session.scan.comparison.changed.connect(self._halve)

    def _halve(self) -> None:
        self.setSizes([1000, 1000])


def _foot(parts: Parts) -> QWidget:
    foot, left = QWidget(), QFrame()
    grid = QGridLayout(foot)
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setSpacing(0)
    left.setProperty("role", "panel")
    grid.addWidget(as_column(left, PANEL_WIDTH), 0, 0)
    grid.addWidget(Timeline(parts.session), 0, 1)
    grid.addWidget(as_column(BottomWords(parts.session), PLUMB_WIDTH), 0, 2)
    grid.addWidget(RigStrip(parts.session), 1, 0, 1, 3)
    grid.setColumnStretch(1, 1)
    return foot


DOWN = ViewKind(
    view=DownView,
    panel=lambda parts: DownPanel(parts.session),
    picture=_Passes,
    sheets=lambda parts, host: scan_sheets(parts.session, host),
)
SIDE = ViewKind(
    view=SideView,
    panel=lambda parts: SidePanel(parts.session),
    picture=lambda parts: SidePicture(parts.session),
    sheets=lambda parts, host: (WidthSheet(parts.session, host),),
)
FORWARD = ViewKind(
    view=ForwardView,
    panel=lambda parts: ForwardPanel(parts.session),
    picture=lambda parts: ForwardPicture(parts.session),
)
PICTURE = ViewKind(
    view=PictureView,
    panel=lambda parts: ScreenPicturePanel(parts.session, parts.actions),
    picture=lambda parts: ScreenPicture(parts.session),
)
SCAN = StageKind(name="scan", title="Scan", help="Read a pass.", foot=_foot, foot_height=RIG_HEIGHT + HEIGHT)
