"""The Rig stage in the real window: rods in hand, lures dragged, notes, turns, the way over the bottom, files."""

from __future__ import annotations

import json
import math
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QSettings, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit

from plumbbob.core.rig import tackle
from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.core.rig.methods import run
from plumbbob.core.rig.rod import CannotReach, Method, RigAnswer, RigSettings, default_setup
from plumbbob.core.units import Kind
from plumbbob.desk.models.kept_rods import MOST_RODS, RodSetup
from plumbbob.desk.models.lines_model import Manoeuvre
from plumbbob.desk.models.notes import saved_note
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.theme import Light
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.desk.views.rig.along_track import AlongTrackPicture
from plumbbob.desk.views.rig.depth_time import DepthTimePicture
from plumbbob.desk.views.rig.picture import SpreadPicture
from plumbbob.desk.views.rig.way_list import WayList
from plumbbob.desk.views.rig.words import mark_lines
from plumbbob.formats.tackle_csv import read_tackle
from tests.desk.conftest import click_at, press

K = Qt.Key


@pytest.fixture
def window(opened, pass_file, qtbot, request):
    """Most of what rods do needs no pass, and comes without one."""
    made = opened(pass_file if hasattr(request, "param") else None)
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    return made


over_a_pass = pytest.mark.parametrize("window", ["pass"], indirect=True)


@pytest.fixture
def rigged(window):
    """The window in Rig with two towed rods, the first in hand."""
    window.session.set_stage("rig")
    ball = RigSettings()
    clip = replace(default_setup(ball, Method.CLIP), aside_m=1.5)
    window.session.rig.set_all((RodSetup(ball, 6.0), RodSetup(clip, 2.5)), 0)
    return window


def text(window, name):
    return window.findChild(QLabel, name).text()


def type_in(window, name, words):
    field = window.findChild(QLineEdit, name)
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, K.Key_Return)


def spread(window) -> SpreadPicture:
    return window.findChild(SpreadPicture)


def inked(image: QImage) -> int:
    """How many colours a picture has: an empty pane has few."""
    return len({image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 5)})


def test_rig_is_the_third_stage_and_its_picture_shows_the_rods(rigged):
    press(rigged, K.Key_2)
    press(rigged, K.Key_3)
    assert rigged.session.stage == "rig"
    assert spread(rigged).isVisible()
    assert inked(spread(rigged).grab().toImage()) > 8
    assert text(rigged, "spread_answer").endswith("wire out")
    for light in Light:
        rigged.session.display.set_light(light)
        assert inked(spread(rigged).grab().toImage()) > 8
    press(rigged, K.Key_V)
    assert inked(spread(rigged).grab().toImage()) > 5


def test_dragging_a_lure_solves_its_rod_and_moves_the_bob(rigged):
    picture, rig = spread(rigged), rigged.session.rig
    line = rigged.findChild(PlumbLine)
    at = picture.lure_at(1).toPoint()
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=at)
    assert rig.chosen == 1
    before = rig.answer.value
    deeper = at + QPoint(0, 20)
    QTest.mouseMove(picture, deeper)
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=deeper)
    assert rig.bob_m > 2.6
    assert rig.answer.value > before
    # level with the plumb line beside it
    assert line.y_of(rig.bob_m) == pytest.approx(picture.lure_at(1).y(), abs=1.5)


@over_a_pass
def test_the_bob_moves_the_rod_from_any_stage(rigged):
    rig = rigged.session.rig
    for stage in ("water", "scan", "rig", "log"):
        rigged.session.set_stage(stage)
        line = rigged.findChild(PlumbLine)
        wanted = 4.0 if rig.bob_m > 5 else 7.0
        QTest.mousePress(line, Qt.MouseButton.LeftButton, pos=QPoint(90, int(line.y_of(rig.bob_m))))
        QTest.mouseMove(line, QPoint(90, int(line.y_of(wanted))))
        QTest.mouseRelease(line, Qt.MouseButton.LeftButton, pos=QPoint(90, int(line.y_of(wanted))))
        assert rig.bob_m == pytest.approx(wanted, abs=0.2)
        assert isinstance(rig.answer, RigAnswer)
        assert rig.answer.depth_m == pytest.approx(rig.bob_m)


def test_a_click_on_another_bob_or_card_takes_its_rod_in_hand(rigged):
    rig, line = rigged.session.rig, rigged.findChild(PlumbLine)
    click_at(line, QPoint(66, int(line.y_of(2.5))))
    assert rig.chosen == 1
    click_at(rigged.findChild(object, "rodlist"), QPoint(60, 10))
    assert rig.chosen == 0
    press(rigged, K.Key_Period)
    assert rig.chosen == 1


def test_the_boats_speed_is_that_of_all_towed_rods(rigged):
    rig = rigged.session.rig
    type_in(rigged, "spread_speed", "3 mph")
    assert [s.rod.speed_mps for s in rig.sets] == pytest.approx([1.341, 1.341], abs=0.01)
    rig.set(method=Method.JIG)
    assert rig.sets[0].rod.speed_mps < 0.5
    assert rig.sets[1].rod.speed_mps == pytest.approx(1.341, abs=0.01)


def test_rods_come_go_and_come_back(rigged):
    rig = rigged.session.rig
    press(rigged, K.Key_D)
    assert len(rig.sets) == 3
    assert rig.chosen == 2
    press(rigged, K.Key_X)
    assert len(rig.sets) == 2
    press(rigged, K.Key_Z)
    press(rigged, K.Key_Z)
    assert len(rig.sets) == 2
    press(rigged, K.Key_Z, Qt.KeyboardModifier.ShiftModifier)
    assert len(rig.sets) == 3
    for _ in range(MOST_RODS + 2):
        press(rigged, K.Key_D)
    assert len(rig.sets) == MOST_RODS


def test_the_way_and_the_lure_are_picked_in_the_panel(rigged):
    rig = rigged.session.rig
    box = rigged.findChild(QComboBox, "rod_method")
    box.setCurrentIndex(list(Method).index(Method.DIVER))
    assert rig.settings.method is Method.DIVER
    lures = rigged.findChild(QComboBox, "rod_lure")
    lures.activated.emit(lures.findText("spoon 18 g"))
    assert rig.settings.lure is tackle.SPOON


@pytest.mark.parametrize("method", list(Method))
def test_every_way_is_drawn_and_worded_without_nan(rigged, method):
    rig = rigged.session.rig
    rig.set(method=method)
    for depth in (3.0, 45.0):
        rig.drag_to(depth)
        spread(rigged).grab()
        said = " ".join(label.text() for label in rigged.findChildren(QLabel) if label.isVisible())
        assert "nan" not in said.lower()
        assert "inf" not in said.lower().replace("information", "")
    if isinstance(rig.answer, CannotReach):
        assert "can't be had" in text(rigged, "spread_answer")
        assert "Nearest" in text(rigged, "spread_more")


def test_line_in_depth_out(rigged):
    press(rigged, K.Key_E)
    type_in(rigged, "rod_out", "9 m")
    rig = rigged.session.rig
    assert rig.answer.value == pytest.approx(9.0, abs=0.05)
    assert text(rigged, "rod_depth").startswith("runs at")
    type_in(rigged, "rod_lead_m", "5 m")
    assert rig.settings.lead_m == pytest.approx(5.0)
    type_in(rigged, "rod_lead_m", "500 m")
    assert rigged.notice.text == "Release to lure: 0 to 328 ft is possible."
    assert rig.settings.lead_m == pytest.approx(5.0)
    type_in(rigged, "rod_current_1", "-0.3 m/s")
    assert rig.settings.current[1][1] == pytest.approx(-0.3)
    type_in(rigged, "rod_current_1", "999999")
    assert rigged.notice.text == "A current of at most 13.4 mph either way is possible."
    assert rig.settings.current[1][1] == pytest.approx(-0.3)
    type_in(rigged, "rod_current_1", "0")
    assert rig.settings.current == ()


def test_a_note_tunes_the_tackle_and_is_taken_back(rigged, qtbot):
    rig, book = rigged.session.rig, rigged.session.logbook
    rig.choose(1)
    before = rig.answer
    press(rigged, K.Key_G)
    type_in(rigged, "note_depth", "2.8 m")
    type_in(rigged, "note_out", f"{before.value:.2f} m")
    rigged.findChild(QComboBox, "note_told").setCurrentIndex(list(Told).index(Told.AT))
    rigged.findChild(object, "sheet_note_go").click()
    assert len(book.notes) == 1
    assert rigged.session.sheet == ""
    qtbot.waitUntil(lambda: rig.answer.value < before.value)
    assert rig.answer.depth_sd_m < before.depth_sd_m
    assert "deeper than the catalogue" in text(rigged, "notes_words")
    press(rigged, K.Key_Z)
    assert book.notes == ()
    assert rig.answer.value == pytest.approx(before.value)
    assert "None yet" in text(rigged, "notes_words")


def test_a_note_without_numbers_is_refused_in_one_line(rigged):
    press(rigged, K.Key_G)
    type_in(rigged, "note_depth", "deep")
    assert "not a number" in rigged.notice.text
    rigged.findChild(QLineEdit, "note_depth").clear()
    rigged.findChild(QLineEdit, "note_depth").setModified(True)
    rigged.findChild(QLineEdit, "note_depth").editingFinished.emit()
    rigged.findChild(object, "sheet_note_go").click()
    assert rigged.session.logbook.notes == ()


def test_many_notes_are_fitted_in_the_background(rigged, qtbot):
    rig, book = rigged.session.rig, rigged.session.logbook
    note = RigNote(rod=rig.settings, told=Told.AT, depth_m=6.0, value=6.2, time=1.0)
    book.begin_with([saved_note(replace(note, depth_m=6.0 + 0.01 * i)) for i in range(12)])
    qtbot.waitUntil(lambda: len(rig.calibration.judged) == 12, timeout=60_000)
    assert rig.answer.depth_sd_m < 0.3


def test_contradicting_notes_are_shown(rigged, qtbot):
    rig = rigged.session.rig
    for count, depth in enumerate((6.0, 6.1, 11.0), 1):
        assert rigged.tasks.rigger.save_note(RigNote(rod=rig.settings, told=Told.AT, depth_m=depth, value=6.2))
        qtbot.waitUntil(lambda count=count: len(rig.calibration.judged) == count)
        assert ("contradicts" in rigged.notice.text) is (count == 3)
    assert "say otherwise" in text(rigged, "notes_words")
    press(rigged, K.Key_G)
    bad = rig.calibration.contradictions[0].note
    rigged.findChild(object, f"note_drop_{bad.id}").click()
    qtbot.waitUntil(lambda: not rig.calibration.contradictions)


def test_a_turn_is_followed_and_told(rigged, qtbot):
    boat = rigged.session.lines
    press(rigged, K.Key_T)
    qtbot.waitUntil(lambda: boat.run is not None and not rigged.session.jobs.live, timeout=60_000)
    assert boat.frame is not None
    said = text(rigged, "turn_words").splitlines()
    assert said[0].startswith("1 ")
    assert said[1].startswith("2 ")
    assert "apart" in said[2] or "within" in said[2]
    course = rigged.findChild(DepthTimePicture)
    assert course.isVisible()
    click_at(course, QPoint(course.width() // 2, 60))
    middle = boat.frame
    assert middle == pytest.approx(len(boat.run.time) / 2, rel=0.1)
    assert not rigged.tasks.rigger.is_playing
    assert inked(course.grab().toImage()) > 6
    spread(rigged).grab()
    press(rigged, K.Key_Escape)
    assert boat.frame is None
    assert not course.isVisible()
    press(rigged, K.Key_T, Qt.KeyboardModifier.ShiftModifier)
    assert boat.frame == 0
    rigged.session.rig.choose(1)
    assert boat.run is not None
    rigged.session.rig.drag_to(2.2)
    assert boat.run is None
    rigged.session.rig.set(speed_mps=0.0)
    press(rigged, K.Key_T)
    assert "does not move" in rigged.notice.text


@over_a_pass
def test_the_way_ahead_is_followed_over_the_pass(rigged, qtbot):
    session = rigged.session
    assert session.lines.ground.of_pass
    session.move_boat(5.0)
    rigged.tasks.rigger.follow(Manoeuvre.LANE)
    qtbot.waitUntil(lambda: session.lines.run is not None and not session.jobs.live, timeout=60_000)
    room = session.lines.run.lines[0].room_m
    assert np.isfinite(room).any()
    session.move_boat(session.lines.ground.length_m)
    rigged.tasks.rigger.follow(Manoeuvre.LANE)
    assert "No way lies ahead" in rigged.notice.text


@over_a_pass
def test_the_boat_goes_over_the_pass_and_the_cursor_with_it(rigged):
    session = rigged.session
    over = rigged.findChild(AlongTrackPicture)
    click_at(over, QPoint(over.width() // 2, over.height() - 40))
    middle = session.lines.boat_m
    assert middle == pytest.approx(session.lines.ground.length_m / 2, rel=0.1)
    press(rigged, K.Key_Right)
    assert session.lines.boat_m > middle
    session.scan.set_cursor(0, 3.0)
    assert session.lines.boat_m == pytest.approx(0.0, abs=3.0)
    before = session.lines.boat_m
    picture = spread(rigged)
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=QPoint(300, 500))
    QTest.mouseMove(picture, QPoint(200, 500))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=QPoint(200, 500))
    assert session.lines.boat_m > before


@over_a_pass
def test_a_lure_that_would_drag_is_told_with_what_to_do(rigged):
    session = rigged.session
    deepest = float(np.nanmax(session.lines.ground.bottom_m))
    session.rig.drag_to(deepest - 0.3)
    found = rigged.findChild(AlongTrackPicture).passage
    assert found.stretches
    assert found.stretches[0].change_m < 0
    assert inked(rigged.findChild(AlongTrackPicture).grab().toImage()) > 8
    session.rig.set(method=Method.CAST)
    assert rigged.findChild(AlongTrackPicture).passage is None


@over_a_pass
def test_a_mark_the_boat_has_passed_counts_down_to_the_lure(rigged):
    session = rigged.session
    session.rig.set(speed_mps=0.5)
    session.move_boat(20.0)
    press(rigged, K.Key_Space)
    (mark,) = session.logbook.marks
    session.move_boat(22.0)
    lines = mark_lines(session)
    assert lines
    assert mark.kind.value in lines[0]
    assert " s" in lines[0]
    session.move_boat(0.0)
    assert not mark_lines(session)


@over_a_pass
def test_hanging_it_for_a_fish_says_why(rigged, qtbot):
    session = rigged.session
    press(rigged, K.Key_H)
    assert "Pick a fish" in rigged.notice.text
    fish = session.scan.reading.fish[0]
    session.scan.choose(fish)
    press(rigged, K.Key_H)
    assert session.rig.target_m == pytest.approx(fish.depth_m)
    assert session.rig.bob_m <= fish.depth_m
    assert "over the fish" in rigged.notice.text
    press(rigged, K.Key_J)
    assert "over the fish" in text(rigged, "advice_hang")
    assert "own depth" in text(rigged, "advice_hang")
    ways = rigged.findChild(WayList)
    qtbot.waitUntil(lambda: any(row.startswith("Downrigger: ") for row in ways.rows()))
    fit = [", " in row and ": no, " not in row for row in ways.rows()]
    assert fit == sorted(fit, reverse=True)  # what reaches it comes first
    assert "Light" in text(rigged, "advice_texts")


def test_tables_and_tackle_go_to_files_and_back(rigged, tmp_path):
    rigger, rig = rigged.tasks.rigger, rigged.session.rig
    press(rigged, K.Key_K)
    shown = [label.text() for label in rigged.findChild(object, "sheet_tables").findChildren(QLabel)]
    assert any("Downrigger" in words for words in shown)
    rigger.write_tables(tmp_path / "t.csv")
    rows = (tmp_path / "t.csv").read_text().splitlines()
    assert rows[0].startswith("rod,method")
    assert len(rows) == 1 + 2 * 7 * 5
    rigger.write_box(tmp_path / "box.csv")
    box, _ = read_tackle(tmp_path / "box.csv")
    assert box == rig.box
    (tmp_path / "mine.csv").write_text("kind,name,weight_n,drag_area_m2\nlure,mine,0.2,0.0004\nlure,bad,x,1\n")
    rigger.read_box(tmp_path / "mine.csv")
    assert [lure.name for lure in rig.box.lures] == ["mine"]
    assert "left out" in rigged.notice.text
    press(rigged, K.Key_Z)
    assert len(rig.box.lures) > 1
    (tmp_path / "mine.csv").write_text("nothing\n")
    rigger.read_box(tmp_path / "mine.csv")
    assert "Not taken" in rigged.notice.text
    assert len(rig.box.lures) > 1
    rigger.write_box(tmp_path / "none" / "box.csv")
    assert "could not be written" in rigged.notice.text


@over_a_pass
def test_the_note_asks_for_what_most_likely_told(rigged):
    session = rigged.session
    press(rigged, K.Key_G)
    told = rigged.findChild(QComboBox, "note_told")
    assert told.currentText() == "Ran at"
    press(rigged, K.Key_Escape)
    session.rig.drag_to(session.lines.bottom_m - 0.5)
    press(rigged, K.Key_G)
    assert told.currentText() == "Touched bottom"
    shown = rigged.findChild(QLineEdit, "note_depth").text()
    assert shown == session.display.words(session.lines.bottom_m, Kind.DEPTH)


def test_from_above_a_line_longer_than_the_turn_is_told(rigged):
    session = rigged.session
    press(rigged, K.Key_V)
    pictures = []
    for radius in (8.0, 200.0):
        session.lines.set_turn_radius(radius)
        pictures.append(spread(rigged).grab().toImage())
    assert pictures[0] != pictures[1]
    type_in(rigged, "turn_radius", "30 m")
    assert session.lines.turn_radius_m == pytest.approx(30.0)


def test_depths_may_fill_the_picture(rigged):
    picture = spread(rigged)
    across, down = picture.across_px, picture.down_px
    assert across == down
    press(rigged, K.Key_A)
    assert picture.down_px >= down
    assert picture.across_px == across
    line, rig = rigged.findChild(PlumbLine), rigged.session.rig
    assert line.y_of(rig.bob_m) == pytest.approx(picture.lure_at(0).y(), abs=1.5)


@over_a_pass
def test_each_family_says_what_helps_it(rigged):
    session = rigged.session
    session.rig.set(method=Method.JIG)
    assert session.rig.settings.speed_mps == 0.0  # still water, until a drift is set
    session.rig.set(speed_mps=0.25)
    session.rig.drag_to(5.0)
    assert " g at the end keep the line within 30°" in text(rigged, "spread_care")
    session.rig.set(method=Method.ICE)
    assert "never go below them" in text(rigged, "spread_more")
    assert "No ice is certain" in text(rigged, "spread_care")
    session.rig.set(method=Method.WALKER)
    session.rig.drag_to(2.0)
    assert "off the bottom" in text(rigged, "spread_care")
    session.rig.set(method=Method.CAST)
    assert "on a tight line it would take" in text(rigged, "spread_more")
    assert "reel to hold" in text(rigged, "spread_more")


@over_a_pass
def test_a_lane_on_the_chart_is_the_way_the_boat_goes(rigged, qtbot):
    session = rigged.session
    if session.chart.chart is None:
        qtbot.waitUntil(lambda: session.chart.chart is not None, timeout=60_000)
    frame = session.chart.chart.grid.frame
    middle = (frame.x0_m + frame.nx * frame.cell_m / 2, frame.y0_m + frame.ny * frame.cell_m / 2)
    session.chart.set_drawn(session.chart.line_across((middle[0] - 15, middle[1]), (middle[0] + 15, middle[1])))
    ground = session.lines.ground
    assert not ground.of_pass
    assert ground.length_m == pytest.approx(30.0, abs=1.0)
    session.move_boat(12.0)
    assert session.lines.boat_m == pytest.approx(12.0)
    assert ground.along_of(session.chart.chart.plane.place(middle[0], middle[1])) == pytest.approx(15.0, abs=1.5)
    assert math.isnan(ground.along_of(session.chart.chart.plane.place(middle[0], middle[1] + 500.0)))
    session.chart.set_drawn(None)
    assert session.lines.ground.of_pass


def test_natural_bait_has_a_clock(rigged):
    rig = rigged.session.rig
    assert "ait on" not in text(rigged, "spread_care")
    rig.set(method=Method.WALKER)
    assert "Bait on 1 fresh" in text(rigged, "spread_care")
    press(rigged, K.Key_F, Qt.KeyboardModifier.ShiftModifier)
    assert rigged.session.lines.bait_age_s < 5


def test_rods_are_remembered_and_rubbish_is_not(tmp_path, qapp):
    store = QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)
    rig = RodsModel(store)
    assert rig.is_new
    rig.set_all((RodSetup(RigSettings(), 4.0), RodSetup(default_setup(RigSettings(), Method.CAST), 7.0)), 1)
    rig.keep()
    again = RodsModel(store)
    assert again.sets == rig.sets
    assert again.chosen == 1
    for bad in ("{", json.dumps({"rods": [{"method": "kite"}]}), json.dumps({"rods": []})):
        store.setValue("rods", bad)
        assert RodsModel(store).sets == (RodSetup(RigSettings()),)


def test_the_lure_cast_to_a_fish_is_the_one_tied_on(qapp):
    rig = RodsModel()
    assert rig.cast_lure is tackle.FLUTTER
    rig.set_all(
        (RodSetup(RigSettings()), RodSetup(replace(default_setup(RigSettings(), Method.CAST), lure=tackle.JIG))), 0
    )
    assert rig.cast_lure is tackle.FLUTTER
    rig.choose(1)
    assert rig.cast_lure is tackle.JIG
    rig.choose(0)
    assert rig.let_out(math.nan)
    assert rig.let_out(7.0) == ""
    assert rig.bob_m == pytest.approx(run(rig.settings, 7.0).depth_m)
