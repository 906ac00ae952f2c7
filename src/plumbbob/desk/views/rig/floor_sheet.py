"""On the bottom: a way, its few numbers, a picture of line and lure over the ground, what to tie on and why."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from plumbbob.core.rig import floor
from plumbbob.core.rig.fall import time_to_depth
from plumbbob.core.rig.line import Body, tow
from plumbbob.core.rig.rod import RigSettings
from plumbbob.core.units import Kind, lead
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Field, label
from plumbbob.desk.models.display import Display
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.rig.count_field import CountField

_Points = tuple[tuple[float, float], ...]
_BAIT_M2, _TAIL_M2 = 6e-4, 2.5e-4


@dataclass(frozen=True, slots=True)
class FloorAnswer:
    """What a way comes to: a line in large, its reasons, and where line and lure are: aft and down, metres."""

    head: str
    words: str
    line: _Points = ()
    lure: tuple[float, float] | None = None
    weight: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class FloorWay:
    """A way on the bottom: its numbers (name, title, kind or None for a bare one, usual), and what it comes to."""

    title: str
    asks: tuple[tuple[str, str, Kind | None, float], ...]
    answer: Callable[[Mapping[str, float], RigSettings, Display], FloorAnswer]


def _grams(display: Display, kilograms: float) -> str:
    return lead(kilograms, display.system_of(Kind.WEIGHT))


def _straight(depth: float, away: float) -> _Points:
    return ((away, depth), (0.0, 0.0))


def _towed(end: Body, rod: RigSettings, line_m: float, speed: float) -> _Points:
    found = tow(end, [rod.line.segment(line_m, rho=rod.rho)], speed, rho=rod.rho)
    return tuple(zip(found.x_m, found.z_m, strict=True))


def _dragged(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, line, speed = given["depth"], max(given["line"], given["depth"] + 0.1), given["speed"]
    least = floor.lightest_lead(depth, line, speed, rod.line, rod.lure.drag_area_m2, rho=rod.rho)
    felt = floor.felt_mass_kg(depth, given["wind"], rod.line.diameter_m)
    choose = max(2.5 * least, felt)
    weight = choose * floor.GRAMS_N * 1000 * (1 - rod.rho / 11_340.0)
    end = Body(weight_n=weight, drag_area_m2=rod.lure.drag_area_m2)
    hold = floor.hold_speed(end, depth, line, rod.line, rho=rod.rho)
    return FloorAnswer(
        f"{_grams(display, choose)} of lead",
        f"{_grams(display, least)} would just stay down, {_grams(display, felt)} is felt in this wind. It leaves the "
        f"bottom above {display.words(hold, Kind.SPEED, 1)}: slow the hand as the line comes in.",
        _straight(depth, math.sqrt(max(line**2 - depth**2, 0.0))),
        (math.sqrt(max(line**2 - depth**2, 0.0)), depth),
    )


def _walked(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, speed = given["depth"], given["speed"]
    mass = floor.walker_mass(depth, speed, rod.line, rho=rod.rho)
    low, high = (floor.walker_mass(depth, speed, rod.line, angle_deg=a, rho=rod.rho) for a in (35.0, 50.0))
    found = floor.walk_on(mass, depth, speed, rod.line, rho=rod.rho)
    assert found is not None
    line = _towed(floor.walker_body(mass, rho=rod.rho), rod, found.line_m, speed)
    return FloorAnswer(
        f"{_grams(display, mass)} walker, {display.words(found.line_m, Kind.LENGTH, 0)} out",
        f"{_grams(display, low)} to {_grams(display, high)} keep the line at 35 to 50 degrees: steeper it walks "
        "on the spot, flatter it lifts. Faster needs far more: it goes with the square of the speed.",
        line,
        (line[0][0] + 1.2, depth - 0.1),
        line[0],
    )


def _floated(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, leader, speed = given["depth"], given["leader"], given["speed"]
    up = -rod.lure.weight_n if rod.lure.weight_n < 0 else 0.01
    height = floor.floater_height(up, rod.lure.drag_area_m2, leader, rod.leader, speed, rho=rod.rho)
    aft = math.sqrt(max(leader**2 - height**2, 0.0))
    return FloorAnswer(
        f"{display.words(height, Kind.DEPTH)} over its sinker",
        f"{height / leader:.0%} of the leader. Above {display.words(0.5, Kind.SPEED, 1)} a longer leader hardly "
        "raises it: use more float, or go slower."
        + ("" if rod.lure.weight_n < 0 else " The lure in hand sinks; one that floats a little is taken."),
        ((aft + 4.0, depth - height), (4.0, depth), (0.0, 0.0)),
        (aft + 4.0, depth - height),
        (4.0, depth),
    )


def _dropped(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, away, over = given["depth"], given["away"], given["over"]
    height = floor.drop_height(over, depth, away)
    share = 1.0 - over / max(math.hypot(away, depth), 0.1)
    tied = floor.tied_over(0.3, depth, away)
    return FloorAnswer(
        f"runs {display.words(height, Kind.DEPTH)} over the bottom",
        f"On a tight line from so far it is that much of {display.words(over, Kind.DEPTH)}. For "
        f"{display.words(0.3, Kind.DEPTH)} tie it {display.words(tied, Kind.DEPTH)} over the weight; "
        "on slack it sinks.",
        _straight(depth, away),
        (away * share, depth * share),
        (away, depth),
    )


def _round_lead(current: float, depth: float, rod: RigSettings, ground: floor.Ground) -> floor.Held:
    hold = floor.hold_of("round", ground)
    return floor.holding_mass(current, depth, rod.line, _BAIT_M2, hold, rho=rod.rho)


def _anchored(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, current = given["depth"], given["current"]
    grip = floor.hold_of("gripping wires", floor.Ground.SAND)
    round_ = _round_lead(current, depth, rod, floor.Ground.SAND)
    wires = floor.holding_mass(current, depth, rod.line, _BAIT_M2, grip, rho=rod.rho)
    lands = current * depth / 0.8
    others = " and ".join(
        f"{_grams(display, _round_lead(current, depth, rod, ground).mass_kg)} on {ground.value}"
        for ground in (floor.Ground.ROCK, floor.Ground.MUD)
    )
    line = _towed(Body(weight_n=round_.side_pull_n * 1.2, drag_area_m2=_BAIT_M2), rod, 1.25 * depth, current)
    bottom = line[0][1] if line[0][1] > 0 else depth
    line = tuple((x, z * depth / bottom) for x, z in line)
    return FloorAnswer(
        f"{_grams(display, round_.mass_kg)} round, {_grams(display, wires.mass_kg)} with wires",
        f"Round lead holds with {_grams(display, round_.mass_low_kg)} to {_grams(display, round_.mass_high_kg)} on "
        f"sand or gravel, it takes {others}. Shortest line, rod high: a longer line adds drag. Dropped from the "
        f"boat it lands {display.words(lands, Kind.LENGTH, 0)} down-current.",
        line,
        None,
        line[0],
    )


def _hung(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, drift = given["depth"], given["speed"]
    found = floor.jig_weight(
        depth, drift, rod.line, _TAIL_M2, wind_mps=given["wind"], fall_s=given["fall"], rho=rod.rho
    )
    why = {
        floor.Need.ANGLE: "the line has to stay steep",
        floor.Need.FALL: "it has to be down in time",
        floor.Need.FEEL: "lighter would not be felt",
    }[found.need]
    off = math.radians(found.line_deg if math.isfinite(found.line_deg) else 0.0)
    return FloorAnswer(
        f"{_grams(display, found.mass_kg)} jig, {found.fall_s:.0f} s down",
        f"{why[:1].upper()}{why[1:]}. Steep enough {_grams(display, found.angle_kg)}, quick enough "
        f"{_grams(display, found.fall_kg)}, felt {_grams(display, found.feel_kg)}. Line {found.line_deg:.0f}° off "
        "plumb. "
        "In cold water take the lightest that is felt.",
        _straight(depth, depth * math.tan(off)),
        (depth * math.tan(off), depth),
    )


def _cast(given: Mapping[str, float], rod: RigSettings, display: Display) -> FloorAnswer:
    depth, away, slope = given["depth"], given["away"], given["slope"]
    touch, nearer = floor.touch_depth(depth, away, slope)
    falling = rod.lure.falling(rod.line, rod.rho)
    try:
        seconds = time_to_depth(falling, max(touch, 0.05), rho=rod.rho)[0]
        count = f"count {seconds:.0f} s"
        words = f"On a tight line {1.2 * seconds:.0f} to {2.3 * seconds:.0f} s. "
    except ValueError as exc:
        count, words = "no count", f"{str(exc)[:1].upper()}{str(exc)[1:]}. "
    return FloorAnswer(
        f"touches at {display.words(touch, Kind.DEPTH)}, {count}",
        words + f"It lands {display.words(nearer, Kind.LENGTH, 0)} nearer. A count that grows from cast to cast is "
        "deeper ground; one cut short is a ledge, weed or a fish.",
        _straight(touch, away - nearer),
        (away - nearer, touch),
    )


_DEPTH = ("depth", "Bottom", Kind.DEPTH, 6.0)
WAYS: tuple[FloorWay, ...] = (
    FloorWay(
        "Cast and drag",
        (_DEPTH, ("line", "Line out", Kind.LENGTH, 20.0), ("speed", "Drawn at", Kind.SPEED, 0.3),
         ("wind", "Wind", Kind.SPEED, 4.0)),
        _dragged,
    ),
    FloorWay(
        "Cast onto a slope",
        (_DEPTH, ("away", "Cast", Kind.LENGTH, 25.0), ("slope", "Slope, degrees", None, 8.0)),
        _cast,
    ),
    FloorWay("Walker behind the boat", (_DEPTH, ("speed", "Through the water", Kind.SPEED, 0.6)), _walked),
    FloorWay(
        "Float behind a sinker",
        (_DEPTH, ("leader", "Leader", Kind.LENGTH, 1.0), ("speed", "Through the water", Kind.SPEED, 0.3)),
        _floated,
    ),
    FloorWay(
        "Lure over a weight",
        (_DEPTH, ("away", "How far away", Kind.LENGTH, 15.0), ("over", "Tied over it", Kind.DEPTH, 0.4)),
        _dropped,
    ),
    FloorWay("Bait in a current", (_DEPTH, ("current", "Current", Kind.SPEED, 0.4)), _anchored),
    FloorWay(
        "Jig below the boat",
        (_DEPTH, ("speed", "Drift", Kind.SPEED, 0.1), ("wind", "Wind", Kind.SPEED, 3.0),
         ("fall", "Down within, seconds", None, 15.0)),
        _hung,
    ),
)  # fmt: skip


class FloorPicture(Painted):
    """Line, weight and lure over the bottom, at one scale."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("floor_picture")
        self._session = session
        self._answer: FloorAnswer | None = None
        self._depth, self._slope = 6.0, 0.0
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Wider than high."""
        return QSize(430, 200)

    minimumSizeHint = sizeHint

    def show_answer(self, answer: FloorAnswer | None, depth_m: float, slope_deg: float) -> None:
        """Another answer over a bottom."""
        self._answer, self._depth, self._slope = answer, depth_m, slope_deg
        self.update()

    def paint(self, painter: QPainter) -> None:
        """Water, bottom, line, weight, lure."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        wide, high = float(self.width()), float(self.height())
        painter.fillRect(self.rect(), QColor(theme.ground))
        answer = self._answer
        points = answer.line if answer is not None else ()
        far = max((x for x, _ in points), default=10.0) + 1.0
        if answer is not None and answer.lure is not None:
            far = max(far, answer.lure[0] + 1.0)
        rise = math.tan(math.radians(self._slope))
        deep = max(self._depth + max(rise, 0.0) * far, 0.5)
        per = min((high - 40.0) / (1.12 * deep), (wide - 60.0) / far)
        top, left = 22.0, 30.0
        ground = [QPointF(left + x * per, top + (self._depth + rise * x) * per) for x in (-30.0 / per, wide / per)]
        painter.fillRect(QRectF(0, top, wide, high - top), shade(theme.teal, 40))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.land))
        painter.drawPolygon(QPolygonF([*ground, QPointF(wide, high), QPointF(0, high)]))
        painter.setPen(pen(theme.teal, 1.5))
        painter.drawLine(QPointF(0, top), QPointF(wide, top))
        painter.setPen(pen(theme.ink, 1.6))
        if points:
            painter.drawPolyline(QPolygonF([QPointF(left + x * per, top + z * per) for x, z in points]))
            painter.setBrush(QColor(theme.ink))
            painter.drawRect(QRectF(left - 14, top - 5, 16, 5))
        if answer is not None and answer.weight is not None:
            painter.setBrush(QColor(theme.ink))
            painter.drawEllipse(QPointF(left + answer.weight[0] * per, top + answer.weight[1] * per - 3), 5, 5)
        if answer is not None and answer.lure is not None:
            painter.setBrush(shade(theme.brass))
            at = QPointF(left + answer.lure[0] * per, top + answer.lure[1] * per - 3)
            if answer.weight is not None:
                painter.drawLine(at, QPointF(left + answer.weight[0] * per, top + answer.weight[1] * per - 3))
            painter.drawEllipse(at, 8, 3.5)
        painter.setFont(font(display.text_size * 0.8))
        painter.setPen(QColor(theme.muted_text))
        painter.drawText(QPointF(6, high - 8), f"bottom {display.words(self._depth, Kind.DEPTH)}, true scale")


class FloorSheet(Sheet):
    """Choose a way, set its numbers; the line, the lead and the lure follow."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "floor", "On the bottom", parent)
        row = QHBoxLayout()
        row.setSpacing(18)
        left = QVBoxLayout()
        left.setSpacing(6)
        self._way = QComboBox()
        self._way.setObjectName("floor_way")
        self._way.addItems([w.title for w in WAYS])
        self._way.currentIndexChanged.connect(lambda _: self._another())
        self.first = self._way
        left.addWidget(self._way)
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        self._rows: list[tuple[QLabel, Field | None]] = []
        self._grid = grid
        self._fields: dict[str, Field] = {}
        left.addLayout(grid)
        left.addStretch(1)
        row.addLayout(left, 2)
        self._picture = FloorPicture(session)
        row.addWidget(self._picture, 4)
        side = QVBoxLayout()
        side.setSpacing(6)
        self._head, self._words = label("", "value", name="floor_head"), label("", "small", name="floor_words")
        for widget in (self._head, self._words):
            widget.setWordWrap(True)
            side.addWidget(widget)
        side.addStretch(1)
        row.addLayout(side, 3)
        self.body.addLayout(row)
        self.finish("Done", lambda: session.ask_sheet(""), cancel=False)
        self._values: dict[str, float] = {}
        session.rig.changed.connect(self.refresh)
        session.display.changed.connect(self.refresh)
        self._another()

    def fill(self) -> None:
        """The bottom under the boat where it is known, the wind of the day."""
        bottom = self.session.lines.bottom_m
        if math.isfinite(bottom) and bottom > 0.3:
            self._values.setdefault("depth", round(bottom, 1))
        self._values.setdefault("wind", self.session.conditions.wind_mps)
        for name, field in self._fields.items():
            field.set_value(self._values.get(name, field.value))
        self._work_out()

    def _another(self) -> None:
        while self._grid.count():
            item = self._grid.takeAt(0)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.setParent(None)
                widget.deleteLater()
        self._fields.clear()
        way = WAYS[self._way.currentIndex()]
        for i, (name, title, kind, usual) in enumerate(way.asks):
            field = Field(self.session.display, kind or Kind.LENGTH, f"floor_{name}")
            if kind is None:
                field = CountField(self.session, f"floor_{name}")
            field.fit("0000.0 km/h")
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            with QSignalBlocker(field):
                field.set_value(self._values.get(name, usual))
            field.entered.connect(lambda v, n=name: self._enter(n, v))
            field.refused.connect(lambda line: self.session.say(line, wrong=True))
            self._grid.addWidget(label(title, "muted"), i, 0)
            self._grid.addWidget(field, i, 1)
            self._fields[name] = field
        self._work_out()

    def _enter(self, name: str, value: float) -> None:
        self._values[name] = value
        self._work_out()

    def _work_out(self) -> None:
        way = WAYS[self._way.currentIndex()]
        given = {name: self._values.get(name, usual) for name, _, _, usual in way.asks}
        rod = self.session.rig.settings
        try:
            if not 0.2 <= given["depth"] <= 150.0 or any(v < 0 for n, v in given.items() if n != "slope"):
                raise ValueError("a depth of 0.2 to 150 m, and numbers of zero or more, are needed")
            answer: FloorAnswer | None = way.answer(given, rod, self.session.display)
            words = answer.words if answer is not None else ""
        except (ValueError, AssertionError) as exc:
            answer, words = None, f"{str(exc)[:1].upper()}{str(exc)[1:]}."
        self._head.setText(answer.head if answer is not None else "")
        self._words.setText(words)
        self._picture.show_answer(answer, given["depth"], given.get("slope", 0.0))
