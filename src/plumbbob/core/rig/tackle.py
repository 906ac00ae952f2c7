"""Tackle in general terms: lines, balls, lures. Generic made-up entries with typical coefficients, to be tuned."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.rig.fall import Falling
from plumbbob.core.rig.line import GRAVITY, RHO_FRESH, Body, Segment


@dataclass(frozen=True, slots=True, kw_only=True)
class LineKind:
    """A line as bought: name, diameter, density or mass a metre, drag."""

    name: str
    diameter_m: float
    density: float = 0.0  # kg/m3; 0 where the mass a metre is given
    mass_kgpm: float = 0.0
    cn: float = 1.2
    cf: float = 0.005  # skin friction on the line's own surface

    def weight_npm(self, rho: float = RHO_FRESH) -> float:
        """Weight in water, N/m; negative floats."""
        area = math.pi * self.diameter_m**2 / 4
        mass = self.mass_kgpm or self.density * area
        return (mass - rho * area) * GRAVITY

    def segment(self, length_m: float, *, cn_factor: float = 1.0, rho: float = RHO_FRESH) -> Segment:
        """So many metres of it."""
        return Segment(
            length_m=length_m,
            diameter_m=self.diameter_m,
            weight_npm=self.weight_npm(rho),
            cn=self.cn * cn_factor,
            ct=math.pi * self.cf,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Ball:
    """A heavy weight on a wire."""

    name: str
    mass_kg: float
    density: float = 11340.0
    cd: float = 0.5

    def body(self, rho: float = RHO_FRESH) -> Body:
        """Net weight and drag of a sphere."""
        radius = (3 * self.mass_kg / (4 * math.pi * self.density)) ** (1 / 3)
        weight = self.mass_kg * GRAVITY * (1 - rho / self.density)
        return Body(weight_n=weight, drag_area_m2=self.cd * math.pi * radius**2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Lure:
    """A lure: weight in water, drag area, downward lift area of its lip, mass with the water it drags along."""

    name: str
    weight_n: float
    drag_area_m2: float
    lift_area_m2: float = 0.0
    fall_area_m2: float = 0.0  # drag area when it falls on free line
    mass_kg: float = 0.01

    def body(self) -> Body:
        """The lure at the end of a towed line."""
        return Body(weight_n=self.weight_n, drag_area_m2=self.drag_area_m2, lift_area_m2=self.lift_area_m2)

    def falling(self, line: LineKind, rho: float = RHO_FRESH) -> Falling:
        """The lure on free line."""
        return Falling(
            weight_n=self.weight_n,
            drag_area_m2=self.fall_area_m2 or self.drag_area_m2,
            line_diameter_m=line.diameter_m,
            line_ct=math.pi * line.cf,
            line_weight_npm=line.weight_npm(rho),
            mass_kg=self.mass_kg,
        )


MONO = LineKind(name="nylon 0.28 mm", diameter_m=0.28e-3, density=1140.0)
BRAID = LineKind(name="braid 0.18 mm", diameter_m=0.18e-3, density=970.0)
FLUORO = LineKind(name="fluorocarbon 0.30 mm", diameter_m=0.30e-3, density=1780.0)
WIRE = LineKind(name="stranded wire 0.8 mm", diameter_m=0.8e-3, mass_kgpm=2.5e-3)
LINES = (MONO, BRAID, FLUORO)

BALL = Ball(name="4.5 kg ball", mass_kg=4.5)

# towed: a lipped plug pulls down about as hard as it drags (handbook 5.5); the spoon hangs by its weight
PLUG = Lure(name="lipped plug 9 cm", weight_n=-0.02, drag_area_m2=6e-4, lift_area_m2=5.6e-4, mass_kg=0.014)
FLUTTER = Lure(name="flutter spoon 5 g", weight_n=0.040, drag_area_m2=5.0e-4, mass_kg=0.008)
SPOON = Lure(name="spoon 18 g", weight_n=0.155, drag_area_m2=4.5e-4, fall_area_m2=5.5e-4, mass_kg=0.024)
JIG = Lure(name="jig 14 g", weight_n=0.115, drag_area_m2=2.0e-4, fall_area_m2=3.0e-4, mass_kg=0.019)
LURES = (PLUG, FLUTTER, SPOON, JIG)
