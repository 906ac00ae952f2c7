"""The beam, blocks of pings, the bottom's path, arcs: closed forms and made-up pings of known truth."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import ndimage
from scipy.special import j1

from plumbbob.core.sonar import beam
from plumbbob.core.sonar.blocks import noise_floor_db, over_noise, read_block, tvg_db
from plumbbob.core.sonar.bottom import best_path, edge_scores
from plumbbob.core.sonar.echoes import drop_side_lobes, fit_arc
from plumbbob.core.sonar.recording import Down, EchoArray, Mount, Recording, Track, transducer_at
from plumbbob.core.stats import masked_percentile, running_extreme, running_mean


def a_down(echo, **changes):
    """Pings of an ordinary sounder; any part can be changed."""
    n = len(echo)
    parts = {
        "time": 100.0 + 0.1 * np.arange(n),
        "range_start_m": np.full(n, 0.1),
        "range_step_m": np.full(n, 0.04),
        "echo": EchoArray(echo),
        "scale_db": 0.36,
        "offset_db": -106.0,
        "frequency_hz": 200e3,
        "beam_width_deg": 16.0,
        "pulse_length_s": 1.5e-4,
        "tvg": "40logR",
        "mount": Mount(depth_m=0.5),
        "sound_speed_mps": 1470.0,
    }
    return Down(**{**parts, **changes})


@given(st.floats(0.0, 1.5), st.floats(4.0, 40.0))
def test_beam_pattern_is_a_piston(angle, width):
    x = beam.piston_ka(width) * math.sin(angle)
    exact = (2 * j1(x) / x) ** 2 if x > 1e-6 else 1.0
    assert float(beam.one_way_gain(angle, width)) == pytest.approx(exact, abs=2e-6)


@pytest.mark.parametrize(("depth", "width", "across"), [(35.0, 9.0, 5.509119), (10.0, 20.0, 3.52654)])
def test_footprint(depth, width, across):
    assert float(beam.footprint_diameter(depth, width)) == pytest.approx(across, rel=1e-4)


@given(st.floats(2, 60), st.floats(6, 30), st.floats(0.4, 4), st.floats(0, 0.99))
def test_chord_gives_back_the_side_distance(depth, width, speed, share):
    reach = depth * math.tan(math.radians(width / 2))
    aside = share * reach
    seconds = 2 * math.sqrt(reach**2 - aside**2) / speed
    vertical, off = beam.off_axis_from_chord(math.hypot(depth, aside), width, speed, seconds)
    assert vertical == pytest.approx(depth, rel=1e-6)
    assert off == pytest.approx(aside, abs=1e-3 * depth)


@pytest.mark.parametrize("slope", [0.0, 5.0, 20.0, 35.0])
def test_the_dead_zone_is_the_worst_of_its_beam(slope):
    """Closed forms against a fan of rays: what comes after the first bottom echo is not seen."""
    depth, width, b = 20.0, 20.0, math.radians(slope)
    t = np.radians(np.linspace(-10.0, 10.0, 2001))
    bottom = depth * math.cos(b) / np.cos(t - b)
    first = bottom.min()
    assert float(beam.first_echo_range(depth, width, slope)) == pytest.approx(first, abs=1e-5)
    blind = depth - first * np.sin(t) * math.tan(b) - first * np.cos(t)
    found = [f(depth, width, 0.0, slope) for f in (beam.dead_zone, beam.dead_zone_on_axis, beam.dead_zone_uphill)]
    assert [float(v) for v in found] == pytest.approx([blind.max(), blind[1000], blind[-1]], abs=1e-5)
    assert float(beam.dead_zone(depth, width, 0.074, slope)) == pytest.approx(blind.max() + 0.074, abs=1e-5)


def test_what_stays_longer_than_it_can_is_no_fish_on_the_axis():
    assert all(math.isnan(v) for v in beam.off_axis_from_chord(12.0, 20.0, 1.2, 30.0))


@given(st.floats(2, 40), st.floats(0, 1.2), st.floats(0.3, 4), st.floats(1, 20))
def test_pings_on_a_fish_off_the_axis(depth, share, speed, rate):
    reach = depth * math.tan(math.radians(10.0))
    expected = 2 * math.sqrt(max(reach**2 - (share * reach) ** 2, 0.0)) / speed * rate
    assert float(beam.expected_pings(depth, share * reach, 20.0, speed, rate)) == pytest.approx(expected, abs=1e-6)
    least, most, aside = (float(v) for v in beam.echo_bounds(depth, 20.0))
    assert math.hypot(least, aside) == pytest.approx(most)
    assert float(beam.footprint_area(depth, 20.0)) == pytest.approx(math.pi * reach**2)


@given(hnp.arrays(np.float32, (9, 5), elements=st.floats(-50, 50, width=32)), hnp.arrays(bool, (9, 5)))
def test_masked_percentile_is_a_member_of_its_column(values, use):
    got = masked_percentile(values, use, 50, 1)
    for k in range(5):
        kept = np.sort(values[use[:, k], k])
        if kept.size == 0:
            assert np.isnan(got[k])
        else:
            assert got[k] in kept
            assert kept[0] <= got[k] <= kept[-1]


def test_blocks_of_mixed_ranges_share_one_grid():
    rng = np.random.default_rng(1)
    echo = rng.integers(1, 255, (6, 50), dtype=np.uint8)
    step = np.array([0.02, 0.02, 0.04, 0.04, 0.03, 0.02])
    block = read_block(a_down(echo, range_step_m=step), 0, 6)
    assert block.step_m == pytest.approx(0.02)
    for i in range(6):
        for k in (0, 17, 49):
            at = round((0.1 + k * step[i] - block.range_m[0]) / block.step_m)
            assert block.raw[i, at] == echo[i, k]
    assert block.raw[0, 60] == 0
    assert block.seen[0] < block.seen[2]


def test_noise_floor_is_found_whatever_the_range_correction():
    rng = np.random.default_rng(2)
    for tvg in ("none", "20logR", "40logR"):
        down = a_down(np.zeros((300, 400), np.uint8), tvg=tvg)
        ranges = 0.1 + 0.04 * np.arange(400)
        level = -100.0 + 10 * np.log10(rng.exponential(size=(300, 400))) + tvg_db(down, ranges)
        echo = np.clip(np.rint((level + 106) / 0.36), 0, 255).astype(np.uint8)
        block = read_block(a_down(echo, tvg=tvg), 0, 300)
        floor = noise_floor_db(a_down(echo, tvg=tvg), block)
        assert floor == pytest.approx(-100.0, abs=1.0)
        assert float(np.median(over_noise(down, block, floor)[:, 200:])) == pytest.approx(-1.6, abs=1.2)


def test_bottom_path_follows_a_ledge_and_tells_what_is_lost():
    rng = np.random.default_rng(3)
    levels = rng.normal(-2, 2, (400, 150)).astype(np.float32)
    bed = np.concatenate([np.full(150, 40), np.linspace(40, 110, 60).astype(int), np.full(90, 110)])
    for i, b in enumerate(bed):
        levels[i, b : b + 12] += np.linspace(40, 20, 12)[: 150 - b]
    levels[:300, 90:93][:50] += 18  # a loud thing under the bed must not draw it down
    path = best_path(edge_scores(levels, 0.1, 0.3)[None])[0]
    assert np.abs(path[:300] - bed).max() <= 3
    assert (path[315:] < 0).all()


def hyperbola(depth, aside, speed, t0, width=16.0, noise=0.0, seed=0):
    """Times, ranges and levels of a still fish passed at a side distance, inside the beam's main lobe."""
    t = np.arange(-6.0, 6.0, 0.11) + t0
    along = speed * (t - t0)
    r = np.sqrt(depth**2 + aside**2 + along**2)
    gain = beam.one_way_gain(np.arctan2(np.hypot(along, aside), depth), width)
    keep = gain > 10 ** (-7.5 / 10)
    rng = np.random.default_rng(seed)
    level = 30 + 20 * np.log10(gain[keep]) + rng.normal(0, noise, keep.sum())
    return t[keep], r[keep], level


@given(st.floats(4, 30), st.floats(0, 0.5), st.floats(0.6, 2.5), st.floats(-3, 3))
def test_arc_gives_range_and_time_of_closest_approach(depth, share, speed, t0):
    aside = share * depth * math.tan(math.radians(8))
    t, r, level = hyperbola(depth, aside, speed, t0)
    if t.size < 6:
        return
    arc = fit_arc(t, r, level, speed, 0.11, 16.0)
    assert arc.range_m == pytest.approx(math.hypot(depth, aside), abs=0.02)
    assert arc.time == pytest.approx(t0, abs=0.1)
    assert arc.misfit_m < 0.02


def test_side_distance_is_told_with_an_honest_spread_or_not_at_all():
    errors, told = [], 0
    for seed in range(40):
        aside = 0.2 + 0.035 * seed
        t, r, level = hyperbola(8.0, aside, 1.3, 0.0, noise=1.5, seed=seed)
        arc = fit_arc(t, r, level, 1.3, 0.11, 16.0)
        if math.isfinite(arc.off_axis_m):
            told += 1
            errors.append((arc.off_axis_m - aside) / arc.off_axis_sd_m)
    assert told > 0
    assert np.sqrt(np.mean(np.square(errors))) < 2.0
    short = fit_arc(*hyperbola(3.0, 0.0, 2.5, 0.0), 2.5, 0.11, 16.0)
    assert math.isnan(short.off_axis_m)


def test_side_lobes_of_a_loud_fish_are_not_more_fish():
    t, r, level = hyperbola(8.0, 0.0, 1.3, 0.0)
    main = fit_arc(t, r, level, 1.3, 0.11, 16.0)
    late = np.arange(1.7, 2.5, 0.1)  # a lobe's worth of the same hyperbola, after the main beam has passed
    side = fit_arc(late, np.hypot(8.0, 1.3 * late), np.full(late.size, 9.0), 1.3, 0.11, 16.0)
    other = fit_arc(t + 3.0, r - 2.0, level - 5, 1.3, 0.11, 16.0)
    assert drop_side_lobes([side, main, other], 1.3, 0.11) == [main, other]


def a_track(**changes):
    t = np.arange(0.0, 20.0)
    parts = {
        "time": t,
        "latitude": 44.0 + 1e-5 * t,
        "longitude": np.full(20, -40.0),
        "speed_mps": np.full(20, 1.1),
        "heading_deg": np.full(20, 90.0),
        "course_deg": np.full(20, 0.0),
        "temperature_c": np.full(20, np.nan),
    }
    return Track(**{**parts, **changes})


def test_the_transducer_is_not_the_antenna():
    at = transducer_at(a_track(), Mount(depth_m=0.4, forward_m=-3.0, starboard_m=1.0), np.array([10.0]))
    east = (float(at.longitude[0]) + 40.0) * 80_000
    north = (float(at.latitude[0]) - 44.0001) * 111_110
    assert east == pytest.approx(-3.0, abs=0.05)
    assert north == pytest.approx(-1.0, abs=0.05)


def test_course_stands_in_for_a_missing_heading_and_gaps_stay_unknown():
    at = transducer_at(
        a_track(heading_deg=np.full(20, np.nan)), Mount(depth_m=0.0, forward_m=5.0), np.array([10.0, 60.0])
    )
    assert float(at.latitude[0]) > 44.0001 + 4e-5
    assert np.isnan(at.latitude[1])
    assert np.isnan(transducer_at(None, Mount(depth_m=0.0), np.array([1.0])).latitude).all()


def test_headings_are_averaged_through_north():
    t = a_track(heading_deg=np.where(np.arange(20) % 2, 358.0, 2.0))
    at = transducer_at(t, Mount(depth_m=0.0), np.array([4.5]))
    assert min(float(at.heading_deg[0]), 360 - float(at.heading_deg[0])) < 1.0


def test_an_empty_recording_reads_as_nothing():
    from plumbbob.core.sonar.read import read_down

    assert read_down(Recording(name="empty")).fish == ()


@given(
    hnp.arrays(np.float32, st.tuples(st.integers(1, 12), st.integers(1, 12)), elements=st.floats(-9, 9, width=32)),
    st.integers(1, 15),
    st.sampled_from([0, 1]),
)
def test_running_extremes_are_those_of_the_library(values, width, axis):
    for largest, filtered in ((True, ndimage.maximum_filter1d), (False, ndimage.minimum_filter1d)):
        expected = filtered(values, width, axis=axis, mode="nearest")
        assert np.array_equal(running_extreme(values, width, axis, largest=largest), expected)
    mean = ndimage.uniform_filter1d(values, width, axis=axis, mode="nearest")
    assert running_mean(values, width, axis) == pytest.approx(mean, abs=2e-5)
