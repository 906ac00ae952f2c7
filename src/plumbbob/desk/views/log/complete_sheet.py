"""What was noted with one key on the water, filled in afterwards: one thing after the other, newest first."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QWidget

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind
from plumbbob.desk.commands.marking import known
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, label
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Catch, Mark, MarkKind, Moment, MomentKind


def moment_words(session: Session, moment: Moment) -> str:
    """When, what, how deep, with what."""
    say = session.display.words
    parts = [f"{moment.kind.value.capitalize()} at {session.clock(moment.time, '%a %H:%M')}"]
    for value, words in (
        (moment.fish_depth_m, "fish"),
        (moment.lure_depth_m, "lure"),
        (moment.bottom_depth_m, "bottom"),
    ):
        if value is not None:
            parts.append(f"{words} {say(value, Kind.DEPTH)}")
    return ", ".join([*parts, moment.rig] if moment.rig else parts)


class CompleteSheet(Sheet):
    """Needs the session."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "complete", "To complete", parent)
        self._moment: Moment | None = None
        self._what, self._left = label("", "value", name="complete_what"), label("", "muted", name="complete_left")
        self._what.setWordWrap(True)
        self.body.addWidget(self._left)
        self.body.addWidget(self._what)
        row = QHBoxLayout()
        row.setSpacing(8)
        self._species = QComboBox()
        self._species.setObjectName("complete_species")
        self._species.setEditable(True)
        self._species.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self._species.setMinimumWidth(170)
        self._length = Field(session.display, Kind.FISH, "complete_length")
        self._length.setPlaceholderText("length")
        self._length.refused.connect(lambda line: session.say(line, wrong=True))
        self._kept = Button("Kept")
        self._kept.setObjectName("complete_kept")
        self._kept.setCheckable(True)
        self._note = QLineEdit()
        self._note.setObjectName("complete_note")
        self._note.setPlaceholderText("note")
        self._note.returnPressed.connect(self._save)
        away = Button("Nothing more")
        away.setObjectName("complete_away")
        away.clicked.connect(self._close_one)
        for widget in (self._species, self._length, self._kept):
            row.addWidget(widget)
        row.addWidget(self._note, 1)
        row.addWidget(away)
        self.body.addLayout(row)
        self.finish("Save", self._save)

    def fill(self) -> None:
        """The newest of what is open."""
        waiting = self.session.logbook.to_complete
        if not waiting:
            self.session.ask_sheet("")
            return
        self._moment = moment = waiting[0]
        self._left.setText(f"{len(waiting)} left" if len(waiting) > 1 else "the last one")
        self._what.setText(moment_words(self.session, moment))
        caught = moment.kind is MomentKind.CAUGHT
        for widget in (self._species, self._length, self._kept):
            widget.setVisible(caught)
        self._species.clear()
        self._species.addItems([self.session.display.species(name) for name in self.session.water.species])
        self._length.set_value(None)
        self._kept.setChecked(False)
        self._note.setText(moment.note)
        self.first = self._species if caught else self._note
        self.first.setFocus()

    def _close_one(self) -> None:
        if self._moment is not None:
            self._keep(replace(self._moment, is_open=False, note=self._note.text().strip()))

    def _save(self) -> None:
        """A catch where one was caught, else the note."""
        session, moment = self.session, self._moment
        if moment is None:
            return
        if moment.kind is not MomentKind.CAUGHT:
            self._close_one()
            return
        species = session.display.species_typed(self._species.currentText().strip())
        if not species:
            session.say("Which fish was it?", wrong=True)
            return
        if bool(self._length.property("wrong")):
            return
        if moment.latitude is None or moment.longitude is None:
            session.say("No position was known then: note the catch with C and type where it was.", wrong=True)
            return
        place = Position(moment.latitude, moment.longitude)
        mark = session.logbook.nearest(place) or Mark(
            water=moment.water,
            kind=MarkKind.FISH,
            time=moment.time,
            latitude=place.latitude,
            longitude=place.longitude,
            depth_m=moment.fish_depth_m,
            bottom_depth_m=moment.bottom_depth_m,
            source=moment.source,
        )
        catch = Catch(
            mark_id=mark.id,
            time=moment.time,
            species=species,
            length_m=known(self._length.value) if self._length.value is not None else None,
            kept=self._kept.isChecked(),
            rig=moment.rig,
            lure_depth_m=moment.lure_depth_m,
            note=self._note.text().strip(),
        )
        try:
            session.logbook.complete_with(moment, mark, catch)
        except StoreError as exc:
            session.say(str(exc), wrong=True)
            return
        session.say(f"{session.display.species(species).capitalize()} kept in the log.  Z takes it back.")
        self._next()

    def _keep(self, moment: Moment) -> None:
        try:
            self.session.logbook.change_moment(moment)
        except StoreError as exc:
            self.session.say(str(exc), wrong=True)
            return
        self._next()

    def _next(self) -> None:
        if self.session.logbook.to_complete:
            self.refresh()
        else:
            self.session.ask_sheet("")
