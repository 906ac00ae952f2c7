"""The outings that the stand-in can play, by name."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress
from plumbbob.sim import adrift, veyra
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import Scene

_SEED = 7
OUTINGS: Mapping[str, tuple[Callable[[], Scene], ...]] = {
    "lake": (veyra.demo_pass, veyra.side_pass, veyra.ahead_pass),
    "drift": (adrift.drift_over_reef,),
    "hole": (adrift.hole_in_the_ice,),
}


def outing(name: str, progress: Progress = lambda _: None) -> list[Recording]:
    """
    All passes of one of them, played together.

    Raises
    ------
    KeyError
        If there is none of that name.
    """
    return [simulate(make(), _SEED, progress=progress)[0] for make in OUTINGS[name]]
