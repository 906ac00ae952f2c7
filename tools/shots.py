"""Drives the real window through the demo and writes docs/screenshots: `./run shots [FOLDER]`."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from PySide6.QtCore import QElapsedTimer, QEventLoop, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from plumbbob.core.live.fixes import Fix
from plumbbob.core.live.growing import between
from plumbbob.core.live.rolling import Growing, read_on
from plumbbob.core.plan.clock import Hour
from plumbbob.core.rig.rod import Method
from plumbbob.core.units import System
from plumbbob.desk.app import (
    AHEAD_RECORDING,
    DEMO_RECORDING,
    SCREEN_PHOTO,
    SECOND_RECORDING,
    SIDE_RECORDING,
    make_application,
    open_window,
)
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.practice.window import PracticeWindow
from plumbbob.desk.shell.window import MainWindow
from plumbbob.desk.theme import Light
from plumbbob.desk.views.deck.page import DeckPage
from plumbbob.formats.species import species_named
from plumbbob.formats.waters import data_path
from plumbbob.services.demo import demo_pass
from plumbbob.sim.outings import outing
from tools.screen import CORNERS, DEEPEST_M

PATIENCE_MS = 30_000
ROOT = Path(__file__).resolve().parent.parent
FOLDER, PAGES, GUIDE_PX = Path("docs/screenshots"), ROOT / "src" / "plumbbob" / "guide", 720
# pictures of the guide inside, by the page they belong to
GUIDE = {
    "start": "first-day",
    "water-day": "water",
    "scan-day": "scan",
    "rig-day": "rig",
    "deck-day": "deck",
    "run-dusk": "run",
    "log-dusk": "log",
    "review-dusk": "review",
    "practice-dusk": "practice",
    "waters": "files",
}


def wait_for(what: Callable[[], bool]) -> None:
    """Let the window run until something is so."""
    app, timer = make_application(), QElapsedTimer()
    timer.start()
    while not what():
        if timer.elapsed() > PATIENCE_MS:
            raise TimeoutError("the window did not get there")
        app.processEvents(QEventLoop.ProcessEventsFlag.AllEvents, 20)
        time.sleep(0.005)  # leave the interpreter to the work in the background


def press(window: MainWindow, *keys: str) -> None:
    """Press keys by name."""
    for key in keys:
        QTest.keyClick(window, getattr(Qt.Key, f"Key_{key}"))
    make_application().processEvents()


def shoot(window: QWidget, folder: Path, name: str) -> None:
    """Write one picture."""
    app = make_application()
    for _ in range(5):
        app.processEvents()
    picture = window.grab().toImage()
    picture.save(str(folder / f"{name}.png"))
    print(folder / f"{name}.png")
    if name in GUIDE and folder == FOLDER:
        small = picture.scaledToWidth(GUIDE_PX, Qt.TransformationMode.SmoothTransformation)
        few = small.convertToFormat(QImage.Format.Format_Indexed8, Qt.ImageConversionFlag.AvoidDither)
        few.save(str(PAGES / f"{GUIDE[name]}.png"))


def practice_shot(window: MainWindow, folder: Path) -> None:
    """Practice after some answers, the truth over the last."""
    practice = PracticeWindow(window.session, window, seed=3)
    practice.resize(1180, 720)
    practice.show()
    for good in (True, True, False, True, True, True):
        wait_for(lambda: practice.model.item is not None and practice.model.score is None)
        one = practice.model.item.lesson
        if one.answer_is == "choice":
            practice.model.give(one.truth if good else next(c for c in one.choices if c != one.truth))
        elif one.answer_is == "time_depth":
            practice.model.give([one.truth[0] + 0.4, one.truth[1] - 0.1])
            break
        else:
            practice.model.give(one.truth * 1.01)
        practice.model.go_on()
    shoot(practice, folder, "practice-dusk")
    practice.close()


def settle(window: MainWindow) -> None:
    """Until contours are drawn and nothing runs."""
    picture = window.picture("chart")
    wait_for(lambda: not window.session.jobs.live and picture.is_settled)


def water_shots(window: MainWindow, folder: Path) -> None:
    """The evening before: the lake, a place by day with its section."""
    session = window.session
    chart = session.chart
    wait_for(lambda: chart.chart is not None and bool(chart.chart.features))
    session.conditions.set_species(species_named("kokanee"))
    settle(window)
    session.say("")
    shoot(window, folder, "water-dusk")
    session.display.set_light(Light.DAY)
    place = next(p for p in session.spots.places if p.feature.kind == "point")
    session.spots.choose(place)
    x, y = place.feature.x, place.feature.y
    chart.centre_on(x, y, closer=True)
    chart.set_drawn(chart.line_across((x - 420, y - 60), (x + 520, y + 60)))
    settle(window)
    shoot(window, folder, "water-day")
    session.display.set_light(Light.DUSK)
    session.spots.choose(None)
    chart.set_drawn(None)
    session.conditions.set_species(None)


def _open_pass(window: MainWindow, path: Path) -> None:
    window.open_recording(path)
    scan = window.session.scan
    wait_for(lambda: scan.path == path and scan.document.is_read and not window.session.jobs.live)


def rig_shots(window: MainWindow, folder: Path) -> None:
    """Four rods over the pass by day, one too near the hump; the same lines in a turn at dusk."""
    session = window.session
    rig, _boat, scan = session.rig, session.lines, session.scan
    session.set_stage("rig")
    session.display.set_light(Light.DAY)
    session.display.set_system(System.US)
    scan.set_cursor(int(0.655 * len(scan.down.time)), 8.0)
    rig.choose(0)
    rig.drag_to(8.0)
    rig.choose(1)
    rig.drag_to(9.9)
    session.say("")
    shoot(window, folder, "rig-day")
    rig.drag_to(7.2)
    scan.set_cursor(int(0.45 * len(scan.down.time)), 8.0)
    session.display.set_light(Light.DUSK)
    session.ask_sheet("packet")
    words = window.findChild(QLineEdit, "packet_words")
    words.clear()
    QTest.keyClicks(words, "3/8 oz ball jig, 4 in paddle tail")
    session.say("")
    shoot(window, folder, "rig-bought")
    session.ask_sheet("")
    rig.choose(0)
    session.set_stage("scan")


def run_shots(window: MainWindow, folder: Path) -> None:
    """The day planned at dusk with a rising wind; a made-up one half played, by day."""
    session, run = window.session, window.session.run
    session.display.set_light(Light.DUSK)
    session.set_stage("water")
    session.chart.set_drawn(None)
    session.chart.show_all()
    press(window, "F5")
    planner, replay = window.tasks.day, window.tasks.replay
    wait_for(lambda: run.plan is not None and not planner.is_planning)
    start = run.ask.start
    winds = ((0.0, 1.5, 200.0), (2.0, 3.0, 215.0), (4.0, 5.0, 225.0), (6.0, 6.5, 240.0))
    run.change_ask(replace(run.ask, hours=tuple(Hour(start + 3600.0 * h, w, d) for h, w, d in winds)))
    wait_for(lambda: not planner.is_planning and not session.jobs.live)
    run.choose(run.plan.stays[2].candidate.name)
    session.say("")
    settle(window)
    shoot(window, folder, "run-dusk")
    session.display.set_light(Light.DAY)
    replay.toggle()
    replay.stop()
    while run.now < start + 3.6 * 3600.0:
        wait_for(lambda: not planner.is_planning)
        replay.step()
    wait_for(lambda: not planner.is_planning and not session.jobs.live)
    run.choose((run.here or run.plan.stays[0]).candidate.name)
    session.say("")
    settle(window)
    shoot(window, folder, "run-day")
    run.set_ask(None)
    session.display.set_light(Light.DUSK)
    session.set_stage("scan")


def scan_shots(window: MainWindow, folder: Path, passes: Path) -> None:
    """The aids of Scan; ends on the first pass again."""
    session, scan = window.session, window.session.scan
    session.display.set_light(Light.DUSK)
    press(window, "H")
    press(window, "Escape")
    window.compare_with(passes / SECOND_RECORDING)
    wait_for(lambda: scan.comparison.other is not None and bool(scan.comparison.other.reading.fish))
    scan.choose(None)
    session.say("")
    press(window, "V")
    shoot(window, folder, "scan-beside")
    press(window, "V")
    scan.comparison.lay(None)
    _open_pass(window, passes / DEMO_RECORDING)
    scan.pan(880, 0)


def view_shots(window: MainWindow, folder: Path, passes: Path) -> None:
    """To the sides, what they saw on the chart, ahead, and a photo of a screen; ends on the first pass again."""
    session, scan = window.session, window.session.scan
    _open_pass(window, demo_pass(passes, SIDE_RECORDING))
    wait_for(lambda: scan.reading.side is not None and not session.jobs.live)
    press(window, "A")
    session.show("side")
    session.side.choose(next(f for f in session.side.reading.fish if f.beside))
    session.say("")
    shoot(window, folder, "scan-sides")
    window.lay_swath()
    wait_for(lambda: bool(session.chart.swaths) and not session.jobs.live)
    place, chart = session.side.chosen, session.chart.chart
    assert place is not None
    assert chart is not None
    x, y = chart.plane.to_xy(place.latitude, place.longitude)
    session.set_stage("water")
    session.chart.set_cursor(float(x), float(y))
    session.chart.centre_on(float(x), float(y), closer=True)
    session.chart.zoom(0.25)
    settle(window)
    session.say("")
    window.lay_swath()
    session.set_stage("scan")
    _open_pass(window, demo_pass(passes, AHEAD_RECORDING))
    wait_for(lambda: scan.reading.ahead is not None and not session.jobs.live)
    session.show("forward")
    scan.stand_at(float(scan.lead.time[0]) + 31.0)
    in_hand = session.rig.chosen
    session.rig.choose(len(session.rig.sets) - 1)  # the rod that is cast
    press(window, "N")
    session.say("")
    shoot(window, folder, "scan-ahead")
    session.rig.choose(in_hand)
    window.open_photo(passes / SCREEN_PHOTO)
    photo = session.screen_picture
    wait_for(lambda: photo.pixels is not None and session.view.name == "picture")
    photo.start(Step.CORNERS)
    for across, down in CORNERS:
        photo.click(across, down)
    high, wide = photo.pixels.shape[:2]
    photo.click(wide / 2, 0.5)
    photo.set_far_value(20.0)
    photo.click(wide / 2, 20.0 / DEEPEST_M * high)
    photo.set_cursor((0.6 * wide, 0.42 * high))
    session.say("")
    shoot(window, folder, "scan-photo")
    _open_pass(window, passes / DEMO_RECORDING)
    scan.pan(880, 0)


def _live_at(window: MainWindow, scene: str, seconds: float) -> None:
    """A made-up outing as it stands after so many seconds, without wires: it is the same on every machine."""
    session, scan = window.session, window.session.scan
    whole = outing(scene)[0]
    down, track = whole.down, whole.track
    assert down is not None
    assert track is not None
    now = float(down.time[0]) + seconds
    recording = between(whole, float(down.time[0]) - 1.0, now)
    session.live.begin(Path("live.nc"), made_up=scene)
    i = int(track.time.searchsorted(now)) - 1
    course = float(track.course_deg[i])
    place = {"latitude": float(track.latitude[i]), "longitude": float(track.longitude[i])}
    session.live.take_fix(Fix(time=now, **place, speed_mps=float(track.speed_mps[i]), course_deg=course))
    scan.open(recording, live=True)
    scan.take_growing(read_on(recording, Growing(), long=True).reading, now - 6.0, long=True)


def deck_shots(window: MainWindow, folder: Path) -> None:
    """On deck: a school comes under a drifting kayak by day, a fish to the lure in a hole by night."""
    session, deck = window.session, window.findChild(DeckPage)
    assert deck is not None
    for scene, seconds, light in (("drift", 29.0, Light.DAY), ("hole", 64.0, Light.NIGHT)):
        session.display.set_light(light)
        session.rig.set_window(None)
        session.rig.set(method=Method.ICE if scene == "hole" else Method.JIG)
        session.rig.drag_to(6.1 if scene == "hole" else 8.2)
        _live_at(window, scene, seconds)
        settle(window)
        session.set_mode("deck")
        session.say("")
        session.scan.read_on.emit()
        wait_for(lambda: bool(deck.banner.banner.head) and (bool(deck.strip.tracks) or not deck.strip.is_still))
        shoot(window, folder, f"deck-{light.value}")
        session.set_mode("")
        session.live.end()
        session.scan.end_live()


def main(folder: Path) -> None:
    """All pictures, one after the other."""
    folder.mkdir(parents=True, exist_ok=True)
    make_application()
    with tempfile.TemporaryDirectory() as data:
        window = open_window(Path(data), data_path(DEMO_RECORDING), demo=True)
        window.resize(1280, 800)
        scan = window.session.scan
        wait_for(lambda: scan.document.is_read and window.session.logbook.is_open and not window.session.jobs.live)
        water_shots(window, folder)
        window.session.set_stage("scan")
        scan.pan(880, 0)
        scan.choose(min(scan.reading.fish, key=lambda f: abs(f.time - scan.down.time[1475])))
        shoot(window, folder, "scan-dusk")
        window.session.display.set_light(Light.DAY)
        window.session.display.set_system(System.METRIC)
        shoot(window, folder, "scan-day")
        window.session.display.set_light(Light.DAY)
        scan_shots(window, folder, Path(data) / "passes")
        rig_shots(window, folder)
        run_shots(window, folder)
        view_shots(window, folder, Path(data) / "passes")
        window.session.display.set_light(Light.DUSK)
        window.session.display.set_system(System.US)
        for i, species in (
            (10, "kokanee"),
            (12, ""),
            (13, "kokanee"),
            (17, ""),
            (8, ""),
            (21, "kokanee"),
            (3, "yellow perch"),
        ):
            scan.choose(scan.reading.fish[i])
            press(window, "Space")
            if species:
                press(window, "C")
                window.catch_form.findChild(QComboBox, "catch_species").setCurrentText(species)
                length = window.catch_form.findChild(QLineEdit, "catch_length")
                QTest.keyClicks(length, f"{11 + i / 4:.1f}")
                QTest.keyClick(length, Qt.Key.Key_Return)
        scan.choose(None)
        window.session.set_stage("log")
        trips = window.session.trips
        trips.step(-1)  # the eve of the pass
        assert trips.outing is not None
        trips.pick(trips.outing.catches[1])
        window.session.say("")
        shoot(window, folder, "log-dusk")
        window.session.set_stage("water")
        window.session.display.set_light(Light.DUSK)
        window.session.ask_sheet("waters")
        settle(window)
        shoot(window, folder, "waters")
        window.session.ask_sheet("")
        window.session.set_stage("review")
        review = window.session.review
        wait_for(lambda: review.made is not None and review.share >= 1.0 and not window.session.jobs.live)
        review.pick(next(i for i in review.items if i.dimension == "lure_depth"))
        window.session.say("")
        shoot(window, folder, "review-dusk")
        practice_shot(window, folder)
        window.close()
    with tempfile.TemporaryDirectory() as data:
        window = open_window(Path(data), None)
        window.resize(1280, 800)
        wait_for(lambda: window.session.logbook.is_open and not window.session.jobs.live)
        window.session.display.set_light(Light.DUSK)
        shoot(window, folder, "start")
        deck_shots(window, folder)
        window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER)
