"""What a command is, and whom it may ask. The table is made of these; no widgets here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from plumbbob.desk.models.session import Session
from plumbbob.desk.tasks.scan_evidence import Edit
from plumbbob.desk.tasks.tasks import Tasks


class CommandHost(Protocol):
    """Asks the person for files; a test hands over a fake."""

    def open_path(self, title: str, pattern: str) -> Path | None:
        """A file to read."""

    def open_paths(self, title: str, pattern: str) -> list[Path]:
        """Files to read, as many as are wanted."""

    def open_files(self, paths: Sequence[Path]) -> None:
        """Open or add files, each by what is in it."""

    def save_path(self, title: str, name: str, pattern: str) -> Path | None:
        """A file to write."""

    def open_recording(self, path: Path) -> None:
        """Open a recording in the background."""

    @property
    def tasks(self) -> Tasks:
        """What makes charts, brings files into them, lays lanes, follows lines."""

    def compare_with(self, path: Path) -> None:
        """Open another pass beside the open one, in the background."""

    def edit_recording(self, how: Edit, other: Path, out: Path) -> None:
        """Cut, join or thin into another file, in the background."""

    def lay_swath(self) -> None:
        """Lay the view to the sides on the chart, or take it off."""

    def practise(self) -> None:
        """Open the window to practise in."""

    def open_photo(self, path: Path) -> None:
        """Open a picture off any screen, in the background."""

    def paste_photo(self) -> None:
        """Open the picture on the clipboard."""

    def read_photo(self) -> None:
        """Make a recording of the open picture."""

    def write_picture(self) -> None:
        """Write the pass on screen as a picture."""

    def snapshot(self) -> str:
        """The window as a picture, and the newest pings, beside the recordings; the name, empty where it failed."""

    def open_made_up(self) -> None:
        """The made-up lake as one more water, with a pass over it."""

    def close_window(self) -> None:
        """End the program."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Command:
    """One thing a person can do."""

    id: str
    title: str
    menu: str
    help: str
    run: Callable[[Session, CommandHost], None]
    keys: tuple[str, ...] = ()
    enabled: Callable[[Session], bool] = lambda s: True
    checked: Callable[[Session], bool] | None = None
    stage: str = ""  # only on this stage; empty: everywhere
    mode: str = ""  # only in this mode of the window; empty: in none
    in_modes: bool = False  # in every mode too
    group: str = ""  # a menu within its menu
    before: str = ""  # the id of the command of its menu that it stands before; empty: at the end

    def may(self, session: Session) -> bool:
        """It is heard on this stage and in this mode, and there is something for it to do."""
        here = self.in_modes or self.mode == session.view.mode
        return here and (not self.stage or self.stage == session.stage) and bool(self.enabled(session))


def sheet(name: str) -> Callable[[Session, CommandHost], None]:
    """Opens a sheet, or closes it if it is open."""
    return lambda s, a: s.ask_sheet("" if s.sheet == name else name)


def has_pings(session: Session) -> bool:
    """A recording with a down view is open."""
    return session.scan.lead is not None
