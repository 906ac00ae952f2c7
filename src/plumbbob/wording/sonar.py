"""The words of sonar: what a picture of a screen still needs, and what is assumed of it."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.sonar.picture import Looks, Missing
from plumbbob.wording import tr

PHRASES: dict[Enum, str] = {
    Missing.SURFACE: "the surface",
    Missing.BOAT_LINE: "the boat's line",
    Missing.DEPTH: "a depth of the scale",
    Missing.RANGE: "a range of the scale",
    Looks.DOWN: "from a picture: its beam is taken as 20°, its levels are the colours'",
    Looks.SIDES: "from a picture: its fan is taken as 1° thin, its levels are the colours'",
}


def missing_words(missing: Missing) -> str:
    """What has to be marked next."""
    return tr(PHRASES[missing])


def assumed_words(looks: Looks) -> str:
    """What a recording made from a picture takes for granted."""
    return tr(PHRASES[looks])
