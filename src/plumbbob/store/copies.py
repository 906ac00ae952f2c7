"""
Good copies of the log, beside it: `log.last-good.db`, and behind it one a day, `log.good-2026-11-27.db`, for a while.

A copy is made only of a log that passed the full check, is checked itself before it counts, and never takes the place
of one that holds more.
"""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path

from plumbbob.files.atomic import writing
from plumbbob.store.database import BUSY_SECONDS, DAMAGE, connect_to_read, count_rows, is_sound

DAYS_KEPT = 7


def backup_path(path: Path) -> Path:
    """Where the newest good copy lies."""
    return path.with_name(path.stem + ".last-good" + path.suffix)


def good_copies(path: Path) -> list[Path]:
    """All copies, the newest first; whether they are good is not looked at."""
    older = sorted(path.parent.glob(f"{path.stem}.good-*{path.suffix}"), key=_age, reverse=True)
    newest = backup_path(path)
    return ([newest] if newest.is_file() else []) + [p for p in older if p.is_file()]


def day_of(copy: Path) -> str:
    """The day a copy was made, as 2026-11-27."""
    return datetime.fromtimestamp(copy.stat().st_mtime, UTC).date().isoformat()


def best_copy(path: Path) -> Path | None:
    """The newest copy that passes the full check."""
    for copy in good_copies(path):
        try:
            if is_sound(copy):
                return copy
        except sqlite3.Error:
            continue
    return None


def put_copy(copy: Path, path: Path) -> None:
    """Put a copy in the log's place, whole or not at all."""
    with writing(path, private=True) as fresh:
        _backup(copy, fresh)


def keep_copy(path: Path) -> None:
    """
    Copy a log that has passed the full check; a copy that does not pass it itself never counts.

    Raises
    ------
    FileError, sqlite3.Error
    """
    newest = backup_path(path)
    with writing(newest, private=True) as fresh:
        _backup(path, fresh)
        if not is_sound(fresh):
            raise sqlite3.DatabaseError("the copy is malformed")
        if newest.is_file():
            _move_back(path, newest, count_rows(fresh))
    _prune(path)


def _move_back(path: Path, newest: Path, rows: int) -> None:
    """Keep the copy there was under its day, unless it is sound, of the same day and holds no more."""
    day = day_of(newest)
    if day == datetime.now(UTC).date().isoformat() and count_rows(newest) <= rows and is_sound(newest):
        return
    number, aside = 1, path.with_name(f"{path.stem}.good-{day}{path.suffix}")
    while aside.exists():
        number += 1
        aside = path.with_name(f"{path.stem}.good-{day}-{number}{path.suffix}")
    # a second name for the same file: at no moment is there none
    os.link(newest, aside)


def _prune(path: Path) -> None:
    """Let old copies go: one a day stays for some days, and the fullest for ever."""
    older = good_copies(path)[1:]
    kept = {max(older, key=count_rows)} if older else set()
    days: set[str] = set()
    for copy in older:
        if day_of(copy) not in days and len(days) < DAYS_KEPT:
            kept.add(copy)
        days.add(day_of(copy))
    for copy in older:
        if copy not in kept:
            copy.unlink(missing_ok=True)


def _age(copy: Path) -> tuple[float, str]:
    return copy.stat().st_mtime, copy.name


def _backup(source: Path, target: Path) -> None:
    """A consistent copy, as one file without a write-ahead log."""
    with (
        closing(sqlite3.connect(source, timeout=BUSY_SECONDS)) as old,
        closing(sqlite3.connect(target)) as new,
    ):
        old.backup(new)
        new.execute("PRAGMA journal_mode=DELETE")


def salvage(path: Path, table: str, columns: list[str]) -> list[dict[str, object]]:
    """
    The rows of a table of a damaged log that can still be read.

    Notes
    -----
    Reads on behind the damage, further and further behind it, until nothing more comes; a row that comes again
    tells of pages that point in a circle, which is damage too.
    """
    found: dict[int, dict[str, object]] = {}
    try:
        db = connect_to_read(path)
    except (*DAMAGE, OSError):
        return []
    last, jump = -(2**62), 1
    with closing(db):
        try:
            # an older log lacks some of them
            has = {str(r[1]) for r in db.execute(f'PRAGMA table_info("{table}")')}
        except DAMAGE:
            has = set(columns)
        columns = [c for c in columns if c in has]
        names = ", ".join(f'"{c}"' for c in columns)
        if not columns:
            return []
        while jump < 2**40:
            try:
                for row in db.execute(f'SELECT rowid, {names} FROM "{table}" WHERE rowid > {last} ORDER BY rowid'):
                    if row[0] in found:
                        raise sqlite3.DatabaseError("pages point in a circle")
                    found[row[0]] = dict(zip(columns, row[1:], strict=True))
                    last, jump = max(last, row[0]), 1
                break
            except DAMAGE:
                last, jump = max(last, 0) + jump, 2 * jump
    return list(found.values())
