"""Charts and cards of items as images in the colours, units and text size of the screen."""

from __future__ import annotations

import re

from PySide6.QtGui import QImage

from plumbbob.core.units import Kind, System, lead
from plumbbob.desk.models.display import Display
from plumbbob.desk.practice.model import Shown
from plumbbob.desk.theme import Theme
from plumbbob.services.practice_cards import Palette, card_png, chart_png, drawing_png, pixel_of
from plumbbob.sim.lesson import Drawing

_QUANTITY = re.compile(r"(\d+(?:\.\d+)?) (m/s|m\b|cm\b|kg\b|g\b|°C)")
_KINDS = {"m": (Kind.DEPTH, 1.0), "m/s": (Kind.SPEED, 1.0), "cm": (Kind.FISH, 0.01), "kg": (Kind.WEIGHT, 1.0)}
_TEXT_PX = 1.9  # of a card, times the text on screen

Letters = tuple[tuple[str, float, float], ...]  # letter, and its place on the image in pixels


def in_units(text: str, display: Display) -> str:
    """A sentence of an item in the units on screen."""
    plain = text.replace(", in metres", "").replace(", and metres deep", ", and how deep")
    return _QUANTITY.sub(lambda found: _shown(float(found[1]), found[2], display), plain)


def _shown(value: float, unit: str, display: Display) -> str:
    if unit == "g":
        return lead(value / 1000.0, display.system_of(Kind.WEIGHT))
    if unit == "°C":
        return display.words(value, Kind.TEMPERATURE)
    kind, si = _KINDS[unit]
    return display.words(value * si, kind)


def _palette(theme: Theme) -> Palette:
    return Palette(
        depth=theme.depth,
        land=theme.land,
        ground=theme.ground,
        ink=theme.ink,
        mark=theme.vermilion,
        bar=theme.brass,
        rule=theme.rule,
    )


def _feet(display: Display) -> bool:
    return display.system_of(Kind.DEPTH) is System.US


def image_of(shown: Shown, display: Display) -> tuple[QImage | None, Letters]:
    """The chart or card of an item and the letters on it; None for a pass."""
    one = shown.lesson
    if shown.card is not None:
        return QImage(str(shown.card)), shown.letters
    if one.chart is not None:
        png = chart_png(one.chart, feet=_feet(display), palette=_palette(display.theme))
        return QImage.fromData(png), tuple((a, *pixel_of(one.chart, x, y)) for a, x, y in one.chart.places)
    if shown.recording is None:
        png = card_png(
            one,
            size=_TEXT_PX * display.text_size,
            words=lambda text: in_units(text, display),
            palette=_palette(display.theme),
        )
        return QImage.fromData(png), ()
    return None, ()


def image_of_drawing(one: Drawing, display: Display, width: int, height: int) -> QImage:
    """The small drawing that goes with the truth."""
    png = drawing_png(
        one,
        width=width,
        height=height,
        size=1.1 * display.text_size,
        feet=_feet(display),
        palette=_palette(display.theme),
    )
    return QImage.fromData(png)
