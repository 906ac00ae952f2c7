"""Left of the rods: the boat's speed, a card for each rod, the rod in hand, what notes said, what a turn does."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSignalBlocker, QSize, Qt
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLabel, QSizePolicy, QToolButton

from plumbbob.core.rig.rod import FAMILY, CannotReach, Family, Method, RigAnswer
from plumbbob.core.units import FOOT_M, MPH_MPS, Kind, System
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import Field, Stepper, label, panel_column, set_role
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.drawing import Ink, rod_card
from plumbbob.desk.views.rig.words import (
    answer_words,
    apart_words,
    bait_words,
    capital,
    mark_lines,
    motion_words,
    moved_words,
    note_words,
    rod_title,
    rod_words,
    weight_words,
)
from plumbbob.wording.rig import rig_words

_MOST_NOTES = 4


class RodStepper(Stepper):
    """One number of the rod in hand, stepped or typed: SI inside, round steps in the units on screen."""

    def __init__(
        self,
        session: Session,
        name: str,
        setting: str,
        title: str,
        kind: Kind,
        most: float,
        steps: tuple[float, float],
    ) -> None:
        self._rig, self._look = session.rig, session.display
        self._setting, self._most, self._steps = setting, most, steps
        self._field = Field(session.display, kind, name)
        self._field.entered.connect(self._set)
        self._field.refused.connect(lambda line: session.say(line, wrong=True))
        super().__init__(title, name.split("_")[-1], lambda: self._by(-1), lambda: self._by(1), self._field)
        for signal in (self._rig.changed, self._look.changed):
            signal.connect(self._show)
        self._show()

    def _value(self) -> float:
        return float(getattr(self._rig.settings, self._setting))

    def _set(self, value: float) -> None:
        self._rig.set(**{self._setting: min(max(value, 0.0), self._most)})

    def _by(self, sign: int) -> None:
        self._set(self._value() + sign * self._steps[self._look.system is not System.US])

    def _show(self) -> None:
        self._field.set_value(self._value())


def speed_stepper(session: Session, name: str) -> RodStepper:
    """The boat's speed through the water."""
    return RodStepper(session, name, "speed_mps", "speed through water", Kind.SPEED, 5.0, (0.1 * MPH_MPS, 0.05))


def above_stepper(session: Session, name: str) -> RodStepper:
    """How far over the fish the lure hangs."""
    return RodStepper(session, name, "above_fish_m", "over the fish", Kind.DEPTH, 10.0, (0.5 * FOOT_M, 0.1))


class RodList(Painted):
    """A card for each rod: number, way, depth, what is out; a click takes it in hand."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rodlist")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        for signal in (session.rig.changed, session.rig.rods_changed, session.display.changed):
            signal.connect(self._stale)
        self._stale()

    @property
    def row(self) -> int:
        """Height of a card, with the text."""
        return round(12 + 3.6 * self._session.display.text_size)

    def _stale(self) -> None:
        height = self.row * len(self._session.rig.sets)
        if height != self.height():
            self.setFixedHeight(height)
        self.update()

    def sizeHint(self) -> QSize:
        """Room for the cards."""
        return QSize(190, self.row * len(self._session.rig.sets))

    def paint(self, painter: QPainter) -> None:
        """The cards."""
        display, rig = self._session.display, self._session.rig
        ink = Ink.of(display, painter)
        for i, (one, answer) in enumerate(zip(rig.sets, rig.answers, strict=True)):
            card = rod_card(
                ink,
                (self.width(), self.row),
                i + 1,
                rod_title(one.rod),
                display.words(one.bob_m, Kind.DEPTH),
                rod_words(display, one.rod, answer),
                i == rig.chosen,
                isinstance(answer, RigAnswer),
            )
            painter.drawImage(QPointF(0, i * self.row), card)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the rod under the mouse in hand."""
        self._session.rig.choose(int(event.position().y() // self.row))


def tool_button(actions: Actions, action: str, text: str) -> QToolButton:
    """A small button for a command, with its key."""
    button = QToolButton()
    button.setObjectName(f"button_{action}")
    button.setText(text)
    button.setToolTip(actions[action].toolTip())
    button.clicked.connect(actions[action].trigger)
    button.setProperty("role", "quiet")
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return button


def headed(title: str, *buttons: QToolButton) -> tuple[QHBoxLayout, QLabel]:
    """A heading with the buttons that belong to it."""
    row = QHBoxLayout()
    head = label(title, "head")
    row.addWidget(head)
    row.addStretch(1)
    for button in buttons:
        row.addWidget(button)
    return row, head


class RigPanel(QFrame):
    """Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 10, 12, 6), 5)
        speed = QHBoxLayout()
        speed.addWidget(speed_stepper(session, "spread_speed"))
        self._sd = label("", "muted", name="speed_sd")
        speed.addWidget(self._sd, 0, Qt.AlignmentFlag.AlignBottom)
        speed.addStretch(1)
        column.addLayout(speed)
        row, _ = headed(
            "RODS", tool_button(actions, "rig.add", "add  D"), tool_button(actions, "rig.remove", "out  X")
        )
        column.addLayout(row)
        column.addWidget(RodList(session))
        row, self._head = headed(
            "ROD 1", tool_button(actions, "rig.tackle", "tackle  E"), tool_button(actions, "rig.floor", "bottom  Q")
        )
        column.addLayout(row)
        self._method = QComboBox()
        self._method.setObjectName("rod_method")
        self._method.addItems([capital(m.value) for m in Method])
        self._method.currentIndexChanged.connect(lambda i: session.rig.set(method=list(Method)[i]))
        self._method.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._lure = QComboBox()
        self._lure.setObjectName("rod_lure")
        self._lure.activated.connect(self._pick_lure)
        self._lure.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self._bought = tool_button(actions, "rig.packet", "as bought  ⇧E")
        for box in (self._method, self._lure):
            # a long name must not widen the panel
            box.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            column.addWidget(box)
        column.addWidget(self._bought, 0, Qt.AlignmentFlag.AlignRight)
        column.addWidget(above_stepper(session, "spread_above"))
        row, _ = headed("TUNED BY NOTES", tool_button(actions, "rig.note", "note  G"))
        column.addLayout(row)
        self._notes = small_words("notes_words")
        column.addWidget(self._notes)
        column.addStretch(1)
        for signal in (
            session.rig.changed,
            session.rig.rods_changed,
            session.rig.tuned,
            session.rig.box_changed,
            session.display.changed,
        ):
            signal.connect(self._show)
        self._show()

    def _pick_lure(self, index: int) -> None:
        item = self._session.rig.box.lures[index] if index < len(self._session.rig.box.lures) else None
        if item is not None:
            self._session.rig.use("lure", item)

    def _show(self) -> None:
        session = self._session
        display, rig = session.display, session.rig
        rod = rig.settings
        self._sd.setText(display.spread(rod.speed_sd_mps, Kind.SPEED))
        self._head.setText(f"ROD {rig.chosen + 1}")
        names = [lure.name for lure in rig.box.lures]
        with QSignalBlocker(self._method), QSignalBlocker(self._lure):
            self._method.setCurrentIndex(list(Method).index(rod.method))
            if rod.lure.name not in names:
                names.append(rod.lure.name)
            if [self._lure.itemText(i) for i in range(self._lure.count())] != names:
                self._lure.clear()
                self._lure.addItems(names)
            self._lure.setCurrentText(rod.lure.name)
        judged = [j for j in rig.calibration.judged if j.note.rod.method is rod.method]
        lines = [note_words(display, j) for j in judged[-_MOST_NOTES:]] + moved_words(session)
        self._notes.setText(
            "\n".join(lines) or "None yet: note when it ticks bottom, or what was counted to a shelf."
        )
        set_role(self._notes, "warn_small" if any(j.contradicts for j in judged) else "small")


def small_words(name: str) -> QLabel:
    """Several lines of small text."""
    made = label("", "small", name=name)
    made.setWordWrap(True)
    return made


class TurnWords(QFrame):
    """What the boat's next manoeuvre does to every lure, once the lines have been followed through it."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (10, 8, 10, 6), 4)
        row, self._turn_head = headed("A TURN", tool_button(actions, "rig.turn", "turn  T"))
        column.addLayout(row)
        radius = Field(session.display, Kind.LENGTH, "turn_radius")
        radius.fit("000.0 ft")
        radius.set_value(session.lines.turn_radius_m)
        radius.entered.connect(session.lines.set_turn_radius)
        radius.refused.connect(lambda line: session.say(line, wrong=True))
        wide = QHBoxLayout()
        wide.addWidget(label("radius of turns", "muted"))
        wide.addWidget(radius)
        column.addLayout(wide)
        self._turn = small_words("turn_words")
        column.addWidget(self._turn)
        column.addStretch(1)
        for signal in (session.rig.changed, session.lines.changed, session.lines.moved, session.display.changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        display, boat = self._session.display, self._session.lines
        self._turn_head.setText(boat.manoeuvre.value.upper())
        if boat.run is None:
            towed = any(FAMILY[s.rod.method] in (Family.TROLLED, Family.VERTICAL) for s in self._session.rig.sets)
            self._turn.setText("T follows the lines through it." if towed else "No line here is towed.")
        else:
            told = [
                motion_words(display, i + 1, line, boat.run)
                for i, line in zip(boat.moving, boat.run.lines, strict=True)
            ]
            self._turn.setText("\n".join([*told, apart_words(display, boat.run)]).strip())


class AnswerWords(QFrame):
    """What to do for the rod in hand, large; why not where it can't be had, with the nearest that can."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 8, 12, 8), 2)
        self._big, self._line = label("", "big", name="spread_answer"), label("", name="spread_line")
        self._more, self._care = label("", "muted", name="spread_more"), label("", "small", name="spread_care")
        for widget in (self._big, self._line, self._more, self._care):
            widget.setWordWrap(True)
            column.addWidget(widget)
        column.addStretch(1)
        for signal in (session.rig.changed, session.display.changed, session.lines.changed, session.logbook.changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        reached, big, line, more = answer_words(self._session)
        set_role(self._big, "big" if reached else "warn")
        self._big.setText(big)
        self._line.setText(line)
        self._more.setText(more)
        self._care.setText(_care(self._session))


def _care(session: Session) -> str:
    """Short cautions where they belong."""
    answer = session.rig.answer
    if isinstance(answer, CannotReach):
        return ""
    words = [rig_words(c, session.display.words) for c in answer.cautions]
    if answer.method is Method.ICE:
        words.append("No ice is certain: ask locally, check every few steps, never alone.")
    bottom = session.lines.bottom_m
    words += [line for line in (weight_words(session), bait_words(session), *mark_lines(session)[:2]) if line]
    if answer.depth_m > bottom:
        words.append("The lure would lie on the bottom here.")
    return " ".join(words)
