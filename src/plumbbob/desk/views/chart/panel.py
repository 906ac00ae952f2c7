"""Left of the chart: the depth window, the water today, the places worth a look."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QSlider,
    QWidget,
)

from plumbbob.core.chart.contours import window_share
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.paint import font, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.widgets import Field, WordField, headed, label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.chart.tide_sheet import tide_words
from plumbbob.desk.views.chart.words import (
    column_words,
    comfort_words,
    cursor_lines,
    day_lines,
    parse_compass,
    place_title,
    reason_words,
    season_words,
    species_lines,
    why,
)
from plumbbob.wording.compass import compass

_REASONS, _FEWER = 6, 3  # so many fit beside the words of a species
_MOST = 7
_SURE = 0.9  # a place less probable than that says so
_LEVELS_M = (-5.0, 3.0)  # over the datum, where a water does not say how it changes
_ROW_PX, _ROW_LINES = 49, 4.4


class ChartPanel(QFrame):
    """The depth window and the places worth a look. Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 14, 14, 6), 5)
        column.addWidget(label("DEPTH WINDOW", "head"))
        grid = _grid()
        self._from, self._to = (Field(session.display, Kind.DEPTH, f"window_{n}") for n in ("from", "to"))
        self._share = label("–", "value", name="window_share")
        _rows(grid, (("From", self._from), ("To", self._to), ("Leaves", self._share)))
        column.addLayout(grid)
        column.addSpacing(8)
        column.addLayout(headed("WORTH A LOOK", actions["chart.counts"], "change  K"))
        self.list = PlaceList(session)
        column.addWidget(self.list)
        column.addStretch(1)
        column.addWidget(label("Not for navigation.", "small"))
        self._from.entered.connect(lambda v: self._window(v, None))
        self._to.entered.connect(lambda v: self._window(None, v))
        for field in (self._from, self._to):
            field.refused.connect(lambda line: session.say(line, wrong=True))
        for signal in (
            session.conditions.changed,
            session.display.changed,
            session.chart.opened,
            session.rig.window_changed,
        ):
            signal.connect(self._show)
        self._show()

    def _window(self, low: float | None, high: float | None) -> None:
        rig = self._session.rig
        old = rig.window or (max((high or 3.0) - 3.0, 0.0), (low or 0.0) + 3.0)
        rig.set_window((old[0] if low is None else low, old[1] if high is None else high))

    def _show(self) -> None:
        session = self._session
        window, chart = session.rig.window, session.chart.chart
        self._from.set_value(window[0] if window else None)
        self._to.set_value(window[1] if window else None)
        if window is None or chart is None:
            self._share.setText("–" if chart is None else "all of it")
            return
        grid = chart.grid
        share = window_share(grid.depth_m, grid.frame.cell_m, session.conditions.level_m, window).share
        self._share.setText(f"{100 * share:.0f} %")


def _grid() -> QGridLayout:
    grid = QGridLayout()
    grid.setVerticalSpacing(3)
    grid.setColumnStretch(1, 1)
    return grid


def _rows(grid: QGridLayout, rows: tuple[tuple[str, QWidget], ...]) -> None:
    for title, widget in rows:
        row = grid.rowCount()
        grid.addWidget(label(title, "muted"), row, 0)
        if isinstance(widget, Field):
            widget.fit("000.0 ft")
            widget.setAlignment(Qt.AlignmentFlag.AlignRight)
        grid.addWidget(widget, row, 1, Qt.AlignmentFlag.AlignRight)


class ConditionsPanel(QFrame):
    """The water today: level, wind, clarity, the cold layer. Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        day = session.conditions
        column = panel_column(self, (16, 6, 14, 4), 3)
        column.addLayout(headed("WATER TODAY", actions["chart.profile"], "change  T"))
        grid = _grid()
        self._level = Field(session.display, Kind.DEPTH, "level")
        self._layer = label("–", "value", name="day_layer")
        self._told: tuple[object, object] | None = None
        self._wind = Field(session.display, Kind.SPEED, "wind", 0)
        self._wind_from = WordField(compass, parse_compass, "wind_from")
        self._secchi = Field(session.display, Kind.DEPTH, "secchi")
        self._slider = QSlider(Qt.Orientation.Horizontal)
        self._slider.setObjectName("level_slider")
        self._slider.setPageStep(10)
        self._slider.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._slider.setToolTip("Water level over the chart's datum")
        _rows(grid, (("Level", _beside(self._slider, self._level)),))
        self._level.fit("00.0 ft")
        _rows(grid, (("Wind", _beside(self._wind_from, self._wind)), ("Clarity", self._secchi)))
        self._wind.fit("00 mph")
        _rows(grid, (("Cold layer", self._layer),))
        self._tide = label("–", "small", name="day_tide")
        self._tide.setToolTip("Shift+T: high and low water")
        grid.addWidget(self._tide, grid.rowCount(), 0, 1, 2, Qt.AlignmentFlag.AlignRight)
        column.addLayout(grid)
        column.addStretch(1)
        self._level.entered.connect(lambda v: day.set_number("level_m", v))
        self._slider.valueChanged.connect(lambda v: day.set_number("level_m", v / 100.0))
        self._wind.entered.connect(lambda v: day.set_number("wind_mps", v))
        self._wind_from.entered.connect(lambda v: day.set_number("wind_from_deg", v))
        self._secchi.entered.connect(lambda v: day.set_number("secchi_m", v))
        for field in (self._level, self._wind, self._secchi, self._wind_from):
            field.refused.connect(lambda line: session.say(line, wrong=True))
        for signal in (session.conditions.changed, session.display.changed, session.chart.opened):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        display, day = self._session.display, self._session.conditions
        self._level.set_value(day.level_m)
        with QSignalBlocker(self._slider):
            low, high = self._session.water.level_range_m or _LEVELS_M
            self._slider.setRange(round(100 * min(low, day.level_m)), round(100 * max(high, day.level_m)))
            self._slider.setValue(round(100 * day.level_m))
        self._wind.set_value(day.wind_mps)
        self._wind_from.set_value(day.wind_from_deg)
        self._secchi.set_value(day.secchi_m)
        if day.profile is None:
            self._layer.setText("not known")
        elif day.layer is None:
            self._layer.setText("none, mixed")
        else:
            guess = "?" if day.profile.estimated else ""
            span = (
                f"{display.figure(day.layer.top_m, Kind.DEPTH, 0)}–{display.words(day.layer.base_m, Kind.DEPTH, 0)}"
            )
            self._layer.setText(span + guess)
        now = day.tide_now
        self._tide.setVisible(day.tide is not None)
        if day.tide is not None and now is not None:
            held = "" if day.follows_tide else " · level held"
            self._tide.setText(f"Tide {tide_words(self._session, day.tide, now, day.moment_s)}{held}")
        else:
            self._tide.setText("Tide table of other days")
        facts = (day.profile, self._session.chart.chart)
        if self._told is None or any(a is not b for a, b in zip(facts, self._told, strict=True)):
            self._told = facts
            self._layer.setToolTip(column_words(self._session))


def _beside(left: QWidget, right: QWidget) -> QWidget:
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(4)
    row.addWidget(left)
    row.addWidget(right)
    return holder


class PlaceList(Painted):
    """The ranked places, each with its strongest reasons and a bar; a click goes there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("placelist")
        self._session = session
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        for signal in (session.spots.changed, session.spots.chosen_changed, session.display.changed):
            signal.connect(self._stale)
        self._stale()

    def _stale(self) -> None:
        self._row = max(_ROW_PX, round(_ROW_LINES * self._session.display.text_size))
        self.setFixedHeight(max(self._row * min(len(self._session.spots.places), _MOST), 20))
        self.update()

    def sizeHint(self) -> QSize:
        """Room for the rows."""
        return QSize(190, self._row * _MOST)

    def paint(self, painter: QPainter) -> None:
        """Number, what it is, why, how much."""
        session = self._session
        display, theme = session.display, session.display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        places = session.spots.places[:_MOST]
        if not places:
            painter.setFont(font(display.text_size * 0.9))
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(0, 14), "No structure found yet.")
            return
        strong, plain = font(display.text_size * 0.95, bold=True), font(display.text_size * 0.82)
        for i, place in enumerate(places):
            top, size = i * self._row, display.text_size
            if place is session.spots.chosen:
                painter.fillRect(QRectF(-6, top - 2, self.width() + 6, self._row - 4), shade(theme.brass, 40))
            painter.setFont(strong)
            painter.setPen(QColor(theme.ink))
            painter.drawText(QPointF(0, top + 1.3 * size), f"{i + 1}")
            painter.drawText(
                QPointF(1.8 * size, top + 1.3 * size),
                self._cut(painter, place_title(display, place.feature, session.conditions.level_m)),
            )
            painter.setFont(plain)
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(QPointF(1.8 * size, top + 2.9 * size), self._cut(painter, why(display, place)))
            bar = QRectF(1.8 * size, top + 3.6 * size, self.width() - 1.8 * size - 2, 4)
            painter.fillRect(bar, QColor(theme.rule))
            bar.setWidth(bar.width() * place.score)
            painter.fillRect(bar, QColor(theme.brass))

    def _room(self) -> int:
        return round(self.width() - 2 * self._session.display.text_size)

    def _cut(self, painter: QPainter, text: str) -> str:
        return QFontMetricsF(painter.font()).elidedText(
            text, Qt.TextElideMode.ElideRight, round(self.width() - 2 * self._session.display.text_size)
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Go to the place under the mouse."""
        i = math.floor(event.position().y() / self._row)
        places = self._session.spots.places[:_MOST]
        if 0 <= i < len(places):
            self._session.spots.choose(places[i])
            feature = places[i].feature
            self._session.chart.centre_on(feature.x, feature.y, closer=True)


class SpotWords(QFrame):
    """Under the plumb line: the spot at the cursor, whose comfort is shown, and what the day says."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 6, 12, 4), 2)
        self._head, self._more = label("", "value", name="spot"), label("", "small", name="spot_more")
        self._species = QComboBox()
        self._species.setObjectName("day_species")
        self._species.setToolTip("Whose comfort the plumb line shows")
        self._day = label("", "small", name="day_words")
        for widget in (self._head, self._more, self._species, self._day):
            if isinstance(widget, QLabel):
                widget.setWordWrap(True)
            column.addWidget(widget)
        column.addStretch(1)
        self._species.currentIndexChanged.connect(self._pick_species)
        session.water_changed.connect(self._fill_species)
        session.display.changed.connect(self._fill_species)
        for signal in (
            session.chart.opened,
            session.chart.cursor_changed,
            session.spots.changed,
            session.spots.chosen_changed,
            session.conditions.changed,
            session.display.changed,
        ):
            signal.connect(self._show)
        self._fill_species()
        self._show()

    def _fill_species(self) -> None:
        from plumbbob.formats.species import known_species, species_of

        here = [s.name for s in species_of(self._session.water)]
        names = [s.name for s in known_species()]
        species = self._session.conditions.species
        with QSignalBlocker(self._species):
            self._species.clear()
            self._species.addItem("comfort of …", "")
            shown = {n: self._session.display.species(n) for n in (*here, *names)}
            for name in (*here, *sorted((n for n in names if n not in here), key=lambda n: shown[n].casefold())):
                self._species.addItem(shown[name], name)
            self._species.setCurrentIndex(max(self._species.findData(species.name if species else ""), 0))

    def _pick_species(self) -> None:
        from plumbbob.formats.species import species_here

        self._session.conditions.set_species(species_here(self._species.currentData(), self._session.water))

    def _show(self) -> None:
        session = self._session
        species = session.conditions.species
        with QSignalBlocker(self._species):
            self._species.setCurrentIndex(max(self._species.findData(species.name if species else ""), 0))
        if session.chart.chart is None:
            for widget in (self._head, self._more, self._day):
                widget.setText("")
            return
        place = session.spots.chosen
        lines = cursor_lines(session)
        self._head.setText(lines[0])
        words = " · ".join(lines[1:])
        if place is not None:
            number = next((i for i, p in enumerate(session.spots.places, 1) if p is place), 0)
            reasons = "; ".join(
                reason_words(session.display, r) for r in place.reasons[: _REASONS if species is None else _FEWER]
            )
            if place.feature.chance < _SURE:
                reasons += f"; there by {place.feature.chance:.0%}"
            shore = place.feature.shore_m
            if math.isfinite(shore):
                reasons += f"; {session.display.words(shore, Kind.DISTANCE, 0)} from shore"
            words = f"{number}  {place_title(session.display, place.feature, session.conditions.level_m)}: {reasons}."
        self._more.setText(words)
        self._more.setToolTip(
            "" if place is None else "; ".join(reason_words(session.display, r) for r in place.reasons)
        )
        whole = species_lines(session) if species is not None else day_lines(session)
        self._day.setText(" ".join(whole) if place is None else season_words(session) or comfort_words(session))
        self._day.setToolTip(" ".join(day_lines(session)))
