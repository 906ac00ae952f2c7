"""SQLite files as the log uses them: addresses, connections, checks."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import URL, Engine, create_engine, event

from plumbbob.files.atomic import PRIVATE_FILE

BUSY_SECONDS = 2.0
# SQLite's own steps: some twenty to read a row of thirty bytes, with room to read on behind damage
_LEAST_STEPS, _STEPS_PER_BYTE, _STEPS_AT_ONCE = 2_000_000, 10, 10_000
TAILS = ("-wal", "-shm", "-journal")
_HEAD = b"SQLite format 3\0"
# what a damaged file makes SQLite, or Python's reading of its texts, raise
DAMAGE = (sqlite3.Error, UnicodeDecodeError, OverflowError)


def text_or_halves(raw: bytes) -> str:
    """Text of a cell; bytes that are none stay recognisable (see `rows`) instead of hiding the whole table."""
    return raw.decode("utf-8", "surrogateescape")


def make_engine(path: Path) -> Engine:
    """An engine on a file whose name may hold any character."""
    engine = create_engine(
        URL.create("sqlite", database=str(path.absolute())),
        connect_args={"timeout": BUSY_SECONDS, "check_same_thread": False},
    )

    @event.listens_for(engine, "connect")
    def _set_up(connection: Any, _record: Any) -> None:
        connection.text_factory = text_or_halves
        connection.isolation_level = None  # transactions begin below, so that changes of shape are in them too
        connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=FULL")
        connection.execute("PRAGMA foreign_keys=ON")

    @event.listens_for(engine, "begin")
    def _begin(connection: Any) -> None:
        connection.exec_driver_sql("BEGIN")

    return engine


def connect_to_read(path: Path) -> sqlite3.Connection:
    """
    A connection that cannot change the file, and whose statements end.

    Notes
    -----
    In a damaged file pages can point to those above them: a table without an end. A statement that takes more steps
    than any sound file of this size could ask for is broken off with an error, as for other damage.
    """
    # without a write-ahead log nothing at all is made beside it
    alone = not any(path.with_name(path.name + t).exists() for t in ("-wal", "-journal"))
    address = f"{path.absolute().as_uri()}?{'immutable=1' if alone else 'mode=ro'}"
    db = sqlite3.connect(address, uri=True, timeout=BUSY_SECONDS)
    db.text_factory = text_or_halves
    left = [_LEAST_STEPS + _STEPS_PER_BYTE * path.stat().st_size]

    def has_no_end() -> bool:
        left[0] -= _STEPS_AT_ONCE
        return left[0] < 0

    db.set_progress_handler(has_no_end, _STEPS_AT_ONCE)
    return db


def is_database(path: Path) -> bool:
    """The file begins as SQLite's do."""
    with path.open("rb") as file:
        return file.read(len(_HEAD)) == _HEAD


def is_sound(path: Path, *, full: bool = True) -> bool:
    """
    SQLite's own check finds nothing wrong: pages and, with `full`, every index and reference against its table.

    Raises
    ------
    sqlite3.OperationalError
        If another program holds the file, or the system will not give it.
    """
    if not is_database(path):
        return False
    try:
        with closing(sqlite3.connect(path, timeout=BUSY_SECONDS)) as db:
            db.text_factory = text_or_halves
            found = db.execute("PRAGMA integrity_check(1)" if full else "PRAGMA quick_check(1)").fetchone()
            return bool(found[0] == "ok")
    except sqlite3.OperationalError as exc:
        if any(w in str(exc) for w in ("locked", "busy", "unable to open", "readonly")):
            raise
        return False
    except DAMAGE:
        return False


def versions(path: Path) -> list[str] | None:
    """The revisions that stand in a log; None where there is no such table or it can't be read. Changes nothing."""
    try:
        with closing(connect_to_read(path)) as db:
            return [str(row[0]) for row in db.execute("SELECT version_num FROM alembic_version ORDER BY 1")]
    except DAMAGE:
        return None


_OWN = ("mark", "catch", "rig_note", "moment", "trip", "effort", "water", "fish_limit")


def count_rows(path: Path) -> int:
    """How many rows of a person's own a log holds; 0 for one that can't be read."""
    try:
        with closing(connect_to_read(path)) as db:
            tables = [r[0] for r in db.execute("SELECT name FROM sqlite_master WHERE type='table'")]
            return sum(
                # not count(*), which is one step and so could not be broken off
                int(db.execute(f'SELECT total(1) FROM "{name}"').fetchone()[0])
                for name in _OWN
                if name in tables
            )
    except DAMAGE:
        return 0


def make_private(path: Path) -> None:
    """Make an empty file that only its owner may read; what SQLite puts beside it follows its mode."""
    os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_WRONLY, PRIVATE_FILE))
