"""The whole reader on a simulated minute of known truth."""

from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core.sonar.fish_association import summarise, together
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.recording import EchoArray
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import BaitCloud, Sounder, Stand, Swimmer
from tests.conftest import a_scene


@pytest.fixture(scope="module")
def reading(passed):
    return read_down(passed[0])


def test_bottom_is_followed(reading, passed):
    truth = np.array(passed[1]["bottom"]["depth_below"])
    error = np.abs(reading.bottom.depth_m - truth)
    assert np.isfinite(error).mean() > 0.99
    assert np.nanpercentile(error, 99) < 0.3
    assert np.nanmedian(error) < 0.12


def test_each_fish_once_and_nothing_else(reading, passed):
    truth = passed[1]["fish"]
    assert len(reading.fish) == len(truth)
    for seen, there in zip(reading.fish, truth, strict=True):
        assert seen.time == pytest.approx(there["time"], abs=0.6)
        assert seen.depth_m == pytest.approx(there["apparent_depth"], abs=0.1)
        assert seen.height_above_bottom_m == pytest.approx(there["height_above_bottom"], abs=0.3)
        assert abs(seen.latitude - there["latitude"]) * 111_000 < 4.0


def test_bait_is_one_cloud_where_it_is(reading, passed):
    (seen,), (there,) = reading.bait, passed[1]["bait"]
    assert seen.depth_top_m == pytest.approx(there["depth_top"], abs=0.5)
    assert seen.depth_bottom_m == pytest.approx(there["depth_bottom"], abs=0.5)
    assert seen.time_start < there["time_end"]
    assert seen.time_end > there["time_start"]


def test_cold_layer_is_found_and_an_absent_one_is_not(reading, passed):
    assert reading.cold_layer is not None
    assert reading.cold_layer.depth_m == pytest.approx(passed[1]["thermocline"]["depth"], abs=0.35)
    assert 0.4 < reading.cold_layer.thickness_m < 2.2
    without, _ = simulate(a_scene(layer=None), seed=4)
    assert read_down(without).cold_layer is None


def test_a_bottom_out_of_range_is_told_as_lost():
    deep, _ = simulate(a_scene(bottom_m=lambda x: 30.0 + 0 * x, seconds=30.0), seed=5)
    assert not np.isfinite(read_down(deep).bottom.depth_m).any()


def test_noise_alone_holds_nothing(passed):
    down = passed[0].down
    rng = np.random.default_rng(6)
    ranges = 0.1 + 0.04 * np.arange(450)
    level = -112 + 10 * np.log10(rng.exponential(size=(400, 450))) + 40 * np.log10(ranges)
    echo = np.clip(np.rint((level - down.offset_db) / down.scale_db), 0, 255).astype(np.uint8)
    quiet = replace(
        down,
        time=down.time[:400],
        range_start_m=down.range_start_m[:400],
        range_step_m=down.range_step_m[:400],
        echo=EchoArray(echo),
    )
    read = read_down(replace(passed[0], down=quiet))
    assert (read.fish, read.bait, read.standing, read.cold_layer) == ((), (), (), None)
    assert not np.isfinite(read.bottom.depth_m).any()


def test_progress_runs_to_the_end_and_can_stop_the_work(passed):
    heard = []
    read_down(passed[0], progress=heard.append)
    assert heard == sorted(heard)
    assert heard[-1] == pytest.approx(1.0)

    def stop(fraction):
        raise InterruptedError

    with pytest.raises(InterruptedError):
        read_down(passed[0], progress=stop)


def test_counts_behind_the_sentences(reading):
    held = summarise(reading)
    assert held.fish == 3
    assert held.suspended == 2
    assert held.near_bottom == 1
    assert held.over_layer == 2
    assert held.under_layer == 1
    assert held.deepest_fish_m == pytest.approx(12.6, abs=0.15)
    assert together(reading, reading.fish[0]) == 1


QUIET = {"bait": (), "layer": None, "fish": (), "bottom_m": lambda x: 12.0 + 0 * x}


@pytest.mark.parametrize(
    ("stand", "kind"),
    [
        (Stand(along_m=25.0, length_m=26.0, height_m=1.6), "weed"),
        (Stand(along_m=38.0, length_m=3.0, height_m=3.5, kind="timber"), "timber"),
    ],
)
def test_what_stands_on_the_bottom_is_measured_and_named(stand, kind):
    recording, _ = simulate(a_scene(**QUIET, stands=(stand,)), seed=8)
    found = read_down(recording)
    assert [s.kind for s in found.standing] == [kind]
    # its top is ragged: between half and all of the full height
    assert 0.55 * stand.height_m < found.standing[0].height_m < 1.1 * stand.height_m
    assert found.fish == ()
    assert found.bait == ()
    assert np.nanmax(np.abs(found.bottom.depth_m - 12.0)) < 0.6


def test_a_loose_school_is_its_fish_and_not_bait():
    school = tuple(
        Swimmer(along_m=30.0 + 3.2 * k, aside_m=0.3 * (-1) ** k, depth_m=6.0 + 0.6 * (k % 3), strength_db=-36.0)
        for k in range(9)
    )
    recording, _ = simulate(a_scene(**{**QUIET, "fish": school}), seed=9)
    found = read_down(recording)
    assert found.bait == ()
    assert 8 <= len(found.fish) <= 9


def test_a_rough_bottom_has_nothing_standing_on_it():
    rough = {**QUIET, "bottom_m": lambda x: 12.0 + 0.35 * np.sin(x / 1.3) + 0.25 * np.sin(x / 0.7)}
    found = read_down(simulate(a_scene(**rough), seed=10)[0])
    assert found.standing == ()
    assert len(found.fish) <= 1


def test_bait_in_a_row_is_bait_and_no_layer():
    row = tuple(
        BaitCloud(along_m=float(a), aside_m=0.0, depth_m=6.5, length_m=6.0, height_m=1.4, count=500)
        for a in np.arange(10.0, 80.0, 14.0)
    )
    found = read_down(simulate(a_scene(**{**QUIET, "bait": row}), seed=11)[0])
    assert found.cold_layer is None
    assert 4 <= len(found.bait) <= 6


def test_a_range_that_changes_on_the_way_changes_nothing(passed):
    down = passed[0].down
    echo = down.echo.read(0, 999)
    step = down.range_step_m.copy()
    coarse = np.zeros_like(echo)
    coarse[:250] = echo[:250]
    coarse[250:, :225] = np.maximum(echo[250:, ::2], echo[250:, 1::2])
    step[250:] *= 2
    changed = replace(down, range_step_m=step, echo=EchoArray(coarse))
    found, usual = read_down(replace(passed[0], down=changed)), read_down(passed[0])
    assert len(found.fish) == len(usual.fish)
    assert np.nanmax(np.abs(found.bottom.depth_m - usual.bottom.depth_m)) < 0.5


@pytest.mark.parametrize("reach", [18.0, 30.0], ids=["first echo alone", "second echo too"])
def test_a_hard_stretch_is_harder_than_a_soft_one(reach):
    def roughness(x):
        return np.where((x > 28.0) & (x < 56.0), -18.0, -30.0)

    scene = a_scene(**QUIET, roughness_db=roughness, sounder=Sounder(range_m=reach, samples=int(reach * 25)))
    found = read_down(simulate(scene, seed=21)[0]).bottom
    way = 1.3 * (found.time - found.time[0])
    hard = found.hardness[(way > 33) & (way < 51)]
    soft = found.hardness[(way < 23) | (way > 61)]
    assert np.nanmedian(hard) > np.nanmedian(soft) + 0.3
    assert np.nanpercentile(hard, 10) > np.nanpercentile(soft, 90)


@pytest.mark.parametrize("drift_mps", [0.04, 0.15])
def test_a_fish_under_a_boat_at_anchor_is_counted_once(drift_mps):
    way = 240.0 * drift_mps
    depths = (3.0, 4.0, 5.0, 6.0, 7.0)
    fish = tuple(
        Swimmer(along_m=way * (k + 0.5) / 5, aside_m=0.3, depth_m=z, strength_db=-36.0, swims_mps=(0.03, -0.02))
        for k, z in enumerate(depths)
    )
    scene = a_scene(
        seconds=240.0, speed_mps=lambda t: np.full(np.shape(t), drift_mps), fish=fish, bait=(), layer=None, stands=()
    )
    found = read_down(simulate(scene, 5)[0]).fish
    assert 4 <= len(found) <= 6
    assert sum(any(abs(f.depth_m - z) < 0.4 for f in found) for z in depths) >= 4


def test_where_the_bottom_was_lost_its_remains_are_no_fish():
    def soft(s):
        return -16.0 - 45.0 * np.exp(-(((np.asarray(s) - 60.0) / 20.0) ** 4))

    scene = a_scene(roughness_db=soft, fish=(), bait=(), layer=None, stands=())
    read = read_down(simulate(scene, 6)[0])
    lost = ~np.isfinite(read.bottom.depth_m)
    assert 0.1 < lost.mean() < 0.6
    assert read.fish == ()


def test_what_hangs_over_a_cliff_is_not_the_bottom():
    def cliff(s):
        return 7.0 + 4.5 * (1.0 + np.tanh((np.asarray(s) - 45.0) / 4.0))

    def weak(s):
        return -27.0 - 8.0 * np.exp(-(((np.asarray(s) - 45.0) / 5.0) ** 4))

    cloud = BaitCloud(
        along_m=45.0, aside_m=0.0, depth_m=3.6, length_m=7.0, height_m=1.2, count=2500, strength_db=-48.0
    )
    scene = a_scene(bottom_m=cliff, roughness_db=weak, fish=(), bait=(cloud,), layer=None)
    recording, _ = simulate(scene, 8)
    bed = read_down(recording).bottom.depth_m
    assert np.nanmin(bed) > 6.0
    assert np.isfinite(bed).mean() > 0.9
