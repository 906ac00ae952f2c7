"""What is played live: the hand on a line, sixty pictures a second, scored when it is over."""

from __future__ import annotations

import math
from abc import abstractmethod

from PySide6.QtCore import QElapsedTimer, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter

from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

_FRAME_MS = 16
_SUBSTEP_S = 0.02
LEFT = 54.0
_DEAD_PX = 12.0  # about the middle the hand holds still
_FULL_PX = 130.0


class LivePicture(Painted):
    """One thing that is played. Tells `done` with the score of 0 to 1 and a sentence."""

    done = Signal(float, str)
    skill: str
    button: str  # words of the button that starts it
    ask: str
    how: str
    bottom_m: float

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self.setObjectName(name)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self._session = session
        self.hand = 0.0  # 1 reels as fast as one can, 0 holds, -1 opens the line
        self._clock = QElapsedTimer()
        self.timer = QTimer(self)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.setInterval(_FRAME_MS)
        self.timer.timeout.connect(self._tick)

    # -- what each is -------------------------------------------------------------------------------------------

    @abstractmethod
    def begin(self, difficulty: float, seed: int) -> None:
        """Lay it out."""

    @abstractmethod
    def pass_time(self, seconds: float) -> None:
        """A little time goes by, few enough for the physics."""

    @abstractmethod
    def verdict(self) -> tuple[float, str] | None:
        """The score and a sentence once it is over."""

    # -- the clock ----------------------------------------------------------------------------------------------

    def sizeHint(self) -> QSize:
        """As large as there is room."""
        return QSize(760, 480)

    def start(self, difficulty: float, seed: int) -> None:
        """Play one of such a difficulty, from its first second on."""
        self.begin(difficulty, seed)
        self.hand = 0.0
        self._clock.start()
        self.timer.start()
        self.setFocus()

    def stop(self) -> None:
        """Leave it: nothing is scored."""
        self.timer.stop()

    @property
    def runs(self) -> bool:
        """The clock is going."""
        return self.timer.isActive()

    def _tick(self) -> None:
        self.advance(min(self._clock.restart() / 1000.0, 0.2))

    def advance(self, seconds: float) -> None:
        """Some time goes by, in steps small enough for the physics."""
        steps = max(math.ceil(seconds / _SUBSTEP_S), 1)
        for _ in range(steps):
            self.pass_time(seconds / steps)
        self.update()
        told = self.verdict()
        if told is not None:
            self.timer.stop()
            self.done.emit(*told)

    # -- the hand -----------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up reels, down lets out, as long as they are held."""
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.hand = 0.35 if event.key() == Qt.Key.Key_Up else -0.7
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.hand = math.copysign(1.0, self.hand)
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """The hand holds."""
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and not event.isAutoRepeat():
            self.hand = 0.0
        else:
            super().keyReleaseEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """With a button held: above the middle reels, below it lets out, farther is faster."""
        if event.buttons():
            off = self.height() / 2 - event.position().y()
            far = max(abs(off) - _DEAD_PX, 0.0) / _FULL_PX
            self.hand = math.copysign(min(far, 1.0), off)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The hand begins."""
        self.mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The hand holds."""
        self.hand = 0.0

    # -- the picture --------------------------------------------------------------------------------------------

    def y_of(self, depth_m: float) -> float:
        """Where a depth is."""
        return 10.0 + depth_m / (self.bottom_m + 0.8) * (self.height() - 20.0)

    def paint_water(self, painter: QPainter) -> None:
        """The ground, the depths, the bottom."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        painter.fillRect(self.rect(), QColor(theme.ground))
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(theme.ink))
        for depth, words in depth_ticks(0.0, self.bottom_m, display.system_of(Kind.DEPTH), 8):
            row = QRectF(0, self.y_of(depth) - 9, LEFT - 8, 18)
            painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        low = self.y_of(self.bottom_m)
        painter.fillRect(QRectF(LEFT, low, self.width() - 16.0 - LEFT, self.height() - low), QColor(theme.rule))

    def paint_words(self, painter: QPainter, words: str, colour: str) -> None:
        """A line on top: how it stands."""
        painter.setFont(font(self._session.display.text_size, bold=True))
        painter.setPen(QColor(colour))
        painter.drawText(QRectF(LEFT + 10, 12, self.width() - LEFT - 30, 24), Qt.AlignmentFlag.AlignLeft, words)
