"""The tide moves the level: typed, read from a file, held by hand, and gone with the clock."""

import math

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QLabel, QPlainTextEdit, QPushButton

from plumbbob.core.units import System
from plumbbob.desk.views.chart.tide_sheet import TidePicture
from plumbbob.formats.tide_csv import parse_tide, tide_lines
from plumbbob.formats.waters import shipped_waters
from plumbbob.services.waters import Waters
from plumbbob.sim.other_waters import TIDES_FROM, carrow_tide
from tests.desk.conftest import press
from tests.desk.test_water import enter


def table_about(session, rise_m=4.0):
    """Low water three hours ago, high in three, low in nine: half way up and at its fastest now."""
    now, hour = session.conditions.time_s, 3600.0
    turns = ((now - 3 * hour, 1.0), (now + 3 * hour, 1.0 + rise_m), (now + 9 * hour, 1.0))
    return "\n".join(f"{session.local(t):%Y-%m-%d %H:%M}, {level}" for t, level in turns)


@pytest.fixture
def tidal(window):
    window.session.set_stage("water")
    window.session.display.set_system(System.METRIC)
    press(window, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    return window


def use(window, text):
    window.findChild(QPlainTextEdit, "tide_text").setPlainText(text)
    window.findChild(QPushButton, "sheet_tide_go").click()


def test_a_typed_table_moves_the_level_and_is_kept(tidal):
    session = tidal.session
    use(tidal, table_about(session))
    assert not session.sheet
    assert session.conditions.level_m == pytest.approx(3.0, abs=0.05)
    assert "floods, high" in tidal.findChild(QLabel, "day_tide").text()
    assert tidal.tasks.charter.folder.tide().turns == session.conditions.tide.turns
    assert "tide.csv" not in [p.name for p in tidal.tasks.charter.folder.sources()]


def test_the_level_goes_on_with_the_clock_and_stays_where_a_hand_puts_it(tidal):
    session, day = tidal.session, tidal.session.conditions
    use(tidal, table_about(session))
    changes = []
    day.changed.connect(lambda: changes.append(day.level_m))
    day.set_moment(day.time_s + 60.0)  # too little to draw a chart again for
    assert not changes
    day.set_moment(day.time_s + 5400.0)
    assert day.level_m > 4.2
    enter(tidal, "level", "2 m")
    assert day.level_m == pytest.approx(2.0)
    day.set_moment(day.time_s + 9000.0)
    assert day.level_m == pytest.approx(2.0)
    assert "level held" in tidal.findChild(QLabel, "day_tide").text()
    press(tidal, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    tidal.findChild(QCheckBox, "tide_follow").click()
    assert day.level_m > 4.8


def test_the_stream_is_told_and_the_table_can_be_forgotten(tidal):
    session = tidal.session
    use(tidal, table_about(session))
    press(tidal, Qt.Key.Key_T, Qt.KeyboardModifier.ShiftModifier)
    enter(tidal, "tide_strongest", "1 m/s")
    assert session.conditions.tide_now.current_mps == pytest.approx(1.0, abs=0.02)
    assert "stream about" in tidal.findChild(QLabel, "tide_words").text()
    assert not tidal.findChild(TidePicture, "tide_picture").grab().isNull()
    tidal.findChild(QPushButton, "tide_forget").click()
    assert session.conditions.tide is None
    assert session.conditions.tide_now is None
    assert tidal.tasks.charter.folder.tide() is None


@pytest.mark.parametrize(
    "text", ["", "soon high", "2026-08-14 05:12, 4.6", "2026-08-14 05:12, 4\n2026-08-14 05:15, 1"]
)
def test_a_table_that_is_none_is_one_line(tidal, text):
    use(tidal, text)
    assert tidal.notice.text.startswith("Not used")
    assert tidal.session.conditions.tide is None


def test_a_file_of_tides_is_known_and_one_of_other_days_moves_nothing(tidal, qtbot, tmp_path):
    session = tidal.session
    session.ask_sheet("")
    path = tmp_path / "harbour.csv"
    path.write_text("time,level_m\n2019-01-01T05:00Z, 4.0\n2019-01-01T11:00Z, 1.0\n2019-01-01T17:10Z, 4.1\n")
    before = session.conditions.level_m
    tidal.files.open([path])
    qtbot.waitUntil(lambda: session.conditions.tide is not None, timeout=20_000)
    assert session.conditions.level_m == before
    assert tidal.findChild(QLabel, "day_tide").text() == "Tide table of other days"


def test_carrow_sound_has_tides_and_a_long_table_stays_whole(tmp_path):
    waters = Waters(tmp_path)
    for shipped in shipped_waters():
        waters.adopt(shipped)
    of = {w.key: waters.folder(w).tide() for w in waters.all()}
    assert of["veyra-lake"] is None
    assert len(of["carrow-sound"].turns) > 4000
    levels = [t.level_m for t in of["carrow-sound"].turns]
    assert 0.0 < min(levels) < 1.0 < 4.5 < max(levels) < 6.0


@pytest.mark.parametrize("offset_h", [-9.5, 0.0, 3.0])
def test_a_table_written_in_the_waters_clock_reads_back(offset_h):
    table = carrow_tide(TIDES_FROM, days=4)
    again = parse_tide("\n".join(tide_lines(table, offset_h)), offset_h)
    assert [t.level_m for t in again.turns] == [t.level_m for t in table.turns]
    assert all(math.isclose(a.time, b.time, abs_tol=1.0) for a, b in zip(again.turns, table.turns, strict=True))
