"""Left of the log's picture: how many marks, fish, catches, and what may be done with the chosen mark."""

from __future__ import annotations

from collections import Counter

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QToolButton

from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.widgets import label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.store.values import MarkKind

_BUTTONS = ("mark.show", "mark.more", "mark.fewer", "mark.remove", "mark.complete", "file.export")


class LogPanel(QFrame):
    """Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 16, 14, 12), 6)
        column.addWidget(label("THE LOG", "head"))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        self._values = {}
        for i, (key, title) in enumerate(
            (
                ("marks", "Marks"),
                ("seen", "Fish seen"),
                ("caught", "Caught"),
                ("kept", "Kept"),
                ("moments", "Noted on the water"),
                ("open", "To complete"),
            )
        ):
            grid.addWidget(label(title, "muted"), i, 0)
            self._values[key] = label("0", "value", name=f"log_{key}")
            grid.addWidget(self._values[key], i, 1, Qt.AlignmentFlag.AlignRight)
        column.addLayout(grid)
        self._species = label("", "why", name="log_species")
        self._species.setWordWrap(True)
        column.addWidget(self._species)
        column.addSpacing(8)
        column.addWidget(label("THE CHOSEN MARK", "head"))
        for command_id in _BUTTONS:
            button = QToolButton()
            button.setDefaultAction(actions[command_id])
            button.setSizePolicy(button.sizePolicy().Policy.Expanding, button.sizePolicy().Policy.Fixed)
            button.setMinimumHeight(32)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            column.addWidget(button)
        column.addStretch(1)
        self._where = label("", "small")
        self._where.setWordWrap(True)
        column.addWidget(self._where)
        for signal in (session.logbook.changed, session.display.changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        book = self._session.logbook
        seen = sum(m.seen for m in book.marks if m.kind is MarkKind.FISH)
        self._values["marks"].setText(str(len(book.marks)))
        self._values["seen"].setText(str(seen))
        self._values["caught"].setText(str(len(book.catches)))
        self._values["kept"].setText(str(sum(c.kept for c in book.catches)))
        self._values["moments"].setText(str(len(book.moments)))
        self._values["open"].setText(str(len(book.to_complete)))
        lines = []
        for species, count in Counter(c.species for c in book.catches).most_common(6):
            sizes = [c.length_m for c in book.catches if c.species == species and c.length_m is not None]
            best = f", to {self._session.display.words(max(sizes), Kind.FISH)}" if sizes else ""
            lines.append(f"{count} {self._session.display.species(species)}{best}")
        self._species.setText("\n".join(lines))
        self._where.setText("Saved at once, on this computer only. Bag and size limits: local rules hold.")
