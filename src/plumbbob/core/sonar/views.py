"""Reads every view a recording has."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import Reading
from plumbbob.core.sonar.recording import Recording


def read_views(recording: Recording, *, progress: Callable[[float], None] = lambda _: None) -> Reading:
    """
    What can be told from all views of a recording; the down view is read first, since it tells the others the depth.

    Parameters
    ----------
    recording : Recording
    progress : callable
        Hears the share done, 0 to 1; may raise to stop.
    """
    views = [v for v in (recording.down, recording.side, recording.forward) if v is not None]
    done = 0

    def share(fraction: float) -> None:
        progress((done + fraction) / max(len(views), 1))

    reading = read_down(recording, progress=share)
    done += recording.down is not None
    if recording.side is not None:
        from plumbbob.core.sonar.side import read_side

        reading = replace(reading, side=read_side(recording, reading.bottom, progress=share))
        done += 1
    if recording.forward is not None:
        from plumbbob.core.sonar.forward import read_forward

        reading = replace(reading, ahead=read_forward(recording, progress=share))
    return reading
