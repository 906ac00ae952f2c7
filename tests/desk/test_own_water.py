"""The first hour with one's own files, from an empty home, by keys and mouse."""

import json

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton

from plumbbob.core.chart.soundings import Soundings
from plumbbob.formats.soundings import write_soundings
from plumbbob.formats.waters import FILE
from tests.desk.conftest import press, wait_for


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
    return opened(None, lakes=False)


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
    first = opened(None, lakes=False)
    first.tasks.soundings.add_file(lake(tmp_path / "mill_pond.csv"))
    charted(first)
    first.session.display.step_text_size(1)
    first.session.set_stage("rig")
    first.keeper.keep()
    again = opened(None, lakes=False)  # the first still stands, as after a kill: nothing was tidied up
    charted(again)
    assert text_of(again, "water") == "Mill pond"
    assert again.session.stage == "rig"
    assert again.session.display.text_size == first.session.display.text_size
