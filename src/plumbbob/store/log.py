"""
The log on disk: marks, catches and notes of the rig in one SQLite file.

A change is on disk when the call returns (write-ahead log, synchronous FULL). A damaged file is set aside, never
overwritten, and the copy made at the last good opening takes its place.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, create_engine, delete, event, insert, select, update
from sqlalchemy import exc as sa_exc

from plumbbob.store.errors import StoreError
from plumbbob.store.tables import CatchRow, MarkRow, RigNoteRow
from plumbbob.store.values import Catch, Mark, MarkKind, SavedNote

BUSY_SECONDS = 2.0


@dataclass(frozen=True, slots=True)
class Opened:
    """A log, and what had to be said while opening it."""

    log: Log
    note: str


class Log:
    """Marks, catches and notes of one file. Used from one thread at a time; every change is one transaction."""

    def __init__(self, engine: Engine, path: Path) -> None:
        self._engine = engine
        self.path = path

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    def marks(self) -> list[Mark]:
        """All marks, oldest first."""
        with self._guarded("read") as db:
            rows = db.execute(select(MarkRow.__table__).order_by(MarkRow.time, MarkRow.id)).mappings().all()
        return [Mark(**{**row, "kind": MarkKind(row["kind"])}) for row in rows]

    def catches(self) -> list[Catch]:
        """All catches, oldest first."""
        with self._guarded("read") as db:
            rows = db.execute(select(CatchRow.__table__).order_by(CatchRow.time, CatchRow.id)).mappings().all()
        return [Catch(**row) for row in rows]

    def notes(self) -> list[SavedNote]:
        """All notes of the rig, oldest first."""
        with self._guarded("read") as db:
            rows = db.execute(select(RigNoteRow.__table__).order_by(RigNoteRow.time, RigNoteRow.id)).mappings().all()
        return [SavedNote(**row) for row in rows]

    def add_note(self, note: SavedNote) -> SavedNote:
        """Save a note of the rig, likewise."""
        return replace(note, id=self._insert(RigNoteRow, asdict(note)))

    def remove_note(self, note_id: int) -> None:
        """Take a note of the rig out."""
        with self._guarded("save to") as db:
            db.execute(delete(RigNoteRow).where(RigNoteRow.id == note_id))

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
            raise StoreError(f"Could not {what} the log: {_plainly(exc.orig)}") from exc


def _put(db: Any, table: Any, values: dict[str, Any]) -> int:
    if not values["id"]:
        values = {k: v for k, v in values.items() if k != "id"}
    return int(db.execute(insert(table).values(**values)).inserted_primary_key[0])


def _plainly(exc: BaseException | None) -> str:
    text = str(exc).lower()
    if "full" in text:
        return "the disk is full. Nothing was changed; make room and try again."
    if "locked" in text or "busy" in text:
        return "another program holds it. Nothing was changed; close that program and try again."
    if "readonly" in text or "read-only" in text:
        return "it may not be written to. Nothing was changed."
    if "malformed" in text or "not a database" in text or "corrupt" in text:
        return "it is damaged. Nothing was changed."
    return f"{exc}. Nothing was changed."


def open_log(path: Path) -> Opened:
    """
    Open the log, making it or bringing its shape up to date; sets a damaged one aside.

    Raises
    ------
    StoreError
        In one line, when there is nothing to work with.
    """
    note = ""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        if path.exists() and not _is_sound(path):
            note = _set_aside(path)
        _migrate(path)
        _keep_copy(path)
    except OSError as exc:
        raise StoreError(f"The log {path} cannot be opened: {exc.strerror or exc}.") from exc
    except (sqlite3.Error, sa_exc.DBAPIError) as exc:
        origin = exc.orig if isinstance(exc, sa_exc.DBAPIError) else exc
        raise StoreError(f"The log {path} cannot be opened: {_plainly(origin)}") from exc
    return Opened(Log(_engine(path), path), note)


def _engine(path: Path) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": BUSY_SECONDS, "check_same_thread": False})

    @event.listens_for(engine, "connect")
    def _set_up(connection: Any, _record: Any) -> None:
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=FULL")
        connection.execute("PRAGMA foreign_keys=ON")

    return engine


def _is_sound(path: Path) -> bool:
    with path.open("rb") as file:
        head = file.read(16)
    if head != b"SQLite format 3\0":
        # an empty file is a log that was never begun, unless there was one before
        return not head and not backup_path(path).exists()
    try:
        with closing(sqlite3.connect(path, timeout=BUSY_SECONDS)) as db:
            return bool(db.execute("PRAGMA quick_check").fetchone()[0] == "ok")
    except sqlite3.OperationalError:
        raise
    except sqlite3.DatabaseError:
        return False


def backup_path(path: Path) -> Path:
    """Where the copy made at the last good opening lies."""
    return path.with_name(path.stem + ".last-good" + path.suffix)


def _set_aside(path: Path) -> str:
    number = 1
    while (aside := path.with_name(f"{path.stem}.damaged-{number}{path.suffix}")).exists():
        number += 1
    os.replace(path, aside)
    for tail in ("-wal", "-shm"):
        extra = path.with_name(path.name + tail)
        if extra.exists():
            os.replace(extra, aside.with_name(aside.name + tail))
    if backup_path(path).exists():
        shutil.copy2(backup_path(path), path)
        return f"The log was damaged. It is kept as {aside.name}; the last good copy is open."
    return f"The log was damaged. It is kept as {aside.name}; an empty one is open."


def _keep_copy(path: Path) -> None:
    """A consistent copy of a sound log beside it, swapped in whole."""
    fresh = path.with_name(path.stem + ".copying" + path.suffix)
    fresh.unlink(missing_ok=True)
    with (
        closing(sqlite3.connect(path, timeout=BUSY_SECONDS)) as source,
        closing(sqlite3.connect(fresh)) as target,
    ):
        source.backup(target)
    os.replace(fresh, backup_path(path))


def _migrate(path: Path) -> None:
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations").replace("%", "%%"))
    engine = _engine(path)
    try:
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    finally:
        engine.dispose()
