"""A planned day as a file: the answer of `plumbbob plan`, and under `card` what a printed card shows besides."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.clock import Hour
from plumbbob.core.types import Floats
from plumbbob.core.units import System
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.files.text import printable
from plumbbob.formats.checked import list_of, number_from, within
from plumbbob.formats.waters import is_time_zone

MOST_BYTES, MOST_STAYS, MOST_POINTS = 30_000_000, 300, 200_000
_MOST_RODS, _MOST_ROWS, _MOST_TEXT = 8, 40, 300
_LIGHTS = ("first_light", "sunrise", "sunset", "last_light")
FLOAT_KEYS = ("who", "phone", "craft", "call", "call_at", "emergency")


@dataclass(frozen=True, slots=True, kw_only=True)
class CardStay:
    """One stay as printed. Depths in metres, NaN where not known."""

    name: str
    arrive: float
    leave: float
    fish: float
    why: str
    way: tuple[Position, ...]
    depth_m: float = math.nan
    bottom_m: float = math.nan

    @property
    def place(self) -> Position:
        """Where it is: the end of the way to it."""
        return self.way[-1]


@dataclass(frozen=True, slots=True, kw_only=True)
class RodTable:
    """A rod's line table, in the words and units it is printed in."""

    title: str
    head: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    foot: str = ""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class DayCard:
    """All that is printed."""

    water: str = ""
    time_zone: str = "UTC"
    units: System = System.METRIC
    start: float
    back: float
    fish: float
    fish_range: tuple[int, int] | None = None
    stays: tuple[CardStay, ...] = ()
    way_home: tuple[Position, ...] = ()
    left_out: tuple[tuple[str, str], ...] = ()
    hours: tuple[Hour, ...] = ()
    lights: Mapping[str, float] = field(default_factory=dict)
    wind_limit_mps: float = math.nan
    kayak: bool = False
    surface_c: float = math.nan
    rods: tuple[RodTable, ...] = ()
    shore: tuple[Floats, ...] = ()  # (n, 2) latitude, longitude
    contours: tuple[tuple[float, Floats], ...] = ()  # depth, line
    hazards: tuple[Position, ...] = ()
    float_plan: Mapping[str, str] = field(default_factory=dict)


def read_card(path: Path) -> DayCard:
    """
    A planned day from its file.

    Raises
    ------
    FileError
        In one line.
    """
    try:
        return card_of(read_json(path, MOST_BYTES))
    except (ValueError, TypeError, KeyError, AttributeError, OverflowError) as exc:
        raise FileError(path, "", f"is no plan: {printable(str(exc))}") from exc


def card_of(value: Any) -> DayCard:
    """
    The card of a plan; what `card` does not say is left open.

    Raises
    ------
    ValueError
        In one line.
    """
    if not isinstance(value, Mapping) or "visits" not in value:
        raise ValueError("it has no visits")
    more = value.get("card") or {}
    if not isinstance(more, Mapping):
        raise ValueError("card is an object of named values")
    places = _mapping(more.get("places"), "places")
    stays = tuple(_stay(v, places) for v in list_of(value["visits"], MOST_STAYS))
    for before, after in itertools.pairwise(stays):
        if after.arrive < before.leave - 1.0:
            raise ValueError(f"{after.name} begins before {before.name} is left")
    back = number_from("back", value.get("back"))
    if stays and back < stays[-1].leave - 1.0:
        raise ValueError("one is back before the last place is left")
    first = stays[0].arrive if stays else back
    start = number_from("start", more.get("start", first))
    zone, units = more.get("time_zone", "UTC"), more.get("units", "metric")
    if not isinstance(zone, str) or not is_time_zone(zone):
        raise ValueError(f"{zone!r:.40} is no time zone")
    spread = more.get("range")
    home = _line(more["home"]) if more.get("home") else ()
    if not home and stays:
        home = (stays[-1].place, stays[0].way[0])
    return DayCard(
        water=_text(more.get("water", "")),
        time_zone=zone,
        units=_system(units),
        start=start,
        back=back,
        fish=number_from("fish", value.get("fish", 0.0)),
        fish_range=None if spread is None else _pair(spread),
        stays=stays,
        way_home=home,
        left_out=tuple(
            (_text(row.get("name", "")), _text(row.get("why", ""))) for row in list_of(value.get("left_out") or [])
        ),
        hours=tuple(_hour(h) for h in list_of(more.get("wind") or [], 96)),
        lights={k: number_from(k, v) for k, v in _mapping(more.get("light"), "light").items() if k in _LIGHTS},
        wind_limit_mps=_maybe("wind_limit_mps", more.get("wind_limit_mps")),
        kayak=bool(more.get("kayak", False)),
        surface_c=_maybe("surface_c", more.get("surface_c")),
        rods=tuple(_rod(r) for r in list_of(more.get("rods") or [], _MOST_RODS)),
        shore=tuple(_array(ring) for ring in list_of(more.get("shore") or [], 5000)),
        contours=tuple(_contour(c) for c in list_of(more.get("contours") or [], 20_000)),
        hazards=_line(more.get("hazards") or []),
        float_plan={k: _text(v) for k, v in _mapping(more.get("float"), "float").items() if k in FLOAT_KEYS},
    )


def _system(value: Any) -> System:
    found = next((s for s in System if isinstance(value, str) and s.value.lower() == value.lower()), None)
    if found is None:
        raise ValueError(f"{value!r:.40} are no units; {', '.join(s.value for s in System)} are")
    return found


def _mapping(value: Any, name: str) -> Mapping[str, Any]:
    if value is None:
        return {}
    if not isinstance(value, Mapping):
        raise ValueError(f"{name} is an object of named values")
    return value


def _text(value: Any) -> str:
    if not isinstance(value, str):
        raise ValueError(f"{value!r:.40} is no text")
    return printable(value, _MOST_TEXT)


def _maybe(name: str, value: Any) -> float:
    return math.nan if value is None else number_from(name, value)


def _pair(value: Any) -> tuple[int, int]:
    low, high = (int(number_from("range", v)) for v in list_of(value, 2))
    return low, high


def _line(value: Any) -> tuple[Position, ...]:
    out = []
    for point in list_of(value, MOST_POINTS):
        latitude, longitude = list_of(point, 2)
        out.append(Position(within("latitude", latitude, -90.0, 90.0), within("longitude", longitude, -180.0, 180.0)))
    return tuple(out)


def _array(value: Any) -> Floats:
    return np.array([(p.latitude, p.longitude) for p in _line(value)], np.float64).reshape(-1, 2)


def _contour(value: Any) -> tuple[float, Floats]:
    row = _mapping(value, "a contour")
    return number_from("depth_m", row.get("depth_m")), _array(row.get("line"))


def _hour(value: Any) -> Hour:
    row = _mapping(value, "an hour of wind")
    return Hour(
        number_from("time", row.get("time")),
        within("mps", row.get("mps"), 0.0, 90.0),
        within("from_deg", row.get("from_deg"), 0.0, 360.0),
    )


def _stay(value: Any, places: Mapping[str, Any]) -> CardStay:
    row = _mapping(value, "a visit")
    name = _text(row.get("name"))
    arrive, leave = (number_from(f"{key} of {name}", row.get(key)) for key in ("arrive", "leave"))
    if leave < arrive:
        raise ValueError(f"{name} is left before one comes to it")
    way = _line(row.get("way") or [])
    if not way:
        raise ValueError(f"there is no way to {name}")
    there = _mapping(places.get(name), name)
    return CardStay(
        name=name,
        arrive=arrive,
        leave=leave,
        fish=number_from(f"fish of {name}", row.get("fish", 0.0)),
        why=_text(row.get("why", "")),
        way=way,
        depth_m=_maybe(f"depth of {name}", there.get("depth_m")),
        bottom_m=_maybe(f"bottom of {name}", there.get("bottom_m")),
    )


def _rod(value: Any) -> RodTable:
    row = _mapping(value, "a rod")
    head = tuple(_text(c) for c in list_of(row.get("head") or [], 12))
    rows = tuple(tuple(_text(c) for c in list_of(r, 12)) for r in list_of(row.get("rows") or [], _MOST_ROWS))
    return RodTable(title=_text(row.get("title", "")), head=head, rows=rows, foot=_text(row.get("foot", "")))


def card_json(card: DayCard) -> dict[str, Any]:
    """A day as it is kept and handed on; `read_card` reads it back."""

    def line(way: Sequence[Position]) -> list[list[float]]:
        return [[round(p.latitude, 7), round(p.longitude, 7)] for p in way]

    return {
        "visits": [
            {"name": s.name, "arrive": s.arrive, "leave": s.leave, "fish": s.fish, "why": s.why, "way": line(s.way)}
            for s in card.stays
        ],
        "back": card.back,
        "fish": card.fish,
        "left_out": [{"name": name, "why": why} for name, why in card.left_out],
        "card": {
            "water": card.water,
            "time_zone": card.time_zone,
            "units": card.units.value,
            "start": card.start,
            "range": None if card.fish_range is None else list(card.fish_range),
            "home": line(card.way_home),
            "places": {s.name: {"depth_m": _known(s.depth_m), "bottom_m": _known(s.bottom_m)} for s in card.stays},
            "wind": [{"time": h.time, "mps": h.wind_mps, "from_deg": h.from_deg} for h in card.hours],
            "light": dict(card.lights),
            "wind_limit_mps": _known(card.wind_limit_mps),
            "kayak": card.kayak,
            "surface_c": _known(card.surface_c),
            "rods": [
                {"title": r.title, "head": list(r.head), "rows": [list(x) for x in r.rows], "foot": r.foot}
                for r in card.rods
            ],
            "shore": [np.round(ring, 6).tolist() for ring in card.shore],
            "contours": [{"depth_m": round(d, 2), "line": np.round(c, 6).tolist()} for d, c in card.contours],
            "hazards": line(card.hazards),
            "float": dict(card.float_plan),
        },
    }


def _known(value: float) -> float | None:
    return value if math.isfinite(value) else None
