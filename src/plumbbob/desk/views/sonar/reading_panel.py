"""The panel left of a picture: some figures, then sentences that lead to what they speak of."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QVBoxLayout, QWidget

from plumbbob.desk.kit.widgets import label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.down.words import Said


class ReadingPanel(QFrame):
    """Needs the session; a kind of panel gives `figures` and `said`, and calls `refresh` when they change."""

    def __init__(
        self,
        session: Session,
        name: str,
        title: str,
        rows: tuple[tuple[str, str], ...],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.session = session
        self.body = panel_column(self, (16, 16, 14, 12), 6)
        self.body.addWidget(label(title, "head"))
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self._values: dict[str, QLabel] = {}
        for i, (key, words) in enumerate(rows):
            grid.addWidget(label(words, "muted"), i, 0)
            self._values[key] = label("–", "value", name=f"{name}_{key}")
            grid.addWidget(self._values[key], i, 1, Qt.AlignmentFlag.AlignRight)
        self.body.addLayout(grid)
        self.body.addSpacing(10)
        self.extras = QVBoxLayout()
        self.extras.setSpacing(6)
        self.body.addLayout(self.extras)
        self.body.addWidget(label("WHY", "head"))
        self._why = label("", "why", name=f"{name}_why")
        self._why.setWordWrap(True)
        self._why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._why.setTextFormat(Qt.TextFormat.RichText)
        self._why.linkActivated.connect(self._follow)
        self.body.addWidget(self._why)
        self.body.addStretch(1)
        self.body.addWidget(label("Not for navigation.", "small"))
        self._said: list[Said] = []

    def figures(self) -> dict[str, str]:
        """The figure of each row; rows left out show a dash."""
        return {}

    def said(self) -> list[Said]:
        """The sentences."""
        return []

    def go(self, goal: object) -> None:
        """Go to what a sentence speaks of: a number is a time."""
        if isinstance(goal, float):
            self.session.scan.stand_at(goal)

    def refresh(self) -> None:
        """Show what is so now; nothing while it is hidden."""
        shown = self.figures()
        for key, value in self._values.items():
            value.setText(shown.get(key, "–"))
        self._said = self.said()
        colour = self.session.display.theme.brass_text
        self._why.setText(
            "".join(
                f'<p style="margin:0 0 7px 0">{escape(said.text)}'
                + (
                    f' <a href="{i}" style="color:{colour};text-decoration:none">show</a>'
                    if said.goal is not None
                    else ""
                )
                + "</p>"
                for i, said in enumerate(self._said)
            )
        )

    def showEvent(self, event: object) -> None:
        """Catch up with what changed meanwhile."""
        self.refresh()

    def _follow(self, number: str) -> None:
        self.go(self._said[int(number)].goal)
