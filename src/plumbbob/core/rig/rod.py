"""One rod as rigged, what it is asked, and what is answered: values that every way of fishing shares."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum
from typing import Any

from plumbbob.core.reason import Reason
from plumbbob.core.rig import tackle
from plumbbob.core.rig.line import RHO_FRESH
from plumbbob.core.units import Kind

FASTEST_MPS = 6.0
DEEPEST_M = 1000.0


class Method(Enum):
    """How the lure is brought down."""

    DOWNRIGGER = "downrigger"
    FLAT_LINE = "flat line"
    WEIGHTED_LINE = "weighted line"
    CORE = "weighted line"  # noqa: PIE796  requests and kept logs may name it so
    CLIP = "clip weight"
    DIVER = "diving disc"
    WALKER = "bottom walker"
    BOARD = "side board"
    CAST = "cast and count"
    RETRIEVE = "lipped lure, cast"
    PUMP = "pumped blade"
    JIG = "jig below the boat"
    DROP_WEIGHT = "drop weight"
    DROPPERS = "droppers"
    ICE = "through the ice"


class Zero(Enum):
    """Where the counter stood at zero."""

    SURFACE = "lure or ball at the surface"
    TIP = "lure or ball at the rod tip"


class Family(Enum):
    """What the boat does meanwhile."""

    TROLLED = "trolled"
    CAST = "cast"
    VERTICAL = "below the boat"
    ICE = "through the ice"


FAMILY = {
    Method.DOWNRIGGER: Family.TROLLED,
    Method.FLAT_LINE: Family.TROLLED,
    Method.WEIGHTED_LINE: Family.TROLLED,
    Method.CLIP: Family.TROLLED,
    Method.DIVER: Family.TROLLED,
    Method.WALKER: Family.TROLLED,
    Method.BOARD: Family.TROLLED,
    Method.CAST: Family.CAST,
    Method.RETRIEVE: Family.CAST,
    Method.PUMP: Family.CAST,
    Method.JIG: Family.VERTICAL,
    Method.DROP_WEIGHT: Family.VERTICAL,
    Method.DROPPERS: Family.VERTICAL,
    Method.ICE: Family.ICE,
}


class Amount(Enum):
    """What the answer's number is."""

    WIRE = "wire out"
    LINE = "line out"
    BEHIND = "line behind the board"
    COUNT = "count"
    CAST = "cast"


AMOUNT = {
    Method.DOWNRIGGER: Amount.WIRE,
    Method.BOARD: Amount.BEHIND,
    Method.CAST: Amount.COUNT,
    Method.RETRIEVE: Amount.CAST,
    Method.PUMP: Amount.COUNT,
}  # all others: LINE


def amount_of(method: Method) -> Amount:
    """What is measured out for a way of fishing."""
    return AMOUNT.get(method, Amount.LINE)


@dataclass(frozen=True, slots=True, kw_only=True)
class RigSettings:
    """One rod as rigged, the way the boat goes, and how sure its numbers are. Each way uses what it needs of it."""

    method: Method = Method.DOWNRIGGER
    speed_mps: float = 0.9  # through the water; of the drift, below the boat
    above_fish_m: float = 0.7  # the lure hangs this much over the fish
    lead_m: float = 9.0  # from the release on the wire back to the lure
    tip_height_m: float = 1.2  # of rod tip or wire boom above the water
    zero: Zero = Zero.SURFACE  # what was out when the counter was set to zero
    aside_m: float = 0.0  # of the rod tip from the middle of the boat, to starboard
    line: tackle.LineKind = tackle.MONO
    lure: tackle.Lure = tackle.FLUTTER
    ball: tackle.Weight = tackle.BALL
    wire: tackle.LineKind = tackle.WIRE
    core: tackle.LineKind = tackle.CORE
    core_m: float = 91.44  # of weighted line on the reel
    leader: tackle.LineKind = tackle.FLUORO
    leader_m: float = 6.0  # behind core, disc or walker; above a drop weight
    sinker: tackle.Weight = tackle.CLIP
    ahead_m: float = 9.0  # of a clip weight ahead of the lure
    diver: tackle.Diver = tackle.DISC
    setting: int = 0  # of the disc: negative to port, positive to starboard
    board: tackle.Board = tackle.SIDE_BOARD
    board_m: float = 25.0  # of line out to the board
    cast_m: float = 25.0  # how far a lure is cast
    retrieve_mps: float = 0.6
    sweep_m: float = 0.8  # of line drawn by one pump of the rod
    hooks: int = 3
    hook_gap_m: float = 0.5
    start_above_m: float = 1.5  # under the ice the routine begins so far over the fish
    current: tuple[tuple[float, float], ...] = ()  # (depth, speed), positive the way the boat goes
    rho: float = RHO_FRESH
    speed_sd_mps: float = 0.08
    line_sd: float = 0.02  # of what is measured out, as a share
    count_sd_s: float = 0.5

    def __post_init__(self) -> None:
        if not 0.0 <= self.speed_mps <= FASTEST_MPS:
            raise ValueError(f"speed {self.speed_mps:g} m/s is outside 0 to {FASTEST_MPS:g}")
        if not 0.0 <= self.above_fish_m <= 10.0:
            raise ValueError(f"{self.above_fish_m:g} m over the fish is outside 0 to 10")
        for name, (low, high) in LIMITS.items():
            value = getattr(self, name)
            if not low <= value <= high:
                raise ValueError(
                    f"{name.removesuffix('_m').replace('_', ' ')} {value:g} is outside {low:g} to {high:g}"
                )
        if any(not (0.0 <= d <= DEEPEST_M and abs(v) <= FASTEST_MPS) for d, v in self.current):
            raise ValueError(f"a current runs at most {FASTEST_MPS:g} m/s, at depths of 0 to {DEEPEST_M:g} m")

    @property
    def stream(self) -> tuple[tuple[float, float], ...] | None:
        """Speed of the water past the boat by depth, where a current shears; else None."""
        return tuple((d, self.speed_mps - v) for d, v in self.current) or None

    def items(self) -> dict[str, tackle.Item]:
        """The tackle this way uses, by the name of its place."""
        return {slot: getattr(self, slot) for slot in SLOTS[self.method]}


LIMITS: dict[str, tuple[float, float]] = {
    "lead_m": (0.0, 100.0),
    "tip_height_m": (0.0, 5.0),
    "aside_m": (-6.0, 6.0),
    "core_m": (0.0, 400.0),
    "leader_m": (0.0, 60.0),
    "ahead_m": (0.0, 100.0),
    "setting": (-3, 3),
    "board_m": (1.0, 100.0),
    "cast_m": (1.0, 100.0),
    "retrieve_mps": (0.0, 4.0),
    "sweep_m": (0.05, 4.0),
    "hooks": (1, 12),
    "hook_gap_m": (0.05, 3.0),
    "start_above_m": (0.0, 10.0),
    "rho": (900.0, 1100.0),
    "speed_sd_mps": (0.0, 2.0),
    "line_sd": (0.0, 0.5),
    "count_sd_s": (0.0, 10.0),
}

# what each way is made of, and which of its numbers a person sets
SLOTS: dict[Method, tuple[str, ...]] = {
    Method.DOWNRIGGER: ("lure", "line", "ball", "wire"),
    Method.FLAT_LINE: ("lure", "line"),
    Method.WEIGHTED_LINE: ("lure", "leader", "core", "line"),
    Method.CLIP: ("lure", "line", "sinker"),
    Method.DIVER: ("lure", "leader", "diver", "line"),
    Method.WALKER: ("lure", "leader", "sinker", "line"),
    Method.BOARD: ("lure", "line", "board"),
    Method.CAST: ("lure", "line"),
    Method.RETRIEVE: ("lure", "line"),
    Method.PUMP: ("lure", "line"),
    Method.JIG: ("lure", "line"),
    Method.DROP_WEIGHT: ("sinker", "leader", "lure", "line"),
    Method.DROPPERS: ("sinker", "leader", "lure", "line"),
    Method.ICE: ("lure", "line"),
}
NUMBERS: dict[Method, tuple[str, ...]] = {
    Method.DOWNRIGGER: ("lead_m",),
    Method.FLAT_LINE: (),
    Method.WEIGHTED_LINE: ("leader_m", "core_m"),
    Method.CLIP: ("ahead_m",),
    Method.DIVER: ("leader_m", "setting"),
    Method.WALKER: ("leader_m",),
    Method.BOARD: ("board_m",),
    Method.CAST: ("cast_m",),
    Method.RETRIEVE: ("retrieve_mps",),
    Method.PUMP: ("cast_m", "sweep_m"),
    Method.JIG: (),
    Method.DROP_WEIGHT: ("leader_m",),
    Method.DROPPERS: ("hooks", "hook_gap_m"),
    Method.ICE: ("start_above_m",),
}
_USUAL: dict[Method, dict[str, object]] = {
    Method.DOWNRIGGER: {"lure": tackle.FLUTTER},
    Method.FLAT_LINE: {"lure": tackle.PLUG},
    Method.WEIGHTED_LINE: {"lure": tackle.FLUTTER, "leader_m": 6.0},
    Method.CLIP: {"lure": tackle.FLUTTER, "sinker": tackle.CLIP},
    Method.DIVER: {"lure": tackle.FLUTTER, "leader_m": 2.0},
    Method.WALKER: {"lure": tackle.BAIT, "sinker": tackle.WALKER, "leader_m": 1.5},
    Method.BOARD: {"lure": tackle.PLUG},
    Method.CAST: {"lure": tackle.SPOON},
    Method.RETRIEVE: {"lure": tackle.PLUG},
    Method.PUMP: {"lure": tackle.BLADE},
    Method.JIG: {"lure": tackle.JIG, "line": tackle.BRAID},
    Method.DROP_WEIGHT: {"lure": tackle.HOOK, "sinker": tackle.PENCIL, "leader_m": 0.4, "line": tackle.BRAID},
    Method.DROPPERS: {"lure": tackle.HOOK, "sinker": tackle.PENCIL, "line": tackle.BRAID},
    Method.ICE: {"lure": tackle.ICE_JIG, "line": tackle.FLUORO},
}
DRIFT_MPS = 0.0  # below the boat still water is the default: a drift is set, or follows from the wind


def default_setup(settings: RigSettings, method: Method) -> RigSettings:
    """The same rod rigged another way, with tackle that suits it; it keeps the day's speed and what is common."""
    changes: dict[str, Any] = {"line": tackle.MONO, **_USUAL[method]}
    here, there = FAMILY[settings.method], FAMILY[method]
    if here is not there and Family.VERTICAL in (here, there):
        changes["speed_mps"] = DRIFT_MPS if there is Family.VERTICAL else RigSettings().speed_mps
    return replace(settings, method=method, **changes)


@dataclass(frozen=True, slots=True, kw_only=True)
class Extra:
    """A further number of an answer: how fast to reel, how long to pause, how far aside."""

    name: str
    value: float  # SI
    kind: Kind | None = None  # None: seconds


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAnswer:
    """What to do to have the lure at a depth."""

    method: Method
    amount: Amount
    value: float  # metres out by the rod's own zero, or behind the board, metres of cast, or seconds
    depth_m: float  # of the lure
    depth_sd_m: float
    shape: tuple[tuple[float, float], ...]  # (aft, depth) from the lower end to the tip
    layback_m: float = 0.0  # of the lure behind the tip
    angle_deg: float = 0.0  # of wire or line at the surface, off the vertical
    blow_back_m: float = 0.0  # how far the wire's foot trails; 0 without a wire
    below_ball_m: float = 0.0  # how much deeper than its ball, disc or sinker the lure runs; 0 without
    ball: tuple[float, float] | None = None  # (aft, depth) of ball, sinker or disc
    lure: tuple[float, float] = (0.0, 0.0)  # (aft, depth)
    hooks: tuple[tuple[float, float], ...] = ()  # of droppers
    tension_n: float = 0.0  # at the surface
    aside_m: float = 0.0  # of the lure from the rod tip, to starboard
    band: tuple[float, float] | None = None  # depths between which it works, where that is more than one
    extras: tuple[Extra, ...] = ()
    cautions: tuple[Reason, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class CannotReach:
    """Why the depth can't be had this way, and the nearest that can."""

    method: Method
    reason: Reason
    nearest_depth_m: float
