"""Under the picture: what to do to have the lure at the bob's depth, for the chosen way of fishing."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from plumbbob.core.rig.rod import Amount, CannotReach, Method, RigAnswer
from plumbbob.core.units import FOOT_M, MPH_MPS, Kind, System, to_shown, unit_of
from plumbbob.desk.kit.paint import bob_path, font, pen, round_steps, shade
from plumbbob.desk.kit.widgets import Button, Field, Stepper, label, set_role
from plumbbob.desk.session.session import Session

HEIGHT = 106
# the ways one changes between while reading a pass; all of them are in Rig
_QUICK = {Method.DOWNRIGGER: "Downrigger", Method.FLAT_LINE: "Flat line", Method.CAST: "Cast and count"}


class RigStrip(QFrame):
    """Needs the session. Buttons and fields change the rig's settings; figures follow while the bob is dragged."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("rigstrip")
        self.setProperty("role", "panel")
        self._session = session
        rig, look = session.rig, session.look
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 16, 8)
        row.setSpacing(18)
        row.addLayout(self._methods())
        self._speed = Field(look, Kind.SPEED, "rig_speed")
        self._above = Field(look, Kind.DEPTH, "rig_above")
        self._speed.entered.connect(lambda v: rig.set(speed_mps=min(max(v, 0.0), 5.0)))
        self._above.entered.connect(lambda v: rig.set(above_fish_m=min(max(v, 0.0), 10.0)))
        for field in (self._speed, self._above):
            field.refused.connect(lambda line: session.say(line, wrong=True))
        row.addWidget(
            Stepper(
                "speed through water", "speed", lambda: self._step_speed(-1), lambda: self._step_speed(1), self._speed
            )
        )
        row.addWidget(
            Stepper("over the fish", "above", lambda: self._step_above(-1), lambda: self._step_above(1), self._above)
        )
        words = QVBoxLayout()
        words.setSpacing(1)
        self._big, self._line, self._more = label("", "big", name="rig_answer"), label(), label("", "muted")
        for widget in (self._big, self._line, self._more):
            # a long sentence must not widen the window
            widget.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            words.addWidget(widget)
        row.addLayout(words, 3)
        row.addWidget(RigPicture(session), 2)
        for signal in (rig.changed, look.changed):
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
            button.setFixedHeight(28)
            button.clicked.connect(lambda _=False, m=method: self._session.rig.set(method=m))
            self._group.addButton(button)
            column.addWidget(button)
            self._buttons[method] = button
        return column

    def _step_speed(self, sign: int) -> None:
        step = 0.1 * MPH_MPS if self._session.look.system is System.US else 0.05
        rig = self._session.rig
        rig.set(speed_mps=min(max(rig.settings.speed_mps + sign * step, 0.0), 5.0))

    def _step_above(self, sign: int) -> None:
        step = 0.5 * FOOT_M if self._session.look.system is System.US else 0.1
        rig = self._session.rig
        rig.set(above_fish_m=min(max(rig.settings.above_fish_m + sign * step, 0.0), 10.0))

    def _show(self) -> None:
        look, rig = self._session.look, self._session.rig
        self._group.setExclusive(False)
        for method, button in self._buttons.items():
            button.setChecked(method is rig.settings.method)
        self._group.setExclusive(True)
        self._speed.set_value(rig.settings.speed_mps)
        self._above.set_value(rig.settings.above_fish_m)
        answer = rig.answer
        if isinstance(answer, CannotReach):
            set_role(self._big, "warn")
            self._big.setText(f"{look.words(rig.bob_m, Kind.DEPTH)} can't be had this way")
            self._line.setText(f"{answer.reason[0].upper()}{answer.reason[1:]}.")
            self._more.setText(f"Nearest: {look.words(answer.nearest_depth_m, Kind.DEPTH)}.")
            return
        set_role(self._big, "big")
        depth = f"lure {look.words(answer.depth_m, Kind.DEPTH)} {look.spread(answer.depth_sd_m, Kind.DEPTH)}"
        target = rig.target_m
        over = f", {look.words(target - answer.depth_m, Kind.DEPTH)} over the fish" if target is not None else ""
        if answer.amount is Amount.COUNT:
            self._big.setText(f"count {answer.value:.0f} s")
            self._line.setText(depth + over)
            self._more.setText("free line from the splash, then close")
            return
        self._big.setText(f"{look.words(answer.value, Kind.LENGTH)} {answer.amount.value}")
        self._line.setText(depth + over)
        behind = f"{look.words(answer.layback_m, Kind.LENGTH, 0)} behind"
        if answer.amount is Amount.WIRE:
            blown = look.words(answer.blow_back_m, Kind.LENGTH, 1)
            below = look.words(abs(answer.below_ball_m), Kind.DEPTH)
            side = "below" if answer.below_ball_m >= 0 else "above"
            self._more.setText(f"{behind} · wire blown back {blown} · {below} {side} its ball")
        else:
            self._more.setText(f"{behind} · line {answer.angle_deg:.0f}° off the vertical")


class RigPicture(QWidget):
    """The line's shape from the side, to scale: the boat at the right, the lure where it trails."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rigpicture")
        self._session = session
        self.setMinimumSize(170, 78)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        for signal in (session.rig.changed, session.look.changed, session.scan.cursor_changed):
            signal.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Water, line, lure, ball, scale bar."""
        look, rig = self._session.look, self._session.rig
        theme, answer = look.theme, rig.shown
        painter = QPainter(self)
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
        lure = at(*answer.shape[0])
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
        step = round_steps((right - 20) / scale, Kind.LENGTH, look.system, 6)
        y = self.height() - 7.0
        painter.setPen(pen(theme.muted, 1.4))
        painter.drawLine(QPointF(8, y), QPointF(8 + step * scale, y))
        painter.setFont(font(look.text_size * 0.75))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(
            QPointF(12 + step * scale, y + 3),
            f"{to_shown(step, Kind.LENGTH, look.system):.3g} {unit_of(Kind.LENGTH, look.system).symbol}",
        )
