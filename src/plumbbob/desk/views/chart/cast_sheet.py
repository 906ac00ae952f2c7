"""From a mark to a cast: how far off to lie and on which side, where the lure lands, what to count."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPolygonF
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from plumbbob.core.rig.casting import retrieve_path
from plumbbob.core.rig.fall import time_to_depth
from plumbbob.core.rig.floor import hold_speed
from plumbbob.core.rig.line import Body
from plumbbob.core.rig.rod import FAMILY, Family, Method, RigSettings, default_setup
from plumbbob.core.rig.stand_off import (
    SEATED_KAYAK_M,
    SEATED_M,
    Noise,
    StandOff,
    Surface,
    blown_aside,
    cast_reach,
    deepest_on,
    land_counted,
    land_dived,
    land_dragged,
    lie_at,
    stand_off,
)
from plumbbob.core.units import Kind
from plumbbob.core.water.sun import sun_azimuth_deg
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.session import Session
from plumbbob.store.values import Mark

_CALM_MPS, _RIPPLE_MPS = 1.5, 4.5
_SHALLOW_M, _LOOK_M = 4.0, 30.0
_ON_BOTTOM_M = 0.6
_ADDED = 1.3  # a lure's mass with the water it drags along


@dataclass(frozen=True, slots=True)
class CastFromMark:
    """A cast to a marked fish, worked out."""

    off: StandOff
    lie_deg: float  # from the fish to the boat
    land_m: float  # from the boat
    words: str


def cast_rod(session: Session) -> RigSettings:
    """The first rod that is cast, else a usual one."""
    cast = next((s.rod for s in session.rig.sets if FAMILY[s.rod.method] is Family.CAST), None)
    return cast if cast is not None else default_setup(session.rig.settings, Method.CAST)


def deep_side(session: Session, mark: Mark) -> float | None:
    """Bearing from a mark to the deepest water close by; None where the chart does not know."""
    chart = session.chart.chart
    if chart is None or mark.latitude != mark.latitude:
        return None
    x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
    found = []
    for turn in range(0, 360, 15):
        a = math.radians(turn)
        deep = chart.grid.frame.nearest(
            chart.grid.depth_m, float(x) + _LOOK_M * math.sin(a), float(y) + _LOOK_M * math.cos(a)
        )
        if np.isfinite(deep):
            found.append((float(deep), float(turn)))
    return max(found)[1] if found and max(found)[0] > min(found)[0] + 0.3 else None


def near_bottom(mark: Mark) -> bool:
    """A fish so low that a lure on the bottom reaches it."""
    return (
        mark.depth_m is not None
        and mark.bottom_depth_m is not None
        and mark.bottom_depth_m - mark.depth_m <= _ON_BOTTOM_M
    )


def _dragged(session: Session, mark: Mark, rod: RigSettings, cast: StandOff, lie_deg: float) -> tuple[float, str]:
    """Where a lure lands that is dragged over the bottom past the fish, and how."""
    display, chart = session.display, session.chart.chart
    land = land_dragged(cast.distance_m)
    here = mark.bottom_depth_m or 0.0
    beyond = here
    if chart is not None and mark.latitude == mark.latitude:
        x, y = chart.plane.to_xy(mark.latitude, mark.longitude)
        a, far = math.radians(lie_deg + 180.0), land - cast.distance_m
        deep = float(
            chart.grid.frame.nearest(chart.grid.depth_m, float(x) + far * math.sin(a), float(y) + far * math.cos(a))
        )
        beyond = deep + session.conditions.level_m if math.isfinite(deep) else here
    beyond = max(beyond, 0.3)
    seconds = time_to_depth(rod.lure.falling(rod.line, rod.rho), beyond, rho=rod.rho)[0]
    end = Body(weight_n=rod.lure.weight_n, drag_area_m2=rod.lure.drag_area_m2)
    speed = hold_speed(end, beyond, math.hypot(land, beyond), rod.line, rho=rod.rho)
    deep_words = display.words(beyond, Kind.DEPTH)
    return land, (
        f"count {seconds:.0f} to {2.3 * seconds:.0f} s until it touches in {deep_words}, then drag it "
        f"past: faster than {display.words(speed, Kind.SPEED)} the line lifts it"
    )


def cast_to(session: Session, mark: Mark, noise: Noise, *, drag: bool = False) -> CastFromMark:
    """
    The cast to a mark's fish with the rod that is cast, on this day; `drag` takes it there over the bottom.

    Raises
    ------
    ValueError
        In one line, where no depth of a fish is known or the lure can't do it.
    """
    day, display = session.conditions, session.display
    fish = mark.depth_m
    if fish is None or not fish > 0:
        raise ValueError("the mark has no depth of a fish")
    bottom = max(mark.bottom_depth_m or fish, fish)
    rod, kayak = cast_rod(session), own_boat(session.settings).is_kayak
    mass = rod.lure.mass_kg / _ADDED
    longest = cast_reach(mass, held_back=kayak)[1]
    sun = day.sun_deg()
    sun_deg = 40.0 if sun is None else sun
    wind = day.wind_mps
    off = stand_off(
        fish,
        bottom,
        day.secchi_m,
        height_m=SEATED_KAYAK_M if kayak else SEATED_M,
        surface=Surface.CALM if wind < _CALM_MPS else Surface.RIPPLE if wind < _RIPPLE_MPS else Surface.CHOP,
        noise=noise,
        cast_m=longest,
        night=sun_deg < -6.0,
        sun_deg=sun_deg,
    )
    place = session.water.place
    azimuth = None if place is None or not math.isfinite(day.time_s) else sun_azimuth_deg(place, day.time_s)
    lie = lie_at(
        day.wind_from_deg,
        wind,
        sun_from_deg=azimuth,
        sun_deg=sun_deg,
        deep_to_deg=deep_side(session, mark),
        shallow=fish < _SHALLOW_M,
    )
    if drag and not rod.lure.dives and rod.lure.weight_n > 0:
        land, how = _dragged(session, mark, rod, off, lie)
    elif rod.lure.dives:
        settings = replace(rod, method=Method.RETRIEVE, cast_m=longest)
        deep, left = deepest_on(lambda cast: retrieve_path(settings, cast), longest)
        land = land_dived(off.distance_m, longest, left)
        how = (
            f"throw {display.words(longest, Kind.LENGTH, 0)}: it is deepest, {display.words(deep, Kind.DEPTH)}, with "
            f"{display.words(left, Kind.LENGTH, 0)} of line left; lie so far from the fish"
        )
    else:
        seconds = time_to_depth(rod.lure.falling(rod.line, rod.rho), fish, rho=rod.rho)[0]
        land = land_counted(off.distance_m, fish)
        how = f"count {seconds:.0f} s on open line, up to {2.3 * seconds:.0f} on a tight one"
        aside = blown_aside(mass, wind, land)
        if aside > 0.5:
            how += f"; a wind across carries it {display.words(aside, Kind.LENGTH, 0)}"
    return CastFromMark(off, lie, land, how)


class CastPicture(Painted):
    """From above: the fish, the boat on its side, where the lure lands, wind."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("cast_picture")
        self._session = session
        self._cast: CastFromMark | None = None
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """About square."""
        return QSize(300, 230)

    minimumSizeHint = sizeHint

    def show_cast(self, cast: CastFromMark | None) -> None:
        """Another cast."""
        self._cast = cast
        self.update()

    def paint(self, painter: QPainter) -> None:
        """North is up."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        display, theme = self._session.display, self._session.display.theme
        painter.fillRect(self.rect(), shade(theme.teal, 40))
        cast = self._cast
        if cast is None:
            return
        middle = QPointF(self.width() / 2, self.height() / 2)
        far = max(cast.off.distance_m, cast.land_m - cast.off.distance_m, 4.0) * 1.35
        per = min(self.width(), self.height()) / 2 / far

        def at(bearing_deg: float, metres: float) -> QPointF:
            a = math.radians(bearing_deg)
            return middle + QPointF(math.sin(a) * metres * per, -math.cos(a) * metres * per)

        boat = at(cast.lie_deg, cast.off.distance_m)
        beyond = at(cast.lie_deg + 180.0, cast.land_m - cast.off.distance_m)
        painter.setPen(pen(theme.muted, 1.2, style=Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        radius = cast.off.distance_m * per
        painter.drawEllipse(middle, radius, radius)
        painter.setPen(pen(theme.ink, 1.5, style=Qt.PenStyle.DashLine))
        painter.drawLine(boat, beyond)
        painter.setPen(pen(theme.ink, 1.5))
        painter.setBrush(shade(theme.vermilion))
        painter.drawEllipse(middle, 6, 6)
        painter.setBrush(shade(theme.brass))
        painter.drawEllipse(beyond, 5, 5)
        a = math.radians(cast.lie_deg + 180.0)
        bow, side = QPointF(math.sin(a), -math.cos(a)), QPointF(math.cos(a), math.sin(a))
        painter.setBrush(QColor(theme.ink))
        painter.drawPolygon(QPolygonF([boat + bow * 13, boat - bow * 9 + side * 6, boat - bow * 9 - side * 6]))
        painter.setFont(font(display.text_size * 0.8))
        painter.setPen(QColor(theme.ink))
        for point, words in ((middle, "fish"), (beyond, "lands"), (boat, "boat")):
            box = QRectF(
                min(point.x() + 10, self.width() - 50), min(max(point.y() - 9, 2), self.height() - 20), 60, 18
            )
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, words)
        painter.drawText(QPointF(8, 16), "N up")


class CastSheet(Sheet):
    """Of the chosen mark."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "cast", "A cast to the mark", parent)
        row = QHBoxLayout()
        row.setSpacing(18)
        self._picture = CastPicture(session)
        row.addWidget(self._picture)
        side = QVBoxLayout()
        side.setSpacing(6)
        self._head, self._words = label("", "value", name="cast_head"), label("", name="cast_words")
        self._more = label("", "small", name="cast_more")
        for widget in (self._head, self._words, self._more):
            widget.setWordWrap(True)
            side.addWidget(widget)
        self._of = 0
        self._noise = QComboBox()
        self._noise.setObjectName("cast_noise")
        self._noise.addItems([n.value for n in Noise])
        self._noise.setToolTip("What the boat does as it comes near")
        self._noise.currentIndexChanged.connect(lambda _: self.fill())
        side.addWidget(self._noise)
        self._drag = QCheckBox("Dragged over the bottom")
        self._drag.setObjectName("cast_drag")
        self._drag.clicked.connect(lambda _: self.fill())
        side.addWidget(self._drag)
        side.addStretch(1)
        row.addLayout(side, 1)
        self.body.addLayout(row)
        self.finish("Done", lambda: session.ask_sheet(""), cancel=False)
        for signal in (session.logbook.chosen_changed, session.conditions.changed, session.display.changed):
            signal.connect(self.refresh)

    def fill(self) -> None:
        """For the chosen mark, the rod that is cast and the day."""
        mark, display = self.session.logbook.chosen, self.session.display
        try:
            if mark is None:
                raise ValueError("choose a mark first")
            if mark.id != self._of:  # a fish on the bottom is offered a lure on the bottom
                self._of = mark.id
                self._drag.setChecked(near_bottom(mark))
            noise = list(Noise)[self._noise.currentIndex()]
            cast = cast_to(self.session, mark, noise, drag=self._drag.isChecked())
        except ValueError as exc:
            self._picture.show_cast(None)
            self._head.setText("")
            self._words.setText(f"{str(exc)[:1].upper()}{str(exc)[1:]}.")
            self._more.setText("")
            return
        far, land = (display.words(v, Kind.LENGTH, 0) for v in (cast.off.distance_m, cast.land_m))
        self._picture.show_cast(cast)
        self._head.setText(f"Lie {far} off, {cast.lie_deg:.0f}° from it; land {land} out")
        self._words.setText(f"{cast.words[:1].upper()}{cast.words[1:]}.")
        parts = [
            f"{who} {display.words(far_m, Kind.LENGTH, 0)} off" if far_m > 0 else f"{who} not at all in this water"
            for who, far_m in (
                ("You are seen", cast.off.seen_m),
                ("the hull is", cast.off.hull_m),
                ("noise is heard", cast.off.heard_m),
            )
        ]
        above = " Right above it is fine: it is deep enough." if cast.off.over_it else ""
        self._more.setText(
            f"{', '.join(parts)}. With {cast_rod(self.session).lure.name}.{above} Up the wind, a low sun in front."
        )
