"""Writing: whole or not at all, into its own place and no other; text from outside is safe to show."""

import os
import stat
import threading
from contextlib import suppress

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumbbob.files.atomic import MAKING, NotWritten, check_target, private_folder, write_text, writing
from plumbbob.files.json_text import MOST_DEPTH, loads
from plumbbob.files.text import printable
from plumbbob.formats.chart_cache import load_grid
from tests.fuzz_seeds import _kept_grid


def left(folder):
    return [p.name for p in folder.rglob(f"{MAKING}*")]


def test_a_file_is_whole_or_as_it_was(tmp_path):
    path = tmp_path / "a.txt"
    write_text(path, "one")
    with suppress(RuntimeError), writing(path) as fresh:
        fresh.write_text("half")
        raise RuntimeError
    assert path.read_text() == "one"
    assert left(tmp_path) == []


@pytest.mark.parametrize(
    ("make", "why"),
    [
        (lambda p: os.symlink("/dev/null", p), "is a link"),
        (lambda p: os.symlink(p.parent / "victim", p), "is a link"),
        (lambda p: os.mkfifo(p), "is a pipe"),
        (lambda p: p.mkdir(), "is a folder"),
    ],
)
def test_a_target_that_is_no_plain_file_is_left_alone(tmp_path, make, why):
    (tmp_path / "victim").write_text("mine")
    path = tmp_path / "target"
    make(path)
    before = os.lstat(path)
    with pytest.raises(NotWritten, match=why) as caught:
        write_text(path, "new")
    assert not caught.value.fault
    assert os.lstat(path).st_ino == before.st_ino
    assert (tmp_path / "victim").read_text() == "mine"


def test_an_input_is_not_written_over_by_any_of_its_names(tmp_path):
    source = tmp_path / "in.csv"
    source.write_text("data")
    os.link(source, tmp_path / "same.csv")
    for name in ("in.csv", "same.csv"):
        with pytest.raises(NotWritten, match="would write over"):
            check_target(tmp_path / name, [source])
    check_target(tmp_path / "other.csv", [source, tmp_path / "gone"])
    with pytest.raises(NotWritten, match="is a folder"):
        check_target(tmp_path / "." / "..")


def test_nobody_can_foresee_the_name_or_enter_the_folder(tmp_path):
    seen = []
    for _ in range(2):
        with writing(tmp_path / "a") as fresh:
            fresh.write_text("x")
            seen.append(fresh.parent)
            assert stat.S_IMODE(fresh.parent.stat().st_mode) == 0o700
            assert fresh.parent.parent == tmp_path
    assert seen[0] != seen[1]


def test_modes_are_kept_and_private_is_private(tmp_path):
    path = tmp_path / "a"
    write_text(path, "x")
    path.chmod(0o640)
    write_text(path, "y")
    assert stat.S_IMODE(path.stat().st_mode) == 0o640
    write_text(path, "z", private=True)
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    private_folder(tmp_path / "deep" / "data")
    assert stat.S_IMODE((tmp_path / "deep" / "data").stat().st_mode) == 0o700


def test_a_full_disk_is_the_machines_fault(tmp_path, monkeypatch):
    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(NotWritten, match="No space left") as caught:
        write_text(tmp_path / "a", "x")
    assert caught.value.fault
    assert list(tmp_path.iterdir()) == []


def test_two_who_keep_a_grid_at_once_leave_a_whole_one(tmp_path):
    path = tmp_path / "grid.npz"
    threads = [threading.Thread(target=lambda: [_kept_grid(path) for _ in range(8)]) for _ in range(4)]
    for thread in threads:
        thread.start()
    while any(t.is_alive() for t in threads):
        assert not path.exists() or load_grid(path, "key") is not None
    assert load_grid(path, "key") is not None
    assert left(tmp_path) == []


@pytest.mark.parametrize("damage", ["cut", "empty", "noise", "folder", "other"])
def test_a_damaged_kept_grid_is_only_made_anew(tmp_path, damage):
    path = tmp_path / "grid.npz"
    _kept_grid(path)
    data = path.read_bytes()
    if damage == "folder":
        path.unlink()
        path.mkdir()
    elif damage == "other":
        np.savez(path, about=np.array('{"key": "key"}'), land=np.zeros(3))
    else:
        broken = bytearray(data)
        broken[200:4000] = bytes(3800)
        path.write_bytes({"cut": data[:700], "empty": b"", "noise": bytes(broken)}[damage])
    assert load_grid(path, "key") is None


# -- text and numbers from outside -------------------------------------------------------------------------------


@given(st.text(max_size=3000))
def test_whatever_a_file_is_called_it_is_one_printable_line(text):
    line = printable(text)
    assert len(line) <= 400
    assert line.isprintable() or not line


def test_json_is_bounded_and_finite():
    assert loads('{"a": [1, 2.5, "[[[["], "b": 12345678901234567890123}')["a"][2] == "[[[["
    for bad in ("1e999", "NaN", "-Infinity", "[" * (MOST_DEPTH + 1), "{", "9" * 400, '{"a":' * 200):
        with pytest.raises(ValueError, match=r".+"):
            loads(bad)
    deep = "[" * MOST_DEPTH + "]" * MOST_DEPTH
    assert loads(deep) == eval(deep)
