"""Lines and reels as they are bought: diameter, what fits a spool, what a turn takes in (handbook, 5.1)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import Enum

from plumbbob.core.rig.tackle import LineKind


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
