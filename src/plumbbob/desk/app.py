"""One running program: fonts, settings, session, window, and the one place where trouble is reported."""

from __future__ import annotations

import logging
import os
import shutil
import sys
import threading
from collections.abc import Sequence
from importlib.resources import files
from pathlib import Path
from types import TracebackType

from platformdirs import user_data_path
from PySide6.QtCore import QObject, QSettings, QTimer, Signal
from PySide6.QtGui import QFontDatabase, QIcon
from PySide6.QtWidgets import QApplication

from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import open_settings, text_of
from plumbbob.desk.shell.persistence import recall_views
from plumbbob.desk.shell.termination import SignalWatch
from plumbbob.desk.shell.window import MainWindow
from plumbbob.desk.tasks.make_demo import DemoMaker
from plumbbob.desk.views.registry import give_views
from plumbbob.files.atomic import private_folder
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.formats.registry import Content, endings_of
from plumbbob.formats.waters import data_path, shipped_waters
from plumbbob.services.demo import AHEAD, FIRST, SECOND, SIDES, own_copy
from plumbbob.services.waters import Waters
from plumbbob.store.opening import LOG_NAME

DEMO_RECORDING, SECOND_RECORDING, SIDE_RECORDING, AHEAD_RECORDING = FIRST, SECOND, SIDES, AHEAD
SCREEN_PHOTO = "veyra_screen.jpg"
_MORE = (SECOND_RECORDING, SCREEN_PHOTO)
_logger = logging.getLogger("plumbbob")


class _Reporter(QObject):
    """Unexpected trouble, from whatever thread, becomes one line on screen and a trace in the program's log."""

    came = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.came.connect(lambda line: session.say(line, wrong=True))

    def report(self, kind: type[BaseException], exc: BaseException | None, trace: TracebackType | None) -> None:
        _logger.error("unexpected", exc_info=(kind, exc or kind(), trace))
        self.came.emit(f"Something unexpected went wrong ({kind.__name__}: {exc}). Your log is safe.")


def data_folder(demo: bool, data: Path | None) -> Path:
    """Where log and settings live; the demo has a folder of its own."""
    base = data or user_data_path("plumbbob", appauthor=False)
    return base / "demo" if demo else base


def make_application() -> QApplication:
    """The QApplication with style, font and icon."""
    app = QApplication.instance() or QApplication([sys.argv[0]])
    assert isinstance(app, QApplication)
    app.setApplicationName("plumbbob")
    app.setApplicationDisplayName("Plumbbob")
    app.setDesktopFileName("plumbbob")
    app.setStyle("Fusion")
    here = files("plumbbob.desk")
    for name in ("B612-Regular.otf", "B612-Bold.otf"):
        QFontDatabase.addApplicationFont(str(here.joinpath("fonts", name)))
    app.setWindowIcon(QIcon(str(here.joinpath("icons", "plumbbob.svg"))))
    return app


def start_fresh(folder: Path) -> None:
    """Forget the demo's log; shipped data is not touched."""
    for path in (*folder.glob("log*"), *folder.glob("passes/*.json")):
        if path.is_dir():
            shutil.rmtree(path)
        else:
            path.unlink()
    QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat).remove("rods")


def begin_with(
    window: MainWindow,
    waters: Waters,
    folder: Path,
    recording: Path | None,
    *,
    demo: bool,
    files: Sequence[Path] = (),
) -> None:
    """Take over what an older version left, if anything; then to the water and the recording of last time."""

    def go(_: object = None) -> None:
        _begin(window, waters, folder, recording, demo=demo, files=files)

    if not waters.has_old():
        go()
        return
    title = "Taking over the waters of an older version"
    window.session.jobs.start(title, lambda progress: waters.take_over_old(), go)


def _begin(
    window: MainWindow, waters: Waters, folder: Path, recording: Path | None, *, demo: bool, files: Sequence[Path]
) -> None:
    """The water of last time, its log, and a recording: the one that was asked for, else the last one."""
    session, opener = window.session, window.opener
    if demo:
        for shipped in shipped_waters():
            waters.adopt(shipped)
    kept = "veyra-lake" if demo else text_of(session.settings, "water")
    last = waters.get(kept)
    if last is None and kept and recording is None:
        # kept by name in an older version, or taken away since: else the one that was visited last
        last = next((w for w in waters.all() if w.name == kept), next(iter(waters.all()), None))
    if last is not None and (recording is None or demo):
        opener.come_to(last, None)
    before = text_of(session.settings, "recording")
    if recording is None and last is not None and not files and before and Path(before).is_file():
        recording = Path(before)
    if recording is None or demo:
        opener.open_log(folder / LOG_NAME)
    else:
        opener.then(lambda: opener.open_log(folder / LOG_NAME))
    if recording is not None:
        window.open_recording(recording)
    if files:
        window.open_files(files)


def open_window(
    folder: Path, recording: Path | None, *, demo: bool = False, files: Sequence[Path] = ()
) -> MainWindow:
    """A window on a data folder; recording and log open once it has been painted."""
    private_folder(folder)
    if demo and recording is not None:
        passes = folder / "passes"
        for name in _MORE:
            own_copy(passes, name)
        recording = own_copy(passes, recording.name)
    settings = open_settings(folder / "settings.ini")
    session = Session(settings)
    give_views(session)
    recall_views(session)
    if recording is not None and not demo:
        session.set_stage("scan")
    waters = Waters(folder / "waters")
    window = MainWindow(session, waters, demo=demo)

    def begin() -> None:
        # one after the other: their libraries would only hold each other up
        begin_with(window, waters, folder, recording, demo=demo, files=files)

    if demo and recording is not None:
        DemoMaker(session, recording.parent)
    window.show()
    QTimer.singleShot(0, begin)
    return window


def run(*, files: Sequence[Path], demo: bool, fresh: bool, data: Path | None) -> int:
    """The whole program; returns its exit status."""
    app = make_application()
    watch = SignalWatch()
    folder = data_folder(demo, data)
    given = list(files)
    recording = given.pop(0) if given and given[0].suffix.lower() in endings_of(Content.RECORDING) else None
    if demo:
        recording = recording or data_path(DEMO_RECORDING)
        if fresh:
            start_fresh(folder)
    try:
        window = open_window(folder, recording, demo=demo, files=given)
    except (OSError, FileError) as exc:
        print(f"plumbbob: {folder}: {why(exc)}", file=sys.stderr)
        return 2
    reporter = _Reporter(window.session)
    sys.excepthook = reporter.report
    threading.excepthook = lambda args: reporter.report(args.exc_type, args.exc_value, args.exc_traceback)
    watch.stop = window.close
    status = app.exec()
    if window.session.jobs.live:
        # a job that looks at no clock would hold the program for as long as it takes
        sys.stderr.flush()
        os._exit(watch.status or status)
    return watch.status or status
