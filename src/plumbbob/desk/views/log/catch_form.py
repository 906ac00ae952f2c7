"""One row over the foot of the picture to note a catch: species, length, kept or released, lure depth."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLineEdit, QWidget

from plumbbob.core.geodesy import Position, distance_m, parse_position, write_position
from plumbbob.core.tally.weight import weight_of
from plumbbob.core.units import Kind, parse
from plumbbob.desk.commands import landing, marking
from plumbbob.desk.kit.file_dialog import ask_to_open_many
from plumbbob.desk.kit.when import parse_when, write_when
from plumbbob.desk.kit.widgets import Button, Field, label, panel_column, set_role
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError
from plumbbob.formats.species import species_here
from plumbbob.services.pictures import plain_picture
from plumbbob.store.errors import StoreError
from plumbbob.store.values import KeptFile

_HOOKS = ("", "corner of the mouth", "upper jaw", "lower jaw", "deep", "outside")
_CONDITIONS = ("", "lively", "tired", "bleeding", "bloated", "dead")
_MOST_PICTURE = 200_000_000


class CatchForm(QFrame):
    """Needs the session; opens when asked, saves on Enter, closes on Esc."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("catchform")
        self._session = session
        column = panel_column(self, (16, 10, 16, 12), 8)
        self._where = label("", "muted", name="catch_where")
        self._rig = label("", "small", name="catch_rig")
        column.addWidget(self._where)
        column.addWidget(self._rig)
        row = QHBoxLayout()
        row.setSpacing(8)
        self._species = QComboBox()
        self._species.setObjectName("catch_species")
        self._species.setEditable(True)
        self._species.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self._species.setMinimumWidth(170)
        self._length = Field(session.display, Kind.FISH, "catch_length")
        self._length.setPlaceholderText("length")
        self._length.fit("000.0 cm")
        self._weight = Field(session.display, Kind.WEIGHT, "catch_weight")
        self._weight.setPlaceholderText("weight")
        self._weight.fit("00.00 lb")
        self._depth = Field(session.display, Kind.DEPTH, "catch_depth")
        self._depth.fit("000.0 ft")
        self._released, self._kept = Button("Released"), Button("Kept")
        for button, name in ((self._released, "catch_released"), (self._kept, "catch_kept")):
            button.setObjectName(name)
            button.setCheckable(True)
            button.setAutoExclusive(True)
        self._save, cancel = Button("Save catch"), Button("Cancel")
        self._save.setObjectName("catch_save")
        self._save.setProperty("role", "main")
        self._save.clicked.connect(self.save)
        cancel.clicked.connect(lambda: session.ask_catch(False))
        fields: tuple[tuple[str, QWidget], ...] = (
            ("species", self._species),
            ("", self._length),
            ("", self._weight),
        )
        for text, widget in fields:
            if text:
                row.addWidget(label(text, "muted"))
            row.addWidget(widget)
        self._when, self._place = QLineEdit(), QLineEdit()
        for edit, name, words in ((self._when, "catch_when", "when"), (self._place, "catch_place", "where")):
            edit.setObjectName(name)
            edit.setToolTip(f"{words.capitalize()}: change it for a catch of another time or place.")
        self._told = ("", "")  # what stood in both when the form opened
        row.addWidget(self._released)
        row.addWidget(self._kept)
        row.addStretch(1)
        row.addWidget(self._save)
        row.addWidget(cancel)
        column.addLayout(row)
        there, told = QHBoxLayout(), QHBoxLayout()
        self._hook, self._condition, self._angler = QComboBox(), QComboBox(), QLineEdit()
        for box, name, usual in (
            (self._hook, "catch_hook", _HOOKS),
            (self._condition, "catch_condition", _CONDITIONS),
        ):
            box.setObjectName(name)
            box.setEditable(True)
            box.addItems(usual)
        self._angler.setObjectName("catch_angler")
        self._angler.setPlaceholderText("you")
        rows: tuple[tuple[QHBoxLayout, str, QWidget, int], ...] = (
            (there, "when", self._when, 2), (there, "where", self._place, 4),
            (there, "lure at", self._depth, 1), (told, "hooked in", self._hook, 3),
            (told, "condition", self._condition, 3), (told, "who", self._angler, 2),
        )  # fmt: skip
        for line, words, widget, share in rows:
            line.setSpacing(8)
            line.addWidget(label(words, "muted"))
            line.addWidget(widget, share)
        self._picture_path: Path | None = None
        self._picture_button = Button("Picture …")
        self._picture_button.setObjectName("catch_picture")
        self._picture_button.clicked.connect(self._ask_picture)
        there.addStretch(2)
        there.addWidget(self._picture_button)
        column.addLayout(there)
        column.addLayout(told)
        self._verdict, self._minded = label("", "value", name="catch_verdict"), label("", "why", name="catch_care")
        for said in (self._verdict, self._minded):
            said.setWordWrap(True)
            said.hide()
            column.addWidget(said)
        column.addWidget(
            label("Seasons, sizes and limits: your table is yours, the local authority's rules hold.", "small")
        )
        for field in (self._length, self._weight, self._depth):
            field.refused.connect(lambda line: session.say(line, wrong=True))
        for signal in (
            self._species.editTextChanged,
            self._length.entered,
            self._depth.entered,
            self._length.textEdited,
            self._when.textEdited,
        ):
            signal.connect(lambda *_: self._judge())
        for button in (self._released, self._kept):
            button.toggled.connect(lambda *_: self._judge())
        session.catch_asked.connect(self._asked)
        self.hide()

    def _asked(self, on: bool) -> None:
        if not on:
            self.hide()
            parent = self.parentWidget()
            if parent is not None:
                parent.setFocus()
            return
        session = self._session
        self._species.clear()
        self._species.addItems([session.display.species(name) for name in session.water.species])
        completer = self._species.completer()
        if completer is not None:
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self._length.set_value(None)
        self._weight.set_value(None)
        self._depth.set_value(marking.lure_depth_now(session))
        self._hook.setEditText("")
        self._condition.setEditText("")
        self._picture_path = None
        self._picture_button.setText("Picture …")
        self._released.setChecked(True)
        self._where.setText(self._where_words())
        place = session.view.place
        self._when.setText(write_when(session.local(session.view.moment)))
        self._place.setText(write_position(place) if place is not None else "")
        self._told = self._when.text(), self._place.text()
        held = landing.around_words(session, landing.around_text(session, place, session.view.moment))
        self._rig.setText(f"filled in: {marking.rig_words(session)}" + (f"; {held}" if held else ""))
        self._judge()
        self.place()
        self.show()
        self.raise_()
        self._species.setFocus()
        editor = self._species.lineEdit()
        if isinstance(editor, QLineEdit):
            editor.selectAll()

    def _judge(self) -> None:
        """What the table says of keeping it, before it is kept, and what helps it if it goes back."""
        session = self._session
        species = session.display.species_typed(self._species.currentText().strip())
        length = self._length.value
        if self._length.text().strip():
            try:
                length = parse(self._length.text(), Kind.FISH, session.display.system_of(Kind.FISH))
            except ValueError:
                length = None
        try:
            when = self._typed()[0]
        except ValueError:
            when = None  # said when it is saved
        time = session.view.moment if when is None else when
        found = landing.verdicts(session, species, length, time, self._angler.text().strip())
        words, forbidden = landing.verdict_words(session, found)
        words = f"GOES BACK. {words}" if forbidden else words
        if length is not None and self._weight.value is None:
            known = species_here(species, session.water)
            if known is not None and known.weight_a and known.weight_b:
                by_length = weight_of(length, known.weight_a, known.weight_b)
                say = session.display.words
                self._weight.setPlaceholderText(f"about {say(by_length.kg, Kind.WEIGHT)}")
        self._verdict.setText(words)
        set_role(self._verdict, "alarm" if forbidden else "value")
        depth = self._depth.value
        minded = "" if self._kept.isChecked() else landing.care_words(session, species, depth)
        self._minded.setText(minded)
        shown = (self._verdict.isVisibleTo(self), self._minded.isVisibleTo(self))
        self._verdict.setVisible(bool(words))
        self._minded.setVisible(bool(minded))
        if shown != (bool(words), bool(minded)):
            self.place()

    def _ask_picture(self) -> None:
        paths = ask_to_open_many(
            self, self._session.display.theme, "A picture of it", str(Path.home()), "Pictures (*.jpg *.jpeg *.png)"
        )
        if paths:
            self._picture_path = paths[0]
            self._picture_button.setText(paths[0].name[:18])

    def _where_words(self) -> str:
        session = self._session
        place = session.view.place
        if place is None:
            return "No position here: type where it was."
        mark = session.logbook.nearest(place)
        when = session.clock(session.view.moment, "%H:%M")
        if mark is None:
            return f"Catch at {when} on a new mark"
        far_m = distance_m(place, Position(mark.latitude, mark.longitude))
        which = "this mark" if far_m < 1.0 else f"the mark {session.display.words(far_m, Kind.DISTANCE)} away"
        return f"Catch at {when} on {which}: {marking.mark_words(session, mark)}"

    def place(self) -> None:
        """Sit over the foot of the parent."""
        parent = self.parentWidget()
        if parent is not None:
            height = self.sizeHint().height()
            self.setGeometry(8, parent.height() - height - 8, parent.width() - 16, height)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter saves from anywhere in the row."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.save()
        else:
            super().keyPressEvent(event)

    def save(self) -> None:
        """Save, say so, close; on trouble say that and stay."""
        session = self._session
        species = session.display.species_typed(self._species.currentText().strip())
        if not species:
            session.say("Which fish was it?", wrong=True)
            return
        if any(bool(field.property("wrong")) for field in (self._length, self._weight, self._depth)):
            return
        try:
            when, where = self._typed()
        except ValueError as exc:
            session.say(f"Not saved: {exc}.", wrong=True)
            return
        made = marking.new_catch(
            session, species, self._length.value, self._kept.isChecked(), self._depth.value, when=when, where=where
        )
        if made is None:
            session.say("No position here: type where it was; the catch is not saved yet.", wrong=True)
            return
        mark, fish = made
        fish = replace(
            fish, weight_kg=self._weight.value, hook_place=self._hook.currentText().strip(),
            condition=self._condition.currentText().strip(), angler=self._angler.text().strip(),
        )  # fmt: skip
        try:
            kept_file = self._keep_picture()
            with session.history.as_one("catch"):
                if kept_file is not None:
                    fish = replace(fish, picture=kept_file.path)
                    session.logbook.edit("picture", [kept_file])
                catch = session.logbook.add_catch(mark, fish)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        size = f", {session.display.words(catch.length_m, Kind.FISH)}" if catch.length_m is not None else ""
        fate = "kept" if catch.kept else "released"
        session.ask_catch(False)
        session.say(f"Caught: {session.display.species(catch.species)}{size}, {fate}.  Z takes it back.")

    def _keep_picture(self) -> KeptFile | None:
        """The picture's bytes beside the log, under a name of its own."""
        if self._picture_path is None:
            return None
        log, path = self._session.logbook.log, self._picture_path
        try:
            with path.open("rb") as file:
                if plain_picture(file) is None:
                    raise StoreError(f"{path.name} is no picture that can be read; the catch is not saved yet.")
                file.seek(0)
                sha256, size = log.files.keep(file, _MOST_PICTURE)
        except (OSError, FileError) as exc:
            raise StoreError(f"{path.name} could not be kept: {exc}") from exc
        return KeptFile(path=f"pictures/{sha256[:12]}{path.suffix.lower()}", sha256=sha256, size=size)

    def _typed(self) -> tuple[float | None, Position | None]:
        """Time and place where they were typed; None for what was left as it stood. Raises ValueError."""
        session = self._session
        when = where = None
        if self._when.text().strip() != self._told[0]:
            when = parse_when(self._when.text(), session.local(session.view.moment))
        if self._place.text().strip() != self._told[1]:
            where = parse_position(self._place.text())
        return when, where
