"""The real window on the simulated minute, driven by keys and mouse."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from plumbbob.desk.app import make_application, open_window
from plumbbob.desk.window import MainWindow


@pytest.fixture(scope="session")
def qapp():
    return make_application()


@pytest.fixture
def opened(qtbot, tmp_path):
    """Opens windows on a data folder and closes them in the end."""
    windows: list[MainWindow] = []

    def make(recording=None, folder=tmp_path) -> MainWindow:
        window = open_window(folder, recording)
        window.resize(1280, 800)
        windows.append(window)
        qtbot.addWidget(window)
        session = window.session

        def settled():
            read = session.scan.down is None or session.scan.is_read  # reading may still wait for the chart
            return session.logbook.is_open and read and not session.jobs.live

        qtbot.waitUntil(settled, timeout=20_000)
        return window

    yield make
    for window in windows:
        window.close()


@pytest.fixture
def window(opened, pass_file, qtbot):
    """A window with the minute open and read."""
    made = opened(pass_file)
    assert made.session.scan.is_read
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    made.echogram.setFocus()
    return made


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    """One key, to whatever has the focus."""
    target = window.focusWidget() or window
    QTest.keyClick(target, key, modifier)


def click_fish(window, fish):
    """A click on a fish in the picture."""
    at = window.echogram.place_of(fish).toPoint()
    QTest.mouseClick(window.echogram, Qt.MouseButton.LeftButton, pos=at)
