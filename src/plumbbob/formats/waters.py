"""Waters that are known: their place, their clock, what swims there."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from importlib.resources import files
from pathlib import Path

from plumbbob.core.geodesy import Position, distance_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """One water. Times are shown in its own clock; files hold UTC."""

    name: str
    utc_offset_h: float
    place: Position | None = None
    radius_m: float = 0.0
    altitude_m: float = 0.0
    species: tuple[str, ...] = ()
    bait: tuple[str, ...] = ()
    profile: Path | None = None
    salt: bool = False  # or tidal
    defaults: Mapping[str, float] = field(default_factory=dict)  # level, wind, clarity where nothing was entered


def data_path(name: str) -> Path:
    """Path of a file that ships with the program."""
    return Path(str(files("plumbbob.data").joinpath(name)))


def known_waters() -> tuple[Water, ...]:
    """The waters that ship with the program."""
    rows = json.loads(data_path("waters.json").read_text(encoding="utf-8"))
    return tuple(
        Water(
            name=row["name"],
            utc_offset_h=row["utc_offset_h"],
            place=Position(row["latitude"], row["longitude"]),
            radius_m=row["radius_m"],
            altitude_m=row.get("altitude_m", 0.0),
            species=tuple(row["species"]),
            bait=tuple(row["bait"]),
            profile=data_path(row["profile"]) if row["profile"] else None,
            salt=row.get("salt", False),
            defaults=row.get("defaults", {}),
        )
        for row in rows
    )


def water_named(name: str) -> Water | None:
    """A known water by its name."""
    return next((w for w in known_waters() if w.name == name), None)


def water_at(place: Position | None) -> Water:
    """The known water around a place, else an unnamed one on the nautical zone of its longitude."""
    if place is None:
        return Water(name="Unnamed water", utc_offset_h=0.0)
    for water in known_waters():
        if water.place is not None and distance_m(water.place, place) <= water.radius_m:
            return water
    return Water(name="Unnamed water", utc_offset_h=float(math.floor(place.longitude / 15.0 + 0.5)), place=place)
