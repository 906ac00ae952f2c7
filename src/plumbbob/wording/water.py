"""The words of the water and the sky: wind, the cold layer's tilt, the moon."""

from __future__ import annotations

from enum import Enum

from plumbbob.core.water.sun import moon_eighth
from plumbbob.core.water.wind import TiltState, WindCaution
from plumbbob.wording import tr

PHRASES: dict[Enum, str] = {
    WindCaution.ASHORE: "Strong for a small boat, and gusts are half as strong again: better ashore.",
    WindCaution.MIND: "Mind the wind: gusts are half as strong again. Jacket worn, lee shore in reach.",
    TiltState.HARDLY: "hardly tilted",
    TiltState.TILTED: "tilted",
    TiltState.STRONGLY: "strongly tilted; the estimate is rough",
    TiltState.SURFACING: "cold water may surface upwind; the estimate no longer holds",
}
MOON = (
    "new moon",
    "waxing crescent",
    "first quarter",
    "waxing moon",
    "full moon",
    "waning moon",
    "last quarter",
    "waning crescent",
)


def wind_words(caution: WindCaution | None) -> str:
    """A sentence where the wind is worth one."""
    return "" if caution is None else tr(PHRASES[caution])


def tilt_words(state: TiltState) -> str:
    """How far the cold layer leans."""
    return tr(PHRASES[state])


def moon_words(phase: float) -> str:
    """
    The phase in words.

    Examples
    --------
    >>> moon_words(0.0), moon_words(0.5)
    ('new moon', 'full moon')
    """
    return tr(MOON[moon_eighth(phase)])
