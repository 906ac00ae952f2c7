"""What a person does, with keys and mouse, in the real window."""

import json
import math
import os
import signal
import subprocess
import sys
import textwrap

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QTableView

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.rig.rod import Amount, CannotReach, Method, RigAnswer
from plumbbob.core.sonar.reading import Bait, Fish
from plumbbob.core.units import System
from plumbbob.desk.theme import Light
from plumbbob.desk.views.plumbline import PlumbLine
from tests.desk.conftest import click_fish, press

SHIFT = Qt.KeyboardModifier.ShiftModifier


def text_of(window, name):
    return window.findChild(QLabel, name).text()


def test_a_pass_opens_read_and_painted(window):
    scan = window.session.scan
    assert len(scan.reading.fish) == 3
    assert text_of(window, "read_fish") == "3"
    assert "ft" in text_of(window, "read_layer")
    assert text_of(window, "water") == "Veyra Lake"
    assert "Sat 15 Aug 2026" in text_of(window, "when")
    picture = window.picture("down").grab().toImage()
    bed = window.picture("down").y_of(float(scan.reading.bottom.depth_m[300]))
    x = int(window.picture("down").x_of(300))
    water, ground = (QColor(picture.pixel(x, int(bed + dy))).lightnessF() for dy in (-25, 4))
    assert ground > water + 0.2


def test_times_are_the_lakes_own(window):
    window.session.scan.set_cursor(0, 3.0)
    assert text_of(window, "clock") == "06:10:00"


def test_moving_over_the_picture_reads_depth_time_and_place(window):
    QTest.mouseMove(window.picture("down"), QPoint(300, 200))
    scan = window.session.scan
    assert scan.cursor.ping == int(window.picture("down").ping_at(300))
    assert scan.cursor.depth_m == pytest.approx(window.picture("down").depth_at(200), abs=0.05)
    assert "44°12" in text_of(window, "place")
    assert "ft" in text_of(window, "bed")


def test_picking_a_fish_hangs_the_bob_above_it(window):
    fish = window.session.scan.reading.fish[1]
    click_fish(window, fish)
    rig = window.session.rig
    assert window.session.scan.chosen == fish
    assert rig.bob_m == pytest.approx(fish.depth_m - rig.settings.above_fish_m)
    assert isinstance(rig.answer, RigAnswer)
    assert text_of(window, "rig_answer").endswith("wire out")
    press(window, Qt.Key.Key_R)
    assert text_of(window, "rig_answer").endswith("line out")
    window.findChild(object, "method_cast").click()
    assert rig.answer.amount is Amount.COUNT
    assert text_of(window, "rig_answer").startswith("count ")


def test_how_far_above_is_a_setting_that_shows(window, qtbot):
    fish = window.session.scan.reading.fish[0]
    click_fish(window, fish)
    field = window.findChild(QLineEdit, "rig_above")
    field.selectAll()
    qtbot.keyClicks(field, "1.5 m")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.session.rig.bob_m == pytest.approx(fish.depth_m - 1.5)
    assert field.text() == "4.9 ft"
    field.selectAll()
    qtbot.keyClicks(field, "lots")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "not a number" in window.notice.text
    assert window.session.rig.settings.above_fish_m == pytest.approx(1.5)


def test_dragging_the_bob_solves_while_the_mouse_moves(window):
    line = window.findChild(PlumbLine)
    rig, seen = window.session.rig, []
    rig.changed.connect(lambda: seen.append(rig.answer))
    x = 66
    QTest.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(x, int(line.y_of(rig.bob_m))))
    for depth in (4.0, 6.0, 8.0):
        QTest.mouseMove(line, QPoint(x, int(line.y_of(depth))))
    QTest.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(x, int(line.y_of(8.0))))
    assert rig.bob_m == pytest.approx(8.0, abs=0.05)
    assert [round(a.depth_m) for a in seen[-3:]] == [4, 6, 8]
    assert len({round(a.value, 2) for a in seen[-3:]}) == 3


def test_speed_buttons_solve_again(window):
    window.session.rig.drag_to(9.0)
    before = window.session.rig.answer.value
    for _ in range(8):
        window.findChild(object, "speed_more").click()
    assert window.session.rig.settings.speed_mps > 1.2
    assert window.session.rig.answer.value > before


def test_a_depth_that_can_not_be_had_is_a_sentence(window):
    rig = window.session.rig
    rig.set(method=Method.FLAT_LINE)
    rig.drag_to(17.0)
    assert isinstance(rig.answer, CannotReach)
    assert "can't be had" in text_of(window, "rig_answer")
    shown = " ".join(label.text() for label in window.findChildren(QLabel))
    assert "Nearest" in shown
    assert "nan" not in shown.lower()


def test_space_marks_the_fish_not_the_antenna_and_undo_takes_it_back(window):
    scan, book = window.session.scan, window.session.logbook
    fish = scan.reading.fish[1]
    click_fish(window, fish)
    press(window, Qt.Key.Key_Space)
    (mark,) = book.marks
    assert mark.depth_m == pytest.approx(fish.depth_m)
    assert mark.bottom_depth_m == pytest.approx(fish.depth_m + fish.height_above_bottom_m)
    assert mark.kind.value == "fish"
    track = scan.recording.track
    antenna = Position(
        float(np.interp(fish.time, track.time, track.latitude)),
        float(np.interp(fish.time, track.time, track.longitude)),
    )
    mount = scan.down.mount
    off = distance_m(antenna, Position(mark.latitude, mark.longitude))
    assert off == pytest.approx(math.hypot(mount.forward_m, mount.starboard_m), abs=0.05)
    assert mark.position_sd_m >= 1.5
    assert "Marked fish" in window.notice.text
    press(window, Qt.Key.Key_Z)
    assert book.marks == ()
    press(window, Qt.Key.Key_Z, SHIFT)
    assert book.marks == (mark,)
    press(window, Qt.Key.Key_Plus)
    assert book.marks[0].seen == mark.seen + 1
    press(window, Qt.Key.Key_Z)
    assert book.marks == (mark,)


def test_space_marks_even_with_a_button_in_focus_and_types_in_a_field(window, qtbot):
    click_fish(window, window.session.scan.reading.fish[0])
    button = window.findChild(object, "method_flat_line")
    button.setFocus()
    press(window, Qt.Key.Key_Space)
    assert len(window.session.logbook.marks) == 1
    assert window.session.rig.settings.method is Method.DOWNRIGGER
    press(window, Qt.Key.Key_Return)
    assert window.session.rig.settings.method is Method.FLAT_LINE
    press(window, Qt.Key.Key_C)
    editor = window.findChild(QComboBox, "catch_species").lineEdit()
    qtbot.waitUntil(editor.hasFocus)
    editor.clear()
    qtbot.keyClicks(editor, "big pike")
    assert editor.text() == "big pike"
    assert len(window.session.logbook.marks) == 1


def test_a_mark_without_a_fish_is_the_place_under_the_cursor(window):
    scan = window.session.scan
    scan.choose(None)
    scan.set_cursor(100, 4.0)
    press(window, Qt.Key.Key_Space)
    (mark,) = window.session.logbook.marks
    assert (mark.kind.value, mark.depth_m) == ("place", 4.0)


def test_bait_can_be_picked_and_marked(window):
    bait = window.session.scan.reading.bait[0]
    window.session.scan.choose(bait)
    assert isinstance(window.session.scan.chosen, Bait)
    press(window, Qt.Key.Key_Space)
    assert window.session.logbook.marks[0].kind.value == "bait"


def test_a_catch_goes_on_the_nearest_mark_or_makes_one(window, qtbot):
    book = window.session.logbook
    click_fish(window, window.session.scan.reading.fish[0])
    press(window, Qt.Key.Key_C)
    length = window.findChild(QLineEdit, "catch_length")
    qtbot.keyClicks(length, "14 in")
    QTest.keyClick(length, Qt.Key.Key_Return)
    (mark,), (catch,) = book.marks, book.catches
    assert catch.mark_id == mark.id
    assert catch.species == "kokanee"
    assert catch.length_m == pytest.approx(0.3556)
    assert not catch.kept
    assert catch.lure_depth_m == pytest.approx(window.session.rig.bob_m)
    assert "wire out" in catch.rig
    click_fish(window, window.session.scan.reading.fish[1])  # 37 m on: within 50 m of the mark
    press(window, Qt.Key.Key_C)
    window.findChild(object, "catch_kept").click()
    window.findChild(object, "catch_save").click()
    assert len(book.marks) == 1
    assert [c.kept for c in book.catches] == [False, True]
    press(window, Qt.Key.Key_Z)
    press(window, Qt.Key.Key_Z)
    assert (book.marks, book.catches) == ((), ())


def test_escape_closes_what_lies_on_top(window):
    press(window, Qt.Key.Key_C)
    assert window.catch_form.isVisible()
    press(window, Qt.Key.Key_Escape)
    assert not window.catch_form.isVisible()
    press(window, Qt.Key.Key_Question)
    sheet = next(s for s in window.sheets if s.name == "commands")
    assert sheet.isVisible()
    press(window, Qt.Key.Key_Escape)
    assert not sheet.isVisible()


def test_the_log_shows_all_of_it_again_after_closing(opened, pass_file, tmp_path):
    first = opened(pass_file)
    for fish in first.session.scan.reading.fish[:2]:
        click_fish(first, fish)
        first.actions_by_id["mark.mark"].trigger()
    kept = first.session.logbook.marks
    first.close()
    second = opened(pass_file)
    assert second.session.logbook.marks == kept
    second.actions_by_id["go.log"].trigger()
    table = second.findChild(QTableView, "loglist")
    assert table.model().rowCount() == 3  # both marks, and the trip they opened
    words = [table.model().index(0, k).data() for k in range(table.model().columnCount())]
    assert any("ft" in w for w in words)
    table.selectRow(0)
    assert second.session.logbook.chosen == kept[1]
    second.actions_by_id["mark.show"].trigger()
    assert second.session.stage == "scan"
    assert isinstance(second.session.scan.chosen, Fish)
    assert second.session.scan.chosen.time == pytest.approx(kept[1].time)


def test_export_from_the_menu(window, tmp_path, monkeypatch):
    click_fish(window, window.session.scan.reading.fish[0])
    press(window, Qt.Key.Key_Space)
    out = tmp_path / "out.gpx"
    monkeypatch.setattr(window, "save_path", lambda *a: out)
    window.actions_by_id["file.export"].trigger()
    assert "<wpt" in out.read_text()
    assert "ft down" in out.read_text()
    monkeypatch.setattr(window, "save_path", lambda *a: tmp_path / "no" / "out.gpx")
    window.actions_by_id["file.export"].trigger()
    assert "could not be written" in window.notice.text


def test_units_change_everywhere_at_once(window):
    window.session.display.set_system(System.METRIC)
    assert text_of(window, "read_layer").split()[1] == "m"
    assert "km/h" in window.findChild(QLineEdit, "rig_speed").text()
    window.session.display.set_system(System.NAUTICAL)
    assert "fm" in text_of(window, "bed")


@pytest.mark.parametrize("light", list(Light))
def test_every_light_and_text_size_paints(window, light):
    display = window.session.display
    display.set_light(light)
    for _ in range(6):
        display.step_text_size(1)
    for stage in ("log", "scan"):
        window.session.set_stage(stage)
        assert not window.grab().isNull()
    assert window.width() <= 1700


def test_replay_plays_and_pauses(window, qtbot):
    scan = window.session.scan
    scan.set_cursor(10, 3.0)
    press(window, Qt.Key.Key_P)
    assert scan.replay.on
    qtbot.waitUntil(lambda: scan.cursor.ping > 12, timeout=60_000)
    press(window, Qt.Key.Key_P)
    stopped = scan.cursor.ping
    assert not scan.replay.on
    scan.replay.set(True, 16)
    scan.play_on(1e6)
    assert scan.cursor.ping == len(scan.down) - 1
    assert not scan.replay.on
    assert stopped < len(scan.down) - 1


def test_keys_walk_the_fish_and_the_picture(window):
    scan = window.session.scan
    scan.set_cursor(0, 2.0)
    seen = []
    for _ in range(3):
        press(window, Qt.Key.Key_Period)
        seen.append(scan.chosen)
    assert seen == list(scan.reading.fish)
    press(window, Qt.Key.Key_A)
    whole = scan.view
    press(window, Qt.Key.Key_I)
    assert scan.view.pings < whole.pings
    press(window, Qt.Key.Key_PageDown)
    assert scan.view.first_ping > 0
    ping = scan.cursor.ping
    press(window, Qt.Key.Key_Left)
    assert scan.cursor.ping < ping


def test_the_picture_stays_inside_the_recording(window):
    scan = window.session.scan
    for dx, dy in ((-1e6, -1e6), (1e6, 1e6)):
        scan.pan(dx, dy)
        assert 0 <= scan.view.first_ping < scan.view.last_ping <= len(scan.down)
        assert 0 <= scan.view.top_m < scan.view.base_m <= scan.down.deepest_m + 1e-9
    for factor in (1e-9, 1e9):
        scan.zoom_pings(factor, 100.0)
        scan.zoom_depth(factor, 5.0)
        assert 0 < scan.view.pings <= len(scan.down)


def test_a_bad_file_is_refused_in_one_line_and_what_is_open_stays(window, tmp_path, qtbot):
    bad = tmp_path / "bad.nc"
    bad.write_bytes(b"not a recording")
    before = window.session.scan.recording
    window.open_recording(bad)
    qtbot.waitUntil(lambda: "bad.nc" in window.notice.text)
    assert "\n" not in window.notice.text
    assert window.session.scan.recording is before
    assert len(window.session.scan.reading.fish) == 3


def test_without_a_log_marking_says_why(opened, pass_file, tmp_path, qtbot):
    folder = tmp_path / "blocked"
    folder.mkdir()
    (folder / "log.db").mkdir()
    from plumbbob.desk.app import open_window

    window = open_window(folder, pass_file)
    qtbot.addWidget(window)
    qtbot.waitUntil(lambda: window.session.scan.document.is_read and not window.session.jobs.live, timeout=60_000)
    window.session.scan.choose_next(1)
    window.actions_by_id["mark.mark"].trigger()
    assert "Nothing was saved" in window.notice.text
    window.close()


def test_a_window_without_a_recording_waits_for_one(opened):
    window = opened(None)
    assert not window.grab().isNull()
    for name in ("mark.mark", "picture.replay", "picture.all"):
        assert not window.actions_by_id[name].isEnabled()
    window.session.rig.drag_to(5.0)
    assert text_of(window, "rig_answer").endswith("wire out")


def test_reading_can_be_stopped(opened, pass_file, qtbot):
    window = opened(None)
    window.open_recording(pass_file)
    window.session.jobs.changed.connect(lambda: window.actions_by_id["file.stop"].trigger())
    qtbot.waitUntil(lambda: not window.session.jobs.live, timeout=60_000)
    assert not window.session.scan.document.is_read


@pytest.fixture(scope="module")
def screen():
    """A screen of its own, as X sees it."""
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", "1", "-screen", "0", "1600x1000x24", "-nolisten", "tcp"],
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
    )
    assert server.stdout is not None
    yield {"DISPLAY": f":{server.stdout.readline().strip()}", "QT_QPA_PLATFORM": "xcb"}
    server.terminate()
    server.wait()


def test_killing_the_window_right_after_space_loses_nothing(pass_file, tmp_path, screen):
    """A real process with the real window; Space is pressed and the process is gone before the key returns."""
    script = textwrap.dedent(
        """
        import os, signal, sys
        from pathlib import Path
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from plumbbob.desk.app import make_application, open_window
        app = make_application()
        window = open_window(Path(sys.argv[2]), Path(sys.argv[1]))
        while not (window.session.logbook.is_open and window.session.scan.document.is_read):
            app.processEvents()
        window.session.said.connect(lambda line, wrong: os.kill(os.getpid(), signal.SIGKILL))
        window.session.scan.choose_next(1)
        window.activateWindow()
        QTest.qWaitForWindowActive(window, 10_000)
        QTest.keyClick(window, Qt.Key.Key_Space)
        """
    )
    done = subprocess.run(
        [sys.executable, "-c", script, str(pass_file), str(tmp_path)],
        env={**os.environ, **screen},
        capture_output=True,
        check=False,
        timeout=60,
    )
    assert done.returncode == -signal.SIGKILL, done.stderr
    from plumbbob.store.opening import open_log

    log = open_log(tmp_path / "log.db").log
    assert [m.kind.value for m in log.marks()] == ["fish"]
    log.close()


def test_headless_reading_and_its_refusals(pass_file, tmp_path):
    command = [os.path.join(os.path.dirname(sys.executable), "plumbbob"), "scan"]
    done = subprocess.run([*command, str(pass_file), "--json"], capture_output=True, text=True, check=True)
    assert len(json.loads(done.stdout)["fish"]) == 3
    bad = tmp_path / "bad.nc"
    bad.write_bytes(b"nonsense")
    for path in (bad, tmp_path / "nowhere.nc"):
        done = subprocess.run([*command, str(path), "--json"], capture_output=True, text=True, check=False)
        assert done.returncode == 2
        assert done.stdout == ""
        assert len(done.stderr.strip().splitlines()) == 1
        assert path.name in done.stderr


def test_the_bottom_is_drawn_where_it_was_read(window):
    scan = window.session.scan
    scan.set_view(type(scan.view)(50.0, 450.0, 0.0, 18.0))
    picture = window.picture("down").grab().toImage()
    ink = QColor(window.session.display.theme.ink).rgb()
    for ping in (120, 260, 400):
        x, y = (
            int(window.picture("down").x_of(ping)),
            window.picture("down").y_of(float(scan.reading.bottom.depth_m[ping])),
        )
        rows = [row for row in range(int(y) - 12, int(y) + 13) if picture.pixel(x, row) == ink]
        assert rows
        assert min(abs(row - y) for row in rows) <= 3


def test_the_plumb_line_is_level_with_the_picture(window):
    line = window.findChild(PlumbLine)
    for top, base in ((0.0, 18.0), (4.0, 9.0)):
        window.session.scan.set_view(type(window.session.scan.view)(0.0, 400.0, top, base))
        for depth in (5.0, 8.0):
            here = window.picture("down").mapTo(window, QPoint(0, round(window.picture("down").y_of(depth)))).y()
            there = line.mapTo(window, QPoint(0, round(line.y_of(depth)))).y()
            assert abs(here - there) <= 1


def test_the_depth_window_is_dragged_beside_the_scale(window):
    line = window.findChild(PlumbLine)
    QTest.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(20, int(line.y_of(6.0))))
    QTest.mouseMove(line, QPoint(20, int(line.y_of(9.0))))
    QTest.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(20, int(line.y_of(9.0))))
    assert window.session.rig.window == (pytest.approx(6.0, abs=0.1), pytest.approx(9.0, abs=0.1))
    press(window, Qt.Key.Key_W)
    bob = window.session.rig.bob_m
    assert window.session.rig.window == (max(bob - 1.5, 0.0), bob + 1.5)
    press(window, Qt.Key.Key_W)
    assert window.session.rig.window is None


def test_dragging_the_picture_moves_it_and_the_wheel_zooms(window):
    scan = window.session.scan
    scan.set_view(type(scan.view)(100.0, 300.0, 2.0, 12.0))
    before = scan.view
    QTest.mousePress(window.picture("down"), Qt.MouseButton.LeftButton, pos=QPoint(400, 300))
    QTest.mouseMove(window.picture("down"), QPoint(340, 280))
    QTest.mouseRelease(window.picture("down"), Qt.MouseButton.LeftButton, pos=QPoint(340, 280))
    assert scan.view.first_ping > before.first_ping
    assert scan.view.top_m > before.top_m
    assert scan.chosen is None
    timeline = window.findChild(object, "timeline")
    QTest.mouseClick(timeline, Qt.MouseButton.LeftButton, pos=QPoint(timeline.width() - 5, 40))
    assert scan.view.last_ping == len(scan.down)


def test_the_chosen_mark_takes_the_plumb_line_along_in_the_log(window):
    fish = window.session.scan.reading.fish
    for one in (fish[0], fish[2]):
        window.session.scan.choose(one)
        press(window, Qt.Key.Key_Space)
    window.session.set_stage("log")
    first = window.session.logbook.marks[0]
    window.session.logbook.choose(first.id)
    assert window.session.scan.time == pytest.approx(first.time, abs=0.1)
    press(window, Qt.Key.Key_Delete)
    assert len(window.session.logbook.marks) == 1


def test_a_wrong_length_is_said_and_the_form_stays(window, qtbot):
    click_fish(window, window.session.scan.reading.fish[0])
    press(window, Qt.Key.Key_C)
    length = window.findChild(QLineEdit, "catch_length")
    qtbot.keyClicks(length, "huge")
    QTest.keyClick(length, Qt.Key.Key_Return)
    assert "not a number" in window.notice.text
    assert window.catch_form.isVisible()
    assert window.session.logbook.catches == ()
