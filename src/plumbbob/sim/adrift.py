"""Two more made-up outings for the stand-in: a kayak adrift over a reef in Carrow Sound, and a hole in Tern Pond."""

from __future__ import annotations

import numpy as np

from plumbbob.core.geodesy import Position
from plumbbob.core.types import Floats
from plumbbob.sim.scene import BaitCloud, Hung, Scene, Sounder, Swimmer

_SEA_MPS = 1495.0
REEF, POND = Position(52.4012, -24.6034), Position(49.1006, -36.2991)


def _reef(x: Floats) -> Floats:
    """Sand at eighteen metres, a reef that stands six metres over it."""
    return 18.0 - 6.0 * np.exp(-(((x - 24.0) / 9.0) ** 2)) + 0.25 * np.sin(x / 1.7) + 0.1 * np.sin(x / 0.6)


def drift_over_reef() -> Scene:
    """Two minutes before wind and tide: sprat up-drift of the reef, pollack over it, one that follows the lure."""
    pollack = tuple(
        Swimmer(along_m=a, aside_m=y, depth_m=z, strength_db=-34.0, tag="pollack", length_m=0.6)
        for a, y, z in ((8.0, 0.4, 13.5), (18.5, -0.8, 10.4), (22.0, 0.6, 9.2), (26.5, -0.3, 9.9), (37.0, 0.9, 14.2))
    )
    sprat = (
        BaitCloud(along_m=14.0, aside_m=0.0, depth_m=8.0, length_m=7.0, height_m=3.0, count=700),
        BaitCloud(along_m=33.0, aside_m=0.5, depth_m=10.5, length_m=5.0, height_m=2.4, count=500),
    )
    return Scene(
        title="Carrow Sound, adrift over a reef",
        origin=REEF,
        start_time=1786791600.0,
        speed_mps=lambda t: 0.38 + 0.04 * np.sin(t / 13.0),
        heading_deg=lambda t: 62.0 + 3.0 * np.sin(t / 40.0),
        seconds=120.0,
        bottom_m=_reef,
        roughness_db=lambda x: -25.0 + 4.0 * np.exp(-(((x - 24.0) / 9.0) ** 2)),
        fish=pollack,
        bait=sprat,
        hung=(
            Hung(start_s=20.0, end_s=64.0, depth_m=lambda t: np.clip(0.45 * t, 0.8, 8.6) + 0.3 * np.sin(t / 1.3)),
            Hung(start_s=38.0, end_s=60.0, depth_m=lambda t: 12.5 - 0.14 * t, aside_m=0.5, strength_db=-35.0),
        ),
        clutter_m=1.0,
        temperature_c=13.4,
        sounder=Sounder(
            range_m=26.0, samples=640, pings_per_s=10.0, sound_speed_mps=_SEA_MPS, draft_m=0.2, forward_m=0.0
        ),
    )


def hole_in_the_ice() -> Scene:
    """Three minutes over one hole: a lure lifted now and then, a perch that comes up to it, waits, and goes."""

    def lure(t: Floats) -> Floats:
        lifts = 0.35 * np.clip(np.sin(t / 2.2), 0.0, 1.0)
        return np.clip(0.8 * t, 0.6, 6.2) - lifts - 0.02 * np.clip(t - 60.0, 0.0, 30.0)

    def perch(t: Floats) -> Floats:
        return np.interp(t, [0.0, 10.0, 30.0, 45.0, 60.0], [7.6, 7.3, 6.5, 6.2, 7.4])

    return Scene(
        title="Tern Pond, one hole",
        origin=POND,
        start_time=1770364800.0,
        speed_mps=lambda t: 0.0 * t,
        heading_deg=lambda t: 0.0 * t,
        seconds=180.0,
        bottom_m=lambda x: 8.0 + 0.0 * x,
        roughness_db=lambda x: -29.0 + 0.0 * x,
        hung=(
            Hung(start_s=4.0, end_s=176.0, depth_m=lure, aside_m=0.05, strength_db=-38.0),
            Hung(start_s=30.0, end_s=92.0, depth_m=perch, aside_m=0.2, strength_db=-36.0),
            Hung(start_s=118.0, end_s=160.0, depth_m=lambda t: 7.5 - 0.03 * t, aside_m=0.3, strength_db=-38.0),
        ),
        clutter_m=0.3,
        temperature_c=1.2,
        sounder=Sounder(range_m=11.0, samples=520, pings_per_s=10.0, draft_m=0.1, forward_m=0.0, starboard_m=0.0),
    )
