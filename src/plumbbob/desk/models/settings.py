"""What is remembered between starts. A file that was damaged or edited by hand falls back one value at a time."""

from __future__ import annotations

import contextlib
import json
import math
import os
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QSettings

from plumbbob.files.atomic import PRIVATE_FILE, keep_private

_MOST_TEXT = 1_000_000


def open_settings(path: Path) -> QSettings:
    """The settings in a file that only its owner may read."""
    with contextlib.suppress(OSError):
        # made here first: what Qt makes, all may read
        os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY, PRIVATE_FILE))
    keep_private(path)
    return QSettings(str(path), QSettings.Format.IniFormat)


def _value(settings: QSettings, key: str) -> object:
    try:
        return settings.value(key)
    except Exception:
        # a value whose stored kind Qt or Python does not know
        return None


def text_of(settings: QSettings, key: str, default: str = "") -> str:
    """A remembered text."""
    value = _value(settings, key)
    return value if isinstance(value, str) and len(value) <= _MOST_TEXT else default


def number_of(settings: QSettings, key: str, default: float, low: float, high: float) -> float:
    """A remembered number within bounds; the default where it is none."""
    value = _value(settings, key)
    try:
        number = float(str(value)) if value is not None else default
    except ValueError:
        return default
    return number if math.isfinite(number) and low <= number <= high else default


def bytes_of(settings: QSettings, key: str) -> QByteArray | None:
    """Remembered bytes, such as a window's place."""
    value = _value(settings, key)
    return value if isinstance(value, QByteArray) else None


def json_of(settings: QSettings, key: str) -> Any:
    """A remembered JSON value; None where there is none that can be read."""
    from plumbbob.files.json_text import loads

    try:
        return loads(text_of(settings, key, "null"))
    except ValueError:
        return None


def keep_json(settings: QSettings, key: str, value: Any) -> None:
    """Remember a JSON value."""
    settings.setValue(key, json.dumps(value))


def kept_window(settings: QSettings, water: str) -> tuple[float, float] | None:
    """The depth window last used on a water."""
    pair = json_of(settings, f"view/window/{water}")
    if isinstance(pair, list) and len(pair) == 2 and all(isinstance(v, int | float) and 0 <= v < 1000 for v in pair):
        return float(min(pair)), float(max(pair))
    return None
