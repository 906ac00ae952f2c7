"""What a file is, by what is in it and not by its name; and what lies in a zip, taken out safely."""

from __future__ import annotations

import json
import re
import sqlite3
import stat
import tempfile
import zipfile
import zlib
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from plumbbob.files.errors import FileError
from plumbbob.files.kinds import plain_file
from plumbbob.files.text import why
from plumbbob.formats.registry import Content, formats_of
from plumbbob.formats.tide_csv import looks_like_tide

_HEAD = 8192
MOST_INSIDE, MOST_BYTES, MOST_RATIO = 200, 2 << 30, 200
_ABOUT = "plumbbob-backup.json"
# how files begin that are read nowhere here, and what people call them
_STRANGE = (
    (b"%PDF", "a PDF document"),
    (b"\xd0\xcf\x11\xe0", "an office document"),
    (b"\x7fELF", "a program"),
    (b"MZ", "a program"),
    (b"GIF8", "a GIF picture"),
    (b"RIFF", "a sound or a film"),
    (b"\x1f\x8b", "a gzip archive"),
    (b"7z\xbc\xaf", "a 7-zip archive"),
    (b"Rar!", "a RAR archive"),
    (b"<!DOCTYPE html", "a web page"),
    (b"<html", "a web page"),
)
_TACKLE = re.compile(r"^\s*kind\s*[,;\t]\s*name\b", re.I)
_FISH = re.compile(r"(^|[,;\t|\"])\s*(species|fish|fisch|fischart|especie|espece|poisson)\s*(\"?[,;\t|]|\"?$)", re.I)
_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)$")


@dataclass(frozen=True, slots=True)
class Found:
    """What a file is, and what made it look so."""

    path: Path
    content: Content


def what_is(path: Path) -> Found:
    """
    What a file holds.

    Raises
    ------
    FileError
        In one line: what it looks like, and which of the kinds it is nearest to.
    """
    plain_file(path)
    try:
        with path.open("rb") as file:
            head = file.read(_HEAD)
    except OSError as exc:
        raise FileError(path, "", why(exc)) from exc
    if not head:
        raise FileError(path, "", "is empty")
    content = _by_head(path, head)
    if content is None:
        raise FileError(path, "", _looks_like(path, head))
    return Found(path, content)


def _by_head(path: Path, head: bytes) -> Content | None:
    if head.startswith(b"PK\x03\x04"):
        return _in_zip(path)
    if head.startswith(b"SQLite format 3\0"):
        return _in_database(path)
    for known in formats_of(Content.RECORDING, Content.PICTURE, Content.CHART):
        if known.begins and head.startswith(known.begins) and known.name not in ("NMEA 0183", "GeoPackage"):
            return known.content
    if path.suffix.lower() in (".xtf", ".shp", ".000") and b"\0" in head:
        return Content.RECORDING if path.suffix.lower() == ".xtf" else Content.CHART
    if head[:1] == b"\x7b" and b"\0" in head[:64]:  # the file header of an XTF
        return Content.RECORDING
    try:
        text = head.decode("utf-8-sig", errors="strict" if len(head) < _HEAD else "ignore")
    except UnicodeDecodeError:
        # tables of catches come from offices too
        old = head.decode("cp1252", errors="replace")
        return Content.CATCHES if "\0" not in old and _FISH.search(old.splitlines()[0]) else None
    return None if "\0" in text else _in_text(text)


def _in_zip(path: Path) -> Content | None:
    try:
        with zipfile.ZipFile(path) as archive:
            names = {m.filename for m in archive.infolist()[: 10 * MOST_INSIDE]}
    except (zipfile.BadZipFile, OSError, NotImplementedError, IndexError, ValueError):
        return None
    if _ABOUT in names:
        return Content.ARCHIVE
    if "log.json" in names:
        return Content.OPEN_LOG
    return None if "[Content_Types].xml" in names or "mimetype" in names else Content.ZIP


def _in_database(path: Path) -> Content | None:
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro&immutable=1", uri=True)) as db:
            tables = {
                str(row[0]) for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table' LIMIT 500")
            }
    except sqlite3.Error:
        return None
    if "gpkg_contents" in tables:
        return Content.CHART
    return Content.LOG if {"mark", "marks"} & tables else None


def _in_text(text: str) -> Content | None:
    start = text.lstrip()
    if start.startswith("<"):
        low = start[:2000].lower()
        if "<gpx" in low:
            return Content.TRACK
        return Content.CHART if "<kml" in low or "gml" in low or "featurecollection" in low else None
    if start.startswith(("{", "[")):
        return Content.CHART if re.search(r'"(Feature|FeatureCollection|Geometry)', text) else None
    lines = [line for line in start.splitlines() if line.strip()]
    if not lines:
        return None
    if sum(line.startswith(("$", "!")) for line in lines[:50]) > 0.5 * len(lines[:50]):
        return Content.CHART
    return _in_table(lines)


def _in_table(lines: list[str]) -> Content | None:
    head = lines[0].lower()
    if looks_like_tide(lines):
        return Content.TIDE
    if _TACKLE.match(head):
        return Content.TACKLE
    if _FISH.search(head) and len(re.split(r"[,;\t|]", head)) > 1:
        return Content.CATCHES
    cells = [c.strip().strip('"') for c in re.split(r"[,;\t|]|\s{1,}", lines[0].strip())]
    numbers = sum(bool(_NUMBER.match(c)) for c in cells if c)
    if numbers == len([c for c in cells if c]) and numbers:  # no header: three columns are places, two a column
        return Content.SOUNDINGS if numbers >= 3 else Content.COLUMN if numbers == 2 else None
    if len(cells) < 2:
        return None
    warm = re.search(r"temp|warm|°c|°f", head)
    where = re.search(r"\blat|latitude|\bbreite|\blon|longitude|\blng|east|north|\bx\b", head)
    depth = re.search(r"depth|tiefe|sounding|\bz\b", head)
    if warm and depth and not where:
        return Content.COLUMN
    if where or depth:
        return Content.SOUNDINGS
    second = re.split(r"[,;\t|]|\s{1,}", lines[1].strip()) if len(lines) > 1 else []
    return Content.SOUNDINGS if sum(bool(_NUMBER.match(c)) for c in second) >= 3 else None


def _looks_like(path: Path, head: bytes) -> str:
    """What it is as far as can be told, and what comes nearest."""
    ending = path.suffix.lower()
    if head.startswith(b"PK\x03\x04"):
        looks = "an office document or another packed file"
    else:
        looks = next((words for begin, words in _STRANGE if head.lower().startswith(begin.lower())), "")
    if not looks:
        looks = (
            "text without a table of places or depths"
            if b"\0" not in head and _is_text(head)
            else "bytes of no kind known here"
        )
    near = next((f for f in formats_of(*Content) if ending in f.endings), None)
    nearest = f"; by its name it could be {near.name}, but it does not begin like one" if near is not None else ""
    return f"looks like {looks}{nearest}. Recordings, soundings, charts, columns, GPX, pictures and backups are read"


def _is_text(head: bytes) -> bool:
    return sum(32 <= b < 127 or b in b"\t\r\n" for b in head) > 0.9 * len(head)


def unpacked(path: Path, into: Path) -> list[Path]:
    """
    Take the files out of a zip into a folder of their own below `into`; folders in it become flat.

    Raises
    ------
    FileError
        If it would unpack to far more than it holds, holds too much, is locked, or cannot be read.
    """
    out: list[Path] = []
    try:
        made = Path(tempfile.mkdtemp(prefix="unpacked-", dir=into))
        with zipfile.ZipFile(path) as archive:
            members = [m for m in archive.infolist() if not m.is_dir() and not stat.S_ISLNK(m.external_attr >> 16)]
            members = [m for m in members if not PurePosixPath(m.filename).name.startswith((".", "__"))]
            if len(members) > MOST_INSIDE:
                raise FileError(path, "", f"holds {len(members)} files; at most {MOST_INSIDE} are looked into")
            if sum(m.file_size for m in members) > MOST_BYTES or any(
                m.file_size > 1 << 20 and m.file_size > MOST_RATIO * max(m.compress_size, 1) for m in members
            ):
                raise FileError(path, "", "would unpack to far more than it holds; it was left alone")
            for k, member in enumerate(members):
                name = (
                    re.sub(r"[^\w .-]+", "_", PurePosixPath(member.filename.replace("\\", "/")).name)[-120:]
                    or f"file {k}"
                )
                target = made / name
                if target.exists():
                    target = made / f"{target.stem} {k}{target.suffix}"
                with archive.open(member) as source, target.open("xb") as file:
                    left = member.file_size
                    while block := source.read(1 << 20):
                        left -= len(block)
                        if left < 0:
                            raise FileError(path, "", "unpacks to more than it says; it was left alone")
                        file.write(block)
                out.append(target)
    except (OSError, zipfile.BadZipFile, zlib.error, RuntimeError, EOFError, IndexError, ValueError) as exc:
        raise FileError(path, "", f"cannot be looked into: {why(exc)}") from exc
    return out


def about_backup(path: Path) -> str:
    """The name of the water in an archive, for words."""
    try:
        with zipfile.ZipFile(path) as archive:
            return str(json.loads(archive.read(_ABOUT)).get("name", path.stem))
    except (OSError, KeyError, ValueError, zipfile.BadZipFile, zlib.error, RuntimeError, AttributeError):
        return path.stem
