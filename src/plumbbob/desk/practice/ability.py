"""How able one is: a bar a skill on one scale, and the way there over weeks, as wide as it is unsure."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPolygonF

from plumbbob.core.plan.skill import SPREAD, progress
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.model import PRACTISED, PracticeModel

_LEAST_WEEKS = 2


class AbilityPicture(Painted):
    """A line a skill: where the ability lies on one scale, with its interval; empty where nothing was answered."""

    def __init__(self, session: Session, model: PracticeModel) -> None:
        super().__init__()
        self.setObjectName("practice_abilities")
        self._session, self._model = session, model
        model.changed.connect(self.update)
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A row a skill."""
        return QSize(250, round(2.3 * self._session.display.text_size * len(PRACTISED)) + 24)

    def minimumSizeHint(self) -> QSize:
        """Rows that can still be read."""
        return QSize(200, round(1.45 * self._session.display.text_size * len(PRACTISED)) + 22)

    def paint(self, painter: QPainter) -> None:
        """Names on the left, bars on the right."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        found, size = self._model.abilities(), display.text_size
        painter.setFont(font(size * 0.82))
        high = min(2.3 * size, (self.height() - 20) / len(PRACTISED))
        left, reach = 0.56 * self.width(), 2.2 * SPREAD

        def x(value: float) -> float:
            return left + (min(max(value, -reach), reach) + reach) / (2 * reach) * (self.width() - left - 6)

        for k, name in enumerate(PRACTISED):
            y = k * high
            if name == self._model.skill:
                painter.fillRect(QRectF(0, y, self.width(), high), shade(theme.brass, 40))
            painter.setPen(QColor(theme.ink if name in found else theme.muted_text))
            metrics = QFontMetricsF(painter.font())
            words = metrics.elidedText(name, Qt.TextElideMode.ElideRight, left - 10)
            painter.drawText(QRectF(4, y, left - 8, high), Qt.AlignmentFlag.AlignVCenter, words)
            painter.fillRect(QRectF(x(-reach), y + high / 2 - 0.5, x(reach) - x(-reach), 1), QColor(theme.rule))
            if name in found:
                one = found[name]
                painter.fillRect(
                    QRectF(x(one.low), y + high / 2 - 4, x(one.high) - x(one.low), 8), shade(theme.lichen, 150)
                )
                painter.fillRect(QRectF(x(one.mean) - 1.5, y + high / 2 - 6, 3, 12), QColor(theme.ink))
        painter.setPen(QColor(theme.muted_text))
        foot = QRectF(left, len(PRACTISED) * high, self.width() - left, 18)
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, "misses")
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, "sure")


class ProgressPicture(Painted):
    """Ability week by week: its middle and the span that holds it with 80 % chance; no points, no flames."""

    def __init__(self, session: Session, model: PracticeModel) -> None:
        super().__init__()
        self.setObjectName("practice_progress")
        self._session, self._model = session, model
        self.setMinimumHeight(64)
        model.changed.connect(self.update)
        session.display.changed.connect(self.update)

    def paint(self, painter: QPainter) -> None:
        """A band and its middle; a dot under each week that was practised."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        weeks = progress(self._model.answers())
        painter.setFont(font(display.text_size * 0.82))
        if len(weeks) < _LEAST_WEEKS:
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(
                self.rect(),
                Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap,
                "Your way over the weeks begins with the second week.",
            )
            return
        reach, high = 2.2 * SPREAD, self.height() - 8.0

        def at(k: int, value: float) -> QPointF:
            x = 3.0 + k / (len(weeks) - 1) * (self.width() - 6.0)
            return QPointF(x, 2.0 + (1.0 - (min(max(value, -reach), reach) + reach) / (2 * reach)) * (high - 4.0))

        band = [at(k, w.ability.high) for k, w in enumerate(weeks)]
        band += [at(k, w.ability.low) for k, w in reversed(list(enumerate(weeks)))]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade(theme.lichen, 90))
        painter.drawPolygon(QPolygonF(band))
        painter.setBrush(QColor(theme.ink))
        for k, week in enumerate(weeks):
            if week.answers:
                painter.drawEllipse(QPointF(at(k, 0.0).x(), self.height() - 3.0), 1.6, 1.6)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.ink, 2.0))
        painter.drawPolyline(QPolygonF([at(k, w.ability.mean) for k, w in enumerate(weeks)]))
