"""Left of the rates: which part of the log, and what it says."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QSizePolicy

from plumbbob.desk.kit.widgets import label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.review.sentences import Sentences
from plumbbob.desk.views.review.words import left_out, summary
from plumbbob.services.review import Choices, Cut
from plumbbob.wording.review import silence

_ALL = {
    "water": "all waters",
    "year": "all years",
    "species": "all fish",
    "lure": "all lures",
    "anglers": "all anglers",
}


class ReviewPanel(QFrame):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (12, 12, 8, 10), 6)
        self.setObjectName("reviewpanel")
        grid = QGridLayout()
        grid.setSpacing(5)
        self.combos: dict[str, QComboBox] = {}
        for k, name in enumerate(("water", "year", "species", "beside")):
            made = QComboBox()
            made.setObjectName(f"review_{name}")
            made.setMinimumContentsLength(4)
            made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            made.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
            made.activated.connect(lambda _, name=name: self._chosen(name))
            self.combos[name] = made
            grid.addWidget(made, k // 2, k % 2)
        column.addLayout(grid)
        self._summary = label("", "why", name="review_summary")
        self._summary.setWordWrap(True)
        column.addWidget(self._summary)
        column.addWidget(label("WHAT THE RECORD SAYS", "head"))
        self.sentences = Sentences(session)
        column.addWidget(self.sentences)
        self._left_out = label("", "small", name="review_left_out")
        self._left_out.setWordWrap(True)
        column.addWidget(self._left_out)
        column.addStretch(1)
        self._choices: Choices | None = None
        session.review.changed.connect(self._show)

    def showEvent(self, event: QShowEvent) -> None:
        """What came while nobody looked."""
        super().showEvent(event)
        self._show()

    def _show(self) -> None:
        model = self._session.review
        if not self.isVisible():
            return
        if model.choices is not None and model.choices != self._choices:
            self._choices = model.choices
            self._fill(model.choices)
        if model.made is None:
            self._summary.setText("Reading the log …")
            return
        review = model.made.review
        words = summary(model.made)
        if review.silence is not None:
            words = f"{words}\n{silence(review.silence)}"
        elif not review.findings.found and model.share >= 1.0:
            words = f"{words}\nNothing stands out beyond chance."
        elif model.share < 1.0:
            words = f"{words}\nRates are here; looking for what stands out …"
        self._summary.setText(words)
        lines = left_out(model.made)
        self._left_out.setText("Not counted: " + "; ".join(lines[:4]) + "." if lines else "")
        self._left_out.setVisible(bool(lines))

    def _fill(self, choices: Choices) -> None:
        cut = self._session.review.cut or Cut()
        for name, values in (("water", choices.waters), ("year", choices.years), ("species", choices.species)):
            combo = self.combos[name]
            with QSignalBlocker(combo):
                combo.clear()
                combo.addItem(_ALL[name], "" if name != "year" else 0)
                for value in values:
                    shown = self._session.display.species(str(value)) if name == "species" else str(value)
                    combo.addItem(shown, value)
                combo.setCurrentIndex(max(combo.findData(getattr(cut, name)), 0))
        combo = self.combos["beside"]
        with QSignalBlocker(combo):
            combo.clear()
            combo.addItem("against nothing", None)
            for name, values in (("year", choices.years), ("water", choices.waters), ("lure", choices.lures),
                                 ("anglers", choices.anglers)):  # fmt: skip
                for value in values if len(values) > 1 else ():
                    suffix = " anglers" if name == "anglers" and str(value).isdigit() else ""
                    combo.addItem(f"against {value}{suffix}", (name, value))

    def _chosen(self, name: str) -> None:
        cut = Cut(
            water=self.combos["water"].currentData() or "",
            year=self.combos["year"].currentData() or 0,
            species=self.combos["species"].currentData() or "",
        )
        against = self.combos["beside"].currentData()
        beside = None
        if against is not None:
            fields = {"water": cut.water, "year": cut.year, "species": cut.species} | {against[0]: against[1]}
            beside = Cut(**fields)
        self._session.review.set_cut(cut, beside)
