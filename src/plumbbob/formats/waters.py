"""A water: its name, where it lies, its clock, what lives there. `water.json` in its folder (docs/formats.md)."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta, tzinfo
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from plumbbob.core.geodesy import Position
from plumbbob.files.atomic import private_folder, write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.files.text import printable

FILE = "water.json"
VERSION = 1
MOST_NAME = 80
_MOST_BYTES = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class LocalSpecies:
    """A species that lives here, with the name people use for it here."""

    name: str
    species: str = ""  # key in the table of species; empty: not in it


@dataclass(frozen=True, slots=True, kw_only=True)
class Bait:
    """What is eaten here, and how long it is today; NaN where not known."""

    name: str
    length_m: float = math.nan


@dataclass(frozen=True, slots=True, kw_only=True)
class Boat:
    """A craft used here."""

    name: str
    kind: str = ""
    length_m: float = math.nan


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """One water. Times are shown in its own clock; files hold UTC."""

    key: str = ""  # name of its folder; empty: none yet
    name: str = "No water yet"
    place: Position | None = None
    outline: tuple[tuple[float, float], ...] = ()  # of what was sounded: latitude, longitude
    time_zone: str = "UTC"  # IANA name
    altitude_m: float = 0.0
    usual_level_m: float = 0.0
    level_range_m: tuple[float, float] | None = None
    salt: bool = False  # or tidal
    inhabitants: tuple[LocalSpecies, ...] = ()
    baits: tuple[Bait, ...] = ()
    boats: tuple[Boat, ...] = ()
    defaults: Mapping[str, float] = field(default_factory=dict)  # level, wind, clarity where nothing was entered

    @property
    def clock(self) -> tzinfo:
        """Its clock: summer time comes and goes with the date."""
        return clock_of(self.time_zone)

    def offset_h(self, time_s: float) -> float:
        """Hours before UTC at a time."""
        if not math.isfinite(time_s):
            return 0.0
        shift = datetime.fromtimestamp(time_s, UTC).astimezone(self.clock).utcoffset()
        return (shift or timedelta()).total_seconds() / 3600.0

    @property
    def species(self) -> tuple[str, ...]:
        """Names of what lives here."""
        return tuple(s.name for s in self.inhabitants)

    @property
    def bait(self) -> tuple[str, ...]:
        """Names of what is eaten here."""
        return tuple(b.name for b in self.baits)


@cache
def clock_of(time_zone: str) -> tzinfo:
    """The clock of an IANA name; UTC for one that does not exist."""
    try:
        return ZoneInfo(time_zone)
    except (KeyError, OSError, ValueError):  # a name that is none, or that is a folder of them
        return UTC


def is_time_zone(name: str) -> bool:
    """There is a clock of this name."""
    try:
        ZoneInfo(name)
    except (KeyError, OSError, ValueError):
        return False
    return bool(name)


def time_zone_at(place: Position) -> str:
    """The IANA time zone of a place, from a table that comes with the program."""
    from tzfpy import get_tz

    found = get_tz(place.longitude, place.latitude)
    return found if is_time_zone(found) else "UTC"


def data_path(name: str) -> Path:
    """Path of a file that ships with the program."""
    return Path(str(files("plumbbob.data").joinpath(name)))


def plain_name(name: str) -> str:
    """
    A name that can be shown and told from others.

    Raises
    ------
    ValueError
        If nothing is left of it, in one line.

    Examples
    --------
    >>> plain_name("  Mill   Pond ")
    'Mill Pond'
    """
    plain = printable(name, MOST_NAME).strip()
    if not any(c.isalnum() for c in plain):
        raise ValueError("a water needs a name with a letter or a figure in it")
    return plain


def read_water(folder: Path) -> Water:
    """
    The water of a folder.

    Raises
    ------
    FileError
        With one line, if its `water.json` is missing or can't be used.
    """
    path = folder / FILE
    data = read_json(path, _MOST_BYTES)
    if not isinstance(data, dict):
        raise FileError(path, "", "is no description of a water")
    version = data.get("plumbbob_water")
    if not isinstance(version, int) or version < 1:
        raise FileError(path, "", "is no description of a water")
    if version > VERSION:
        raise FileError(path, "", f"was written by a newer program (version {version}, this one reads {VERSION})")
    try:
        return _water(folder.name, data)
    except (KeyError, TypeError, ValueError, AttributeError) as exc:
        raise FileError(path, "", f"cannot be used: {exc}") from exc


def _water(key: str, data: Mapping[str, Any]) -> Water:
    place = None
    if data.get("latitude") is not None:
        place = _place(data["latitude"], data["longitude"])
    level = data.get("level_range_m")
    zone = str(data.get("time_zone", "UTC"))
    return Water(
        key=key,
        name=plain_name(str(data["name"])),
        place=place,
        outline=tuple((p.latitude, p.longitude) for p in (_place(a, b) for a, b in data.get("outline", ()))),
        time_zone=zone if is_time_zone(zone) else time_zone_at(place) if place is not None else "UTC",
        altitude_m=_within(data.get("altitude_m", 0.0), -500.0, 6000.0),
        usual_level_m=_within(data.get("usual_level_m", 0.0), -500.0, 500.0),
        level_range_m=None if level is None else (_within(level[0], -500.0, 500.0), _within(level[1], -500.0, 500.0)),
        salt=bool(data.get("salt", False)),
        inhabitants=tuple(
            LocalSpecies(name=printable(str(s["name"]), MOST_NAME), species=str(s.get("species", "")))
            for s in data.get("species", ())
        ),
        baits=tuple(
            Bait(name=printable(str(b["name"]), MOST_NAME), length_m=_length(b)) for b in data.get("bait", ())
        ),
        boats=tuple(
            Boat(name=printable(str(b["name"]), MOST_NAME), kind=str(b.get("kind", "")), length_m=_length(b))
            for b in data.get("boats", ())
        ),
        defaults={str(k): _within(v, -1e4, 1e4) for k, v in dict(data.get("defaults", {})).items()},
    )


def _place(latitude: Any, longitude: Any) -> Position:
    return Position(_within(latitude, -90.0, 90.0), _within(longitude, -180.0, 180.0))


def _within(value: Any, low: float, high: float) -> float:
    number = float(value)
    if isinstance(value, bool) or not low <= number <= high:
        raise ValueError(f"{value!r:.40} is outside {low:g} to {high:g}")
    return number


def _length(row: Mapping[str, Any]) -> float:
    return math.nan if row.get("length_m") is None else _within(row["length_m"], 0.0, 500.0)


def write_water(folder: Path, water: Water) -> None:
    """Write a water's description into its folder, whole or not at all."""
    data: dict[str, Any] = {"plumbbob_water": VERSION, "name": water.name}
    if water.place is not None:
        data |= {"latitude": round(water.place.latitude, 7), "longitude": round(water.place.longitude, 7)}
    data |= {
        "outline": [[round(a, 6), round(b, 6)] for a, b in water.outline],
        "time_zone": water.time_zone,
        "altitude_m": water.altitude_m,
        "usual_level_m": water.usual_level_m,
        "level_range_m": None if water.level_range_m is None else list(water.level_range_m),
        "salt": water.salt,
        "species": [{"name": s.name, "species": s.species} for s in water.inhabitants],
        "bait": [{"name": b.name, "length_m": _known(b.length_m)} for b in water.baits],
        "boats": [{"name": b.name, "kind": b.kind, "length_m": _known(b.length_m)} for b in water.boats],
        "defaults": dict(water.defaults),
    }
    private_folder(folder)
    write_text(folder / FILE, json.dumps(data, indent=2, ensure_ascii=False) + "\n", private=True)


def _known(value: float) -> float | None:
    return value if math.isfinite(value) else None


@dataclass(frozen=True, slots=True)
class ShippedWater:
    """A made-up water that comes with the program: its description, its column, how far it reaches."""

    water: Water
    profile: Path | None
    radius_m: float
    tidal: bool = False  # a made-up table of tides comes with it


def shipped_waters() -> tuple[ShippedWater, ...]:
    """The waters that come with the program; they are made into folders like any other when they are first used."""
    rows = json.loads(data_path("waters.json").read_text(encoding="utf-8"))
    return tuple(
        ShippedWater(
            replace(_water("", row), key=row["key"]),
            data_path(row["profile"]) if row["profile"] else None,
            row["radius_m"],
            bool(row.get("tidal")),
        )
        for row in rows
    )
