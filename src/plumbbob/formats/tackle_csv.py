"""
The tackle box as CSV: one row a piece, `kind` and `name` first, SI units, empty cells for what is not known.

A lure may give its `sink_rate_mps` instead of `fall_area_m2`, and a lipped one its rated depth (`rated_depth_m`) on a
stated length and diameter of line (`rated_line_m`, `rated_line_diameter_m`) at a speed (`rated_speed_mps`) instead of
`lift_area_m2`. Rows that make no piece of tackle are told with their line and left out; the others are read.
"""

from __future__ import annotations

import csv
import io
import math
from collections.abc import Mapping
from dataclasses import MISSING, fields
from pathlib import Path
from typing import Any

from plumbbob.core.rig.line import RHO_FRESH, Segment
from plumbbob.core.rig.tackle import (
    PLUG,
    Board,
    Box,
    Diver,
    Item,
    LineKind,
    Lure,
    Weight,
    box_of,
    rated_fall,
    rated_lure,
)
from plumbbob.files.atomic import write_text
from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

_MOST_BYTES = 20_000_000
KINDS: dict[str, type[Item]] = {c.kind: c for c in (LineKind, Weight, Lure, Diver, Board)}
_RATED = ("sink_rate_mps", "rated_depth_m", "rated_line_m", "rated_line_diameter_m", "rated_speed_mps")
_MAY_BE_NEGATIVE = ("weight_n",)
# what tackle can be; beyond it the physics takes long for an answer that means nothing
_MOST = {
    "diameter_m": 0.02, "density": 25_000.0, "mass_kgpm": 1.0, "cn": 10.0, "cf": 1.0, "colour_m": 1000.0,
    "mass_kg": 50.0, "cd": 10.0, "weight_n": 500.0, "drag_area_m2": 1.0, "lift_area_m2": 1.0, "fall_area_m2": 1.0,
    "length_m": 3.0, "area_m2": 1.0, "cl": 10.0, "tilt_deg": 60.0, "side_area_m2": 1.0,
    "cn_sd": 1.0, "cd_sd": 1.0, "drag_sd": 1.0, "fall_sd": 1.0, "lift_sd": 1.0, "weight_sd": 1.0,
}  # fmt: skip
_LEAST = {"diameter_m": 1e-5}


def columns() -> list[str]:
    """All columns of the file, in their order."""
    names = ["kind", "name"]
    for made in KINDS.values():
        names += [f.name for f in fields(made) if f.name not in names]
    return [*names, *_RATED]


def write_tackle(path: Path, box: Box) -> int:
    """
    Write a box; says how many pieces.

    Raises
    ------
    FileError
        Where it cannot be written.
    """
    out = io.StringIO()
    writer = csv.DictWriter(out, columns(), lineterminator="\n")
    writer.writeheader()
    for item in box.all():
        writer.writerow({"kind": item.kind, **item_fields(item)})
    write_text(path, out.getvalue())
    return len(box.all())


def item_fields(item: Item) -> dict[str, Any]:
    """A piece of tackle's own values by name."""
    return {f.name: getattr(item, f.name) for f in fields(item)}


def read_tackle(path: Path) -> tuple[Box, tuple[str, ...]]:
    """
    Read a box, and a line for each row that could not be used.

    Raises
    ------
    FileError
        If it is no such file, or holds nothing that can be used.
    """
    reader = csv.DictReader(io.StringIO(read_text(path, _MOST_BYTES, encoding="utf-8-sig")))
    try:
        head = [h.strip().lower() for h in reader.fieldnames or []]
    except csv.Error as exc:
        raise FileError(path, "line 1", str(exc)) from exc
    if "kind" not in head or "name" not in head:
        raise FileError(path, "header", "needs the columns kind and name")
    reader.fieldnames = head
    items: dict[tuple[str, str], Item] = {}
    problems = []
    try:
        for row in reader:
            try:
                item = item_from({k: v for k, v in row.items() if k and isinstance(v, str)})
            except ValueError as exc:
                problems.append(f"line {reader.line_num}: {exc}")
                continue
            items[(item.kind, item.name)] = item
    except csv.Error as exc:
        raise FileError(path, f"line {reader.line_num}", str(exc)) from exc
    if not items:
        raise FileError(path, "", problems[0] if problems else "holds no tackle")
    return box_of(items), tuple(problems)


def item_from(row: Mapping[str, Any]) -> Item:
    """
    A piece of tackle from named values: text as in the file, or numbers.

    Raises
    ------
    ValueError
        With the name of the value that will not do.
    """
    kind = str(row.get("kind", "")).strip().lower()
    made = KINDS.get(kind)
    if made is None:
        raise ValueError(f"kind {kind or 'is missing'}: one of {', '.join(KINDS)} is needed")
    name = str(row.get("name", "")).strip()
    if not name:
        raise ValueError("the name is missing")
    values: dict[str, Any] = {"name": name}
    if made is Lure:
        row = {**row, **_usual_of_rated(row)}
    for field in fields(made):
        if field.name == "name":
            continue
        value = _number(row, field.name)
        if value is None:
            if field.default is MISSING:
                raise ValueError(f"{name}: {field.name} is missing")
            continue
        values[field.name] = value
    item = made(**values)
    return _rated(item, row) if isinstance(item, Lure) else item


def _usual_of_rated(row: Mapping[str, Any]) -> dict[str, float]:
    """What a lure known by its printed depth or its sink rate has of areas and weight, by its length."""
    length = _number(row, "length_m") or PLUG.length_m
    out: dict[str, float] = {}
    if _number(row, "drag_area_m2") is None:
        weight, sink = _number(row, "weight_n"), _number(row, "sink_rate_mps")
        if _number(row, "rated_depth_m") is not None:
            out["drag_area_m2"] = PLUG.drag_area_m2 * (length / PLUG.length_m) ** 2
            if weight is None:
                out["weight_n"] = PLUG.weight_n * (length / PLUG.length_m) ** 3
        elif sink and weight and weight > 0:
            out["drag_area_m2"] = 2 * weight / (RHO_FRESH * sink**2)
    return out


def _number(row: Mapping[str, Any], name: str) -> float | None:
    cell = row.get(name)
    if cell is None or (isinstance(cell, str) and not cell.strip()):
        return None
    try:
        value = float(cell)
    except (TypeError, ValueError):
        raise ValueError(f"{name} {cell!r} is not a number") from None
    most = _MOST.get(name, 1e6)
    least = -most if name in _MAY_BE_NEGATIVE else _LEAST.get(name, 0.0)
    if not math.isfinite(value) or not (least <= value <= most):
        raise ValueError(f"{name} {cell} is not possible: {least:g} to {most:g} is")
    return value


def _rated(lure: Lure, row: Mapping[str, Any]) -> Lure:
    sink = _number(row, "sink_rate_mps")
    if sink is not None and not lure.fall_area_m2:
        lure = rated_fall(lure, sink)
    depth = _number(row, "rated_depth_m")
    if depth is not None and not lure.lift_area_m2:
        length, diameter, speed = (_number(row, n) for n in _RATED[2:])
        if length is None or speed is None:
            raise ValueError(f"{lure.name}: a rated depth needs rated_line_m and rated_speed_mps")
        line = Segment(length_m=length, diameter_m=diameter or 0.28e-3, weight_npm=0.0)
        lure = rated_lure(lure, depth, line, speed)
    return lure
