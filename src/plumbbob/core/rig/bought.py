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
from plumbbob.core.rig.tackle import Lure, rated_lure

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
