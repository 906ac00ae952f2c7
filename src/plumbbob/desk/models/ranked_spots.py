"""Worth a look: the ranked places, the weights a person gave, the one that is chosen."""

from __future__ import annotations

from dataclasses import replace
from enum import Enum
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QSettings, Signal

from plumbbob.core.chart.rank import Approaches, DayFacts, RankedSpot, rank
from plumbbob.core.chart.terms import DEFAULT_WEIGHTS, Term
from plumbbob.desk.models.settings import number_of

if TYPE_CHECKING:
    from plumbbob.core.chart.feature import Feature


class RankedSpots(QObject):
    """Ranks anew whenever features, facts, weights or approaches change."""

    changed = Signal()
    chosen_changed = Signal()

    def __init__(self, settings: QSettings, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._settings = settings
        self._features: tuple[Feature, ...] = ()
        self._roaming: tuple[Feature, ...] = ()
        self._facts = DayFacts()
        self._weights = dict(DEFAULT_WEIGHTS)
        for term in Term:
            self._weights[term] = number_of(settings, f"weights/{term.value}", DEFAULT_WEIGHTS[term], 0.0, 100.0)
        self._approaches = Approaches()
        self._least_chance = number_of(settings, "least_chance", 0.5, 0.0, 1.0)
        self._places: tuple[RankedSpot, ...] = ()
        self._chosen: Feature | None = None

    @property
    def places(self) -> tuple[RankedSpot, ...]:
        """Best first."""
        return self._places

    @property
    def chosen(self) -> RankedSpot | None:
        """The place that was picked."""
        return next((p for p in self._places if p.feature is self._chosen), None)

    @property
    def weights(self) -> dict[Term, float]:
        """How much each reason counts."""
        return dict(self._weights)

    @property
    def approaches(self) -> Approaches:
        """Switches where practitioners disagree."""
        return self._approaches

    @property
    def facts(self) -> DayFacts:
        """What the ranking knows of the day."""
        return self._facts

    def set_features(self, features: tuple[Feature, ...]) -> None:
        """Another chart's structure."""
        self._features = features
        self._roaming = ()
        if not any(f is self._chosen for f in features):
            self._chosen = None
        self._rank()

    def set_facts(self, facts: DayFacts, roaming: tuple[Feature, ...] = ()) -> None:
        """Another day; places over open water where a species roams today."""
        self._facts = facts
        self._roaming = roaming
        self._rank()

    def set_weight(self, term: Term, weight: float) -> None:
        """Let a reason count more or less."""
        if self._weights[term] != weight:
            self._weights[term] = weight
            self._settings.setValue(f"weights/{term.value}", weight)
            self._rank()

    @property
    def least_chance(self) -> float:
        """Places less probable than this are left out of the list."""
        return self._least_chance

    def set_least_chance(self, chance: float) -> None:
        """Cut the list by how probable it is that a place is there."""
        if chance != self._least_chance:
            self._least_chance = chance
            self._settings.setValue("least_chance", chance)
            self._rank()

    def set_approach(self, **changes: Any) -> None:
        """Choose a school."""
        self._approaches = replace(self._approaches, **changes)
        self._rank()

    def approach(self, name: str) -> Enum:
        """The school of one switch."""
        found: Enum = getattr(self._approaches, name)
        return found

    def choose(self, place: RankedSpot | None) -> None:
        """Pick a place."""
        feature = place.feature if place is not None else None
        if feature is not self._chosen:
            self._chosen = feature
            self.chosen_changed.emit()

    def choose_next(self, step: int) -> None:
        """The next place down the list."""
        if not self._places:
            return
        now = next((i for i, p in enumerate(self._places) if p.feature is self._chosen), -1 if step > 0 else 0)
        self.choose(self._places[(now + step) % len(self._places)])

    def _rank(self) -> None:
        sure = tuple(f for f in (*self._features, *self._roaming) if f.chance >= self._least_chance)
        self._places = rank(sure, self._facts, self._weights, self._approaches)
        self.changed.emit()
        self.chosen_changed.emit()
