"""Counts against water looked at: closed forms of the volume, and honest intervals."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.align import matching_pings
from plumbbob.core.sonar.evidence import NOTHING, Evidence, chance_of_depth, fish_floor, gather, rates
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import Bottom, Fish, Reading
from plumbbob.core.sonar.recording import Recording
from plumbbob.files.errors import FileError
from plumbbob.formats.evidence import evidence_of_day, read_evidence, write_evidence
from tests.core.test_sonar import a_down, a_track

HALF = math.tan(math.radians(8.0))


def a_fish(depth, time=100.0, up=5.0, **more):
    base = Fish(time=time, time_in=time - 1, time_out=time + 1, depth_m=depth, depth_sd_m=0.1,
                height_above_bottom_m=up, off_axis_m=math.nan, off_axis_sd_m=math.nan, latitude=44.2, longitude=-40.0,
                position_sd_m=2.0, level_db=20.0, pings=12)  # fmt: skip
    return replace(base, **more)


def a_table(volume, fish):
    """One bottom out of reach, so much water and so many fish in each half metre."""
    volume = np.asarray(volume, float)[None, :]
    return Evidence(volume_m3=volume, fish=np.asarray(fish, float)[None, :], bait_m3=0 * volume, passes=("a",))


def test_the_volume_is_the_swath_times_the_way(passed):
    recording = passed[0]
    down, n = recording.down, len(recording.down)
    bed = np.full(n, 12.25)
    flat = Bottom(time=down.time, depth_m=bed, hardness=bed * 0, dead_zone_m=np.full(n, 0.25))
    found = gather(recording, Reading(bottom=flat, ceiling_m=np.full(n, 2.0)))
    way = 1.3 * (down.time[-1] - down.time[0])
    z = 0.5 * (np.arange(found.volume_m3.shape[1]) + 0.5)
    width = 2 * (z - down.mount.depth_m) * HALF
    expected = np.where((z > 2.0) & (z < 12.0), width * way * 0.5 + math.pi / 4 * width**2 * 0.5, 0.0)
    assert found.volume_m3.sum(axis=0) == pytest.approx(expected, rel=0.02, abs=0.5)
    assert found.volume_m3[: int(12.25 / 0.5)].sum() == 0


def test_a_pass_counts_its_fish_where_they_were(passed):
    reading = read_down(passed[0])
    found = gather(passed[0], reading)
    for by in ("depth", "height", "bottom"):
        assert rates(found, by).fish.sum() == len(reading.fish)
    seen = rates(found, "depth", 1)
    assert all(seen.fish[int(f.depth_m / 0.5)] >= 1 for f in reading.fish)
    assert (found + found).fish.sum() == 2 * len(reading.fish)
    assert (found + NOTHING).volume_m3.sum() == pytest.approx(found.volume_m3.sum())
    with pytest.raises(ValueError, match="not depth"):
        rates(found, "colour")


@given(st.lists(st.tuples(st.floats(0, 1e5), st.integers(0, 50)), min_size=1, max_size=40), st.integers(1, 5))
def test_an_interval_holds_its_rate_and_grouping_keeps_sums(cells, group):
    table = a_table([v for v, _ in cells], [n for _, n in cells])
    found = rates(table, "depth", group)
    assert found.volume_m3.sum() == pytest.approx(sum(v for v, _ in cells))
    assert found.fish.sum() == sum(n for _, n in cells)
    known = np.isfinite(found.rate)
    assert (found.rate_low[known] <= found.rate_high[known]).all()
    some = known & (found.fish > 0)
    assert (found.rate_low[some] <= found.rate[some] * 1.001).all()


def test_a_fish_higher_over_the_bottom_than_any_water_looked_at_is_counted():
    volume, fish = np.zeros((9, 9)), np.zeros((9, 9))
    volume[4, 3], fish[8, 1] = 50.0, 1.0
    found = rates(Evidence(volume_m3=volume, fish=fish, bait_m3=np.zeros((9, 9))), "height", 1)
    assert found.volume_m3[1] == 50.0
    assert found.fish[7] == 1.0


def test_little_water_leaves_room_for_much():
    found = rates(a_table([2000.0, 20.0], [10, 0]), "depth", 1)
    assert found.rate_high[1] > 10 * found.rate[0]
    assert found.enough.tolist() == [True, False]


def test_a_fish_floor_needs_water_under_it():
    floor = fish_floor(a_table([500.0] * 20, [0, 0, 5, 5, 5, *[0] * 15]))
    assert floor is not None
    assert floor.depth_m == 2.5
    assert floor.expected == pytest.approx(45.0)
    assert floor.chance == pytest.approx(math.exp(-45.0))
    assert fish_floor(a_table([500.0] * 5 + [10.0] * 15, [0, 0, 5, 5, 5, *[0] * 15])) is None
    assert fish_floor(a_table([500.0] * 20, [0] * 20)) is None


def test_a_depth_is_compared_with_all_water_and_shrinks_to_it():
    table = a_table([1000.0] * 10, [0, 0, 0, 0, 20, 20, 0, 0, 0, 0])
    good, seen = chance_of_depth(table, 2.0, 3.0)
    poor, _ = chance_of_depth(table, 4.0, 5.0)
    assert seen == 40
    assert good > 4
    assert poor < 0.2
    assert chance_of_depth(NOTHING, 1.0, 2.0) == (1.0, 0.0)
    assert chance_of_depth(table, 50.0, 51.0)[0] == pytest.approx(1.0)


def test_evidence_keeps_on_disk_and_adds_up_by_day(tmp_path, passed):
    found = gather(passed[0], read_down(passed[0]))
    write_evidence(tmp_path / "a.csv", found, 1000.0)
    write_evidence(tmp_path / "b.csv", replace(found, passes=("b",)), 2000.0)
    write_evidence(tmp_path / "c.csv", found, 90_000.0)
    again, start = read_evidence(tmp_path / "a.csv")
    assert start == 1000.0
    assert again.passes == found.passes
    assert again.volume_m3.sum() == pytest.approx(found.volume_m3.sum(), rel=1e-3)
    (tmp_path / "d.csv").write_text("no evidence", encoding="utf-8")
    with pytest.raises(FileError, match="damaged"):
        read_evidence(tmp_path / "d.csv")
    day = evidence_of_day(tmp_path, 0.0, 86_400.0)
    assert day.fish.sum() == 2 * len(read_down(passed[0]).fish)
    assert day.passes == (found.passes[0], "b")


def test_passes_are_laid_along_each_other_by_place():
    down = a_down(np.zeros((200, 20), np.uint8))
    track = a_track(time=100 + 3 * np.arange(20.0))
    mine = Recording(name="a", down=replace(down, time=100 + 0.2 * np.arange(200)), track=track)
    back = replace(track, latitude=track.latitude[::-1] + 1e-5, longitude=track.longitude[::-1])
    other = replace(mine, track=back)
    pings, away = matching_pings(mine, other, within_m=20.0)
    near = pings >= 0
    assert near.any()
    assert (np.diff(pings[near]) <= 0).all()  # the other way round
    assert np.nanmax(away) < 20.0
    assert (matching_pings(mine, replace(other, track=None))[0] == -1).all()
