"""Small distributions of what is listed: drag over one to cut the list by it, click to lift the cut."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QSizePolicy

from plumbbob.core.tally.find import MONTHS
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind, to_shown
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session

_BINS = 16
_HOURS, _MONTHS = (0.0, 24.0), (0.5, 12.5)


class Distributions(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("distributions")
        self._session = session
        self._list = session.listed
        self._drag: tuple[int, float, float] | None = None
        self._values: dict[str, Floats] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip("Drag over a part to list only that; click to list all again.")
        session.listed.changed.connect(self._changed)

    def _changed(self) -> None:
        self._values = {}
        self.update()

    def sizeHint(self) -> QSize:
        """A strip."""
        return QSize(500, round(4.6 * self._session.display.text_size))

    def minimumSizeHint(self) -> QSize:
        """As high, narrower."""
        return QSize(200, self.sizeHint().height())

    @property
    def kinds(self) -> tuple[tuple[str, str, Kind | None], ...]:
        """Which numbers: name, title, unit."""
        return (
            ("length_m", "length", Kind.FISH),
            ("lure_depth_m", "lure", Kind.DEPTH),
            ("bottom_depth_m", "bottom", Kind.DEPTH),
            ("hour", "hour", None),
            ("month", "month", None),
        )

    def values(self, name: str) -> Floats:
        """Of what would be listed without a cut by this number."""
        if name not in self._values:
            rows = self._list.found_but(name)
            values = self._list.table.numbers[name][rows]
            self._values[name] = values[np.isfinite(values)]
        return self._values[name]

    def span(self, name: str) -> tuple[float, float]:
        """From and to of the scale."""
        if name == "hour":
            return _HOURS
        if name == "month":
            return _MONTHS
        everything = self._list.table.numbers[name]
        known = everything[np.isfinite(everything)]
        return (0.0, float(np.quantile(known, 0.995)) * 1.05) if known.size and known.max() > 0 else (0.0, 1.0)

    def box(self, k: int) -> QRectF:
        """Where a distribution stands."""
        size, gap = self._session.display.text_size, 12.0
        wide = (self.width() - gap * (len(self.kinds) - 1)) / len(self.kinds)
        return QRectF(k * (wide + gap), 1.5 * size, wide, self.height() - 3.0 * size)

    def paint(self, painter: QPainter) -> None:
        """Bars, the cut, its ends in words."""
        display = self._session.display
        theme = display.theme
        painter.fillRect(self.rect(), QColor(theme.panel))
        for k, (name, title, _) in enumerate(self.kinds):
            box, (low, high) = self.box(k), self.span(name)
            bins = 12 if name == "month" else 24 if name == "hour" else _BINS
            counts, _edges = np.histogram(np.clip(self.values(name), low, high), bins=bins, range=(low, high))
            cut = self._cut(k, name)
            most = max(int(counts.max()), 1)
            wide = box.width() / bins
            for i, count in enumerate(counts.tolist()):
                middle = low + (i + 0.5) * (high - low) / bins
                inside = cut is None or cut[0] <= middle <= cut[1]
                painter.fillRect(
                    QRectF(box.left() + i * wide, box.bottom() - box.height() * count / most, max(wide - 1.0, 1.0),
                           box.height() * count / most),
                    shade(theme.brass if inside else theme.rule),
                )  # fmt: skip
            painter.setPen(pen(theme.rule))
            painter.drawLine(box.bottomLeft(), box.bottomRight())
            painter.setFont(font(display.text_size * 0.76))
            painter.setPen(QColor(theme.muted_text if cut is None else theme.brass_text))
            painter.drawText(
                QPointF(box.left(), box.top() - 5), title if cut is None else self._words(name, cut, title)
            )
            painter.setPen(QColor(theme.muted_text))
            first, last = self._end(name, low), self._end(name, high)
            painter.drawText(QPointF(box.left(), self.height() - 3.0), first)
            room = QFontMetricsF(painter.font()).horizontalAdvance(last)
            painter.drawText(QPointF(box.right() - room, self.height() - 3.0), last)

    def _cut(self, k: int, name: str) -> tuple[float, float] | None:
        if self._drag is not None and self._drag[0] == k:
            return min(self._drag[1:]), max(self._drag[1:])
        return self._list.ranges.get(name)

    def _end(self, name: str, value: float) -> str:
        kind = next(u for n, _, u in self.kinds if n == name)
        if name == "month":
            return MONTHS[min(max(round(value + (0.5 if value < 1 else -0.5)), 1), 12) - 1][:3]
        if kind is None:
            return f"{value:.0f}"
        shown = to_shown(value, kind, self._session.display.system_of(kind))
        return f"{shown:.0f} {self._session.display.unit(kind)}"

    def _words(self, name: str, cut: tuple[float, float], title: str) -> str:
        if name == "month":
            low, high = (MONTHS[min(max(round(v), 1), 12) - 1][:3] for v in cut)
            return low if low == high else f"{low} to {high}"
        return f"{self._end(name, cut[0])} to {self._end(name, cut[1])}"

    # -- hands --------------------------------------------------------------------------------------------------

    def _at(self, at: QPointF) -> tuple[int, float] | None:
        for k, (name, _, _) in enumerate(self.kinds):
            box, (low, high) = self.box(k), self.span(name)
            if box.left() - 5 <= at.x() <= box.right() + 5:
                share = min(max((at.x() - box.left()) / box.width(), 0.0), 1.0)
                return k, low + share * (high - low)
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a cut."""
        found = self._at(event.position())
        if event.button() == Qt.MouseButton.LeftButton and found is not None:
            self._drag = (found[0], found[1], found[1])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it; the list follows when it is let go."""
        if self._drag is not None:
            k = self._drag[0]
            box, (low, high) = self.box(k), self.span(self.kinds[k][0])
            share = min(max((event.position().x() - box.left()) / box.width(), 0.0), 1.0)
            self._drag = (k, self._drag[1], low + share * (high - low))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Cut by it, or lift the cut where nothing was dragged."""
        if self._drag is None:
            return
        k, first, last = self._drag
        self._drag = None
        name = self.kinds[k][0]
        low, high = self.span(name)
        wide = abs(last - first) > 0.03 * (high - low)
        self._list.set_range(name, (min(first, last), max(first, last)) if wide else None)
