"""The day as asked: hours, launch, craft, wind through the day, how a place rests, and the schools."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter, QPolygonF
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from plumbbob.core.geodesy import parse_position, write_position
from plumbbob.core.plan.bites import Ladder
from plumbbob.core.plan.clock import Hour
from plumbbob.core.plan.rest import recovered
from plumbbob.core.units import Kind
from plumbbob.desk.kit.file_dialog import ask_to_open
from plumbbob.desk.kit.paint import font, pen
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.when import parse_when
from plumbbob.desk.kit.widgets import Button, Field, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.plan_today import DayPlanner
from plumbbob.files.errors import FileError
from plumbbob.formats.wind_hours import parse_wind, read_wind, write_direction

_HOURS, _LEFT = 8.0, 0.25
_REST_H = (0.2, 24.0)
_SCHOOLS = (
    (False, "keep moving", "active fish bite soon: a place that gives none in the first minutes is left"),
    (True, "stay and work", "fish turn on by the hour: a good place left early is a chance given away"),
)
_LIKE = (
    (0.3, "some", "fish of one kind do the same thing in many places on a day, but not in all of them"),
    (0.7, "most of it", "a pattern found once holds wherever the water is alike"),
    (0.0, "none", "each place is judged by itself"),
)
_LADDERS = (
    (Ladder.DEPTH_FIRST, "depth, then pace", "most fish that do not take never had the lure at eye height"),
    (Ladder.LURE_FIRST, "another lure", "fish that followed have seen this one well enough"),
)


class RestCurve(Painted):
    """How a place comes back after it was fished; dragging bends it."""

    moved = Signal(float)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("rest_curve")
        self.setAccessibleName("Rest of a place")
        self._session = session
        self.rest_h = 1.5
        self.setMinimumSize(220, 110)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    @property
    def area(self) -> QRectF:
        """Where the curve is."""
        size = self._session.display.text_size
        return QRectF(3.6 * size, 8.0, self.width() - 3.6 * size - 10.0, self.height() - 8.0 - 2.0 * size)

    def x_of(self, hours: float) -> float:
        """Pixel of a time."""
        return self.area.left() + hours / _HOURS * self.area.width()

    def paint(self, painter: QPainter) -> None:
        """Share of its fresh rate, by hours since it was left."""
        display = self._session.display
        theme, area = display.theme, self.area
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area, QColor(theme.ground))
        painter.setFont(font(display.text_size * 0.78))
        metrics = QFontMetricsF(painter.font())
        painter.setPen(QColor(theme.muted_text))
        for share in (0.0, 0.5, 1.0):
            text, y = f"{share:.0%}".replace("%", " %"), area.bottom() - share * area.height()
            painter.drawText(QPointF(area.left() - 6 - metrics.horizontalAdvance(text), y + 4), text)
        for hour in range(0, int(_HOURS) + 1, 2):
            text = f"{hour} h"
            wide = metrics.horizontalAdvance(text)
            x = min(self.x_of(hour) - wide / 2, self.width() - wide - 2)
            painter.drawText(QPointF(x, self.height() - 4), text)
        shares = ((t, recovered(t, _LEFT, self.rest_h)) for t in (_HOURS * k / 80 for k in range(81)))
        line = [QPointF(self.x_of(t), area.bottom() - share * area.height()) for t, share in shares]
        painter.setPen(pen(theme.brass, 2.2))
        painter.drawPolyline(QPolygonF(line))
        x = self.x_of(min(self.rest_h, _HOURS))
        painter.setPen(pen(theme.ink, 1.0, style=Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self.mouseMoveEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Two thirds are back where the hand is."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            hours = (event.position().x() - self.area.left()) / max(self.area.width(), 1.0) * _HOURS
            self.rest_h = min(max(hours, _REST_H[0]), _HOURS)
            self.moved.emit(self.rest_h)
            self.update()


class DaySheet(Sheet):
    """Needs the session and who plans."""

    def __init__(self, session: Session, planner: DayPlanner, parent: QWidget) -> None:
        super().__init__(session, "day", "The day", parent, over=True)
        self._planner = planner
        row = QHBoxLayout()
        row.setSpacing(18)
        row.addLayout(self._hours(), 3)
        row.addLayout(self._winds(), 3)
        row.addLayout(self._places(), 4)
        self.body.addLayout(row)
        self.finish("Plan it so", self._plan)
        self.first = self._from

    def _hours(self) -> QVBoxLayout:
        session = self.session
        column, grid = QVBoxLayout(), QGridLayout()
        column.addWidget(label("HOURS AND CRAFT", "head"))
        self._from, self._to, self._place = QLineEdit(), QLineEdit(), QLineEdit()
        self._speed, self._limit = (Field(session.display, Kind.SPEED, f"day_{n}") for n in ("speed", "limit"))
        for k, (name, title, widget) in enumerate(
            (
                ("from", "From", self._from),
                ("to", "Back by", self._to),
                ("speed", "Speed", self._speed),
                ("limit", "Off the water at", self._limit),
            )
        ):
            widget.setObjectName(f"day_{name}")
            if isinstance(widget, Field):
                widget.fit("000.0 km/h")
            grid.addWidget(label(title, "muted"), k, 0)
            grid.addWidget(widget, k, 1)
        self._place.setObjectName("day_launch")
        here = Button("Launch at the cursor")
        here.setObjectName("day_here")
        here.clicked.connect(self._launch_here)
        self._explore = QCheckBox("one look at unseen water")
        self._explore.setObjectName("day_explore")
        column.addLayout(grid)
        column.addWidget(label("Launch", "muted"))
        column.addWidget(self._place)
        column.addWidget(here)
        column.addWidget(self._explore)
        column.addStretch(1)
        return column

    def _winds(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(label("WIND THROUGH THE DAY", "head"))
        self._wind = QPlainTextEdit()
        self._wind.setObjectName("day_wind")
        self._wind.setTabChangesFocus(True)
        self._wind.setMinimumHeight(110)
        self._wind_help = label("", "small")
        self._wind_help.setWordWrap(True)
        read = Button("Read hours from CSV …")
        read.setObjectName("day_wind_csv")
        read.clicked.connect(self._read_wind)
        for widget in (self._wind, self._wind_help, read):
            column.addWidget(widget)
        return column

    def _places(self) -> QVBoxLayout:
        session = self.session
        column, grid = QVBoxLayout(), QGridLayout()
        column.addWidget(label("HOW A PLACE COMES BACK", "head"))
        self._curve = RestCurve(session)
        self._curve.moved.connect(self._say_rest)
        self._rest = label("", "small", name="day_rest")
        self._rest.setWordWrap(True)
        column.addWidget(self._curve, 1)
        column.addWidget(self._rest)
        self._rate = QLineEdit()
        self._rate.setObjectName("day_rate")
        self._school, self._ladder, self._like = QComboBox(), QComboBox(), QComboBox()
        for box, name in ((self._school, "school"), (self._ladder, "ladder"), (self._like, "like")):
            box.setObjectName(f"day_{name}")
        for _, words, _why in _LIKE:
            self._like.addItem(words)
        for _, words, _why in _SCHOOLS:
            self._school.addItem(words)
        for _, words, _why in _LADDERS:
            self._ladder.addItem(words)
        self._why = label("", "small", name="day_why")
        self._why.setWordWrap(True)
        for box in (self._school, self._ladder, self._like):
            box.currentIndexChanged.connect(self._say_schools)
        for k, (title, widget) in enumerate(
            (
                ("Fish an hour", self._rate),
                ("At a place", self._school),
                ("Seen, not taking", self._ladder),
                ("At like places", self._like),
            )
        ):
            grid.addWidget(label(title, "muted"), k, 0)
            grid.addWidget(widget, k, 1)
        column.addLayout(grid)
        column.addWidget(self._why)
        return column

    # -- what is so ---------------------------------------------------------------------------------------------

    def fill(self) -> None:
        """As the day is asked now."""
        session, run = self.session, self.session.run
        ask = run.ask or self._planner.usual_day()
        self._from.setText(session.clock(ask.start, "%H:%M"))
        self._to.setText(session.clock(ask.end, "%H:%M"))
        self._place.setText(write_position(ask.launch))
        self._speed.set_value(ask.craft.speed_mps)
        self._limit.set_value(ask.craft.wind_limit_mps)
        self._show_wind(ask.hours)
        unit = session.display.unit(Kind.SPEED)
        self._wind_help.setText(f"One line an hour: time, {unit}, where from. The last one holds to the end.")
        self._curve.rest_h = ask.rest_h
        self._say_rest()
        self._rate.setText(f"{ask.usual.per_h:g}")
        self._explore.setChecked(ask.explore)
        with QSignalBlocker(self._school), QSignalBlocker(self._ladder), QSignalBlocker(self._like):
            self._school.setCurrentIndex([s[0] for s in _SCHOOLS].index(run.patient))
            self._ladder.setCurrentIndex([s[0] for s in _LADDERS].index(run.ladder))
            shares = [s[0] for s in _LIKE]
            near = min(shares, key=lambda share: abs(share - session.search.like_share))
            self._like.setCurrentIndex(shares.index(near))
        self._say_schools()

    def _say_rest(self, _: float = 0.0) -> None:
        self._rest.setText(
            f"Two thirds of what was taken are back after {self._curve.rest_h:.1f} h. "
            "Schools of open water: under 2 h; fish in cover: 2 to 12 h. Fish an hour are those of a fair place."
        )

    def _say_schools(self, _: int = 0) -> None:
        chosen = (
            _SCHOOLS[self._school.currentIndex()],
            _LADDERS[self._ladder.currentIndex()],
            _LIKE[self._like.currentIndex()],
        )
        self._why.setText(" ".join(f"{words.capitalize()}: {why}." for _, words, why in chosen))

    def _launch_here(self) -> None:
        place = self.session.chart.cursor_place()
        if place is not None:
            self._place.setText(write_position(place))

    def _clock(self, text: str) -> float:
        run = self.session.run
        ask = run.ask or self._planner.usual_day()
        return parse_when(text, self.session.local(ask.start))

    def _per_unit(self) -> float:
        return 1.0 / max(self.session.display.shown(1.0, Kind.SPEED), 1e-9)

    def _read_wind(self) -> None:
        path = ask_to_open(
            self, self.session.display.theme, "Read hours of wind", str(Path.home()), "CSV (*.csv *.txt)"
        )
        if path is not None:
            self.take_wind(path)

    def take_wind(self, path: Path) -> None:
        """Show the hours of a file; nothing is planned yet."""
        try:
            hours = read_wind(path, self._clock, self._per_unit())
        except FileError as exc:
            self.session.say(f"{exc}.", wrong=True)
            return
        self._show_wind(hours)

    def _show_wind(self, hours: tuple[Hour, ...]) -> None:
        session = self.session
        self._wind.setPlainText(
            "\n".join(
                f"{session.clock(h.time, '%H:%M')}  {session.display.shown(h.wind_mps, Kind.SPEED):.0f}  "
                f"{write_direction(h.from_deg)}"
                for h in hours
            )
        )

    # -- plan it ------------------------------------------------------------------------------------------------

    def _plan(self) -> None:
        session, run = self.session, self.session.run
        ask = run.ask or self._planner.usual_day()
        try:
            start, end = self._clock(self._from.text()), self._clock(self._to.text())
            end += 86400.0 if end <= start and end + 86400.0 - start <= 16 * 3600 else 0.0
            if not 600.0 <= end - start <= 20 * 3600.0:
                raise ValueError("the day ends before it begins" if end <= start else "a day has at most 20 hours")
            rate = float(self._rate.text().replace(",", "."))
            if not (math.isfinite(rate) and 0.01 <= rate <= 60.0):
                raise ValueError("fish an hour lie between 0.01 and 60")
            hours = parse_wind(self._wind.toPlainText(), self._clock, self._per_unit())
            if self._speed.value is None or not 0.2 <= self._speed.value <= 30.0:
                raise ValueError("the craft's speed is missing or none that is travelled at")
            if self._limit.value is None or not 1.0 <= self._limit.value <= 30.0:
                raise ValueError("the wind at which one leaves the water is missing")
            asked = replace(
                ask,
                start=start,
                end=end,
                launch=parse_position(self._place.text()),
                hours=hours,
                craft=replace(ask.craft, speed_mps=self._speed.value, wind_limit_mps=self._limit.value),
                usual=replace(ask.usual, per_h=rate),
                rest_h=self._curve.rest_h,
                explore=self._explore.isChecked(),
            )
        except ValueError as exc:
            session.say(f"Not planned: {exc}.", wrong=True)
            return
        run.patient = _SCHOOLS[self._school.currentIndex()][0]
        run.ladder = _LADDERS[self._ladder.currentIndex()][0]
        session.search.like_share = _LIKE[self._like.currentIndex()][0]
        self._planner.keep(asked)
        session.ask_sheet("")
        if run.ask is None:
            run.set_ask(asked)
            self._planner.plan()
        else:
            run.change_ask(asked)
