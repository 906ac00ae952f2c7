"""The command line: `plumbbob`."""

from plumbbob.cli import log_commands, review_command  # they add their commands
from plumbbob.cli.commands import main

__all__ = ["log_commands", "main", "review_command"]
