"""Names of rows for files: no other log on any machine will have given them."""

from __future__ import annotations

import secrets


def new_ref() -> str:
    """Twelve letters and digits."""
    return secrets.token_hex(6)
