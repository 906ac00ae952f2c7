"""Top of the window: the water, the line of stages, what is going on."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.table import STAGES
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.share_bar import ShareBar
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.session import Session

HEIGHT = 54
_GAP = 96


class StageLine(Painted):
    """The stages as knots on a line; a click or the number keys go there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("stageline")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        session.stage_changed.connect(self.update)
        session.look.changed.connect(self.update)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        """Room for the knots."""
        return QSize(_GAP * len(STAGES), HEIGHT - 6)

    def x_of(self, i: int) -> float:
        """Where a knot sits."""
        return _GAP * (i + 0.5)

    def paint(self, painter: QPainter) -> None:
        """Line, knots, names."""
        look = self._session.look
        theme = look.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(pen(theme.rule, 2))
        painter.drawLine(QPointF(self.x_of(0), 15), QPointF(self.x_of(len(STAGES) - 1), 15))
        for i, (key, name) in enumerate(STAGES):
            here = key == self._session.stage
            painter.setPen(pen(theme.brass if here else theme.muted, 2))
            painter.setBrush(QColor(theme.brass if here else theme.panel))
            painter.drawEllipse(QPointF(self.x_of(i), 15), 6, 6)
            painter.setFont(font(look.text_size * 0.92, bold=here))
            painter.setPen(QColor(theme.ink if here else theme.muted_text))
            wide = QFontMetricsF(painter.font()).horizontalAdvance(name)
            painter.drawText(QPointF(self.x_of(i) - wide / 2, 41), name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the knot under the mouse."""
        i = int(event.position().x() // _GAP)
        if 0 <= i < len(STAGES):
            self._session.set_stage(STAGES[i][0])


class Header(QFrame):
    """Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self.setFixedHeight(HEIGHT)
        self._session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 16, 0)
        self._water, self._when = label("", "title", name="water"), label("", "muted", name="when")
        left = QHBoxLayout()
        left.setSpacing(10)
        left.addWidget(self._water)
        left.addWidget(self._when)
        left.addStretch(1)
        right = QHBoxLayout()
        right.setSpacing(10)
        right.addStretch(1)
        self._busy, self._bar, self._stop = label("", "muted"), ShareBar(session.look), QToolButton()
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
        row.addWidget(StageLine(session))
        row.addLayout(right, 1)
        for signal in (
            session.water_changed,
            session.scan.opened,
            session.scan.sight_changed,
            session.look.changed,
            session.stage_changed,
            session.chart.opened,
        ):
            signal.connect(self._show)
        session.scan.cursor_changed.connect(self._show_clock)
        session.scan.replay_changed.connect(self._show_clock)
        session.jobs.changed.connect(self._show_jobs)
        self._show()
        self._show_jobs()

    def _show(self) -> None:
        scan = self._session.scan
        self._water.setText(self._session.water.name)
        if self._session.stage == "water":
            self._when.setText(self._day_words())
        elif self._session.on_picture:
            self._when.setText("a picture off a screen")
        elif scan.lead is not None and scan.recording is not None:
            day = self._session.local(float(scan.lead.time[0]))
            words = scan.recording.title or scan.recording.name
            self._when.setText(f"{day:%a} {day.day} {day:%b %Y} · {words}")
        else:
            self._when.setText("")
        self._show_clock()

    def _day_words(self) -> str:
        session = self._session
        if session.scan.lead is None or session.chart.chart is None:
            return ""
        day = session.local(float(session.scan.lead.time[0]))
        lights = session.day.lights
        first = session.clock(lights.first_light, "%H:%M") if lights is not None and lights.first_light else "–"
        return f"{day:%a} {day.day} {day:%b %Y} · first light {first}"

    def _show_clock(self) -> None:
        scan = self._session.scan
        replay = f"▸ replay {scan.replay_speed}×" if scan.replaying else ""
        self._replay.setText(replay)
        known = scan.lead is not None and not self._session.on_picture
        self._clock.setText(self._session.clock(scan.time) if known else "")
        self._clock.setToolTip(f"Time at the lake, {self._session.zone}")

    def _show_jobs(self) -> None:
        live = self._session.jobs.live
        for widget in (self._busy, self._bar, self._stop):
            widget.setVisible(bool(live))
        if live:
            self._busy.setText(live[-1].title)
            self._bar.set_share(live[-1].fraction)
