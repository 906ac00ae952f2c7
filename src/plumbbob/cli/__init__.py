"""The command line: `plumbbob`."""

from plumbbob.cli import log_commands  # it adds its commands
from plumbbob.cli.commands import main

__all__ = ["log_commands", "main"]
