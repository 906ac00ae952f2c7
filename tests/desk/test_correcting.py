"""Correcting, comparing and asking for advice in the real window, by keys and mouse."""

import shutil

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit, QWidget

from plumbbob.core.sonar.evidence import rates
from plumbbob.core.sonar.groups import Group
from plumbbob.core.sonar.reading import Bait, Fish, Trail
from plumbbob.desk.app import start_fresh
from plumbbob.desk.models.drawing import DrawTool
from plumbbob.desk.views.sonar.down.words import reasons
from plumbbob.formats.corrections import beside, read_corrections
from plumbbob.formats.recording import read_recording
from plumbbob.services.demo import FIRST, own_copy
from tests.desk.conftest import click_fish, press

CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def own(pass_file, tmp_path):
    """A recording of one's own, since corrections are kept beside it."""
    path = tmp_path / "own" / "minute.nc"
    path.parent.mkdir()
    shutil.copy(pass_file, path)
    return path


@pytest.fixture
def window(opened, own, qtbot):
    made = opened(own)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    made.picture("down").setFocus()
    return made


def text_of(window, name):
    return window.findChild(QLabel, name).text()


def at(window, ping, depth):
    return QPoint(round(window.picture("down").x_of(ping)), round(window.picture("down").y_of(depth)))


def drag(window, *places):
    picture = window.picture("down")
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=places[0])
    for place in places[1:]:
        QTest.mouseMove(picture, place)
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=places[-1])


def test_one_key_takes_a_wrong_fish_out_everywhere_and_z_brings_it_back(window, own):
    scan = window.session.scan
    fish = scan.reading.fish[1]
    click_fish(window, fish)
    press(window, Qt.Key.Key_X)
    assert fish not in scan.reading.fish
    assert scan.chosen is None
    assert text_of(window, "read_fish") == "2"
    assert scan.document.evidence.fish.sum() == 2
    assert len(read_corrections(beside(own))) == 1
    press(window, Qt.Key.Key_Z)
    assert fish in scan.reading.fish
    assert not beside(own).exists()
    press(window, Qt.Key.Key_Z, SHIFT)
    assert fish not in scan.reading.fish


def test_corrections_are_there_again_after_opening_anew(window, own, opened, tmp_path):
    click_fish(window, window.session.scan.reading.fish[0])
    press(window, Qt.Key.Key_X)
    window.close()
    again = opened(own, tmp_path)
    assert len(again.session.scan.reading.fish) == 2


def test_a_damaged_file_of_corrections_is_said_and_kept(own, opened):
    beside(own).write_text("{", encoding="utf-8")
    window = opened(own)
    assert "corrections can't be used" in window.notice.text
    assert len(window.session.scan.reading.fish) == 3
    assert beside(own).read_text(encoding="utf-8") == "{"


def test_accepting_and_naming_the_chosen_echo(window):
    scan = window.session.scan
    click_fish(window, scan.reading.fish[0])
    press(window, Qt.Key.Key_Y)
    assert isinstance(scan.chosen, Fish)
    assert scan.chosen.hand == "accepted"
    press(window, Qt.Key.Key_T)
    assert isinstance(scan.chosen, Bait)
    assert len(scan.reading.fish) == 2
    press(window, Qt.Key.Key_T)
    assert [s.kind for s in scan.reading.standing] == ["weed"]


def test_a_picked_echo_moves_by_dragging_and_by_keys(window):
    scan = window.session.scan
    fish = scan.reading.fish[0]
    click_fish(window, fish)
    start = window.picture("down").place_of(fish).toPoint()
    drag(window, start, start + QPoint(20, 15), start + QPoint(40, 30))
    moved = scan.chosen
    assert moved.hand == "moved"
    assert moved.time > fish.time + 1
    assert moved.depth_m == pytest.approx(window.picture("down").depth_at(start.y() + 30), abs=0.1)
    press(window, Qt.Key.Key_Up, CTRL)
    assert scan.chosen.depth_m == pytest.approx(moved.depth_m - 0.1)
    assert len(scan.reading.fish) == 3


def test_missing_fish_bait_and_bottom_are_drawn(window):
    scan = window.session.scan
    press(window, Qt.Key.Key_D)
    assert scan.drawing.tool is DrawTool.DRAW
    QTest.mouseClick(window.picture("down"), Qt.MouseButton.LeftButton, pos=at(window, 430, 4.0))
    drawn = [f for f in scan.reading.fish if f.hand == "drawn"]
    assert len(drawn) == 1
    assert drawn[0].depth_m == pytest.approx(4.0, abs=0.1)
    press(window, Qt.Key.Key_D)
    drag(window, at(window, 440, 5.0), at(window, 460, 6.0), at(window, 480, 7.0))
    assert [b.hand for b in scan.reading.bait].count("drawn") == 1
    QTest.mouseClick(window.picture("down"), Qt.MouseButton.LeftButton, pos=at(window, 300, 5.0))
    assert "Drag a box" in window.notice.text
    press(window, Qt.Key.Key_Escape)
    assert scan.drawing.tool is DrawTool.LOOK
    press(window, Qt.Key.Key_E)
    drag(window, at(window, 100, 9.0), at(window, 120, 9.2), at(window, 140, 9.4))
    assert scan.reading.bottom.depth_m[120] == pytest.approx(9.2, abs=0.15)
    assert scan.reading.bottom.depth_m[200] > 12
    window.session.ask_sheet("")
    window.actions_by_id["echo.forget"].trigger()
    assert scan.document.corrections == ()
    press(window, Qt.Key.Key_Z)
    assert len(scan.document.corrections) == 3


def test_without_a_choice_x_takes_the_layer_under_the_cursor(window):
    scan = window.session.scan
    scan.choose(None)
    scan.set_cursor(200, 2.0)
    press(window, Qt.Key.Key_X)
    assert scan.reading.cold_layer is not None
    scan.set_cursor(200, scan.reading.cold_layer.depth_m)
    press(window, Qt.Key.Key_X)
    assert scan.reading.cold_layer is None


def test_what_can_not_be_kept_is_said_and_changes_nothing(window, monkeypatch):
    scan = window.session.scan
    click_fish(window, scan.reading.fish[0])

    def full(*args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("plumbbob.desk.tasks.apply_corrections.write_corrections", full)
    press(window, Qt.Key.Key_X)
    assert len(scan.reading.fish) == 3
    assert "No space left" in window.notice.text


def test_each_reason_leads_to_what_it_speaks_of(window):
    session = window.session
    from plumbbob.core.sonar.fish_association import summarise

    lines = reasons(session, summarise(session.scan.reading))
    why = window.findChild(QLabel, "read_why")
    assert why.text().count("<a href") == sum(bool(s.goal) for s in lines) >= 2
    for i, said in enumerate(lines):
        if said.goal:
            why.linkActivated.emit(str(i))
            if isinstance(said.goal, float):
                assert session.scan.cursor.depth_m == pytest.approx(said.goal)
            elif not isinstance(said.goal, Group | Trail):
                assert session.scan.chosen is said.goal


def test_depths_that_matter_fill_the_height(window):
    scan, layer = window.session.scan, window.session.scan.reading.cold_layer
    press(window, Qt.Key.Key_J)
    assert scan.view.top_m < layer.depth_m < scan.view.base_m
    assert scan.view.base_m - scan.view.top_m < 6.0
    press(window, Qt.Key.Key_J)
    assert scan.view.top_m == 0.0


def test_the_beam_is_drawn_to_scale(window):
    scan = window.session.scan
    scan.set_cursor(300, 9.0)
    wide = 2 * (9.0 - scan.down.mount.depth_m) * np.tan(np.radians(8.0))
    assert scan.footprint_m == pytest.approx(wide)
    assert scan.footprint_pings == pytest.approx(wide / 1.3 * 9.0, rel=0.05)


def test_another_pass_lies_along_this_one(window, own, qtbot, monkeypatch, tmp_path):
    scan = window.session.scan
    other = tmp_path / "other.nc"
    shutil.copy(own, other)
    monkeypatch.setattr(window, "open_path", lambda *a: other)
    press(window, Qt.Key.Key_K)
    qtbot.waitUntil(
        lambda: scan.comparison.other is not None and bool(scan.comparison.other.reading.fish), timeout=60_000
    )
    assert (scan.comparison.other.pings == np.arange(len(scan.down))).mean() > 0.95
    picture = window.findChild(QWidget, "beside")
    qtbot.waitUntil(picture.isVisible)
    mine, theirs = window.session.scan.document.raster, picture.raster
    v = scan.view
    one = mine.render(v, 200, 80, 0.0)
    two = theirs.render_pings(np.arange(200) * len(scan.down) // 200, v.top_m, v.base_m, 80, 0.0)
    assert one.shape == two.shape
    assert not picture.grab().isNull()
    press(window, Qt.Key.Key_K)
    assert not picture.isVisible()


def test_the_chart_stands_beside_and_each_cursor_leads_the_other(window, qtbot):
    session = window.session
    chart = window.picture("chart")
    press(window, Qt.Key.Key_V)
    qtbot.waitUntil(lambda: chart.isVisible() and session.chart.chart is not None)
    session.scan.set_cursor(500, 5.0)
    boat = session.scan.boat_place()
    session.scan.set_cursor(50, 5.0)
    x, y = session.chart.chart.plane.to_xy(boat.latitude, boat.longitude)
    session.chart.centre_on(float(x), float(y))
    session.spots.choose(None)
    session.spots.set_features(())
    QTest.mouseClick(chart, Qt.MouseButton.LeftButton, pos=chart.at(float(x), float(y)).toPoint())
    assert abs(session.scan.cursor.ping - 500) < 15
    press(window, Qt.Key.Key_1)
    assert chart.isVisible()
    press(window, Qt.Key.Key_2)
    press(window, Qt.Key.Key_V)
    assert not chart.isVisible()


def test_evidence_of_the_day_adds_up_and_is_shown(window, qtbot):
    scan = window.session.scan
    qtbot.waitUntil(lambda: bool(scan.evidence.passes))
    assert scan.evidence.fish.sum() == 3
    press(window, Qt.Key.Key_H)
    sheet = window.findChild(QWidget, "sheet_evidence")
    assert sheet.isVisible()
    assert "1 pass today" in text_of(window, "evidence_words")
    assert rates(scan.evidence).volume_m3.sum() > 100
    assert not sheet.grab().isNull()
    press(window, Qt.Key.Key_Escape)
    assert not sheet.isVisible()


def test_the_sounder_is_set_up_for_what_is_sought(window):
    press(window, Qt.Key.Key_G)
    before = text_of(window, "setup_pings")
    field = window.findChild(QLineEdit, "setup_speed_mps")
    field.selectAll()
    QTest.keyClicks(field, "20 kn")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert int(text_of(window, "setup_pings")) < int(before)
    assert "On plane" in text_of(window, "setup_advice")
    deep = window.findChild(QLineEdit, "setup_depth_m")
    deep.selectAll()
    QTest.keyClicks(deep, "90 m")
    QTest.keyClick(deep, Qt.Key.Key_Return)
    assert "under the bottom" in text_of(window, "setup_advice")


def test_what_was_read_the_picture_and_a_piece_are_written(window, qtbot, monkeypatch, tmp_path):
    session = window.session
    for command, name in (("file.contacts", "c.csv"), ("file.picture", "p.png"), ("file.thin", "t.nc")):
        monkeypatch.setattr(window, "save_path", lambda *a, n=name: tmp_path / n)
        window.actions_by_id[command].trigger()
        qtbot.waitUntil(lambda: not session.jobs.live)
    assert (tmp_path / "c.csv").read_text(encoding="utf-8").count("fish") == 3
    assert QImage(str(tmp_path / "p.png")).width() > 800
    assert len(read_recording(tmp_path / "t.nc").down) == 288
    session.scan.show_time(session.scan.down.time[100], session.scan.down.time[250])
    monkeypatch.setattr(window, "save_path", lambda *a: tmp_path / "cut.nc")
    window.actions_by_id["file.cut"].trigger()
    qtbot.waitUntil(lambda: not session.jobs.live)
    assert 150 < len(read_recording(tmp_path / "cut.nc").down) < 400
    monkeypatch.setattr(window, "save_path", lambda *a: tmp_path / "no" / "c.csv")
    window.actions_by_id["file.contacts"].trigger()
    assert "Not written" in window.notice.text


def test_a_drawn_bottom_goes_into_the_chart(window, qtbot):
    session, charter = window.session, window.tasks.charter
    qtbot.waitUntil(lambda: charter.folder.has_pass("minute.nc") and not session.jobs.live)
    path = next(charter.folder.path.glob("pass *.csv"))
    before, chart = path.read_text(encoding="utf-8"), session.chart.chart
    press(window, Qt.Key.Key_E)
    drag(window, at(window, 100, 11.0), at(window, 250, 11.0), at(window, 400, 11.0))
    window.scanner.retake_now()
    qtbot.waitUntil(lambda: session.chart.chart is not chart, timeout=60_000)
    assert path.read_text(encoding="utf-8") != before
    drawn = float(np.nanmin(session.chart.chart.grid.depth_m)) + session.conditions.level_m
    assert drawn == pytest.approx(11.0, abs=0.2)


def test_the_demo_keeps_corrections_with_its_own_copies(tmp_path):
    mine = own_copy(tmp_path / "passes", FIRST)
    assert mine.parent == tmp_path / "passes"
    beside(mine).write_text("{}", encoding="utf-8")
    start_fresh(tmp_path)
    assert not beside(mine).exists()
    assert mine.is_file()
    before = mine.stat().st_mtime_ns
    assert own_copy(tmp_path / "passes", FIRST).stat().st_mtime_ns == before


def test_opening_another_pass_lets_go_of_what_was_said_of_the_first(window, own, qtbot, tmp_path):
    scan = window.session.scan
    click_fish(window, scan.reading.fish[0])
    press(window, Qt.Key.Key_X)
    other = tmp_path / "other.nc"
    shutil.copy(own, other)
    window.menuBar().setFocus()
    window.open_recording(other)
    qtbot.waitUntil(
        lambda: scan.path == other and scan.document.is_read and not window.session.jobs.live, timeout=60_000
    )
    assert window.picture("down").hasFocus()  # or the cursor's words would be missing
    press(window, Qt.Key.Key_G)
    typing = window.findChild(QWidget, "sheet_setup").findChild(QLineEdit)
    typing.setFocus()
    scan.opened.emit()
    assert typing.hasFocus()  # nothing is taken from under somebody's fingers
    press(window, Qt.Key.Key_Escape)
    assert len(scan.reading.fish) == 3
    assert not window.session.history.can_undo
    assert scan.evidence.passes == ("minute.nc", "other.nc")
