"""A fish landed on deck in four presses: caught, which, how long, kept or not. What is open waits for the desk."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind, System
from plumbbob.desk.commands.landing import around_text, care_words, verdict_words, verdicts
from plumbbob.desk.commands.registry import CommandHost
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Mark, MarkKind, Moment

MOST = 8
STAYS_S = 90.0  # a fish has to be unhooked and measured meanwhile
GOES_BACK = "GOES BACK"
_USUAL_M = 0.34
ROWS = ("which", "long", "fate")


@dataclass(frozen=True, slots=True)
class Landing:
    """How far it has come."""

    moment: Moment
    species: str = ""
    length_m: float | None = None
    middle_m: float = _USUAL_M  # of the lengths that are offered


def begin(session: Session, moment: Moment) -> None:
    """Ask which fish it was."""
    if not _species(session):
        return  # nobody has said what lives here, and nothing was caught yet: the desk asks
    session.deck.landing = Landing(moment)
    session.deck.open_row("which", time.monotonic(), stays_s=STAYS_S)


def _species(session: Session) -> tuple[str, ...]:
    """What lives in the water, else what was caught before, the most frequent first."""
    if session.water.species:
        return tuple(session.water.species[:MOST])
    return tuple(name for name, _ in Counter(session.logbook.catches.cells("species")).most_common(MOST))


def step_m(session: Session) -> float:
    """Between two lengths that are offered."""
    return 0.0254 if session.display.system_of(Kind.FISH) is System.US else 0.02


def choices(session: Session) -> tuple[str, ...]:
    """What can be pressed now."""
    landing, row = session.deck.landing, session.deck.row
    if not isinstance(landing, Landing):
        return ()
    if row == "which":
        return tuple(session.display.species(s) for s in _species(session))
    if row == "long":
        say = session.display.words
        step = step_m(session)
        lengths = tuple(say(landing.middle_m + k * step, Kind.FISH) for k in (-2, -1, 0, 1, 2))
        return ("shorter", *lengths, "longer", "not measured")
    return ("released", "kept") if row == "fate" else ()


def offers(number: int) -> Callable[[Session], bool]:
    """There is such a choice."""
    return lambda session: number < len(choices(session))


def choose(number: int) -> Callable[[Session, CommandHost], None]:
    """What the press of one of them does."""

    def run(session: Session, host: CommandHost) -> None:
        landing, row = session.deck.landing, session.deck.row
        if not isinstance(landing, Landing) or number >= len(choices(session)):
            return
        if row == "which":
            _which(session, landing, _species(session)[number])
        elif row == "long":
            _long(session, landing, number)
        elif row == "fate":
            _fate(session, host, landing, number)

    return run


def _which(session: Session, landing: Landing, species: str) -> None:
    lengths = [c.length_m for c in session.logbook.catches[-400:] if c.species == species and c.length_m is not None]
    middle = sorted(lengths)[len(lengths) // 2] if lengths else _USUAL_M
    step = step_m(session)
    session.deck.landing = replace(landing, species=species, middle_m=round(middle / step) * step)
    session.deck.open_row("long", time.monotonic(), stays_s=STAYS_S)


def _long(session: Session, landing: Landing, number: int) -> None:
    step = step_m(session)
    if number in (0, 6):
        moved = landing.middle_m + (5 * step if number == 6 else -5 * step)
        session.deck.landing = replace(landing, middle_m=max(moved, 3 * step))
        session.deck.open_row("long", time.monotonic(), stays_s=STAYS_S)
        return
    length = landing.middle_m + (number - 3) * step if number < 6 else None
    session.deck.landing = replace(landing, length_m=length)
    session.deck.open_row("fate", time.monotonic(), stays_s=STAYS_S)
    found = verdicts(session, landing.species, length, landing.moment.time)
    words, forbidden = verdict_words(session, found)
    if words:
        session.say((f"{GOES_BACK}. " if forbidden else "") + words, wrong=forbidden)


def _fate(session: Session, host: CommandHost, landing: Landing, number: int) -> None:
    moment, kept = landing.moment, number == 1
    place = None
    mark: Mark | None = None
    if moment.latitude is not None and moment.longitude is not None:
        place = Position(moment.latitude, moment.longitude)
        mark = session.logbook.nearest(place) or Mark(
            ref=new_ref(), water=moment.water, kind=MarkKind.FISH, time=moment.time, latitude=place.latitude,
            longitude=place.longitude, depth_m=moment.fish_depth_m, bottom_depth_m=moment.bottom_depth_m,
            source=moment.source,
        )  # fmt: skip
    catch = Catch(
        mark_id=mark.id if mark is not None else None, trip=moment.trip, time=moment.time, species=landing.species,
        length_m=landing.length_m, kept=kept, rig=moment.rig, latitude=moment.latitude, longitude=moment.longitude,
        fish_depth_m=moment.fish_depth_m, lure_depth_m=moment.lure_depth_m, bottom_depth_m=moment.bottom_depth_m,
        around=around_text(session, place, moment.time),
    )  # fmt: skip
    try:
        if mark is not None:
            session.logbook.complete_with(moment, mark, catch)
        else:
            session.logbook.edit("catch", [catch, replace(moment, is_open=False)])
    except StoreError as exc:
        session.say(str(exc), wrong=True)
        return
    host.tasks.sounds.play("kept")
    session.deck.landing = None
    session.deck.close_row()
    size = f" {session.display.words(landing.length_m, Kind.FISH)}" if landing.length_m is not None else ""
    line = f"{session.display.species(landing.species).capitalize()}{size}, {'kept' if kept else 'released'}."
    depth = moment.fish_depth_m if moment.fish_depth_m is not None else moment.lure_depth_m
    care = "" if kept else care_words(session, landing.species, depth)
    session.say(f"{line} {care}".strip())
