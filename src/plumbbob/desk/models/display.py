"""How things are shown: units, light, text size. Remembered between starts."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.geodesy import Position, write_position
from plumbbob.core.units import Kind, System, number, quantity, spread, to_shown, unit_of
from plumbbob.desk.models.settings import number_of, text_of
from plumbbob.desk.theme import THEMES, Light, Theme
from plumbbob.formats.species import species_names

_Choice = TypeVar("_Choice", System, Light)
TEXT_SIZES = (9.0, 10.0, 11.0, 12.5, 14.0, 16.0, 18.0, 20.0)
DEFAULT_TEXT_SIZE = 10.0


class Display(QObject):
    """Units, theme and text size, with words for numbers in the chosen units."""

    changed = Signal()

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self._system = _chosen(System, text_of(settings, "units"), System.US)
        self._own = {
            kind: _chosen(System, text_of(settings, f"unit/{kind.name}"), self._system)
            for kind in Kind
            if text_of(settings, f"unit/{kind.name}")
        }
        self.motion = text_of(settings, "motion", "on") != "off"
        self.by_hour = text_of(settings, "light_by_hour") == "on"
        self._light = _chosen(Light, text_of(settings, "light"), Light.DUSK)
        self._language = text_of(settings, "species_language")
        size = number_of(settings, "text_size", DEFAULT_TEXT_SIZE, TEXT_SIZES[0], TEXT_SIZES[-1])
        self._text_size = size if size in TEXT_SIZES else DEFAULT_TEXT_SIZE

    @property
    def system(self) -> System:
        """System of units on screen."""
        return self._system

    def system_of(self, kind: Kind) -> System:
        """The system a quantity is shown in: its own where one was chosen, else that of all."""
        return self._own.get(kind, self._system)

    @property
    def units(self) -> tuple[System, ...]:
        """The system of every quantity."""
        return tuple(self.system_of(kind) for kind in Kind)

    def set_unit(self, kind: Kind, system: System | None) -> None:
        """A system of its own for one quantity; None: as all."""
        if self._own.get(kind) is system:
            return
        self._own.pop(kind, None)
        if system is None:
            self._settings.remove(f"unit/{kind.name}")
        else:
            self._own[kind] = system
            self._settings.setValue(f"unit/{kind.name}", system.value)
        self.changed.emit()

    def own_unit(self, kind: Kind) -> System | None:
        """The system that was chosen for one quantity, if any."""
        return self._own.get(kind)

    def set_motion(self, on: bool) -> None:
        """Whether anything moves by itself on screen."""
        self.motion = on
        self._settings.setValue("motion", "on" if on else "off")
        self.changed.emit()

    @property
    def species_language(self) -> str:
        """The language species are named in; empty for English, that of the table."""
        return self._language if self._language in species_names() else ""

    def set_species_language(self, language: str) -> None:
        """One of `species_names`, or empty."""
        self._language = language
        self._settings.setValue("species_language", language)
        self.changed.emit()

    def species(self, name: str) -> str:
        """What a species of the table is called in the chosen language; any other name stays as it is."""
        return species_names().get(self._language, {}).get(name, name)

    def species_typed(self, text: str) -> str:
        """The name of the table for one in the chosen language; any other stays as typed."""
        names = species_names().get(self._language, {})
        return next((name for name, shown in names.items() if shown.casefold() == text.casefold()), text)

    def set_by_hour(self, on: bool) -> None:
        """Whether the light follows the sun."""
        self.by_hour = on
        self._settings.setValue("light_by_hour", "on" if on else "off")
        self.changed.emit()

    def set_text_size(self, size: float) -> None:
        """One of `TEXT_SIZES`."""
        self.step_text_size(TEXT_SIZES.index(size) - TEXT_SIZES.index(self._text_size))

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
        """The next theme; from then on it is chosen by hand."""
        self.by_hour = False
        lights = list(Light)
        self.set_light(lights[(lights.index(self._light) + 1) % len(lights)])

    def figure(self, value: float | None, kind: Kind, decimals: int | None = None) -> str:
        """A bare number in the chosen units."""
        return number(value, kind, self.system_of(kind), decimals)

    def words(self, value: float | None, kind: Kind, decimals: int | None = None) -> str:
        """A number with its unit."""
        return quantity(value, kind, self.system_of(kind), decimals)

    def unit(self, kind: Kind) -> str:
        """The symbol of its unit."""
        return unit_of(kind, self.system_of(kind)).symbol

    def shown(self, value: float, kind: Kind) -> float:
        """A value as a number in its unit."""
        return to_shown(value, kind, self.system_of(kind))

    def place(self, place: Position | None) -> str:
        """A position as written."""
        return "no position" if place is None else write_position(place)

    def spread(self, sd: float, kind: Kind) -> str:
        """A standard deviation as ± and a figure."""
        return spread(sd, kind, self.system_of(kind))


def _chosen(kind: type[_Choice], value: object, default: _Choice) -> _Choice:
    try:
        return kind(value)
    except ValueError:
        return default
