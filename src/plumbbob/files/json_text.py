"""JSON from outside: bounded in size and depth, with finite numbers only."""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import Any

import numpy as np

from plumbbob.files.errors import FileError
from plumbbob.files.kinds import read_text

MOST_DEPTH = 64
_BLOCK = 1 << 20
_OPENING, _CLOSING = np.frombuffer(b"[{", np.uint8), np.frombuffer(b"]}", np.uint8)


def read_json(path: Path, most_bytes: int) -> Any:
    """
    What a JSON file holds.

    Raises
    ------
    FileError
        If it is no plain file, too large, too deep, or holds what is no JSON: 1e999 and NaN are none.
    """
    return parse_json(path, read_text(path, most_bytes, encoding="utf-8-sig"))


def parse_json(path: Path | str, text: str) -> Any:
    """What a JSON text holds; `path` is for words only. Raises FileError."""
    try:
        return loads(text)
    except ValueError as exc:
        raise FileError(path, "", f"is no JSON that can be used: {exc}") from exc


def loads(text: str) -> Any:
    """
    What a JSON text holds.

    Raises
    ------
    ValueError
        In one line, also for numbers that are not finite or have thousands of digits, and for endless nesting.
    """
    # so many brackets have to be there before they can be nested as deep
    if text.count("{") + text.count("[") > MOST_DEPTH and _depth(text) > MOST_DEPTH:
        raise ValueError(f"it is nested more than {MOST_DEPTH} deep")
    try:
        return json.loads(text, parse_float=_finite, parse_constant=_no_constant, parse_int=_integer)
    except RecursionError as exc:
        raise ValueError("it is nested too deep") from exc


def _depth(text: str) -> int:
    """Deepest nesting, strings left out; counted before parsing, which would recurse as deep."""
    plain = np.frombuffer(text.replace("\\\\", "").replace('\\"', "").encode("utf-8", "replace"), np.uint8)
    level = deepest = quotes = 0
    for start in range(0, plain.size, _BLOCK):
        block = plain[start : start + _BLOCK]
        quoted = quotes + np.cumsum(block == ord('"'))
        steps = np.isin(block, _OPENING).astype(np.int8) - np.isin(block, _CLOSING)
        levels = level + np.cumsum(np.where(quoted % 2 == 0, steps, 0))
        deepest, level, quotes = max(deepest, int(levels.max())), int(levels[-1]), int(quoted[-1])
    return deepest


def _finite(text: str) -> float:
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(f"{text[:20]} is no finite number")
    return value


def _integer(text: str) -> int | float:
    # an integer beyond exact floats is a number all the same; one of thousands of digits is none
    return int(text) if len(text) < 19 else _finite(text)


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is no number")
