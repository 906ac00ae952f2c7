"""Weed to the sides: beds of known place among stones, and stony passes without any."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.side import read_side
from plumbbob.core.sonar.side_weed import FEATURES, against_usual, weed_chances, weed_features
from plumbbob.sim.broken import Ground, broken_scene
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import path_of
from plumbbob.sim.side_weed import WeedBed, weed_echo

BED = WeedBed(along_m=50.0, aside_m=13.0, length_m=34.0, width_m=14.0, height_m=1.3, seed=3)


def kinds_of(weed, seed, **ground):
    scene = replace(broken_scene(Ground(depth_m=6.0, fish=4, seconds=80.0, **ground), seed), weed=weed)
    recording, _ = simulate(scene, seed)
    patches = read_side(recording).ground
    way = path_of(scene, np.array([(p.time_start + p.time_end) / 2 for p in patches]) - scene.start_time).along_m
    sign = {"port": -1.0, "starboard": 1.0}
    return [(p.kind, along, sign[p.side] * (p.near_m + p.far_m) / 2) for p, along in zip(patches, way, strict=True)]


@pytest.mark.parametrize(("seed", "stones"), [(3, 0.0), (4, 5.0)])
def test_a_bed_is_found_where_it_grows_and_nowhere_else(seed, stones):
    found = kinds_of((BED,), seed, stones=stones)
    weed = [(x, y) for kind, x, y in found if kind == "weed"]
    inside = [p for p in weed if BED.covers(*p) or BED.covers(p[0], p[1] - 3.0) or BED.covers(p[0], p[1] + 3.0)]
    assert len(inside) >= 8
    assert len(weed) - len(inside) <= 2  # its shadow ends in a tile of neither
    assert len([kind for kind, x, y in found if kind == "stony" and BED.covers(x, y)]) <= 5


def test_a_pass_over_stones_has_no_weed():
    assert len([kind for kind, _, _ in kinds_of((), 7, stones=10.0) if kind == "weed"]) <= 1


@given(st.floats(0.5, 3.0), st.integers(0, 5))
def test_numbers_against_the_usual_do_not_know_the_gain(gain, seed):
    rng = np.random.default_rng(seed)
    features = rng.normal(size=(40, len(FEATURES)))
    near = np.repeat([2.0, 7.0], 20)
    louder = features.copy()
    louder[:, FEATURES.index("level")] += gain
    assert np.allclose(against_usual(features, near), against_usual(louder, near))
    assert np.all((weed_chances(features) >= 0) & (weed_chances(features) <= 1))


def test_a_tile_of_even_speckle_looks_like_no_weed_and_clumps_do():
    rng = np.random.default_rng(1)
    even = rng.exponential(size=(60, 120)).astype(np.float32)
    clumps = np.repeat(np.repeat(np.exp(rng.normal(0, 1.0, (8, 6))), 8, axis=0)[:60], 20, axis=1)

    def features(times):
        smooth = np.full_like(times, times.mean()) if times is even else clumps
        return weed_features(times, smooth, 0.0, 0.14, 0.04)

    bare, grown = features(even), features((even * clumps).astype(np.float32))
    for name in ("spread", "along", "across", "up"):
        assert grown[FEATURES.index(name)] > bare[FEATURES.index(name)] + 0.02


def test_weed_veils_the_bottom_behind_it_and_echoes_before_it():
    across = np.arange(0.05, 30.0, 0.05)
    depth = np.full(across.size, 6.0)
    light, slant, angle, strength = weed_echo((BED,), 50.0, across, depth, np.arctan2(across, depth))
    assert light[across < 6.0].min() == 1.0  # before the bed
    assert light[(across > 20.5) & (across < 21.5)].max() < 0.6  # just behind it
    assert light[-1] == pytest.approx(1.0)  # farther than its shadow reaches
    assert slant.min() < np.hypot(6.5, 6.0)  # its top is nearer than the bottom under it
    assert slant.size == angle.size == strength.size
    assert weed_echo((BED,), 200.0, across, depth, np.arctan2(across, depth))[1].size == 0
