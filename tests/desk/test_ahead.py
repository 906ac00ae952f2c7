"""The view ahead in the real window: a true-scale picture, fish to pick, the cast planned to one, what a cast did."""

import math
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from plumbbob.core.rig.cast import Approach
from plumbbob.core.rig.rod import Method
from plumbbob.core.rig.tackle import BAIT, FLUTTER, SPOON
from plumbbob.desk.commands.marking import lure_depth, new_catch
from plumbbob.desk.views.plumbline import PlumbLine
from plumbbob.desk.views.sonar.forward.raster import FanRaster
from plumbbob.desk.views.sonar.forward.words import bearing_words, cast_lines, echo_lines, heading_words
from plumbbob.store.values import MarkKind
from tests.desk.conftest import back_to, click_at, looking, press
from tests.views import ahead

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture(scope="module")
def shared(view_files, tmp_path_factory, qapp):
    with looking(tmp_path_factory.mktemp("ahead"), view_files / "ahead.nc") as made:
        yield made


@pytest.fixture
def window(shared):
    made = back_to(shared, "forward")
    made.session.rig.set(method=Method.CAST, lure=SPOON, above_fish_m=0.7)
    made.session.scan.stand_at(float(made.session.forward.view.time[40]))
    return made


def test_it_looks_ahead_and_the_plumb_line_shares_its_depths(window):
    session, picture = window.session, window.picture("forward")
    assert session.view.name == "forward"
    picture.grab()
    column = session.view.column
    assert (column.top_m, column.base_m) == (
        pytest.approx(picture.depth_span[0]),
        pytest.approx(picture.depth_span[1]),
    )
    # a depth has the same row in both
    assert picture.at(0.0, 4.0).y() == pytest.approx(window.findChild(PlumbLine).y_of(4.0), abs=1.5)
    assert column.floor_m == pytest.approx(8.6, abs=0.3)


def test_the_picture_is_true_to_scale(window):
    picture = window.picture("forward")
    a, b, c = picture.at(2.0, 1.0), picture.at(5.0, 1.0), picture.at(2.0, 4.0)
    assert b.x() - a.x() == pytest.approx(c.y() - a.y())
    assert picture.place_at(picture.at(7.0, 3.0)) == (pytest.approx(7.0), pytest.approx(3.0))


def test_a_frame_is_drawn_where_it_looked():
    view = ahead().forward
    raster = FanRaster(view)
    per, top, left = 0.03, 20.0, 30.0
    k = 30
    pixels = raster.render(k, 560, 320, per, top, left, 0.0)
    bed = pixels[:, round(left + 4.0 / per)]
    row = int(bed.argmax())
    assert (row - top) * per == pytest.approx(8.6, abs=0.4)
    assert not pixels[: int(top), :].any()
    assert not pixels[:, : int(left)].any()
    brighter = raster.render(k, 560, 320, per, top, left, 12.0)
    assert brighter.mean() > pixels.mean()


def test_a_click_picks_a_fish_hangs_the_bob_and_plans_a_cast(window):
    session, picture = window.session, window.picture("forward")
    track, now = next((t, n) for t, n in session.forward.present() if t.kind == "fish")
    click_at(picture, picture.at(now.distance_m, now.depth_m))
    assert session.forward.chosen is track
    assert session.rig.target_m == pytest.approx(now.depth_m)
    plan = session.forward.plan
    assert plan is not None
    assert plan.pass_depth_m < now.depth_m
    steps = window.findChild(QLabel, "cast_steps").text()
    assert steps.startswith("1. Spoon 18 g: land it")
    assert "Count" in steps
    picture.grab()
    click_at(picture, QPointF(picture.width() - 5.0, 60.0))
    assert session.forward.chosen is None
    assert not window.findChild(QLabel, "cast_steps").isVisible()


def test_the_other_way_to_cast_is_one_key(window):
    session = window.session
    press(window, Qt.Key.Key_N)
    assert session.forward.chosen is not None
    first = session.forward.plan
    press(window, Qt.Key.Key_A, SHIFT)
    assert session.forward.approach is Approach.SWING_DOWN
    assert session.forward.plan.count_s == 0.0
    assert "swings down" in " ".join(cast_lines(session))
    press(window, Qt.Key.Key_A, SHIFT)
    assert session.forward.plan.land_m == pytest.approx(first.land_m)


def test_another_speed_of_the_reel_changes_the_plan_and_no_plan_says_why(window):
    session = window.session
    press(window, Qt.Key.Key_N)
    plan = session.forward.plan
    session.forward.set_retrieve(0.4)
    assert session.forward.plan.draw_s > plan.draw_s
    session.forward.set_retrieve(2.5)
    assert session.forward.plan is None
    assert cast_lines(session) == [
        "No cast with spoon 18 g: it comes up before it is over the fish: draw it slower or go heavier."
    ]


def test_what_is_tied_on_is_cast_named_and_logged(window):
    session = window.session
    press(window, Qt.Key.Key_N)
    session.rig.set(lure=FLUTTER)
    assert "flutter spoon 5 g" in cast_lines(session)[0]
    session.rig.set(lure=BAIT)
    assert "floats" in cast_lines(session)[0]
    session.rig.set(lure=SPOON)
    made = new_catch(session, "kokanee", 0.4, False, lure_depth(session))
    assert made[1].rig.startswith("spoon 18 g, cast")
    assert made[1].lure_depth_m == pytest.approx(session.forward.plan.pass_depth_m)


def test_what_the_last_cast_did_is_read_from_the_lures_own_track(window):
    session = window.session
    session.scan.stand_at(float(session.forward.view.time[-1]))
    nearer = next(
        t for t in session.forward.reading.tracks if t.kind == "fish" and abs(np.median(t.depth_m) - 4.5) < 0.3
    )
    session.forward.choose(nearer)
    judged = session.forward.verdict()
    assert judged is not None
    assert judged[1].word in ("good", "high", "below")
    why = window.findChild(QLabel, "ahead_why").text()
    assert "A lure went down" in why
    assert "The last lure" in why


def test_a_mark_is_of_the_fish_not_of_the_boat(window):
    session = window.session
    press(window, Qt.Key.Key_N)
    press(window, Qt.Key.Key_Space)
    mark = max(session.logbook.marks, key=lambda m: m.id)
    place = session.forward.place(session.forward.chosen)
    assert mark.kind is MarkKind.FISH
    assert (mark.latitude, mark.longitude) == (place.latitude, place.longitude)
    assert mark.note.endswith("ahead")


def test_x_takes_a_track_out_and_z_brings_it_back(window):
    session = window.session
    before = len(session.forward.reading.tracks)
    press(window, Qt.Key.Key_N)
    press(window, Qt.Key.Key_X)
    assert len(session.forward.reading.tracks) == before - 1
    press(window, Qt.Key.Key_Z)
    assert len(session.forward.reading.tracks) == before


def test_keys_and_wheel_step_frames_and_look_farther(window):
    session, picture = window.session, window.picture("forward")
    frame, far = session.forward.frame, session.forward.far_m
    press(window, Qt.Key.Key_Right)
    assert session.forward.frame == frame + 1
    press(window, Qt.Key.Key_Left)
    assert session.forward.frame == frame
    press(window, Qt.Key.Key_I, SHIFT)
    assert session.forward.far_m == pytest.approx(0.7 * far)
    press(window, Qt.Key.Key_F)  # as far as the fish need
    need = max(n.distance_m for t, n in session.forward.present() if t.kind == "fish")
    assert session.forward.far_m >= min(need, far)
    at = QPointF(300, 100)
    turned = QWheelEvent(
        at, at, QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton, SHIFT, Qt.ScrollPhase.NoScrollPhase, False
    )
    before = session.scan.cursor.ping
    picture.wheelEvent(turned)
    assert session.scan.cursor.ping < before


def test_replay_plays_the_frames(window, qtbot):
    session = window.session
    frame = session.forward.frame
    press(window, Qt.Key.Key_P)
    qtbot.waitUntil(lambda: session.forward.frame > frame + 1, timeout=60_000)
    press(window, Qt.Key.Key_P)
    assert not session.scan.replay.on


@pytest.mark.parametrize(
    ("azimuth", "said"), [(0.4, "straight ahead"), (12.0, "12° right of the bow"), (-7.6, "8° left")]
)
def test_bearings_in_words(azimuth, said):
    assert bearing_words(azimuth).startswith(said)


def test_which_way_it_swims_in_words(window):
    session = window.session
    track = session.forward.reading.tracks[0]
    for speed, said in ((0.4, "comes nearer"), (-0.4, "swims away"), (0.01, "holds"), (math.nan, "too briefly")):
        assert said in heading_words(session, replace(track, towards_mps=speed))
    assert "down" in echo_lines(session, track, session.forward.now(track))[0]


def test_a_fish_ahead_is_drawn_moved_and_called_a_lure(window):
    session, picture = window.session, window.picture("forward")
    ahead = session.forward
    before = len(ahead.reading.tracks)
    press(window, Qt.Key.Key_D)
    click_at(picture, picture.at(9.0, 2.2))
    drawn = ahead.chosen
    assert (drawn.hand, drawn.kind) == ("drawn", "fish")
    assert drawn.distance_m[0] == pytest.approx(9.0, abs=0.1)
    assert drawn.depth_m[0] == pytest.approx(2.2, abs=0.1)
    assert math.isfinite(drawn.latitude[0])
    press(window, Qt.Key.Key_D)  # the hand is empty again
    start, end = picture.at(9.0, 2.2).toPoint(), picture.at(7.0, 3.1).toPoint()
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(picture, end)
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end)
    moved = ahead.chosen
    assert moved.hand == "moved"
    assert (moved.distance_m[0], moved.depth_m[0]) == (pytest.approx(7.0, abs=0.15), pytest.approx(3.1, abs=0.15))
    press(window, Qt.Key.Key_T)
    assert ahead.chosen.kind == "lure"
    assert len(ahead.reading.tracks) == before + 1
    for _ in range(3):
        press(window, Qt.Key.Key_Z)
    assert len(ahead.reading.tracks) == before
    # in the air there is no fish
    press(window, Qt.Key.Key_D)
    click_at(picture, picture.at(9.0, -0.3))
    assert len(ahead.reading.tracks) == before
    press(window, Qt.Key.Key_D)
