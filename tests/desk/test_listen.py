"""Listening in the real window: a made-up boat over real sockets, addresses typed, states in words, kept."""

import time
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton

from plumbbob.core.geodesy import distance_m
from plumbbob.core.live.fixes import Fix
from plumbbob.desk.tasks import follow_live, grow_chart, listen
from plumbbob.desk.views.shared.listen_sheet import ListenSheet, source_words
from plumbbob.formats.recording import read_recording
from plumbbob.sim.serve import StandIn
from tests.desk.conftest import press
from tests.views import FLOOR_M, sides

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def stand_in():
    made = StandIn([sides()], speed=4.0)
    made.start()
    yield made
    made.stop()


def listening(window, qtbot, fixes=3):
    live = window.session.live
    qtbot.waitUntil(lambda: live.is_on and live.fixes >= fixes and live.fix is not None, timeout=30_000)


def stopped(window, qtbot):
    qtbot.waitUntil(lambda: not window.session.live.is_on, timeout=15_000)


def test_addresses_are_typed_listened_to_and_kept(water, qtbot, stand_in):
    live = water.session.live
    press(water, Qt.Key.Key_L, CTRL)
    sheet = water.findChild(ListenSheet)
    assert sheet.isVisible()
    field = water.findChild(QLineEdit, "listen_address")
    for what, kind in (("nmea", 0), ("gpsd", 1), ("down", 2)):
        water.findChild(QComboBox, "listen_kind").setCurrentIndex(kind)
        port = stand_in.ports[what].number
        field.setText(f"127.0.0.1:{port}" if what == "gpsd" else f"tcp://127.0.0.1:{port}")
        QTest.keyClick(field, Qt.Key.Key_Return)
    go = water.findChild(QPushButton, "sheet_listen_go")
    QTest.mouseClick(go, Qt.MouseButton.LeftButton)
    listening(water, qtbot)
    qtbot.waitUntil(lambda: "good" in water.findChild(QLabel, "listen_state_0").text(), timeout=10_000)
    assert go.text() == "Stop listening"
    assert "position" in water.findChild(QLabel, "place").text()
    qtbot.waitUntil(lambda: live.pings["down"] > 0, timeout=10_000)
    QTest.mouseClick(go, Qt.MouseButton.LeftButton)
    stopped(water, qtbot)
    back = read_recording(live.recording)
    assert len(back.track.time) >= 3
    assert back.down is not None
    assert len(water.tasks.listener.addresses) == 3
    # the boat's trail is that of the boat
    assert distance_m(live.trail[0], live.trail[-1]) > 1.0


def test_what_answers_on_this_computer_is_offered(water, stand_in, monkeypatch):
    port = stand_in.ports["nmea"].number
    address = f"tcp://localhost:{port}"
    monkeypatch.setattr(listen, "_USUAL_HERE", (("gpsd", "localhost:1", 1), ("nmea", address, port)))
    press(water, Qt.Key.Key_L, CTRL)
    assert water.findChild(QPushButton, "listen_here_gpsd") is None
    QTest.mouseClick(water.findChild(QPushButton, "listen_here_nmea"), Qt.MouseButton.LeftButton)
    assert water.tasks.listener.addresses == [("nmea", address)]


def test_an_address_that_is_none_is_one_line(water):
    said = []
    water.session.said.connect(lambda line, wrong: said.append((line, wrong)))
    press(water, Qt.Key.Key_L, CTRL)
    field = water.findChild(QLineEdit, "listen_address")
    field.setText("the jetty")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "no address" in said[-1][0]
    QTest.mouseClick(water.findChild(QPushButton, "sheet_listen_go"), Qt.MouseButton.LeftButton)
    assert "nothing to listen to" in said[-1][0]
    assert not water.session.live.is_on


def test_one_key_joins_a_made_up_boat_which_leads_the_day(water, qtbot):
    session = water.session
    press(water, Qt.Key.Key_F5)
    qtbot.waitUntil(lambda: session.run.plan is not None and not water.tasks.day.is_planning, timeout=60_000)
    press(water, Qt.Key.Key_F5, SHIFT)
    listening(water, qtbot)
    assert session.live.is_made_up
    # it lives on the day that was planned, and where it is leads the clock
    assert session.run.ask.start <= session.run.now <= session.run.ask.start + 60
    assert session.run.boat == session.live.fix.place
    assert session.live.heading_deg is not None
    qtbot.waitUntil(lambda: len(session.live.sources) >= 3, timeout=10_000)
    press(water, Qt.Key.Key_E)
    qtbot.waitUntil(lambda: not water.tasks.day.is_planning and not session.jobs.live, timeout=60_000)
    press(water, Qt.Key.Key_F5, SHIFT)
    stopped(water, qtbot)
    assert session.live.recording.is_file()
    assert session.run.boat != session.live.fix.place or session.run.now is not None


def test_the_boat_lies_on_the_chart_with_its_bow_ahead(water, tmp_path):
    session, chart = water.session, water.session.chart
    x, y = chart.view.x, chart.view.y
    place = chart.chart.plane.place(x, y)
    fix = Fix(time=1.0, latitude=place.latitude, longitude=place.longitude, speed_mps=2.0, heading_deg=90.0)
    bare = water.picture("chart").grab().toImage()
    session.live.begin(tmp_path / "day.nc")
    session.live.take_fix(fix)
    shown = water.picture("chart").grab().toImage()
    at = water.picture("chart").at(x, y).toPoint()
    ahead, behind = (shown.pixel(at + QPoint(dx, 0)) != bare.pixel(at + QPoint(dx, 0)) for dx in (9, -12))
    assert ahead
    assert not behind
    session.live.take_fix(replace(fix, heading_deg=270.0))
    turned = water.picture("chart").grab().toImage()
    assert turned.pixel(at + QPoint(-11, 0)) != bare.pixel(at + QPoint(-11, 0))
    # Space in Run marks where the boat is, not where a cursor was left
    session.set_stage("run")
    press(water, Qt.Key.Key_Space)
    mark = session.logbook.marks[-1]
    assert (mark.latitude, mark.longitude, mark.time) == (place.latitude, place.longitude, 1.0)
    assert mark.bottom_depth_m == pytest.approx(chart.depth_at(place) + session.conditions.level_m, abs=0.01)
    session.live.end()
    assert session.live.place is None


def test_closing_the_window_while_it_listens_loses_nothing(water, qtbot, stand_in):
    listener, live = water.tasks.listener, water.session.live
    listener.begin([("nmea", f"tcp://127.0.0.1:{stand_in.ports['nmea'].number}")])
    listening(water, qtbot)
    time.sleep(0.6)
    water.close()
    assert len(read_recording(live.recording).track.time) >= 3


def test_states_are_said_in_words():
    source = {"state": "lost", "why": "closed", "age": 4.0, "left_out": {"checksum": 2}, "name": "x", "kind": "nmea"}
    assert source_words(source) == "lost, tried again, last good 4.0 s ago (closed); left out: 2 checksum"
    assert source_words({"state": "connected", "age": None, "left_out": {}}) == "good"


def test_scan_follows_the_pass_as_it_grows_and_finds_back_to_it(water, qtbot, stand_in):
    session, scan = water.session, water.session.scan
    pings = [("pings", f"tcp://127.0.0.1:{stand_in.ports[what].number}") for what in ("down", "side")]
    water.tasks.listener.begin([("nmea", f"tcp://127.0.0.1:{stand_in.ports['nmea'].number}"), *pings])
    qtbot.waitUntil(lambda: scan.is_live and len(scan.lead) > 60, timeout=20_000)
    session.set_stage("scan")
    assert scan.at_live_edge
    qtbot.waitUntil(lambda: scan.document.is_read and np.isfinite(scan.bottom_m), timeout=10_000)
    assert scan.bottom_m == pytest.approx(FLOOR_M, abs=0.2)
    before, last = len(scan.lead), scan.cursor.ping
    qtbot.waitUntil(lambda: len(scan.lead) > before + 40, timeout=10_000)
    assert scan.cursor.ping > last
    # the picture is that of the newest pings
    image = water.picture("down")
    shown = image.grab().toImage()
    assert shown.pixel(shown.width() - 3, shown.height() // 2) != 0
    # scrolled back it stays where it is while more comes, and finds back
    scan.set_view(replace(scan.view, first_ping=0.0, last_ping=40.0))
    view = scan.view
    before = len(scan.lead)
    qtbot.waitUntil(lambda: len(scan.lead) > before + 20, timeout=10_000)
    assert scan.view.first_ping == view.first_ping
    press(water, Qt.Key.Key_End)
    assert scan.at_live_edge
    assert scan.cursor.ping == len(scan.lead) - 1
    # another recording is looked at meanwhile: it stays, and one key comes back
    scan.open(sides())
    qtbot.wait(1_500)
    assert not scan.is_live
    press(water, Qt.Key.Key_End)
    assert scan.is_live
    assert scan.at_live_edge
    # a mark is of the boat's place now
    press(water, Qt.Key.Key_Space)
    mark = session.logbook.marks[-1]
    assert abs(mark.time - scan.lead.time[-1]) < 5.0
    water.tasks.listener.end()
    stopped(water, qtbot)
    assert not scan.is_live
    # nothing that was on screen is missing in the file
    assert len(read_recording(session.live.recording).down) == len(scan.down)


def test_the_chart_grows_from_what_is_recorded(water, qtbot, stand_in, monkeypatch):
    monkeypatch.setattr(grow_chart, "EVERY_S", 0.0)
    monkeypatch.setattr(follow_live, "_LONG_S", 1.0)
    session, folder = water.session, water.tasks.charter.folder
    used = session.chart.chart.used
    wires = [(k, f"tcp://127.0.0.1:{stand_in.ports[w].number}") for k, w in (("nmea", "nmea"), ("pings", "down"))]
    water.tasks.listener.begin(wires)
    qtbot.waitUntil(lambda: session.live.recording is not None, timeout=10_000)
    name = session.live.recording.name
    qtbot.waitUntil(lambda: folder.has_pass(name), timeout=40_000)
    qtbot.waitUntil(lambda: session.chart.chart.used > used, timeout=10_000)
    first = sum(len(part) for part in folder.soundings_of_pass(name))
    assert first >= 40
    assert any(track.name in name for track in session.chart.tracks)
    water.tasks.listener.end()
    stopped(water, qtbot)
    qtbot.waitUntil(lambda: not session.jobs.live, timeout=20_000)
    # what was put in twice would lie twice in the file
    kept = folder.soundings_of_pass(name)[0]
    assert len(np.unique(kept.time)) == len(kept)
    assert kept.depth_m == pytest.approx(FLOOR_M, abs=0.4)


def test_the_first_outing_of_all_makes_a_water_with_its_chart(opened, qtbot, stand_in, monkeypatch):
    monkeypatch.setattr(grow_chart, "EVERY_S", 0.0)
    monkeypatch.setattr(follow_live, "_LONG_S", 1.0)
    window = opened(None, made_up=False)
    session = window.session
    assert not session.water.key
    wires = [(k, f"tcp://127.0.0.1:{stand_in.ports[w].number}") for k, w in (("nmea", "nmea"), ("pings", "down"))]
    window.tasks.listener.begin(wires)
    qtbot.waitUntil(lambda: session.water.key != "", timeout=20_000)
    assert session.water.name.startswith("Water at 44.2")
    qtbot.waitUntil(lambda: session.chart.chart is not None, timeout=40_000)
    assert session.chart.chart.deepest_m == pytest.approx(FLOOR_M, abs=0.5)
    window.tasks.listener.end()
    stopped(window, qtbot)


def test_the_water_is_the_one_the_boat_lies_in(opened, qtbot, stand_in):
    window = opened()  # three made-up waters are known, none is on screen
    session = window.session
    window.tasks.listener.begin([("nmea", f"tcp://127.0.0.1:{stand_in.ports['nmea'].number}")])
    qtbot.waitUntil(lambda: session.water.name == "Veyra Lake", timeout=20_000)
    window.tasks.listener.end()
    stopped(window, qtbot)
