"""The real window on the simulated minute, driven by keys and mouse."""

from __future__ import annotations

import shutil
import time
from contextlib import contextmanager

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from plumbbob.core.chart.soundings import CleanSettings
from plumbbob.core.rig.cast import Approach
from plumbbob.desk.app import make_application, open_window
from plumbbob.desk.models.side_model import Across
from plumbbob.desk.shell.window import MainWindow
from plumbbob.desk.tasks.apply_corrections import forget_all
from plumbbob.desk.tasks.build_chart import chart_of_folder
from plumbbob.formats.recording import write_recording
from plumbbob.formats.water_folder import WaterFolder
from plumbbob.formats.waters import data_path, shipped_waters
from plumbbob.services.log_archive import import_log
from plumbbob.services.waters import Waters
from plumbbob.store.opening import LOG_NAME, open_log
from tests.lake import as_soundings, bowl, lines_over
from tests.views import ahead, sides


@pytest.fixture(scope="session")
def qapp():
    return make_application()


@pytest.fixture(scope="session")
def lakes(tmp_path_factory):
    """The made-up waters, described once: what is written safely takes its time."""
    folder = tmp_path_factory.mktemp("lakes")
    for shipped in shipped_waters():
        Waters(folder).adopt(shipped)
    return folder


@pytest.fixture(scope="session")
def demo_log(tmp_path_factory):
    """The demo's two seasons as a log of one's own, brought in once; tests take a copy of it."""
    path = tmp_path_factory.mktemp("seasons") / LOG_NAME
    log = open_log(path).log
    import_log(log, data_path("demo.log.zip"))
    log.close()
    return path


@pytest.fixture
def opened(qtbot, tmp_path, lakes):
    """Opens windows on a data folder and closes them in the end."""
    windows: list[MainWindow] = []

    def make(recording=None, folder=tmp_path, *, made_up=True) -> MainWindow:
        for water in lakes.iterdir() if made_up else ():
            shutil.copytree(water, folder / "waters" / water.name, dirs_exist_ok=True)
        window = open_window(folder, recording)
        window.resize(1280, 800)
        windows.append(window)
        qtbot.addWidget(window)
        session = window.session

        def settled():
            read = session.scan.down is None or session.scan.document.is_read  # reading may still wait for the chart
            return session.logbook.is_open and read and not session.jobs.live

        qtbot.waitUntil(settled, timeout=60_000)
        return window

    yield make
    for window in windows:
        window.close()


@pytest.fixture
def window(opened, pass_file, qtbot):
    """A window with the minute open and read."""
    made = opened(pass_file)
    assert made.session.scan.document.is_read
    made.activateWindow()
    qtbot.waitUntil(made.isActiveWindow)
    made.picture("down").setFocus()
    return made


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    """One key, to whatever has the focus."""
    target = window.focusWidget() or window
    QTest.keyClick(target, key, modifier)


def click_fish(window, fish):
    """A click on a fish in the picture."""
    at = window.picture("down").place_of(fish).toPoint()
    QTest.mouseClick(window.picture("down"), Qt.MouseButton.LeftButton, pos=at)


@pytest.fixture(scope="session")
def view_files(tmp_path_factory):
    """The passes with fans to the sides and ahead on disk."""
    folder = tmp_path_factory.mktemp("fans")
    write_recording(folder / "sides.nc", sides())
    write_recording(folder / "ahead.nc", ahead())
    return folder


def wait_for(what, seconds=30.0):
    """Let the window run until something is so; the interpreter is left to the work in the background."""
    app, end = make_application(), time.monotonic() + seconds
    while not what():
        assert time.monotonic() < end, "the window did not get there"
        app.processEvents()
        time.sleep(0.01)


@contextmanager
def looking(folder, path):
    """One window for the tests of a module, on a recording of its own, all views read."""
    own = folder / "own" / path.name
    own.parent.mkdir()
    shutil.copy(path, own)
    for shipped in shipped_waters():
        Waters(folder / "data" / "waters").adopt(shipped)
    window = open_window(folder / "data", own)
    window.resize(1280, 800)
    window.show()
    session = window.session
    wait_for(lambda: session.scan.document.is_read and session.logbook.is_open)
    wait_for(lambda: (session.scan.reading.side or session.scan.reading.ahead) is not None and not session.jobs.live)
    yield window
    window.close()


def back_to(window, view):
    """As after opening: nothing chosen, no tool in hand, no corrections, all of it on screen, this way of looking."""
    session = window.session
    session.ask_sheet("")
    session.set_stage("scan")
    session.scan.replay.set(False)
    forget_all(session)
    session.show(view)
    session.side.start_gauge(False)
    session.side.set_slope(None)
    session.side.set_across(Across.SLANT)
    session.side.set_reach(1e9)
    session.forward.set_far(1e9)
    session.forward.set_approach(Approach.PAST_OVER)
    session.forward.set_retrieve(0.6)
    for state in (session.side, session.forward, session.scan):
        state.choose(None)
    session.scan.show_all()
    window.activateWindow()
    wait_for(window.isActiveWindow)
    window.picture(window.session.view.name).setFocus()
    return window


def click_at(widget, at):
    """A click on a place of a widget."""
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=QPoint(round(at.x()), round(at.y())))


@pytest.fixture(scope="session")
def lake_folder(tmp_path_factory):
    """Veyra Lake's folder with a bowl of soundings in it, as a person would have left it."""
    base = tmp_path_factory.mktemp("lake")
    folder = WaterFolder(base / "waters" / "veyra-lake")
    folder.add("survey", as_soundings(*lines_over(bowl), level_m=0.0))
    chart_of_folder(folder, CleanSettings(), lambda fraction: None)  # keeps the grid beside them
    return base


@pytest.fixture
def water(opened, lake_folder, tmp_path, qtbot):
    """The window on that lake, calm, at the chart's datum."""
    folder = tmp_path / "data"
    target = folder / "waters" / "veyra-lake"
    target.mkdir(parents=True)
    for path in (lake_folder / "waters" / "veyra-lake").iterdir():
        shutil.copy2(path, target / path.name)  # with its time, so that the kept grid is still true
    (folder / "settings.ini").write_text(
        "[General]\nwater=Veyra Lake\n[day]\nveyra-lake\\level_m=0\nveyra-lake\\wind_mps=0\n", encoding="utf-8"
    )
    window = opened(None, folder)
    session = window.session
    qtbot.waitUntil(lambda: session.chart.chart is not None and bool(session.chart.chart.features), timeout=60_000)
    settle(window, qtbot)
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.picture("chart").setFocus()
    return window


def settle(window, qtbot):
    picture = window.picture("chart")
    qtbot.waitUntil(lambda: not window.session.jobs.live and picture.is_settled, timeout=60_000)
