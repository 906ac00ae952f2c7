"""
Opening the log: whatever is missing, damaged or was cut off, nothing is written over that is better than what is put
in its place, and nothing a person saved is thrown away.

What is damaged gets another name, `log.damaged-1.db`, with all that SQLite keeps beside it. In its place
comes the newest good copy, and into that all rows which the damaged log and damaged newer copies can still give.
"""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass, fields
from pathlib import Path

from sqlalchemy import exc as sa_exc

from plumbbob.files.atomic import keep_private, private_folder, sync
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.store.copies import best_copy, day_of, good_copies, keep_copy, put_copy, salvage
from plumbbob.store.database import DAMAGE, TAILS, connect_to_read, is_sound, make_engine, make_private, versions
from plumbbob.store.errors import StoreError, plainly
from plumbbob.store.log import IMPORTED, Log
from plumbbob.store.refs import new_ref
from plumbbob.store.rows import value_of
from plumbbob.store.tables import NAMES, columns
from plumbbob.store.values import Catch, Mark

MIGRATIONS = Path(__file__).parent / "migrations"
FULL_CHECK_BYTES = 16_000_000  # checked in full before it opens: well under a second; larger ones afterwards
LOG_NAME = "log.db"
# what every log has had from the first
_FIRST = {"mark": ("id", "time", "latitude", "kind"), "catch": ("id", "mark_id", "species")}
_USUAL: dict[str, object] = {"str": "", "int": 0, "bool": False, "float": None}


@dataclass(frozen=True, slots=True)
class Opened:
    """A log, and what had to be said while opening it."""

    log: Log
    note: str
    to_check: bool = False  # too large to be checked in full at once: `check_and_copy` is still to do


def open_log(path: Path) -> Opened:
    """
    Open the log, making it or bringing its shape up to date; sets a damaged one aside.

    Raises
    ------
    StoreError
        In one line, when there is nothing to work with; the file is untouched then.
    """
    try:
        return _open(path)
    except FileError as exc:
        raise StoreError(f"The log {path} cannot be opened: {exc}.") from exc
    except OSError as exc:
        raise StoreError(f"The log {path} cannot be opened: {why(exc)}.") from exc
    except (*DAMAGE, sa_exc.SQLAlchemyError) as exc:
        origin = exc.orig if isinstance(exc, sa_exc.DBAPIError) else exc
        raise StoreError(f"The log {path} cannot be opened: {plainly(origin)}") from exc


def _open(path: Path) -> Opened:
    private_folder(path.parent)
    note = ""
    if os.path.lexists(path):
        size = plain_file(path)
        keep_private(path)
        _refuse_newer(path)
        full = size <= FULL_CHECK_BYTES
        begun = size > 0 or bool(good_copies(path))  # an empty file is a log that was never begun, or one lost
        if begun and not (is_sound(path, full=full) and _is_ours(path)):
            note = _mend(path)
    else:
        full = True
        note = _restore_missing(path)
        if not os.path.lexists(path):
            make_private(path)
    _migrate(path)
    if full:
        keep_copy(path)
    log = Log(make_engine(path), path)
    log.marks(), log.catches(), log.notes(), log.moments()
    if log.unreadable:
        lost = f"{_rows(log.unreadable)} of the log can't be read: kept as they are, all others are here."
        note = f"{note} {lost}".strip()
    return Opened(log, note, to_check=not full)


def check_and_copy(path: Path) -> str:
    """
    The full check of a log too large to wait for, then its copy; what has to be said, empty if all is well.

    Raises
    ------
    StoreError
    """
    try:
        if not is_sound(path):
            return "The log is damaged in places. Copies of the last days lie beside it; the next start will mend it."
        keep_copy(path)
    except (FileError, OSError, *DAMAGE) as exc:
        raise StoreError(f"The log could not be copied: {why(exc)}.") from exc
    return ""


def _refuse_newer(path: Path) -> None:
    """A log of a newer program is left alone."""
    found = versions(path)
    if not found or (len(found) == 1 and found[0] in _known_versions()):
        return
    which = " and ".join(found)
    raise StoreError(
        f"The log {path} was written by a newer version of this program (its version is {which}, "
        f"this one knows {_known_versions()[-1]}). A newer program is needed; the file is untouched."
    )


def _is_ours(path: Path) -> bool:
    """Nothing stands in it yet, or its tables have the columns that they should at its version."""
    found = versions(path)
    try:
        with closing(connect_to_read(path)) as db:
            if not db.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
                return True
            if not found:
                return False
            newest = found == _known_versions()[-1:]
            shapes = {NAMES[c]: tuple(columns(c)) for c in NAMES} if newest else _FIRST
            for table, names in shapes.items():
                # a name that is no column would be taken for a text by a query
                there = {str(r[1]) for r in db.execute(f'PRAGMA table_info("{table}")')}
                if not set(names) <= there:
                    return False
                db.execute(f'SELECT * FROM "{table}" LIMIT 1').fetchall()
    except DAMAGE:
        return False
    return True


def _restore_missing(path: Path) -> str:
    """The log is gone: put the newest good copy in its place, and say so; without any copy a new one begins."""
    if any(os.path.lexists(path.with_name(path.name + t)) for t in TAILS):
        # a write-ahead log without its log belongs to another one: it must not be read into the copy
        _set_aside(path)
    copies = good_copies(path)
    copy = best_copy(path)
    if copy is not None:
        day = day_of(copy)
        put_copy(copy, path)
        return f"The log was missing; the good copy of {day} is open ({copy.name} is kept)."
    if copies:
        _fill(path, copies)
        return "The log was missing and its copies are damaged; what could be read of them is open."
    return ""


def _mend(path: Path) -> str:
    """Set a damaged log aside and open what there is instead."""
    aside = _set_aside(path)
    copies, copy = good_copies(path), best_copy(path)
    newer = copies if copy is None else copies[: copies.index(copy)]
    if copy is not None:
        put_copy(copy, path)
    found = _fill(path, [aside, *newer])
    kept = f"The log was damaged. It is kept as {aside.name};"
    if copy is not None:
        also = f", with {_rows(found)} more that could be read" if found else ""
        return f"{kept} the last good copy, of {day_of(copy)}, is open{also}."
    return f"{kept} {_rows(found)} could be read and are here." if found else f"{kept} an empty one is open."


def _rows(number: int) -> str:
    return "1 row" if number == 1 else f"{number} rows"


def _set_aside(path: Path) -> Path:
    """Give a log, and all that SQLite keeps beside it, another name; says which."""
    number = 1
    while os.path.lexists(aside := path.with_name(f"{path.stem}.damaged-{number}{path.suffix}")):
        number += 1
    # what lies beside it goes first: cut off here, the log is still there to be set aside under the same name
    _move_tails(path, aside)
    if os.path.lexists(path):
        os.replace(path, aside)
    sync(path.parent)
    return aside


def _move_tails(path: Path, aside: Path) -> None:
    for tail in TAILS:
        extra = path.with_name(path.name + tail)
        if os.path.lexists(extra):
            os.replace(extra, aside.with_name(aside.name + tail))


def _fill(path: Path, damaged: list[Path]) -> int:
    """Put into the log, made if need be, the rows of damaged files that it lacks; says how many."""
    if not os.path.lexists(path):
        make_private(path)
    _migrate(path)
    engine = make_engine(path)
    added = 0
    marks: set[int] = set()
    try:
        with engine.begin() as db:
            for cls in IMPORTED:
                names = columns(cls)
                listed = ", ".join(f'"{n}"' for n in names)
                query = f'INSERT INTO "{NAMES[cls]}" ({listed}) VALUES ({", ".join("?" * len(names))})'
                there = {int(r[0]) for r in db.exec_driver_sql(f'SELECT id FROM "{NAMES[cls]}"')}
                for source in damaged:
                    for row in salvage(source, NAMES[cls], names):
                        whole = _with_usual(cls, row)
                        try:
                            value = value_of(cls, whole)
                        except (ValueError, TypeError, KeyError, OverflowError):
                            continue
                        if value.id in there or (
                            isinstance(value, Catch) and value.mark_id is not None and value.mark_id not in marks
                        ):
                            continue
                        db.exec_driver_sql(query, tuple(whole[n] for n in names))
                        there.add(value.id)
                        added += 1
                if cls is Mark:
                    marks = there
    finally:
        engine.dispose()
    return added


def _with_usual(cls: type, row: dict[str, object]) -> dict[str, object]:
    """A row of an older log, with what its table did not have then."""
    usual = {f.name: _USUAL.get(str(f.type)) for f in fields(cls)}
    return {**usual, **({"ref": new_ref()} if "ref" in usual else {}), **row}


def _known_versions() -> list[str]:
    return sorted(p.name.split("_")[0] for p in (MIGRATIONS / "versions").glob("0*.py"))


def _migrate(path: Path) -> None:
    if versions(path) == _known_versions()[-1:]:
        return
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    engine = make_engine(path)
    try:
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    except Exception as exc:
        # the library has errors of its own for every way a version can be strange
        if isinstance(exc, OSError | sa_exc.SQLAlchemyError | sqlite3.Error):
            raise
        raise StoreError(f"The log {path} cannot be brought up to date: {why(exc)}.") from exc
    finally:
        engine.dispose()


@contextmanager
def copied(path: Path, folder: Path) -> Iterator[Log]:
    """
    Another log, which is not changed: a copy of it, in a folder, is opened.

    Raises
    ------
    StoreError
    """
    copy = folder / "copy.db"
    try:
        plain_file(path)
        shutil.copyfile(path, copy)
        wal = path.with_name(f"{path.name}-wal")
        if wal.is_file():  # what an open log has not yet put into its file
            shutil.copyfile(wal, copy.with_name(f"{copy.name}-wal"))
        beside = path.with_name(f"{path.stem}.files")
        if beside.is_dir():
            shutil.copytree(beside, folder / "copy.files")
    except (FileError, OSError) as exc:
        raise StoreError(f"The log {path.name} cannot be read: {why(exc)}.") from exc
    log = open_log(copy).log
    try:
        yield log
    finally:
        log.close()
