"""The Log stage in the real window: trips, stretches, fish, limits, finding, sharing, putting right and back."""

import csv
import math
import shutil
import zipfile

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QPushButton, QTableView, QTableWidget, QWidget

from plumbbob.desk.models.log_list import Row
from plumbbob.desk.views.deck.page import DeckPage
from plumbbob.desk.views.deck.target import TargetButton
from plumbbob.desk.views.log.distributions import Distributions
from plumbbob.desk.views.log.trip_picture import TripPicture
from plumbbob.formats.waters import data_path
from plumbbob.store.values import Catch, Limit, Mark, MarkKind, MomentKind
from tests.desk.conftest import press
from tests.desk.test_deck import FIX
from tests.log_files import read_archive
from tests.store.test_log import a_mark


@pytest.fixture
def seasons(opened, demo_log, tmp_path):
    """A window whose log holds the demo's two seasons."""
    for file in demo_log.parent.iterdir():
        (shutil.copytree if file.is_dir() else shutil.copy)(file, tmp_path / file.name)
    window = opened()
    window.session.set_stage("log")
    window.activateWindow()
    QTest.qWait(50)
    return window


@pytest.fixture
def empty(opened):
    window = opened()
    window.session.set_stage("log")
    return window


def act(window, command):
    action = window.actions_by_id[command]
    assert action.isEnabled(), command
    action.trigger()


def field(window, name, kind=QLineEdit):
    found = window.findChild(kind, name)
    assert found is not None, name
    return found


def type_in(window, name, text, kind=QLineEdit):
    widget = field(window, name, kind)
    target = widget.lineEdit() if isinstance(widget, QComboBox) else widget
    target.setFocus()
    target.selectAll()
    QTest.keyClicks(target, text)
    QTest.keyClick(target, Qt.Key.Key_Tab)


def click_button(window, name):
    QTest.mouseClick(field(window, name, QPushButton), Qt.MouseButton.LeftButton)


def texts(window, name):
    return window.findChild(QLabel, name).text()


# -- trips --------------------------------------------------------------------------------------------------------


def test_a_past_trip_of_three_rods_and_four_fish_is_written_in_few_actions(empty, qtbot):
    session = empty.session
    actions = 1
    press(empty, Qt.Key.Key_T)
    assert session.sheet == "past_trip"
    for name, text in (("day", "2026-08-09"), ("start", "5:10"), ("end", "11:00"), ("water", "Veyra Lake")):
        type_in(empty, f"trip_{name}", text)
        actions += 1
    for rod, depth in enumerate(("26", "22", "8 m")):
        if rod:
            click_button(empty, "trip_more_rods")
            actions += 1
        type_in(empty, f"rod{rod}_depth", depth)
        actions += 1
    for fish, (species, length, when) in enumerate(
        (
            ("kokanee", "14 1/4", "6:02"),
            ("kokanee", "15", "6:40"),
            ("sauger", "40 cm", "8:15"),
            ("burbot", "1'8\"", "10:30"),
        )
    ):
        if fish:
            click_button(empty, "trip_more_fish")
            actions += 1
        type_in(empty, f"fish{fish}_species", species, QComboBox)
        type_in(empty, f"fish{fish}_length", length)
        type_in(empty, f"fish{fish}_when", when)
        actions += 3
    click_button(empty, "sheet_past_trip_go")
    actions += 1
    outing = session.trips.outing
    assert len(outing.efforts) == 3
    assert [c.species for c in outing.catches] == ["kokanee", "kokanee", "sauger", "burbot"]
    assert outing.catches[0].length_m == pytest.approx(14.25 * 0.0254)
    assert outing.catches[3].length_m == pytest.approx(20 * 0.0254)
    assert outing.efforts[0].lure_depth_m == pytest.approx(26 * 0.3048)
    assert outing.efforts[2].lure_depth_m == pytest.approx(8.0)
    assert outing.rod_hours == pytest.approx(3 * 5 + 3 * 50 / 60)
    assert actions <= 28  # two minutes at four seconds each
    press(empty, Qt.Key.Key_Z)
    assert session.trips.chosen is None
    assert not len(session.logbook.catches)


def test_a_trip_without_a_fish_is_as_good_and_bad_times_lose_nothing(empty):
    session = empty.session
    press(empty, Qt.Key.Key_T)
    type_in(empty, "trip_start", "never")
    type_in(empty, "trip_end", "11:00")
    click_button(empty, "sheet_past_trip_go")
    assert session.sheet == "past_trip"
    assert not len(session.trips.hours)
    type_in(empty, "trip_start", "22:00")
    type_in(empty, "trip_end", "2:00")
    click_button(empty, "sheet_past_trip_go")
    (trip,) = session.logbook.trips
    assert trip.end - trip.start == 4 * 3600
    assert not session.trips.has_fish(trip.ref)
    assert session.listed.table.kind.tolist() == [Row.BLANK]


def test_a_mark_opens_a_trip_by_itself_and_undo_takes_both_back(window):
    session = window.session
    window.actions_by_id["mark.mark"].trigger()
    (trip,) = session.logbook.trips
    assert trip.water == session.water.name
    window.actions_by_id["mark.mark"].trigger()
    assert len(session.logbook.trips) == 1
    press(window, Qt.Key.Key_Z)
    press(window, Qt.Key.Key_Z)
    assert (len(session.logbook.trips), len(session.logbook.marks)) == (0, 0)


def picture_of(window):
    return window.findChild(TripPicture)


def test_a_band_is_dragged_by_its_end_and_its_depth_cut_and_said_again(seasons):
    session, picture = seasons.session, picture_of(seasons)
    outing = session.trips.outing
    beads = [v.time for v in (*outing.catches, *outing.contacts)]
    roomy = [e for e in outing.efforts if e.bottom_depth_m - e.lure_depth_m > 2.0]
    first = max(roomy, key=lambda e: e.end - e.start)

    def bare(band):
        """A place on a band as far as may be from the beads of fish."""
        at = np.linspace(band.left() + 9, band.right() - 9, 40)
        away = np.abs(at[:, None] - picture.clock.px(np.array(beads))[None]).min(axis=1)
        return QPoint(round(at[int(away.argmax())]), round(band.center().y()))

    box = picture.band(first)
    end = QPoint(round(box.right()) - 2, round(box.center().y()))
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=end)
    QTest.mouseMove(picture, end + QPoint(-40, 0))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=end + QPoint(-40, 0))
    shorter = session.logbook.efforts.by_id(first.id)
    assert shorter.end < first.end
    assert shorter.lure_depth_m == first.lure_depth_m
    middle = bare(picture.band(shorter))
    QTest.mousePress(picture, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(picture, middle + QPoint(0, 30))
    QTest.mouseRelease(picture, Qt.MouseButton.LeftButton, pos=middle + QPoint(0, 30))
    deeper = session.logbook.efforts.by_id(first.id)
    assert deeper.lure_depth_m > first.lure_depth_m
    assert deeper.start == first.start
    count = len(session.trips.outing.efforts)
    act(seasons, "log.cut")
    assert len(session.trips.outing.efforts) == count + 1
    act(seasons, "log.again")
    assert len(session.trips.outing.efforts) == count + 2
    assert session.trips.picked.start == pytest.approx(deeper.end, abs=deeper.end - deeper.start)
    for _ in range(4):
        press(seasons, Qt.Key.Key_Z)
    assert session.logbook.efforts.by_id(first.id) == first
    assert len(session.trips.outing.efforts) == count


def test_a_fish_is_picked_put_right_and_its_history_is_seen(seasons):
    session, picture = seasons.session, picture_of(seasons)
    catch = session.trips.outing.catches[0]
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=picture.spot(catch).toPoint())
    assert session.trips.picked == catch
    assert "kokanee" in texts(seasons, "log_picked")
    press(seasons, Qt.Key.Key_V)
    assert session.sheet == "record"
    assert "weighed" in texts(seasons, "record_weight")
    type_in(seasons, "record_length_m", "15 1/2")
    type_in(seasons, "record_hook_place", "upper jaw")
    click_button(seasons, "sheet_record_go")
    changed = session.logbook.catches.by_id(catch.id)
    assert changed.length_m == pytest.approx(15.5 * 0.0254)
    assert changed.hook_place == "upper jaw"
    press(seasons, Qt.Key.Key_V)
    assert "length was" in texts(seasons, "record_history")
    session.ask_sheet("")
    press(seasons, Qt.Key.Key_Z)
    assert session.logbook.catches.by_id(catch.id) == catch


def test_a_fish_and_a_contact_are_added_to_a_past_stretch(seasons):
    session, picture = seasons.session, picture_of(seasons)
    effort = session.trips.outing.efforts[-1]
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, pos=picture.band(effort).center().toPoint())
    effort = session.trips.picked
    press(seasons, Qt.Key.Key_C)
    field(seasons, "catch_species", QComboBox).setEditText("sauger")
    click_button(seasons, "catch_save")
    catch = max((c for c in session.trips.outing.catches if c.effort == effort.ref), key=lambda c: c.id)
    assert effort.start <= catch.time <= effort.end
    assert catch.lure_depth_m == pytest.approx(effort.lure_depth_m)
    assert (catch.trip, catch.latitude) == (effort.trip, effort.latitude)
    session.trips.pick(effort)
    act(seasons, "log.contact")
    assert session.sheet == "record"
    kind = field(seasons, "record_kind", QComboBox)
    kind.setCurrentIndex(kind.findText("bitten off"))
    type_in(seasons, "record_lure_did", "paused")
    click_button(seasons, "sheet_record_go")
    moment = session.trips.picked
    assert (moment.kind, moment.lure_did, moment.trip) == (MomentKind.BITTEN_OFF, "paused", effort.trip)


def test_what_was_taken_out_lies_in_the_trash_and_comes_back(seasons):
    session = seasons.session
    before = len(session.trips.outing.catches)
    catch = session.trips.outing.catches[0]
    session.trips.pick(catch)
    act(seasons, "log.remove")
    assert session.logbook.catches.by_id(catch.id) is None
    session.history.clear()
    press(seasons, Qt.Key.Key_Y)
    assert session.sheet == "trash"
    click_button(seasons, "sheet_trash_go")
    assert session.logbook.catches.by_id(catch.id) == catch
    session.ask_sheet("")
    session.trips.pick(None)
    trip = session.trips.chosen
    act(seasons, "log.remove")
    assert session.logbook.trips.by_id(trip.id) is None
    press(seasons, Qt.Key.Key_Z)
    assert len(session.trips.outing_of(trip).catches) == before


def test_trips_are_stepped_through_and_the_plumb_line_follows(seasons):
    session = seasons.session
    last = session.trips.chosen
    act(seasons, "log.trip_before")
    assert session.trips.chosen.start < last.start
    act(seasons, "log.trip_after")
    assert session.trips.chosen == last
    picture, column = picture_of(seasons), session.view.column
    assert column.base_m - column.top_m == pytest.approx(
        picture.deepest_m * picture.height() / picture.area.height(), rel=0.01
    )
    press(seasons, Qt.Key.Key_Period)
    assert session.trips.picked is not None


# -- finding ------------------------------------------------------------------------------------------------------


def test_typing_finds_and_the_list_shows_exactly_these(seasons, qtbot):
    session = seasons.session
    press(seasons, Qt.Key.Key_Q)
    search = field(seasons, "log_search")
    assert seasons.focusWidget() is search
    QTest.keyClicks(search, "kokanee aug > 14 in")
    qtbot.waitUntil(lambda: session.listed.text == "kokanee aug > 14 in")
    rows = [session.listed.value(int(k)) for k in session.listed.found]
    assert rows
    want = {
        c.id for c in session.logbook.catches
        if c.species == "kokanee" and c.length_m >= 14 * 0.0254 and session.local(c.time).month == 8
    }  # fmt: skip
    assert {r.id for r in rows} == want
    table = seasons.findChild(QTableView, "loglist")
    assert table.model().rowCount() == len(want)
    assert f"{len(want)} fish" in texts(seasons, "log_summary")
    search.clear()
    qtbot.waitUntil(lambda: session.listed.text == "")
    assert len(session.listed.found) > 200


def test_a_distribution_cuts_the_list_and_a_click_lifts_the_cut(seasons):
    session, strip = seasons.session, seasons.findChild(Distributions)
    before = len(session.listed.found)
    box = strip.box(0)
    left, right = (QPoint(round(box.left() + f * box.width()), round(box.center().y())) for f in (0.55, 0.75))
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=left)
    QTest.mouseMove(strip, right)
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=right)
    low, high = session.listed.ranges["length_m"]
    rows = [session.listed.value(int(k)) for k in session.listed.found]
    assert rows
    assert all(low <= r.length_m <= high for r in rows)
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=left)
    assert len(session.listed.found) == before


def test_rows_are_sorted_by_their_headings_and_lead_to_their_trips(seasons):
    session, table = seasons.session, seasons.findChild(QTableView, "loglist")
    header = table.horizontalHeader()
    QTest.mouseClick(
        header.viewport(), Qt.MouseButton.LeftButton, pos=QPoint(header.sectionViewportPosition(2) + 20, 8)
    )
    lengths = session.listed.table.numbers["length_m"][session.listed.found]
    known = lengths[~(lengths != lengths)]
    assert (known[:-1] >= known[1:]).all()
    table.selectRow(0)
    catch = session.trips.picked
    assert catch.length_m == pytest.approx(known[0])
    assert session.trips.chosen.ref == catch.trip
    click_button(seasons, "chip_contact")
    assert Row.CONTACT in set(session.listed.table.kind[session.listed.found].tolist())


def test_words_of_every_cell_can_be_shown(seasons):
    seasons.session.listed.shows = set(Row)
    seasons.session.listed.clear()
    table = seasons.findChild(QTableView, "loglist").model()
    for row in range(0, table.rowCount(), 7):
        words = [table.index(row, k).data() for k in range(table.columnCount())]
        assert words[0]
        assert not any("nan" in str(w).split() for w in words)


# -- limits and care ----------------------------------------------------------------------------------------------


def test_the_table_of_limits_is_typed_kept_and_taken_back(empty):
    session = empty.session
    press(empty, Qt.Key.Key_K)
    table = field(empty, "limits_table", QTableWidget)
    for column, text in ((1, "kokanee"), (2, "05-01"), (3, "10-31"), (4, "14 in"), (8, "4"), (11, "notice")):
        table.item(0, column).setText(text)
    click_button(empty, "sheet_limits_go")
    (limit,) = session.logbook.limits
    assert limit.least_m == pytest.approx(14 * 0.0254)
    assert (limit.bag, limit.opens, limit.source) == (4.0, "05-01", "notice")
    press(empty, Qt.Key.Key_K)
    table.item(0, 2).setText("13-45")
    click_button(empty, "sheet_limits_go")
    assert session.sheet == "limits"  # still open, nothing lost
    assert session.logbook.limits[0].opens == "05-01"
    session.ask_sheet("")
    press(empty, Qt.Key.Key_Z)
    assert not len(session.logbook.limits)


def test_a_fish_that_is_short_says_so_before_it_is_kept(window):
    session = window.session
    session.logbook.edit("limits", [Limit(species="kokanee", least_m=0.36, bag=2)])
    press(window, Qt.Key.Key_C)
    form = window.findChild(QWidget, "catchform")
    field(window, "catch_species", QComboBox).setEditText("kokanee")
    length = field(window, "catch_length")
    length.setFocus()
    QTest.keyClicks(length, "35 cm")
    verdict = window.findChild(QLabel, "catch_verdict")
    assert verdict.isVisibleTo(form)
    assert verdict.text().startswith("GOES BACK")
    assert "0.4 in" in verdict.text()
    length.selectAll()
    QTest.keyClicks(length, "15 1/2")
    assert "GOES BACK" not in verdict.text()
    click_button(window, "catch_kept")
    click_button(window, "catch_save")
    (catch,) = session.logbook.catches
    assert catch.kept
    assert catch.trip == session.logbook.trips[0].ref
    assert "wind_mps" in catch.around
    for _ in range(2):
        session.logbook.edit("catch", [Catch(time=catch.time, species="kokanee", kept=True, trip=catch.trip)])
    press(window, Qt.Key.Key_C)
    field(window, "catch_species", QComboBox).setEditText("kokanee")
    assert "bag is full" in verdict.text()


def test_the_bag_of_a_past_day_is_held_against_that_days_fish(window):
    session = window.session
    today = session.view.moment
    session.logbook.edit("limit", [Limit(species="kokanee", bag=1), Catch(time=today, species="kokanee", kept=True)])
    press(window, Qt.Key.Key_C)
    field(window, "catch_species", QComboBox).setEditText("kokanee")
    verdict = window.findChild(QLabel, "catch_verdict")
    assert "bag is full" in verdict.text()
    when = field(window, "catch_when")
    when.selectAll()
    QTest.keyClicks(when, "2026-08-01 07:00")
    assert "bag is full" not in verdict.text()


def test_a_deep_fish_that_goes_back_gets_its_care(window):
    press(window, Qt.Key.Key_C)
    field(window, "catch_species", QComboBox).setEditText("sauger")
    depth = field(window, "catch_depth")
    depth.setFocus()
    depth.selectAll()
    QTest.keyClicks(depth, "50 ft")
    QTest.keyClick(depth, Qt.Key.Key_Tab)
    assert "back down quickly" in texts(window, "catch_care")
    click_button(window, "catch_kept")
    assert not window.findChild(QLabel, "catch_care").isVisibleTo(window.findChild(QWidget, "catchform"))


def test_four_presses_land_a_fish_on_deck(water, tmp_path):
    session = water.session
    session.logbook.edit("limits", [Limit(species="kokanee", least_m=0.60)])
    session.logbook.edit("catch", [Catch(time=1.0, species="kokanee", length_m=0.35)])
    session.live.begin(tmp_path / "day.nc")
    session.live.take_fix(FIX)
    press(water, Qt.Key.Key_F11)
    QTest.qWait(20)

    def touch(command):
        target = water.findChild(TargetButton, f"target_deck_{command}")
        QTest.mouseClick(target, Qt.MouseButton.LeftButton)
        QTest.qWait(20)

    touch("caught")
    assert session.deck.row == "which"
    touch("choice_1")
    touch("choice_4")
    page = water.findChild(DeckPage)
    assert page.banner.banner.head == "GOES BACK"
    assert "Too short" in page.banner.banner.words
    touch("choice_1")
    catch = session.logbook.catches[1]
    assert (catch.species, catch.kept) == ("kokanee", False)
    assert catch.length_m == pytest.approx(0.34, abs=0.02)
    assert not session.logbook.to_complete
    assert session.logbook.moments[0].kind is MomentKind.CAUGHT
    assert session.deck.row == ""
    touch_undo = water.actions_by_id["mark.undo"]
    touch_undo.trigger()
    assert len(session.logbook.catches) == 1
    assert len(session.logbook.to_complete) == 1  # the press itself is still there, to be completed


def test_stretches_write_themselves_from_rods_and_boat(water, tmp_path):
    from dataclasses import replace

    session = water.session
    keeper = water.efforts
    session.live.begin(tmp_path / "day.nc")
    for k in range(60):
        speed = 1.2 if k < 40 else 7.0
        session.live.take_fix(replace(FIX, time=FIX.time + 10.0 * k, speed_mps=speed))
        keeper.look()
    efforts = session.logbook.efforts
    trolled = [e for e in efforts if e.method == session.rig.settings.method.value]
    assert len(trolled) == 1
    assert trolled[0].end - trolled[0].start == pytest.approx(400.0, abs=60.0)
    assert trolled[0].lure_depth_m == pytest.approx(session.rig.bob_m, abs=0.01)
    assert trolled[0].trip == session.logbook.trips[0].ref
    session.live.end()
    assert not session.history.can_undo


# -- marks twice --------------------------------------------------------------------------------------------------


def test_a_thing_marked_twice_is_offered_and_made_one(empty):
    session = empty.session
    first = session.logbook.edit("mark", [a_mark(seen=3, note="by the lip")])[0]
    twin = a_mark(latitude=44.206009, depth_m=8.4, seen=5, time=1786785900.0, name="the lip")
    second, fish = session.logbook.edit("mark", [twin, Catch(mark_id=0, time=1786785950.0, species="kokanee")])
    session.logbook.edit("mark", [a_mark(kind=MarkKind.BAIT)])
    press(empty, Qt.Key.Key_D)
    assert session.sheet == "twice"
    click_button(empty, "sheet_twice_go")
    marks = session.logbook.all(Mark)
    assert len(marks) == 2
    one = marks.by_id(first.id)
    assert one.latitude == pytest.approx(44.2060045, abs=1e-7)
    assert one.position_sd_m == pytest.approx(2.0 / math.sqrt(2), abs=0.01)
    assert (one.seen, one.name, one.note) == (5, "the lip", "by the lip")
    assert session.logbook.catches.by_id(fish.id).mark_id == first.id
    session.ask_sheet("")
    press(empty, Qt.Key.Key_Z)
    assert session.logbook.all(Mark).by_id(second.id) == second
    assert session.logbook.catches.by_id(fish.id).mark_id == second.id


# -- in and out ---------------------------------------------------------------------------------------------------


def test_a_log_comes_in_as_one_step_and_goes_out_whole(empty, tmp_path, qtbot):
    session = empty.session
    empty.tasks.log_files.open(data_path("demo.log.zip"))
    qtbot.waitUntil(lambda: len(session.logbook.trips) == 84 and not session.jobs.live, timeout=30_000)
    press(empty, Qt.Key.Key_Z)
    assert not len(session.logbook.trips)
    empty.actions_by_id["mark.redo"].trigger()
    assert len(session.logbook.trips) == 84
    out = tmp_path / "out.log.zip"
    empty.tasks.log_files.export(out)
    qtbot.waitUntil(lambda: out.exists() and not session.jobs.live, timeout=30_000)
    tables, files = read_archive(out)
    assert len(tables["catches"]) == len(session.logbook.catches)
    assert sum(name.startswith("pictures/") for name in files) == 6
    empty.tasks.log_files.open(out)
    qtbot.waitUntil(lambda: not session.jobs.live, timeout=30_000)
    assert len(session.logbook.trips) == 84


def test_a_table_of_catches_asks_which_date_is_meant_and_remembers(empty, tmp_path, qtbot):
    session = empty.session
    path = tmp_path / "old book.csv"
    with path.open("w", newline="", encoding="cp1252") as file:
        writer = csv.writer(file, delimiter=";")
        writer.writerow(["Datum", "Uhrzeit", "Fisch", "Länge (cm)", "Notiz"])
        writer.writerow(["03.04.2026", "06:15", "kokanee", "33,5", "für immer"])
        writer.writerow(["05.06.2026", "", "sauger", "41", ""])
        writer.writerow(["07.08.2026", "21:00", "", "41", "nobody"])
    empty.files.open([path])
    qtbot.waitUntil(lambda: session.sheet == "catch_csv", timeout=30_000)
    dates = field(empty, "csv_dates", QComboBox)
    assert dates.count() == 3  # asks: both readings fit
    click_button(empty, "sheet_catch_csv_go")
    assert not len(session.logbook.catches)
    dates.setCurrentIndex(dates.findText("day, month, year", Qt.MatchFlag.MatchStartsWith))
    assert "Left out: 1," in texts(empty, "csv_said")
    click_button(empty, "sheet_catch_csv_go")
    qtbot.waitUntil(lambda: len(session.logbook.catches) == 2 and not session.jobs.live, timeout=30_000)
    first = session.logbook.catches[0]
    assert first.length_m == pytest.approx(0.335)
    when = session.local(first.time)
    assert (when.day, when.month, when.hour) == (3, 4, 6)
    assert len(session.logbook.trips) == 2
    empty.files.open([path])
    qtbot.waitUntil(lambda: session.sheet == "catch_csv", timeout=30_000)
    assert dates.currentText().startswith("day")
    click_button(empty, "sheet_catch_csv_go")
    qtbot.waitUntil(lambda: not session.jobs.live, timeout=30_000)
    assert len(session.logbook.catches) == 2


def test_a_second_table_that_comes_while_one_is_asked_about_is_asked_about_instead(empty, tmp_path, qtbot):
    session = empty.session
    wide, narrow = tmp_path / "wide.csv", tmp_path / "narrow.csv"
    wide.write_text("place,date,time,note,fish\nhere,2026-05-06,06:15,none,kokanee\n", encoding="utf-8")
    narrow.write_text("fish,date\nsauger,2026-05-07\nburbot,2026-05-08\n", encoding="utf-8")
    empty.files.open([wide])
    qtbot.waitUntil(lambda: session.sheet == "catch_csv", timeout=30_000)
    empty.files.open([narrow])
    qtbot.waitUntil(lambda: "2 fish" in texts(empty, "csv_said"), timeout=30_000)
    click_button(empty, "sheet_catch_csv_go")
    qtbot.waitUntil(lambda: len(session.logbook.catches) == 2 and not session.jobs.live, timeout=30_000)


def test_sharing_says_what_is_left_out_before_it_writes(seasons, qtbot, monkeypatch, tmp_path):
    session, out = seasons.session, tmp_path / "shared.pdf"
    monkeypatch.setattr("plumbbob.desk.views.log.share_sheet.ask_to_save", lambda *args: out)
    press(seasons, Qt.Key.Key_J)
    qtbot.waitUntil(lambda: "Left out" in texts(seasons, "share_left_out"), timeout=30_000)
    assert "positions: " in texts(seasons, "share_left_out")
    click_button(seasons, "sheet_share_go")
    qtbot.waitUntil(lambda: out.exists() and not session.jobs.live, timeout=30_000)
    assert out.read_bytes().startswith(b"%PDF")


def test_a_good_copy_is_put_back_in_one_step(seasons, qtbot):
    session = seasons.session
    trip = session.trips.chosen
    act(seasons, "log.remove")
    assert len(session.logbook.trips) == 83
    press(seasons, Qt.Key.Key_Y, Qt.KeyboardModifier.ShiftModifier)
    assert session.sheet == "copies"
    click_button(seasons, "sheet_copies_go")
    qtbot.waitUntil(
        lambda: session.logbook.is_open and len(session.logbook.trips) == 84 and not session.jobs.live, timeout=30_000
    )
    assert session.trips.chosen.ref == trip.ref
    assert not session.history.can_undo


def test_damaged_and_foreign_files_change_nothing(seasons, tmp_path, qtbot):
    session = seasons.session
    bad = tmp_path / "bad.log.zip"
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("log.json", '{"format": "plumbbob-log", "version": 9}')
    said = []
    session.said.connect(lambda line, wrong: said.append((line, wrong)))
    seasons.tasks.log_files.open(bad)
    qtbot.waitUntil(lambda: any(wrong for _, wrong in said), timeout=30_000)
    assert "version is 9" in said[-1][0]
    assert len(session.logbook.trips) == 84
