"""The tide table of a water: typed, pasted or read; a day of it as a curve with its strong runs."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPlainTextEdit, QSizePolicy, QVBoxLayout, QWidget

from plumbbob.core.units import Kind
from plumbbob.core.water.tide import Stream, TideNow, TideTable
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Button, Field, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.tasks import Tasks
from plumbbob.formats.tide_csv import parse_tide, tide_lines

_HOUR_S = 3600.0
_BEFORE_H, _AFTER_H = 6, 18
_STEP_S, _DAY_S = 600.0, 86400.0
_FOOT_LINES = 2.2
_SHOWN_TURNS = 60
_WIDE_LINES = 24.0  # a line of the table stays on one line


def tide_words(session: Session, table: TideTable, now: TideNow, time_s: float) -> str:
    """What the water does and when it turns, in a few words."""
    turn = next((t for t in table.turns if t.time > time_s), table.turns[-1])
    name = "high" if now.rises_mph > 0 else "low"
    does = {Stream.FLOOD: "floods", Stream.EBB: "ebbs", Stream.SLACK: "slack"}[now.stream]
    return f"{does}, {name} {session.clock(turn.time, '%H:%M')}"


class TidePicture(Painted):
    """The level from some hours ago to the end of the day; strong runs shaded, the moment marked."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setObjectName("tide_picture")

    def sizeHint(self) -> QSize:
        """High enough for its curve between two rows of words."""
        return QSize(300, round(6.2 * self._session.display.text_size))

    minimumSizeHint = sizeHint

    def paint(self, painter: QPainter) -> None:
        """Curve, strong runs, turns with their clock, now."""
        session = self._session
        display, theme, day = session.display, session.display.theme, session.conditions
        painter.fillRect(self.rect(), QColor(theme.ground))
        painter.setFont(font(display.text_size * 0.85))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        table, now = day.tide, day.moment_s
        if table is None or day.tide_now is None:
            painter.setPen(QColor(theme.muted_text))
            words = "No tide table yet." if table is None else "The table does not reach this moment."
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        line = _FOOT_LINES * display.text_size
        area = QRectF(8.0, line, self.width() - 16.0, self.height() - 2 * line)
        start = now - _BEFORE_H * _HOUR_S
        points: list[tuple[float, float]] = []
        for k in range(round((_BEFORE_H + _AFTER_H) * _HOUR_S / _STEP_S) + 1):
            at = start + k * _STEP_S
            if table.turns[0].time <= at <= table.turns[-1].time:
                points.append((at, table.at(at).level_m))
        low, high = min(level for _, level in points), max(level for _, level in points)
        span = max(high - low, 0.1)

        def to(at: float, level: float) -> QPointF:
            across = (at - start) / ((_BEFORE_H + _AFTER_H) * _HOUR_S)
            return QPointF(area.left() + across * area.width(), area.bottom() - (level - low) / span * area.height())

        # of this day: the strongest of a spring tide is no measure for a neap
        near = [t for t in table.turns if points[0][0] - _DAY_S / 2 <= t.time <= points[-1][0] + _DAY_S / 2]
        for begin, end in TideTable(near).runs(points[0][0], points[-1][0]):
            left, right = to(begin, low).x(), to(end, low).x()
            painter.fillRect(QRectF(left, area.top(), right - left, area.height()), shade(theme.teal, 50))
        painter.setPen(pen(theme.teal, 1.8))
        painter.drawPolyline(QPolygonF([to(*p) for p in points]))
        painter.setPen(QColor(theme.ink))
        for turn in table.turns:
            if points[0][0] <= turn.time <= points[-1][0]:
                here = to(turn.time, turn.level_m)
                is_high = turn.level_m > (low + high) / 2
                text = f"{session.clock(turn.time, '%H:%M')}  {display.figure(turn.level_m, Kind.DEPTH)}"
                wide = painter.fontMetrics().horizontalAdvance(text)
                x = min(max(here.x() - wide / 2, 2.0), self.width() - wide - 2.0)
                painter.drawText(QPointF(x, here.y() - 5 if is_high else here.y() + 1.3 * display.text_size), text)
        painter.setPen(pen(theme.brass, 1.6))
        x = to(now, low).x()
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
        painter.setBrush(QColor(theme.brass))
        painter.drawEllipse(to(now, day.tide_now.level_m), 4, 4)


class TideSheet(Sheet):
    """High and low waters typed, pasted or from a file; the level then follows them."""

    def __init__(self, session: Session, tasks: Tasks, parent: QWidget) -> None:
        super().__init__(session, "tide", "High and low water", parent)
        self._tasks = tasks
        self._given = ""
        row, left, right = QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        self._text = QPlainTextEdit()
        self._text.setObjectName("tide_text")
        self._text.setTabChangesFocus(True)
        self._text.setPlaceholderText("2026-08-14 05:12  4.6")
        self._text.setMinimumHeight(84)
        self._text.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
        how = label("A line for each: date, hour of this water, metres over the chart's datum.", "small")
        how.setWordWrap(True)
        left.addWidget(how)
        left.addWidget(self._text, 1)
        self._picture = TidePicture(session)
        self._words = label("", "small", name="tide_words")
        self._words.setWordWrap(True)
        self._strongest = Field(session.display, Kind.SPEED, "tide_strongest")
        self._strongest.fit("00.0 mph")
        strong = QHBoxLayout()
        strong.addWidget(label("strongest stream", "muted"))
        strong.addWidget(self._strongest)
        self._follow = QCheckBox("The level follows the table")
        self._follow.setObjectName("tide_follow")
        strong.addStretch(1)
        file, forget = Button("From a file …"), Button("Forget it")
        self._forgets = forget
        forget.setObjectName("tide_forget")
        file.clicked.connect(tasks.tide.ask_file)
        forget.clicked.connect(self._forget)
        right.addWidget(self._picture, 1)
        right.addWidget(self._words)
        right.addLayout(strong)
        right.addWidget(self._follow)
        row.addLayout(left, 2)
        row.addLayout(right, 3)
        self.body.addLayout(row)
        last = self.finish("Use this table", self._use)
        last.insertWidget(0, file)
        last.insertWidget(1, forget)
        self._strongest.entered.connect(session.conditions.set_strongest_stream)
        self._strongest.refused.connect(lambda line: session.say(line, wrong=True))
        self._follow.clicked.connect(session.conditions.follow_tide)
        session.conditions.changed.connect(self._show)

    def fill(self) -> None:
        """The table of the moment; of a long one the turns about today."""
        self._text.setMinimumWidth(round(_WIDE_LINES * self.session.display.text_size))
        day = self.session.conditions
        lines: list[str] = []
        if day.tide is not None:
            near = sorted(day.tide.turns, key=lambda t: abs(t.time - day.moment_s))[:_SHOWN_TURNS]
            lines = tide_lines(TideTable(near), day.offset_h)[1:] if len(near) > 1 else []
        self._given = "\n".join(lines)
        self._text.setPlainText(self._given)
        self._text.setFocus()
        self._show()

    def _show(self) -> None:
        session, day = self.session, self.session.conditions
        now = day.tide_now
        words = "Wind and air pressure move the level too; a local table comes first."
        if day.tide is not None and now is not None:
            speed = session.display.words(abs(now.rises_mph), Kind.DEPTH)
            stream = session.display.words(now.current_mps, Kind.SPEED) if math.isfinite(now.current_mps) else ""
            head = f"{tide_words(session, day.tide, now, day.moment_s)}; {speed} an hour"
            words = f"{head[:1].upper()}{head[1:]}{f', stream about {stream}' if stream else ''}. {words}"
        self._words.setText(words)
        self._strongest.set_value(day.strongest_stream_mps if day.strongest_stream_mps > 0 else None)
        self._follow.setChecked(day.follows_tide)
        self._follow.setEnabled(now is not None)
        self._forgets.setEnabled(day.tide is not None)
        self._picture.update()

    def _use(self) -> None:
        day, text = self.session.conditions, self._text.toPlainText()
        if day.tide is not None and text == self._given:
            self.session.ask_sheet("")  # nothing was typed: a table longer than what is shown stays whole
            return
        try:
            table = parse_tide(text, day.offset_h)
        except ValueError as exc:
            self.session.say(f"Not used: {exc}.", wrong=True)
            return
        self._tasks.tide.set_tide(table)
        self.session.ask_sheet("")
        self.session.say("Tide table saved; the level follows it.")

    def _forget(self, _checked: bool = False) -> None:
        self._tasks.tide.set_tide(None)
        self.fill()
