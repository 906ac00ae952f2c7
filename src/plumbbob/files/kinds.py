"""Kinds of files: only plain files are read, and never more of one than its reader can use."""

from __future__ import annotations

import os
import stat
from pathlib import Path

from plumbbob.files.errors import FileError
from plumbbob.files.text import why

_KINDS = (
    (stat.S_ISDIR, "is a folder"),
    (stat.S_ISFIFO, "is a pipe"),
    (stat.S_ISSOCK, "is a socket"),
    (stat.S_ISCHR, "is a device"),
    (stat.S_ISBLK, "is a device"),
)


def not_plain(mode: int) -> str:
    """Why a thing of this mode is no plain file; empty if it is one."""
    return next((words for test, words in _KINDS if test(mode)), "" if stat.S_ISREG(mode) else "is no plain file")


def plain_file(path: Path, most_bytes: int | None = None) -> int:
    """
    Make sure that this is a plain file, and say its size. Nothing is opened: opening a pipe would wait for ever.

    Raises
    ------
    FileError
        If it is missing, another kind of thing, or larger than `most_bytes`.
    """
    try:
        facts = os.stat(path)
    except (OSError, ValueError) as exc:
        missing = isinstance(exc, FileNotFoundError)
        raise FileError(path, "", "no such file" if missing else why(exc)) from exc
    odd = not_plain(facts.st_mode)
    if odd:
        raise FileError(path, "", f"{odd}, not a file that can be read")
    if most_bytes is not None and facts.st_size > most_bytes:
        raise FileError(path, "", f"is {_words(facts.st_size)}; at most {_words(most_bytes)} are read")
    return facts.st_size


def read_text(path: Path, most_bytes: int, *, encoding: str = "utf-8") -> str:
    """
    A plain file's text.

    Raises
    ------
    FileError
        If it is no plain file, too large, or no text in this encoding.
    """
    plain_file(path, most_bytes)
    try:
        return path.read_text(encoding=encoding)
    except OSError as exc:
        raise FileError(path, "", why(exc)) from exc
    except UnicodeDecodeError as exc:
        raise FileError(path, "", "is no text in UTF-8") from exc


def _words(size: int) -> str:
    return f"{size / 1e6:.0f} MB" if size >= 1e6 else f"{size / 1e3:.0f} kB"
