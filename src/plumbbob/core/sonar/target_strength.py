"""Echo of a fish by its length, and what lengths an echo may mean (Love 1977; docs/handbook.md, 1.4)."""

from __future__ import annotations

import math

LOVE_SLOPE, LOVE_FREQUENCY, LOVE_LEVEL_DB = 19.1, 0.9, 62.0
SCATTER_DB = 6.0  # of single fish; it doubles a length


def target_strength_db(length_cm: float, frequency_khz: float) -> float:
    """
    Of any fish from above, dB.

    Examples
    --------
    >>> round(target_strength_db(30.0, 200.0), 2)
    -35.86
    """
    return LOVE_SLOPE * math.log10(length_cm) - LOVE_FREQUENCY * math.log10(frequency_khz) - LOVE_LEVEL_DB


def fish_length_cm(strength_db: float, frequency_khz: float) -> float:
    """
    Length that gives an echo of that strength on average, cm.

    Examples
    --------
    >>> round(fish_length_cm(-35.86, 200.0), 1)
    30.0
    """
    return float(10 ** ((strength_db + LOVE_LEVEL_DB + LOVE_FREQUENCY * math.log10(frequency_khz)) / LOVE_SLOPE))
