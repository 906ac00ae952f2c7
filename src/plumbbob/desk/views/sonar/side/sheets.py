"""A sheet over the view to the sides: how wide to scan for what is sought, and the slope a shadow falls on."""

from __future__ import annotations

import math

from PySide6.QtWidgets import QGridLayout, QWidget

from plumbbob.core.sonar.shadow_height import STEEPEST_DEG, scan_width
from plumbbob.core.units import Kind
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Field, WordField, label
from plumbbob.desk.models.session import Session

_USUAL_SPEED_MPS, _USUAL_BEAM_DEG, _USUAL_ALTITUDE_M = 1.3, 1.0, 8.0
_TREE_M, _FISH_M = 3.0, 0.4


class WidthSheet(Sheet):
    """What is sought and how fast one goes: how far to look to each side."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "width", "How wide to scan", parent)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        self._fields: dict[str, Field] = {}
        rows = (
            ("sought", "what is sought is long", Kind.DEPTH, _TREE_M),
            ("speed", "speed", Kind.SPEED, _USUAL_SPEED_MPS),
            ("altitude", "height over bottom", Kind.DEPTH, _USUAL_ALTITUDE_M),
        )
        for i, (name, title, kind, value) in enumerate(rows):
            field = Field(session.display, kind, f"width_{name}")
            field.fit("00.00 km/h")
            field.set_value(value)
            field.entered.connect(lambda _: self._compute())
            field.refused.connect(lambda line: session.say(line, wrong=True))
            grid.addWidget(label(title, "muted"), i, 0)
            grid.addWidget(field, i, 1)
            self._fields[name] = field
        self._slope = WordField(lambda v: f"{v:.0f}°", _degrees, "width_slope")
        self._slope.entered.connect(lambda v: session.side.set_slope(v if v else None))
        self._slope.refused.connect(lambda line: session.say(line, wrong=True))
        grid.addWidget(label("bottom rises away from the boat by", "muted"), len(rows), 0)
        grid.addWidget(self._slope, len(rows), 1)
        grid.setColumnStretch(2, 1)
        self.body.addLayout(grid)
        self._words = label("", "why", name="width_words")
        self._words.setWordWrap(True)
        self._words.setMinimumHeight(86)
        self.body.addWidget(self._words)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)
        session.display.changed.connect(self._compute)

    def fill(self) -> None:
        """Start from the open pass."""
        scan, side = self.session.scan, self.session.side
        if scan.document.speed_mps > 0.05:
            self._fields["speed"].set_value(scan.document.speed_mps)
        height = side.altitude_at(scan.time)
        if math.isfinite(height):
            self._fields["altitude"].set_value(height)
        self._slope.set_value(side.slope_deg)
        self._compute()

    def _compute(self) -> None:
        display, view = self.session.display, self.session.side.view
        sought, speed, height = (self._fields[n].value or 0.0 for n in ("sought", "speed", "altitude"))
        if not (0.05 <= sought <= 100.0 and 0.0 < speed <= 30.0 and 0.2 <= height <= 500.0):
            self._words.setText("Not possible: a length, a speed and a height over the bottom above zero are needed.")
            return
        beam = view.beam_width_along_deg if view is not None else _USUAL_BEAM_DEG
        sound = view.sound_speed_mps if view is not None else 1480.0
        reach, interval = scan_width(height, speed, sought, beam, sound)
        fan, way = reach * math.radians(beam), speed * interval
        far, step = display.words(reach, Kind.DISTANCE, 0), display.words(max(fan, way), Kind.DEPTH)
        swath = 2 * math.sqrt(max(reach**2 - height**2, 0.0))
        lines = [
            f"Look {far} to each side: a swath of {display.words(swath, Kind.DISTANCE, 0)}, "
            f"told apart every {step} along the way at its edge.",
        ]
        if max(fan, way) > sought / 2 + 1e-6:
            lines.append("Even so it may fall between two pings: slow down, or look less far.")
        else:
            lines.append("At least two pings meet it everywhere; farther out a shadow is longer but a fish is a dot.")
        if sought <= 2 * _FISH_M:
            lines.append("Single fish: best within five times the height over the bottom, and slowly.")
        lines.append("Lines one swath less a fifth apart leave nothing unseen, but the strip below the boat.")
        self._words.setText(" ".join(lines))


def _degrees(text: str) -> float:
    try:
        value = float(text.strip().removesuffix("°").strip().replace("−", "-").replace(",", "."))
    except ValueError as exc:
        raise ValueError(f"{text!r} is no slope: write degrees, as in 8 or -3") from exc
    if abs(value) > STEEPEST_DEG:
        raise ValueError(f"a slope of {value:.0f}° is steeper than sound can tell here")
    return value
