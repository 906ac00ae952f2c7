"""Left of the day: when and how much, and the stays in their order."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QFrame, QGridLayout, QSizePolicy

from plumbbob.core.plan.outing import Stay
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.paint import font, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import headed, label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.run.words import beside_words, caution_words, figure, home_words, times

_ROW_PX, _ROW_LINES = 40, 3.7
_MOST_PAST = 3  # rows of stays that are over


class RunPanel(QFrame):
    """Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 14, 14, 6), 4)
        column.addLayout(headed("THE DAY", actions["run.day"], "change  T"))
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self._values = {}
        for row, (key, title) in enumerate(
            (("from", "From"), ("back", "Back"), ("fish", "Expected"), ("range", "Eight days in ten"))
        ):
            grid.addWidget(label(title, "muted"), row, 0)
            self._values[key] = label("–", "value", name=f"run_{key}")
            grid.addWidget(self._values[key], row, 1, Qt.AlignmentFlag.AlignRight)
        column.addLayout(grid)
        self._caution, self._home = label("", "warn_small", name="run_caution"), label("", "small", name="run_home")
        self._beside = label("", "why", name="run_beside")
        for words in (self._caution, self._home, self._beside):
            words.setWordWrap(True)
            column.addWidget(words)
        column.addSpacing(4)
        column.addLayout(headed("STAYS", actions["run.now"], "from now  E"))
        column.addWidget(StayList(session))
        column.addStretch(1)
        column.addWidget(label("Not for navigation.", "small"))
        for signal in (session.run.planned, session.run.moved, session.display.changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        session, plan = self._session, self._session.run.plan
        fish = sum(s.fish for s in session.run.stays)
        told = {"from": "–", "back": "–", "fish": "–", "range": "–"}
        if plan is not None:
            caught = sum(e.kind == "bite" for e in session.run.state.events)
            told = {
                "from": session.clock(plan.start, "%H:%M"),
                "back": session.clock(plan.back, "%H:%M"),
                "fish": f"{caught + plan.fish:.1f} fish" if session.run.past else f"{fish:.1f} fish",
                "range": f"{caught + plan.low} to {caught + plan.high}",
            }
        for key, text in told.items():
            self._values[key].setText(text)
        for widget, text in (
            (self._caution, caution_words(session)),
            (self._home, home_words(session, plan) if plan is not None else ""),
            (self._beside, beside_words(session)),
        ):
            widget.setText(text)
            widget.setVisible(bool(text))


class StayList(Painted):
    """The stays, past and to come; a click chooses one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("staylist")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        for signal in (
            session.run.planned,
            session.run.chosen_changed,
            session.run.moved,
            session.run.state_changed,
            session.display.changed,
        ):
            signal.connect(self._stale)
        self._stale()

    def _stale(self) -> None:
        self._row = max(_ROW_PX, round(_ROW_LINES * self._session.display.text_size))
        self.setFixedHeight(max(self._row * len(self.rows), 20))
        self.update()

    @property
    def rows(self) -> tuple[Stay, ...]:
        """The last stays that are over, and all to come."""
        run = self._session.run
        return run.stays[max(len(run.past) - _MOST_PAST, 0) :]

    def sizeHint(self) -> QSize:
        """Room for the rows."""
        return QSize(190, self._row * 6)

    def paint(self, painter: QPainter) -> None:
        """Number, name, fish; when."""
        session, run = self._session, self._session.run
        display, theme = session.display, session.display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        size = display.text_size
        if not run.stays:
            painter.setFont(font(size * 0.9))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(
                QPointF(0, 14), "No plan yet. F5 makes one." if run.plan is None else "No place fits in."
            )
            return
        strong, plain = font(size * 0.95, bold=True), font(size * 0.82)
        here = run.here
        for i, stay in enumerate(self.rows):
            top = i * self._row
            over = stay in run.past
            if run.chosen is not None and stay.candidate.name == run.chosen.name:
                painter.fillRect(QRectF(-6, top, self.width() + 6, self._row - 4), shade(theme.brass, 40))
            painter.setPen(QColor(theme.muted_text if over else theme.ink))
            painter.setFont(strong)
            text = figure(run, stay.candidate.name)
            dot = QRectF(0, top + 0.35 * size, 1.9 * size, 1.6 * size)
            if here is stay:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(theme.fill))
                painter.drawRoundedRect(dot, 8, 8)
                painter.setPen(QColor(theme.on_fill))
            painter.drawText(dot, Qt.AlignmentFlag.AlignCenter, text)
            painter.setPen(QColor(theme.muted_text if over else theme.ink))
            fish = f"{stay.fish:.1f}"
            if over:
                caught = sum(
                    e.kind == "bite" and e.name == stay.candidate.name and stay.arrive <= e.time <= stay.leave
                    for e in run.state.events
                )
                fish = f"{caught} caught"
            wide = QFontMetricsF(strong).horizontalAdvance(fish)
            painter.drawText(QPointF(self.width() - wide - 2, top + 1.5 * size), fish)
            name = QFontMetricsF(strong).elidedText(
                stay.candidate.name, Qt.TextElideMode.ElideRight, round(self.width() - wide - 3.2 * size)
            )
            painter.drawText(QPointF(2.6 * size, top + 1.5 * size), name)
            painter.setFont(plain)
            painter.setPen(QColor(theme.muted_text))
            tail = "  again" if stay.again else ""
            tail += "  held" if stay.candidate.name in run.state.holds and not over else ""
            painter.drawText(QPointF(2.6 * size, top + 2.9 * size), f"{times(session, stay)}{tail}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the stay under the mouse, and bring it to the middle of the chart."""
        run = self._session.run
        i = math.floor(event.position().y() / self._row)
        if 0 <= i < len(self.rows):
            run.choose(self.rows[i].candidate.name)
            chart, place = self._session.chart.chart, self.rows[i].candidate.place
            if chart is not None:
                x, y = chart.plane.to_xy(place.latitude, place.longitude)
                self._session.chart.centre_on(float(x), float(y))
