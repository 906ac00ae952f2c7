"""What goes wrong with a file, in one line that is safe to show."""

from __future__ import annotations

from pathlib import Path

from plumbbob.files.text import printable


class FileError(Exception):
    """A file that is not what it should be, or can't be had: which one, where in it, and why. One line."""

    def __init__(self, path: Path | str, where: str, reason: str) -> None:
        self.path = Path(path)
        self.where = where
        self.reason = reason
        place = f"{where}: " if where else ""
        super().__init__(printable(f"{self.path.name or self.path}: {place}{reason}"))
