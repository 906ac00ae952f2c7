"""The card: a planned day on two pages of paper, to be read wet and small. Painted with Qt, as vectors."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import pairwise

import numpy as np
from PySide6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QImage, QPageSize, QPainter, QPdfWriter, QPen, QPolygonF

from plumbbob.core.geodesy import Position, distance_m, metres_per_degree
from plumbbob.core.plan.clock import wind_at
from plumbbob.core.types import Floats
from plumbbob.core.units import Kind, quantity
from plumbbob.desk.theme import DAY
from plumbbob.formats.day_card import CardStay, DayCard
from plumbbob.formats.waters import clock_of

# the unit of all that follows is a tenth of a point: whole numbers are fine enough, and so are fonts in them
_PT = 10.0
_LEAST_PT = 9.0
_SIZES = {"a5": (148.0, 210.0), "a4": (210.0, 297.0), "letter": (215.9, 279.4)}
PAPERS = tuple(_SIZES)
_MM = 72.0 / 25.4 * _PT
_MARGIN = 24.0 * _PT
_POINTS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")
_DEEP_RELEASE_M = 9.0  # from here on gas often keeps a released fish up (handbook 8)
_COLD_C = 15.0
_CUT_OUTS, _CUT_M = 4, 130.0


@dataclass(frozen=True, slots=True)
class Inks:
    """Colours of the print; in black on white all are black, and fills are left out."""

    ink: str
    strong: str
    water: str
    warn: str
    fill: str
    soft: str


COLOUR = Inks(DAY.ink, DAY.brass_text, DAY.teal_text, DAY.vermilion_text, "#D9E5DC", "#9AA3A0")
BLACK = Inks("#000000", "#000000", "#000000", "#000000", "#FFFFFF", "#777777")


def write_pdf(card: DayCard, path: str, paper: str = "a5", *, colour: bool = True) -> None:
    """
    Both pages into a PDF.

    Raises
    ------
    OSError
        If it can't be written.
    """
    wide, high = _SIZES[paper]
    writer = QPdfWriter(path)
    writer.setPageSize(QPageSize(QSizeF(wide, high), QPageSize.Unit.Millimeter, paper))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setTitle(f"{card.water} {_day(card)}".strip())
    writer.setCreator("Plumbbob")
    writer.setResolution(720)
    painter = QPainter()
    if not painter.begin(writer):
        raise OSError("can't be written")
    for number, page in enumerate(pages(card, paper, colour=colour)):
        if number:
            writer.newPage()
        page(painter)
    painter.end()


def page_image(card: DayCard, number: int, paper: str = "a5", *, colour: bool = True, dpi: float = 150.0) -> QImage:
    """One page as a picture."""
    wide, high = _SIZES[paper]
    scale = dpi / 25.4
    image = QImage(round(wide * scale), round(high * scale), QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(dpi / 720.0, dpi / 720.0)
    pages(card, paper, colour=colour)[number](painter)
    painter.end()
    return image


def pages(card: DayCard, paper: str, *, colour: bool) -> list[Callable[[QPainter], None]]:
    """What paints each page, in tenths of a point."""
    wide, high = _SIZES[paper]
    sheet = _Sheet(card, QRectF(0, 0, wide * _MM, high * _MM), COLOUR if colour else BLACK)
    return [sheet.first, sheet.second]


def _day(card: DayCard) -> str:
    day = datetime.fromtimestamp(card.start, UTC).astimezone(clock_of(card.time_zone))
    return f"{day:%a} {day.day} {day:%b %Y}"


def face(points: float, *, bold: bool = False) -> QFont:
    """A font of a size in points; never under nine."""
    made = QFont("B612")
    made.setPixelSize(round(max(points, _LEAST_PT) * _PT))
    made.setBold(bold)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return made


class _Sheet:
    """Both pages of one card."""

    def __init__(self, card: DayCard, page: QRectF, inks: Inks) -> None:
        self.card, self.page, self.inks = card, page, inks
        self.area = page.adjusted(_MARGIN, _MARGIN, -_MARGIN, -_MARGIN)
        self.painter = QPainter.__new__(QPainter)  # set by each page
        self.numbers: dict[str, int] = {}
        for stay in card.stays:
            self.numbers.setdefault(_plain(stay.name), len(self.numbers) + 1)

    # -- words --------------------------------------------------------------------------------------------------

    def clock(self, time: float) -> str:
        """Time of day at the water."""
        return datetime.fromtimestamp(time, UTC).astimezone(clock_of(self.card.time_zone)).strftime("%H:%M")

    def say(self, value: float, kind: Kind, decimals: int | None = None) -> str:
        """A quantity in the card's units."""
        return quantity(value, kind, self.card.units, decimals)

    def write(
        self,
        x: float,
        y: float,
        text: str,
        points: float = 9.0,
        *,
        bold: bool = False,
        ink: str = "",
        room: float = 0.0,
    ) -> float:
        """A line whose top is at y; returns where the next one begins."""
        made = face(points, bold=bold)
        metrics = QFontMetricsF(made)
        if room:
            text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
        self.painter.setFont(made)
        self.painter.setPen(QColor(ink or self.inks.ink))
        self.painter.drawText(QPointF(x, y + metrics.ascent()), text)
        return y + metrics.height()

    def paragraph(self, x: float, y: float, text: str, wide: float, points: float = 9.0, *, ink: str = "") -> float:
        """Lines that fit a width; returns where the next begins."""
        metrics = QFontMetricsF(face(points))
        line = ""
        for word in text.split():
            longer = f"{line} {word}".strip()
            if line and metrics.horizontalAdvance(longer) > wide:
                y = self.write(x, y, line, points, ink=ink)
                line = word
            else:
                line = longer
        return self.write(x, y, line, points, ink=ink) if line else y

    def head(self, x: float, y: float, text: str, wide: float) -> float:
        """A heading with a rule under it."""
        y = self.write(x, y, text, 9.0, bold=True, ink=self.inks.water)
        self.painter.setPen(QPen(QColor(self.inks.soft), 5))
        self.painter.drawLine(QPointF(x, y + 6), QPointF(x + wide, y + 6))
        return y + 30

    # -- the first page -----------------------------------------------------------------------------------------

    def first(self, painter: QPainter) -> None:
        """Title, map, band, stays."""
        self.painter = painter
        card, area = self.card, self.area
        y = self.write(area.left(), area.top(), f"{card.water or 'The day'}   {_day(card)}", 14.0, bold=True)
        spread = f", eight days in ten {card.fish_range[0]} to {card.fish_range[1]}" if card.fish_range else ""
        told = f"From {self.clock(card.start)}, back {self.clock(card.back)}. {card.fish:.1f} fish expected{spread}."
        y = self.write(area.left(), y + 10, told, 10.0) + 40
        rows = len(card.stays)
        row = QFontMetricsF(face(9.0)).height() * 2 + 26
        table = min(rows * row + 230, 0.55 * area.height())
        band = 1050.0
        map_box = QRectF(area.left(), y, area.width(), max(area.bottom() - y - table - band - 140, 900.0))
        self.map(map_box, self.everything(), labels=True)
        y = map_box.bottom() + 60
        self.band(QRectF(area.left(), y, area.width(), band))
        y = self.stays(area.left(), y + band + 40, area.width(), area.bottom() - 160)
        self.foot()

    def foot(self) -> None:
        """On every page."""
        words = "Not for navigation. Seasons, sizes, limits: the local authority's rules hold."
        metrics = QFontMetricsF(face(9.0))
        self.write(self.area.left(), self.area.bottom() - metrics.height(), words, 9.0, ink=self.inks.warn)

    def everything(self) -> list[Position]:
        """Places that the large map has to show."""
        card = self.card
        return [p for s in card.stays for p in s.way] + list(card.way_home)

    def stays(self, x: float, y: float, wide: float, foot: float) -> float:
        """The stays in order: number, times, name, depth, fish, and why."""
        y = self.head(x, y, "STAYS", wide)
        metrics = QFontMetricsF(face(9.0))
        for k, stay in enumerate(self.card.stays):
            if y + 2 * metrics.height() > foot:
                self.write(x, y, f"and {len(self.card.stays) - k} more, in the program", 9.0)
                break
            number = str(self.numbers[_plain(stay.name)])
            self.write(x, y, number, 10.0, bold=True, ink=self.inks.strong)
            self.write(x + 220, y, f"{self.clock(stay.arrive)}–{self.clock(stay.leave)}", 10.0, bold=True)
            fish = f"{stay.fish:.1f} fish"
            right = x + wide - metrics.horizontalAdvance(fish) - 20
            self.write(right, y, fish, 9.0)
            deep = ""
            if math.isfinite(stay.depth_m):
                deep = f", {self.say(stay.depth_m, Kind.DEPTH)} over {self.say(stay.bottom_m, Kind.DEPTH)}"
            y = self.write(x + 1080, y, f"{stay.name}{deep}", 9.0, bold=True, room=right - x - 1120)
            y = self.write(x + 220, y, stay.why, 9.0, room=wide - 240) + 18
        return y

    # -- maps ---------------------------------------------------------------------------------------------------

    def map(self, box: QRectF, show: Sequence[Position], *, labels: bool, radius_m: float = 0.0) -> None:
        """A piece of the chart, north up: contours, shore, hazards, ways, stays by number."""
        painter, inks = self.painter, self.inks
        painter.setPen(QPen(QColor(inks.soft), 6))
        painter.setBrush(QColor("white"))
        painter.drawRect(box)
        if not show:
            return
        north, east = metres_per_degree(show[0].latitude)
        origin = show[0]

        def flat(latlon: Floats) -> Floats:
            return np.stack(
                [(latlon[:, 1] - origin.longitude) * east, (latlon[:, 0] - origin.latitude) * north], axis=1
            )

        points = flat(np.array([(p.latitude, p.longitude) for p in show]))
        if not radius_m and self.card.shore:
            points = np.concatenate([points, *(flat(ring) for ring in self.card.shore)])
        low, high = points.min(axis=0) - radius_m, points.max(axis=0) + radius_m
        pad = 120.0
        scale = min(
            (box.width() - 2 * pad) / max(high[0] - low[0], 1.0),
            (box.height() - 2 * pad) / max(high[1] - low[1], 1.0),
        )
        middle = (low + high) / 2

        def at(xy: Floats) -> QPolygonF:
            return QPolygonF(
                [
                    QPointF(box.center().x() + (a - middle[0]) * scale, box.center().y() - (b - middle[1]) * scale)
                    for a, b in xy.tolist()
                ]
            )

        painter.save()
        painter.setClipRect(box)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for ring in self.card.shore:
            painter.setBrush(QColor(inks.fill))
            painter.setPen(QPen(QColor(inks.ink), 12))
            painter.drawPolygon(at(flat(ring)))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for depth, line in self.card.contours:
            painter.setPen(QPen(QColor(inks.water), 5))
            drawn = at(flat(line))
            painter.drawPolyline(drawn)
            if radius_m and drawn.size() > 2:
                self._contour_figure(drawn, depth, box)
        for hazard in self.card.hazards:
            spot = self._spot(at, flat, hazard)
            painter.setPen(QPen(QColor(inks.warn), 12))
            painter.drawPolygon(QPolygonF([spot + QPointF(0, -50), spot + QPointF(-45, 35), spot + QPointF(45, 35)]))
        ways = [s.way for s in self.card.stays]
        painter.setPen(QPen(QColor(inks.strong), 14))
        for way in ways:
            painter.drawPolyline(at(flat(np.array([(p.latitude, p.longitude) for p in way]))))
        if len(self.card.way_home) > 1:
            painter.setPen(QPen(QColor(inks.strong), 12, Qt.PenStyle.DashLine))
            painter.drawPolyline(at(flat(np.array([(p.latitude, p.longitude) for p in self.card.way_home]))))
        if labels or radius_m:
            self._numbers(at, flat)
        painter.restore()
        self._scale_bar(box, scale)

    @staticmethod
    def _spot(at: Callable[[Floats], QPolygonF], flat: Callable[[Floats], Floats], place: Position) -> QPointF:
        """One place on the map."""
        return at(flat(np.array([(place.latitude, place.longitude)]))).first()

    def _numbers(self, at: Callable[[Floats], QPolygonF], flat: Callable[[Floats], Floats]) -> None:
        painter, inks = self.painter, self.inks
        done: set[str] = set()
        start = self.card.stays[0].way[0] if self.card.stays else None
        if start is not None:
            spot = self._spot(at, flat, start)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(inks.ink))
            painter.drawPolygon(QPolygonF([spot + QPointF(0, -60), spot + QPointF(-50, 40), spot + QPointF(50, 40)]))
        for stay in self.card.stays:
            name = _plain(stay.name)
            if name in done:
                continue
            done.add(name)
            spot = self._spot(at, flat, stay.place)
            painter.setPen(QPen(QColor(inks.strong), 12))
            painter.setBrush(QColor("white"))
            painter.drawEllipse(spot, 78, 78)
            painter.setFont(face(9.0, bold=True))
            painter.setPen(QColor(inks.ink))
            painter.drawText(
                QRectF(spot.x() - 80, spot.y() - 80, 160, 160), Qt.AlignmentFlag.AlignCenter, str(self.numbers[name])
            )

    def _contour_figure(self, line: QPolygonF, depth: float, box: QRectF) -> None:
        """The depth of a line, once, where it is well inside the piece."""
        inside = box.adjusted(150, 150, -150, -150)
        spot = next((p for k in range(line.size() // 2, line.size()) if inside.contains(p := line.at(k))), None)
        if spot is None:
            return
        text = self.say(depth, Kind.DEPTH, 0).split()[0]
        metrics = QFontMetricsF(face(9.0))
        self.painter.fillRect(
            QRectF(spot.x() - 10, spot.y() - 60, metrics.horizontalAdvance(text) + 20, 120), QColor("white")
        )
        self.write(spot.x(), spot.y() - metrics.height() / 2, text, 9.0, ink=self.inks.water)

    def _scale_bar(self, box: QRectF, scale: float) -> None:
        """A round distance to scale, and north."""
        room = box.width() * 0.3 / scale
        size = 10 ** math.floor(math.log10(max(room, 1e-3)))
        length = next(m * size for m in (5, 2, 1) if m * size <= room)
        x, y = box.left() + 60, box.bottom() - 60
        self.painter.setPen(QPen(QColor(self.inks.ink), 14))
        self.painter.drawLine(QPointF(x, y), QPointF(x + length * scale, y))
        self.write(x + length * scale + 40, y - 90, f"{length:g} m", 9.0)
        top = QPointF(box.right() - 90, box.top() + 60)
        self.painter.setBrush(QColor(self.inks.ink))
        self.painter.drawPolygon(QPolygonF([top, top + QPointF(-40, 110), top + QPointF(40, 110)]))
        self.write(top.x() - 35, top.y() + 120, "N", 9.0, bold=True)

    # -- the band -----------------------------------------------------------------------------------------------

    def band(self, box: QRectF) -> None:
        """The day from left to right: light, wind, stays."""
        card, painter, inks = self.card, self.painter, self.inks
        first = (
            math.floor(min(card.start, *(s.arrive for s in card.stays)) / 3600.0) * 3600.0
            if card.stays
            else card.start
        )
        last = math.ceil(card.back / 3600.0) * 3600.0
        span = max(last - first, 3600.0)

        def x(time: float) -> float:
            return box.left() + (time - first) / span * box.width()

        wind_y, bar = box.top(), QRectF(box.left(), box.top() + 260, box.width(), 420)
        painter.setPen(QPen(QColor(inks.ink), 8))
        painter.setBrush(QColor("white"))
        painter.drawRect(bar)
        light, dark = card.lights.get("sunrise"), card.lights.get("sunset")
        shade = QColor(inks.soft)
        shade.setAlpha(110)
        for a, b in ((first, light), (dark, last)):
            if a is not None and b is not None and b > first and a < last:
                left, right = x(max(a, first)), x(min(b, last))
                painter.fillRect(QRectF(left, bar.top(), right - left, bar.height()), shade)
        for name, words in (("sunrise", "sun up"), ("sunset", "sun down")):
            time = card.lights.get(name)
            if time is not None and first <= time <= last:
                painter.setPen(QPen(QColor(inks.ink), 8, Qt.PenStyle.DotLine))
                painter.drawLine(QPointF(x(time), bar.top() - 40), QPointF(x(time), bar.bottom()))
                self.write(x(time) + 15, bar.top() - 135, f"{words} {self.clock(time)}", 9.0)
        done = -1e9
        for hour in card.hours:
            at = x(max(hour.time, first))
            if at < done or at > box.right() - 500:
                continue
            over = math.isfinite(card.wind_limit_mps) and hour.wind_mps >= card.wind_limit_mps
            text = f"{self.say(hour.wind_mps, Kind.SPEED, 0)} {_POINTS[round(hour.from_deg / 45.0) % 8]}"
            self.write(at, wind_y, text, 9.0, ink=inks.warn if over else inks.water)
            done = at + QFontMetricsF(face(9.0)).horizontalAdvance(text) + 60
        for stay in card.stays:
            left, right = x(stay.arrive), x(stay.leave)
            block = QRectF(left, bar.top() + 90, max(right - left, 20), bar.height() - 180)
            painter.setPen(QPen(QColor(inks.strong), 12))
            painter.setBrush(QColor(inks.fill))
            painter.drawRect(block)
            painter.setPen(QColor(inks.ink))
            painter.setFont(face(9.0, bold=True))
            painter.drawText(block, Qt.AlignmentFlag.AlignCenter, str(self.numbers[_plain(stay.name)]))
        metrics = QFontMetricsF(face(9.0))
        wide = metrics.horizontalAdvance("00:00") + 90
        every = max(math.ceil(wide / (box.width() / (span / 3600.0))), 1)
        for k in range(int(span // 3600) + 1):
            if k % every == 0:
                at = x(first + 3600.0 * k)
                painter.setPen(QPen(QColor(inks.ink), 8))
                painter.drawLine(QPointF(at, bar.bottom()), QPointF(at, bar.bottom() + 40))
                left = min(max(at - metrics.horizontalAdvance("00:00") / 2, box.left()), box.right() - wide + 90)
                self.write(left, bar.bottom() + 45, self.clock(first + 3600.0 * k), 9.0)

    # -- the second page ----------------------------------------------------------------------------------------

    def second(self, painter: QPainter) -> None:
        """Pieces of the chart, tables of the rods, cautions, a strip for notes."""
        self.painter = painter
        area = self.area
        y = self.cut_outs(area.left(), area.top(), area.width(), 0.3 * area.height())
        y = self.tables(area.left(), y + 50, area.width(), y + 50 + 0.26 * area.height())
        y = self.cautions(area.left(), y + 40, area.width())
        self.notes(QRectF(area.left(), y + 40, area.width(), area.bottom() - 190 - y - 40))
        self.foot()

    def cut_outs(self, x: float, y: float, wide: float, high: float) -> float:
        """The chart about the first places, each a small map."""
        shown: list[CardStay] = []
        for stay in self.card.stays:
            if all(_plain(stay.name) != _plain(s.name) for s in shown):
                shown.append(stay)
        shown = shown[:_CUT_OUTS]
        if not shown:
            return y
        y = self.head(x, y, "PLACES FROM NEAR", wide)
        each = (wide - 60.0 * (len(shown) - 1)) / len(shown)
        tall = min(high - 300, each * 1.25)
        metrics = QFontMetricsF(face(9.0))
        for k, stay in enumerate(shown):
            left = x + k * (each + 60.0)
            self.write(left, y, f"{self.numbers[_plain(stay.name)]} {_plain(stay.name)}", 9.0, bold=True, room=each)
            self.map(QRectF(left, y + metrics.height() + 10, each, tall), [stay.place], labels=False, radius_m=_CUT_M)
        return y + metrics.height() + 10 + tall

    def tables(self, x: float, y: float, wide: float, foot: float) -> float:
        """What to let out or count, for each rod."""
        rods = self.card.rods[:4]
        if not rods:
            return y
        y = self.head(x, y, "RODS", wide)
        each = wide / len(rods)
        deepest = y
        for k, rod in enumerate(rods):
            left, top = x + k * each, y
            top = self.write(left, top, rod.title, 9.0, bold=True, room=each - 40)
            columns = max((len(r) for r in (rod.head, *rod.rows)), default=1)
            step = min((each - 60) / max(columns, 1), 420.0)
            for row in (rod.head, *rod.rows):
                if top + 110 > foot:
                    break
                for c, cell in enumerate(row):
                    metrics = QFontMetricsF(face(9.0))
                    self.write(left + (c + 1) * step - metrics.horizontalAdvance(cell) - 30, top, cell, 9.0)
                top += QFontMetricsF(face(9.0)).height()
            if rod.foot:
                top = self.write(left, top, rod.foot, 9.0, room=each - 40)
            deepest = max(deepest, top)
        return deepest

    def cautions(self, x: float, y: float, wide: float) -> float:
        """What the plan may run into, each once; the local forecast and rules come first."""
        y = self.head(x, y, "MIND", wide)
        for line in caution_lines(self.card, self.say, self.clock):
            y = self.paragraph(x, y, line, wide) + 12
        return y

    def notes(self, box: QRectF) -> None:
        """A ruled strip with the depths already printed."""
        row = 200.0
        count = int(box.height() / row) - 1
        if count < 2:
            return
        y = self.head(box.left(), box.top(), "NOTES   depth, time, what, how many", box.width())
        deepest = max((s.depth_m for s in self.card.stays if math.isfinite(s.depth_m)), default=math.nan)
        step = max(math.ceil(1.4 * deepest / count), 1) if math.isfinite(deepest) else 0
        self.painter.setPen(QPen(QColor(self.inks.soft), 5))
        for k in range(count):
            base = y + (k + 1) * row
            if base > box.bottom():
                break
            if step:
                self.write(box.left(), base - 130, self.say(step * (k + 1), Kind.DEPTH, 0), 9.0)
            self.painter.setPen(QPen(QColor(self.inks.soft), 5))
            self.painter.drawLine(QPointF(box.left(), base), QPointF(box.right(), base))


def caution_lines(card: DayCard, say: Callable[..., str], clock: Callable[[float], str]) -> list[str]:
    """What the plan may run into, in order of weight."""
    out = []
    if math.isfinite(card.wind_limit_mps):
        limit = say(card.wind_limit_mps, Kind.SPEED, 0)
        over = next((h for h in card.hours if h.wind_mps >= card.wind_limit_mps), None)
        when = f" It is expected from {clock(over.time)}." if over is not None else ""
        out.append(
            f"Wind: off the water from {limit} on; gusts are half as strong again.{when} The forecast comes first."
        )
    if math.isfinite(card.surface_c) and card.surface_c < _COLD_C:
        out.append("Cold water: useful movement lasts about ten minutes. Wear the life jacket, dress for the water.")
    if card.kayak:
        out.append("Kayak: jacket worn, re-entry practised, light and whistle; no anchor from the side in current.")
    out.append("Thunder heard is thunder near: leave the water, rods down, half an hour after the last.")
    deep = [s for s in card.stays if s.depth_m >= _DEEP_RELEASE_M]
    if deep:
        from_m = say(min(s.depth_m for s in deep), Kind.DEPTH, 0)
        out.append(
            f"Fish from {from_m} and deeper often can't be released unharmed: stop when enough are kept, let go at "
            "once without air, or lower them back down; local rules hold."
        )
    emergency = card.float_plan.get("emergency", "")
    call = card.float_plan.get("call", "")
    out.append(f"In need: {emergency or '____________'}   ashore: {call or '____________'}")
    if card.stays and card.hours:
        last = card.stays[-1]
        wind = wind_at(card.hours, last.leave)
        far = say(sum(distance_m(a, b) for a, b in pairwise(card.way_home)), Kind.DISTANCE, 0)
        blows = f"{say(wind.wind_mps, Kind.SPEED, 0)} from {_POINTS[round(wind.from_deg / 45.0) % 8]}"
        out.append(f"Turn for home {clock(last.leave)}: {far}, wind {blows}.")
    return out


def _plain(name: str) -> str:
    """A second visit is to the same place."""
    return name.removesuffix(" (again)")
