"""
Geometry of the view to the side: ground range, height from a shadow, and the spread of both.

A target at slant range R throws its shadow on the bottom where the ray past it lands. Heights are above the bottom
under the target's shadow, altitudes are of the transducer over the bottom straight below it.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

STEEPEST_DEG = 60.0


def ground_range(slant_m: ArrayLike, altitude_m: ArrayLike, slope_deg: ArrayLike = 0.0) -> Floats:
    """
    Horizontal distance to the place on the bottom that a slant range looks at.

    Parameters
    ----------
    slant_m, altitude_m : array_like, broadcast to shape S, metres
        Slant range; height of the transducer over the bottom straight below it.
    slope_deg : array_like
        Of the bottom across the track; positive rises away on that side.

    Returns
    -------
    ndarray of shape S
        NaN where the range ends in the water, before the bottom's first return.

    Notes
    -----
    Law of cosines on a plane bottom; x = sqrt(R² - H²) where it is level.

    Examples
    --------
    >>> ground_range([25.0, 30.0, 30.0], [7.0, 10.0, 10.0], [0.0, 8.0, -8.0]).round(2).tolist()
    [24.0, 29.42, 26.66]
    """
    slant, height = np.asarray(slant_m, np.float64), np.asarray(altitude_m, np.float64)
    b = np.radians(np.asarray(slope_deg, np.float64))
    inside = slant**2 - (height * np.cos(b)) ** 2
    with np.errstate(invalid="ignore"):
        across = np.cos(b) * (height * np.sin(b) + np.sqrt(inside))
    return np.where((inside >= 0) & (across >= 0), across, np.nan)


def slant_range(ground_m: ArrayLike, altitude_m: ArrayLike, slope_deg: ArrayLike = 0.0) -> Floats:
    """
    Slant range to a place on the bottom: the inverse of `ground_range`, shape S.

    Examples
    --------
    >>> slant_range(24.0, 7.0).round(6).tolist()
    25.0
    """
    x, height = np.asarray(ground_m, np.float64), np.asarray(altitude_m, np.float64)
    return np.hypot(x, height - x * np.tan(np.radians(np.asarray(slope_deg, np.float64))))


def height_from_shadow(target_m: ArrayLike, shadow_m: ArrayLike, altitude_m: ArrayLike) -> Floats:
    """
    Height over the bottom of what throws a shadow that ends (for its top) or begins (for its underside) at a range.

    Parameters
    ----------
    target_m, shadow_m, altitude_m : array_like, broadcast to shape S, metres
        Slant ranges of echo and shadow; altitude straight below the transducer.

    Notes
    -----
    Similar triangles: h = H (Rs - Rt) / Rs; exact on a plane slope too, since H is measured straight down.

    Examples
    --------
    >>> height_from_shadow([30.0, 15.0], [36.0, 25.0], 10.0).round(3).tolist()
    [1.667, 4.0]
    """
    target, shadow = np.asarray(target_m, np.float64), np.asarray(shadow_m, np.float64)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(altitude_m, np.float64) * (shadow - target) / shadow


def shadow_range(target_m: ArrayLike, height_m: ArrayLike, altitude_m: ArrayLike) -> Floats:
    """
    Slant range at which the shadow of something lands: the inverse of `height_from_shadow`; else infinite.

    Examples
    --------
    >>> shadow_range(15.0, 4.0, 10.0).round(3).tolist()
    25.0
    """
    h, altitude = np.asarray(height_m, np.float64), np.asarray(altitude_m, np.float64)
    with np.errstate(divide="ignore"):
        return np.where(h < altitude, altitude * np.asarray(target_m) / np.maximum(altitude - h, 1e-12), np.inf)


def over_broken_bottom(
    target_m: float, shadow_end_m: float, ground_m: ArrayLike, bottom_m: ArrayLike
) -> tuple[float, float]:
    """
    Height over the bottom and ground range of what throws a shadow, over a bottom of any shape.

    Parameters
    ----------
    target_m, shadow_end_m : float
        Slant ranges of the echo and of the end of its shadow.
    ground_m, bottom_m : array_like (n,)
        The bottom across the track: distances from the track, rising, and depths under the transducer there.

    Returns
    -------
    height_m, ground_m : float
        NaN where the shadow's end meets no bottom, or the target would lie in it.

    Notes
    -----
    The ray past the target lands where the bottom's slant range is the shadow's; the target lies on that ray at its
    own range. Of several such places the nearest behind the target counts: farther ones lie in its shadow.

    Examples
    --------
    >>> x = np.linspace(0.0, 60.0, 601)
    >>> h, across = over_broken_bottom(30.0, 36.0, x, np.full(601, 10.0))
    >>> round(h, 3), round(across, 2)
    (1.667, 28.82)
    """
    x, z = np.asarray(ground_m, np.float64), np.asarray(bottom_m, np.float64)
    slant = np.hypot(x, z)
    crossing = np.flatnonzero((slant[:-1] - shadow_end_m) * (slant[1:] - shadow_end_m) <= 0.0)
    for k in crossing:
        step = slant[k + 1] - slant[k]
        share = (shadow_end_m - slant[k]) / step if step else 0.0
        end_x, end_z = x[k] + share * (x[k + 1] - x[k]), z[k] + share * (z[k + 1] - z[k])
        at_x, at_z = target_m / shadow_end_m * end_x, target_m / shadow_end_m * end_z
        height = float(np.interp(at_x, x, z, left=np.nan, right=np.nan)) - at_z
        if height >= -1e-9:
            return max(float(height), 0.0), float(at_x)
    return math.nan, math.nan


@dataclass(frozen=True, slots=True, kw_only=True)
class ShadowHeight:
    """What echo and shadow say of a target. One standard deviation each; NaN where it can't be told."""

    top_m: float  # height above the bottom
    top_sd_m: float
    underside_m: float
    underside_sd_m: float
    ground_m: float
    ground_sd_m: float
    size_m: float  # from underside to top
    size_sd_m: float

    @property
    def on_bottom(self) -> bool:
        """Whether the shadow begins at the echo: it stands on the bottom or lies close to it."""
        return not self.underside_m > 2 * self.underside_sd_m


def shadow_height(
    target_m: float,
    shadow_start_m: float,
    shadow_end_m: float,
    altitude_m: float,
    *,
    slope_deg: float = 0.0,
    click_sd_m: float = 0.05,
    altitude_sd_m: float = 0.1,
    slope_sd_deg: float = 3.0,
) -> ShadowHeight:
    """
    Measure a target by its echo and both ends of its shadow.

    Parameters
    ----------
    target_m, shadow_start_m, shadow_end_m : float
        Slant ranges; the shadow lies behind the echo.
    altitude_m : float
        Of the transducer over the bottom straight below.
    slope_deg : float
        Across the track; positive rises away.
    click_sd_m, altitude_sd_m, slope_sd_deg : float
        Spread of each range, of the altitude and of the slope.

    Raises
    ------
    ValueError
        In one line, if these can't be an echo and its shadow.

    Notes
    -----
    `height_from_shadow` for the two heights; the ray that passes the target lands at the shadow's end, so its ground
    range is that place's, scaled by Rt / Re. Spreads add up in squares over finite differences.

    Examples
    --------
    >>> g = shadow_height(15.0, 24.0, 25.0, 10.0)
    >>> round(g.top_m, 2), round(g.underside_m, 2), round(g.ground_m, 2)
    (4.0, 3.75, 13.75)
    """
    values = (target_m, shadow_start_m, shadow_end_m, altitude_m)
    if not all(math.isfinite(v) and v > 0 for v in values):
        raise ValueError("ranges and altitude must be above zero")
    if abs(slope_deg) > STEEPEST_DEG:
        raise ValueError(f"a slope of {slope_deg:.0f}° is steeper than sound can tell here")
    if not target_m <= shadow_start_m <= shadow_end_m:
        raise ValueError("a shadow lies behind its echo: click the echo first, then where the shadow starts and ends")
    if not math.isfinite(float(ground_range(shadow_end_m, altitude_m, slope_deg))):
        raise ValueError("the shadow ends before the bottom's first return: there is no bottom for it to fall on")

    def top(t: float, _s: float, e: float, h: float, _b: float) -> float:
        return float(height_from_shadow(t, e, h))

    def underside(t: float, s: float, _e: float, h: float, _b: float) -> float:
        return float(height_from_shadow(t, s, h))

    def across(t: float, _s: float, e: float, h: float, b: float) -> float:
        return float(ground_range(e, h, b)) * t / e

    def size(t: float, s: float, e: float, h: float, b: float) -> float:
        return top(t, s, e, h, b) - underside(t, s, e, h, b)

    at = (target_m, shadow_start_m, shadow_end_m, altitude_m, slope_deg)
    spreads = (click_sd_m, click_sd_m, click_sd_m, altitude_sd_m, slope_sd_deg)

    def measured(of: Callable[[float, float, float, float, float], float]) -> tuple[float, float]:
        value, square = of(*at), 0.0
        for i, sd in enumerate(spreads):
            ends = []
            for sign in (-1.0, 1.0):
                moved = list(at)
                moved[i] += sign * sd
                ends.append(of(*moved))
            step = abs(ends[1] - ends[0]) / 2 if all(map(math.isfinite, ends)) else abs(value)
            square += step**2
        return value, math.sqrt(square)

    (t, t_sd), (u, u_sd), (x, x_sd), (d, d_sd) = (measured(f) for f in (top, underside, across, size))
    return ShadowHeight(
        top_m=t,
        top_sd_m=t_sd,
        underside_m=u,
        underside_sd_m=u_sd,
        ground_m=x,
        ground_sd_m=x_sd,
        size_m=d,
        size_sd_m=d_sd,
    )


def without_shadow(
    target_m: float, altitude_m: float, *, slope_deg: float = 0.0, across_deg: float = 60.0
) -> tuple[float, float]:
    """
    Least and largest ground range of an echo whose shadow is not seen.

    Notes
    -----
    Between lying on the bottom and hanging level with the transducer; before the first return the bearing is only
    bound by the fan, which here is taken to look from straight below to level.

    Examples
    --------
    >>> least, most = without_shadow(15.0, 10.0)
    >>> round(least, 2), most
    (11.18, 15.0)
    """
    least = float(ground_range(target_m, altitude_m, slope_deg))
    if math.isfinite(least):
        return least, target_m
    # in the water column: nearer than the bottom itself, so anywhere in the fan
    return target_m * math.sin(math.radians(max(45.0 - across_deg / 2, 0.0))), target_m


_FIX_SD_M, _HEADING_SD_DEG, _TURN_LAG_S = 1.5, 2.0, 0.3


def place_spread(ground_m: float, ground_sd_m: float, turn_dps: float) -> float:
    """
    Spread of the place of something abeam, metres.

    Parameters
    ----------
    ground_m, ground_sd_m : float
        Distance and its spread.
    turn_dps : float
        How fast the boat turns, degrees a second: a heading comes some tenths of a second late.

    Examples
    --------
    >>> place_spread(20.0, 0.3, 10.0) > place_spread(20.0, 0.3, 0.0) > 1.5
    True
    """
    angle = math.radians(_HEADING_SD_DEG + abs(turn_dps) * _TURN_LAG_S)
    return math.sqrt(_FIX_SD_M**2 + ground_sd_m**2 + (ground_m * angle) ** 2)


def scan_width(
    altitude_m: float, speed_mps: float, sought_m: float, beam_along_deg: float, sound_speed_mps: float = 1480.0
) -> tuple[float, float]:
    """
    How far to look to each side for something of a size: slant range, and the ping interval that range needs.

    Parameters
    ----------
    altitude_m, speed_mps, sought_m : float
        Height over the bottom, boat's speed, length of what is sought.
    beam_along_deg : float
        Width of the fan along the track.

    Returns
    -------
    range_m, interval_s : float
        The longest slant range at which `sought_m` is still met by two pings and is no narrower than the fan.

    Notes
    -----
    Along-track resolution is the larger of R theta and v T, T = 2R/c; both must be at most half the thing, and a
    shadow falls best between 4 and 10 altitudes, so the range is never asked to pass 10.
    """
    by_beam = sought_m / max(math.radians(beam_along_deg), 1e-6)
    by_pings = sound_speed_mps * sought_m / (4 * max(speed_mps, 1e-3))
    reach = float(np.clip(min(by_beam, by_pings), 1.5 * altitude_m, 10 * altitude_m))
    return reach, 2 * reach / sound_speed_mps
