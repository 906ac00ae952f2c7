"""What a person says of a reading: found again after a better one, and never lost."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plumbbob.core.sonar.corrections import LABELS, Act, Correction, about, apply
from plumbbob.core.sonar.read import read_down
from plumbbob.formats.reading_json import reading_json


@pytest.fixture(scope="module")
def reading(passed):
    return read_down(passed[0])


def said(reading, passed, *corrections):
    return apply(reading, corrections, passed[0])


def test_nothing_said_changes_nothing(reading, passed):
    assert said(reading, passed) is reading


def test_a_rejected_fish_stays_out_also_of_a_better_reading(reading, passed):
    fish = reading.fish[1]
    no = about(fish, Act.REJECT)
    assert fish not in said(reading, passed, no).fish
    better = replace(
        reading, fish=tuple(replace(f, time=f.time + 0.4, depth_m=f.depth_m + 0.2) for f in reading.fish)
    )
    after = said(better, passed, no)
    assert [f.time for f in after.fish] == [better.fish[0].time, better.fish[2].time]


def test_an_accepted_fish_survives_a_reading_that_lacks_it(reading, passed):
    fish = reading.fish[0]
    yes = about(fish, Act.ACCEPT)
    kept = said(reading, passed, yes).fish[0]
    assert (kept.time, kept.depth_m, kept.pings, kept.hand) == (fish.time, fish.depth_m, fish.pings, "accepted")
    without = replace(reading, fish=reading.fish[1:])
    back = said(without, passed, yes).fish[0]
    assert (back.time, back.depth_m, back.hand) == (fish.time, fish.depth_m, "accepted")
    assert back.latitude == pytest.approx(fish.latitude, abs=1e-6)


def test_a_moved_fish_has_the_place_and_height_of_where_it_is(reading, passed):
    fish = reading.fish[0]
    moved = said(reading, passed, about(fish, Act.MOVE, to=(fish.time + 5.0, 8.0)))
    (now,) = [f for f in moved.fish if f.hand == "moved"]
    assert now.depth_m == 8.0
    assert now.height_above_bottom_m == pytest.approx(reading.bottom.depth_at(fish.time + 5.0) - 8.0)
    assert now.latitude != fish.latitude
    assert len(moved.fish) == len(reading.fish)


@pytest.mark.parametrize("label", LABELS)
def test_a_fish_can_be_called_anything(reading, passed, label):
    fish = reading.fish[2]
    after = said(reading, passed, about(fish, Act.RELABEL, label=label))
    counts = (len(after.fish), len(after.bait), len(after.standing), len(after.others))
    base = (2, 1, 0, 0)
    place = {"fish": 0, "bait": 1, "weed": 2, "timber": 2, "brush pile": 2}.get(label, 3)
    assert counts == tuple(n + (i == place) for i, n in enumerate(base))


def test_what_is_drawn_is_there(reading, passed):
    time = reading.bottom.time[300]
    bait = Correction(act=Act.DRAW, what="bait", label="bait", time=time, depth_m=4.0, span_s=3.0, span_m=0.8)
    pile = Correction(
        act=Act.DRAW, what="standing", label="brush pile", time=time, depth_m=13.0, span_s=1, span_m=0.7
    )
    after = said(reading, passed, bait, pile)
    (drawn,) = [b for b in after.bait if b.hand == "drawn"]
    assert (drawn.depth_top_m, drawn.depth_bottom_m) == (pytest.approx(3.2), pytest.approx(4.8))
    (thing,) = after.standing
    assert (thing.kind, thing.detail) == ("unknown", "brush pile")
    assert thing.height_m == pytest.approx(thing.bottom_m - 12.3)


def test_an_edited_bottom_moves_heights_with_it(reading, passed):
    fish = reading.fish[0]
    line = tuple((fish.time + s, 10.0) for s in (-2.0, 2.0))
    after = said(reading, passed, Correction(act=Act.BOTTOM, what="bottom", points=line))
    assert after.bottom.depth_at(fish.time) == 10.0
    assert after.fish[0].height_above_bottom_m == pytest.approx(10.0 - fish.depth_m)
    assert after.fish[2].height_above_bottom_m == reading.fish[2].height_above_bottom_m
    lost = said(reading, passed, Correction(act=Act.LOST, what="bottom", points=line))
    assert np.isnan(lost.bottom.depth_at(fish.time))


def test_a_rejected_layer_is_gone(reading, passed):
    assert said(reading, passed, about(reading.cold_layer, Act.REJECT)).cold_layer is None


numbers = st.floats(-1e3, 2e9, allow_nan=False)
anything = st.builds(
    Correction,
    act=st.sampled_from(Act),
    what=st.sampled_from(["fish", "bait", "standing", "layer", "other", "nonsense"]),
    time=st.floats(1786784990.0, 1786785070.0),
    depth_m=st.floats(-5, 40),
    span_s=st.floats(0, 20),
    span_m=st.floats(0, 10),
    to_time=numbers,
    to_depth_m=st.floats(0, 100),
    label=st.sampled_from([*LABELS, "", "nonsense"]),
    points=st.lists(st.tuples(st.floats(1786784990.0, 1786785070.0), st.floats(0, 40)), max_size=5).map(tuple),
)


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(anything, max_size=8))
def test_whatever_is_said_leaves_a_sound_reading(reading, passed, corrections):
    after = apply(reading, corrections, passed[0])
    assert [f.time for f in after.fish] == sorted(f.time for f in after.fish)
    json.dumps(reading_json(after), allow_nan=False)
    assert after.bottom.depth_m.shape == reading.bottom.depth_m.shape
