"""Echosounder files after the open convention, made here in both its versions, read as recordings."""

import h5py
import numpy as np
import pytest

from plumbbob.core.sonar.read import read_down
from plumbbob.files.errors import FileError
from plumbbob.formats.any_recording import read_any
from plumbbob.formats.sonar_netcdf import beam_groups, is_sonar_netcdf, read_sonar_netcdf

_1601_NS = 11_644_473_600 * 10**9


def levels_of(down):
    raw = down.echo.read(0, len(down)).astype(np.float64)
    ranges = down.range_start_m[0] + down.range_step_m[0] * np.arange(down.samples)
    factor = {"none": 0.0, "20logR": 20.0, "40logR": 40.0}[down.tvg]
    return raw * down.scale_db + down.offset_db - factor * np.log10(np.maximum(ranges, 1.0))[None, :]


def made(path, recording, version, *, db=True, hertz=(200e3,)):
    """A file after the convention, from a recording of our own."""
    down, track = recording.down, recording.track
    level = levels_of(down)
    with h5py.File(path, "w") as file:
        for name, frequency in zip(("Beam_group1", "Beam_group2"), hertz, strict=False):
            group = file.create_group(f"Sonar/{name}")
            stamp = np.rint(down.time * 1e9).astype(np.uint64)
            times = group.create_dataset("ping_time", data=stamp + np.uint64(_1601_NS) if version == 1 else stamp)
            since = "1601-01-01 00:00:00Z" if version == 1 else "1970-01-01 00:00:00Z"
            times.attrs["units"] = f"nanoseconds since {since}"
            values = level if db else 10.0 ** (level / 20.0)
            if version == 1:
                rows = group.create_dataset("backscatter_r", (len(down), 1), dtype=h5py.vlen_dtype(np.float32))
                for k, row in enumerate(values):
                    rows[k, 0] = row.astype(np.float32)
            else:
                rows = group.create_dataset("backscatter_r", data=values[:, None, :].astype(np.float32))
                group["platform_latitude"] = np.interp(down.time, track.time, track.latitude)
                group["platform_longitude"] = np.interp(down.time, track.time, track.longitude)
            rows.attrs["units"] = "dB" if db else "as_is"
            group["sample_interval"] = np.full(len(down), down.range_step_m[0] * 2 / down.sound_speed_mps)
            group["sample_time_offset"] = np.full(len(down), down.range_start_m[0] * 2 / down.sound_speed_mps)
            group["transmit_duration_nominal"] = np.full(len(down), down.pulse_length_s)
            group["beamwidth_receive_major"] = np.full((len(down), 1), down.beam_width_deg)
            group["transmit_frequency_start"] = np.full(len(down), frequency)
            group["sound_speed_at_transducer"] = np.full(len(down), down.sound_speed_mps)
        platform = file.create_group("Platform")
        platform["transducer_offset_z"] = np.array([down.mount.depth_m])
        if version == 1:
            stamp = platform.create_dataset(
                "time1", data=np.rint(track.time * 1e9).astype(np.uint64) + np.uint64(_1601_NS)
            )
            stamp.attrs["units"] = "nanoseconds since 1601-01-01 00:00:00Z"
            platform["latitude"], platform["longitude"] = track.latitude, track.longitude
    return path


@pytest.mark.parametrize("version", [1, 2])
@pytest.mark.parametrize("db", [True, False])
def test_both_versions_read_like_the_recording_they_were_made_of(passed, tmp_path, version, db):
    own = passed[0]
    path = made(tmp_path / "survey.nc", own, version, db=db)
    assert is_sonar_netcdf(path)
    read = read_any(path)
    assert read.down.time == pytest.approx(own.down.time, abs=1e-6)
    assert read.down.range_step_m[0] == pytest.approx(own.down.range_step_m[0], rel=1e-6)
    assert read.down.beam_width_deg == own.down.beam_width_deg
    assert read.down.mount.depth_m == own.down.mount.depth_m
    assert np.interp(own.track.time[5], read.track.time, read.track.latitude) == pytest.approx(
        own.track.latitude[5], abs=1e-6
    )
    heard = own.down.echo.read(0, 50) > 60
    off = (levels_of(read.down)[:50] - levels_of(own.down)[:50])[heard]
    assert np.abs(off).max() < 1.0
    mine, theirs = read_down(own), read_down(read)
    assert theirs.bottom.depth_m == pytest.approx(mine.bottom.depth_m, abs=0.15, nan_ok=True)
    assert len(theirs.fish) == len(mine.fish)


def test_several_beam_groups_are_offered_by_frequency(passed, tmp_path):
    path = made(tmp_path / "two.nc", passed[0], 2, hertz=(38e3, 200e3))
    assert beam_groups(path) == [("Beam_group1", 38e3), ("Beam_group2", 200e3)]
    assert read_sonar_netcdf(path).down.frequency_hz == 200e3
    assert "1 more" in read_sonar_netcdf(path).notes[0]
    assert read_sonar_netcdf(path, "Beam_group1").down.frequency_hz == 38e3
    with pytest.raises(FileError, match="has no Beam_group7"):
        read_sonar_netcdf(path, "Beam_group7")


@pytest.mark.parametrize("gone", ["ping_time", "backscatter_r", "sample_interval"])
def test_what_is_missing_is_one_line(passed, tmp_path, gone):
    path = made(tmp_path / "broken.nc", passed[0], 2)
    with h5py.File(path, "a") as file:
        del file[f"Sonar/Beam_group1/{gone}"]
    with pytest.raises(FileError) as caught:
        read_any(path)
    assert "Beam_group1" in str(caught.value)
    assert "\n" not in str(caught.value)
