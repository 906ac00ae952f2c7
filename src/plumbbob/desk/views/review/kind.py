"""The review and its stage, for the registry."""

from __future__ import annotations

from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.review.commands import COMMANDS
from plumbbob.desk.views.review.panel import ReviewPanel
from plumbbob.desk.views.review.rate_picture import RatePicture
from plumbbob.desk.views.review.view import ReviewView
from plumbbob.desk.views.review.year_picture import YearPicture

_FOOT_HEIGHT = 230

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
    foot=lambda parts: YearPicture(parts.session),
    foot_height=_FOOT_HEIGHT,
)
