"""Settings on one sheet; each takes effect at once, so that it is seen while it is chosen."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from plumbbob.core.live.clocks import BaitKind
from plumbbob.core.rig.rod import Zero
from plumbbob.core.units import Kind, System, unit_of
from plumbbob.desk.kit.layouts import scrolling
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, label
from plumbbob.desk.models.boat import KINDS, own_boat
from plumbbob.desk.models.display import TEXT_SIZES
from plumbbob.desk.models.session import Session
from plumbbob.desk.theme import Light
from plumbbob.formats.species import species_names

_LENGTHS = (
    ("mount_depth_m", "sounder under the surface", Kind.DEPTH, 0.0, 10.0),
    ("forward_m", "sounder ahead of the antenna", Kind.DISTANCE, -50.0, 50.0),
    ("starboard_m", "sounder to starboard of it", Kind.DISTANCE, -50.0, 50.0),
    ("clean_mps", "reads clean up to", Kind.SPEED, 0.5, 30.0),
)


class SettingsSheet(Sheet):
    """Needs the session, whose display and settings it changes."""

    def __init__(self, session: Session, host: QWidget) -> None:
        super().__init__(session, "settings", "Settings", host, over=True)
        row = QHBoxLayout()
        row.setSpacing(28)
        row.addLayout(self._units())
        row.addLayout(self._boat())
        row.addLayout(self._screen())
        row.addStretch(1)
        holder = QWidget()
        holder.setLayout(row)
        area = scrolling(holder)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        area.setMinimumHeight(330)
        self.body.addWidget(area, 1)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)

    def _units(self) -> QVBoxLayout:
        column, grid = _column(), QGridLayout()
        column.addWidget(label("UNITS", "head"))
        grid.setVerticalSpacing(5)
        self._all = self._choice("settings_units", [s.value for s in System], "units of all quantities")
        self._all.activated.connect(lambda k: self.session.display.set_system(list(System)[k]))
        grid.addWidget(label("all", "muted"), 0, 0)
        grid.addWidget(self._all, 0, 1)
        self._own: dict[Kind, QComboBox] = {}
        for k, kind in enumerate(Kind, 1):
            names = list(dict.fromkeys(unit_of(kind, s).symbol for s in System))
            box = self._choice(f"settings_unit_{kind.name.lower()}", ["as all", *names], f"unit of {kind.value}")
            box.activated.connect(lambda i, kind=kind, names=names: self._set_unit(kind, names, i))
            grid.addWidget(label(kind.value, "muted"), k, 0)
            grid.addWidget(box, k, 1)
            self._own[kind] = box
        column.addLayout(grid)
        column.addStretch(1)
        return column

    def _boat(self) -> QVBoxLayout:
        column, grid = _column(), QGridLayout()
        column.addWidget(label("BOAT", "head"))
        grid.setVerticalSpacing(5)
        self._craft = self._choice("settings_craft", list(KINDS), "kind of craft")
        self._craft.activated.connect(lambda k: self._set("boat/kind", KINDS[k]))
        grid.addWidget(label("craft", "muted"), 0, 0)
        grid.addWidget(self._craft, 0, 1)
        self._lengths: dict[str, Field] = {}
        for k, (name, title, kind, low, high) in enumerate(_LENGTHS, 1):
            field = Field(self.session.display, kind, f"settings_{name}")
            field.fit("00.0 km/h")
            field.entered.connect(lambda v, n=name, a=low, b=high: self._set_length(n, v, a, b))
            field.refused.connect(lambda line: self.session.say(line, wrong=True))
            grid.addWidget(label(title, "muted"), k, 0)
            grid.addWidget(field, k, 1)
            self._lengths[name] = field
        column.addLayout(grid)
        filled = label("Where a recording does not say where its sounder sat, this counts.", "small")
        filled.setWordWrap(True)
        column.addWidget(filled)
        column.addSpacing(8)
        self._deck(column)
        column.addStretch(1)
        return column

    def _deck(self, column: QVBoxLayout) -> None:
        """Sounds, bait, and the keys of a remote."""
        deck = self.session.deck
        column.addWidget(label("ON DECK", "head"))
        self._sounds = QCheckBox("sounds")
        self._sounds.setObjectName("settings_sounds")
        self._sounds.clicked.connect(lambda on: deck.set_sounds(on))
        column.addWidget(self._sounds)
        self._bait = self._choice("settings_bait", ["a lure", *(b.value for b in BaitKind)], "bait whose clock runs")
        self._bait.activated.connect(lambda k: deck.set_bait([None, *BaitKind][k]))
        row, remote = QHBoxLayout(), QHBoxLayout()
        row.addWidget(label("on the hook", "muted"))
        row.addWidget(self._bait, 1)
        column.addLayout(row)
        self._remote = label("", "muted", name="settings_remote")
        teach, forget = Button("Teach a key"), Button("Forget all")
        teach.setObjectName("settings_teach")
        teach.setToolTip("Goes on deck: press the remote's key, then the target it is for.")
        teach.clicked.connect(self._teach)
        forget.clicked.connect(self._forget)
        for widget in (self._remote, teach, forget):
            remote.addWidget(widget)
        column.addLayout(remote)

    def _forget(self) -> None:
        self.session.deck.forget_remote()
        self.refresh()

    def _teach(self) -> None:
        self.session.ask_sheet("")
        self.session.set_mode("deck")
        self.session.deck.learn_next()

    def _screen(self) -> QVBoxLayout:
        column, grid = _column(), QGridLayout()
        column.addWidget(label("SCREEN", "head"))
        grid.setVerticalSpacing(5)
        self._light = self._choice("settings_light", ["day", "dusk", "night", "by the sun"], "colours of the screen")
        self._light.activated.connect(self._set_light)
        self._text = self._choice("settings_text", [f"{s:g} pt" for s in TEXT_SIZES], "size of text")
        self._text.activated.connect(lambda k: self.session.display.set_text_size(TEXT_SIZES[k]))
        for k, (title, box) in enumerate((("colours", self._light), ("text", self._text))):
            grid.addWidget(label(title, "muted"), k, 0)
            grid.addWidget(box, k, 1)
        column.addLayout(grid)
        self._motion = QCheckBox("let pictures move by themselves")
        self._motion.setObjectName("settings_motion")
        self._motion.clicked.connect(lambda on: self.session.display.set_motion(on))
        column.addWidget(self._motion)
        column.addSpacing(8)
        column.addWidget(label("LINE COUNTERS", "head"))
        self._zero = self._choice("settings_zero", [z.value.split(" at ")[1] for z in Zero], "counters' zero")
        self._zero.setToolTip("Where the lure, or the ball, is when the counter is set to zero")
        self._zero.activated.connect(self._set_zero)
        zero = QHBoxLayout()
        zero.addWidget(label("at zero with the lure at", "muted"))
        zero.addWidget(self._zero)
        column.addLayout(zero)
        column.addSpacing(8)
        column.addWidget(label("SPECIES", "head"))
        languages = ["", *species_names()]
        self._language = self._choice("settings_language", ["English", *languages[1:]], "language of species' names")
        self._language.activated.connect(lambda k: self.session.display.set_species_language(languages[k]))
        named = QHBoxLayout()
        named.addWidget(label("named in", "muted"))
        named.addWidget(self._language, 1)
        column.addLayout(named)
        column.addWidget(label("A water's own names stay. Limits: Water, what the species likes.", "small"))
        column.addStretch(1)
        return column

    def _choice(self, name: str, rows: list[str], says: str) -> QComboBox:
        box = QComboBox()
        box.setObjectName(name)
        box.setAccessibleName(says)
        box.addItems(rows)
        return box

    def fill(self) -> None:
        """What is chosen."""
        display, settings = self.session.display, self.session.settings
        self._all.setCurrentIndex(list(System).index(display.system))
        for kind, box in self._own.items():
            own = display.own_unit(kind)
            box.setCurrentIndex(0 if own is None else max(box.findText(unit_of(kind, own).symbol), 0))
        boat = own_boat(settings)
        self._craft.setCurrentIndex(KINDS.index(boat.kind))
        for name, field in self._lengths.items():
            field.set_value(getattr(boat, name))
        deck = self.session.deck
        self._sounds.setChecked(deck.sounds)
        self._bait.setCurrentIndex([None, *BaitKind].index(deck.bait))
        keys = len(deck.remote)
        self._remote.setText(f"remote: {keys} key{'s' if keys != 1 else ''}" if keys else "remote: none")
        self._light.setCurrentIndex(3 if display.by_hour else list(Light).index(display.light))
        self._text.setCurrentIndex(TEXT_SIZES.index(display.text_size))
        self._motion.setChecked(display.motion)
        self._language.setCurrentIndex(["", *species_names()].index(display.species_language))
        zeros = {one.rod.zero for one in self.session.rig.sets}
        self._zero.setCurrentIndex(list(Zero).index(zeros.pop()) if len(zeros) == 1 else -1)  # they differ: none

    def _set_unit(self, kind: Kind, names: list[str], index: int) -> None:
        system = next((s for s in System if index and unit_of(kind, s).symbol == names[index - 1]), None)
        self.session.display.set_unit(kind, system)

    def _set_length(self, name: str, value: float | None, low: float, high: float) -> None:
        if value is None:
            self.session.settings.remove(f"boat/{name}")
        elif low <= value <= high:
            self._set(f"boat/{name}", value)
        else:
            self.session.say("That is outside what a boat can have.", wrong=True)
            self.fill()

    def _set(self, key: str, value: str | float) -> None:
        self.session.settings.setValue(key, value)
        self.session.conditions.changed.emit()  # what is said of wind, drift and speed follows

    def _set_zero(self, index: int) -> None:
        """Of all rods; a single one can still be told otherwise with its tackle."""
        rig = self.session.rig
        sets = tuple(replace(one, rod=replace(one.rod, zero=list(Zero)[index])) for one in rig.sets)
        rig.set_all(sets, rig.chosen)

    def _set_light(self, index: int) -> None:
        display = self.session.display
        display.set_by_hour(index == 3)
        if index < 3:
            display.set_light(list(Light)[index])


def _column() -> QVBoxLayout:
    column = QVBoxLayout()
    column.setSpacing(6)  # else it has that of the row
    return column
