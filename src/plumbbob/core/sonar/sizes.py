"""How big a fish may be, told from its echo: a class within one recording, never a length."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plumbbob.core.sonar.beam import one_way_gain
from plumbbob.core.sonar.reading import Fish

WORDS = ("small", "middling", "large")
_TILT_SD_DB = 5.0  # how a fish holds itself: the same fish differs by this from ping to ping (Love 1977)
_LEVEL_SD_DB = 1.5
_UNKNOWN_SIDE_DB, _UNKNOWN_SIDE_SD_DB = 3.5, 3.0  # two-way loss of a place anywhere in the cone
_EDGE_DB = 5.0  # a class starts this far from the middle: a length about 1.8 times as great
_LOVE = 19.1  # dB per tenfold length, any fish from above (Love 1977)
_LEAST_FISH = 6


def target_strength(
    level_db: float, range_m: float, off_axis_m: float, off_axis_sd_m: float, beam_width_deg: float, loss: float
) -> tuple[float, float]:
    """
    Strength of a single target freed of range, absorption and beam, and its spread; relative, in decibels.

    Parameters
    ----------
    level_db : float
        Over the noise, without any range correction.
    range_m, off_axis_m, off_axis_sd_m : float
        Side distance NaN where it can't be told: the loss of a place anywhere in the cone is taken then.
    beam_width_deg, loss : float
        Full width; absorption in dB per metre, one way.

    Notes
    -----
    TS = EL + 40 log R + 2 alpha R - 2 B(theta) + constant (Urick 1983). The constant is the sounder's own.

    Examples
    --------
    >>> a, _ = target_strength(30.0, 10.0, 0.0, 0.1, 16.0, 0.01)
    >>> b, _ = target_strength(30.0 - 12.04 - 0.2, 20.0, 0.0, 0.1, 16.0, 0.01)
    >>> abs(a - b) < 0.01
    True
    """
    r = max(range_m, 0.3)
    base = level_db + 40.0 * math.log10(r) + 2.0 * loss * r
    if not math.isfinite(off_axis_m):
        return base + _UNKNOWN_SIDE_DB, math.hypot(_LEVEL_SD_DB, _UNKNOWN_SIDE_SD_DB)
    beside = np.clip(off_axis_m + off_axis_sd_m * np.array([-1.0, 0.0, 1.0]), 0.0, 0.9 * r)
    gain = 20.0 * np.log10(np.maximum(one_way_gain(np.arcsin(beside / r), beam_width_deg), 1e-3))
    return base - float(gain[1]), math.hypot(_LEVEL_SD_DB, float(np.ptp(gain)) / 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class SizeClass:
    """Small, middling or large among the fish of one recording, with what else it could be."""

    word: str  # the likeliest class; "unknown" where there are too few fish to compare
    chances: tuple[float, float, float]  # of small, middling, large
    factor: float  # length over that of the middle fish of this recording
    factor_low: float  # one spread either way
    factor_high: float


UNKNOWN = SizeClass(word="unknown", chances=(1 / 3, 1 / 3, 1 / 3), factor=1.0, factor_low=0.0, factor_high=math.inf)


def usual_strength(fish: Sequence[Fish]) -> float:
    """Median strength of a recording's fish; NaN where too few are there to compare with."""
    known = [f.strength_db for f in fish if math.isfinite(f.strength_db)]
    return float(np.median(known)) if len(known) >= _LEAST_FISH else math.nan


def size_class(fish: Fish, usual_db: float) -> SizeClass:
    """
    Where a fish's echo stands against the usual one of the same recording.

    Notes
    -----
    Strength against the recording's median, since a consumer sounder is not calibrated. A fish that tilts by 20
    degrees loses 10 dB and more, so chances are spread over 5 dB on top of what geometry leaves open.
    """
    over = fish.strength_db - usual_db
    if not math.isfinite(over):
        return UNKNOWN
    sd = math.hypot(fish.strength_sd_db, _TILT_SD_DB)
    small, large = _below((-_EDGE_DB - over) / sd), _below((over - _EDGE_DB) / sd)
    chances = (small, 1.0 - small - large, large)
    return SizeClass(
        word=WORDS[int(np.argmax(chances))],
        chances=chances,
        factor=10 ** (over / _LOVE),
        factor_low=10 ** ((over - sd) / _LOVE),
        factor_high=10 ** ((over + sd) / _LOVE),
    )


def _below(z: float) -> float:
    """Chance of a normal variable to lie under z spreads."""
    return 0.5 * (1.0 + math.erf(z / math.sqrt(2.0)))
