"""The simulator is physical: what comes out obeys the laws that went in, and the same seed gives the same pass."""

import json
import math

import numpy as np
import pytest
from click.testing import CliRunner

from plumbbob.cli import main
from plumbbob.core.sonar.blocks import noise_floor_db, over_noise, read_block
from plumbbob.core.sonar.recording import transducer_at
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import Sounder, Swimmer, path_of
from plumbbob.sim.veyra import demo_pass, long_day
from tests.conftest import a_scene

BARE = {"bait": (), "layer": None, "clutter_m": 0.5, "seconds": 30.0}


def levels_of(recording):
    """Decibels over the noise of a whole short pass, and its depths."""
    down = recording.down
    block = read_block(down, 0, len(down))
    return over_noise(down, block, noise_floor_db(down, block)), block.range_m + down.mount.depth_m


def loudest_near(levels, depths, depth, half=0.3):
    """Loudest level of every ping within half a window of a depth."""
    inside = np.abs(depths - depth) < half
    return levels[:, inside].max(axis=1)


def test_the_same_seed_gives_the_same_recording():
    one, _ = simulate(a_scene(**BARE), seed=1)
    two, _ = simulate(a_scene(**BARE), seed=1)
    other, _ = simulate(a_scene(**BARE), seed=2)
    assert np.array_equal(one.down.echo.read(0, 999), two.down.echo.read(0, 999))
    assert not np.array_equal(one.down.echo.read(0, 999), other.down.echo.read(0, 999))


def test_an_arc_comes_out_of_the_geometry():
    fish = Swimmer(along_m=20.0, aside_m=0.0, depth_m=8.0, strength_db=-28.0)
    recording, truth = simulate(a_scene(**BARE, fish=(fish,)), seed=3)
    levels, depths = levels_of(recording)
    down, met = recording.down, truth["fish"][0]["time"]
    for since in (-0.8, 0.0, 0.8):
        ping = int(np.searchsorted(down.time, met + since))
        inside = np.abs(depths - 8.3) < 1.0
        seen = depths[inside][levels[ping, inside].argmax()]
        expected = down.mount.depth_m + math.hypot(8.0 - down.mount.depth_m, 1.3 * since)
        assert seen == pytest.approx(expected, abs=0.08)


def test_level_falls_with_the_fourth_power_of_range():
    near = Swimmer(along_m=12.0, aside_m=0.0, depth_m=4.45, strength_db=-36.0)
    far = Swimmer(along_m=28.0, aside_m=0.0, depth_m=8.45, strength_db=-36.0)
    recording, _ = simulate(a_scene(**BARE, fish=(near, far)), seed=4)
    levels, depths = levels_of(recording)
    twice = loudest_near(levels, depths, 4.45).max() - loudest_near(levels, depths, 8.45).max()
    assert twice == pytest.approx(12.04 + 0.08, abs=2.5)  # speckle and roll leave a little


def test_the_second_echo_lies_at_twice_the_depth():
    flat = {"bottom_m": lambda x: 7.0 + 0 * x, "fish": (), "roughness_db": lambda x: -18.0 + 0 * x}
    recording, _ = simulate(a_scene(**BARE, **flat), seed=5)
    levels, depths = levels_of(recording)
    mean = levels.mean(axis=0)
    between = mean[(depths > 10.0) & (depths < 13.0)].mean()
    at_twice = mean[np.abs(depths - 14.1) < 0.3].mean()
    assert at_twice > between + 10.0


def test_noise_is_even_before_the_range_correction():
    recording, _ = simulate(a_scene(**BARE, fish=(), bottom_m=lambda x: 60.0 + 0 * x), seed=6)
    levels, depths = levels_of(recording)
    parts = [levels[:, (depths > low) & (depths < low + 4)].mean() for low in (5.0, 9.0, 13.0)]
    assert np.ptp(parts) < 0.6


def test_a_wider_beam_draws_longer_arcs():
    fish = Swimmer(along_m=20.0, aside_m=0.0, depth_m=8.0, strength_db=-34.0)
    widths = []
    for width in (10.0, 20.0):
        sounder = Sounder(range_m=18.0, samples=450, beam_width_deg=width)
        recording, _ = simulate(a_scene(**BARE, fish=(fish,), sounder=sounder), seed=7)
        levels, depths = levels_of(recording)
        widths.append(int((loudest_near(levels, depths, 8.2, 0.5) > 12).sum()))
    assert widths[1] > 1.5 * widths[0]


def test_the_track_is_the_antennas(passed):
    recording, truth = passed
    scene = a_scene()
    path = path_of(scene, np.array([30.0]))
    at = transducer_at(recording.track, recording.down.mount, np.array([scene.start_time + 30.0]))
    north = (float(at.latitude[0]) - scene.origin.latitude) * 111_110
    assert north == pytest.approx(float(path.north_m[0]), abs=4.0)  # the fixes wander
    assert len(truth["bottom"]["time"]) == len(recording.down)


def test_fish_swim_off_while_they_are_passed():
    still = Swimmer(along_m=20.0, aside_m=0.0, depth_m=8.0, strength_db=-34.0)
    follower = Swimmer(along_m=20.0, aside_m=0.0, depth_m=8.0, strength_db=-34.0, swims_mps=(0.9, 0.0))
    lengths = []
    for fish in (still, follower):
        recording, _ = simulate(a_scene(**BARE, fish=(fish,)), seed=8)
        levels, depths = levels_of(recording)
        lengths.append(int((loudest_near(levels, depths, 8.2, 0.5) > 12).sum()))
    assert lengths[1] > 2 * lengths[0]


def test_demo_waters_make_sense():
    scene = demo_pass()
    path = path_of(scene, np.array([0.0, scene.seconds]))
    for fish in scene.fish:
        assert 0 < fish.along_m < path.along_m[-1]
        assert fish.depth_m < float(scene.bottom_m(np.array([fish.along_m]))[0])
    assert {f.tag for f in scene.fish} == {"kokanee", "sauger", "yellow perch", "burbot"}
    assert long_day(2.0).seconds == 120.0


def test_the_command_writes_recording_and_truth(tmp_path, monkeypatch):
    monkeypatch.setattr("plumbbob.sim.veyra.demo_pass", lambda: a_scene(seconds=20.0))
    out = tmp_path / "made.nc"
    done = CliRunner().invoke(main, ["sim", str(out)])
    assert done.exit_code == 0, done.output
    assert out.exists()
    assert set(json.loads((tmp_path / "made.truth.json").read_text())) >= {"bottom", "fish", "bait", "thermocline"}
    summary = CliRunner().invoke(main, ["scan", str(out)])
    assert summary.exit_code == 0
    assert "bottom" in summary.output
    assert "cold layer" in summary.output
    nowhere = CliRunner().invoke(main, ["sim", str(tmp_path / "no" / "made.nc")])
    assert nowhere.exit_code == 2
