"""Corrections of a reading: a small JSON file beside the recording, `NAME.corrections.json`, never inside it."""

from __future__ import annotations

import json
import math
import os
from collections.abc import Sequence
from dataclasses import asdict, fields
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.json_text import read_json

FORMAT, VERSION = "plumbbob-corrections", 1
_MOST_BYTES = 50_000_000
_NUMBERS = tuple(f.name for f in fields(Correction) if f.type == "float")


def beside(recording: Path) -> Path:
    """Where the corrections of a recording are."""
    return recording.with_name(recording.name + ".corrections.json")


def write_corrections(path: Path, corrections: Sequence[Correction]) -> None:
    """Write them all; the file appears whole or not at all. No corrections: no file."""
    if not corrections:
        path.unlink(missing_ok=True)
        return
    rows = [{**asdict(c), "act": c.act.value} for c in corrections]
    text = json.dumps({"format": FORMAT, "version": VERSION, "corrections": rows}, indent=1)
    write_text(path, text + "\n")


def read_corrections(path: Path) -> tuple[Correction, ...]:
    """
    What was said of a recording; nothing where there is no file.

    Raises
    ------
    FileError
        Where the file is damaged or another one; it is left as it is.
    """
    if not os.path.lexists(path):
        return ()
    data = read_json(path, _MOST_BYTES)
    if not isinstance(data, dict) or data.get("format") != FORMAT or not isinstance(data.get("corrections"), list):
        raise FileError(path, "format", f"is not {FORMAT}")
    if data.get("version") != VERSION:
        there = data.get("version")
        raise FileError(path, "version", f"is {there!r}, which needs another program; this one reads {VERSION}")
    return tuple(_one(path, i, row) for i, row in enumerate(data["corrections"]))


def _one(path: Path, number: int, row: Any) -> Correction:
    where = f"correction {number + 1}"
    if not isinstance(row, dict):
        raise FileError(path, where, "is no object")
    try:
        numbers = {name: float(row.get(name, 0.0)) for name in _NUMBERS}
        points = tuple((float(t), float(d)) for t, d in row.get("points", ()))
        if not all(math.isfinite(v) for v in (*numbers.values(), *(v for p in points for v in p))):
            raise ValueError("a number is not finite")
        return Correction(
            act=Act(row.get("act")),
            what=str(row.get("what", "fish")),
            label=str(row.get("label", "")),
            points=points,
            **numbers,
        )
    except (TypeError, ValueError, OverflowError) as exc:
        raise FileError(path, where, f"can't be used: {exc}") from exc
