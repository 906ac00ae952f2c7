"""Sixteen points of the compass."""

from __future__ import annotations

POINTS = ("N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW")


def compass(degrees: float) -> str:
    """
    The nearest point.

    Examples
    --------
    >>> compass(225.0), compass(359.0)
    ('SW', 'N')
    """
    return POINTS[round(degrees / 22.5) % 16]
