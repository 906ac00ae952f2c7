"""Under the plumb line: what the bottom is at the cursor."""

from __future__ import annotations

import math

from PySide6.QtWidgets import QFrame

from plumbbob.core.units import Kind
from plumbbob.desk.kit.widgets import label, panel_column
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.down.words import hardness_word

_SLOPE_TELLS_M = 0.15  # the beam's edge meets a slope first: worth saying from here on


class BottomWords(QFrame):
    """Needs the session."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 6, 12, 6), 1)
        self._bed, self._more = label("", "value", name="bed"), label("", "small", name="bed_more")
        column.addWidget(self._bed)
        column.addWidget(self._more)
        column.addStretch(1)
        for signal in (
            session.scan.cursor_changed,
            session.scan.read,
            session.view_changed,
            session.display.changed,
        ):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        scan, display = self._session.scan, self._session.display
        bed = scan.bottom_m
        if scan.down is None or self._session.view.hides_pass:
            self._bed.setText("")
            self._more.setText("")
        elif math.isfinite(bed):
            self._bed.setText(f"{display.words(bed, Kind.DEPTH)} · {hardness_word(scan.hardness)}")
            hard = scan.hardness
            lines = [f"hardness {hard:.2f}" if math.isfinite(hard) else "hardness unknown"]
            bottom, time = scan.reading.bottom, scan.time
            below, dead = bottom.at(time, bottom.below_m), bottom.at(time, bottom.dead_zone_m)
            if math.isfinite(dead):
                lines[0] += f" · blind {display.words(dead, Kind.DEPTH)}"
            if math.isfinite(below) and abs(below - bed) >= _SLOPE_TELLS_M:
                lines.append(f"slope: {display.words(below, Kind.DEPTH)} straight down")
            self._more.setText("\n".join(lines))
        else:
            self._bed.setText("bottom lost here" if scan.document.is_read else "…")
            self._more.setText("no depth is guessed" if scan.document.is_read else "")
