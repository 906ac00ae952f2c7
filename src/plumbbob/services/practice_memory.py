"""What is still remembered of each skill: every answer is a review to a kept library of spaced repetition."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta

from plumbbob.core.plan.skill import Answer

_SURE = 0.8  # chance of a right answer from which a right one was easy


def recalled(answers: Sequence[Answer], now: float) -> dict[str, float]:
    """
    Chance that a skill is still at hand, 0 to 1, by skill.

    Parameters
    ----------
    answers : sequence of Answer
        Oldest first or not: a clock that went back is set right by the order of times.
    now : float

    Notes
    -----
    FSRS with its published weights: a wrong answer is a lapse, a right one on an easy item shows more than it on a
    cruel one costs, and what is answered twice within a day counts little.
    """
    from fsrs import Card, Rating, Scheduler

    scheduler = Scheduler(learning_steps=(timedelta(minutes=10),), enable_fuzzing=False)
    cards: dict[str, Card] = {}
    for one in sorted(answers, key=lambda a: a.at):
        rating = Rating.Again if not one.right else Rating.Easy if one.difficulty > _SURE else Rating.Good
        card = cards.get(one.skill) or Card(card_id=len(cards) + 1)
        cards[one.skill], _ = scheduler.review_card(card, rating, datetime.fromtimestamp(one.at, UTC))
    moment = datetime.fromtimestamp(max(now, max((a.at for a in answers), default=now)), UTC)
    return {name: float(scheduler.get_card_retrievability(card, moment)) for name, card in cards.items()}
