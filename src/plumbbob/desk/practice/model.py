"""What is practised: the item on screen, the next one made meanwhile, answers kept in the log, ability by skill."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from plumbbob.core.plan.grading import PASSES, score_of
from plumbbob.core.plan.skill import Ability, Answer, abilities, next_item
from plumbbob.core.sonar.recording import Recording
from plumbbob.core.types import Progress
from plumbbob.desk.models.session import Session
from plumbbob.services.practice_memory import recalled
from plumbbob.services.practice_reader import reader_answer, reader_score
from plumbbob.services.practice_sets import SetItem
from plumbbob.sim.lesson import HARDEST, Lesson
from plumbbob.sim.lesson_settings import HeardWith, heard
from plumbbob.sim.lessons import SKILLS, lesson
from plumbbob.store.errors import StoreError
from plumbbob.store.values import PracticeAnswer

_FIRST_HARD = -1.2  # a first item of a skill is easy
_EASIER = 1.5
GAIN_STEPS = 6
LIVE = ("jig above a rising fish", "schools that pass, live")  # played, not answered
PRACTISED = (*SKILLS, *LIVE)
_WHY = {
    "new": "not practised yet",
    "weak": "weakest so far",
    "unsure": "too few answers yet",
    "long ago": "not practised for longest",
}


@dataclass(slots=True)
class PlayedSet:
    """A set that is gone through, and what was answered so far."""

    path: Path | None  # of the packed set; None: an own pass
    folder: Path
    items: list[SetItem]
    answers: dict[str, Any] = field(default_factory=dict)
    is_over: bool = False
    rows: list[tuple[str, float, int]] = field(default_factory=list)  # who, how well of 1, items answered


@dataclass(frozen=True, slots=True)
class Shown:
    """An item with its pass."""

    lesson: Lesson
    seed: int  # 0: of a set, which cannot be made again
    recording: Recording | None
    why_next: str
    name: str = ""  # in a set
    card: Path | None = None  # a picture in its place
    letters: tuple[tuple[str, float, float], ...] = ()  # on that picture: which, pixels right and down


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
        self.heard = HeardWith()
        self.live_skill = ""  # what is played just now
        self.gain = 0  # steps of the picture's brightness
        self.reader: tuple[Any | None, float] | None = None  # what the program's own reader says, and how well
        self.playing: PlayedSet | None = None
        self._usual: Lesson | None = None  # the item as it was made, before settings were changed
        self._own: list[Answer] = []  # answers that a log without a file cannot keep

    # -- what was answered --------------------------------------------------------------------------------------

    def answers(self) -> list[Answer]:
        """Everything answered, oldest first; a clock that went back does not reorder what is kept."""
        held = self._session.logbook.all(PracticeAnswer)
        kept = [Answer(a.skill, a.difficulty, bool(a.right), a.time) for a in held if a.skill in PRACTISED]
        return kept + self._own

    @property
    def skill(self) -> str:
        """What is practised just now."""
        return self.live_skill or (self.item.lesson.skill if self.item is not None else "")

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
        if item is None or self.score is None or self._waiting or self.playing is not None:
            return
        hard = max(item.lesson.difficulty - _EASIER, -HARDEST)
        self.again = True
        self.make(item.lesson.skill, hard, item.seed, "the same, easier")

    def _take_next(self) -> None:
        if self._waiting:
            return
        self.again = False
        if self.playing is not None:
            self._next_of_set()
            return
        if self.ready is not None:
            ready, self.ready = self.ready, None
            self.show_item(ready)
            return
        if self._preparing:
            self._wanted = True
            return
        skill, hard, why = self.choose()
        self.make(skill, hard, self.new_seed(), why)

    def choose(self) -> tuple[str, float, str]:
        """What comes next: every skill once, easy; then by what is weak, unsure or long ago."""
        answers = self.answers()
        new = [name for name in SKILLS if all(a.skill != name for a in answers)]
        if self.item is not None:
            new = [name for name in new if name != self.item.lesson.skill]
        if new:
            return new[0], _FIRST_HARD, _WHY["new"]
        able = abilities([a for a in answers if a.skill not in LIVE])
        if self.item is not None and len(able) > 1:  # not the same twice running
            able.pop(self.item.lesson.skill, None)
        found = next_item(answers, able, time.time(), recalled(answers, time.time()))
        assert found is not None
        skill, hard, why = found
        return skill, max(min(hard, HARDEST), -HARDEST), _WHY[why]

    def make(self, skill: str, hard: float, seed: int, why: str) -> None:
        """Make an item in the background and show it."""
        self._waiting = True

        def done(shown: Shown) -> None:
            self._waiting = False
            self._offer(shown, at_once=True)

        self._in_background(skill, hard, seed, why, done)

    def _offer(self, shown: Shown, *, at_once: bool) -> None:
        """An item that has been made: shown if it is waited for, kept for later while a set is played."""
        if at_once and self.playing is None:
            self.show_item(shown)
        else:
            self.ready = shown

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
        self.reader, self._usual, self.heard = None, shown.lesson, HeardWith()
        self.changed.emit()

    def _prepare(self) -> None:
        if self.ready is not None or self._preparing:
            return
        self._preparing = True
        skill, hard, why = self.choose()

        def done(shown: Shown) -> None:
            self._preparing = False
            wanted, self._wanted = self._wanted, False
            self._offer(shown, at_once=wanted)

        self._in_background(skill, hard, self.new_seed(), why, done)

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
        if self.playing is not None:
            self.playing.answers[item.name] = answer
        else:
            self._prepare()
        self._ask_reader(item)
        self.changed.emit()

    def _ask_reader(self, item: Shown) -> None:
        """What the program's own reader says to the same item."""
        recording = item.recording
        if recording is None:
            return

        def work(progress: Progress) -> tuple[Any | None, float]:
            said = reader_answer(item.lesson, recording)
            return said, reader_score(item.lesson, said)

        def done(found: tuple[Any | None, float]) -> None:
            if self.item is item or (self.item is not None and self.item.seed == item.seed and item.seed):
                self.reader = found
                self.changed.emit()

        self._session.jobs.start_quietly(work, done)

    # -- the sounder in the learner's hand ----------------------------------------------------------------------

    def set_gain(self, by: int) -> None:
        """Brighter or darker by so many steps."""
        self.gain = min(max(self.gain + by, -GAIN_STEPS), GAIN_STEPS)
        self.changed.emit()

    def set_heard(self, name: str, by: int) -> None:
        """Another range, pulse or speed over the same water."""
        item, usual = self.item, self._usual
        if item is None or usual is None or usual.scene is None or self._waiting:
            return
        heard_with = self.heard.step(name, by)
        if heard_with == self.heard:
            return
        self._waiting = True

        def work(progress: Progress) -> Shown:
            from plumbbob.sim.down import simulate

            one = heard(usual, heard_with)
            assert one.scene is not None
            return replace(item, lesson=one, recording=simulate(one.scene, item.seed, progress=progress)[0])

        def done(shown: Shown) -> None:
            self._waiting = False
            if self.item is item:
                if usual.answer_is == "time_depth" and self.answer is not None:
                    pace = self.heard.speed / heard_with.speed
                    self.answer = [self.answer[0] * pace, self.answer[1]]
                self.item, self.heard = shown, heard_with
                self.changed.emit()

        self._session.jobs.start_quietly(work, done)

    # -- sets -----------------------------------------------------------------------------------------------------

    def play(self, played: PlayedSet) -> None:
        """Go through a set from its first item on."""
        self.playing = played
        self._next_of_set()

    def leave_set(self) -> None:
        """Back to items of one's own."""
        if self.playing is not None:
            self.playing = None
            self.item = None
            self._take_next()
            self.changed.emit()

    def _next_of_set(self) -> None:
        played = self.playing
        assert played is not None
        left = [i for i in played.items if i.name not in played.answers]
        if not left:
            played.is_over = True
            self.item = None
            self.changed.emit()
            return
        one = left[0]
        where = f"{len(played.items) - len(left) + 1} of {len(played.items)} of the set"
        self.show_item(Shown(one.item, 0, one.recording, where, one.name, one.card, one.letters))

    def keep(self, item: Shown, score: float) -> None:
        """An answer goes into the log."""
        self.keep_score(item.lesson.skill, item.lesson.difficulty, item.seed, score)

    def live_difficulty(self, skill: str) -> float:
        """How hard the next one that is played is: easy first, then as hard as one is able."""
        found = self.abilities().get(skill)
        return _FIRST_HARD if found is None else max(min(found.mean, HARDEST), -HARDEST)

    def new_seed(self) -> int:
        """Of an item that nobody has seen."""
        return self._random.randrange(1, 2**31)

    def keep_score(self, skill: str, difficulty: float, seed: int, score: float) -> None:
        """What was answered or played goes into the log."""
        now, right = time.time(), score >= PASSES
        kept = PracticeAnswer(time=now, skill=skill, difficulty=difficulty, right=right, score=score, seed=seed)
        self.trouble = ""
        try:
            self._session.logbook.write([kept])
        except StoreError as exc:
            self.trouble = f"Not kept: {exc}"
            self._own.append(Answer(skill, difficulty, right, now))
