"""
Tackle as it is bought: from the words on the packet to weight in water, drag and lift, each with its spread.

People know a lure as "3/8 ounce jig with a four inch tail", not by its drag area. Coefficients follow from the form,
the material and the size (docs/handbook.md, 5.1, 5.2 and 5.7); areas there are in square centimetres for lengths in
centimetres. A timed fall, a count to a known shelf or a printed depth takes the place of what the form would say.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from enum import Enum

import numpy as np

from plumbbob.core.rig.line import GRAVITY, RHO_FRESH, Segment, tow
from plumbbob.core.rig.tackle import Board, Diver, LineKind, Lure, Weight, rated_lure

_Maker = Callable[["Packet", float], Lure]
_CM2 = 1e-4
OUNCE_KG, POUND_KG = 0.028349523125, 0.45359237
_TABLE_RHO = 1000.0  # of the table's checks
_DRAG_SD, _FALL_SD = 0.3, 0.3  # of an area that only the form tells
_TIMED_SD = 0.08  # of a fall that was timed: half a second in six
_PRINT_SD, _ASKED_SD = 0.24, 0.18  # of the lip's pull: 20 % of a printed depth, 15 % where trolled or cast is known
_CAST_SHARE = 0.62  # of its trolled depth a plug is printed with, where the print means cast and reeled


class Material(Enum):
    """What a weight is made of."""

    LEAD = "lead"
    TUNGSTEN = "tungsten"
    TIN_BISMUTH = "tin-bismuth"
    BRASS = "brass"
    STEEL = "steel"
    TIN = "tin"
    ZINC = "zinc"
    STONE = "stone"


DENSITY: Mapping[Material, float] = {
    Material.LEAD: 11_340.0,
    Material.TUNGSTEN: 17_000.0,
    Material.TIN_BISMUTH: 8_700.0,
    Material.BRASS: 8_500.0,
    Material.STEEL: 7_850.0,
    Material.TIN: 7_300.0,
    Material.ZINC: 7_000.0,
    Material.STONE: 2_550.0,
}
_HEAD_LEAD = 10_500.0  # a jig head of lead with its hook


class Form(Enum):
    """Lures by type."""

    BALL_JIG = "ball jig"
    FOOTBALL = "football jig"
    BULLET = "bullet weight rig"
    STAND_UP = "stand-up jig"
    SWIM_HEAD = "swim-keel jig"
    TUBE = "tube"
    SWIMBAIT = "soft swimbait"
    STICK_WORM = "stick worm"
    SPOON = "spoon"
    SLAB = "slab spoon"
    BLADE = "blade"
    RATTLE = "rattling plate"
    PLUG = "plug"
    SPINNER = "spinner"
    TAIL_SPINNER = "tail spinner"
    FLOATING = "soft floating lure"
    FLY = "fly"
    BEAD_FLY = "bead fly"
    STREAMER = "streamer"
    LIVE_FISH = "live fish"
    DEAD_FISH = "dead fish"
    WORM = "worm"
    HOOK = "baited hook"


class Trailer(Enum):
    """What is threaded on a head."""

    NONE = "none"
    PADDLE = "paddle tail"
    STRAIGHT = "straight tail"
    CURLY = "curly tail"
    CREATURE = "creature"
    SKIRT = "skirt"


# head: share of the ball's own cross-section, and its drag coefficient
_HEADS: Mapping[Form, tuple[float, float]] = {
    Form.BALL_JIG: (1.0, 0.6),
    Form.FOOTBALL: (1.25, 0.8),
    Form.BULLET: (0.75, 0.42),
    Form.STAND_UP: (1.2, 0.8),
    Form.SWIM_HEAD: (1.2, 0.75),
    Form.TUBE: (1.0, 0.6),
}
_TRAILERS: Mapping[Trailer, float] = {  # drag area in cm2 is so much times the length in cm squared
    Trailer.NONE: 0.0,
    Trailer.PADDLE: 0.025,
    Trailer.STRAIGHT: 0.012,
    Trailer.CURLY: 0.022,
    Trailer.CREATURE: 0.05,
    Trailer.SKIRT: 0.05,
}
_PLUG_CM, _PLUG_CM2 = (5.0, 7.0, 8.0, 9.0, 10.0, 11.0), (2.5, 4.0, 6.0, 8.0, 10.0, 14.0)
_FAT, _SLENDER = 1.4, 0.7
_ROUNDS = 12  # until the line in the air agrees with the lip
_PLAIN_WORM_CM2 = 0.33
_BLADES: Mapping[str, tuple[float, float]] = {"round": (50.0, 0.55), "oval": (38.0, 0.50), "leaf": (28.0, 0.45)}
PRINTED_LINE = Segment(length_m=30.0, diameter_m=0.28e-3, weight_npm=0.085e-3)
PRINTED_MPS = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Packet:
    """What stands on the packet; NaN where it does not say."""

    form: Form
    mass_kg: float = math.nan
    length_m: float = math.nan
    width_m: float = math.nan
    material: Material | None = None
    trailer: Trailer = Trailer.NONE
    trailer_m: float = math.nan
    body: str = ""  # of a plug: fat, slender or neither
    printed_m: float = math.nan  # depth on the packet
    printed_cast: bool | None = None  # whether the print means cast and reeled; None: nobody knows
    blade: str = "round"  # of a spinner: round, oval, leaf
    buoyancy_n: float = math.nan  # of a floating lure: what holds it up
    fall_mps: float = math.nan  # as timed
    name: str = ""

    def __post_init__(self) -> None:
        for what, least, most in (
            ("mass_kg", 5e-5, 5.0), ("length_m", 0.005, 1.0), ("width_m", 0.002, 0.5), ("trailer_m", 0.01, 0.6),
            ("printed_m", 0.1, 30.0), ("buoyancy_n", 0.0, 5.0), ("fall_mps", 0.005, 5.0),
        ):  # fmt: skip
            value = getattr(self, what)
            if not (math.isnan(value) or least <= value <= most):
                label = what.rsplit("_", 1)[0]
                raise ValueError(f"{self.form.value}: {label} {value:g} is outside {least:g} to {most:g}")
        if self.blade not in _BLADES:
            raise ValueError(f"blade {self.blade!r}: {', '.join(_BLADES)} are known")
        if self.body not in ("", "fat", "slender"):
            raise ValueError(f"body {self.body!r}: fat or slender, or nothing")


def ball_area(mass_kg: float, density: float) -> float:
    """
    Cross-section of a ball of that mass, square metres.

    Examples
    --------
    >>> round(math.sqrt(ball_area(0.007, 11_200) * 4 / math.pi) * 1000, 1)
    10.6
    """
    return math.pi * (3 * mass_kg / (4 * math.pi * density)) ** (2 / 3)


def weight_in_water(mass_kg: float, density: float, rho: float = RHO_FRESH) -> float:
    """
    Net weight, N; negative floats.

    Examples
    --------
    >>> round(weight_in_water(0.085, 11_340, 1000.0), 3)
    0.76
    """
    return mass_kg * GRAVITY * (1 - rho / density)


def lure_of(packet: Packet, *, rho: float = RHO_FRESH, tip_m: float = 0.0) -> Lure:
    """
    The lure of a packet: weight, areas and their spread.

    Parameters
    ----------
    packet : Packet
    rho : float
        Of the water; salt takes a little of the weight.
    tip_m : float
        Height of the rod's tip, from which the line of a printed depth counts: part of it hangs in the air. At 0 all
        of it is in the water, as in the handbook's tables.

    Raises
    ------
    ValueError
        Where the packet says too little, or what cannot be.

    Examples
    --------
    >>> jig = lure_of(Packet(form=Form.BALL_JIG, mass_kg=0.007, trailer=Trailer.PADDLE, trailer_m=0.1), rho=1000.0)
    >>> round(jig.weight_n, 4), round(jig.fall_area_m2 * 1e4, 2)
    (0.0621, 3.05)
    """
    made = _MAKERS[packet.form](packet, rho)
    if packet.form is Form.PLUG and tip_m > 0 and made.dives and math.isfinite(packet.printed_m):
        made = _rated_from_tip(packet, made, tip_m)
    if math.isfinite(packet.fall_mps):
        if not made.weight_n > 0:
            raise ValueError(f"{made.name} floats: it has no fall to be timed")
        area = 2 * made.weight_n / (rho * packet.fall_mps**2)
        towed = made.drag_area_m2
        if packet.form in _AS_IT_FALLS:
            towed *= area / (made.fall_area_m2 or towed)
        made = replace(made, fall_area_m2=area, drag_area_m2=towed, fall_sd=_TIMED_SD)
    return replace(made, name=packet.name or made.name)


def _mass(packet: Packet, usual_kg: float = math.nan) -> float:
    mass = packet.mass_kg if math.isfinite(packet.mass_kg) else usual_kg
    if not math.isfinite(mass):
        raise ValueError(f"{packet.form.value}: its weight is missing")
    return mass


def _called(packet: Packet, mass_kg: float = math.nan) -> str:
    size = f" {1000 * mass_kg:.3g} g" if math.isfinite(mass_kg) else ""
    length = f" {100 * packet.length_m:.3g} cm" if math.isfinite(packet.length_m) else ""
    tail = f" with {packet.trailer.value}" if packet.trailer is not Trailer.NONE else ""
    printed = f" {packet.printed_m:g} m" if math.isfinite(packet.printed_m) else ""
    return f"{packet.form.value}{size}{length}{printed}{tail}"


def _made(
    packet: Packet, weight_n: float, towed_cm2: float, fall_cm2: float, mass_kg: float, length_m: float
) -> Lure:
    drags = max(towed_cm2, 0.02) * _CM2
    # what it drags along of the water is about half of a body's own volume
    return Lure(
        name=_called(packet, packet.mass_kg),
        weight_n=weight_n,
        drag_area_m2=drags,
        fall_area_m2=max(fall_cm2, 0.02) * _CM2,
        mass_kg=1.3 * max(mass_kg, 1e-4),
        length_m=0.0 if math.isnan(length_m) else length_m,
        drag_sd=_DRAG_SD,
        fall_sd=_FALL_SD,
        weight_sd=0.1,
    )


def _head(packet: Packet, rho: float) -> Lure:
    """A head of some shape with what is threaded on it; soft plastic has nearly no weight in water."""
    mass = _mass(packet)
    material = packet.material or (Material.TUNGSTEN if packet.form is Form.BULLET else Material.LEAD)
    density = _HEAD_LEAD if material is Material.LEAD else DENSITY[material]
    share, cd = _HEADS[packet.form]
    tail_m = packet.trailer_m if math.isfinite(packet.trailer_m) else 0.09
    tail = _TRAILERS[packet.trailer] * (100 * tail_m) ** 2
    if packet.form is Form.TUBE:
        length = packet.length_m if math.isfinite(packet.length_m) else 0.095
        tail = max(2.0 * (length / 0.095) ** 2 - cd * share * ball_area(mass, density) / _CM2, 0.5)
    if packet.form is Form.BULLET and not tail:
        tail = _PLAIN_WORM_CM2  # nobody throws it bare
    area = cd * share * ball_area(mass, density) / _CM2 + tail
    long = packet.length_m if math.isfinite(packet.length_m) else (tail_m if tail else math.nan)
    return _made(packet, weight_in_water(mass, density, rho), area, area, mass, long)


def _swimbait(packet: Packet, rho: float) -> Lure:
    """A soft body with its weight inside: the body's mass counts for nothing, its area for all."""
    mass = _mass(packet)
    length = packet.length_m if math.isfinite(packet.length_m) else 0.12
    area = 0.025 * (100 * length) ** 2
    body = min(1070.0 * 0.012 * (100 * length) ** 3 * 1e-6, 0.8 * mass)  # of a body a ninth as thick as long
    lead = weight_in_water(mass - body, _HEAD_LEAD, rho) + weight_in_water(body, 1070.0, rho)
    return _made(packet, lead, area, area, mass, length)


def _stick_worm(packet: Packet, rho: float) -> Lure:
    mass = _mass(packet, 0.008)
    length = packet.length_m if math.isfinite(packet.length_m) else 0.12
    area = 100 * length * 0.9 * 0.9
    return _made(packet, weight_in_water(mass, 1150.0, rho), 0.25 * area, area, mass, length)


def _spoon(packet: Packet, rho: float) -> Lure:
    """Wobbles down flat on slack line; towed it is about half as broad to the water."""
    mass = _mass(packet)
    plan = 7.0 * math.sqrt(mass / 0.007)
    if math.isfinite(packet.length_m):
        wide = packet.width_m if math.isfinite(packet.width_m) else 0.4 * packet.length_m
        plan = 0.78 * packet.length_m * wide / _CM2
    density = DENSITY[packet.material or (Material.STEEL if mass < 0.010 else Material.BRASS)]
    return _made(packet, weight_in_water(mass, density, rho), 0.5 * plan, plan, mass, packet.length_m)


def _slab(packet: Packet, rho: float) -> Lure:
    """Heavy for its area: falls nose down."""
    mass = _mass(packet)
    area = 2.0 * (mass / 0.028) ** (2 / 3)
    density = DENSITY[packet.material or Material.LEAD]
    return _made(packet, weight_in_water(mass, density, rho), 1.5 * area, area, mass, packet.length_m)


def _blade(packet: Packet, rho: float) -> Lure:
    """An upright plate with holes: broad when it is drawn up, narrow when it falls nose down."""
    mass = _mass(packet)
    long_cm = 100 * packet.length_m if math.isfinite(packet.length_m) else 5.0 * (mass / 0.014) ** (1 / 3)
    side = 0.3 * long_cm**2
    density = DENSITY[packet.material or Material.BRASS]
    fall = 1.5 * (mass / 0.014) ** (2 / 3)
    return _made(packet, weight_in_water(mass, density, rho), 0.7 * side, fall, mass, long_cm / 100)


def _rattle(packet: Packet, rho: float) -> Lure:
    mass = _mass(packet, 0.014)
    length = packet.length_m if math.isfinite(packet.length_m) else 0.07
    towed = 0.03 * (100 * length) ** 2
    weight = 0.25 * mass * GRAVITY * (1 - (rho - _TABLE_RHO) / 1000.0)  # a shell with shot in it
    fall = 2 * weight / (rho * 0.47**2) / _CM2
    return _made(packet, weight, towed, fall, mass, length)


def _plug(packet: Packet, rho: float) -> Lure:
    """Drag by length and body; the lip's pull such that it runs at the printed depth."""
    length = packet.length_m if math.isfinite(packet.length_m) else 0.09
    area = plug_area_cm2(100 * length) * {"fat": _FAT, "slender": _SLENDER, "": 1.0}[packet.body]
    mass = packet.mass_kg if math.isfinite(packet.mass_kg) else 0.014 * (length / 0.09) ** 3
    plain = replace(_made(packet, 0.0, area, area, mass, length), fall_area_m2=0.0)
    if not math.isfinite(packet.printed_m):
        # without a print a lip pulls down about half as hard as it drags; that may be far off
        return replace(plain, lift_area_m2=0.4 * plain.drag_area_m2, lift_sd=0.5)
    depth = packet.printed_m / _CAST_SHARE if packet.printed_cast else packet.printed_m
    rated = rated_lure(plain, depth, PRINTED_LINE, PRINTED_MPS, rho=_TABLE_RHO)
    return replace(rated, lift_sd=_PRINT_SD if packet.printed_cast is None else _ASKED_SD)


def _rated_from_tip(packet: Packet, plug: Lure, tip_m: float) -> Lure:
    """The lip that runs at the printed depth with the printed line out of a tip over the water, not all in it."""
    depth = packet.printed_m / _CAST_SHARE if packet.printed_cast else packet.printed_m
    wet = PRINTED_LINE.length_m
    plain, rated = replace(plug, lift_area_m2=0.0), plug
    for _ in range(_ROUNDS):
        line = replace(PRINTED_LINE, length_m=wet)
        try:
            rated = rated_lure(plain, depth, line, PRINTED_MPS, rho=_TABLE_RHO)
        except ValueError:
            return plug
        flat = tow(rated.body(), [line], PRINTED_MPS, rho=_TABLE_RHO).angle_deg
        air = min(tip_m / max(math.sin(math.radians(flat)), 0.02), 0.6 * PRINTED_LINE.length_m)
        wet = 0.5 * wet + 0.5 * (PRINTED_LINE.length_m - air)
    return rated


def plug_area_cm2(length_cm: float) -> float:
    """
    Drag area of a lipped plug by its length, cm2; beyond the table with the square of the length.

    Examples
    --------
    >>> plug_area_cm2(9.0), round(plug_area_cm2(4.0), 2)
    (8.0, 1.6)
    """
    if length_cm < _PLUG_CM[0]:
        return _PLUG_CM2[0] * (length_cm / _PLUG_CM[0]) ** 2
    if length_cm > _PLUG_CM[-1]:
        return _PLUG_CM2[-1] * (length_cm / _PLUG_CM[-1]) ** 2
    return float(np.interp(length_cm, _PLUG_CM, _PLUG_CM2))


def blade_area_cm2(shape: str, length_cm: float) -> float:
    """
    Drag area of a turning blade, cm2.

    Examples
    --------
    >>> round(blade_area_cm2("round", 2.5), 1), round(blade_area_cm2("leaf", 6.0), 0)
    (6.3, 11.0)
    """
    spread, share = _BLADES[shape]
    return share * math.pi * (length_cm * math.sin(math.radians(spread))) ** 2


def blade_turns(speed_mps: float, blade_m: float) -> float:
    """
    Turns a second of a spinner's blade: it comes round once in about four of its lengths.

    Examples
    --------
    >>> blade_turns(0.8, 0.025)
    8.0
    """
    return speed_mps / (4.0 * blade_m)


def _spinner(packet: Packet, rho: float) -> Lure:
    mass = _mass(packet)
    blade = 100 * packet.length_m if math.isfinite(packet.length_m) else 2.5 * (mass / 0.007) ** (1 / 3)
    turning = blade_area_cm2(packet.blade, blade)
    body = 0.6 * ball_area(mass, DENSITY[Material.BRASS]) / _CM2
    return _made(
        packet,
        weight_in_water(mass, DENSITY[packet.material or Material.BRASS], rho),
        turning + body,
        0.6 * turning + body,
        mass,
        blade / 100,
    )


def _tail_spinner(packet: Packet, rho: float) -> Lure:
    mass = _mass(packet)
    area = 4.5 * (mass / 0.014) ** (2 / 3)
    return _made(packet, weight_in_water(mass, _HEAD_LEAD, rho), 1.2 * area, area, mass, packet.length_m)


def _floating(packet: Packet, rho: float) -> Lure:
    up = packet.buoyancy_n if math.isfinite(packet.buoyancy_n) else 0.01
    length = packet.length_m if math.isfinite(packet.length_m) else 0.06
    area = 0.028 * (100 * length) ** 2
    return _made(packet, -up * rho / _TABLE_RHO, area, area, 0.004, length)


def _small(fall_mps: float, area_cm2: float, mass_kg: float) -> _Maker:
    """Flies and soft baits whose fall is what is known."""

    def make(packet: Packet, rho: float) -> Lure:
        weight = 0.5 * _TABLE_RHO * area_cm2 * _CM2 * fall_mps**2
        return _made(packet, weight, area_cm2, area_cm2, mass_kg, packet.length_m)

    return make


def _fish_bait(drag: float) -> _Maker:
    def make(packet: Packet, rho: float) -> Lure:
        length = packet.length_m if math.isfinite(packet.length_m) else 0.10
        mass = packet.mass_kg if math.isfinite(packet.mass_kg) else 0.0075e-3 * (100 * length) ** 3.05
        area = drag * (100 * length) ** 2
        return _made(packet, 0.02 * mass * GRAVITY, area, area, mass, length)

    return make


_MAKERS: Mapping[Form, _Maker] = {
    **dict.fromkeys(_HEADS, _head),
    Form.SWIMBAIT: _swimbait,
    Form.STICK_WORM: _stick_worm,
    Form.SPOON: _spoon,
    Form.SLAB: _slab,
    Form.BLADE: _blade,
    Form.RATTLE: _rattle,
    Form.PLUG: _plug,
    Form.SPINNER: _spinner,
    Form.TAIL_SPINNER: _tail_spinner,
    Form.FLOATING: _floating,
    Form.FLY: _small(0.04, 0.4, 0.0002),
    Form.BEAD_FLY: _small(0.4, 0.8, 0.001),
    Form.STREAMER: _small(0.07, 1.5, 0.001),
    Form.LIVE_FISH: _fish_bait(0.012),
    Form.DEAD_FISH: _fish_bait(0.04),
    Form.WORM: _small(0.10, 1.0, 0.003),
    Form.HOOK: _small(0.20, 0.4, 0.002),
}
# forms that look the same to the water towed and falling: a timed fall tells of both
_AS_IT_FALLS = frozenset({*_HEADS, Form.SWIMBAIT, Form.SLAB, Form.FLY, Form.BEAD_FLY, Form.STREAMER, Form.WORM})


# -- lines ------------------------------------------------------------------------------------------------------


class LineMaterial(Enum):
    """What a line is made of."""

    NYLON = "nylon"
    FLUOROCARBON = "fluorocarbon"
    BRAID = "braid"
    WIRE = "wire"
    LEAD_CORE = "lead core"


_LINES: Mapping[LineMaterial, tuple[float, float, float]] = {  # mm for one kg of strength, kg/m3, spread of diameter
    LineMaterial.NYLON: (0.139, 1140.0, 0.12),
    LineMaterial.FLUOROCARBON: (0.147, 1780.0, 0.12),
    LineMaterial.BRAID: (0.079, 970.0, 0.20),
    LineMaterial.WIRE: (0.080, 7850.0, 0.12),
}
_CN_SD = 0.17  # of drag across, beside the diameter's own
STRETCH = {  # share at 20 N
    LineMaterial.NYLON: (0.08, 0.15),
    LineMaterial.FLUOROCARBON: (0.05, 0.12),
    LineMaterial.BRAID: (0.01, 0.04),
    LineMaterial.WIRE: (0.0, 0.01),
    LineMaterial.LEAD_CORE: (0.02, 0.06),
}


def line_diameter(material: LineMaterial, strength_kg: float) -> float:
    """
    Diameter by the strength on the spool, metres: c sqrt(F).

    Raises
    ------
    ValueError
        For a strength that is none, and for lead core, which is known by what it weighs.

    Examples
    --------
    >>> round(line_diameter(LineMaterial.NYLON, 4.5) * 1000, 3)
    0.295
    """
    if material not in _LINES:
        raise ValueError("lead core is known by its weight a metre, not by its strength")
    if not 0.1 <= strength_kg <= 200.0:
        raise ValueError(f"a strength of {strength_kg:g} kg is outside 0.1 to 200")
    return _LINES[material][0] * math.sqrt(strength_kg) / 1000.0


def line_of(
    material: LineMaterial, *, strength_kg: float = math.nan, diameter_m: float = math.nan, name: str = ""
) -> LineKind:
    """
    A line by material and strength or diameter; one that was measured is known better than one by strength.

    Raises
    ------
    ValueError
        Where neither is given, or it cannot be.
    """
    if material is LineMaterial.LEAD_CORE:
        wide = diameter_m if math.isfinite(diameter_m) else 0.85e-3
        return LineKind(name=name or "lead core", diameter_m=wide, mass_kgpm=LEAD_CORE_KGPM, colour_m=9.144)
    if not (math.isfinite(diameter_m) or math.isfinite(strength_kg)):
        raise ValueError(f"{material.value}: its strength or its diameter is missing")
    printed = math.isfinite(diameter_m)
    wide = diameter_m if printed else line_diameter(material, strength_kg)
    if not 2e-5 <= wide <= 5e-3:
        raise ValueError(f"a line of {1000 * wide:g} mm is outside 0.02 to 5")
    spread = 0.05 if printed else _LINES[material][2]
    return LineKind(
        name=name or f"{material.value} {1000 * wide:.2f} mm",
        diameter_m=wide,
        density=_LINES[material][1],
        cn_sd=math.hypot(_CN_SD, spread),
    )


LEAD_CORE_KGPM = 2.1e-3  # with its sheath; spools lie between 1.3 and 2.3


def capacity_m(known_m: float, known_diameter_m: float, diameter_m: float) -> float:
    """
    How much of another line fits a spool: length times diameter squared stays.

    Examples
    --------
    >>> capacity_m(200.0, 0.30e-3, 0.20e-3)
    450.0
    """
    return round(known_m * (known_diameter_m / diameter_m) ** 2, 6)


def retrieve_a_turn(full_m: float, arbor_m: float, ratio: float, capacity: float, out_m: float) -> float:
    """
    Line taken in by one turn of the handle with so much out, metres.

    Parameters
    ----------
    full_m, arbor_m : float
        Diameter of the full spool and of its core.
    ratio : float
        Turns of the spool a turn of the handle.
    capacity, out_m : float
        Line on the full spool, and how much of it is out.

    Examples
    --------
    >>> [round(retrieve_a_turn(0.045, 0.028, 6.0, 150.0, out), 3) for out in (0.0, 60.0, 100.0)]
    [0.848, 0.737, 0.652]
    """
    if not (0 < arbor_m < full_m and ratio > 0 and 0 <= out_m <= capacity and capacity > 0):
        raise ValueError("a reel needs a core thinner than its full spool, and no more out than it holds")
    square = full_m**2 - (full_m**2 - arbor_m**2) * out_m / capacity
    return math.pi * math.sqrt(square) * ratio


# -- weights, discs, boards -------------------------------------------------------------------------------------


class Sinker(Enum):
    """Weights by shape."""

    ROUND = "round"
    CYLINDER = "cylinder"
    TEAR = "tear"
    BANK = "bank"
    EGG = "egg"
    COIN = "flat coin"
    PYRAMID = "pyramid"
    GRIP = "gripping wires"
    WALKER = "bottom walker"
    BALL = "trolling ball"
    CLIP = "clip weight"
    SHOT = "split shot"


# share of the ball's cross-section times drag coefficient
_SINKER_CD: Mapping[Sinker, float] = {
    Sinker.ROUND: 0.5,
    Sinker.CYLINDER: 0.5,
    Sinker.TEAR: 0.3,
    Sinker.BANK: 0.45,
    Sinker.EGG: 0.45,
    Sinker.COIN: 0.6,
    Sinker.PYRAMID: 0.9,
    Sinker.GRIP: 2.5,
    Sinker.WALKER: 0.9,
    Sinker.BALL: 0.6,
    Sinker.CLIP: 0.55,
    Sinker.SHOT: 0.5,
}


def sinker_of(shape: Sinker, mass_kg: float, material: Material = Material.LEAD, name: str = "") -> Weight:
    """A weight by its shape; its wires, arms and eyes are in its drag."""
    if not 1e-5 <= mass_kg <= 50.0:
        raise ValueError(f"a weight of {1000 * mass_kg:g} g is outside 0.01 to 50 000")
    size = f"{mass_kg:.3g} kg" if mass_kg >= 1.0 else f"{1000 * mass_kg:.3g} g"
    return Weight(
        name=name or f"{shape.value} {size}",
        mass_kg=mass_kg,
        density=DENSITY[material],
        cd=_SINKER_CD[shape],
        cd_sd=0.3,
    )


def disc_of(diameter_m: float, name: str = "") -> Diver:
    """A diving disc by its diameter."""
    if not 0.03 <= diameter_m <= 0.3:
        raise ValueError(f"a disc of {100 * diameter_m:g} cm is outside 3 to 30")
    return Diver(name=name or f"diving disc {100 * diameter_m:.3g} cm", area_m2=math.pi * diameter_m**2 / 4)


def board_of(length_m: float, name: str = "") -> Board:
    """A side board by its length: it pulls aside with about a fifth of its length squared."""
    if not 0.1 <= length_m <= 1.0:
        raise ValueError(f"a board of {100 * length_m:g} cm is outside 10 to 100")
    area = length_m**2
    return Board(
        name=name or f"side board {100 * length_m:.3g} cm", side_area_m2=0.128 * area, drag_area_m2=0.096 * area
    )


def float_carries_kg(volume_m3: float, density: float = 250.0) -> float:
    """
    What a float carries above its own weight, kg in water; in lead a tenth more hangs on it.

    Examples
    --------
    >>> carry = float_carries_kg(5e-6)
    >>> round(carry * 1000, 2), round(carry / 0.912 * 1000, 1)
    (3.75, 4.1)
    """
    return volume_m3 * (1000.0 - density)
