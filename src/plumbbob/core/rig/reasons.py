"""The codes of what a rig's answers and advice say beside their numbers; `plumbbob.wording.rig` has the words."""

from __future__ import annotations

from enum import Enum, auto


class WhyNot(Enum):
    """Why a depth cannot be had this way."""

    ABOVE_WATER = auto()
    BEYOND_ALL_LINE = auto()
    NEGATIVE_OUT = auto()
    TOO_MUCH_OUT = auto()
    NOTHING_IN_WATER = auto()
    FLOATS_AT_SURFACE = auto()  # lure
    LIP_TOO_SLOW = auto()
    DISC_TOO_SLOW = auto()
    BOARD_TOO_SLOW = auto()
    FLOATS_WITHOUT_LIP = auto()  # lure
    FLOATS_WITHOUT_WEIGHT = auto()  # lure
    LOWER_END_OUT = auto()
    WIRE_BLOWN_BACK = auto()
    LURE_TRAILS = auto()
    LINE_LIES_FLAT = auto()
    WEIGHT_TOO_LIGHT = auto()
    DISC_TRAILS = auto()
    DRIFT_LIFTS = auto()
    NO_MORE_LINE = auto()
    RIG_TOO_LONG = auto()
    SINKS_ON_LEAD = auto()
    RUNS_ON_LEADER = auto()
    WEIGHT_NOT_IN = auto()
    DISC_NOT_IN = auto()
    NO_LIP = auto()  # lure
    REEL_FASTER = auto()
    CAST_TOO_SHORT = auto()
    DIVES_DEEPER = auto()
    LINE_HOLDS_UP = auto()
    FLOATS_NO_COUNT = auto()  # lure


class RigCaution(Enum):
    """What to mind with an answer that can be had."""

    LINE_OFF_VERTICAL = auto()  # angle_deg
    WALKER_STEEP = auto()  # angle_deg, steepest_deg, flattest_deg
    WALKER_FLAT = auto()
    WEIGHT_NOT_ON_LINE = auto()
    UNDER_LAYER = auto()
    IN_LAYER = auto()
    UNDER_COMFORT = auto()  # species
    OVER_COMFORT = auto()  # species


class HangReason(Enum):
    """Why a lure hangs where it does for a fish."""

    ON_BOTTOM = auto()
    OWN_DEPTH = auto()
    LEVEL = auto()  # species
    JUST_UNDER = auto()  # species
    OVER_KNOWN = auto()  # species
    OVER = auto()
    UNDER_BAIT = auto()
    OVER_BAIT = auto()
    CLEAR_OF_WEED = auto()
    CLEAR_OF_BOTTOM = auto()
    CLEAR_WATER = auto()
    FAIRLY_CLEAR_WATER = auto()
    COLOURED_WATER = auto()
    LITTLE_LIGHT = auto()


class WayReason(Enum):
    """Whether a way reaches a depth today."""

    REACHES = auto()
    NOT_SURELY = auto()
    DRIFTS_AWAY = auto()  # angle_deg, grams
    NO_WEIGHT_HOLDS = auto()  # angle_deg
    NO_ICE = auto()
    ICE_UNCERTAIN = auto()
    TOO_MUCH_LINE = auto()  # line
    TOO_LONG_A_COUNT = auto()  # seconds
    WALKS_AT = auto()  # bottom
    WALKS = auto()
    WALKS_OVER = auto()  # off
    WALKS_UNDER = auto()  # off


class Topic(Enum):
    """What a piece of advice is about."""

    LIGHT = auto()
    PACE = auto()
    SIZE = auto()
    BEFORE_LEAVING = auto()
    BAIT = auto()
    NOISE = auto()


class Tip(Enum):
    """The advice itself."""

    GLOW = auto()  # share
    CONTRAST = auto()  # share
    REDS_GREY = auto()  # share
    BLUE_GONE = auto()  # share
    ONLY_WARM_COLOURS = auto()  # share
    ALL_COLOURS = auto()  # share
    BRIGHT_COLOURS = auto()  # share
    CHASE = auto()
    COLD = auto()  # temperature
    WARM = auto()  # temperature
    MIDDLING = auto()
    LIFTS = auto()  # temperature, few, many, low, high
    LIFTS_MIDDLING = auto()
    MATCH_BAIT = auto()
    CHANGE_IN_ORDER = auto()
    FRESH_BAIT = auto()  # minutes
    RATTLE = auto()
    QUIET = auto()


class SchoolReason(Enum):
    """What a school of practice holds, and why."""

    MATCH = auto()  # low, high
    BIG = auto()  # low, high
    LOUD = auto()
    QUIET = auto()
    SLOW = auto()  # low, high
    SLOW_FOR = auto()  # low, high, species
    FAST = auto()
    FAST_FOR = auto()
    SLOW_LIFTS = auto()  # lifts, height, rest
    FAST_LIFTS = auto()
