"""Names of rows for files: no other log on any machine will have given them."""

from __future__ import annotations

import secrets

_BYTES = 6


def new_ref() -> str:
    """Twelve letters and digits."""
    return secrets.token_hex(_BYTES)


def is_own_ref(text: str) -> bool:
    """A name that was given by `new_ref`, on whatever machine."""
    return len(text) == 2 * _BYTES and all(c in "0123456789abcdef" for c in text)
