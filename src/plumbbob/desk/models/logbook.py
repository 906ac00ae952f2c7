"""The open log in the window, with undo for every change. What is saved is on disk before the window says so."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np
from PySide6.QtCore import QObject, Signal
from scipy.spatial import cKDTree

from plumbbob.core.geodesy import Plane, Position, distance_m
from plumbbob.core.types import Floats
from plumbbob.desk.models.history import Change, History
from plumbbob.store.errors import StoreError
from plumbbob.store.held import Held
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Effort, Limit, LoggedWater, Mark, Moment, SavedNote, Trip

if TYPE_CHECKING:
    from plumbbob.store.log import Key, Log

NEAR_M = 50.0
_CROWD, _PATCH_M = 2000, 20.0
_EARTH_M = 6_371_000.0
_MANY = 200  # more rows than that are saved in one go
_SAME_M = 3.0  # two waypoints so near are one
_AT_ONCE = (Mark, Catch, Moment, SavedNote)
V = TypeVar("V")


class Logbook(QObject):
    """What one log holds. Every change goes through `edit`, so every change can be taken back."""

    changed = Signal()
    chosen_changed = Signal()
    notes_changed = Signal()

    def __init__(self, history: History, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._history = history
        self._log: Log | None = None
        self._trouble = "the log is still opening"
        self._held: dict[type[Any], Held[Any]] = {}
        self._placed = PlacedMarks(Held(Mark, []))
        self._by_mark: dict[int, list[Catch]] | None = None
        self._chosen_id: int | None = None
        # by water and time: the name of the trip it belongs to, and the trip where that is new or has grown
        self.trip_giver: Callable[[str, float], tuple[str, list[Trip]]] = lambda water, time: ("", [])

    def attach(self, log: Log) -> None:
        """Use an opened log."""
        self._log, self._trouble = log, ""
        self._held = {Mark: Held(Mark, []), SavedNote: Held(SavedNote, [])}
        self._reload()

    def refuse(self, reason: str) -> None:
        """There is no log to write to."""
        self._trouble = reason

    def close(self) -> None:
        """Let go of the file."""
        if self._log is not None:
            self._log.close()
            self._log = None

    @property
    def is_open(self) -> bool:
        """Marks can be saved."""
        return self._log is not None

    @property
    def log(self) -> Log:
        """The open log. Raises StoreError where there is none."""
        return self._need_log()

    def all(self, cls: type[V]) -> Held[V]:
        """All of one kind, by time; read when somebody first looks."""
        held = self._held.get(cls)
        if held is None and self._log is None:
            return Held(cls, [])
        if held is None and self._log is not None:
            held = self._held[cls] = self._log.read(cls)
        assert held is not None
        return held

    @property
    def marks(self) -> PlacedMarks:
        """Marks that have a place, oldest first; those without a time last."""
        return self._placed

    @property
    def catches(self) -> Held[Catch]:
        """All catches, oldest first."""
        return self.all(Catch)

    @property
    def notes(self) -> Held[SavedNote]:
        """All notes of the rig, oldest first."""
        return self.all(SavedNote)

    @property
    def moments(self) -> Held[Moment]:
        """What happened on the water, oldest first."""
        return self.all(Moment)

    @property
    def trips(self) -> Held[Trip]:
        """All trips, oldest first."""
        return self.all(Trip)

    @property
    def efforts(self) -> Held[Effort]:
        """All stretches of fishing, oldest first."""
        return self.all(Effort)

    @property
    def limits(self) -> Held[Limit]:
        """The table of limits a person has typed."""
        return self.all(Limit)

    @property
    def waters(self) -> Held[LoggedWater]:
        """Waters as the log names them."""
        return self.all(LoggedWater)

    @property
    def to_complete(self) -> tuple[Moment, ...]:
        """Moments of which something is to be filled in, newest first."""
        held = self.moments
        return tuple(held[k] for k in range(len(held) - 1, -1, -1) if held.cells("is_open")[k])

    def catches_at(self, mark_id: int) -> list[Catch]:
        """Catches of one mark."""
        if self._by_mark is None:
            self._by_mark = {}
            for k, mark in enumerate(self.catches.cells("mark_id")):
                if mark is not None:
                    self._by_mark.setdefault(mark, []).append(self.catches[k])
        return self._by_mark.get(mark_id, [])

    def caught_by_mark(self, species: str = "") -> dict[int, int]:
        """How many catches are noted one by one at each mark that has some; of one species where it is named."""
        self.catches_at(0)
        if not species:
            return {mark: len(catches) for mark, catches in (self._by_mark or {}).items()}
        found: dict[int, int] = {}
        for mark, whose in zip(self.catches.cells("mark_id"), self.catches.cells("species"), strict=True):
            if mark is not None:
                found[mark] = found.get(mark, 0) + (whose == species)
        return found

    def caught_at(self, mark: Mark) -> int:
        """How many were caught at a mark: noted one by one, and besides."""
        return max(mark.caught + len(self.catches_at(mark.id)), 0)

    @property
    def chosen(self) -> Mark | None:
        """The mark that was picked, or saved last."""
        mark = self.all(Mark).by_id(self._chosen_id)
        return mark if mark is not None and mark.is_placed else None

    def choose(self, mark_id: int | None) -> None:
        """Pick a mark."""
        if mark_id != self._chosen_id:
            self._chosen_id = mark_id
            self.chosen_changed.emit()

    def nearest(self, place: Position, within_m: float = NEAR_M) -> Mark | None:
        """The mark nearest to a place, if one is close enough."""
        held = self.all(Mark)
        if not len(held):
            return None
        latitude, longitude = held.numbers("latitude"), held.numbers("longitude")
        # no farther in degrees than any mark within reach can lie
        reach = within_m / 100_000.0
        close = np.flatnonzero(np.abs(latitude - place.latitude) < reach)
        near = []
        for k in close:
            far = distance_m(place, Position(float(latitude[k]), float(longitude[k])))
            if far <= within_m and held[int(k)].is_placed:
                near.append((far, held[int(k)].id, held[int(k)]))
        best = min(near, default=None, key=lambda item: item[:2])
        return best[2] if best is not None else None

    # -- changes ------------------------------------------------------------------------------------------------

    def edit(
        self,
        words: str,
        put: Iterable[Any] = (),
        take: Iterable[Key] = (),
        *,
        choose: Callable[[list[Any]], int | None] | None = None,
    ) -> list[Any]:
        """
        Save values and take rows out as one change that can be taken back; the saved values, with their numbers.

        Raises
        ------
        StoreError
            If it could not be saved; nothing was changed then.
        """
        log, put, take = self._need_log(), list(put), list(take)
        before = [b for v in put if v.id and (b := log.read(type(v)).by_id(v.id)) is not None]
        for cls, number in take:
            gone = log.read(cls).by_id(number)
            if gone is not None:
                before.append(gone)
            if cls is Mark:
                before += self.catches_at(number)
        known = {(type(v), v.id) for v in before}
        saved = log.apply(put, take)
        added = [(type(v), v.id) for v in saved if (type(v), v.id) not in known]
        chosen = self._chosen_id if choose is None else choose(saved)
        # those that others belong to come back first, and go last
        self._did(words, lambda: log.apply(before, added[::-1]), lambda: log.apply(saved, take), chosen)
        return saved

    def add_mark(self, mark: Mark) -> Mark:
        """Save a mark. Raises StoreError if it could not be."""
        _, trips = self.trip_giver(mark.water, mark.time)
        made: Mark = self.edit("mark", [mark, *trips], choose=_first)[0]
        return made

    def add_marks(self, marks: Sequence[Mark]) -> int:
        """Save many marks as one change; those that are there already, within a few metres, are left out."""
        new = self._not_here(marks)
        if len(new) > _MANY:
            self._add_many(new)
        elif new:
            self.edit(f"{len(new)} marks", new, choose=lambda saved: int(saved[-1].id))
        return len(new)

    def _add_many(self, marks: Sequence[Mark]) -> None:
        """As one batch: without a history of each, and gone again in one step."""
        log = self._need_log()
        free = log.new_numbers()
        made = [replace(m, id=free[Mark] + k, ref=m.ref or new_ref(), batch=free[int]) for k, m in enumerate(marks)]
        log.put_batch({Mark: made})
        undo, redo = (lambda: log.take_batch(free[int])), (lambda: log.put_batch({Mark: made}))
        self._did(f"{len(made)} marks", undo, redo, made[-1].id)

    def _not_here(self, marks: Sequence[Mark]) -> list[Mark]:
        """Those with none of their kind at the same place, in the log or before them."""
        held = self.all(Mark)
        here, kinds = (
            _on_globe(held.numbers("latitude"), held.numbers("longitude")),
            np.array(held.cells("kind"), str),
        )
        come = _on_globe(np.array([m.latitude for m in marks]), np.array([m.longitude for m in marks]))
        theirs = np.array([m.kind.value for m in marks], str)
        gone: set[int] = set()
        for kind in set(theirs.tolist()):
            mine = np.flatnonzero((theirs == kind) & np.isfinite(come).all(axis=1))
            there = here[(kinds == kind) & np.isfinite(here).all(axis=1)]
            if not mine.size:
                continue
            if len(there):
                far, _ = cKDTree(there).query(come[mine], distance_upper_bound=_SAME_M)
                gone.update(mine[np.isfinite(far)].tolist())
            # of those that come at one place the first stays
            for a, b in sorted(cKDTree(come[mine]).query_pairs(_SAME_M)):
                if int(mine[a]) not in gone:
                    gone.add(int(mine[b]))
        return [m for k, m in enumerate(marks) if k not in gone]

    def add_catch(self, mark: Mark, catch: Catch) -> Catch:
        """Save a catch at a mark; a mark without an id is saved with it, both or neither."""
        trip, trips = self.trip_giver(mark.water, catch.time)
        catch = replace(catch, mark_id=mark.id, trip=catch.trip or trip)
        put: list[Any] = [*trips, catch] if mark.id else [*trips, mark, catch]
        made: Catch = self.edit("catch", put, choose=lambda saved: saved[-1].mark_id)[-1]
        return made

    def change_mark(self, mark: Mark) -> None:
        """Save other values for a mark that is already there."""
        if self.all(Mark).by_id(mark.id) is not None:
            self.edit("change", [mark], choose=_first)

    def remove_mark(self, mark_id: int) -> None:
        """Take a mark out with its catches."""
        if self.all(Mark).by_id(mark_id) is not None:
            self.edit("removal", take=[(Mark, mark_id)], choose=lambda _: None)

    def merge_marks(self, into: Mark, others: Sequence[Mark], moved: Sequence[Catch]) -> None:
        """One mark in place of several; the catches are moved before the others go."""
        log = self._need_log()
        before = [m for m in (self.all(Mark).by_id(into.id),) if m is not None]
        catches = [c for c in (self.catches.by_id(m.id) for m in moved) if c is not None]
        take = [(Mark, m.id) for m in others]

        def redo() -> None:
            log.apply([into, *moved])
            log.apply(take=take)

        def undo() -> None:
            log.apply([*others, *before, *catches])

        redo()
        self._did(f"{len(others) + 1} marks made one", undo, redo, into.id)

    def marks_in(self, water: str) -> list[int]:
        """Marks that say they lie in the water of a name."""
        held = self.all(Mark)
        return [i for i, name in zip(held.cells("id"), held.cells("water"), strict=True) if name == water]

    def name_water(self, mark_ids: Sequence[int], name: str) -> None:
        """Marks follow the name of their water; that is part of the water's renaming, no change of its own."""
        if mark_ids:
            log, held = self._need_log(), self.all(Mark)
            log.apply([replace(m, water=name) for i in mark_ids if (m := held.by_id(i)) is not None])
            self._look_again()

    def add_note(self, note: SavedNote) -> SavedNote:
        """Save a note of the rig."""
        made: SavedNote = self.edit("note", [note])[0]
        return made

    def add_moment(self, moment: Moment) -> Moment:
        """Save what happened. Raises StoreError if it could not be."""
        trip, trips = self.trip_giver(moment.water, moment.time)
        made: Moment = self.edit(moment.kind.value, [replace(moment, trip=moment.trip or trip), *trips])[0]
        return made

    def change_moment(self, moment: Moment) -> None:
        """Save other values for what happened."""
        if self.moments.by_id(moment.id) is not None:
            self.edit(moment.kind.value, [moment])

    def complete_with(self, moment: Moment, mark: Mark, catch: Catch) -> None:
        """A fish that was noted with one key gets its catch: one change."""
        catch = replace(catch, mark_id=mark.id, trip=moment.trip)
        at: list[Any] = [catch] if mark.id else [mark, catch]
        self.edit("catch", [*at, replace(moment, is_open=False)], choose=lambda saved: saved[-2].mark_id)

    def begin_with(self, notes: list[SavedNote]) -> None:
        """Notes a fresh log begins with: nothing that Z would take back."""
        self._need_log().apply(notes)
        self._reload()

    def write(self, values: Sequence[Any]) -> list[Any]:
        """Save what wrote itself: no change that Z would take back. Raises StoreError."""
        saved = self._need_log().apply(values)
        self._look_again()
        return saved

    def remove_note(self, note_id: int) -> None:
        """Take a note of the rig out; one that is out already, as on a second press, stays out."""
        if self.notes.by_id(note_id) is not None:
            self.edit("removal of the note", take=[(SavedNote, note_id)])

    def brought(self, words: str, undo: Callable[[], object], redo: Callable[[], object]) -> None:
        """What somebody else has written into the log, as one change."""
        self._did(words, undo, redo, self._chosen_id)

    def _did(self, words: str, undo: Callable[[], object], redo: Callable[[], object], chosen: int | None) -> None:
        self._history.did(Change(words, lambda: self._and_look(undo), lambda: self._and_look(redo)))
        self._chosen_id = chosen
        self._look_again()

    def _and_look(self, step: Callable[[], object]) -> None:
        step()
        self._look_again()

    def _look_again(self) -> None:
        """After a change: trouble from here on is of reading, never of saving."""
        try:
            self._reload()
        except StoreError as exc:
            raise StoreError(f"It is saved, but the log can't be shown now. {exc}") from exc

    def _need_log(self) -> Log:
        if self._log is None:
            raise StoreError(f"Nothing was saved: {self._trouble}.")
        return self._log

    def _reload(self) -> None:
        log, notes, before = self._need_log(), self.notes, self.all(Mark)
        # what nobody has looked at yet waits until somebody does
        self._held = {cls: log.read(cls) for cls in {*self._held, *_AT_ONCE}}
        self._by_mark = None
        if self.all(Mark) is not before:
            self._placed = PlacedMarks(self.all(Mark))
        if notes != self.notes:
            self.notes_changed.emit()
        self.changed.emit()
        self.chosen_changed.emit()


class PlacedMarks(Sequence[Mark]):
    """Marks with a place, made only where somebody looks."""

    def __init__(self, held: Held[Mark]) -> None:
        known = np.isfinite(held.numbers("latitude")) & np.isfinite(held.numbers("longitude"))
        self._held = held
        self._sources: dict[str, list[Mark]] = {}
        self._planes: dict[Plane, tuple[Floats, Floats]] = {}
        self._at = np.flatnonzero(known)

    def __len__(self) -> int:
        return int(self._at.size)

    def __getitem__(self, index: Any) -> Any:
        if isinstance(index, slice):
            return [self._held[int(k)] for k in self._at[index]]
        return self._held[int(self._at[index])]

    def __eq__(self, other: object) -> bool:
        return self is other or (isinstance(other, Sequence) and list(self) == list(other))

    def __hash__(self) -> int:
        return id(self)

    def of_source(self, name: str) -> list[Mark]:
        """Those made from one recording."""
        if name not in self._sources:
            there = zip(self._at, self.cells("source"), strict=True)
            self._sources[name] = [self._held[int(k)] for k, source in there if source == name]
        return self._sources[name]

    def on(self, plane: Plane) -> tuple[Floats, Floats]:
        """Eastings and northings on a plane; worked out once for each."""
        if plane not in self._planes:
            self._planes[plane] = plane.to_xy(self.numbers("latitude"), self.numbers("longitude"))
        return self._planes[plane]

    def record_on(self, plane: Plane, caught: Mapping[int, int], *, of_one_species: bool = False) -> Floats:
        """Easting, northing, seen and caught: of each mark, or of patches where there are very many."""
        x, y = self.on(plane)
        seen = np.array(self.cells("seen"), dtype=np.int64)
        besides = np.array(self.cells("caught"), dtype=np.int64)
        if of_one_species:  # what was caught besides was of any
            besides = np.minimum(besides, 0)
        taken = np.maximum(besides + np.array([caught.get(k, 0) for k in self.cells("id")], dtype=np.int64), 0)
        if x.size > _CROWD:
            patches = np.column_stack([np.floor(x / _PATCH_M), np.floor(y / _PATCH_M)])
            spots, of = np.unique(patches, axis=0, return_inverse=True)
            seen = np.bincount(of.ravel(), weights=seen).astype(np.int64)
            taken = np.bincount(of.ravel(), weights=taken).astype(np.int64)
            x, y = (spots[:, 0] + 0.5) * _PATCH_M, (spots[:, 1] + 0.5) * _PATCH_M
        return np.column_stack([x, y, seen, taken]).astype(np.float64)

    def numbers(self, name: str) -> np.ndarray:
        """One column of them."""
        return self._held.numbers(name)[self._at]

    def cells(self, name: str) -> list[Any]:
        """One column of them, as read."""
        whole = self._held.cells(name)
        return [whole[k] for k in self._at]


def _first(saved: list[Any]) -> int:
    return int(saved[0].id)


def _on_globe(latitude: Floats, longitude: Floats) -> Floats:
    """Metres in space, so that near is near anywhere."""
    a, o = np.radians(latitude), np.radians(longitude)
    return _EARTH_M * np.column_stack([np.cos(a) * np.cos(o), np.cos(a) * np.sin(o), np.sin(a)])
