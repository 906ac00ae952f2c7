"""Changes of trips and of what belongs to them, each as one that can be taken back."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from plumbbob.desk.models.logbook import Logbook
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Effort, LoggedWater, Mark, Moment, Trip

_LEAST_S = 60.0


def known_water(book: Logbook, name: str, place: Any, zone: str) -> list[LoggedWater]:
    """The water as a row of the log, where the log does not name it yet."""
    if not name or any(w.water == name for w in book.waters):
        return []
    latitude = None if place is None else place.latitude
    longitude = None if place is None else place.longitude
    return [LoggedWater(water=name, latitude=latitude, longitude=longitude, time_zone=zone)]


def cut(book: Logbook, effort: Effort, time: float) -> None:
    """A stretch becomes two; fish behind the cut go with the second."""
    assert effort.start is not None
    assert effort.end is not None
    if not effort.start + _LEAST_S <= time <= effort.end - _LEAST_S:
        time = (effort.start + effort.end) / 2
    second = replace(effort, id=0, ref=new_ref(), start=time, extra="", batch=0)
    moved = [replace(c, effort=second.ref) for c in book.catches if c.effort == effort.ref and c.time >= time]
    book.edit("cut", [replace(effort, end=time), second, *moved])


def again(book: Logbook, effort: Effort) -> Effort:
    """The same once more, right behind it."""
    assert effort.start is not None
    assert effort.end is not None
    long = effort.end - effort.start
    made = replace(effort, id=0, ref=new_ref(), start=effort.end, end=effort.end + long, extra="", batch=0)
    saved: Effort = book.edit("stretch", [made])[0]
    return saved


def catch_again(book: Logbook, catch: Catch, time: float) -> Catch:
    """Another fish like the last, length and picture unknown."""
    made = replace(
        catch, id=0, ref=new_ref(), time=time, length_m=None, weight_kg=None, picture="", extra="", batch=0
    )
    saved: Catch = book.edit("catch", [made])[0]
    return saved


def remove(book: Logbook, value: Any) -> None:
    """Take something out; with a trip go its stretches, fish and moments."""
    take = [(type(value), value.id)]
    if isinstance(value, Trip):
        for cls in (Effort, Catch, Moment):
            held = book.all(cls)
            rows = zip(held.cells("id"), held.cells("trip"), strict=True)
            take += [(cls, number) for number, trip in rows if trip == value.ref]
    put: list[Any] = []
    if isinstance(value, Effort):
        put = [replace(c, effort="") for c in book.catches if c.effort == value.ref]
    book.edit("removal", put, take)


def merge(book: Logbook, marks: Iterable[Mark], into: Mark) -> None:
    """Several marks become one; their catches follow."""
    others = [m for m in marks if m.id != into.id]
    moved = [replace(c, mark_id=into.id) for m in others for c in book.catches_at(m.id)]
    book.merge_marks(into, others, moved)
