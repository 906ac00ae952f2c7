"""On deck in the real window: one key or one press each, on disk at once, one undo, filled in at home."""

from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QPushButton, QWidget

from plumbbob.core.geodesy import Position, bearing_deg, distance_m, offset
from plumbbob.core.live.fixes import Fix
from plumbbob.core.rig.rod import Method
from plumbbob.core.sonar.reading import Bait
from plumbbob.desk.models.question import Question
from plumbbob.desk.theme import Light
from plumbbob.desk.views.deck import words
from plumbbob.desk.views.deck.page import DeckPage
from plumbbob.desk.views.deck.target import TargetButton
from plumbbob.sim.serve import StandIn
from plumbbob.store.opening import open_log
from plumbbob.store.values import MarkKind, MomentKind
from tests.desk.conftest import press
from tests.views import FLOOR_M, sides

FIX = Fix(time=1786785000.0, latitude=44.2048, longitude=-40.0572, speed_mps=1.2, course_deg=90.0, heading_deg=90.0)


@pytest.fixture
def deck(water, tmp_path):
    """The window on deck, a boat heading east."""
    water.session.live.begin(tmp_path / "day.nc")
    water.session.live.take_fix(FIX)
    press(water, Qt.Key.Key_F11)
    assert water.session.view.mode == "deck"
    return water


def page_of(window):
    return window.findChild(DeckPage)


def touch(window, command):
    target = window.findChild(TargetButton, f"target_deck_{command}")
    QTest.mouseClick(target, Qt.MouseButton.LeftButton)


def test_a_key_goes_on_deck_and_back_and_other_keys_are_silent(deck):
    session = deck.session
    page = page_of(deck)
    assert page.isVisible()
    assert not deck.menuBar().isVisible()
    targets = [t for t in page.findChildren(TargetButton) if t.isVisible()]
    assert len(targets) > 20
    assert all(t.width() >= 40 and t.height() >= 40 for t in targets)
    mains = [t for t in targets if t.height() >= 64]
    assert len(mains) >= 10
    press(deck, Qt.Key.Key_5)  # another stage, at the desk
    assert session.view.name == "deck"
    press(deck, Qt.Key.Key_L)
    assert session.display.light in Light
    press(deck, Qt.Key.Key_Escape)
    assert session.view.name == "chart"
    assert deck.menuBar().isVisible()
    press(deck, Qt.Key.Key_4)
    assert session.view.name == "run"  # not on deck again


def test_on_deck_nothing_asks_and_it_comes_back_at_the_desk(deck):
    bar = deck.question
    deck.session.questions.ask(Question("What do you call it?", name="Here"))
    assert not bar.isVisible()
    press(deck, Qt.Key.Key_Escape)
    assert bar.isVisible()
    press(deck, Qt.Key.Key_F11)
    assert not bar.isVisible()


def test_a_press_of_two_seconds_does_it_too(water, qtbot):
    assert water.long_press.hold_ms == 2_000
    water.long_press.hold_ms = 50
    chart = water.picture("chart")
    at = chart.rect().center()
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(chart, at + QPoint(60, 0))
    QTest.qWait(120)
    assert not water.session.view.mode
    QTest.mouseRelease(chart, Qt.MouseButton.LeftButton, pos=at)
    QTest.mousePress(chart, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: water.session.view.mode == "deck", timeout=2_000)


@pytest.mark.parametrize("by_key", [True, False])
def test_marks_by_one_press_and_moved_aside_by_another(deck, by_key):
    session = deck.session
    if by_key:
        press(deck, Qt.Key.Key_3)
    else:
        touch(deck, "hazard")
    mark = session.logbook.marks[-1]
    assert (mark.kind, mark.latitude, mark.longitude) == (MarkKind.HAZARD, FIX.latitude, FIX.longitude)
    if by_key:
        press(deck, Qt.Key.Key_Right)
    else:
        touch(deck, "right")
    moved = session.logbook.marks[-1]
    here, there = FIX.place, Position(moved.latitude, moved.longitude)
    # heading east: right is south
    assert distance_m(here, there) == pytest.approx(10.0, abs=0.1)
    assert bearing_deg(here, there) % 360.0 == pytest.approx(180.0, abs=1.0)
    press(deck, Qt.Key.Key_Z)
    press(deck, Qt.Key.Key_Z)
    assert mark.id not in [m.id for m in session.logbook.marks]


def test_what_happened_is_on_disk_and_filled_in_at_home(deck, tmp_path):
    session = deck.session
    press(deck, Qt.Key.Key_C)
    on_disk = open_log(tmp_path / "data" / "log.db").log
    caught = on_disk.moments()[-1]
    on_disk.close()
    assert caught.kind is MomentKind.CAUGHT
    assert (caught.latitude, caught.time, caught.is_open) == (FIX.latitude, FIX.time, True)
    assert caught.lure_depth_m is not None
    touch(deck, "struck")
    press(deck, Qt.Key.Key_Q)
    touch(deck, "birds_diving")
    kinds = [m.kind for m in session.logbook.moments]
    assert kinds == [MomentKind.CAUGHT, MomentKind.STRUCK, MomentKind.BIRDS_DIVING]
    press(deck, Qt.Key.Key_Z)
    assert len(session.logbook.moments) == 2
    press(deck, Qt.Key.Key_Escape)
    press(deck, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert "Caught at" in deck.findChild(QLabel, "complete_what").text()
    deck.findChild(QComboBox, "complete_species").setEditText("perch")
    QTest.mouseClick(deck.findChild(QPushButton, "sheet_complete_go"), Qt.MouseButton.LeftButton)
    catch = session.logbook.catches[-1]
    assert (catch.species, catch.time, catch.rig) == ("perch", caught.time, caught.rig)
    assert not session.logbook.to_complete
    assert session.sheet == ""
    press(deck, Qt.Key.Key_Z)
    assert not session.logbook.catches
    assert len(session.logbook.to_complete) == 1


def test_spans_begin_and_end(deck):
    session = deck.session
    press(deck, Qt.Key.Key_Y)
    touch(deck, "begin_drift")
    assert "drift ends" in [t.target.words for t in page_of(deck).findChildren(TargetButton)]
    press(deck, Qt.Key.Key_Z)  # taken back it has not begun
    press(deck, Qt.Key.Key_Y)
    touch(deck, "begin_drift")
    press(deck, Qt.Key.Key_Y)
    assert [m.kind for m in session.logbook.moments] == [MomentKind.DRIFT_BEGINS, MomentKind.DRIFT_ENDS]
    assert words.figures(session)[2].value == "0"  # minutes here


def test_another_outing_begins_with_its_clocks_at_nought(deck, tmp_path):
    session = deck.session
    press(deck, Qt.Key.Key_D)
    press(deck, Qt.Key.Key_A)
    assert words.figures(session)[3].value == "0"
    session.live.begin(tmp_path / "next.nc")
    session.live.take_fix(replace(FIX, time=FIX.time - 1e7))
    assert [f.value for f in words.figures(session)[2:4]] == ["–", "–"]


def test_a_lure_is_counted_down_and_lifts_have_a_beat(deck, qtbot, monkeypatch):
    session, played = deck.session, []
    monkeypatch.setattr(deck.tasks.sounds, "play", played.append)
    session.rig.drag_to(0.4)
    press(deck, Qt.Key.Key_V)
    fall = session.deck.fall
    assert fall.seconds > 0.1
    page = page_of(deck)
    qtbot.waitUntil(lambda: page.banner.banner.head == "FALLING", timeout=1_000)
    qtbot.waitUntil(lambda: session.deck.fall is None, timeout=8_000)
    assert played[-1] == "there"
    press(deck, Qt.Key.Key_U)
    qtbot.waitUntil(lambda: page.banner.banner.head == "LIFT" or "lift" in played, timeout=2_000)
    press(deck, Qt.Key.Key_U)
    assert session.deck.pump is None


def test_a_count_that_ran_out_at_the_desk_is_not_told_late(deck, monkeypatch):
    played = []
    monkeypatch.setattr(deck.tasks.sounds, "play", played.append)
    deck.session.rig.drag_to(0.3)
    press(deck, Qt.Key.Key_V)
    seconds = deck.session.deck.fall.seconds
    press(deck, Qt.Key.Key_Escape)
    QTest.qWait(round(1000 * seconds) + 100)
    press(deck, Qt.Key.Key_F11)
    QTest.qWait(300)
    assert deck.session.deck.fall is None
    assert "there" not in played


def test_a_remote_is_taught_and_obeyed(deck):
    session = deck.session
    press(deck, Qt.Key.Key_K)
    press(deck, Qt.Key.Key_F7)
    touch(deck, "bait")
    before = len(session.logbook.marks)
    press(deck, Qt.Key.Key_F7)
    assert len(session.logbook.marks) == before + 1
    assert session.logbook.marks[-1].kind is MarkKind.BAIT


def test_a_cast_to_a_mark_is_worked_out_from_the_boats_place_now(deck, qtbot):
    session = deck.session
    press(deck, Qt.Key.Key_M)
    assert not session.deck.aiming  # there is nothing to cast to
    press(deck, Qt.Key.Key_Space)
    mark = session.logbook.marks[-1]
    session.logbook.change_mark(replace(mark, depth_m=3.0))
    session.rig.set(method=Method.CAST)
    # ten metres on, heading north: it lies behind to the left
    latitude, longitude = offset(FIX.latitude, FIX.longitude, 10.0, 10.0)
    still = {"speed_mps": 0.0, "heading_deg": 0.0}
    session.live.take_fix(replace(FIX, latitude=float(latitude), longitude=float(longitude), **still))
    press(deck, Qt.Key.Key_M)
    banner = page_of(deck).banner
    qtbot.waitUntil(lambda: banner.banner.head in ("IN REACH", "NO CAST"), timeout=2_000)
    assert "135° left of the bow" in banner.banner.words
    assert banner.banner.head == "IN REACH"
    latitude, longitude = offset(FIX.latitude, FIX.longitude, 0.0, 70.0)
    session.live.take_fix(replace(FIX, latitude=float(latitude), longitude=float(longitude), **still))
    qtbot.waitUntil(lambda: banner.banner.head == "NOT IN REACH", timeout=2_000)
    assert "nearer" in banner.banner.words
    assert page_of(deck).grab().toImage().width() > 0
    press(deck, Qt.Key.Key_Escape)
    assert deck.picture("chart").grab().toImage().width() > 0


def test_settings_hold_sounds_bait_and_the_remote(deck):
    session = deck.session
    press(deck, Qt.Key.Key_Escape)
    press(deck, Qt.Key.Key_F12)
    sounds, bait = deck.findChild(QCheckBox, "settings_sounds"), deck.findChild(QComboBox, "settings_bait")
    assert sounds.isChecked()
    sounds.click()
    assert not session.deck.sounds
    bait.setCurrentIndex(1)
    bait.activated.emit(1)
    assert session.deck.bait is not None
    QTest.mouseClick(deck.findChild(QPushButton, "settings_teach"), Qt.MouseButton.LeftButton)
    assert session.view.mode == "deck"
    press(deck, Qt.Key.Key_F8)
    touch(deck, "seen")
    assert session.deck.remote[int(Qt.Key.Key_F8)] == "deck.seen"
    press(deck, Qt.Key.Key_F8)
    assert session.logbook.moments[-1].kind is MomentKind.SEEN
    session.deck.set_bait(None)
    session.deck.set_sounds(True)


def test_on_a_lane_the_next_shoal_and_the_way_off_it_are_told(deck):
    session, chart = deck.session, deck.session.chart
    assert words.lane_words(session) == ""
    hump = next(f for f in chart.chart.features if f.kind == "hump")
    line = chart.line_across((hump.x - 90.0, hump.y), (hump.x + 90.0, hump.y))
    chart.set_drawn(line)
    place = chart.chart.plane.place(float(line.line[5, 0]), float(line.line[5, 1]) - 12.0)
    session.live.take_fix(replace(FIX, latitude=place.latitude, longitude=place.longitude, speed_mps=1.5))
    on = session.lane.now()
    assert on.off_m == pytest.approx(12.0, abs=0.3)  # to the east: south of it is right
    assert on.left_m == pytest.approx(float(line.along_m[-1] - line.along_m[5]), abs=1.0)
    # a lure that runs deeper than the hump's top comes to ground there
    session.rig.drag_to(hump.depth_top_m + 0.5)
    trouble = session.lane.now().trouble
    assert trouble.from_m < 90.0 < trouble.to_m
    assert session.lane.now().in_s == pytest.approx((trouble.begin_boat_m - on.along_m) / 1.5, abs=0.5)
    assert "12 m right of the lane" in words.lane_words(session) or "ft right" in words.lane_words(session)
    assert words.lane_words(session).startswith("Take in")
    session.rig.drag_to(hump.depth_top_m - 3.0)
    assert "runs clear to its end" in words.lane_words(session)
    chart.set_drawn(None)


def test_bait_has_a_clock(deck):
    session = deck.session
    assert words.figures(session)[4].value == "none"
    press(deck, Qt.Key.Key_N)
    kind = session.deck.bait
    assert kind is not None
    assert words.figures(session)[4].value == "fresh?"
    press(deck, Qt.Key.Key_B)
    left = float(words.figures(session)[4].value)
    session.live.take_fix(replace(FIX, time=FIX.time + 300.0))
    assert float(words.figures(session)[4].value) == pytest.approx(left - 5.0)
    press(deck, Qt.Key.Key_D)
    assert "torn" in words.figures(session)[4].title
    press(deck, Qt.Key.Key_Z)
    assert "torn" not in words.figures(session)[4].title
    press(deck, Qt.Key.Key_D)
    press(deck, Qt.Key.Key_B)
    assert float(words.figures(session)[4].value) == pytest.approx(left)
    while session.deck.bait is not None:
        press(deck, Qt.Key.Key_N)


def test_cautions_come_and_are_put_away(deck):
    session = deck.session
    session.conditions.set_number("wind_mps", 12.0)
    session.live.take_fix(replace(FIX, temperature_c=6.0))
    assert "too much for this craft" in words.care_words(session)
    press(deck, Qt.Key.Key_I)
    assert "jacket" in words.care_words(session).lower()
    QTest.mouseClick(deck.findChild(QWidget, "deck_care"), Qt.MouseButton.LeftButton)
    assert "Water" not in words.care_words(session)


def test_live_on_deck_signals_what_enters_once(water, qtbot, monkeypatch):
    stand_in = StandIn([sides()], speed=4.0)
    stand_in.start()
    played = []
    monkeypatch.setattr(water.tasks.sounds, "play", played.append)
    wires = [(k, f"tcp://127.0.0.1:{stand_in.ports[w].number}") for k, w in (("nmea", "nmea"), ("pings", "down"))]
    water.tasks.listener.begin(wires)
    session, scan = water.session, water.session.scan
    session.rig.set_window(None)
    press(water, Qt.Key.Key_F11)
    qtbot.waitUntil(lambda: scan.is_live and scan.document.is_read, timeout=20_000)
    page = page_of(water)
    qtbot.waitUntil(lambda: page.strip.is_painted, timeout=5_000)
    assert session.view.bottom_m == pytest.approx(FLOOR_M, abs=0.3)
    assert words.figures(session)[1].value != "–"
    now = float(scan.lead.time[-1])
    place = session.view.place
    school = Bait(
        time_start=now - 2.0,
        time_end=now,
        depth_top_m=3.0,
        depth_bottom_m=5.0,
        latitude=place.latitude,
        longitude=place.longitude,
        level_db=20.0,
    )
    scan.take_growing(replace(scan.reading, bait=(school,), fish=()), now - 6.0, long=False)
    assert page.banner.banner.head in ("DROP NOW", "TOO LATE FOR A DROP", "BAIT UNDER THE BOAT")
    first = played.count("drop") + played.count("time")
    assert first == 1
    scan.take_growing(replace(scan.reading, bait=(school,), fish=()), now - 6.0, long=False)
    assert played.count("drop") + played.count("time") == 1
    # a picture and the last minute of pings
    press(water, Qt.Key.Key_P)
    folder = session.live.recording.parent
    qtbot.waitUntil(lambda: len(list(folder.glob("snapshot*.nc"))) == 1, timeout=10_000)
    assert len(list(folder.glob("snapshot*.png"))) == 1
    water.tasks.listener.end()
    qtbot.waitUntil(lambda: not session.live.is_on, timeout=15_000)
    stand_in.stop()


def choose(window, *titles):
    """A command from the menus, by the mouse."""
    bar = window.menuBar()
    action = next(a for a in bar.actions() if a.text() == titles[0])
    QTest.mouseClick(bar, Qt.MouseButton.LeftButton, pos=bar.actionGeometry(action).center())
    menu = action.menu()
    for title in titles[1:]:
        action = next(a for a in menu.actions() if a.text() == title)
        assert action.isEnabled()
        QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
        menu = action.menu() or menu
    QTest.qWait(30)


def test_an_outing_is_lived_through_by_mouse_alone(water, qtbot):
    session = water.session
    choose(water, "Run", "Join a made-up boat")
    qtbot.waitUntil(lambda: session.live.fix is not None and session.scan.is_live, timeout=30_000)
    choose(water, "Run", "On deck: few large targets")
    assert session.view.mode == "deck"
    for command in ("fish", "seen", "caught", "hazard"):
        touch(water, command)
    undo = water.findChild(TargetButton, "target_mark_undo")
    QTest.qWait(30)
    QTest.mouseClick(undo, Qt.MouseButton.LeftButton)
    touch(water, "desk")
    QTest.qWait(30)
    assert not session.view.mode
    assert [m.kind for m in session.logbook.marks] == [MarkKind.FISH]
    choose(water, "Mark", "To complete …")
    QTest.mouseClick(water.findChild(QPushButton, "sheet_complete_go"), Qt.MouseButton.LeftButton)
    assert len(session.logbook.catches) == 1
    choose(water, "Run", "Join a made-up boat")
    qtbot.waitUntil(lambda: not session.live.is_on, timeout=15_000)
    assert session.live.recording.is_file()
