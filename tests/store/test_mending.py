"""Logs that are missing, damaged, of another version or cut off in the middle: nothing good is lost."""

import os
import shutil
import sqlite3
import stat
from contextlib import closing, suppress

import pytest

from plumbbob.store import copies, opening
from plumbbob.store.copies import backup_path, best_copy, good_copies
from plumbbob.store.database import count_rows, is_sound, make_engine
from plumbbob.store.errors import StoreError
from plumbbob.store.opening import check_and_copy, open_log
from plumbbob.store.values import Mark
from tests.store.test_log import a_catch, a_mark

DAY_S = 86400.0


@pytest.fixture
def path(tmp_path):
    return tmp_path / "data" / "log.db"


@pytest.fixture
def marks(path):
    """Three marks in a log that was opened well once more, so that the copy holds them too."""
    log = open_log(path).log
    saved = [log.add(a_mark(time=1000.0 + k)) for k in range(3)]
    log.add(a_catch(saved[0].id))
    log.close()
    open_log(path).log.close()
    return saved


def reopened(path):
    opened = open_log(path)
    found = opened.log.marks()
    opened.log.close()
    return found, opened.note


def raw(path, *statements):
    with closing(sqlite3.connect(path)) as db:
        for one in statements:
            db.execute(one) if isinstance(one, str) else db.execute(*one)
        db.commit()


def spoil(path, start=0.02, end=0.9):
    data = bytearray(path.read_bytes())
    a, b = int(len(data) * start), int(len(data) * end)
    data[a:b] = bytes((17 * k + 3) % 256 for k in range(b - a))
    path.write_bytes(bytes(data))


def test_a_missing_log_is_filled_from_the_good_copy_which_stays(path, marks):
    path.unlink()
    found, note = reopened(path)
    assert found == marks
    assert "missing" in note
    assert "good copy" in note
    assert reopened(path) == (marks, "")


def test_a_write_ahead_log_without_its_log_is_not_read_into_the_copy(path, marks):
    log = open_log(path).log
    log.add(a_mark(note="only in the write-ahead log"))
    shutil.copy(path.with_name("log.db-wal"), path.parent / "kept")
    log.close()
    path.unlink()
    os.replace(path.parent / "kept", path.with_name("log.db-wal"))
    found, _ = reopened(path)
    assert found == marks
    assert is_sound(path)
    assert path.with_name("log.damaged-1.db-wal").exists()


@pytest.mark.parametrize("steps", range(4))
def test_cut_off_while_setting_aside_the_next_start_ends_the_work(path, marks, steps, monkeypatch):
    spoil(path)
    real, done = os.replace, []

    def some(source, target):
        if len(done) == steps:
            raise KeyboardInterrupt
        done.append(target)
        real(source, target)

    monkeypatch.setattr(os, "replace", some)
    with suppress(KeyboardInterrupt):
        open_log(path).log.close()
    monkeypatch.undo()
    assert reopened(path)[0] == marks
    assert reopened(path) == (marks, "")
    assert not list(path.parent.glob(".making*"))


def test_a_damaged_log_and_a_damaged_copy_open_as_far_as_they_can_be_read_and_once(path):
    log = open_log(path).log
    saved = [log.add(a_mark(note="long " * 300, seen=k + 1)) for k in range(60)]
    log.close()
    open_log(path).log.close()
    spoil(path, 0.5, 0.7)
    spoil(backup_path(path), 0.02, 0.9)
    found, note = reopened(path)
    assert 10 < len(found) < 60
    assert set(found) <= set(saved)
    assert "could be read" in note
    assert reopened(path) == (found, "")
    assert [p.name for p in path.parent.glob("*damaged*")] == ["log.damaged-1.db"]


@pytest.mark.parametrize("cell", [0, 9, 20])
def test_pages_that_point_in_a_circle_are_read_once_and_come_to_an_end(path, cell):
    log = open_log(path).log
    made = {log.add(a_mark(seen=k + 1, note="x" * 300)).id for k in range(400)}
    log.close()
    with closing(sqlite3.connect(path)) as db:
        root = db.execute("SELECT rootpage FROM sqlite_master WHERE name = 'mark'").fetchone()[0]
        page = db.execute("PRAGMA page_size").fetchone()[0]
    data = bytearray(path.read_bytes())
    at = page * (root - 1)
    assert data[at] == 5  # an inner page: its cells begin with the number of the page below
    offset = int.from_bytes(data[at + 12 + 2 * cell : at + 14 + 2 * cell], "big")
    data[at + offset : at + offset + 4] = root.to_bytes(4, "big")
    path.write_bytes(bytes(data))
    for copy in good_copies(path):
        copy.unlink()
    assert count_rows(path) in (0, 400)  # it ends
    found, note = reopened(path)
    assert {m.id for m in found} <= made
    assert len(found) == len({m.id for m in found}) > 350
    assert "damaged" in note


def test_rows_newer_than_the_copy_are_read_from_the_damaged_log(path, marks):
    log = open_log(path).log
    newer = log.add(a_mark(note="newer"))
    log.close()
    # an index that points into another table: the rows themselves can be read
    raw(path, "PRAGMA writable_schema=ON", "UPDATE sqlite_master SET rootpage=2 WHERE name='ix_mark_time'")
    found, note = reopened(path)
    assert found == [*marks, newer]
    assert "1 row more" in note


def test_an_index_that_lacks_rows_is_damage(path, marks):
    with closing(sqlite3.connect(path)) as db:
        (page,) = db.execute("SELECT rootpage FROM sqlite_master WHERE name='ix_mark_time'").fetchone()
        (empty,) = db.execute("SELECT rootpage FROM sqlite_master WHERE name='ix_rig_note_time'").fetchone()
        (size,) = db.execute("PRAGMA page_size").fetchone()
    data = path.read_bytes()
    nothing = data[(empty - 1) * size : empty * size]
    path.write_bytes(data[: (page - 1) * size] + nothing + data[page * size :])
    assert is_sound(path, full=False)
    found, note = reopened(path)
    assert found == marks
    assert "damaged" in note


def test_a_large_log_is_checked_in_full_afterwards_and_only_then_copied(path, marks, monkeypatch):
    monkeypatch.setattr(opening, "FULL_CHECK_BYTES", 1000)
    before = backup_path(path).stat().st_ino
    opened = open_log(path)
    opened.log.add(a_mark())
    opened.log.close()
    assert opened.to_check
    assert backup_path(path).stat().st_ino == before
    assert check_and_copy(path) == ""
    assert len(reopened(backup_path(path))[0]) == 4
    raw(path, "PRAGMA writable_schema=ON", "UPDATE sqlite_master SET rootpage=2 WHERE name='ix_mark_time'")
    kept = backup_path(path).read_bytes()
    assert "damaged" in check_and_copy(path)
    assert backup_path(path).read_bytes() == kept


@pytest.mark.parametrize(
    "change",
    [
        "UPDATE mark SET kind='mermaid' WHERE id=2",
        "UPDATE mark SET note=CAST(x'ff41' AS TEXT) WHERE id=2",
        "UPDATE mark SET latitude='north' WHERE id=2",
        "UPDATE mark SET latitude=9e999 WHERE id=2",
        "UPDATE mark SET time=1e300 WHERE id=2",
        "UPDATE mark SET seen='many' WHERE id=2",
    ],
)
def test_a_row_that_can_not_be_read_hides_no_other_and_is_kept(path, marks, change):
    raw(path, change)
    opened = open_log(path)
    assert opened.log.marks() == [marks[0], marks[2]]
    assert "1 row of the log can't be read" in opened.note
    new = opened.log.add(a_mark(note="new"))
    assert new in opened.log.marks()
    opened.log.close()
    with closing(sqlite3.connect(path)) as db:
        assert db.execute("SELECT count(*) FROM mark").fetchone() == (4,)


@pytest.mark.parametrize("versions", [["0999"], ["0001", "0002"], ["0001; DROP"]])
def test_a_log_of_a_newer_program_is_left_alone(path, marks, versions):
    raw(path, "DELETE FROM alembic_version", *[("INSERT INTO alembic_version VALUES (?)", (v,)) for v in versions])
    before = path.read_bytes()
    with pytest.raises(StoreError, match="newer program is needed; the file is untouched") as caught:
        open_log(path)
    assert versions[0] in str(caught.value)
    assert "\n" not in str(caught.value)
    assert path.read_bytes() == before
    assert len(list(path.parent.iterdir())) == 2


@pytest.mark.parametrize("name", ["log?mode=memory.db", "lo#g%20.db", "a b;c.db", "ähre.db"])
def test_the_log_lies_where_its_path_says(tmp_path, name):
    path = tmp_path / "wa?ter&x=1" / name
    log = open_log(path).log
    log.add(a_mark())
    log.close()
    assert is_sound(path)
    assert {p.suffix for p in tmp_path.rglob("*") if p.is_file()} == {".db"}
    assert len(reopened(path)[0]) == 1


def test_only_its_owner_reads_the_log_and_its_copies(path, marks):
    path.chmod(0o644)
    log = open_log(path).log
    log.add(a_mark())
    modes = {p.name: stat.S_IMODE(p.stat().st_mode) for p in path.parent.iterdir()}
    log.close()
    assert set(modes.values()) == {0o600}
    assert "log.db-wal" in modes
    assert stat.S_IMODE(path.parent.stat().st_mode) == 0o700


def test_copies_of_several_days_stay_and_a_poorer_log_takes_no_place(path, marks):
    for day in range(1, 11):
        old = backup_path(path).stat().st_mtime - day * DAY_S
        os.utime(backup_path(path), (old, old))
        open_log(path).log.close()
    assert len(good_copies(path)) in (copies.DAYS_KEPT + 1, copies.DAYS_KEPT + 2)
    log = open_log(path).log
    for mark in log.marks():
        log.remove(Mark, mark.id)
    log.close()
    open_log(path).log.close()
    assert reopened(backup_path(path))[0] == []
    assert any(len(reopened(p)[0]) == 3 for p in good_copies(path)[1:])


def test_a_copy_that_fails_its_check_does_not_count(path, marks, monkeypatch):
    before = backup_path(path).read_bytes()
    monkeypatch.setattr(copies, "is_sound", lambda p, **k: False)
    with pytest.raises(StoreError):
        open_log(path)
    assert backup_path(path).read_bytes() == before
    assert best_copy(path) is None
    assert not list(path.parent.glob(".making*"))


def test_a_change_of_shape_cut_off_in_the_middle_leaves_the_old_one(tmp_path):
    engine = make_engine(tmp_path / "log.db")
    with suppress(RuntimeError), engine.begin() as db:
        db.exec_driver_sql("CREATE TABLE half (a)")
        raise RuntimeError
    with engine.begin() as db:
        assert db.exec_driver_sql("SELECT count(*) FROM sqlite_master").scalar() == 0
    engine.dispose()


@pytest.mark.parametrize("make", [os.mkdir, os.mkfifo, lambda p: os.symlink("/dev/null", p)])
def test_what_is_no_plain_file_is_refused_by_kind(path, make):
    path.parent.mkdir()
    make(path)
    with pytest.raises(StoreError, match=r"is a (folder|pipe|device)"):
        open_log(path)
