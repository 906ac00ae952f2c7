"""Sheets over the rods: tackle of the rod in hand, a note from the water, the card's tables, advice."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from html import escape
from typing import TYPE_CHECKING

from PySide6.QtCore import QSignalBlocker, Qt, QTimer
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from plumbbob.core.rig.advice import Reach, Vertical, advise, ways_to_reach, where_to_hang
from plumbbob.core.rig.calibrate import RigNote, Told
from plumbbob.core.rig.rod import FASTEST_MPS, LIMITS, NUMBERS, Amount, RigAnswer, Zero, amount_of
from plumbbob.core.units import Kind
from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, clear, label, set_role
from plumbbob.desk.models.rig_facts import facts_of
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.follow_lines import LineFollower, tables
from plumbbob.desk.views.rig.count_field import CountField
from plumbbob.desk.views.rig.floor_sheet import FloorSheet
from plumbbob.desk.views.rig.packet_sheet import PacketSheet
from plumbbob.desk.views.rig.way_list import WayList
from plumbbob.desk.views.rig.words import capital, note_words, rod_title
from plumbbob.formats.rig_json import ALL_SLOTS, slot_kind, uses
from plumbbob.wording.rig import advice_words, hang_words, rig_words

if TYPE_CHECKING:
    from plumbbob.core.rig.table import CardTable

_SLOT_TITLES = {
    "lure": "Lure",
    "line": "Line",
    "leader": "Leader",
    "core": "Weighted line",
    "wire": "Wire",
    "ball": "Ball",
    "sinker": "Weight",
    "diver": "Disc",
    "board": "Board",
}
# title, what it measures (None: a bare number), of each number a way has
_NUMBER_TITLES: dict[str, tuple[str, Kind | None]] = {
    "lead_m": ("Release to lure", Kind.LENGTH),
    "tip_height_m": ("Tip over water", Kind.LENGTH),
    "aside_m": ("To starboard", Kind.LENGTH),
    "core_m": ("Weighted line on reel", Kind.LENGTH),
    "leader_m": ("Leader", Kind.LENGTH),
    "ahead_m": ("Weight ahead of lure", Kind.LENGTH),
    "setting": ("Setting, − to port", None),
    "board_m": ("Line to the board", Kind.LENGTH),
    "cast_m": ("Cast", Kind.LENGTH),
    "retrieve_mps": ("Retrieve", Kind.SPEED),
    "sweep_m": ("Sweep of a pump", Kind.LENGTH),
    "hooks": ("Hooks", None),
    "hook_gap_m": ("Between hooks", Kind.LENGTH),
    "start_above_m": ("Start over the fish", Kind.LENGTH),
}
_ALWAYS = ("tip_height_m", "aside_m")


class TackleSheet(Sheet):
    """Everything of the rod in hand: which pieces, and the numbers of its way; line in, depth out."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "tackle", "The rod in hand", parent)
        row = QHBoxLayout()
        row.setSpacing(28)
        pieces, numbers = QGridLayout(), QGridLayout()
        for grid in (pieces, numbers):
            grid.setVerticalSpacing(6)
            grid.setHorizontalSpacing(10)
        self._boxes: dict[str, tuple[QLabel, QComboBox]] = {}
        for i, slot in enumerate(ALL_SLOTS):
            title, box = label(_SLOT_TITLES[slot], "muted"), QComboBox()
            box.setObjectName(f"slot_{slot}")
            box.activated.connect(lambda k, s=slot: self._pick(s, k))
            pieces.addWidget(title, i, 0)
            pieces.addWidget(box, i, 1)
            self._boxes[slot] = (title, box)
        pieces.setColumnStretch(1, 1)
        self._fields: dict[str, tuple[QLabel, Field]] = {}
        for i, (name, (words, kind)) in enumerate(_NUMBER_TITLES.items()):
            title = label(words, "muted")
            field = Field(session.display, kind or Kind.LENGTH, f"rod_{name}", None if kind else 0)
            if kind is None:
                field = CountField(session, f"rod_{name}")
            field.fit("0000.0 km/h")
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.entered.connect(lambda v, n=name: self._enter(n, v))
            field.refused.connect(lambda line: session.say(line, wrong=True))
            numbers.addWidget(title, i, 0)
            numbers.addWidget(field, i, 1)
            self._fields[name] = (title, field)
        self._currents: list[Field] = []
        out = QVBoxLayout()
        out.setSpacing(6)
        out.addWidget(label("LINE IN, DEPTH OUT", "head"))
        self._out_title = label("", "muted")
        out.addWidget(self._out_title)
        self._out = Field(session.display, Kind.LENGTH, "rod_out")
        self._seconds = CountField(session, "rod_count")
        for field in (self._out, self._seconds):
            field.fit("0000.0 ft")
            field.entered.connect(self._let_out)
            field.refused.connect(lambda line: session.say(line, wrong=True))
            out.addWidget(field)
        self._depth = label("", "value", name="rod_depth")
        out.addWidget(self._depth)
        out.addStretch(1)
        self._zero = QComboBox()
        self._zero.setObjectName("rod_zero")
        self._zero.addItems([z.value for z in Zero])
        self._zero.activated.connect(lambda k: session.rig.set(zero=list(Zero)[k]))
        self._zero_title = label("Counter at zero with", "muted")
        at = len(_NUMBER_TITLES) + 2
        numbers.addWidget(self._zero_title, at, 0)
        numbers.addWidget(self._zero, at, 1)
        for layout in (pieces, numbers, out):
            top = QVBoxLayout()
            top.setSpacing(0)
            top.addLayout(layout)
            top.addStretch(1)
            row.addLayout(top, 1)
        self.body.addLayout(row)
        for k, words in enumerate(("Current at the surface", "Current at the lure")):
            field = Field(session.display, Kind.SPEED, f"rod_current_{k}")
            field.fit("0000.0 km/h")
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.setToolTip("With the boat; against it below zero. Empty: still water.")
            field.entered.connect(lambda v: self._current())
            field.refused.connect(lambda line: session.say(line, wrong=True))
            row_at = len(_NUMBER_TITLES) + k
            numbers.addWidget(label(words, "muted"), row_at, 0)
            numbers.addWidget(field, row_at, 1)
            self._currents.append(field)
        self.finish("Done", lambda: session.ask_sheet(""), cancel=False)
        for signal in (
            session.rig.changed,
            session.rig.rods_changed,
            session.rig.box_changed,
            session.display.changed,
        ):
            signal.connect(self.refresh)

    def fill(self) -> None:
        """Show the rod as it is."""
        rig, display = self.session.rig, self.session.display
        rod = rig.settings
        for slot, (title, box) in self._boxes.items():
            used = slot in uses(rod)
            title.setVisible(used)
            box.setVisible(used)
            if not used:
                continue
            names = [i.name for i in rig.box.of_kind(slot_kind(slot))]
            mine = getattr(rod, slot).name
            if mine not in names:
                names.append(mine)
            with QSignalBlocker(box):
                box.clear()
                box.addItems(names)
                box.setCurrentText(mine)
        for name, (title, field) in self._fields.items():
            used = name in NUMBERS[rod.method] or name in _ALWAYS
            title.setVisible(used)
            field.setVisible(used)
            field.set_value(float(getattr(rod, name)))
        for field, pair in zip(self._currents, rod.current or ((0.0, 0.0), (0.0, 0.0)), strict=False):
            field.set_value(pair[1])
        self._zero.setCurrentIndex(list(Zero).index(rod.zero))
        for widget in (self._zero, self._zero_title):
            widget.setVisible(amount_of(rod.method) in (Amount.WIRE, Amount.LINE))
        answer = rig.answer
        counted = amount_of(rod.method) is Amount.COUNT
        self._out.setVisible(not counted)
        self._seconds.setVisible(counted)
        self._out_title.setText(f"{capital(amount_of(rod.method).value)}{', seconds' if counted else ''}")
        if isinstance(answer, RigAnswer):
            (self._seconds if counted else self._out).set_value(answer.value)
            self._depth.setText(
                f"runs at {display.words(answer.depth_m, Kind.DEPTH)} {display.spread(answer.depth_sd_m, Kind.DEPTH)}"
            )
        else:
            self._depth.setText("")

    def _pick(self, slot: str, index: int) -> None:
        items = self.session.rig.box.of_kind(slot_kind(slot))
        if index < len(items):
            try:
                self.session.rig.use(slot, items[index])
            except ValueError as exc:
                self.session.say(f"{capital(str(exc))}.", wrong=True)

    def _enter(self, name: str, value: float) -> None:
        low, high = LIMITS[name]
        if not low <= value <= high:
            title, kind = _NUMBER_TITLES[name]
            display = self.session.display
            span = (
                f"{low:g} to {high:g}"
                if kind is None
                else f"{display.figure(low, kind)} to {display.words(high, kind)}"
            )
            self.session.say(f"{title}: {span} is possible.", wrong=True)
            self.fill()
            return
        self.session.rig.set(**{name: round(value) if name in ("setting", "hooks") else value})

    def _current(self) -> None:
        """Two speeds make a sheared current: straight from the surface to the lure, the same below it."""
        top, deep = (field.value for field in self._currents)
        depth = self.session.rig.bob_m
        none = (top or 0.0) == 0.0 and (deep or 0.0) == 0.0
        shear = () if none else ((0.0, top or 0.0), (depth, deep or 0.0))
        try:
            self.session.rig.set(current=shear)
        except ValueError:
            fast = self.session.display.words(FASTEST_MPS, Kind.SPEED)
            self.session.say(f"A current of at most {fast} either way is possible.", wrong=True)
            self.fill()

    def _let_out(self, value: float) -> None:
        trouble = self.session.rig.let_out(value)
        if trouble:
            self.session.say(f"{capital(trouble)}.", wrong=True)
        self.fill()


class NoteSheet(Sheet):
    """A note from the water about the rod in hand: what was out, and how deep it ran."""

    def __init__(self, session: Session, rigger: LineFollower, parent: QWidget) -> None:
        super().__init__(session, "note", "What happened with the rod in hand", parent)
        self._rigger = rigger
        self._rod = label("", "value", name="note_rod")
        self.body.addWidget(self._rod)
        row = QHBoxLayout()
        self._told = QComboBox()
        self._told.setObjectName("note_told")
        self._told.addItems([capital(t.value) for t in Told])
        self._depth = Field(session.display, Kind.DEPTH, "note_depth")
        self._out = Field(session.display, Kind.LENGTH, "note_out")
        self._seconds = CountField(session, "note_count")
        self._speed = Field(session.display, Kind.SPEED, "note_speed")
        self._out_title = label("", "muted")
        self._speed_title = label("at", "muted")
        for widget in (
            self._told,
            label("bottom or lure at", "muted"),
            self._depth,
            self._out_title,
            self._out,
            self._seconds,
            self._speed_title,
            self._speed,
        ):
            row.addWidget(widget)
            if isinstance(widget, Field):
                widget.fit("000.0 km/h")
                widget.refused.connect(lambda line: session.say(line, wrong=True))
        row.addStretch(1)
        self.body.addLayout(row)
        self._list = QGridLayout()
        self._list.setColumnStretch(0, 1)
        self.body.addLayout(self._list)
        self.finish("Note it", self._save)
        session.rig.tuned.connect(self.refresh)

    def fill(self) -> None:
        """The rod as it is out now, and the notes there are."""
        rig, display = self.session.rig, self.session.display
        rod, answer = rig.settings, rig.answer
        self._rod.setText(f"{rig.chosen + 1}  {rod_title(rod)}, {rod.lure.name}, {rod.line.name}")
        counted = amount_of(rod.method) is Amount.COUNT
        self._out.setVisible(not counted)
        self._seconds.setVisible(counted)
        self._out_title.setText("after a count of, seconds" if counted else "with out")
        if isinstance(answer, RigAnswer):
            (self._seconds if counted else self._out).set_value(answer.value)
        bottom = self.session.lines.bottom_m
        # near the bottom it is most often the bottom that told; else the lure was seen, on the screen
        ticks = math.isfinite(bottom) and abs(bottom - rig.bob_m) < max(0.15 * bottom, 1.0)
        self._told.setCurrentIndex(list(Told).index(Told.TOUCHED if ticks else Told.AT))
        self._depth.set_value(bottom if ticks else rig.bob_m)
        self._speed.set_value(rod.speed_mps)
        self._speed.setVisible(not counted)
        self._speed_title.setVisible(not counted)
        clear(self._list)
        for i, judged in enumerate(rig.calibration.judged[-6:]):
            words = label(note_words(display, judged), "small")
            words.setWordWrap(True)
            set_role(words, "warn_small" if judged.contradicts else "small")
            drop = Button("Take out")
            drop.setObjectName(f"note_drop_{judged.note.id}")
            drop.clicked.connect(lambda _=False, n=judged.note.id: self._rigger.remove_note(n))
            self._list.addWidget(words, i, 0)
            self._list.addWidget(drop, i, 1)
        self._depth.setFocus()

    def _save(self) -> None:
        rig = self.session.rig
        counted = amount_of(rig.settings.method) is Amount.COUNT
        value = (self._seconds if counted else self._out).value
        depth, speed = self._depth.value, self._speed.value
        if value is None or depth is None:
            self.session.say("A note needs the depth, and what was out or counted.", wrong=True)
            return
        told = list(Told)[self._told.currentIndex()]
        try:
            from dataclasses import replace

            rod = rig.settings if speed is None else replace(rig.settings, speed_mps=speed)
            note = RigNote(rod=rod, told=told, depth_m=depth, value=value)
        except ValueError as exc:
            self.session.say(f"{capital(str(exc))}.", wrong=True)
            return
        if self._rigger.save_note(note):
            self.session.ask_sheet("")


class TableSheet(Sheet):
    """The card's table of each rod: what to let out, or count, for depths at the speeds of the day."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "tables", "For the card", parent)
        self._row = QHBoxLayout()
        self._row.setSpacing(26)
        self.body.addLayout(self._row)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)

    def fill(self) -> None:
        """A table for each rod."""
        clear(self._row)
        made = tables(self.session)[:4]
        for i, table in enumerate(made):
            # what fits beside each other: the day's speed, and one each side of it
            few = len(made) > 2 and len(table.speeds_mps) == 5
            self._row.addWidget(self._table(i + 1, table, (1, 2, 3) if few else range(len(table.speeds_mps))))
        self._row.addStretch(1)

    def _table(self, number: int, table: CardTable, columns: Sequence[int]) -> QWidget:
        display = self.session.display
        counted = table.amount is Amount.COUNT
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(2)
        right = Qt.AlignmentFlag.AlignRight
        grid.addWidget(label(f"{number}  {rod_title(table.rod)}", "value"), 0, 0, 1, len(columns) + 1)
        if len(table.speeds_mps) > 1:
            for k, c in enumerate(columns, 1):
                grid.addWidget(label(display.figure(table.speeds_mps[c], Kind.SPEED), "small"), 1, k, right)
            speed_unit = display.words(0.0, Kind.SPEED).split()[-1]
            grid.addWidget(label(f"{display.words(0.0, Kind.DEPTH).split()[-1]} at {speed_unit}", "small"), 1, 0)
        for r, (depth, row) in enumerate(zip(table.depths_m, table.values, strict=True), 2):
            grid.addWidget(label(display.figure(depth, Kind.DEPTH), "muted"), r, 0, right)
            for k, c in enumerate(columns, 1):
                value = row[c]
                text = f"{value:.0f}" if counted and value is not None else display.figure(value, Kind.LENGTH)
                grid.addWidget(label(text, "value"), r, k, right)
        unit = display.words(0.0, Kind.LENGTH).split()[-1]
        foot = "seconds of count" if counted else f"{unit} of {table.amount.value}"
        grid.addWidget(label(f"{foot}; – out of reach", "small"), len(table.depths_m) + 2, 0, 1, len(columns) + 1)
        return holder


class AdviceSheet(Sheet):
    """Where to hang it, which ways reach it today, what to tie on: with reasons, and both schools."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "advice", "Advice", parent)
        row = QHBoxLayout()
        row.setSpacing(28)
        self._hang, self._ways = label("", name="advice_hang"), WayList(session)
        self._texts = label("", "small", name="advice_texts")
        left, middle = QVBoxLayout(), QVBoxLayout()
        for column in (left, middle):
            column.setSpacing(6)
        left.addWidget(label("WHERE TO HANG IT", "head"))
        left.addWidget(self._hang)
        left.addWidget(label("WHICH WAYS REACH IT", "head"))
        left.addWidget(self._ways)
        left.addStretch(1)
        middle.addWidget(label("WHAT TO TIE ON, HOW TO MOVE IT", "head"))
        middle.addWidget(self._texts)
        middle.addStretch(1)
        for widget in (self._hang, self._texts):
            widget.setWordWrap(True)
            widget.setTextFormat(Qt.TextFormat.RichText)
            widget.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.addLayout(left, 1)
        row.addLayout(middle, 1)
        holder = QWidget()
        holder.setLayout(row)
        area = scrolling(holder)
        area.setMinimumHeight(330)
        self.body.addWidget(area, 1)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)
        self._found: list[Reach] = []
        self._coming: Iterator[Reach] = iter(())
        self._one_more = QTimer(self)  # a way is solved between two frames: all of them take ten
        self._one_more.timeout.connect(self._solve_one)
        session.rig.changed.connect(self.refresh)

    def fill(self) -> None:
        """For the fish the bob hangs over, or the bob's own depth."""
        session = self.session
        rig, display = session.rig, session.display
        facts = facts_of(session)
        fish = rig.target_m
        if fish is None:
            self._hang.setText("Pick a fish in Scan, and it is said here why the bob hangs where it does.")
        else:
            hung = where_to_hang(fish, facts, setting_m=rig.settings.above_fish_m)
            at = where_to_hang(fish, facts, vertical=Vertical.AT)
            why, others = (escape(hang_words(h.reasons, display.words)) for h in (hung, at))
            self._hang.setText(
                f"<b>{display.words(hung.depth_m, Kind.DEPTH)}</b>: {why}. H hangs it there."
                f"<br>Others fish {display.words(at.depth_m, Kind.DEPTH)}: {others}."
                + "".join(f"<br>{escape(rig_words(line, display.words))}" for line in hung.cautions)
            )
        self._found = []
        self._coming = ways_to_reach(rig.bob_m, facts, rig.settings, rig.knowledge)
        self._one_more.start(0)
        said = advise(rig.bob_m, facts, [s.rod for s in rig.sets])
        self._texts.setText("<br>".join(_advice_line(*advice_words(a, display.words)) for a in said))

    def _solve_one(self) -> None:
        way = next(self._coming, None) if self.isVisible() else None
        if way is not None:
            self._found.append(way)
            return
        self._one_more.stop()
        self._ways.show_ways(self._found)
        self.place()


def _advice_line(title: str, text: str, schools: Sequence[tuple[str, str]]) -> str:
    line = f"<b>{title}</b>: {escape(text)}"
    for name, why in schools:
        line += f"<br>&nbsp;&nbsp;&nbsp;{name}: {escape(why)}"
    return line


def rig_sheets(session: Session, rigger: LineFollower, parent: QWidget) -> tuple[Sheet, ...]:
    """All of them."""
    return (
        TackleSheet(session, parent),
        PacketSheet(session, rigger, parent),
        FloorSheet(session, parent),
        NoteSheet(session, rigger, parent),
        TableSheet(session, parent),
        AdviceSheet(session, parent),
    )
