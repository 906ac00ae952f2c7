"""Made-up logs as open files, with every kind of cell, for the tests of the archive and of sharing."""

import csv
import io
import json
import random
import zipfile

from plumbbob.formats.log_columns import TABLES, Cell, row_meaning, write_time

SHIPPED = ("waters", "trips", "efforts", "marks", "catches", "contacts", "signs")
WORDS = ["kokanee", 'größer, "so"', "line\nbreak", " spaced ", "0", "=1+1", "日本", "a\r\nb", "seen", "lost", "tree"]
ABOUT = {"format": "plumbbob-log", "version": 1}


def _cell(rng, spec, ids):
    if rng.random() < 0.25:
        return ""
    if spec.cell is Cell.NUMBER:
        if spec.name in ("latitude", "longitude"):
            return repr(rng.uniform(-90, 90) * (1 if spec.name == "latitude" else 2))
        return rng.choice([str(rng.randint(-3, 40)), f"{rng.uniform(0, 30):.2f}", "1e3", "+4.50", ".5"])
    if spec.cell is Cell.TIME:
        when = rng.uniform(1.5e9, 1.8e9)
        return rng.choice(
            [write_time(int(when)), write_time(when), "1969-12-31T23:59:59Z", "2026-08-15T03:00:00+02:00"]
        )
    if spec.cell is Cell.FLAG:
        return rng.choice("01")
    if spec.cell is Cell.REF:
        return rng.choice(ids[spec.of]) if rng.random() < 0.9 else "not there"
    return rng.choice(WORDS)


def made_up(seed, n=12):
    """Tables as cells: all columns of the contract, some that nobody knows, references that lead nowhere too."""
    rng = random.Random(seed)
    ids, tables = {}, {}
    for name in SHIPPED:
        specs = [c for c in TABLES[name] if not c.own]
        ids[name] = [f"{name[0]}{i}{rng.choice(['', ' ü', '/'])}" for i in range(n)]
        tables[name] = [
            {c.name: ids[name][i] if c.cell is Cell.ID else _cell(rng, c, ids) for c in specs}
            | ({"own thing": rng.choice(["", "x", "1.50"])} if name in ("trips", "marks", "signs") else {})
            for i in range(n)
        ]
    return tables


def text_of(rows):
    out = io.StringIO()
    writer = csv.DictWriter(out, list(rows[0]), lineterminator="\r\n")
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue()


def write_archive(path, tables=None, files=None, about=ABOUT):
    with zipfile.ZipFile(path, "w") as archive:
        if about is not None:
            archive.writestr("log.json", about if isinstance(about, str) else json.dumps(about))
        for name, rows in (tables or {}).items():
            archive.writestr(f"{name}.csv", rows if isinstance(rows, str | bytes) else text_of(rows))
        for name, data in (files or {}).items():
            archive.writestr(name, data)
    return path


def read_archive(path):
    """Tables as cells, and other files as bytes."""
    tables, files = {}, {}
    with zipfile.ZipFile(path) as archive:
        for name in archive.namelist():
            data = archive.read(name)
            if name.removesuffix(".csv") in SHIPPED:
                tables[name[:-4]] = list(csv.DictReader(io.StringIO(data.decode(), newline="")))
            else:
                files[name] = data
    return tables, files


def meanings(table, rows):
    """What rows say, in no order."""
    return sorted(json.dumps(sorted(row_meaning(table, row).items()), default=str) for row in rows)
