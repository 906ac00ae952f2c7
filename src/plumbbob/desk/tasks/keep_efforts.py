"""Stretches of fishing write themselves while a boat is listened to: from its rods as they are rigged and its way."""

from __future__ import annotations

import math
from dataclasses import replace

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.rig.rod import FAMILY, Family
from plumbbob.core.tally.stretches import Fishing, Watch, fishing
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.trips_model import with_trip
from plumbbob.store.errors import StoreError
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Effort

_LOOK_MS = 5_000
_KEEP_S = 120.0  # so often the end of a stretch is on disk: more is never lost


class EffortKeeper(QObject):
    """Needs the session. What it writes is no change that Z takes back: it is what the boat did."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._watch = Watch()
        self._efforts: dict[int, Effort] = {}
        self._kept_at = -math.inf
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK_MS)
        self._timer.timeout.connect(self.look)
        session.live.changed.connect(self._live)

    def _live(self) -> None:
        live = self._session.live
        if live.is_on and not self._timer.isActive():
            self._timer.start()
        elif not live.is_on and self._timer.isActive():
            self._timer.stop()
            self._end(list(self._efforts), None)
            self._watch = Watch()

    def look(self) -> None:
        """What the rods are at now."""
        session = self._session
        fix = session.live.fix
        if fix is None or not session.live.is_on or not session.logbook.is_open:
            return
        speed = fix.speed_mps
        if speed is None or not math.isfinite(speed):
            return
        ended, begun = self._watch.look(self._rods(), speed, fix.time)
        try:
            if ended:
                self._end(ended, fix.time)
            for number in begun:
                self._begin(number, fix.time)
            if self._efforts and fix.time - self._kept_at >= _KEEP_S:
                self._keep(fix.time)
        except StoreError as exc:
            session.say(str(exc), wrong=True)

    def _rods(self) -> dict[int, Fishing]:
        found = {}
        for number, made in enumerate(self._session.rig.sets):
            rod = made.rod
            trolled = FAMILY[rod.method] is Family.TROLLED
            found[number] = fishing(rod.method.value, rod.lure.name, made.bob_m, trolled=trolled)
        return found

    def _begin(self, number: int, time: float) -> None:
        session = self._session
        made, place = session.rig.sets[number], session.live.place
        trip, trips = with_trip(session.trips, session.logbook, session.water.name, time)
        day = session.conditions
        bottom = (
            session.chart.depth_at(place) + day.level_m if place is not None and session.chart.chart else math.nan
        )
        wind, wind_from = session.view.wind
        effort = Effort(
            ref=new_ref(), trip=trip, start=time, end=time, rods=1.0, method=made.rod.method.value,
            lure=made.rod.lure.name, lure_length_m=made.rod.lure.length_m, lure_depth_m=round(made.bob_m, 2),
            speed_mps=made.rod.speed_mps, latitude=place.latitude if place is not None else None,
            longitude=place.longitude if place is not None else None,
            bottom_depth_m=round(bottom, 2) if math.isfinite(bottom) else None,
            spot=session.run.here.candidate.name if session.run.here is not None else "",
            wind_mps=round(wind, 2), wind_from_deg=round(wind_from, 1),
            secchi_m=day.secchi_m, layer_m=round(day.layer.middle_m, 2) if day.layer is not None else None,
        )  # fmt: skip
        self._efforts[number] = session.logbook.write([*trips, effort])[-1]

    def _end(self, numbers: list[int], time: float | None) -> None:
        gone = [self._efforts.pop(n) for n in numbers if n in self._efforts]
        if time is not None and gone:
            self._session.logbook.write([replace(e, end=time) for e in gone])

    def _keep(self, time: float) -> None:
        self._kept_at = time
        numbers = list(self._efforts)
        saved = self._session.logbook.write([replace(self._efforts[n], end=time) for n in numbers])
        self._efforts = dict(zip(numbers, saved, strict=True))
