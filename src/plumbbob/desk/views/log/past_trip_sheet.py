"""A past trip in a minute: from, to, water, craft; a row a rod, a row a fish, each like the one before."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLineEdit, QWidget

from plumbbob.core.rig.rod import Method
from plumbbob.core.units import Kind, System, parse
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.kit.when import parse_when
from plumbbob.desk.kit.widgets import Button, label
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.trip_edit import known_water
from plumbbob.store.errors import StoreError
from plumbbob.store.refs import new_ref
from plumbbob.store.values import Catch, Effort, Trip

_ROD_HEADS = ("rods", "way", "lure", "depth", "from", "to", "place")
_FISH_HEADS = ("fish", "length", "kept", "when", "rod")
_MOST_ROWS = 8


class PastTripSheet(Sheet):
    """Needs the session. Enter in the last row adds another; what stands in a row is what stood in the one above."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(session, "past_trip", "A past trip", parent, over=True)
        top = QHBoxLayout()
        top.setSpacing(8)
        self._fields: dict[str, QLineEdit] = {}
        for name, words, wide in (
            ("day", "day", 2), ("start", "from", 1), ("end", "to", 1), ("water", "water", 3), ("craft", "craft", 2),
            ("anglers", "anglers", 1), ("note", "note", 5),
        ):  # fmt: skip
            top.addWidget(label(words, "muted"))
            self._fields[name] = QLineEdit()
            self._fields[name].setObjectName(f"trip_{name}")
            top.addWidget(self._fields[name], wide)
        self.body.addLayout(top)
        self._rods, self._fish = QGridLayout(), QGridLayout()
        self._rod_rows: list[dict[str, QWidget]] = []
        self._fish_rows: list[dict[str, QWidget]] = []
        for grid, heads in ((self._rods, _ROD_HEADS), (self._fish, _FISH_HEADS)):
            grid.setHorizontalSpacing(8)
            grid.setVerticalSpacing(3)
            for k, head in enumerate(heads):
                grid.addWidget(label(head, "muted"), 0, k)
        for k, wide in enumerate((1, 4, 4, 2, 2, 2, 4)):
            self._rods.setColumnStretch(k, wide)
        for k, wide in enumerate((4, 2, 1, 2, 3)):
            self._fish.setColumnStretch(k, wide)
        rows = QHBoxLayout()
        rows.setSpacing(18)
        rows.addLayout(self._rods, 7)
        rows.addLayout(self._fish, 5)
        self.body.addLayout(rows)
        more = QHBoxLayout()
        rod, fish = Button("One more rod"), Button("One more fish")
        rod.setObjectName("trip_more_rods")
        fish.setObjectName("trip_more_fish")
        rod.clicked.connect(lambda: self._add_rod(focus=True))
        fish.clicked.connect(lambda: self._add_fish(focus=True))
        more.addWidget(rod)
        more.addWidget(fish)
        more.addWidget(label("A trip without a fish is as good: leave the fish empty.", "small"), 1)
        self.body.addLayout(more)
        self.finish("Save the trip", self._save)
        self.first = self._fields["day"]

    # -- rows ---------------------------------------------------------------------------------------------------

    def fill(self) -> None:
        """Yesterday here, one rod, one fish to be filled in."""
        session = self.session
        for rows, grid in ((self._rod_rows, self._rods), (self._fish_rows, self._fish)):
            for row in rows:
                for widget in row.values():
                    grid.removeWidget(widget)
                    widget.deleteLater()
            rows.clear()
        before = session.trips.chosen
        day = session.local(session.view.moment)
        self._fields["day"].setText(f"{day:%Y-%m-%d}")
        self._fields["start"].clear()
        self._fields["end"].clear()
        self._fields["water"].setText(session.water.name or (before.water if before is not None else ""))
        self._fields["craft"].setText(before.craft if before is not None else "")
        self._fields["anglers"].setText("1")
        self._fields["note"].clear()
        self._fields["start"].setPlaceholderText("5:30")
        self._fields["end"].setPlaceholderText("11:00")
        self._add_rod()
        self._add_fish()
        self._fields["day"].selectAll()

    def _edit(self, name: str, text: str = "", hint: str = "") -> QLineEdit:
        made = QLineEdit(text)
        made.setObjectName(name)
        made.setPlaceholderText(hint)
        return made

    def _box(self, name: str, words: list[str], text: str) -> QComboBox:
        made = QComboBox()
        made.setObjectName(name)
        made.setEditable(True)
        made.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        made.addItems(list(dict.fromkeys(w for w in words if w)))
        made.setEditText(text)
        completer = made.completer()
        if completer is not None:
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            completer.setCompletionMode(completer.CompletionMode.PopupCompletion)
        return made

    def _add_rod(self, *, focus: bool = False) -> None:
        if len(self._rod_rows) >= _MOST_ROWS:
            self.session.say(f"{_MOST_ROWS} rods at once; more stretches can be added on the trip itself.")
            return
        n, session = len(self._rod_rows), self.session
        last = {k: _text(w) for k, w in self._rod_rows[-1].items()} if self._rod_rows else {}
        efforts = session.logbook.efforts
        lures = [*reversed(efforts.cells("lure")[-200:]), session.rig.settings.lure.name]
        spots = list(reversed(efforts.cells("spot")[-200:]))
        row: dict[str, QWidget] = {
            "rods": self._edit(f"rod{n}_rods", last.get("rods", "1")),
            "way": self._box(
                f"rod{n}_way", [m.value for m in Method], last.get("way", session.rig.settings.method.value)
            ),
            "lure": self._box(f"rod{n}_lure", lures, last.get("lure", session.rig.settings.lure.name)),
            "depth": self._edit(f"rod{n}_depth", last.get("depth", ""), session.display.unit(Kind.DEPTH)),
            "from": self._edit(f"rod{n}_from", last.get("from", ""), "all of it"),
            "to": self._edit(f"rod{n}_to", last.get("to", ""), "to the end"),
            "place": self._box(f"rod{n}_place", spots, last.get("place", "")),
        }
        self._put(self._rods, self._rod_rows, row, "rods" if not focus else "depth", focus)
        self._name_rods()

    def _add_fish(self, *, focus: bool = False) -> None:
        if len(self._fish_rows) >= _MOST_ROWS:
            self.session.say(f"{_MOST_ROWS} fish at once; C notes more of them.")
            return
        n, session = len(self._fish_rows), self.session
        last = {k: _text(w) for k, w in self._fish_rows[-1].items()} if self._fish_rows else {}
        kept = Button("kept")
        kept.setObjectName(f"fish{n}_kept")
        kept.setCheckable(True)
        species = [session.display.species(s) for s in session.water.species]
        species += [session.display.species(s) for s in reversed(session.logbook.catches.cells("species")[-200:])]
        row: dict[str, QWidget] = {
            "fish": self._box(f"fish{n}_species", species, last.get("fish", "")),
            "length": self._edit(f"fish{n}_length", "", "13 1/4" if self._inches else "33.5"),
            "kept": kept,
            "when": self._edit(f"fish{n}_when", "", "7:41"),
            "rod": self._box(f"fish{n}_rod", [], last.get("rod", "")),
        }
        self._put(self._fish, self._fish_rows, row, "fish", focus)
        self._name_rods()

    @property
    def _inches(self) -> bool:
        return self.session.display.system_of(Kind.FISH) is System.US

    def _put(
        self, grid: QGridLayout, rows: list[dict[str, QWidget]], row: dict[str, QWidget], first: str, focus: bool
    ) -> None:
        rows.append(row)
        for k, widget in enumerate(row.values()):
            grid.addWidget(widget, len(rows), k)
            widget.show()
        if self.isVisible():
            self.place()
        if focus:
            row[first].setFocus()

    def _name_rods(self) -> None:
        """The rods by number and lure, to be chosen for a fish."""
        names = [f"{k} {_text(row['lure'])}".strip() for k, row in enumerate(self._rod_rows, 1)]
        for row in self._fish_rows:
            box = row["rod"]
            assert isinstance(box, QComboBox)
            text = box.currentText()
            box.clear()
            box.addItems(names)
            box.setEditText(text or names[0])

    # -- saving -------------------------------------------------------------------------------------------------

    def _save(self) -> None:
        session = self.session
        try:
            put = self._made()
            saved = session.logbook.edit("past trip", put)
        except (ValueError, StoreError) as exc:
            session.say(f"Not saved: {exc}.".replace("..", "."), wrong=True)
            return
        trip = next(v for v in saved if isinstance(v, Trip))
        session.ask_sheet("")
        session.trips.choose(trip.id)
        fish = sum(isinstance(v, Catch) for v in saved)
        what = f"{fish} fish" if fish else "no fish, and that is kept too"
        session.say(f"The trip is in the log: {what}.  Z takes it back.")

    def _time(self, text: str, what: str) -> float:
        day = self._fields["day"].text().strip()
        local = self.session.local(self.session.view.moment)
        try:
            base = self.session.local(parse_when(f"{day} 00:00", local))
        except ValueError:
            raise ValueError(f'"{day[:30]}" is no day: write 2026-08-15') from None
        if not text.strip():
            raise ValueError(f"{what} is missing")
        return parse_when(text, base)

    def _made(self) -> list[Any]:
        session, fields = self.session, self._fields
        start = self._time(fields["start"].text(), "from")
        end = self._time(fields["end"].text(), "to")
        if end <= start:
            end += 86_400.0  # over midnight
        water = fields["water"].text().strip()
        trip = Trip(
            ref=new_ref(), water=water, start=start, end=end, anglers=fields["anglers"].text().strip(),
            craft=fields["craft"].text().strip(), note=fields["note"].text().strip(),
        )  # fmt: skip
        here = session.water.place if water == session.water.name else None
        zone = str(getattr(session.water, "time_zone", "") or "") if water == session.water.name else ""
        put: list[Any] = [*known_water(session.logbook, water, here, zone), trip]
        efforts = [
            self._effort(row, trip, start, end) for row in self._rod_rows if _text(row["depth"]) or _text(row["lure"])
        ]
        put += efforts
        put += [f for row in self._fish_rows if (f := self._catch(row, trip, efforts)) is not None]
        return put

    def _effort(self, row: dict[str, QWidget], trip: Trip, start: float, end: float) -> Effort:
        session = self.session
        depth = _text(row["depth"])
        rods = _text(row["rods"]) or "1"
        try:
            number = float(rods.replace(",", "."))
        except ValueError:
            raise ValueError(f'"{rods}" is no number of rods') from None
        first = self._time(_text(row["from"]), "from") if _text(row["from"]) else start
        last = self._time(_text(row["to"]), "to") if _text(row["to"]) else end
        first = first if first >= start - 3600.0 else first + 86_400.0
        last = last if last > first else last + 86_400.0
        spot = _text(row["place"])
        there = next((e for e in reversed(session.logbook.efforts[-2000:]) if spot and e.spot == spot), None)
        return Effort(
            ref=new_ref(), trip=trip.ref, start=first, end=last, rods=number, spot=spot, method=_text(row["way"]),
            lure=_text(row["lure"]),
            lure_depth_m=parse(depth, Kind.DEPTH, session.display.system_of(Kind.DEPTH)) if depth else None,
            latitude=there.latitude if there is not None else None,
            longitude=there.longitude if there is not None else None,
            bottom_depth_m=there.bottom_depth_m if there is not None else None,
        )  # fmt: skip

    def _catch(self, row: dict[str, QWidget], trip: Trip, efforts: list[Effort]) -> Catch | None:
        session, species = self.session, _text(row["fish"])
        if not species:
            return None
        length = _text(row["length"])
        rod = _text(row["rod"]).split(" ")[0]
        effort = efforts[int(rod) - 1] if rod.isdigit() and 0 < int(rod) <= len(efforts) else None
        assert trip.start is not None
        assert trip.end is not None
        time = self._time(_text(row["when"]), "when") if _text(row["when"]) else (trip.start + trip.end) / 2
        kept = row["kept"]
        assert isinstance(kept, Button)
        return Catch(
            ref=new_ref(), trip=trip.ref, effort=effort.ref if effort is not None else "",
            time=time if time >= trip.start - 3600.0 else time + 86_400.0,
            species=session.display.species_typed(species),
            length_m=parse(length, Kind.FISH, session.display.system_of(Kind.FISH)) if length else None,
            kept=kept.isChecked(), lure_depth_m=effort.lure_depth_m if effort is not None else None,
            bottom_depth_m=effort.bottom_depth_m if effort is not None else None,
            latitude=effort.latitude if effort is not None else None,
            longitude=effort.longitude if effort is not None else None,
        )  # fmt: skip


def _text(widget: QWidget) -> str:
    if isinstance(widget, QComboBox):
        return widget.currentText().strip()
    return widget.text().strip() if isinstance(widget, QLineEdit) else ""
