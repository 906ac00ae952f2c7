"""The recipe "a file format": a stranger's own, in one file, found by everything that opens, offers and writes."""

import os

import numpy as np
import pytest
from click.testing import CliRunner

from plumbbob.cli.commands import main
from plumbbob.core.sonar.recording import Recording
from plumbbob.files.errors import FileError
from plumbbob.formats import registry
from plumbbob.formats.any_recording import read_any, write_any
from plumbbob.formats.recording import write_recording
from plumbbob.formats.registry import FORMATS, Content, Format, dialog_filter, endings_of, format_of


def read_stones(path, progress):
    return Recording(name=path.name, title=path.read_text().split()[1], views=())


def write_stones(path, recording, inputs):
    path.write_text(f"STONES {recording.title}")
    return 7


@pytest.fixture
def stones():
    made = Format(name="stones", content=Content.RECORDING, endings=(".stones",), begins=(b"STONES ",),
                  read=read_stones, write=write_stones)  # fmt: skip
    FORMATS.append(made)
    yield made
    FORMATS.remove(made)


def test_a_format_of_ones_own_is_read_written_and_offered(stones, tmp_path):
    path = tmp_path / "a.stones"
    assert write_any(path, Recording(name="x", title="Flat", views=())) == 7
    assert read_any(path).title == "Flat"
    assert "*.stones" in dialog_filter("Recordings", Content.RECORDING)
    done = CliRunner().invoke(main, ["convert", str(path), str(tmp_path / "b.stones")])
    assert (done.exit_code, (tmp_path / "b.stones").read_text()) == (0, "STONES Flat")


def test_how_a_file_begins_counts_more_than_its_ending(stones, passed, tmp_path):
    wrong = tmp_path / "pass.xtf"
    write_recording(wrong, passed[0], source="test")
    assert format_of(wrong, Content.RECORDING).name == "netCDF-4"
    assert len(read_any(wrong).down) == len(passed[0].down)
    log = tmp_path / "log.txt"
    log.write_text("$GPGGA,")
    assert format_of(log, Content.SOUNDINGS, Content.CHART).name == "NMEA 0183"
    (tmp_path / "stones.csv").write_text("STONES Flat")
    assert format_of(tmp_path / "stones.csv", Content.RECORDING, Content.SOUNDINGS) is stones


def test_what_is_none_of_them_is_refused_by_what_would_do(tmp_path):
    (tmp_path / "a.bin").write_bytes(b"\0" * 20)
    with pytest.raises(FileError, match=r"a\.bin: is none of the files .*\.nc, \.xtf"):
        format_of(tmp_path / "a.bin", Content.RECORDING)
    with pytest.raises(FileError, match=r"\.nc, \.xtf"):
        write_any(tmp_path / "b.bin", Recording(name="x", title="x", views=()))
    os.mkfifo(tmp_path / "pipe.nc")
    with pytest.raises(FileError):
        format_of(tmp_path / "pipe.nc", Content.RECORDING)


def test_every_row_names_a_reader_that_is_there(tmp_path):
    """Readers are named, not imported: a name that is gone would only show when a file is opened."""
    for row in FORMATS:
        assert row.endings == tuple(e.lower() for e in row.endings)
        if row.read is not None:
            path = tmp_path / f"x{row.endings[0]}"
            path.write_bytes(b"")
            with pytest.raises(FileError):
                row.read(path, lambda share: None)
    assert np.all([e in endings_of(*Content) for e in (".nc", ".gpkg", ".png")])
    assert registry.FORMATS is FORMATS
