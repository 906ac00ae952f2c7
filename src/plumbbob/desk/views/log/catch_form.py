"""One row over the foot of the picture to note a catch: species, length, kept or released, lure depth."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QFrame, QHBoxLayout, QLineEdit, QWidget

from plumbbob.core.geodesy import Position, distance_m, parse_position, write_position
from plumbbob.core.units import Kind
from plumbbob.desk.commands import marking
from plumbbob.desk.kit.when import parse_when, write_when
from plumbbob.desk.kit.widgets import Button, Field, label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError


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
            ("lure at", self._depth),
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
        there = QHBoxLayout()
        there.setSpacing(8)
        for words, edit, share in (("when", self._when, 2), ("where", self._place, 3)):
            there.addWidget(label(words, "muted"))
            there.addWidget(edit, share)
        there.addStretch(4)
        column.addLayout(there)
        column.addWidget(
            label(
                "Seasons, sizes and limits: the local authority's rules hold. Fish from deep water "
                "often can't be released unharmed.",
                "small",
            )
        )
        for field in (self._length, self._depth):
            field.refused.connect(lambda line: session.say(line, wrong=True))
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
        self._length.set_value(None)
        self._depth.set_value(marking.lure_depth(session))
        self._released.setChecked(True)
        self._where.setText(self._where_words())
        place = session.view.place
        self._when.setText(write_when(session.local(session.view.moment)))
        self._place.setText(write_position(place) if place is not None else "")
        self._told = self._when.text(), self._place.text()
        self._rig.setText(f"rig: {marking.rig_words(session)}")
        self.place()
        self.show()
        self.raise_()
        self._species.setFocus()
        editor = self._species.lineEdit()
        if isinstance(editor, QLineEdit):
            editor.selectAll()

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
        if any(bool(field.property("wrong")) for field in (self._length, self._depth)):
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
        try:
            catch = session.logbook.add_catch(*made)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        size = f", {session.display.words(catch.length_m, Kind.FISH)}" if catch.length_m is not None else ""
        fate = "kept" if catch.kept else "released"
        session.ask_catch(False)
        session.say(f"Caught: {session.display.species(catch.species)}{size}, {fate}.  Z takes it back.")

    def _typed(self) -> tuple[float | None, Position | None]:
        """Time and place where they were typed; None for what was left as it stood. Raises ValueError."""
        session = self._session
        when = where = None
        if self._when.text().strip() != self._told[0]:
            when = parse_when(self._when.text(), session.local(session.view.moment))
        if self._place.text().strip() != self._told[1]:
            where = parse_position(self._place.text())
        return when, where
