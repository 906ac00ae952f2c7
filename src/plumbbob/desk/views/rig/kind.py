"""The rods and their stage, for the registry."""

from __future__ import annotations

from PySide6.QtWidgets import QStackedWidget, QWidget

from plumbbob.desk.kit.layouts import row_of, scrolling
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.kinds import Parts, StageKind, ViewKind
from plumbbob.desk.views.rig.along_track import AlongTrackPicture
from plumbbob.desk.views.rig.depth_time import DepthTimePicture
from plumbbob.desk.views.rig.panel import AnswerWords, RigPanel, TurnWords
from plumbbob.desk.views.rig.picture import SpreadPicture
from plumbbob.desk.views.rig.sheets import rig_sheets
from plumbbob.desk.views.rig.view import RigView

_OVER_HEIGHT = 176


class _WayOrMotion(QStackedWidget):
    """The way over the bottom; while lines are in motion, their depths by time."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._boat = session.lines
        self.addWidget(AlongTrackPicture(session))
        self.addWidget(DepthTimePicture(session))
        session.lines.moved.connect(self._moved)

    def _moved(self) -> None:
        self.setCurrentIndex(int(self._boat.frame is not None))


def _foot(parts: Parts) -> QWidget:
    session = parts.session
    way = _WayOrMotion(session)
    return row_of((scrolling(AnswerWords(session)), 30), (TurnWords(session, parts.actions), 22), (way, 76))


RODS = ViewKind(
    view=RigView,
    panel=lambda parts: RigPanel(parts.session, parts.actions),
    picture=lambda parts: SpreadPicture(parts.session),
    sheets=lambda parts, host: rig_sheets(parts.session, parts.tasks.rigger, host),
)
RIG = StageKind(name="rig", title="Rig", help="Put a lure at a depth.", foot=_foot, foot_height=_OVER_HEIGHT)
