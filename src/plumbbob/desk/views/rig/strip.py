"""Under the picture: what to do to have the lure at the bob's depth, for the chosen way of fishing."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from plumbbob.core.rig.rod import Amount, Method, RigAnswer
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bob_path, font, pen, round_steps, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import Button, label, set_role
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.panel import above_stepper, speed_stepper
from plumbbob.desk.views.rig.words import answer_words

HEIGHT = 106
_LARGE_PT = 16.0
# the ways one changes between while reading a pass; all of them are in Rig
_QUICK = {Method.DOWNRIGGER: "Downrigger", Method.FLAT_LINE: "Flat line", Method.CAST: "Cast and count"}


class RigStrip(QFrame):
    """Needs the session. Buttons and fields change the rig's settings; figures follow while the bob is dragged."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("rigstrip")
        self.setProperty("role", "panel")
        self._session = session
        rig, display = session.rig, session.display
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(18)
        row.addLayout(self._methods())
        row.addWidget(speed_stepper(session, "rig_speed"))
        row.addWidget(above_stepper(session, "rig_above"))
        words = QVBoxLayout()
        words.setSpacing(1)
        self._big, self._line, self._more = label("", "big", name="rig_answer"), label(), label("", "muted")
        for widget in (self._big, self._line, self._more):
            # a long sentence must not widen the window
            widget.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            words.addWidget(widget)
        row.addLayout(words, 3)
        self._picture = RigPicture(session)
        row.addWidget(self._picture, 2)
        for signal in (rig.changed, display.changed):
            signal.connect(self._show)
        self._show()

    def _methods(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(3)
        self._group = QButtonGroup(self)
        self._buttons: dict[Method, Button] = {}
        for method, name in _QUICK.items():
            button = Button(name)
            button.setObjectName(f"method_{method.name.lower()}")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _=False, m=method: self._session.rig.set(method=m))
            self._group.addButton(button)
            column.addWidget(button)
            self._buttons[method] = button
        return column

    def _show(self) -> None:
        rig = self._session.rig
        self._group.setExclusive(False)
        for method, button in self._buttons.items():
            button.setChecked(method is rig.settings.method)
        self._group.setExclusive(True)
        large = self._session.display.text_size >= _LARGE_PT
        self._picture.setVisible(not large)  # the words need its room; Rig shows it larger
        for widget in (self._big, self._line, self._more):
            widget.setWordWrap(large)
        reached, big, line, more = answer_words(self._session)
        set_role(self._big, "big" if reached else "warn")
        self._big.setText(big)
        self._line.setText(line)
        self._more.setText(more)


class RigPicture(Painted):
    """The line's shape from the side, to scale: the boat at the right, the lure where it trails."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rigpicture")
        self._session = session
        self.setMinimumSize(170, 78)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (session.rig.changed, session.display.changed, session.scan.cursor_changed):
            signal.connect(self.update)

    def paint(self, painter: QPainter) -> None:
        """Water, line, lure, ball, scale bar."""
        display, rig = self._session.display, self._session.rig
        theme, answer = display.theme, rig.shown
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.ground))
        if answer is None:
            return
        reached = isinstance(rig.answer, RigAnswer)
        aft = max((x for x, _ in answer.shape), default=1.0)
        deep = max(z for _, z in answer.shape)
        right, top = self.width() - 26.0, 14.0
        scale = min((right - 20) / max(aft, 4.0), (self.height() - top - 12) / max(deep, 2.0))

        def at(x: float, z: float) -> QPointF:
            return QPointF(right - x * scale, top + z * scale)

        painter.fillRect(QRectF(0, top, self.width(), self.height() - top), shade(theme.teal, 36))
        painter.setPen(pen(theme.teal, 1.2))
        painter.drawLine(QPointF(0, top), QPointF(self.width(), top))
        painter.setPen(pen(theme.ink if reached else theme.muted, 1.3))
        painter.drawPolyline(QPolygonF([at(x, max(z, -8 / scale)) for x, z in answer.shape]))
        painter.setBrush(QColor(theme.ink))
        painter.setPen(Qt.PenStyle.NoPen)
        hull = [(right - 7, top - 7), (right + 24, top - 7), (right + 18, top + 2), (right - 4, top + 2)]
        painter.drawPolygon(QPolygonF([QPointF(*p) for p in hull]))
        if answer.ball is not None:
            painter.drawEllipse(at(*answer.ball), 3.6, 3.6)
        lure = at(*answer.lure)
        painter.setBrush(QColor(theme.brass if reached else theme.vermilion))
        if answer.amount is Amount.COUNT:
            painter.drawPath(bob_path(lure, 7))
        else:
            painter.drawEllipse(lure, 5.0, 2.8)
        if not reached:
            # where it was asked for, out of this rig's reach
            y = min(at(0, rig.bob_m).y(), self.height() - 3.0)
            painter.setPen(pen(theme.vermilion, 1.2, style=Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(0, y), QPointF(self.width(), y))
        step = round_steps((right - 20) / scale, Kind.LENGTH, display.system_of(Kind.LENGTH), 6)
        y = self.height() - 7.0
        painter.setPen(pen(theme.muted, 1.4))
        painter.drawLine(QPointF(8, y), QPointF(8 + step * scale, y))
        painter.setFont(font(display.text_size * 0.75))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(
            QPointF(12 + step * scale, y + 3),
            f"{display.shown(step, Kind.LENGTH):.3g} {display.unit(Kind.LENGTH)}",
        )
