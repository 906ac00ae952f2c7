"""Top of the window: the water, the line of stages, what is going on."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.share_bar import ShareBar
from plumbbob.desk.kit.widgets import elided, label
from plumbbob.desk.models.session import Session

HEIGHT = 54
_GAP = 96


class StageLine(Painted):
    """The stages as knots on a line; a click or the number keys go there."""

    def __init__(self, session: Session, stages: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self.setObjectName("stageline")
        self._session, self._stages = session, stages
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        session.stage_changed.connect(self.update)
        session.display.changed.connect(self.update)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        """Room for the knots."""
        return QSize(_GAP * len(self._stages), HEIGHT - 6)

    def x_of(self, i: int) -> float:
        """Where a knot sits."""
        return _GAP * (i + 0.5)

    def paint(self, painter: QPainter) -> None:
        """Line, knots, names."""
        display = self._session.display
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(theme.rule, 2))
        painter.drawLine(QPointF(self.x_of(0), 15), QPointF(self.x_of(len(self._stages) - 1), 15))
        for i, (key, name) in enumerate(self._stages):
            here = key == self._session.stage
            painter.setPen(pen(theme.brass if here else theme.muted, 2))
            painter.setBrush(QColor(theme.brass if here else theme.panel))
            painter.drawEllipse(QPointF(self.x_of(i), 15), 6, 6)
            painter.setFont(font(display.text_size * 0.92, bold=here))
            painter.setPen(QColor(theme.ink if here else theme.muted_text))
            wide = QFontMetricsF(painter.font()).horizontalAdvance(name)
            painter.drawText(QPointF(self.x_of(i) - wide / 2, 41), name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the knot under the mouse."""
        i = int(event.position().x() // _GAP)
        if 0 <= i < len(self._stages):
            self._session.set_stage(self._stages[i][0])


class Header(QFrame):
    """Needs the session, the actions, and the stages by name and title."""

    def __init__(self, session: Session, actions: Actions, stages: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self.setFixedHeight(HEIGHT)
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        self._water, self._when = label("", "title", name="water"), elided("muted", name="when")
        left = QHBoxLayout()
        left.setSpacing(10)
        left.addWidget(self._water)
        left.addWidget(self._when)
        left.addStretch(1)
        right = QHBoxLayout()
        right.setSpacing(10)
        right.addStretch(1)
        self._busy, self._bar, self._stop = elided("muted"), ShareBar(session.display), QToolButton()
        self._bar.setFixedWidth(90)
        self._stop.setDefaultAction(actions["file.stop"])
        self._stop.setText("Stop")
        self._replay = label("", "muted", name="replay")
        self._clock = label("", "value", name="clock")
        going = QVBoxLayout()
        going.setSpacing(2)
        going.addStretch(1)
        going.addWidget(self._busy)
        going.addWidget(self._bar)
        going.addStretch(1)
        right.addLayout(going)
        right.addWidget(self._stop)
        right.addWidget(self._replay)
        right.addWidget(self._clock)
        row.addLayout(left, 1)
        row.addWidget(StageLine(session, stages))
        row.addLayout(right, 1)
        for signal in (
            session.water_changed,
            session.scan.opened,
            session.view_changed,
            session.display.changed,
            session.stage_changed,
            session.run.planned,
            session.trips.chosen_changed,
            session.chart.opened,
        ):
            signal.connect(self._show)
        session.scan.cursor_changed.connect(self._show_clock)
        session.live.moved.connect(self._show_clock)
        session.scan.replay.changed.connect(self._show_clock)
        session.jobs.changed.connect(self._show_jobs)
        self._show()
        self._show_jobs()

    def _show(self) -> None:
        self._water.setText(self._session.water.name)
        self._when.setText(self._session.view.header)
        self._show_clock()

    def _show_clock(self) -> None:
        scan = self._session.scan
        replay = f"▸ replay {scan.replay.speed}×" if scan.replay.on else ""
        self._replay.setText(replay)
        view = self._session.view
        known = bool(view.mode) or (scan.lead is not None and not view.hides_pass)
        self._clock.setText(self._session.clock(view.moment if view.mode else scan.time) if known else "")
        self._clock.setToolTip(f"Time at the lake, {self._session.zone}")

    def _show_jobs(self) -> None:
        live = self._session.jobs.live
        for widget in (self._busy, self._bar, self._stop):
            widget.setVisible(bool(live))
        if live:
            self._busy.setText(live[-1].title)
            self._bar.set_share(live[-1].fraction)
