"""NMEA 0183 logs as soundings: position from GGA, RMC or GLL, depth from DPT, DBT or DBS, temperature from MTW."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from pathlib import Path
from typing import TextIO

import numpy as np

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.units import DEEPEST_M, FATHOM_M, FOOT_M
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file

_DEPTHS = {"DPT", "DBT", "DBS"}
_PLACES = {"GGA", "RMC", "GLL"}
_LONGEST_LINE = 4096


@dataclass(frozen=True, slots=True, eq=False)
class NmeaLog:
    """What a log holds."""

    soundings: Soundings
    temperature_c: float  # median; NaN without one
    skipped: int  # sentences with a wrong checksum or unreadable numbers
    notes: tuple[str, ...]


def read_nmea(path: Path, *, progress: Callable[[float], None] = lambda fraction: None) -> NmeaLog:
    """
    Soundings of an NMEA 0183 log: each depth at the place between the two fixes around it.

    Notes
    -----
    DPT counts from the transducer and carries its offset: a positive one is the transducer's depth under the
    surface and is added; a negative one, to the keel, is not used. DBS counts from the surface.

    Raises
    ------
    FileError
        In one line.
    """
    import pynmea2

    fixes: list[tuple[int, float, float, float]] = []
    depths: list[tuple[int, str, float]] = []
    warm: list[float] = []
    skipped = number = 0
    day: date | None = None
    size = max(plain_file(path), 1)
    try:
        with path.open(encoding="ascii", errors="replace") as file:
            for number, line in enumerate(_lines(file), 1):
                text = line.strip()
                if number % 20_000 == 0:
                    progress(min(number * 60 / size, 1.0))
                start = max(text.find("$"), text.find("!"))
                if start < 0:
                    continue
                kind = text[start + 3 : start + 6]
                if kind not in _DEPTHS and kind not in _PLACES and kind != "MTW":
                    continue
                try:
                    said = pynmea2.parse(text[start:], check=True)
                    if kind == "MTW":
                        warm.append(_within(float(said.temperature), -5.0, 60.0))
                    elif kind in _PLACES:
                        if kind == "RMC" and said.datestamp is not None:
                            day = said.datestamp
                        if said.latitude or said.longitude:
                            latitude = _within(said.latitude, -90.0, 90.0)
                            longitude = _within(said.longitude, -180.0, 180.0)
                            fixes.append((number, latitude, longitude, _seconds(day, said.timestamp)))
                    else:
                        depths.append((number, kind, _within(_depth(said, kind), 0.0, DEEPEST_M)))
                except (pynmea2.ParseError, ValueError, TypeError, AttributeError, LookupError, ArithmeticError):
                    skipped += 1
    except OSError as exc:
        raise FileError(path, "", exc.strerror or str(exc)) from exc
    if not fixes:
        raise FileError(path, "", "holds no position (GGA, RMC or GLL) that can be read")
    if not depths:
        raise FileError(path, "", "holds no depth (DPT, DBT or DBS) that can be read")
    # one kind of depth only, the best one there is
    best = next(k for k in ("DPT", "DBS", "DBT") if any(d[1] == k for d in depths))
    rows = np.array([(n, d) for n, k, d in depths if k == best])
    places = np.array(fixes)
    at = rows[:, 0]
    inside = (at >= places[0, 0]) & (at <= places[-1, 0])
    rows, at = rows[inside], at[inside]
    if not rows.size:
        raise FileError(path, "", "has no depth between two positions")
    unwrapped = np.unwrap(places[:, 2], period=360.0)
    n = len(rows)
    notes = [f"{skipped} sentences could not be read"] if skipped else []
    if best == "DBT":
        notes.append("depths count from the transducer: give its depth under the water")
    return NmeaLog(
        soundings=Soundings(
            latitude=np.interp(at, places[:, 0], places[:, 1]),
            longitude=(np.interp(at, places[:, 0], unwrapped) + 180.0) % 360.0 - 180.0,
            depth_m=rows[:, 1],
            water_level_m=np.full(n, np.nan),
            time=np.interp(at, places[:, 0], places[:, 3]),
        ),
        temperature_c=float(np.median(warm)) if warm else math.nan,
        skipped=skipped,
        notes=tuple(notes),
    )


def _lines(file: TextIO) -> Iterator[str]:
    """Lines of a text, however long one is: no sentence is longer than a piece of it."""
    while line := file.readline(_LONGEST_LINE):
        yield line


def _within(value: float, low: float, high: float) -> float:
    if not low <= value <= high:
        raise ValueError("a number that can't be")
    return value


def _depth(said, kind: str) -> float:  # type: ignore[no-untyped-def]
    if kind == "DPT":
        offset = float(said.offset) if said.offset not in (None, "") else 0.0
        return float(said.depth) + max(offset, 0.0)
    # DBT and DBS give feet, metres and fathoms side by side; any may be empty
    for text, metres in ((said.data[2], 1.0), (said.data[0], FOOT_M), (said.data[4], FATHOM_M)):
        if text:
            return float(text) * metres
    raise ValueError("no depth")


def _seconds(day: date | None, clock: time | None) -> float:
    if day is None or clock is None:
        return math.nan
    return datetime.combine(day, clock.replace(tzinfo=None), UTC).timestamp()
