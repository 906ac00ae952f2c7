"""The sentences of a review, one under the other: a click opens the evidence of one."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QMouseEvent, QPainter, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QWidget

from plumbbob.desk.kit.paint import font, pen, shade, wrapped
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.review_model import Item, Saying
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.review.words import sentence_of

_PAD, _GAP = 9.0, 6.0


class Sentences(Painted):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("sentences")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self._boxes: list[tuple[Item, QRectF]] = []
        for signal in (session.review.changed, session.display.changed):
            signal.connect(self._lay)
        session.review.picked_changed.connect(self._picked)

    def showEvent(self, event: QShowEvent) -> None:
        """What came while nobody looked."""
        super().showEvent(event)
        self._lay()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Other lines."""
        super().resizeEvent(event)
        if event.oldSize().width() != event.size().width():
            self._lay()

    def box_of(self, item: Item) -> QRectF | None:
        """Where a sentence stands."""
        return next((box for i, box in self._boxes if i == item), None)

    def _lines(self, item: Item) -> list[tuple[str, QFont, str]]:
        made, display = self._session.review.made, self._session.display
        assert made is not None
        theme, size = display.theme, display.text_size
        said, under = sentence_of(made, item, display)
        chosen = item == self._session.review.picked
        out = []
        room = self.width() - 2 * _PAD - 2
        faces = ((said, font(size * 0.9, bold=chosen or item.saying is Saying.FINDING), theme.ink),
                 (under, font(size * 0.82), theme.muted_text))  # fmt: skip
        for text, face, colour in faces:
            if text:
                out += [(line, face, colour) for line in wrapped(text, QFontMetricsF(face), room)]
        return out

    def _lay(self) -> None:
        if not self.isVisible() or self._session.review.made is None:
            return
        y = 2.0
        self._boxes = []
        for item in self._session.review.items:
            high = sum(QFontMetricsF(face).height() for _, face, _ in self._lines(item)) + 2 * _PAD - 4
            self._boxes.append((item, QRectF(1.0, y, self.width() - 2.0, high)))
            y += high + _GAP
        self.setFixedHeight(max(int(y + 4), 20))
        self.update()

    def _picked(self) -> None:
        self._lay()
        item = self._session.review.picked
        box = self.box_of(item) if item is not None else None
        above: QWidget | None = self.parentWidget()
        while above is not None and not isinstance(above, QScrollArea):
            above = above.parentWidget()
        if above is not None and box is not None:
            inner = above.widget()
            assert inner is not None
            at = self.mapTo(inner, box.center().toPoint())
            above.ensureVisible(at.x(), at.y(), 0, int(box.height() / 2) + 8)

    def sizeHint(self) -> QSize:
        """As long as they are."""
        return QSize(210, self.height())

    def paint(self, painter: QPainter) -> None:
        """Each on its own ground."""
        theme = self._session.display.theme
        if self._session.review.made is None:
            return
        for item, box in self._boxes:
            chosen = item == self._session.review.picked
            painter.setPen(pen(theme.brass if chosen else theme.rule, 1.6 if chosen else 1.0))
            painter.setBrush(shade(theme.brass, 36) if chosen else shade(theme.ground, 130))
            painter.drawRoundedRect(box, 5, 5)
            y = box.top() + _PAD - 2
            for text, face, colour in self._lines(item):
                metrics = QFontMetricsF(face)
                painter.setFont(face)
                painter.setPen(QColor(colour))
                painter.drawText(QPointF(box.left() + _PAD, y + metrics.ascent()), text)
                y += metrics.height()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Open its evidence."""
        if event.button() == Qt.MouseButton.LeftButton:
            for item, box in self._boxes:
                if box.contains(event.position()):
                    self._session.review.pick(item)
                    return
