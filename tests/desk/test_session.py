"""Rules of the session's parts, without a window."""

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PySide6.QtCore import QRectF, QSettings
from PySide6.QtGui import QImage, QPainter

from plumbbob.core.geodesy import Position
from plumbbob.core.rig.rod import Method
from plumbbob.core.sonar.read import read_down
from plumbbob.core.sonar.reading import EMPTY
from plumbbob.core.units import Kind, System, to_shown
from plumbbob.desk.commands import marking
from plumbbob.desk.kit.paint import depth_ticks, font, round_steps, text_box
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.history import History
from plumbbob.desk.models.kept_rods import LEAST_DEPTH_M
from plumbbob.desk.models.logbook import Logbook
from plumbbob.desk.models.recording_model import RecordingModel
from plumbbob.desk.models.rods_model import RodsModel
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.make_demo import DemoMaker
from plumbbob.desk.theme import Light
from plumbbob.desk.views.registry import give_views
from plumbbob.desk.views.sonar.down.words import hardness_word, layer_words, reasons
from plumbbob.formats.recording import read_recording
from plumbbob.services.demo import AHEAD, SIDES
from plumbbob.store.errors import StoreError
from plumbbob.store.log import Log
from plumbbob.store.opening import open_log
from tests.store.test_log import a_catch, a_mark


@pytest.fixture
def stored(tmp_path):
    return QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat)


@pytest.fixture
def session(qapp, stored, passed):
    """A session with the minute open and read, and no log."""
    made = Session(stored)
    give_views(made)
    made.set_stage("scan")
    made.scan.open(passed[0], 400)
    made.scan.set_reading(read_down(passed[0]))
    yield made
    made.jobs.shut_down()


@pytest.fixture
def history(qapp):
    return History()


@pytest.fixture
def book(history, tmp_path):
    made = Logbook(history)
    made.attach(open_log(tmp_path / "log.db").log)
    yield made
    made.close()


def test_look_is_remembered_and_nonsense_is_not(stored):
    display = Display(stored)
    display.set_system(System.METRIC)
    display.set_light(Light.NIGHT)
    display.step_text_size(2)
    again = Display(stored)
    assert (again.system, again.light, again.text_size) == (System.METRIC, Light.NIGHT, display.text_size)
    for key in ("units", "light", "text_size"):
        stored.setValue(key, "nonsense")
    plain = Display(stored)
    assert (plain.system, plain.light) == (System.US, Light.DUSK)


def test_setting_the_same_again_says_nothing(stored):
    display, heard = Display(stored), []
    display.changed.connect(lambda: heard.append(1))
    display.set_system(display.system)
    display.set_light(display.light)
    assert heard == []
    for _ in range(3):
        display.next_system()
        display.next_light()
    assert (display.system, display.light) == (System.US, Light.DUSK)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.sampled_from(["mark", "catch", "more", "remove", "undo", "redo"]), max_size=25))
def test_any_order_of_changes_can_be_taken_back_to_the_start(tmp_path_factory, qapp, steps):
    history = History()
    book = Logbook(history)
    book.attach(open_log(tmp_path_factory.mktemp("log") / "log.db").log)
    for step in steps:
        marks = book.marks
        if step == "mark":
            book.add_mark(a_mark())
        elif step == "catch":
            book.add_catch(marks[-1] if marks else a_mark(), a_catch(0))
        elif step == "more" and marks:
            book.change_mark(type(marks[0])(**{**_fields(marks[0]), "seen": marks[0].seen + 1}))
        elif step == "remove" and marks:
            book.remove_mark(marks[0].id)
        elif step in ("undo", "redo"):
            getattr(history, step)()
    after = (book.marks, book.catches)
    undone = 0
    while history.undo():
        undone += 1
    assert (book.marks, book.catches) == ((), ())
    for _ in range(undone):
        history.redo()
    assert (book.marks, book.catches) == after
    book.close()


def _fields(mark):
    return {name: getattr(mark, name) for name in mark.__dataclass_fields__}


def test_what_is_out_already_stays_out(book, history):
    mark = book.add_mark(a_mark())
    book.remove_mark(mark.id)
    book.remove_mark(mark.id)
    book.change_mark(mark)
    book.remove_note(7)
    assert book.marks == ()
    assert history.undo() == "removal"
    assert history.undo() == "mark"
    assert history.undo() == ""


def test_the_nearest_mark_is_near(book):
    near = book.add_mark(a_mark(latitude=44.2001, longitude=-40.05))
    book.add_mark(a_mark(latitude=44.2004, longitude=-40.05))
    assert book.nearest(Position(44.2, -40.05)) == near
    assert book.nearest(Position(44.3, -40.05)) is None
    assert book.chosen is not None


def test_without_a_log_every_change_says_why(qapp):
    history = History()
    book = Logbook(history)
    book.refuse("the log is on fire")
    with pytest.raises(StoreError, match="Nothing was saved: the log is on fire"):
        book.add_mark(a_mark())
    assert history.undo() == ""


def test_a_failed_undo_can_be_tried_again(book, history, monkeypatch):
    book.add_mark(a_mark())

    def fail(*args):
        raise StoreError("the disk is full")

    monkeypatch.setattr(Log, "apply", fail)
    with pytest.raises(StoreError):
        history.undo()
    monkeypatch.undo()
    assert history.undo() == "mark"
    assert book.marks == ()


def test_the_bob_keeps_its_distance_over_the_fish(session):
    fish = session.scan.reading.fish[0]
    session.scan.choose(fish)
    rig = session.rig
    assert rig.bob_m == pytest.approx(fish.depth_m - 0.7)
    rig.set(above_fish_m=2.0)
    assert rig.bob_m == pytest.approx(fish.depth_m - 2.0)
    rig.drag_to(3.0)
    rig.set(above_fish_m=0.5)
    assert rig.bob_m == 3.0
    rig.drag_to(-5.0)
    assert rig.bob_m == LEAST_DEPTH_M


def test_ways_to_fish_go_round(qapp):
    rig = RodsModel()
    seen = []
    for _ in Method:
        seen.append(rig.settings.method)
        rig.next_method()
    assert set(seen) == set(Method)
    assert rig.settings.method is seen[0]
    rig.set_window((8.0, 5.0))
    assert rig.window == (5.0, 8.0)


def test_the_cursor_stays_on_the_recording(session):
    scan = session.scan
    scan.set_cursor(10**9, 1e9)
    assert scan.cursor.ping == len(scan.down) - 1
    scan.step_cursor(-(10**9), -1e9)
    assert (scan.cursor.ping, scan.cursor.depth_m) == (0, 0.0)
    assert scan.view.first_ping <= 0 < scan.view.last_ping
    assert scan.ping_of(scan.down.time[7]) == pytest.approx(7.0)
    assert scan.ping_of(0.0) == 0.0


def test_an_empty_state_answers_everything(qapp):
    scan = RecordingModel()
    scan.set_cursor(5, 5.0)
    scan.choose_next(1)
    scan.play_on(1.0)
    scan.show_all()
    scan.show_water()
    scan.replay.set(True)
    assert scan.boat_place() is None
    assert scan.time != scan.time
    assert not scan.replay.on


def test_words_of_a_pass_carry_its_numbers(session):
    reading = session.scan.reading
    from plumbbob.core.sonar.fish_association import summarise

    text = " ".join(said.text for said in reasons(session, summarise(reading)))
    assert "2 of 3 fish hang over the cold layer, 1 under it" in text
    assert layer_words(session.display, reading.cold_layer) == "32.7 ft ±0.2"
    session.display.set_system(System.METRIC)
    assert layer_words(session.display, reading.cold_layer) == "10.0 m ±0.1"
    assert layer_words(session.display, None) == "none seen"
    assert [hardness_word(v) for v in (0.1, 0.5, 0.9, float("nan"))] == ["soft", "medium", "hard", "unknown"]


def test_waypoints_hold_words_and_numbers(session, tmp_path):
    session.logbook.attach(open_log(tmp_path / "log.db").log)
    session.scan.choose(session.scan.reading.fish[0])
    mark = session.logbook.add_mark(session.view.mark())
    session.logbook.add_catch(mark, a_catch(mark.id))
    (point,) = marking.waypoints(session)
    assert point.name == f"fish 1/{mark.seen}"
    assert "ft down" in point.desc
    assert "1 caught: kokanee" in point.desc
    assert point.numbers["depth"] == pytest.approx(mark.depth_m)
    assert "wire out" in marking.rig_words(session)
    session.rig.set(method=Method.CAST)
    assert "counted" in marking.rig_words(session)
    session.logbook.close()


@given(st.floats(0, 100), st.floats(1, 200), st.sampled_from(System), st.integers(2, 14))
def test_scales_have_round_steps_and_not_too_many(top, span, system, most):
    ticks = depth_ticks(top, top + span, system, most)
    assert len(ticks) <= most + 1
    for depth, text in ticks:
        assert top - 1e-6 <= depth <= top + span + 1e-6
        assert float(text) == pytest.approx(to_shown(depth, Kind.DEPTH, system), abs=1e-6)
    step = round_steps(span, Kind.DEPTH, system, most)
    assert str(f"{to_shown(step, Kind.DEPTH, system):.0e}")[0] in "125"


@pytest.mark.parametrize("place", [(0, 0), (399, 299), (200, 150), (399, 0)])
def test_boxes_of_text_stay_in_the_picture(qapp, place):
    from PySide6.QtCore import QPointF

    image = QImage(400, 300, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    bounds = QRectF(0, 0, 400, 300)
    box = text_box(
        painter, [("25.0 ft down", font(10), "#000000")] * 3, QPointF(*place), bounds, "#ffffff", "#000000"
    )
    painter.end()
    assert bounds.contains(box)


def test_what_of_the_demo_does_not_ship_is_made_once_there_is_nothing_else_to_do(session, tmp_path, qtbot):
    session.scan.open(session.scan.recording, 400)  # opened anew: not read yet
    maker = DemoMaker(session, tmp_path)
    session.jobs.start("first", lambda progress: None, lambda result: None)
    qtbot.waitUntil(lambda: not session.jobs.live)
    assert list(tmp_path.glob("*.nc")) == []
    session.scan.set_reading(EMPTY)
    session.jobs.start("then", lambda progress: None, lambda result: None)
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("*.nc"))) == 2 and not session.jobs.live, timeout=60_000)
    assert read_recording(tmp_path / SIDES).side is not None
    assert read_recording(tmp_path / AHEAD).forward is not None
    before = {p.name: p.stat().st_mtime_ns for p in tmp_path.glob("*.nc")}
    again = DemoMaker(session, tmp_path)
    session.jobs.start("again", lambda progress: None, lambda result: None)
    qtbot.waitUntil(lambda: not session.jobs.live)
    assert {p.name: p.stat().st_mtime_ns for p in tmp_path.glob("*.nc")} == before
    assert maker is not again
