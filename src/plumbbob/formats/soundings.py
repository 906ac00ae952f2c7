"""
Soundings as CSV (docs/formats.md): latitude, longitude, depth, and if known time and water level.

Other headers are understood through a `Columns` mapping, guessed from the header or set by the person.
"""

from __future__ import annotations

import csv
import re
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from plumbbob.core.chart.soundings import Cleaned, Soundings, joined
from plumbbob.core.types import Floats, Progress
from plumbbob.core.units import DEEPEST_M, FATHOM_M, FOOT_M
from plumbbob.files.atomic import writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why

BLANKS = r"\s+"  # between columns, as pandas takes it
DEPTH_UNITS = {"m": 1.0, "ft": FOOT_M, "fm": FATHOM_M, "cm": 0.01}
MOST_SOUNDINGS = 30_000_000
MOST_LEVEL_M = 500.0
_CHUNK_ROWS = 500_000
_LOOK_ROWS, _PLACE_DECIMALS = 400, 3
_DAY = re.compile(r"\d{4}-\d\d-\d\d[T ]")
_NAMES: dict[str, tuple[str, ...]] = {
    "latitude": ("latitude", "lat", "y_lat", "breite"),
    "longitude": ("longitude", "lon", "long", "lng", "x_lon", "laenge"),
    "depth": ("depth", "depth_m", "depth_ft", "depth_fm", "tiefe", "z", "sounding", "water_depth"),
    "time": ("time", "timestamp", "datetime", "date_time", "utc"),
    "water_level": ("water_level_m", "water_level", "level_m", "level"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Columns:
    """Which column holds what, and in which unit the depth is."""

    latitude: str
    longitude: str
    depth: str
    depth_unit: str = "m"
    time: str = ""
    water_level: str = ""


@dataclass(frozen=True, slots=True, eq=False)
class SoundingFile:
    """Soundings of one file and what could not be used of it."""

    soundings: Soundings
    unusable: int  # rows without a usable number
    notes: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Header:
    """Names of a table's columns, what stands between them, and whether its first line names them at all."""

    names: list[str]
    mark: str
    titled: bool
    first: list[str]  # the first line's cells


def read_header(path: Path) -> Header:
    """
    The first line of a table; one of numbers alone names nothing, and its columns are then called by their number.

    Raises
    ------
    FileError
        In one line.
    """
    plain_file(path)
    try:
        with path.open(encoding="utf-8-sig", errors="strict", newline="") as file:
            head = file.readline(65_536)
    except (OSError, UnicodeDecodeError) as exc:
        raise FileError(path, "", why(exc) if isinstance(exc, OSError) else "is no text in UTF-8") from exc
    if not head.strip():
        raise FileError(path, "", "is empty")
    mark = max(",;\t|", key=head.count)
    blank = head.split()
    if len(blank) >= 3 and all(np.isfinite(number_of(c)) for c in blank):  # commas are then those of the numbers
        mark = BLANKS
    cells = cells_of(path, head, mark)
    if len(cells) < 3:
        raise FileError(path, "line 1", "needs columns for latitude, longitude and depth")
    if sum(np.isfinite(number_of(c)) for c in cells) >= 3:
        return Header([f"column {k}" for k in range(1, len(cells) + 1)], mark, titled=False, first=cells)
    return Header(cells, mark, titled=True, first=cells)


def cells_of(path: Path, line: str, mark: str) -> list[str]:
    """The cells of a line. Raises FileError."""
    if mark == BLANKS:
        return line.split()
    try:
        return [n.strip() for n in next(csv.reader([line], delimiter=mark))]
    except csv.Error as exc:
        raise FileError(path, "line 1", f"is no line of a table: {why(exc)}") from exc


def number_of(cell: str) -> float:
    """A cell as a number, with a point or a comma; NaN where it is none."""
    try:
        return float(cell.strip().replace(",", "."))
    except ValueError:
        return float("nan")


def guess_columns(path: Path, names: list[str]) -> Columns:
    """
    The mapping that a header suggests.

    Raises
    ------
    FileError
        Naming what is missing and what there is.
    """

    def plain(name: str) -> str:
        return re.sub(r"[\s\-()\[\]°.]+", "_", name.lower()).strip("_")

    by_plain = {plain(n): n for n in names}

    def find(what: str) -> str:
        for candidate in _NAMES[what]:
            if candidate in by_plain:
                return by_plain[candidate]
        starts = [n for p, n in by_plain.items() if p.startswith(_NAMES[what][0][:5])]
        return starts[0] if what in ("latitude", "longitude", "depth") and starts else ""

    found = {what: find(what) for what in _NAMES}
    missing = [what for what in ("latitude", "longitude", "depth") if not found[what]]
    if missing:
        there = ", ".join(names[:8]) + (" …" if len(names) > 8 else "")
        raise FileError(
            path, "header", f"has no column for {' and '.join(missing)}; it has {there}. Name the columns by hand"
        )
    unit = next(
        (u for u in ("ft", "fm", "cm") if re.search(rf"(^|_){u}($|_)|feet|fathom", plain(found["depth"]))), "m"
    )
    if "fathom" in plain(found["depth"]):
        unit = "fm"
    return Columns(
        latitude=found["latitude"],
        longitude=found["longitude"],
        depth=found["depth"],
        depth_unit=unit,
        time=found["time"],
        water_level=found["water_level"],
    )


def untitled_columns(path: Path, header: Header) -> Columns:
    """
    What the columns of a table without names hold, by their first few hundred rows.

    Notes
    -----
    Places are the two columns with the most decimals; a longitude is known by going beyond 90 degrees, else the first
    is taken as the latitude. The depth is the first other column that does not only ever rise, as a count or a clock.

    Raises
    ------
    FileError
        Where no three such columns are to be found.
    """
    with path.open(encoding="utf-8-sig", errors="replace", newline="") as file:
        lines = [line for _, line in zip(range(_LOOK_ROWS), file, strict=False) if line.strip()]
    width = len(header.names)
    rows = [row for row in (cells_of(path, line, header.mark) for line in lines) if len(row) == width]
    cells = list(zip(*rows, strict=True))
    values = [np.array([number_of(c) for c in column]) for column in cells]
    numeric = [k for k in range(width) if np.isfinite(values[k]).mean() > 0.8]
    decimals = {k: np.median([len(re.sub(r"^[^.,]*[.,]?", "", c)) for c in cells[k]]) for k in numeric}
    on_earth = [k for k in numeric if np.nanmax(np.abs(values[k])) <= 360.0 and decimals[k] >= _PLACE_DECIMALS]
    places = sorted(sorted(on_earth, key=lambda k: (-decimals[k], k))[:2])
    rest = [k for k in numeric if k not in places and not _only_rises(values[k])]
    if len(places) < 2 or not rest:
        raise FileError(path, "", "names no columns, and they do not look like places and depths. Name them by hand")
    latitude, longitude = places
    if np.nanmax(np.abs(values[latitude])) > 90.0:
        latitude, longitude = longitude, latitude
    times = [k for k in range(width) if k not in numeric and _DAY.match(cells[k][0])]
    return Columns(
        latitude=header.names[latitude],
        longitude=header.names[longitude],
        depth=header.names[rest[0]],
        time=header.names[times[0]] if times else "",
    )


def _only_rises(values: Floats) -> bool:
    steps = np.diff(values[np.isfinite(values)])
    return bool(steps.size > 5 and (steps > 0).all())


def read_soundings(
    path: Path, columns: Columns | None = None, *, progress: Progress = lambda fraction: None
) -> SoundingFile:
    """
    Soundings in the file's order.

    Parameters
    ----------
    path : Path
    columns : Columns, optional
        Default: guessed from the header. A file with both depth_m and depth_ft uses metres and fills gaps with feet.

    Raises
    ------
    FileError
        In one line that says what is wrong and what to do.
    """
    import pandas as pd  # slow to load, and only wanted here

    header = read_header(path)
    names = header.names
    guessed = columns is None
    notes: tuple[str, ...] = ()
    if columns is None and not header.titled:
        columns, notes = untitled_columns(path, header), ("it names no columns: taken as degrees and metres",)
    columns = columns or guess_columns(path, names)
    second = "depth_ft" if guessed and columns.depth == "depth_m" and "depth_ft" in names else ""
    wanted = [
        c
        for c in (columns.latitude, columns.longitude, columns.depth, second, columns.time, columns.water_level)
        if c
    ]
    unknown = [c for c in wanted if c not in names]
    if unknown:
        raise FileError(path, "header", f"has no column {unknown[0]}")
    size = max(path.stat().st_size, 1)
    parts: list[Soundings] = []
    rows = 0
    try:
        with path.open("rb") as raw:
            reader = _chunks(pd, raw, header, wanted, columns)
            for frame in reader:
                parts.append(_part(pd, frame, columns, second))
                rows += len(frame)
                progress(min(raw.tell() / size, 1.0))
                if rows > MOST_SOUNDINGS:
                    raise FileError(
                        path, "", f"holds more than {MOST_SOUNDINGS // 1_000_000} million rows; cut it into parts"
                    )
    except FileError:
        raise
    except (ValueError, OSError, pd.errors.ParserError, UnicodeDecodeError, OverflowError) as exc:
        raise FileError(path, "", f"is no CSV table: {why(exc)}") from exc
    if not parts:
        raise FileError(path, "", "holds a header and no rows")
    found = joined(parts)
    usable = np.isfinite(found.latitude) & np.isfinite(found.longitude) & (np.abs(found.depth_m) < 1e9)
    if not usable.any():
        raise FileError(path, "", f"{rows} rows, none with a usable latitude, longitude and depth")
    unusable = int((~usable).sum())
    kept = _only(found, usable)
    right, unusable, more = _set_right(path, kept, unusable)
    return SoundingFile(right, unusable, (*notes, *more))


def _chunks(pd, raw, header: Header, wanted: list[str], columns: Columns):  # type: ignore[no-untyped-def]
    """The table in pieces; numbers are read as numbers, and only what is no number becomes text."""
    texts = {c: str for c in (columns.time,) if c}
    return pd.read_csv(
        raw,
        sep=header.mark,
        header=0 if header.titled else None,
        names=None if header.titled else header.names,
        usecols=wanted,
        dtype=texts,
        chunksize=_CHUNK_ROWS,
        encoding="utf-8-sig",
        skipinitialspace=True,
        on_bad_lines="skip",
        low_memory=False,
    )


def _only(s: Soundings, keep: NDArray[np.bool_]) -> Soundings:
    return Soundings(
        latitude=s.latitude[keep],
        longitude=s.longitude[keep],
        depth_m=s.depth_m[keep],
        water_level_m=s.water_level_m[keep],
        time=s.time[keep],
    )


def _part(pd, frame, columns: Columns, second: str) -> Soundings:  # type: ignore[no-untyped-def]
    def numbers(name: str) -> Floats:
        column = frame[name]
        if not pd.api.types.is_numeric_dtype(column):
            column = pd.to_numeric(column.astype(str).str.strip().str.replace(",", ".", regex=False), errors="coerce")
        return column.to_numpy(np.float64, na_value=np.nan)

    depth = numbers(columns.depth) * DEPTH_UNITS[columns.depth_unit]
    if second:
        depth = np.where(np.isfinite(depth), depth, numbers(second) * FOOT_M)
    n = depth.size
    level = numbers(columns.water_level) if columns.water_level else np.full(n, np.nan)
    return Soundings(
        latitude=numbers(columns.latitude),
        longitude=numbers(columns.longitude),
        depth_m=depth,
        water_level_m=level,
        time=_times(pd, frame[columns.time]) if columns.time else np.full(n, np.nan),
    )


def _times(pd, column) -> Floats:  # type: ignore[no-untyped-def]
    """Seconds since 1970 from ISO 8601 or plain numbers; NaN where neither."""
    column = column.astype(str)
    found = pd.to_datetime(column, format="ISO8601", utc=True, errors="coerce")
    seconds = found.to_numpy(dtype="datetime64[us]").astype(np.int64) / 1e6
    seconds[found.isna().to_numpy()] = np.nan
    if np.isnan(seconds).all():
        seconds = pd.to_numeric(column, errors="coerce").to_numpy(np.float64)
    return np.asarray(seconds, np.float64)


def _set_right(path: Path, s: Soundings, unusable: int) -> tuple[Soundings, int, tuple[str, ...]]:
    """Depths given as heights are turned round; what can't be a position is refused in words."""
    notes = []
    lat, lon = np.abs(s.latitude), np.abs(s.longitude)
    if float(np.median(lat)) > 90.0:
        if float(np.median(lat)) <= 180.0 and float(np.median(lon)) <= 90.0:
            raise FileError(path, "", "latitude and longitude look swapped; name the columns the other way round")
        raise FileError(
            path, "", "positions are no degrees but perhaps metres of a projection; convert them to WGS 84"
        )
    on_earth = (lat <= 90.0) & (lon <= 360.0)
    if not on_earth.all():
        notes.append(f"{int((~on_earth).sum())} rows lie nowhere on earth")
        s = _only(s, on_earth)
        unusable += int((~on_earth).sum())
    level = np.where(np.abs(s.water_level_m) < MOST_LEVEL_M, s.water_level_m, np.nan)
    s = replace(s, water_level_m=level)
    negative = float((s.depth_m < 0).mean())
    if negative > 0.6:
        s = replace(s, depth_m=-s.depth_m)
        notes.append("depths were negative and have been turned round")
    if float(np.median(np.abs(s.depth_m))) > 2000.0:
        raise FileError(path, "", "depths are thousands of metres; choose the right unit (cm?) for the column")
    s, unusable = _not_too_deep(s, unusable)
    if unusable > int((~on_earth).sum()):
        notes.append(f"{unusable - int((~on_earth).sum())} rows had no usable number")
    return s, unusable, tuple(notes)


def _not_too_deep(s: Soundings, unusable: int) -> tuple[Soundings, int]:
    good = np.abs(s.depth_m) < DEEPEST_M
    return (s, unusable) if good.all() else (_only(s, good), unusable + int((~good).sum()))


def at_datum(s: Soundings, cleaned: Cleaned) -> Soundings:
    """What was kept, with depths at datum and no level left to take off."""
    kept = cleaned.kept
    return Soundings(
        latitude=s.latitude[kept],
        longitude=s.longitude[kept],
        depth_m=cleaned.depth_m[kept],
        water_level_m=np.zeros(int(kept.sum())),
        time=s.time[kept],
    )


def write_soundings(path: Path, s: Soundings, *, private: bool = False) -> None:
    """Soundings as the project's own CSV, whole or not at all."""
    known = np.isfinite(s.time)
    stamps = np.datetime_as_string(
        (np.where(known, s.time, 0.0) * 10).round().astype(np.int64).astype("M8[100ms]"), "ms"
    )
    with writing(path, private=private) as fresh, fresh.open("w", encoding="utf-8", newline="") as file:
        file.write("time,latitude,longitude,depth_m,water_level_m\n")
        rows = zip(stamps, known, s.latitude, s.longitude, s.depth_m, s.water_level_m, strict=True)
        for stamp, timed, latitude, longitude, depth, level in rows:
            when = f"{stamp[:-2]}Z" if timed else ""
            height = f"{level:.3f}" if level == level else ""
            file.write(f"{when},{latitude:.7f},{longitude:.7f},{depth:.3f},{height}\n")
