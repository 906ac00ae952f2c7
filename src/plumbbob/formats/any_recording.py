"""Recordings by their file's ending: netCDF-4, or XTF for a view to the sides."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path

from plumbbob.core.sonar.recording import Recording
from plumbbob.formats.recording import read_recording, write_recording


def read_any(path: Path, *, progress: Callable[[float], None] = lambda _: None) -> Recording:
    """
    Open a recording of either kind.

    Raises
    ------
    FileError
        One line.
    """
    if path.suffix.lower() == ".xtf":
        from plumbbob.formats.xtf import read_xtf

        return read_xtf(path, progress=progress)
    return read_recording(path)


def write_any(path: Path, recording: Recording, *, inputs: Iterable[Path] = ()) -> int:
    """Write a recording as its file's ending says; returns the pings of its longest view."""
    if path.suffix.lower() == ".xtf":
        from plumbbob.formats.xtf import write_xtf

        return write_xtf(path, recording, inputs=inputs)
    write_recording(path, recording, source="converted", inputs=inputs)
    return max((len(v) for v in (recording.down, recording.side, recording.forward) if v is not None), default=0)
