"""The pass that is being recorded, in Scan as it grows: new pings a few times a second, the reading behind them."""

from __future__ import annotations

import time
from collections.abc import Mapping

from PySide6.QtCore import QObject, QTimer

from plumbbob.core.live.rolling import Growing, read_on, read_others_on
from plumbbob.core.sonar.recording import Pings, Recording
from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.grow_chart import LiveChart
from plumbbob.services.live_echoes import LiveEchoes

_TICK_MS = 100
_CURSOR_S = 0.5  # what hangs on the cursor follows less often than the picture
_READ_S, _LONG_S = 1.0, 12.0
_OTHERS_SEEN, _OTHERS_UNSEEN = 7.0, 25.0  # the sides wait so many times as long as their last reading took
_LEAST_PINGS = 4
_SET_BACK_S = 30.0


class LiveFollower(QObject):
    """Needs the session, and what grows the chart."""

    def __init__(self, session: Session, chart: LiveChart) -> None:
        super().__init__(session)
        self._session, self._chart = session, chart
        self._echoes: LiveEchoes | None = None
        self._shown: tuple[int, ...] = ()
        self._dropped: Mapping[str, int] = {}
        self._growing = Growing()
        self._reading = False
        self._due = self._long_due = self._others_due = self._others_long_due = self._cursor_due = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._look)
        self._joined, self._lead = False, ""

    def begin(self, echoes: LiveEchoes) -> None:
        """Follow these from now on; the first pings are shown as soon as they are there."""
        self._echoes, self._shown, self._dropped, self._growing = echoes, (), {}, Growing()
        self._joined, now = False, time.monotonic()
        self._due, self._others_due = now + 0.4, now + 2.0
        self._long_due = self._others_long_due = now + _LONG_S
        self._chart.begin()
        self._timer.start()

    def end(self) -> None:
        """No more comes; what is held stays on screen."""
        self._look()
        self._timer.stop()
        self._echoes = None
        self._chart.put_in()
        self._session.scan.end_live()

    def to_live_edge(self) -> None:
        """The newest pings in Scan, also after another recording was opened."""
        scan = self._session.scan
        if not scan.is_live:
            self._joined, self._shown = False, ()
            self._look()
        scan.to_live_edge()

    def _look(self) -> None:
        """What came since."""
        echoes, scan, now = self._echoes, self._session.scan, time.monotonic()
        if echoes is None or echoes.version == self._shown:
            return
        hidden = self._joined and not scan.is_live  # another recording is looked at: the reading goes on
        if hidden and now < self._due:
            return
        version = echoes.version
        recording, dropped = echoes.look()
        lead = _lead(recording)
        if lead is None or len(lead[1]) < _LEAST_PINGS:
            return
        name, pings = lead
        if float(pings.time[-1]) < self._growing.sure_until - _SET_BACK_S:
            self._growing = Growing()  # its clock was set back
        if hidden:
            pass
        elif not self._joined or name != self._lead:
            self._joined, self._lead = True, name
            scan.open(recording, live=True)
        else:
            scan.grow(recording, dropped.get(name, 0) - self._dropped.get(name, 0))
        self._shown, self._dropped = version, dropped
        if not hidden and now >= self._cursor_due:
            self._cursor_due = now + _CURSOR_S
            scan.cursor_changed.emit()
        others = recording.side is not None or recording.forward is not None
        if not self._reading and (now >= self._due or (others and now >= self._others_due)):
            self._read(recording, now)

    def _read(self, recording: Recording, now: float) -> None:
        """The newest seconds, and now and then a longer stretch."""
        self._reading = True
        before = self._growing
        long = now >= self._long_due
        others = now >= self._others_due and (recording.side is not None or recording.forward is not None)
        others_long = others and now >= self._others_long_due
        self._due = now + _READ_S
        if long:
            self._long_due = now + _LONG_S
        if others_long:
            self._others_long_due = now + _LONG_S

        def work(progress: Progress) -> tuple[Growing, float]:
            found = read_on(recording, before, long=long)
            began = time.monotonic()
            if others:
                found = read_others_on(recording, found, long=others_long)
            return found, time.monotonic() - began

        def done(result: tuple[Growing, float]) -> None:
            self._growing, took = result
            scan = self._session.scan
            if long:
                self._chart.take(recording, self._growing.reading, self._growing.sure_until)
            if others:
                self._others_due = time.monotonic() + max(_READ_S, took * self._patience)
            if scan.is_live and scan.recording is not None and scan.recording.name == recording.name:
                sure = self._growing.sure_until if recording.down is not None else self._growing.others_until
                scan.take_growing(self._growing.reading, sure, long=long or others_long)

        job = self._session.jobs.start_quietly(work, done)
        job.then(self._free)

    @property
    def _patience(self) -> float:
        """How long the views to the sides and ahead may wait: longer while nobody looks at them."""
        return _OTHERS_SEEN if self._session.view.name in ("side", "forward") else _OTHERS_UNSEEN

    def _free(self) -> None:
        self._reading = False


def _lead(recording: Recording) -> tuple[str, Pings] | None:
    """The view whose pings make the axis, and its name."""
    for name in ("down", "side", "forward"):
        view = getattr(recording, name)
        if view is not None and len(view):
            return name, view
    return None
