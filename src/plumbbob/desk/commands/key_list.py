"""The list of keys, drawn from the command table; it lies over the window until Esc or ? closes it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QWidget

from plumbbob.desk.commands.registry import Command
from plumbbob.desk.commands.table import GESTURES, MENUS
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

_COLUMNS = 4


class KeyList(Painted):
    """Needs the session and all commands; covers its parent while it is open."""

    def __init__(self, session: Session, commands: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self._commands = commands
        self.setObjectName("keylist")
        self._session = session
        session.keys_asked.connect(self._asked)
        session.display.changed.connect(self.update)
        self.hide()

    def _asked(self, on: bool) -> None:
        parent = self.parentWidget()
        if on and parent is not None:
            self.setGeometry(parent.rect())
            self.raise_()
        self.setVisible(on)

    def blocks(self) -> list[tuple[str, list[tuple[str, str]]]]:
        """Titles with rows of (keys, what they do)."""
        out = [
            (menu, [("  ".join(c.keys), c.title.rstrip(" …")) for c in self._commands if c.menu == menu and c.keys])
            for menu in MENUS
        ]
        return [(menu, rows) for menu, rows in out if rows] + [("Mouse", list(GESTURES))]

    def paint(self, painter: QPainter) -> None:
        """Columns of keys."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), shade(theme.ground, 225))
        box = QRectF(self.rect()).adjusted(40, 24, -40, -24)
        painter.setPen(pen(theme.rule))
        painter.setBrush(QColor(theme.panel))
        painter.drawRoundedRect(box, 6, 6)
        plain, strong = font(display.text_size * 0.88), font(display.text_size * 0.88, bold=True)
        line = QFontMetricsF(plain).height() * 1.15
        rise = QFontMetricsF(plain).ascent()
        column = (box.width() - 40) / _COLUMNS
        keys_wide = min(0.38 * column, 150.0)
        total = sum(len(rows) + 2 for _, rows in self.blocks())
        y_end = min(box.top() + 22 + line * (total / _COLUMNS + 5), box.bottom() - 8)
        x, y = box.left() + 26, box.top() + 18
        for title, rows in self.blocks():
            if y + 3 * line > y_end:
                x, y = x + column, box.top() + 18
            painter.setFont(strong)
            painter.setPen(QColor(theme.brass_text))
            painter.drawText(QPointF(x, y + rise), title)
            y += line
            for keys, words in rows:
                if y + line > y_end:
                    x, y = x + column, box.top() + 18
                wide = max(keys_wide, QFontMetricsF(strong).horizontalAdvance(keys) + 10)
                painter.setFont(strong)
                painter.setPen(QColor(theme.ink))
                painter.drawText(QPointF(x, y + rise), keys)
                painter.setFont(plain)
                painter.setPen(QColor(theme.muted_text))
                room = QRectF(x + wide, y, column - wide - 12, line * 3)
                flags = Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
                used = painter.boundingRect(room, flags, words)
                painter.drawText(room, flags, words)
                y += max(line, used.height() + 3)
            y += line * 0.5

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click closes it."""
        self._session.ask_keys(False)
