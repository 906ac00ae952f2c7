"""The recording format: round trip, everything a reader accepts, everything it refuses by name."""

import shutil

import h5py
import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plumbbob.files.errors import FileError
from plumbbob.formats.recording import close_recording, read_recording, write_recording


def test_round_trip(passed, pass_file):
    wrote, read = passed[0], read_recording(pass_file)
    assert read.views == ("down",)
    np.testing.assert_array_equal(read.down.echo.read(0, 10_000), wrote.down.echo.read(0, 10_000))
    for name in ("time", "range_start_m", "range_step_m"):
        np.testing.assert_allclose(getattr(read.down, name), getattr(wrote.down, name))
    for name in ("time", "latitude", "longitude", "heading_deg"):
        np.testing.assert_allclose(getattr(read.track, name), getattr(wrote.track, name))
    assert read.down.mount == wrote.down.mount
    close_recording(read)


@pytest.fixture
def copy(pass_file, tmp_path):
    """A copy that may be broken."""
    path = tmp_path / "copy.nc"
    shutil.copy(pass_file, path)
    return path


def change(path, act):
    with h5py.File(path, "r+") as file:
        act(file)


def drop(name):
    def act(file):
        del file[name]

    return act


def drop_attribute(group, name):
    return lambda file: file[group].attrs.__delitem__(name)


def set_attribute(group, name, value):
    return lambda file: file[group].attrs.__setitem__(name, value)


def rewrite(name, values):
    def act(file):
        attributes = dict(file[name].attrs)
        del file[name]
        made = file.create_dataset(name, data=values)
        for key in ("units", "scale_factor", "add_offset"):
            if key in attributes:
                made.attrs[key] = attributes[key]

    return act


BREAKS = [
    (drop_attribute("/", "format"), "root: attribute format is missing"),
    (set_attribute("/", "format", "something-else"), "root: attribute format is"),
    (set_attribute("/", "format_version", 9), "root: attribute format_version is 9"),
    (drop_attribute("/", "sound_speed"), "root: attribute sound_speed is missing"),
    (set_attribute("/", "sound_speed", 12.0), "root: attribute sound_speed is 12"),
    (drop_attribute("/", "transducer_depth"), "root: attribute transducer_depth is missing"),
    (drop("down/time"), "down/time: variable is missing"),
    (drop("down/echo"), "down/echo: variable is missing"),
    (drop("down/range_step"), "down/range_step: variable is missing"),
    (drop("track/latitude"), "track/latitude: variable is missing"),
    (drop_attribute("down", "beam_width"), "down: attribute beam_width is missing"),
    (drop_attribute("down", "tvg"), "down: attribute tvg is missing"),
    (set_attribute("down", "tvg", "loud"), "down: attribute tvg is 'loud'"),
    (set_attribute("down", "pulse_length", "short"), "down: attribute pulse_length is not a number"),
    (drop_attribute("down/echo", "scale_factor"), "down/echo: attribute scale_factor is missing"),
    (set_attribute("down/time", "units", "days since 1900-01-01"), "down/time: units are"),
    (rewrite("down/time", np.zeros(3)), "down/range_start: has shape"),
    (rewrite("down/echo", np.zeros((576, 450), np.float32)), "down/echo: is float32, not unsigned byte"),
    (rewrite("down/echo", np.zeros((5, 450), np.uint8)), "down/echo: has 5 pings where time has 576"),
    (rewrite("down/echo", np.zeros(576, np.uint8)), "down/echo: has 1 dimensions, not 2"),
    (rewrite("down/range_step", np.full(576, 90.0)), "down/range_step: looks farther than there is water anywhere"),
    (rewrite("down/range_step", np.full(576, -0.1)), "down/range_step: value 0 is not a positive length"),
    (rewrite("down/time", np.full(576, np.nan)), "down/time: value 0 is not a time"),
]


@pytest.mark.parametrize(("act", "words"), BREAKS, ids=[w for _, w in BREAKS])
def test_a_broken_contract_is_refused_by_name_in_one_line(copy, act, words):
    change(copy, act)
    with pytest.raises(FileError) as caught:
        read_recording(copy)
    assert f"copy.nc: {words}" in str(caught.value)
    assert "\n" not in str(caught.value)


def test_missing_optional_parts_are_fine(copy):
    change(copy, drop("track/heading"))
    change(copy, drop("track/water_temperature"))
    change(copy, drop_attribute("/", "antenna_to_transducer_forward"))
    read = read_recording(copy)
    assert np.isnan(read.track.heading_deg).all()
    assert read.down.mount.forward_m == 0.0
    change(copy, drop("track"))
    assert read_recording(copy).track is None
    change(copy, drop("down"))
    assert read_recording(copy).down is None


def test_a_group_may_carry_its_own_mount(copy):
    change(copy, set_attribute("down", "transducer_depth", 0.9))
    assert read_recording(copy).down.mount.depth_m == 0.9


def test_pings_out_of_order_and_repeated_come_back_sorted(copy, passed):
    order = np.random.default_rng(1).permutation(576)
    down = passed[0].down
    echo = down.echo.read(0, 576)
    time = down.time.copy()
    time[10] = time[9]
    change(copy, rewrite("down/time", time[order]))

    def swap(file):
        file["down/echo"][...] = echo[order]

    change(copy, swap)
    read = read_recording(copy)
    assert (np.diff(read.down.time) >= 0).all()
    np.testing.assert_array_equal(read.down.echo.read(100, 400), echo[100:400])
    assert any("order" in note for note in read.notes)


def test_positions_that_are_not_numbers_are_left_out_and_counted(copy):
    def spoil(file):
        file["track/latitude"][3:7] = np.nan
        file["track/longitude"][9] = 4000.0

    change(copy, spoil)
    read = read_recording(copy)
    assert np.isfinite(read.track.latitude).all()
    assert "5 of " in read.notes[0]


@pytest.mark.parametrize("content", [b"", b"CDF\x01 not netCDF-4", b"\x89HDF\r\n\x1a\n" + b"\0" * 200])
def test_what_is_no_recording_is_refused(tmp_path, content):
    path = tmp_path / "x.nc"
    path.write_bytes(content)
    with pytest.raises(FileError, match=r"x\.nc"):
        read_recording(path)
    with pytest.raises(FileError, match="no such file"):
        read_recording(tmp_path / "nowhere.nc")


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(cut=st.floats(0, 1), at=st.floats(0, 1), junk=st.binary(min_size=1, max_size=64))
def test_damage_anywhere_is_refused_or_read_never_a_crash(pass_file, tmp_path, cut, at, junk):
    whole = pass_file.read_bytes()
    data = bytearray(whole[: max(int(len(whole) * (1 - cut * 0.5)), 1)])
    place = int(at * (len(data) - 1))
    data[place : place + len(junk)] = junk
    path = tmp_path / "damaged.nc"
    path.write_bytes(data)
    try:
        read = read_recording(path)
        if read.down is not None:
            read.down.echo.read(0, 600)
        close_recording(read)
    except FileError:
        return  # said in one line; any other error fails the test


def test_a_failed_write_leaves_the_old_file(passed, tmp_path):
    path = tmp_path / "kept.nc"
    path.write_bytes(b"old")

    def stop(fraction):
        raise OSError(28, "No space left on device")

    with pytest.raises(FileError, match="No space"):
        write_recording(path, passed[0], progress=stop)
    assert path.read_bytes() == b"old"
    assert list(tmp_path.iterdir()) == [path]
