"""The card and the float plan: both pages as they will be printed, who to call, and two files."""

from __future__ import annotations

import json
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plumbbob.core.types import Progress
from plumbbob.desk.card.pages import PAPERS, page_image, write_pdf
from plumbbob.desk.kit.file_dialog import ask_to_save
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import text_of
from plumbbob.desk.views.run.card import ChartLines, day_card, depth_unit_m, lines_of
from plumbbob.files.atomic import write_text, writing
from plumbbob.files.errors import FileError
from plumbbob.formats.day_card import DayCard, card_json
from plumbbob.services.float_plan import float_plan_text

_FIELDS = (
    ("who", "Who, how many"),
    ("phone", "Phone on board"),
    ("craft", "Craft, colour"),
    ("call", "Call ashore"),
    ("call_at", "if not heard by"),
    ("emergency", "Rescue"),
)
_NAMES = {"a5": "A5", "a4": "A4", "letter": "Letter"}
_DPI = 62.0


class CardSheet(Sheet):
    """Needs the session."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "card", "The card and the float plan", parent, over=True)
        self._lines: tuple[object, ChartLines] | None = None
        row = QHBoxLayout()
        row.setSpacing(16)
        self._pages = [label("", name=f"card_page_{k}") for k in (1, 2)]
        for page in self._pages:
            page.setAlignment(Qt.AlignmentFlag.AlignTop)
            row.addWidget(page)
        side, grid = QVBoxLayout(), QGridLayout()
        self._fields = {}
        for k, (key, title) in enumerate(_FIELDS):
            edit = QLineEdit()
            edit.setObjectName(f"float_{key}")
            edit.editingFinished.connect(self._keep)
            grid.addWidget(label(title, "muted"), k, 0)
            grid.addWidget(edit, k, 1)
            self._fields[key] = edit
        self._paper, self._black = QComboBox(), QCheckBox("black on white")
        self._paper.setObjectName("card_paper")
        self._black.setObjectName("card_black")
        for paper in PAPERS:
            self._paper.addItem(_NAMES[paper], paper)
        grid.addWidget(label("Paper", "muted"), len(_FIELDS), 0)
        grid.addWidget(self._paper, len(_FIELDS), 1)
        grid.addWidget(self._black, len(_FIELDS) + 1, 1)
        side.addLayout(grid)
        for words, name, act in (
            ("Write the float plan …", "card_float", self._write_float),
            ("Write the plan as JSON …", "card_json", self._write_json),
        ):
            button = Button(words)
            button.setObjectName(name)
            button.clicked.connect(act)
            side.addWidget(button)
        said = label("Leave the float plan with somebody ashore, and tell them when you are back.", "small")
        said.setWordWrap(True)
        side.addWidget(said)
        side.addStretch(1)
        row.addLayout(side, 1)
        self.body.addLayout(row)
        self._paper.currentIndexChanged.connect(self._show)
        self._black.toggled.connect(self._show)
        self.finish("Write the card …", self._write_pdf)
        self.first = self._fields["who"]

    @property
    def card(self) -> DayCard | None:
        """The card as it stands; None without a plan."""
        session = self.session
        if session.run.plan is None:
            return None
        none: ChartLines = ((), ())
        chart = self._lines[1] if self._lines is not None and self._lines[0] is session.chart.chart else none
        return day_card(session, chart)

    def fill(self) -> None:
        """What was typed last time; the chart's lines come a moment later."""
        session = self.session
        for key, edit in self._fields.items():
            edit.setText(text_of(session.settings, f"float/{key}"))
        chart = session.chart.chart
        if chart is not None and (self._lines is None or self._lines[0] is not chart):
            level, unit = session.conditions.level_m, depth_unit_m(session)

            def work(progress: Progress) -> ChartLines:
                return lines_of(chart, level, unit)

            def done(found: ChartLines) -> None:
                self._lines = chart, found
                self._show()

            session.jobs.start("Drawing the card", work, done, brief=True)
        self._show()

    def _keep(self) -> None:
        for key, edit in self._fields.items():
            self.session.settings.setValue(f"float/{key}", edit.text().strip())
        self._show()

    @property
    def _inks(self) -> bool:
        return not self._black.isChecked()

    def _show(self) -> None:
        card = self.card
        if card is None:
            return
        paper = str(self._paper.currentData())
        dpi = _DPI * (1.0 if paper == "a5" else 0.7)
        sharp = self.devicePixelRatioF()
        for number, page in enumerate(self._pages):
            image = page_image(card, number, paper, colour=self._inks, dpi=dpi * sharp * 1.0)
            image.setDevicePixelRatio(sharp)
            page.setPixmap(QPixmap.fromImage(image))

    # -- files --------------------------------------------------------------------------------------------------

    def _ask(self, title: str, name: str, pattern: str) -> Path | None:
        return ask_to_save(self, self.session.display.theme, title, Path.home() / name, pattern)

    def _write_pdf(self) -> None:
        path = self._ask("Write the card", "plumbbob-day.pdf", "PDF (*.pdf)")
        if path is not None:
            self.write_card(path)

    def write_card(self, path: Path) -> None:
        """Both pages."""
        card = self.card
        if card is None:
            return
        try:
            with writing(path) as fresh:
                write_pdf(card, str(fresh), str(self._paper.currentData()), colour=self._inks)
        except (FileError, OSError) as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self.session.ask_sheet("")
        self.session.say(f"Card of two pages written to {path.name}. Not for navigation.")

    def _write_float(self) -> None:
        path = self._ask("Write the float plan", "float-plan.txt", "Text (*.txt)")
        card = self.card
        if path is not None and card is not None:
            self._write(path, float_plan_text(card), "Float plan")

    def _write_json(self) -> None:
        path = self._ask("Write the plan", "plumbbob-day.json", "JSON (*.json)")
        card = self.card
        if path is not None and card is not None:
            self._write(path, json.dumps(card_json(card), separators=(",", ":"), allow_nan=False), "Plan")

    def _write(self, path: Path, text: str, what: str) -> None:
        try:
            write_text(path, text)
        except FileError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self.session.say(f"{what} written to {path.name}.")
