"""The window to practise in: the picture, the question, the answer, what told it, and how able one is by skill."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QKeyEvent, QShowEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QStackedLayout, QVBoxLayout, QWidget

from plumbbob.core.units import Kind, to_si, unit_of
from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.ability import AbilityPicture, ProgressPicture
from plumbbob.desk.practice.cards import in_units
from plumbbob.desk.practice.files import PracticeFiles
from plumbbob.desk.practice.live import LivePicture
from plumbbob.desk.practice.live_fish import RisingFish
from plumbbob.desk.practice.live_school import PassingSchool
from plumbbob.desk.practice.model import PracticeModel
from plumbbob.desk.practice.picture import PracticePicture
from plumbbob.sim.lesson_settings import HeardWith, is_driven

_HOW = {
    "depth": "Click at that depth.",
    "time_depth": "Click on it.",
    "height": "Drag from one end to the other.",
    "choice": "Choose, or press its number.",
    "count_s": "Type seconds, then Enter.",
    "distance": "Type it, then Enter.",
}
_TO_SIDES = "Drag from its echo to the end of its shadow."
_LETTERED = "Click its letter, or press its number."
_TO_LIP = "Drag across the shadow, from the lip to where the bottom shines again."
_MOST = 6
_SIDE_PX = 336
_BESIDE_PX = _SIDE_PX + 70  # of the window that the picture and what is under it do not have
_GAP_PX = 6
_SETTINGS = (("gain", "brighter"), ("range", "deeper"), ("pulse", "longer"), ("speed", "faster"))


class PracticeWindow(QWidget):
    """A window of its own, opened by one press; it closes with Esc and keeps what was answered."""

    def __init__(self, session: Session, parent: QWidget | None = None, *, seed: int | None = None) -> None:
        super().__init__(parent, Qt.WindowType.Window)
        self.setObjectName("practice")
        self.setWindowTitle("Practice")
        self.resize(1180, 720)
        self.session = session
        self.model = PracticeModel(session, self, seed=seed)
        self.picture = PracticePicture(session, self.model)
        self.picture.answered.connect(self.model.give)
        self._ask = label("", "title", name="practice_ask")
        self._how = label("", "muted", name="practice_how")
        self._told = label("", "value", name="practice_told")
        self._why = label("", name="practice_why")
        for widget in (self._ask, self._how, self._told, self._why):
            widget.setWordWrap(True)
        self._choices = [Button("") for _ in range(_MOST)]
        row = QHBoxLayout()
        for k, button in enumerate(self._choices):
            button.setObjectName(f"practice_choice_{k + 1}")
            button.clicked.connect(partial(self._choose, k))
        self._choice_grid = QGridLayout()
        self._choice_grid.setSpacing(_GAP_PX)
        row.addLayout(self._choice_grid)
        self._typed = QLineEdit()
        self._typed.setObjectName("practice_typed")
        self._typed.setFixedWidth(140)
        self._typed.returnPressed.connect(self._enter)
        row.addWidget(self._typed)
        row.addStretch(1)
        self._again = Button("Same, easier   C")
        self._again.setObjectName("practice_again")
        self._again.clicked.connect(lambda: self.model.easier())
        self._next = Button("Next   Enter")
        self._next.setObjectName("practice_next")
        self._next.setProperty("role", "main")
        self._next.clicked.connect(self._go_on)
        row.addWidget(self._again)
        row.addWidget(self._next)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self._ask)
        left.addWidget(self._how)
        self.live, self.school = RisingFish(session), PassingSchool(session)
        self._lives: dict[int, LivePicture] = {Qt.Key.Key_L: self.live, Qt.Key.Key_K: self.school}
        self._live_told = ""
        self._live_seed, self._live_hard = 0, 0.0
        pictures = QWidget()
        self._pictures = QStackedLayout(pictures)
        self._pictures.addWidget(self.picture)
        for live in self._lives.values():
            live.done.connect(self._live_done)
            self._pictures.addWidget(live)
        left.addWidget(pictures, 1)
        left.addLayout(self._settings_row())
        left.addLayout(row)
        side = QVBoxLayout()
        side.setSpacing(8)
        side.addWidget(self._told)
        side.addWidget(self._why)
        self._reader = label("", "small", name="practice_reader")
        self._reader.setWordWrap(True)
        side.addWidget(self._reader)
        side.addStretch(1)
        side.addWidget(label("PLAYED LIVE", "head"))
        side.addLayout(self._live_rows())
        side.addWidget(label("HOW SURE YOU ARE", "head"))
        side.addWidget(AbilityPicture(session, self.model))
        words = label("Made-up water: what is true is known. Bars hold your ability with 80 % chance.", "small")
        words.setWordWrap(True)
        side.addWidget(words)
        side.addWidget(label("OVER THE WEEKS", "head"))
        side.addWidget(ProgressPicture(session, self.model))
        self.files = PracticeFiles(session, self.model, self)
        files = QGridLayout()
        for k, (name, title, act) in enumerate(
            (
                ("practice_pack", "New set …", self.files.pack),
                ("practice_play", "Play set …", self.files.play),
                ("practice_own", "Own pass", self.files.play_own),
                ("practice_cases", "Misread …", self.files.write_cases),
            )
        ):
            button = Button(title)
            button.setObjectName(name)
            button.clicked.connect(act)
            files.addWidget(button, k // 2, k % 2)
        side.addLayout(files)
        both = QHBoxLayout(self)
        both.setContentsMargins(18, 14, 18, 14)
        both.setSpacing(18)
        both.addLayout(left, 3)
        holder = QWidget()
        holder.setLayout(side)
        area = scrolling(holder)  # at a large text the way over the weeks is scrolled to
        area.setFixedWidth(_SIDE_PX)
        both.addWidget(area)
        self.model.changed.connect(self._show)
        session.display.changed.connect(self._dress)
        self._dress()
        self._show()

    def _settings_row(self) -> QHBoxLayout:
        """The sounder in the learner's hand."""
        row = QHBoxLayout()
        row.setSpacing(4)
        self._values: dict[str, QLabel] = {}
        self._steps: list[tuple[str, Button]] = []
        for name, more in _SETTINGS:
            row.addWidget(label(name, "muted"))
            for by, sign in ((-1, "−"), (1, "+")):
                button = Button(sign)
                button.setObjectName(f"practice_{name}_{'more' if by > 0 else 'less'}")
                button.setToolTip(more if by > 0 else f"the other way than {more}")
                button.setMaximumWidth(34)
                button.clicked.connect(partial(self._set, name, by))
                row.addWidget(button)
                self._steps.append((name, button))
            self._values[name] = label("", "small", name=f"practice_{name}")
            row.addWidget(self._values[name])
            row.addSpacing(10)
        row.addStretch(1)
        return row

    def _live_rows(self) -> QVBoxLayout:
        """A button for each thing that is played live."""
        rows = QVBoxLayout()
        rows.setSpacing(4)
        self._live_buttons: dict[LivePicture, Button] = {}
        for live in self._lives.values():
            button = Button(live.button)
            button.setObjectName(f"{live.objectName()}_start")
            button.clicked.connect(partial(self.play_live, live))
            self._live_buttons[live] = button
            rows.addWidget(button)
        return rows

    def _set(self, name: str, by: int, _checked: bool = False) -> None:
        if name == "gain":
            self.model.set_gain(by)
        else:
            self.model.set_heard(name, by)

    # -- what is played live -------------------------------------------------------------------------------------

    @property
    def _playing(self) -> LivePicture | None:
        shown = self._pictures.currentWidget()
        return shown if isinstance(shown, LivePicture) else None

    def play_live(self, live: LivePicture, _checked: bool = False) -> None:
        """Play it, or back from it."""
        playing = self._playing
        if playing is not None:
            playing.stop()
        if playing is live:
            self._pictures.setCurrentWidget(self.picture)
            self.model.live_skill = ""
            self.model.changed.emit()
        else:
            self._begin_live(live)
        self._show()

    def _begin_live(self, live: LivePicture) -> None:
        self._live_told, self._live_seed = "", self.model.new_seed()
        self._live_hard = self.model.live_difficulty(live.skill)
        self.model.live_skill = live.skill
        self._pictures.setCurrentWidget(live)
        live.start(self._live_hard, self._live_seed)
        self._show()

    def _live_done(self, score: float, words: str) -> None:
        live = self._playing
        if live is not None:
            self.model.keep_score(live.skill, self._live_hard, self._live_seed, score)
            self._live_told = f"{score:.0%}. {words[:1].upper()}{self._in_units(words[1:])}."
            self.model.changed.emit()

    def _show_live(self, live: LivePicture) -> None:
        self._ask.setText(live.ask)
        self._how.setText(live.how)
        for widget in (*self._choices, self._typed, self._again, self._next):
            widget.hide()
        self._told.setText(self._live_told)
        key = live.button.split()[-1]
        self._why.setText(f"Enter for another, {key} to go back." if self._live_told else "")
        self._reader.setText("")
        for _, button in self._steps:
            button.setEnabled(False)
        self._live_buttons[live].setText(f"Back   {key}")

    def showEvent(self, event: QShowEvent) -> None:
        """A first item comes by itself."""
        super().showEvent(event)
        self.model.begin()

    def closeEvent(self, event: QCloseEvent) -> None:
        """What is played live ends with it: nobody holds the rod any more, so nothing is scored."""
        if self._playing is not None:
            self.play_live(self._playing)
        super().closeEvent(event)

    def _dress(self) -> None:
        self.setStyleSheet(f"QWidget#practice {{ background: {self.session.display.theme.panel}; }}")
        self._show()

    def _show(self) -> None:
        item, model = self.model.item, self.model
        for live, button in self._live_buttons.items():
            button.setText(live.button)
        if self._playing is not None:
            self._show_live(self._playing)
            return
        self._show_settings()
        if model.playing is not None and model.playing.is_over:
            self._show_over()
            return
        open_ = item is not None and model.score is None
        one = item.lesson if item is not None else None
        self._ask.setText(self._in_units(one.ask) if one is not None else "A first pass is being made …")
        how = "" if one is None else _HOW[one.answer_is]
        to_sides = item is not None and item.recording is not None and item.recording.side is not None
        if one is not None and one.answer_is == "height" and to_sides:
            how = _TO_LIP if one.is_drop else _TO_SIDES
        if item is not None and (item.letters or item.lesson.chart is not None):
            how = _LETTERED
        asked = f"{item.lesson.skill}, {item.why_next}. " if item is not None else ""
        self._how.setText(f"{asked[:1].upper()}{asked[1:]}{how if open_ else ''}")
        self._show_choices(one.choices if one is not None else (), open_)
        types = one is not None and one.answer_is in ("count_s", "distance") and open_
        self._typed.setVisible(types)
        if types and one is not None:
            self._typed.clear()
            self._typed.setPlaceholderText("seconds" if one.answer_is == "count_s" else self._unit())
            self._typed.setFocus()
        for button in (self._again, self._next):
            button.setVisible(item is not None and not open_)
        self._again.setEnabled(one is not None and one.scene is not None and model.playing is None)
        self._told.setText(self._verdict())
        why = "" if one is None or open_ else self._in_units(one.why)
        self._why.setText(f"{why[:1].upper()}{why[1:]}." if why else "")
        self._reader.setText(self._reader_words() if not open_ else "")
        self._next.setText("Next   Enter")
        if not types:
            self.setFocus()

    def _show_choices(self, choices: Sequence[str], open_: bool) -> None:
        """Side by side where there is room for their words, else two in a row, else one."""
        for k, choice in enumerate(choices):
            self._choices[k].setText(f"{k + 1}  {self._in_units(choice)}")
        wide = [button.sizeHint().width() + _GAP_PX for button in self._choices[: len(choices)]]
        room = self.width() - _BESIDE_PX
        columns = next(
            c for c in (_MOST, 2, 1) if c == 1 or sum(max(wide[k::c], default=0) for k in range(c)) <= room
        )
        for k, button in enumerate(self._choices):
            button.setVisible(open_ and k < len(choices))
            self._choice_grid.removeWidget(button)
            self._choice_grid.addWidget(button, k // columns, k % columns)

    def _show_settings(self) -> None:
        """What the item is heard with, where that can be changed."""
        model, item = self.model, self.model.item
        heard = HeardWith() if item is None else model.heard
        made = item is not None and item.lesson.scene is not None
        self._values["gain"].setText(f"{model.gain:+d}" if model.gain else "")
        for name in ("range", "pulse", "speed"):
            times = getattr(heard, name)
            self._values[name].setText(f"×{times:g}" if times != 1.0 else "")
        for name, button in self._steps:
            driven = name != "speed" or (item is not None and made and is_driven(item.lesson))
            button.setEnabled(
                item is not None and item.recording is not None and (name == "gain" or (made and driven))
            )

    def _show_over(self) -> None:
        """A set is through: who answered it and how well."""
        played = self.model.playing
        assert played is not None
        if not played.rows:  # its answers are written once
            played.rows = self.files.compared(played)
        self._ask.setText(f"{played.path.name if played.path is not None else 'Your own pass'} is through.")
        self._how.setText("The best first; others' answers count when their files lie beside the set.")
        self._told.setText("\n".join(f"{who}   {score:.0%}" for who, score, _ in played.rows))
        self._why.setText("")
        self._reader.setText("")
        for widget in (*self._choices, self._typed, self._again):
            widget.hide()
        self._next.setText("Back to practice   Enter")
        self._next.show()
        self.setFocus()

    def _reader_words(self) -> str:
        """What the program's own reader made of the same item."""
        model, item = self.model, self.model.item
        if item is None or item.recording is None or model.reader is None:
            return ""
        said, score = model.reader
        one, display = item.lesson, self.session.display
        if said is None:
            return "The program's reader has no answer to this."
        if one.answer_is == "choice":
            words = "right" if score >= 1.0 else f"“{self._in_units(str(said))}”, which is wrong"
        elif one.answer_is == "time_depth":
            away = display.words(abs(said[1] - one.truth[1]), Kind.DEPTH)
            words = f"{away} and {abs(said[0] - one.truth[0]):.1f} s off"
        else:
            words = f"{display.words(abs(said - one.truth), Kind.DEPTH)} off"
        better = " You read it better." if (model.score or 0.0) >= 0.5 > score else ""
        return f"The program's reader: {words}.{better}"

    def _in_units(self, text: str) -> str:
        """A sentence of the item in the units on screen."""
        return in_units(text, self.session.display)

    def _unit(self) -> str:
        return unit_of(Kind.LENGTH, self.session.display.system_of(Kind.LENGTH)).symbol

    def _verdict(self) -> str:
        """Right or how far off, in the units on screen."""
        model, item, display = self.model, self.model.item, self.session.display
        if item is None or model.score is None:
            return model.trouble
        one = item.lesson
        if one.answer_is == "choice":
            words = "Right." if model.score >= 1.0 else f"It was: {self._in_units(str(one.truth))}."
        elif one.answer_is == "time_depth":
            off = display.words(abs(model.off[1]), Kind.DEPTH)
            words = f"{abs(model.off[0]):.1f} s and {off} off."
        elif one.answer_is == "count_s":
            words = f"{abs(model.off):.1f} s off: {one.truth:.0f} s."
        else:
            words = f"{display.words(abs(model.off), Kind.DEPTH)} off: {display.words(one.truth, Kind.DEPTH)}."
        if self.model.again:
            words += " Not counted: it was made easier."
        return f"{words} {model.trouble}".strip()

    def _go_on(self, _checked: bool = False) -> None:
        if self.model.playing is not None and self.model.playing.is_over:
            self.model.leave_set()
        else:
            self.model.go_on()

    def _choose(self, k: int, _checked: bool = False) -> None:
        item = self.model.item
        if item is not None and k < len(item.lesson.choices):
            self.model.give(item.lesson.choices[k])

    def _enter(self) -> None:
        """A typed number, in the unit on screen."""
        item, text = self.model.item, self._typed.text().strip().replace(",", ".").removesuffix("s")
        if item is None or self.model.score is not None:
            self.model.go_on()
            return
        try:
            value: Any = float(text.split()[0]) if text else None
        except ValueError:
            value = None
        if value is None:
            self._told.setText(f'"{text}" is not a number.')
            return
        if item.lesson.answer_is == "distance":
            value = to_si(value, Kind.LENGTH, self.session.display.system_of(Kind.LENGTH))
        self.model.give(value)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Numbers choose, Enter goes on, C shows the same made easier, L and K play live, Esc leaves."""
        key, playing = event.key(), self._playing
        if key == Qt.Key.Key_Escape:
            if playing is not None:
                self.play_live(playing)
            else:
                self.close()
        elif key in self._lives:
            self.play_live(self._lives[key])
        elif playing is not None and key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if not playing.runs:
                self._begin_live(playing)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._go_on()
        elif key == Qt.Key.Key_C:
            self.model.easier()
        elif Qt.Key.Key_1 <= key <= Qt.Key.Key_9:
            self._choose(key - Qt.Key.Key_1)
        else:
            super().keyPressEvent(event)
