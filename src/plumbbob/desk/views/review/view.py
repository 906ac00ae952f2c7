"""What the log says."""

from __future__ import annotations

import math

from plumbbob.desk.models.column import Column
from plumbbob.desk.models.view import View
from plumbbob.desk.views.review.words import cut_words


class ReviewView(View):
    """The review: its cursor is the sentence that is picked."""

    name = "review"
    stage = "review"
    title = "at the review"
    hints = ". next sentence   Shift ← → condition   H hang the bob   J pages   ? keys"
    hides_pass = True
    inputs = frozenset({"review"})

    @property
    def start_words(self) -> str:
        """While nothing was fished."""
        model = self.session.review
        if model.made is None:
            return "" if self.session.logbook.is_open else "What your log says: the log could not be opened."
        if model.review is not None and model.review.hours <= 0.0 and not model.review.fish:
            return ("What your own log says: fish trips, also without a fish, and write them down in Log. From two "
                    "trips on rates are shown here, with how sure they are.")  # fmt: skip
        return ""

    @property
    def column(self) -> Column:
        """Level with the rates, where they hang on depth."""
        surface, foot, deepest = self.session.review.scale
        per = deepest / max(foot - surface, 1e-6)
        review = self.session.review.review
        return Column(
            live=review is not None and review.hours > 0.0,
            top_m=-surface * per,
            base_m=(1.0 - surface) * per,
            floor_m=math.nan,
        )

    @property
    def header(self) -> str:
        """Which part of the log."""
        return cut_words(self.session.review.cut)

    @property
    def status(self) -> list[str]:
        """Nothing of the pass."""
        return []

    @property
    def can_mark(self) -> bool:
        """There is no place here."""
        return False

    @property
    def has_next(self) -> bool:
        """There are sentences."""
        return bool(self.session.review.items)

    def choose_next(self, step: int) -> None:
        """The next sentence."""
        self.session.review.step(step)
