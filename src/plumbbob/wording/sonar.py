"""The words of sonar: what a picture of a screen still needs, and what is assumed of it."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.sonar.picture import Looks, Missing
from plumbbob.core.sonar.reading import SideReason
from plumbbob.wording import tr

PHRASES: dict[Enum, str] = {
    Missing.SURFACE: "the surface",
    Missing.BOAT_LINE: "the boat's line",
    Missing.DEPTH: "a depth of the scale",
    Missing.RANGE: "a range of the scale",
    SideReason.STANDS_OUT: "stands out from this ground",
    SideReason.LENGTH: "as short as the fan shows a fish",
    SideReason.THICKNESS: "as thin as one fish",
    SideReason.SURROUNDINGS: "nothing like it about it",
    SideReason.SHADOW: "a shadow of its own",
    SideReason.EVEN: "alike from ping to ping, as one body",
    SideReason.FIRST_RETURN: "clear of the first return",
    SideReason.IN_WATER: "nearer than the bottom, dark water between",
    Looks.DOWN: "from a picture: its beam is taken as 20°, its levels are the colours'",
    Looks.SIDES: "from a picture: its fan is taken as 1° thin, its levels are the colours'",
}

AGAINST: dict[SideReason, str] = {
    SideReason.STANDS_OUT: "this ground is about as bright by itself",
    SideReason.LENGTH: "longer or shorter along the way than a fish shows",
    SideReason.THICKNESS: "thicker than one fish",
    SideReason.SURROUNDINGS: "other bright things about it",
    SideReason.SHADOW: "a shadow wider than a fish's",
    SideReason.EVEN: "uneven from ping to ping, as bottom is",
    SideReason.FIRST_RETURN: "at the bottom's first return",
    SideReason.IN_WATER: "joined to the bottom",
}


def side_reason(reason: SideReason, *, speaks_for: bool) -> str:
    """What speaks for a fish, or for a stone."""
    return tr(PHRASES[reason] if speaks_for else AGAINST[reason])


def missing_words(missing: Missing) -> str:
    """What has to be marked next."""
    return tr(PHRASES[missing])


def assumed_words(looks: Looks) -> str:
    """What a recording made from a picture takes for granted."""
    return tr(PHRASES[looks])
