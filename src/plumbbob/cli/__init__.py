"""The command line: `plumbbob`."""

from plumbbob.cli.commands import main

__all__ = ["main"]
