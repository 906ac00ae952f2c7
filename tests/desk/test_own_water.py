"""The first hour with one's own files, from an empty home, by keys and mouse."""

import json
import zipfile

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLabel, QLineEdit, QListWidget, QPushButton, QTextBrowser, QWidget

from plumbbob.core.chart.soundings import Soundings
from plumbbob.core.rig.rod import Zero
from plumbbob.core.units import Kind, System
from plumbbob.desk.views.shared.guide_sheet import PAGES, page_text
from plumbbob.formats.recording import write_recording
from plumbbob.formats.soundings import read_soundings, write_soundings
from plumbbob.formats.waters import FILE
from plumbbob.store.values import Mark, MarkKind
from tests.desk.conftest import press, wait_for
from tests.formats.test_sonar_netcdf import made
from tests.services.test_door import GPX


def lake(path, latitude=46.2, longitude=-39.0, n=70):
    """A bowl of soundings, 700 m across."""
    lat, lon = np.meshgrid(np.linspace(0, 0.0063, n) + latitude, np.linspace(0, 0.009, n) + longitude)
    x, y = np.meshgrid(np.linspace(-1, 1, n), np.linspace(-1, 1, n), indexing="ij")
    depth = np.maximum(9.0 - 7.0 * (x**2 + y**2), 0.6)
    zero = np.zeros(n * n)
    write_soundings(
        path,
        Soundings(latitude=lat.ravel(), longitude=lon.ravel(), depth_m=depth.ravel(), water_level_m=zero, time=zero),
    )
    return path


def text_of(window, name):
    return window.findChild(QLabel, name).text()


def charted(window):
    session = window.session
    wait_for(lambda: session.chart.chart is not None and not session.jobs.live)


@pytest.fixture
def empty(opened):
    return opened(None, made_up=False)


def test_two_actions_lead_to_a_named_water_with_its_chart(empty, tmp_path):
    empty.tasks.soundings.add_file(lake(tmp_path / "mill_pond.csv"))  # 1: dropped
    charted(empty)
    assert text_of(empty, "question_text") == "A new water. What do you call it?"
    field = empty.findChild(QLineEdit, "answer_name")
    assert field.text() == "Mill pond"
    assert field.hasFocus()
    QTest.keyClicks(field, "Alder Mill")
    QTest.keyClick(field, Qt.Key.Key_Return)  # 2
    assert text_of(empty, "water") == "Alder Mill"
    (folder,) = [p for p in (tmp_path / "waters").iterdir() if p.is_dir()]
    data = json.loads((folder / FILE).read_text())
    assert (data["name"], data["time_zone"]) == ("Alder Mill", "Etc/GMT+3")
    assert len(data["outline"]) == 4


def test_two_lakes_stay_two_and_files_of_one_stay_together(empty, tmp_path):
    for name, latitude in (("one.csv", 46.2), ("two.csv", 46.9), ("one again.csv", 46.2005)):
        before = empty.session.chart.chart
        empty.tasks.soundings.add_file(lake(tmp_path / name, latitude))
        wait_for(lambda b=before: empty.session.chart.chart not in (None, b) and not empty.session.jobs.live)
    waters = empty.tasks.charter.waters
    assert sorted((w.name, len(waters.folder(w).sources())) for w in waters.all()) == [("One", 2), ("Two", 1)]
    assert text_of(empty, "water") == "One"


def test_what_lies_near_a_water_is_asked_and_a_figure_answers(empty, tmp_path):
    empty.tasks.soundings.add_file(lake(tmp_path / "one.csv"))
    charted(empty)
    empty.session.questions.ask(None)
    empty.tasks.soundings.add_file(lake(tmp_path / "arm.csv", 46.225))
    wait_for(lambda: empty.session.questions.open is not None)
    assert "Is it the same water?" in text_of(empty, "question_text")
    press(empty, Qt.Key.Key_1)
    wait_for(lambda: not empty.session.jobs.live and len(empty.tasks.charter.folder.sources()) == 2)
    assert len(empty.tasks.charter.waters.all()) == 1


def test_a_table_without_names_is_read_as_a_figure_says(empty, tmp_path):
    rows = [(46.2 + 0.0001 * a, 39.0 + 0.0001 * b, 10.0 + a % 9) for a in range(40) for b in range(40)]
    path = tmp_path / "pond.xyz"
    path.write_text("".join(f"{b:.6f} {a:.6f} {z:.1f}\n" for a, b, z in rows))
    empty.files.open([path])
    wait_for(lambda: empty.session.questions.open is not None)
    assert "names no columns" in text_of(empty, "question_text")
    press(empty, Qt.Key.Key_4)  # longitude first, feet
    charted(empty)
    (kept,) = empty.tasks.charter.folder.sources()
    found = read_soundings(kept).soundings
    assert np.median(found.latitude) == pytest.approx(46.202, abs=1e-4)
    assert found.depth_m.max() == pytest.approx(18.0 * 0.3048, abs=1e-3)


def test_a_question_left_open_loses_nothing(empty, tmp_path):
    empty.tasks.soundings.add_file(lake(tmp_path / "one.csv"))
    charted(empty)
    press(empty, Qt.Key.Key_Escape)
    empty.tasks.soundings.add_file(lake(tmp_path / "arm.csv", 46.225))
    wait_for(lambda: empty.session.questions.open is not None)
    empty.findChild(QPushButton, "answer_later").click()
    assert empty.session.questions.open is None
    assert [p.name for p in empty.tasks.charter.folder.sources()] == ["one.csv"]
    assert (tmp_path / "arm.csv").is_file()


def test_the_same_water_comes_back_after_a_restart(opened, tmp_path):
    first = opened(None, made_up=False)
    first.tasks.soundings.add_file(lake(tmp_path / "mill_pond.csv"))
    charted(first)
    first.session.display.step_text_size(1)
    first.session.set_stage("rig")
    first.keeper.keep()
    again = opened(None, made_up=False)  # the first still stands, as after a kill: nothing was tidied up
    charted(again)
    assert text_of(again, "water") == "Mill pond"
    assert again.session.stage == "rig"
    assert again.session.display.text_size == first.session.display.text_size


def test_one_of_several_frequencies_is_chosen_with_a_figure(empty, passed, tmp_path):
    path = made(tmp_path / "survey.nc", passed[0], 2, hertz=(38e3, 200e3))
    empty.files.open([path])
    wait_for(lambda: empty.session.questions.open is not None)
    assert "several frequencies" in text_of(empty, "question_text")
    press(empty, Qt.Key.Key_2)
    scan = empty.session.scan
    wait_for(lambda: scan.recording is not None and scan.document.is_read)
    assert scan.down.frequency_hz == 38e3
    assert scan.path.name == "survey 38 kHz.nc"


def test_waters_are_listed_filtered_and_gone_to_by_keys(opened, tmp_path):
    window = opened()
    press(window, Qt.Key.Key_F9)
    field = window.findChild(QLineEdit, "waters_filter")
    assert field.hasFocus()
    rows = window.findChild(QListWidget, "waters_list")
    wait_for(lambda: rows.count() == 3)
    QTest.keyClicks(field, "carr")
    assert rows.count() == 1
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert text_of(window, "water") == "Carrow Sound"
    assert window.session.sheet == ""


def test_a_water_is_renamed_deleted_and_brought_back(opened, tmp_path):
    window = opened()
    waters = window.tasks.waters
    waters.look()
    wait_for(lambda: len(waters.all) == 3)
    pond = next(w for w in waters.all if w.name == "Tern Pond")
    lane = Mark(water="Tern Pond", kind=MarkKind.PLACE, time=0.0, latitude=44.2, longitude=-41.2)
    window.session.logbook.add_mark(lane)
    waters.ask_rename(pond)
    field = window.findChild(QLineEdit, "answer_name")
    field.setText("Newt Pond")
    QTest.keyClick(field, Qt.Key.Key_Return)
    wait_for(lambda: any(w.name == "Newt Pond" for w in waters.all))
    assert window.session.logbook.marks[-1].water == "Newt Pond"
    waters.delete(pond)
    wait_for(lambda: len(waters.all) == 2)
    press(window, Qt.Key.Key_Z)
    wait_for(lambda: len(waters.all) == 3)
    press(window, Qt.Key.Key_Z)
    wait_for(lambda: any(w.name == "Tern Pond" for w in waters.all))
    assert window.session.logbook.marks[-1].water == "Tern Pond"


def test_a_recording_out_of_a_zip_stays_when_the_window_goes(empty, passed, tmp_path):
    write_recording(tmp_path / "lane.nc", passed[0], source="simulated")
    with zipfile.ZipFile(tmp_path / "week.zip", "w") as archive:
        archive.write(tmp_path / "lane.nc", "lane.nc")
    scan = empty.session.scan
    for _ in range(2):
        empty.files.open([tmp_path / "week.zip"])
        before = scan.recording
        wait_for(lambda b=before: scan.recording not in (None, b) and scan.document.is_read)
    kept = empty.tasks.charter.waters.root.parent / "passes" / "lane.nc"
    assert scan.path == kept
    assert [p.name for p in kept.parent.glob("*.nc")] == ["lane.nc"]


def test_two_waters_become_one_and_two_again(empty, tmp_path):
    for name, latitude in (("one.csv", 46.2), ("two.csv", 46.9)):
        before = empty.session.chart.chart
        empty.files.open([lake(tmp_path / name, latitude, n=30)])
        wait_for(lambda b=before: empty.session.chart.chart not in (None, b) and not empty.session.jobs.live)
        empty.session.questions.ask(None)
    keeper, waters = empty.tasks.waters, empty.tasks.charter.waters
    one, two = sorted(waters.all(), key=lambda w: w.name)
    keeper.merge(one, two)
    wait_for(lambda: len(waters.all()) == 1 and not empty.session.jobs.live)
    assert len(waters.folder(one).sources()) == 2
    press(empty, Qt.Key.Key_Z)
    wait_for(lambda: len(waters.all()) == 2 and not empty.session.jobs.live)
    assert [len(waters.folder(w).sources()) for w in waters.all()] == [1, 1]


def test_a_command_is_found_by_a_part_of_a_word_and_done(window):
    press(window, Qt.Key.Key_Slash)
    field = window.findChild(QLineEdit, "commands_filter")
    assert field.hasFocus()
    sheet = next(s for s in window.sheets if s.name == "commands")
    rows = sheet.rows()
    assert rows[0] == "WORKS HERE NOW"
    assert rows.index("ELSEWHERE") > 10
    QTest.keyClicks(field, "fathom")
    assert any(r.startswith("Fathoms and knots") for r in sheet.rows())
    QTest.keyClick(field, Qt.Key.Key_Return)
    wait_for(lambda: window.session.display.system is System.NAUTICAL)
    assert not sheet.isVisible()
    press(window, Qt.Key.Key_M)


def test_each_quantity_may_have_a_unit_of_its_own(window):
    press(window, Qt.Key.Key_F12)
    box = window.findChild(QComboBox, "settings_unit_speed")
    box.setCurrentIndex(box.findText("km/h"))
    box.activated.emit(box.currentIndex())
    display = window.session.display
    assert display.words(10.0, Kind.SPEED).endswith("km/h")
    assert display.words(10.0, Kind.DEPTH).endswith("ft")
    zero = window.findChild(QComboBox, "settings_zero")
    zero.setCurrentIndex(1)
    zero.activated.emit(1)
    assert {one.rod.zero for one in window.session.rig.sets} == {Zero.TIP}
    press(window, Qt.Key.Key_Escape)


def test_the_guide_opens_at_the_page_of_the_stage(window):
    press(window, Qt.Key.Key_F1)
    assert "Scan" in window.findChild(QTextBrowser, "guide_text").toPlainText().splitlines()[0]
    for name, _ in PAGES:
        assert page_text(name).startswith("# ")
    press(window, Qt.Key.Key_Escape)


def test_an_empty_stage_is_a_start(empty):
    page = empty.findChild(QWidget, "start")
    assert page.isVisibleTo(empty)
    assert all(empty.findChild(QPushButton, f"start_{n}") for n in ("own", "made_up", "column"))
    empty.findChild(QPushButton, "start_column").click()
    assert empty.session.sheet == "profile"
    assert not page.isVisibleTo(empty)
    press(empty, Qt.Key.Key_Escape)
    empty.session.set_stage("rig")
    assert not page.isVisibleTo(empty)


def test_zips_and_many_files_are_dealt_with_one_after_the_other(empty, tmp_path):
    lake(tmp_path / "one.csv", n=30)
    with zipfile.ZipFile(tmp_path / "all.zip", "w") as archive:
        archive.write(tmp_path / "one.csv", "deep/one.csv")
    (tmp_path / "marks.gpx").write_text(GPX)
    empty.files.open([tmp_path / "all.zip", tmp_path / "marks.gpx"])
    charted(empty)
    empty.session.questions.ask(None)
    wait_for(lambda: len(empty.session.logbook.marks) == 1, 20)
    empty.files.open([tmp_path / "marks.gpx"])
    wait_for(lambda: "already" in empty.notice.text)
    assert len(empty.session.logbook.marks) == 1
    press(empty, Qt.Key.Key_Z)
    assert empty.session.logbook.marks == ()
