"""The water a boat lies on that is listened to: its marks, its chart and its clock are those of that water."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import QObject

from plumbbob.core.geodesy import Position
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.find_water import WaterFinder
from plumbbob.desk.tasks.make_demo import survey_of
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import Water, shipped_waters
from plumbbob.services.waters import name_for

_OF_SCENE = {"lake": "veyra-lake", "drift": "carrow-sound", "hole": "tern-pond"}


class LiveWater(QObject):
    """Needs the session, who makes charts and who asks for names; looks once after the first fix of an outing."""

    def __init__(self, session: Session, charter: ChartBuilder, finder: WaterFinder) -> None:
        super().__init__(session)
        self._session, self._charter, self._finder = session, charter, finder
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
        elif not session.water.key and fit.is_new:
            self._make(live.fix.place)
        elif session.water.outline or session.water.place is not None:
            session.say(f"The boat lies on no water of yours: marks go under {session.water.name}. F9 makes another.")

    def _make(self, place: Position) -> None:
        """The first water of all: where the boat lies; it can be called otherwise."""
        try:
            water = self._charter.waters.create(name_for(Path("0"), place), place)
        except FileError as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        self._go(water)
        self._finder.ask_name(water, takes_keys=False)

    def _go(self, water: Water) -> None:
        if self._charter.is_here(water):
            return
        folder = self._charter.waters.folder(water)
        survey = survey_of(water.key) if not folder.sources() else None
        self._charter.come_to(water, time.time(), survey)
