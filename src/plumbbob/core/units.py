"""Quantities as people read and type them. SI everywhere else; the three systems live only here."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import Enum
from fractions import Fraction

FOOT_M = 0.3048
DEEPEST_M = 12_000.0  # no water is deeper
FATHOM_M = 1.8288
NAUTICAL_MILE_M = 1852.0
MILE_M = 1609.344
KNOT_MPS = 0.514444
MPH_MPS = 0.44704
POUND_KG = 0.45359237
OUNCE_KG = 0.0283495


class System(Enum):
    """A system of units that can be chosen at any time."""

    US = "US"
    METRIC = "metric"
    NAUTICAL = "nautical"


class Kind(Enum):
    """What a number measures; each system has one unit for it."""

    DEPTH = "depth"
    LENGTH = "line length"
    DISTANCE = "distance"
    SPEED = "speed"
    TEMPERATURE = "temperature"
    FISH = "fish length"
    WEIGHT = "weight"


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit: shown = si * factor + shift, with so many decimals where that is worth reading."""

    symbol: str
    factor: float
    decimals: int
    shift: float = 0.0


_M = Unit("m", 1.0, 1)
_FT = Unit("ft", 1 / FOOT_M, 0)
_FT1 = Unit("ft", 1 / FOOT_M, 1)
_CELSIUS = Unit("°C", 1.0, 1)
_TABLE: dict[System, dict[Kind, Unit]] = {
    System.US: {
        Kind.DEPTH: _FT1,
        Kind.LENGTH: _FT,
        Kind.DISTANCE: _FT,
        Kind.SPEED: Unit("mph", 1 / MPH_MPS, 1),
        Kind.TEMPERATURE: Unit("°F", 1.8, 1, 32.0),
        Kind.FISH: Unit("in", 1 / 0.0254, 1),
        Kind.WEIGHT: Unit("lb", 1 / POUND_KG, 1),
    },
    System.METRIC: {
        Kind.DEPTH: _M,
        Kind.LENGTH: _M,
        Kind.DISTANCE: Unit("m", 1.0, 0),
        Kind.SPEED: Unit("km/h", 3.6, 1),
        Kind.TEMPERATURE: _CELSIUS,
        Kind.FISH: Unit("cm", 100.0, 0),
        Kind.WEIGHT: Unit("kg", 1.0, 1),
    },
    System.NAUTICAL: {
        Kind.DEPTH: Unit("fm", 1 / FATHOM_M, 2),
        Kind.LENGTH: _M,
        Kind.DISTANCE: Unit("m", 1.0, 0),
        Kind.SPEED: Unit("kn", 1 / KNOT_MPS, 1),
        Kind.TEMPERATURE: _CELSIUS,
        Kind.FISH: Unit("cm", 100.0, 0),
        Kind.WEIGHT: Unit("kg", 1.0, 1),
    },
}


def unit_of(kind: Kind, system: System) -> Unit:
    """The unit in which this kind of number is shown."""
    return _TABLE[system][kind]


def round_shown(value_si: float, kind: Kind, system: System) -> float:
    """
    The nearest round step, 1, 2 or 5 times a power of ten in the unit on screen, in SI.

    Examples
    --------
    >>> round_shown(1.4, Kind.DEPTH, System.METRIC), round(round_shown(1.4, Kind.DEPTH, System.US) / FOOT_M, 6)
    (1.0, 5.0)
    """
    factor = unit_of(kind, system).factor
    shown = max(value_si * factor, 1e-9)
    size = 10.0 ** math.floor(math.log10(shown))
    return min((size * m for m in (1, 2, 5, 10)), key=lambda s: abs(math.log(s / shown))) / factor


def to_shown(value: float, kind: Kind, system: System) -> float:
    """SI to the number on screen."""
    unit = unit_of(kind, system)
    return value * unit.factor + unit.shift


def to_si(shown: float, kind: Kind, system: System) -> float:
    """The number on screen to SI."""
    unit = unit_of(kind, system)
    return (shown - unit.shift) / unit.factor


def number(value: float | None, kind: Kind, system: System, decimals: int | None = None) -> str:
    """
    The bare figure, or a dash where nothing is known.

    Examples
    --------
    >>> number(7.62, Kind.DEPTH, System.US)
    '25.0'
    """
    if value is None or value != value:
        return "–"
    unit = unit_of(kind, system)
    places = unit.decimals if decimals is None else decimals
    text = f"{to_shown(value, kind, system):.{places}f}"
    return text.replace("-", "−") if float(text) != 0.0 else text.lstrip("-")


def quantity(value: float | None, kind: Kind, system: System, decimals: int | None = None) -> str:
    """
    Figure and unit.

    Examples
    --------
    >>> quantity(1.0, Kind.SPEED, System.METRIC)
    '3.6 km/h'
    """
    return f"{number(value, kind, system, decimals)} {unit_of(kind, system).symbol}"


def lead(kilograms: float, system: System) -> str:
    """
    Weight of tackle: grams, or ounces as they are sold, in sixteenths up to two.

    Examples
    --------
    >>> lead(0.0106, System.METRIC), lead(0.0106, System.US), lead(0.0002, System.US), lead(0.090, System.US)
    ('11 g', '3/8 oz', '1/64 oz', '3.2 oz')
    """
    if system is not System.US:
        grams = 1000.0 * kilograms
        return f"{grams:.0f} g" if grams >= 9.95 else f"{grams:.1f} g"
    ounces = kilograms / OUNCE_KG
    if ounces > 2.0:
        return f"{ounces:.1f} oz"
    size = next(d for d in (64, 32, 16) if ounces < 2.5 / d or d == 16)
    shown = Fraction(max(round(ounces * size), 1), size)
    whole, rest = divmod(shown, 1)
    words = " ".join(str(part) for part in (whole, rest) if part)
    return f"{words} oz"


def spread(sd: float, kind: Kind, system: System) -> str:
    """
    One standard deviation as '±' and a figure that does not claim more than it knows.

    Examples
    --------
    >>> spread(0.3, Kind.DEPTH, System.US)
    '±1'
    """
    shown = abs(sd * unit_of(kind, system).factor)
    if shown >= 0.95:
        return f"±{shown:.0f}"
    return f"±{shown:.1f}" if shown >= 0.095 else "±0.1" if unit_of(kind, system).decimals < 2 else f"±{shown:.2f}"


_TYPED = re.compile(r"^\s*([-+−]?\d+(?:[.,]\d+)?)\s*([a-z°/'″\"]*)\s*$", re.IGNORECASE)
_TYPED_UNITS: dict[Kind, dict[str, tuple[float, float]]] = {
    Kind.DEPTH: {"m": (1, 0), "ft": (FOOT_M, 0), "'": (FOOT_M, 0), "fm": (FATHOM_M, 0)},
    Kind.DISTANCE: {
        "m": (1, 0),
        "ft": (FOOT_M, 0),
        "km": (1000, 0),
        "nm": (NAUTICAL_MILE_M, 0),
        "mi": (MILE_M, 0),
    },
    Kind.SPEED: {
        "m/s": (1, 0),
        "km/h": (1 / 3.6, 0),
        "kmh": (1 / 3.6, 0),
        "mph": (MPH_MPS, 0),
        "kn": (KNOT_MPS, 0),
    },
    Kind.TEMPERATURE: {"°c": (1, 0), "c": (1, 0), "°f": (1 / 1.8, -32 / 1.8), "f": (1 / 1.8, -32 / 1.8)},
    Kind.FISH: {
        "cm": (0.01, 0),
        "in": (0.0254, 0),
        '"': (0.0254, 0),
        "mm": (0.001, 0),
        "m": (1, 0),
        "ft": (FOOT_M, 0),
    },
    Kind.WEIGHT: {"kg": (1, 0), "g": (0.001, 0), "lb": (POUND_KG, 0), "oz": (OUNCE_KG, 0)},
}
_TYPED_UNITS[Kind.LENGTH] = _TYPED_UNITS[Kind.DEPTH]


_FRACTIONS = {"¼": " 1/4", "½": " 1/2", "¾": " 3/4", "⅛": " 1/8", "⅜": " 3/8", "⅝": " 5/8", "⅞": " 7/8"}
_INCHES = r"(\d+(?:[.,]\d+)?)?\s*(?:(\d+)/([1-9]\d*))?"
_FEET = re.compile(rf"^\s*(\d+)\s*(?:'|′|ft)\s*{_INCHES}\s*(?:\"|″|in|'')?\s*$", re.IGNORECASE)
_PARTS = re.compile(r"^\s*(\d+)?[\s-]*(\d+)/([1-9]\d*)\s*([a-z\"″]*)\s*$", re.IGNORECASE)


def _feet_and_parts(text: str) -> str | None:
    """A length in feet and inches, or with a fraction, as one number with its unit; None for any other text."""
    for sign, parts in _FRACTIONS.items():
        text = text.replace(sign, parts)
    if found := _FEET.match(text):
        whole = float((found[2] or "0").replace(",", "."))
        part = int(found[3]) / int(found[4]) if found[3] else 0.0
        return f"{12 * int(found[1]) + whole + part:.9f} in"
    if found := _PARTS.match(text):
        return f"{int(found[1] or 0) + int(found[2]) / int(found[3]):.9f} {found[4]}"
    return None


def parse(text: str, kind: Kind, system: System) -> float:
    """
    A typed quantity in SI; a bare number means the system's own unit, a named unit wins.

    Raises
    ------
    ValueError
        With one line that says what was not understood.

    Examples
    --------
    >>> round(parse("25", Kind.DEPTH, System.US), 2), parse("7,5 m", Kind.DEPTH, System.US)
    (7.62, 7.5)
    """
    if kind is Kind.FISH and (whole := _feet_and_parts(text)) is not None:
        text = whole
    found = _TYPED.match(text)
    if not found:
        raise ValueError(f'"{text.strip()}" is not a number with a unit')
    value = float(found[1].replace(",", ".").replace("−", "-"))
    if not found[2]:
        return to_si(value, kind, system)
    try:
        factor, shift = _TYPED_UNITS[kind][found[2].lower()]
    except KeyError:
        known = ", ".join(_TYPED_UNITS[kind])
        raise ValueError(f'"{found[2]}" is not a unit of {kind.value}; try {known}') from None
    return value * factor + shift
