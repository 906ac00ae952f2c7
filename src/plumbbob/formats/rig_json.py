"""Rods, answers and notes as plain JSON values: what `plumbbob rig` reads and prints, and what the program keeps."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.core.rig.rod import (
    DRIFT_MPS,
    FAMILY,
    SLOTS,
    Amount,
    CannotReach,
    Family,
    Method,
    RigAnswer,
    RigSettings,
    Zero,
    default_setup,
)
from plumbbob.core.rig.tackle import DEFAULT_BOX, Box, Item
from plumbbob.formats.checked import number_from
from plumbbob.formats.tackle_csv import item_fields, item_from
from plumbbob.wording.rig import rig_words

_SLOT_KINDS = {
    "line": "line",
    "leader": "line",
    "core": "line",
    "wire": "line",
    "ball": "weight",
    "sinker": "weight",
    "lure": "lure",
    "diver": "diver",
    "board": "board",
}
_MOST_LEVELS = 200
ALL_SLOTS = tuple(_SLOT_KINDS)


def slot_kind(slot: str) -> str:
    """Which kind of tackle fits a place of the rod."""
    return _SLOT_KINDS[slot]


def rod_json(rod: RigSettings) -> dict[str, Any]:
    """Everything of a rod: numbers by name, tackle in full."""
    out: dict[str, Any] = {"method": rod.method.value}
    for field in fields(rod):
        value = getattr(rod, field.name)
        if field.name in _SLOT_KINDS:
            out[field.name] = {"kind": value.kind, **item_fields(value)}
        elif field.name == "current":
            out[field.name] = [list(pair) for pair in value]
        elif field.name == "zero":
            out[field.name] = value.name.lower()
        elif field.name != "method":
            out[field.name] = value
    return out


def rod_from(data: Mapping[str, Any], box: Box = DEFAULT_BOX) -> RigSettings:
    """
    A rod from named values; what is not said is as usual for its way. Tackle is given by name, or in full.

    Raises
    ------
    ValueError
        With the name of the value that will not do.
    """
    if not isinstance(data, Mapping):
        raise ValueError("a rod is an object of named values")
    method = _method(data.get("method", Method.DOWNRIGGER.value))
    made = default_setup(RigSettings(method=method), method)
    changes: dict[str, Any] = {}
    for field in fields(RigSettings):
        if field.name == "method" or field.name not in data:
            continue
        value = data[field.name]
        if field.name in _SLOT_KINDS:
            changes[field.name] = _tackle(field.name, value, box)
        elif field.name == "current":
            changes[field.name] = _current(value)
        elif field.name == "zero":
            changes[field.name] = _zero(value)
        else:
            number = number_from(field.name, value)
            changes[field.name] = round(max(min(number, 1e6), -1e6)) if field.name in ("setting", "hooks") else number
    if FAMILY[method] is Family.VERTICAL and "speed_mps" not in data:
        changes["speed_mps"] = DRIFT_MPS
    start = {f.name: getattr(made, f.name) for f in fields(RigSettings)}
    return RigSettings(**{**start, **changes})


def _method(value: Any) -> Method:
    for name, method in Method.__members__.items():
        if str(value).strip().lower() in (method.value, name.lower()):
            return method
    raise ValueError(f"method {value!r}: one of {', '.join(m.value for m in Method)} is needed")


def _zero(value: Any) -> Zero:
    for zero in Zero:
        if value == zero.name.lower():
            return zero
    raise ValueError(f"zero {value!r}: surface or tip is needed")


def kept_rod(data: Mapping[str, Any], box: Box = DEFAULT_BOX) -> RigSettings:
    """A rod as it was kept; before rods had a zero of their own, they were counted from the tip."""
    return rod_from({"zero": Zero.TIP.name.lower(), **data}, box)


def _current(value: Any) -> tuple[tuple[float, float], ...]:
    try:
        pairs = tuple((number_from("current", d), number_from("current", v)) for d, v in value)
        if len(pairs) > _MOST_LEVELS:
            raise ValueError(f"current has {len(pairs)} depths; at most {_MOST_LEVELS} are used")
        return pairs
    except TypeError as exc:
        raise ValueError("current is a list of [depth, speed]") from exc


def _tackle(slot: str, value: Any, box: Box) -> Item:
    kind = _SLOT_KINDS[slot]
    if isinstance(value, Mapping):
        item = item_from({**value, "kind": kind})
        return item
    found = box.find(kind, str(value))
    if found is None:
        raise ValueError(f"{slot} {value!r} is not in the tackle box")
    return found


def answer_json(answer: RigAnswer | CannotReach) -> dict[str, Any]:
    """An answer; one that cannot be had gives its reason and the nearest depth."""
    if isinstance(answer, CannotReach):
        return {
            "reachable": False,
            "method": answer.method.value,
            "reason": rig_words(answer.reason),
            "nearest_depth_m": answer.nearest_depth_m,
        }
    unit = "s" if answer.amount is Amount.COUNT else "m"
    out: dict[str, Any] = {
        "reachable": True,
        "method": answer.method.value,
        "amount": answer.amount.value,
        f"value_{unit}": answer.value,
        "depth_m": answer.depth_m,
        "depth_sd_m": answer.depth_sd_m,
        "layback_m": answer.layback_m,
        "aside_m": answer.aside_m,
        "angle_from_vertical_deg": answer.angle_deg,
        "tension_n": answer.tension_n,
        "shape": [list(p) for p in answer.shape],
    }
    if answer.ball is not None:
        out["weight_at"] = list(answer.ball)
    if answer.hooks:
        out["hooks"] = [list(p) for p in answer.hooks]
    if answer.band is not None:
        out["band_m"] = list(answer.band)
    if answer.extras:
        out["extras"] = {e.name: e.value for e in answer.extras}
    if answer.cautions:
        out["cautions"] = [rig_words(c) for c in answer.cautions]
    return out


def note_json(note: RigNote) -> dict[str, Any]:
    """A note with the rod as it was."""
    return {
        "told": note.told.value,
        "depth_m": note.depth_m,
        "value": note.value,
        "time": None if math.isnan(note.time) else note.time,
        "words": note.words,
        "rod": rod_json(note.rod),
    }


def note_from(data: Mapping[str, Any], box: Box = DEFAULT_BOX, *, note_id: int = 0) -> RigNote:
    """
    A note from named values.

    Raises
    ------
    ValueError
        With what will not do.
    """
    if not isinstance(data, Mapping) or "rod" not in data:
        raise ValueError("a note is an object with a rod, a depth_m and a value")
    told = next((t for t in Told if t.value == data.get("told", Told.AT.value)), None)
    if told is None:
        raise ValueError(f"told {data.get('told')!r}: one of {', '.join(t.value for t in Told)} is needed")
    time = data.get("time")
    return RigNote(
        id=note_id,
        time=math.nan if time is None else number_from("time", time),
        rod=rod_from(data["rod"], box),
        told=told,
        depth_m=number_from("depth_m", data.get("depth_m")),
        value=number_from("value", data.get("value")),
        words=str(data.get("words", "")),
    )


def uses(rod: RigSettings) -> tuple[str, ...]:
    """The places of tackle its way uses."""
    return SLOTS[rod.method]
