"""
The log on disk: waters, trips, efforts, marks, catches, moments, notes and limits in one SQLite file.

A change is on disk when the call returns (write-ahead log, synchronous FULL). `opening` opens it.
"""

from __future__ import annotations

import json
import sqlite3
import time
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Engine
from sqlalchemy import exc as sa_exc

from plumbbob.store.database import DAMAGE
from plumbbob.store.errors import StoreError, plainly
from plumbbob.store.files_beside import FilesBeside
from plumbbob.store.held import Held
from plumbbob.store.refs import new_ref
from plumbbob.store.rows import cells_of_row, odd_condition, readable, row_of, value_of
from plumbbob.store.tables import NAMES, columns
from plumbbob.store.values import Catch, KeptFile, LogChange, Mark, Moment, SavedNote

V = TypeVar("V")
Key = tuple[type[Any], int]
IMPORTED = tuple(cls for cls in NAMES if cls is not LogChange)


@dataclass(frozen=True, slots=True)
class Thrown:
    """A row that was taken out, as it was then."""

    value: Any
    time: float


class Log:
    """One file. Used from one thread at a time; every change is one transaction."""

    def __init__(self, engine: Engine, path: Path) -> None:
        self._engine = engine
        self.path = path
        self.files = FilesBeside(path)
        self._unreadable: dict[type[Any], int] = {}
        self._held: dict[type[Any], Held[Any]] = {}
        self._touched: dict[type[Any], set[int]] = {}
        self._seen: object = None  # the state of the file that is held

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    @property
    def unreadable(self) -> int:
        """Rows that could not be read when last looked at; they stay in the file as they are."""
        return sum(self._unreadable.values())

    # -- reading ------------------------------------------------------------------------------------------------

    def read(self, cls: type[V]) -> Held[V]:
        """All values of one kind that can be read, by time."""
        with self._guarded("read") as db:
            # another program may have written meanwhile
            state = (id(db.connection.dbapi_connection), db.exec_driver_sql("PRAGMA data_version").scalar())
            if state != self._seen:
                self._held.clear()
                self._touched.clear()
                self._seen = state
            names = ", ".join(f'"{c}"' for c in columns(cls))
            held, touched = self._held.get(cls), self._touched.pop(cls, set())
            if held is None:
                # plain rows: what a column should hold is judged here, and nothing is turned before
                query = f'SELECT {names} FROM "{NAMES[cls]}"'
                rows, clean = _fetch(db.connection.dbapi_connection, query)
                odd = f'SELECT 1 FROM "{NAMES[cls]}" WHERE {odd_condition(cls)} LIMIT 1'
                self._unreadable[cls] = 0
                if not clean or db.exec_driver_sql(odd).fetchone() is not None:
                    rows, self._unreadable[cls] = readable(cls, rows)
                held = Held.in_order(cls, rows)
            elif touched:
                changed: dict[int, Sequence[Any] | None] = dict.fromkeys(touched)
                for number in touched:
                    query = f'SELECT {names} FROM "{NAMES[cls]}" WHERE id = ?'
                    for row in readable(cls, map(tuple, db.exec_driver_sql(query, (number,)).fetchall()))[0]:
                        changed[number] = row
                held = held.with_changes(changed)
            self._held[cls] = held
            return held

    def marks(self) -> Held[Mark]:
        """All marks that can be read."""
        return self.read(Mark)

    def catches(self) -> Held[Catch]:
        """All catches that can be read."""
        return self.read(Catch)

    def notes(self) -> Held[SavedNote]:
        """All notes of the rig that can be read."""
        return self.read(SavedNote)

    def moments(self) -> Held[Moment]:
        """All moments that can be read."""
        return self.read(Moment)

    def pictures(self, names: Iterable[str]) -> list[Path]:
        """Where pictures lie, by the names that rows give them; those that are gone are left out."""
        kept = {f.path: f.sha256 for f in self.read(KeptFile)}
        found = [kept.get(n) or kept.get(f"pictures/{n}") for n in names]
        paths = [self.files.path_of(sha256) for sha256 in found if sha256]
        return [p for p in paths if p.is_file()]

    def about(self) -> dict[str, str]:
        """Texts about the whole log, by name."""
        with self._guarded("read") as db:
            return {str(k): str(v) for k, v in db.exec_driver_sql("SELECT key, text FROM about").fetchall()}

    def history(self, cls: type[Any], number: int) -> list[LogChange]:
        """What became of one row, oldest first."""
        with self._guarded("read") as db:
            names = ", ".join(f'"{c}"' for c in columns(LogChange))
            query = f'SELECT {names} FROM "change" WHERE "row" = ? AND kind = ? ORDER BY id'
            rows = db.exec_driver_sql(query, (number, NAMES[cls])).fetchall()
        return [value_of(LogChange, dict(zip(columns(LogChange), row, strict=True))) for row in rows]

    def changed(self, cls: type[Any]) -> dict[int, float]:
        """When rows of one kind were last changed by hand, after they were written down."""
        query = (
            'SELECT "row", max(time) FROM "change" WHERE kind = ? AND before <> \'\' AND after <> \'\' GROUP BY "row"'
        )
        with self._guarded("read") as db:
            return {int(k): float(t) for k, t in db.exec_driver_sql(query, (NAMES[cls],)).fetchall()}

    def trash(self, most: int = 500) -> list[Thrown]:
        """What was taken out and is not back, the latest first."""
        found: list[Thrown] = []
        with self._guarded("read") as db:
            for cls in IMPORTED:
                query = (
                    f"SELECT c.time, c.before FROM \"change\" c WHERE c.kind = ? AND c.after = '' AND c.id IN "
                    f'(SELECT max(id) FROM "change" WHERE kind = ? GROUP BY "row") '
                    f'AND c."row" NOT IN (SELECT id FROM "{NAMES[cls]}") ORDER BY c.id DESC LIMIT ?'
                )
                for when, before in db.exec_driver_sql(query, (NAMES[cls], NAMES[cls], most)).fetchall():
                    try:
                        found.append(Thrown(value_of(cls, json.loads(before)), float(when)))
                    except (ValueError, TypeError, KeyError, OverflowError):
                        continue
        return sorted(found, key=lambda t: -t.time)[:most]

    # -- writing ------------------------------------------------------------------------------------------------

    def apply(self, put: Iterable[Any] = (), take: Iterable[Key] = ()) -> list[Any]:
        """
        Save values and take rows out, all of it or nothing; the saved values, with their numbers.

        A value without a number is new. A catch whose mark has the number 0 belongs to the mark put before it. With a
        mark go its catches. What was before is kept in the history.

        Raises
        ------
        StoreError
        """
        saved: list[Any] = []
        touched: list[Key] = []
        with self._guarded("save to") as db:
            for cls, number in _with_catches(db, take):
                self._take(db, cls, number)
                touched.append((cls, number))
            mark_id = 0
            for value in put:
                if isinstance(value, Catch) and value.mark_id == 0:
                    value = replace(value, mark_id=mark_id)
                value = self._put(db, value)
                if isinstance(value, Mark):
                    mark_id = value.id
                saved.append(value)
                touched.append((type(value), value.id))
        for cls, number in touched:
            self._touched.setdefault(cls, set()).add(number)
        return saved

    def add(self, value: V) -> V:
        """Save one value; its number is new unless it has one, as when a removal is undone."""
        made: V = self.apply([value])[0]
        return made

    def remove(self, cls: type[Any], number: int) -> None:
        """Take one row out."""
        self.apply(take=[(cls, number)])

    def new_numbers(self) -> dict[type[Any], int]:
        """The first free number of every kind, and of imports under `int`."""
        with self._guarded("read") as db:
            free = {c: int(db.exec_driver_sql(f'SELECT ifnull(max(id), 0) + 1 FROM "{NAMES[c]}"').scalar())
                    for c in IMPORTED}  # fmt: skip
            # numbers of rows in the history are not given again
            for name, most in db.exec_driver_sql('SELECT kind, max("row") FROM "change" GROUP BY kind').fetchall():
                for cls in IMPORTED:
                    if NAMES[cls] == name:
                        free[cls] = max(free[cls], int(most) + 1)
            queries = " UNION ALL ".join(f'SELECT max(batch) AS b FROM "{NAMES[c]}"' for c in IMPORTED)
            free[int] = int(db.exec_driver_sql(f"SELECT ifnull(max(b), 0) + 1 FROM ({queries})").scalar())
        return free

    def put_batch(
        self,
        values: Mapping[type[Any], Sequence[Any]],
        about: Mapping[str, str] = {},
        progress: Callable[[float], None] = lambda fraction: None,
        *,
        otherwise: Sequence[tuple[Any, float]] = (),
    ) -> None:
        """
        Save numbered values of many kinds in one go, without a history: all of them or none.

        `otherwise` are newer versions of rows that are here, and when they were changed; what they were is in the
        history.
        """
        total, done = max(sum(map(len, values.values())), 1), 0
        with self._guarded("save to") as db:
            for cls in IMPORTED:
                rows, names = values.get(cls, ()), columns(cls)
                order = ", ".join(f'"{n}"' for n in names)
                query = f'INSERT INTO "{NAMES[cls]}" ({order}) VALUES ({", ".join("?" * len(names))})'
                for k in range(0, len(rows), 2000):
                    part = [tuple(cells_of_row(v)) for v in rows[k : k + 2000]]
                    db.exec_driver_sql(query, part)
                    done += len(part)
                    progress(done / total)
            for value, when in otherwise:
                self._put(db, value, when)
            for key, text in about.items():
                db.exec_driver_sql("INSERT OR REPLACE INTO about (key, text) VALUES (?, ?)", (key, text))
        self._held.clear()

    def take_batch(self, batch: int) -> dict[type[Any], list[Any]]:
        """Take out all that one import brought; what it was, to be put back."""
        taken: dict[type[Any], list[Any]] = {}
        with self._guarded("save to") as db:
            # catches a person has noted since at an imported mark stay, on their own
            db.exec_driver_sql(
                'UPDATE "catch" SET mark_id = NULL WHERE batch <> ? AND mark_id IN '
                '(SELECT id FROM "mark" WHERE batch = ?)', (batch, batch))  # fmt: skip
            for cls in reversed(IMPORTED):
                names = ", ".join(f'"{c}"' for c in columns(cls))
                rows = db.exec_driver_sql(f'SELECT {names} FROM "{NAMES[cls]}" WHERE batch = ?', (batch,)).fetchall()
                found, _ = readable(cls, map(tuple, rows))
                taken[cls] = [value_of(cls, dict(zip(columns(cls), row, strict=True))) for row in found]
                db.exec_driver_sql(f'DELETE FROM "{NAMES[cls]}" WHERE batch = ?', (batch,))
        self._held.clear()
        return taken

    def _put(self, db: Any, value: Any, when: float | None = None) -> Any:
        cls, table = type(value), NAMES[type(value)]
        if hasattr(value, "ref") and not value.ref:
            value = replace(value, ref=new_ref())
        row, before = row_of(value), ""
        if value.id:
            before = _as_json(db, cls, value.id)
        else:
            del row["id"]
        names = ", ".join(f'"{n}"' for n in row)
        if before:
            sets = ", ".join(f'"{n}" = ?' for n in row)
            db.exec_driver_sql(f'UPDATE "{table}" SET {sets} WHERE id = ?', (*row.values(), value.id))
        else:
            query = f'INSERT INTO "{table}" ({names}) VALUES ({", ".join("?" * len(row))})'
            value = replace(value, id=int(db.exec_driver_sql(query, tuple(row.values())).lastrowid))
        after = json.dumps(row_of(value), ensure_ascii=False)
        if after != before:
            _note_change(db, table, value.id, before, after, when)
        return value

    def _take(self, db: Any, cls: type[Any], number: int) -> None:
        before = _as_json(db, cls, number)
        db.exec_driver_sql(f'DELETE FROM "{NAMES[cls]}" WHERE id = ?', (number,))
        if before:
            _note_change(db, NAMES[cls], number, before, "")

    @contextmanager
    def _guarded(self, what: str) -> Iterator[Any]:
        try:
            with self._engine.begin() as db:
                yield db
        except sa_exc.DBAPIError as exc:
            raise StoreError(f"Could not {what} the log: {plainly(exc.orig)}") from exc
        except (*DAMAGE, sa_exc.SQLAlchemyError) as exc:
            raise StoreError(f"Could not {what} the log: {plainly(exc)}") from exc


def _fetch(raw: Any, query: str) -> tuple[list[Any], bool]:
    """All rows of a query, and whether all their texts are sound. Read as the library does, which is quick."""
    usual = raw.text_factory
    raw.text_factory = str
    try:
        return raw.execute(query).fetchall(), True
    except sqlite3.OperationalError as exc:
        if "decode" not in str(exc).lower():
            raise
    finally:
        raw.text_factory = usual
    return raw.execute(query).fetchall(), False


def _with_catches(db: Any, take: Iterable[Key]) -> list[Key]:
    """Catches go before the mark they belong to."""
    found: list[Key] = []
    for cls, number in take:
        if cls is Mark:
            rows = db.exec_driver_sql('SELECT id FROM "catch" WHERE mark_id = ?', (number,)).fetchall()
            found += [(Catch, int(row[0])) for row in rows]
        found.append((cls, number))
    return list(dict.fromkeys(found))


def _as_json(db: Any, cls: type[Any], number: int) -> str:
    """A row as JSON, for the history; empty if it is not there."""
    names = ", ".join(f'"{c}"' for c in columns(cls))
    row = db.exec_driver_sql(f'SELECT {names} FROM "{NAMES[cls]}" WHERE id = ?', (number,)).fetchone()
    if row is None:
        return ""
    return json.dumps(dict(zip(columns(cls), row, strict=True)), ensure_ascii=False)


def _note_change(db: Any, table: str, number: int, before: str, after: str, when: float | None = None) -> None:
    query = 'INSERT INTO "change" (time, kind, "row", before, after) VALUES (?, ?, ?, ?, ?)'
    db.exec_driver_sql(query, (time.time() if when is None else when, table, number, before, after))
