"""Ways to reach a depth as rows, best first: drawn small to one scale, the amount, how fit, and why not."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.rig.advice import Reach
from plumbbob.core.rig.rod import CannotReach, RigAnswer
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.words import amount_words, capital
from plumbbob.wording.rig import rig_words

_DRAWING_PX = 66.0


class WayList(Painted):
    """Needs the session; shows the ways it is given."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("advice_ways")
        self._session = session
        self._ways: list[Reach] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_ways(self, ways: Sequence[Reach]) -> None:
        """The surest of those that reach it first; then those that do not."""
        self._ways = sorted(ways, key=_fitness)
        self.setAccessibleName("; ".join(self.rows()))
        self.updateGeometry()
        self.update()

    def rows(self) -> list[str]:
        """What each row says."""
        return [f"{capital(way.method.value)}: {self._said(way)}" for way in self._ways]

    def _said(self, way: Reach) -> str:
        words = rig_words(way.reason, self._session.display.words)
        if way.reaches and not isinstance(way.answer, CannotReach):
            return f"{amount_words(self._session.display, way.answer)}, {words}"
        return f"no, {words}"

    def _high(self) -> float:
        return max(self._session.display.text_size * 2.0, 20.0)

    def sizeHint(self) -> QSize:
        """As many rows as there are ways."""
        return QSize(380, round(self._high() * max(len(self._ways), 1)))

    def paint(self, painter: QPainter) -> None:
        """Row by row."""
        display = self._session.display
        theme, high = display.theme, self._high()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shapes = [a.shape for w in self._ways if w.reaches and isinstance(a := w.answer, RigAnswer)]
        far = max((x for s in shapes for x, _ in s), default=1.0)
        deep = max((z for s in shapes for _, z in s), default=1.0)
        scale = min((_DRAWING_PX - 8) / max(far, 1.0), (high - 6) / max(deep, 1.0))
        for k, way in enumerate(self._ways):
            top = k * high
            water = QRectF(0, top + 2, _DRAWING_PX, high - 4)
            painter.fillRect(water, shade(theme.teal, 40 if way.reaches else 14))
            if way.reaches and isinstance(way.answer, RigAnswer):
                line = [
                    QPointF(_DRAWING_PX - 4 - x * scale, top + 3 + max(z, 0.0) * scale) for x, z in way.answer.shape
                ]
                painter.setPen(pen(theme.ink, 1.1))
                painter.drawPolyline(QPolygonF(line))
                lure = way.answer.lure
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(theme.brass))
                painter.drawEllipse(QPointF(_DRAWING_PX - 4 - lure[0] * scale, top + 3 + lure[1] * scale), 2.4, 2.4)
                painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setFont(font(display.text_size * 0.88, bold=way.reaches))
            base = top + high / 2 + QFontMetricsF(painter.font()).ascent() / 2 - 2
            painter.setPen(QColor(theme.ink if way.reaches else theme.muted_text))
            name = f"{capital(way.method.value)}  "
            painter.drawText(QPointF(_DRAWING_PX + 10, base), name)
            left = _DRAWING_PX + 10 + QFontMetricsF(painter.font()).horizontalAdvance(name)
            painter.setFont(font(display.text_size * 0.88))
            painter.setPen(QColor(theme.muted_text))
            metrics = QFontMetricsF(painter.font())
            words = metrics.elidedText(self._said(way), Qt.TextElideMode.ElideRight, round(self.width() - left - 4))
            painter.drawText(QPointF(left, base), words)


def _fitness(way: Reach) -> tuple[bool, float]:
    sd = way.answer.depth_sd_m if isinstance(way.answer, RigAnswer) else 0.0
    return not way.reaches, sd
