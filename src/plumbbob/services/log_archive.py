"""The log as open files: the whole of it out, and any log in, all of it or nothing, without doubles."""

from __future__ import annotations

import json
import math
from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path, PurePosixPath
from typing import Any

from plumbbob.core.types import Progress
from plumbbob.files.errors import FileError
from plumbbob.formats.log_archive import OpenLog, RawTable, TableOut, opened_log, write_log
from plumbbob.formats.log_columns import (
    CHANGED,
    OWN_TABLES,
    TABLES,
    Cell,
    id_column,
    number_of,
    row_meaning,
    time_of,
    write_number,
)
from plumbbob.services.log_rows import CLASS_OF, ORDER, cells_of, extra_of, extra_text, fields_of, later, table_of
from plumbbob.store.log import Log
from plumbbob.store.refs import is_own_ref, new_ref
from plumbbob.store.values import Catch, KeptFile, Mark, Moment

_FILE_BYTES = 4 << 30
PICTURES = "pictures/"


@dataclass(slots=True)
class Imported:
    """What became of a log that came in: rows by table, files, and what no reader knew."""

    batch: int = 0
    added: Counter[str] = field(default_factory=Counter)
    doubles: Counter[str] = field(default_factory=Counter)
    renamed: Counter[str] = field(default_factory=Counter)
    skipped: dict[str, int] = field(default_factory=dict)
    problems: list[str] = field(default_factory=list)
    unknown_columns: dict[str, list[str]] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)  # kept as they are
    pictures: int = 0
    newer: Counter[str] = field(default_factory=Counter)  # versions of rows that were here
    before: list[Any] = field(default_factory=list)  # what those were
    after: list[tuple[Any, float]] = field(default_factory=list)  # and what they are now, since when

    @property
    def is_new(self) -> bool:
        """Something was not here already."""
        return bool(self.added or self.files or self.pictures or self.newer)

    def lines(self) -> list[str]:
        """The same in plain lines."""
        said = []
        for table in ORDER:
            parts = [f"{self.added[table]} added"] if self.added[table] else []
            parts += [f"{self.doubles[table]} here already"] if self.doubles[table] else []
            parts += [f"{self.newer[table]} put right, as theirs is newer"] if self.newer[table] else []
            parts += [f"{self.renamed[table]} under a new id, as theirs was taken"] if self.renamed[table] else []
            parts += [f"{self.skipped[table]} left out"] if self.skipped.get(table) else []
            if parts:
                said.append(f"{table}: {', '.join(parts)}")
        said += [f"left out first: {problem}" for problem in self.problems]
        said += [f"{t}: columns kept aside: {', '.join(names)}" for t, names in self.unknown_columns.items()]
        said += [f"pictures: {self.pictures} added"] if self.pictures else []
        said += [f"files kept aside: {', '.join(self.files)}"] if self.files else []
        return said or ["nothing in it is new"]


# -- out --------------------------------------------------------------------------------------------------------


def export_log(log: Log, out: Path, progress: Progress = lambda fraction: None) -> Counter[str]:
    """
    Write the whole log as open files, into an archive (NAME.log.zip) or a new folder; rows by table.

    Raises
    ------
    FileError, StoreError
    """
    about = log.about()
    tables = [
        TableOut(t, rows, json.loads(about.get(f"columns.{t}", "[]")))
        for t, rows in cells_by_table(log).items()
        if rows or t not in OWN_TABLES
    ]
    files = {f.path: partial(log.files.opened, f.sha256) for f in log.read(KeptFile)}
    write_log(out, json.loads(about.get("log.json", "{}")), tables, files, progress)
    return Counter({t.name: len(t.rows) for t in tables})


def cells_by_table(log: Log, wanted: Mapping[str, set[str]] | None = None) -> dict[str, list[dict[str, str]]]:
    """All rows of all tables as cells; with `wanted` only those of its tables that have one of its ids."""
    marks = dict(zip(*(log.read(Mark).cells(n) for n in ("id", "ref")), strict=True))
    linked = Counter(m for m in log.read(Catch).cells("mark_id") if m is not None)
    rows: dict[str, list[dict[str, str]]] = {t: [] for t in ORDER}
    for cls in dict.fromkeys(CLASS_OF.values()):
        tables = [t for t, c in CLASS_OF.items() if c is cls]
        if wanted is not None and not any(t in wanted for t in tables):
            continue
        held, changed = log.read(cls), log.changed(cls)
        names = held.cells("ref" if "ref" in held.names else "water")
        for k, name in enumerate(names):
            if wanted is not None and not any(name in wanted.get(t, ()) or _all(t, wanted) for t in tables):
                continue
            value = held[k]
            table = table_of(value) if isinstance(value, Moment) else tables[0]
            more: dict[str, Any] = {"changed": changed.get(value.id)}
            if isinstance(value, Catch):
                more["mark_ref"] = marks.get(value.mark_id, "") if value.mark_id is not None else ""
            elif isinstance(value, Mark):
                more["caught"] = value.caught + linked[value.id]
            rows[table].append(cells_of(table, value, **more))
    return rows


def _all(table: str, wanted: Mapping[str, set[str]]) -> bool:
    """Rows without ids are compared with all that are here."""
    return table in wanted and not id_column(table)


# -- in ---------------------------------------------------------------------------------------------------------


def import_log(
    log: Log, source: Path, *, skip_bad: bool = False, progress: Progress = lambda fraction: None
) -> Imported:
    """
    Bring in a log: all of it or nothing.

    Notes
    -----
    A row that is here already, all cells equal as values, is a double and only counted. An id that another row has
    taken gets a new one, and what refers to it follows; where the row came from is remembered, so that the same
    archive again brings nothing new.

    Raises
    ------
    FileError
        If it is no log, or a row in it can't be used (unless `skip_bad`); nothing is changed then.
    StoreError
    """
    with opened_log(source, skip_bad=skip_bad) as opened:
        return _Import(log, opened).run(progress)


class _Import:
    """One import: what is here, what comes, and how the names in it change."""

    def __init__(self, log: Log, opened: OpenLog) -> None:
        self._log, self._opened, self._raw = log, opened, opened.raw
        self._was = {t: self._renamed_before(t) for t in self._raw.tables}
        self._here = cells_by_table(log, self._wanted())
        marks = dict(zip(*(log.read(Mark).cells(n) for n in ("id", "ref")), strict=True))
        self._linked_here = Counter(marks[m] for m in log.read(Catch).cells("mark_id") if m in marks)
        catches = self._raw.tables.get("catches")
        self._linked_there = Counter(r.cells.get("mark", "") for r in (catches.rows if catches else ()))
        self._free = log.new_numbers()
        self._names: dict[str, dict[str, str]] = defaultdict(dict)  # by table: their id, and ours
        self._values: dict[type[Any], list[Any]] = defaultdict(list)
        self._pictures: dict[str, str] = {}
        self._mark_numbers: dict[str, int] | None = None
        self.result = Imported(batch=self._free[int], skipped=dict(self._raw.skipped), problems=self._raw.problems)

    def run(self, progress: Progress) -> Imported:
        """Compare, number, save."""
        about = self._log.about()
        fresh = self._about(about)
        self._take_files(lambda fraction: progress(0.3 * fraction))
        for table in ORDER:
            if table in self._raw.tables:
                self._take(table, self._raw.tables[table])
        self._settle_caught()
        progress(0.5)
        if any(self._values.values()) or fresh or self.result.after:
            self._log.put_batch(
                self._values,
                fresh,
                lambda fraction: progress(0.5 + 0.5 * fraction),
                otherwise=self.result.after,
            )
        return self.result

    def _renamed_before(self, table: str) -> dict[str, list[str]]:
        """Rows that an earlier import has given another name, by what they were called."""
        found: dict[str, list[str]] = defaultdict(list)
        held = self._log.read(CLASS_OF[table])
        for k, extra in enumerate(held.cells("extra")):
            if '"was"' in extra and (was := extra_of(held[k]).get("was")):
                found[was].append(_name_of(held[k]))
        return found

    def _wanted(self) -> dict[str, set[str]]:
        """Ids that come, and what rows of these ids are called here: only those have to be compared."""
        wanted: dict[str, set[str]] = {}
        for table, raw in self._raw.tables.items():
            key = id_column(table)
            ids = {r.cells[key] for r in raw.rows} if key else set()
            wanted[table] = ids | {name for i in ids for name in self._was[table].get(i, ())}
        return wanted

    def _about(self, about: Mapping[str, str]) -> dict[str, str]:
        """What of log.json and of columns nobody knows is not here yet."""
        fresh = {}
        kept = json.loads(about.get("log.json", "{}"))
        more = {k: v for k, v in self._raw.about.items() if k not in kept}
        if more:
            fresh["log.json"] = json.dumps({**kept, **more}, ensure_ascii=False)
        for name, table in self._raw.tables.items():
            if not table.unknown:
                continue
            self.result.unknown_columns[name] = [c or "(without a name)" for c in table.unknown]
            had = json.loads(about.get(f"columns.{name}", "[]"))
            new = [c for c in table.unknown if c not in had]
            if new:
                fresh[f"columns.{name}"] = json.dumps(had + new, ensure_ascii=False)
        return fresh

    def _take_files(self, progress: Progress) -> None:
        here = {f.path: f.sha256 for f in self._log.read(KeptFile)}
        names = set(here) | set(self._raw.files)
        for k, (path, size) in enumerate(self._raw.files.items()):
            if size > _FILE_BYTES:
                raise FileError(self._raw.path, path, "is larger than a file of a log can be")
            with self._opened.opened(path) as file:
                sha256, read = self._log.files.keep(file, size)
            if read != size:
                raise FileError(self._raw.path, path, "ends too early")
            target = path
            if path in here and here[path] != sha256:
                target = self._free_path(path, sha256, here, names)
                self._pictures[path] = target
                names.add(target)
            if target in here:
                self.result.doubles["files"] += 1
                continue
            made = KeptFile(id=self._number(KeptFile), path=target, sha256=sha256, size=size, batch=self.result.batch)
            self._values[KeptFile].append(made)
            if path.startswith(PICTURES):
                self.result.pictures += 1
            else:
                self.result.files.append(path)
            progress((k + 1) / len(self._raw.files))

    @staticmethod
    def _free_path(path: str, sha256: str, here: Mapping[str, str], names: set[str]) -> str:
        """Another name for a file; that of an earlier import of the same bytes if there is one."""
        pure, number = PurePosixPath(path), 2
        while True:
            target = (pure.parent / f"{pure.stem}-{number}{pure.suffix}").as_posix()
            if here.get(target) == sha256 or target not in names:
                return target
            number += 1

    def _number(self, cls: type[Any]) -> int:
        self._free[cls] += 1
        return self._free[cls] - 1

    def _take(self, table: str, raw: RawTable) -> None:
        """The rows of one table, compared with those that are here."""
        key = id_column(table)
        specs = {c.name: c for c in TABLES[table]}
        by_id: dict[str, dict[str, str]] = {}
        by_was = self._was[table]
        same: set[tuple[tuple[str, Any], ...]] = set()
        if key:
            by_id = {cells[key]: cells for cells in self._here[table]}
        else:
            same = {_as_key(table, cells) for cells in self._here[table]}
        if table == "marks":
            # what was caught there and is noted one by one is told by the catches
            by_id = {k: _besides(cells, self._linked_here[k]) for k, cells in by_id.items()}
        held = self._log.read(CLASS_OF[table])
        taken = set(held.cells("ref" if "ref" in held.names else "water")) | (
            {r.cells[key] for r in raw.rows} if key else set()
        )
        for row in raw.rows:
            cells = self._renamed(row.cells, specs)
            was = ""
            if not key:
                said = _as_key(table, cells)
                if said in same:
                    self.result.doubles[table] += 1
                    continue
                same.add(said)
            elif cells[key] in by_id:
                theirs = cells[key]
                known = [n for n in (theirs, *by_was.get(theirs, ())) if n in by_id]
                told = _besides(cells, self._linked_there[theirs]) if table == "marks" else cells
                double = next((n for n in known if _equal(table, by_id[n], {**told, key: n})), None)
                if double is not None:
                    self._names[table][theirs] = double
                    self.result.doubles[table] += 1
                    continue
                if self._is_version(table, by_id[theirs], cells):
                    continue
                was, number = theirs, 2
                while f"{theirs}-{number}" in taken:
                    number += 1
                cells = {**cells, key: f"{theirs}-{number}"}
                taken.add(cells[key])
                self._names[table][theirs] = cells[key]
                self.result.renamed[table] += 1
            self._add(table, cells, was)

    def _is_version(self, table: str, ours: Mapping[str, str], theirs: Mapping[str, str]) -> bool:
        """
        Another version of a row that was made by this program: two of its names are never alike by chance.

        The newer one stays. A row that somebody has changed without telling when is another row.
        """
        key = id_column(table)
        a, b = ours.get(CHANGED, ""), theirs.get(CHANGED, "")
        if a == b or not is_own_ref(theirs[key]):
            return False
        if later(b, a) != b:
            self.result.doubles[table] += 1
            return True
        cls = CLASS_OF[table]
        before = next(v for v in self._log.read(cls) if v.ref == theirs[key])
        values, beside = fields_of(table, theirs)
        if cls is Catch:
            values["mark_id"] = self._marks().get(theirs.get("mark", ""), before.mark_id)
        if cls is Mark:
            values["caught"] = before.caught
        self.result.before.append(before)
        beside.pop(CHANGED, None)  # its history tells it from now on
        self.result.after.append((replace(before, **values, extra=extra_text(beside)), time_of(b) or 0.0))
        self.result.newer[table] += 1
        return True

    def _renamed(self, cells: Mapping[str, str], specs: Mapping[str, Any]) -> dict[str, str]:
        """The row with references to rows and pictures that have got another name."""
        made = dict(cells)
        for name, text in cells.items():
            spec = specs.get(name)
            if spec is None or not text:
                continue
            if spec.cell is Cell.REF:
                made[name] = self._names[spec.of].get(text, text)
            elif name == "picture":
                made[name] = self._pictures.get(text, text)
                if f"{PICTURES}{text}" in self._pictures:
                    made[name] = self._pictures[f"{PICTURES}{text}"].removeprefix(PICTURES)
        return made

    def _add(self, table: str, cells: Mapping[str, str], was: str) -> None:
        cls = CLASS_OF[table]
        values, beside = fields_of(table, cells)
        if cls is Catch and cells.get("mark"):
            values["mark_id"] = self._marks().get(cells["mark"])
            if values["mark_id"] is None:
                beside["mark"] = cells["mark"]
        if "ref" not in values and cls is Moment:
            values["ref"] = new_ref()
        for name in ("water", "trip", "source"):
            if cls is Moment:
                values.setdefault(name, "")
        made = cls(id=self._number(cls), batch=self.result.batch, extra=extra_text(beside, was), **values)
        self._values[cls].append(made)
        self.result.added[table] += 1

    def _marks(self) -> dict[str, int]:
        """Numbers of marks by their name, those that are here and those that come."""
        if self._mark_numbers is None:
            self._mark_numbers = {m.ref: m.id for m in self._log.read(Mark)}
            self._mark_numbers |= {m.ref: m.id for m in self._values[Mark]}
        return self._mark_numbers

    def _settle_caught(self) -> None:
        """What a mark says was caught there holds the catches that come with it; the rest is besides."""
        linked = Counter(c.mark_id for c in self._values[Catch] if c.mark_id is not None)
        self._values[Mark] = [
            replace(m, caught=m.caught - linked[m.id])
            if linked[m.id] and "caught" not in extra_of(m).get("cells", {})
            else m
            for m in self._values[Mark]
        ]


def _besides(cells: Mapping[str, str], linked: int) -> dict[str, str]:
    """A mark with what was caught there besides the catches that are noted one by one."""
    if not linked or not cells.get("caught"):
        return dict(cells)
    return {**cells, "caught": write_number((number_of(cells["caught"]) or 0.0) - linked)}


def _name_of(value: Any) -> str:
    return str(getattr(value, "ref", None) or value.water)


def _as_key(table: str, cells: Mapping[str, str]) -> tuple[tuple[str, Any], ...]:
    return tuple(sorted(row_meaning(table, cells).items()))


def _equal(table: str, ours: Mapping[str, str], theirs: Mapping[str, str]) -> bool:
    a, b = row_meaning(table, ours), row_meaning(table, theirs)
    return a == b or (a.keys() == b.keys() and all(_close(a[k], b[k]) for k in a))


def _close(a: Any, b: Any) -> bool:
    return a == b or (isinstance(a, float) and isinstance(b, float) and math.isclose(a, b, rel_tol=1e-15))
