"""Left of the picture: what was read from this pass, what holds where, and why."""

from __future__ import annotations

from html import escape

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from plumbbob.core.sonar.groups import Group
from plumbbob.core.sonar.holding import NEAR_BOTTOM_M, summarise
from plumbbob.core.sonar.reading import Trail
from plumbbob.core.units import Kind
from plumbbob.desk.kit.widgets import label
from plumbbob.desk.scan.words import Said, hardness_word, layer_words, reasons, span
from plumbbob.desk.session.session import Session

_ROWS = (
    ("bottom", "Bottom"),
    ("hardness", "Hardness"),
    ("layer", "Cold layer"),
    ("bait", "Bait"),
    ("fish", "Single fish"),
)


class _Share(QWidget):
    """A thin bar: so much of the whole."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self._share = session, 0.0
        self.setFixedHeight(6)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def set_share(self, share: float) -> None:
        self._share = min(max(share, 0.0), 1.0)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        theme = self._session.look.theme
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.rule))
        painter.fillRect(QRectF(0, 0, self.width() * self._share, self.height()), QColor(theme.brass))


class ScanPanel(QFrame):
    """Needs the session; shows the reading in numbers and sentences."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setProperty("role", "panel")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 14, 12)
        column.setSpacing(6)
        column.addWidget(label("READ FROM THIS PASS", "head"))
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        self._values: dict[str, QLabel] = {}
        for i, (key, title) in enumerate(_ROWS):
            grid.addWidget(label(title, "muted"), i, 0)
            self._values[key] = label("–", "value", name=f"read_{key}")
            grid.addWidget(self._values[key], i, 1, Qt.AlignmentFlag.AlignRight)
        column.addLayout(grid)
        column.addSpacing(12)
        column.addWidget(label("WHAT HOLDS WHERE", "head"))
        self._shares: list[tuple[QLabel, QLabel, _Share]] = []
        for _ in range(3):
            row = QGridLayout()
            row.setVerticalSpacing(3)
            words, count, bar = label(), label("", "value"), _Share(session)
            words.setWordWrap(True)
            row.addWidget(words, 0, 0)
            row.addWidget(count, 0, 1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
            row.addWidget(bar, 1, 0, 1, 2)
            row.setColumnStretch(0, 1)
            column.addLayout(row)
            self._shares.append((words, count, bar))
        column.addSpacing(12)
        column.addWidget(label("WHY", "head"))
        self._why = label("", "why", name="why")
        self._why.setWordWrap(True)
        self._why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._why.setTextFormat(Qt.TextFormat.RichText)
        self._why.linkActivated.connect(self._follow)
        self._said: list[Said] = []
        column.addWidget(self._why)
        column.addStretch(1)
        self._caution = label("Not for navigation.", "small")
        column.addWidget(self._caution)
        for signal in (session.scan.opened, session.scan.read, session.look.changed, session.water_changed):
            signal.connect(self._show)
        self._show()

    def _show(self) -> None:
        look, scan = self._session.look, self._session.scan
        reading = scan.reading
        held = summarise(reading)
        if not scan.is_read:
            for value in self._values.values():
                value.setText("–")
        else:
            self._values["bottom"].setText(span(look, held.bottom_shallow_m, held.bottom_deep_m))
            self._values["hardness"].setText(hardness_word(held.hardness))
            self._values["layer"].setText(layer_words(look, reading.cold_layer))
            bait = reading.bait
            top, base = (min(b.depth_top_m for b in bait), max(b.depth_bottom_m for b in bait)) if bait else (0, 0)
            self._values["bait"].setText(span(look, top, base) if bait else "none seen")
            self._values["fish"].setText(str(held.fish))
        near = look.words(NEAR_BOTTOM_M, Kind.DEPTH, 0)
        if reading.cold_layer is not None:
            rows = [("over the cold layer", held.over_layer), ("under the cold layer", held.under_layer)]
        else:
            rows = [("hanging free", held.suspended), ("close to bait", held.near_bait)]
        rows.append((f"within {near} of bottom", held.near_bottom))
        for (words, count, bar), (text, number) in zip(self._shares, rows, strict=True):
            words.setText(text)
            count.setText(str(number) if scan.is_read else "–")
            bar.set_share(number / held.fish if held.fish else 0.0)
        if scan.is_read:
            self._said = reasons(self._session, held)
            colour = look.theme.brass_text
            self._why.setText(
                "".join(
                    f'<p style="margin:0 0 7px 0">{escape(said.text)}'
                    + (f' <a href="{i}" style="color:{colour};text-decoration:none">show</a>' if said.goal else "")
                    + "</p>"
                    for i, said in enumerate(self._said)
                )
            )
        elif scan.down is not None:
            self._why.setText("Reading the pass …")
        else:
            self._why.setText("")

    def _follow(self, number: str) -> None:
        """Go to what a line speaks of."""
        scan, goal = self._session.scan, self._said[int(number)].goal
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
        else:
            scan.choose(goal)
