"""Tackle as it is bought and ways on the bottom, in the real window by keys and mouse."""

import re

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QPushButton, QWidget

from plumbbob.core.rig.rod import Method, RigAnswer
from plumbbob.core.units import System
from plumbbob.desk.views.rig.floor_sheet import WAYS
from tests.desk.conftest import press


def settle():
    QApplication.processEvents()


@pytest.fixture
def rig(opened, qtbot):
    window = opened()  # tackle needs no pass
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.session.set_stage("rig")
    settle()
    return window


def says(window, name):
    return window.findChild(QLabel, name).text()


def typed(window, name, text):
    field = window.findChild(QLineEdit, name)
    field.clear()
    QTest.keyClicks(field, text)
    settle()
    return field


def open_packet(window):
    press(window, Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    settle()
    assert window.session.sheet == "packet"


def test_from_a_name_to_a_solved_depth_in_two_keys_and_the_words(rig):
    session = rig.session
    session.rig.set(method=Method.FLAT_LINE)
    open_packet(rig)
    field = typed(rig, "packet_words", "plug 9 cm, 4.5 m")
    assert "out" in says(rig, "packet_runs").lower()
    assert "lip pulls down" in says(rig, "packet_facts")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle()
    assert session.sheet == ""
    assert session.rig.settings.lure.name == "plug 9 cm, 4.5 m"
    assert isinstance(session.rig.answer, RigAnswer)
    assert session.rig.box.find("lure", "plug 9 cm, 4.5 m") is not None


def test_what_is_put_in_the_box_is_kept_and_taken_back(rig):
    before = len(rig.session.rig.box.all())
    open_packet(rig)
    QTest.keyClick(typed(rig, "packet_words", "28 g egg sinker"), Qt.Key.Key_Return)
    settle()
    assert len(rig.session.rig.box.all()) == before + 1
    rig.session.history.undo()
    assert len(rig.session.rig.box.all()) == before


def test_half_a_word_is_no_mistake_and_a_wrong_one_is_said(rig):
    open_packet(rig)
    typed(rig, "packet_words", "3/8 oz ji")
    assert "names no lure" in says(rig, "packet_facts")
    typed(rig, "packet_words", "spoon")
    assert "weight is missing" in says(rig, "packet_facts")
    QTest.mouseClick(rig.findChild(QPushButton, "sheet_packet_go"), Qt.MouseButton.LeftButton)
    assert rig.session.sheet == "packet"
    assert "weight is missing" in rig.notice.text
    typed(rig, "packet_words", "")
    assert says(rig, "packet_runs") == ""


def test_a_timed_fall_narrows_what_is_known(rig):
    session = rig.session
    session.rig.set(method=Method.CAST)
    open_packet(rig)
    typed(rig, "packet_words", "7 g ball jig, 10 cm paddle tail")
    wide = session.rig.settings
    depth = rig.findChild(QLineEdit, "packet_depth")
    assert depth.isVisible()
    depth.setFocus()
    QTest.keyClicks(depth, "8 m")
    QTest.keyClick(depth, Qt.Key.Key_Return)
    field = typed(rig, "packet_seconds", "20")
    assert "20" in field.text()
    QTest.keyClick(rig.findChild(QLineEdit, "packet_words"), Qt.Key.Key_Return)
    settle()
    assert session.rig.settings.lure.fall_sd < 0.1
    assert session.rig.settings is not wide


@pytest.mark.parametrize(
    ("start", "kind"), [("spoon", "lure"), ("plug", "lure"), ("line", "line"), ("weight", "weight")]
)
def test_a_start_for_each_form(rig, start, kind):
    rig.session.display.set_system(System.US)
    open_packet(rig)
    QTest.mouseClick(rig.findChild(QPushButton, f"packet_start_{start}"), Qt.MouseButton.LeftButton)
    settle()
    words = rig.findChild(QLineEdit, "packet_words").text()
    assert words
    assert ("oz" in words) or ("in" in words) or ("lb" in words)
    assert says(rig, "packet_facts")
    assert not rig.findChild(QWidget, "lure_picture").grab().isNull()


def test_every_way_on_the_bottom_answers_and_is_drawn(rig):
    press(rig, Qt.Key.Key_Q)
    settle()
    assert rig.session.sheet == "floor"
    box, heads = rig.findChild(QComboBox, "floor_way"), set()
    for k in range(len(WAYS)):
        box.setCurrentIndex(k)
        settle()
        heads.add(says(rig, "floor_head"))
        assert says(rig, "floor_words")
        assert not rig.findChild(QWidget, "floor_picture").grab().isNull()
    assert len(heads) == len(WAYS)
    assert "" not in heads


@pytest.mark.parametrize("way", WAYS, ids=lambda way: way.title)
def test_a_way_on_the_bottom_is_told_in_the_units_of_the_person(rig, way):
    display, rod = rig.session.display, rig.session.rig.sets[0].rod
    given = {name: usual for name, _, _, usual in way.asks}
    words = {}
    for system in System:
        display.set_system(system)
        answer = way.answer(given, rod, display)
        words[system] = f" {answer.head} {answer.words} "
        assert all(np.isfinite(point).all() for point in answer.line)
    assert not re.search(r"\d (ft|in|mph|oz|lb)\b", words[System.METRIC])
    assert not re.search(r"\d (m|cm|g|kg|m/s|km/h)\b", words[System.US])


def test_bait_holds_hardest_on_rock_and_easiest_in_mud(rig):
    rig.session.display.set_system(System.METRIC)
    way = next(w for w in WAYS if w.title == "Bait in a current")
    masses = {}
    for current in (0.3, 0.6):
        answer = way.answer({"depth": 8.0, "current": current}, rig.session.rig.sets[0].rod, rig.session.display)
        rock, mud = (float(re.search(rf"(\d+) g on {ground}", answer.words)[1]) for ground in ("rock", "mud"))
        sand = float(re.match(r"(\d+) g round", answer.head)[1])
        assert rock > sand > mud
        masses[current] = sand
    assert masses[0.6] > 3 * masses[0.3]


def test_numbers_of_a_way_count_and_wrong_ones_are_said(rig):
    rig.session.display.set_system(System.METRIC)
    press(rig, Qt.Key.Key_Q)
    rig.findChild(QComboBox, "floor_way").setCurrentIndex(2)
    settle()
    first = says(rig, "floor_head")
    for name, text in (("floor_depth", "12 m"), ("floor_speed", "1 km/h")):
        field = rig.findChild(QLineEdit, name)
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    settle()
    assert says(rig, "floor_head") != first
    field = rig.findChild(QLineEdit, "floor_depth")
    field.selectAll()
    QTest.keyClicks(field, "900 m")
    QTest.keyClick(field, Qt.Key.Key_Return)
    settle()
    assert "0.2 to 150" in says(rig, "floor_words")
    assert says(rig, "floor_head") == ""
