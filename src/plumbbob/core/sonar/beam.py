"""A round transducer's beam: its pattern, its footprint, where it is blind. docs/handbook.md, 1.5 to 1.7."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike

from plumbbob.core.types import Floats

PISTON_HALF_POWER_X = 1.6163  # ka sin(theta) where the one-way power of a round piston is one half
PISTON_FIRST_ZERO_X = 3.8317


def piston_ka(beam_width_deg: float) -> float:
    """
    Wave number times radius of the round piston that has this full -3 dB width.

    Examples
    --------
    >>> round(piston_ka(8.73), 2)
    21.24
    """
    return PISTON_HALF_POWER_X / math.sin(math.radians(beam_width_deg / 2))


def _j1_over_x(x: Floats) -> Floats:
    """J1(x)/x for 0 <= x: series near zero, then the rational fit of Abramowitz & Stegun 9.4.4 and 9.4.6."""
    near = np.clip(x, 0.0, 3.0) / 3.0
    u = near * near
    series = 0.5 + u * (
        -0.56249985 + u * (0.21093573 + u * (-0.03954289 + u * (0.00443319 + u * (-0.00031761 + u * 0.00001109))))
    )
    far = np.maximum(x, 3.0)
    v = 3.0 / far
    size = 0.79788456 + v * (
        0.00000156 + v * (0.01659667 + v * (0.00017105 + v * (-0.00249511 + v * (0.00113653 - v * 0.00020033))))
    )
    phase = (
        far
        - 2.35619449
        + v
        * (0.12499612 + v * (0.00005650 + v * (-0.00637879 + v * (0.00074348 + v * (0.00079824 - v * 0.00029166)))))
    )
    return np.where(x <= 3.0, series, size * np.cos(phase) / (far * np.sqrt(far)))


def one_way_gain(angle_rad: ArrayLike, beam_width_deg: float) -> Floats:
    """
    One-way power of a round piston relative to its axis, 0 to 1.

    Parameters
    ----------
    angle_rad : array_like of shape S
        Angle off the axis.
    beam_width_deg : float
        Full width at -3 dB.

    Notes
    -----
    (2 J1(x)/x)^2, x = ka sin(angle); Urick (1983).

    Examples
    --------
    >>> round(float(one_way_gain(np.radians(5.0), 10.0)), 3)
    0.5
    """
    x = piston_ka(beam_width_deg) * np.sin(np.minimum(np.abs(np.asarray(angle_rad, np.float64)), np.pi / 2))
    return (2.0 * _j1_over_x(x)) ** 2


def footprint_diameter(range_m: ArrayLike, beam_width_deg: float) -> Floats:
    """
    Width of the circle inside the -3 dB cone at a range.

    Examples
    --------
    >>> round(float(footprint_diameter(10.0, 20.0)), 3)
    3.527
    """
    return 2.0 * np.asarray(range_m, np.float64) * math.tan(math.radians(beam_width_deg / 2))


def off_axis_from_chord(
    least_range_m: float, beam_width_deg: float, speed_mps: float, seconds: float
) -> tuple[float, float]:
    """
    Depth under the transducer and distance to the side of something that stayed so long in a cone.

    Parameters
    ----------
    least_range_m : float
        Slant range at the closest point.
    beam_width_deg : float
        Full angle of the cone in which it was counted.
    speed_mps, seconds : float
        Speed of the pass and time inside the cone.

    Returns
    -------
    vertical_m, off_axis_m : float
        Never which side: one round beam cannot know. NaN, both, where nothing stays so long at that range.

    Notes
    -----
    Exact in a cone: D = cos(phi) sqrt(R0^2 + (v T / 2)^2), y^2 = R0^2 - D^2.

    Examples
    --------
    >>> d, y = off_axis_from_chord(30.0, 20.0, 1.2, 5.0)
    >>> round(d, 4), round(y, 4)
    (29.6916, 4.2907)
    """
    half = speed_mps * seconds / 2
    vertical = math.cos(math.radians(beam_width_deg / 2)) * math.hypot(least_range_m, half)
    if vertical > least_range_m * (1 + 1e-9):
        return math.nan, math.nan
    return vertical, math.sqrt(max(least_range_m**2 - vertical**2, 0.0))


def first_echo_range(height_m: ArrayLike, beam_width_deg: float, slope_deg: ArrayLike = 0.0) -> Floats:
    """
    Range of the first bottom echo over a plane slope: its nearest point inside the beam.

    Notes
    -----
    d cos b while the slope b is inside the beam; beyond it the beam's uphill edge answers first, at
    d cos b / cos(b - phi).

    Examples
    --------
    >>> [round(20.0 - float(first_echo_range(20.0, 20.0, b)), 3) for b in (0.0, 8.0, 20.0)]
    [0.0, 0.195, 0.916]
    """
    b = np.abs(np.radians(np.asarray(slope_deg, np.float64)))
    phi = math.radians(beam_width_deg / 2)
    return np.asarray(height_m, np.float64) * np.cos(b) / np.cos(np.maximum(b - phi, 0.0))


def _blind_height(
    height_m: ArrayLike, beam_width_deg: float, pulse_m: float, slope_deg: ArrayLike, angle_rad: float
) -> Floats:
    """Blind height over the bottom along a ray at an angle off the vertical, uphill positive."""
    b = np.abs(np.radians(np.asarray(slope_deg, np.float64)))
    first = first_echo_range(height_m, beam_width_deg, slope_deg)
    return np.maximum(np.asarray(height_m, np.float64) - first * np.cos(angle_rad - b) / np.cos(b), 0.0) + pulse_m


def dead_zone(height_m: ArrayLike, beam_width_deg: float, pulse_m: float, slope_deg: ArrayLike = 0.0) -> Floats:
    """
    Greatest height above the bottom, anywhere in the beam, under which an echo drowns in the bottom's own.

    On level ground that is all round the beam's edge, on a slope at its downhill edge.

    Parameters
    ----------
    height_m : array_like
        Vertical distance from transducer to bottom.
    beam_width_deg : float
        Full width at -3 dB; the bottom is met anywhere inside it.
    pulse_m : float
        c tau / 2.
    slope_deg : array_like
        Slope of the bottom.

    Notes
    -----
    An echo is seen while it comes before the first bottom echo R1. Along a ray at t off the vertical (uphill
    positive) that is d - R1 cos(t - b) / cos b over the bottom below it; at the downhill edge t = -phi. See
    `dead_zone_on_axis` and `dead_zone_uphill` for the other places.

    Examples
    --------
    >>> round(float(dead_zone(20.0, 20.0, 0.074)), 3), round(float(dead_zone(20.0, 20.0, 0.0, 20.0)), 3)
    (0.378, 2.412)
    """
    return _blind_height(height_m, beam_width_deg, pulse_m, slope_deg, -math.radians(beam_width_deg / 2))


def dead_zone_on_axis(
    height_m: ArrayLike, beam_width_deg: float, pulse_m: float, slope_deg: ArrayLike = 0.0
) -> Floats:
    """
    Blind height straight below the transducer.

    Examples
    --------
    >>> round(float(dead_zone_on_axis(20.0, 20.0, 0.0)), 3), round(float(dead_zone_on_axis(20.0, 20.0, 0.0, 20.0)), 3)
    (0.0, 0.916)
    """
    return _blind_height(height_m, beam_width_deg, pulse_m, slope_deg, 0.0)


def dead_zone_uphill(
    height_m: ArrayLike, beam_width_deg: float, pulse_m: float, slope_deg: ArrayLike = 0.0
) -> Floats:
    """
    Blind height at the beam's uphill edge: only the pulse's own where that edge answers first.

    Examples
    --------
    >>> round(float(dead_zone_uphill(20.0, 20.0, 0.074, 20.0)), 3)
    0.074
    """
    return _blind_height(height_m, beam_width_deg, pulse_m, slope_deg, math.radians(beam_width_deg / 2))


def footprint_area(range_m: ArrayLike, beam_width_deg: float) -> Floats:
    """
    Area of the circle inside the -3 dB cone at a range, square metres.

    Examples
    --------
    >>> round(float(footprint_area(10.0, 20.0)), 2)
    9.77
    """
    return math.pi / 4.0 * footprint_diameter(range_m, beam_width_deg) ** 2


def echo_bounds(range_m: ArrayLike, beam_width_deg: float) -> tuple[Floats, Floats, Floats]:
    """
    Where an echo at a range can have come from: least and greatest depth under the transducer, greatest offset.

    Examples
    --------
    >>> [round(float(v), 3) for v in echo_bounds(12.0, 20.0)]
    [11.818, 12.0, 2.084]
    """
    r, phi = np.asarray(range_m, np.float64), math.radians(beam_width_deg / 2)
    return r * math.cos(phi), r, r * math.sin(phi)


def expected_pings(
    depth_m: ArrayLike, off_axis_m: ArrayLike, beam_width_deg: float, speed_mps: float, ping_rate_hz: float
) -> Floats:
    """
    Pings on a still fish passed at a distance to the side; 0 outside the cone, infinite at rest inside it.

    Notes
    -----
    Chord of the cone over the way between two pings: 2 sqrt((D tan phi)^2 - y^2) rate / v.

    Examples
    --------
    >>> round(float(expected_pings(12.0, 1.0, 20.0, 1.2, 8.0)), 1)
    24.9
    """
    reach = np.asarray(depth_m, np.float64) * math.tan(math.radians(beam_width_deg / 2))
    chord = 2.0 * np.sqrt(np.maximum(reach**2 - np.asarray(off_axis_m, np.float64) ** 2, 0.0))
    if speed_mps <= 0.0:
        return np.where(chord > 0.0, np.inf, 0.0)
    return chord * ping_rate_hz / speed_mps


def slope_under(shown_slope: ArrayLike, beam_width_deg: float) -> Floats:
    """
    True slope, radians, of a bottom whose first echo shows this slope (metres of range a metre of way).

    Notes
    -----
    Inside the beam the shown slope is the true one's sine. Once the bottom is steeper than the beam is wide, the
    beam's edge phi meets it first: shown = sin b / cos(b - phi), so tan b = s cos phi / (1 - s sin phi).

    Examples
    --------
    >>> b = math.radians(20.0)
    >>> round(math.degrees(float(slope_under(math.sin(b) / math.cos(b - math.radians(10)), 20.0))), 6)
    20.0
    >>> round(math.degrees(float(slope_under(0.139, 20.0))), 1)
    8.0
    """
    s = np.abs(np.asarray(shown_slope, np.float64))
    phi = math.radians(beam_width_deg / 2)
    inside = np.arcsin(np.minimum(s, 1.0))
    beyond = np.arctan2(s * math.cos(phi), np.maximum(1.0 - s * math.sin(phi), 1e-6))
    return np.where(s <= math.sin(phi), inside, beyond)


def range_to_vertical(range_m: ArrayLike, slope_rad: ArrayLike, beam_width_deg: float) -> Floats:
    """
    Vertical distance to a sloping bottom whose first echo comes from this range.

    Examples
    --------
    >>> round(float(range_to_vertical(20.0 - 0.916, math.radians(20.0), 20.0)), 2)
    20.0
    """
    b = np.asarray(slope_rad, np.float64)
    nearest = np.cos(b) / np.cos(np.maximum(b - math.radians(beam_width_deg / 2), 0.0))
    return np.asarray(np.asarray(range_m, np.float64) / np.maximum(nearest, 0.1))
