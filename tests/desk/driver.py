"""
A hand that does anything: keys, clicks, drags, wheels, typed words, commands and files at random, from a seed.

It knows nothing of what makes sense. What it finds is an uncaught error, a window that stands still, or memory that
grows; the same seed does the same again.
"""

from __future__ import annotations

import gc
import random
import sys
import time
from collections.abc import Callable
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractSlider,
    QApplication,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QMenu,
    QMenuBar,
    QPlainTextEdit,
    QSpinBox,
    QTableView,
    QToolButton,
    QWidget,
)

from plumbbob.desk.kit import file_dialog
from plumbbob.desk.kit.widgets import Button
from plumbbob.desk.shell.window import MainWindow
from plumbbob.desk.views.registry import commands_of

_KEYS = [Qt.Key(k) for k in (*range(Qt.Key.Key_A, Qt.Key.Key_Z + 1), *range(Qt.Key.Key_0, Qt.Key.Key_9 + 1))]
_KEYS += [Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Escape, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up]
_KEYS += [Qt.Key.Key_Down, Qt.Key.Key_Delete, Qt.Key.Key_Tab, Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Period]
_KEYS += [
    Qt.Key.Key_F2,
    Qt.Key.Key_F3,
    Qt.Key.Key_F4,
    Qt.Key.Key_F6,
    Qt.Key.Key_F7,
    Qt.Key.Key_F8,
    Qt.Key.Key_Question,
]
_MODIFIERS = [Qt.KeyboardModifier.NoModifier] * 6 + [Qt.KeyboardModifier.ShiftModifier] * 2
_WORDS = (
    "12",
    "-5",
    "1e300",
    "7,5 m",
    "30 ft",
    "abc",
    "",
    "0",
    "999999",
    "12:00",
    "44.2 N 40.05 W",
    "nan",
    "<b>x</b>",
)
LONG_S = 0.3
_NOT_ALONE = {"file.quit"}  # would end the hour


class Driver:
    """Needs a window, files to open, and a folder to write into."""

    def __init__(self, window: MainWindow, files: list[Path], out: Path, seed: int) -> None:
        self.window, self.files, self.out = window, files, out
        self.rng = random.Random(seed)
        self.done: list[str] = []
        self.errors: list[str] = []
        self.stalls: dict[str, float] = {}  # what took longer than a person should wait, and how long
        self._hook = sys.excepthook
        sys.excepthook = self._caught
        # whoever asks for a file: a dialog would wait for a hand for ever
        self._asking = file_dialog.chosen_files
        file_dialog.chosen_files = self._answer_dialog
        window.open_path = lambda title, pattern: self.rng.choice([None, *files])  # type: ignore[method-assign]
        window.open_paths = lambda title, pattern: self.rng.sample(files, self.rng.randint(0, min(2, len(files))))  # type: ignore[method-assign]
        window.close_window = lambda: None  # type: ignore[method-assign]  # found by search as well
        window.save_path = self._save_path  # type: ignore[method-assign]

    def close(self) -> None:
        """Give errors back to whoever had them."""
        sys.excepthook = self._hook
        file_dialog.chosen_files = self._asking

    def _answer_dialog(self, dialog: QFileDialog) -> list[Path]:
        saves = dialog.acceptMode() is QFileDialog.AcceptMode.AcceptSave
        many = dialog.fileMode() is QFileDialog.FileMode.ExistingFiles
        dialog.deleteLater()
        if saves:
            return self.rng.choice([[], [self.out / "saved"]])
        return self.rng.sample(self.files, self.rng.randint(0, min(2 if many else 1, len(self.files))))

    def _caught(self, kind: type[BaseException], exc: BaseException, trace: TracebackType | None) -> None:
        import traceback

        text = "".join(traceback.format_exception(kind, exc, trace))
        self.errors.append(f"after {self.done[-6:]}\n{text}")

    def _save_path(self, title: str, name: str, pattern: str) -> Path | None:
        odd = (None, self.out / name, self.out / "no" / name, self.out, Path("/dev/full"))
        return self.rng.choice(odd)

    def run(self, seconds: float, most: int = 10**9, each: Callable[[int], None] = lambda k: None) -> int:
        """Do things for a while; says how many."""
        app, end, k = QApplication.instance(), time.monotonic() + seconds, 0
        assert app is not None
        acts = (
            self._key,
            self._click,
            self._drag,
            self._wheel,
            self._command,
            self._type,
            self._widget,
            self._resize,
        )
        while time.monotonic() < end and k < most:
            act = self.rng.choices(acts, (6, 4, 3, 3, 5, 2, 3, 0.2))[0]
            start = time.perf_counter()
            self.done.append(act.__name__)
            del self.done[:-50]
            act()
            app.processEvents()
            # as the program's own loop would: what was let go of outside of it waits for one for ever
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            took = time.perf_counter() - start
            if took > self.stalls.get(self.done[-1], LONG_S):
                self.stalls[self.done[-1]] = took
            if self.rng.random() < 0.2:
                time.sleep(0.002)  # let the work in the background have its turn
            each(k)
            k += 1
        return k

    # -- what a hand does -------------------------------------------------------------------------------------

    def _visible(self, kind: type[QWidget] | tuple[type[QWidget], ...] = QWidget) -> list[QWidget]:
        kinds = kind if isinstance(kind, tuple) else (kind,)
        found = [w for one in kinds for w in self.window.findChildren(one) if w.isVisible() and w.width() > 4]
        return [w for w in found if not isinstance(w, QMenuBar | QMenu)]  # an open menu waits for a hand

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(self.rng.randrange(max(widget.width(), 1)), self.rng.randrange(max(widget.height(), 1)))

    def _note(self, words: str) -> None:
        self.done[-1] += f" {words}"

    def _key(self) -> None:
        key, modifier = self.rng.choice(_KEYS), self.rng.choice(_MODIFIERS)
        self._note(f"{key.name} {modifier.name}")
        QTest.keyClick(self.window.focusWidget() or self.window, key, modifier)

    def _click(self) -> None:
        widget = self.rng.choice(self._visible())
        self._note(widget.objectName() or type(widget).__name__)
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, pos=self._place(widget))

    def _drag(self) -> None:
        widget = self.rng.choice(self._visible())
        self._note(widget.objectName() or type(widget).__name__)
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=self._place(widget))
        for _ in range(self.rng.randrange(1, 6)):
            QTest.mouseMove(widget, self._place(widget))
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=self._place(widget))

    def _wheel(self) -> None:
        widget = self.rng.choice(self._visible())
        at = QPointF(self._place(widget))
        turn = QPoint(0, self.rng.choice((-240, -120, 120, 240)))
        modifier = self.rng.choice((*_MODIFIERS, Qt.KeyboardModifier.ControlModifier))
        event = QWheelEvent(
            at, QPointF(widget.mapToGlobal(at.toPoint())), QPoint(), turn, Qt.MouseButton.NoButton, modifier,
            Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(widget, event)

    def _command(self) -> None:
        actions = [self.window.actions_by_id[c.id] for c in commands_of() if c.id not in _NOT_ALONE]
        actions = [a for a in actions if a.isEnabled()]
        action = self.rng.choice(actions)
        self._note(action.objectName())
        action.trigger()

    def _type(self) -> None:
        fields = self._visible((QLineEdit, QPlainTextEdit))
        if not fields:
            return
        field, word = self.rng.choice(fields), self.rng.choice(_WORDS)
        self._note(f"{field.objectName()} {word!r}")
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, word)
        if isinstance(field, QLineEdit) and self.rng.random() < 0.7:
            QTest.keyClick(field, Qt.Key.Key_Return)

    def _widget(self) -> None:
        kinds = (Button, QToolButton, QComboBox, QAbstractSlider, QSpinBox, QTableView)
        widgets = [w for w in self._visible(kinds) if w.isEnabled()]
        if not widgets:
            return
        widget = self.rng.choice(widgets)
        self._note(widget.objectName() or type(widget).__name__)
        if isinstance(widget, Button | QToolButton):
            widget.click()
        elif isinstance(widget, QComboBox) and widget.count():
            widget.setCurrentIndex(self.rng.randrange(widget.count()))
            widget.activated.emit(widget.currentIndex())
        elif isinstance(widget, QAbstractSlider | QSpinBox):
            widget.setValue(self.rng.randint(widget.minimum(), min(widget.maximum(), 10**6)))
        elif isinstance(widget, QTableView) and widget.model() is not None and widget.model().rowCount():
            widget.selectRow(self.rng.randrange(widget.model().rowCount()))

    def _resize(self) -> None:
        self.window.resize(self.rng.randrange(700, 1700), self.rng.randrange(450, 1000))


def settle(window: MainWindow, seconds: float = 60.0) -> None:
    """Let the work in the background end, and what it left behind go."""
    app, end = QApplication.instance(), time.monotonic() + seconds
    assert app is not None
    while window.session.jobs.live and time.monotonic() < end:
        app.processEvents()
        time.sleep(0.01)
    gc.collect()
