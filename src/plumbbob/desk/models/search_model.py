"""Where fish may still be: what was looked at today, and what it leaves."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from plumbbob.core.plan.bites import ACTIVE_MARKS, ACTIVE_STRUCTURE, first_bite
from plumbbob.core.plan.draft import Candidate
from plumbbob.core.plan.events import Event
from plumbbob.core.plan.veil import LIKE_SHARE, ColumnLook, Sight, down_the_column, fished, sign, thinned
from plumbbob.core.types import Levels

if TYPE_CHECKING:
    from plumbbob.core.geodesy import Plane
    from plumbbob.services.outing import Search

FAN_M, LOOK_MIN = 30.0, 10.0  # how far one casts about a place; how long a look is
# odds of a sign and how long it lasts (docs/handbook.md 7.9); "other" is a fish of another kind that eats the same
_ODDS = {"bite": 8.0, "follower": 10.0, "bait": 2.0, "other": 3.0}
_LASTS_S = {"bite": 3600.0, "follower": 1200.0, "bait": 3600.0, "other": 3600.0}


class SearchModel(QObject):
    """One chart's cells and bands. None until a day is planned."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._search: Search | None = None
        self._plane: Plane | None = None
        self._looks: tuple[Sight, ...] = ()  # of passes
        self._events: tuple[Sight, ...] = ()
        self._now = 0.0
        self._weight: Levels | None = None
        self._tried: Levels | None = None
        self.like_share = LIKE_SHARE  # of a sign's weight that counts at like places

    @property
    def search(self) -> Search | None:
        """Cells, bands and what was likely before the first look."""
        return self._search

    def open(self, search: Search | None, plane: Plane | None, looks: tuple[Sight, ...], now: float) -> None:
        """Another day's cells, with the passes that have looked at them."""
        self._search, self._plane, self._looks, self._now, self._weight = search, plane, looks, now, None
        self.changed.emit()

    def set_events(self, events: tuple[Event, ...], candidates: tuple[Candidate, ...]) -> None:
        """What was noted today: bites and followers raise, minutes without a touch lower."""
        at = {c.name: c for c in candidates}
        # what was noted has happened, whatever the clock on screen says
        self._now = max([self._now, *(e.time for e in events)])
        self._events = tuple(s for e in events if e.name in at for s in self._sights(e, at[e.name]))
        self._weight = None
        self.changed.emit()

    def _sights(self, event: Event, candidate: Candidate) -> tuple[Sight, ...]:
        if self._search is None or self._plane is None:
            return ()
        grid, place = self._search.grid, self._place(candidate)
        odds = _ODDS.get(event.kind)
        if odds is not None:
            lasts = _LASTS_S[event.kind]
            share = self.like_share
            return (sign(grid, place, event.depth_m, odds, event.time, lasts_s=lasts, like_share=share),)
        return (fished(grid, place, FAN_M, event.depth_m, self.detection(event.minutes), event.time),)

    def _place(self, candidate: Candidate) -> tuple[float, float]:
        assert self._plane is not None
        x, y = self._plane.to_xy(candidate.place.latitude, candidate.place.longitude)
        return float(x), float(y)

    @staticmethod
    def detection(minutes: float) -> float:
        """Chance that fish within reach of a lure would have taken in so many minutes."""
        return first_bite(minutes, ACTIVE_MARKS)

    def set_now(self, now: float) -> None:
        """Old looks fade with the hours."""
        if abs(now - self._now) > 30.0:
            self._now, self._weight = now, None
            self.changed.emit()

    @property
    def sights(self) -> tuple[Sight, ...]:
        """All looks and signs."""
        return self._looks + self._events

    @property
    def weight(self) -> Levels | None:
        """What is left of the chances, shape (bands, ny, nx), not summing to one."""
        if self._search is None:
            return None
        if self._weight is None:
            grid, prior = self._search.grid, self._search.prior
            self._weight = thinned(grid, prior, self.sights, self._now)
            self._tried = thinned(grid, prior, [s for s in self.sights if not s.is_sign], self._now)
        return self._weight

    def column_at(self, candidate: Candidate) -> ColumnLook | None:
        """The bands at a place: how sure each is empty, and the next look that tells most."""
        weight = self.weight
        if weight is None or self._search is None or self._tried is None:
            return None
        present = ACTIVE_MARKS if candidate.seen or candidate.caught else max(ACTIVE_STRUCTURE, 0.7 * candidate.score)
        return down_the_column(
            self._search.grid,
            self._search.prior,
            weight,
            self._tried,
            self._place(candidate),
            FAN_M,
            present=min(present, 0.9),
            detection=self.detection(LOOK_MIN),
        )
