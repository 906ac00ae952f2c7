"""How things are shown: units, light, text size. Remembered between starts."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.units import Kind, System, number, quantity, spread
from plumbbob.desk.models.settings import number_of, text_of
from plumbbob.desk.theme import THEMES, Light, Theme

_Choice = TypeVar("_Choice", System, Light)
TEXT_SIZES = (9.0, 10.0, 11.0, 12.5, 14.0, 16.0)
DEFAULT_TEXT_SIZE = 10.0


class Display(QObject):
    """Units, theme and text size, with words for numbers in the chosen units."""

    changed = Signal()

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self._system = _chosen(System, text_of(settings, "units"), System.US)
        self._light = _chosen(Light, text_of(settings, "light"), Light.DUSK)
        size = number_of(settings, "text_size", DEFAULT_TEXT_SIZE, TEXT_SIZES[0], TEXT_SIZES[-1])
        self._text_size = size if size in TEXT_SIZES else DEFAULT_TEXT_SIZE

    @property
    def system(self) -> System:
        """System of units on screen."""
        return self._system

    @property
    def theme(self) -> Theme:
        """Colours on screen."""
        return THEMES[self._light]

    @property
    def light(self) -> Light:
        """The light the theme is made for."""
        return self._light

    @property
    def text_size(self) -> float:
        """Point size of plain text."""
        return self._text_size

    def set_system(self, system: System) -> None:
        """Choose units."""
        if system != self._system:
            self._system = system
            self._settings.setValue("units", system.value)
            self.changed.emit()

    def set_light(self, light: Light) -> None:
        """Choose a theme."""
        if light != self._light:
            self._light = light
            self._settings.setValue("light", light.value)
            self.changed.emit()

    def step_text_size(self, steps: int) -> None:
        """Larger or smaller text."""
        i = min(max(TEXT_SIZES.index(self._text_size) + steps, 0), len(TEXT_SIZES) - 1)
        if TEXT_SIZES[i] != self._text_size:
            self._text_size = TEXT_SIZES[i]
            self._settings.setValue("text_size", self._text_size)
            self.changed.emit()

    def next_system(self) -> None:
        """The next system of units."""
        systems = list(System)
        self.set_system(systems[(systems.index(self._system) + 1) % len(systems)])

    def next_light(self) -> None:
        """The next theme."""
        lights = list(Light)
        self.set_light(lights[(lights.index(self._light) + 1) % len(lights)])

    def figure(self, value: float | None, kind: Kind, decimals: int | None = None) -> str:
        """A bare number in the chosen units."""
        return number(value, kind, self._system, decimals)

    def words(self, value: float | None, kind: Kind, decimals: int | None = None) -> str:
        """A number with its unit."""
        return quantity(value, kind, self._system, decimals)

    def place(self, place: Position | None) -> str:
        """A position as written."""
        return "no position" if place is None else write_position(place)

    def spread(self, sd: float, kind: Kind) -> str:
        """A standard deviation as ± and a figure."""
        return spread(sd, kind, self._system)


def _chosen(kind: type[_Choice], value: object, default: _Choice) -> _Choice:
    try:
        return kind(value)
    except ValueError:
        return default
