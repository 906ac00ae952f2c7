"""Corrections of a reading: a small JSON file beside the recording, `NAME.corrections.json`, never inside it."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import asdict, fields
from pathlib import Path
from typing import Any

from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.formats.errors import FormatError

FORMAT = "plumbbob-corrections"
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
    text = json.dumps({"format": FORMAT, "version": 1, "corrections": rows}, indent=1)
    partial = path.with_name(path.name + ".part")
    try:
        partial.write_text(text + "\n", encoding="utf-8")
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def read_corrections(path: Path) -> tuple[Correction, ...]:
    """
    What was said of a recording; nothing where there is no file.

    Raises
    ------
    FormatError
        Where the file is damaged or another one; it is left as it is.
    """
    if not path.is_file():
        return ()
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FormatError(path, "", "far too large for corrections")
        data = json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as exc:
        raise FormatError(path, "", "not readable as JSON") from exc
    if not isinstance(data, dict) or data.get("format") != FORMAT or not isinstance(data.get("corrections"), list):
        raise FormatError(path, "format", f"is not {FORMAT}")
    return tuple(_one(path, i, row) for i, row in enumerate(data["corrections"]))


def _one(path: Path, number: int, row: Any) -> Correction:
    where = f"correction {number + 1}"
    if not isinstance(row, dict):
        raise FormatError(path, where, "is no object")
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
        raise FormatError(path, where, f"can't be used: {exc}") from exc
