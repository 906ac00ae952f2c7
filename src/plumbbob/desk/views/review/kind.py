"""The review and its stage, for the registry."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.review.commands import COMMANDS
from plumbbob.desk.views.review.panel import ReviewPanel
from plumbbob.desk.views.review.rate_picture import RatePicture
from plumbbob.desk.views.review.season_maps import SeasonMaps
from plumbbob.desk.views.review.view import ReviewView
from plumbbob.desk.views.review.year_picture import YearPicture

_FOOT_HEIGHT = 230


class ReviewFoot(QWidget):
    """The year as water, and where fish came from as it went on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("reviewfoot")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 8, 0)
        row.setSpacing(4)
        row.addWidget(YearPicture(session), 5)
        row.addWidget(SeasonMaps(session), 2)


REVIEWED = ViewKind(
    view=ReviewView,
    panel=lambda parts: scrolling(ReviewPanel(parts.session)),
    picture=lambda parts: RatePicture(parts.session),
    commands=COMMANDS,
)
REVIEW = StageKind(
    name="review",
    title="Review",
    help="What your own log says, and how sure.",
    foot=lambda parts: ReviewFoot(parts.session),
    foot_height=_FOOT_HEIGHT,
)
