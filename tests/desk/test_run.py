"""The Run stage in the real window: a day planned, dragged, held, played; the column, the card, the sheet."""

import json
from dataclasses import replace

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPlainTextEdit, QPushButton, QWidget

from plumbbob.core.units import Kind, System
from plumbbob.desk.theme import Light
from plumbbob.desk.views.run.card_sheet import CardSheet
from plumbbob.desk.views.run.day_picture import DayPicture
from plumbbob.desk.views.run.day_sheet import DaySheet, RestCurve
from plumbbob.desk.views.run.foot import TriedHere
from plumbbob.desk.views.run.panel import StayList
from plumbbob.formats.kept_day import FILE, read_day
from tests.desk.conftest import press

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def day(water, qtbot):
    """One key from the chart: the day is planned."""
    water.session.conditions.set_number("wind_mps", 4.0)
    press(water, Qt.Key.Key_F5)
    planned(water, qtbot)
    return water


def planned(window, qtbot):
    planner = window.tasks.day
    qtbot.waitUntil(lambda: not planner.is_planning and not window.session.jobs.live, timeout=60_000)
    assert window.session.run.plan is not None


def picture(window) -> DayPicture:
    return window.findChild(DayPicture)


def text_of(window, name):
    return window.findChild(QLabel, name).text()


def drag(window, start: QPointF, by: QPointF):
    """A real drag, in steps."""
    shown = picture(window)
    QTest.mousePress(shown, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for k in range(1, 6):
        QTest.mouseMove(shown, (start + by * (k / 5)).toPoint())
    QTest.mouseRelease(shown, Qt.MouseButton.LeftButton, pos=(start + by).toPoint())


def test_one_key_plans_the_day_from_first_light(day):
    session, run = day.session, day.session.run
    assert session.stage == "run"
    plan = run.plan
    assert plan.stays
    assert plan.back <= run.ask.end + 1e-6
    assert abs(run.ask.start - session.conditions.lights.first_light) < 3600
    assert text_of(day, "run_from") == session.clock(plan.start, "%H:%M")
    assert text_of(day, "run_range") == f"{plan.low} to {plan.high}"
    assert "over" in text_of(day, "run_place")
    assert "hold into" in text_of(day, "run_why")
    assert "of rope" in text_of(day, "run_why")
    # the chart stands beside the day, and the plumb line hangs level with it
    assert day.picture("chart").isVisible()
    assert picture(day).isVisible()
    shown, plumb = picture(day), day.findChild(QWidget, "plumbline")
    for depth in (0.0, 5.0):
        y = shown.mapTo(day, QPoint(0, round(shown.depths.px(depth)))).y()
        assert abs(plumb.mapTo(day, QPoint(0, round(plumb.y_of(depth)))).y() - y) <= 2
    press(day, Qt.Key.Key_1)
    assert day.picture("chart").isVisible()


def test_a_stay_is_dragged_and_the_day_solved_again(day, qtbot):
    run = day.session.run
    stay = run.plan.stays[1] if len(run.plan.stays) > 1 else run.plan.stays[0]
    name, was = stay.candidate.name, stay
    per_hour = picture(day).clock.px(3600.0) - picture(day).clock.px(0.0)
    drag(day, picture(day).block(stay).center(), QPointF(0.5 * per_hour, 0))
    planned(day, qtbot)
    hold = run.state.holds[name]
    assert hold.arrive == pytest.approx(was.arrive + 1800.0, abs=301)
    moved = next(s for s in run.plan.stays if s.candidate.name == name)
    assert moved.arrive == pytest.approx(hold.arrive, abs=61)
    assert moved.minutes == pytest.approx(was.minutes, abs=1.5)
    press(day, Qt.Key.Key_Z)
    planned(day, qtbot)
    assert name not in run.state.holds
    # by its end only the length changes
    first = run.plan.stays[0]
    box = picture(day).block(first)
    drag(day, QPointF(box.right() - 2, box.center().y()), QPointF(0.25 * per_hour, 0))
    planned(day, qtbot)
    hold = run.state.holds[first.candidate.name]
    assert hold.arrive == first.arrive
    assert hold.leave == pytest.approx(first.leave + 900, abs=301)


def test_places_are_held_left_out_and_put_in(day, qtbot):
    run = day.session.run
    name = run.chosen.name
    press(day, Qt.Key.Key_X)
    planned(day, qtbot)
    assert name not in [s.candidate.name for s in run.plan.stays]
    assert "left out by you" in text_of(day, "run_left_out")
    press(day, Qt.Key.Key_Z)
    press(day, Qt.Key.Key_H)
    planned(day, qtbot)
    assert name in run.state.holds
    assert name in [s.candidate.name for s in run.plan.stays]
    press(day, Qt.Key.Key_D)
    planned(day, qtbot)
    assert "Own place 1" in [s.candidate.name for s in run.plan.stays]
    folder = day.tasks.charter.folder.path
    assert read_day(folder).state.added[0].name == "Own place 1"
    # another start of the day brings all of it back
    run.set_ask(None)
    press(day, Qt.Key.Key_F5)
    planned(day, qtbot)
    assert "Own place 1" in [s.candidate.name for s in run.plan.stays]


def test_two_plans_stand_beside_each_other(day, qtbot):
    run = day.session.run
    press(day, Qt.Key.Key_K)
    kept = run.plan
    press(day, Qt.Key.Key_X)
    planned(day, qtbot)
    assert run.beside is kept
    words = day.findChild(QLabel, "run_beside")
    assert words.isVisible()
    assert f"{run.plan.fish - kept.fish:+.1f} fish" in words.text()
    press(day, Qt.Key.Key_K, SHIFT)
    assert run.plan is kept
    press(day, Qt.Key.Key_K)
    assert not words.isVisible()


def test_stay_or_go_follows_the_clock_and_what_comes(day, qtbot):
    run = day.session.run
    stay = run.plan.stays[0]
    box = picture(day).block(stay)
    QTest.mouseClick(
        picture(day), Qt.MouseButton.LeftButton, pos=QPoint(round(box.left() + 4), round(box.bottom() + 12))
    )
    assert run.here is stay
    assert "in ten minutes: here" in text_of(day, "advice_odds")
    before = run.advice
    press(day, Qt.Key.Key_G)
    assert run.advice.here > before.here
    press(day, Qt.Key.Key_Y)
    assert "not taking" in text_of(day, "advice_why")
    assert "another depth" in text_of(day, "advice_why")
    press(day, Qt.Key.Key_L, SHIFT)
    assert "another pace" in text_of(day, "advice_why")
    press(day, Qt.Key.Key_Z)
    assert "another depth" in text_of(day, "advice_why")
    press(day, Qt.Key.Key_Right)
    assert run.now == pytest.approx(picture(day).clock.value(round(box.left() + 4)) + 300, abs=30)
    run.set_now(run.plan.stays[0].arrive - 60)  # still under way
    assert run.plan.stays[0].candidate.name in text_of(day, "advice_why")
    assert "there by" in text_of(day, "advice_why")
    press(day, Qt.Key.Key_Escape)
    assert run.now is None
    assert run.here is None


def test_what_was_tried_empties_its_band_and_lifts_the_veil(day, qtbot):
    session, run = day.session, day.session.run
    tried = day.findChild(TriedHere)
    before = tried.look()
    session.rig.drag_to(run.chosen.fish_m)
    x, y = session.chart.chart.plane.to_xy(run.chosen.place.latitude, run.chosen.place.longitude)
    session.chart.centre_on(float(x), float(y), closer=True)
    thick = float(session.search.weight.sum())
    veil = day.picture("chart").grab().toImage()
    for _ in range(3):
        press(day, Qt.Key.Key_J)
    after = tried.look()
    band = next(k for k, b in enumerate(after.bands) if b.top_m <= run.chosen.fish_m <= b.base_m)
    assert after.bands[band].empty > before.bands[band].empty + 0.2
    assert after.none > before.none
    assert not [b.empty for k, b in enumerate(after.bands) if abs(k - band) > 1 and b.empty > 0]
    assert float(session.search.weight.sum()) < thick
    assert day.picture("chart").grab().toImage() != veil
    # each reason for it can be looked at alone, then none
    seen = [run.veil]
    while run.veil:
        press(day, Qt.Key.Key_V)
        seen.append(run.veil)
    assert {"left", "window", "structure", "bottom", ""} <= set(seen)
    press(day, Qt.Key.Key_V, SHIFT)
    # a band hangs the bob there; the head turns the order round
    tried.grab()
    box, look = tried.rows[0]
    QTest.mouseClick(tried, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert session.rig.bob_m == pytest.approx((look.top_m + look.base_m) / 2)


def test_from_now_on_what_is_over_stays_and_the_rest_is_new(day, qtbot):
    run = day.session.run
    first = run.plan.stays[0]
    run.set_now((first.arrive + first.leave) / 2)
    press(day, Qt.Key.Key_E)
    planned(day, qtbot)
    assert [s.candidate.name for s in run.past] == [first.candidate.name]
    assert run.past[0].leave == run.now
    assert run.plan.start == run.now
    assert all(s.arrive > run.now for s in run.plan.stays)
    assert "planned from" in day.session.view.header


def test_a_made_up_day_is_played_to_its_end(day, qtbot):
    session, run, replay = day.session, day.session.run, day.tasks.replay
    run.change_ask(replace(run.ask, end=run.ask.start + 2.5 * 3600))  # a short one
    planned(day, qtbot)
    press(day, Qt.Key.Key_D, SHIFT)
    assert replay.is_on
    replay.stop()
    start = run.now
    for _ in range(1500):
        if run.plan is None or run.now >= run.plan.back:
            break
        if day.tasks.day.is_planning:
            planned(day, qtbot)
        replay.step()
    planned(day, qtbot)
    assert run.now > start + 3600
    assert run.past
    assert any(e.kind == "nothing" for e in run.state.events)
    assert all(a.leave <= b.arrive + 1 for a, b in zip(run.past, run.past[1:], strict=False))
    assert not session.logbook.catches  # nothing of it is kept
    assert not read_day(day.tasks.charter.folder.path).state.events
    press(day, Qt.Key.Key_F5)  # the real day is as it was
    planned(day, qtbot)
    assert not run.state.events


def test_the_sheet_asks_the_day_anew(day, qtbot, tmp_path):
    run, session = day.session.run, day.session
    press(day, Qt.Key.Key_T)
    sheet = day.findChild(DaySheet)
    assert sheet.isVisible()
    day.findChild(QLineEdit, "day_from").setText("06:00")
    day.findChild(QLineEdit, "day_to").setText("11:30")
    winds = tmp_path / "wind.csv"
    winds.write_text("time,wind_mps,from\n06:00,3,SW\n10:00,12,W\n", encoding="utf-8")
    sheet.take_wind(winds)
    day.findChild(QComboBox, "day_school").setCurrentIndex(1)
    assert "Stay and work" in text_of(day, "day_why")
    curve = day.findChild(RestCurve)
    at = QPoint(round(curve.x_of(4.0)), 40)
    QTest.mouseClick(curve, Qt.MouseButton.LeftButton, pos=at)
    assert curve.rest_h == pytest.approx(4.0, abs=0.1)
    QTest.mouseClick(day.findChild(QPushButton, "sheet_day_go"), Qt.MouseButton.LeftButton)
    planned(day, qtbot)
    assert run.patient
    assert session.clock(run.ask.start, "%H:%M") == "06:00"
    assert run.ask.rest_h == curve.rest_h
    assert run.plan.home_by is not None
    assert session.clock(run.plan.home_by, "%H:%M") == "10:00"
    assert "more than this craft should meet" in text_of(day, "run_home")
    assert "ashore" in text_of(day, "run_caution")
    assert run.plan.back <= run.plan.home_by + 1


@pytest.mark.parametrize(
    ("name", "text", "says"),
    [
        ("day_to", "06:05", "20 hours"),
        ("day_from", "quarter past", "no time"),
        ("day_launch", "the jetty", "Not planned"),
        ("day_rate", "many", "Not planned"),
        ("day_wind", "06:00 4 nowhere", "direction"),
    ],
)
def test_a_day_that_makes_no_sense_is_one_line_and_loses_nothing(day, name, text, says):
    said = []
    day.session.said.connect(lambda line, wrong: said.append((line, wrong)))
    before = day.session.run.plan
    press(day, Qt.Key.Key_T)
    field = day.findChild(QLineEdit, name) or day.findChild(QPlainTextEdit, name)
    field.setText(text) if isinstance(field, QLineEdit) else field.setPlainText(text)
    QTest.mouseClick(day.findChild(QPushButton, "sheet_day_go"), Qt.MouseButton.LeftButton)
    assert says in said[-1][0]
    assert said[-1][1]
    assert "\n" not in said[-1][0]
    assert day.session.run.plan is before
    assert day.findChild(DaySheet).isVisible()


def test_the_card_is_looked_at_and_written(day, qtbot, tmp_path):
    press(day, Qt.Key.Key_K, CTRL)
    sheet = day.findChild(CardSheet)
    qtbot.waitUntil(lambda: not day.session.jobs.live)
    page = day.findChild(QLabel, "card_page_1").pixmap()
    assert page.width() > 250
    who = day.findChild(QLineEdit, "float_who")
    who.setText("Mira and one more")
    who.editingFinished.emit()
    sheet.write_card(tmp_path / "day.pdf")
    assert (tmp_path / "day.pdf").read_bytes().startswith(b"%PDF-")
    card = sheet.card
    assert card.float_plan["who"] == "Mira and one more"
    assert card.contours
    assert card.rods
    assert len(card.stays) == len(day.session.run.plan.stays)
    sheet.write_card(tmp_path / "nowhere" / "day.pdf")
    assert day.session.run.plan is not None


def test_day_dusk_units_and_large_text_all_paint(day):
    session = day.session
    images = []
    for light, system, size in (
        (Light.DAY, System.METRIC, 10),
        (Light.DUSK, System.US, 20),
        (Light.NIGHT, System.NAUTICAL, 10),
    ):
        session.display.set_light(light)
        session.display.set_system(system)
        session.display.set_text_size(size)
        session.run.show_around("spokes" if light is Light.DAY else "lanes")
        images.append(day.grab().toImage().convertToFormat(QImage.Format.Format_RGB32))
        assert session.display.words(session.run.chosen.fish_m, Kind.DEPTH) in text_of(day, "run_place")
    assert len({image.pixel(640, 400) for image in images}) > 1


def test_without_a_chart_there_is_a_line_and_a_list_that_says_so(opened, qtbot):
    empty = opened(made_up=False)
    press(empty, Qt.Key.Key_4)
    assert empty.session.stage == "run"
    assert "needs a chart" in empty.session.view.start_words
    assert not empty.actions_by_id["run.today"].isEnabled()
    assert empty.findChild(StayList).height() >= 20


def test_it_is_said_once_when_to_turn_for_home(day):
    run, said = day.session.run, []
    day.session.said.connect(lambda line, wrong: said.append(line))
    run.set_now(run.plan.stays[-1].leave - 60)
    assert not said
    run.set_now(run.plan.stays[-1].leave + 1)
    run.set_now(run.plan.stays[-1].leave + 60)
    assert [line for line in said if "Turn for home" in line] == said
    assert len(said) == 1
    assert day.session.clock(run.plan.back, "%H:%M") in said[0]


def test_an_empty_stage_with_a_chart_offers_to_plan(water, qtbot):
    press(water, Qt.Key.Key_4)
    start = water.findChild(QPushButton, "start_main")
    assert start.isVisible()
    assert "F5" in start.text()
    assert not water.findChild(QPushButton, "start_own").isVisible()
    QTest.mouseClick(start, Qt.MouseButton.LeftButton)
    planned(water, qtbot)
    assert not start.isVisible()


def test_a_damaged_day_is_told_and_the_day_begins_anew(water, qtbot):
    folder = water.tasks.charter.folder.path
    (folder / FILE).write_text("{broken", encoding="utf-8")
    said = []
    water.session.said.connect(lambda line, wrong: said.append(line))
    press(water, Qt.Key.Key_F5)
    planned(water, qtbot)
    assert any("begins anew" in line for line in said)
    assert json.loads((folder / FILE).read_text(encoding="utf-8"))["plumbbob_day"] == 1
