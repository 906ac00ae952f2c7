"""What can speak for a place, and how much it counts where nobody says otherwise."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum


class Term(Enum):
    """What can speak for a place."""

    WINDOW = "window"  # that a person chose
    DEPTH = "depth"  # likely for the species today
    HABIT = "habit"
    LAYER = "layer"
    LIP = "lip"
    DEEP = "deep"
    SPAWN = "spawn"
    COVER = "cover"
    CURRENT = "current"
    WIND = "wind"
    LIGHT = "light"
    SHADE = "shade"
    BAIT = "bait"
    SEEN = "seen"
    RECORD = "record"
    GROUND = "ground"
    BANK = "bank"


DEFAULT_WEIGHTS: Mapping[Term, float] = {
    Term.WINDOW: 1.0,
    Term.DEPTH: 1.0,
    Term.HABIT: 1.0,
    Term.LAYER: 0.8,
    Term.LIP: 0.6,
    Term.DEEP: 0.5,
    Term.SPAWN: 1.0,
    Term.COVER: 0.6,
    Term.CURRENT: 0.5,
    Term.WIND: 0.3,
    Term.LIGHT: 0.3,
    Term.SHADE: 0.3,
    Term.BAIT: 0.8,
    Term.SEEN: 0.8,
    Term.RECORD: 0.8,
    Term.GROUND: 0.4,
    Term.BANK: 0.5,
}
