"""What a screen reader says of what is painted: the lure, the cursor, what is chosen."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QWidget

from plumbbob.core.rig.rod import RigAnswer
from plumbbob.core.units import Kind
from plumbbob.desk.models.session import Session

_REST_MS = 250


class Spoken(QObject):
    """Needs the session, the plumb line and the picture on screen; speaks once the hand rests."""

    def __init__(self, session: Session, plumb: QWidget, picture: Callable[[], QWidget]) -> None:
        super().__init__(plumb)
        self._session, self._plumb, self._picture = session, plumb, picture
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(_REST_MS)
        self._rest.timeout.connect(self.speak)
        session.column_changed.connect(self._rest.start)
        session.view_changed.connect(self._rest.start)

    def speak(self) -> None:
        """Names and values as they are now."""
        session = self._session
        display, rig = session.display, session.rig
        sd = f" {display.spread(rig.answer.depth_sd_m, Kind.DEPTH)}" if isinstance(rig.answer, RigAnswer) else ""
        self._plumb.setAccessibleName("plumb line")
        self._plumb.setAccessibleDescription(f"lure at {display.words(rig.bob_m, Kind.DEPTH)}{sd}")
        picture, view = self._picture(), session.view
        picture.setAccessibleName(f"{view.name} of {session.water.name}")
        depth = view.fish_depth_m
        chosen = [f"chosen at {display.words(depth, Kind.DEPTH)}"] if depth == depth else []
        picture.setAccessibleDescription("; ".join([view.header, *view.status, *chosen]))
