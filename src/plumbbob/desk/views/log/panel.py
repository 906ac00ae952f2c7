"""Left of the trip: what it brought, what is to be completed, limits, deep fish, the best of what is listed."""

from __future__ import annotations

import math
from collections import Counter

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QToolButton, QVBoxLayout

from plumbbob.core.tally.fish_care import before_fishing_on
from plumbbob.core.units import Kind
from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.kit.widgets import clear, elided, headed, label, panel_column
from plumbbob.desk.models.log_list import Row
from plumbbob.desk.models.session import Session
from plumbbob.desk.views.log.words import caught_words, duration_words, local_clock, trip_words
from plumbbob.formats.species import species_of
from plumbbob.services.limits import Tally, opens_words, tallies
from plumbbob.store.values import Catch, Effort, MomentKind
from plumbbob.wording import joined
from plumbbob.wording.log import PHRASES

_BUTTONS = ("log.past_trip", "log.share")
_MOST_OPEN, _MOST_LIMITS = 3, 4


class LogPanel(QFrame):
    """Needs the session and the actions."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = panel_column(self, (16, 14, 14, 12), 5)
        steps = QHBoxLayout()
        steps.addWidget(label("THIS TRIP", "head"), 1)
        for command_id, words in (("log.trip_before", "‹"), ("log.trip_after", "›")):
            button = QToolButton()
            button.setText(words)
            button.setToolTip(actions[command_id].toolTip())
            button.clicked.connect(actions[command_id].trigger)
            button.setProperty("role", "quiet")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            steps.addWidget(button)
        column.addLayout(steps)
        self._trip = label("", "why", name="log_trip")
        self._trip.setWordWrap(True)
        column.addWidget(self._trip)
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        self._values: dict[str, QLabel] = {}
        for i, (key, title) in enumerate(
            (
                ("hours", "Rod hours"),
                ("seen", "Seen"),
                ("lost", "Struck, lost"),
                ("caught", "Caught"),
                ("kept", "Kept"),
            )
        ):
            grid.addWidget(label(title, "muted"), i, 0)
            self._values[key] = label("0", "value", name=f"log_{key}")
            grid.addWidget(self._values[key], i, 1, Qt.AlignmentFlag.AlignRight)
        column.addLayout(grid)
        self._picked = label("", "why", name="log_picked")
        self._picked.setWordWrap(True)
        column.addWidget(self._picked)
        self._open_head = headed("TO COMPLETE", actions["mark.complete"], "Ctrl+J")
        column.addLayout(self._open_head)
        self._open = QVBoxLayout()
        self._open.setSpacing(2)
        column.addLayout(self._open)
        column.addLayout(headed("LIMITS", actions["log.limits"], "table  K"))
        self._limits = QVBoxLayout()
        self._limits.setSpacing(2)
        column.addLayout(self._limits)
        self._deep_head = label("DEEP FISH", "head")
        self._deep = label("", "why", name="log_deep")
        self._deep.setWordWrap(True)
        column.addWidget(self._deep_head)
        column.addWidget(self._deep)
        column.addWidget(label("BEST OF WHAT IS LISTED", "head"))
        self._best = label("", "why", name="log_best")
        self._best.setWordWrap(True)
        column.addWidget(self._best)
        column.addStretch(1)
        for command_id in _BUTTONS:
            button = QToolButton()
            button.setDefaultAction(actions[command_id])
            button.setSizePolicy(button.sizePolicy().Policy.Expanding, button.sizePolicy().Policy.Fixed)
            button.setMinimumHeight(30)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            column.addWidget(button)
        for signal in (session.trips.chosen_changed, session.display.changed):
            signal.connect(self._show)
        session.rig.changed.connect(self._show_deep)  # while the bob is dragged
        session.listed.changed.connect(self._show_best)

    def _show(self) -> None:
        if not self.isVisible():
            return
        session = self._session
        outing = session.trips.outing
        self._trip.setText(trip_words(session, outing.trip) if outing is not None else "No trip yet.")
        catches = outing.catches if outing is not None else ()
        contacts = outing.contacts if outing is not None else ()
        kinds = Counter(m.kind for m in contacts)
        seen = sum(int(m.count or 1) for m in contacts if m.kind is MomentKind.SEEN)
        shown = {
            "hours": duration_words(outing.rod_hours) if outing is not None and outing.rod_hours else "–",
            "seen": str(seen),
            "lost": f"{kinds[MomentKind.STRUCK]}, {kinds[MomentKind.LOST] + kinds[MomentKind.BITTEN_OFF]}",
            "caught": str(len(catches)),
            "kept": str(sum(c.kept for c in catches)),
        }
        for key, text in shown.items():
            self._values[key].setText(text)
        self._show_picked()
        self._show_open()
        self._show_limits()
        self._show_deep()

    def _show_picked(self) -> None:
        session, picked = self._session, self._session.trips.picked
        words = ""
        if isinstance(picked, Catch):
            words = caught_words(session, picked)
            if picked.lure_depth_m is not None:
                words += f", lure at {session.display.words(picked.lure_depth_m, Kind.DEPTH)}"
            if math.isfinite(picked.time):
                words += f", {local_clock(session, session.trips.chosen)(picked.time):%H:%M}"
            words = f"● {words}" + (f"\n{picked.note}" if picked.note else "")
        elif isinstance(picked, Effort) and picked.spot:
            words = place_words(session, picked.spot)
        self._picked.setText(words)
        self._picked.setVisible(bool(words))

    def _show_open(self) -> None:
        clear(self._open)
        waiting = self._session.logbook.to_complete
        for moment in waiting[:_MOST_OPEN]:
            ask = "length?" if moment.kind is MomentKind.CAUGHT else "a note?"
            line = elided("muted")
            line.setText(f"{self._session.clock(moment.time, '%d %b %H:%M')} {moment.kind.value}, {ask}")
            self._open.addWidget(line)
        if not waiting:
            self._open.addWidget(label("nothing", "muted"))
        elif len(waiting) > _MOST_OPEN:
            self._open.addWidget(label(f"and {len(waiting) - _MOST_OPEN} more", "muted"))

    def _show_limits(self) -> None:
        clear(self._limits)
        session, trip = self._session, self._session.trips.chosen
        water = trip.water if trip is not None and trip.water else session.water.name
        when = trip.start if trip is not None and trip.start is not None else session.view.moment
        zone = session.trips.zone_of(water) or session.water.clock
        rows = tallies(session.logbook.limits, session.logbook.catches, water, when, zone) if len(
            session.logbook.limits) else []  # fmt: skip
        for tally in rows[:_MOST_LIMITS]:
            row = QHBoxLayout()
            name, said = elided("muted"), label(*_tally_words(tally))
            name.setText(session.display.species(tally.limit.species) + (" (own)" if tally.limit.own else ""))
            row.addWidget(name, 1)
            row.addWidget(said)
            holder = QFrame()
            row.setContentsMargins(0, 0, 0, 0)
            holder.setLayout(row)
            self._limits.addWidget(holder)
        if not rows:
            empty = label("None typed yet. The local authority decides.", "small")
            empty.setWordWrap(True)
            self._limits.addWidget(empty)

    def _show_deep(self) -> None:
        if not self.isVisible():
            return
        session = self._session
        picked = session.trips.picked
        depth = picked.lure_depth_m if isinstance(picked, Effort | Catch) else None
        depth = depth if depth is not None else session.rig.bob_m
        said = before_fishing_on(species_of(session.water), depth)
        self._deep.setText(joined(said[:1], PHRASES, session.display.words))
        for widget in (self._deep, self._deep_head):
            widget.setVisible(bool(said))

    def _show_best(self) -> None:
        if not self.isVisible():
            return
        session, listed = self._session, self._session.listed
        t = listed.table
        rows = [k for k in listed.found.tolist() if t.kind[k] == Row.CATCH]
        best: dict[str, tuple[float, int]] = {}
        for k in rows:
            length = float(t.numbers["length_m"][k])
            if length > best.get(t.what[k], (0.0, 0))[0]:
                best[t.what[k]] = (length, k)
        count = Counter(t.what[k] for k in rows)
        lines = []
        for name, number in count.most_common(5):
            size = ""
            if name in best:
                length, k = best[name]
                day = session.local(float(t.time[k])) if math.isfinite(t.time[k]) else None
                when = f" {day:%b %Y}" if day is not None else ""
                size = f", best {session.display.words(length, Kind.FISH)}{when}"
            lines.append(f"{number} {name}{size}")
        nothing = "No fish among these, and that counts too." if listed.found.size else "Nothing is listed yet."
        self._best.setText("\n".join(lines) or nothing)

    def showEvent(self, event: QShowEvent) -> None:
        """What has changed while nobody looked."""
        super().showEvent(event)
        self._show()
        self._show_best()


def place_words(session: Session, spot: str) -> str:
    """What a place has given: how often and when last it was fished, and what was taken there."""
    efforts = session.logbook.efforts
    mine = {
        ref: start
        for ref, name, start in zip(*(efforts.cells(n) for n in ("ref", "spot", "start")), strict=True)
        if name == spot
    }
    catches = session.logbook.catches
    kept = [k for e, k in zip(catches.cells("effort"), catches.cells("kept"), strict=True) if e in mine]
    last = max((s for s in mine.values() if s is not None), default=None)
    when = ""
    if last is not None:
        days = max(round((session.view.moment - last) / 86_400.0), 0)
        when = ", last today" if days == 0 else f", last {days} d ago"
    return f"{spot}: fished {len(mine)} times{when}. {len(kept)} caught, {sum(kept)} taken."


def _tally_words(tally: Tally) -> tuple[str, str]:
    """What a row of the table says today, and its role."""
    limit = tally.limit
    if not tally.is_open:
        return f"closed till {opens_words(limit)}", "warn"
    if limit.bag is not None:
        words = f"{tally.kept} of {limit.bag:g}"
        return (f"full: {words}", "warn") if tally.kept >= limit.bag else (words, "value")
    if tally.closes_in is not None:
        return f"closes in {tally.closes_in} d", "value"
    return "open", "value"
