"""Asks, in one line, which water a file belongs to where its places do not say so, and what a new one is called."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from plumbbob.core.geodesy import Position
from plumbbob.core.units import Kind
from plumbbob.desk.models.history import Change
from plumbbob.desk.models.question import Question
from plumbbob.desk.models.session import Session
from plumbbob.files.errors import FileError
from plumbbob.formats.waters import Water
from plumbbob.services.waters import Fit, Waters, name_for
from plumbbob.store.errors import StoreError

_MOST_ANSWERS = 3


class WaterFinder:
    """Needs the session and all waters."""

    def __init__(self, session: Session, waters: Waters) -> None:
        self._session, self._waters = session, waters

    def ask(self, path: Path, fit: Fit, middle: Position | None, then: Callable[[Water], None]) -> None:
        """Which water it is: one of those it lies in, one of those near, or a new one by name."""
        session = self._session
        display = session.display
        if fit.inside:
            text = f"{path.name} lies in {' and in '.join(w.name for w in fit.inside[:_MOST_ANSWERS])}. Which is it?"
            near = fit.inside
        elif fit.near:
            water, away = fit.near[0]
            far = display.words(away, Kind.DISTANCE, 0)
            text = f"{path.name} lies {far} off what is known of {water.name}. Is it the same water?"
            near = tuple(w for w, _ in fit.near)
        else:
            text, near = f"{path.name} tells no place. Which water is it?", self._waters.all()
        session.questions.ask(
            Question(
                text,
                tuple((f"Part of {w.name}", partial(then, w)) for w in near[:_MOST_ANSWERS]),
                name=name_for(path, middle) if middle is not None else path.stem,
                name_label="or a new water named",
                named=lambda name: self._make(name, middle, then),
            )
        )

    def ask_name(self, water: Water, *, takes_keys: bool = True) -> None:
        """What a water that was just made is called; without an answer it keeps the name it has."""
        self._session.questions.ask(
            Question(
                "A new water. What do you call it?",
                name=water.name,
                name_label="name",
                named=lambda name: self.rename(water, name),
                takes_keys=takes_keys,
            )
        )

    def rename(self, water: Water, name: str, then: Callable[[], None] = lambda: None) -> None:
        """Call a water otherwise, in its marks too; its folder stays. Z brings the old name back."""
        session = self._session
        marks = session.logbook.marks_in(water.name)

        def call(name: str) -> None:
            try:
                named = self._waters.rename(self._waters.get(water.key) or water, name)
            except FileError as exc:
                raise StoreError(f"{exc}.") from exc
            if session.water.key == named.key:
                session.set_description(named)
            session.logbook.name_water(marks, named.name)
            then()

        try:
            call(name)
        except (ValueError, StoreError) as exc:
            session.say(f"{str(exc).rstrip('.')}.", wrong=True)
            return
        session.history.did(Change("name", lambda: call(water.name), lambda: call(name)))

    def _make(self, name: str, place: Position | None, then: Callable[[Water], None]) -> None:
        try:
            then(self._waters.create(name, place))
        except (ValueError, FileError) as exc:
            self._session.say(f"{exc}.", wrong=True)
