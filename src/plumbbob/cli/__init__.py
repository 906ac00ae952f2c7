"""The command line: `plumbbob`."""

from plumbbob.cli import ask_commands, log_commands, practice_command, review_command  # they add their commands
from plumbbob.cli.commands import main

__all__ = ["ask_commands", "log_commands", "main", "practice_command", "review_command"]
