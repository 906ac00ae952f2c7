"""Sharing a log: catches, marks and contacts in an open file, without the places unless they are asked for."""

from __future__ import annotations

import csv
import io
import json
import random
import xml.etree.ElementTree as ET
from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import BinaryIO

from plumbbob.files.atomic import check_target, write_text
from plumbbob.files.errors import FileError
from plumbbob.formats.log_archive import Opener, OpenLog, TableOut, opened_log, write_log
from plumbbob.formats.log_columns import TABLES, Cell
from plumbbob.services.pictures import plain_picture
from plumbbob.services.share_cells import SHARED, Positions, Rows, Shareable, shareable
from plumbbob.services.trip_report import write_report

ENDINGS = (".gpx", ".zip", ".geojson", ".csv", ".pdf")
_POINTS = ("marks", "catches", "contacts")
PICTURES = "pictures/"


@dataclass(frozen=True, slots=True)
class Shared:
    """What was taken out before it was written, a kind a line, and what was written."""

    taken: tuple[str, ...]
    rows: int


def share(source: Path, out: Path, positions: Positions = Positions.NONE) -> Shared:
    """
    Write a log for others.

    Parameters
    ----------
    source : Path
        A log as open files, a folder or an archive.
    out : Path
        .gpx, .geojson and .csv hold marks, catches and contacts; .zip a log as open files; .pdf a page to read.
    positions : Positions

    Raises
    ------
    FileError
        If it is no log, or `out` has another ending; nothing is written then.
    """
    with prepared(source, out, positions) as (write, shared):
        write()
        return shared


@contextmanager
def prepared(source: Path, out: Path, positions: Positions) -> Iterator[tuple[partial[None], Shared]]:
    """What would be taken out, told before anything is written; and what writes it."""
    ending = out.suffix.lower()
    if ending not in ENDINGS:
        raise FileError(out, "", f"can't be shared so; name a file that ends in {', '.join(ENDINGS)}")
    check_target(out, [source] if source.is_file() else [])
    with opened_log(source) as opened:
        raw = opened.raw
        cells = {t: [r.cells for r in raw.tables[t].rows] for t in raw.tables}
        pictures = _pictures(opened) if ending == ".zip" else {}
        names = {old: new for new, (old, _) in pictures.items()}
        found = shareable(cells, positions, names)
        taken = _told(found, opened, len(pictures), ending)
        files = {new: partial(_bytes, data) for new, (_, data) in pictures.items()}
        write = partial(_write, out, ending, found, files, positions)
        yield write, Shared(taken, sum(len(found.tables[t]) for t in (SHARED if ending == ".zip" else _POINTS)))


def _pictures(opened: OpenLog) -> dict[str, tuple[str, bytes]]:
    """Pictures drawn again, by a name that says nothing of when or where: what each was called, and its bytes."""
    found = []
    for name in opened.raw.files:
        if name.startswith(PICTURES):
            with opened.opened(name) as file:
                again = plain_picture(file)
            if again is not None:
                found.append((name, again))
    random.SystemRandom().shuffle(found)
    return {f"{PICTURES}{k}.jpg": pair for k, pair in enumerate(found, 1)}


def _told(found: Shareable, opened: OpenLog, redrawn: int, ending: str) -> tuple[str, ...]:
    """What does not leave, a kind a line with its number."""
    raw, counts = opened.raw, Counter(found.taken)
    lines = [f"{kind}: {number}" for kind, number in sorted(counts.items()) if number and kind != "pictures"]
    tracks = [f for f in raw.files if f.lower().endswith(".gpx")]
    if tracks:
        lines.append(f"tracks: {len(tracks)}")
    pictures = [f for f in raw.files if f.startswith(PICTURES)]
    if redrawn:
        lines += [f"picture positions: {redrawn}", f"picture names and words: {redrawn}"]
    if len(pictures) > redrawn:
        lines.append(f"pictures{' that are none' if ending == '.zip' else ''}: {len(pictures) - redrawn}")
    unknown = [f"{t}.{c or '(without a name)'}" for t, table in raw.tables.items() for c in table.unknown]
    if unknown:
        lines.append(f"unknown columns: {len(unknown)} ({', '.join(unknown)})")
    others = [f for f in raw.files if f not in pictures and f not in tracks]
    others += [f"{t}.csv" for t in raw.tables if t not in SHARED]
    if others:
        lines.append(f"unknown files: {len(others)} ({', '.join(others)})")
    if raw.about:
        lines.append(f"words in log.json: {len(raw.about)}")
    return tuple(lines)


def _write(out: Path, ending: str, found: Shareable, files: Mapping[str, Opener], positions: Positions) -> None:
    if ending == ".zip":
        write_log(out, {}, [TableOut(t, found.tables[t]) for t in SHARED], files)
    elif ending == ".gpx":
        write_text(out, _gpx(found.tables))
    elif ending == ".geojson":
        write_text(out, _geojson(found.tables))
    elif ending == ".csv":
        write_text(out, _csv(found.tables))
    else:
        write_report(out, found.tables, exact=positions is Positions.EXACT)


def _points(tables: Mapping[str, Rows]) -> Iterator[tuple[str, dict[str, str]]]:
    for table in _POINTS:
        for row in tables[table]:
            yield table.removesuffix("s").replace("catche", "catch"), row


def _csv(tables: Mapping[str, Rows]) -> str:
    rows = [{"what": what, **row} for what, row in _points(tables)]
    names = list(dict.fromkeys(["what"] + [c.name for t in _POINTS for c in TABLES[t]]))
    used = {n for row in rows for n, text in row.items() if text}
    wanted = [n for n in names if n in used or not _is_own(n)]
    out = io.StringIO()
    writer = csv.DictWriter(out, wanted, lineterminator="\n", extrasaction="ignore", restval="")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def _is_own(name: str) -> bool:
    return all(c.own for t in _POINTS for c in TABLES[t] if c.name == name)


def _geojson(tables: Mapping[str, Rows]) -> str:
    features = []
    for what, row in _points(tables):
        place = _place_of(row)
        properties: dict[str, object] = {"what": what}
        specs = {c.name: c for c in TABLES[f"{what}es" if what == "catch" else f"{what}s"]}
        for name, text in row.items():
            if text and name not in ("latitude", "longitude"):
                number = specs[name].cell in (Cell.NUMBER, Cell.FLAG)
                properties[name] = json.loads(f"{float(text):g}") if number and _short(text) else text
        geometry = None if place is None else {"type": "Point", "coordinates": [place[1], place[0]]}
        features.append({"type": "Feature", "geometry": geometry, "properties": properties})
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False, indent=1) + "\n"


def _short(text: str) -> bool:
    return float(f"{float(text):g}") == float(text)


def _place_of(row: Mapping[str, str]) -> tuple[float, float] | None:
    if not row.get("latitude") or not row.get("longitude"):
        return None
    return float(row["latitude"]), float(row["longitude"])


def _gpx(tables: Mapping[str, Rows]) -> str:
    """Waypoints only of what has a place; the names are numbers unless names were left in."""
    space = "http://www.topografix.com/GPX/1/1"
    ET.register_namespace("", space)
    root = ET.Element(f"{{{space}}}gpx", {"version": "1.1", "creator": "Plumbbob"})
    about = ET.SubElement(root, f"{{{space}}}metadata")
    ET.SubElement(about, f"{{{space}}}desc").text = "Not for navigation."
    for what, row in _points(tables):
        place = _place_of(row)
        if place is None:
            continue
        point = ET.SubElement(
            root, f"{{{space}}}wpt", {"lat": f"{place[0]:.7f}", "lon": f"{(place[1] + 180) % 360 - 180:.7f}"}
        )
        if row.get("time"):
            ET.SubElement(point, f"{{{space}}}time").text = row["time"]
        title = row.get("name") or row.get("species") or row.get("kind") or what
        ET.SubElement(point, f"{{{space}}}name").text = _xml(title)
        words = [f"{k} {v}" for k, v in row.items() if v and k not in _NOT_SAID]
        ET.SubElement(point, f"{{{space}}}desc").text = _xml("; ".join([what, *words]))
    ET.indent(root)
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + ET.tostring(root, encoding="unicode") + "\n"


_NOT_SAID = ("latitude", "longitude", "time", "name", "mark", "catch", "contact", "trip", "effort", "water")


def _xml(text: str) -> str:
    """Text without the characters that XML can't hold."""
    return "".join(c if c in "\t\n" or (ord(c) >= 32 and ord(c) not in (0xFFFE, 0xFFFF)) else " " for c in text)


# -- a log as open files ----------------------------------------------------------------------------------------


@contextmanager
def _bytes(data: bytes) -> Iterator[BinaryIO]:
    yield io.BytesIO(data)
