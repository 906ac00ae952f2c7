"""A recording read as a whole: all its views, with what people said of the reading beside the file."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from plumbbob.core.sonar.corrections import Correction
from plumbbob.core.sonar.reading import Reading
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress


@dataclass(frozen=True, slots=True, eq=False)
class Scan:
    """A recording, its reading, and the corrections in it."""

    recording: Recording
    reading: Reading
    corrections: tuple[Correction, ...]


def scan_recording(path: Path, *, as_read: bool = False, progress: Progress = lambda fraction: None) -> Scan:
    """
    Read a recording and all there is to see in it.

    Parameters
    ----------
    path : Path
    as_read : bool
        Leave the corrections beside the file out.

    Raises
    ------
    FileError
        With one line, if recording or corrections cannot be read.
    """
    from plumbbob.core.sonar.view_corrections import corrected
    from plumbbob.core.sonar.views import read_views
    from plumbbob.formats.any_recording import read_any

    recording = read_any(path)
    said = () if as_read else said_of(path)
    return Scan(recording, corrected(read_views(recording, progress=progress), said, recording), said)


def said_of(path: Path) -> tuple[Correction, ...]:
    """What was said of a recording before; it lies beside the file. Raises FileError if it cannot be read."""
    from plumbbob.formats.corrections import beside, read_corrections

    return tuple(read_corrections(beside(path)))
