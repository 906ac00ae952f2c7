"""The table of limits a person keeps: what the authority says, with where it was read and when, and own limits."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from plumbbob.core.units import Kind, parse
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.services.limits import day_of
from plumbbob.store.errors import StoreError
from plumbbob.store.values import Limit

# field, title, kind of quantity
_COLUMNS: tuple[tuple[str, str, Kind | None], ...] = (
    ("water", "water", None), ("species", "fish", None), ("opens", "opens", None), ("closes", "closes", None),
    ("least_m", "least", Kind.FISH), ("most_m", "most", Kind.FISH), ("slot_low_m", "slot from", Kind.FISH),
    ("slot_high_m", "slot to", Kind.FISH), ("bag", "a day", None), ("possession", "held", None),
    ("gear", "gear", None), ("source", "where it is written", None), ("dated", "read on", None), ("own", "own", None),
)  # fmt: skip
_NUMBERS = ("bag", "possession")


class LimitsSheet(Sheet):
    """Needs the session."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "limits", "Limits, as you have read them", parent, over=True)
        self._rows: list[Limit | None] = []
        self._table = QTableWidget(0, len(_COLUMNS))
        self._table.setObjectName("limits_table")
        self._table.setHorizontalHeaderLabels([c[1] for c in _COLUMNS])
        self._table.verticalHeader().hide()
        header = self._table.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        header.setStretchLastSection(True)
        self._table.setMinimumHeight(190)
        self.body.addWidget(self._table)
        row = QHBoxLayout()
        more, less = Button("One more row"), Button("Take this row out")
        more.setObjectName("limits_more")
        less.setObjectName("limits_less")
        more.clicked.connect(lambda: self._add(None))
        less.clicked.connect(self._drop)
        row.addWidget(more)
        row.addWidget(less)
        words = label(
            "Nothing ships as fact. Days as month and day, 05-01; empty says nothing. The local authority decides.",
            "small",
        )
        words.setWordWrap(True)
        row.addWidget(words, 1)
        self.body.addLayout(row)
        self.finish("Save the table", self._save)
        self.first = self._table

    def fill(self) -> None:
        """The table as it is, with a row to be filled in where it is empty."""
        self._table.setRowCount(0)
        self._rows = []
        limits = list(self.session.logbook.limits)
        for limit in limits:
            self._add(limit)
        if not limits:
            day = self.session.local(self.session.view.moment)
            self._add(None, water=self.session.water.name, dated=f"{day:%Y-%m-%d}")

    def _add(self, limit: Limit | None, **given: str) -> None:
        row = self._table.rowCount()
        self._table.insertRow(row)
        self._rows.append(limit)
        for k, (name, _, kind) in enumerate(_COLUMNS):
            value: Any = given.get(name, "") if limit is None else getattr(limit, name)
            text = "" if value is None else str(value)
            if kind is not None and isinstance(value, float):
                text = self.session.display.words(value, kind)
            elif name in _NUMBERS and isinstance(value, float):
                text = f"{value:g}"
            elif name == "own":
                text = "yes" if value is True else ""
            self._table.setItem(row, k, QTableWidgetItem(text))
        self._table.setCurrentCell(row, 1)

    def _drop(self) -> None:
        row = self._table.currentRow()
        if row >= 0:
            self._table.removeRow(row)
            del self._rows[row]

    def _save(self) -> None:
        session = self.session
        try:
            made = [m for k in range(self._table.rowCount()) if (m := self._limit(k)) is not None]
            kept = {m.id for m in made}
            gone = [(Limit, m.id) for m in session.logbook.limits if m.id not in kept]
            before = {m.id: m for m in session.logbook.limits}
            changed = [m for m in made if before.get(m.id) != m]
            if changed or gone:
                session.logbook.edit("table of limits", changed, gone)
        except (ValueError, StoreError) as exc:
            session.say(f"Not saved: {exc}.".replace("..", "."), wrong=True)
            return
        session.ask_sheet("")
        session.say(f"{len(made)} limits kept.  Z takes it back.")

    def _limit(self, row: int) -> Limit | None:
        texts = {}
        for k, (name, _, _) in enumerate(_COLUMNS):
            item = self._table.item(row, k)
            texts[name] = item.text().strip() if item is not None else ""
        if not texts["species"]:
            if any(texts[n] for n in ("least_m", "bag", "opens", "most_m")):
                raise ValueError(f"row {row + 1}: which fish?")
            return None
        values: dict[str, Any] = {}
        for name, title, kind in _COLUMNS:
            text = texts[name]
            if kind is not None:
                values[name] = parse(text, kind, self.session.display.system_of(kind)) if text else None
            elif name in _NUMBERS:
                values[name] = _number(text, title)
            elif name == "own":
                values[name] = text.lower() in ("yes", "y", "1", "own", "x")
            else:
                values[name] = text
        day_of(values["opens"]), day_of(values["closes"])
        if bool(values["opens"]) != bool(values["closes"]):
            raise ValueError(f"row {row + 1}: a season needs both its days")
        values["species"] = self.session.display.species_typed(values["species"])
        before = self._rows[row]
        return Limit(**values) if before is None else replace(before, **values)


def _number(text: str, title: str) -> float | None:
    if not text:
        return None
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        raise ValueError(f'{title}: "{text[:20]}" is no number') from None
    if not 0 <= value < 10_000:
        raise ValueError(f"{title}: {text[:20]} cannot be")
    return value
