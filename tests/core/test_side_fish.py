"""What makes a bright spot to the sides a fish: the judgement's parts, the ground's grain, fish among stones."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.recording import distance_along, transducer_at
from plumbbob.core.sonar.side import read_side
from plumbbob.core.sonar.side_bed import follow_bed
from plumbbob.core.sonar.side_fish import candidates
from plumbbob.core.sonar.side_judge import FEATURES, Piece, could_be_fish, judged
from plumbbob.core.sonar.side_look import SideScene, learn_clutter, look_at
from plumbbob.core.sonar.side_pieces import PIECES
from plumbbob.sim.broken import Ground, broken_scene, fish_seen
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import SideSounder
from tests.views import FLOOR_M, side_scene

KNOTS = st.lists(st.floats(-5, 5), min_size=2, max_size=6, unique=True).map(sorted)


def scene_of(recording):
    side = recording.side
    places = transducer_at(recording.track, side.mount, side.time)
    return SideScene(side, follow_bed(side), places, distance_along(side.time, places.speed_mps))


@pytest.fixture(scope="module")
def stony():
    """Fifty seconds over stones and coarse speckle, with what is there."""
    ground = Ground(
        depth_m=7.0,
        stones=6.0,
        stone_m=(0.6, 1.2),
        seconds=50.0,
        fish=24,
        sounder=SideSounder(range_m=22.0, samples=480, pulse_length_s=6e-5, grain=6.0),
    )
    scene = broken_scene(ground, 3)
    return simulate(scene, 3)[0], fish_seen(scene)


@given(KNOTS, st.data())
def test_a_piece_is_straight_between_its_knots_and_level_beyond(knots, data):
    weights = tuple(data.draw(st.floats(-3, 3)) for _ in knots[1:])
    piece = Piece("spot", 0, tuple(knots), weights, 0.0)
    assert piece.part(knots[0] - 9.0) == 0.0
    assert piece.part(knots[-1] + 9.0) == pytest.approx(piece.part(knots[-1]))
    middle = piece.part((knots[0] + knots[1]) / 2)
    assert middle == pytest.approx((piece.part(knots[0]) + piece.part(knots[1])) / 2, abs=1e-9)
    assert all(piece.part(x) <= piece.most + 1e-9 for x in np.linspace(knots[0], knots[-1], 30))


def test_the_pieces_that_ship_belong_to_the_features_they_name():
    assert [FEATURES[index] for _, index, *_ in PIECES] == [name for name, *_ in PIECES]
    assert all(len(knots) == len(weights) + 1 for _, _, knots, weights, _ in PIECES)


def test_what_has_no_hope_is_judged_no_fish_and_reasons_add_up(stony):
    scene = scene_of(stony[0])
    look = look_at(scene, "port", 0, 300)
    spots = list(candidates(scene, look, learn_clutter(scene).at(look.range_m.size)))
    assert spots
    for spot in spots:
        assert spot.features.shape == (len(FEATURES),)
        assert np.isfinite(spot.features).all()
        found = judged(spot.features, in_water=False)
        assert 0.0 <= found.chance <= 1.0
        assert could_be_fish(spot.features) or found.chance <= 0.5
        strengths = [abs(odds) for _, odds in found.why]
        assert strengths == sorted(strengths, reverse=True)


def test_fish_among_stones_are_told_from_them(stony):
    recording, seen = stony
    found = read_side(recording).fish
    clear = [f for f in seen if f.clear]

    def meets(fish, there, wider=1.0):
        return (
            fish.side == there.side
            and abs(fish.time - there.time) < 1.5 * wider
            and abs(fish.slant_m - there.slant_m) < 0.5 * wider
        )

    assert len(clear) >= 5
    assert sum(any(meets(f, s) for f in found) for s in clear) >= 0.6 * len(clear)
    assert sum(not any(meets(f, s, 1.3) for s in seen) for f in found) <= 2
    assert all(0.5 <= f.chance <= 1.0 and f.why for f in found)


@pytest.mark.parametrize(("shape", "low", "high"), [(math.inf, 1.0, 1.3), (1.0, 1.35, 6.0)])
def test_the_grain_of_speckle_is_learned(shape, low, high):
    sounder = SideSounder(range_m=20.0, samples=400, pulse_length_s=4e-5, grain=shape)
    scene = broken_scene(Ground(depth_m=6.0, seconds=25.0, fish=0, patches_db=1.0, sounder=sounder), 2)
    clutter = learn_clutter(scene_of(simulate(scene, 2)[0]))
    assert low <= clutter.grain <= high
    assert (np.diff(clutter.evidence, axis=0) >= 0).all()


def test_levels_in_another_gain_are_judged_alike(stony):
    recording = stony[0]
    louder = replace(recording, side=replace(recording.side, offset_db=recording.side.offset_db + 30.0))
    assert [f.slant_m for f in read_side(louder).fish] == [f.slant_m for f in read_side(recording).fish]


def test_a_shadow_past_the_lip_of_a_drop_tells_no_height():
    def floor(x, aside):
        return FLOOR_M + 2.2 / (1 + np.exp(-(np.asarray(aside) - 13.0) / 0.3)) + 0.0 * x

    fish = tuple(
        replace(f, along_m=a, aside_m=y, depth_m=z)
        for f, (a, y, z) in zip(
            side_scene().fish, ((14.0, 7.0, 6.6), (30.0, 12.4, 6.0), (44.0, 12.2, 6.3)), strict=False
        )
    )
    found = read_side(simulate(side_scene(fish=fish, rises=(), floor_m=floor), seed=8)[0])
    edges = [t for t in found.things if t.kind == "edge"]
    assert edges
    lip = min(e.slant_m for e in edges)
    assert found.fish
    for one in found.fish:
        assert math.isnan(one.height_m) or one.shadow_m < lip or one.side == "port"
