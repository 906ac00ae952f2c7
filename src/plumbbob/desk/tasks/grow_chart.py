"""The chart grows from the pass that is being recorded: its bottom, as far as it is sure, every few minutes."""

from __future__ import annotations

import math
import time

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.live.growing import between
from plumbbob.core.live.rolling import reaching
from plumbbob.core.sonar.reading import Reading
from plumbbob.core.sonar.recording import Recording
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder

EVERY_S = 180.0  # a chart made anew costs a second or two of one core
_LEAST = 40  # soundings for which it is worth it
_MADE_UP_ON = "veyra-lake"  # the stand-in's boat knows no other water


class LiveChart:
    """Needs the session and who makes charts."""

    def __init__(self, session: Session, charter: ChartBuilder) -> None:
        self._session, self._charter = session, charter
        self._waiting: list[Soundings] = []
        self._until = -math.inf
        self._due = 0.0

    def begin(self) -> None:
        """Another outing."""
        self._waiting, self._until, self._due = [], -math.inf, time.monotonic() + EVERY_S

    def take(self, recording: Recording, reading: Reading, sure_until: float) -> None:
        """What has become sure since the last time."""
        from plumbbob.core.chart.build import pass_soundings

        session = self._session
        if recording.down is None or not sure_until > self._until:
            return
        if session.live.is_made_up and session.water.key != _MADE_UP_ON:
            return
        part = between(recording, self._until, sure_until)
        self._until = sure_until
        found = pass_soundings(part, reaching(reading, part), session.conditions.level_m)
        if len(found):
            self._waiting.append(found)
        if time.monotonic() >= self._due:
            self.put_in()

    def put_in(self) -> None:
        """Put what waits into the chart and into the water's folder."""
        if sum(map(len, self._waiting)) < _LEAST or self._session.live.recording is None:
            return
        parts, self._waiting = self._waiting, []
        self._due = time.monotonic() + EVERY_S
        if not self._charter.grow(self._session.live.recording.name, parts):
            self._waiting = parts  # a chart is being made: the next time
