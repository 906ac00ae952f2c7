"""The log on disk: what was saved is there, what failed left nothing, damage loses nothing that was good."""

import os
import shutil
import sqlite3
import subprocess
import sys
import textwrap
from contextlib import closing, contextmanager
from dataclasses import replace
from pathlib import Path

import pytest

from plumbbob.store import opening
from plumbbob.store.database import make_engine
from plumbbob.store.errors import StoreError
from plumbbob.store.log import Log
from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Mark, MarkKind, SavedNote


def a_mark(**changes):
    parts = {
        "water": "Veyra Lake",
        "kind": MarkKind.FISH,
        "time": 1786785100.0,
        "latitude": 44.206,
        "longitude": -40.058,
        "position_sd_m": 2.0,
        "depth_m": 8.2,
        "bottom_depth_m": 19.0,
        "source": "veyra.nc",
    }
    return Mark(**{**parts, **changes})


def a_catch(mark_id, **changes):
    parts = {"mark_id": mark_id, "time": 1786785200.0, "species": "kokanee", "length_m": 0.35, "lure_depth_m": 7.5}
    return Catch(**{**parts, **changes})


@pytest.fixture
def path(tmp_path):
    return tmp_path / "log.db"


def test_marks_and_catches_come_back_as_they_were(path):
    log = open_log(path).log
    mark = log.add(a_mark(seen=3))
    catch = log.add(a_catch(mark.id, kept=True))
    log.close()
    again = open_log(path).log
    assert again.marks() == [mark]
    assert again.catches() == [catch]
    assert mark.height_above_bottom_m == pytest.approx(10.8)
    again.close()


def test_change_remove_restore(path):
    log = open_log(path).log
    mark = log.add(a_mark())
    catch = log.add(a_catch(mark.id))
    changed = Mark(**{**{f: getattr(mark, f) for f in mark.__dataclass_fields__}, "seen": 5})
    log.add(changed)
    assert log.marks() == [changed]
    log.remove(Mark, mark.id)
    assert (log.marks(), log.catches()) == ([], [])
    log.apply([mark, catch])
    assert (log.marks(), log.catches()) == ([mark], [catch])
    log.remove(Catch, catch.id)
    assert log.catches() == []
    log.close()


def test_mark_and_catch_are_saved_both_or_neither(path):
    log = open_log(path).log
    with pytest.raises(StoreError):
        log.apply([a_mark(), a_catch(0, species=None)])
    assert (log.marks(), log.catches()) == ([], [])
    mark, catch = log.apply([a_mark(), a_catch(0)])
    assert catch.mark_id == mark.id
    log.close()


def test_a_catch_needs_a_mark(path):
    log = open_log(path).log
    with pytest.raises(StoreError):
        log.add(a_catch(77))
    log.close()


@contextmanager
def open_engine(path):
    engine = make_engine(path)
    yield engine
    engine.dispose()


def test_settings_that_keep_a_mark_through_a_power_cut(path):
    with open_engine(path) as engine, engine.connect() as db:
        assert db.exec_driver_sql("PRAGMA journal_mode").scalar() == "wal"
        assert db.exec_driver_sql("PRAGMA synchronous").scalar() == 2


@pytest.mark.parametrize("damage", [b"", b"x", b"not a database at all" * 99, None])
def test_a_damaged_log_is_set_aside_and_the_last_good_one_opens(path, damage):
    log = open_log(path).log
    mark = log.add(a_mark())
    log.close()
    open_log(path).log.close()  # a good opening makes the copy
    if damage is None:
        data = bytearray(path.read_bytes())
        data[100:5000] = os.urandom(4900)
        damage = bytes(data)
    path.write_bytes(damage)
    opened = open_log(path)
    assert "damaged" in opened.note
    assert opened.log.marks() == [mark]
    assert path.with_name("log.damaged-1.db").exists()
    opened.log.close()


def test_a_damaged_log_without_a_copy_starts_empty_and_keeps_the_old_file(path):
    path.write_bytes(b"rubbish" * 1000)
    opened = open_log(path)
    assert "empty" in opened.note
    assert opened.log.marks() == []
    assert path.with_name("log.damaged-1.db").read_bytes() == b"rubbish" * 1000
    opened.log.close()


def test_a_locked_log_is_said_plainly_and_nothing_changes(path, monkeypatch):
    monkeypatch.setattr("plumbbob.store.database.BUSY_SECONDS", 0.05)
    log = open_log(path).log
    log.add(a_mark())
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    with pytest.raises(StoreError, match="another program holds it"):
        log.add(a_mark())
    other.execute("ROLLBACK")
    other.close()
    assert len(log.marks()) == 1
    log.close()


def test_a_full_disk_is_said_plainly_and_nothing_is_half_written(path):
    open_log(path).log.close()
    with open_engine(path) as engine:
        log = Log(engine, path)
        log.add(a_mark())
        with engine.connect() as db:  # the same connection: the pool holds one
            pages = db.exec_driver_sql("PRAGMA page_count").scalar()
            db.exec_driver_sql(f"PRAGMA max_page_count = {pages}")
        with pytest.raises(StoreError, match="disk is full"):
            log.add(a_mark(note="x" * 30_000))
        before = len(log.marks())
    again = open_log(path).log
    assert len(again.marks()) == before
    again.close()


def test_a_folder_that_can_not_be_made_is_an_error_in_one_line(tmp_path):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(StoreError) as caught:
        open_log(tmp_path / "file" / "log.db")
    assert "\n" not in str(caught.value)


def test_the_schema_is_at_its_newest_and_the_models_agree(path):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    from plumbbob.store.tables import METADATA

    open_log(path).log.close()
    with open_engine(path) as engine, engine.connect() as db:
        assert compare_metadata(MigrationContext.configure(db, opts={"compare_type": False}), METADATA) == []


def test_killing_the_program_right_after_a_mark_loses_nothing(path):
    """A process of its own saves marks and is killed with signal 9 the moment the last call returns."""
    script = textwrap.dedent(
        """
        import os, signal, sys
        from pathlib import Path
        from plumbbob.store.opening import open_log
        from tests.store.test_log import a_mark
        log = open_log(Path(sys.argv[1])).log
        for k in range(5):
            log.add(a_mark(seen=k + 1))
        os.kill(os.getpid(), signal.SIGKILL)
        """
    )
    done = subprocess.run([sys.executable, "-c", script, str(path)], cwd=os.getcwd(), check=False)
    assert done.returncode == -9
    log = open_log(path).log
    assert [m.seen for m in log.marks()] == [1, 2, 3, 4, 5]
    log.close()


def test_notes_of_the_rig_are_kept_and_an_older_log_gains_them(path):
    from alembic import command
    from alembic.config import Config

    import plumbbob.store.opening as store
    from plumbbob.store.database import make_engine

    config = Config()
    config.set_main_option("script_location", str(Path(store.__file__).parent / "migrations"))
    engine = make_engine(path)
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0001")
    engine.dispose()
    log = open_log(path).log
    note = SavedNote(time=5.0, told="ran at", depth_m=7.0, value=40.0, words="by the lip", rod="{}")
    first, second = log.add(note), log.add(replace(note, time=1.0))
    assert log.notes() == [second, first]
    log.remove(SavedNote, second.id)
    assert log.add(second) == second  # an undone removal has its old number
    log.close()
    assert open_log(path).log.notes() == [second, first]


STONES = """
import sqlalchemy as sa
from alembic import op

revision, down_revision = "0099", "{before}"


def upgrade():
    op.add_column("mark", sa.Column("stones", sa.Integer(), nullable=False, server_default="3"))
"""


def test_a_migration_of_ones_own_runs_once_and_keeps_what_is_there(path, tmp_path, monkeypatch):
    """The recipe "a migration": one file beside the others."""
    with closing(open_log(path).log) as log:
        log.add(a_mark())
    moved = tmp_path / "migrations"
    shutil.copytree(opening.MIGRATIONS, moved)
    before = sorted(p.name[:4] for p in (moved / "versions").glob("0*.py"))[-1]
    (moved / "versions" / "0099_stones.py").write_text(STONES.format(before=before))
    monkeypatch.setattr(opening, "MIGRATIONS", moved)
    for _ in range(2):
        with closing(open_log(path).log) as log:
            assert [m.depth_m for m in log.marks()] == [8.2]
    with sqlite3.connect(path) as db:
        assert db.execute("SELECT stones FROM mark").fetchall() == [(3,)]
        assert db.execute("SELECT version_num FROM alembic_version").fetchall() == [("0099",)]
