"""Sets and cases of the practice as files: made, played, compared, written."""

from __future__ import annotations

import getpass
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from plumbbob.core.types import Progress
from plumbbob.desk.kit.file_dialog import ask_to_open, ask_to_save
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.settings import text_of
from plumbbob.desk.practice.model import PlayedSet, PracticeModel
from plumbbob.files.errors import FileError
from plumbbob.files.text import why
from plumbbob.services import practice_sets
from plumbbob.services.practice_own import own_items
from plumbbob.store.values import PracticeAnswer

if TYPE_CHECKING:
    from plumbbob.services.practice_reader import Case

_ITEMS = 20
_MOST_LOOKED_AT = 120  # of the latest right answers
_PATTERN = "Set to practise on (*.zip)"


class PracticeFiles(QObject):
    """Needs the session, the model and the window whose dialogs are asked."""

    def __init__(self, session: Session, model: PracticeModel, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._model, self._window = session, model, window
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self.who = getpass.getuser() or "me"

    def _start(self) -> str:
        return text_of(self._session.settings, "folder") or str(Path.home())

    def pack(self, _checked: bool = False) -> None:
        """Twenty items as one file, the same for all who get it."""
        theme = self._session.display.theme
        path = ask_to_save(self._window, theme, "Make a set", Path(self._start()) / "evening.zip", _PATTERN)
        if path is not None:
            self.pack_to(path, self._model.new_seed())

    def pack_to(self, path: Path, seed: int) -> None:
        """Make a set there in the background."""

        def work(progress: Progress) -> str:
            try:
                practice_sets.pack_set(path, _ITEMS, seed, progress)
            except (FileError, OSError) as exc:
                return f"The set could not be written: {why(exc)}."
            return ""

        def done(trouble: str) -> None:
            words = trouble or f"{_ITEMS} items in {path.name}: who plays it gets the very same."
            self._session.say(words, wrong=bool(trouble))

        self._session.jobs.start(f"Making {path.name}", work, done)

    def play(self, _checked: bool = False) -> None:
        """A set from a file."""
        path = ask_to_open(self._window, self._session.display.theme, "Play a set", self._start(), _PATTERN)
        if path is not None:
            self.play_from(path)

    def play_from(self, path: Path) -> None:
        """Unpack a set and go through it."""
        self._folder = tempfile.TemporaryDirectory(prefix="practice-")
        folder = Path(self._folder.name)

        def work(progress: Progress) -> PlayedSet | str:
            try:
                into = practice_sets.unpack_set(path, folder)
                return PlayedSet(path, into, practice_sets.read_set(into))
            except FileError as exc:
                return str(exc)

        def done(found: PlayedSet | str) -> None:
            if isinstance(found, str):
                self._session.say(found, wrong=True)
            else:
                self._model.play(found)

        self._session.jobs.start(f"Opening {path.name}", work, done, brief=True)

    def play_own(self, _checked: bool = False) -> None:
        """The pass that is open in Scan, at the echoes that were corrected by hand."""
        scan = self._session.scan
        items = [] if scan.recording is None else own_items(scan.recording, scan.document.corrections)
        if not items:
            self._session.say(
                "No echo of the open pass was drawn or named by hand yet: in Scan D draws, T names.", wrong=True
            )
            return
        self._model.play(PlayedSet(None, Path(), items))

    def compared(self, played: PlayedSet) -> list[tuple[str, float, int]]:
        """Keep what was answered beside the set, and all who answered it; of an own pass only one's own score."""
        if played.path is None:
            given = [(i.item, played.answers.get(i.name)) for i in played.items]
            right = sum(answer == item.truth for item, answer in given)
            return [(self.who, right / max(len(given), 1), len(given))]
        try:
            practice_sets.keep_answers(played.path, self.who, played.answers)
            return practice_sets.compared(played.path, played.folder)
        except (FileError, OSError) as exc:
            self._session.say(f"The answers could not be written: {why(exc)}.", wrong=True)
            return []

    def write_cases(self, _checked: bool = False) -> None:
        """What the person read right and the program's reader wrong, for its makers."""
        theme = self._session.display.theme
        path = ask_to_save(
            self._window, theme, "What the reader misread", Path(self._start()) / "misread.zip", "Cases (*.zip)"
        )
        if path is not None:
            self.write_cases_to(path)

    def write_cases_to(self, path: Path) -> None:
        """Look for cases among the latest right answers and write them."""
        held = [a for a in self._session.logbook.all(PracticeAnswer) if a.right and a.seed]
        answers = [(a.skill, a.difficulty, a.seed, a.score) for a in held[-_MOST_LOOKED_AT:]]

        def work(progress: Progress) -> list[Case] | str:
            from plumbbob.services.practice_reader import find_cases, write_cases

            cases = find_cases(answers, progress)
            try:
                if cases:
                    write_cases(path, cases)
            except (FileError, OSError) as exc:
                return f"The cases could not be written: {why(exc)}."
            return cases

        def done(found: list[Case] | str) -> None:
            if isinstance(found, str):
                self._session.say(found, wrong=True)
            elif found:
                self._session.say(f"{len(found)} cases written to {path.name}.")
            else:
                self._session.say(f"Of {len(answers)} items that you read right the reader misread none.")

        self._session.jobs.start("Asking the reader again", work, done)
