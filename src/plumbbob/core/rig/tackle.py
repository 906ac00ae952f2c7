"""
Tackle in general terms: lines, weights, lures, divers, boards. Generic made-up entries with typical coefficients.

Every item knows which of its coefficients are uncertain and by how much (a standard deviation of the logarithm), and
gives itself with one of them scaled: that is all that calibration and spreads need.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import ClassVar, TypeVar

from plumbbob.core.rig.fall import Falling
from plumbbob.core.rig.line import GRAVITY, RHO_FRESH, Body, Segment, Tow, tow

SLACK_CF = 0.02  # skin friction of slack line dragged lengthwise by what falls (docs/handbook.md, 5.4)
_Item = TypeVar("_Item", "LineKind", "Weight", "Diver", "Lure")


def _scaled(item: _Item, coefficient: str, factor: float, fields: Mapping[str, tuple[str, ...]]) -> _Item:
    """A piece of tackle with the fields behind one coefficient times a factor."""
    if coefficient not in fields:
        raise KeyError(f"{item.name} has no coefficient {coefficient}")
    return replace(item, **{name: getattr(item, name) * factor for name in fields[coefficient]})


@dataclass(frozen=True, slots=True, kw_only=True)
class LineKind:
    """A line as bought: diameter, density or mass a metre, drag; a weighted line also the length of a colour."""

    kind: ClassVar[str] = "line"
    name: str
    diameter_m: float
    density: float = 0.0  # kg/m3; 0 where the mass a metre is given
    mass_kgpm: float = 0.0
    cn: float = 1.2
    cf: float = 0.005  # skin friction on the line's own surface
    colour_m: float = 0.0  # length of one colour of a weighted line; 0: no colours
    cn_sd: float = 0.2  # of the logarithm: water, diameter as labelled, strumming

    def __post_init__(self) -> None:
        _check_item(self.name, self.diameter_m > 0 and self.cn > 0 and self.cf >= 0, "a diameter and drag above zero")
        _check_item(
            self.name, self.density > 0 or self.mass_kgpm > 0, "a density or a mass a metre: no line is weightless"
        )

    def weight_npm(self, rho: float = RHO_FRESH) -> float:
        """Weight in water, N/m; negative floats."""
        area = math.pi * self.diameter_m**2 / 4
        return (self.mass_a_metre() - rho * area) * GRAVITY

    def mass_a_metre(self) -> float:
        """In air, kg/m."""
        return self.mass_kgpm or self.density * math.pi * self.diameter_m**2 / 4

    def segment(self, length_m: float, *, rho: float = RHO_FRESH) -> Segment:
        """So many metres of it."""
        return Segment(
            length_m=length_m,
            diameter_m=self.diameter_m,
            weight_npm=self.weight_npm(rho),
            cn=self.cn,
            ct=math.pi * self.cf,
        )

    def uncertain(self) -> Mapping[str, float]:
        """Drag across (water, diameter as labelled, strumming); a weighted line's mass a metre differs as well."""
        return {"cn": self.cn_sd, "mass": 0.12} if self.colour_m else {"cn": self.cn_sd}

    def scaled(self, coefficient: str, factor: float) -> LineKind:
        """Itself with one coefficient times a factor."""
        return _scaled(self, coefficient, factor, {"cn": ("cn",), "mass": ("mass_kgpm", "density")})


@dataclass(frozen=True, slots=True, kw_only=True)
class Weight:
    """A ball on a wire, a sinker on a line: a heavy body of some density."""

    kind: ClassVar[str] = "weight"
    name: str
    mass_kg: float
    density: float = 11340.0
    cd: float = 0.5  # on the cross-section of a sphere of that mass
    cd_sd: float = 0.2

    def __post_init__(self) -> None:
        _check_item(self.name, self.mass_kg > 0 and self.density > 1100 and self.cd > 0, "a mass, and to sink")

    def body(self, rho: float = RHO_FRESH) -> Body:
        """Net weight and drag of a sphere."""
        radius = (3 * self.mass_kg / (4 * math.pi * self.density)) ** (1 / 3)
        weight = self.mass_kg * GRAVITY * (1 - rho / self.density)
        return Body(weight_n=weight, drag_area_m2=self.cd * math.pi * radius**2)

    def uncertain(self) -> Mapping[str, float]:
        """Drag: eyes, fins and dents."""
        return {"cd": self.cd_sd}

    def scaled(self, coefficient: str, factor: float) -> Weight:
        """Itself with one coefficient times a factor."""
        return _scaled(self, coefficient, factor, {"cd": ("cd",)})


@dataclass(frozen=True, slots=True, kw_only=True)
class Lure:
    """A lure: weight in water, drag area, downward lift area of its lip, mass with the water it drags along."""

    kind: ClassVar[str] = "lure"
    name: str
    weight_n: float
    drag_area_m2: float
    lift_area_m2: float = 0.0
    fall_area_m2: float = 0.0  # drag area when it falls on free line
    mass_kg: float = 0.01
    length_m: float = 0.0  # to match what the bait is; 0 where it does not matter
    drag_sd: float = 0.3  # of the logarithms; what was timed or printed is known better than what the form tells
    fall_sd: float = 0.24
    lift_sd: float = 0.2
    weight_sd: float = 0.05

    def __post_init__(self) -> None:
        _check_item(self.name, self.drag_area_m2 > 0 and self.mass_kg > 0, "drag and mass above zero")
        _check_item(self.name, self.lift_area_m2 >= 0 and self.fall_area_m2 >= 0, "areas of zero or more")

    def body(self) -> Body:
        """The lure at the end of a towed line."""
        return Body(weight_n=self.weight_n, drag_area_m2=self.drag_area_m2, lift_area_m2=self.lift_area_m2)

    def falling(self, line: LineKind, rho: float = RHO_FRESH) -> Falling:
        """The lure on free line."""
        return Falling(
            weight_n=self.weight_n,
            drag_area_m2=self.fall_area_m2 or self.drag_area_m2,
            line_diameter_m=line.diameter_m,
            line_ct=math.pi * max(line.cf, SLACK_CF),
            line_weight_npm=line.weight_npm(rho),
            mass_kg=self.mass_kg,
        )

    @property
    def dives(self) -> bool:
        """A lip takes it down; without way it does not go."""
        return self.lift_area_m2 > 0

    def uncertain(self) -> Mapping[str, float]:
        """Drag; the lip's pull, or the weight of one without; how fast it falls."""
        down = {"lift": self.lift_sd} if self.dives else {"weight": self.weight_sd}
        return {"drag": self.drag_sd, **down, "fall": self.fall_sd}

    def scaled(self, coefficient: str, factor: float) -> Lure:
        """Itself with one coefficient times a factor."""
        # how it falls and how it tows are two things, even where the catalogue has one figure for both
        lure = self if self.fall_area_m2 else replace(self, fall_area_m2=self.drag_area_m2)
        fields = {
            "drag": ("drag_area_m2",),
            "lift": ("lift_area_m2",),
            "weight": ("weight_n",),
            "fall": ("fall_area_m2",),
        }
        return _scaled(lure, coefficient, factor, fields)


@dataclass(frozen=True, slots=True, kw_only=True)
class Diver:
    """A disc or plate that pulls down, and aside by its setting."""

    kind: ClassVar[str] = "diver"
    name: str
    area_m2: float
    cl: float = 0.75
    cd: float = 0.6
    weight_n: float = 0.05
    tilt_deg: float = 14.0  # by which one step of the setting turns its pull from down to aside

    def __post_init__(self) -> None:
        _check_item(self.name, self.area_m2 > 0 and self.cl > 0 and self.cd > 0, "area, lift and drag above zero")

    def body(self) -> Body:
        """The disc on its line; lift is along its own tilted axis."""
        return Body(weight_n=self.weight_n, drag_area_m2=self.cd * self.area_m2, lift_area_m2=self.cl * self.area_m2)

    def uncertain(self) -> Mapping[str, float]:
        """Pull and drag at the angle it is set to."""
        return {"cl": 0.2, "cd": 0.2}

    def scaled(self, coefficient: str, factor: float) -> Diver:
        """Itself with one coefficient times a factor."""
        return _scaled(self, coefficient, factor, {"cl": ("cl",), "cd": ("cd",)})


@dataclass(frozen=True, slots=True, kw_only=True)
class Board:
    """A board at the surface that pulls a line out to the side."""

    kind: ClassVar[str] = "board"
    name: str
    side_area_m2: float  # lift area, to the side
    drag_area_m2: float

    def __post_init__(self) -> None:
        _check_item(self.name, self.side_area_m2 > 0 and self.drag_area_m2 > 0, "pull and drag above zero")

    def body(self) -> Body:
        """In the plane of the surface, where down means aside."""
        return Body(weight_n=0.0, drag_area_m2=self.drag_area_m2, lift_area_m2=self.side_area_m2)

    def uncertain(self) -> Mapping[str, float]:
        """Nothing that changes a depth."""
        return {}

    def scaled(self, coefficient: str, factor: float) -> Board:
        """Itself with one coefficient times a factor."""
        raise KeyError(f"{self.name} has no coefficient {coefficient}")


Item = LineKind | Weight | Lure | Diver | Board


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """What one owns, by kind; names are unique within a kind."""

    lines: tuple[LineKind, ...] = ()
    weights: tuple[Weight, ...] = ()
    lures: tuple[Lure, ...] = ()
    divers: tuple[Diver, ...] = ()
    boards: tuple[Board, ...] = ()

    def all(self) -> tuple[Item, ...]:
        """Everything, lines first."""
        return (*self.lines, *self.weights, *self.lures, *self.divers, *self.boards)

    def of_kind(self, kind: str) -> tuple[Item, ...]:
        """Everything of one kind."""
        return tuple(item for item in self.all() if item.kind == kind)

    def find(self, kind: str, name: str) -> Item | None:
        """One item, if it is there."""
        return next((item for item in self.all() if item.kind == kind and item.name == name), None)


def _check_item(name: str, good: bool, needs: str) -> None:
    if not good:
        raise ValueError(f"{name or 'a piece of tackle'} needs {needs}")


def box_of(items: Mapping[tuple[str, str], Item]) -> Box:
    """A box of items by kind and name."""
    values = list(items.values())
    return Box(
        lines=tuple(i for i in values if isinstance(i, LineKind)),
        weights=tuple(i for i in values if isinstance(i, Weight)),
        lures=tuple(i for i in values if isinstance(i, Lure)),
        divers=tuple(i for i in values if isinstance(i, Diver)),
        boards=tuple(i for i in values if isinstance(i, Board)),
    )


def rated_lure(lure: Lure, depth_m: float, line: Segment, speed_mps: float, *, rho: float = RHO_FRESH) -> Lure:
    """
    A lipped lure whose lift makes it run at its rated depth on a stated length of line.

    Raises
    ------
    ValueError
        If no lip could: the rated depth is not less than the line, or the line's own weight is past it already.

    Notes
    -----
    docs/handbook.md, 5.5: one depth fixes the pull down, by root finding on lift over drag from 0.02 to 6.
    """

    def run(ratio: float) -> Tow:
        return tow(replace(lure, lift_area_m2=ratio * lure.drag_area_m2).body(), [line], speed_mps, rho=rho)

    low, high = 0.0, 6.0
    if not run(low).depth_m < depth_m < run(high).depth_m:
        raise ValueError(
            f"{lure.name} cannot run at {depth_m:g} m on {line.length_m:g} m of line at {speed_mps:g} m/s: "
            f"{run(low).depth_m:.1f} to {run(high).depth_m:.1f} m is what a lip could do"
        )
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if run(middle).depth_m < depth_m else (low, middle)
    return replace(lure, lift_area_m2=low * lure.drag_area_m2)


def rated_fall(lure: Lure, sink_mps: float, *, rho: float = RHO_FRESH) -> Lure:
    """
    A sinking lure whose drag in the fall gives its stated sink rate.

    Raises
    ------
    ValueError
        If it floats, or the rate is not above zero.
    """
    if not (sink_mps > 0 and lure.weight_n > 0):
        raise ValueError(f"{lure.name} needs weight in water and a sink rate above zero")
    return replace(lure, fall_area_m2=2 * lure.weight_n / (rho * sink_mps**2))


MONO = LineKind(name="nylon 0.28 mm", diameter_m=0.28e-3, density=1140.0)
BRAID = LineKind(name="braid 0.18 mm", diameter_m=0.18e-3, density=970.0)
FLUORO = LineKind(name="fluorocarbon 0.30 mm", diameter_m=0.30e-3, density=1780.0)
# a taut wire hums: half as much drag again as a still one (docs/handbook.md, 5.2)
WIRE = LineKind(name="stranded wire 0.8 mm", diameter_m=0.8e-3, mass_kgpm=2.5e-3, cn=1.5)
CORE = LineKind(name="weighted line 0.8 mm", diameter_m=0.8e-3, mass_kgpm=2.1e-3, colour_m=9.144)
STEEL = LineKind(name="steel line 0.35 mm", diameter_m=0.35e-3, density=7850.0)

BALL = Weight(name="4.5 kg ball", mass_kg=4.5, cd=0.6)  # with its fin and eye
SMALL_BALL = Weight(name="2.7 kg ball", mass_kg=2.7, cd=0.6)
CLIP = Weight(name="clip weight 28 g", mass_kg=0.028, cd=0.6)
CLIP_HEAVY = Weight(name="clip weight 85 g", mass_kg=0.085, cd=0.6)
WALKER = Weight(name="bottom walker 42 g", mass_kg=0.042, cd=0.9)
PENCIL = Weight(name="pencil weight 20 g", mass_kg=0.020, cd=0.4)

# towed: a lipped plug pulls down about as hard as it drags (docs/handbook.md 5.5); the spoon hangs by its weight
PLUG = Lure(
    name="lipped plug 9 cm", weight_n=-0.02, drag_area_m2=6e-4, lift_area_m2=5.6e-4, mass_kg=0.014, length_m=0.09
)
FLUTTER = Lure(name="flutter spoon 5 g", weight_n=0.040, drag_area_m2=5.0e-4, mass_kg=0.008, length_m=0.06)
SPOON = Lure(
    name="spoon 18 g", weight_n=0.155, drag_area_m2=4.5e-4, fall_area_m2=5.5e-4, mass_kg=0.024, length_m=0.07
)
JIG = Lure(name="jig 14 g", weight_n=0.115, drag_area_m2=2.0e-4, fall_area_m2=3.0e-4, mass_kg=0.019, length_m=0.08)
BLADE = Lure(
    name="blade 12 g", weight_n=0.100, drag_area_m2=4.0e-4, fall_area_m2=3.0e-4, mass_kg=0.016, length_m=0.05
)
ICE_JIG = Lure(
    name="ice spoon 4 g", weight_n=0.034, drag_area_m2=1.0e-4, fall_area_m2=1.5e-4, mass_kg=0.005, length_m=0.03
)
BAIT = Lure(name="floating bait rig", weight_n=-0.010, drag_area_m2=1.5e-4, mass_kg=0.004, length_m=0.06)
HOOK = Lure(name="baited hook", weight_n=0.008, drag_area_m2=0.4e-4, mass_kg=0.003, length_m=0.03)

DISC = Diver(name="diving disc 8 cm", area_m2=50e-4)
SMALL_DISC = Diver(name="diving disc 5 cm", area_m2=20e-4)
SIDE_BOARD = Board(name="side board 25 cm", side_area_m2=0.008, drag_area_m2=0.006)

DEFAULT_BOX = Box(
    lines=(MONO, BRAID, FLUORO, WIRE, CORE, STEEL),
    weights=(BALL, SMALL_BALL, CLIP, CLIP_HEAVY, WALKER, PENCIL),
    lures=(PLUG, FLUTTER, SPOON, JIG, BLADE, ICE_JIG, BAIT, HOOK),
    divers=(DISC, SMALL_DISC),
    boards=(SIDE_BOARD,),
)
