"""Text from outside, made safe for a message or a terminal."""

from __future__ import annotations

_MOST = 400


def printable(text: str, most: int = _MOST) -> str:
    """
    One line without control characters, cut to a length that fits a message.

    Examples
    --------
    >>> printable("a" + chr(27) + "[31mb" + chr(10) + "c")
    'a·[31mb c'
    """
    text = " ".join(text.split())
    # controls, what turns the writing direction, halves of characters, separators: none of them is printable
    text = "".join(c if c.isprintable() else "·" for c in text[: 4 * most])
    return text if len(text) <= most else text[: most - 1] + "…"


def why(exc: BaseException) -> str:
    """What an error says, in words: the system's own where there are some."""
    said = exc.strerror if isinstance(exc, OSError) and exc.strerror else str(exc)
    return printable(said) or type(exc).__name__
