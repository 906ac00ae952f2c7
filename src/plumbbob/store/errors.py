"""What goes wrong with the log, in one plain line."""

from __future__ import annotations

import sqlite3

from plumbbob.files.text import printable


class StoreError(Exception):
    """The log could not be opened, read or written. What the line says of what was saved is so."""

    def __init__(self, line: str) -> None:
        super().__init__(printable(line))


_REASONS: tuple[tuple[tuple[str, ...], str], ...] = (
    (("full",), "the disk is full. Nothing was changed; make room and try again."),
    (("locked", "busy"), "another program holds it. Nothing was changed; close that program and try again."),
    (("readonly", "read-only"), "it may not be written to. Nothing was changed."),
    (("unable to open",), "it may not be opened. Nothing was changed."),
    (("constraint",), "what was to be saved does not fit it. Nothing was changed."),
    (("malformed", "not a database", "corrupt", "decode"), "it is damaged. Nothing was changed."),
)


def plainly(exc: BaseException | None) -> str:
    """Why SQLite would not, and what became of what was to be saved."""
    text = str(exc).lower()
    for words, reason in _REASONS:
        if any(w in text for w in words):
            return reason
    if isinstance(exc, sqlite3.OperationalError) and "i/o" in text:
        # the last step may or may not have reached the disk: only the next opening tells
        return "the disk did not answer. Whether it was saved shows when the log is opened again."
    return f"{exc}. Nothing was changed."
