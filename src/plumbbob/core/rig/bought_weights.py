"""Weights, diving discs, boards and floats as they are bought: by shape, size and material (handbook, 5.2)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from enum import Enum

from plumbbob.core.rig.bought import DENSITY, Material
from plumbbob.core.rig.tackle import Board, Diver, Weight


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
