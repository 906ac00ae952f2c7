"""The card: a planned day on two pages of paper, to be read wet and small. Painted with Qt, as vectors."""

from __future__ import annotations

import math
from collections.abc import Callable
from datetime import UTC, datetime
from itertools import pairwise

from PySide6.QtCore import QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPageSize, QPainter, QPdfWriter, QPen

from plumbbob.core.geodesy import Position, distance_m
from plumbbob.core.plan.clock import wind_at
from plumbbob.core.units import Kind, unit_of
from plumbbob.desk.card.map_piece import paint_map
from plumbbob.desk.card.paper import BLACK, COLOUR, POINTS, PT, Inks, Pen, face, plain_name
from plumbbob.desk.kit.paint import round_steps
from plumbbob.formats.day_card import CardStay, DayCard
from plumbbob.formats.waters import clock_of

_SIZES = {"a5": (148.0, 210.0), "a4": (210.0, 297.0), "letter": (215.9, 279.4)}
PAPERS = tuple(_SIZES)
_MM = 72.0 / 25.4 * PT
_MARGIN = 24.0 * PT
_DEEP_RELEASE_M = 9.0  # from here on gas often keeps a released fish up (handbook 8)
_COLD_C = 15.0
_CUT_OUTS, _CUT_M = 4, 130.0


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


class _Sheet:
    """Both pages of one card."""

    def __init__(self, card: DayCard, page: QRectF, inks: Inks) -> None:
        self.card, self.inks = card, inks
        self.area = page.adjusted(_MARGIN, _MARGIN, -_MARGIN, -_MARGIN)

    # -- the first page -----------------------------------------------------------------------------------------

    def first(self, painter: QPainter) -> None:
        """Title, map, band, stays."""
        pen = Pen(painter, self.card, self.inks)
        card, area = self.card, self.area
        y = pen.write(area.left(), area.top(), f"{card.water or 'The day'}   {_day(card)}", 14.0, bold=True)
        spread = f", eight days in ten {card.fish_range[0]} to {card.fish_range[1]}" if card.fish_range else ""
        told = f"From {pen.clock(card.start)}, back {pen.clock(card.back)}. {card.fish:.1f} fish expected{spread}."
        y = pen.write(area.left(), y + 10, told, 10.0) + 40
        rows = len(card.stays)
        row = QFontMetricsF(face(9.0)).height() * 2 + 26
        table = min(rows * row + 420, 0.55 * area.height())
        band = 1050.0
        map_box = QRectF(area.left(), y, area.width(), max(area.bottom() - y - table - band - 140, 900.0))
        paint_map(pen, map_box, self.everything())
        y = map_box.bottom() + 60
        self.band(pen, QRectF(area.left(), y, area.width(), band))
        y = self.stays(pen, area.left(), y + band + 40, area.width(), area.bottom() - 160)
        self.foot(pen)

    def foot(self, pen: Pen) -> None:
        """On every page."""
        words = "Not for navigation. Seasons, sizes, limits: the local authority's rules hold."
        metrics = QFontMetricsF(face(9.0))
        pen.write(self.area.left(), self.area.bottom() - metrics.height(), words, 9.0, ink=self.inks.warn)

    def everything(self) -> list[Position]:
        """Places that the large map has to show."""
        card = self.card
        return [p for s in card.stays for p in s.way] + list(card.way_home)

    def stays(self, pen: Pen, x: float, y: float, wide: float, foot: float) -> float:
        """The stays in order: number, times, name, depth, fish, and why."""
        y = pen.head(x, y, "STAYS", wide)
        metrics = QFontMetricsF(face(9.0))
        for k, stay in enumerate(self.card.stays):
            if y + 2 * metrics.height() > foot:
                pen.write(x, y, f"and {len(self.card.stays) - k} more, in the program", 9.0)
                break
            number = pen.number(stay.name)
            pen.write(x, y, number, 10.0, bold=True, ink=self.inks.strong)
            pen.write(x + 220, y, f"{pen.clock(stay.arrive)}–{pen.clock(stay.leave)}", 10.0, bold=True)
            fish = f"{stay.fish:.1f} fish"
            right = x + wide - metrics.horizontalAdvance(fish) - 20
            pen.write(right, y, fish, 9.0)
            deep = ""
            if math.isfinite(stay.depth_m):
                deep = f", {pen.say(stay.depth_m, Kind.DEPTH)} over {pen.say(stay.bottom_m, Kind.DEPTH)}"
            y = pen.write(x + 1080, y, f"{stay.name}{deep}", 9.0, bold=True, room=right - x - 1120)
            y = pen.write(x + 220, y, stay.why, 9.0, room=wide - 240) + 18
        return y

    # -- the band -----------------------------------------------------------------------------------------------

    def band(self, pen: Pen, box: QRectF) -> None:
        """The day from left to right: light, wind, stays."""
        card, painter, inks = self.card, pen.painter, self.inks
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
                pen.write(x(time) + 15, bar.top() - 135, f"{words} {pen.clock(time)}", 9.0)
        done = -1e9
        for hour in card.hours:
            at = x(max(hour.time, first))
            if at < done or at > box.right() - 500:
                continue
            over = math.isfinite(card.wind_limit_mps) and hour.wind_mps >= card.wind_limit_mps
            text = f"{pen.say(hour.wind_mps, Kind.SPEED, 0)} {POINTS[round(hour.from_deg / 45.0) % 8]}"
            pen.write(at, wind_y, text, 9.0, ink=inks.warn if over else inks.water)
            done = at + QFontMetricsF(face(9.0)).horizontalAdvance(text) + 60
        for stay in card.stays:
            left, right = x(stay.arrive), x(stay.leave)
            block = QRectF(left, bar.top() + 90, max(right - left, 20), bar.height() - 180)
            painter.setPen(QPen(QColor(inks.strong), 12))
            painter.setBrush(QColor(inks.fill))
            painter.drawRect(block)
            painter.setPen(QColor(inks.ink))
            painter.setFont(face(9.0, bold=True))
            painter.drawText(block, Qt.AlignmentFlag.AlignCenter, pen.number(stay.name))
        metrics = QFontMetricsF(face(9.0))
        wide = metrics.horizontalAdvance("00:00") + 90
        every = max(math.ceil(wide / (box.width() / (span / 3600.0))), 1)
        for k in range(int(span // 3600) + 1):
            if k % every == 0:
                at = x(first + 3600.0 * k)
                painter.setPen(QPen(QColor(inks.ink), 8))
                painter.drawLine(QPointF(at, bar.bottom()), QPointF(at, bar.bottom() + 40))
                left = min(max(at - metrics.horizontalAdvance("00:00") / 2, box.left()), box.right() - wide + 90)
                pen.write(left, bar.bottom() + 45, pen.clock(first + 3600.0 * k), 9.0)

    # -- the second page ----------------------------------------------------------------------------------------

    def second(self, painter: QPainter) -> None:
        """Pieces of the chart, tables of the rods, cautions, a strip for notes."""
        pen = Pen(painter, self.card, self.inks)
        area = self.area
        y = self.cut_outs(pen, area.left(), area.top(), area.width(), 0.3 * area.height())
        y = self.tables(pen, area.left(), y + 50, area.width(), y + 50 + 0.26 * area.height())
        y = self.cautions(pen, area.left(), y + 40, area.width())
        self.notes(pen, QRectF(area.left(), y + 40, area.width(), area.bottom() - 190 - y - 40))
        self.foot(pen)

    def cut_outs(self, pen: Pen, x: float, y: float, wide: float, high: float) -> float:
        """The chart about the first places, each a small map."""
        shown: list[CardStay] = []
        for stay in self.card.stays:
            if all(plain_name(stay.name) != plain_name(s.name) for s in shown):
                shown.append(stay)
        shown = shown[:_CUT_OUTS]
        if not shown:
            return y
        y = pen.head(x, y, "PLACES FROM NEAR", wide)
        each = (wide - 60.0 * (len(shown) - 1)) / len(shown)
        tall = min(high - 300, each * 1.25)
        metrics = QFontMetricsF(face(9.0))
        for k, stay in enumerate(shown):
            left = x + k * (each + 60.0)
            pen.write(left, y, f"{pen.number(stay.name)} {plain_name(stay.name)}", 9.0, bold=True, room=each)
            paint_map(pen, QRectF(left, y + metrics.height() + 10, each, tall), [stay.place], radius_m=_CUT_M)
        return y + metrics.height() + 10 + tall

    def tables(self, pen: Pen, x: float, y: float, wide: float, foot: float) -> float:
        """What to let out or count, for each rod."""
        rods = self.card.rods[:4]
        if not rods:
            return y
        y = pen.head(x, y, f"RODS   down: depth, across: {unit_of(Kind.SPEED, self.card.units).symbol}", wide)
        each = wide / len(rods)
        deepest = y
        for k, rod in enumerate(rods):
            left, top = x + k * each, y
            top = pen.write(left, top, rod.title, 9.0, bold=True, room=each - 40)
            columns = max((len(r) for r in (rod.head, *rod.rows)), default=1)
            step = min((each - 60) / max(columns, 1), 420.0)
            for row in (rod.head, *rod.rows):
                if top + 110 > foot:
                    break
                for c, cell in enumerate(row):
                    metrics = QFontMetricsF(face(9.0))
                    pen.write(left + (c + 1) * step - metrics.horizontalAdvance(cell) - 30, top, cell, 9.0)
                top += QFontMetricsF(face(9.0)).height()
            if rod.foot:
                top = pen.write(left, top, rod.foot, 9.0, room=each - 40)
            deepest = max(deepest, top)
        return deepest

    def cautions(self, pen: Pen, x: float, y: float, wide: float) -> float:
        """What the plan may run into, each once; the local forecast and rules come first."""
        y = pen.head(x, y, "MIND", wide)
        for line in caution_lines(self.card, pen.say, pen.clock):
            y = pen.paragraph(x, y, line, wide) + 12
        return y

    def notes(self, pen: Pen, box: QRectF) -> None:
        """A ruled strip with the depths already printed."""
        row = 200.0
        count = int(box.height() / row) - 1
        if count < 2:
            return
        y = pen.head(box.left(), box.top(), "NOTES   depth, time, what, how many", box.width())
        deepest = max((s.depth_m for s in self.card.stays if math.isfinite(s.depth_m)), default=math.nan)
        step = round_steps(1.4 * deepest, Kind.DEPTH, self.card.units, count) if deepest > 0 else 0.0
        pen.painter.setPen(QPen(QColor(self.inks.soft), 5))
        for k in range(count):
            base = y + (k + 1) * row
            if base > box.bottom():
                break
            if step:
                pen.write(box.left(), base - 130, pen.say(step * (k + 1), Kind.DEPTH, 0), 9.0)
            pen.painter.setPen(QPen(QColor(self.inks.soft), 5))
            pen.painter.drawLine(QPointF(box.left(), base), QPointF(box.right(), base))


def caution_lines(card: DayCard, say: Callable[..., str], clock: Callable[[float], str]) -> list[str]:
    """What the plan may run into, in order of weight."""
    out = []
    if math.isfinite(card.wind_limit_mps):
        limit = say(card.wind_limit_mps, Kind.SPEED, 0)
        over = next((h for h in card.hours if h.wind_mps >= card.wind_limit_mps), None)
        when = f" It is expected from {clock(over.time)}." if over is not None else ""
        out.append(f"Wind: off the water at {limit}; gusts are half as strong again.{when} The forecast comes first.")
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
        blows = f"{say(wind.wind_mps, Kind.SPEED, 0)} from {POINTS[round(wind.from_deg / 45.0) % 8]}"
        out.append(f"Turn for home {clock(last.leave)}: {far}, wind {blows}.")
    return out
