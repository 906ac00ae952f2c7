"""Files of the log, beside it, under the name of their bytes: written whole before a row speaks of them."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from plumbbob.files.atomic import private_folder, writing
from plumbbob.files.errors import FileError
from plumbbob.files.text import why

_BLOCK = 1 << 20


class FilesBeside:
    """Needs the path of the log. A file that no row speaks of does no harm."""

    def __init__(self, log: Path) -> None:
        self.folder = log.with_name(f"{log.stem}.files")

    def path_of(self, sha256: str) -> Path:
        """Where the bytes of a name lie."""
        return self.folder / sha256[:2] / sha256

    def keep(self, source: BinaryIO, most: int) -> tuple[str, int]:
        """
        Keep a file's bytes, at most so many; their name and size.

        Raises
        ------
        FileError
            If there are more, or they can't be kept.
        """
        digest, size = hashlib.sha256(), 0
        try:
            private_folder(self.folder)
            with writing(self.folder / "coming", private=True) as fresh:
                with fresh.open("wb") as out:
                    while block := source.read(_BLOCK):
                        size += len(block)
                        if size > most:
                            raise FileError("file", "", "is larger than it says")
                        digest.update(block)
                        out.write(block)
                target = self.path_of(digest.hexdigest())
                private_folder(target.parent)
            os.replace(self.folder / "coming", target)
        except OSError as exc:
            raise FileError(self.folder, "", f"could not be written: {why(exc)}") from exc
        return digest.hexdigest(), size

    @contextmanager
    def opened(self, sha256: str) -> Iterator[BinaryIO]:
        """The bytes of a name; raises FileError if they are gone."""
        try:
            with self.path_of(sha256).open("rb") as file:
                yield file
        except OSError as exc:
            raise FileError(self.path_of(sha256), "", why(exc)) from exc
