"""A picture off any screen, its scale drawn over it, with a magnifier for careful clicks."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from plumbbob.core.sonar.picture import Looks
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import bead, font, pen, tag, text_box
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.picture_model import Step
from plumbbob.desk.models.session import Session

_LOUPE_PX, _LOUPE_TIMES = 132.0, 6.0


class ScreenPicture(Painted):
    """Needs the session; shows the picture and takes the clicks of its scale."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("photo")
        self._session = session
        self._image: QImage | None = None
        self._zoom, self._middle = 1.0, QPointF(0.5, 0.5)
        self._pressed: QPointF | None = None
        self._last: QPointF | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.screen_picture.opened.connect(self._opened)
        session.screen_picture.changed.connect(self.update)
        session.screen_picture.zoomed.connect(self.zoom)
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """A comfortable picture."""
        return QSize(840, 560)

    def _opened(self) -> None:
        pixels = self._session.screen_picture.pixels
        self._image = None
        if pixels is not None:
            high, wide = pixels.shape[:2]
            self._image = QImage(pixels.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()
        self._zoom, self._middle = 1.0, QPointF(0.5, 0.5)
        self.update()

    # -- places on screen ---------------------------------------------------------------------------------------

    @property
    def frame(self) -> QRectF:
        """Where the whole picture lies on screen."""
        if self._image is None:
            return QRectF()
        wide, high = self._image.width(), self._image.height()
        scale = min(self.width() / wide, self.height() / high) * self._zoom
        left = self.width() / 2 - self._middle.x() * wide * scale
        top = self.height() / 2 - self._middle.y() * high * scale
        return QRectF(left, top, wide * scale, high * scale)

    def at(self, x: float, y: float) -> QPointF:
        """Screen place of a pixel of the picture."""
        frame = self.frame
        assert self._image is not None
        return QPointF(
            frame.left() + x / self._image.width() * frame.width(),
            frame.top() + y / self._image.height() * frame.height(),
        )

    def pixel_at(self, at: QPointF) -> tuple[float, float]:
        """Pixel of the picture at a screen place."""
        frame = self.frame
        assert self._image is not None
        return (
            (at.x() - frame.left()) / frame.width() * self._image.width(),
            (at.y() - frame.top()) / frame.height() * self._image.height(),
        )

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """The picture, its marks, the magnifier."""
        display, photo = self._session.display, self._session.screen_picture
        painter.fillRect(self.rect(), QColor(display.theme.ground))
        if self._image is None:
            painter.setFont(font(display.text_size * 1.15))
            painter.setPen(QColor(display.theme.muted_text))
            words = "Drop or paste a picture of any sonar screen here, or open one with Ctrl+Shift+O."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 3.0)
        painter.drawImage(self.frame, self._image)
        rows = [self.pixel_at(QPointF(0.0, y))[1] for y in (0.0, float(self.height()))]
        photo.show_rows(rows[0], rows[1])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_scale(painter)
        if photo.step is not Step.NONE and photo.cursor is not None:
            self._paint_loupe(painter)
        elif photo.cursor is not None and photo.scale.near is not None and photo.scale.far is not None:
            self._paint_reading(painter)
        if photo.asked:
            painter.setFont(font(display.text_size, bold=True))
            wide = painter.fontMetrics().horizontalAdvance(photo.asked) + 20
            box = QRectF((self.width() - wide) / 2, 8, wide, 28)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(display.theme.fill))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(QColor(display.theme.on_fill))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, photo.asked)

    def _paint_scale(self, painter: QPainter) -> None:
        """What was marked: lines of the scale, clocks, the colour bar, corners on their way."""
        session = self._session
        display, photo = session.display, session.screen_picture
        scale, theme = photo.scale, display.theme
        frame = self.frame
        painter.setFont(font(display.text_size * 0.9, bold=True))
        down = scale.looks is Looks.DOWN
        names = ("surface" if down else "boat", "")
        for mark, name in zip((scale.near, scale.far), names, strict=True):
            if mark is None:
                continue
            words = name or display.words(mark[1], Kind.DEPTH if down else Kind.DISTANCE)
            spot = self.at(0.0, mark[0]) if down else self.at(mark[0], 0.0)
            painter.setPen(pen(theme.vermilion, 1.6))
            if down:
                painter.drawLine(QPointF(frame.left(), spot.y()), QPointF(frame.right(), spot.y()))
                tag(painter, QPointF(frame.left() + 8, spot.y() - 5), words, theme.vermilion_text, theme.panel)
            else:
                painter.drawLine(QPointF(spot.x(), frame.top()), QPointF(spot.x(), frame.bottom()))
                tag(painter, QPointF(spot.x() + 6, frame.top() + 18), words, theme.vermilion_text, theme.panel)
        for mark in (scale.early, scale.late):
            if mark is None:
                continue
            words = session.clock(mark[1])
            painter.setPen(pen(theme.teal, 1.4, style=Qt.PenStyle.DashLine))
            if down:
                x = self.at(mark[0], 0.0).x()
                painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
                tag(painter, QPointF(x + 5, frame.bottom() - 8), words, theme.teal_text, theme.panel)
            else:
                y = self.at(0.0, mark[0]).y()
                painter.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y))
                tag(painter, QPointF(frame.left() + 8, y - 5), words, theme.teal_text, theme.panel)
        if scale.ramp is not None:
            painter.setPen(pen(theme.vermilion, 2.0))
            painter.drawLine(self.at(*scale.ramp[0]), self.at(*scale.ramp[1]))
        points = [self.at(*p) for p in photo.clicked]
        painter.setPen(pen(theme.vermilion, 1.6))
        painter.drawPolyline(QPolygonF(points))
        for k, at in enumerate(points, 1):
            bead(painter, at, 3.6, theme.vermilion)
            tag(painter, QPointF(at.x() + 7, at.y() - 5), str(k), theme.vermilion_text, theme.panel)

    def _paint_loupe(self, painter: QPainter) -> None:
        """The pixels under the mouse, larger, with a cross on the very place."""
        photo, theme = self._session.screen_picture, self._session.display.theme
        assert photo.cursor is not None
        assert self._image is not None
        x, y = photo.cursor
        at = self.at(x, y)
        half = _LOUPE_PX / 2
        left = at.x() + 26 if at.x() + 26 + _LOUPE_PX < self.width() else at.x() - 26 - _LOUPE_PX
        top = min(max(at.y() - half, 4.0), self.height() - _LOUPE_PX - 4)
        box = QRectF(left, top, _LOUPE_PX, _LOUPE_PX)
        seen = _LOUPE_PX / _LOUPE_TIMES
        painter.save()
        painter.setClipRect(box)
        painter.fillRect(box, QColor(theme.ground))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.drawImage(box, self._image, QRectF(x - seen / 2, y - seen / 2, seen, seen))
        painter.restore()
        painter.setPen(pen(theme.vermilion, 1.2))
        painter.drawLine(QPointF(left, box.center().y()), QPointF(box.right(), box.center().y()))
        painter.drawLine(QPointF(box.center().x(), top), QPointF(box.center().x(), box.bottom()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(theme.rule, 2.0))
        painter.drawRect(box)

    def _paint_reading(self, painter: QPainter) -> None:
        """Depth or range under the mouse, with its spread."""
        session = self._session
        display, photo = session.display, session.screen_picture
        assert photo.cursor is not None
        value, sd, clock = photo.read_at(photo.cursor)
        down = photo.scale.looks is Looks.DOWN
        kind = Kind.DEPTH if down else Kind.DISTANCE
        at = self.at(*photo.cursor)
        painter.setPen(pen(display.theme.vermilion, 1.0, alpha=160))
        painter.drawLine(QPointF(at.x() - 10, at.y()), QPointF(at.x() + 10, at.y()))
        painter.drawLine(QPointF(at.x(), at.y() - 10), QPointF(at.x(), at.y() + 10))
        words = f"{display.words(abs(value), kind, 1)} {display.spread(sd, kind)}"
        side = "" if down else (" to starboard" if value >= 0 else " to port")
        strong, plain = font(display.text_size * 1.1, bold=True), font(display.text_size * 0.95)
        lines = [(words + side, strong, display.theme.ink)]
        if math.isfinite(clock):
            lines.append((session.clock(clock), plain, display.theme.muted_text))
        text_box(painter, lines, at, QRectF(self.rect()), display.theme.panel, display.theme.rule)

    # -- hands --------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start of a click or a drag."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = self._last = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The cursor follows; with a button down the picture does."""
        if self._image is None:
            return
        at = event.position()
        if self._pressed is not None and self._last is not None:
            if (at - self._pressed).manhattanLength() > 5 or self._last != self._pressed:
                frame = self.frame
                moved = at - self._last
                self._last = at
                self._middle -= QPointF(moved.x() / frame.width(), moved.y() / frame.height())
                self.update()
            return
        self._session.screen_picture.set_cursor(self.pixel_at(at))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click says where the asked thing is."""
        pressed, self._pressed = self._pressed, None
        if pressed is None or self._image is None or self._last != pressed:
            return
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = self.pixel_at(event.position())
        self._session.screen_picture.set_cursor(at)
        said = self._session.screen_picture.click(*at)
        if said:
            self._session.say(said, wrong=True)

    def leaveEvent(self, event: object) -> None:
        """The reading goes with the mouse."""
        self._session.screen_picture.set_cursor(None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or farther, about the mouse."""
        if self._image is None:
            return
        turns = (event.angleDelta().y() or event.angleDelta().x()) / 120
        self.zoom(1.25**turns, event.position())

    def zoom(self, factor: float, about: QPointF | None = None) -> None:
        """Show it so many times larger, keeping a place where it is."""
        if self._image is None:
            return
        about = about if about is not None else QPointF(self.width() / 2, self.height() / 2)
        x, y = self.pixel_at(about)
        self._zoom = min(max(self._zoom * factor, 1.0), 24.0)
        moved = about - self.at(x, y)
        frame = self.frame
        self._middle -= QPointF(moved.x() / frame.width(), moved.y() / frame.height())
        if self._zoom == 1.0:
            self._middle = QPointF(0.5, 0.5)
        self.update()
