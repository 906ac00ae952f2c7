"""Files that were opened lately, the last first."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings

from plumbbob.desk.models.settings import json_of, keep_json

MOST = 12
_SETTING = "recent"


def recent_files(settings: QSettings) -> list[Path]:
    """Those that are still there."""
    kept = json_of(settings, _SETTING)
    rows = [Path(p) for p in kept if isinstance(p, str)] if isinstance(kept, list) else []
    return [p for p in rows[:MOST] if p.is_file()]


def remember_file(settings: QSettings, path: Path) -> None:
    """Put a file at the head of the list."""
    kept = json_of(settings, _SETTING)
    rows = [p for p in kept if isinstance(p, str)] if isinstance(kept, list) else []
    keep_json(settings, _SETTING, [str(path), *(p for p in rows if p != str(path))][:MOST])
