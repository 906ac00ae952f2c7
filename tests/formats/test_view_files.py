"""Files of the other views: recordings with fans, XTF, a picture's scale, GPX tracks, and what the command prints."""

import json
import os
import struct
from dataclasses import replace
from pathlib import Path

import h5py
import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.cli import main
from plumbbob.core.sonar.picture import Looks, PictureScale
from plumbbob.core.sonar.recording import transducer_at
from plumbbob.files.errors import FileError
from plumbbob.formats.any_recording import read_any, write_any
from plumbbob.formats.gpx import read_track
from plumbbob.formats.picture_scale import beside, read_scale, scale_of, scale_text, write_scale
from plumbbob.formats.recording import close_recording, read_recording, write_recording
from plumbbob.formats.xtf import read_xtf, write_xtf
from tests.views import ahead, sides


@pytest.fixture(scope="module")
def side_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("views") / "sides.nc"
    write_recording(path, sides())
    return path


@pytest.fixture(scope="module")
def ahead_file(tmp_path_factory):
    path = tmp_path_factory.mktemp("views") / "ahead.nc"
    write_recording(path, ahead())
    return path


def run(*words):
    return CliRunner().invoke(main, [str(w) for w in words])


# -- the recording format -------------------------------------------------------------------------------------------


def test_fans_come_back_as_they_were(side_file, ahead_file):
    read, made = read_recording(side_file), sides()
    for which in ("port", "starboard"):
        assert np.array_equal(read.side.echo_of(which).read(0, 999), made.side.echo_of(which).read(0, 999))
    assert np.array_equal(read.side.time, made.side.time)
    assert read.side.mount == made.side.mount
    assert read.side.pulse_length_s == made.side.pulse_length_s
    fan, true = read_recording(ahead_file).forward, ahead().forward
    assert np.array_equal(fan.echo.read(3, 9), true.echo.read(3, 9))
    assert np.array_equal(fan.beam_angle_deg, true.beam_angle_deg)
    assert np.array_equal(fan.azimuth_deg, true.azimuth_deg)
    # the bow's fan has a mount of its own in the file
    assert fan.mount == true.mount != read_recording(ahead_file).down.mount
    for recording in (read, read_recording(ahead_file)):
        close_recording(recording)


def test_pings_out_of_order_are_sorted_in_every_view(side_file, tmp_path):
    path = tmp_path / "turned.nc"
    path.write_bytes(side_file.read_bytes())
    with h5py.File(path, "r+") as file:
        for name in ("time", "port", "starboard", "range_start", "range_step"):
            file["side"][name][...] = file["side"][name][...][::-1]
    read = read_recording(path)
    assert (np.diff(read.side.time) >= 0).all()
    assert np.array_equal(read.side.port.read(10, 20), sides().side.port.read(10, 20))
    assert any("side pings were out of order" in n for n in read.notes)


@pytest.mark.parametrize(
    ("group", "change", "said"),
    [
        ("side", lambda g: g.__delitem__("starboard"), "side/starboard"),
        ("side", lambda g: g["range_step"].__setitem__(3, -1.0), "side/range_step"),
        ("side", lambda g: g["starboard"].attrs.__setitem__("scale_factor", 0.5), "another scale"),
        ("side", lambda g: g.attrs.__delitem__("beam_width_along"), "beam_width_along"),
        ("forward", lambda g: g["beam_angle"].__setitem__(2, 500.0), "forward/beam_angle"),
        ("forward", lambda g: g["beam_angle"].__setitem__(2, 80.0), "neither rises nor falls"),
        ("forward", lambda g: g["time"].__setitem__(0, np.nan), "forward/time"),
    ],
)
def test_a_broken_fan_is_refused_by_name_and_the_command_says_so(
    group, change, said, side_file, ahead_file, tmp_path
):
    path = tmp_path / "broken.nc"
    path.write_bytes((side_file if group == "side" else ahead_file).read_bytes())
    with h5py.File(path, "r+") as file:
        change(file[group])
    with pytest.raises(FileError, match=said):
        read_recording(path)
    done = run("scan", path, "--json")
    assert done.exit_code == 2
    assert done.stdout == ""
    assert len(done.stderr.strip().splitlines()) == 1


def test_missing_azimuths_count_as_straight_ahead(ahead_file, tmp_path):
    path = tmp_path / "nan.nc"
    path.write_bytes(ahead_file.read_bytes())
    with h5py.File(path, "r+") as file:
        file["forward"]["azimuth"][4] = np.nan
    read = read_recording(path)
    assert read.forward.azimuth_deg[4] == 0.0
    assert any("no azimuth" in n for n in read.notes)


# -- what the command prints ----------------------------------------------------------------------------------------


def test_scan_fills_side_and_forward(side_file, ahead_file):
    side = json.loads(run("scan", side_file, "--json").stdout)["side"]
    assert len(side["fish"]) == 5
    for fish in side["fish"]:
        assert fish["side"] in ("port", "starboard")
        assert fish["ground_range"] <= fish["slant_range"]
        assert fish["latitude"] == pytest.approx(44.205, abs=0.01)
    assert {t["kind"] for t in side["standing"]} == {"timber", "brush"}
    out = json.loads(run("scan", ahead_file, "--json").stdout)
    assert len(out["forward"]["fish"]) >= 2
    for fish in out["forward"]["fish"]:
        track = fish["track"]
        assert len(track["time"]) == len(track["distance"]) == len(track["depth"])
        assert fish["time"] in track["time"]
    assert out["side"] == {"fish": []}
    assert "to sides    5 fish" in run("scan", side_file).stdout
    assert "ahead" in run("scan", ahead_file).stdout


# -- XTF ------------------------------------------------------------------------------------------------------------


def test_xtf_comes_back_with_its_levels_and_places(side_file, tmp_path):
    path = tmp_path / "out.xtf"
    assert run("convert", side_file, path).exit_code == 0
    read, made = read_any(path), sides()
    for which in ("port", "starboard"):
        assert np.array_equal(read.side.echo_of(which).read(0, 999), made.side.echo_of(which).read(0, 999))
    assert np.abs(read.side.time - made.side.time).max() < 0.011
    assert read.side.reach_m == pytest.approx(made.side.reach_m, rel=1e-4)
    assert (read.side.scale_db, read.side.tvg) == (pytest.approx(made.side.scale_db), made.side.tvg)
    there = transducer_at(made.track, made.side.mount, made.side.time[50:52])
    here = transducer_at(read.track, read.side.mount, read.side.time[50:52])
    assert np.abs(there.latitude - here.latitude).max() < 2e-6
    out = json.loads(run("scan", path, "--json").stdout)
    assert len(out["side"]["fish"]) >= 4
    assert out["bottom"]["time"] == []


def test_foreign_amplitudes_and_unknown_packets_are_read_for_what_is_known(tmp_path):
    path, odd = tmp_path / "a.xtf", tmp_path / "odd.xtf"
    write_xtf(path, sides())
    data = bytearray(path.read_bytes())
    # not ours: the note is gone, samples are plain amplitudes
    at = data.index(b"plumbbob 0")
    data[at : at + 40] = bytes(40)
    # a packet of a kind nobody knows between header and first ping
    unknown = struct.pack("<HBBHHHI", 0xFACE, 222, 0, 0, 0, 0, 64).ljust(64, b"\0")
    odd.write_bytes(bytes(data[:1024]) + unknown + bytes(data[1024:]))
    read = read_xtf(odd)
    assert len(read.side) == len(sides().side)
    assert any("unknown" in n and n.startswith("skipped 1") for n in read.notes)
    raw = sides().side.port.read(0, 50).astype(float)
    level = read.side.port.read(0, 50) * read.side.scale_db
    loud = raw > 20
    assert np.corrcoef(np.log(raw[loud]), level[loud])[0, 1] > 0.99


def test_a_file_that_breaks_off_is_read_as_far_as_it_goes(tmp_path):
    path = tmp_path / "cut.xtf"
    write_xtf(path, sides())
    path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    read = read_xtf(path)
    assert 100 < len(read.side) < len(sides().side)
    assert any("breaks off" in n for n in read.notes)


@pytest.mark.parametrize("content", [b"", b"x" * 500, os.urandom(4096), b"\x7b" + bytes(2000)])
def test_no_xtf_is_one_line(content, tmp_path):
    path = tmp_path / "no.xtf"
    path.write_bytes(content)
    with pytest.raises(FileError) as caught:
        read_xtf(path)
    assert "\n" not in str(caught.value)
    assert run("scan", path, "--json").exit_code == 2


def test_an_index_beside_a_file_is_never_unpickled(tmp_path):
    """The reading library would run what a pickle beside the recording says."""
    path = tmp_path / "a.xtf"
    write_xtf(path, sides())
    (tmp_path / "a.pyxtf_idx").write_bytes(b"cos\nsystem\n(S'touch " + str(tmp_path / "ran").encode() + b"'\ntR.")
    read_xtf(path)
    assert not (tmp_path / "ran").exists()


def test_what_has_no_sides_can_not_be_written_as_xtf(tmp_path):
    with pytest.raises(FileError, match="no view to the sides"):
        write_any(tmp_path / "b.xtf", replace(sides(), side=None))
    assert list(tmp_path.iterdir()) == []


def test_xtf_without_places_or_with_strange_numbers(tmp_path):
    path = tmp_path / "a.xtf"
    write_xtf(path, replace(sides(), track=None))
    assert read_xtf(path).track is None


# -- a picture's scale ----------------------------------------------------------------------------------------------

number = st.floats(-1e5, 1e5, allow_nan=False)
point = st.tuples(number, number)
scales = st.builds(
    PictureScale,
    looks=st.sampled_from(list(Looks)),
    width=st.integers(1, 20_000),
    height=st.integers(1, 20_000),
    corners=st.none() | st.tuples(point, point, point, point),
    near=st.none() | point,
    far=st.none() | point,
    early=st.none() | point,
    late=st.none() | point,
    ramp=st.none() | st.tuples(point, point),
    apart_m=st.none() | number,
)


@given(scales)
def test_a_scale_comes_back_as_it_was(scale):
    assert scale_of(Path("x"), scale_text(scale)) == scale


def test_a_scale_lies_beside_its_picture(tmp_path):
    picture = tmp_path / "a.png"
    assert read_scale(beside(picture)) is None
    scale = PictureScale(width=8, height=6, near=(1.0, 0.0), far=(5.0, 10.0))
    write_scale(beside(picture), scale)
    assert beside(picture).name == "a.png.scale.json"
    assert read_scale(beside(picture)) == scale


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        '{"format": "plumbbob-picture-scale"}',
        '{"format": "plumbbob-picture-scale", "looks": "up", "width": 1, "height": 1}',
        '{"format": "plumbbob-picture-scale", "looks": "down", "width": 1, "height": 1, "near": [1]}',
        '{"format": "plumbbob-picture-scale", "looks": "down", "width": 1, "height": 1, "near": [1, NaN]}',
        '{"format": "plumbbob-picture-scale", "looks": "down", "width": 1, "height": 1, "corners": [[1, 2]]}',
    ],
)
def test_damaged_scales_are_refused_in_one_line(text, tmp_path):
    path = tmp_path / "a.png.scale.json"
    path.write_text(text)
    with pytest.raises(FileError) as caught:
        read_scale(path)
    assert "\n" not in str(caught.value)


# -- tracks ---------------------------------------------------------------------------------------------------------


def test_a_gpx_track_gives_places_speed_and_course(tmp_path):
    path = tmp_path / "t.gpx"
    points = "".join(
        f'<trkpt lat="{44.2 + 1e-5 * k}" lon="-40.05"><time>2026-08-15T09:10:{k:02d}Z</time></trkpt>'
        for k in range(20)
    )
    path.write_text(
        f'<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'
    )
    track = read_track(path)
    assert len(track) == 20
    assert track.speed_mps[3] == pytest.approx(1.11, abs=0.01)
    assert track.course_deg[3] % 360 == pytest.approx(0.0, abs=0.1)


@pytest.mark.parametrize("text", ["", "<gpx", '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"/>'])
def test_no_track_is_one_line(text, tmp_path):
    path = tmp_path / "t.gpx"
    path.write_text(text)
    with pytest.raises(FileError, match=r"t\.gpx"):
        read_track(path)
