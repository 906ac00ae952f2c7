"""The list and the pictures of the log over odd logs: empty, without places or times, in all lights and sizes."""

import math
from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QSettings
from PySide6.QtWidgets import QTableView

from plumbbob.core.units import System
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.trips_model import rod_hours, trip_for
from plumbbob.desk.theme import Light
from plumbbob.desk.views.chart.open_water_layer import age_words
from plumbbob.desk.views.log.trip_picture import TripPicture
from plumbbob.desk.views.log.words import duration_words, light_words, when_words
from plumbbob.store.opening import open_log
from plumbbob.store.values import Catch, Effort, LoggedWater, Mark, MarkKind, Moment, MomentKind, Trip
from tests.store.test_log import a_mark

DAY = 1786785000.0


@pytest.fixture
def session(qapp, tmp_path):
    made = Session(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    made.logbook.attach(open_log(tmp_path / "log.db").log)
    yield made
    made.logbook.close()


def a_trip(session, k=0, fish=1, **more):
    start = DAY + 86_400.0 * k
    trip = Trip(ref=f"t{k}", water="Veyra Lake", start=start, end=start + 18_000.0, **more)
    effort = Effort(ref=f"e{k}", trip=trip.ref, start=start, end=start + 7200.0, rods=2.0, spot="Twin Humps",
                    lure="spoon", lure_depth_m=8.0, bottom_depth_m=16.0)  # fmt: skip
    caught = [
        Catch(ref=f"c{k}-{i}", trip=trip.ref, effort=effort.ref, time=start + 60.0 * i, species="kokanee",
              length_m=0.30 + 0.02 * i, lure_depth_m=8.0)
        for i in range(fish)
    ]  # fmt: skip
    return session.logbook.edit("trip", [trip, effort, *caught])[0]


def test_an_empty_log_lists_nothing_and_says_so(session):
    assert session.listed.found.size == 0
    assert session.listed.summary() == (0, 0, 0, 0)
    assert session.trips.chosen is None
    assert session.trips.outing is None
    session.trips.step(1)
    session.trips.pick(None)


def test_a_blank_trip_counts_as_much_as_a_good_one(session):
    a_trip(session, 0, fish=3)
    a_trip(session, 1, fish=0)
    kinds = session.listed.table.kind[session.listed.found].tolist()
    assert sorted(kinds) == [Row.CATCH] * 3 + [Row.BLANK]
    assert session.listed.summary() == (3, 2, 2, pytest.approx(8.0))
    session.listed.set_text("spoon")
    assert session.listed.summary()[0] == 3
    session.listed.set_text("twin humps")
    assert session.listed.summary()[1] == 2


def test_rows_without_time_or_place_are_listed_last_and_harm_nothing(session):
    a_trip(session)
    session.logbook.edit("mark", [Mark(water="", kind=MarkKind.PLACE, time=math.nan, latitude=math.nan,
    longitude=math.nan),
                                  Catch(time=math.nan, species="burbot")])  # fmt: skip
    listed = session.listed
    times = listed.table.time[listed.found]
    assert np.isnan(times[-2:]).all()
    assert not np.isnan(times[:-2]).any()
    assert len(session.logbook.marks) == 0
    assert len(session.logbook.all(Mark)) == 1
    assert when_words(session, math.nan, "") == "–"


@pytest.mark.parametrize(
    ("name", "falling"), [("length_m", True), ("length_m", False), ("what", False), ("place", True)]
)
def test_any_order(session, name, falling):
    a_trip(session, 0, fish=4)
    session.logbook.edit("catch", [Catch(time=DAY + 9, species="burbot", length_m=0.5)])
    session.listed.set_sort(name, falling)
    table, found = session.listed.table, session.listed.found
    keys = [table.numbers[name][k] if name == "length_m" else getattr(table, name)[k] for k in found]
    assert keys == sorted(keys, reverse=falling)


def test_a_catch_without_a_place_lies_where_its_mark_does(session):
    session.logbook.edit("catch", [a_mark(name="the lip"), Catch(mark_id=0, time=DAY, species="kokanee")])
    table = session.listed.table
    k = int(np.flatnonzero(table.kind == Row.CATCH)[0])
    assert (table.latitude[k], table.place[k], table.water[k]) == (44.206, "the lip", "Veyra Lake")
    assert table.numbers["bottom_depth_m"][k] == 19.0


def test_months_and_hours_are_those_of_the_waters_own_clock(session):
    a_trip(session)
    session.logbook.edit("water", [LoggedWater(water="Veyra Lake", time_zone="Etc/GMT+3")])
    late = 1785553200.0  # 2026-08-01 03:00 UTC, midnight at the lake
    session.logbook.edit("catch", [Catch(time=late - 60.0, trip="t0", species="sauger")])
    table = session.listed.table
    k = table.what.index("sauger")
    assert (table.month[k], table.year[k]) == (7, 2026)
    assert table.numbers["hour"][k] == pytest.approx(24 - 1 / 60)
    session.logbook.edit("water", [replace(session.logbook.waters[0], time_zone="Nowhere/At_all")])
    assert session.trips.zone_of("Veyra Lake") is None


def test_what_belongs_to_a_trip_is_found_by_its_name_and_new_things_find_their_trip(session):
    first, second = a_trip(session, 0), a_trip(session, 1)
    assert session.trips.chosen == second
    assert [c.trip for c in session.trips.outing_of(first).catches] == ["t0"]
    assert trip_for(session.trips, session.logbook, "Veyra Lake", DAY + 3600.0).id == first.id
    assert trip_for(session.trips, session.logbook, "Tern Pond", DAY + 3600.0) is None
    assert trip_for(session.trips, session.logbook, "Veyra Lake", DAY + 36_000.0).id == first.id  # the same evening
    assert trip_for(session.trips, session.logbook, "Veyra Lake", DAY - 40_000.0) is None
    moment = session.logbook.add_moment(Moment(water="Veyra Lake", kind=MomentKind.SEEN, time=DAY + 20_000.0))
    assert moment.trip == "t0"
    grown = session.trips.by_ref("t0")
    assert grown.end == DAY + 20_000.0


@pytest.mark.parametrize(
    ("start", "end", "rods", "hours"),
    [
        (0.0, 3600.0, 2.0, 2.0),
        (0.0, 3600.0, None, 1.0),
        (3600.0, 0.0, 2.0, 0.0),
        (None, 5.0, 1.0, 0.0),
        (0.0, 60.0, -1.0, 0.0),
    ],
)
def test_rod_hours_of_stretches_that_make_sense(start, end, rods, hours):
    assert rod_hours(start, end, rods) == hours


def test_what_is_typed_in_inches_is_what_is_meant(session):
    a_trip(session, fish=5)
    session.display.set_system(System.US) if hasattr(session.display, "set_system") else None
    session.listed.set_text("> 14 in")
    assert {round(session.listed.value(int(k)).length_m, 2) for k in session.listed.found} == {0.36, 0.38}
    session.listed.set_range("length_m", (0.0, 0.37))
    assert session.listed.found.size == 1
    assert session.listed.found_but("length_m").size == 2
    session.listed.clear()
    assert session.listed.found.size == 5


def test_words_of_time_and_light():
    from plumbbob.core.geodesy import Position

    lake = Position(44.2, -40.05)
    assert [duration_words(h) for h in (0.5, 1.0, 2.75)] == ["30 min", "1 h 00", "2 h 45"]
    words = [light_words(lake, DAY + 3600.0 * h) for h in (-6, -1, 6, 12)]
    assert words == ["night", "dawn", "high sun", "dusk"]
    assert light_words(None, DAY) == ""
    assert [age_words(s) for s in (10.0, 3000.0, 7200.0, 5 * 86_400.0)] == ["1 min", "50 min", "2 h", "5 d"]


@pytest.mark.parametrize("light", list(Light))
@pytest.mark.parametrize("size", [10.0, 20.0])
def test_the_picture_is_painted_in_every_light_and_size_of_text(session, light, size):
    a_trip(session, fish=2)
    session.logbook.edit("odd", [Effort(ref="half", trip="t0", start=DAY), Effort(ref="none", trip="t0")])
    session.logbook.edit("sign", [
        Moment(water="Veyra Lake", trip="t0", kind=MomentKind.SEAM, time=DAY + 60.0),
        Moment(water="Veyra Lake", trip="t0", kind=MomentKind.LOST, time=DAY + 90.0, fish_depth_m=7.0),
    ])  # fmt: skip
    session.display.set_light(light)
    session.display.set_text_size(size)
    picture = TripPicture(session)
    picture.resize(700, 320)
    picture.show()
    image = picture.grab().toImage()
    assert len({image.pixel(x, y) for x in range(0, 700, 9) for y in range(0, 320, 9)}) > 12
    assert picture.band(session.trips.outing.efforts[-1]) is None
    picture.close()


def test_a_log_of_many_rows_is_listed_without_making_them_all(session):
    rows = 20_000
    session.logbook.log.put_batch(
        {Mark: [a_mark(id=k + 1, ref=str(k), time=DAY + k, name=f"m{k}") for k in range(rows)]}
    )
    session.logbook.write([])  # looks again, as after an import
    held = session.logbook.all(Mark)
    session.listed.set_text("m1999")
    assert session.listed.found.size == 11
    assert len(held._made) < 100  # noqa: SLF001


def test_the_table_shows_as_many_rows_as_are_listed(session, qtbot):
    from plumbbob.desk.views.log.foot import LogFoot

    a_trip(session, fish=3)
    foot = LogFoot(session)
    qtbot.addWidget(foot)
    foot.resize(1200, 320)
    foot.show()
    table = foot.findChild(QTableView, "loglist")
    assert table.model().rowCount() == 3
    session.listed.set_text("nothing like it")
    assert table.model().rowCount() == 0
    session.logbook.edit("catch", [Catch(time=DAY, species="nothing like it")])
    assert table.model().rowCount() == 1
    assert table.model().index(0, 1).data() == "● nothing like it"


def test_what_a_place_gave_is_the_same_of_few_marks_and_of_patches(session):
    from plumbbob.core.geodesy import Plane

    plane = Plane(32624)
    session.logbook.edit("mark", [a_mark(seen=3, caught=1), Catch(mark_id=0, time=DAY, species="kokanee")])
    (row,) = session.logbook.marks.record_on(plane, session.logbook.caught_by_mark())
    assert row[2:].tolist() == [3.0, 2.0]
    many = [a_mark(id=k + 10, ref=str(k), latitude=44.2 + 1e-6 * (k % 50), seen=2) for k in range(3000)]
    session.logbook.log.put_batch({Mark: many})
    session.logbook.write([])  # looks again, as after an import
    record = session.logbook.marks.record_on(plane, session.logbook.caught_by_mark())
    assert len(record) < 10
    assert record[:, 2].sum() == 3 + 6000
    assert record[:, 3].sum() == 2
