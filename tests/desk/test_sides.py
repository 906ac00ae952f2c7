"""The view to the sides in the real window: ranges, the shadow gauge, marks of what was seen, the swath."""

import math
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit

from plumbbob.core import geodesy as geo
from plumbbob.core.geodesy import Position
from plumbbob.core.sonar.recording import transducer_at
from plumbbob.desk.models.side_model import Across
from plumbbob.desk.views.sonar.side.words import echo_lines, gauge_lines, reasons
from plumbbob.formats.corrections import beside, read_corrections
from plumbbob.formats.xtf import read_xtf, write_xtf
from plumbbob.store.values import MarkKind
from tests.desk.conftest import back_to, click_at, looking, press
from tests.views import FLOOR_M, SIDE_FISH, sides

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture(scope="module")
def shared(view_files, tmp_path_factory, qapp):
    with looking(tmp_path_factory.mktemp("sides"), view_files / "sides.nc") as made:
        yield made


@pytest.fixture
def window(shared):
    return back_to(shared, "side")


def newest(session):
    return max(session.logbook.marks, key=lambda m: m.id)


def place(window, time, slant, side):
    """Where a slant range at a time is on screen."""
    picture, state = window.picture("side"), window.session.side
    shown = state.shown_of(slant, time)
    y = picture.y_of(shown if side == "starboard" else -shown)
    return QPointF(picture.x_of(window.session.scan.ping_of(time) + 0.5), y)


def test_one_key_looks_to_the_sides_and_back(window):
    assert window.session.view.name == "side"
    assert window.picture("side").isVisible()
    assert not window.picture("down").isVisible()
    press(window, Qt.Key.Key_Q)
    assert window.session.view.name == "down"
    assert window.picture("down").isVisible()


def test_panel_and_words_say_what_was_read(window):
    assert window.findChild(QLabel, "sides_fish").text() == "5"
    assert window.findChild(QLabel, "sides_things").text() == "2"
    text = window.findChild(QLabel, "sides_why").text()
    assert "timber" in text.lower()
    assert "hang up to" in text
    said = reasons(window.session)
    goal = next(s.goal for s in said if s.goal is not None)
    window.findChild(QLabel, "sides_why").linkActivated.emit(str(said.index(next(s for s in said if s.goal == goal))))
    assert window.session.scan.time == pytest.approx(goal, abs=0.3)


@pytest.mark.parametrize("across", list(Across))
def test_a_click_picks_a_fish_in_every_way_of_showing(window, across):
    session, picture = window.session, window.picture("side")
    session.side.set_across(across)
    for fish in session.side.reading.fish:
        if picture.place_of(fish) is None:
            assert across is Across.CUT
            continue
        session.side.choose(None)
        click_at(picture, picture.place_of(fish))
        assert session.side.chosen is fish
        assert session.rig.target_m == pytest.approx(fish.depth_m)
    click_at(picture, QPointF(4.0, 4.0))
    assert session.side.chosen is None


def test_ground_range_moves_an_echo_in_and_keeps_the_cursor_on_it(window):
    side = window.session.side
    fish = next(f for f in side.reading.fish if f.height_m < 1.0)
    side.choose(fish)
    slant = abs(side.cursor_m)
    press(window, Qt.Key.Key_G, SHIFT)
    assert side.across is Across.GROUND
    assert abs(side.cursor_m) == pytest.approx(math.sqrt(slant**2 - fish.altitude_m**2), abs=0.2)
    press(window, Qt.Key.Key_G, SHIFT)
    assert abs(side.cursor_m) == pytest.approx(slant, abs=0.2)
    press(window, Qt.Key.Key_C, SHIFT)
    assert side.across is Across.CUT
    assert abs(side.cursor_m) == pytest.approx(slant - fish.altitude_m, abs=0.2)


def test_the_picture_shows_what_was_recorded(window):
    """A bright fish is bright on screen, its shadow dark; without the water the bottom starts at the boat's line."""
    session, picture = window.session, window.picture("side")
    fish = max(session.side.reading.fish, key=lambda f: f.level_db)

    def light(at):
        image = picture.grab().toImage()
        around = [
            image.pixelColor(round(at.x()) + dx, round(at.y()) + dy).lightness() for dx in (0, 1) for dy in (0, 1)
        ]
        return float(np.mean(around))

    session.side.choose(None)
    press(window, Qt.Key.Key_I)
    echo = light(place(window, fish.time, fish.slant_m, fish.side))
    shadow = light(place(window, fish.time, fish.shadow_m, fish.side))
    assert echo > shadow + 40
    middle = QPointF(picture.width() / 2, picture.height() / 2 + 30)
    before = light(middle)
    press(window, Qt.Key.Key_C, SHIFT)
    assert light(middle) > before + 20


def test_the_gauge_measures_a_fish_in_three_clicks(window):
    session, picture = window.session, window.picture("side")
    _, aside, depth = SIDE_FISH[0]
    fish = min(session.side.reading.fish, key=lambda f: abs(f.ground_m - abs(aside)) + (f.side != "port") * 9)
    press(window, Qt.Key.Key_H, SHIFT)
    assert "Click its echo" in gauge_lines(session)[0]
    for slant in (fish.slant_m, fish.shadow_m - 0.3, fish.shadow_m + 0.3):
        click_at(picture, place(window, fish.time, slant, "port"))
    found = session.side.gauged
    assert found.top_m == pytest.approx(FLOOR_M - depth, abs=3 * found.top_sd_m + 0.3)
    assert found.ground_m == pytest.approx(abs(aside), abs=0.5)
    assert not found.on_bottom
    lines = " ".join(gauge_lines(session))
    assert "to port" in lines
    assert "°" in lines  # its place
    # over a bottom that falls away the same clicks mean another place
    session.side.set_slope(-6.0)
    assert session.side.gauged.ground_m != pytest.approx(found.ground_m, abs=0.01)
    press(window, Qt.Key.Key_Escape)
    assert session.side.clicks is None


def test_wrong_clicks_of_the_gauge_get_a_line_and_start_again(window):
    session, picture = window.session, window.picture("side")
    said = []
    session.said.connect(lambda line, wrong: said.append((line, wrong)))
    press(window, Qt.Key.Key_H, SHIFT)
    t = session.side.reading.fish[0].time
    for slant in (15.0, 13.0, 12.0):
        click_at(picture, place(window, t, slant, "port"))
    assert said[-1][1]
    assert "behind its echo" in said[-1][0]
    assert session.side.clicks == ()
    click_at(picture, place(window, t, 12.0, "port"))
    click_at(picture, place(window, t, 14.0, "starboard"))
    assert "same side" in said[-1][0]


def test_space_marks_what_was_seen_where_it_was_seen(window):
    session = window.session
    fish = next(f for f in session.side.reading.fish if f.height_m < 1.0)
    session.side.choose(fish)
    press(window, Qt.Key.Key_Space)
    mark = newest(session)
    assert mark.kind is MarkKind.FISH
    assert (mark.latitude, mark.longitude) == (fish.latitude, fish.longitude)
    assert mark.depth_m == pytest.approx(fish.depth_m)
    assert f"to {fish.side}" in mark.note
    boat = transducer_at(session.scan.recording.track, session.side.view.mount, np.array([fish.time]))
    away = geo.distance_m(Position(mark.latitude, mark.longitude), Position(boat.latitude[0], boat.longitude[0]))
    assert away == pytest.approx(fish.ground_m, abs=0.1)
    assert session.side.ground_of(Position(mark.latitude, mark.longitude), fish.time) == pytest.approx(
        fish.ground_m if fish.side == "starboard" else -fish.ground_m, abs=0.1
    )


def test_a_mark_beside_timber_says_what_it_lies_off(window):
    session = window.session
    timber = next(t for t in session.side.reading.things if t.kind == "timber")
    session.side.choose(timber)
    press(window, Qt.Key.Key_Space)
    assert newest(session).kind is MarkKind.STRUCTURE
    assert newest(session).note.startswith("timber")
    session.side.choose(None)
    session.scan.stand_at(timber.time)
    session.side.set_across(Across.GROUND)
    session.side.set_cursor(-(timber.ground_m - 2.0))
    press(window, Qt.Key.Key_Space)
    mark = newest(session)
    assert mark.kind is MarkKind.PLACE
    assert "off timber" in mark.note
    window.picture("side").grab()  # marks are drawn


def test_x_takes_a_fish_out_here_too_and_z_brings_it_back(window):
    session = window.session
    fish = session.side.reading.fish[0]
    press(window, Qt.Key.Key_N)
    assert session.side.chosen is not None
    session.side.choose(fish)
    press(window, Qt.Key.Key_X)
    assert len(session.side.reading.fish) == 4
    assert [c.what for c in read_corrections(beside(session.scan.path))] == [fish.side]
    press(window, Qt.Key.Key_Z)
    assert len(session.side.reading.fish) == 5
    session.side.choose(session.side.reading.fish[0])
    press(window, Qt.Key.Key_Y)
    assert session.side.reading.fish[0].hand == "accepted"


def test_a_fish_to_one_side_is_drawn_moved_and_called_something_else(window):
    session, picture = window.session, window.picture("side")
    time, before = session.side.view.time[0] + 3.0, len(session.side.reading.fish)
    press(window, Qt.Key.Key_D)
    click_at(picture, place(window, time, 9.0, "port"))
    drawn = session.side.chosen
    assert (drawn.hand, drawn.side) == ("drawn", "port")
    assert drawn.slant_m == pytest.approx(9.0, abs=0.2)
    assert math.isfinite(drawn.latitude)
    assert len(session.side.reading.fish) == before + 1
    press(window, Qt.Key.Key_D)  # the hand is empty again
    start, end = (place(window, t, s, "port").toPoint() for t, s in ((time, drawn.slant_m), (time + 2.0, 11.0)))
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(picture, end)
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
    moved = session.side.chosen
    assert moved.hand == "moved"
    assert moved.slant_m == pytest.approx(11.0, abs=0.3)
    assert len(session.side.reading.fish) == before + 1
    press(window, Qt.Key.Key_T)
    assert session.side.chosen.kind == "brush"
    assert "named by hand" in echo_lines(session, session.side.chosen)[0]
    picture.grab()  # a thing without a height is drawn
    assert len(session.side.reading.fish) == before
    for _ in range(3):
        press(window, Qt.Key.Key_T)
    assert session.side.chosen.hand == "relabelled"
    for _ in range(6):
        press(window, Qt.Key.Key_Z)
    assert len(session.side.reading.fish) == before


def test_keys_and_wheel_move_and_zoom_as_in_the_view_down(window):
    session, picture = window.session, window.picture("side")
    reach, ping = session.side.reach_m, session.scan.cursor.ping
    press(window, Qt.Key.Key_I, SHIFT)
    assert session.side.reach_m == pytest.approx(0.7 * reach)
    press(window, Qt.Key.Key_F)
    assert session.side.reach_m == reach
    across = session.side.cursor_m
    press(window, Qt.Key.Key_Right)
    press(window, Qt.Key.Key_Down)
    assert session.scan.cursor.ping > ping
    assert session.side.cursor_m > across
    pings = session.scan.view.pings
    wheel = QWheelEvent(
        QPointF(300, 100),
        QPointF(picture.mapToGlobal(QPoint(300, 100))),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    picture.wheelEvent(wheel)
    assert session.scan.view.pings == pytest.approx(0.8 * pings)
    first = session.scan.view.first_ping
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=QPoint(400, 200))
    QTest.mouseMove(picture, QPoint(300, 200))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=QPoint(300, 200))
    assert session.scan.view.first_ping > first


def test_the_swath_goes_on_the_chart_and_off(window, qtbot):
    session = window.session
    press(window, Qt.Key.Key_M, SHIFT)
    qtbot.waitUntil(lambda: bool(session.chart.swaths) and not session.jobs.live, timeout=60_000)
    assert session.chart.swaths_shown
    press(window, Qt.Key.Key_1)
    window.picture("chart").grab()
    press(window, Qt.Key.Key_M, SHIFT)
    assert not session.chart.swaths_shown


def type_into(window, name, text):
    field = window.findChild(QLineEdit, name)
    field.selectAll()
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def test_how_wide_to_scan_answers_as_it_is_typed(window):
    press(window, Qt.Key.Key_G)
    words = window.findChild(QLabel, "width_words")
    first = words.text()
    assert "to each side" in first
    type_into(window, "width_sought", "0.4")
    assert words.text() != first
    assert "Single fish" in words.text()
    type_into(window, "width_speed", "0")
    assert "Not possible" in words.text()
    press(window, Qt.Key.Key_Escape)


def test_a_slope_comes_from_the_chart_or_is_typed(window):
    session = window.session
    session.side.set_cursor(-12.0)
    press(window, Qt.Key.Key_T, SHIFT)
    slope = session.side.slope_given
    assert slope is None or abs(slope) < 15.0  # the pass's own chart is level, where it knows the bottom at all
    session.side.set_slope(5.0)
    press(window, Qt.Key.Key_T, SHIFT)
    assert session.side.slope_given is None


def test_words_of_a_fish_without_a_shadow_do_not_guess(window):
    fish = replace(window.session.side.reading.fish[0], height_m=math.nan, shadow_m=math.nan)
    assert "can't be told" in echo_lines(window.session, fish)[0]
    hanging = replace(fish, in_water=True, slant_m=5.0, altitude_m=7.0)
    assert "at least" in echo_lines(window.session, hanging)[0]


def test_an_xtf_opens_looking_to_the_sides(opened, tmp_path, qtbot):
    path = tmp_path / "t.xtf"
    write_xtf(path, sides())
    window = opened(path)
    session = window.session
    qtbot.waitUntil(lambda: session.scan.reading.side is not None, timeout=60_000)
    assert session.view.name == "side"
    assert session.scan.down is None
    assert session.scan.bottom_m == pytest.approx(FLOOR_M, abs=0.3)
    window.grab()
    out = tmp_path / "again.xtf"
    window.save_path = lambda *_: out
    window.actions_by_id["file.xtf"].trigger()
    qtbot.waitUntil(lambda: out.is_file() and not session.jobs.live, timeout=60_000)
    assert len(read_xtf(out).side) == len(sides().side)
