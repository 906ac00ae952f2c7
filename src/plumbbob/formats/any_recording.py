"""Recordings of every kind that can be read, and written by their file's ending."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress
from plumbbob.files.errors import FileError
from plumbbob.formats.registry import Content, endings_of, format_of, formats_of


def read_any(path: Path, *, progress: Progress = lambda _: None) -> Recording:
    """
    Open a recording of any kind.

    Raises
    ------
    FileError
        One line.
    """
    found = format_of(path, Content.RECORDING)
    assert found.read is not None
    recording: Recording = found.read(path, progress)
    return recording


def write_any(path: Path, recording: Recording, *, inputs: Iterable[Path] = ()) -> int:
    """
    Write a recording as its file's ending says; returns the pings of its longest view.

    Raises
    ------
    FileError
        One line.
    """
    for found in formats_of(Content.RECORDING):
        if found.write is not None and path.suffix.lower() in found.endings:
            return found.write(path, recording, inputs)
    raise FileError(path, "", f"a recording is written as one of {', '.join(endings_of(Content.RECORDING))}")
