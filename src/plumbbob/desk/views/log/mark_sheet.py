"""A mark at a typed place and time: what a friend told, what a plotter shows, what was seen last week."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QWidget

from plumbbob.core.geodesy import parse_position, write_position
from plumbbob.core.units import Kind
from plumbbob.desk.commands import marking
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.when import parse_when, write_when
from plumbbob.desk.kit.widgets import Field, label
from plumbbob.desk.models.session import Session
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Mark, MarkKind


class MarkSheet(Sheet):
    """Needs the session."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "mark", "Mark a place by hand", parent)
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        self._kind = QComboBox()
        self._kind.setObjectName("mark_kind")
        self._kind.addItems([k.value for k in MarkKind])
        self._place, self._when, self._note = QLineEdit(), QLineEdit(), QLineEdit()
        for field, name in ((self._place, "mark_place"), (self._when, "mark_when"), (self._note, "mark_note")):
            field.setObjectName(name)
        self._depth = Field(session.display, Kind.DEPTH, "mark_depth")
        self._bottom = Field(session.display, Kind.DEPTH, "mark_bottom")
        rows: tuple[tuple[str, QWidget, str, QWidget], ...] = (
            ("what", self._kind, "how deep it was", self._depth),
            ("where", self._place, "bottom there", self._bottom),
            ("when", self._when, "note", self._note),
        )
        for i, (left, a, right, b) in enumerate(rows):
            grid.addWidget(label(left, "muted"), i, 0)
            grid.addWidget(a, i, 1)
            grid.addWidget(label(right, "muted"), i, 2)
            grid.addWidget(b, i, 3)
        grid.setColumnStretch(1, 3)
        grid.setColumnStretch(3, 2)
        self.body.addLayout(grid)
        self.finish("Save the mark", self._save)
        for field in (self._depth, self._bottom):
            field.refused.connect(lambda line: session.say(line, wrong=True))

    def fill(self) -> None:
        """The place and time at hand, to be changed."""
        session = self.session
        place = session.view.place or session.water.place
        self._place.setText(write_position(place) if place is not None else "")
        self._when.setText(write_when(session.local(session.view.moment)))
        self._depth.set_value(None)
        self._bottom.set_value(None)
        self._note.clear()
        self._place.setFocus()
        self._place.selectAll()

    def _save(self) -> None:
        session = self.session
        try:
            place = parse_position(self._place.text())
            time = parse_when(self._when.text(), session.local(session.view.moment))
            mark = session.logbook.add_mark(
                Mark(
                    water=session.water.name,
                    kind=MarkKind(self._kind.currentText()),
                    time=time,
                    latitude=place.latitude,
                    longitude=place.longitude,
                    depth_m=self._depth.value,
                    bottom_depth_m=self._bottom.value,
                    note=self._note.text().strip(),
                )
            )
        except (ValueError, StoreError) as exc:
            session.say(f"Not saved: {exc}.".replace("..", "."), wrong=True)
            return
        session.ask_sheet("")
        session.say(f"Marked {marking.mark_words(session, mark)}.  Z takes it back.")
