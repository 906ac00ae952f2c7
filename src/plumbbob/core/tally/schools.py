"""
Fish that came together: catches of one school are one piece of evidence, however many were hooked.

Where the times say so, catches close together are joined; how close is learned from the record itself.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from plumbbob.core.tally.record import Codes
from plumbbob.core.types import Floats, Mask

_LIMITS_S = (60.0, 120.0, 180.0, 240.0, 300.0, 420.0, 600.0, 900.0)
_MORE, _SURE = 2.0, 3.0  # times as many short gaps as by chance, and by so many standard deviations


@dataclass(frozen=True, slots=True)
class Schools:
    """
    Catches as bites of schools.

    Parameters
    ----------
    first : (k,) bool array
        Whether a catch is the first of its school.
    busy_s : (k,) array
        How long after a catch no other bite could have counted as one.
    mean_size : float
        Fish a school.
    gap_s : float
        Catches closer than this were joined; 0 where none were.
    """

    first: Mask
    busy_s: Floats
    mean_size: float
    gap_s: float


def schools(effort: Codes, time_s: Floats, end_s: Floats, span_s: Floats) -> Schools:
    """
    Join catches of one effort that came in one school.

    Parameters
    ----------
    effort : (k,) int array
    time_s : (k,) array
        NaN where unknown: such a catch stands alone.
    end_s, span_s : (efforts,) arrays
        When each effort ended and how long it lasted.

    Notes
    -----
    Of n catches at any times of a span T, (n - 1) (1 - (1 - g / T)^n) gaps are expected to be g or less. The longest
    g at which there still are twice as many, and surely more, is that of a school. Time that is taken by joining is
    no time at which another bite could be seen: without it the rate of schools is that of a Poisson process again.
    """
    k = effort.size
    order = np.lexsort((time_s, effort))
    step = np.diff(time_s[order])
    same = (np.diff(effort[order]) == 0) & np.isfinite(step)
    limit = _limit(step[same], effort, time_s, span_s)
    joined = np.zeros(k, bool)
    joined[1:] = same & (step <= limit)
    first, busy = np.empty(k, bool), np.zeros(k)
    first[order] = ~(joined & (limit > 0.0))
    after = np.full(k, np.inf)
    after[:-1] = np.where(same, step, np.inf)
    left = end_s[effort[order]] - time_s[order]
    busy[order] = np.clip(np.nan_to_num(np.minimum(np.minimum(limit, after), left)), 0.0, None)
    return Schools(first, busy, k / int(first.sum()) if k else 1.0, limit)


def _limit(gaps: Floats, effort: Codes, time_s: Floats, span_s: Floats) -> float:
    """The longest gap within a school; 0 where short gaps are no more than by chance."""
    if gaps.size < 6:
        return 0.0
    count = np.bincount(effort[np.isfinite(time_s)], minlength=span_s.size)
    several = count > 1
    n, span = count[several], np.maximum(span_s[several], 60.0)
    best, before_seen, before_expected = 0.0, 0, 0.0
    for limit in _LIMITS_S:
        expected = float(((n - 1) * (1 - np.clip(1 - limit / span, 0, 1) ** n)).sum())
        seen = int((gaps <= limit).sum())
        more = seen - before_seen > _MORE * (expected - before_expected)
        sure = seen - expected > _SURE * np.sqrt(expected + 1.0)
        if not sure or (best > 0.0 and not more):
            if best > 0.0:
                break
        elif more:
            best = limit
        before_seen, before_expected = seen, expected
    return best
