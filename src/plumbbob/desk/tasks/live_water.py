"""The water a boat lies on that is listened to: its marks, its chart and its clock are those of that water."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject

from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.make_demo import veyra_survey
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import Water, shipped_waters

_OF_SCENE = {"lake": "veyra-lake", "drift": "carrow-sound", "hole": "tern-pond"}


class LiveWater(QObject):
    """Needs the session and who makes charts; looks once after the first fix of each outing."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        super().__init__(session)
        self._session, self._charter = session, charter
        self._looked_at: object = None
        session.live.moved.connect(self._look)

    def _look(self) -> None:
        live, session = self._session.live, self._session
        if not live.is_on or live.fix is None or live.outing is self._looked_at:
            return
        self._looked_at = live.outing
        waters = self._charter.waters
        if live.made_up:
            key = _OF_SCENE[live.made_up]
            shipped = next(w for w in shipped_waters() if w.water.key == key)
            try:
                self._go(waters.adopt(shipped))
            except FileError as exc:
                session.say(f"{exc}.", wrong=True)
            return
        fit = waters.fit(live.fix.latitude, live.fix.longitude)
        if any(self._charter.is_here(water) for water in fit.inside):
            return
        if fit.only is not None:
            self._go(fit.only)
            session.say(f"{fit.only.name}: that is where the boat lies.")
        elif session.water.outline or session.water.place is not None:
            session.say(f"The boat lies on no water of yours: marks go under {session.water.name}. F9 makes another.")

    def _go(self, water: Water) -> None:
        if self._charter.is_here(water):
            return
        folder = self._charter.waters.folder(water)
        survey = veyra_survey if water.key == "veyra-lake" and not folder.sources() else None
        self._charter.come_to(water, time.time(), survey)
