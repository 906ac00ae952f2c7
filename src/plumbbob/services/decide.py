"""One line asked, one answered: what makes no sense is answered by its error."""

from __future__ import annotations

from typing import Any

from plumbbob.files.json_text import loads
from plumbbob.files.text import printable
from plumbbob.formats.decide_json import answer_line

MOST_BYTES = 20_000_000


def answer_text(line: bytes) -> dict[str, Any]:
    """The answer to a line of JSON, or an object with its error."""
    try:
        if len(line) > MOST_BYTES:
            raise ValueError(f"a request has at most {MOST_BYTES // 1_000_000} MB")
        return answer_line(loads(line.decode("utf-8")))
    except UnicodeDecodeError:
        return {"error": "it is no UTF-8 text"}
    except (ValueError, OverflowError) as exc:
        return {"error": printable(str(exc))}
