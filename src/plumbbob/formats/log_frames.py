"""
A log as open files, read gently: tables as columns of text, with what can't be used counted instead of refused.

A review asks for much of a log at once and for nothing that it must give back, so it reads whole columns.
"""

from __future__ import annotations

import csv
import io
import sys
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import pandas as pd

from plumbbob.formats.log_archive import gentle_tables
from plumbbob.formats.log_columns import TABLES, id_column

REVIEWED = ("waters", "trips", "efforts", "catches", "contacts", "rig_notes")


@dataclass(slots=True)
class LogFrames:
    """Tables by name, every known column there as text, and what was left out by why."""

    tables: dict[str, pd.DataFrame]
    left_out: dict[str, int] = field(default_factory=dict)

    def count(self, what: str, number: int) -> None:
        """Add to what was left out."""
        if number:
            self.left_out[what] = self.left_out.get(what, 0) + int(number)


def read_frames(path: Path) -> LogFrames:
    """
    A log's tables, gently.

    Raises
    ------
    FileError
        Where it is no log at all.
    """
    made = LogFrames({})
    data = gentle_tables(path, REVIEWED)
    for name in REVIEWED:
        header, rows = _rows(name, data.get(name, b""), made)
        made.tables[name] = _clean(made, name, pd.DataFrame(rows, columns=header, dtype=object))
    return made


def frames_of(cells: Mapping[str, Sequence[Mapping[str, str]]]) -> LogFrames:
    """The same of cells at hand, by table."""
    made = LogFrames({})
    for name in REVIEWED:
        rows = cells.get(name, ())
        header = [c.name for c in TABLES[name]]
        made.tables[name] = _clean(
            made, name, pd.DataFrame({h: [r.get(h, "") for r in rows] for h in header}, columns=header, dtype=object)
        )
    return made


def _rows(name: str, data: bytes, made: LogFrames) -> tuple[list[str], list[tuple[str, ...]]]:
    """Header and rows, identical ones once."""
    csv.field_size_limit(sys.maxsize)
    # a nul would end the reading
    reader = csv.reader(io.StringIO(data.decode("utf-8-sig", "replace").replace("\0", ""), newline=""))
    header = [h.strip() for h in next(reader, [])]
    wide = len(header)
    rows: dict[tuple[str, ...], None] = {}
    odd = twice = 0
    for row in reader:
        if len(row) > wide:
            if any(row[wide:]):
                odd += 1
                continue
            row = row[:wide]
        elif len(row) < wide:
            if not row:
                continue
            row = row + [""] * (wide - len(row))
        key = tuple(row)
        if key in rows:
            twice += 1
        rows[key] = None
    made.count("rows with more cells than columns", odd)
    made.count(f"{name} that are there twice", twice)
    return header, list(rows)


def _clean(made: LogFrames, name: str, frame: pd.DataFrame) -> pd.DataFrame:
    """Known columns, each once; taken ids once."""
    frame = frame.loc[:, ~frame.columns.duplicated()]
    known = [c.name for c in TABLES[name] if not c.own]
    frame = frame.reindex(columns=known, fill_value="")
    key = id_column(name)
    if key and len(frame):
        taken = frame[key].duplicated() & (frame[key] != "")
        made.count(f"{name} whose id is taken", int(taken.sum()))
        frame = frame[~taken]
    return frame.reset_index(drop=True)


def numbers(texts: pd.Series) -> np.ndarray:
    """A column as numbers, NaN where it is empty or none."""
    found = pd.to_numeric(texts.to_numpy(), errors="coerce")
    return np.where(np.isfinite(found), found, np.nan).astype(np.float64)


def times(texts: pd.Series) -> np.ndarray:
    """A column as seconds since 1970 UTC, NaN where it is empty or no time."""
    found = pd.to_datetime(texts.to_numpy(), format="ISO8601", errors="coerce", utc=True)
    seconds = np.asarray(found.as_unit("ns").asi8, np.float64) / 1e9
    return np.where(np.asarray(found.isna()), np.nan, seconds)
