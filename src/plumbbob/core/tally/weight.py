"""A fish's weight from its length, with its spread."""

from __future__ import annotations

from dataclasses import dataclass

# published curves are of well-fed fish: an average one weighs a little less, and single fish differ by a seventh
_AVERAGE, _SPREAD = 0.93, 0.15


@dataclass(frozen=True, slots=True)
class Weight:
    """Kilograms."""

    kg: float
    sd_kg: float


def weight_of(length_m: float, a: float, b: float) -> Weight:
    """
    W(g) = a L(cm)^b of a standard curve, less what an average fish lacks (docs/handbook.md section 4.1).

    Examples
    --------
    >>> round(weight_of(0.40, 0.00556, 3.273).kg / 0.93, 3)
    0.974
    """
    kg = _AVERAGE * a * (100.0 * length_m) ** b / 1000.0
    return Weight(kg, _SPREAD * kg)
