"""
Positions as they come, judged: one fix a moment, one talker, a clock that does not jump, a boat that does not fly.

Pure: the caller says when a thing came, in seconds of a clock that only runs forward.
"""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, replace

from plumbbob.core.geodesy import Position, distance_m

_CLOCK_OFF_S, _FASTEST_MPS, _NEAR_M, _AGREE = 30.0, 50.0, 30.0, 20
_FALL_BACK_S, _APART_M = 5.0, 25.0
_TALKERS = ("GN", "GP", "GL", "GA", "GB")


@dataclass(frozen=True, slots=True, kw_only=True)
class Fix:
    """One moment. NaN where nothing is known."""

    time: float  # s since 1970 UTC
    latitude: float
    longitude: float
    speed_mps: float = math.nan
    course_deg: float = math.nan
    heading_deg: float = math.nan
    temperature_c: float = math.nan

    @property
    def place(self) -> Position:
        """On the earth."""
        return Position(self.latitude, self.longitude)


class Judge:
    """
    Whether a fix can be, seen from those before it.

    A clock more than 30 s off what it should be by now, and a place that would need more than 50 m/s, are left out;
    twenty in a row that agree with each other are believed after all.
    """

    def __init__(self) -> None:
        self._last: tuple[float, Fix] | None = None  # when it came, and what it was
        self._odd: list[tuple[float, Fix]] = []
        self.left_out: Counter[str] = Counter()

    def take(self, fix: Fix, came: float) -> bool:
        """Whether it is good; what is not is counted by its reason."""
        reason = self._against(self._last, fix, came)
        if not reason:
            self._last, self._odd = (came, fix), []
            return True
        before = self._odd[-1] if self._odd else None
        if before is not None and self._against(before, fix, came):
            self._odd = []  # they do not agree with each other either
        self._odd.append((came, fix))
        if len(self._odd) >= _AGREE:
            self._last, self._odd = (came, fix), []
            return True
        self.left_out[reason] += 1
        return False

    @staticmethod
    def _against(last: tuple[float, Fix] | None, fix: Fix, came: float) -> str:
        if last is None:
            return ""
        then, before = last
        passed = max(came - then, 0.0)
        if abs(fix.time - (before.time + passed)) > _CLOCK_OFF_S:
            return "clock"
        far = distance_m(before.place, fix.place)
        seconds = max(fix.time - before.time, passed, 0.0)
        if far > _NEAR_M and far > _FASTEST_MPS * seconds:
            return "jump"
        return ""

    def clock(self, came: float) -> float:
        """What the time should be by now; NaN before the first fix."""
        return math.nan if self._last is None else self._last[1].time + (came - self._last[0])


def rank_of(talker: str) -> int:
    """Which talker is followed before which: all constellations together first."""
    return _TALKERS.index(talker) if talker in _TALKERS else len(_TALKERS)


class TalkerChoice:
    """One talker is followed; another only after five seconds without a good fix of the better one."""

    def __init__(self) -> None:
        self._good: dict[str, tuple[float, Fix]] = {}
        self._followed = ""
        self.apart: Counter[str] = Counter()

    def follows(self, talker: str, fix: Fix, came: float) -> bool:
        """Whether a good fix of a talker is the boat's."""
        for other, (then, place) in self._good.items():
            if other != talker and came - then < 2.0 and distance_m(place.place, fix.place) > _APART_M:
                self.apart[" and ".join(sorted((talker, other)))] += 1
        self._good[talker] = (came, fix)
        before = self._good.get(self._followed)
        stale = before is None or came - before[0] >= _FALL_BACK_S
        if talker != self._followed and (stale or rank_of(talker) < rank_of(self._followed)):
            self._followed = talker
        return talker == self._followed


def with_age(
    fix: Fix, temperature: tuple[float, float] | None, heading: tuple[float, float] | None, came: float
) -> Fix:
    """A fix with temperature and heading of other sentences, if they are at most three seconds old."""
    out = fix
    if temperature is not None and came - temperature[0] <= 3.0:
        out = replace(out, temperature_c=temperature[1])
    if heading is not None and came - heading[0] <= 3.0 and not math.isfinite(out.heading_deg):
        out = replace(out, heading_deg=heading[1])
    return out
