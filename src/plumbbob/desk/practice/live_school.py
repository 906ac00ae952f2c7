"""Schools that pass a still boat, live: a jig let down in time, seen from the side."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from plumbbob.core.rig.bought import Form, Packet, lure_of
from plumbbob.core.rig.fall import fall_speed
from plumbbob.core.rig.school_pass import (
    LASTS_S,
    School,
    SchoolPass,
    begin,
    best_met,
    grade,
    in_sight,
    lesson_of,
    step,
)
from plumbbob.core.rig.tackle import BRAID
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font, pen, shade
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.live import LEFT, LivePicture

_BEHIND_M, _AHEAD_M = 4.0, 9.0  # of the line, what is seen
_FISH_IN = 14  # painted of a school


class PassingSchool(LivePicture):
    """The line in the middle, schools come from the right as far off as they are seen."""

    skill = "schools that pass, live"
    button = "Passing schools   K"
    ask = "Schools pass under the boat: have the jig at their depth while they are at the line."
    how = "Down lets the jig fall, Up reels; with Shift as fast as it goes. Or drag off the middle."
    bottom_m = 12.0

    def __init__(self, session: Session) -> None:
        super().__init__(session, "practice_live_school")
        self.passing: SchoolPass | None = None
        self._best: Floats | None = None

    def begin(self, difficulty: float, seed: int) -> None:
        """Schools of such a difficulty, and what could be met of them at best."""
        jig = lure_of(Packet(form=Form.BALL_JIG, mass_kg=0.005))
        self.passing = begin(fall_speed(jig.falling(BRAID), self.bottom_m), difficulty, seed, self.bottom_m)
        self._best = best_met(self.passing)

    def pass_time(self, seconds: float) -> None:
        """By the physics of the jig."""
        if self.passing is not None:
            self.passing = step(self.passing, self.hand, seconds)

    def verdict(self) -> tuple[float, str] | None:
        """Once the time is up."""
        if self.passing is None or self._best is None or self.passing.time_s < LASTS_S:
            return None
        return grade(self.passing, self._best), lesson_of(self.passing, self._best)

    def _x(self, ahead_m: float) -> float:
        share = (ahead_m + _BEHIND_M) / (_BEHIND_M + _AHEAD_M)
        return LEFT + share * (self.width() - 16.0 - LEFT)

    def paint(self, painter: QPainter) -> None:
        """The water, what is in sight, the jig on its line."""
        self.paint_water(painter)
        display, theme, now = self._session.display, self._session.display.theme, self.passing
        if now is None:
            return
        painter.setFont(font(display.text_size * 0.85))
        painter.setPen(QColor(theme.muted_text))
        for value, words in depth_ticks(0.0, _AHEAD_M, display.system_of(Kind.DEPTH), 5)[1:]:
            at = QPointF(self._x(value) - 16, self.height() - 6)
            painter.drawText(at, f"{words} {display.unit(Kind.DEPTH)} off")
        dark = QRectF(self._x(now.seen_m), 0, self.width() - self._x(now.seen_m), self.height())
        painter.fillRect(dark, shade(theme.rule, 90))  # no school is seen so far off yet
        painter.setClipRect(QRectF(LEFT, 0, self._x(min(now.seen_m, _AHEAD_M)) - LEFT, self.height()))
        for school in in_sight(now):
            self._paint_school(painter, school, now)
        painter.setClipping(False)
        x = self._x(0.0)
        painter.setPen(pen(theme.ink, 1.5))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.y_of(now.jig_m)))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.brass))
        painter.drawEllipse(QPointF(x, self.y_of(now.jig_m)), 7, 7)
        met = f"{sum(now.met_s):.0f} s among them   ·   {max(LASTS_S - now.time_s, 0.0):.0f} s"
        self.paint_words(painter, met, theme.lichen_text if now.meets else theme.ink)

    def _paint_school(self, painter: QPainter, school: School, now: SchoolPass) -> None:
        """A band of small fish, the nearest first, without the water about them."""
        theme = self._session.display.theme
        front = school.front_at(now.time_s)
        meets = school.is_over(now.time_s) and school.holds(now.jig_m)
        painter.setPen(Qt.PenStyle.NoPen)
        left, top = self._x(front), self.y_of(school.depth_m - school.high_m / 2)
        wide, high = self._x(front + school.length_m) - left, self.y_of(school.depth_m + school.high_m / 2) - top
        painter.setBrush(shade(theme.lichen if meets else theme.vermilion, 70))
        painter.drawRoundedRect(QRectF(left, top, wide, high), high / 2, high / 2)
        painter.setBrush(QColor(theme.lichen if meets else theme.vermilion))
        for k in range(_FISH_IN):
            at = (k + 0.5) / _FISH_IN
            up = ((k * 5) % 7) / 6.0
            painter.drawEllipse(QPointF(left + at * wide, top + (0.15 + 0.7 * up) * high), 5, 2.2)
