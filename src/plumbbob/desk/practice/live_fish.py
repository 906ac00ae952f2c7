"""A jig above a rising fish, live: up and down in the hand, seen as from a still boat."""

from __future__ import annotations

from collections import deque

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF

from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.chase import FAR_M, NEAR_M, Chase, begin, grade, lesson_of, step
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import pen, shade
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.live import LEFT, LivePicture

LONG_S = 25.0
_SEEN_S = 10.0
_KEPT = 640  # of the way that is seen


class RisingFish(LivePicture):
    """The last ten seconds of jig and fish, the newest on the right."""

    skill = "jig above a rising fish"
    button = "A rising fish   L"
    ask = "A fish rises to your jig: keep it coming."
    how = "Keep the jig in the green above the fish and always rising: hold Up or Down, or drag off the middle."
    bottom_m = 9.0

    def __init__(self, session: Session) -> None:
        super().__init__(session, "practice_live")
        self.chase: Chase | None = None
        self._trail: deque[tuple[float, float, float]] = deque(maxlen=_KEPT)

    def begin(self, difficulty: float, seed: int) -> None:
        """A fish of such a difficulty."""
        jig = lure_of(Packet(form=Form.BALL_JIG, mass_kg=0.007))
        self.chase = begin(fall_speed(jig.falling(BRAID), self.bottom_m), difficulty, seed, self.bottom_m)
        self._trail.clear()

    def stop(self) -> None:
        """Leave it: nothing is scored."""
        super().stop()
        self.chase = None

    def pass_time(self, seconds: float) -> None:
        """By the physics of the jig and the mood of the fish."""
        if self.chase is not None:
            self.chase = step(self.chase, self.hand, seconds)

    def advance(self, seconds: float) -> None:
        """Some time goes by; what was there before stays to be seen."""
        if self.chase is not None:
            super().advance(seconds)
            self._trail.append((self.chase.time_s, self.chase.jig_m, self.chase.fish_m))

    def verdict(self) -> tuple[float, str] | None:
        """Once the time is up or the fish is gone."""
        chase = self.chase
        if chase is None or not (
            chase.time_s >= LONG_S
            or (chase.gone and chase.gap_m > 3.0)
            or (chase.gone and chase.fish_m > self.bottom_m)
        ):
            return None
        return grade(chase), lesson_of(chase)

    def paint(self, painter: QPainter) -> None:
        """Jig and fish; where the jig holds the fish is shaded."""
        self.paint_water(painter)
        display, theme, chase = self._session.display, self._session.display.theme, self.chase
        if chase is None or not self._trail:
            return
        right = self.width() - 16.0
        newest = self._trail[-1][0]
        times = np.array(self._trail)[::-1][::3][::-1]  # a picture has fewer points across than ten seconds of frames
        x = right - (newest - times[:, 0]) / _SEEN_S * (right - LEFT)
        band = [QPointF(a, self.y_of(f - FAR_M)) for a, f in zip(x, times[:, 2], strict=True)]
        band += [QPointF(a, self.y_of(f - NEAR_M)) for a, f in zip(x[::-1], times[::-1, 2], strict=True)]
        painter.setClipRect(QRectF(LEFT, 0, self.width() - LEFT, self.height()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade(theme.lichen, 60))
        painter.drawPolygon(QPolygonF(band))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for column, colour, wide in ((2, theme.vermilion, 5.0), (1, theme.brass, 2.5)):
            painter.setPen(pen(colour, wide))
            painter.drawPolyline(
                QPolygonF([QPointF(a, self.y_of(d)) for a, d in zip(x, times[:, column], strict=True)])
            )
        for depth, words in ((chase.jig_m, "jig"), (chase.fish_m, "fish")):
            at = QPointF(right - 52, self.y_of(depth) + (-8 if words == "jig" else 18))
            painter.setPen(QColor(theme.ink))
            painter.drawText(at, words)
        left = f"{max(LONG_S - chase.time_s, 0.0):.0f} s"
        words = "gone" if chase.gone else f"{display.words(max(chase.gap_m, 0.0), Kind.FISH, 0)} above it"
        self.paint_words(painter, f"{words}   ·   {left}", theme.lichen_text if chase.holds else theme.ink)
