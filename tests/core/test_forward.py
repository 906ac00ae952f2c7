"""The view ahead read back from a simulated drift: fish placed, the lure told from them, the bottom left out."""

import math
from dataclasses import replace

import numpy as np
import pytest

from plumbbob.core import geodesy as geo
from plumbbob.core.sonar.corrections import Act
from plumbbob.core.sonar.forward import find_bed, read_forward
from plumbbob.core.sonar.reading import EMPTY
from plumbbob.core.sonar.recording import EchoArray, Forward, Mount, Recording
from plumbbob.core.sonar.view_corrections import about_view, apply_views
from plumbbob.sim.down import simulate
from plumbbob.sim.scene import ForwardScene, path_of, place_of
from tests.views import AHEAD_FISH, ahead, ahead_scene


@pytest.fixture(scope="module")
def found():
    return read_forward(ahead())


def truth(k, time):
    """Distance from the transducer, depth, latitude and longitude of one of the fish."""
    scene = ahead_scene()
    forward, aside, depth = AHEAD_FISH[k]
    path = path_of(scene, np.array([time - scene.start_time]))
    distance = math.hypot(forward - float(path.along_m[0]), aside)
    # the path is that of the down transducer; the fan sits at the bow
    fan, down = scene.forward, scene.sounder
    shift = (fan.forward_m - down.forward_m, fan.starboard_m - down.starboard_m)
    east, north = geo.along_heading(300.0, forward + shift[0], aside + shift[1])
    start = path_of(scene, np.zeros(1))
    latitude, longitude = place_of(scene, start.east_m + east, start.north_m + north)
    return distance, depth, float(latitude[0]), float(longitude[0])


@pytest.mark.parametrize("k", [0, 1])
def test_each_fish_is_followed_and_placed(found, k):
    depth = AHEAD_FISH[k][2]
    tracks = [t for t in found.tracks if t.kind == "fish" and abs(np.median(t.depth_m) - depth) < 0.3]
    assert tracks
    best = max(tracks, key=lambda t: t.time.size)
    assert best.time.size > 30
    i = best.best
    distance, depth, latitude, longitude = truth(k, best.time[i])
    assert best.distance_m[i] == pytest.approx(distance, abs=0.3)
    assert best.depth_m[i] == pytest.approx(depth, abs=0.25)
    east, north = geo.separation(latitude, longitude, best.latitude[i], best.longitude[i])
    # the fix wanders by more than the fan errs
    assert math.hypot(float(east), float(north)) < 2.0
    assert abs(best.towards_mps) < 0.15


def test_the_lure_is_told_from_fish_by_how_it_falls_and_followed_as_it_is_drawn_in(found):
    lures = [t for t in found.tracks if t.kind == "lure"]
    assert len(lures) == 1
    lure = lures[0]
    assert float(lure.depth_m.max()) == pytest.approx(3.8, abs=0.4)
    assert lure.distance_m[-1] < lure.distance_m[0] - 6.0
    assert lure.time[-1] - lure.time[0] > 12.0


def test_nothing_but_fish_and_lure_is_reported(found):
    depths = [z for *_, z in AHEAD_FISH]
    for track in found.tracks:
        if track.kind == "fish":
            assert min(abs(float(np.median(track.depth_m)) - z) for z in depths) < 0.5


def test_the_bottom_under_the_fan_is_found(found):
    assert np.nanmedian(found.bottom_depth_m) == pytest.approx(8.6, abs=0.2)


def test_a_turning_fan_tells_how_far_to_one_side_a_fish_is(found):
    for k, (forward, aside, depth) in enumerate(AHEAD_FISH):
        track = max((t for t in found.tracks if abs(np.median(t.depth_m) - depth) < 0.3), key=lambda t: t.time.size)
        expected = math.degrees(math.atan2(aside, forward - 0.8))
        assert float(np.median(track.azimuth_deg)) == pytest.approx(expected, abs=4.0), k
        assert 0 < track.azimuth_sd_deg < 9.0


def test_without_a_track_distance_and_depth_still_hold():
    alone = read_forward(replace(ahead(), track=None))
    fish = [t for t in alone.tracks if t.kind == "fish"]
    assert fish
    assert all(np.isnan(t.latitude).all() for t in fish)
    assert any(abs(float(np.median(t.depth_m)) - 4.5) < 0.3 for t in fish)


def test_an_empty_water_holds_no_fish():
    none = read_forward(simulate(ahead_scene(ahead=(), seconds=16.0), seed=2)[0])
    assert none.tracks == ()


def a_view(frames, **changes):
    n, beams, _ = frames.shape
    parts = {
        "time": 0.25 * np.arange(n),
        "range_start_m": np.full(n, 0.3),
        "range_step_m": np.full(n, 0.08),
        "scale_db": 0.3,
        "offset_db": -90.0,
        "frequency_hz": 9e5,
        "tvg": "20logR",
        "mount": Mount(depth_m=0.4),
        "sound_speed_mps": 1480.0,
        "beam_angle_deg": np.linspace(2.0, 88.0, beams),
        "azimuth_deg": np.zeros(n),
        "echo": EchoArray(frames),
        "beam_width_deg": 2.0,
    }
    return Forward(**{**parts, **changes})


@pytest.mark.parametrize("slope", [-0.15, 0.0, 0.2])
def test_the_bed_follows_a_slope_and_noise_has_none(slope):
    rng = np.random.default_rng(1)
    angles = np.radians(np.linspace(2.0, 88.0, 44))
    frames = rng.integers(20, 50, (6, 44, 200)).astype(np.float32)
    view = a_view(frames.astype(np.uint8))
    from plumbbob.core.sonar.forward import _Geometry

    geometry = _Geometry.of(view, 0)
    assert np.isinf(find_bed(view, geometry, frames)).all()
    # depth below grows with distance: r sin a = 6 + slope r cos a
    r = 6.0 / (np.sin(angles) - slope * np.cos(angles))
    j = np.rint((r - 0.3) / 0.08).astype(int)
    for b, k in enumerate(j):
        if 0 <= k < 198:
            frames[:, b, k : k + 2] = 180.0
    bed = find_bed(view, geometry, frames)
    seen = (j > 0) & (j < 198)
    assert np.abs(bed - r * np.sin(angles))[seen].max() < 0.35


@pytest.mark.parametrize("shape", [(0, 8, 40), (1, 8, 40), (5, 2, 40), (5, 8, 4)])
def test_hardly_any_frames_are_no_trouble(shape):
    found = read_forward(Recording(name="x", forward=a_view(np.zeros(shape, np.uint8))))
    assert found.tracks == ()
    assert found.bottom_depth_m.size == shape[0]


def test_changing_ranges_are_read_in_runs(found):
    """The same frames with the sounder's range changed half way: both halves are read on their own grid."""
    view = ahead().forward
    frames = view.echo.read(0, len(view)).copy()
    half = len(view) // 2
    step = view.range_step_m.copy()
    step[half:] *= 2
    frames[half:] = np.concatenate([frames[half:, :, ::2], np.zeros_like(frames[half:, :, ::2])], axis=2)
    changed = replace(view, echo=EchoArray(frames), range_step_m=step)
    again = read_forward(replace(ahead(), forward=changed))
    late = [t for t in again.tracks if t.time[-1] > view.time[half] + 2.0]
    assert any(abs(float(np.median(t.depth_m)) - 4.5) < 0.4 for t in late)


def test_a_person_can_take_a_track_out(found):
    reading = replace(EMPTY, ahead=found)
    track = found.tracks[0]
    kept = apply_views(reading, [about_view(track, Act.REJECT)], ahead()).ahead.tracks
    assert len(kept) == len(found.tracks) - 1
    assert not any(t is track for t in kept)
    said = apply_views(reading, [about_view(track, Act.ACCEPT)], ahead()).ahead.tracks
    assert [t.hand for t in said].count("accepted") == 1


def test_no_view_no_reading():
    assert read_forward(Recording(name="none")) is None


def riding(scene, ahead_m, depth_m):
    """Something that keeps its place before the boat: the boat's own noise."""
    fine = np.arange(0.0, scene.seconds + 1.0, 0.05)
    along = path_of(scene, fine).along_m
    return ForwardScene(
        ahead_m=lambda t: np.interp(t, fine, along) + ahead_m,
        aside_m=lambda t: np.full(np.shape(t), 0.3),
        depth_m=lambda t: np.full(np.shape(t), depth_m),
        strength_db=-36.0,
    )


def test_what_goes_with_the_boat_is_its_own_noise():
    scene = replace(ahead_scene(), speed_mps=lambda t: 0.35 + 0.0 * t, ahead=())
    scene = replace(scene, ahead=(riding(scene, 4.0, 2.0),))
    assert read_forward(simulate(scene, 4)[0]).tracks == ()
    # a boat that lies still tells nothing: then it may be a fish
    still = replace(scene, speed_mps=lambda t: 0.0 * t)
    still = replace(still, ahead=(riding(still, 4.0, 2.0),))
    assert len(read_forward(simulate(still, 4)[0]).tracks) == 1


def test_a_side_lobe_and_the_second_echo_are_no_fish():
    scene = ahead_scene()
    loud = replace(scene, forward=replace(scene.forward, lobe=3e-3, second_echo_db=-10.0))
    reading = read_forward(simulate(loud, 4)[0])
    for track in reading.tracks:
        assert any(
            abs(
                float(np.interp(t, track.time, track.depth_m)) - float(f.depth_m(np.array([t - scene.start_time]))[0])
            )
            < 0.8
            for f in scene.ahead
            for t in (track.time[track.time.size // 2],)
        )
