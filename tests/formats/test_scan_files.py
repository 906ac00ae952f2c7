"""Files of the Scan stage: corrections, contacts, cut and joined recordings."""

import csv
import json
import shutil
from dataclasses import replace

import h5netcdf
import numpy as np
import pytest
from click.testing import CliRunner
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plumbbob.cli import main
from plumbbob.core.sonar.corrections import Act, about
from plumbbob.core.sonar.evidence import Evidence
from plumbbob.core.sonar.read import read_down
from plumbbob.files.errors import FileError
from plumbbob.formats.contacts import write_contacts
from plumbbob.formats.corrections import beside, read_corrections, write_corrections
from plumbbob.formats.evidence import read_evidence, write_evidence
from plumbbob.formats.recording import read_recording
from plumbbob.formats.recording_edit import cut, join, thin
from tests.core.test_corrections import anything


@settings(max_examples=40, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(anything, max_size=6))
def test_corrections_come_back_as_they_were(tmp_path_factory, corrections):
    path = tmp_path_factory.mktemp("said") / "a.nc.corrections.json"
    write_corrections(path, corrections)
    assert read_corrections(path) == tuple(corrections)
    assert path.exists() == bool(corrections)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        "{",
        '{"format": "other", "corrections": []}',
        '{"format": "plumbbob-corrections", "corrections": [3]}',
        '{"format": "plumbbob-corrections", "corrections": [{"act": "eat"}]}',
        '{"format": "plumbbob-corrections", "corrections": [{"act": "move", "time": NaN}]}',
        '{"format": "plumbbob-corrections", "corrections": [{"act": "move", "points": [[1]]}]}',
    ],
)
def test_damaged_corrections_are_refused_in_one_line_and_left_alone(tmp_path, text):
    path = tmp_path / "a.nc.corrections.json"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(FileError) as caught:
        read_corrections(path)
    assert "\n" not in str(caught.value)
    assert path.read_text(encoding="utf-8") == text


@given(st.binary(max_size=200))
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_random_bytes_are_no_corrections(tmp_path_factory, junk):
    path = tmp_path_factory.mktemp("junk") / "a.corrections.json"
    path.write_bytes(junk)
    with pytest.raises(FileError):
        read_corrections(path)


def test_contacts_in_three_forms_hold_the_same(passed, tmp_path):
    reading = read_down(passed[0])
    count = len(reading.fish) + len(reading.bait)
    for name in ("a.csv", "a.geojson", "a.gpx"):
        assert write_contacts(tmp_path / name, reading) == count
    rows = list(csv.DictReader((tmp_path / "a.csv").open(encoding="utf-8")))
    fish = [r for r in rows if r["kind"] == "fish"]
    assert [float(r["depth_m"]) for r in fish] == [round(f.depth_m, 2) for f in reading.fish]
    made = json.loads((tmp_path / "a.geojson").read_text(encoding="utf-8"))
    assert made["features"][0]["geometry"]["coordinates"][1] == pytest.approx(reading.fish[0].latitude)
    assert (tmp_path / "a.gpx").read_text(encoding="utf-8").count("<wpt") == count
    with pytest.raises(FileError, match=r"\.csv, \.geojson or \.gpx"):
        write_contacts(tmp_path / "a.txt", reading)


@pytest.fixture
def with_side(pass_file, tmp_path):
    """The minute with a side view, which no stage shows yet."""
    path = tmp_path / "side.nc"
    shutil.copy(pass_file, path)
    with h5netcdf.File(path, "a") as file:
        down = file.groups["down"]
        group = file.create_group("side")
        group.dimensions = {"ping": 100, "sample": 30}
        group.attrs.update(frequency=455e3, beam_width_along=1.0, beam_width_across=50.0, tvg="none")
        for name in ("time", "range_start", "range_step"):
            group.create_variable(name, ("ping",), np.float64, data=np.asarray(down.variables[name][:100]))
        for name in ("port", "starboard"):
            made = group.create_variable(name, ("ping", "sample"), np.uint8, data=np.full((100, 30), 7, np.uint8))
            made.attrs.update(scale_factor=0.5, add_offset=-90.0)
    return path


def test_a_piece_is_cut_with_all_its_views(with_side, tmp_path):
    whole = read_recording(with_side)
    start, end = float(whole.down.time[50]), float(whole.down.time[299])
    assert cut(with_side, tmp_path / "piece.nc", start, end) == 250 + 50
    piece = read_recording(tmp_path / "piece.nc")
    assert piece.views == ("down", "side")
    assert np.array_equal(piece.down.echo.read(0, 250), whole.down.echo.read(50, 300))
    assert np.array_equal(piece.down.time, whole.down.time[50:300])
    assert piece.track.time[0] <= start <= end <= piece.track.time[-1]
    with pytest.raises(FileError, match="nothing lies in that piece"):
        cut(with_side, tmp_path / "none.nc", end + 1e4, end + 2e4)
    assert not (tmp_path / "none.nc").exists()


def test_cut_pieces_join_to_the_whole_again_in_any_order(pass_file, tmp_path):
    whole = read_recording(pass_file)
    middle = float(whole.down.time[200])
    cut(pass_file, tmp_path / "a.nc", whole.down.time[0], middle)
    cut(pass_file, tmp_path / "b.nc", middle + 1e-6, whole.down.time[-1])
    join([tmp_path / "b.nc", tmp_path / "a.nc"], tmp_path / "c.nc")
    again = read_recording(tmp_path / "c.nc")
    assert np.array_equal(again.down.time, whole.down.time)
    assert np.array_equal(again.down.echo.read(0, 999), whole.down.echo.read(0, 999))
    assert np.array_equal(again.track.time, whole.track.time)


def test_thinning_keeps_every_so_many_th_ping_and_all_fixes(pass_file, tmp_path):
    whole = read_recording(pass_file)
    assert thin(pass_file, tmp_path / "t.nc", 3) == len(whole.down.time[::3])
    thinned = read_recording(tmp_path / "t.nc")
    assert np.array_equal(thinned.down.echo.read(0, 999), whole.down.echo.read(0, 999)[::3])
    assert len(thinned.track) == len(whole.track)


def test_what_can_not_be_joined_says_why_and_writes_nothing(pass_file, tmp_path):
    other = tmp_path / "other.nc"
    shutil.copy(pass_file, other)
    with h5netcdf.File(other, "a") as file:
        file.groups["down"].attrs["beam_width"] = 33.0
    for sources, words in (([pass_file, other], "beam_width"), ([pass_file], "two recordings"),
                           ([pass_file, tmp_path / "no.nc"], "no such file")):  # fmt: skip
        with pytest.raises(FileError, match=words):
            join(sources, tmp_path / "out.nc")
    with pytest.raises(FileError, match="write over"):
        thin(pass_file, pass_file, 2)
    with pytest.raises(FileError, match="every 2nd"):
        thin(pass_file, tmp_path / "out.nc", 1)
    assert [p.name for p in tmp_path.iterdir()] == ["other.nc"]


def test_the_command_line_cuts_joins_and_reads_corrections(pass_file, tmp_path):
    run = CliRunner().invoke
    mine = tmp_path / "mine.nc"
    shutil.copy(pass_file, mine)
    reading = read_down(read_recording(mine))
    write_corrections(beside(mine), [about(reading.fish[0], Act.REJECT)])

    def fish(*more):
        return len(json.loads(run(main, ["scan", str(mine), "--json", *more]).output)["fish"])

    assert (fish(), fish("--as-read")) == (2, 3)
    out = str(tmp_path / "piece.nc")
    assert run(main, ["cut", str(mine), out, "--from", "5", "--to", "20"]).exit_code == 0
    assert run(main, ["cut", str(mine), str(tmp_path / "half.nc"), "--every", "2"]).exit_code == 0
    assert run(main, ["join", str(tmp_path / "two.nc"), out, str(mine)]).exit_code == 0
    bad = run(main, ["join", str(tmp_path / "no.nc"), out])
    assert bad.exit_code == 2
    assert bad.stderr.count("\n") == 1
    assert bad.stdout == ""
    beside(mine).write_text("{", encoding="utf-8")
    assert run(main, ["scan", str(mine), "--json"]).exit_code == 2


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(junk=st.binary(max_size=300), share=st.floats(0.0, 0.999))
def test_junk_and_cut_off_files_end_the_command_with_one_line_or_are_read(pass_file, tmp_path_factory, junk, share):
    folder = tmp_path_factory.mktemp("junk")
    whole = pass_file.read_bytes()
    for name, content in (("a.nc", junk), ("b.nc", whole[: int(share * len(whole))] + junk)):
        path = folder / name
        path.write_bytes(content)
        done = CliRunner().invoke(main, ["scan", str(path), "--json"])
        assert done.exit_code in (0, 2)
        if done.exit_code == 2:
            assert done.stdout == ""
            assert done.stderr.count("\n") == 1
            assert name in done.stderr
        else:
            json.loads(done.stdout)


def test_contacts_without_a_place_stay_in_the_table_and_out_of_the_map(passed, tmp_path):
    reading = read_down(replace(passed[0], track=None))
    assert reading.fish
    assert write_contacts(tmp_path / "a.csv", reading) == len(reading.fish) + len(reading.bait)
    assert write_contacts(tmp_path / "a.geojson", reading) == 0
    assert write_contacts(tmp_path / "a.gpx", reading) == 0
    rows = list(csv.DictReader((tmp_path / "a.csv").open(encoding="utf-8")))
    assert {r["latitude"] for r in rows} == {""}
    assert "nan" not in (tmp_path / "a.csv").read_text(encoding="utf-8").lower()


cells = st.lists(st.tuples(st.integers(0, 60), st.integers(0, 60), st.integers(1, 9)), min_size=1, max_size=20)


@settings(max_examples=30, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(cells, st.floats(0, 2e9), st.floats(0, 1e5))
def test_evidence_comes_back_as_it_was(tmp_path_factory, looked, start, seconds):
    tables = np.zeros((3, 61, 61))
    for row, column, count in looked:
        tables[:, row, column] += (10.0 * count, count, 0.5 * count)
    path = tmp_path_factory.mktemp("seen") / "a.csv"
    one = Evidence(volume_m3=tables[0], fish=tables[1], bait_m3=tables[2], seconds=seconds, passes=("a",))
    write_evidence(path, one, start)
    again, began = read_evidence(path)
    assert began == pytest.approx(start, abs=0.06)
    both = again + one
    assert np.allclose(both.volume_m3, 2 * tables[0])
    assert np.allclose(both.fish, 2 * tables[1])
    assert np.allclose(both.bait_m3, 2 * tables[2])
