"""The Review stage in the real window: sentences and their evidence, conditions, cuts, trips, pages, an empty log."""

import shutil

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel

from plumbbob.core.units import Kind, System
from plumbbob.desk.models.review_model import Saying
from plumbbob.desk.theme import Light
from plumbbob.desk.views.review.rate_picture import RatePicture
from plumbbob.desk.views.review.sentences import Sentences
from plumbbob.desk.views.review.words import sentence_of
from plumbbob.desk.views.review.year_picture import YearPicture
from tests.desk.conftest import press
from tests.desk.test_log_stage import act


def reviewed(window, qtbot):
    review = window.session.review
    qtbot.waitUntil(lambda: review.made is not None and review.share >= 1.0, timeout=20_000)
    QTest.qWait(20)
    return review


@pytest.fixture
def window(opened, demo_log, tmp_path, qtbot):
    """At the review of the demo's seasons."""
    for file in demo_log.parent.iterdir():
        (shutil.copytree if file.is_dir() else shutil.copy)(file, tmp_path / file.name)
    window = opened()
    window.activateWindow()
    press(window, Qt.Key.Key_6)
    assert window.session.stage == "review"
    reviewed(window, qtbot)
    return window


def test_a_first_finding_is_there_by_itself_and_the_keys_go_on(window):
    review, session = window.session.review, window.session
    first = review.picked
    assert first.saying is Saying.FINDING
    said, against = sentence_of(review.made, first, session.display)
    assert "Larch Flat" in said
    assert against.startswith("But ")
    assert review.dimension == "spot"  # its evidence is open
    assert "277 fish" in window.findChild(QLabel, "review_summary").text()
    press(window, Qt.Key.Key_Period)
    assert review.picked is review.items[1]
    assert review.dimension == review.items[1].dimension
    at = review.dimensions.index(review.dimension)
    press(window, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert review.dimension == review.dimensions[at + 1]
    press(window, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert review.dimension == review.dimensions[at]


def test_a_click_on_a_sentence_opens_it_and_a_bead_its_trip(window):
    review, session = window.session.review, window.session
    sentences, rates = window.findChild(Sentences), window.findChild(RatePicture)
    wanted = next(i for i in review.items if i.saying is Saying.FINDING and i.dimension == "lure_depth")
    QTest.mouseClick(sentences, Qt.MouseButton.LeftButton, pos=sentences.box_of(wanted).center().toPoint())
    assert review.picked == wanted
    assert review.dimension == "lure_depth"
    rates.grab()
    hours, fish = rates.trips_behind()
    trip, at = rates.beads[0]
    assert hours[trip] > 0
    QTest.mouseClick(rates, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert session.stage == "log"
    outing = session.trips.outing
    assert outing.trip.ref == review.made.read.trip_names[trip]
    deep = review.review.rates["lure_depth"]
    assert sum(fish) == sum(r.fish for r in deep if wanted.part.first <= r.bin <= wanted.part.last)


def test_depths_hang_level_with_the_plumb_line_and_the_bob_at_the_best(window):
    review, session, rates = window.session.review, window.session, window.findChild(RatePicture)
    review.show("lure_depth")
    QTest.qWait(20)
    column = session.view.column
    row = rates.rows()[0]
    dimension = review.review.dimension("lure_depth")
    top = float(dimension.edges[row.rate.bin])
    shown = column.top_m + (column.base_m - column.top_m) * row.top / rates.height()
    assert shown == pytest.approx(top, abs=0.1)
    act(window, "review.hang")
    best = max((r for r in review.review.rates["lure_depth"] if r.enough), key=lambda r: r.low)
    assert dimension.edges[best.bin] <= session.rig.bob_m <= dimension.edges[best.bin + 1]
    act(window, "review.to_run")
    assert float(session.settings.value("run/per_h")) == pytest.approx(review.review.rate, abs=1e-3)


def test_a_cut_shows_that_part_and_is_held_against_another(window, qtbot):
    review = window.session.review
    whole = review.review.hours
    combos = {n: window.findChild(QComboBox, f"review_{n}") for n in ("water", "year", "species", "beside")}
    choose(combos["water"], "Veyra Lake")
    choose(combos["year"], "2026")
    choose(combos["beside"], "against 2025")
    qtbot.waitUntil(lambda: review.other is not None and review.share >= 1.0, timeout=20_000)
    assert review.review.hours + review.other.review.hours < whole
    assert {int(str(t)[:4]) for t in review.made.record.start_s.astype("datetime64[s]")} == {2026}
    assert "2026" in window.session.view.header
    review.show("light")
    window.findChild(RatePicture).grab()
    choose(combos["beside"], "against nothing")
    assert review.other is None


def choose(combo, words):
    at = combo.findText(words)
    assert at >= 0, words
    combo.setCurrentIndex(at)
    combo.activated.emit(at)


def test_a_bead_of_the_year_opens_its_trip(window):
    year = window.findChild(YearPicture)
    year.grab()
    trip, at = year.beads[5]
    near = [t for t, p in year.beads if (p - at).manhattanLength() < 1]
    QTest.mouseClick(year, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))
    names = {window.session.review.made.read.trip_names[t] for t in (trip, *near)}
    assert window.session.trips.outing.trip.ref in names


def test_it_follows_the_log_and_goes_out_as_pages(window, qtbot, tmp_path):
    session, review = window.session, window.session.review
    before = review.review.hours
    effort = session.logbook.efforts[0]
    out = tmp_path / "r.pdf"
    window.tasks.reviewer.report(out, places=False)
    qtbot.waitUntil(out.exists, timeout=10_000)
    assert out.read_bytes().startswith(b"%PDF")
    session.set_stage("log")
    session.trips.choose(session.logbook.trips.by_ref(effort.trip).id)
    session.trips.pick(effort)
    act(window, "log.remove")
    session.set_stage("review")
    qtbot.waitUntil(lambda: review.review.hours < before - 0.1 and review.share >= 1.0, timeout=20_000)


@pytest.mark.parametrize("light", [Light.DAY, Light.NIGHT])
def test_every_condition_is_drawn_in_any_unit_light_and_size(window, light):
    session = window.session
    session.display.set_light(light)
    session.display.set_system(System.METRIC)
    session.display.set_text_size(2 * session.display.text_size)
    assert session.display.unit(Kind.DEPTH) == "m"
    for name in session.review.dimensions:
        session.review.show(name)
        assert not window.grab().isNull()


def test_an_empty_log_says_what_it_would_show(opened, qtbot):
    window = opened()
    window.session.set_stage("review")
    reviewed(window, qtbot)
    assert "trips" in window.session.view.start_words
    assert not window.actions_by_id["review.hang"].isEnabled()
    assert not window.actions_by_id["review.report"].isEnabled()
    window.grab()
