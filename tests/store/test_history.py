"""Every change of the log: applied whole or not, remembered, taken back out of the trash, many at once."""

import io
import sqlite3
from contextlib import closing
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumbbob.files.errors import FileError
from plumbbob.store.errors import StoreError
from plumbbob.store.held import Held
from plumbbob.store.opening import copied, open_log
from plumbbob.store.refs import is_own_ref, new_ref
from plumbbob.store.rows import cells_of_row, readable, row_of, value_of
from plumbbob.store.tables import columns
from plumbbob.store.values import (
    Catch,
    Effort,
    KeptFile,
    Limit,
    LoggedWater,
    Mark,
    MarkKind,
    Moment,
    MomentKind,
    SavedNote,
    Trip,
)
from tests.store.test_log import a_catch, a_mark

ONE_OF_EACH = (
    LoggedWater(water="Veyra Lake", latitude=44.2, longitude=-40.05, time_zone="Etc/GMT+3"),
    Trip(ref="t", water="Veyra Lake", start=1.0, end=2.0, anglers="2", craft="Wren", note="calm"),
    Effort(ref="e", trip="t", start=1.0, end=2.0, rods=2.0, lure="spoon", lure_depth_m=8.0, cloud=0.5),
    a_mark(name="the lip", caught=2),
    Catch(time=5.0, species="kokanee", weight_kg=0.4, around='{"wind_mps": 3}'),
    Moment(water="Veyra Lake", kind=MomentKind.BITTEN_OFF, time=6.0, lure_did="paused", seconds=3.0),
    SavedNote(time=7.0, told="at", depth_m=6.0, value=30.0, rod="{}"),
    Limit(species="kokanee", opens="05-01", closes="10-31", bag=4.0, own=True),
    KeptFile(path="pictures/a.jpg", sha256="0" * 64, size=3),
)


@pytest.fixture
def log(tmp_path):
    with closing(open_log(tmp_path / "log.db").log) as opened:
        yield opened


def test_one_of_each_kind_comes_back_as_it_was(log, tmp_path):
    saved = log.apply(ONE_OF_EACH)
    with closing(open_log(tmp_path / "log.db").log) as again:
        for value in saved:
            assert list(again.read(type(value))) == [value]
            assert again.read(type(value)).by_id(value.id) == value
            assert not hasattr(value, "ref") or value.ref


@pytest.mark.parametrize("value", ONE_OF_EACH, ids=lambda v: type(v).__name__)
def test_a_row_and_its_value_are_two_faces_of_one(value):
    value = replace(value, id=3)
    assert value_of(type(value), row_of(value)) == value
    assert list(row_of(value)) == columns(type(value))
    assert list(row_of(value).values()) == cells_of_row(value)


def test_a_change_is_all_or_nothing(log):
    with pytest.raises(StoreError):
        log.apply([a_mark(), Trip(ref="x"), a_catch(99)])
    assert not any(len(log.read(c)) for c in (Mark, Trip, Catch))
    mark = log.add(a_mark())
    with pytest.raises(StoreError):
        log.apply([replace(mark, seen=9), a_catch(99)], [(Mark, mark.id)])
    assert list(log.read(Mark)) == [mark]
    assert log.history(Mark, mark.id)[-1].after


def test_the_history_of_a_row_tells_every_version(log):
    mark = log.add(a_mark(seen=1))
    for seen in (2, 3):
        mark = log.add(replace(mark, seen=seen))
    log.add(mark)  # nothing is otherwise: nothing is noted
    log.remove(Mark, mark.id)
    story = log.history(Mark, mark.id)
    assert [('"seen": 1' in c.before, '"seen": 2' in c.before, '"seen": 3' in c.before) for c in story] == [
        (False, False, False), (True, False, False), (False, True, False), (False, False, True),
    ]  # fmt: skip
    assert story[-1].after == ""
    assert log.changed(Mark)[mark.id] == story[2].time


def test_the_trash_holds_what_is_out_and_nothing_that_is_back(log):
    mark, catch = log.apply([a_mark(), a_catch(0)])
    log.remove(Mark, mark.id)
    assert {type(t.value) for t in log.trash()} == {Mark, Catch}
    log.apply([mark])
    assert [t.value for t in log.trash()] == [catch]
    log.apply([catch])
    assert log.trash() == []


def test_numbers_are_never_given_twice(log):
    mark = log.add(a_mark())
    log.remove(Mark, mark.id)
    assert log.new_numbers()[Mark] == mark.id + 1
    log.put_batch({Mark: [a_mark(id=log.new_numbers()[Mark], ref="x", batch=1)]})
    assert log.new_numbers()[int] == 2


def test_a_batch_goes_again_but_not_what_was_noted_since(log):
    log.put_batch({Mark: [a_mark(id=5, ref="m", batch=1)], Trip: [Trip(id=7, ref="t", batch=1)]}, {"log.json": "{}"})
    own = log.add(a_catch(5))
    taken = log.take_batch(1)
    assert [v.id for v in taken[Mark]] == [5]
    assert not len(log.read(Mark))
    assert list(log.read(Catch)) == [replace(own, mark_id=None)]
    assert log.about() == {"log.json": "{}"}


def test_rows_of_another_program_are_seen_at_the_next_look(log, tmp_path):
    log.add(a_mark())
    with closing(open_log(tmp_path / "log.db").log) as other:
        other.add(a_mark(seen=7))
    assert sorted(m.seen for m in log.read(Mark)) == [1, 7]


def test_odd_rows_hide_no_others_however_many_there_are(log, tmp_path):
    log.put_batch({Mark: [a_mark(id=k + 1, ref=str(k)) for k in range(3000)]})
    with closing(sqlite3.connect(tmp_path / "log.db")) as db:
        db.execute("UPDATE mark SET latitude = 99 WHERE id = 17")
        db.execute("UPDATE mark SET kind = 'monster' WHERE id = 18")
        db.execute("UPDATE mark SET note = CAST(x'ff' AS TEXT) WHERE id = 19")
        db.commit()
    assert len(log.read(Mark)) == 2997
    assert log.unreadable == 3


@settings(max_examples=10)
@given(st.lists(st.sampled_from(["add", "later", "remove", "change"]), max_size=12))
def test_what_is_held_is_what_a_fresh_look_would_read(tmp_path_factory, steps):
    path = tmp_path_factory.mktemp("held") / "log.db"
    with closing(open_log(path).log) as log:
        for k, step in enumerate(steps):
            held = log.read(Mark)
            if step == "add" or not len(held):
                log.add(a_mark(time=1000.0 - k))
            elif step == "later":
                log.add(a_mark(time=2000.0 + k))
            elif step == "remove":
                log.remove(Mark, held[0].id)
            else:
                log.add(replace(held[-1], time=1500.0, seen=k))
            with closing(open_log(path).log) as fresh:
                assert list(log.read(Mark)) == list(fresh.read(Mark))
                assert log.read(Mark).cells("id") == [m.id for m in fresh.read(Mark)]


def test_held_rows_are_columns_too():
    rows = [tuple(row_of(a_mark(id=k, seen=k, depth_m=None if k == 2 else float(k))).values()) for k in (1, 2, 3)]
    held = Held(Mark, rows)
    assert held.cells("seen") == [1, 2, 3]
    assert held.numbers("depth_m")[[0, 2]].tolist() == [1.0, 3.0]
    assert held.numbers("depth_m")[1] != held.numbers("depth_m")[1]
    assert held[1:] == [held[1], held[2]]
    assert held.by_id(9) is None
    assert held.by_ref("") is None
    assert held.by_ref("no such name") is None
    assert held.with_changes({2: None}).cells("id") == [1, 3]
    assert len(held) == 3
    assert hash(held) == hash(held)
    found, lost = readable(Mark, [*rows, ("x",) * len(rows[0])])
    assert (len(found), lost) == (3, 1)


def test_files_beside_the_log_are_named_by_their_bytes(log):
    name, size = log.files.keep(io.BytesIO(b"picture"), 100)
    assert log.files.keep(io.BytesIO(b"picture"), 100) == (name, size)
    with log.files.opened(name) as file:
        assert file.read() == b"picture"
    with pytest.raises(FileError):
        log.files.keep(io.BytesIO(b"x" * 101), 100)
    with pytest.raises(FileError), log.files.opened("ab" * 32):
        pass
    log.add(KeptFile(path="pictures/a.jpg", sha256=name, size=size))
    assert log.pictures(["a.jpg", "pictures/a.jpg", "gone.jpg"]) == 2 * [log.files.path_of(name)]


def test_another_log_is_read_without_being_touched(log, tmp_path):
    log.add(a_mark())
    before = log.path.read_bytes()
    (tmp_path / "aside").mkdir()
    with copied(log.path, tmp_path / "aside") as other:
        other.add(a_mark(kind=MarkKind.BAIT))
        assert len(other.read(Mark)) == 2
    assert log.path.read_bytes() == before
    with pytest.raises(StoreError), copied(tmp_path / "none.db", tmp_path / "aside"):
        pass


def test_names_for_files_are_our_own_and_never_alike():
    names = {new_ref() for _ in range(500)}
    assert len(names) == 500
    assert all(is_own_ref(n) for n in names)
    assert not any(is_own_ref(n) for n in ("c1", "", "0123456789aG", "0123456789abc"))


def test_a_damaged_log_of_an_older_version_gives_its_rows_to_the_new_one(tmp_path):
    """Rows are read by the columns that an older table has; what it lacks is as usual."""
    from alembic import command
    from alembic.config import Config

    import plumbbob.store.opening as opening
    from plumbbob.store.database import make_engine

    path = tmp_path / "log.db"
    config = Config()
    config.set_main_option("script_location", str(opening.MIGRATIONS))
    engine = make_engine(path)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0003")
        for k in range(200):
            connection.exec_driver_sql(
                "INSERT INTO mark (water, kind, time, latitude, longitude, seen, source, note) "
                f"VALUES ('x', 'fish', {k}, 44.0, -40.0, 1, '', '{'y' * 300}')"
            )
        connection.exec_driver_sql(
            "INSERT INTO moment (water, kind, time, rig, source, note, is_open) "
            "VALUES ('x', 'lost', 5, '', '', '', 1)"
        )
    engine.dispose()
    with closing(sqlite3.connect(path)) as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        db.execute("PRAGMA journal_mode=DELETE")
    data = bytearray(path.read_bytes())
    data[77_824:81_920] = bytes(4096)  # a page of marks
    path.write_bytes(bytes(data))
    opened = open_log(path)
    assert "damaged" in opened.note
    marks = opened.log.read(Mark)
    assert 100 < len(marks) <= 200
    assert all(m.ref and m.caught == 0 and m.name == "" for m in marks)
    assert [m.kind for m in opened.log.read(Moment)] == [MomentKind.LOST]
    opened.log.close()


def test_a_log_that_lacks_a_column_of_its_version_is_not_taken_for_sound(tmp_path):
    path = tmp_path / "log.db"
    with closing(open_log(path).log) as log:
        log.add(a_mark())
    with closing(sqlite3.connect(path)) as db:
        db.execute("ALTER TABLE trip DROP COLUMN craft")
        db.commit()
    opened = open_log(path)
    assert opened.note
    assert len(opened.log.read(Trip)) == 0
    opened.log.close()
