"""Marks and catches and their stage, for the registry."""

from __future__ import annotations

from plumbbob.desk.views.kinds import StageKind, ViewKind
from plumbbob.desk.views.log.beads import MarkPicture
from plumbbob.desk.views.log.complete_sheet import CompleteSheet
from plumbbob.desk.views.log.mark_sheet import MarkSheet
from plumbbob.desk.views.log.panel import LogPanel
from plumbbob.desk.views.log.tables import LogTables
from plumbbob.desk.views.log.view import LogView

_TABLES_HEIGHT = 250

MARKS = ViewKind(
    view=LogView,
    panel=lambda parts: LogPanel(parts.session, parts.actions),
    picture=lambda parts: MarkPicture(parts.session),
    sheets=lambda parts, host: (MarkSheet(parts.session, host), CompleteSheet(parts.session, host)),
)
LOG = StageKind(
    name="log",
    title="Log",
    help="Marks and catches.",
    foot=lambda parts: LogTables(parts.session, parts.actions),
    foot_height=_TABLES_HEIGHT,
)
