"""What the log says, as it is on screen: the review, the part of the log it is of, the sentence that is picked."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

if TYPE_CHECKING:
    from plumbbob.core.tally.questions import Part
    from plumbbob.core.tally.review import Review
    from plumbbob.services.review import Choices, Cut, LogReview


class Saying(Enum):
    """What a sentence is of."""

    FINDING = "finding"
    TIE = "tie"
    ASIDE = "aside"
    SIDELINE = "sideline"
    BLANK = "blank"
    TEST = "test"
    UNTOLD = "untold"


@dataclass(frozen=True, slots=True)
class Item:
    """One sentence: what it is of, its number among those, and the condition it opens."""

    saying: Saying
    number: int
    dimension: str
    part: Part | None = None


FIRST = "lure_depth"


class ReviewModel(QObject):
    """Holds what the task brings. `cut` and `beside` are what is looked at, and what it is held against."""

    changed = Signal()  # another review, or more of it
    picked_changed = Signal()
    cut_changed = Signal()
    scale_changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.made: LogReview | None = None
        self.other: LogReview | None = None
        self.choices: Choices | None = None
        self.share = 1.0  # done
        self.cut: Cut | None = None
        self.beside: Cut | None = None
        self.items: tuple[Item, ...] = ()
        self._picked = -1
        self._is_chosen = False  # by a hand
        self._fresh = True  # nothing of this cut is on screen yet
        self._dimension = FIRST
        self.scale = (0.0, 1.0, 10.0)

    @property
    def review(self) -> Review | None:
        """What is on screen."""
        return None if self.made is None else self.made.review

    @property
    def picked(self) -> Item | None:
        """The sentence that is picked."""
        return self.items[self._picked] if 0 <= self._picked < len(self.items) else None

    @property
    def dimension(self) -> str:
        """The condition whose rates are shown."""
        return self._dimension

    @property
    def dimensions(self) -> tuple[str, ...]:
        """All of which something is known."""
        return () if self.review is None else tuple(self.review.rates)

    def take(self, made: LogReview, share: float) -> None:
        """A review, or as much of it as there is."""
        if share < 1.0 and self.made is not None and not self._fresh:
            return  # what is on screen stays until the whole of it is there
        before = self.picked if self._is_chosen else None
        self.made, self.share, self._fresh = made, share, share < 1.0
        self.items = items_of(made.review, len(made.sidelines))
        if before in self.items:
            self._picked = self.items.index(before)
        elif self._is_chosen:
            self._picked = -1
        elif share >= 1.0:
            self._picked = 0
            self._open(self.picked)
        if self._dimension not in self.dimensions:
            self._dimension = next(iter(self.dimensions), FIRST)
        self.changed.emit()

    def take_other(self, made: LogReview | None) -> None:
        """What it is held against."""
        self.other = made
        self.changed.emit()

    def set_cut(self, cut: Cut, beside: Cut | None) -> None:
        """Look at another part of the log."""
        if (cut, beside) != (self.cut, self.beside):
            self.cut, self.beside, self._fresh = cut, beside, True
            if beside is None:
                self.other = None
            self.cut_changed.emit()

    def pick(self, item: Item) -> None:
        """Open the evidence of a sentence."""
        if item in self.items:
            self._picked, self._is_chosen = self.items.index(item), True
            self._open(item)
            self.picked_changed.emit()

    def step(self, by: int) -> None:
        """The next sentence."""
        if self.items:
            self.pick(self.items[(self._picked + by) % len(self.items)])

    def show(self, dimension: str) -> None:
        """Rates by another condition."""
        if dimension in self.dimensions and dimension != self._dimension:
            self._dimension, self._is_chosen = dimension, True
            found = next((i for i in self.items if i.dimension == dimension), None)
            self._picked = self.items.index(found) if found is not None else -1
            self.picked_changed.emit()

    def step_dimension(self, by: int) -> None:
        """The next condition."""
        if self.dimensions:
            at = self.dimensions.index(self._dimension) if self._dimension in self.dimensions else 0
            self.show(self.dimensions[(at + by) % len(self.dimensions)])

    def _open(self, item: Item | None) -> None:
        if item is not None and item.dimension in self.dimensions:
            self._dimension = item.dimension

    def set_scale(self, surface_px: float, foot_px: float, height_px: float, deepest_m: float) -> None:
        """Where the picture has its surface and foot, as shares of its height: the plumb line follows."""
        scale = (surface_px / max(height_px, 1.0), foot_px / max(height_px, 1.0), deepest_m)
        if scale != self.scale:
            self.scale = scale
            self.scale_changed.emit()


def items_of(review: Review, sidelines: int) -> tuple[Item, ...]:
    """Sentences in the order in which they should change the next trip."""

    def name(part: Part) -> str:
        return review.pieces.dimensions[part.dimension].name

    made = [Item(Saying.FINDING, k, name(f.part), f.part) for k, f in enumerate(review.findings.found)]
    made += [Item(Saying.TIE, k, name(t.one), t.one) for k, t in enumerate(review.findings.ties)]
    made += [Item(Saying.ASIDE, k, name(a.part), a.part) for k, a in enumerate(review.asides)]
    made += [Item(Saying.BLANK, k, "spot") for k, _ in enumerate(review.blanks)]
    made += [Item(Saying.TEST, k, name(t.part), t.part) for k, t in enumerate(review.tests)]
    made += [Item(Saying.SIDELINE, k, "") for k in range(sidelines)]
    told = {i.dimension for i in made if i.saying in (Saying.FINDING, Saying.TIE)}
    told |= {name(p) for f in review.findings.found for p in f.same}
    if review.silence is None:
        made += [Item(Saying.UNTOLD, k, n) for k, n in enumerate(review.rates) if n not in told]
    return tuple(made)
