"""The picture of an item: a pass as it is on a screen, clicked or dragged to answer, the truth laid over it."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter

from plumbbob.core.sonar.recording import Recording
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import depth_ticks, font, indexed_image, pen, shade, tag
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.models.session import Session
from plumbbob.desk.practice.cards import Letters, image_of, image_of_drawing
from plumbbob.desk.practice.model import PracticeModel
from plumbbob.desk.theme import ramp_of
from plumbbob.sim.lesson import Drawing
from plumbbob.sim.lessons_sides import SIDE_BOTTOM_M

_FRAME_MS = 250
_FAN_DEEP = 0.75  # how far down a view ahead is shown, of its reach
_MOST_ROWS = 9
_LEFT, _TOP, _RIGHT, _FOOT = 54, 12, 12, 26
_LETTER_PX = 40.0  # a click so near a letter means it
_GAIN = 0.09  # of the ramp for each step
_QUIET, _LOUD = 4.0, 99.6  # percentiles that the ramp spans


class PracticePicture(Painted):
    """Needs the model; answers by `answered`."""

    answered = Signal(object)

    def __init__(self, session: Session, model: PracticeModel) -> None:
        super().__init__()
        self.setObjectName("practice_picture")
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.CrossCursor)
        self._session, self._model = session, model
        self._image: QImage | None = None
        self.drawn: QImage | None = None  # a chart or a card
        self.letters: Letters = ()
        self._small = QImage()  # the drawing of the truth
        self._small_of: tuple[float, ...] = ()  # and what it was drawn from
        self._frames: list[QImage] = []
        self._frame = 0
        self._view = ""
        self._span_s = self._deep_m = self._wide_m = 1.0
        self._top_m = 0.0  # of the first echo that is kept
        self._pressed: QPointF | None = None
        self._at: QPointF | None = None
        self._of: Any = None
        self._timer = QTimer(self)
        self._timer.setInterval(_FRAME_MS)
        self._timer.timeout.connect(self._play)
        model.changed.connect(self._stale)
        session.display.changed.connect(self._repaint)

    def sizeHint(self) -> QSize:
        """As large as there is room."""
        return QSize(760, 480)

    # -- what is shown ------------------------------------------------------------------------------------------

    def _repaint(self) -> None:
        self._of, self._small_of = None, ()
        self._stale()

    def _stale(self) -> None:
        if self._of != (of := (id(self._model.item), self._model.gain)):
            self._of = of
            self._pressed = None
            self._make_image()
        self.update()

    def _make_image(self) -> None:
        item = self._model.item
        self._image, self._frames, self._frame, self._view = None, [], 0, ""
        self._timer.stop()
        recording = item.recording if item is not None else None
        self.drawn, self.letters = image_of(item, self._session.display) if item is not None else (None, ())
        if recording is None:
            return
        if recording.side is not None:
            self._of_sides(recording)
        elif recording.forward is not None:
            self._of_frames(recording)
        elif recording.down is not None:
            down = recording.down
            levels = down.echo.read(0, len(down)).T
            self._view = "down"
            self._span_s = float(down.time[-1] - down.time[0])
            self._top_m, self._deep_m = down.mount.depth_m + float(down.range_start_m[0]), down.deepest_m
            self._image = self._painted(levels)

    def _of_sides(self, recording: Recording) -> None:
        side = recording.side
        assert side is not None
        port, starboard = side.port.read(0, len(side)), side.starboard.read(0, len(side))
        self._view = "side"
        self._span_s = float(side.time[-1] - side.time[0])
        self._wide_m = side.reach_m
        self._image = self._painted(np.hstack([port[:, ::-1], starboard])[::-1])

    def _of_frames(self, recording: Recording) -> None:
        forward = recording.forward
        assert forward is not None
        frames = forward.echo.read(0, len(forward))
        self._view = "forward"
        self._wide_m = forward.reach_m
        low, high = np.percentile(frames, (_QUIET, _LOUD))
        self._frames = [self._painted(self._fan(f, forward.beam_angle_deg), low, high) for f in frames]
        self._timer.start()

    def _fan(self, frame: NDArray[np.uint8], angles_deg: NDArray[np.float64]) -> NDArray[np.uint8]:
        """Beams by range as distance ahead by depth."""
        samples = frame.shape[1]
        ahead, deep = np.meshgrid(np.linspace(0.0, 1.0, 320), np.linspace(0.0, _FAN_DEEP, 240))
        away, angle = np.hypot(ahead, deep), np.degrees(np.arctan2(deep, ahead))
        order = np.argsort(angles_deg)
        beam = np.interp(angle, np.asarray(angles_deg)[order], order.astype(float), left=-1, right=-1)
        at = np.clip((away * (samples - 1)).astype(int), 0, samples - 1)
        out = frame[np.clip(np.round(beam).astype(int), 0, frame.shape[0] - 1), at]
        return np.where((beam >= 0) & (away <= 1.0), out, 0).astype(np.uint8)

    def _painted(self, levels: NDArray[np.uint8], low: float | None = None, high: float | None = None) -> QImage:
        theme = self._session.display.theme
        if low is None or high is None:
            low, high = (float(v) for v in np.percentile(levels, (_QUIET, _LOUD)))
        move = self._model.gain * _GAIN * (high - low)
        low, high = low - move, high - move
        scaled = np.clip((levels.astype(np.float32) - low) / max(high - low, 1.0), 0.0, 1.0) * 255
        return indexed_image(np.ascontiguousarray(scaled.astype(np.uint8)), ramp_of(theme.echo).tolist())

    def _play(self) -> None:
        if self._model.score is not None and self._frames:
            self._frame = len(self._frames) - 1  # the truth is laid over the end
            self._timer.stop()
            self.update()
        elif self._frames and self.isVisible():
            self._frame = (self._frame + 1) % len(self._frames)
            self.update()

    # -- places -------------------------------------------------------------------------------------------------

    @property
    def _box(self) -> QRectF:
        return QRectF(_LEFT, _TOP, max(self.width() - _LEFT - _RIGHT, 10), max(self.height() - _TOP - _FOOT, 10))

    def value_at(self, at: QPointF) -> tuple[float, float]:
        """Seconds and metres deep (down), or metres across (to starboard over 0) and seconds (sides)."""
        box = self._box
        x, y = (at.x() - box.left()) / box.width(), (at.y() - box.top()) / box.height()
        if self._view == "side":
            return (2.0 * x - 1.0) * self._wide_m, (1.0 - y) * self._span_s
        return x * self._span_s, y * self._deep_m

    def place_of(self, seconds: float, metres: float) -> QPointF:
        """Where a moment and a depth are below, metres across and a moment to the sides, metres and a depth ahead."""
        box = self._box
        if self._view == "forward":
            return QPointF(
                box.left() + seconds / self._wide_m * box.width(),
                box.top() + metres / (_FAN_DEEP * self._wide_m) * box.height(),
            )
        if self._view == "side":
            return QPointF(
                box.left() + (seconds / self._wide_m + 1.0) / 2.0 * box.width(),
                box.top() + (1.0 - metres / self._span_s) * box.height(),
            )
        return QPointF(
            box.left() + seconds / self._span_s * box.width(), box.top() + metres / self._deep_m * box.height()
        )

    # -- answering ----------------------------------------------------------------------------------------------

    @property
    def _asks(self) -> str:
        item = self._model.item
        return item.lesson.answer_is if item is not None and self._model.score is None and self._view else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click is a depth, a place or a letter; a height begins."""
        at = event.position()
        if self.drawn is not None and self._model.score is None and self.letters:
            near = min(self.letters, key=lambda one: math.dist(self.letter_place(one).toTuple(), at.toTuple()))
            if math.dist(self.letter_place(near).toTuple(), at.toTuple()) <= _LETTER_PX:
                self.answered.emit(near[0])
            return
        if self._asks == "depth":
            self.answered.emit(self.value_at(at)[1])
        elif self._asks == "time_depth":
            self.answered.emit(list(self.value_at(at)))
        elif self._asks == "height":
            self._pressed = self._at = at
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A height grows with the drag."""
        self._at = event.position()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A height is answered."""
        if self._pressed is not None and self._asks == "height":
            height = self.height_of(self._pressed, event.position())
            self._pressed = None
            if math.isfinite(height) and height > 0.02:
                self.answered.emit(height)
        self.update()

    def height_of(self, start: QPointF, end: QPointF) -> float:
        """Metres from one end of a drag to the other; to the sides from an echo to the end of its shadow."""
        a, b = self.value_at(start), self.value_at(end)
        if self._view != "side":
            return abs(b[1] - a[1])
        near, far = sorted((abs(a[0]), abs(b[0])))
        item = self._model.item
        assert item is not None
        assert item.recording is not None
        assert item.recording.side is not None
        high = SIDE_BOTTOM_M - item.recording.side.mount.depth_m
        # behind what stands up a shadow is as long as the way from its top to the ground, beyond a lip from that lip
        whole = near if item.lesson.is_drop else far
        return high * (far - near) / whole if whole > 0 else math.nan

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """The pass, its scale, what is dragged, the truth once it is answered."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        painter.fillRect(self.rect(), QColor(theme.ground))
        item = self._model.item
        painter.setFont(font(display.text_size * 0.85))
        played = self._model.playing
        if played is not None and played.is_over:
            self._paint_rows(painter, played.rows)
            return
        if item is None:
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "making a first pass …")
            return
        box = self._box
        image = self._frames[self._frame] if self._frames else self._image
        if image is None and self.drawn is not None:
            self._paint_drawn(painter)
            return
        if image is None:
            return
        shown = QRectF(box)
        if self._view == "down":
            shown.setTop(self.place_of(0.0, self._top_m).y())
        painter.drawImage(shown, image)
        self._scale(painter, box)
        at_s = item.lesson.at_s
        if at_s is not None:
            painter.setPen(pen(theme.brass, 1.5, style=Qt.PenStyle.DashLine))
            if self._view == "side":
                y = self.place_of(0.0, at_s).y()
                painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
            else:
                x = self.place_of(at_s, 0.0).x()
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        if self._pressed is not None and self._at is not None:
            painter.setPen(pen(theme.brass, 2.0))
            painter.drawLine(self._pressed, self._at)
            words = display.words(self.height_of(self._pressed, self._at), Kind.DEPTH)
            tag(painter, self._at + QPointF(10, 0), words, theme.ink, theme.panel)
        if self._model.score is not None:
            self._truth(painter, box)

    def _paint_rows(self, painter: QPainter, rows: list[tuple[str, float, int]]) -> None:
        """A bar for everyone who answered a set."""
        theme, size = self._session.display.theme, self._session.display.text_size
        painter.setFont(font(size * 1.1, bold=True))
        left, wide = 0.3 * self.width(), 0.55 * self.width()
        for k, (who, score, answered) in enumerate(rows[:_MOST_ROWS]):
            y = 0.15 * self.height() + k * 3.0 * size
            box = QRectF(0, y, left - 14, 2 * size)
            painter.setPen(QColor(theme.ink))
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, who)
            painter.fillRect(QRectF(left, y, wide, 2 * size), QColor(theme.rule))
            painter.fillRect(QRectF(left, y, wide * score, 2 * size), QColor(theme.brass))
            row = QRectF(left + wide + 10, y, self.width() - left - wide - 10, 2 * size)
            painter.drawText(row, Qt.AlignmentFlag.AlignVCenter, f"{score:.0%} of {answered}")

    @property
    def _drawn_box(self) -> QRectF:
        """Where the chart or card is."""
        assert self.drawn is not None
        room = QRectF(self.rect()).adjusted(10, 10, -10, -10)
        share = min(room.width() / self.drawn.width(), room.height() / self.drawn.height(), 1.0)
        box = QRectF(0, 0, share * self.drawn.width(), share * self.drawn.height())
        box.moveCenter(room.center())
        return box

    @property
    def _explained(self) -> Drawing | None:
        item = self._model.item
        return item.lesson.drawing if item is not None and self._model.score is not None else None

    def letter_place(self, letter: tuple[str, float, float]) -> QPointF:
        """Where a letter of a chart is."""
        box = self._drawn_box
        assert self.drawn is not None
        share = box.width() / self.drawn.width()
        return QPointF(box.left() + share * letter[1], box.top() + share * letter[2])

    def _paint_drawn(self, painter: QPainter) -> None:
        """A chart or a card; once it is answered a ring about the truth, or a drawing of it in its place."""
        assert self.drawn is not None
        item, theme = self._model.item, self._session.display.theme
        assert item is not None
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        drawing = self._explained
        if drawing is not None:
            ratio, room = self.devicePixelRatioF(), self.rect().adjusted(10, 10, -10, -10)
            size = room.size() * ratio
            of = (id(drawing), size.width(), size.height(), id(theme), self._session.display.text_size)
            if self._small_of != of:  # a mouse that moves over it paints it again and again
                self._small_of = of
                self._small = image_of_drawing(drawing, self._session.display, size.width(), size.height())
            painter.drawImage(QRectF(room), self._small)
            return
        painter.drawImage(self._drawn_box, self.drawn)
        if self._model.score is None:
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for letter in self.letters:
            for told, colour, radius in (
                (self._model.answer, theme.brass, 22.0),
                (item.lesson.truth, theme.lichen, 17.0),
            ):
                if letter[0] == told:
                    for edge, wide in ((theme.ground, 7.0), (colour, 3.5)):
                        painter.setPen(pen(edge, wide))
                        painter.drawEllipse(self.letter_place(letter), radius, radius)

    def _scale(self, painter: QPainter, box: QRectF) -> None:
        display, theme = self._session.display, self._session.display.theme
        painter.setPen(QColor(theme.ink))
        system = display.system_of(Kind.DEPTH)
        if self._view == "down":
            for depth, words in depth_ticks(0.0, self._deep_m, system, 8):
                y = self.place_of(0.0, depth).y()
                row = QRectF(0, y - 9, _LEFT - 8, 18)
                painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
                painter.drawLine(QPointF(box.left() - 5, y), QPointF(box.left(), y))
            for k in range(0, int(self._span_s) + 1, 5):
                x = self.place_of(float(k), 0.0).x()
                painter.drawText(QPointF(x - 8, box.bottom() + 18), f"{k} s")
            return
        wide = self._wide_m
        if self._view == "forward":
            for depth, words in depth_ticks(0.0, _FAN_DEEP * wide, system, 6):
                row = QRectF(0, self.place_of(0.0, depth).y() - 9, _LEFT - 8, 18)
                painter.drawText(row, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        for value, words in depth_ticks(0.0, wide, system, 5):
            share = value / wide
            if self._view == "side":
                for sign in (-1.0, 1.0) if value else (1.0,):
                    x = box.left() + (1 + sign * share) / 2 * box.width()
                    painter.drawText(QPointF(x - 6, box.bottom() + 18), words)
            else:
                painter.drawText(QPointF(box.left() + share * box.width() - 6, box.bottom() + 18), words)

    def _truth(self, painter: QPainter, box: QRectF) -> None:
        """The true depth or place, and how far the answer lay from it."""
        item, theme = self._model.item, self._session.display.theme
        assert item is not None
        one, answer = item.lesson, self._model.answer
        for spot in one.shows if one.answer_is != "time_depth" else ():  # the very echoes
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for colour, wide in ((theme.ground, 6.0), (theme.lichen, 2.5)):
                painter.setPen(pen(colour, wide))
                painter.drawEllipse(self.place_of(*spot), 14, 14)
        painter.setFont(font(self._session.display.text_size, bold=True))
        if one.answer_is == "depth" and self._view == "down":
            for value, colour, word in ((answer, theme.brass, "you"), (one.truth, theme.lichen, "true")):
                y = self.place_of(0.0, float(value)).y()
                painter.setPen(pen(colour, 2.0))
                painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
                tag(painter, QPointF(box.left() + 8, y - 4), word, theme.ink, theme.panel)
        elif one.answer_is == "time_depth":
            for value, colour in ((answer, theme.brass), (one.truth, theme.lichen)):
                painter.setPen(pen(colour, 2.5))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawEllipse(self.place_of(*value), 12, 12)
        elif one.at_s is not None and self._view == "down":
            painter.fillRect(
                QRectF(self.place_of(one.at_s, 0).x() - 26, box.top(), 52, box.height()), shade(theme.lichen, 45)
            )
