"""Deck mode: the mark that can still be moved, the row that is open, the clocks that run. Acts are elsewhere."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.live.clocks import BaitKind, Pump
from plumbbob.desk.models.settings import json_of, keep_json, text_of

ASIDE_S = 8.0  # so long a mark can be moved, and a row of choices stays


@dataclass(frozen=True, slots=True)
class Fall:
    """A lure on its way down."""

    began: float  # by a clock that only runs forward
    seconds: float
    depth_m: float

    def left_s(self, now: float) -> float:
        """Until it is there; below 0: it is."""
        return self.began + self.seconds - now


class DeckModel(QObject):
    """Needs the settings, for the remote's keys and the bait."""

    changed = Signal()

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self._outing: object = None
        self._anew()

    def _anew(self) -> None:
        self.row = ""  # of choices in place of the signs: "", "aside", "birds", "begin", "which"
        self._row_until = -math.inf
        self.landing: object = None  # a fish that is being noted
        self.marked: int | None = None  # id of the mark that can still be moved
        self.here_since: float | None = None
        self.thunder_at: float | None = None
        self.fall: Fall | None = None
        self.pump: tuple[float, Pump] | None = None  # when it began
        self.aiming = False  # the cast to the nearest mark is shown
        self.put_away: set[str] = set()  # cautions
        self.learning = False
        self.learned: int | None = None  # the remote's key that waits for its target

    def come_to(self, outing: object) -> None:
        """Another outing: its clocks begin anew, and every caution counts again."""
        if outing is not self._outing:
            self._outing = outing
            self._anew()
            self.changed.emit()

    # -- rows of choices ----------------------------------------------------------------------------------------

    def open_row(self, row: str, now: float, marked: int | None = None, *, stays_s: float = ASIDE_S) -> None:
        """Show choices for a few seconds."""
        self.row, self._row_until, self.marked = row, now + stays_s, marked
        self.changed.emit()

    def keep_row(self, now: float) -> None:
        """They were used: they stay a while longer."""
        self._row_until = now + ASIDE_S

    def close_row(self) -> None:
        """Back to the signs."""
        if self.row:
            self.row, self.marked = "", None
            self.changed.emit()

    def tick(self, now: float) -> None:
        """Time has passed."""
        if self.row and now >= self._row_until:
            self.close_row()

    # -- bait and sounds, as they were left -----------------------------------------------------------------------

    @property
    def bait(self) -> BaitKind | None:
        """What is on the hook; None: a lure, which lasts."""
        name = text_of(self._settings, "deck/bait")
        return next((kind for kind in BaitKind if kind.value == name), None)

    def next_bait(self) -> BaitKind | None:
        """Another kind, or none."""
        kinds: list[BaitKind | None] = [None, *BaitKind]
        kind = kinds[(kinds.index(self.bait) + 1) % len(kinds)]
        self.set_bait(kind)
        return kind

    def set_bait(self, kind: BaitKind | None) -> None:
        """What is on the hook; its clock begins when it is next told to be fresh."""
        self._settings.setValue("deck/bait", kind.value if kind is not None else "")
        self.changed.emit()

    @property
    def sounds(self) -> bool:
        """Sounds are on."""
        return text_of(self._settings, "deck/sounds", "on") == "on"

    def set_sounds(self, on: bool) -> None:
        """Sounds on or off."""
        self._settings.setValue("deck/sounds", "on" if on else "off")
        self.changed.emit()

    # -- the remote -----------------------------------------------------------------------------------------------

    @property
    def remote(self) -> dict[int, str]:
        """Keys that were learned, each with the id of its command."""
        kept = json_of(self._settings, "deck/remote")
        rows = kept.items() if isinstance(kept, dict) else ()
        return {int(k): str(v) for k, v in rows if str(k).lstrip("-").isdigit()}

    def learn_next(self) -> None:
        """The next key is one of the remote's, the next target what it is for."""
        self.learning, self.learned = True, None
        self.changed.emit()

    def learn(self, key: int, command: str) -> None:
        """A key of the remote does this from now on."""
        keep_json(self._settings, "deck/remote", {str(k): v for k, v in {**self.remote, key: command}.items()})

    def forget_remote(self) -> None:
        """No key is learned."""
        keep_json(self._settings, "deck/remote", {})
