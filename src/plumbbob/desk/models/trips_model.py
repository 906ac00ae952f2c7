"""Trips of the log: which is on screen, what was fished, seen and caught on it, and what is picked of it."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, replace
from datetime import tzinfo
from functools import cached_property
from typing import Any
from zoneinfo import ZoneInfo

from PySide6.QtCore import QObject, Signal

from plumbbob.desk.models.logbook import Logbook
from plumbbob.store.refs import new_ref
from plumbbob.store.values import CONTACTS, SIGNS, Catch, Effort, LoggedWater, Moment, Trip

_USUAL_S = 3600.0
NEAR_S = 6 * 3600.0  # what lies farther from a trip was another one


@dataclass(frozen=True)
class Outing:
    """One trip with all that belongs to it, by time."""

    trip: Trip
    efforts: tuple[Effort, ...]
    catches: tuple[Catch, ...]
    moments: tuple[Moment, ...]

    @cached_property
    def span(self) -> tuple[float, float]:
        """From the first to the last of it."""
        known = [t for t in (self.trip.start, self.trip.end) if t is not None]
        known += [t for e in self.efforts for t in (e.start, e.end) if t is not None]
        known += [c.time for c in self.catches if math.isfinite(c.time)]
        known += [m.time for m in self.moments if math.isfinite(m.time)]
        if not known:
            return 0.0, _USUAL_S
        return min(known), max(max(known), min(known) + 60.0)

    @cached_property
    def rod_hours(self) -> float:
        """Of all rods together."""
        return sum(rod_hours(e.start, e.end, e.rods) for e in self.efforts)

    @cached_property
    def deepest_m(self) -> float:
        """The deepest that is known of it."""
        known: list[float | None] = [d for e in self.efforts for d in (e.bottom_depth_m, e.lure_depth_m)]
        known += [d for c in self.catches for d in (c.bottom_depth_m, c.fish_depth_m, c.lure_depth_m)]
        known += [d for m in self.moments for d in (m.bottom_depth_m, m.fish_depth_m)]
        return max((d for d in known if d is not None), default=10.0)

    @property
    def contacts(self) -> tuple[Moment, ...]:
        """Fish seen, struck, lost."""
        return tuple(m for m in self.moments if m.kind in CONTACTS)

    @property
    def signs(self) -> tuple[Moment, ...]:
        """Birds, bait on top, seams, the wind."""
        return tuple(m for m in self.moments if m.kind in SIGNS)


def rod_hours(start: float | None, end: float | None, rods: float | None) -> float:
    """Of one stretch; nothing where it makes no sense."""
    if start is None or end is None or end <= start or (rods is not None and rods < 0):
        return 0.0
    return (end - start) / 3600.0 * (1.0 if rods is None else rods)


class TripsModel(QObject):
    """Needs the logbook."""

    changed = Signal()
    chosen_changed = Signal()
    scale_changed = Signal()

    def __init__(self, logbook: Logbook, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._book = logbook
        self._chosen: int | None = None
        self._picked: tuple[type[Any], int] | None = None
        self._index: dict[type[Any], dict[str, list[int]]] = {}
        self._hours: dict[str, float] | None = None
        self._outing: Outing | None = None
        self.cut_at = math.nan  # where the hand was on the clock last
        self.scale = (0.0, 1.0, 10.0)  # where surface and foot lie in the picture, and the depth of the foot
        logbook.changed.connect(self._look_again)
        logbook.trip_giver = lambda water, time: with_trip(self, logbook, water, time)

    def _look_again(self) -> None:
        self._index.clear()
        self._hours = None
        self._outing = None
        self.changed.emit()
        self.chosen_changed.emit()

    # -- what there is ------------------------------------------------------------------------------------------

    def by_ref(self, ref: str) -> Trip | None:
        """The trip of a name."""
        return self._book.trips.by_ref(ref)

    def _of(self, cls: type[Any], ref: str) -> list[Any]:
        if cls not in self._index:
            made: dict[str, list[int]] = defaultdict(list)
            for k, trip in enumerate(self._book.all(cls).cells("trip")):
                if trip:
                    made[trip].append(k)
            self._index[cls] = made
        held = self._book.all(cls)
        return [held[k] for k in self._index[cls].get(ref, ())]

    def outing_of(self, trip: Trip) -> Outing:
        """One trip with all that belongs to it."""
        efforts = sorted(self._of(Effort, trip.ref), key=lambda e: (e.start is None, e.start or 0.0, e.id))
        return Outing(trip, tuple(efforts), tuple(self._of(Catch, trip.ref)), tuple(self._of(Moment, trip.ref)))

    def has_fish(self, ref: str) -> bool:
        """Something was landed on a trip."""
        self._of(Catch, ref)
        return bool(self._index[Catch].get(ref))

    @property
    def hours(self) -> dict[str, float]:
        """Rod hours by the name of the trip."""
        if self._hours is None:
            made: dict[str, float] = defaultdict(float)
            held = self._book.efforts
            for trip, start, end, rods in zip(
                *(held.cells(n) for n in ("trip", "start", "end", "rods")), strict=True
            ):
                made[trip] += rod_hours(start, end, rods)
            self._hours = made
        return self._hours

    def zone_of(self, water: str) -> tzinfo | None:
        """The time zone the log gives a water; None where it gives none."""
        for known in self._book.waters:
            if known.water == water and known.time_zone:
                return zone_named(known)
        return None

    # -- what is on screen --------------------------------------------------------------------------------------

    @property
    def chosen(self) -> Trip | None:
        """The trip on screen: the one that was picked, else the latest."""
        held = self._book.trips
        trip = held.by_id(self._chosen)
        return trip if trip is not None else held[len(held) - 1] if len(held) else None

    @property
    def outing(self) -> Outing | None:
        """The trip on screen with all that belongs to it."""
        trip = self.chosen
        if trip is None:
            return None
        if self._outing is None or self._outing.trip is not trip:
            self._outing = self.outing_of(trip)
        return self._outing

    def choose(self, trip_id: int | None) -> None:
        """Show another trip."""
        if trip_id != self._chosen:
            self._chosen, self._picked, self._outing = trip_id, None, None
            self.chosen_changed.emit()

    def step(self, by: int) -> None:
        """The trip before or after."""
        held, trip = self._book.trips, self.chosen
        if trip is not None:
            k = held.cells("id").index(trip.id) + by
            if 0 <= k < len(held):
                self.choose(held[k].id)

    @property
    def picked(self) -> Effort | Catch | Moment | None:
        """The stretch, fish or moment that was picked of it."""
        if self._picked is None:
            return None
        found: Effort | Catch | Moment | None = self._book.all(self._picked[0]).by_id(self._picked[1])
        return found

    def pick(self, value: Effort | Catch | Moment | None) -> None:
        """Pick something of the trip."""
        wanted = None if value is None else (type(value), value.id)
        if wanted != self._picked:
            self._picked = wanted
            self.chosen_changed.emit()

    def set_scale(self, surface_px: float, foot_px: float, height_px: float, deepest_m: float) -> None:
        """Where the picture has its surface and foot, as shares of its height: the plumb line follows."""
        scale = (surface_px / max(height_px, 1.0), foot_px / max(height_px, 1.0), deepest_m)
        if scale != self.scale:
            self.scale = scale
            self.scale_changed.emit()


def trip_for(trips: TripsModel, book: Logbook, water: str, time: float) -> Trip | None:
    """The trip that something of a time and water belongs to."""
    held = book.trips
    best: tuple[float, int] | None = None
    for k, (name, start, end) in enumerate(zip(*(held.cells(n) for n in ("water", "start", "end")), strict=True)):
        if start is None or (name and water and name != water):
            continue
        away = max(start - time, time - (end if end is not None else start), 0.0)
        if away <= NEAR_S and (best is None or away <= best[0]):
            best = (away, k)
    return None if best is None else held[best[1]]


def with_trip(trips: TripsModel, book: Logbook, water: str, time: float) -> tuple[str, list[Trip]]:
    """The name of the trip that something belongs to, and the trip where it is new or has grown by it."""
    if not math.isfinite(time):
        return "", []
    trip = trip_for(trips, book, water, time)
    if trip is None:
        trip = Trip(ref=new_ref(), water=water, start=time, end=time)
        return trip.ref, [trip]
    grown = replace(trip, start=min(trip.start or time, time), end=max(trip.end or time, time))
    return trip.ref, [grown] if grown != trip else []


def zone_named(water: LoggedWater) -> tzinfo | None:
    """A zone by the name a log gives it; None for a name that nobody knows."""
    try:
        return ZoneInfo(water.time_zone)
    except (ValueError, OSError, KeyError):
        return None
