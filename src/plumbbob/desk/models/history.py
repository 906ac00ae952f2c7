"""Changes of data and their opposites: one line of them for the whole window, so Z always takes the last one back."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal


@dataclass(frozen=True, slots=True)
class Change:
    """One change of data and its opposite."""

    words: str
    undo: Callable[[], None]
    redo: Callable[[], None]


class History(QObject):
    """What was done and what was taken back. A step that fails moves nothing."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._done: list[Change] = []
        self._undone: list[Change] = []

    def did(self, change: Change) -> None:
        """Remember a change that has been made."""
        self._done.append(change)
        self._undone.clear()
        self.changed.emit()

    @contextmanager
    def as_one(self, words: str) -> Iterator[None]:
        """All changes made meanwhile are one."""
        before = len(self._done)
        yield
        made = self._done[before:]
        if len(made) < 2:
            return

        def undo() -> None:
            for change in reversed(made):
                change.undo()

        def redo() -> None:
            for change in made:
                change.redo()

        self._done[before:] = [Change(words, undo, redo)]
        self.changed.emit()

    def clear(self) -> None:
        """Nothing of what was done can be taken back any more."""
        self._done, self._undone = [], []
        self.changed.emit()

    def forget(self, words: str) -> None:
        """Drop all changes of a kind: what they changed is no longer open."""
        self._done = [c for c in self._done if c.words != words]
        self._undone = [c for c in self._undone if c.words != words]
        self.changed.emit()

    def undo(self) -> str:
        """Take the last change back; says which, empty if there was none."""
        if not self._done:
            return ""
        self._done[-1].undo()
        self._undone.append(self._done.pop())
        self.changed.emit()
        return self._undone[-1].words

    def redo(self) -> str:
        """Do the last undone change again."""
        if not self._undone:
            return ""
        self._undone[-1].redo()
        self._done.append(self._undone.pop())
        self.changed.emit()
        return self._done[-1].words

    @property
    def can_undo(self) -> bool:
        """There is a change to take back."""
        return bool(self._done)

    @property
    def can_redo(self) -> bool:
        """There is an undone change."""
        return bool(self._undone)
