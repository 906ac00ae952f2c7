"""Under the day: stay or go, why this place, and what was tried down its column."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QFrame, QGridLayout, QSizePolicy, QToolButton, QWidget

from plumbbob.core.plan.veil import BandLook, ColumnLook
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.layouts import PANEL_WIDTH, PLUMB_WIDTH, as_column, row_of, scrolling
from plumbbob.desk.kit.paint import font, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import elided, label, panel_column
from plumbbob.desk.models.search_model import LOOK_MIN
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.run.words import (
    WHY_NOT,
    advice_words,
    depth_words,
    lying_words,
    next_words,
    stay_words,
    times,
)

FOOT_HEIGHT = 140
_LARGE_PT = 12.5
_BUTTONS = ("run.bite", "run.follower", "run.nothing", "run.lever", "run.hold", "run.ban")


def run_foot(session: Session, actions: Actions) -> QWidget:
    """All three beside each other."""
    return row_of(
        (as_column(scrolling(StayOrGo(session)), PANEL_WIDTH), 0),
        (scrolling(PlaceWords(session, actions)), 1),
        (as_column(TriedHere(session), PLUMB_WIDTH), 0),
    )


class StayOrGo(QFrame):
    """Minutes that are worth it, the two chances, and what to change first."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 8, 10, 4), 2)
        column.addWidget(label("STAY OR GO", "head"))
        self._head = label("", "title", name="advice")
        self._odds, self._why = label("", "why", name="advice_odds"), label("", "small", name="advice_why")
        for widget in (self._head, self._odds, self._why):
            widget.setWordWrap(True)
            column.addWidget(widget)
        column.addStretch(1)
        run = session.run
        for signal in (run.planned, run.moved, run.state_changed, run.shown_changed, session.display.changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        head, odds, why = advice_words(self._session)
        run = self._session.run
        if not head:
            going = run.plan is not None and run.now is not None
            idle = "Put the clock on a stay: click the picture of the day, or use ← and →."
            why = next_words(self._session) if going else idle
        why = why if run.plan is not None else ""
        for widget, words in ((self._head, head), (self._odds, odds), (self._why, why)):
            widget.setText(words)
            widget.setVisible(bool(words))


class PlaceWords(QFrame):
    """The chosen place: when, how deep, why; and what can be done with it."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (12, 8, 10, 4), 4)
        self._title, self._why = elided("value", name="run_place"), label("", "why", name="run_why")
        self._why.setWordWrap(True)
        column.addWidget(self._title)
        column.addWidget(self._why)
        self._buttons = []
        for command_id in _BUTTONS:
            button = QToolButton()
            button.setDefaultAction(actions[command_id])
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setMinimumHeight(30)
            self._buttons.append(button)
        self._grid = QGridLayout()
        self._grid.setSpacing(6)
        column.addLayout(self._grid)
        session.display.changed.connect(self._lay_buttons)
        self._lay_buttons()
        self._left_out = label("", "small", name="run_left_out")
        self._left_out.setWordWrap(True)
        column.addWidget(self._left_out)
        column.addStretch(1)
        run = session.run
        for signal in (run.planned, run.chosen_changed, run.state_changed, run.moved, session.display.changed):
            signal.connect(self._show)
        self._show()

    def _lay_buttons(self) -> None:
        """In one row, with large text in two."""
        row = len(self._buttons) if self._session.display.text_size <= _LARGE_PT else len(self._buttons) // 2
        for k, button in enumerate(self._buttons):
            self._grid.addWidget(button, k // row, k % row)
        for k in range(len(self._buttons) + 1):
            self._grid.setColumnStretch(k, int(k == row))

    def _show(self) -> None:
        session, run = self._session, self._session.run
        stay, place = run.chosen_stay, run.chosen
        if stay is not None:
            self._title.setText(
                f"{stay.candidate.name}   {times(session, stay)}   {depth_words(session.display, stay)}   "
                f"{stay.fish:.1f} fish expected"
            )
            self._why.setText(f"{stay_words(session, stay)} {lying_words(session, stay)}".strip())
        elif place is not None:
            out = {c.name: why for c, why in run.plan.left_out} if run.plan is not None else {}
            self._title.setText(f"{place.name}, not in the plan")
            self._why.setText(f"{WHY_NOT[out[place.name]]}." if place.name in out else "")
        else:
            self._title.setText("")
            self._why.setText("")
        left = run.plan.left_out if run.plan is not None else ()
        words = "; ".join(f"{c.name}: {WHY_NOT[why]}" for c, why in left[:6])
        more = f"; {len(left) - 6} more" if len(left) > 6 else ""
        self._left_out.setText(f"Not in the plan: {words}{more}." if left else "")


class TriedHere(Painted):
    """Down the column at the chosen place: how sure each band is empty, and the next look that tells most."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("tried")
        self._session = session
        self.rows: list[tuple[QRectF, BandLook]] = []
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        for signal in (
            session.search.changed,
            session.run.chosen_changed,
            session.run.planned,
            session.run.shown_changed,
            session.display.changed,
        ):
            signal.connect(self.update)

    def look(self) -> ColumnLook | None:
        """What is known of the chosen place."""
        chosen = self._session.run.chosen
        return self._session.search.column_at(chosen) if chosen is not None else None

    def paint(self, painter: QPainter) -> None:
        """A bar for each band; the next look in words."""
        display = self._session.display
        theme, size = display.theme, display.text_size
        painter.fillRect(self.rect(), QColor(theme.panel))
        painter.setFont(font(size * 0.82, bold=True))
        painter.setPen(QColor(theme.muted_text))
        base = 1.7 * size
        painter.drawText(QPointF(14, base), "TRIED HERE")
        head = QFontMetricsF(painter.font()).horizontalAdvance("TRIED HERE")
        painter.setFont(font(size * 0.78))
        painter.drawText(
            QPointF(14 + head + 10, base), "deep first" if self._session.run.deep_first else "shallow first"
        )
        self.rows = []
        look = self.look()
        if look is None or not look.bands:
            return
        bands = list(reversed(look.bands)) if self._session.run.deep_first else list(look.bands)
        foot = 3.0 * size
        high = min((self.height() - base - 8 - foot) / len(bands), 1.9 * size)
        plain = font(min(size * 0.82, max(high * 0.62, 6.0)))
        painter.setFont(plain)
        metrics = QFontMetricsF(plain)
        names = [f"{display.figure(b.top_m, Kind.DEPTH, 0)}–{display.words(b.base_m, Kind.DEPTH, 0)}" for b in bands]
        wide = max(metrics.horizontalAdvance(n) for n in names)
        room = self.width() - 14 - wide - 10 - metrics.horizontalAdvance("100 %") - 18
        y = base + 8
        best = look.next
        for name, band in zip(names, bands, strict=True):
            text_y = y + high / 2 + metrics.ascent() / 2 - 1
            if band is best:
                painter.fillRect(QRectF(8, y, self.width() - 14, high), shade(theme.brass, 46))
            painter.setPen(QColor(theme.ink))
            painter.drawText(QPointF(14, text_y), name)
            bar = QRectF(14 + wide + 10, y + high * 0.25, room, high * 0.5)
            painter.fillRect(bar, QColor(theme.ground))
            bar.setWidth(room * band.empty)
            painter.fillRect(bar, QColor(theme.muted))
            text = f"{band.empty:.0%}".replace("%", " %") if band.empty >= 0.005 else "–"
            at = self.width() - 10 - metrics.horizontalAdvance(text)
            painter.setPen(QColor(theme.ink if band.empty >= 0.005 else theme.muted_text))
            painter.drawText(QPointF(at, text_y), text)
            self.rows.append((QRectF(0, y, self.width(), high), band))
            y += high
        painter.setFont(font(size * 0.8))
        painter.setPen(QColor(theme.muted_text))
        y += 1.25 * size
        if best is not None:
            name = f"{display.figure(best.top_m, Kind.DEPTH, 0)}–{display.words(best.base_m, Kind.DEPTH, 0)}"
            words = f"Next {name}: {best.finds:.0%} in {LOOK_MIN:.0f} min"
            painter.drawText(QPointF(14, y), words)
            painter.drawText(QPointF(14, y + 1.3 * size), f"None here at all: {look.none:.0%}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A band hangs the bob there; the head turns the order round."""
        for box, band in self.rows:
            if box.contains(event.position()):
                self._session.rig.drag_to((band.top_m + band.base_m) / 2)
                return
        self._session.run.turn_column()
