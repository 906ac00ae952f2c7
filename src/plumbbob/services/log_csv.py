"""Catches of any table into the log: trips by day and water, one batch."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import UTC, datetime, tzinfo
from typing import Any

from plumbbob.core.types import Progress
from plumbbob.formats.catch_csv import CaughtRow
from plumbbob.store.log import Log
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Trip


def import_catches(
    log: Log, rows: Sequence[CaughtRow], zone: tzinfo, progress: Progress = lambda fraction: None
) -> tuple[int, int, int]:
    """
    Save the fish of a table, with a trip for each day and water that has none; how many, how many were here already,
    and the number of the batch.

    Raises
    ------
    StoreError
    """
    free = log.new_numbers()
    batch = free[int]
    here = {_key(c.time, c.species, c.length_m, c.weight_kg) for c in log.read(Catch)}
    trips: dict[tuple[str, object], Trip] = {}
    for trip in log.read(Trip):
        if trip.start is not None:
            trips.setdefault((trip.water, _day(trip.start, zone)), trip)
    new_trips: dict[tuple[str, object], list[float]] = {}
    catches: list[tuple[Any, Catch]] = []
    doubles = 0
    for row in rows:
        key = _key(row.time if row.time is not None else float("nan"), row.species, row.length_m, row.weight_kg)
        if key in here:
            doubles += 1
            continue
        here.add(key)
        day = (row.water, _day(row.time, zone)) if row.time is not None else None
        if day is not None and row.time is not None and day not in trips:
            span = new_trips.setdefault(day, [row.time, row.time])
            new_trips[day] = [min(span[0], row.time), max(span[1], row.time)]
        made = Catch(
            ref=new_ref(), time=row.time if row.time is not None else float("nan"), species=row.species,
            length_m=row.length_m, weight_kg=row.weight_kg, kept=row.kept, rig=row.lure, latitude=row.latitude,
            longitude=row.longitude, lure_depth_m=row.lure_depth_m, note=row.note, batch=batch,
        )  # fmt: skip
        catches.append((day, made))
    made_trips = []
    for k, (day, span) in enumerate(new_trips.items()):
        trips[day] = Trip(id=free[Trip] + k, ref=new_ref(), water=day[0], start=span[0], end=span[1], batch=batch)
        made_trips.append(trips[day])
    saved = [
        replace(c, id=free[Catch] + k, trip=trips[day].ref if day is not None else "")
        for k, (day, c) in enumerate(catches)
    ]
    log.put_batch({Trip: made_trips, Catch: saved}, progress=progress)
    return len(saved), doubles, batch


def _day(time: float, zone: tzinfo) -> object:
    return datetime.fromtimestamp(time, UTC).astimezone(zone).date()


def _key(time: float, species: str, length: float | None, weight: float | None) -> tuple[object, ...]:
    return (round(time) if time == time else None, species, length and round(length, 4), weight and round(weight, 4))
