"""Commands end well, with one line, or told to stop: never with a traceback, never with half a file."""

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from click.testing import CliRunner

from plumbbob.cli import main
from plumbbob.files.atomic import MAKING


def plumbbob(*given, **more):
    return subprocess.run(
        [sys.executable, "-m", "plumbbob.cli", *map(str, given)], capture_output=True, text=True, check=False, **more
    )


@pytest.fixture
def soundings(tmp_path):
    path = tmp_path / "x.csv"
    rows = [f"{44.2 + i / 2000},{-40.05 + j / 1500},{5 + (i * j) % 7}" for i in range(20) for j in range(20)]
    path.write_text("latitude,longitude,depth_m\n" + "\n".join(rows) + "\n")
    return path


def refused(*given, status=2):
    done = CliRunner().invoke(main, [str(g) for g in given])
    assert done.exit_code == status, done.output
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1
    assert done.stderr.startswith("plumbbob: ")
    return done.stderr


@pytest.mark.parametrize("grid", ["x.csv", ".", "", "link.tif", "pipe"])
def test_a_chart_is_written_over_nothing_it_reads_and_nothing_odd(soundings, monkeypatch, grid):
    monkeypatch.chdir(soundings.parent)
    os.symlink("x.csv", "link.tif")
    os.mkfifo("pipe")
    before = soundings.read_bytes()
    refused("chart", "x.csv", "--grid", grid)
    refused("chart", "x.csv", "--contours", grid)
    assert soundings.read_bytes() == before


def test_recordings_are_not_written_over_themselves(pass_file, tmp_path):
    before = pass_file.read_bytes()
    for given in (
        ("cut", pass_file),
        ("convert", pass_file),
        ("scan", pass_file, "--contacts"),
    ):
        assert "would write over" in refused(*given, pass_file)
    refused("cut", pass_file, ".")
    refused("cut", pass_file, tmp_path / "o.nc", "--from", "nan")
    refused("cut", pass_file, tmp_path / "o.nc", "--every", "0")
    refused("join", tmp_path / "o.nc", pass_file)
    assert pass_file.read_bytes() == before


@pytest.mark.parametrize(
    "given",
    [
        ("water", "p.csv", "--wind", "1e300"),
        ("water", "p.csv", "--fetch", "nan"),
        ("water", "nothing.csv"),
        ("sim", "o.nc", "--minutes", "0.1"),
        ("sim", "o.nc", "--seed", "-1"),
        ("sim", "/dev/null"),
        ("chart", "/dev/zero"),
        ("scan", "/dev/zero"),
        ("scan", "."),
        ("rig", "/dev/zero"),
        ("scan", "--nonsense"),
        ("nonsense",),
    ],
)
def test_wrong_inputs_are_one_line_and_status_two(tmp_path, monkeypatch, given):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "p.csv").write_text("depth_m,temperature_c\n0,20\n8,9\n")
    refused(*given)


@pytest.mark.parametrize(
    "request_",
    [
        {"hang": 1e-9},
        {"advice": {"depth_m": 6, "facts": True}},
        {"rods": [{"depth_m": 3, "sped_mps": 1}]},
        {"rods": [{"depth_m": True}]},
        {"rods": [{"depth_m": 3}] * 500},
        {"rods": {"depth_m": 3}},
        {"rods": [{"depth_m": 3, "zero": "moon"}]},
        {"notes": [{"rod": {"metod": "x"}, "depth_m": 3, "value": 4}]},
        {"tables": {"depths_m": [1.0] * 300, "speeds_mps": [0.5] * 40}, "rods": [{"depth_m": 3}]},
        {"motion": {"turn": {"degrees": 3600, "radius_m": 5000}, "step_s": 0.01}, "rods": [{"depth_m": 3}]},
        {"motion": {"turn": {}, "change": {}}, "rods": [{"depth_m": 3}]},
        {"hang": {"fish_m": 3, "facts": {"bait": [3]}}},
        {"hang": {"fish_m": 3, "facts": {"kayak": "yes"}}},
        {
            "problems": [
                {
                    "kind": "pendulum",
                    "input": {"weight_in_water_N": 1, "drag_area_m2": 1, "line_length_m": 3, "times_s": [1e9]},
                }
            ]
        },
        {"lane": {"along_m": [0, 1], "bottom_m": [1]}, "rods": [{"depth_m": 3}]},
        [],
        3,
    ],
    ids=lambda r: str(r)[:40],
)
def test_rig_requests_that_make_no_sense_are_refused_by_name(tmp_path, request_):
    path = tmp_path / "r.json"
    path.write_text(json.dumps(request_))
    refused("rig", path)


def test_a_dropped_key_would_have_been_another_answer(tmp_path):
    path = tmp_path / "r.json"
    path.write_text(json.dumps({"problems": [{"kind": "tow", "input": {"bodi": {}}}]}))
    assert "bodi is not known" in refused("rig", path)


def test_control_characters_of_a_file_name_never_reach_the_terminal(tmp_path):
    path = tmp_path / "a\n\x1b[31mred\u202e.nc"
    path.write_bytes(b"no")
    line = refused("scan", path)
    assert "\x1b" not in line
    assert "\u202e" not in line


def test_a_full_device_and_a_reader_that_left(pass_file):
    if not Path("/dev/full").exists():
        pytest.fail("this system has no /dev/full")
    with open("/dev/full", "w") as full:
        done = subprocess.run(
            [sys.executable, "-m", "plumbbob.cli", "scan", str(pass_file), "--json"],
            stdout=full, stderr=subprocess.PIPE, text=True, check=False,
        )  # fmt: skip
    assert done.returncode == 1
    assert done.stderr == "plumbbob: No space left on device\n"
    reader, writer = os.pipe()
    os.close(reader)
    done = subprocess.run(
        [sys.executable, "-m", "plumbbob.cli", "scan", str(pass_file), "--json"],
        stdout=writer, stderr=subprocess.PIPE, text=True, check=False,
    )  # fmt: skip
    os.close(writer)
    assert (done.returncode, done.stderr) == (1, "")


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT])
def test_told_to_stop_it_leaves_nothing_half_written(tmp_path, number):
    out = tmp_path / "long.nc"
    worker = subprocess.Popen(
        [sys.executable, "-m", "plumbbob.cli", "sim", str(out), "--minutes", "60"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    time.sleep(0.2)
    deadline = time.monotonic() + 120
    while time.monotonic() < deadline and not _ready(worker.pid):
        time.sleep(0.05)
    worker.send_signal(number)
    said = worker.communicate(timeout=120)
    assert worker.returncode == 128 + number
    assert said == ("", "")
    assert not out.exists()
    assert not list(tmp_path.glob(f"{MAKING}*"))


def _ready(pid):
    """The worker has put its own handler in place of the system's."""
    with open(f"/proc/{pid}/status", encoding="ascii") as file:
        caught = next(line for line in file if line.startswith("SigCgt"))
    return int(caught.split()[1], 16) & (1 << (signal.SIGTERM - 1))


def test_what_goes_wrong_inside_is_one_line_too(monkeypatch, pass_file):
    def broken(path, **more):
        raise ZeroDivisionError("first\nsecond")

    monkeypatch.setattr("plumbbob.formats.any_recording.read_any", broken)
    assert "went wrong inside" in refused("scan", pass_file, status=1)
    monkeypatch.setattr("plumbbob.formats.any_recording.read_any", lambda p: exec("raise MemoryError"))
    assert "memory" in refused("scan", pass_file, status=1)
