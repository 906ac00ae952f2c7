"""How good an answer to a practised item is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

PASSES = 0.5  # a score that counts as right


def score_of(kind: str, answer: Any, truth: Any, tolerance: Sequence[float]) -> tuple[float, Any]:
    """
    Score of 0 to 1, and how far off.

    Parameters
    ----------
    kind : str
        choice, time_depth, or one number.
    answer, truth
        A text for a choice, a list of two for time_depth, else a number.
    tolerance : sequence of float
        An answer so far off counts half.

    Raises
    ------
    ValueError
        For an answer of the wrong kind.

    Notes
    -----
    A choice is right or not. A number scores 2^-(off / tolerance)^2.

    Examples
    --------
    >>> score_of("depth", 7.5, 7.0, (0.5,)), score_of("choice", "Fish", "fish", ())
    ((0.5, 0.5), (1.0, None))
    """
    if kind == "choice":
        if not isinstance(answer, str):
            raise ValueError("needs one of its choices, as a text")
        return float(answer.strip().lower() == str(truth).lower()), None
    wanted = truth if isinstance(truth, list | tuple) else [truth]
    numbers = answer if isinstance(answer, list | tuple) else [answer]
    good = all(isinstance(v, int | float) and not isinstance(v, bool) and math.isfinite(v) for v in numbers)
    if not good or len(numbers) != len(wanted):
        raise ValueError("needs a time and a depth" if kind == "time_depth" else "needs a number")
    off = [float(a) - float(t) for a, t in zip(numbers, wanted, strict=True)]
    score = 2.0 ** -sum((o / t) ** 2 for o, t in zip(off, tolerance, strict=True))
    return score, off if kind == "time_depth" else off[0]
