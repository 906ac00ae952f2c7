"""
The log on disk: marks, catches and notes of the rig in one SQLite file.

A change is on disk when the call returns (write-ahead log, synchronous FULL). `opening` opens it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, delete, insert, update
from sqlalchemy import exc as sa_exc

from plumbbob.store.database import DAMAGE
from plumbbob.store.errors import StoreError, plainly
from plumbbob.store.rows import Value, catch_of, mark_of, moment_of, note_of, readable
from plumbbob.store.tables import CatchRow, MarkRow, MomentRow, RigNoteRow
from plumbbob.store.values import Catch, Mark, Moment, SavedNote


class Log:
    """Marks, catches and notes of one file. Used from one thread at a time; every change is one transaction."""

    def __init__(self, engine: Engine, path: Path) -> None:
        self._engine = engine
        self.path = path
        self._unreadable: dict[str, int] = {}

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    def marks(self) -> list[Mark]:
        """All marks that can be read, oldest first."""
        return self._read(MarkRow, mark_of)

    def catches(self) -> list[Catch]:
        """All catches that can be read, oldest first."""
        return self._read(CatchRow, catch_of)

    def notes(self) -> list[SavedNote]:
        """All notes of the rig that can be read, oldest first."""
        return self._read(RigNoteRow, note_of)

    def moments(self) -> list[Moment]:
        """All moments that can be read, oldest first."""
        return self._read(MomentRow, moment_of)

    @property
    def unreadable(self) -> int:
        """Rows that could not be read when last looked at; they stay in the file as they are."""
        return sum(self._unreadable.values())

    def _read(self, table: Any, make: Callable[[Any], Value]) -> list[Value]:
        columns = ", ".join(f'"{c.name}"' for c in table.__table__.columns)
        with self._guarded("read") as db:
            # plain rows: what a column should hold is judged row by row, and nothing is turned before
            rows = db.exec_driver_sql(f'SELECT {columns} FROM "{table.__tablename__}"').mappings().all()
        found, self._unreadable[table.__tablename__] = readable(rows, make)
        return found

    def add_note(self, note: SavedNote) -> SavedNote:
        """Save a note of the rig, likewise."""
        return replace(note, id=self._insert(RigNoteRow, asdict(note)))

    def remove_note(self, note_id: int) -> None:
        """Take a note of the rig out."""
        with self._guarded("save to") as db:
            db.execute(delete(RigNoteRow).where(RigNoteRow.id == note_id))

    def add_moment(self, moment: Moment) -> Moment:
        """Save what happened, likewise."""
        return replace(moment, id=self._insert(MomentRow, {**asdict(moment), "kind": moment.kind.value}))

    def change_moment(self, moment: Moment) -> None:
        """Save other values for one that is there."""
        values = {**asdict(moment), "kind": moment.kind.value}
        with self._guarded("save to") as db:
            db.execute(update(MomentRow).where(MomentRow.id == moment.id).values(**values))

    def remove_moment(self, moment_id: int) -> None:
        """Take one out."""
        with self._guarded("save to") as db:
            db.execute(delete(MomentRow).where(MomentRow.id == moment_id))

    def add_mark(self, mark: Mark) -> Mark:
        """Save a mark; its id is new unless it already has one (as when a removal is undone)."""
        return replace(mark, id=self._insert(MarkRow, {**asdict(mark), "kind": mark.kind.value}))

    def add_catch(self, catch: Catch) -> Catch:
        """Save a catch, likewise."""
        return replace(catch, id=self._insert(CatchRow, asdict(catch)))

    def add_mark_and_catch(self, mark: Mark, catch: Catch) -> tuple[Mark, Catch]:
        """Save a new mark with its first catch: both or neither."""
        with self._guarded("save to") as db:
            mark_id = _put(db, MarkRow, {**asdict(mark), "kind": mark.kind.value})
            catch_id = _put(db, CatchRow, {**asdict(catch), "mark_id": mark_id})
        return replace(mark, id=mark_id), replace(catch, id=catch_id, mark_id=mark_id)

    def change_mark(self, mark: Mark) -> None:
        """Save other values for a mark that is there."""
        values = {**asdict(mark), "kind": mark.kind.value}
        with self._guarded("save to") as db:
            db.execute(update(MarkRow).where(MarkRow.id == mark.id).values(**values))

    def name_water(self, mark_ids: Sequence[int], name: str) -> None:
        """Call the water of these marks otherwise: all of them or none."""
        with self._guarded("save to") as db:
            for mark_id in mark_ids:
                db.execute(update(MarkRow).where(MarkRow.id == mark_id).values(water=name))

    def remove_mark(self, mark_id: int) -> None:
        """Take a mark out, with its catches."""
        with self._guarded("save to") as db:
            db.execute(delete(CatchRow).where(CatchRow.mark_id == mark_id))
            db.execute(delete(MarkRow).where(MarkRow.id == mark_id))

    def remove_catch(self, catch_id: int) -> None:
        """Take one catch out."""
        with self._guarded("save to") as db:
            db.execute(delete(CatchRow).where(CatchRow.id == catch_id))

    def restore(self, mark: Mark, catches: list[Catch]) -> None:
        """Put a removed mark back with its catches, under their old ids."""
        with self._guarded("save to") as db:
            _put(db, MarkRow, {**asdict(mark), "kind": mark.kind.value})
            for catch in catches:
                _put(db, CatchRow, asdict(catch))

    def _insert(self, table: Any, values: dict[str, Any]) -> int:
        with self._guarded("save to") as db:
            return _put(db, table, values)

    @contextmanager
    def _guarded(self, what: str) -> Iterator[Any]:
        try:
            with self._engine.begin() as db:
                yield db
        except sa_exc.DBAPIError as exc:
            raise StoreError(f"Could not {what} the log: {plainly(exc.orig)}") from exc
        except (*DAMAGE, sa_exc.SQLAlchemyError) as exc:
            raise StoreError(f"Could not {what} the log: {plainly(exc)}") from exc


def _put(db: Any, table: Any, values: dict[str, Any]) -> int:
    if not values["id"]:
        values = {k: v for k, v in values.items() if k != "id"}
    return int(db.execute(insert(table).values(**values)).inserted_primary_key[0])
