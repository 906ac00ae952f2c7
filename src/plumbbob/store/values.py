"""What the log holds, as values: marks, catches, moments on the water, notes of the rig."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum


class MarkKind(Enum):
    """What was seen at a mark."""

    FISH = "fish"
    BAIT = "bait"
    STRUCTURE = "structure"
    HAZARD = "hazard"
    PLACE = "place"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A saved place: of what was seen, not of the boat. Depths in metres, NaN never: None where unknown."""

    id: int = 0  # 0 until saved
    water: str
    kind: MarkKind
    time: float  # when it was seen
    latitude: float
    longitude: float
    position_sd_m: float | None = None
    depth_m: float | None = None
    bottom_depth_m: float | None = None
    seen: int = 1
    source: str = ""  # recording it comes from
    note: str = ""

    @property
    def height_above_bottom_m(self) -> float | None:
        """Of what was seen."""
        if self.depth_m is None or self.bottom_depth_m is None:
            return None
        return self.bottom_depth_m - self.depth_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Catch:
    """One fish landed, at a mark."""

    id: int = 0
    mark_id: int
    time: float
    species: str
    length_m: float | None = None
    kept: bool = False
    rig: str = ""  # how it was rigged, in words
    lure_depth_m: float | None = None
    note: str = ""


class MomentKind(Enum):
    """What was noted on the water with one key."""

    SEEN = "seen"
    FOLLOWED = "followed"
    STRUCK = "struck"
    HOOKED = "hooked"
    LOST = "lost"
    CAUGHT = "caught"
    BIRDS_CIRCLING = "birds circling"
    BIRDS_DIVING = "birds diving"
    BIRDS_PASSING = "birds passing"
    BAIT_ON_TOP = "bait on top"
    FISH_BREAKING = "fish breaking"
    SEAM = "seam"
    WIND_TURNED = "wind turned"
    PASS_BEGINS = "pass begins"
    PASS_ENDS = "pass ends"
    DRIFT_BEGINS = "drift begins"
    DRIFT_ENDS = "drift ends"
    SET_BEGINS = "set begins"
    SET_ENDS = "set ends"
    BAIT_CHANGED = "bait changed"
    SNAPSHOT = "snapshot"


CONTACTS = (
    MomentKind.SEEN,
    MomentKind.FOLLOWED,
    MomentKind.STRUCK,
    MomentKind.HOOKED,
    MomentKind.LOST,
    MomentKind.CAUGHT,
)
SIGNS = (
    MomentKind.BIRDS_CIRCLING,
    MomentKind.BIRDS_DIVING,
    MomentKind.BIRDS_PASSING,
    MomentKind.BAIT_ON_TOP,
    MomentKind.FISH_BREAKING,
    MomentKind.SEAM,
    MomentKind.WIND_TURNED,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """Something that happened, as far as it was known then; what is missing is filled in later."""

    id: int = 0  # 0 until saved
    water: str
    kind: MomentKind
    time: float
    latitude: float | None = None  # of the boat
    longitude: float | None = None
    fish_depth_m: float | None = None
    bottom_depth_m: float | None = None
    lure_depth_m: float | None = None
    rig: str = ""  # in words
    source: str = ""  # recording that runs
    note: str = ""
    is_open: bool = False  # something is to be filled in


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedNote:
    """A note that tunes the rig: what was told of the depth, and the rod as it was, as JSON."""

    id: int = 0
    time: float
    told: str
    depth_m: float
    value: float  # metres or seconds out, as the way of fishing measures it
    words: str = ""
    rod: str
