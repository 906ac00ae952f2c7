"""Tackle as it is bought: the words on the packet in, what they mean and where it runs out."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plumbbob.core.rig.bought import Packet, blade_turns, lure_of
from plumbbob.core.rig.bought_lines import STRETCH, LineMaterial
from plumbbob.core.rig.fall import fall_speed, time_to_depth
from plumbbob.core.rig.line import GRAVITY
from plumbbob.core.rig.methods import solve
from plumbbob.core.rig.rod import Method, RigAnswer, RigSettings
from plumbbob.core.rig.tackle import Item, LineKind, Lure, Weight
from plumbbob.core.units import Kind, lead
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.follow_lines import LineFollower
from plumbbob.desk.views.rig.lure_picture import LurePicture
from plumbbob.desk.views.rig.words import capital
from plumbbob.formats.bought_words import item_words, kind_of_words, packet_of, timed
from plumbbob.formats.rig_json import slot_kind, uses
from plumbbob.wording.rig import rig_words

_FROM_TIP = (Method.FLAT_LINE, Method.BOARD)
_COUNT_M = 10.0
# a start for each form, in either system; what is in the box changes with one press
_STARTS = (
    ("jig + tail", "7 g ball jig, 10 cm paddle tail", "1/4 oz ball jig, 4 in paddle tail"),
    ("spoon", "14 g spoon", "1/2 oz spoon"),
    ("slab", "28 g slab", "1 oz slab"),
    ("blade", "14 g blade", "1/2 oz blade"),
    ("plug", "plug 9 cm, 4.5 m", "plug 3 1/2 in, 15 ft"),
    ("spinner", "7 g spinner, round blade 2.5 cm", "1/4 oz spinner, round blade 1 in"),
    ("soft bait", "20 g swimbait 12 cm", "3/4 oz swimbait 5 in"),
    ("line", "4.5 kg nylon", "10 lb nylon"),
    ("weight", "28 g egg sinker", "1 oz egg sinker"),
)


class PacketSheet(Sheet):
    """Type the packet, see what it means; Enter puts it on the rod in hand and into the tackle box."""

    def __init__(self, session: Session, rigger: LineFollower, parent: QWidget) -> None:
        super().__init__(session, "packet", "Tackle as it is bought", parent)
        self._rigger = rigger
        self._item: Item | None = None
        self._text = QLineEdit()
        self._text.setObjectName("packet_words")
        self._text.setPlaceholderText("3/8 oz ball jig, 4 in paddle tail  ·  10 lb braid  ·  plug 9 cm, 4.5 m")
        self._text.textEdited.connect(lambda _: self._read())
        self._text.returnPressed.connect(self._use)
        self.first = self._text
        self.body.addWidget(self._text)
        starts = QHBoxLayout()
        starts.setSpacing(4)
        for name, metric, customary in _STARTS:
            button = Button(name)
            button.setObjectName(f"packet_start_{name.split()[0]}")
            button.clicked.connect(lambda _=False, m=metric, c=customary: self._begin(m, c))
            starts.addWidget(button)
        starts.addStretch(1)
        self.body.addLayout(starts)
        row = QHBoxLayout()
        row.setSpacing(18)
        self._picture = LurePicture(session)
        row.addWidget(self._picture, 3)
        side = QVBoxLayout()
        side.setSpacing(4)
        self._facts = label("", "small", name="packet_facts")
        self._facts.setWordWrap(True)
        self._runs = label("", "value", name="packet_runs")
        self._runs.setWordWrap(True)
        side.addWidget(self._runs)
        side.addWidget(self._facts)
        side.addStretch(1)
        self._timed = QGridLayout()
        self._timed.setHorizontalSpacing(8)
        self._depth = Field(session.display, Kind.DEPTH, "packet_depth")
        self._seconds = QLineEdit()
        self._seconds.setObjectName("packet_seconds")
        self._seconds.setPlaceholderText("seconds")
        self._depth.fit("000.0 ft")
        self._seconds.setFixedWidth(90)
        self._seconds.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._depth.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._depth.entered.connect(lambda _: self._read())
        self._depth.refused.connect(lambda line: session.say(line, wrong=True))
        self._seconds.textEdited.connect(lambda _: self._read())
        self._timed_title = label("timed to the bottom, on slack line", "muted")
        self._timed.addWidget(self._timed_title, 0, 0, 1, 2)
        self._timed.addWidget(self._depth, 1, 0)
        self._timed.addWidget(self._seconds, 1, 1)
        side.addLayout(self._timed)
        row.addLayout(side, 2)
        self.body.addLayout(row)
        self.finish("Put it on the rod", self._use)
        session.display.changed.connect(self.refresh)

    def fill(self) -> None:
        """What is typed stays; units may be others."""
        self._read()

    def _begin(self, metric: str, customary: str) -> None:
        plain = self.session.display.words(1.0, Kind.DEPTH)
        self._text.setText(customary if "ft" in plain else metric)
        self._text.setFocus()
        self._read()

    def _read(self) -> None:
        """What the words mean, as they are typed; half a word is no mistake."""
        text = self._text.text().strip()
        self._item, packet, trouble = None, None, ""
        if text:
            try:
                self._item, packet = self._made(text)
            except ValueError as exc:
                trouble = str(exc)
        falls = isinstance(self._item, Lure) and self._item.weight_n > 0
        for widget in (self._depth, self._seconds, self._timed_title):
            widget.setVisible(falls)
        self._picture.show_item(self._item, packet)
        self._runs.setText(self._solved() if self._item is not None else "")
        self._facts.setText(capital(trouble) + "." if trouble else self._meaning(packet))

    def _made(self, text: str) -> tuple[Item, Packet | None]:
        kind = kind_of_words(text)
        rho = self.session.rig.settings.rho
        if kind != "lure":
            return item_words(kind, text, rho), None
        packet = packet_of(text)
        seconds = self._counted()
        if seconds is not None and self._depth.value:
            packet = timed(packet, self._depth.value, seconds, self.session.rig.settings.line, rho=rho)
        rod = self.session.rig.settings
        # thirty metres out are thirty from the tip: what hangs in the air takes nothing down
        return lure_of(packet, rho=rho, tip_m=rod.tip_height_m if rod.method in _FROM_TIP else 0.0), packet

    def _counted(self) -> float | None:
        try:
            value = float(self._seconds.text().replace(",", ".").removesuffix("s"))
        except ValueError:
            return None
        return value if math.isfinite(value) and value > 0 else None

    def _meaning(self, packet: Packet | None) -> str:
        """Weight, drag, fall: the numbers behind the picture, each with its spread."""
        item, display = self._item, self.session.display
        line, rho = self.session.rig.settings.line, self.session.rig.settings.rho
        if item is None:
            return ""
        if isinstance(item, LineKind):
            material = next((m for m in LineMaterial if m.value in item.name.lower()), LineMaterial.NYLON)
            low, high = STRETCH[material]
            sinks = "sinks" if item.weight_npm(rho) > 0 else "floats"
            return (
                f"{1000 * item.diameter_m:.2f} mm thick, {sinks}; stretches {low:.0%} to {high:.0%} pulled hard. "
                "By its strength the thickness is good to an eighth: type what you measure."
            )
        if isinstance(item, Weight):
            pull = item.body(rho).weight_n
            return f"Pulls down with {pull:.2f} N in water: as much as {self._light(pull)} in the hand."
        if not isinstance(item, Lure):
            return "Pulls by its size; the first note from the water tunes it."
        if item.dives:
            how = f"neutral, its lip pulls down {item.lift_area_m2 / item.drag_area_m2:.2f} times as hard as it drags"
        elif item.weight_n <= 0:
            how = f"floats with {self._light(-item.weight_n)}"
        else:
            how = f"weighs {self._light(item.weight_n)} in water"
        words = [f"{capital(how)}; drag ±{100 * item.drag_sd:.0f} % until it is timed or noted."]
        if item.weight_n > 0:
            falling = item.falling(line, rho)
            speed = display.words(fall_speed(falling, 0.0, rho=rho), Kind.SPEED, 1)
            try:
                seconds = time_to_depth(falling, _COUNT_M, rho=rho)[0]
                spread = math.exp(1.28 * item.fall_sd / 2)
                deep = display.words(_COUNT_M, Kind.DEPTH, 0)
                words.append(
                    f"Falls at {speed} first; {deep} in {seconds:.0f} s ({seconds / spread:.0f} to "
                    f"{seconds * spread:.0f}), on a tight line up to {2.3 * seconds:.0f} s."
                )
            except ValueError as exc:
                words.append(f"{capital(str(exc))}.")
        if packet is not None and packet.form.value == "spinner" and math.isfinite(packet.length_m):
            turns = blade_turns(self.session.rig.settings.speed_mps, packet.length_m)
            words.append(f"Its blade turns {turns:.0f} times a second at this speed.")
        return " ".join(words)

    def _light(self, newtons: float) -> str:
        return lead(newtons / GRAVITY, self.session.display.system_of(Kind.WEIGHT))

    def _slot(self) -> str | None:
        """The place on the rod in hand that such a piece fits; None where there is none."""
        item, rod = self._item, self.session.rig.settings
        if item is None:
            return None
        return next((slot for slot in uses(rod) if slot_kind(slot) == item.kind), None)

    def _with_it(self) -> RigSettings | None:
        slot = self._slot()
        if slot is None:
            return None
        changes: dict[str, Any] = {slot: self._item}
        return replace(self.session.rig.settings, **changes)

    def _solved(self) -> str:
        """Where the rod in hand runs with it."""
        rig, display = self.session.rig, self.session.display
        rod = self._with_it()
        if rod is None:
            return f"The rod in hand, {rig.settings.method.value}, has no place for it: it goes into the tackle box."
        answer = solve(rod, rig.bob_m, rig.knowledge)
        if not isinstance(answer, RigAnswer):
            return f"{capital(rig_words(answer.reason, display.words))}."
        amount = (
            f"{answer.value:.0f} s" if answer.amount.value == "count" else display.words(answer.value, Kind.LENGTH, 0)
        )
        depth = display.words(answer.depth_m, Kind.DEPTH)
        return f"{capital(answer.amount.value)} {amount} for {depth} {display.spread(answer.depth_sd_m, Kind.DEPTH)}"

    def _use(self) -> None:
        """On the rod where it has a place, and into the tackle box."""
        if self._item is None:
            self.session.say(self._facts.text() or "Type what stands on the packet.", wrong=True)
            return
        if self._rigger.add_to_box(self._item):
            slot = self._slot()
            if slot is not None:
                self.session.rig.use(slot, self._item)
            self.session.ask_sheet("")
            where = "on the rod and in" if slot is not None else "in"
            self.session.say(f"{capital(self._item.name)}: {where} the tackle box.")
