"""Reads every view a recording has."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import Bottom, ForwardReading, Reading, SideReading
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
    more = recording.side is not None or recording.forward is not None
    reading = read_down(recording, progress=lambda share: progress(share / (2 if more else 1)))
    if not more:
        return reading
    side, ahead = read_others(recording, reading.bottom, progress=lambda share: progress(0.5 + share / 2))
    return replace(reading, side=side, ahead=ahead)


def read_others(
    recording: Recording, bottom: Bottom | None, *, progress: Callable[[float], None] = lambda _: None
) -> tuple[SideReading | None, ForwardReading | None]:
    """What the views to the side and ahead tell, given the bottom that the down view found."""
    from plumbbob.core.sonar.forward import read_forward
    from plumbbob.core.sonar.side import read_side

    side = read_side(recording, bottom, progress=lambda share: progress(share / 2))
    return side, read_forward(recording, progress=lambda share: progress(0.5 + share / 2))
