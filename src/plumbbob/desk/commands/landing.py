"""A fish in the hand: what is filled in of itself, what the table of limits says, what helps it."""

from __future__ import annotations

import json
import math

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.reason import Reason
from plumbbob.core.tally.fish_care import at_catch
from plumbbob.core.tally.limits import forbids
from plumbbob.core.units import Kind
from plumbbob.core.water.sun import sun_elevation_deg
from plumbbob.desk.models.session import Session
from plumbbob.formats.species import species_here
from plumbbob.services.limits import judge_fish
from plumbbob.store.values import SIGNS
from plumbbob.wording import joined
from plumbbob.wording.log import PHRASES

_SIGNS_S = 1200.0
AROUND_WORDS = {
    "speed_mps": ("speed", Kind.SPEED), "wind_mps": ("wind", Kind.SPEED), "layer_m": ("cold layer", Kind.DEPTH),
    "water_temperature_c": ("water", Kind.TEMPERATURE), "bait_distance_m": ("bait", Kind.DISTANCE),
}  # fmt: skip


def around(session: Session, place: Position | None, time: float) -> dict[str, float | str]:
    """What is known of the moment, SI by name: light, wind, water, layer, bait near, signs of the last minutes."""
    day = session.conditions
    wind, wind_from = session.view.wind
    numbers: dict[str, float] = {"wind_mps": wind, "wind_from_deg": wind_from, "secchi_m": day.secchi_m}
    numbers["speed_mps"] = session.rig.settings.speed_mps
    if place is not None and math.isfinite(time):
        numbers["sun_deg"] = round(sun_elevation_deg(place, time), 1)
    if day.layer is not None:
        numbers["layer_m"] = day.layer.middle_m
    numbers["water_temperature_c"] = surface_c(session)
    if place is not None:
        near = [
            distance_m(place, Position(b.latitude, b.longitude))
            for b in session.scan.reading.bait
            if b.latitude == b.latitude
        ]
        if near:
            numbers["bait_distance_m"] = round(min(near))
    made: dict[str, float | str] = {k: round(v, 3) for k, v in numbers.items() if math.isfinite(v)}
    signs = [m.kind.value for m in session.logbook.moments[-50:] if m.kind in SIGNS and 0 <= time - m.time < _SIGNS_S]
    if signs:
        made["signs"] = ", ".join(dict.fromkeys(signs))
    return made


def surface_c(session: Session) -> float:
    """Temperature at the surface, NaN where nothing tells it."""
    profile = session.profile
    return float(profile.temperature_c[0]) if profile is not None and len(profile.temperature_c) else math.nan


def around_text(session: Session, place: Position | None, time: float) -> str:
    """The same as the log holds it."""
    return json.dumps(around(session, place, time))


def around_words(session: Session, text: str) -> str:
    """What was filled in of itself, in words."""
    try:
        found = json.loads(text) if text else {}
    except ValueError:
        return ""
    say = session.display.words
    parts = [f"{words} {say(float(found[k]), kind)}" for k, (words, kind) in AROUND_WORDS.items() if k in found]
    if "signs" in found:
        parts.append(str(found["signs"]))
    return ", ".join(parts)


def verdicts(
    session: Session, species: str, length_m: float | None, time: float, angler: str = ""
) -> tuple[Reason, ...]:
    """What the person's own table says of keeping this fish."""
    book = session.logbook
    if not species or not len(book.limits) or not math.isfinite(time):
        return ()
    return judge_fish(
        book.limits, book.catches, water=session.water.name, species=species, time=time, zone=session.water.clock,
        length_m=length_m, angler=angler,
    )  # fmt: skip


def verdict_words(session: Session, found: tuple[Reason, ...]) -> tuple[str, bool]:
    """The same in words, and whether it speaks against keeping."""
    return joined(found[:2], PHRASES, session.display.words, " "), forbids(found)


def care_words(session: Session, species: str, depth_m: float | None, fight_s: float = math.nan) -> str:
    """What helps this fish, if anything has to be minded; empty else."""
    known = species_here(species, session.water)
    said = at_catch(
        known, depth_m=math.nan if depth_m is None else depth_m, water_c=surface_c(session), fight_s=fight_s
    )
    return joined(said[:2], PHRASES, session.display.words, " ")
