"""The window keeps its state through signals and nonsense, and marks and catches need no recording."""

import os
import signal
import stat
import subprocess
import sys
import time

import pytest
from PySide6.QtCore import QSettings, Qt
from PySide6.QtWidgets import QApplication, QComboBox, QLineEdit, QPushButton

from plumbbob.core.rig.rod import Method, RigSettings
from plumbbob.core.rig.table import card_table, speeds_about
from plumbbob.desk.kit.file_dialog import file_dialog
from plumbbob.desk.kit.palette import palette_of
from plumbbob.desk.kit.when import parse_when
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import open_settings
from plumbbob.desk.theme import THEMES, Light, contrast
from plumbbob.desk.views.registry import give_views
from plumbbob.store.opening import open_log
from tests.desk.conftest import press, wait_for

CONTROL = Qt.KeyboardModifier.ControlModifier


@pytest.mark.parametrize(
    "text",
    [
        "window=7\n",
        "window=@ByteArray(nonsense)\n",
        "text_size=nan\n",
        "light=1\nunits=@Variant(\\0\\0\\0\\x7f)\n",
        'rods="{\\"rods\\": [{\\"bob_m\\": 1e999}]}"\n',
        'rods="{\\"rods\\": [{\\"bob_m\\": 4, \\"method\\": \\"cast and count\\"}, 7], \\"chosen\\": \\"x\\"}"\n',
        "[day]\nveyra-lake\\wind_mps=inf\n[weights]\nlip=nan\n[view]\nstage=moon\nshown=7\n",
    ],
)
def test_settings_that_make_no_sense_fall_back_one_by_one(qapp, opened, tmp_path, text):
    (tmp_path / "settings.ini").write_text("[General]\n" + text)
    session = opened(folder=tmp_path).session
    assert session.stage == "water"
    assert 8.0 <= session.display.text_size <= 16.0
    assert session.conditions.wind_mps < 40.0
    assert session.rig.sets
    if "cast and count" in text:
        assert [s.rod.method for s in session.rig.sets] == [Method.CAST]


def test_settings_are_their_owners_alone(tmp_path):
    open_settings(tmp_path / "settings.ini").setValue("a", 1)
    assert stat.S_IMODE((tmp_path / "settings.ini").stat().st_mode) == 0o600


def test_rods_stage_and_window_are_kept_as_they_change(qapp, opened, tmp_path, qtbot):
    window = opened(folder=tmp_path)
    window.session.rig.set(method=Method.ICE)
    window.session.rig.set_window((3.0, 7.0))
    window.session.set_stage("rig")
    window.resize(1111, 777)

    def on_disk():
        return QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)

    qtbot.waitUntil(lambda: on_disk().value("view/stage") == "rig", timeout=60_000)
    assert "through the ice" in on_disk().value("rods")
    again = Session(on_disk())
    give_views(again)
    assert again.rig.settings.method is Method.ICE
    assert stat.S_IMODE(tmp_path.stat().st_mode) == 0o700


@pytest.mark.parametrize(
    ("number", "after"), [(signal.SIGTERM, "open"), (signal.SIGINT, "open"), (signal.SIGTERM, "start")]
)
def test_told_to_stop_the_window_closes_as_by_hand(tmp_path, number, after):
    # a shell's background job would ignore SIGINT: the program is started as a shell in front does
    worker = subprocess.Popen(
        [sys.executable, "-m", "plumbbob.desk", "--data", str(tmp_path)],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        preexec_fn=lambda: signal.signal(signal.SIGINT, signal.default_int_handler),
    )  # fmt: skip
    deadline = time.monotonic() + 120
    waiting = {"open": lambda: (tmp_path / "log.last-good.db").exists(), "start": lambda: _catches(worker.pid)}[after]
    while not waiting():
        assert time.monotonic() < deadline
        time.sleep(0.02)
    worker.send_signal(number)
    _, said = worker.communicate(timeout=120)
    assert worker.returncode == 128 + number
    assert "Traceback" not in said
    assert not list(tmp_path.rglob(".making-*"))


def _catches(pid):
    try:
        with open(f"/proc/{pid}/status", encoding="ascii") as file:
            caught = next(line for line in file if line.startswith("SigCgt"))
    except OSError:
        return False
    return bool(int(caught.split()[1], 16) & (1 << (signal.SIGTERM - 1)))


def test_without_a_home_the_program_ends_by_itself(tmp_path):
    (tmp_path / "file").write_text("in the way")
    done = subprocess.run(
        [sys.executable, "-m", "plumbbob.desk", "--data", str(tmp_path / "file" / "data")],
        capture_output=True, text=True, timeout=120, check=False, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert done.returncode == 2
    assert done.stderr.strip().splitlines()[-1].startswith("plumbbob: ")
    assert "Traceback" not in done.stderr


# -- marks and catches anywhere ----------------------------------------------------------------------------------


def field(window, name):
    return window.findChild(QLineEdit, name)


def typed(window, name, text):
    field(window, name).setText(text)


def test_a_mark_and_a_catch_without_any_recording(opened, tmp_path):
    window = opened(folder=tmp_path)
    session = window.session
    press(window, Qt.Key.Key_Space, CONTROL)
    assert session.sheet == "mark"
    go = window.findChild(QPushButton, "sheet_mark_go")
    typed(window, "mark_place", "nowhere")
    go.click()
    assert "no position" in window.notice.text
    typed(window, "mark_place", "44.21 N 40.06 W")
    typed(window, "mark_when", "2026-08-14 06:30")
    typed(window, "mark_note", "told by a friend")
    window.findChild(QComboBox, "mark_kind").setCurrentText("hazard")
    go.click()
    (mark,) = session.logbook.marks
    assert (mark.latitude, mark.kind.value, mark.note) == (44.21, "hazard", "told by a friend")
    press(window, Qt.Key.Key_C)
    assert session.catching
    window.findChild(QComboBox, "catch_species").setCurrentText("perch")
    window.catch_form.save()
    assert "type where it was" in window.notice.text
    typed(window, "catch_place", "44.2101 N 40.06 W")
    typed(window, "catch_when", "half past")
    window.catch_form.save()
    assert "is no time" in window.notice.text
    typed(window, "catch_when", "2026-08-14 07:10")
    window.catch_form.save()
    (catch,) = session.logbook.catches
    assert catch.mark_id == mark.id
    assert session.local(catch.time).strftime("%H:%M") == "07:10"
    assert open_log(tmp_path / "copy.db").log.marks() == []  # a second log beside it opens all the same


@pytest.mark.parametrize("text", ["14:05", "14.05", "2026-08-15 14:05", "15 Aug 14:05", "15.08.2026 14:05"])
def test_times_as_people_type_them(qapp, tmp_path, text):
    session = Session(open_settings(tmp_path / "s.ini"))
    give_views(session)
    now = session.local(1786785000.0)
    found = session.local(parse_when(text, now))
    assert found.strftime("%m-%d %H:%M") == "08-15 14:05"


def test_a_table_for_a_fast_boat_is_a_table():
    for speed in (4.4, 6.0):
        speeds = speeds_about(speed)
        assert max(speeds) <= 6.0
        assert card_table(RigSettings(speed_mps=speed), [3.0], speeds).values


# -- what Qt brings itself ---------------------------------------------------------------------------------------


@pytest.mark.parametrize("light", list(Light))
def test_qts_own_dialogs_can_be_read(qapp, light):
    palette = palette_of(THEMES[light])
    role = palette.ColorRole
    least = {Light.DAY: 7.0, Light.DUSK: 7.0, Light.NIGHT: 4.5}[light]
    for text, ground in (
        (role.WindowText, role.Window), (role.Text, role.Base), (role.Text, role.AlternateBase),
        (role.ButtonText, role.Button), (role.ToolTipText, role.ToolTipBase), (role.HighlightedText, role.Highlight),
    ):  # fmt: skip
        pair = palette.color(text).name(), palette.color(ground).name()
        assert contrast(*pair) >= (4.5 if text is role.HighlightedText else least), (text, pair)


def test_a_file_dialog_has_the_themes_ground(opened, tmp_path):
    window = opened(folder=tmp_path)
    window.session.display.set_light(Light.NIGHT)
    dialog = file_dialog(window, window.session.display.theme, "Open", str(tmp_path), "All (*)")
    dialog.show()
    wait_for(dialog.isVisible)
    image = dialog.grab().toImage()
    dark = sum(
        image.pixelColor(x, y).lightness() < 90
        for x in range(0, image.width(), 9)
        for y in range(0, image.height(), 9)
    )
    assert dark > 0.8 * len(range(0, image.width(), 9)) * len(range(0, image.height(), 9))
    dialog.close()
    window.session.display.set_light(Light.DUSK)
    assert QApplication.palette().color(palette_of(THEMES[Light.DUSK]).ColorRole.Base).name() == "#161d20"


def test_the_demos_rods_are_there_at_its_first_start_and_not_again(qapp, tmp_path, qtbot):
    from plumbbob.desk.models.rods_model import RodsModel

    store = open_settings(tmp_path / "settings.ini")
    rig = RodsModel(store)
    assert rig.is_new
    rig.keep()
    assert rig.is_new  # kept at once as all things are: the start is still the first
    assert not RodsModel(store).is_new
