"""A jig above a rising fish, live: up and down in the hand, sixty pictures a second, seen as from a still boat."""

from __future__ import annotations

import math
from collections import deque

import numpy as np
from PySide6.QtCore import QElapsedTimer, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPolygonF

from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.chase import FAR_M, NEAR_M, Chase, begin, grade, lesson_of, step
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

LONG_S = 25.0
_FRAME_MS = 16
_BOTTOM_M = 9.0
_SEEN_S = 10.0
_SUBSTEP_S = 0.02
_LEFT = 54.0
_DEAD_PX = 12.0  # about the middle the hand holds still
_FULL_PX = 130.0


class LivePicture(Painted):
    """Tells `done` with the score of 0 to 1 and a sentence."""

    done = Signal(float, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("practice_live")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self._session = session
        self.chase: Chase | None = None
        self.hand = 0.0
        self._trail: deque[tuple[float, float, float]] = deque(maxlen=round(1000 * _SEEN_S / _FRAME_MS) + 4)
        self._clock = QElapsedTimer()
        self.timer = QTimer(self)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.setInterval(_FRAME_MS)
        self.timer.timeout.connect(self._tick)

    def sizeHint(self) -> QSize:
        """As large as there is room."""
        return QSize(760, 480)

    def start(self, difficulty: float, seed: int) -> None:
        """A fish of such a difficulty, from its first second on."""
        jig = lure_of(Packet(form=Form.BALL_JIG, mass_kg=0.007))
        self.chase = begin(fall_speed(jig.falling(BRAID), _BOTTOM_M), difficulty, seed, _BOTTOM_M)
        self.hand = 0.0
        self._trail.clear()
        self._clock.start()
        self.timer.start()
        self.setFocus()

    def stop(self) -> None:
        """Leave it: nothing is scored."""
        self.timer.stop()
        self.chase = None

    @property
    def runs(self) -> bool:
        """The clock is going."""
        return self.timer.isActive()

    def _tick(self) -> None:
        self.advance(min(self._clock.restart() / 1000.0, 0.2))

    def advance(self, seconds: float) -> None:
        """Some time goes by, in steps small enough for the physics."""
        chase = self.chase
        if chase is None:
            return
        for _ in range(max(math.ceil(seconds / _SUBSTEP_S), 1)):
            chase = step(chase, self.hand, seconds / max(math.ceil(seconds / _SUBSTEP_S), 1))
        self.chase = chase
        self._trail.append((chase.time_s, chase.jig_m, chase.fish_m))
        self.update()
        if chase.time_s >= LONG_S or (chase.gone and chase.gap_m > 3.0) or (chase.gone and chase.fish_m > _BOTTOM_M):
            self.timer.stop()
            self.done.emit(grade(chase), lesson_of(chase))

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

    def _y(self, depth_m: float) -> float:
        return 10.0 + depth_m / (_BOTTOM_M + 0.8) * (self.height() - 20.0)

    def paint(self, painter: QPainter) -> None:
        """The last ten seconds of jig and fish, the newest on the right; where the jig holds the fish is shaded."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme, chase = self._session.display, self._session.display.theme, self.chase
        painter.fillRect(self.rect(), QColor(theme.ground))
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(theme.ink))
        for depth, words in depth_ticks(0.0, _BOTTOM_M, display.system_of(Kind.DEPTH), 8):
            row = QRectF(0, self._y(depth) - 9, _LEFT - 8, 18)
            painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        right = self.width() - 16.0
        painter.fillRect(
            QRectF(_LEFT, self._y(_BOTTOM_M), right - _LEFT, self.height() - self._y(_BOTTOM_M)), QColor(theme.rule)
        )
        if chase is None or not self._trail:
            return
        newest = self._trail[-1][0]
        times = np.array(self._trail)[::-1][::3][::-1]  # a picture has fewer points across than ten seconds of frames
        x = right - (newest - times[:, 0]) / _SEEN_S * (right - _LEFT)
        band = [QPointF(a, self._y(f - FAR_M)) for a, f in zip(x, times[:, 2], strict=True)]
        band += [QPointF(a, self._y(f - NEAR_M)) for a, f in zip(x[::-1], times[::-1, 2], strict=True)]
        painter.setClipRect(QRectF(_LEFT, 0, self.width() - _LEFT, self.height()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade(theme.lichen, 60))
        painter.drawPolygon(QPolygonF(band))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for column, colour, wide in ((2, theme.vermilion, 5.0), (1, theme.brass, 2.5)):
            painter.setPen(pen(colour, wide))
            painter.drawPolyline(
                QPolygonF([QPointF(a, self._y(d)) for a, d in zip(x, times[:, column], strict=True)])
            )
        for depth, words in ((chase.jig_m, "jig"), (chase.fish_m, "fish")):
            at = QPointF(right - 52, self._y(depth) + (-8 if words == "jig" else 18))
            painter.setPen(QColor(theme.ink))
            painter.drawText(at, words)
        painter.setFont(font(display.text_size, bold=True))
        painter.setPen(QColor(theme.lichen_text if chase.holds else theme.ink))
        left = f"{max(LONG_S - chase.time_s, 0.0):.0f} s"
        words = "gone" if chase.gone else f"{display.words(max(chase.gap_m, 0.0), Kind.FISH, 0)} above it"
        painter.drawText(QPointF(_LEFT + 10, 28), f"{words}   ·   {left}")
