"""
What the log holds, as values: waters, trips, efforts, marks, catches, moments on the water, notes, limits.

All are SI. `id` is 0 until saved; `ref` names a row in files, for ever; `extra` is what an archive said of it that
has no field here, as JSON; `batch` is the import that brought it, 0 by hand.
"""

from __future__ import annotations

import math
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
    """A saved place: of what was seen, not of the boat. Depths None where unknown; time and place NaN."""

    id: int = 0  # 0 until saved
    ref: str = ""
    water: str
    kind: MarkKind
    time: float  # when it was seen
    latitude: float
    longitude: float
    position_sd_m: float | None = None
    depth_m: float | None = None
    bottom_depth_m: float | None = None
    seen: int = 1
    caught: int = 0  # besides the catches that are noted one by one
    source: str = ""  # recording it comes from
    name: str = ""
    note: str = ""
    picture: str = ""
    extra: str = ""
    batch: int = 0

    @property
    def is_placed(self) -> bool:
        """It can stand on a chart."""
        return math.isfinite(self.latitude) and math.isfinite(self.longitude)

    @property
    def height_above_bottom_m(self) -> float | None:
        """Of what was seen."""
        if self.depth_m is None or self.bottom_depth_m is None:
            return None
        return self.bottom_depth_m - self.depth_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Catch:
    """One fish landed, at a mark or at a place of its own. `around`: light, wind and all else of then, as JSON."""

    id: int = 0
    ref: str = ""
    mark_id: int | None = None
    effort: str = ""  # the ref of both
    trip: str = ""
    time: float
    species: str
    length_m: float | None = None
    weight_kg: float | None = None
    kept: bool = False
    angler: str = ""
    hook_place: str = ""
    condition: str = ""
    rig: str = ""  # how it was rigged, in words
    latitude: float | None = None
    longitude: float | None = None
    fish_depth_m: float | None = None
    lure_depth_m: float | None = None
    bottom_depth_m: float | None = None
    picture: str = ""
    around: str = ""
    note: str = ""
    extra: str = ""
    batch: int = 0


class MomentKind(Enum):
    """What was noted on the water with one key."""

    SEEN = "seen"
    FOLLOWED = "followed"
    TURNED = "turned"
    STRUCK = "struck"
    HOOKED = "hooked"
    LOST = "lost"
    BITTEN_OFF = "bitten off"
    CAUGHT = "caught"
    CONTACT = "contact"  # as somebody else calls it
    BIRDS_CIRCLING = "birds circling"
    BIRDS_DIVING = "birds diving"
    BIRDS_PASSING = "birds passing"
    BAIT_ON_TOP = "bait on top"
    FISH_BREAKING = "fish breaking"
    SEAM = "seam"
    WIND_TURNED = "wind turned"
    SIGN = "sign"  # as somebody else calls it
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
    MomentKind.TURNED,
    MomentKind.STRUCK,
    MomentKind.HOOKED,
    MomentKind.LOST,
    MomentKind.BITTEN_OFF,
    MomentKind.CAUGHT,
    MomentKind.CONTACT,
)
SIGNS = (
    MomentKind.BIRDS_CIRCLING,
    MomentKind.BIRDS_DIVING,
    MomentKind.BIRDS_PASSING,
    MomentKind.BAIT_ON_TOP,
    MomentKind.FISH_BREAKING,
    MomentKind.SEAM,
    MomentKind.WIND_TURNED,
    MomentKind.SIGN,
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """Something that happened, as far as it was known then; what is missing is filled in later."""

    id: int = 0  # 0 until saved
    ref: str = ""
    trip: str = ""  # its ref
    water: str
    kind: MomentKind
    time: float
    latitude: float | None = None  # of the boat
    longitude: float | None = None
    fish_depth_m: float | None = None
    bottom_depth_m: float | None = None
    lure_depth_m: float | None = None
    count: float | None = None  # how many
    seconds: float | None = None  # how long it lasted
    lure_did: str = ""
    bearing_deg: float | None = None  # of a sign, from the boat
    distance_m: float | None = None
    rig: str = ""  # in words
    source: str = ""  # recording that runs
    note: str = ""
    is_open: bool = False  # something is to be filled in
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedNote:
    """A note that tunes the rig: what was told of the depth, and the rod as it was, as JSON."""

    id: int = 0
    ref: str = ""
    time: float
    told: str
    depth_m: float
    value: float  # metres or seconds out, as the way of fishing measures it
    words: str = ""
    rod: str
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedWater:
    """A water as the log names it."""

    id: int = 0
    water: str
    latitude: float | None = None
    longitude: float | None = None
    time_zone: str = ""
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Trip:
    """An outing, with or without a fish."""

    id: int = 0
    ref: str = ""
    water: str = ""
    start: float | None = None
    end: float | None = None
    anglers: str = ""
    craft: str = ""
    note: str = ""
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Effort:
    """A stretch of fishing in which nothing below changed."""

    id: int = 0
    ref: str = ""
    trip: str = ""
    start: float | None = None
    end: float | None = None
    rods: float | None = None
    metres: float | None = None
    spot: str = ""
    latitude: float | None = None
    longitude: float | None = None
    bottom_depth_m: float | None = None
    lure_depth_m: float | None = None
    method: str = ""
    lure: str = ""
    lure_kind: str = ""
    colour: str = ""
    lure_length_m: float | None = None
    speed_mps: float | None = None
    wind_mps: float | None = None
    wind_from_deg: float | None = None
    cloud: float | None = None
    water_temperature_c: float | None = None
    secchi_m: float | None = None
    layer_m: float | None = None
    bait_distance_m: float | None = None
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """A rule a person has typed: the authority's as read on a day, or an own one. Days as month and day, 05-01."""

    id: int = 0
    ref: str = ""
    water: str = ""  # every one where empty
    species: str
    opens: str = ""
    closes: str = ""
    least_m: float | None = None
    most_m: float | None = None
    slot_low_m: float | None = None  # kept only outside this slot
    slot_high_m: float | None = None
    bag: float | None = None  # a day
    possession: float | None = None
    gear: str = ""
    source: str = ""
    dated: str = ""  # when it was read
    own: bool = False
    extra: str = ""
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptFile:
    """A file that came with an archive or belongs to a row, as its bytes are named beside the log."""

    id: int = 0
    path: str
    sha256: str
    size: int
    batch: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LogChange:
    """One row before and after a change, as JSON; empty where there was none, or is none."""

    id: int = 0
    time: float
    kind: str  # table
    row: int
    before: str
    after: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticeAnswer:
    """One item practised: of which skill, how hard on the logistic scale, whether it was right, how good 0 to 1."""

    id: int = 0
    ref: str = ""
    time: float
    skill: str
    difficulty: float
    right: bool
    score: float
    seed: int  # with it the very item comes again
    extra: str = ""
    batch: int = 0


Value = Mark | Catch | Moment | SavedNote | LoggedWater | Trip | Effort | Limit | KeptFile | PracticeAnswer
