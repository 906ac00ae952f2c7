"""The demo's rods as they stand on the Wren, and what was noted with them on the way out."""

from __future__ import annotations

from dataclasses import replace

from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.core.rig.rod import Method, RigSettings, default_setup
from plumbbob.sim.veyra import FIRST_PASS

_SPEED_MPS = 0.85
_BASE = RigSettings(speed_mps=_SPEED_MPS, lead_m=7.0)

BALL = replace(_BASE, lure=tackle.FLUTTER, aside_m=-1.0)
CORE = replace(default_setup(_BASE, Method.WEIGHTED_LINE), aside_m=1.0)
CLIP = replace(default_setup(_BASE, Method.CLIP), sinker=tackle.CLIP_HEAVY, ahead_m=7.0, aside_m=-1.6)
SPOON = replace(default_setup(_BASE, Method.CAST), aside_m=0.0)
BOARD = replace(default_setup(_BASE, Method.BOARD), aside_m=1.8)

# each rod with the depth its lure is to run at
RODS: tuple[tuple[RigSettings, float], ...] = ((BALL, 8.0), (CORE, 7.2), (CLIP, 6.2), (BOARD, 4.0), (SPOON, 5.0))

# the weighted line runs deeper than the catalogue has it, the ball as it should; times before the first pass
NOTES: tuple[RigNote, ...] = (
    RigNote(rod=CORE, told=Told.AT, depth_m=7.5, value=37.4, time=FIRST_PASS - 2700.0),
    RigNote(rod=CORE, told=Told.TOUCHED, depth_m=10.8, value=52.2, time=FIRST_PASS - 2100.0),
    RigNote(rod=BALL, told=Told.AT, depth_m=11.9, value=11.1, time=FIRST_PASS - 1500.0),
    RigNote(rod=BALL, told=Told.CLEAR, depth_m=9.6, value=8.3, time=FIRST_PASS - 900.0),
)
