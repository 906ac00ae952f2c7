"""What is practised: the item on screen, the next one made meanwhile, answers kept in the log, ability by skill."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, Signal

from plumbbob.core.plan.grading import PASSES, score_of
from plumbbob.core.plan.skill import Ability, Answer, abilities, next_item
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.sim.lessons import HARDEST, SKILLS, Lesson, lesson
from plumbbob.store.errors import StoreError
from plumbbob.store.values import PracticeAnswer

_FIRST_HARD = -1.2  # a first item of a skill is easy
_EASIER = 1.5
_WHY = {
    "new": "not practised yet",
    "weak": "weakest so far",
    "unsure": "too few answers yet",
    "long ago": "not practised for longest",
}


@dataclass(frozen=True, slots=True)
class Shown:
    """An item with its pass."""

    lesson: Lesson
    seed: int
    recording: Recording | None
    why_next: str


class PracticeModel(QObject):
    """Needs the session for its jobs and its log."""

    changed = Signal()

    def __init__(self, session: Session, parent: QObject | None = None, *, seed: int | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._random = random.Random(seed)
        self.ready: Shown | None = None  # the next one, made while this one is judged
        self._waiting = self._preparing = self._wanted = False
        self.item: Shown | None = None
        self.answer: Any = None
        self.score: float | None = None
        self.off: Any = None
        self.again = False  # the same scene, made easier: it does not count
        self.trouble = ""
        self._own: list[Answer] = []  # answers that a log without a file cannot keep

    # -- what was answered --------------------------------------------------------------------------------------

    def answers(self) -> list[Answer]:
        """Everything answered, oldest first; a clock that went back does not reorder what is kept."""
        held = self._session.logbook.all(PracticeAnswer)
        kept = [Answer(a.skill, a.difficulty, bool(a.right), a.time) for a in held if a.skill in SKILLS]
        return kept + self._own

    def abilities(self) -> dict[str, Ability]:
        """By skill that was practised."""
        return abilities(self.answers())

    # -- items --------------------------------------------------------------------------------------------------

    def begin(self) -> None:
        """A first item, unless one is on screen."""
        if self.item is None and not self._waiting:
            self._take_next()

    def go_on(self) -> None:
        """The next item, once this one is answered."""
        if self.item is not None and self.score is None and not self.again:
            return
        self._take_next()

    def easier(self) -> None:
        """The same scene with less against it; it is only to be looked at."""
        item = self.item
        if item is None or self.score is None or self._waiting:
            return
        hard = max(item.lesson.difficulty - _EASIER, -HARDEST)
        self.again = True
        self.make(item.lesson.skill, hard, item.seed, "the same, easier")

    def _take_next(self) -> None:
        if self._waiting:
            return
        self.again = False
        if self.ready is not None:
            ready, self.ready = self.ready, None
            self.show_item(ready)
            return
        if self._preparing:
            self._wanted = True
            return
        skill, hard, why = self.choose()
        self.make(skill, hard, self._random.randrange(1, 2**31), why)

    def choose(self) -> tuple[str, float, str]:
        """What comes next: every skill once, easy; then by what is weak, unsure or long ago."""
        answers = self.answers()
        new = [name for name in SKILLS if all(a.skill != name for a in answers)]
        if self.item is not None:
            new = [name for name in new if name != self.item.lesson.skill]
        if new:
            return new[0], _FIRST_HARD, _WHY["new"]
        able = abilities(answers)
        if self.item is not None and len(able) > 1:  # not the same twice running
            able.pop(self.item.lesson.skill, None)
        found = next_item(answers, able, time.time())
        assert found is not None
        skill, hard, why = found
        return skill, max(min(hard, HARDEST), -HARDEST), _WHY[why]

    def make(self, skill: str, hard: float, seed: int, why: str) -> None:
        """Make an item in the background and show it."""
        self._waiting = True

        def done(shown: Shown) -> None:
            self._waiting = False
            self.show_item(shown)

        self._in_background(skill, hard, seed, why, done)

    def _in_background(self, skill: str, hard: float, seed: int, why: str, done: Callable[[Shown], None]) -> None:
        def work(progress: Progress) -> Shown:
            one = lesson(skill, round(hard, 2), seed)
            recording = None
            if one.scene is not None:
                from plumbbob.sim.down import simulate

                recording = simulate(one.scene, seed, progress=progress)[0]
            return Shown(one, seed, recording, why)

        self._session.jobs.start_quietly(work, done)

    def show_item(self, shown: Shown) -> None:
        """Put an item on screen, not answered yet."""
        self.item, self.answer, self.score, self.off = shown, None, None, None
        self.changed.emit()

    def _prepare(self) -> None:
        if self.ready is not None or self._preparing:
            return
        self._preparing = True
        skill, hard, why = self.choose()

        def done(shown: Shown) -> None:
            self._preparing = False
            if self._wanted:
                self._wanted = False
                self.show_item(shown)
            else:
                self.ready = shown

        self._in_background(skill, hard, self._random.randrange(1, 2**31), why, done)

    # -- answers ------------------------------------------------------------------------------------------------

    def give(self, answer: Any) -> None:
        """Answer the item on screen; a second answer does not count."""
        item = self.item
        if item is None or self.score is not None:
            return
        one = item.lesson
        try:
            self.score, self.off = score_of(one.answer_is, answer, one.truth, one.tolerance)
        except ValueError as exc:
            self._session.say(f"The answer {exc}.", wrong=True)
            return
        self.answer = answer
        if not self.again:
            self.keep(item, self.score)
        self._prepare()
        self.changed.emit()

    def keep(self, item: Shown, score: float) -> None:
        """An answer goes into the log."""
        one, now = item.lesson, time.time()
        right = score >= PASSES
        kept = PracticeAnswer(
            time=now, skill=one.skill, difficulty=one.difficulty, right=right, score=score, seed=item.seed
        )
        self.trouble = ""
        try:
            self._session.logbook.write([kept])
        except StoreError as exc:
            self.trouble = f"Not kept: {exc}"
            self._own.append(Answer(one.skill, one.difficulty, right, now))
