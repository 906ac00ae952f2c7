"""What goes wrong with files, in words for the person who opened them."""

from __future__ import annotations

from pathlib import Path


class FormatError(Exception):
    """A file that is not what it should be: which file, where in it, and why. One line."""

    def __init__(self, path: Path | str, where: str, reason: str) -> None:
        self.path = Path(path)
        self.where = where
        self.reason = reason
        place = f"{where}: " if where else ""
        super().__init__(f"{self.path.name}: {place}{reason}")
