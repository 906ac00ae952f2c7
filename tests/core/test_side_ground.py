"""The bottom to the sides: its tilt from both first returns, its kinds, and many fish at once, on made-up ground."""

import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core.sonar.corrections import Act, Correction
from plumbbob.core.sonar.reading import EMPTY
from plumbbob.core.sonar.side import read_side
from plumbbob.core.sonar.side_bed import follow_bed, rise_deg
from plumbbob.core.sonar.view_corrections import about_view, apply_views
from plumbbob.sim.broken import Ground, broken_scene
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import BaitCloud, SideSounder, Swimmer
from plumbbob.sim.veyra import side_pass

SOUNDER = SideSounder(range_m=26.0, samples=520)


def over(ground, seed=1):
    """A recording of a short pass over some ground."""
    return simulate(broken_scene(replace(ground, sounder=SOUNDER, seconds=60.0, fish=4), seed), seed)[0]


@pytest.mark.parametrize("slope", [-0.12, 0.1, 0.15])
def test_both_first_returns_tell_how_the_bottom_tilts_across(slope):
    side = over(Ground(depth_m=8.0, slope=slope, swell_m=0.0)).side
    bed = follow_bed(side)
    assert np.nanmedian(bed.slope_deg) == pytest.approx(math.degrees(math.atan(slope)), abs=2.0)
    assert np.nanmedian(bed.altitude_m) == pytest.approx(8.0 - SOUNDER.draft_m, abs=0.12)
    ping = len(side) // 2
    assert bed.rise_deg(ping, "port") == -bed.rise_deg(ping, "starboard")
    # what falls away to starboard rises away to port
    assert math.copysign(1.0, bed.rise_deg(ping, "port")) == math.copysign(1.0, slope)


def test_a_level_bottom_is_taken_as_level():
    bed = follow_bed(over(Ground(depth_m=8.0, swell_m=0.0)).side)
    rises = [bed.rise_deg(k, "port") for k in range(0, bed.slope_deg.size, 7)]
    assert np.mean(np.array(rises) == 0.0) > 0.9
    assert rise_deg(np.array([4.0]), np.array([3.0]), 0, "port") == 0.0


def test_stones_are_told_from_a_bare_bottom():
    stony, bare = (
        Counter(g.kind for g in read_side(over(Ground(depth_m=7.0, swell_m=0.0, patches_db=0.5, stones=n))).ground)
        for n in (14.0, 0.0)
    )
    assert stony["stony"] > 12
    assert bare["stony"] <= 1
    assert bare["hard"] + bare["soft"] <= 3


def test_hard_bottom_is_where_it_is_loud():
    ground = replace(Ground(depth_m=7.0, swell_m=0.0), sounder=SOUNDER, seconds=60.0, fish=0)
    scene = replace(broken_scene(ground, 3), bed_db=lambda along, aside: np.where(np.asarray(aside) > 8.0, 8.0, 0.0))
    reading = read_side(simulate(scene, 3)[0])
    # the fans' usual level is each side's own: the loud side of the pass has to be loud against the rest of it
    assert all(g.side == "starboard" or g.level_db < 4.0 for g in reading.ground)
    scene = replace(scene, bed_db=lambda along, aside: np.where(np.abs(np.asarray(along) - 40.0) < 12.0, 9.0, 0.0))
    hard = [g for g in read_side(simulate(scene, 3)[0]).ground if g.kind == "hard"]
    assert len(hard) >= 8
    assert all(g.level_db > 5.0 for g in hard)


def with_many():
    """The demo's pass with two balls of bait and a school besides."""
    scene = side_pass()
    school = tuple(
        Swimmer(along_m=60.0 + 0.9 * i, aside_m=10.0 + 1.1 * (i % 3), depth_m=6.5 + 0.3 * (i % 2), strength_db=-36.0)
        for i in range(8)
    )
    bait = tuple(
        BaitCloud(along_m=x, aside_m=y, depth_m=z, length_m=3.6, height_m=1.8, count=4000, strength_db=-44.0)
        for x, y, z in ((38.0, 9.0, 4.0), (84.0, -12.0, 5.4), (150.0, 2.0, 3.5))
    )
    return simulate(replace(scene, fish=scene.fish + school, bait=bait), 3)[0]


def test_a_school_is_counted_and_bait_is_not():
    reading = read_side(with_many())
    schools = [s for s in reading.schools if s.kind == "school"]
    assert len(schools) == 1
    assert 6 <= schools[0].least <= 8
    assert schools[0].ground_m == pytest.approx(11.0, abs=0.7)
    assert schools[0].low_m <= 8.4 - 6.5 + 0.3
    balls = [s for s in reading.schools if s.kind == "bait"]
    assert [b.side for b in balls] == ["starboard", "port", "starboard"]
    assert [b.in_water for b in balls] == [False, False, True]
    for ball, depth in zip(balls[:2], (4.0, 5.4), strict=True):
        # its shadow tells where it hangs
        middle = (ball.low_m + ball.high_m) / 2
        assert abs(middle - (8.4 - depth)) < 2 * math.hypot(ball.height_sd_m, 0.3)
    # no fish are made of its grains
    first = balls[0]
    assert not any(
        f.side == first.side and first.time_start < f.time < first.time_end and first.near_m < f.slant_m < first.far_m
        for f in reading.fish
    )


def test_schools_keep_meaning_their_fish_when_a_person_takes_one_out_or_puts_one_in():
    recording = with_many()
    reading = replace(EMPTY, side=read_side(recording))
    (school,) = [s for s in reading.side.schools if s.kind == "school"]
    members = [reading.side.fish[k] for k in school.fish]
    balls = [s for s in reading.side.schools if s.kind == "bait"]
    said = [
        Correction(act=Act.DRAW, what="port", label="fish", time=float(recording.side.time[3]), depth_m=20.0),
        about_view(members[2], Act.REJECT),
    ]
    side = apply_views(reading, said, recording).side
    (after,) = [s for s in side.schools if s.kind == "school"]
    assert [side.fish[k] for k in after.fish] == [*members[:2], *members[3:]]
    assert after.least == school.least - 1
    assert [s for s in side.schools if s.kind == "bait"] == balls


def test_stones_are_no_bait():
    assert not [s for s in read_side(over(Ground(depth_m=7.0, stones=12.0), 5)).schools if s.kind == "bait"]
