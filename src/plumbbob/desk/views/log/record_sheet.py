"""What is picked, field by field, to be put right; and what became of it before."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from plumbbob.core.tally.weight import weight_of
from plumbbob.core.units import Kind
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.when import parse_when
from plumbbob.desk.kit.widgets import Field, clear, label
from plumbbob.desk.models.session import Session
from plumbbob.formats.species import species_named
from plumbbob.store.errors import StoreError
from plumbbob.store.values import CONTACTS, Catch, Effort, LogChange, Mark, Moment, MomentKind, Trip

# by class: field and title, in order
_FIELDS: dict[type[Any], tuple[tuple[str, str], ...]] = {
    Catch: (
        ("species", "fish"), ("length_m", "length"), ("weight_kg", "weight"), ("kept", "kept"), ("time", "when"),
        ("angler", "who"), ("hook_place", "hooked in"), ("condition", "condition"), ("fish_depth_m", "fish at"),
        ("lure_depth_m", "lure at"), ("bottom_depth_m", "bottom"), ("rig", "rig"), ("note", "note"),
    ),
    Effort: (
        ("start", "from"), ("end", "to"), ("rods", "rods"), ("method", "way"), ("lure", "lure"), ("colour", "colour"),
        ("lure_depth_m", "depth"), ("bottom_depth_m", "bottom"), ("spot", "place"), ("speed_mps", "speed"),
        ("wind_mps", "wind"), ("wind_from_deg", "wind from"), ("water_temperature_c", "water"),
        ("secchi_m", "clarity"), ("layer_m", "cold layer"),
    ),
    Moment: (
        ("kind", "what"), ("time", "when"), ("count", "how many"), ("fish_depth_m", "fish at"),
        ("lure_depth_m", "lure at"), ("bottom_depth_m", "bottom"), ("seconds", "seconds"),
        ("lure_did", "the lure did"), ("note", "note"),
    ),
    Trip: (
        ("water", "water"), ("start", "from"), ("end", "to"), ("anglers", "anglers"), ("craft", "craft"),
        ("note", "note"),
    ),
    Mark: (
        ("name", "name"), ("seen", "seen"), ("depth_m", "how deep"), ("bottom_depth_m", "bottom"), ("time", "when"),
        ("note", "note"),
    ),
}  # fmt: skip
_KINDS = {
    "length_m": Kind.FISH, "weight_kg": Kind.WEIGHT, "speed_mps": Kind.SPEED, "wind_mps": Kind.SPEED,
    "water_temperature_c": Kind.TEMPERATURE, "fish_depth_m": Kind.DEPTH, "lure_depth_m": Kind.DEPTH,
    "bottom_depth_m": Kind.DEPTH, "depth_m": Kind.DEPTH, "layer_m": Kind.DEPTH, "secchi_m": Kind.DEPTH,
}  # fmt: skip
_TIMES = ("time", "start", "end")
_PLAIN_NUMBERS = ("rods", "count", "seconds", "wind_from_deg", "seen")
_MOST_CHANGES = 5


class RecordSheet(Sheet):
    """Needs the session."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "record", "Put it right", parent, over=True)
        self._value: Any = None
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(10)
        self._grid.setVerticalSpacing(5)
        self.body.addLayout(self._grid)
        self._weight = label("", "muted", name="record_weight")
        self.body.addWidget(self._weight)
        self._history = label("", "small", name="record_history")
        self._history.setWordWrap(True)
        self.body.addWidget(self._history)
        self._edits: dict[str, QWidget] = {}
        self.finish("Save", self._save)

    def fill(self) -> None:
        """What is picked on the trip, else the chosen mark, else the trip."""
        session = self.session
        clear(self._grid)
        self._edits = {}
        value: Any = session.trips.picked or session.logbook.chosen or session.trips.chosen
        self._value = value
        if value is None:
            session.ask_sheet("")
            return
        for k, (name, title) in enumerate(_FIELDS[type(value)]):
            row, column = divmod(k, 4)
            self._grid.addWidget(label(title, "muted"), row, 2 * column)
            widget = self._made(name, getattr(value, name))
            self._edits[name] = widget
            self._grid.addWidget(widget, row, 2 * column + 1)
        self._show_weight()
        self._show_history()
        self.first = next(iter(self._edits.values()))

    def _made(self, name: str, held: Any) -> QWidget:
        if name in _KINDS:
            field = Field(self.session.display, _KINDS[name], f"record_{name}")
            field.refused.connect(lambda line: self.session.say(line, wrong=True))
            field.set_value(held)
            return field
        if name == "kept":
            box = QComboBox()
            box.setObjectName("record_kept")
            box.addItems(["released", "kept"])
            box.setCurrentIndex(int(held))
            return box
        if name == "kind":
            kinds = QComboBox()
            kinds.setObjectName("record_kind")
            for kind in CONTACTS if held in CONTACTS else (held,):
                kinds.addItem(kind.value, kind)
            kinds.setCurrentIndex(max(kinds.findText(held.value), 0))
            return kinds
        edit = QLineEdit(self._words(name, held))
        edit.setObjectName(f"record_{name}")
        return edit

    def _words(self, name: str, held: Any) -> str:
        if held is None or held != held:
            return ""
        if name in _TIMES:
            return f"{self.session.local(held):%Y-%m-%d %H:%M}"
        if name == "species":
            return self.session.display.species(held)
        return f"{held:g}" if isinstance(held, float) else str(held)

    def _show_weight(self) -> None:
        """What it may have weighed, where nobody weighed it."""
        value, words = self._value, ""
        if isinstance(value, Catch) and value.length_m is not None and value.weight_kg is None:
            species = species_named(value.species)
            if species is not None and species.weight_a and species.weight_b:
                found = weight_of(value.length_m, species.weight_a, species.weight_b)
                say = self.session.display.words
                spread = say(found.sd_kg, Kind.WEIGHT)
                words = f"By its length it weighed {say(found.kg, Kind.WEIGHT)}, give or take {spread}."
        self._weight.setText(words)
        self._weight.setVisible(bool(words))

    def _show_history(self) -> None:
        try:
            changes = self.session.logbook.log.history(type(self._value), self._value.id)
        except StoreError:
            changes = []
        lines = [change_words(self.session, c) for c in changes[-_MOST_CHANGES:]]
        source = "came with an import" if self._value.batch else ""
        self._history.setText("\n".join(["What became of it:", *lines]) if lines else source)

    def _save(self) -> None:
        session, value = self.session, self._value
        try:
            made = replace(value, **{name: self._read(name, getattr(value, name)) for name in self._edits})
            if made != value:
                session.logbook.edit("correction", [made])
        except (ValueError, StoreError) as exc:
            session.say(f"Not saved: {exc}.".replace("..", "."), wrong=True)
            return
        session.ask_sheet("")
        session.say("Put right.  Z takes it back.")

    def _read(self, name: str, held: Any) -> Any:
        widget = self._edits[name]
        if isinstance(widget, Field):
            if bool(widget.property("wrong")):
                raise ValueError(f'"{widget.text()}" is no {_KINDS[name].value}')
            return widget.value
        if isinstance(widget, QComboBox):
            return MomentKind(widget.currentText()) if name == "kind" else bool(widget.currentIndex())
        assert isinstance(widget, QLineEdit)
        text = widget.text().strip()
        if text == self._words(name, held):
            return held
        if name in _TIMES:
            return parse_when(text, self.session.local(self.session.view.moment))
        if name in _PLAIN_NUMBERS:
            try:
                number = float(text.replace(",", ".")) if text else None
            except ValueError:
                raise ValueError(f'"{text[:20]}" is no number') from None
            if number is not None and not 0 <= number < 1e6:
                raise ValueError(f"{text[:20]} cannot be")
            return int(number or 0) if name == "seen" else number
        if name == "species":
            if not text:
                raise ValueError("which fish was it?")
            return self.session.display.species_typed(text)
        return text


def change_words(session: Session, change: LogChange) -> str:
    """One change in words: when, and what was otherwise."""
    when = datetime.fromtimestamp(change.time, UTC).astimezone(session.water.clock)
    day = f"{when.day} {when:%b %Y %H:%M}"
    if not change.before:
        return f"{day}  written down"
    if not change.after:
        return f"{day}  taken out"
    before, after = json.loads(change.before), json.loads(change.after)
    known = {name: title for rows in _FIELDS.values() for name, title in rows}
    told = []
    for name in sorted(set(before) | set(after)):
        a, b = before.get(name), after.get(name)
        if a != b and name in known:
            told.append(f"{known[name]} was {_shown(session, name, a)}")
    return f"{day}  {', '.join(told) or 'changed'}"


def _shown(session: Session, name: str, value: Any) -> str:
    if value is None or value == "":
        return "empty"
    if name in _KINDS and isinstance(value, int | float):
        return session.display.words(float(value), _KINDS[name])
    if name in _TIMES and isinstance(value, int | float):
        return f"{session.local(float(value)):%H:%M}"
    if name == "kept":
        return "kept" if value else "released"
    return str(value)[:40]
