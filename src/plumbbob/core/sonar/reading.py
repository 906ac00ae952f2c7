"""What was read from a recording: bottom, fish, bait, standing things, the cold layer. Values only."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import Enum, auto

import numpy as np

from plumbbob.core.types import Floats


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Bottom:
    """
    The bottom under every ping; depth and hardness are NaN where it was lost or out of range.

    `depth_m` is where its echo starts: over a slope that is the nearest edge of the beam. `below_m` is the depth
    straight under the transducer that this and the slope along the pass make likely.
    """

    time: Floats
    depth_m: Floats
    hardness: Floats  # 0 soft to 1 hard, relative within this recording
    below_m: Floats = field(default_factory=lambda: np.zeros(0))
    slope_deg: Floats = field(default_factory=lambda: np.zeros(0))
    dead_zone_m: Floats = field(default_factory=lambda: np.zeros(0))  # height over the bottom that can't be seen

    def depth_at(self, time_s: float) -> float:
        """Depth at the ping nearest in time; NaN where lost."""
        return _at(self.time, self.depth_m, time_s)

    def at(self, time_s: float, values: Floats) -> float:
        """One of the other columns at the ping nearest in time."""
        return _at(self.time, values, time_s)


def _at(time: Floats, values: Floats, time_s: float) -> float:
    if not time.size or values.size != time.size:
        return float("nan")
    i = int(np.clip(np.searchsorted(time, time_s), 1, max(time.size - 1, 1)))
    if i >= time.size or abs(time[i - 1] - time_s) <= abs(time[i] - time_s):
        i -= 1
    return float(values[i])


@dataclass(frozen=True, slots=True, kw_only=True)
class Fish:
    """One fish, where its arc says it was at the closest approach."""

    time: float
    time_in: float
    time_out: float
    depth_m: float  # from the range at closest approach: right for a fish under the boat
    depth_sd_m: float
    height_above_bottom_m: float  # NaN where the bottom is lost
    off_axis_m: float  # distance to the side of the track; NaN where it can't be told
    off_axis_sd_m: float
    latitude: float  # of the transducer at closest approach: the side can't be known
    longitude: float
    position_sd_m: float
    level_db: float  # over the noise, at the strongest ping
    pings: int
    strength_db: float = float("nan")  # freed of range and beam; comparable within one recording only
    strength_sd_db: float = float("nan")
    hand: str = ""  # what a person said of it: "", "accepted", "moved", "drawn"


@dataclass(frozen=True, slots=True, kw_only=True)
class Bait:
    """One dense cloud of small echoes."""

    time_start: float
    time_end: float
    depth_top_m: float
    depth_bottom_m: float
    latitude: float
    longitude: float
    level_db: float
    shape: str = ""  # ball, carpet or cloud
    length_m: float = float("nan")  # along the pass, the beam's width taken off; NaN where the boat stood
    fill: float = float("nan")  # share of samples inside the outline that are loud
    outline: tuple[tuple[float, float, float], ...] = ()  # (time, top, base), in order of time
    hand: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingObject:
    """Something that stands on the bottom: weed, timber or unknown."""

    time_start: float
    time_end: float
    height_m: float
    kind: str
    detail: str = ""  # more than the kind says: "brush pile"
    bottom_m: float = float("nan")
    latitude: float = float("nan")
    longitude: float = float("nan")
    length_m: float = float("nan")
    fish_inside: int = 0
    fish_over: int = 0  # within three metres above its top
    outline: tuple[tuple[float, float, float], ...] = ()
    hand: str = ""


class LayerReason(Enum):
    """What speaks for a cold layer or against it."""

    TEMPERATURE = auto()  # of the surface: cold water holds up no layer
    THICKNESS = auto()
    ENDS = auto()  # in open water
    BELOW_BOTTOM = auto()  # noise keeps its range under the bottom too
    RULED = auto()  # as straight as a line: nothing in water is
    WAVES = auto()  # it rises and falls as layers do


@dataclass(frozen=True, slots=True, kw_only=True)
class Thermocline:
    """A layer of echo that keeps its depth over a changing bottom: most likely the thermocline."""

    depth_m: float
    thickness_m: float
    confidence: float  # 0 to 1
    depth_sd_m: float
    tilt: float = float("nan")  # metres deeper per kilometre along the pass
    tilt_sd: float = float("nan")
    path: tuple[tuple[float, float], ...] = ()  # (time, depth) along the pass
    share: float = float("nan")  # of the water deep enough for it in which it shows
    why: tuple[tuple[LayerReason, float], ...] = ()  # odds for (over 0) and against, the strongest first


@dataclass(frozen=True, slots=True, kw_only=True)
class Trail:
    """Something that stays in the beam longer than the boat's passing explains: it moves, or it follows."""

    kind: str  # "falling lure", "lure", "moving fish", "following fish"
    time: tuple[float, ...]
    depth_m: tuple[float, ...]
    sink_mps: float  # mean speed downwards; negative rises
    level_db: float


class SideReason(Enum):
    """What speaks for or against a fish."""

    STANDS_OUT = auto()  # from the ground about it, as this recording's ground goes
    LENGTH = auto()  # along the way, against the fan's width
    THICKNESS = auto()  # along the range, against the pulse
    SURROUNDINGS = auto()  # other bright things about it
    SHADOW = auto()
    FIRST_RETURN = auto()
    EVEN = auto()
    IN_WATER = auto()


@dataclass(frozen=True, slots=True, kw_only=True)
class Other:
    """An echo that a person said is something else."""

    time: float
    depth_m: float
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SideFish:
    """One fish seen from the side: a short bright echo, with its shadow where that can be found."""

    time: float
    side: str  # "port" or "starboard"
    slant_m: float
    ground_m: float  # horizontal distance to the side of the transducer
    ground_sd_m: float
    height_m: float  # above the bottom; NaN where no shadow was found
    height_sd_m: float
    depth_m: float  # NaN as the height
    shadow_m: float  # slant range of its shadow; NaN where none was found
    altitude_m: float  # of the transducer there
    latitude: float
    longitude: float
    position_sd_m: float
    level_db: float  # over what surrounds it
    in_water: bool = False  # nearer than the bottom itself: it hangs for certain
    beside: str = ""  # kind of the standing thing it lies off
    hand: str = ""
    chance: float = 1.0  # that it is a fish
    why: tuple[tuple[SideReason, float], ...] = ()  # what speaks for it (over 0) and against, in log odds

    @property
    def least_height_m(self) -> float:
        """Height over the bottom that its range alone proves; 0 where it could lie on it."""
        return max(self.altitude_m - self.slant_m, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class SideThing:
    """Something seen from the side that stands on the bottom and throws a shadow."""

    kind: str  # "timber", "brush", "edge" or "unknown"
    time_start: float
    time_end: float
    side: str
    slant_m: float  # to its near edge
    shadow_m: float  # to the end of its shadow
    ground_m: float
    ground_sd_m: float
    height_m: float
    height_sd_m: float
    length_m: float  # along the track; NaN where the boat stood
    latitude: float
    longitude: float
    at_least: bool = False  # its shadow runs out of the picture: it may be higher

    @property
    def time(self) -> float:
        """Its middle."""
        return (self.time_start + self.time_end) / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Strung:
    """Fish in a line along one side, near the bottom."""

    side: str
    fish: tuple[int, ...]  # indices into the side's fish
    time_start: float
    time_end: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SideSchool:
    """Many fish together to one side: single ones that can still be counted, or a ball of bait that can't."""

    kind: str  # "school" or "bait"
    side: str
    time_start: float
    time_end: float
    near_m: float  # slant ranges
    far_m: float
    ground_m: float  # of its middle
    ground_sd_m: float
    length_m: float  # along the way
    least: int  # fish counted; 0 where it is too dense to count
    fish: tuple[int, ...]  # indices into the side's fish
    low_m: float  # heights over the bottom of its lower and upper edge, by the shadow they have together; NaN: untold
    high_m: float
    height_sd_m: float
    latitude: float
    longitude: float
    in_water: bool = False  # nearer than the bottom itself: it hangs for certain

    @property
    def time(self) -> float:
        """Its middle."""
        return (self.time_start + self.time_end) / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class GroundPatch:
    """A tile of bottom to one side that is of another kind than most of the pass."""

    kind: str  # "hard", "soft", "stony", "rippled" or "weed"
    chance: float
    side: str
    time_start: float
    time_end: float
    near_m: float  # ground ranges
    far_m: float
    level_db: float  # over the usual bottom of the pass at that range
    level_sd_db: float
    latitude: float  # of its middle
    longitude: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class SideReading:
    """What was read from the view to the side."""

    time: Floats
    altitude_m: Floats  # (pings,) of the transducer over the bottom straight below
    slope_deg: Floats = field(default_factory=lambda: np.zeros(0))  # (pings,) across; falls to starboard over 0
    slope_sd_deg: Floats = field(default_factory=lambda: np.zeros(0))
    fish: tuple[SideFish, ...] = ()
    things: tuple[SideThing, ...] = ()
    strung: tuple[Strung, ...] = ()
    schools: tuple[SideSchool, ...] = ()
    ground: tuple[GroundPatch, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ForwardTarget:
    """One fish, or the lure, followed through frames of the forward view. Arrays of shape (frames,)."""

    kind: str  # "fish" or "lure"
    time: Floats
    slant_m: Floats
    distance_m: Floats  # horizontal, from the transducer
    depth_m: Floats
    level_db: Floats  # over what surrounds it
    azimuth_deg: Floats  # of the fish from the bow
    azimuth_sd_deg: float
    latitude: Floats
    longitude: Floats
    depth_sd_m: float
    position_sd_m: float
    best: int  # frame in which it stands out most
    towards_mps: float  # how fast it comes nearer, through the water as far as the track tells; NaN unknown
    sinks_mps: float
    hand: str = ""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ForwardReading:
    """What was read from the view ahead."""

    time: Floats
    bottom_depth_m: Floats  # (pings,) under the transducer, NaN where the fan does not reach it
    tracks: tuple[ForwardTarget, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """All that was read from one recording, in order of time."""

    bottom: Bottom
    fish: tuple[Fish, ...] = ()
    bait: tuple[Bait, ...] = ()
    standing: tuple[StandingObject, ...] = ()
    cold_layer: Thermocline | None = None
    no_layer: Thermocline | None = None  # a level band that something speaks against: plankton, or noise
    trails: tuple[Trail, ...] = ()
    others: tuple[Other, ...] = ()
    ceiling_m: Floats = field(default_factory=lambda: np.zeros(0))  # (pings,) the surface's clutter ends here
    side: SideReading | None = None
    ahead: ForwardReading | None = None


EMPTY = Reading(bottom=Bottom(time=np.zeros(0), depth_m=np.zeros(0), hardness=np.zeros(0)))
