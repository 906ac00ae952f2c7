"""The open log in the window: marks and catches, with undo for every change. On disk before the window says so."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.desk.models.history import Change, History
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Catch, Mark, Moment, SavedNote

if TYPE_CHECKING:
    from plumbbob.store.log import Log

NEAR_M = 50.0
_SAME_M = 3.0  # two waypoints so near are one


class Logbook(QObject):
    """Marks and catches of one log. Every change goes through here, so every change can be taken back."""

    changed = Signal()
    chosen_changed = Signal()
    notes_changed = Signal()

    def __init__(self, history: History, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._history = history
        self._log: Log | None = None
        self._trouble = "the log is still opening"
        self._marks: list[Mark] = []
        self._catches: list[Catch] = []
        self._notes: list[SavedNote] = []
        self._moments: list[Moment] = []
        self._chosen_id: int | None = None

    def attach(self, log: Log) -> None:
        """Use an opened log."""
        self._log, self._trouble = log, ""
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
    def marks(self) -> tuple[Mark, ...]:
        """All marks, oldest first."""
        return tuple(self._marks)

    @property
    def catches(self) -> tuple[Catch, ...]:
        """All catches, oldest first."""
        return tuple(self._catches)

    @property
    def notes(self) -> tuple[SavedNote, ...]:
        """All notes of the rig, oldest first."""
        return tuple(self._notes)

    @property
    def moments(self) -> tuple[Moment, ...]:
        """What happened on the water, oldest first."""
        return tuple(self._moments)

    @property
    def to_complete(self) -> tuple[Moment, ...]:
        """Moments of which something is to be filled in, newest first."""
        return tuple(m for m in reversed(self._moments) if m.is_open)

    def catches_at(self, mark_id: int) -> list[Catch]:
        """Catches of one mark."""
        return [c for c in self._catches if c.mark_id == mark_id]

    @property
    def chosen(self) -> Mark | None:
        """The mark that was picked, or saved last."""
        return next((m for m in self._marks if m.id == self._chosen_id), None)

    def choose(self, mark_id: int | None) -> None:
        """Pick a mark."""
        if mark_id != self._chosen_id:
            self._chosen_id = mark_id
            self.chosen_changed.emit()

    def nearest(self, place: Position, within_m: float = NEAR_M) -> Mark | None:
        """The mark nearest to a place, if one is close enough."""
        near = [(distance_m(place, Position(m.latitude, m.longitude)), m.id, m) for m in self._marks]
        best = min(near, default=None, key=lambda item: item[:2])
        return best[2] if best is not None and best[0] <= within_m else None

    # -- changes ------------------------------------------------------------------------------------------------

    def add_mark(self, mark: Mark) -> Mark:
        """Save a mark. Raises StoreError if it could not be."""
        log = self._need_log()
        saved = log.add_mark(mark)
        self._did("mark", lambda: log.remove_mark(saved.id), lambda: log.restore(saved, []), saved.id)
        return saved

    def add_marks(self, marks: Sequence[Mark]) -> int:
        """Save many marks as one change; those that are there already, within a few metres, are left out."""
        log = self._need_log()
        new = [m for m in marks if not self._has(m)]
        saved = [log.add_mark(m) for m in new]
        if saved:

            def undo() -> None:
                for mark in saved:
                    log.remove_mark(mark.id)

            def redo() -> None:
                for mark in saved:
                    log.restore(mark, [])

            self._did(f"{len(saved)} marks", undo, redo, saved[-1].id)
        return len(saved)

    def _has(self, mark: Mark) -> bool:
        """A mark of the same kind is at the same place."""
        place = Position(mark.latitude, mark.longitude)
        return any(
            m.kind is mark.kind and distance_m(place, Position(m.latitude, m.longitude)) < _SAME_M
            for m in self._marks
        )

    def add_catch(self, mark: Mark, catch: Catch) -> Catch:
        """Save a catch at a mark; a mark without an id is saved with it, both or neither."""
        log = self._need_log()
        if mark.id:
            saved = log.add_catch(replace(catch, mark_id=mark.id))
            self._did("catch", lambda: log.remove_catch(saved.id), lambda: _again(log.add_catch(saved)), mark.id)
            return saved
        new, saved = log.add_mark_and_catch(mark, catch)
        self._did("catch", lambda: log.remove_mark(new.id), lambda: log.restore(new, [saved]), new.id)
        return saved

    def change_mark(self, mark: Mark) -> None:
        """Save other values for a mark that is already there."""
        log = self._need_log()
        before = next((m for m in self._marks if m.id == mark.id), None)
        if before is None:
            return
        log.change_mark(mark)
        self._did("change", lambda: log.change_mark(before), lambda: log.change_mark(mark), mark.id)

    def remove_mark(self, mark_id: int) -> None:
        """Take a mark out with its catches."""
        log = self._need_log()
        mark = next((m for m in self._marks if m.id == mark_id), None)
        if mark is None:
            return
        catches = self.catches_at(mark_id)
        log.remove_mark(mark_id)
        self._did("removal", lambda: log.restore(mark, catches), lambda: log.remove_mark(mark_id), None)

    def marks_in(self, water: str) -> list[int]:
        """Marks that say they lie in the water of a name."""
        return [m.id for m in self._marks if m.water == water]

    def name_water(self, mark_ids: Sequence[int], name: str) -> None:
        """Marks follow the name of their water; that is part of the water's renaming, no change of its own."""
        if mark_ids:
            self._need_log().name_water(mark_ids, name)
            self._look_again()

    def add_note(self, note: SavedNote) -> SavedNote:
        """Save a note of the rig."""
        log = self._need_log()
        saved = log.add_note(note)
        self._did("note", lambda: log.remove_note(saved.id), lambda: _again(log.add_note(saved)), self._chosen_id)
        return saved

    def add_moment(self, moment: Moment) -> Moment:
        """Save what happened. Raises StoreError if it could not be."""
        log = self._need_log()
        saved = log.add_moment(moment)
        self._did(
            saved.kind.value,
            lambda: log.remove_moment(saved.id),
            lambda: _again(log.add_moment(saved)),
            self._chosen_id,
        )
        return saved

    def change_moment(self, moment: Moment) -> None:
        """Save other values for what happened."""
        log = self._need_log()
        before = next((m for m in self._moments if m.id == moment.id), None)
        if before is not None:
            log.change_moment(moment)
            undo, redo = lambda: log.change_moment(before), lambda: log.change_moment(moment)
            self._did(moment.kind.value, undo, redo, self._chosen_id)

    def complete_with(self, moment: Moment, mark: Mark, catch: Catch) -> None:
        """A fish that was noted with one key gets its catch: one change."""
        log = self._need_log()
        if mark.id:
            new, saved = None, log.add_catch(replace(catch, mark_id=mark.id))
        else:
            new, saved = log.add_mark_and_catch(mark, catch)
        done = replace(moment, is_open=False)
        log.change_moment(done)

        def undo() -> None:
            log.change_moment(moment)
            if new is not None:
                log.remove_mark(new.id)
            else:
                log.remove_catch(saved.id)

        def redo() -> None:
            log.change_moment(done)
            if new is not None:
                log.restore(new, [saved])
            else:
                log.add_catch(saved)

        self._did("catch", undo, redo, saved.mark_id)

    def begin_with(self, notes: list[SavedNote]) -> None:
        """Notes a fresh log begins with: nothing that Z would take back."""
        log = self._need_log()
        for note in notes:
            log.add_note(note)
        self._reload()

    def remove_note(self, note_id: int) -> None:
        """Take a note of the rig out; one that is out already, as on a second press, stays out."""
        log = self._need_log()
        note = next((n for n in self._notes if n.id == note_id), None)
        if note is None:
            return
        log.remove_note(note_id)

        def back() -> None:
            log.add_note(note)

        self._did("removal of the note", back, lambda: log.remove_note(note_id), self._chosen_id)

    def _did(self, words: str, undo: Callable[[], None], redo: Callable[[], None], chosen: int | None) -> None:
        self._history.did(Change(words, lambda: self._and_look(undo), lambda: self._and_look(redo)))
        self._chosen_id = chosen
        self._look_again()

    def _and_look(self, step: Callable[[], None]) -> None:
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
        log = self._need_log()
        self._marks, self._catches, notes = log.marks(), log.catches(), log.notes()
        self._moments = log.moments()
        if notes != self._notes:
            self._notes = notes
            self.notes_changed.emit()
        self.changed.emit()
        self.chosen_changed.emit()


def _again(_: object) -> None:
    """Saving again under the old id is all there is to do."""
