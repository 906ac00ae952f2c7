"""Keeps rods, window and views as they change: a kill or an empty battery takes back only the last half second."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QWidget

from plumbbob.desk.models.chart_model import Shown
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import keep_json, text_of

_KEEP_MS = 400


class StateKeeper(QObject):
    """Needs the session and the window; waits a moment so that a drag is one writing."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_KEEP_MS)
        self._timer.timeout.connect(self.keep)
        for signal in (
            session.rig.changed,
            session.rig.rods_changed,
            session.rig.window_changed,
            session.stage_changed,
            session.chart.shown_changed,
            session.display.changed,
        ):
            signal.connect(self._timer.start)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The window was moved or resized."""
        if event.type() in (QEvent.Type.Resize, QEvent.Type.Move, QEvent.Type.WindowStateChange):
            self._timer.start()
        return False

    def keep(self) -> None:
        """Write it all down now."""
        self._timer.stop()
        session, settings = self._session, self._session.settings
        session.rig.keep()
        settings.setValue("window", self._window.saveGeometry())
        settings.setValue("view/stage", session.stage)
        settings.setValue("view/shown", session.chart.shown.name)
        keep_json(settings, f"view/window/{session.water.key}", session.rig.window)
        settings.sync()


def recall_views(session: Session) -> None:
    """The stage and the chart's look of last time."""
    stage = text_of(session.settings, "view/stage")
    if stage in {v.stage for v in session.views}:
        session.set_stage(stage)
    shown = text_of(session.settings, "view/shown")
    if shown in Shown.__members__:
        session.chart.set_shown(Shown[shown])
