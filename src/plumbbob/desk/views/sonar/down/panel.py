"""Left of the picture: what was read from this pass, what holds where, and why."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QLabel

from plumbbob.core.sonar.fish_association import NEAR_BOTTOM_M, summarise
from plumbbob.core.sonar.groups import Group
from plumbbob.core.sonar.reading import Bait, Fish, StandingObject, Trail
from plumbbob.core.units import Kind
from plumbbob.desk.kit.share_bar import ShareBar
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.sonar.down.words import Said, hardness_word, layer_words, reasons, span
from plumbbob.desk.views.sonar.reading_panel import ReadingPanel

_ROWS = (
    ("bottom", "Bottom"),
    ("hardness", "Hardness"),
    ("layer", "Cold layer"),
    ("bait", "Bait"),
    ("fish", "Single fish"),
)


class DownPanel(ReadingPanel):
    """Needs the session; shows the reading in numbers and sentences."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "read", "READ FROM THIS PASS", _ROWS)
        self.extras.addWidget(label("WHAT HOLDS WHERE", "head"))
        self._shares: list[tuple[QLabel, QLabel, ShareBar]] = []
        for _ in range(3):
            row = QGridLayout()
            row.setVerticalSpacing(3)
            words, count, bar = label(), label("", "value"), ShareBar(session.display)
            words.setWordWrap(True)
            row.addWidget(words, 0, 0)
            row.addWidget(count, 0, 1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
            row.addWidget(bar, 1, 0, 1, 2)
            row.setColumnStretch(0, 1)
            self.extras.addLayout(row)
            self._shares.append((words, count, bar))
        self.extras.addSpacing(12)
        scan = session.scan
        for signal in (scan.opened, scan.read, scan.read_on, session.display.changed, session.water_changed):
            signal.connect(self.refresh)
        self.refresh()

    def figures(self) -> dict[str, str]:
        """Bottom, layer, bait, fish."""
        display, scan = self.session.display, self.session.scan
        reading = scan.reading
        if not scan.document.is_read:
            return {}
        held, bait = summarise(reading), reading.bait
        top, base = (min(b.depth_top_m for b in bait), max(b.depth_bottom_m for b in bait)) if bait else (0, 0)
        return {
            "bottom": span(display, held.bottom_shallow_m, held.bottom_deep_m),
            "hardness": hardness_word(held.hardness),
            "layer": layer_words(display, reading.cold_layer),
            "bait": span(display, top, base) if bait else "none seen",
            "fish": str(held.fish),
        }

    def said(self) -> list[Said]:
        """Sentences that lead to what they speak of."""
        scan = self.session.scan
        if scan.document.is_read:
            return reasons(self.session, summarise(scan.reading))
        return [Said("Reading the pass …")] if scan.down is not None else []

    def refresh(self) -> None:
        """Figures and sentences, and the shares between."""
        super().refresh()
        display, scan = self.session.display, self.session.scan
        held = summarise(scan.reading)
        near = display.words(NEAR_BOTTOM_M, Kind.DEPTH, 0)
        if scan.reading.cold_layer is not None:
            rows = [("over the cold layer", held.over_layer), ("under the cold layer", held.under_layer)]
        else:
            rows = [("hanging free", held.suspended), ("close to bait", held.near_bait)]
        rows.append((f"within {near} of bottom", held.near_bottom))
        for (words, count, bar), (text, number) in zip(self._shares, rows, strict=True):
            words.setText(text)
            count.setText(str(number) if scan.document.is_read else "–")
            bar.set_share(number / held.fish if held.fish else 0.0)

    def go(self, goal: object) -> None:
        """Go to what a line speaks of: a number is a depth."""
        scan = self.session.scan
        if isinstance(goal, Group):
            scan.choose(None)
            scan.show_time(goal.time_start, goal.time_end)
            scan.set_cursor(scan.cursor.ping, (goal.depth_top_m + goal.depth_bottom_m) / 2)
        elif isinstance(goal, Trail):
            scan.choose(None)
            scan.show_time(goal.time[0], goal.time[-1])
        elif isinstance(goal, float):
            scan.choose(None)
            scan.set_cursor(scan.cursor.ping, goal)
        elif isinstance(goal, Fish | Bait | StandingObject):
            scan.choose(goal)
