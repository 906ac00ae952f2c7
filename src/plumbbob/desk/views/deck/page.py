"""The deck: the live column, a strip of echo, one banner, large targets, large figures."""

from __future__ import annotations

import math
import time
from dataclasses import replace

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from plumbbob.core.live.drop import Entering
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.casting import cast_words, reach_now
from plumbbob.desk.kit.layouts import PLUMB_WIDTH, as_column
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import Elided, elided, set_role
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.sounds import Sounds
from plumbbob.desk.views.deck import landing, words
from plumbbob.desk.views.deck.commands import FOOT, MAIN, Target, row_of
from plumbbob.desk.views.deck.strip import LiveStrip
from plumbbob.desk.views.deck.target import LEAST_PX, MAIN_PX, TargetButton
from plumbbob.desk.views.deck.view import DeckView
from plumbbob.desk.views.deck.words import Banner, Figure
from plumbbob.desk.views.plumbline import PlumbLine

_TICK_MS = 200
_SAID_S = 7.0
_ANEW_S = 3.0  # what comes so much later is another fish or school
_ACROSS = 5  # main targets to a row
_SLOW_TICKS = 5  # figures change by the second


def _wide_of(text: str, size: float) -> float:
    return QFontMetricsF(font(size, bold=True)).horizontalAdvance(text)


class BannerBar(Painted):
    """One thing at a time, large."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.banner = Banner("", "")
        self.setObjectName("deck_banner")
        self.setMinimumHeight(64)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        session.display.changed.connect(self.update)

    def show_banner(self, banner: Banner) -> None:
        """Another one; painted only if it is."""
        if banner != self.banner:
            self.banner = banner
            self.setAccessibleName(f"{banner.head}. {banner.words}")
            self.update()

    def paint(self, painter: QPainter) -> None:
        """Head and sentence, seconds in a ring."""
        display, banner = self._session.display, self.banner
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        ink = theme.on_fill if banner.is_loud else theme.ink
        painter.setPen(pen(theme.rule))
        painter.setBrush(QColor(theme.fill if banner.is_loud else theme.panel))
        painter.drawRoundedRect(box, 6, 6)
        text = box.adjusted(16, 4, -16, -4)
        if math.isfinite(banner.seconds):
            ring = min(box.height() - 16, 72.0)
            at = QRectF(box.right() - ring - 12, box.center().y() - ring / 2, ring, ring)
            painter.setPen(pen(ink, 5.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawArc(at.adjusted(3, 3, -3, -3), 90 * 16, -int(360 * 16 * min(max(banner.seconds / 20, 0), 1)))
            painter.setFont(font(display.text_size * 1.7, bold=True))
            painter.drawText(at, Qt.AlignmentFlag.AlignCenter, f"{max(banner.seconds, 0):.0f}")
            text.setRight(at.left() - 8)
        painter.setPen(QColor(ink))
        if banner.head:
            size = display.text_size * 1.8
            while _wide_of(banner.head, size) > text.width() and size > 9:
                size -= 1
            painter.setFont(font(size, bold=True))
            head = QRectF(text.left(), text.top(), text.width(), text.height() * 0.5)
            painter.drawText(head, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, banner.head)
            text.setTop(head.bottom())
        painter.setFont(font(display.text_size * (1.1 if banner.head else 1.35)))
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWordWrap
        painter.drawText(text, flags, banner.words)


class FigureRow(Painted):
    """Large figures beside each other; one that does something answers to a press."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session, self._actions = session, actions
        self.figures: tuple[Figure, ...] = ()
        self.setObjectName("deck_figures")
        self.setMinimumHeight(62)
        self.setMaximumHeight(78)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.display.changed.connect(self.update)

    def show_figures(self, figures: tuple[Figure, ...]) -> None:
        """Others; painted only if they are."""
        if figures != self.figures:
            self.figures = figures
            self.setAccessibleName(", ".join(f"{f.title} {f.value} {f.unit}".strip() for f in figures))
            self.update()

    def _wide(self) -> float:
        return self.width() / max(len(self.figures), 1)

    def paint(self, painter: QPainter) -> None:
        """Title above, figure below, unit beside it."""
        display = self._session.display
        theme, wide = display.theme, self._wide()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, figure in enumerate(self.figures):
            box = QRectF(k * wide, 0, wide - 6, self.height())
            if figure.command:
                painter.setPen(pen(theme.rule))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(box.adjusted(0.5, 1, -0.5, -1), 5, 5)
            inner = box.adjusted(6, 4, -4, -2)
            painter.setFont(font(display.text_size * 0.8))
            painter.setPen(QColor(theme.muted_text))
            title = painter.fontMetrics().elidedText(figure.title, Qt.TextElideMode.ElideRight, int(inner.width()))
            painter.drawText(inner, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft, title)
            size, small = display.text_size * 2.1, font(display.text_size * 0.9)
            unit = QFontMetricsF(small).horizontalAdvance(" " + figure.unit)
            while _wide_of(figure.value, size) + unit > inner.width() and size > 9:
                size -= 1
            painter.setFont(font(size, bold=True))
            painter.setPen(QColor(theme.vermilion_text if figure.is_late else theme.ink))
            base = min(inner.bottom() - 6, inner.top() + display.text_size * 4.6)
            painter.drawText(int(inner.left()), int(base), figure.value)
            across = painter.fontMetrics().horizontalAdvance(figure.value)
            painter.setFont(small)
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(int(inner.left() + across + 5), int(base), figure.unit)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """What a figure does."""
        k = int(event.position().x() // self._wide()) if self.figures else -1
        if 0 <= k < len(self.figures) and self.figures[k].command:
            self._actions[self.figures[k].command].trigger()


class Caution(Elided):
    """What to mind; a press puts it away."""

    def __init__(self, action: QAction) -> None:
        super().__init__()
        self._action = action
        self.setObjectName("deck_care")
        self.setProperty("role", "warn")
        self.setTextFormat(Qt.TextFormat.PlainText)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """It has been read."""
        self._action.trigger()


class DeckPage(QWidget):
    """Needs the session, the actions of the targets, and what makes sounds."""

    def __init__(self, session: Session, actions: Actions, sounds: Sounds) -> None:
        super().__init__()
        self.setObjectName("deck")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._session, self._actions, self._sounds = session, actions, sounds
        self._said: tuple[float, str, bool] = (-math.inf, "", False)
        self._entered: tuple[float, Entering] | None = None
        self._signalled: dict[str, float] = {}  # when what was signalled last had come, by kind
        self._shallow_told = False
        self._beat = ""
        self._ticked = -1
        self._ticks = 0
        self.banner, self.figures = BannerBar(session), FigureRow(session, actions)
        self.strip = LiveStrip(session)
        self._line, self._care, self._source = (
            elided("value", name="deck_line"),
            Caution(actions["deck.care"]),
            elided("small", name="deck_source"),
        )
        self._signs = QHBoxLayout()
        self._signs.setSpacing(6)
        self._row: tuple[Target, ...] = ()
        self._assemble()
        self._timer = QTimer(self)
        self._timer.setInterval(_TICK_MS)
        self._timer.timeout.connect(self._tick)
        session.said.connect(self._take_said)
        session.deck.changed.connect(self._show_row)
        session.logbook.changed.connect(self._show_row)
        for signal in (session.scan.read, session.scan.read_on):
            signal.connect(self._look_below)
        session.scan.opened.connect(self._forget)
        for signal in (session.deck.changed, session.run.moved, session.display.changed):
            signal.connect(self._soon)

    def _assemble(self) -> None:
        session = self._session
        whole = QVBoxLayout(self)
        whole.setContentsMargins(10, 8, 10, 8)
        whole.setSpacing(6)
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(as_column(PlumbLine(session), PLUMB_WIDTH))
        top.addWidget(self.strip, 4)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self.banner, 4)
        grid = QGridLayout()
        grid.setSpacing(6)
        for k, target in enumerate(MAIN):
            grid.addWidget(self._button(target, main=True), k // _ACROSS, k % _ACROSS)
        for column in range(_ACROSS):
            grid.setColumnStretch(column, 1)
        right.addLayout(grid, 8)
        signs = QWidget()
        signs.setLayout(self._signs)
        self._signs.setContentsMargins(0, 0, 0, 0)
        signs.setMinimumHeight(LEAST_PX)
        signs.setMaximumHeight(60)
        right.addWidget(signs, 2)
        right.addWidget(self.figures, 3)
        for line in (self._line, self._care, self._source):
            right.addWidget(line)
        top.addLayout(right, 9)
        whole.addLayout(top, 1)
        foot = QHBoxLayout()
        foot.setSpacing(6)
        for target in FOOT:
            button = self._button(target)
            button.setMinimumHeight(MAIN_PX - 8)
            button.setMaximumHeight(MAIN_PX)
            foot.addWidget(button, 1)
        whole.addLayout(foot)
        self._show_row()

    def _button(self, target: Target, *, main: bool = False) -> TargetButton:
        button = TargetButton(self._session.display, target, self._actions[target.command], main=main)
        button.pressed.connect(self._pressed)
        return button

    def _pressed(self, command: str) -> None:
        deck = self._session.deck
        if deck.learning and deck.learned is not None:
            deck.learn(deck.learned, command)
            deck.learning, deck.learned = False, None
            self._session.say(f"Learned: {self._actions[command].text().lower()}.")
            return
        self._actions[command].trigger()

    def _show_row(self) -> None:
        row = row_of(self._session)
        if row == self._row:
            return
        self._row = row
        while (item := self._signs.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for target in row:
            self._signs.addWidget(self._button(target), 1)

    # -- what is heard and seen -----------------------------------------------------------------------------------

    def _take_said(self, line: str, wrong: bool) -> None:
        self._said = (time.monotonic(), line, wrong)
        if self.isVisible():
            self._show_banner()

    def _forget(self) -> None:
        """Another pass: what had come under the boat was in the last one."""
        self._entered = None
        self._signalled.clear()

    def _look_below(self) -> None:
        """A fish or a school that enters is signalled once."""
        if not self.isVisible():
            return
        found = words.newly_entered(self._session)
        if found is None:
            return
        now = time.monotonic()
        late = not (found.in_time or math.isnan(found.stays_s) or math.isnan(found.lure_s))
        if found.kind == "fish" and (late or self.strip.is_still):
            return  # one that is gone too soon, or that the column below a still boat tells of
        if found.time > self._signalled.get(found.kind, -math.inf) + _ANEW_S:
            self._signalled[found.kind] = found.time
            self._entered = (now, found)
            self._sounds.play("drop" if found.in_time or math.isnan(found.stays_s) else "time")
            self._show_banner()

    def _soon(self) -> None:
        """Figures are others: with the next tick, so that a press never waits for them."""
        self._ticks = -1

    def _tick(self) -> None:
        now = time.monotonic()
        deck = self._session.deck
        deck.tick(now)
        if self._ticks % 2 == 0:
            self.strip.look()
        self._count(now)
        self._show_banner()
        self._ticks += 1
        if self._ticks % _SLOW_TICKS == 0:
            self._show_figures()

    def _count(self, now: float) -> None:
        """A tick a second while the lure falls, a clear tone when it is there; the beat of lift, fall and rest."""
        deck = self._session.deck
        if deck.fall is not None:
            left = math.ceil(deck.fall.left_s(now))
            if left != self._ticked:
                self._ticked = left
                self._sounds.play("tick" if left > 0 else "there")
            if left <= 0:
                depth = self._session.display.words(deck.fall.depth_m, Kind.DEPTH)
                deck.fall = None
                deck.changed.emit()
                self._session.say(f"Lure at {depth}: close the reel.")
        if deck.pump is not None:
            began, beat = deck.pump
            part, _ = beat.at(now - began)
            if part != self._beat:
                self._beat = part
                if part != "fall":
                    self._sounds.play("lift" if part == "lift" else "tick")

    def _now_banner(self) -> Banner:
        now, session = time.monotonic(), self._session
        deck = session.deck
        if deck.learning:
            step = "now press its target" if deck.learned is not None else "press the remote's key"
            return Banner("TEACH A KEY", step + "; K ends it")
        if deck.fall is not None:
            depth = session.display.words(deck.fall.depth_m, Kind.DEPTH)
            return Banner("FALLING", f"to {depth}; V stops the count", math.ceil(deck.fall.left_s(now)), True)
        if self._entered is not None:
            since, found = self._entered
            shown = words.drop_banner(session, found, found.time + now - since)
            lasts = shown.seconds if math.isfinite(shown.seconds) else 6.0
            if now - since <= max(lasts, 4.0):
                left = max(shown.seconds - (now - since), 0.0)
                return replace(shown, seconds=round(left) if math.isfinite(left) else math.nan)
            self._entered = None
        aimed = reach_now(session) if deck.aiming else None
        if aimed is not None:
            head, line = cast_words(session, *aimed)
            return Banner(head, line, is_loud=aimed[1].plan is not None)
        closing = self.strip.closing
        if closing is not None:
            return words.closing_banner(session, closing)
        at, line, wrong = self._said
        if line and now - at < _SAID_S:
            # what forbids keeping a fish stands large, before what it is about
            head, _, rest = line.partition(". ") if line.startswith(landing.GOES_BACK) else ("", "", line)
            return Banner(head, rest, is_loud=wrong)
        if deck.pump is not None:
            began, beat = deck.pump
            part, left = beat.at(now - began)
            return Banner(
                part.upper(),
                f"lift {beat.lift_s:.1f} s, fall {beat.fall_s:.1f} s, rest {beat.rest_s:.0f} s",
                math.ceil(left),
            )
        return Banner("", words.idle_words(session))

    def _show_banner(self) -> None:
        self.banner.show_banner(self._now_banner())

    def _show_figures(self) -> None:
        if not self.isVisible() or not isinstance(self._session.view, DeckView):
            return
        session = self._session
        self.figures.show_figures(words.figures(session))
        ahead = words.rises_ahead(session)
        self._line.setText(words.lure_line(session, ahead))
        shallow = words.is_shallow(ahead)
        set_role(self._line, "warn" if shallow else "value")
        if shallow and not self._shallow_told:
            self._sounds.play("shallow")
        self._shallow_told = shallow
        care = words.care_words(session)
        self._care.setText(f"{care}  ×" if care else "")
        self._source.setText(words.source_line(session))

    # -- the widget's own events ----------------------------------------------------------------------------------

    def minimumSizeHint(self) -> QSize:
        """None while another page is shown: the window may then be smaller than the deck needs."""
        deck = isinstance(self._session.view, DeckView)
        return super().minimumSizeHint() if deck else QSize(0, 0)

    def showEvent(self, event: object) -> None:
        """On deck: the clocks are shown from now on; a count that ran out meanwhile is over."""
        fall = self._session.deck.fall
        if fall is not None and fall.left_s(time.monotonic()) <= 0.0:
            self._session.deck.fall = None
        self.updateGeometry()
        self._timer.start()
        self._show_figures()
        self._show_banner()

    def hideEvent(self, event: object) -> None:
        """Off deck nothing is painted; a count goes on by its own clock."""
        self.updateGeometry()
        self._timer.stop()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A remote's key."""
        deck = self._session.deck
        if deck.learning:
            deck.learned = event.key()
            deck.changed.emit()
            self._show_banner()
            return
        command = deck.remote.get(event.key(), "")
        if command:
            self._actions[command].trigger()
            return
        super().keyPressEvent(event)
