"""Short simulated passes with fans to the sides and ahead, and what is really there."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Floats
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import ForwardScene, ForwardSounder, Rise, Scene, SideSounder, Sounder, Swimmer

# (along, to starboard, depth): two hang to port, one to starboard, two lie low
SIDE_FISH = ((14.0, -9.0, 4.6), (24.0, 8.5, 5.2), (33.0, -12.0, 7.6), (44.0, 12.5, 7.7), (54.0, -10.0, 5.8))
FLOOR_M = 8.2
AHEAD_FISH = ((9.0, 0.8, 4.5), (12.0, -0.6, 5.6))


def side_scene(**changes: Any) -> Scene:
    """A minute along a level bottom 8.2 m down, a trunk to port and a brush pile to starboard."""
    parts: dict[str, Any] = {
        "title": "sides",
        "origin": Position(44.2048, -40.0572),
        "start_time": 1786785000.0,
        "speed_mps": lambda t: 1.2 + 0.0 * t,
        "heading_deg": lambda t: 30.0 + 0.0 * t,
        "seconds": 56.0,
        "bottom_m": lambda x: FLOOR_M + 0.0 * x,
        "roughness_db": lambda x: -27.0 + 0.0 * x,
        "fish": tuple(Swimmer(along_m=a, aside_m=y, depth_m=z, strength_db=-32.0) for a, y, z in SIDE_FISH),
        "rises": (
            Rise(along_m=59.0, aside_m=-11.0, length_m=1.5, width_m=0.5, height_m=2.2, kind="timber"),
            Rise(along_m=36.0, aside_m=9.5, length_m=4.0, width_m=1.8, height_m=1.0, kind="brush"),
        ),
        "clutter_m": 1.0,
        "sounder": Sounder(range_m=13.0, samples=320),
        "side": SideSounder(range_m=24.0, samples=480),
    }
    return Scene(**{**parts, **changes})


def ahead_scene(**changes: Any) -> Scene:
    """Half a minute adrift over a level bottom, two fish ahead that hold their place, a jig cast over the nearer."""

    def still(value: float) -> Callable[[Floats], Floats]:
        return lambda t: np.full(np.shape(t), value)

    def fish(ahead: float, aside: float, depth: float) -> ForwardScene:
        return ForwardScene(ahead_m=still(ahead), aside_m=still(aside), depth_m=still(depth), strength_db=-33.0)

    jig = ForwardScene(
        ahead_m=lambda t: np.interp(t, [4.0, 10.0, 24.0], [13.0, 12.8, 4.0]),
        aside_m=still(1.0),
        depth_m=lambda t: np.interp(t, [4.0, 10.0, 24.0], [0.8, 3.8, 2.6]),
        strength_db=-30.0,
        kind="lure",
        start_s=4.0,
        end_s=24.0,
    )
    parts: dict[str, Any] = {
        "title": "ahead",
        "origin": Position(44.2079, -40.0612),
        "start_time": 1786785000.0,
        "speed_mps": lambda t: 0.05 + 0.0 * t,
        "heading_deg": lambda t: 300.0 + 0.0 * t,
        "seconds": 28.0,
        "bottom_m": lambda x: 8.6 + 0.0 * x,
        "roughness_db": lambda x: -27.0 + 0.0 * x,
        "ahead": (*(fish(*f) for f in AHEAD_FISH), jig),
        "clutter_m": 0.8,
        "sounder": Sounder(range_m=12.0, samples=260),
        "forward": ForwardSounder(
            range_m=16.0, samples=220, beams=48, frames_per_s=4.0, azimuth_deg=lambda t: 3.0 + 8.0 * np.sin(t / 4.0)
        ),
    }
    return Scene(**{**parts, **changes})


@cache
def sides() -> Recording:
    """The pass with fans to the sides."""
    return simulate(side_scene(), seed=5)[0]


@cache
def ahead() -> Recording:
    """The pass that looks ahead."""
    return simulate(ahead_scene(), seed=6)[0]
