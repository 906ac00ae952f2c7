"""What all tests share: a short simulated pass and an application without a screen."""

from __future__ import annotations

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import settings

from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.recording import Recording
from plumbbob.formats.recording import write_recording
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import BaitCloud, Scene, Sounder, Swimmer, Weak

# the same cases every time: a red run is then a change's fault; `--hypothesis-profile=wide` looks further
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("wide", max_examples=2000, deadline=None)
settings.load_profile("same")


def a_scene(**changes: Any) -> Scene:
    """A minute over a sloping bottom: three fish, one bait cloud, a cold layer. Any part can be changed."""
    parts: dict[str, Any] = {
        "title": "test pass",
        "origin": Position(44.206, -40.058),
        "start_time": 1786785000.0,
        "speed_mps": lambda t: 1.3 + 0.0 * t,
        "heading_deg": lambda t: 40.0 + 0.0 * t,
        "seconds": 64.0,
        "bottom_m": lambda x: 13.0 + 0.02 * x + 0.3 * np.sin(x / 9.0),
        "roughness_db": lambda x: -27.0 + 0.0 * x,
        "fish": (
            Swimmer(along_m=15.0, aside_m=0.2, depth_m=6.0, strength_db=-36.0),
            Swimmer(along_m=52.0, aside_m=0.8, depth_m=7.5, strength_db=-36.0),
            Swimmer(along_m=68.0, aside_m=0.0, depth_m=12.6, strength_db=-38.0),
        ),
        "bait": (BaitCloud(along_m=33.0, aside_m=0.0, depth_m=5.5, length_m=6.0, height_m=2.0),),
        "layer": Weak(depth_m=lambda x: 10.0 + 0.15 * np.sin(x / 11.0), thickness_m=1.0, strength_db=-62.0),
        "clutter_m": 1.6,
        "sounder": Sounder(range_m=18.0, samples=450),
    }
    return Scene(**{**parts, **changes})


@pytest.fixture(scope="session")
def passed() -> tuple[Recording, dict[str, Any]]:
    """The simulated minute and its truth."""
    return simulate(a_scene(), seed=3)


@pytest.fixture(scope="session")
def pass_file(passed: tuple[Recording, dict[str, Any]], tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The same on disk."""
    path = tmp_path_factory.mktemp("pass") / "minute.nc"
    write_recording(path, passed[0])
    return path
