"""A recording that grows: whole on disk after every commit, whatever ends the program."""

import os
import random
import subprocess
import sys
import time

import h5py
import numpy as np
import pytest

from plumbbob.core.live.fixes import Fix
from plumbbob.files.committed import PAGE, CommittedFile
from plumbbob.files.errors import FileError
from plumbbob.formats.recording import read_recording
from plumbbob.formats.recording_append import DiskFull, GrowingRecording
from tests.formats.test_wires import AHEAD, DOWN, SIDE, ping

WRITER = """
import sys
from pathlib import Path
from plumbbob.core.live.fixes import Fix
from plumbbob.formats.recording_append import GrowingRecording
from tests.formats.test_wires import DOWN, SIDE, ping
growing = GrowingRecording(Path(sys.argv[1]))
growing.open_view(DOWN), growing.open_view(SIDE)
print("go", flush=True)
k = 0
while True:
    for _ in range(15):
        growing.add_ping("down", ping(k, 200 + k % 50)), growing.add_ping("side", ping(k, 200, "side", 2))
        k += 1
    growing.add_fix(Fix(time=1e9 + k, latitude=44.2, longitude=-40.05))
    growing.commit()
    print(k, flush=True)
"""


def filled(path, seconds=3):
    growing = GrowingRecording(path)
    for header in (DOWN, SIDE, AHEAD):
        assert growing.open_view(header)
    for k in range(seconds):
        for header, size in ((DOWN, 1), (SIDE, 2), (AHEAD, 3)):
            growing.add_ping(header.view, ping(k, 20 + 300 * (k == 2), header.view, size))
        growing.add_fix(Fix(time=1e9 + k, latitude=44.2 + 1e-5 * k, longitude=-40.05, temperature_c=18.0))
        growing.commit()
    return growing


def test_what_was_taken_is_read_back_by_the_reader_of_recordings(tmp_path):
    path = tmp_path / "day.nc"
    growing = filled(path)
    growing.close()
    back = read_recording(path)
    assert (len(back.down), len(back.side), len(back.forward), len(back.track.time)) == (3, 3, 3, 3)
    assert back.down.samples == 320
    first = back.down.echo.read(0, 1)[0]
    assert first[:20].tobytes() == ping(0, 20).echo
    assert not first[20:].any()  # a shorter ping is filled with nothing
    both = ping(1, 20, "side", 2).echo
    assert back.side.port.read(1, 2)[0, :20].tobytes() + back.side.starboard.read(1, 2)[0, :20].tobytes() == both
    assert back.forward.echo.read(2, 3)[0].tobytes() == ping(2, 320, "forward", 3).echo
    assert back.forward.azimuth_deg.tolist() == [12.0] * 3
    assert back.down.mount.depth_m == DOWN.transducer_depth
    assert back.down.scale_db == 0.5
    assert back.track.temperature_c.tolist() == [18.0] * 3


def test_between_commits_the_disk_holds_the_last_whole_state(tmp_path):
    path = tmp_path / "day.nc"
    growing = filled(path, 2)
    before = path.read_bytes()
    growing.add_ping("down", ping(7, 4000))
    growing.add_fix(Fix(time=2e9, latitude=44.0, longitude=-40.0))
    assert path.read_bytes() == before
    with h5py.File(path, "r") as file:
        assert file["down/echo"].shape[0] == 2
    growing.close()
    assert len(read_recording(path).down) == 3


def test_another_header_does_not_fit_and_nothing_is_written_over(tmp_path):
    path = tmp_path / "day.nc"
    growing = filled(path, 1)
    assert growing.open_view(DOWN)
    louder = type(DOWN)(DOWN.view, 0.25, *[getattr(DOWN, n) for n in DOWN.__slots__[2:]])
    assert not growing.open_view(louder)
    growing.close()
    with pytest.raises(FileError, match="there already"):
        GrowingRecording(path)
    with pytest.raises(FileError, match="could not be written"):
        GrowingRecording(tmp_path / "none" / "day.nc")


def test_a_full_disk_stops_it_before_the_file_is_harmed(tmp_path):
    path, room = tmp_path / "day.nc", [10**9]
    growing = GrowingRecording(path, free=lambda folder: room[0])
    growing.open_view(DOWN)
    growing.add_ping("down", ping(0))
    growing.commit()
    room[0] = 100
    growing.add_ping("down", ping(1, 60_000))
    with pytest.raises(DiskFull):
        growing.commit()
    with pytest.raises(DiskFull):
        growing.commit()
    growing.close()
    assert len(read_recording(path).down) == 1


def test_a_limit_of_the_system_harms_nothing_either(tmp_path):
    """The system refuses to write on; what was committed before is whole."""
    limited = "import sys, resource\nresource.setrlimit(resource.RLIMIT_FSIZE, (600_000,) * 2)\n"
    tried = "    try:\n        growing.commit()\n    except Exception:\n        break\n"
    code = WRITER.replace("import sys\n", limited).replace("    growing.commit()\n", tried)
    path = tmp_path / "day.nc"
    done = subprocess.run([sys.executable, "-c", code, str(path)], capture_output=True, text=True, timeout=60)
    last = int(done.stdout.split()[-1])
    assert len(read_recording(path).down) == last > 0


def test_killed_at_any_moment_it_holds_what_was_committed(tmp_path):
    rng = random.Random(4)
    for k in range(4):
        path = tmp_path / f"{k}.nc"
        writer = subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path)], stdout=subprocess.PIPE, text=True, cwd=os.getcwd()
        )
        assert writer.stdout.readline() == "go\n"
        time.sleep(rng.uniform(0.05, 0.5))
        writer.kill()
        said = writer.stdout.read().split()
        writer.wait()
        last = int(said[-1]) if said else 0
        with h5py.File(path, "r") as file:
            down = file["down/echo"].shape[0] if "down/echo" in file else 0
            assert down >= last
            assert file["track/time"].shape[0] >= last // 15
        if down:
            back = read_recording(path)
            assert back.down.echo.read(down - 1, down)[0, :10].tobytes() == ping(down - 1, 250).echo[:10]


def test_a_committed_file_reads_what_was_written(tmp_path):
    rng = np.random.default_rng(1)
    with CommittedFile(tmp_path / "x") as file:
        truth = bytearray()
        for _ in range(80):
            at, size = int(rng.integers(0, 3 * PAGE)), int(rng.integers(1, 2 * PAGE))
            data = rng.integers(0, 256, size, dtype=np.uint8).tobytes()
            truth.extend(b"\0" * (at + size - len(truth)))
            truth[at : at + size] = data
            file.seek(at)
            file.write(data)
            if rng.random() < 0.2:
                cut = int(rng.integers(0, len(truth) + 1))
                file.truncate(cut)
                del truth[cut:]
            if rng.random() < 0.2:
                file.commit()
            file.seek(0)
            assert file.read() == bytes(truth)
        file.commit()
        file.seek(10)
        file.write(b"gone")
        file.forget()
        file.seek(0)
        assert file.read() == bytes(truth)
    kept = (tmp_path / "x").read_bytes()
    assert kept[: len(truth)] == bytes(truth)
    assert not any(kept[len(truth) :])
