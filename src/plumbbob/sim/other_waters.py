"""The other made-up waters: Carrow Sound, a tidal reef, and Tern Pond, a kettle that freezes over; their surveys."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.geodesy import Position, offset
from plumbbob.core.types import Floats
from plumbbob.core.water.tide import HighOrLow, TideTable
from plumbbob.sim.adrift import REEF

CARROW, TERN = Position(52.4030, -24.6070), Position(49.1004, -36.2996)  # middles of the surveys
_CARROW_HALF_M, _TERN_HALF_M = (900.0, 700.0), (330.0, 230.0)
_M_PER_DEG = 111_200.0


def _hill(x: Floats, y: Floats, at: tuple[float, float], wide: tuple[float, float], turn_deg: float = 0.0) -> Floats:
    a = np.radians(turn_deg)
    dx, dy = x - at[0], y - at[1]
    u, v = dx * np.cos(a) + dy * np.sin(a), -dx * np.sin(a) + dy * np.cos(a)
    return np.exp(-((u / wide[0]) ** 2) - (v / wide[1]) ** 2)


def _from(middle: Position, place: Position) -> tuple[float, float]:
    north = (place.latitude - middle.latitude) * _M_PER_DEG
    return (place.longitude - middle.longitude) * _M_PER_DEG * float(np.cos(np.radians(middle.latitude))), north


TIDES_FROM = 1767225600.0  # 1 January 2026
_CARROW_TIDE = ((1.55, 12.4206, 0.6), (0.5, 12.0, 2.1), (0.28, 12.6583, 4.0))  # metres, hours, lag


def carrow_depth(east_m: Floats, north_m: Floats) -> Floats:
    """
    Carrow Sound under its datum: kelp along the north shore, sand at 18 m, a reef, a tide race in a gut of 34 m.

    Parameters
    ----------
    east_m, north_m : ndarray
        From `CARROW`.
    """
    x, y = np.asarray(east_m, np.float64), np.asarray(north_m, np.float64)
    reef = _from(CARROW, REEF)
    shelf = 18.0 / (1.0 + np.exp((y - 480.0 - 40.0 * np.sin(x / 160.0)) / 38.0))
    gut = 16.0 * np.exp(-(((y + 260.0 + 0.12 * x) / 130.0) ** 2))
    # the reef's crest is 24 m along the drift of the outing, across it
    crest = (reef[0] + 24.0 * np.sin(np.radians(62.0)), reef[1] + 24.0 * np.cos(np.radians(62.0)))
    ridge = 6.0 * _hill(x, y, crest, (150.0, 12.0), -62.0)
    pinnacle = 15.0 * _hill(x, y, (420.0, -60.0), (46.0, 30.0), 20.0)
    rough = 0.1 * np.sin(x / 9.7 + 0.6 * np.sin(y / 23.0)) + 0.08 * np.sin(y / 13.1 + x / 31.0)
    return np.asarray(shelf + gut - ridge - pinnacle + rough)


def tern_depth(east_m: Floats, north_m: Floats) -> Floats:
    """
    Tern Pond: two holes of 9 and 12 m, a hump between them, a shallow bay with weed, a steep west bank.

    Parameters
    ----------
    east_m, north_m : ndarray
        From `TERN`.
    """
    x, y = np.asarray(east_m, np.float64), np.asarray(north_m, np.float64)
    away = np.hypot(x / _TERN_HALF_M[0], y / _TERN_HALF_M[1]) * (1.0 + 0.05 * np.sin(3 * np.arctan2(y, x)))
    bowl = 5.6 / (1.0 + np.exp((away - 0.82) / 0.055))
    deep = 6.6 * _hill(x, y, (-150.0, 20.0), (90.0, 70.0)) + 3.4 * _hill(x, y, (130.0, -30.0), (80.0, 60.0))
    hump = 2.2 * _hill(x, y, (0.0, 10.0), (34.0, 26.0))
    bay = 2.6 * _hill(x, y, (210.0, 120.0), (80.0, 55.0))
    return np.asarray(np.maximum(bowl + deep * (bowl / 5.6) - hump - bay - 0.25, -1.5))


def carrow_tide(start: float, days: int = 1095) -> TideTable:
    """High and low waters of Carrow Sound from a day on: the tides of moon and sun, about 2.9 m over its datum."""
    hour = np.arange(0.0, 24.0 * days, 0.05)
    parts = [a * np.cos(2 * np.pi * hour / period + lag) for a, period, lag in _CARROW_TIDE]
    level = 2.9 + np.sum(parts, axis=0)
    turn = np.flatnonzero(np.diff(np.sign(np.diff(level)))) + 1
    return TideTable([HighOrLow(start + 3600.0 * float(hour[k]), round(float(level[k]), 2)) for k in turn])


def carrow_survey(seed: int) -> Soundings:
    """Soundings of Carrow Sound from a kayak, corrected for the tide, in lines 25 m apart."""
    return _survey(seed, CARROW, carrow_depth, _CARROW_HALF_M, 25.0, 0.06)


def tern_survey(seed: int) -> Soundings:
    """A summer's soundings of Tern Pond, in lines 12 m apart."""
    return _survey(seed, TERN, tern_depth, _TERN_HALF_M, 12.0, 0.04)


def _survey(
    seed: int,
    middle: Position,
    depth_of: Callable[[Floats, Floats], Floats],
    half_m: tuple[float, float],
    lines_m: float,
    noise_m: float,
) -> Soundings:
    rng = np.random.default_rng(seed)
    xs, ys = [], []
    for k, north in enumerate(np.arange(-half_m[1], half_m[1], lines_m)):
        x = np.arange(-half_m[0], half_m[0], 2.0)[:: -1 if k % 2 else 1]
        xs.append(x)
        ys.append(north + 0.15 * lines_m * np.sin(x / 90.0 + k))
    x, y = np.concatenate(xs), np.concatenate(ys)
    depth = depth_of(x, y)
    read = depth + rng.normal(0.0, 1.0, x.size) * np.hypot(noise_m, 0.005 * depth)
    wet = depth > 0.6
    latitude, longitude = offset(middle.latitude, middle.longitude, x, y)
    return Soundings(
        latitude=latitude[wet],
        longitude=longitude[wet],
        depth_m=read[wet],
        water_level_m=np.zeros(int(wet.sum())),
        time=np.asarray(1_785_000_000.0 + 1.2 * np.arange(x.size)[wet], np.float64),
    )
