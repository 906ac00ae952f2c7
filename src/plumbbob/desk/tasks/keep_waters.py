"""What is done to whole waters, in the background, with one line that says so and Z to take it back."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from plumbbob.core.types import Progress
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.question import Question
from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.build_chart import ChartBuilder
from plumbbob.desk.tasks.find_water import WaterFinder
from plumbbob.desk.tasks.make_demo import survey_of
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import Water
from plumbbob.services.archive import backup
from plumbbob.services.waters import Moves

_MOST_ANSWERS = 3


class WaterKeeper(QObject):
    """Needs the session and what goes to waters."""

    listed = Signal()

    def __init__(self, session: Session, charter: ChartBuilder, finder: WaterFinder) -> None:
        super().__init__(session)
        self._session, self._charter, self._finder = session, charter, finder
        self._waters = charter.waters
        self.all: tuple[Water, ...] = ()  # as they were listed last

    def look(self) -> None:
        """List the waters anew."""

        def done(found: tuple[Water, ...]) -> None:
            self.all = found
            self.listed.emit()

        self._session.jobs.start("Looking at the waters", lambda progress: self._waters.all(), done, brief=True)

    def go(self, water: Water) -> None:
        """To another water, on the day of today."""
        if not self._charter.is_here(water):
            self._charter.come_to(water, time.time(), survey_of(water.key))

    def create(self, name: str) -> None:
        """A new water, empty; what is added first says where it lies."""
        try:
            water = self._waters.create(name)
        except (ValueError, FileError) as exc:
            self._session.say(f"{exc}.", wrong=True)
            return
        self.go(water)
        self._session.say(f"{water.name} is empty: O adds soundings, recordings, charts.")
        self.look()

    def rename(self, water: Water, name: str) -> None:
        """Another name; Z brings the old one back."""
        self._finder.rename(water, name, self.look)

    def ask_new(self) -> None:
        """The name of a new water."""
        self._session.questions.ask(
            Question("A new water. What do you call it?", name="", name_label="name", named=self.create)
        )

    def ask_rename(self, water: Water) -> None:
        """The new name of a water."""
        self._session.questions.ask(
            Question(
                f"What do you call {water.name} from now on?",
                name=water.name,
                name_label="name",
                named=lambda name: self.rename(water, name),
            )
        )

    def delete(self, water: Water) -> None:
        """Into the trash."""
        self._moving(
            f"{water.name} lies in the trash.  Z brings it back.",
            f"removal of {water.name}",
            lambda: self._waters.delete(water, self._stamp()),
            (water,),
        )

    def merge(self, target: Water, other: Water) -> None:
        """Everything of another water into one."""
        self._moving(
            f"{other.name} is part of {target.name} now.  Z parts them again.",
            "merging",
            lambda: self._waters.merge(target, other, self._stamp()),
            (target, other),
        )

    def split(self, water: Water, sources: Sequence[Path]) -> None:
        """Some files become a water of their own, by the name that is answered."""

        def named(name: str) -> None:
            self._moving(
                f"{len(sources)} files are {name} now.  Z puts them back.",
                "splitting",
                lambda: self._waters.split(water, sources, name),
                (water,),
            )

        self._session.questions.ask(
            Question(
                f"{len(sources)} files of {water.name} become a water of their own. What is it called?",
                name=f"{water.name} part",
                name_label="name",
                named=named,
            )
        )

    def move_files(self, water: Water, sources: Sequence[Path]) -> None:
        """Some files go to another water, which is asked for."""

        def to(target: Water) -> Callable[[], None]:
            def work() -> Moves:
                moves = Moves()
                for path in sources:
                    moves.done += self._waters.move_file(path, target).done
                return moves

            words = f"{len(sources)} files lie in {target.name} now.  Z puts them back."
            return lambda: self._moving(words, "moving of files", work, (water, target))

        others = [w for w in self.all if w.key != water.key][:_MOST_ANSWERS]
        if not others:
            self._session.say("There is no other water to move them to.", wrong=True)
            return
        answers = tuple((w.name, to(w)) for w in others)
        self._session.questions.ask(Question(f"To which water do {len(sources)} files of {water.name} go?", answers))

    def back_up(self, water: Water, path: Path) -> None:
        """All of a water as one file."""

        def work(progress: Progress) -> int:
            return backup(self._waters, water, path, progress)

        def done(files: int) -> None:
            self._session.say(f"{water.name}: {files} files in {path.name}.  O brings it back.")

        self._session.jobs.start(f"Writing {path.name}", work, done)

    def _stamp(self) -> str:
        return self._session.local(time.time()).strftime("%Y-%m-%d %H%M%S")

    def _moving(self, words: str, change: str, act: Callable[[], Moves], about: tuple[Water, ...]) -> None:
        """Move things, work the outlines out anew, and be able to take it back."""
        session = self._session

        def outlines() -> None:
            for water in about:
                found = self._waters.get(water.key)
                if found is not None:
                    self._waters.outlined(found)

        def after() -> None:
            here = self._waters.get(session.water.key)
            if here is not None:
                self._charter.come_to(here, time.time())
            elif session.water.key:
                self._charter.leave()
            self.look()

        def start(work: Callable[[Progress], Moves], said: str, first: bool = False) -> None:
            def done(moves: Moves) -> None:
                held[:] = [moves]
                if first:  # only what has really moved can be taken back
                    session.history.did(undoable)
                after()
                session.say(said)

            session.jobs.start("Moving files", work, done)

        def work(progress: Progress) -> Moves:
            moves = act()
            outlines()
            return moves

        def back(progress: Progress) -> Moves:
            held[0].take_back()
            outlines()
            return Moves()

        held: list[Moves] = [Moves()]
        undoable = Change(change, lambda: start(back, "It is as it was."), lambda: start(work, words))
        start(work, words, first=True)
