"""What goes wrong with the log, in one plain line."""

from __future__ import annotations


class StoreError(Exception):
    """The log could not be opened, read or written; nothing was half done."""
