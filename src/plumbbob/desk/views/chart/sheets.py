"""Sheets over the foot of the chart: the column, what counts, cleaning, columns of a file, lanes and holes."""

from __future__ import annotations

import math
from dataclasses import replace
from enum import Enum

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QPlainTextEdit,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.chart.rank import BaitRelation, LowLight, Part, WindSide
from plumbbob.core.chart.soundings import FAULT_WORDS, CleanSettings
from plumbbob.core.chart.terms import Term
from plumbbob.core.units import Kind, System
from plumbbob.core.water.guess import Freezes, NoGuess
from plumbbob.core.water.profile import Profile
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, label, spin_box
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.tasks import Tasks
from plumbbob.desk.views.chart.cast_sheet import CastSheet
from plumbbob.desk.views.chart.tide_sheet import TideSheet
from plumbbob.desk.views.chart.words import TERM_WORDS, guess_words
from plumbbob.formats.profile import parse_profile
from plumbbob.formats.soundings import DEPTH_UNITS, Columns
from plumbbob.formats.species import species_here

_SCHOOLS: tuple[tuple[str, str, type[Enum], dict[Enum, str]], ...] = (
    (
        "wind_side",
        "Wind",
        WindSide,
        {
            WindSide.WINDWARD: "warm water, food and bait are pushed there and the light is broken",
            WindSide.LEE: "cool water wells up, it is calm, the boat is held with ease",
        },
    ),
    (
        "low_light",
        "Half light",
        LowLight,
        {
            LowLight.SHALLOW: "bait and takers rise and come inshore",
            LowLight.DEEP: "big ones stay on the edge and wait",
        },
    ),
    (
        "bait",
        "Bait",
        BaitRelation,
        {
            BaitRelation.ON: "takers feed where bait is densest",
            BaitRelation.AWAY: "in thick bait a lure is one in thousands; singles hunt at its edge",
            BaitRelation.INTERCEPT: "takers wait on the way between bait and deep water",
        },
    ),
    (
        "part",
        "Structure",
        Part,
        {
            Part.TOP: "active fish are on top",
            Part.EDGE: "waiting fish hold on the edge",
            Part.OFF: "idle fish hang off it over deeper water",
        },
    ),
)


class ProfileSheet(Sheet):
    """Temperature and oxygen by depth: typed, pasted, from a file, or guessed and marked as a guess."""

    def __init__(self, session: Session, tasks: Tasks, parent: QWidget) -> None:
        super().__init__(session, "profile", "Temperature down the column", parent)
        self._tasks = tasks
        row = QHBoxLayout()
        self._text = QPlainTextEdit()
        self._text.setObjectName("profile_text")
        self._text.setTabChangesFocus(True)
        self._text.setPlaceholderText("depth  temperature  oxygen")
        self._text.setMinimumHeight(150)
        row.addWidget(self._text, 2)
        side = QVBoxLayout()
        self._units = label("", "small", name="profile_units")
        self._units.setWordWrap(True)
        side.addWidget(self._units)
        self._surface = Field(session.display, Kind.TEMPERATURE, "profile_surface")
        self._surface.fit("000.0 °F")
        guess = QHBoxLayout()
        guess.addWidget(label("surface today", "muted"))
        guess.addWidget(self._surface)
        guess.addStretch(1)
        side.addLayout(guess)
        ice = QHBoxLayout()
        self._freezes = QComboBox()
        self._freezes.setObjectName("profile_freezes")
        self._freezes.addItems(["not known", *(f.value for f in Freezes)])
        ice.addWidget(label("freezes over", "muted"))
        ice.addWidget(self._freezes)
        ice.addStretch(1)
        side.addLayout(ice)
        estimate = Button("Guess from the season")
        estimate.setObjectName("profile_guess")
        estimate.clicked.connect(self._guess)
        file = Button("From a file …")
        file.clicked.connect(tasks.column.ask_file)
        side.addWidget(estimate)
        side.addWidget(file)
        side.addWidget(label("The surface may be left empty.", "small"))
        side.addStretch(1)
        row.addLayout(side, 1)
        self.body.addLayout(row)
        self.finish("Use this column", self._use)
        self._surface.refused.connect(lambda line: session.say(line, wrong=True))

    def fill(self) -> None:
        """Show the column of the moment."""
        session = self.session
        display, profile = session.display, session.conditions.profile
        depth = "feet" if display.system_of(Kind.DEPTH) is System.US else "metres"
        warm = "°F" if display.system_of(Kind.TEMPERATURE) is System.US else "°C"
        self._units.setText(f"A line for each depth: {depth}, {warm}, and if known mg/\u2060L of oxygen.")
        self._surface.set_value(float(profile.temperature_c[0]) if profile and not profile.estimated else None)
        lines = []
        if profile is not None and not profile.estimated:
            oxygen = [math.nan] * profile.depth_m.size if profile.oxygen_mgl is None else profile.oxygen_mgl
            feet = display.system_of(Kind.DEPTH) is System.US
            fahrenheit = display.system_of(Kind.TEMPERATURE) is System.US
            for d, t, o in zip(profile.depth_m, profile.temperature_c, oxygen, strict=True):
                shown = f"{d / 0.3048:.0f}" if feet else f"{d:.1f}"
                line = f"{shown}\t{t * 1.8 + 32:.1f}" if fahrenheit else f"{shown}\t{t:.1f}"
                lines.append(line + (f"\t{o:.1f}" if o == o else ""))
        self._text.setPlainText("\n".join(lines))
        self._text.setFocus()

    def _use(self) -> None:
        display = self.session.display
        feet, warm = (display.system_of(k) is System.US for k in (Kind.DEPTH, Kind.TEMPERATURE))
        try:
            profile = parse_profile(self._text.toPlainText(), feet=feet, fahrenheit=warm)
        except ValueError as exc:
            self.session.say(f"Not used: {exc}.", wrong=True)
            return
        self._take(profile, "Column saved.")

    def _guess(self) -> None:
        asked = self._freezes.currentIndex()
        found = self._tasks.column.guess(self._surface.value, None if asked == 0 else list(Freezes)[asked - 1])
        words = guess_words(self.session.display, found)
        if found.profile is None:
            self.session.say(words, wrong=True)
            return
        self._take(replace(found.profile, doubtful=found.code is NoGuess.TURNING), words)

    def _take(self, profile: Profile, words: str) -> None:
        self._tasks.column.set_profile(profile)
        self.session.ask_sheet("")
        self.session.say(words)


class CountsSheet(Sheet):
    """How much each reason counts, and the schools where practitioners disagree."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "counts", "What counts", parent)
        row = QHBoxLayout()
        row.setSpacing(28)
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        self._sliders: dict[Term, QSlider] = {}
        for i, term in enumerate(Term):
            slider = QSlider(Qt.Orientation.Horizontal)
            slider.setObjectName(f"weight_{term.value}")
            slider.setRange(0, 20)
            slider.setMinimumWidth(150)
            slider.valueChanged.connect(lambda v, t=term: session.spots.set_weight(t, v / 10.0))
            grid.addWidget(label(TERM_WORDS[term], "muted"), i, 0)
            grid.addWidget(slider, i, 1)
            self._sliders[term] = slider
        self._least = QSlider(Qt.Orientation.Horizontal)
        self._least.setObjectName("least_chance")
        self._least.setRange(0, 19)
        self._least.setMinimumWidth(150)
        self._least.setToolTip("Places that the chart is less sure of are left out of the list")
        self._least_words = label("", "muted")
        self._least.valueChanged.connect(self._cut)
        grid.addWidget(self._least_words, len(Term), 0)
        grid.addWidget(self._least, len(Term), 1)
        row.addLayout(grid)
        schools = QGridLayout()
        schools.setVerticalSpacing(5)
        self._schools: dict[str, tuple[QComboBox, list[Enum]]] = {}
        self._reasons: dict[str, QWidget] = {}
        for i, (name, title, kind, reasons) in enumerate(_SCHOOLS):
            box = QComboBox()
            box.setObjectName(f"school_{name}")
            options = list(kind)
            box.addItems([str(o.value) for o in options])
            why = label("", "small")
            why.setWordWrap(True)
            why.setMinimumWidth(260)

            def pick(index: int, n: str = name, o: list[Enum] = options, r: dict[Enum, str] = reasons) -> None:
                session.spots.set_approach(**{n: o[index]})
                self._say_why(n, r[o[index]])

            box.currentIndexChanged.connect(pick)
            schools.addWidget(label(title, "muted"), i, 0)
            schools.addWidget(box, i, 1)
            schools.addWidget(why, i, 2)
            self._schools[name] = (box, options)
            self._reasons[name] = why
        row.addLayout(schools, 1)
        self.body.addLayout(row)
        self.body.addWidget(
            label("Practitioners disagree, and the evidence is thin: try both and let your own log decide.", "small")
        )
        self.finish("Done", lambda: session.ask_sheet(""), cancel=False)

    def _cut(self, steps: int) -> None:
        self.session.spots.set_least_chance(steps / 20.0)
        self._least_words.setText(f"there by {steps / 20.0:.0%} at least")

    def _say_why(self, name: str, words: str) -> None:
        widget = self._reasons[name]
        widget.setText(words)  # type: ignore[attr-defined]

    def fill(self) -> None:
        """Show what counts now."""
        places = self.session.spots
        for term, slider in self._sliders.items():
            with QSignalBlocker(slider):
                slider.setValue(round(10 * places.weights[term]))
        with QSignalBlocker(self._least):
            self._least.setValue(round(20 * places.least_chance))
        self._cut(self._least.value())
        for name, _, _, reasons in _SCHOOLS:
            box, options = self._schools[name]
            now = places.approach(name)
            with QSignalBlocker(box):
                box.setCurrentIndex(options.index(now))
            self._say_why(name, reasons[now])


class CleaningSheet(Sheet):
    """What was left out of the soundings and why; switches, draft and sound speed."""

    def __init__(self, session: Session, tasks: Tasks, parent: QWidget) -> None:
        super().__init__(session, "cleaning", "Cleaning the soundings", parent)
        self._tasks = tasks
        self._counts = label("", "muted", name="cleaning_counts")
        self.body.addWidget(self._counts)
        grid = QGridLayout()
        self._boxes = {}
        for i, (fault, words) in enumerate(FAULT_WORDS.items()):
            box = QCheckBox(words)
            box.setObjectName(f"clean_{fault.name.lower()}")
            grid.addWidget(box, i // 3, i % 3)
            self._boxes[fault] = box
        self.body.addLayout(grid)
        row = QHBoxLayout()
        self._draft = Field(session.display, Kind.DEPTH, "clean_draft")
        self._speed = spin_box(1350, 1600, " m/s", "clean_speed")
        self._assumed = spin_box(1350, 1600, " m/s")
        for title, widget in (
            ("transducer under the surface", self._draft),
            ("sound in this water", self._speed),
            ("sounder assumed", self._assumed),
        ):
            row.addWidget(label(title, "muted"))
            row.addWidget(widget)
        row.addStretch(1)
        self.body.addLayout(row)
        self.body.addWidget(
            label("A weed bed's deep returns count as bottom; a rock that many soundings agree on stays.", "small")
        )
        self.finish("Make the chart anew", self._apply)

    def fill(self) -> None:
        """Show the counts and switches of the moment."""
        chart, settings = self.session.chart.chart, self._tasks.charter.cleaning
        if chart is None:
            self._counts.setText("No soundings yet.")
        else:
            out = sum(chart.left_out.values())
            self._counts.setText(f"{chart.used:,} soundings used, {out:,} left out.")
        for fault, box in self._boxes.items():
            number = chart.left_out.get(fault, 0) if chart is not None else 0
            box.setText(f"{FAULT_WORDS[fault]} ({number})")
            box.setChecked(fault in settings.look_for)
        self._draft.set_value(settings.draft_m)
        self._assumed.setValue(1500)
        self._speed.setValue(round(1500 * settings.sound_speed_ratio))

    def _apply(self) -> None:
        self._tasks.charter.set_cleaning(
            CleanSettings(
                look_for=frozenset(f for f, box in self._boxes.items() if box.isChecked()),
                draft_m=self._draft.value or 0.0,
                sound_speed_ratio=self._speed.value() / self._assumed.value(),
            )
        )
        self.session.ask_sheet("")


class ColumnsSheet(Sheet):
    """Which column of a file holds what, when its header does not say."""

    def __init__(self, session: Session, tasks: Tasks, parent: QWidget) -> None:
        super().__init__(session, "columns", "Which column is what?", parent)
        self._tasks = tasks
        grid = QGridLayout()
        self._picks: dict[str, QComboBox] = {}
        for i, (name, title) in enumerate(
            (
                ("latitude", "latitude"),
                ("longitude", "longitude"),
                ("depth", "depth"),
                ("time", "time, if any"),
                ("water_level", "water level (m), if any"),
            )
        ):
            box = QComboBox()
            box.setObjectName(f"column_{name}")
            grid.addWidget(label(title, "muted"), i, 0)
            grid.addWidget(box, i, 1)
            self._picks[name] = box
        self._unit = QComboBox()
        self._unit.setObjectName("column_unit")
        self._unit.addItems(list(DEPTH_UNITS))
        grid.addWidget(label("depth is in", "muted"), 2, 2)
        grid.addWidget(self._unit, 2, 3)
        grid.setColumnStretch(4, 1)
        self.body.addLayout(grid)
        self.finish("Add these soundings", self._add)

    def fill(self) -> None:
        """Show the file's own names."""
        names = self._tasks.soundings.asked_names
        for key, box in self._picks.items():
            box.clear()
            optional = key in ("time", "water_level")
            box.addItems((["–"] if optional else []) + names)
            likely = next((i for i, n in enumerate(names) if n.lower().startswith(key[:3])), None)
            if likely is not None:
                box.setCurrentIndex(likely + (1 if optional else 0))
            elif not optional:
                box.setCurrentIndex(list(self._picks).index(key))  # as most files have them: in this order

    def _add(self) -> None:
        def pick(name: str) -> str:
            text = self._picks[name].currentText()
            return "" if text == "–" else text

        columns = Columns(
            latitude=pick("latitude"),
            longitude=pick("longitude"),
            depth=pick("depth"),
            depth_unit=self._unit.currentText(),
            time=pick("time"),
            water_level=pick("water_level"),
        )
        if len({columns.latitude, columns.longitude, columns.depth}) < 3:
            self.session.say("Latitude, longitude and depth each need a column of their own.", wrong=True)
            return
        self.session.ask_sheet("")
        self._tasks.soundings.add_asked(columns)


class LanesSheet(Sheet):
    """How a lane keeps to its depth, and how holes through the ice are spaced."""

    def __init__(self, session: Session, tasks: Tasks, parent: QWidget) -> None:
        super().__init__(session, "lanes", "Lanes and holes", parent)
        self._tasks = tasks
        grid = QGridLayout()
        self._fields: dict[str, Field] = {}
        rows: tuple[tuple[str, str, Kind], ...] = (
            ("turn_m", "least turn of the boat", Kind.DISTANCE),
            ("shore_m", "keep from the shore", Kind.DISTANCE),
            ("hazard_m", "keep from hazards and bank anglers", Kind.DISTANCE),
            ("longest_m", "longest lane", Kind.DISTANCE),
        )
        for i, (name, title, kind) in enumerate(rows):
            field = Field(session.display, kind, f"lane_{name}")
            field.fit("00000 ft")
            grid.addWidget(label(title, "muted"), i, 0)
            grid.addWidget(field, i, 1)
            self._fields[name] = field
        self._beam = spin_box(4, 60, "° cone")
        self._holes = spin_box(1, 120, " holes", "ice_holes")
        grid.addWidget(label("sounder on the ice", "muted"), 0, 2)
        grid.addWidget(self._beam, 0, 3)
        grid.addWidget(label("at most", "muted"), 1, 2)
        grid.addWidget(self._holes, 1, 3)
        grid.setColumnStretch(4, 1)
        self.body.addLayout(grid)
        ice = label(
            "Ice: under 10 cm (4 in) of new clear ice stay off; white ice counts half; none on rivers, inlets, "
            "springs. No thickness is certain: ask locally, check every few metres, never go alone.",
            "small",
        )
        ice.setWordWrap(True)
        self.body.addWidget(ice)
        self.finish("Keep", self._keep)

    def fill(self) -> None:
        """Show what is kept."""
        for name, field in self._fields.items():
            field.set_value(getattr(self._tasks.lanes.settings, name))
        self._beam.setValue(round(self._tasks.lanes.ice_beam_deg))
        self._holes.setValue(self._tasks.lanes.ice_holes)

    def _keep(self) -> None:
        self._tasks.lanes.keep(
            {name: f.value for name, f in self._fields.items() if f.value is not None},
            float(self._beam.value()),
            self._holes.value(),
        )
        self.session.ask_sheet("")


class SpeciesSheet(Sheet):
    """The limits of the chosen species, to be changed by whoever knows better."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "species", "Whose comfort, and what it likes", parent)
        row = QHBoxLayout()
        self._name = label("", "value", name="species_name")
        self.body.addWidget(self._name)
        self._fields: dict[str, Field] = {}
        for name, title in (("warm_low_c", "likes"), ("warm_high_c", "to"), ("avoid_c", "avoids from")):
            field = Field(session.display, Kind.TEMPERATURE, f"species_{name}")
            field.fit("000.0 °F")
            row.addWidget(label(title, "muted"))
            row.addWidget(field)
            self._fields[name] = field
        self._oxygen = QDoubleSpinBox()
        self._oxygen.lineEdit().setTextMargins(4, 0, 0, 0)
        self._oxygen.setObjectName("species_oxygen")
        self._oxygen.setRange(0.1, 15.0)
        self._oxygen.setSingleStep(0.5)
        self._oxygen.setSuffix(" mg/L")
        row.addWidget(label("leaves under", "muted"))
        row.addWidget(self._oxygen)
        row.addStretch(1)
        back = Button("Back to the table")
        back.setObjectName("species_back")
        back.clicked.connect(lambda: self._keep(None))
        self.body.addLayout(row)
        note = QHBoxLayout()
        note.addWidget(
            label("Grown fish in the field, good to some 2 °C; food and oxygen override temperature.", "small")
        )
        note.addStretch(1)
        note.addWidget(back)
        self.body.addLayout(note)
        self.finish("Keep these", lambda: self._keep(self._typed()))

    def _typed(self) -> dict[str, float]:
        found = {n: f.value for n, f in self._fields.items() if f.value is not None}
        return {**found, "oxygen_mgl": self._oxygen.value()}

    def fill(self) -> None:
        """Show the limits of the moment."""
        species = self.session.conditions.species
        self._name.setText("Choose a species under the plumb line first.")
        if species is not None:
            self._name.setText(self.session.display.species(species.name))
            for name, field in self._fields.items():
                field.set_value(getattr(species, name))
            self._oxygen.setValue(species.oxygen_mgl)

    def _keep(self, limits: dict[str, float] | None) -> None:
        day = self.session.conditions
        table = species_here(day.species.name, self.session.water) if day.species is not None else None
        if limits is not None and len(limits) <= len(self._fields):
            self.session.say("Each limit needs a temperature.", wrong=True)
            return
        if table is not None:
            try:
                day.set_limits(table, limits)
            except (ValueError, KeyError) as exc:
                self.session.say(f"Not kept: {exc}.", wrong=True)
                return
        self.session.ask_sheet("")


def all_sheets(session: Session, tasks: Tasks, parent: QWidget) -> tuple[Sheet, ...]:
    """Every sheet of the stage."""
    return (
        ProfileSheet(session, tasks, parent),
        TideSheet(session, tasks, parent),
        CountsSheet(session, parent),
        CleaningSheet(session, tasks, parent),
        ColumnsSheet(session, tasks, parent),
        LanesSheet(session, tasks, parent),
        SpeciesSheet(session, parent),
        CastSheet(session, parent),
    )
