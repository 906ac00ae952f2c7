"""The log as open files: everything out and in again, nothing twice, nothing by half."""

import os
import random
import signal
import subprocess
import sys
import textwrap
import time
import zipfile
from contextlib import closing
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.files.errors import FileError
from plumbbob.formats.log_columns import number_of, time_of, write_number, write_time
from plumbbob.services.log_archive import export_log, import_log
from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Mark, SavedNote
from tests.log_files import ABOUT, SHIPPED, made_up, meanings, read_archive, text_of, write_archive
from tests.store.test_log import a_catch, a_mark

FILES = {
    "pictures/a.jpg": b"\xff\xd8",
    "odd/thing.bin": b"\0\1",
    "rig_notes.csv": b"time,rod\n1,2\n",
    "tracks.gpx": b"<gpx/>",
}


@pytest.fixture
def log(tmp_path):
    with closing(open_log(tmp_path / "log.db").log) as opened:
        yield opened


def filled(rows):
    """Cells exactly as they stand, but for empty ones."""
    return sorted(sorted((k, v) for k, v in row.items() if v) for row in rows)


@pytest.mark.parametrize("seed", range(4))
def test_every_cell_and_file_comes_out_as_it_went_in(tmp_path, log, seed):
    tables = made_up(seed)
    source = write_archive(tmp_path / "in.log.zip", tables, FILES, {**ABOUT, "made by": "hand"})
    import_log(log, source)
    export_log(log, tmp_path / "out.log.zip")
    back, files = read_archive(tmp_path / "out.log.zip")
    for name in SHIPPED:
        assert filled(back[name]) == filled(tables[name])
    assert {k: files[k] for k in FILES} == FILES
    assert b"hand" in files["log.json"]
    again = import_log(log, source)
    assert not again.is_new
    assert again.doubles["catches"] == len(tables["catches"])
    assert not import_log(log, tmp_path / "out.log.zip").is_new


def test_a_folder_is_as_good_as_an_archive(tmp_path, log):
    import_log(log, write_archive(tmp_path / "in.log.zip", made_up(3), FILES))
    export_log(log, tmp_path / "folder")
    with closing(open_log(tmp_path / "second.db").log) as second:
        import_log(second, tmp_path / "folder")
        export_log(second, tmp_path / "second.log.zip")
    export_log(log, tmp_path / "first.log.zip")
    first, second = (read_archive(tmp_path / f"{n}.log.zip")[0] for n in ("first", "second"))
    for name in SHIPPED:
        assert meanings(name, first[name]) == meanings(name, second[name])


@pytest.mark.parametrize("seed", range(3))
def test_ids_that_are_taken_get_new_ones_and_references_follow(tmp_path, log, seed):
    mine, theirs = made_up(10 + seed), made_up(20 + seed)
    import_log(log, write_archive(tmp_path / "mine.log.zip", mine, {"pictures/a.jpg": b"mine"}))
    source = write_archive(tmp_path / "theirs.log.zip", theirs, {"pictures/a.jpg": b"theirs"})
    came = import_log(log, source)
    assert came.renamed["trips"] > 0
    export_log(log, tmp_path / "both.log.zip")
    both, files = read_archive(tmp_path / "both.log.zip")
    assert files["pictures/a.jpg"] == b"mine"
    assert files["pictures/a-2.jpg"] == b"theirs"
    for name in SHIPPED:
        assert len(both[name]) == len(mine[name]) + len(theirs[name])
        assert set(meanings(name, mine[name])) <= set(meanings(name, both[name]))
    # each of their catches still stands in a trip that says what theirs said
    key = [c for c in theirs["catches"][0] if c not in ("catch", "effort", "trip", "picture")]
    said = {tuple(c[k] for k in key): c for c in both["catches"]}
    trips = {t["trip"]: t for t in both["trips"]}
    their_trips = {t["trip"]: t for t in theirs["trips"]}
    for catch in theirs["catches"]:
        if catch["trip"] in their_trips:
            found = trips[said[tuple(catch[k] for k in key)]["trip"]]
            assert found["note"] == their_trips[catch["trip"]]["note"]
    assert not import_log(log, source).is_new


def test_marks_catches_and_notes_of_the_program_itself_go_both_ways(tmp_path, log):
    mark, catch = log.apply([a_mark(seen=3, note="by the lip"), a_catch(0, rig="wire 27 ft", angler="Ann")])
    log.add(SavedNote(time=5.0, told="ran at", depth_m=7.0, value=40.0, words="x", rod='{"a": 1}'))
    export_log(log, tmp_path / "out.log.zip")
    with closing(open_log(tmp_path / "other.db").log) as other:
        import_log(other, tmp_path / "out.log.zip")
        (got,) = other.read(Mark)
        (fish,) = other.read(Catch)
        assert (got.ref, got.seen, got.caught, got.source) == (mark.ref, 3, 0, "veyra.nc")
        assert (fish.mark_id, fish.rig, fish.angler) == (got.id, "wire 27 ft", "Ann")
        assert [n.rod for n in other.read(SavedNote)] == ['{"a": 1}']
        other.add(a_catch(got.id, species="burbot"))  # one more there since: the mark itself is the same
        assert not import_log(other, tmp_path / "out.log.zip").is_new
    assert catch.ref


def test_two_machines_of_one_person_agree_on_the_newer_version(tmp_path, log):
    catch = log.apply([a_mark(), a_catch(0)])[1]
    export_log(log, tmp_path / "first.log.zip")
    with closing(open_log(tmp_path / "boat.db").log) as boat:
        import_log(boat, tmp_path / "first.log.zip")
        log.add(replace(catch, length_m=0.41))  # put right at home
        export_log(log, tmp_path / "second.log.zip")
        came = import_log(boat, tmp_path / "second.log.zip")
        assert (came.newer["catches"], came.added["catches"]) == (1, 0)
        assert [c.length_m for c in boat.read(Catch)] == [0.41]
        assert not import_log(boat, tmp_path / "second.log.zip").is_new
        assert not import_log(boat, tmp_path / "first.log.zip").is_new  # the older version changes nothing
        assert [c.length_m for c in boat.read(Catch)] == [0.41]
        assert [c.before != "" for c in boat.history(Catch, boat.read(Catch)[0].id)] == [True]
        # changed on the way by somebody who does not say when: another row
        tables, _ = read_archive(tmp_path / "second.log.zip")
        for row in tables["catches"]:
            row["species"] = "burbot"
        source = write_archive(tmp_path / "third.log.zip", {"catches": tables["catches"]})
        other = import_log(boat, source)
        assert (other.renamed["catches"], len(boat.read(Catch))) == (1, 2)


BAD = {
    "no log.json": {"about": None},
    "another format": {"about": {"format": "other", "version": 1}},
    "another version": {"about": {"format": "plumbbob-log", "version": 2}},
    "a version that is true": {"about": {"format": "plumbbob-log", "version": True}},
    "no JSON": {"about": "{"},
    "not UTF-8": {"tables": {"trips": b"trip,water\n1,\xff\xfe\n"}},
    "an id twice": {"tables": {"trips": "trip,water\n1,a\n1,b\n"}},
    "an id missing": {"tables": {"catches": "catch,species\n,burbot\n"}},
    "no id column": {"tables": {"catches": "species\nburbot\n"}},
    "no number": {"tables": {"efforts": "effort,rods\n1,two\n"}},
    "NaN": {"tables": {"marks": "mark,depth_m\n1,nan\n"}},
    "a decimal comma": {"tables": {"marks": 'mark,depth_m\n1,"3,5"\n'}},
    "no time": {"tables": {"trips": "trip,start\n1,yesterday\n"}},
    "a time without zone": {"tables": {"trips": "trip,start\n1,2026-08-15T06:00:00\n"}},
    "beyond the pole": {"tables": {"marks": "mark,latitude\n1,91\n"}},
    "kept maybe": {"tables": {"catches": "catch,kept\n1,2\n"}},
    "a way out": {"files": {"../outside.txt": b"x"}},
    "a root": {"files": {"/etc/outside": b"x"}},
    "a drive": {"files": {"C:\\outside": b"x"}},
    "more cells": {"tables": {"trips": "trip,water\n1,a,b\n"}},
}


@pytest.mark.parametrize("how", list(BAD))
def test_what_is_wrong_is_refused_in_one_line_and_nothing_changes(tmp_path, log, how):
    log.add(a_mark())
    before = log.path.read_bytes()
    source = write_archive(tmp_path / "bad.log.zip", **({"about": ABOUT} | BAD[how]))
    with pytest.raises(FileError) as caught:
        import_log(log, source)
    assert "\n" not in str(caught.value)
    assert len(log.read(Mark)) == 1
    assert log.path.read_bytes() == before


def test_halves_bombs_and_doubles_of_archives_are_refused(tmp_path, log):
    whole = write_archive(tmp_path / "a.log.zip", made_up(1), {"pictures/a.jpg": os.urandom(5000)})
    data = whole.read_bytes()
    (tmp_path / "half.log.zip").write_bytes(data[: len(data) // 2])
    torn = bytearray(data)
    spot = data.index(b"pictures/a.jpg") + 400
    torn[spot : spot + 50] = bytes(50)
    (tmp_path / "torn.log.zip").write_bytes(bytes(torn))
    with zipfile.ZipFile(tmp_path / "bomb.log.zip", "w", zipfile.ZIP_DEFLATED) as bomb:
        bomb.writestr("log.json", "{}")
        bomb.writestr("big.bin", bytes(60_000_000))
    with zipfile.ZipFile(tmp_path / "twice.log.zip", "w") as twice:
        twice.writestr("trips.csv", "trip\n1\n")
        with pytest.warns(UserWarning, match="Duplicate"):
            twice.writestr("trips.csv", "trip\n2\n")
    for name in ("half", "torn", "bomb", "twice"):
        with pytest.raises(FileError):
            import_log(log, tmp_path / f"{name}.log.zip")
    assert not any(len(log.read(c)) for c in (Mark, Catch))


def test_rows_that_cannot_be_used_may_be_left_out(tmp_path, log):
    tables = {"trips": "trip,start\n1,2026-08-15T06:00:00Z\n2,nonsense\n,2026-08-15T06:00:00Z\n1,\n"}
    came = import_log(log, write_archive(tmp_path / "a.log.zip", tables), skip_bad=True)
    assert (came.added["trips"], came.skipped["trips"]) == (1, 3)
    assert any("3 left out" in line for line in came.lines())


def test_an_import_is_one_step_back(tmp_path, log):
    kept = log.add(a_mark())
    came = import_log(log, write_archive(tmp_path / "a.log.zip", made_up(5)))
    taken = log.take_batch(came.batch)
    assert log.read(Mark) == [kept]
    log.put_batch(taken)
    assert len(log.read(Mark)) == 1 + came.added["marks"]


def test_an_import_that_is_killed_leaves_all_or_nothing(tmp_path):
    source = write_archive(tmp_path / "a.log.zip", made_up(6, 400), {"pictures/a.jpg": os.urandom(200_000)})
    path = tmp_path / "log.db"
    with closing(open_log(path).log) as log:
        log.add(a_mark())
    script = textwrap.dedent(
        """
        import sys
        from pathlib import Path
        from plumbbob.services.log_archive import import_log
        from plumbbob.store.opening import open_log
        log = open_log(Path(sys.argv[1])).log
        print("open", flush=True)
        import_log(log, Path(sys.argv[2]))
        print("done", flush=True)
        """
    )
    rng = random.Random(4)
    for _ in range(6):
        run = subprocess.Popen(
            [sys.executable, "-c", script, str(path), str(source)], stdout=subprocess.PIPE, text=True
        )
        assert run.stdout.readline() == "open\n"
        time.sleep(rng.uniform(0.0, 0.5))
        run.send_signal(signal.SIGKILL)
        said = run.communicate()[0]
        with closing(open_log(path).log) as log:
            found = len(log.read(Mark))
            assert found in (1, 401)
            assert found == 401 or "done" not in said


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_a_number_is_written_so_that_it_is_read_again(value):
    assert number_of(write_number(value)) == value


@settings(max_examples=200)
@given(st.integers(-60_000_000_000_000, 250_000_000_000_000))
def test_a_time_is_written_so_that_it_is_read_again(milliseconds):
    when = milliseconds / 1000.0
    assert time_of(write_time(when)) == pytest.approx(when, abs=1e-5)


def test_the_command_line_carries_a_log_out_and_in(tmp_path):
    from click.testing import CliRunner

    from plumbbob.cli import main

    source = write_archive(tmp_path / "a.log.zip", {"trips": text_of(made_up(1)["trips"])})

    def run(*args):
        return CliRunner().invoke(main, [str(a) for a in args])

    assert run("log", "--import", source, "--log", tmp_path / "l.db").exit_code == 0
    done = run("log", "--export", tmp_path / "b.log.zip", "--log", tmp_path / "l.db")
    assert "trips: 12" in done.output
    assert run("log", "--log", tmp_path / "l.db").output == "trips: 12\n"
    refused = run("log", "--import", tmp_path / "none.zip", "--log", tmp_path / "new.db")
    assert (refused.exit_code, (tmp_path / "new.db").exists()) == (2, False)
    assert run("share", tmp_path / "l.db", tmp_path / "o.csv").exit_code == 0
    assert run("share", source, tmp_path / "o.txt").exit_code == 2
