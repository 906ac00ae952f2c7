"""Plain widgets with the program's habits: buttons that answer to Enter, labels with a role, steppers."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QAction, QFontMetricsF, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.units import Kind, parse
from plumbbob.desk.kit.paint import font
from plumbbob.desk.models.display import Display

AT_ONCE = "acts_at_once"  # property of widgets that do something as soon as they are pressed


class Button(QPushButton):
    """A button that answers to Enter; Space marks, everywhere."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter clicks."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.click()
        else:
            super().keyPressEvent(event)


class Elided(QLabel):
    """A line that ends in dots where there is no room for it, and takes no room from others; all of it as a tip."""

    def minimumSizeHint(self) -> QSize:
        """Next to nothing."""
        return QSize(1, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        """As much of the text as there is room for."""
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(self.palette().color(self.foregroundRole()))
        shown = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), self.alignment(), shown)
        self.setToolTip(self.text() if shown != self.text() else "")


def elided(role: str, *, name: str = "") -> Elided:
    """A line with a role of the style sheet that may be cut short."""
    made = Elided()
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setProperty("role", role)
    made.setObjectName(name)
    return made


def label(text: str = "", role: str = "", *, name: str = "") -> QLabel:
    """A label with a role of the style sheet."""
    made = QLabel(text)
    made.setTextFormat(Qt.TextFormat.PlainText)  # names from foreign files are text, never markup
    if role:
        made.setProperty("role", role)
    if name:
        made.setObjectName(name)
    return made


def panel_column(panel: QWidget, margins: tuple[int, int, int, int], spacing: int) -> QVBoxLayout:
    """Make it a panel of the style sheet; its column, with room left, above, right and below in pixels."""
    panel.setProperty("role", "panel")
    column = QVBoxLayout(panel)
    column.setContentsMargins(*margins)
    column.setSpacing(spacing)
    return column


def headed(title: str, action: QAction, words: str) -> QHBoxLayout:
    """A heading with the one button that belongs to it."""
    row = QHBoxLayout()
    row.addWidget(label(title, "head"))
    row.addStretch(1)
    button = QToolButton()
    button.setText(words)
    button.setToolTip(action.toolTip())
    button.clicked.connect(action.trigger)
    button.setProperty("role", "quiet")
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    row.addWidget(button)
    return row


def spin_box(low: int, high: int, suffix: str, name: str = "") -> QSpinBox:
    """A whole number with arrows, its text as far from the edge as that of a field."""
    made = QSpinBox()
    made.setObjectName(name)
    made.setRange(low, high)
    made.setSuffix(suffix)
    made.lineEdit().setTextMargins(4, 0, 0, 0)
    return made


def set_role(widget: QWidget, role: str) -> None:
    """Give a widget another role of the style sheet."""
    if widget.property("role") != role:
        widget.setProperty("role", role)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


def clear(layout: QLayout) -> None:
    """Take all widgets out of a layout."""
    while layout.count():
        item = layout.takeAt(0)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.setParent(None)
            widget.deleteLater()


class Field(QLineEdit):
    """A typed quantity: SI inside, any unit typed, one line said when it can't be read."""

    entered = Signal(float)
    refused = Signal(str)

    def __init__(self, display: Display, kind: Kind, name: str, decimals: int | None = None) -> None:
        super().__init__()
        self.setObjectName(name)
        self._look, self._kind, self._decimals = display, kind, decimals
        self._value: float | None = None
        self._sample = ""
        self.editingFinished.connect(self._read)
        display.changed.connect(self._show)
        display.changed.connect(self._widen)

    @property
    def value(self) -> float | None:
        """What was typed or set last, SI; None where empty."""
        return self._value

    def set_value(self, value: float | None) -> None:
        """Show another value."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            self._show()

    def fit(self, sample: str) -> None:
        """Be as wide as a sample of text, at every text size."""
        self._sample = sample
        self._widen()

    def _widen(self) -> None:
        if self._sample:
            self.setFixedWidth(round(QFontMetricsF(font(self._look.text_size)).horizontalAdvance(self._sample)) + 22)

    def _show(self) -> None:
        with QSignalBlocker(self):
            self.setText("" if self._value is None else self._look.words(self._value, self._kind, self._decimals))
        self._mark(False)

    def _mark(self, wrong: bool) -> None:
        if bool(self.property("wrong")) != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)

    def _read(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        text = self.text().strip()
        if not text:
            self._value = None
            self._mark(False)
            return
        try:
            value = parse(text, self._kind, self._look.system_of(self._kind))
        except ValueError as exc:
            self._mark(True)
            self.refused.emit(str(exc))
            return
        self._value = value
        self._show()
        self.entered.emit(value)


class WordField(QLineEdit):
    """A typed value with words of its own, such as a direction."""

    entered = Signal(float)
    refused = Signal(str)

    def __init__(self, write: Callable[[float], str], read: Callable[[str], float], name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self._write, self._parse = write, read
        self._value = 0.0
        self.setFixedWidth(48)
        self.editingFinished.connect(self._read)

    def changeEvent(self, event: QEvent) -> None:
        """Wide enough at every text size."""
        super().changeEvent(event)
        if event.type() in (QEvent.Type.FontChange, QEvent.Type.StyleChange):
            self.setFixedWidth(max(self.fontMetrics().horizontalAdvance("WSW") + 18, 48))

    def set_value(self, value: float) -> None:
        """Show another value."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            with QSignalBlocker(self):
                self.setText(self._write(value))

    def _read(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            value = self._parse(self.text())
        except ValueError as exc:
            self.refused.emit(str(exc))
            self.setText(self._write(self._value))
            return
        self.set_value(value)
        self.entered.emit(value)


class Stepper(QWidget):
    """A figure with a smaller and a larger button: one free hand, no wheel, no double click."""

    def __init__(
        self,
        title: str,
        name: str,
        less: Callable[[], None],
        more: Callable[[], None],
        field: Field,
    ) -> None:
        super().__init__()
        self._title = label(title, "small")
        row = QHBoxLayout()
        row.setSpacing(3)
        row.setContentsMargins(0, 0, 0, 0)
        for text, act, tail in (("−", less, "less"), ("+", more, "more")):
            button = QToolButton()
            button.setText(text)
            button.setObjectName(f"{name}_{tail}")
            button.setToolTip(f"{title}: {tail}")
            button.setAutoRepeat(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setFixedSize(30, 30)
            button.clicked.connect(act)
            row.addWidget(button)
            if tail == "less":
                field.fit("00.0 km/h")
                field.setAlignment(Qt.AlignmentFlag.AlignHCenter)
                row.addWidget(field)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addStretch(1)
        column.addWidget(self._title)
        column.addLayout(row)
        column.addStretch(1)
