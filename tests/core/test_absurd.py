"""Recordings that obey the contract and nothing else: the reader says what it can and never falls over."""

import json
import warnings

import numpy as np
import pytest

from plumbbob.core.sonar.evidence import fish_floor, gather, rates
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.recording import Mount, Recording
from plumbbob.desk.models.echogram_raster import Raster, make_overview
from plumbbob.desk.models.viewport import Viewport
from plumbbob.formats.reading_json import reading_json
from tests.core.test_sonar import a_down, a_track

N = 300
RNG = np.random.default_rng(0)
SHAPES = [(0, 10), (1, 10), (2, 1), (3, 3), (30, 2), (100, 9), (600, 50)]
CONTENTS = {
    "noise": lambda shape: RNG.integers(0, 256, shape, dtype=np.uint8),
    "silence": lambda shape: np.zeros(shape, np.uint8),
    "shouting": lambda shape: np.full(shape, 255, np.uint8),
}
NUMBERS = {
    "steps of ninety metres": {"range_step_m": np.full(N, 90.0)},
    "steps of a micrometre": {"range_step_m": np.full(N, 1e-6)},
    "another step every ping": {"range_step_m": 10 ** RNG.uniform(-4, 1.9, N)},
    "another start every ping": {"range_start_m": RNG.uniform(-9, 100, N)},
    "all at one time": {"time": np.full(N, 5.0)},
    "over thirty million years": {"time": np.linspace(0, 1e15, N)},
    "a beam as wide as a barn": {"beam_width_deg": 120.0},
    "a beam like a needle": {"beam_width_deg": 0.1},
    "a pulse of a second": {"pulse_length_s": 1.0},
    "levels of ten thousand decibels": {"scale_db": 100.0, "offset_db": -1e4},
    "a transducer in the air": {"mount": Mount(depth_m=-5.0)},
}
TRACKS = {
    "no track": None,
    "no speed": a_track(speed_mps=np.full(20, np.nan)),
    "at rest": a_track(speed_mps=np.zeros(20)),
    "a track": a_track(time=100 + 3 * np.arange(20.0)),
}


def read_and_draw(down, track):
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        recording = Recording(name="absurd", down=down, track=track)
        reading = read_down(recording)
        made = reading_json(reading)
        seen = gather(recording, reading)
        assert np.isfinite(seen.volume_m3).all()
        assert (seen.volume_m3 >= 0).all()
        for by in ("depth", "height", "bottom"):
            rates(seen, by)
        fish_floor(seen)
        json.dumps(made, allow_nan=False)
        assert len(made["bottom"]["time"]) == len(down)
        if not len(down):
            return
        raster = Raster(down)
        raster.set_overview(make_overview(down, lambda fraction: None))
        for view in (Viewport(0, len(down), 0, down.deepest_m), Viewport(0, min(3, len(down)), 0, 1.0)):
            assert raster.render(view, 50, 40, 0.0).shape == (40, 50)


@pytest.mark.parametrize("shape", SHAPES, ids=str)
@pytest.mark.parametrize("content", CONTENTS)
def test_any_shape_and_content(shape, content):
    read_and_draw(a_down(CONTENTS[content](shape)), TRACKS["a track"])


@pytest.mark.parametrize("numbers", NUMBERS)
@pytest.mark.parametrize("track", TRACKS)
def test_any_numbers(numbers, track):
    read_and_draw(a_down(RNG.integers(0, 256, (N, 120), dtype=np.uint8), **NUMBERS[numbers]), TRACKS[track])
