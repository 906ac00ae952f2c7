"""What both pages are written with: inks, fonts, lines of text in tenths of a point."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen

from plumbbob.core.units import Kind, quantity
from plumbbob.desk.theme import DAY
from plumbbob.formats.day_card import DayCard
from plumbbob.formats.waters import clock_of

# the unit is a tenth of a point: whole numbers are fine enough, and so are fonts in them
PT = 10.0
LEAST_PT = 9.0
POINTS = ("N", "NE", "E", "SE", "S", "SW", "W", "NW")


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


def face(points: float = LEAST_PT, *, bold: bool = False) -> QFont:
    """A font of a size in points; never under nine."""
    made = QFont("B612")
    made.setPixelSize(round(max(points, LEAST_PT) * PT))
    made.setBold(bold)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    return made


def plain_name(name: str) -> str:
    """A second visit is to the same place."""
    return name.removesuffix(" (again)")


@dataclass
class Pen:
    """Writes on one page of a card."""

    painter: QPainter
    card: DayCard
    inks: Inks

    def clock(self, time: float) -> str:
        """Time of day at the water."""
        return datetime.fromtimestamp(time, UTC).astimezone(clock_of(self.card.time_zone)).strftime("%H:%M")

    def say(self, value: float, kind: Kind, decimals: int | None = None) -> str:
        """A quantity in the card's units."""
        return quantity(value, kind, self.card.units, decimals)

    def number(self, name: str) -> str:
        """Of a place, in the order of first visits."""
        names = list(dict.fromkeys(plain_name(s.name) for s in self.card.stays))
        return str(names.index(plain_name(name)) + 1)

    def write(
        self,
        x: float,
        y: float,
        text: str,
        points: float = LEAST_PT,
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

    def centred(self, x: float, y: float, text: str, *, bold: bool = False) -> None:
        """A line about a point."""
        metrics = QFontMetricsF(face(bold=bold))
        self.write(x - metrics.horizontalAdvance(text) / 2, y - metrics.height() / 2, text, bold=bold)

    def paragraph(self, x: float, y: float, text: str, wide: float) -> float:
        """Lines that fit a width; returns where the next begins."""
        metrics = QFontMetricsF(face())
        line = ""
        for word in text.split():
            longer = f"{line} {word}".strip()
            if line and metrics.horizontalAdvance(longer) > wide:
                y = self.write(x, y, line)
                line = word
            else:
                line = longer
        return self.write(x, y, line) if line else y

    def head(self, x: float, y: float, text: str, wide: float) -> float:
        """A heading with a rule under it."""
        y = self.write(x, y, text, bold=True, ink=self.inks.water)
        self.painter.setPen(QPen(QColor(self.inks.soft), 5))
        self.painter.drawLine(QPointF(x, y + 6), QPointF(x + wide, y + 6))
        return y + 30


Say = Callable[..., str]
