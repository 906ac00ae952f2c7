"""What a question gives, value by value: checked, with its name in every error, and nothing left unread."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import Enum
from typing import Any, TypeVar

from plumbbob.core.rig.bought import Form, Material, Packet, Trailer, lure_of
from plumbbob.core.rig.bought_lines import LineMaterial, line_of
from plumbbob.core.rig.bought_weights import Sinker, sinker_of
from plumbbob.core.rig.line import RHO_FRESH
from plumbbob.core.rig.tackle import DEFAULT_BOX, Item, LineKind, Lure, Weight
from plumbbob.core.water.profile import Profile
from plumbbob.core.water.species import Species
from plumbbob.formats.bought_words import item_words, packet_of
from plumbbob.formats.checked import list_of, number_from, object_of, within
from plumbbob.formats.species import known_species
from plumbbob.formats.tackle_csv import columns, item_from

Json = dict[str, Any]
RHO_SALT = 1025.0
_E = TypeVar("_E", bound=Enum)
_PACKET_KEYS = (
    "form mass_g length_cm width_cm material trailer trailer_cm body printed_m printed_means blade buoyancy_n"
    " fall_mps name"
)


class Given:
    """A question's object; every value is asked for by its name."""

    def __init__(self, value: Any, known: str) -> None:
        self._value: Mapping[str, Any] = object_of(value, known.split())

    def has(self, name: str) -> bool:
        """Whether it is there, and not null."""
        return self._value.get(name) is not None

    def raw(self, name: str) -> Any:
        """As it stands; None where it does not."""
        return self._value.get(name)

    def number(self, name: str, low: float, high: float, usual: float | None = None) -> float:
        """A number within bounds; without a usual one it has to be there."""
        value = self._value.get(name)
        if value is None:
            if usual is None:
                raise ValueError(f"{name} is missing")
            return usual
        return within(name, value, low, high)

    def flag(self, name: str, usual: bool = False) -> bool:
        """True or false."""
        value = self._value.get(name)
        if value is None:
            return usual
        if not isinstance(value, bool):
            raise ValueError(f"{name} is true or false")
        return value

    def text(self, name: str, usual: str | None = None) -> str:
        """A text."""
        value = self._value.get(name)
        if value is None:
            if usual is None:
                raise ValueError(f"{name} is missing")
            return usual
        if not isinstance(value, str):
            raise ValueError(f"{name} is a text")
        return value.strip()

    def choice(self, name: str, kind: type[_E], usual: _E | None = None) -> _E:
        """One of a few, by its value."""
        text = self.text(name, "" if usual is not None else None).lower()
        if not text and usual is not None:
            return usual
        return chosen(name, text, kind)

    def numbers(self, name: str, low: float, high: float) -> list[float]:
        """A list of numbers."""
        return [within(name, v, low, high) for v in list_of(self._value.get(name, ()), 10_000)]

    @property
    def rho(self) -> float:
        """Of the water, by `salt`."""
        return RHO_SALT if self.flag("salt") else RHO_FRESH

    def lure(self, name: str = "lure") -> Lure:
        """A lure: words of its packet, an object of them, coefficients, or a name of the tackle box."""
        item = tackle_of("lure", name, self._value.get(name), self.rho)
        assert isinstance(item, Lure)
        return item

    def line(self, name: str = "line", usual: LineKind | None = None) -> LineKind:
        """A line: words, an object, or a name of the tackle box."""
        value = self._value.get(name)
        if value is None and usual is not None:
            return usual
        item = tackle_of("line", name, value, self.rho)
        assert isinstance(item, LineKind)
        return item

    def weight(self, name: str) -> Weight:
        """A sinker or ball."""
        item = tackle_of("weight", name, self._value.get(name), self.rho)
        assert isinstance(item, Weight)
        return item

    def species(self, name: str = "species") -> Species:
        """A species by its key or its name."""
        return species_of_text(self.text(name))

    def profile(self, name: str = "column") -> Profile:
        """A column: [[depth, temperature], ..] or with oxygen as a third."""
        return profile_of(name, self._value.get(name))


def chosen(name: str, text: str, kind: type[_E]) -> _E:
    """A member of an enumeration by its value or name."""
    for member in kind:
        if text in (str(member.value).lower(), member.name.lower(), member.name.lower().replace("_", " ")):
            return member
    raise ValueError(f"{name} {text!r}: one of {', '.join(str(m.value) for m in kind)} is needed")


def species_of_text(text: str) -> Species:
    """A species of the table by key or name, whole or its beginning where only one fits."""
    plain = text.lower()
    table = known_species()
    exact = next((s for s in table if plain in (s.key, s.name.lower())), None)
    if exact is not None:
        return exact
    near = [s for s in table if plain and (plain in s.name.lower())]
    if len(near) == 1:
        return near[0]
    if near:
        raise ValueError(f"species {text!r} may be {', '.join(s.name for s in near)}")
    raise ValueError(f"species {text!r} is not in the table")


def profile_of(name: str, value: Any) -> Profile:
    """A column from rows of depth, temperature and oxygen, from the surface down."""
    import numpy as np

    rows = [list_of(row, 3) for row in list_of(value if value is not None else (), 2000)]
    if len(rows) < 2 or any(len(row) < 2 for row in rows):
        raise ValueError(f"{name} is a list of [depth, temperature] or [depth, temperature, oxygen], two at least")
    rows.sort(key=lambda row: number_from(name, row[0]))
    depth = [within(f"{name} depth", row[0], 0.0, 2000.0) for row in rows]
    warm = [within(f"{name} temperature", row[1], -3.0, 45.0) for row in rows]
    air = [
        within(f"{name} oxygen", row[2], 0.0, 30.0) if len(row) > 2 and row[2] is not None else np.nan for row in rows
    ]
    oxygen = np.array(air) if np.isfinite(air).any() else None
    return Profile(depth_m=np.array(depth), temperature_c=np.array(warm), oxygen_mgl=oxygen)


def tackle_of(kind: str, name: str, value: Any, rho: float = RHO_FRESH) -> Item:
    """A piece of tackle: its words, what stands on its packet, its coefficients, or its name in the tackle box."""
    if value is None:
        raise ValueError(f"{name} is missing")
    if isinstance(value, str):
        known = DEFAULT_BOX.find(kind, value)
        return known if known is not None else item_words(kind, value, rho)
    if not isinstance(value, Mapping):
        raise ValueError(f"{name} is the words of a packet, or an object")
    if "words" in value:
        return item_words(kind, Given(value, "words").text("words"), rho)
    if kind == "lure" and "form" in value:
        return lure_of(packet_from(value), rho=rho)
    if kind == "line" and "material" in value:
        given = Given(value, "material strength_kg diameter_mm name")
        return line_of(
            given.choice("material", LineMaterial),
            strength_kg=given.number("strength_kg", 0.1, 200.0, math.nan),
            diameter_m=given.number("diameter_mm", 0.02, 5.0, math.nan) / 1000.0,
            name=given.text("name", ""),
        )
    if kind == "weight" and "shape" in value:
        given = Given(value, "shape mass_g material name")
        return sinker_of(
            given.choice("shape", Sinker),
            given.number("mass_g", 0.01, 50_000.0) / 1000.0,
            given.choice("material", Material, Material.LEAD),
            given.text("name", ""),
        )
    return item_from({"name": kind, **object_of({"kind": kind, **value}, columns())})


def packet_from(value: Any) -> Packet:
    """What stands on a packet, from an object; or from its words."""
    if isinstance(value, str):
        return packet_of(value)
    given = Given(value, _PACKET_KEYS)
    means = given.text("printed_means", "").lower()
    if means not in ("", "trolled", "cast"):
        raise ValueError("printed_means is trolled or cast")
    material = given.text("material", "")
    return Packet(
        form=given.choice("form", Form),
        mass_kg=given.number("mass_g", 0.05, 5000.0, math.nan) / 1000.0,
        length_m=given.number("length_cm", 0.5, 100.0, math.nan) / 100.0,
        width_m=given.number("width_cm", 0.2, 50.0, math.nan) / 100.0,
        material=chosen("material", material.lower(), Material) if material else None,
        trailer=given.choice("trailer", Trailer, Trailer.NONE),
        trailer_m=given.number("trailer_cm", 1.0, 60.0, math.nan) / 100.0,
        body=given.text("body", ""),
        printed_m=given.number("printed_m", 0.1, 30.0, math.nan),
        printed_cast=None if not means else means == "cast",
        blade=given.text("blade", "round"),
        buoyancy_n=given.number("buoyancy_n", 0.0, 5.0, math.nan),
        fall_mps=given.number("fall_mps", 0.005, 5.0, math.nan),
        name=given.text("name", ""),
    )
