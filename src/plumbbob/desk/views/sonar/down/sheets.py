"""Sheets over the foot of the echogram: what was seen against what was looked at, and setting up the sounder."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QSizePolicy, QWidget

from plumbbob.core.sonar.evidence import Evidence, Rates, rates
from plumbbob.core.sonar.sounder_setup import Advice, SetUp, advise
from plumbbob.core.units import Kind
from plumbbob.desk.kit.paint import font, pen, shade
from plumbbob.desk.kit.painted import Painted
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.widgets import Field, label
from plumbbob.desk.models.boat import own_boat
from plumbbob.desk.models.session import Session

_TITLES = (("depth", "by depth"), ("height", "by height off bottom"), ("bottom", "by depth of the bottom"))
_MOST_ROWS = 16


class EvidenceSheet(Sheet):
    """Fish and bait per water looked at: three pictures of bars with their intervals."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "evidence", "Seen against looked at", parent)
        self._words = label("", "small", name="evidence_words")
        self._words.setWordWrap(True)
        self.body.addWidget(self._words)
        row = QHBoxLayout()
        row.setSpacing(18)
        self._bars = [_Bars(session, by, title) for by, title in _TITLES]
        for bars in self._bars:
            row.addWidget(bars, 1)
        self.body.addLayout(row)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)
        session.scan.evidence_changed.connect(self._again)

    def _again(self) -> None:
        if self.isVisible():
            self.fill()

    def fill(self) -> None:
        """Show the evidence of the moment."""
        found = self.session.scan.evidence
        looked = float(found.volume_m3.sum())
        passes, minutes = len(found.passes), found.seconds / 60
        if not passes:
            self._words.setText("No pass has been read today.")
        else:
            word = "pass" if passes == 1 else "passes"
            self._words.setText(
                f"{passes} {word} today, {minutes:.0f} min, {looked:,.0f} m³ looked at. Bars: fish in 1,000 m³ of "
                "water. Thin line: where the true rate lies, eight times in ten. Dotted: too little water to judge. "
                "Narrow bar: bait."
            )
        for bars in self._bars:
            bars.show_evidence(found)


class _Bars(Painted):
    """One picture of rates in bins: bars from the left, depth downwards, height upwards."""

    def __init__(self, session: Session, by: str, title: str) -> None:
        super().__init__()
        self.setObjectName(f"evidence_{by}")
        self._session, self._by, self._title = session, by, title
        self._rates: Rates | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumHeight(270)
        session.display.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """Room for a dozen rows."""
        return QSize(260, 270)

    def show_evidence(self, evidence: Evidence) -> None:
        """Take other evidence; bins as wide as leaves a dozen and a half rows."""
        first = rates(evidence, self._by, 1)
        used = int(np.flatnonzero(first.volume_m3 > 0)[-1]) + 1 if (first.volume_m3 > 0).any() else 1
        group = next(g for g in (1, 2, 4, 10, 20, 40, 100, 200) if used / g <= _MOST_ROWS or g == 200)
        self._rates = rates(evidence, self._by, group)
        self.update()

    def paint(self, painter: QPainter) -> None:
        """Bars, whiskers, bait, figures."""
        display, found = self._session.display, self._rates
        theme = display.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font(display.text_size * 0.95, bold=True))
        painter.setPen(QColor(theme.ink))
        painter.drawText(QPointF(0, 14), f"{self._title}, {display.unit(Kind.DEPTH)}")
        if found is None:
            return
        keep = np.flatnonzero(found.volume_m3 > 1.0)
        if not keep.size:
            return
        rows = np.arange(int(keep[0]), int(keep[-1]) + 1)
        if self._by == "height":
            rows = rows[::-1]
        painter.setFont(font(display.text_size * 0.8))
        metrics = QFontMetricsF(painter.font())
        top = 24.0
        step = min((self.height() - top - 4) / rows.size, 22.0)
        left = 62.0
        count_wide = metrics.horizontalAdvance("000 in 00,000")
        room = max(self.width() - left - count_wide - 10, 40.0)
        sure = found.enough[rows] & np.isfinite(found.rate[rows])
        most = float(np.nanmax(np.where(sure, found.rate_high[rows], found.rate[rows]), initial=0.0)) or 1.0
        for k, i in enumerate(rows.tolist()):
            y = top + k * step
            ends = (float(found.low_m[i]), float(found.low_m[i]) + found.step_m)
            words = "–".join(display.figure(v, Kind.DEPTH, 0) for v in ends)
            painter.setPen(QColor(theme.muted_text))
            painter.drawText(
                QRectF(0, y, left - 8, step), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
            )
            if not math.isfinite(found.rate[i]):
                continue
            bait = float(np.nan_to_num(found.bait_share[i]))
            if bait > 0.002:
                box = QRectF(left, y + 0.72 * step, room * min(bait * 5, 1.0), 0.2 * step)
                painter.fillRect(box, shade(theme.lichen, 190))
            bar = QRectF(left, y + 0.16 * step, room * min(found.rate[i] / most, 1.0), 0.52 * step)
            if found.enough[i]:
                painter.fillRect(bar, QColor(theme.brass))
                painter.setPen(pen(theme.ink, 1.2))
                low, high = (left + room * min(v / most, 1.0) for v in (found.rate_low[i], found.rate_high[i]))
                middle = bar.center().y()
                painter.drawLine(QPointF(low, middle), QPointF(high, middle))
            else:
                painter.setPen(pen(theme.brass, 1.2, style=Qt.PenStyle.DotLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(bar.adjusted(0, 0, 2, 0))
            painter.setPen(QColor(theme.muted_text))
            text = f"{found.fish[i]:.0f} in {found.volume_m3[i]:,.0f}"
            at = QRectF(self.width() - count_wide - 2, y, count_wide, step)
            painter.drawText(at, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(pen(theme.rule))
        painter.drawLine(QPointF(left, top), QPointF(left, top + step * rows.size))


_FIELDS = (
    ("depth_m", "sought at", Kind.DEPTH, "000.0 fath"),
    ("size_m", "size (0: a fish)", Kind.DEPTH, "000.0 fath"),
    ("bottom_m", "over bottom", Kind.DEPTH, "000.0 fath"),
    ("speed_mps", "speed", Kind.SPEED, "00.00 km/h"),
)


class SetUpSheet(Sheet):
    """What is sought, and what range, rate and speed show it; computed as it is typed."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "setup", "Set up the sounder", parent)
        self._setup = SetUp()
        row = QHBoxLayout()
        row.setSpacing(30)
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        self._fields: dict[str, Field] = {}
        for i, (name, title, kind, sample) in enumerate(_FIELDS):
            field = Field(session.display, kind, f"setup_{name}")
            field.fit(sample)
            field.entered.connect(lambda _: self._compute())
            field.refused.connect(lambda line: session.say(line, wrong=True))
            grid.addWidget(label(title, "muted"), i, 0)
            grid.addWidget(field, i, 1)
            self._fields[name] = field
        self._unit = label("", "small", name="setup_unit")
        self._unit.setWordWrap(True)
        grid.addWidget(self._unit, len(_FIELDS), 0, 1, 2)
        grid.setRowStretch(len(_FIELDS) + 1, 1)
        row.addLayout(grid)
        answers = QGridLayout()
        answers.setVerticalSpacing(4)
        answers.setHorizontalSpacing(14)
        self._values: dict[str, QLabel] = {}
        for i, (name, title) in enumerate(_ANSWERS):
            value = label("", "value", name=f"setup_{name}")
            at, beside = i % 4, 2 * (i // 4)
            answers.addWidget(label(title, "muted"), at, beside)
            answers.addWidget(value, at, beside + 1, Qt.AlignmentFlag.AlignRight)
            self._values[name] = value
        answers.setRowStretch(4, 1)
        row.addLayout(answers)
        row.addStretch(1)
        self.body.addLayout(row)
        self._advice = label("", "why", name="setup_advice")
        self._advice.setWordWrap(True)
        self._advice.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._advice.setMinimumHeight(118)
        self.body.addWidget(self._advice)
        self.finish("Close", lambda: session.ask_sheet(""), cancel=False)
        session.display.changed.connect(self._compute)

    def fill(self) -> None:
        """Start from the open pass and the bob."""
        scan, rig = self.session.scan, self.session.rig
        down = scan.down
        start = SetUp()
        if down is not None:
            bed = scan.bottom_m if math.isfinite(scan.bottom_m) else down.deepest_m
            start = SetUp(
                beam_width_deg=min(max(down.beam_width_deg, 1.0), 90.0),
                pulse_m=down.pulse_m,
                sound_speed_mps=down.sound_speed_mps,
                draft_m=down.mount.depth_m,
                depth_m=max(min(rig.bob_m, bed), 0.3),
                bottom_m=max(bed, 0.5),
                speed_mps=min(scan.document.speed_mps, 30.0) if scan.document.speed_mps > 0 else SetUp().speed_mps,
            )
        self._setup = start
        for name, field in self._fields.items():
            field.set_value(float(getattr(start, name)))
        self._compute()

    def _compute(self) -> None:
        display, start = self.session.display, self._setup
        typed = {n: f.value if f.value is not None else float(getattr(start, n)) for n, f in self._fields.items()}
        try:
            setup = SetUp(
                clean_mps=own_boat(self.session.settings).clean_mps,
                beam_width_deg=start.beam_width_deg,
                pulse_m=start.pulse_m,
                sound_speed_mps=start.sound_speed_mps,
                draft_m=start.draft_m,
                depth_m=typed["depth_m"],
                size_m=typed["size_m"],
                bottom_m=typed["bottom_m"],
                speed_mps=typed["speed_mps"],
            )
        except ValueError as exc:
            self._advice.setText(f"Not possible: {exc}.")
            return
        found = advise(setup)
        draft = display.words(setup.draft_m, Kind.DEPTH)
        self._unit.setText(f"Beam {setup.beam_width_deg:.0f}° wide, transducer {draft} down.")
        depth = Kind.DEPTH
        shown = {
            "range": display.words(found.range_m, depth, 0),
            "second": display.words(found.hardness_range_m, depth, 0),
            "rate": f"{found.ping_rate_hz:.0f} a second",
            "pings": "as many as you wait for" if math.isinf(found.pings) else f"{found.pings:.0f}",
            "swath": f"{display.figure(found.footprint_m, depth)} to {display.words(found.swath_m, depth)}",
            "fastest": display.words(found.fastest_mps, Kind.SPEED, 0),
            "apart": display.words(found.closest_m, depth),
            "dead": display.words(found.dead_zone_m, depth),
        }
        for name, text in shown.items():
            self._values[name].setText(text)
        self._advice.setText("\n".join(_advice_lines(self.session, setup, found)))


_ANSWERS = (
    ("range", "Range to show"),
    ("second", "for hardness"),
    ("rate", "Pings at most"),
    ("pings", "Pings on it"),
    ("swath", "Swath seen"),
    ("fastest", "Fastest"),
    ("apart", "Told apart"),
    ("dead", "Blind at bottom"),
)


def _advice_lines(session: Session, setup: SetUp, found: Advice) -> list[str]:
    display = session.display
    what = "a single fish" if setup.size_m == 0 else f"something {display.words(setup.size_m, Kind.DEPTH)} across"
    lines = []
    if setup.speed_mps > found.limit_mps:
        fastest = display.words(found.fastest_mps, Kind.SPEED)
        lines.append(f"Too fast for {what}: under three pings on it. Slow down to {fastest}.")
    elif setup.speed_mps > found.fastest_mps:
        lines.append(f"Just enough pings for {what}; slower shows it for sure.")
    else:
        strip = display.words(found.strip_m, Kind.DEPTH, 2)
        lines.append(f"Slow enough for {what}; a ping every {strip} of way.")
    if found.planing:
        lines.append(
            "On plane: depth, slopes, large schools and standing timber may show; single fish, fish near the "
            "bottom and hardness do not. Air under the hull makes the bottom come and go. "
            "Slow down where it looks worth it."
        )
    else:
        lines.append(
            f"Over {display.words(setup.clean_mps, Kind.SPEED, 0)} most small boats drag air under the transducer: "
            "scan fast to find places, slow to find fish."
        )
    tan = math.tan(math.radians(5.0))
    off = display.words(tan * max(setup.depth_m - setup.draft_m, 0.0), Kind.DEPTH)
    lines.append(
        "Put the transducer level, below the hull, clear of strakes and the propeller's wash. Five degrees of tilt "
        f"show things {off} ahead or astern of where they are and make arcs one-sided; depth stays right up to "
        f"{setup.beam_width_deg / 2:.0f}°. Enter its depth below the surface, or every depth is short by it."
    )
    return lines


def scan_sheets(session: Session, parent: QWidget) -> tuple[Sheet, ...]:
    """Every sheet of the stage."""
    return (EvidenceSheet(session, parent), SetUpSheet(session, parent))
