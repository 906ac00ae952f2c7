"""A large target: a bead, a word, its key; what it does is a command of the registry."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QAction, QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.desk.kit.paint import bead, font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import AT_ONCE
from plumbbob.desk.models.display import Display
from plumbbob.desk.views.deck.commands import Target

LEAST_PX, MAIN_PX = 44, 68


class TargetButton(Painted):
    """Needs the display, a target and its action. Pressed is done: nothing waits for a release elsewhere."""

    pressed = Signal(str)

    def __init__(self, display: Display, target: Target, action: QAction, *, main: bool = False) -> None:
        super().__init__()
        self._display, self.target, self._action, self._main = display, target, action, main
        self._down = False
        self.setProperty(AT_ONCE, True)
        self.setObjectName(f"target_{target.command.replace('.', '_')}")
        self.setMinimumSize(40, MAIN_PX if main else LEAST_PX)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName(target.words)
        self.setToolTip(action.toolTip())
        action.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Room for a thumb."""
        return QSize(120, MAIN_PX if self._main else LEAST_PX)

    def paint(self, painter: QPainter) -> None:
        """Bead, word, key."""
        theme, action = self._display.theme, self._action
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        chosen = action.isCheckable() and action.isChecked()
        painter.setPen(pen(theme.ink if self._main else theme.muted, 1.6 if self._main else 1.0))
        painter.setBrush(QColor(theme.brass if self._down else theme.raised if not chosen else theme.panel))
        painter.drawRoundedRect(box, 6, 6)
        ink = QColor(theme.on_fill if self._down else theme.ink if action.isEnabled() else theme.muted_text)
        size = self._display.text_size * (1.25 if self._main else 1.05)
        words = font(size, bold=True)
        metrics = QFontMetricsF(words)
        key = action.shortcut().toString() if box.height() > 40 else ""
        small = font(self._display.text_size * 0.72)
        beside = QFontMetricsF(small).horizontalAdvance(key) if not self.target.bead else 0.0
        while metrics.horizontalAdvance(self.target.words) > box.width() - 14 - 2 * beside and size > 6.0:
            size -= 0.5
            words = font(size, bold=True)
            metrics = QFontMetricsF(words)
        low = box
        if self.target.bead and box.height() >= 52:
            top = QRectF(box.left(), box.top() + 5, box.width(), box.height() * 0.36)
            self._paint_bead(painter, top)
            low = QRectF(box.left(), top.bottom(), box.width(), box.bottom() - top.bottom() - 2)
        painter.setPen(ink)
        painter.setFont(words)
        painter.drawText(low, Qt.AlignmentFlag.AlignCenter, self.target.words)
        if key:
            painter.setFont(small)
            painter.setPen(shade(theme.on_fill if self._down else theme.muted_text))
            at = box.adjusted(0, 3, -7, 0)
            painter.drawText(at, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, key)

    def _paint_bead(self, painter: QPainter, box: QRectF) -> None:
        theme = self._display.theme
        colour = theme.brass if self.target.is_caught else theme.ink
        if self.target.bead == "hazard":
            colour = theme.vermilion
        x, y = box.center().x(), box.center().y()
        painter.setPen(pen(theme.on_fill if self._down else colour, 1.8))
        painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        radius = min(box.height() * 0.27, 8.0)
        bead(painter, QPointF(x, y), radius, theme.on_fill if self._down else colour, kind=self.target.bead)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """It is done at once."""
        if event.button() == Qt.MouseButton.LeftButton and self._action.isEnabled():
            self._down = True
            self.update()
            self.pressed.emit(self.target.command)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Only the look of it."""
        self._down = False
        self.update()
