"""What a view and a stage bring to the window: one value of these each, and one line in the registry."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtWidgets import QWidget

from plumbbob.desk.commands.actions import Actions
from plumbbob.desk.commands.registry import Command
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.models.session import Session
from plumbbob.desk.models.view import View
from plumbbob.desk.tasks.tasks import Tasks


@dataclass(frozen=True, slots=True, kw_only=True)
class Parts:
    """What the widgets of a view may be given."""

    session: Session
    actions: Actions
    tasks: Tasks


def _no_sheets(parts: Parts, host: QWidget) -> tuple[Sheet, ...]:
    return ()


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewKind:
    """A view: what it answers to the shared keys, its widgets, and the commands that are only its own."""

    view: type[View]
    panel: Callable[[Parts], QWidget]  # left of the picture
    picture: Callable[[Parts], QWidget]
    sheets: Callable[[Parts, QWidget], tuple[Sheet, ...]] = _no_sheets
    commands: tuple[Command, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class StageKind:
    """A stage of the day: its views share what lies under the picture."""

    name: str
    title: str
    help: str
    foot: Callable[[Parts], QWidget]
    foot_height: int  # at the usual size of text
