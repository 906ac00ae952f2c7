"""The log and its stage, for the registry."""

from __future__ import annotations

from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.log.catch_csv_sheet import CatchCsvSheet
from plumbbob.desk.views.log.commands import COMMANDS
from plumbbob.desk.views.log.complete_sheet import CompleteSheet
from plumbbob.desk.views.log.foot import LogFoot
from plumbbob.desk.views.log.limits_sheet import LimitsSheet
from plumbbob.desk.views.log.list_sheets import CopiesSheet, TrashSheet, TwiceSheet
from plumbbob.desk.views.log.mark_sheet import MarkSheet
from plumbbob.desk.views.log.panel import LogPanel
from plumbbob.desk.views.log.past_trip_sheet import PastTripSheet
from plumbbob.desk.views.log.record_sheet import RecordSheet
from plumbbob.desk.views.log.share_sheet import ShareSheet
from plumbbob.desk.views.log.trip_picture import TripPicture
from plumbbob.desk.views.log.view import LogView

_FOOT_HEIGHT = 300

MARKS = ViewKind(
    view=LogView,
    panel=lambda parts: scrolling(LogPanel(parts.session, parts.actions)),
    picture=lambda parts: TripPicture(parts.session),
    sheets=lambda parts, host: (
        MarkSheet(parts.session, host),
        CompleteSheet(parts.session, host),
        PastTripSheet(parts.session, host),
        RecordSheet(parts.session, host),
        LimitsSheet(parts.session, host),
        TwiceSheet(parts.session, host),
        TrashSheet(parts.session, host),
        CopiesSheet(parts.session, parts.tasks.log_files, host),
        ShareSheet(parts.session, parts.tasks.log_files, host),
        CatchCsvSheet(parts.session, parts.tasks.log_files, host),
    ),
    commands=COMMANDS,
)
LOG = StageKind(
    name="log",
    title="Log",
    help="What was seen, tried and caught.",
    foot=lambda parts: LogFoot(parts.session),
    foot_height=_FOOT_HEIGHT,
)
