"""A tide table as an open file or typed: a line a turn, time and level in metres over the chart's datum."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from pathlib import Path

from plumbbob.core.water.tide import HighOrLow, TideTable
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

_MOST_BYTES = 2_000_000
_LINE = re.compile(
    r"^\s*(\d{4}-\d\d-\d\d)[T ](\d\d:\d\d(?::\d\d)?)(Z|[+-]\d\d:?\d\d)?\s*[,;\t ]\s*(-?\d+(?:[.,]\d+)?)\s*m?\s*"
)


def parse_tide(text: str, utc_offset_h: float = 0.0) -> TideTable:
    """
    A table from lines such as "2026-08-14 05:12, 4.6"; times without an offset are of the water's clock.

    Raises
    ------
    ValueError
        In one line, with the line that makes no sense.

    Examples
    --------
    >>> len(parse_tide("time,level_m\\n2026-08-14 05:12, 4.6\\n2026-08-14T11:20Z;1,2").turns)
    2
    """
    turns = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        found = _LINE.match(line)
        if found is None:
            if number == 1:
                continue  # a header
            raise ValueError(f'line {number}, "{line.strip()[:40]}", is no time and level')
        try:
            when = datetime.fromisoformat(f"{found[1]}T{found[2]}{found[3] or ''}".replace("Z", "+00:00"))
        except ValueError:
            raise ValueError(f'line {number}, "{line.strip()[:40]}", has no such time') from None
        if when.tzinfo is None:
            when = when.replace(tzinfo=UTC) - timedelta(hours=utc_offset_h)
        turns.append(HighOrLow(when.timestamp(), float(found[4].replace(",", "."))))
    return TideTable(turns)


def tide_lines(table: TideTable, utc_offset_h: float = 0.0) -> list[str]:
    """The lines of a table in a water's own clock, a header first: what `parse_tide` reads with the same offset."""
    lines = ["time,level_m"]
    for turn in table.turns:
        when = datetime.fromtimestamp(turn.time, UTC) + timedelta(hours=utc_offset_h)
        lines.append(f"{when:%Y-%m-%d %H:%M:%S}, {turn.level_m:.2f}")
    return lines


def write_tide(path: Path, table: TideTable, *, private: bool = False) -> None:
    """Keep a table, in UTC."""
    lines = [line.replace(", ", "Z, ", 1) if k else line for k, line in enumerate(tide_lines(table))]
    write_text(path, "\n".join([*lines, ""]), private=private)


def looks_like_tide(lines: list[str]) -> bool:
    """Whether the first lines of a text are times and levels."""
    rest = [line for line in lines[1:6] if line.strip() and not line.lstrip().startswith("#")]
    return bool(rest) and all(_LINE.match(line) and len(re.split(r"[,;\t]", line)) <= 3 for line in rest)


def read_tide(path: Path, utc_offset_h: float = 0.0) -> TideTable:
    """
    A table from a file.

    Raises
    ------
    FileError
        With the line that makes no sense.
    """
    try:
        return parse_tide(read_text(path, _MOST_BYTES, encoding="utf-8-sig"), utc_offset_h)
    except ValueError as exc:
        raise FileError(path, "", str(exc)) from exc
