"""How fish hold, how big they may be, what moved: on made-up readings and simulated minutes."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.core.sonar.bottom import lie_of_the_bottom
from plumbbob.core.sonar.groups import bait_distance, find_groups, likely_species, nearest_bait
from plumbbob.core.sonar.read import read_down, standing_kind
from plumbbob.core.sonar.reading import Bait, Bottom, Reading, StandingObject
from plumbbob.core.sonar.sizes import size_class, target_strength, usual_strength
from plumbbob.core.sonar.sounder_setup import SetUp, advise
from plumbbob.core.water.profile import Profile
from plumbbob.formats.species import known_species, species_named
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import Hung
from tests.conftest import a_scene
from tests.core.test_evidence import a_fish

TIME = np.arange(0.0, 400.0, 0.5)


def a_reading(fish, bed=12.0, **more):
    depth = np.full(TIME.size, bed) if np.isscalar(bed) else bed
    return Reading(bottom=Bottom(time=TIME, depth_m=depth, hardness=depth * 0), fish=tuple(fish), **more)


def some(places, bed=12.0):
    return [a_fish(z, time=t, up=bed - z) for t, z in places]


STRUNG = [(100 + 6 * k, 11.0 + 0.1 * (k % 2)) for k in range(8)]
STACKED = [(100 + 0.8 * (k % 3), 3.0 + 0.9 * k) for k in range(8)]
SCATTERED = [(100 + 5 * k, 5.0 + 2.3 * ((3 * k) % 4)) for k in range(10)]


@pytest.mark.parametrize(("places", "how"), [(STRUNG, "strung"), (STACKED, "stacked")])
def test_groups_are_told_by_their_shape(places, how):
    (group,) = find_groups(a_reading(some(places)), 1.2)
    assert group.how == how
    assert len(group.fish) == len(places)


def test_fish_in_open_water_are_scattered_and_few_are_no_group():
    assert {g.how for g in find_groups(a_reading(some(SCATTERED)), 1.2)} <= {"scattered"}
    assert find_groups(a_reading(some(STRUNG[:4])), 1.2) == ()


def test_what_they_hang_over_is_named():
    high = [(100 + 3 * k, 5.0 + 0.6 * (k % 3)) for k in range(8)]
    timber = StandingObject(time_start=108, time_end=112, height_m=3.0, kind="timber", bottom_m=12.0)
    (over,) = find_groups(a_reading(some(high), standing=(timber,)), 1.2)
    assert (over.how, over.over) == ("hung", "timber")
    bed = 15.0 - 5.0 * np.exp(-0.5 * ((TIME - 110) / 15) ** 2)
    (hump,) = find_groups(a_reading(some(high), bed), 1.2)
    assert (hump.how, hump.over) == ("hung", "a hump")
    lip = np.where(TIME < 120, 12.0, 18.0)
    (edge,) = find_groups(a_reading(some(STRUNG[:6]), lip), 1.2)
    assert edge.how == "edge"


@given(st.sampled_from(["strung", "edge", "stacked", "scattered", "hung"]), st.floats(0.5, 18.0))
def test_likelihoods_add_up_and_are_never_a_verdict(how, depth):
    water = Profile(depth_m=np.array([0.0, 8.0, 12.0, 20.0]), temperature_c=np.array([21.0, 20.0, 10.0, 7.0]))
    kinds = [species_named(n) for n in ("kokanee", "sauger", "yellow perch", "burbot")]
    found = likely_species(how, depth, kinds, water)
    assert sum(k.chance for k in found) == pytest.approx(1.0)
    assert all(0.0 < k.chance < 0.97 for k in found)
    assert [k.chance for k in found] == sorted((k.chance for k in found), reverse=True)


def test_habit_and_temperature_both_count():
    water = Profile(depth_m=np.array([0.0, 20.0]), temperature_c=np.array([20.0, 20.0]))
    kinds = [species_named(n) for n in ("kokanee", "yellow perch")]
    assert likely_species("strung", 10.0, kinds, water)[0].species.name == "yellow perch"
    assert likely_species("stacked", 10.0, kinds, None)[0].species.name == "kokanee"
    assert all(k.holds for k in known_species())


def test_distance_and_side_of_bait():
    bait = Bait(time_start=100, time_end=110, depth_top_m=4, depth_bottom_m=6, latitude=0, longitude=0, level_db=20)
    assert bait_distance(a_fish(5.0, time=105), bait, 1.3) == (0.0, "in")
    assert bait_distance(a_fish(9.0, time=105), bait, 1.3) == (3.0, "under")
    assert bait_distance(a_fish(2.0, time=105), bait, 1.3) == (2.0, "above")
    assert nearest_bait(a_fish(5.0, time=120), [bait], 1.3) == (pytest.approx(13.0), "after")
    assert nearest_bait(a_fish(5.0), [], 1.3) is None


@given(st.floats(1, 40), st.floats(0.0, 0.1))
def test_strength_is_freed_of_range(depth, loss):
    """The same fish at any depth has the same strength (Urick 1983)."""
    level = 60.0 - 40 * math.log10(depth) - 2 * loss * depth
    assert target_strength(level, depth, 0.0, 0.1, 16.0, loss)[0] == pytest.approx(60.0, abs=0.1)


def test_size_is_a_class_with_its_doubt():
    fish = [a_fish(5.0, strength_db=s, strength_sd_db=2.0) for s in (-40, -36, -35, -35, -34, -34, -33, -20)]
    loud, middle = (size_class(f, usual_strength(fish)) for f in (fish[-1], fish[3]))
    assert (loud.word, middle.word) == ("large", "middling")
    assert sum(loud.chances) == pytest.approx(1.0)
    assert middle.factor_low < 1.0 < middle.factor_high
    assert size_class(fish[0], usual_strength(fish[:3])).word == "unknown"


def test_what_stands_is_told_by_length_and_height():
    assert standing_kind(math.nan, 2.5, 0.5)[0] == "timber"
    assert standing_kind(5.0, 0.8, 0.5) == ("unknown", "brush pile")
    assert standing_kind(5.0, 0.3, 0.5) == ("unknown", "")


@given(st.floats(0, 40), st.floats(5, 25))
def test_a_plane_slope_gives_back_its_depth(slope, depth):
    """Handbook 1.7: the first echo of a plane comes from d cos b, or from the beam's edge on a steeper one."""
    b, phi = math.radians(slope), math.radians(8.0)
    way = np.linspace(0.0, 60.0, 600)
    true = depth + way * math.tan(b)
    ranges = true * math.cos(b) / math.cos(max(b - phi, 0.0))
    vertical, found = lie_of_the_bottom(ranges, way, 16.0)
    inside = slice(100, 400)
    assert vertical[inside] == pytest.approx(true[inside], rel=2e-3)
    assert found[inside] == pytest.approx(np.full(300, slope), abs=0.3)


def test_a_lost_bottom_has_no_lie_and_a_rough_one_no_slope():
    rng = np.random.default_rng(1)
    ranges = 12.0 + rng.normal(0, 0.1, 400)
    ranges[100:150] = np.nan
    vertical, slope = lie_of_the_bottom(ranges, np.linspace(0, 52, 400), 16.0)
    assert np.isnan(vertical[100:150]).all()
    assert np.nanpercentile(np.abs(vertical - ranges), 99) < 0.05
    assert np.nanmedian(np.abs(slope)) < 1.0


def test_a_lure_let_down_and_what_follows_it_up_are_trails():
    def jig(t):
        return np.interp(t, [0.0, 8.0, 15.0, 25.0, 40.0], [1.5, 8.0, 8.0, 4.5, 4.5])

    hung = (
        Hung(start_s=6.0, end_s=46.0, depth_m=jig, strength_db=-38.0),
        Hung(start_s=18.0, end_s=36.0, depth_m=lambda t: jig(t + 12.0) + 0.6 + np.exp(-t / 3.0), aside_m=0.4),
    )
    still = a_scene(bait=(), fish=(), layer=None, hung=hung, speed_mps=lambda t: 0.1 + 0 * t, clutter_m=0.8)
    reading = read_down(simulate(still, seed=12)[0])
    assert [t.kind for t in reading.trails] == ["falling lure", "lure", "following fish"] or [
        t.kind for t in reading.trails
    ] == ["falling lure", "following fish", "lure"]
    fall = reading.trails[0]
    assert fall.sink_mps == pytest.approx(6.5 / 8.0, rel=0.15)
    assert all(abs(f.depth_m - 4.5) > 0.3 for f in reading.fish)  # the lure is no fish


def test_a_pass_without_one_has_no_trail(passed):
    assert read_down(passed[0]).trails == ()


def test_set_up_agrees_with_the_closed_forms():
    """Handbook 1.5 and 1.6: 20 m need at most 37 pings a second, 12 m at 20 degrees show a chord of 4.23 m."""
    found = advise(SetUp(beam_width_deg=20.0, depth_m=12.4, bottom_m=20.0, size_m=0.0, speed_mps=1.2, ping_rate_hz=2))
    assert found.footprint_m == pytest.approx(2 * 12.0 * math.tan(math.radians(10.0)))
    assert found.pings == pytest.approx(2 * found.footprint_m / 1.2)
    assert found.fastest_mps * 5 == pytest.approx(found.limit_mps * 3)
    assert (
        advise(SetUp(beam_width_deg=60.0, depth_m=40.0, bottom_m=41.0)).limit_mps <= 4.0
    )  # no scan at planing speed
    assert found.ping_rate_hz <= 1480.0 / (2 * found.range_m)
    assert advise(SetUp(speed_mps=0.0)).pings == math.inf
    assert advise(SetUp(speed_mps=6.0)).planing
    assert advise(SetUp(tilt_deg=5.0, depth_m=10.4)).shift_m == pytest.approx(0.875, abs=1e-3)


@pytest.mark.parametrize(
    "bad", [{"depth_m": 20.0}, {"speed_mps": -1.0}, {"bottom_m": 0.0}, {"beam_width_deg": 200.0}]
)
def test_an_impossible_set_up_is_refused(bad):
    with pytest.raises(ValueError, match=r"outside|under the bottom"):
        SetUp(**bad)


@given(st.floats(0.5, 30), st.floats(0.0, 20.0), st.floats(0.1, 10.0))
def test_slower_never_shows_less(depth, size, speed):
    fast = SetUp(depth_m=depth, bottom_m=depth + 5.0, size_m=size, speed_mps=speed)
    assert advise(replace(fast, speed_mps=speed / 2)).pings >= advise(fast).pings


@given(st.floats(1.0, 60.0), st.floats(0.5, 40.0))
def test_deeper_water_hides_more_and_needs_fewer_pings(bottom, more):
    near = advise(SetUp(depth_m=0.8, bottom_m=bottom))
    far = advise(SetUp(depth_m=0.8, bottom_m=bottom + more))
    assert far.dead_zone_m > near.dead_zone_m
    assert far.ping_rate_hz <= near.ping_rate_hz
    assert far.range_m > near.range_m
