"""The sentences of a review in the reader's units."""

from __future__ import annotations

from plumbbob.desk.models.display import Display
from plumbbob.desk.models.review_model import Item, Saying
from plumbbob.services.review import Cut, LogReview, fish_by_trip
from plumbbob.wording import review as words
from plumbbob.wording import sentence


def sentence_of(made: LogReview, item: Item, display: Display) -> tuple[str, str]:
    """A sentence, and what stands under it more quietly."""
    review, units = made.review, display.system_of
    if item.saying is Saying.FINDING:
        found, evidence = review.findings.found[item.number], review.evidence[item.number]
        return words.finding(review, found, found.part, units), words.against(review, found, evidence, units)
    if item.saying is Saying.TIE:
        return words.tie(review, review.findings.ties[item.number], units), "Fish them apart and it can be told."
    if item.saying is Saying.BLANK:
        blank = review.blanks[item.number]
        return (f"{blank.name}: {blank.hours:.0f} rod hours on {blank.trips} trips, no fish.",
                f"Your own mean would have given {blank.expected:.0f}.")  # fmt: skip
    if item.saying is Saying.TEST:
        return "To learn most next", words.test(review, review.tests[item.number], units)
    if item.saying is Saying.SIDELINE:
        return "", sentence(made.sidelines[item.number], words.PHRASES, display.words)
    if item.saying is Saying.ASIDE:
        return "", words.aside(review, review.asides[item.number], units)
    return "", words.untold(review, item.dimension, units)


def summary(made: LogReview) -> str:
    """Trips, hours and fish in a line."""
    review = made.review
    blank = int((fish_by_trip(made) == 0).sum()) if review.trips else 0
    return (f"{review.trips} trips, {blank} without a fish · {review.hours:.0f} rod hours · {review.fish} fish · "
            f"{review.rate:.2f} a rod hour")  # fmt: skip


def cut_words(cut: Cut | None) -> str:
    """A part of the log in words."""
    if cut is None or cut.is_all:
        return "the whole log"
    parts = [cut.water, str(cut.year) if cut.year else "", cut.species, cut.lure, cut.anglers]
    return " · ".join(p for p in parts if p)


def left_out(made: LogReview) -> list[str]:
    """What was not counted, by why."""
    return [f"{number} {why}" for why, number in made.read.left_out.items() if number]
