"""A field for a bare number."""

from __future__ import annotations

import math

from PySide6.QtCore import QSignalBlocker

from plumbbob.core.units import Kind
from plumbbob.desk.kit.widgets import Field
from plumbbob.desk.models.session import Session


class CountField(Field):
    """A bare number: seconds, a setting, how many."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__(session.display, Kind.LENGTH, name)

    def _show(self) -> None:
        with QSignalBlocker(self):
            value = self.value
            self.setText("" if value is None else f"{value:.1f}".removesuffix(".0").replace("-", "−"))
        self._mark(False)

    def _read(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        text = self.text().strip().replace(",", ".").replace("−", "-").removesuffix("s").strip()
        try:
            value = float(text)
        except ValueError:
            self._mark(True)
            self.refused.emit(f'"{self.text().strip()}" is not a number')
            return
        if not math.isfinite(value):
            self._mark(True)
            self.refused.emit(f'"{self.text().strip()}" is not a number')
            return
        self.set_value(value)
        self.entered.emit(value)
