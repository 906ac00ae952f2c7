"""Deck mode, for the registry."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from plumbbob.desk.views.deck.commands import COMMANDS
from plumbbob.desk.views.deck.page import DeckPage
from plumbbob.desk.views.deck.view import DeckView
from plumbbob.desk.views.kinds import ViewKind

DECK = ViewKind(
    view=DeckView,
    panel=lambda parts: QWidget(),
    picture=lambda parts: DeckPage(parts.session, parts.actions, parts.tasks.sounds),
    commands=COMMANDS,
)
