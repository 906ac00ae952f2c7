"""A day as it was asked, decided and seen, beside its water's other files: `day.json`; docs/formats.md."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from plumbbob.core.geodesy import Position
from plumbbob.core.plan.bites import Ladder, Lever
from plumbbob.core.plan.clock import Craft, Hour
from plumbbob.core.plan.draft import Candidate, Usual
from plumbbob.core.plan.events import KINDS, DayState, Event
from plumbbob.core.plan.outing import DayAsk, Hold
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json
from plumbbob.files.text import printable
from plumbbob.formats.checked import list_of, number_from, within

FILE, VERSION = "day.json", 1
_MOST_BYTES = 5_000_000


@dataclass(frozen=True, slots=True)
class KeptDay:
    """One day of one water."""

    ask: DayAsk
    state: DayState
    patient: bool
    ladder: Ladder


def write_day(folder: Path, day: KeptDay) -> None:
    """
    Keep it, whole or not at all.

    Raises
    ------
    FileError
        In one line.
    """
    ask, state = day.ask, day.state
    data: dict[str, Any] = {
        "plumbbob_day": VERSION,
        "start": ask.start,
        "end": ask.end,
        "launch": [ask.launch.latitude, ask.launch.longitude],
        "hours": [[h.time, h.wind_mps, h.from_deg] for h in ask.hours],
        "craft": {
            "speed_mps": ask.craft.speed_mps,
            "wind_limit_mps": ask.craft.wind_limit_mps,
            "wave_limit_m": ask.craft.wave_limit_m,
            "slows": ask.craft.slows,
        },
        "usual": {"per_h": ask.usual.per_h, "gone_per_h": ask.usual.gone_per_h},
        "rest_h": ask.rest_h,
        "secchi_m": ask.secchi_m,
        "shallow_when_dim": ask.shallow_when_dim,
        "explore": ask.explore,
        "holds": {name: [_known(h.arrive), _known(h.leave)] for name, h in state.holds.items()},
        "banned": sorted(state.banned),
        "added": [
            {"name": c.name, "at": [c.place.latitude, c.place.longitude], "bottom_m": c.bottom_m, "fish_m": c.fish_m}
            for c in state.added
        ],
        "events": [[e.kind, e.time, e.name, e.depth_m, e.minutes] for e in state.events],
        "tried": [[name, lever.value, time] for name, lever, time in state.tried],
        "patient": day.patient,
        "ladder": day.ladder.value,
    }
    write_text(folder / FILE, json.dumps(data, ensure_ascii=False, allow_nan=False), private=True)


def read_day(folder: Path) -> KeptDay | None:
    """
    The day that was kept last; None without one.

    Raises
    ------
    FileError
        In one line, if it can't be used.
    """
    path = folder / FILE
    if not path.is_file():
        return None
    data = read_json(path, _MOST_BYTES)
    try:
        if int(data["plumbbob_day"]) > VERSION:
            raise ValueError("it was written by a newer program")
        return _day(data)
    except (ValueError, TypeError, KeyError, AttributeError) as exc:
        raise FileError(path, "", f"is no day that can be used: {printable(str(exc))}") from exc


def _day(data: Any) -> KeptDay:
    craft, usual = data["craft"], data["usual"]
    ask = DayAsk(
        start=number_from("start", data["start"]),
        end=number_from("end", data["end"]),
        launch=_place(data["launch"]),
        hours=tuple(
            Hour(number_from("time", a), within("wind", b, 0.0, 90.0), within("from", c, 0.0, 360.0))
            for a, b, c in list_of(data["hours"], 200)
        ),
        craft=Craft(
            speed_mps=within("speed", craft["speed_mps"], 0.1, 60.0),
            wind_limit_mps=within("wind limit", craft["wind_limit_mps"], 0.1, 60.0),
            wave_limit_m=within("wave limit", craft["wave_limit_m"], 0.01, 10.0),
            slows=within("slows", craft["slows"], 0.0, 1.0),
        ),
        usual=Usual(
            per_h=within("per_h", usual["per_h"], 1e-3, 1e3), gone_per_h=within("gone", usual["gone_per_h"], 0, 0.999)
        ),
        rest_h=within("rest", data["rest_h"], 0.01, 1e3),
        secchi_m=within("clarity", data["secchi_m"], 0.05, 100.0),
        shallow_when_dim=bool(data["shallow_when_dim"]),
        explore=bool(data.get("explore", True)),
    )
    state = DayState(
        holds={str(k): Hold(_or_nan(a), _or_nan(b)) for k, (a, b) in dict(data["holds"]).items()},
        banned=frozenset(str(n) for n in list_of(data["banned"])),
        added=tuple(_added(c) for c in list_of(data["added"], 200)),
        events=tuple(_event(e) for e in list_of(data["events"])),
        tried=tuple(
            (str(name), Lever(lever), number_from("time", time)) for name, lever, time in list_of(data["tried"])
        ),
    )
    return KeptDay(ask, state, bool(data["patient"]), Ladder(data["ladder"]))


def _place(value: Any) -> Position:
    latitude, longitude = list_of(value, 2)
    return Position(within("latitude", latitude, -90.0, 90.0), within("longitude", longitude, -180.0, 180.0))


def _added(value: Any) -> Candidate:
    return Candidate(
        name=printable(str(value["name"]), 80),
        place=_place(value["at"]),
        bottom_m=within("bottom", value["bottom_m"], 0.0, 12_000.0),
        fish_m=within("depth", value["fish_m"], 0.0, 12_000.0),
        score=0.5,
        kind="own",
    )


def _event(value: Any) -> Event:
    kind, time, name, depth, minutes = list_of(value, 5)
    if kind not in KINDS:
        raise ValueError(f"{kind!r:.40} is nothing that is noted")
    return Event(
        kind=kind,
        time=number_from("time", time),
        name=str(name),
        depth_m=within("depth", depth, 0.0, 12_000.0),
        minutes=within("minutes", minutes, 0.0, 1e4),
    )


def _known(value: float) -> float | None:
    return value if math.isfinite(value) else None


def _or_nan(value: Any) -> float:
    return math.nan if value is None else number_from("time", value)
