"""Lying at a place: rope for a depth, how far a boat swings, where to let the anchor go."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.geodesy import Position, offset

CALM_MPS = 4.0  # up to here a short stop on short rope holds (docs/handbook.md 7.8)
SHORT_SCOPE, LONG_SCOPE = 3.0, 5.0
BOW_M = 1.0  # of the roller over the water


@dataclass(frozen=True, slots=True)
class Rode:
    """Rope for a place."""

    rope_m: float
    swing_m: float
    pull_deg: float  # of the rope at the anchor, over level


def swing_radius(rope_m: float, depth_m: float, bow_m: float = BOW_M) -> float:
    """
    How far the bow lies from the anchor with taut rope, metres; 0 where the rope does not reach.

    Examples
    --------
    >>> round(swing_radius(21.0, 6.0), 1), round(swing_radius(35.0, 6.0), 1)
    (19.8, 34.3)
    """
    up = depth_m + bow_m
    return math.sqrt(max(rope_m**2 - up**2, 0.0))


def rode_for(depth_m: float, wind_mps: float, bow_m: float = BOW_M) -> Rode:
    """
    Rope to let out over a depth: three times the height in a calm, five times in wind.

    Examples
    --------
    >>> rode = rode_for(6.0, 8.0)
    >>> rode.rope_m, round(rode.swing_m, 1), round(rode.pull_deg, 1)
    (35.0, 34.3, 11.5)
    """
    scope = SHORT_SCOPE if wind_mps <= CALM_MPS else LONG_SCOPE
    rope = scope * (depth_m + bow_m)
    return Rode(rope, swing_radius(rope, depth_m, bow_m), math.degrees(math.asin(1.0 / scope)))


def moves_by(swing_m: float, shift_deg: float) -> float:
    """
    How far the boat moves when the wind shifts.

    Examples
    --------
    >>> round(moves_by(19.8, 30.0), 1)
    10.2
    """
    return 2.0 * swing_m * math.sin(math.radians(abs(shift_deg)) / 2.0)


def let_go_at(lies: Position, swing_m: float, from_deg: float) -> Position:
    """Where the anchor has to lie so that the boat comes to lie at a place: up-wind (or up-current) by the swing."""
    bearing = math.radians(from_deg)
    latitude, longitude = offset(
        lies.latitude, lies.longitude, swing_m * math.sin(bearing), swing_m * math.cos(bearing)
    )
    return Position(float(latitude), float(longitude))
