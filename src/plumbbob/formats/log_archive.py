"""
A log as open files, in a folder or a zip archive: read with every cell as it stands, and written.

What comes from outside is not trusted: names that lead out, links, archives that unpack to far more than they hold,
and halves of files are refused before a row is looked at.
"""

from __future__ import annotations

import csv
import io
import json
import os
import shutil
import stat
import sys
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from plumbbob.files.atomic import MAKING, NotWritten, check_target, private_folder, sync, writing
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.formats.log_columns import OWN_TABLES, TABLES, id_column, meaning

ABOUT = "log.json"
FORMAT, VERSION = "plumbbob-log", 1
_MOST_FILES, _MOST_BYTES, _MOST_TABLE, _MOST_RATIO = 200_000, 16 << 30, 1 << 30, 1000
_BAD_ZIP = (zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, NotImplementedError, OSError, ValueError)


@dataclass(frozen=True, slots=True)
class RawRow:
    """One row as it stands: cells by column, and its line for messages."""

    line: int
    cells: dict[str, str]


@dataclass(slots=True)
class RawTable:
    """One table as it stands. `unknown` are the columns that no reader knows, in order."""

    name: str
    unknown: list[str] = field(default_factory=list)
    rows: list[RawRow] = field(default_factory=list)


@dataclass(slots=True)
class RawLog:
    """A log as files: its tables, further words of log.json, and other files with their sizes."""

    path: Path
    about: dict[str, object]
    tables: dict[str, RawTable]
    files: dict[str, int]
    skipped: dict[str, int] = field(default_factory=dict)
    problems: list[str] = field(default_factory=list)  # why rows were left out, the first of each table


class _Folder:
    """Files of a folder."""

    def __init__(self, root: Path) -> None:
        self.root = root
        self.sizes: dict[str, int] = {}
        for path in sorted(root.rglob("*")):
            facts = path.lstat()
            if stat.S_ISDIR(facts.st_mode):
                continue
            if not stat.S_ISREG(facts.st_mode):
                raise FileError(root, path.name, "is a link or no plain file; nothing was read")
            self.sizes[path.relative_to(root).as_posix()] = facts.st_size

    @contextmanager
    def opened(self, name: str) -> Iterator[BinaryIO]:
        with (self.root / name).open("rb") as file:
            yield file

    def close(self) -> None:
        """Nothing is held."""


class _Zip:
    """Files of an archive, looked at before a byte of it is unpacked."""

    def __init__(self, path: Path) -> None:
        plain_file(path)
        self.archive = zipfile.ZipFile(path)
        self.sizes: dict[str, int] = {}
        self._members: dict[str, zipfile.ZipInfo] = {}
        try:
            self._look(path)
        except BaseException:
            self.archive.close()
            raise

    def _look(self, path: Path) -> None:
        total = 0
        for member in self.archive.infolist():
            # as it stands in the file, before anything is made of it
            raw = member.orig_filename.replace("\\", "/")
            name = PurePosixPath(raw)
            outside = name.is_absolute() or ".." in name.parts or "\0" in raw
            if outside or (len(raw) > 1 and raw[1] == ":"):
                raise FileError(path, "", "holds a name that leads out of the archive; nothing was read")
            if stat.S_ISLNK(member.external_attr >> 16):
                raise FileError(path, "", "holds a link; nothing was read")
            if member.flag_bits & 1:
                raise FileError(path, "", "is locked with a password")
            if member.is_dir():
                continue
            key = name.as_posix()
            self._members[key] = member
            if key in self.sizes:
                raise FileError(path, "", f"holds {key} twice")
            if member.file_size > 10 << 20 and member.file_size > _MOST_RATIO * max(member.compress_size, 1):
                raise FileError(path, "", "would unpack to far more than it holds; nothing was read")
            self.sizes[key] = member.file_size
            total += member.file_size
        if len(self.sizes) > _MOST_FILES or total > _MOST_BYTES:
            raise FileError(path, "", "holds more than a log can be; nothing was read")

    @contextmanager
    def opened(self, name: str) -> Iterator[BinaryIO]:
        with self.archive.open(self._members[name]) as file:
            yield file  # type: ignore[misc]

    def close(self) -> None:
        """Let go of the file."""
        self.archive.close()


@dataclass(slots=True)
class OpenLog:
    """A log as files, and a way to the bytes of those that are no table."""

    raw: RawLog
    _source: _Folder | _Zip

    @contextmanager
    def opened(self, name: str) -> Iterator[BinaryIO]:
        """
        One file's bytes.

        Raises
        ------
        FileError
            If it can't be read to its end.
        """
        try:
            with self._source.opened(name) as file:
                yield file
        except (*_BAD_ZIP, KeyError) as exc:
            raise FileError(self.raw.path, name, f"can't be read: {why(exc)}") from exc


@contextmanager
def opened_log(path: Path, *, skip_bad: bool = False) -> Iterator[OpenLog]:
    """
    A log as files.

    Parameters
    ----------
    path : Path
        A folder or a zip archive.
    skip_bad : bool
        Leave out rows that can't be used, and count them, instead of refusing the whole.

    Raises
    ------
    FileError
        In one line: no log.json, another format or version, a damaged archive, a name that leads out, bytes that are
        no UTF-8, an id that is missing or there twice, a cell that is no number or time where one belongs.
    """
    with _source(path) as source:
        yield OpenLog(_raw(path, source, skip_bad), source)


@contextmanager
def _source(path: Path) -> Iterator[_Folder | _Zip]:
    try:
        source: _Folder | _Zip = _Folder(path) if path.is_dir() else _Zip(path)
    except FileError:
        raise
    except _BAD_ZIP as exc:
        raise FileError(path, "", f"is no log that can be read: {why(exc)}") from exc
    try:
        yield source
    finally:
        source.close()


def gentle_tables(path: Path, names: Sequence[str]) -> dict[str, bytes]:
    """
    Bytes of a log's tables as they stand, by table; those that are missing are left out.

    Raises
    ------
    FileError
        Where it is no log at all: no log.json, another format or version, a damaged archive, a name that leads out.
    """
    with _source(path) as source:
        _about(path, source)
        return {n: _bytes(path, source, f"{n}.csv") for n in names if f"{n}.csv" in source.sizes}


def _raw(path: Path, source: _Folder | _Zip, skip_bad: bool) -> RawLog:
    about = _about(path, source)
    raw = RawLog(path=path, about=about, tables={}, files=dict(source.sizes))
    del raw.files[ABOUT]
    for name in TABLES:
        for file in (f"{name}.csv", *([f"{name}-own.csv"] if name in OWN_TABLES else [])):
            if file not in raw.files:
                continue
            read = _Reader(path, file, name, _bytes(path, source, file), skip_bad)
            if name in OWN_TABLES and not read.is_ours():
                continue
            table = raw.tables.setdefault(name, RawTable(name))
            read.into(table, raw)
            del raw.files[file]
    return raw


def _about(path: Path, source: _Folder | _Zip) -> dict[str, object]:
    if ABOUT not in source.sizes:
        raise FileError(path, "", f"is no log: it has no {ABOUT}")
    try:
        about = json.loads(_text(path, ABOUT, _bytes(path, source, ABOUT, 1 << 20)))
    except (ValueError, RecursionError) as exc:
        raise FileError(path, ABOUT, "is no JSON") from exc
    if not isinstance(about, dict) or about.get("format") != FORMAT:
        raise FileError(path, ABOUT, f"is not of the format {FORMAT}")
    version = about.get("version")
    if isinstance(version, bool) or version != VERSION:
        said = json.dumps(version) if isinstance(version, int | str | float) else "missing"
        raise FileError(path, ABOUT, f"its version is {said}; this program reads version {VERSION}")
    return {k: v for k, v in about.items() if k not in ("format", "version")}


def _bytes(path: Path, source: _Folder | _Zip, name: str, most: int = _MOST_TABLE) -> bytes:
    if source.sizes[name] > most:
        raise FileError(path, name, "is larger than such a file can be")
    try:
        with source.opened(name) as file:
            data = file.read(most + 1)
            if len(data) > most or file.read(1):
                raise FileError(path, name, "is larger than it says")
    except _BAD_ZIP as exc:
        raise FileError(path, name, f"can't be read: {why(exc)}") from exc
    return data


def _text(path: Path, name: str, data: bytes) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as exc:
        raise FileError(path, name, "is no text in UTF-8") from exc


class _Reader:
    """One table's rows, each held against its columns."""

    def __init__(self, path: Path, file: str, table: str, data: bytes, skip_bad: bool) -> None:
        self._path, self._file, self._skip = path, file, skip_bad
        self._specs = {c.name: c for c in TABLES[table]}
        self._id = id_column(table)
        csv.field_size_limit(sys.maxsize)
        self._reader = csv.reader(io.StringIO(_text(path, file, data), newline=""), strict=True)
        try:
            self.header = next(self._reader, [])
        except csv.Error as exc:
            raise FileError(path, file, f"line 1: {exc}") from exc

    def is_ours(self) -> bool:
        """It has the columns that the program itself writes."""
        return set(self.header) >= {c.name for c in self._specs.values() if not c.own}

    def into(self, table: RawTable, raw: RawLog) -> None:
        """Add its rows to a table."""
        named = [h for h in self.header if h]
        if len(set(named)) < len(named):
            twice = next(h for h in named if named.count(h) > 1)
            raise FileError(self._path, self._file, f"has the column {twice} twice")
        table.unknown += [h for h in self.header if h not in self._specs and h not in table.unknown]
        if self._id and self.header and self._id not in self.header:
            raise FileError(self._path, self._file, f"has no column {self._id}")
        seen = {row.cells[self._id] for row in table.rows} if self._id else set()
        for line, cells in self._lines():
            trouble = self._trouble(cells, seen)
            if trouble and not self._skip:
                raise FileError(self._path, self._file, f"line {line}: {trouble}")
            if trouble:
                if not raw.skipped.get(table.name):
                    raw.problems.append(f"{self._file}: line {line}: {trouble}")
                raw.skipped[table.name] = raw.skipped.get(table.name, 0) + 1
                continue
            if self._id:
                seen.add(cells[self._id])
            table.rows.append(RawRow(line, cells))

    def _lines(self) -> Iterator[tuple[int, dict[str, str]]]:
        try:
            for row in self._reader:
                if not row:
                    continue
                cells = dict(zip(self.header, row, strict=False))
                if any(row[len(self.header) :]):
                    cells["\0more"] = "more"
                yield self._reader.line_num, cells
        except csv.Error as exc:
            raise FileError(self._path, self._file, f"line {self._reader.line_num}: {exc}") from exc

    def _trouble(self, cells: dict[str, str], seen: set[str]) -> str:
        """Why a row can't be used; empty if it can."""
        if "\0more" in cells:
            return "has more cells than there are columns"
        if self._id:
            name = cells.get(self._id, "")
            if not name.strip():
                return f"its {self._id} is missing"
            if name in seen:
                return f"its {self._id} {name} is there twice"
        for column, text in cells.items():
            spec = self._specs.get(column)
            if spec is None or spec.own or not text:
                continue
            try:
                value = meaning(spec, text)
            except ValueError as exc:
                return f"{column} {text} {exc}"
            limit = {"latitude": 90.0, "longitude": 540.0}.get(column)
            if limit is not None and isinstance(value, float) and abs(value) > limit:
                return f"{column} {text} is beyond {limit:g}"
        return ""


# -- writing ----------------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class TableOut:
    """One table to write: rows as cells by column, and columns beyond ours."""

    name: str
    rows: Sequence[Mapping[str, str]]
    unknown: Sequence[str] = ()


Opener = Callable[[], AbstractContextManager[BinaryIO]]


def table_text(table: TableOut) -> str:
    """A table as CSV; columns of our own only where one of them holds something."""
    used = {name for row in table.rows for name, text in row.items() if text}
    own_table = table.name in OWN_TABLES
    names = [c.name for c in TABLES[table.name] if own_table or not c.own or c.name in used]
    names += [n for n in table.unknown if n not in names]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(names)
    writer.writerows([row.get(n, "") for n in names] for row in table.rows)
    return out.getvalue()


def write_log(
    out: Path,
    about: Mapping[str, object],
    tables: Sequence[TableOut],
    files: Mapping[str, Opener],
    progress: Callable[[float], None] = lambda fraction: None,
) -> None:
    """
    Write a log as files, whole or not at all: into a zip archive where the name ends so, else into a new folder.

    `files` gives for a name what opens its bytes, as a context.

    Raises
    ------
    FileError
    """
    texts = {ABOUT: json.dumps({"format": FORMAT, "version": VERSION, **about}, ensure_ascii=False) + "\n"}
    for table in tables:
        name = f"{table.name}.csv"
        texts[f"{table.name}-own.csv" if name in files else name] = table_text(table)
    if out.suffix.lower() == ".zip":
        with writing(out, private=True) as fresh, zipfile.ZipFile(fresh, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, text in texts.items():
                archive.writestr(_member(name), text.encode())
            for k, (name, opened) in enumerate(files.items()):
                with opened() as source, archive.open(_member(name), "w") as target:
                    shutil.copyfileobj(source, target, 1 << 20)
                progress((k + 1) / len(files))
        return
    _write_folder(out, texts, files, progress)


def _member(name: str) -> zipfile.ZipInfo:
    """The same day in every archive: when it was written is nobody's business."""
    info = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o600 << 16
    return info


def _write_folder(
    out: Path, texts: Mapping[str, str], files: Mapping[str, Opener], progress: Callable[[float], None]
) -> None:
    if os.path.lexists(out) and not (out.is_dir() and not out.is_symlink() and not any(out.iterdir())):
        raise NotWritten(out, "is there already; name a new folder")
    check_target(out.parent / f"{out.name}.")
    try:
        making = Path(tempfile.mkdtemp(prefix=MAKING, dir=out.parent))
    except OSError as exc:
        raise NotWritten(out, f"could not be written: {why(exc)}") from exc
    try:
        for name, text in texts.items():
            (making / name).write_text(text, encoding="utf-8", newline="")
        for k, (name, opened) in enumerate(files.items()):
            private_folder((making / name).parent)
            with opened() as source, (making / name).open("wb") as target:
                shutil.copyfileobj(source, target, 1 << 20)
            progress((k + 1) / len(files))
        for path in making.rglob("*"):
            sync(path)
        os.replace(making, out)
        sync(out.parent)
    except OSError as exc:
        raise NotWritten(out, f"could not be written: {why(exc)}") from exc
    finally:
        shutil.rmtree(making, ignore_errors=True)
