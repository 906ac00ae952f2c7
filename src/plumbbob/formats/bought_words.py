"""
The words on a packet, read: "3/8 oz ball jig with 4 in paddle tail", "plug 9 cm, runs 4.5 m", "10 lb braid".

Parts are told from each other by commas, "with", "and" and "+". A number counts by its unit: ounces and grams are a
weight, centimetres and inches a length, metres and feet the printed depth of a plug. What is not understood is told.
"""

from __future__ import annotations

import math
import re
from dataclasses import replace
from fractions import Fraction
from typing import Any

from plumbbob.core.rig.bought import OUNCE_KG, POUND_KG, Form, Material, Packet, Trailer, lure_of
from plumbbob.core.rig.bought_lines import LineMaterial, line_of
from plumbbob.core.rig.bought_weights import Sinker, board_of, disc_of, sinker_of
from plumbbob.core.rig.line import RHO_FRESH
from plumbbob.core.rig.tackle import Board, Diver, Item, LineKind, Lure, Weight

MOST_LETTERS = 300

_NUMBER = r"(\d+\s+\d+/\d+|\d+-\d+/\d+|\d+/\d+|\d*[.,]\d+|\d+)"
_UNITS = (
    r"(ounces?|oz|grams?|grains?|gr|g|kilograms?|kilos?|kg|pounds?|lbs?|"
    r"centimet(?:re|er)s?|cm|millimet(?:re|er)s?|mm|inch(?:es)?|in|\"|”|feet|foot|ft|'|met(?:re|er)s?|m)"
)
_AMOUNT = re.compile(rf"{_NUMBER}\s*-?\s*{_UNITS}(?![a-z])")
_PARTS = re.compile(r",(?!\d)|;|\+|\bwith\b|\band\b|\bon\b")
_WRITTEN_OUT = dict(
    zip(
        ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "half an", "half"),
        ("1", "2", "3", "4", "5", "6", "7", "8", "9", "10", "1/2", "1/2"),
        strict=True,
    )
)
_WRITTEN = re.compile(r"\b(" + "|".join(sorted(_WRITTEN_OUT, key=len, reverse=True)) + r")\b")
_MASS_KG = {"oz": OUNCE_KG, "ounce": OUNCE_KG, "g": 1e-3, "gram": 1e-3, "gr": 6.48e-5, "grain": 6.48e-5}
_MASS_KG |= {"kg": 1.0, "kilogram": 1.0, "kilo": 1.0, "lb": POUND_KG, "pound": POUND_KG}
_LENGTH_M = {"cm": 0.01, "mm": 0.001, "in": 0.0254, "inch": 0.0254, "inche": 0.0254, '"': 0.0254, "”": 0.0254}
_FAR_M = {"m": 1.0, "ft": 0.3048, "feet": 0.3048, "foot": 0.3048, "'": 0.3048}

# longest names first: "ball jig" before "jig"
_FORMS: tuple[tuple[str, Form], ...] = (
    ("football", Form.FOOTBALL), ("tail spinner", Form.TAIL_SPINNER), ("stand-up", Form.STAND_UP),
    ("stand up", Form.STAND_UP), ("swim-keel", Form.SWIM_HEAD), ("keel head", Form.SWIM_HEAD),
    ("bullet", Form.BULLET), ("worm weight", Form.BULLET), ("tube", Form.TUBE), ("swimbait", Form.SWIMBAIT),
    ("stick worm", Form.STICK_WORM), ("slab", Form.SLAB), ("pirk", Form.SLAB), ("jigging spoon", Form.SLAB),
    ("spoon", Form.SPOON), ("blade", Form.BLADE), ("rattl", Form.RATTLE), ("lipless", Form.RATTLE),
    ("crank", Form.PLUG), ("plug", Form.PLUG), ("diver lure", Form.PLUG), ("spinner", Form.SPINNER),
    ("floating lure", Form.FLOATING), ("floater", Form.FLOATING), ("bead fly", Form.BEAD_FLY),
    ("bead-head", Form.BEAD_FLY), ("streamer", Form.STREAMER), ("fly", Form.FLY), ("live fish", Form.LIVE_FISH),
    ("minnow", Form.LIVE_FISH), ("dead fish", Form.DEAD_FISH), ("jig", Form.BALL_JIG), ("worm", Form.WORM),
    ("leech", Form.WORM), ("shrimp", Form.WORM), ("hook", Form.HOOK), ("bait", Form.HOOK),
)  # fmt: skip
_TRAILERS: tuple[tuple[str, Trailer], ...] = (
    ("paddle", Trailer.PADDLE), ("shad tail", Trailer.PADDLE), ("straight", Trailer.STRAIGHT),
    ("curly", Trailer.CURLY), ("curl", Trailer.CURLY), ("twister", Trailer.CURLY), ("creature", Trailer.CREATURE),
    ("craw", Trailer.CREATURE), ("skirt", Trailer.SKIRT), ("tail", Trailer.PADDLE), ("trailer", Trailer.PADDLE),
)  # fmt: skip
_MATERIALS: tuple[tuple[str, Material], ...] = (
    ("tungsten", Material.TUNGSTEN), ("bismuth", Material.TIN_BISMUTH), ("brass", Material.BRASS),
    ("bronze", Material.BRASS), ("steel", Material.STEEL), ("zinc", Material.ZINC), ("lead", Material.LEAD),
    ("tin ", Material.TIN), ("stone", Material.STONE),
)  # fmt: skip
_SINKERS: tuple[tuple[str, Sinker], ...] = (
    ("walker", Sinker.WALKER), ("pyramid", Sinker.PYRAMID), ("grip", Sinker.GRIP), ("coin", Sinker.COIN),
    ("cylinder", Sinker.CYLINDER), ("pencil", Sinker.CYLINDER), ("tear", Sinker.TEAR), ("bank", Sinker.BANK),
    ("pear", Sinker.BANK), ("egg", Sinker.EGG), ("split shot", Sinker.SHOT), ("shot", Sinker.SHOT),
    ("clip", Sinker.CLIP), ("trolling ball", Sinker.BALL), ("ball", Sinker.BALL), ("round", Sinker.ROUND),
    ("sinker", Sinker.EGG), ("weight", Sinker.EGG), ("lead", Sinker.EGG),
)  # fmt: skip
_LINES: tuple[tuple[str, LineMaterial], ...] = (
    ("lead core", LineMaterial.LEAD_CORE), ("lead-core", LineMaterial.LEAD_CORE),
    ("weighted line", LineMaterial.LEAD_CORE), ("fluoro", LineMaterial.FLUOROCARBON), ("braid", LineMaterial.BRAID),
    ("nylon", LineMaterial.NYLON), ("mono", LineMaterial.NYLON), ("wire", LineMaterial.WIRE),
    ("steel line", LineMaterial.WIRE),
)  # fmt: skip


class _Amounts:
    """The numbers of a part, by what they measure, and where each stood."""

    def __init__(self, text: str) -> None:
        self.mass: list[float] = []
        self.length: list[float] = []
        self.far: list[float] = []
        for found in _AMOUNT.finditer(text):
            value, unit = _value(found[1]), found[2]
            plain = unit if unit in ("'", '"', "”") else unit.rstrip("s") or unit
            if plain in _MASS_KG:
                self.mass.append(value * _MASS_KG[plain])
            elif plain in _LENGTH_M or plain.startswith(("centi", "milli")):
                factor = (
                    0.01 if plain.startswith("centi") else 0.001 if plain.startswith("milli") else _LENGTH_M[plain]
                )
                self.length.append(value * factor)
            elif plain in _FAR_M or plain.startswith("met"):
                self.far.append(value * _FAR_M.get(plain, 1.0))


def _value(text: str) -> float:
    parts = re.split(r"[\s-]+", text.replace(",", ".").strip())
    try:
        return float(sum(Fraction(p) if "/" in p else Fraction(str(float(p))) for p in parts))
    except (ValueError, ZeroDivisionError):
        raise ValueError(f'"{text}" is no number') from None


def _named(text: str, table: tuple[tuple[str, Any], ...]) -> Any:
    return next((value for word, value in table if word in text), None)


def _parts(text: str) -> list[str]:
    if not isinstance(text, str) or not text.strip():
        raise ValueError("words of a packet are needed")
    if len(text) > MOST_LETTERS:
        raise ValueError(f"{len(text)} letters are too many for a packet: at most {MOST_LETTERS}")
    plain = _WRITTEN.sub(lambda m: _WRITTEN_OUT[m[0]], text.lower())
    return [p.strip() for p in _PARTS.split(plain) if p.strip()]


def packet_of(text: str) -> Packet:
    """
    A lure as its packet tells it.

    Raises
    ------
    ValueError
        In one line: no lure is named, or its weight is missing.
    """
    form: Form | None = None
    given: dict[str, Any] = {}
    for part in _parts(text):
        amounts = _Amounts(part)
        here = _named(part, _FORMS)
        trailer = _named(part, _TRAILERS)
        if here is Form.TAIL_SPINNER or here is Form.FLOATING:
            trailer = None
        if form is None and here is not None and not (trailer is not None and here is Form.WORM):
            form = here
            _take_amounts(given, amounts, trailer)
        elif trailer is not None:
            given["trailer"] = trailer
            given.update({"trailer_m": amounts.length[0]} if amounts.length else {})
        else:
            _take_amounts(given, amounts, None)
        material = _named(part + " ", _MATERIALS)
        if material is not None:
            given["material"] = material
        for word, body in (("fat", "fat"), ("slim", "slender"), ("slender", "slender")):
            if word in part:
                given["body"] = body
        blade = next((b for b in ("round", "oval", "leaf") if b in part), None)
        if form is Form.SPINNER and blade is not None:
            given["blade"] = blade
        if "cast" in part:
            given["printed_cast"] = True
        elif "trolled" in part:
            given["printed_cast"] = False
    if form is None:
        words = ", ".join(sorted({f.value for f in Form}))
        raise ValueError(f'"{text.strip()[:60]}" names no lure; known are {words}')
    if form is not Form.PLUG:
        given.pop("printed_m", None)
        given.pop("printed_cast", None)
    return Packet(form=form, name=text.strip(), **given)


def _take_amounts(given: dict[str, Any], amounts: _Amounts, trailer: Trailer | None) -> None:
    if amounts.mass and "mass_kg" not in given:
        given["mass_kg"] = amounts.mass[0]
    lengths = list(amounts.length)
    if trailer is not None:
        given["trailer"] = trailer
        if lengths:
            given["trailer_m"] = lengths.pop()
    if lengths and "length_m" not in given:
        given["length_m"] = lengths[0]
    if len(lengths) > 1:
        given["width_m"] = lengths[1]
    if amounts.far:
        given["printed_m"] = amounts.far[0]


def line_words(text: str) -> LineKind:
    """
    A line: "0.28 mm nylon", "10 lb braid", "lead core".

    Raises
    ------
    ValueError
        In one line.
    """
    plain = " ".join(_parts(text))
    material = _named(plain, _LINES)
    if material is None:
        raise ValueError(f'"{text.strip()[:60]}" names no line: nylon, fluorocarbon, braid, wire or lead core')
    amounts = _Amounts(plain)
    bare = re.search(r"(?<![\d./])0[.,]\d+(?!\s*(?:kg|lb|oz|g))", plain)
    diameter = amounts.length[0] if amounts.length else _value(bare[0]) / 1000.0 if bare else math.nan
    strength = amounts.mass[0] if amounts.mass else math.nan
    return line_of(material, strength_kg=strength, diameter_m=diameter, name=text.strip())


def weight_words(text: str) -> Weight:
    """
    A sinker, ball or clip: "28 g egg sinker", "4.5 kg ball", "1 oz tungsten cylinder".

    Raises
    ------
    ValueError
        In one line.
    """
    plain = " ".join(_parts(text))
    amounts = _Amounts(plain)
    if not amounts.mass:
        raise ValueError(f'"{text.strip()[:60]}": its weight is missing')
    shape = _named(plain, _SINKERS) or Sinker.EGG
    material = _named(plain + " ", _MATERIALS) or Material.LEAD
    return sinker_of(shape, amounts.mass[0], material, name=text.strip())


def diver_words(text: str) -> Diver:
    """A diving disc: "disc 8 cm". Raises ValueError in one line."""
    lengths = _Amounts(text.lower()).length
    if not lengths:
        raise ValueError(f'"{text.strip()[:60]}": the diameter of the disc is missing')
    return disc_of(lengths[0], name=text.strip())


def board_words(text: str) -> Board:
    """A side board: "board 25 cm". Raises ValueError in one line."""
    lengths = _Amounts(text.lower()).length
    if not lengths:
        raise ValueError(f'"{text.strip()[:60]}": the length of the board is missing')
    return board_of(lengths[0], name=text.strip())


def lure_words(text: str, rho: float = RHO_FRESH) -> Lure:
    """A lure by the words on its packet. Raises ValueError in one line."""
    return lure_of(packet_of(text), rho=rho)


def item_words(kind: str, text: str, rho: float = RHO_FRESH) -> Item:
    """
    A piece of tackle of a kind by its words.

    Raises
    ------
    ValueError
        In one line.
    """
    if kind == "lure":
        return lure_words(text, rho)
    made: dict[str, Any] = {"line": line_words, "weight": weight_words, "diver": diver_words, "board": board_words}
    item: Item = made[kind](text)
    return item


def kind_of_words(text: str) -> str:
    """
    Which kind of tackle some words name: lure, line, weight, diver or board.

    Examples
    --------
    >>> [kind_of_words(t) for t in ("7 g jig", "10 lb braid", "28 g egg sinker", "disc 8 cm", "board 25 cm")]
    ['lure', 'line', 'weight', 'diver', 'board']
    """
    plain = " ".join(_parts(text))
    first = _parts(text)[0]
    if re.search(r"\b(diving )?disc\b", plain):
        return "diver"
    if re.search(r"\bboard\b", plain):
        return "board"
    if _named(plain, _LINES) is not None and _named(first, _FORMS) is None:
        return "line"
    weight = re.search(r"\b(sinker|walker|pyramid|clip|trolling ball|split shot|weight|ball)\b", plain)
    if weight and not re.search(r"\b(jig|worm weight|bullet)\b", plain):
        return "weight"
    return "lure"


def timed(packet: Packet, depth_m: float, seconds: float, line: LineKind, *, rho: float = RHO_FRESH) -> Packet:
    """
    The packet with its fall as it was timed to a depth on slack line.

    Raises
    ------
    ValueError
        Where no fall of such a lure takes so long.
    """
    from plumbbob.core.rig.fall import time_to_depth

    if not (0 < depth_m <= 200 and 0 < seconds <= 600):
        raise ValueError("a depth and a time above zero are needed")
    low, high = 0.005, 5.0
    for _ in range(50):
        middle = math.sqrt(low * high)
        lure = lure_of(replace(packet, fall_mps=middle), rho=rho)
        try:
            took = time_to_depth(lure.falling(line, rho), depth_m, rho=rho)[0]
        except ValueError:
            took = math.inf
        low, high = (middle, high) if took > seconds else (low, middle)
    if high > 4.9:
        raise ValueError(f"nothing of that weight is {depth_m:g} m down in {seconds:g} s")
    return replace(packet, fall_mps=high)
