"""The sun for many places and times at once: its height, and when it rises."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

_J2000_S = 946_728_000.0  # noon of 2000-01-01
_DAY_S = 86_400.0
_RISING_DEG = -0.833  # upper edge, with the air's usual bending


def _sun(time_s: Floats) -> tuple[Floats, Floats]:
    """Declination, radians, and equation of time, seconds."""
    days = (time_s - _J2000_S) / _DAY_S
    mean_longitude = np.radians((280.460 + 0.9856474 * days) % 360.0)
    anomaly = np.radians((357.528 + 0.9856003 * days) % 360.0)
    longitude = mean_longitude + np.radians(1.915 * np.sin(anomaly) + 0.020 * np.sin(2 * anomaly))
    tilt = np.radians(23.439 - 4e-7 * days)
    right_ascension = np.arctan2(np.cos(tilt) * np.sin(longitude), np.cos(longitude))
    apart = (mean_longitude - right_ascension + np.pi) % (2 * np.pi) - np.pi
    return np.arcsin(np.sin(tilt) * np.sin(longitude)), apart / (2 * np.pi) * _DAY_S


def sun_elevations_deg(latitude: ArrayLike, longitude: ArrayLike, time_s: ArrayLike) -> Floats:
    """
    Height of the sun's middle over the horizon without the air's bending, degrees.

    Notes
    -----
    The low-precision sun of the Astronomical Almanac: within 0.02 degrees from 1950 to 2050.

    Examples
    --------
    >>> float(sun_elevations_deg(0.0, 0.0, 1_774_008_480.0).round(0))  # noon of an equinox
    90.0
    """
    time = np.asarray(time_s, np.float64)
    declination, equation = _sun(time)
    hour = np.radians((time + equation) % _DAY_S / _DAY_S * 360.0 - 180.0 + np.asarray(longitude, np.float64))
    north = np.radians(np.asarray(latitude, np.float64))
    return np.degrees(
        np.arcsin(np.sin(north) * np.sin(declination) + np.cos(north) * np.cos(declination) * np.cos(hour))
    )


def sunrises_s(latitude: ArrayLike, longitude: ArrayLike, time_s: ArrayLike, utc_offset_s: ArrayLike) -> Floats:
    """
    Sunrise of the local day that holds each time, seconds since 1970 UTC; NaN where the sun does not rise or set.

    Notes
    -----
    From the hour angle at the height of -0.833 degrees; within two minutes below 60 degrees of latitude.
    """
    offset = np.asarray(utc_offset_s, np.float64)
    start = np.floor((np.asarray(time_s, np.float64) + offset) / _DAY_S) * _DAY_S - offset
    # noon of the sun on that local day: looked for about the day's middle
    _, equation = _sun(start + _DAY_S / 2)
    noon = -np.asarray(longitude, np.float64) / 360.0 * _DAY_S + _DAY_S / 2 - equation
    noon = noon + np.round((start + _DAY_S / 2 - noon) / _DAY_S) * _DAY_S
    declination, _ = _sun(noon - _DAY_S / 4)
    north = np.radians(np.asarray(latitude, np.float64))
    cosine = (np.sin(np.radians(_RISING_DEG)) - np.sin(north) * np.sin(declination)) / (
        np.cos(north) * np.cos(declination)
    )
    with np.errstate(invalid="ignore"):
        return noon - np.where(np.abs(cosine) <= 1.0, np.arccos(cosine), np.nan) / (2 * np.pi) * _DAY_S
