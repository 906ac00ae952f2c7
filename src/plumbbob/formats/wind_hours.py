"""Hours of wind as typed lines or CSV: a time of day, a speed, a direction it comes from; docs/formats.md."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable
from pathlib import Path

from plumbbob.core.plan.clock import Hour
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text
from plumbbob.wording.compass import POINTS

MOST_HOURS, FASTEST_MPS = 96, 60.0
_MOST_BYTES = 1_000_000
_KMH, _KNOT = 1 / 3.6, 0.514444
_UNITS = {"mps": 1.0, "m/s": 1.0, "ms": 1.0, "kmh": _KMH, "km/h": _KMH, "mph": 0.44704, "kn": _KNOT, "kt": _KNOT}
_SPEED = re.compile(r"^([0-9]+(?:[.,][0-9]+)?)\s*([a-z/]*)$", re.IGNORECASE)


def read_wind(path: Path, clock: Callable[[str], float], usual_mps: float) -> tuple[Hour, ...]:
    """
    Hours of wind from a CSV file.

    Raises
    ------
    FileError
        In one line.
    """
    try:
        return parse_wind(read_text(path, _MOST_BYTES, encoding="utf-8-sig"), clock, usual_mps)
    except ValueError as exc:
        raise FileError(path, "", str(exc)) from exc


def parse_wind(text: str, clock: Callable[[str], float], usual_mps: float) -> tuple[Hour, ...]:
    """
    Hours of wind.

    Parameters
    ----------
    text : str
        Lines of time, speed and direction, parted by commas, semicolons, tabs or blanks. A first line with names
        may give the unit of the speed: `wind_mps`, `wind_kmh`, `wind_mph`, `wind_kn`.
    clock : callable
        Seconds since 1970 UTC of a time as it stands there; raises ValueError.
    usual_mps : float
        What one unit of a speed without a unit is.

    Raises
    ------
    ValueError
        In one line, which names the line at fault.

    Examples
    --------
    >>> parse_wind("04:00 3 SW", lambda text: 0.0, 1.0)
    (Hour(time=0.0, wind_mps=3.0, from_deg=225.0),)
    """
    out: list[Hour] = []
    for number, line in enumerate(text.splitlines(), 1):
        # one kind of mark parts a line: a comma within a figure is a decimal one where others do
        mark = next((m for m in (";", "\t", ",") if m in line), None)
        parts = [p.strip() for p in line.strip().split(mark) if p.strip()]
        if not parts or line.lstrip().startswith("#"):
            continue
        if not out and not parts[0][:1].isdigit():
            named = [u for u in _UNITS if parts[1:] and parts[1].lower().endswith(f"_{u}")]
            usual_mps = _UNITS[named[0]] if named else usual_mps
            continue
        parts = _joined(parts)
        if len(parts) != 3:
            raise ValueError(f"line {number} needs a time, a speed and a direction: 06:00 4 SW")
        try:
            out.append(Hour(clock(parts[0]), _speed(parts[1], usual_mps), _direction(parts[2])))
        except ValueError as exc:
            raise ValueError(f"line {number}: {exc}") from exc
        if len(out) > MOST_HOURS:
            raise ValueError(f"more than {MOST_HOURS} hours of wind")
    if not out:
        raise ValueError("there is no hour of wind: write 06:00 4 SW")
    out.sort(key=lambda hour: hour.time)
    if any(a.time == b.time for a, b in itertools.pairwise(out)):
        raise ValueError("one time stands there twice")
    return tuple(out)


def _joined(parts: list[str]) -> list[str]:
    """A date and a time are one, and so are a figure and its unit."""
    if len(parts) > 3 and re.match(r"^\d{4}-\d\d-\d\d$", parts[0]):
        parts = [f"{parts[0]} {parts[1]}", *parts[2:]]
    if len(parts) == 4 and parts[2].lower() in _UNITS:
        parts = [parts[0], f"{parts[1]} {parts[2]}", parts[3]]
    return parts


def _speed(text: str, usual_mps: float) -> float:
    found = _SPEED.match(text)
    if found is None or (found[2] and found[2].lower() not in _UNITS):
        raise ValueError(f'"{text[:20]}" is no speed of wind; try 4 or 4 m/s')
    value = float(found[1].replace(",", ".")) * (_UNITS[found[2].lower()] if found[2] else usual_mps)
    if not 0.0 <= value <= FASTEST_MPS:
        raise ValueError(f"a wind of {text[:20]} is none that blows")
    return value


def _direction(text: str) -> float:
    plain = text.upper().rstrip("°")
    if plain in POINTS:
        return 22.5 * POINTS.index(plain)
    try:
        value = float(plain)
    except ValueError:
        value = math.nan
    if not 0.0 <= value <= 360.0:
        raise ValueError(f'"{text[:20]}" is no direction the wind comes from; try SW or 225')
    return value % 360.0


def write_direction(degrees: float) -> str:
    """The nearest of sixteen points where it is one, else degrees."""
    point = round(degrees / 22.5) % 16
    return POINTS[point] if abs(degrees % 360.0 - 22.5 * point) < 0.6 else f"{degrees % 360:.0f}"
