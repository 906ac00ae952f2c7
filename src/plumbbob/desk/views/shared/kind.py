"""The sheets that every stage has."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QWidget

from plumbbob.desk.commands.registry import Command, CommandHost
from plumbbob.desk.kit.sheet import Sheet
from plumbbob.desk.views.kinds import Parts
from plumbbob.desk.views.shared.command_sheet import CommandSheet
from plumbbob.desk.views.shared.guide_sheet import GuideSheet
from plumbbob.desk.views.shared.listen_sheet import ListenSheet
from plumbbob.desk.views.shared.settings_sheet import SettingsSheet
from plumbbob.desk.views.shared.waters_sheet import WatersSheet


def shared_sheets(parts: Parts, commands: Sequence[Command], asker: CommandHost, host: QWidget) -> tuple[Sheet, ...]:
    """All of them, over the picture."""
    return (
        CommandSheet(parts.session, commands, parts.actions, asker, host),
        WatersSheet(parts.session, asker, host),
        SettingsSheet(parts.session, host),
        GuideSheet(parts.session, host),
        ListenSheet(parts.session, parts.tasks.listener, host),
    )
