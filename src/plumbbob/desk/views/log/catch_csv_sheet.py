"""A table of catches from elsewhere: which column is what, how its dates are meant; remembered for the next time."""

from __future__ import annotations

import json

from PySide6.QtWidgets import QComboBox, QGridLayout, QWidget

from plumbbob.core.units import Kind
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.log_files import LogFiles
from plumbbob.formats.catch_csv import CaughtRow, DateOrder, Into, caught, date_orders, guess
from plumbbob.formats.catch_csv import Sheet as Table

_NONE = "(none)"
_DATES = {
    DateOrder.YEAR_FIRST: "year, month, day", DateOrder.DAY_FIRST: "day, month, year",
    DateOrder.MONTH_FIRST: "month, day, year",
}  # fmt: skip


class CatchCsvSheet(Sheet):
    """Needs the session and what holds the table."""

    def __init__(self, session: Session, files: LogFiles, host: QWidget) -> None:
        super().__init__(session, "catch_csv", "A table of catches", host, over=True)
        self._files = files
        self._table: Table | None = None
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        self._boxes: dict[Into, QComboBox] = {}
        for k, into in enumerate(Into):
            row, column = divmod(k, 4)
            grid.addWidget(label(into.value, "muted"), row, 2 * column)
            box = QComboBox()
            box.setObjectName(f"csv_{into.value}")
            box.currentIndexChanged.connect(lambda _: self._look())
            self._boxes[into] = box
            grid.addWidget(box, row, 2 * column + 1)
        self._dates = QComboBox()
        self._dates.setObjectName("csv_dates")
        self._dates.currentIndexChanged.connect(lambda _: self._look(keep_dates=True))
        grid.addWidget(label("dates are", "muted"), 3, 0)
        grid.addWidget(self._dates, 3, 1, 1, 3)
        self.body.addLayout(grid)
        self._said = label("", "why", name="csv_said")
        self._said.setWordWrap(True)
        self.body.addWidget(self._said)
        self.finish("Bring them in", self._go)
        self.first = self._boxes[Into.SPECIES]
        self._filling = False

    @property
    def _key(self) -> str:
        sheet = self._table
        return "csv/" + "|".join(sheet.header)[:400].replace("/", "_") if sheet is not None else "csv/"

    def fill(self) -> None:
        """As it was answered for such a table before, else as its headings say."""
        sheet = self._table = self._files.pending  # another one may be read while this one is asked about
        if sheet is None:
            self.session.ask_sheet("")
            return
        told = guess(sheet)
        try:
            kept = json.loads(str(self.session.settings.value(self._key, "{}")))
            told = {Into(k): int(v) for k, v in kept["columns"].items() if 0 <= int(v) < len(sheet.header)}
        except (ValueError, KeyError, TypeError, AttributeError):
            kept = {}
        self._filling = True
        for into, box in self._boxes.items():
            box.clear()
            box.addItem(_NONE, None)
            for k, head in enumerate(sheet.header):
                sample = next((r[k] for r in sheet.rows if r[k]), "")
                box.addItem(f"{head[:20]}: {sample[:16]}", k)
            box.setCurrentIndex(told[into] + 1 if into in told else 0)
        self._filling = False
        self._look()
        order = kept.get("dates") if isinstance(kept, dict) else None
        at = self._dates.findData(order)
        if at >= 0:
            self._dates.setCurrentIndex(at)

    def _mapping(self) -> dict[Into, int]:
        return {i: int(b.currentData()) for i, b in self._boxes.items() if b.currentData() is not None}

    def _look(self, *, keep_dates: bool = False) -> None:
        sheet = self._table
        if self._filling or sheet is None:
            return
        mapping = self._mapping()
        orders = date_orders(sheet, mapping)
        if not keep_dates:
            self._filling = True
            self._dates.clear()
            if len(orders) > 1:
                self._dates.addItem("both readings fit: which?", None)
            for order in orders:
                self._dates.addItem(f"{_DATES[order]}: {order.value}", order.value)
            self._dates.setEnabled(len(orders) > 1)
            self._filling = False
        if Into.SPECIES not in mapping:
            self._said.setText("Say which column names the fish.")
            return
        if orders and self._dates.currentData() is None:
            self._said.setText("The dates can be read in two ways: say which, and nothing is guessed.")
            return
        rows, problems = self._read()
        words = f"{len(rows)} fish can be brought in."
        if problems:
            words += f" Left out: {len(problems)}, the first is {problems[0]}."
        if (Into.DATE in mapping or Into.TIME in mapping) and not orders:
            words += " No date could be read."
        self._said.setText(words)

    def _read(self) -> tuple[list[CaughtRow], list[str]]:
        sheet = self._table
        assert sheet is not None
        value = self._dates.currentData()
        order = DateOrder(value) if value is not None else None
        system = self.session.display.system_of(Kind.FISH)
        return caught(sheet, self._mapping(), order, system, self.session.water.clock)

    def _go(self) -> None:
        sheet = self._table
        assert sheet is not None
        mapping = self._mapping()
        if Into.SPECIES not in mapping or (date_orders(sheet, mapping) and self._dates.currentData() is None):
            self.session.say(self._said.text(), wrong=True)
            return
        rows, _ = self._read()
        told = {"columns": {i.value: k for i, k in mapping.items()}, "dates": self._dates.currentData()}
        self.session.settings.setValue(self._key, json.dumps(told))
        self.session.ask_sheet("")
        self._files.bring_catches(rows, sheet.path.name)
