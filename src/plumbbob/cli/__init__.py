"""The command line: `plumbbob`."""

from plumbbob.cli import log_commands, practice_command, review_command  # they add their commands
from plumbbob.cli.commands import main

__all__ = ["log_commands", "main", "practice_command", "review_command"]
