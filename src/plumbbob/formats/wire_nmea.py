"""NMEA 0183 as it comes over a wire: sentences out of dirt, and one fix out of the sentences of a moment."""

from __future__ import annotations

import math
import re
from collections import Counter
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from plumbbob.core.live.fixes import Fix

_SENTENCE = re.compile(rb"[$!]([^$!*\r\n]{3,120})\*([0-9A-Fa-f]{2})")
_KEPT = 256  # bytes that may still become a sentence
_KNOT_MPS = 0.514444
_PLACES = ("RMC", "GGA", "GLL")  # the first that has one
_DAY_S = 86400.0
SETTLED_S = 0.4  # after its last sentence a moment is whole
_DEEPEST_M = 12_000.0


@dataclass(frozen=True, slots=True)
class Depth:
    """What a sounder said under its transducer, with the offset to the surface where it gave one."""

    depth_m: float


@dataclass(slots=True)
class _Moment:
    """Sentences of one talker with one time of day."""

    clock_s: float
    last: float  # when its last sentence came
    place: dict[str, tuple[float, float]] = field(default_factory=dict)
    speed_mps: float = math.nan
    course_deg: float = math.nan


class SentenceScanner:
    """Takes bytes as they come and gives whole sentences; whatever stands before a `$` is passed over."""

    def __init__(self) -> None:
        self._buffer = b""
        self.left_out: Counter[str] = Counter()

    def feed(self, data: bytes) -> list[str]:
        """More bytes; the sentences they complete, each with a right checksum, from its talker on."""
        self._buffer += data
        out, at = [], 0
        for found in _SENTENCE.finditer(self._buffer):
            body, told = found[1], int(found[2], 16)
            check = 0
            for byte in body:
                check ^= byte
            if check == told:
                out.append(body.decode("ascii", "replace"))
            else:
                self.left_out["checksum"] += 1
            at = found.end()
        rest = self._buffer[at:]
        begin = max(rest.rfind(b"$"), rest.rfind(b"!"))
        # what is too long for a sentence, or has no beginning, is none
        self._buffer = rest[begin:] if begin >= 0 and len(rest) - begin <= _KEPT else b""
        return out


class MomentBuilder:
    """Builds fixes of sentences. `came` is when each came, in seconds of a clock that only runs forward."""

    def __init__(self) -> None:
        self._open: dict[str, _Moment] = {}
        self._done: dict[str, float] = {}  # the last moment of each talker that has been given
        self._date: tuple[float, float] | None = None  # midnight of the last date told, and when
        self.left_out: Counter[str] = Counter()
        self.temperature: tuple[float, float] | None = None  # when it came, degrees
        self.heading: tuple[float, float] | None = None
        self.depth: tuple[float, float] | None = None

    def take(self, sentence: str, came: float, clock: float) -> list[tuple[str, Fix]]:
        """
        One more sentence; fixes that are whole by it, each with its talker.

        Parameters
        ----------
        clock : float
            What the time should be by now, s since 1970 UTC: it gives the day where no sentence does.
        """
        talker, kind = sentence[:2], sentence[2:5]
        rows = sentence.split(",")
        try:
            if kind in _PLACES:
                return self._place(talker, kind, rows, came, clock)
            if kind == "VTG":
                self._way(talker, rows, came)
            elif kind == "ZDA":
                self._set_date(_date_of(rows[2], rows[3], rows[4]), came)
            elif kind == "HDT":
                self.heading = (came, _number(rows[1], 0.0, 360.0) % 360.0)
            elif kind == "MTW":
                self.temperature = (came, _number(rows[1], -5.0, 60.0))
            elif kind == "DPT":
                offset = _number(rows[2], -50.0, 50.0) if len(rows) > 2 and rows[2] else 0.0
                self.depth = (came, _number(rows[1], 0.0, _DEEPEST_M) + max(offset, 0.0))
            elif kind == "DBT" and len(rows) > 3 and rows[3]:
                self.depth = (came, _number(rows[3], 0.0, _DEEPEST_M))
        except (ValueError, IndexError, OverflowError):
            self.left_out["numbers"] += 1
        return []

    def settled(self, came: float, clock: float, *, closed: bool = False) -> list[tuple[str, Fix]]:
        """Fixes of moments whose last sentence is a little while ago, or of all where nothing more comes."""
        out = []
        for talker, moment in list(self._open.items()):
            if closed or came - moment.last >= SETTLED_S:
                del self._open[talker]
                out += self._fix(talker, moment, came, clock)
        return out

    # -- sentences ----------------------------------------------------------------------------------------------

    def _place(self, talker: str, kind: str, rows: list[str], came: float, clock: float) -> list[tuple[str, Fix]]:
        at = {"RMC": 1, "GGA": 1, "GLL": 5}[kind]
        seconds = _clock_of(rows[at])
        out: list[tuple[str, Fix]] = []
        if self._done.get(talker) == seconds:
            return out  # it came late: its moment has been given
        moment = self._open.get(talker)
        if moment is not None and moment.clock_s != seconds:
            out += self._fix(talker, moment, came, clock)
            moment = None
        if moment is None:
            moment = self._open[talker] = _Moment(seconds, came)
        moment.last = came
        if kind == "RMC" and len(rows) > 9 and rows[9]:
            self._set_date(_date_of(rows[9][:2], rows[9][2:4], "20" + rows[9][4:6]), came)
        good = {"RMC": rows[2] == "A", "GGA": rows[6] not in ("", "0"), "GLL": len(rows) < 7 or rows[6] != "V"}[kind]
        if not good:
            self.left_out["void"] += 1
            return out
        first = {"RMC": 3, "GGA": 2, "GLL": 1}[kind]
        moment.place[kind] = (
            _angle(rows[first], rows[first + 1], 2, "NS", 90.0),
            _angle(rows[first + 2], rows[first + 3], 3, "EW", 180.0),
        )
        if kind == "RMC":
            moment.speed_mps = _number(rows[7], 0.0, 200.0) * _KNOT_MPS if rows[7] else moment.speed_mps
            moment.course_deg = _number(rows[8], 0.0, 360.0) % 360.0 if rows[8] else moment.course_deg
        return out

    def _way(self, talker: str, rows: list[str], came: float) -> None:
        moment = self._open.get(talker)
        if moment is None:
            return
        moment.last = came
        if rows[1] and not math.isfinite(moment.course_deg):
            moment.course_deg = _number(rows[1], 0.0, 360.0) % 360.0
        if rows[5] and not math.isfinite(moment.speed_mps):
            moment.speed_mps = _number(rows[5], 0.0, 200.0) * _KNOT_MPS

    def _set_date(self, midnight: float, came: float) -> None:
        self._date = (midnight, came)

    def _fix(self, talker: str, moment: _Moment, came: float, clock: float) -> list[tuple[str, Fix]]:
        self._done[talker] = moment.clock_s
        self._open.pop(talker, None)
        kind = next((k for k in _PLACES if k in moment.place), None)
        if kind is None:
            return []
        latitude, longitude = moment.place[kind]
        time = self._time(moment.clock_s, came, clock)
        return [
            (
                talker,
                Fix(
                    time=time,
                    latitude=latitude,
                    longitude=longitude,
                    speed_mps=moment.speed_mps,
                    course_deg=moment.course_deg,
                ),
            )
        ]

    def _time(self, clock_s: float, came: float, clock: float) -> float:
        """The day that a sentence told, where one did; else the one that brings the time nearest to the clock."""
        if self._date is not None:
            midnight, told = self._date
            # a date may be some minutes old when its day ends
            guess = midnight + clock_s
            days = round((clock - guess) / _DAY_S) if math.isfinite(clock) and came - told > 2.0 else 0
            return guess + _DAY_S * max(min(days, 1), 0)
        return clock_s + _DAY_S * round((clock - clock_s) / _DAY_S)


def _number(text: str, low: float, high: float) -> float:
    value = float(text)
    if not low <= value <= high:
        raise ValueError(text)
    return value


def _clock_of(text: str) -> float:
    """Seconds of the day of hhmmss.ss."""
    if not re.match(r"^\d{6}(\.\d*)?$", text):
        raise ValueError(text)
    hours, minutes, seconds = int(text[:2]), int(text[2:4]), float(text[4:])
    if hours > 23 or minutes > 59 or seconds >= 61.0:
        raise ValueError(text)
    return 3600.0 * hours + 60.0 * minutes + seconds


def _date_of(day: str, month: str, year: str) -> float:
    return datetime(int(year), int(month), int(day), tzinfo=UTC).timestamp()


def _angle(text: str, side: str, digits: int, sides: str, most: float) -> float:
    if side not in sides or not side or not re.match(rf"^\d{{{digits + 2}}}(\.\d*)?$", text):
        raise ValueError(text)
    minutes = float(text[digits:])
    value = int(text[:digits]) + minutes / 60.0
    if minutes >= 60.0 or value > most:
        raise ValueError(text)
    return value if side == sides[0] else -value


# -- gpsd -----------------------------------------------------------------------------------------------------------

WATCH = b'?WATCH={"enable":true,"json":true};\n'


class GpsdScanner:
    """Lines of JSON of a gpsd server; TPV reports of mode 2 and 3 are fixes."""

    def __init__(self) -> None:
        self._buffer = b""
        self.left_out: Counter[str] = Counter()

    def feed(self, data: bytes) -> list[Fix]:
        """More bytes; the fixes they complete."""
        from plumbbob.files.json_text import loads

        self._buffer += data
        *lines, self._buffer = self._buffer.split(b"\n")
        if len(self._buffer) > 65_536:
            self._buffer = b""
        out = []
        for line in lines:
            try:
                said = loads(line.decode("utf-8"))
            except (ValueError, RecursionError):
                self.left_out["not JSON"] += 1
                continue
            if isinstance(said, dict) and said.get("class") == "TPV":
                fix = self._fix(said)
                if fix is not None:
                    out.append(fix)
        return out

    def _fix(self, said: dict[str, Any]) -> Fix | None:
        if said.get("mode") not in (2, 3):
            self.left_out["void"] += 1
            return None
        try:
            time = datetime.fromisoformat(str(said["time"]).replace("Z", "+00:00"))
            if time.tzinfo is None:
                time = time.replace(tzinfo=UTC)
            return Fix(
                time=(time - datetime(1970, 1, 1, tzinfo=UTC)) / timedelta(seconds=1),
                latitude=_said(said["lat"], -90.0, 90.0),
                longitude=_said(said["lon"], -180.0, 180.0),
                speed_mps=_said(said.get("speed"), 0.0, 200.0, missing=True),
                course_deg=_said(said.get("track"), 0.0, 360.0, missing=True) % 360.0,
            )
        except (KeyError, ValueError, TypeError, OverflowError):
            self.left_out["numbers"] += 1
            return None


def _said(value: Any, low: float, high: float, *, missing: bool = False) -> float:
    if value is None and missing:
        return math.nan
    if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
        raise ValueError("a number that can't be")
    return float(value)
