"""Under the trip: one list of the whole log with its search, its distributions, where it lies, its pictures."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from plumbbob.desk.kit.widgets import Button, elided
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.log.distributions import Distributions
from plumbbob.desk.views.log.list_table import ListView
from plumbbob.desk.views.log.picture_strip import PictureStrip
from plumbbob.desk.views.log.small_map import SmallMap

_TYPE_MS = 120
_CHIPS = ((Row.CATCH, "fish"), (Row.BLANK, "blank trips"), (Row.CONTACT, "contacts"), (Row.MARK, "marks"))


class LogFoot(QWidget):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("logfoot")
        self._session = session
        self.search = QLineEdit()
        self.search.setObjectName("log_search")
        self.search.setPlaceholderText("find: kokanee aug > 14 in")
        self.search.setClearButtonEnabled(True)
        self.search.installEventFilter(self)
        self._typing = QTimer(self)
        self._typing.setSingleShot(True)
        self._typing.setInterval(_TYPE_MS)
        self._typing.timeout.connect(lambda: session.listed.set_text(self.search.text()))
        self.search.textChanged.connect(lambda _: self._typing.start())
        self._summary = elided("muted", name="log_summary")
        self._summary.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        first = QHBoxLayout()
        first.setSpacing(6)
        first.addWidget(self.search, 3)
        self._chips: dict[Row, Button] = {}
        for kind, words in _CHIPS:
            chip = Button(words)
            chip.setObjectName(f"chip_{kind.name.lower()}")
            chip.setCheckable(True)
            chip.setChecked(kind in session.listed.shows)
            chip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            chip.toggled.connect(lambda on, kind=kind: session.listed.set_shown(kind, on))
            self._chips[kind] = chip
            first.addWidget(chip)
        first.addWidget(self._summary, 4)
        self.table = ListView(session)
        self.distributions = Distributions(session)
        left = QVBoxLayout()
        left.setSpacing(5)
        left.addLayout(first)
        left.addWidget(self.distributions)
        left.addWidget(self.table, 1)
        right = QVBoxLayout()
        right.setSpacing(5)
        self.map, self.pictures = SmallMap(session), PictureStrip(session)
        right.addWidget(self.map, 1)
        right.addWidget(self.pictures)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(14)
        row.addLayout(left, 5)
        row.addLayout(right, 1)
        session.listed.changed.connect(self._show)
        session.listed.asked.connect(self._ask)

    def showEvent(self, event: QShowEvent) -> None:
        """What has changed while nobody looked."""
        super().showEvent(event)
        self.table.fill()
        self._show()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Enter and Down go from the field into the list."""
        if watched is self.search and event.type() == QEvent.Type.KeyPress:
            assert isinstance(event, QKeyEvent)
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._session.listed.set_text(self.search.text())
                self.table.setFocus()
                if not self.table.currentIndex().isValid() and self.table.model().rowCount():
                    self.table.selectRow(0)
                return True
        return False

    def _ask(self) -> None:
        self.search.setFocus()
        self.search.selectAll()

    def _show(self) -> None:
        if not self.isVisible():
            return
        listed = self._session.listed
        if self.search.text() != listed.text and not self.search.hasFocus():
            self.search.setText(listed.text)
        fish, trips, days, hours = listed.summary()
        parts = [f"{fish} fish", f"{trips} trips on {days} days" if trips != 1 else "1 trip"]
        if hours:
            parts.append(f"{fish / hours:.2f} a rod hour")
        self._summary.setText(" · ".join(parts))
