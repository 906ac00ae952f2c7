"""How long a lure falls on free line, and how deep it is after a count (docs/handbook.md, 5.4)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plumbbob.core.rig.line import RHO_FRESH

_STEPS = 60
_AT_ONCE = 30.0  # a lure so light that it relaxes so many times within a step has no inertia worth counting


@dataclass(frozen=True, slots=True, kw_only=True)
class Falling:
    """A lure that sinks and drags line after it, lengthwise."""

    weight_n: float  # in water
    drag_area_m2: float
    line_diameter_m: float = 0.0
    line_ct: float = 0.0  # drag along, on diameter times length
    line_weight_npm: float = 0.0
    mass_kg: float = 0.0  # with added mass; 0 leaves inertia out


def fall_speed(falling: Falling, depth_m: float, *, rho: float = RHO_FRESH) -> float:
    """
    Steady speed of fall with so much line dragged, m/s.

    Examples
    --------
    >>> jig = Falling(weight_n=0.08, drag_area_m2=1e-4, line_diameter_m=0.25e-3, line_ct=0.02 * math.pi)
    >>> round(fall_speed(jig, 0.0, rho=1000), 3), round(fall_speed(jig, 10.0, rho=1000), 3)
    (1.265, 0.789)
    """
    pull = falling.weight_n + falling.line_weight_npm * depth_m
    area = falling.drag_area_m2 + falling.line_diameter_m * falling.line_ct * depth_m
    if pull <= 0.0:
        return 0.0
    return math.sqrt(2.0 * pull / (rho * max(area, 1e-12)))


def time_to_depth(falling: Falling, depth_m: float, *, rho: float = RHO_FRESH) -> tuple[float, float]:
    """
    Seconds of fall from rest at the surface to a depth, and the speed there.

    Raises
    ------
    ValueError
        If it floats, or stops sinking above that depth because the line floats.
    """
    if depth_m < 0:
        raise ValueError(f"depth must be zero or more, not {depth_m:g} m")
    if fall_speed(falling, 0.0, rho=rho) <= 0.0:
        raise ValueError("it floats: nothing to count")
    if fall_speed(falling, depth_m, rho=rho) <= 0.0:
        stops = falling.weight_n / -falling.line_weight_npm
        raise ValueError(f"the line floats and holds it at {stops:.1f} m")
    if depth_m < 1e-6:
        return 0.0, 0.0
    return _fallen(falling, depth_m, rho)


def _fallen(falling: Falling, depth_m: float, rho: float) -> tuple[float, float]:
    """Seconds to a depth it gets to, and the speed there."""
    time, speed = 0.0, 0.0
    dz = depth_m / _STEPS
    for i in range(_STEPS):
        target = fall_speed(falling, (i + 0.5) * dz, rho=rho)
        area = falling.drag_area_m2 + falling.line_diameter_m * falling.line_ct * (i + 0.5) * dz
        scale = falling.mass_kg / (rho * area)
        if scale * _AT_ONCE <= dz:
            time += dz / target
            speed = target
            continue
        # within a step area and pull are constant, so v^2 relaxes exponentially in depth, exactly
        new = math.sqrt(target**2 + (speed**2 - target**2) * math.exp(-dz / scale))
        time += _step_time(speed, new, target, scale, dz)
        speed = new
    return time, speed


def _step_time(v0: float, v1: float, terminal: float, scale: float, dz: float) -> float:
    """Time over a step in which dv/dt = (vt^2 - v^2) / (2 L), with L the relaxation depth."""
    if abs(v1 - v0) < 0.02 * terminal:
        return dz / ((v0 + v1) / 2)

    def stretch(v: float) -> float:
        r = v / terminal
        return math.atanh(min(r if r < 1.0 else 1.0 / r, 1.0 - 1e-15))

    return abs(stretch(v1) - stretch(v0)) * 2 * scale / terminal


def holds_at_m(falling: Falling) -> float:
    """Depth at which a floating line holds it up; infinite where the line sinks."""
    return math.inf if falling.line_weight_npm >= 0 else falling.weight_n / -falling.line_weight_npm


def depth_after(falling: Falling, seconds: float, *, rho: float = RHO_FRESH) -> float:
    """
    Depth after a count: the inverse of `time_to_depth`, by Newton steps kept between bounds.

    Raises
    ------
    ValueError
        If it floats or the count is below zero.
    """
    if not seconds >= 0:
        raise ValueError(f"a count must be zero or more, not {seconds:g} s")
    start = fall_speed(falling, 0.0, rho=rho)
    if start <= 0.0:
        raise ValueError("it floats: nothing to count")
    low, high = 0.0, holds_at_m(falling) * (1 - 1e-6)
    depth = min(start * seconds * 0.8, (low + high) / 2)
    for _ in range(60):
        time, speed = _fallen(falling, depth, rho) if depth > 1e-6 else (0.0, start)
        error = seconds - time
        if abs(error) < 1e-5 * max(seconds, 0.1):
            break
        low, high = (depth, high) if error > 0 else (low, depth)
        if high - low < 1e-6:
            break
        step = depth + error * max(speed, 0.02 * start)
        depth = step if low < step < high else (low + min(high, 2 * depth + 1.0)) / 2
    return depth
