"""What is wrong, as one line for the person."""

from __future__ import annotations


def as_line(wrong: object) -> str:
    """A reason, as the core words it, as a sentence."""
    text = str(wrong)
    return f"{text[:1].upper()}{text[1:]}."
