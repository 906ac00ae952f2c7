"""One question at a time, asked in a line and answered with a key: nothing waits for it or is lost without it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal


@dataclass(frozen=True, slots=True, eq=False)
class Question:
    """What is asked, what may be answered, and what follows; a name can be typed where one is wanted."""

    text: str
    answers: tuple[tuple[str, Callable[[], None]], ...] = ()
    name: str | None = None  # what stands in the field; None: no field
    name_label: str = ""
    named: Callable[[str], None] = lambda name: None
    takes_keys: bool = True  # False where the hands are at work elsewhere: it is answered when they come to it


class Questions(QObject):
    """The question that stands open; a newer one takes its place."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._open: Question | None = None

    @property
    def open(self) -> Question | None:
        """What is being asked."""
        return self._open

    def ask(self, question: Question | None) -> None:
        """Ask, or withdraw what was asked."""
        self._open = question
        self.changed.emit()

    def answer(self, index: int) -> None:
        """The answer of a number."""
        asked = self._open
        if asked is not None and 0 <= index < len(asked.answers):
            self.ask(None)
            asked.answers[index][1]()

    def answer_name(self, name: str) -> None:
        """The answer that was typed."""
        asked = self._open
        if asked is not None and asked.name is not None:
            self.ask(None)
            asked.named(name)
