"""The window to practise in: the picture, the question, the answer, what told it, and how able one is by skill."""

from __future__ import annotations

import re
from functools import partial
from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QKeyEvent, QPainter, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plumbbob.core.plan.skill import SPREAD
from plumbbob.core.units import Kind, to_si, unit_of
from plumbbob.desk.kit.paint import font, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.model import PracticeModel
from plumbbob.desk.practice.picture import PracticePicture
from plumbbob.sim.lessons import SKILLS

_HOW = {
    "depth": "Click at that depth.",
    "time_depth": "Click on it.",
    "height": "Drag from one end to the other.",
    "choice": "Choose, or press its number.",
    "count_s": "Type seconds, then Enter.",
    "distance": "Type it, then Enter.",
}
_TO_SIDES = "Drag from its echo to the end of its shadow."
_MOST = 6
_METRES = re.compile(r"(\d+(?:\.\d+)?) m\b(?!/)")


class AbilityPicture(Painted):
    """A line a skill: where the ability lies on one scale, with its interval; empty where nothing was answered."""

    def __init__(self, session: Session, model: PracticeModel) -> None:
        super().__init__()
        self.setObjectName("practice_abilities")
        self._session, self._model = session, model
        model.changed.connect(self.update)
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A row a skill."""
        return QSize(250, round(2.3 * self._session.display.text_size * len(SKILLS)) + 24)

    def paint(self, painter: QPainter) -> None:
        """Names on the left, bars on the right."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        found, size = self._model.abilities(), display.text_size
        painter.setFont(font(size * 0.82))
        item = self._model.item
        high = min(2.3 * size, (self.height() - 20) / len(SKILLS))
        left, reach = 0.56 * self.width(), 2.2 * SPREAD

        def x(value: float) -> float:
            return left + (min(max(value, -reach), reach) + reach) / (2 * reach) * (self.width() - left - 6)

        for k, name in enumerate(SKILLS):
            y = k * high
            mine = item is not None and item.lesson.skill == name
            if mine:
                painter.fillRect(QRectF(0, y, self.width(), high), shade(theme.brass, 40))
            painter.setPen(QColor(theme.ink if name in found else theme.muted_text))
            metrics = QFontMetricsF(painter.font())
            words = metrics.elidedText(name, Qt.TextElideMode.ElideRight, left - 10)
            painter.drawText(QRectF(4, y, left - 8, high), Qt.AlignmentFlag.AlignVCenter, words)
            painter.fillRect(QRectF(x(-reach), y + high / 2 - 0.5, x(reach) - x(-reach), 1), QColor(theme.rule))
            if name in found:
                one = found[name]
                painter.fillRect(
                    QRectF(x(one.low), y + high / 2 - 4, x(one.high) - x(one.low), 8), shade(theme.lichen, 150)
                )
                painter.fillRect(QRectF(x(one.mean) - 1.5, y + high / 2 - 6, 3, 12), QColor(theme.ink))
        painter.setPen(QColor(theme.muted_text))
        foot = QRectF(left, len(SKILLS) * high, self.width() - left, 18)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, "misses")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, "sure")


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
            row.addWidget(button)
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
        self._next.clicked.connect(lambda: self.model.go_on())
        row.addWidget(self._again)
        row.addWidget(self._next)
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addWidget(self._ask)
        left.addWidget(self._how)
        left.addWidget(self.picture, 1)
        left.addLayout(row)
        side = QVBoxLayout()
        side.setSpacing(8)
        side.addWidget(self._told)
        side.addWidget(self._why)
        side.addStretch(1)
        side.addWidget(label("HOW SURE YOU ARE", "head"))
        side.addWidget(AbilityPicture(session, self.model))
        words = label("Made-up water: what is true is known. Bars hold your ability with 80 % chance.", "small")
        words.setWordWrap(True)
        side.addWidget(words)
        both = QHBoxLayout(self)
        both.setContentsMargins(18, 14, 18, 14)
        both.setSpacing(18)
        both.addLayout(left, 3)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(300)
        both.addWidget(holder)
        self.model.changed.connect(self._show)
        session.display.changed.connect(self._dress)
        self._dress()
        self._show()

    def showEvent(self, event: QShowEvent) -> None:
        """A first item comes by itself."""
        super().showEvent(event)
        self.model.begin()

    def _dress(self) -> None:
        self.setStyleSheet(f"QWidget#practice {{ background: {self.session.display.theme.panel}; }}")
        self._show()

    def _show(self) -> None:
        item, model = self.model.item, self.model
        open_ = item is not None and model.score is None
        one = item.lesson if item is not None else None
        self._ask.setText(self._in_units(one.ask) if one is not None else "A first pass is being made …")
        how = "" if one is None else _HOW[one.answer_is]
        if one is not None and one.answer_is == "height" and one.scene is not None and one.scene.side is not None:
            how = _TO_SIDES
        asked = f"{item.lesson.skill}, {item.why_next}. " if item is not None else ""
        self._how.setText(f"{asked[:1].upper()}{asked[1:]}{how if open_ else ''}")
        choices = one.choices if one is not None else ()
        for k, button in enumerate(self._choices):
            button.setVisible(k < len(choices))
            button.setEnabled(open_)
            if k < len(choices):
                button.setText(f"{k + 1}  {self._in_units(choices[k])}")
        types = one is not None and one.answer_is in ("count_s", "distance") and open_
        self._typed.setVisible(types)
        if types and one is not None:
            self._typed.clear()
            self._typed.setPlaceholderText("seconds" if one.answer_is == "count_s" else self._unit())
            self._typed.setFocus()
        for button in (self._again, self._next):
            button.setVisible(item is not None and not open_)
        self._again.setEnabled(one is not None and one.scene is not None)
        self._told.setText(self._verdict())
        why = "" if one is None or open_ else self._in_units(one.why)
        self._why.setText(f"{why[:1].upper()}{why[1:]}." if why else "")
        if not types:
            self.setFocus()

    def _in_units(self, text: str) -> str:
        """A sentence of the item in the units on screen."""
        plain = text.replace(", in metres", "").replace(", and metres deep", ", and how deep")
        return _METRES.sub(lambda m: self.session.display.words(float(m[1]), Kind.DEPTH), plain)

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
        """Numbers choose, Enter goes on, C shows the same made easier, Esc leaves."""
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.close()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.model.go_on()
        elif key == Qt.Key.Key_C:
            self.model.easier()
        elif Qt.Key.Key_1 <= key <= Qt.Key.Key_9:
            self._choose(key - Qt.Key.Key_1)
        else:
            super().keyPressEvent(event)
